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
