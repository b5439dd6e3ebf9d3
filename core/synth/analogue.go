package synth

import (
	"math"
	"math/cmplx"
	"slices"
	"sync"

	"gonum.org/v1/gonum/mat"

	"glossator/core/dsp"
)

// A filter by trapezoidal integrators falls off too steeply on the way to half the rate, all the more the higher its cutoff. So its poles are put
// where those of the analogue filter would ring as they do (z = e^(sT)), and what it gives out is mixed from its stages so that its gain
// follows the analogue curve up to 15 kHz, by least squares, and as far as may be without a phase of its own, since filters stand beside one another. The idea of poles by the impulse and zeros by the gain is Vicanek's (Matched Second Order
// Digital Filters, 2016, from memory); the mixing is ours. Both are looked up by cutoff and resonance.

// kind is a filter of which the poles and the mix are looked up.
type kind int

const (
	ladderLow kind = iota
	ladderHigh
	twoLow
	twoBand
	twoHigh
	twoPeak
	twoNotch
	oneLow
	oneHigh
	morphFirst // a morph at the first of morphs, and on
	kinds      = morphFirst + kind(len(morphs))
)

// morphs are the places of a morph that are looked up, from low-pass to high-pass: close where what is mixed in turns the most.
var morphs = [14]float64{0, 0.02, 0.05, 0.1, 0.18, 0.3, 0.4, 0.5, 0.52, 0.55, 0.6, 0.68, 0.8, 1}

// placed is a filter at one cutoff and resonance: g in units of the tangent at the cutoff, what goes round (k), and the numerator
// n0 + n1 s + n2 s^2 in s = i tan(pi f/Rate)/g, of a low ladder (n0 + n1 s + n2 s^2)(n0 - n1 s + n2 s^2), of a high one s (n3 + n0 s + n1 s^2 + n2 s^3).
type placed struct{ g, k, n0, n1, n2, n3 float64 }

func (p placed) to(q placed, x float64) placed {
	return placed{p.g + x*(q.g-p.g), p.k + x*(q.k-p.k), p.n0 + x*(q.n0-p.n0), p.n1 + x*(q.n1-p.n1), p.n2 + x*(q.n2-p.n2), p.n3 + x*(q.n3-p.n3)}
}

const (
	placesPerOctave = 8
	places          = int(cutOctaves*placesPerOctave) + 2
	steps           = 12 // of the resonance, a tenth each: up to 1.1
)

// placedRow is a filter of one resonance by its cutoff.
type placedRow [places]placed

// rows has all filters of a kind, by tenths of the resonance.
var rows = func() (out [kinds]func() *[steps]placedRow) {
	for k := range kinds {
		out[k] = sync.OnceValue(func() *[steps]placedRow {
			rows := &[steps]placedRow{}
			for r := range rows {
				for i := range rows[r] {
					rows[r][i] = k.place(lowestCut*math.Exp2(float64(i)/placesPerOctave), float64(r)/10)
				}
			}
			return rows
		})
	}
	return out
}()

// rowAt gives the row of a resonance between two that are kept.
func rowAt(all *[steps]placedRow, res float64) *placedRow {
	x := clamp(res*10, 0, steps-1.001)
	i := int(x)
	out := &placedRow{}
	for c := range out {
		out[c] = all[i][c].to(all[i+1][c], x-float64(i))
	}
	return out
}

// placedAt reads at a cutoff in octaves over lowestCut and a resonance.
func placedAt(all *[steps]placedRow, octaves, res float64) placed {
	x := clamp(res*10, 0, steps-1.001)
	r := int(x)
	i, y := placeOf(octaves)
	return all[r][i].to(all[r][i+1], y).to(all[r+1][i].to(all[r+1][i+1], y), x-float64(r))
}

// at reads a row at a cutoff in octaves over lowestCut.
func (r *placedRow) at(octaves float64) placed {
	i, x := placeOf(octaves)
	return r[i].to(r[i+1], x)
}

func placeOf(octaves float64) (int, float64) {
	x := octaves * placesPerOctave
	if !(x > 0) {
		return 0, 0
	}
	if x > float64(places)-1.001 {
		x = float64(places) - 1.001
	}
	i := int(x)
	return i, x - float64(i)
}

