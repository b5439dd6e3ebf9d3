package synth

import "math"

// thinner takes a sound at two, four, eight or sixteen times the rate down to the rate. Each halving is an elliptic half-band filter of two rows of
// all-passes, which is late by a few samples only (Valenzuela & Constantinides, IEE Proc. G 130(6), 1983, from memory).
type thinner struct{ halves []halving }

// The coefficients of the halvings, from the last (96 to 48 kHz: -80 dB from 28 kHz on, flat to 20) to the first; a higher rate leaves more room.
var halvings = [4][]float64{allPasses(8, 1.0/24), allPasses(4, 7.0/48), allPasses(3, 19.0/96), allPasses(2, 43.0/192)}

func newThinner(times int) *thinner {
	t := &thinner{}
	for n := times; n > 1; n /= 2 {
		k := int(math.Log2(float64(n))) - 1
		t.halves = append(t.halves, halving{of: halvings[k], past: make([][2]float64, len(halvings[k]))})
	}
	return t
}

// run takes x down into out, and spoils x.
func (t *thinner) run(x, out []float64) {
	for i := range t.halves {
		x = t.halves[i].run(x)
	}
	copy(out, x)
}

// halving halves the rate.
type halving struct {
	of   []float64
	past [][2]float64 // what came into each all-pass, and what came out of it
}

// run halves in place.
func (h *halving) run(x []float64) []float64 {
	n := len(x) / 2
	for k := range n {
		a, b := x[2*k+1], x[2*k]
		for i := 0; i < len(h.of); i++ {
			in := a
			if i%2 == 1 {
				in = b
			}
			p := &h.past[i]
			out := p[0] + h.of[i]*(in-p[1])
			p[0], p[1] = in, out
			if i%2 == 1 {
				b = out
			} else {
				a = out
			}
		}
		x[k] = (a + b) / 2
	}
	return x[:n]
}

// allPasses gives the coefficients of an elliptic half-band filter of n all-passes. transition is half the width of the band between what passes and what
// does not, as a share of the higher rate.
func allPasses(n int, transition float64) []float64 {
	k := math.Pow(math.Tan((1-4*transition)*math.Pi/4), 2)
	root := math.Sqrt(math.Sqrt(1 - k*k))
	e := 0.5 * (1 - root) / (1 + root)
	e4 := e * e * e * e
	nome := e * (1 + e4*(2+e4*(15+150*e4)))
	order := float64(2*n + 1)
	out := make([]float64, n)
	for c := range out {
		num, den, sign := 0.0, 0.5, 1.0
		for i := range 12 {
			x := float64(i)
			num += sign * math.Pow(nome, x*(x+1)) * math.Sin((2*x+1)*float64(c+1)*math.Pi/order)
			if i > 0 {
				den += sign * math.Pow(nome, x*x) * math.Cos(2*x*float64(c+1)*math.Pi/order)
			}
			sign = -sign
		}
		w := math.Sqrt(math.Sqrt(nome)) * num / den
		w *= w
		x := math.Sqrt((1-w*k)*(1-w/k)) / (1 + w)
		out[c] = (1 - x) / (1 + x)
	}
	return out
}
