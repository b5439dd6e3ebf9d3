package dsp

import "math"

// taps is how many samples on either side a resampled one hangs on.
const taps = 32

// Resampled gives a channel at another rate: each sample is the sum of its neighbours by a windowed sinc that lets through
// what both rates can hold (Shannon's interpolation, Hann window). nil stays nil; of equal rates the channel itself is given.
func Resampled(x []float64, from, to float64) []float64 {
	if x == nil || from == to {
		return x
	}
	n := int(float64(len(x)) * to / from)
	cut := min(1, to/from) * 0.96 // of half the rate of the source
	reach := taps / min(1, to/from)
	// the kernel by its distance, in steps of 1/256 of a sample
	const fine = 256
	kernel := make([]float64, int(reach*fine)+2)
	for i := range kernel {
		d := float64(i) / fine
		if d >= reach {
			break
		}
		s := cut
		if d > 0 {
			s = math.Sin(math.Pi*d*cut) / (math.Pi * d)
		}
		kernel[i] = s * (0.5 + 0.5*math.Cos(math.Pi*d/reach))
	}
	y := make([]float64, n)
	if by := int(from / to); float64(by)*to == from { // each sample falls on one of the source: the kernel is read at whole samples
		fir := make([]float64, 2*int(reach)+1)
		for i := range fir {
			d := i - int(reach)
			fir[i] = kernel[max(d, -d)*fine]
		}
		for k := range y {
			y[k] = Along(x, k*by-int(reach), fir)
		}
		return y
	}
	for k := range y {
		at := float64(k) * from / to
		first, last := max(0, int(math.Ceil(at-reach))), min(len(x)-1, int(at+reach))
		sum := 0.0
		for i := first; i <= last; i++ {
			d := math.Abs(at-float64(i)) * fine
			j := int(d)
			if j+1 < len(kernel) {
				sum += x[i] * (kernel[j] + (d-float64(j))*(kernel[j+1]-kernel[j]))
			}
		}
		y[k] = sum
	}
	return y
}

// Along gives the sum of the products of weights with the samples from one on; outside of the channel there is silence.
func Along(x []float64, from int, weights []float64) float64 {
	if from < 0 {
		weights, from = weights[min(len(weights), -from):], 0
	}
	x = x[min(from, len(x)):]
	n := min(len(x), len(weights))
	x, weights = x[:n], weights[:n]
	var a, b, c, d float64 // four sums side by side: one waits for its own last product
	k := 0
	for ; k+4 <= n; k += 4 {
		a, b, c, d = a+weights[k]*x[k], b+weights[k+1]*x[k+1], c+weights[k+2]*x[k+2], d+weights[k+3]*x[k+3]
	}
	for ; k < n; k++ {
		a += weights[k] * x[k]
	}
	return a + b + c + d
}
