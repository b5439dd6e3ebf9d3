package synth

import "math"

// halfband doubles or halves the rate: a low-pass at a quarter of the higher rate whose every second coefficient is 0
// (a sinc under a Kaiser window; common practice, no source). It works on pieces of up to a given length.
type halfband struct {
	half []float64 // the coefficients that are not 0, from the middle outwards
	odd  []float64 // what goes through them: the past of 2n-1 samples, then the piece
	even []float64 // what goes through the middle one alone: the past of n samples, then the piece
}

// newHalfband makes one of n coefficients (an even number) on each side of the middle, for pieces of up to some samples of the lower rate.
func newHalfband(n, most int) halfband {
	return halfband{half: halves(n), odd: make([]float64, 2*n-1+most), even: make([]float64, n+most)}
}

// halves gives the coefficients of a half-band filter: of a sinc at odd places, windowed, made to sum to a half with the middle
// of a half.
func halves(n int) []float64 {
	const beta = 6.0 // about -63 dB
	out := make([]float64, n)
	sum := 0.0
	for i := range out {
		k := float64(2*i + 1)
		w := bessel0(beta*math.Sqrt(1-math.Pow(k/float64(2*n), 2))) / bessel0(beta)
		out[i] = w * math.Sin(math.Pi*k/2) / (math.Pi * k)
		sum += 2 * out[i]
	}
	for i := range out {
		out[i] *= 0.5 / sum
	}
	return out
}

// bessel0 is the modified Bessel function of the first kind of order 0, by its series.
func bessel0(x float64) float64 {
	sum, term := 1.0, 1.0
	for k := 1; k < 40; k++ {
		term *= x / 2 / float64(k)
		sum += term * term
	}
	return sum
}

// over sums the odd coefficients over each stretch of x, two of them at a time for all outputs. x is longer than out by 2n-1.
func (h *halfband) over(x, out []float64) {
	m, n := len(h.half), len(out)
	clear(out)
	for j := 0; j < m; j += 2 {
		p, q := h.half[j], h.half[j+1]
		a, b := x[m-1-j:][:n], x[m+j:][:n]
		c, d := x[m-2-j:][:n], x[m+j+1:][:n]
		for i := range out {
			out[i] += p*(a[i]+b[i]) + q*(c[i]+d[i])
		}
	}
}

// up gives two samples for each of x: those between into odd, the others, late, into even.
func (h *halfband) up(x, odd, even []float64) {
	m := len(h.half)
	past := 2*m - 1
	copy(h.odd[past:], x)
	h.over(h.odd[:past+len(x)], odd)
	for i, y := range odd {
		odd[i] = 2 * y
	}
	copy(even, h.odd[m:m+len(x)])
	copy(h.odd, h.odd[len(x):len(x)+past])
}

// down gives one sample for each pair of a (the former) and b. Up and down together are late by 2n-1 samples of the lower rate.
func (h *halfband) down(a, b, out []float64) {
	m := len(h.half)
	past := 2*m - 1
	copy(h.odd[past:], a)
	copy(h.even[m:], b)
	h.over(h.odd[:past+len(a)], out)
	for i := range out {
		out[i] += 0.5 * h.even[i]
	}
	copy(h.odd, h.odd[len(a):len(a)+past])
	copy(h.even, h.even[len(b):len(b)+m])
}