// responses tells what a kind is to sound like.
var responses = [morphFirst]dsp.Response{
	ladderLow: {Mode: dsp.Lowpass, Poles: 4}, ladderHigh: {Mode: dsp.Highpass, Poles: 4},
	twoLow: {Mode: dsp.Lowpass, Poles: 2}, twoBand: {Mode: dsp.Bandpass, Poles: 2}, twoHigh: {Mode: dsp.Highpass, Poles: 2},
	twoPeak: {Mode: dsp.Peak, Poles: 2}, twoNotch: {Mode: dsp.Notch, Poles: 2},
	oneLow: {Mode: dsp.Lowpass, Poles: 1}, oneHigh: {Mode: dsp.Highpass, Poles: 1},
}

// inaudible is a gain below which a filter's curve need not be followed: -60 dB.
const inaudible = 1e-3

func fourth[T float64 | complex128](x T) T { x *= x; return x * x }

// place works out one filter.
func (k kind) place(cutoff, res float64) placed {
	theta := math.Pi * min(cutoff, highestPole) / Rate
	wanted := dsp.Response{Mode: dsp.Morph, Poles: 2}
	if k < morphFirst {
		wanted = responses[k]
	} else {
		wanted.Morph = morphs[k-morphFirst]
	}
	wanted.Resonance = res
	ring := res
	if over := math.Log2(cutoff / highestPole); over > 0 {
		ring = min(res, max(0.3, 1.1-2*over))
	}
	round := 4 * ring
	var p placed
	divisor := func(s complex128) complex128 { return s*s + complex(p.k, 0)*s + 1 }
	// the poles, by tanh of s theta, which is where a trapezoidal integrator has z = e^(sT)
	switch k {
	case ladderLow, ladderHigh: // the pair that rings: -1 + round^(1/4) (1+i)/sqrt 2, or one over it
		a := math.Sqrt(math.Sqrt(round)) / math.Sqrt2
		s := complex(a-1, a)
		if k == ladderHigh {
			s = 1 / s
		}
		w := cmplx.Tanh(s * complex(theta, 0))
		if k == ladderHigh {
			w = 1 / w
		}
		p.g = math.Abs(imag(w)) - real(w)
		p.k = fourth(math.Sqrt2 * math.Abs(imag(w)) / p.g)
		divisor = func(s complex128) complex128 { return fourth(1+s) + complex(p.k, 0) }
		if k == ladderHigh {
			p.g = 1 / p.g
			divisor = func(s complex128) complex128 { return fourth(1+s) + complex(p.k, 0)*fourth(s) }
		}
	case oneLow, oneHigh:
		p.g = math.Tanh(theta)
		divisor = func(s complex128) complex128 { return 1 + s }
	default:
		round = dsp.Loses(ring)
		d := cmplx.Sqrt(complex(round*round/4-1, 0))
		v, w := cmplx.Tanh((complex(-round/2, 0)+d)*complex(theta, 0)), cmplx.Tanh((complex(-round/2, 0)-d)*complex(theta, 0))
		p.g = math.Sqrt(real(v * w))
		p.k = -real(v+w) / p.g
	}
	if k == twoNotch { // its zeros stay where nothing is to be heard
		t := math.Tan(theta)
		p.n0, p.n2 = 1, p.g*p.g/(t*t)
		p.g /= t
		return p
	}
	// the square of the numerator, a polynomial in u = t^2, is to be what the gain and the poles make of it
	var us, want []float64
	half := 2.0
	if k == ladderLow {
		half = 1
	}
	square := func(hz, t float64) float64 {
		return math.Pow(cmplx.Abs(wanted.At(complex(0, max(hz/cutoff, 1e-9)))*divisor(complex(0, t))), half)
	}
	for hz := 60.0; hz < 15600; hz *= 1.15 {
		if k == ladderHigh && hz < 6000 && cmplx.Abs(wanted.At(complex(0, hz/cutoff))) < inaudible {
			continue // what lies lower is not heard, and would bend what is
		}
		t := math.Tan(math.Pi*hz/Rate) / p.g
		us, want = append(us, t*t), append(want, square(hz, t))
	}
	var c [5]float64
	root := func(power int) float64 { return math.Sqrt(max(0, c[power])) }
	switch k {
	case oneLow, oneHigh:
		if k == oneLow {
			c[0] = 1
		}
		leastSquares(&c, us, want, 0, 1)
		p.n0, p.n1 = root(0), root(1)
	case twoBand, twoHigh:
		leastSquares(&c, us, want, 0, 1, 2)
		p.n1, p.n2 = root(1), root(2)
	case ladderHigh:
		var ok bool
		if cutoff > 3000 { // lower, s^2 alone is near enough and lets less of the bass through
			if fit(&c, us, want, 1, 2, 3, 4); c[1] >= 0 && c[4] > 0 {
				p.n3, p.n0, p.n1, p.n2, ok = factor(c[1:])
			}
		}
		if !ok { // of s^2 (n0 + n1 s + n2 s^2)
			c = [5]float64{}
			leastSquares(&c, us, want, 3, 2, 4, 3)
			p.n0, p.n2, p.n3 = root(2), root(4), 0
			p.n1 = math.Sqrt(max(0, c[3]+2*p.n0*p.n2))
		}
	case twoLow:
		p.n0 = math.Sqrt(square(0, 0))
		p.lowOnly(us, want)
	default: // (n0 - n2 u)^2 + n1^2 u
		c[0] = square(0, 0)
		leastSquares(&c, us, want, 1, 2, 1)
		p.n0, p.n2 = root(0), root(2)
		low := wanted.Mode == dsp.Morph && wanted.Morph <= 0.5
		if low {
			p.n2 = -p.n2 // so it goes on from the low-pass
		}
		n1 := c[1] + 2*p.n0*p.n2
		if p.n1 = math.Sqrt(max(0, n1)); low && n1 < 0 {
			p.lowOnly(us, want)
		}
	}
	p.g /= math.Tan(theta)
	return p
}

