package synth

import "math"

// halfband doubles or halves the rate: a low-pass at a quarter of the higher rate whose every second coefficient is 0
// (a sinc under a Kaiser window; common practice, no source).
type halfband struct {
	half []float64 // the coefficients that are not 0, from the middle outwards
	odd  []float64 // the past of what goes through them, written twice so that it can be read in one piece
	even []float64 // the past of what goes through the middle one alone
	at   int
	mid  int
}

// newHalfband makes one of n coefficients on each side of the middle.
func newHalfband(n int) halfband {
	return halfband{half: halves(n), odd: make([]float64, 4*n), even: make([]float64, n)}
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

// push writes a sample into the past of the odd coefficients and gives that past, the oldest first.
func (h *halfband) push(x float64) []float64 {
	n := 2 * len(h.half)
	i := h.at
	h.odd[i], h.odd[i+n] = x, x
	if h.at++; h.at == n {
		h.at = 0
	}
	return h.odd[i+1 : i+1+n]
}

// over sums the odd coefficients over a past.
func (h *halfband) over(past []float64) float64 {
	m := len(h.half)
	older, newer := past[:m], past[m:2*m]
	sum := 0.0
	for i, c := range h.half {
		sum += c * (older[m-1-i] + newer[i])
	}
	return sum
}

// up gives two samples for one.
func (h *halfband) up(x float64) (a, b float64) {
	past := h.push(x)
	return 2 * h.over(past), past[len(h.half)]
}

// down gives one sample for two. Up and down together are late by 2n-1 samples of the lower rate.
func (h *halfband) down(a, b float64) float64 {
	y := 0.5*h.even[h.mid] + h.over(h.push(a))
	h.even[h.mid] = b
	if h.mid++; h.mid == len(h.even) {
		h.mid = 0
	}
	return y
}