// lowOnly makes the numerator n0 - n2 u alone: with nothing at s its phase is that of the poles.
func (p *placed) lowOnly(us, square []float64) {
	want := make([]float64, len(square))
	for i, x := range square {
		want[i] = math.Sqrt(x)
	}
	c := [5]float64{p.n0}
	leastSquares(&c, us, want, 1, 1)
	p.n0, p.n1, p.n2 = c[0], 0, -c[1]
}

// leastSquares fits c at the powers of u that are free, by the share that is missed; the rest of c stays. What comes out below 0 is 0, and the others are fitted
// again; signed is a power that may be below 0, or 0 for none.
func leastSquares(c *[5]float64, u, want []float64, signed int, free ...int) {
	for len(free) > 0 {
		fit(c, u, want, free...)
		negative := slices.IndexFunc(free, func(power int) bool { return c[power] < 0 && power != signed })
		if negative < 0 {
			return
		}
		c[free[negative]] = 0
		free = slices.Delete(free, negative, negative+1)
	}
}

// fit is leastSquares with whatever comes out.
func fit(c *[5]float64, u, want []float64, free ...int) {
	a, b := mat.NewDense(len(u), len(free), nil), mat.NewVecDense(len(u), nil)
	for i := range u {
		for j, power := range free {
			a.Set(i, j, math.Pow(u[i], float64(power))/want[i])
		}
		b.SetVec(i, 1-c[0]/want[i])
	}
	var x mat.VecDense
	_ = x.SolveVec(a, b) // what is ill conditioned is told, and solved
	for j, power := range free {
		c[power] = x.AtVec(j)
	}
}

// factor gives the a of a0 + a1 s + a2 s^2 + a3 s^3 whose square at s = i t is the polynomial c in t^2, with its zeros to the left; not ok where the polynomial
// falls below 0, which no square does.
func factor(c []float64) (a0, a1, a2, a3 float64, ok bool) {
	n := len(c) - 1
	companion := mat.NewDense(n, n, nil)
	for i := range n {
		companion.Set(i, n-1, -c[i]/c[n])
		if i > 0 {
			companion.Set(i, i-1, 1)
		}
	}
	var e mat.Eigen
	if !e.Factorize(companion, mat.EigenNone) {
		return
	}
	a := []complex128{complex(math.Sqrt(c[n]), 0)}
	for _, u := range e.Values(nil) {
		if real(u) > 0 && math.Abs(imag(u)) <= 1e-9*real(u) {
			return
		}
		// times s + sqrt(-u)
		r := cmplx.Sqrt(-u)
		next := make([]complex128, len(a)+1)
		for i, x := range a {
			next[i] += x * r
			next[i+1] += x
		}
		a = next
	}
	return real(a[0]), real(a[1]), real(a[2]), real(a[3]), true
}
