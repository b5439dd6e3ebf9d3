package synth

import (
	"math"
	"sync"

	"glossator/core/dsp"
)

// Cutoffs are kept in octaves over lowestCut; tangents are looked up.
const (
	lowestCut   = 8.0 // Hz
	cutOctaves  = 13.5
	perOctave   = 256
	highestPole = 0.42 * Rate // what is cut off above has its poles here, ringing less, and the gain that it is to have
)

// tangents has tan(pi f/Rate) by the octave over lowestCut.
var tangents = sync.OnceValue(func() *[int(cutOctaves*perOctave) + 2]float64 {
	out := &[int(cutOctaves*perOctave) + 2]float64{}
	for i := range out {
		f := lowestCut * math.Exp2(float64(i)/perOctave)
		out[i] = math.Tan(math.Pi * min(f, highestPole) / Rate)
	}
	return out
})

// octaveOf gives a frequency in octaves over lowestCut.
func octaveOf(f float64) float64 { return math.Log2(max(f, 1) / lowestCut) }

// tangent reads the table; octaves are held within it.
func tangent(t *[int(cutOctaves*perOctave) + 2]float64, octaves float64) float64 {
	x := octaves * perOctave
	if !(x > 0) {
		return t[0]
	}
	if x >= cutOctaves*perOctave {
		x = cutOctaves*perOctave - 0.001
	}
	i := int(x)
	return t[i] + (x-float64(i))*(t[i+1]-t[i])
}

// soft is a saturation near tanh, odd, with slope 1 at 0, and exactly 1 from 3 on.
//
//	x (27 + x^2)/(27 + 9 x^2)
func soft(x float64) float64 {
	if x > 3 {
		return 1
	}
	if x < -3 {
		return -1
	}
	x2 := x * x
	return x * (27 + x2) / (27 + 9*x2)
}

// headroom is how far over the full level of one oscillator a filter without drive begins to
// saturate: +18 dB (common practice, no source). It also bounds self-oscillation.
const headroom = 8.0

// deviceNoise is the noise from which self-oscillation starts.
const deviceNoise = 1e-6

// filter is a filter at work: one channel.
type filter struct {
	mode  dsp.Mode
	poles int
	s     [4]float64 // states of the integrators
	ic    [4]float64 // two state-variable stages
	comb  []float64
	at    int
	tan   *[int(cutOctaves*perOctave) + 2]float64
	seed  random
	mask  int // coefficients are worked out where i & mask is 0
	of    [2]looked
	morph []looked // of a morph, at each of morphs
}

// looked reads the poles and the mix of a filter; while the resonance rests, from a row of its own.
type looked struct {
	all *[steps]placedRow
	row *placedRow
	res float64
}

// at gives them at a cutoff in octaves and a resonance that rests or not.
func (l *looked) at(octaves, res float64, rests bool) placed {
	if !rests {
		return placedAt(l.all, octaves, res)
	}
	if l.row == nil || l.res != res {
		l.row, l.res = rowAt(l.all, res), res
	}
	return l.row.at(octaves)
}

func newFilter(mode dsp.Mode, poles int, seed uint64) *filter {
	f := &filter{mode: mode, poles: min(max(poles, 1), 4), tan: tangents(), seed: random(seed | 1)}
	if mode == dsp.Comb {
		f.comb = make([]float64, Rate/20)
	}
	use := func(list ...kind) {
		for i, k := range list {
			f.of[i].all = rows[k]()
		}
	}
	one := poles == 1 || poles == 3
	switch mode {
	case dsp.Lowpass, dsp.Highpass:
		k, o, l := twoLow, oneLow, ladderLow
		if mode == dsp.Highpass {
			k, o, l = twoHigh, oneHigh, ladderHigh
		}
		switch {
		case f.poles == 4:
			use(l)
		case one:
			use(k, o)
		default:
			use(k)
		}
	case dsp.Bandpass:
		use(twoBand, oneLow)
	case dsp.Notch:
		use(twoNotch, oneLow)
	case dsp.Peak:
		use(twoPeak, oneLow)
	case dsp.Morph:
		use(twoLow, oneLow)
		f.morph = make([]looked, len(morphs))
		for i := range f.morph {
			f.morph[i].all = rows[morphFirst+kind(i)]()
		}
	}
	return f
}

// run filters in place. cut is in octaves over lowestCut, res the way to self-oscillation,
// morph the place between low-pass, band-pass and high-pass; each has one value or one a sample.
// quick is set where something at audio rate moves it: the coefficients are then worked out for every sample,
// otherwise for every fourth.
func (f *filter) run(x, cut, res, morph []float64, feedback float64, quick bool) {
	f.mask = maskOf(quick)
	switch {
	case f.mode == dsp.Comb:
		f.runComb(x, cut, feedback)
	case f.mode == dsp.Lowpass && f.poles == 4:
		f.runLadder(x, cut, res)
	case f.mode == dsp.Highpass && f.poles == 4:
		f.runHighLadder(x, cut, res)
	case f.poles == 1 && (f.mode == dsp.Lowpass || f.mode == dsp.Highpass):
		f.runOne(x, cut)
	default:
		f.runState(x, cut, res, morph, f.ic[:2], 1)
		switch f.poles {
		case 3:
			f.runOne(x, cut)
		case 4:
			f.runState(x, cut, res, morph, f.ic[2:], -1)
		}
	}
}

// runOne is one pole.
func (f *filter) runOne(x, cut []float64) {
	moving := len(cut) > 1
	var share, low, high float64
	s := f.s[0]
	for i := range x {
		if i == 0 || moving && i&f.mask == 0 {
			c := at(cut, i)
			g := tangent(f.tan, c)
			low, high = 1, 0
			if f.mode == dsp.Highpass {
				low, high = 0, 1
			}
			if f.mode != dsp.Morph { // of three poles: its single one is plain as the others are
				p := f.of[1].at(c, 0, true)
				g *= p.g
				low, high = p.n0, p.n1
			}
			share = g / (1 + g)
		}
		v := (x[i] - s) * share
		y := v + s
		s = y + v
		x[i] = low*y + high*(x[i]-y)
	}
	f.s[0] = s
}

func maskOf(quick bool) int {
	if quick {
		return 0
	}
	return 3
}

func at(list []float64, i int) float64 {
	if len(list) == 1 {
		return list[0]
	}
	return list[i]
}

// runLadder is four equal poles with feedback k = 4 res, solved without a delay in the loop
// (trapezoidal integrators); what goes round saturates. Source of the loop: Stilson & Smith,
// ICMC 1996 (from memory).
func (f *filter) runLadder(x, cut, res []float64) {
	s0, s1, s2, s3 := f.s[0], f.s[1], f.s[2], f.s[3]
	moving := len(cut) > 1 || len(res) > 1
	s0 += deviceNoise * f.seed.next() // once a block is enough to begin with
	var c ladder
	for i := range x {
		if i == 0 || moving && i&f.mask == 0 {
			c = f.ladder(cut, res, i)
		}
		a := c.a
		// what comes out of the four stages from their states alone
		y := c.b * (s3 + a*(s2+a*(s1+a*s0)))
		u := saturated((x[i] - c.k*y) * c.norm)
		v := (u - s0) * a
		y0 := v + s0
		s0 = y0 + v
		v = (y0 - s1) * a
		y1 := v + s1
		s1 = y1 + v
		v = (y1 - s2) * a
		y2 := v + s2
		s2 = y2 + v
		v = (y2 - s3) * a
		y3 := v + s3
		s3 = y3 + v
		x[i] = c.mix[0]*u + c.mix[1]*y0 + c.mix[2]*y1 + c.mix[3]*y2 + c.mix[4]*y3
	}
	f.s = [4]float64{s0, s1, s2, s3}
}

// ladder has the coefficients of a ladder: g/(1+g), 1/(1+g), what goes round, 1 over the loop's whole, and what is taken of its input and its
// four stages.
type ladder struct {
	a, b, k, norm float64
	mix           [5]float64
}

// ladder gives the coefficients of a ladder at a sample.
func (f *filter) ladder(cut, res []float64, i int) ladder {
	o := at(cut, i)
	p := f.of[0].at(o, max(0, at(res, i)), len(res) == 1)
	g := tangent(f.tan, o) * p.g
	b := 1 / (1 + g)
	a := g * b
	c := ladder{a: a, b: b, k: p.k, norm: 1 / (1 + p.k*a*a*a*a)}
	if f.mode == dsp.Highpass {
		c.norm = 1 / (1 + p.k*b*b*b*b)
		// s (n3 + n0 s + n1 s^2 + n2 s^3) where a stage gives s/(1+s)
		x, y := p.n3, p.n0-3*p.n3
		z := p.n1 - 3*x - 2*y
		c.mix = [5]float64{1: x, 2: y, 3: z, 4: p.n2 - x - y - z}
		return c
	}
	// (n0 + n1 s + n2 s^2)(n0 - n1 s + n2 s^2) where a stage gives 1/(1+s): the phase is that of the poles
	x, y, z := p.n2, p.n1-2*p.n2, p.n0-p.n1+p.n2
	v, w := -p.n1-2*p.n2, p.n0+p.n1+p.n2
	c.mix = [5]float64{x * x, x * (v + y), x*(w+z) + y*v, y*w + z*v, z * w}
	return c
}

// runLadders is runLadder for two channels that move together, at once: the one does not wait for the other.
func runLadders(f, h *filter, x, z, cut, res []float64, quick bool) {
	f.mask = maskOf(quick)
	s0, s1, s2, s3 := f.s[0], f.s[1], f.s[2], f.s[3]
	t0, t1, t2, t3 := h.s[0], h.s[1], h.s[2], h.s[3]
	moving := len(cut) > 1 || len(res) > 1
	s0 += deviceNoise * f.seed.next()
	t0 += deviceNoise * h.seed.next()
	var c ladder
	z = z[:len(x)]
	for i := range x {
		if i == 0 || moving && i&f.mask == 0 {
			c = f.ladder(cut, res, i)
		}
		a, m := c.a, &c.mix
		u := saturated((x[i] - c.k*c.b*(s3+a*(s2+a*(s1+a*s0)))) * c.norm)
		w := saturated((z[i] - c.k*c.b*(t3+a*(t2+a*(t1+a*t0)))) * c.norm)
		p, q := m[0]*u, m[0]*w
		v, y := (u-s0)*a, (w-t0)*a
		u, w = v+s0, y+t0
		s0, t0 = u+v, w+y
		p, q = p+m[1]*u, q+m[1]*w
		v, y = (u-s1)*a, (w-t1)*a
		u, w = v+s1, y+t1
		s1, t1 = u+v, w+y
		p, q = p+m[2]*u, q+m[2]*w
		v, y = (u-s2)*a, (w-t2)*a
		u, w = v+s2, y+t2
		s2, t2 = u+v, w+y
		p, q = p+m[3]*u, q+m[3]*w
		v, y = (u-s3)*a, (w-t3)*a
		u, w = v+s3, y+t3
		s3, t3 = u+v, w+y
		x[i], z[i] = p+m[4]*u, q+m[4]*w
	}
	f.s, h.s = [4]float64{s0, s1, s2, s3}, [4]float64{t0, t1, t2, t3}
}

// saturated is soft of headroom: u (1 - (8/27) (u/h)^2 + (8/81) (u/h)^4 ...) where that is near, without a division.
func saturated(u float64) float64 {
	if u > 3 || u < -3 {
		return headroom * soft(u/headroom)
	}
	const h2 = headroom * headroom
	u2 := u * u
	return u * (1 - u2*(8.0/27/h2-u2*(8.0/81/h2/h2)))
}

// runHighLadder is the mirror of the ladder: s^4/((1+s)^4 + k s^4).
func (f *filter) runHighLadder(x, cut, res []float64) {
	s := f.s
	s[0] += deviceNoise * f.seed.next()
	moving := len(cut) > 1 || len(res) > 1
	var c ladder
	for i := range x {
		if i == 0 || moving && i&f.mask == 0 {
			c = f.ladder(cut, res, i)
		}
		b := c.b
		// each stage gives b (in - state)
		y := -b * (s[3] + b*(s[2]+b*(s[1]+b*s[0])))
		in := headroom * soft((x[i]-c.k*y)*c.norm/headroom)
		out := 0.0
		for n := range s {
			v := (in - s[n]) * c.a
			low := v + s[n]
			s[n] = low + v
			in -= low
			out += c.mix[n+1] * in
		}
		x[i] = out
	}
	f.s = s
}

// runState is a state-variable filter of two poles, Q = 1/(2 (1 - res)), by trapezoidal integrators. Of two band-passes in a row
// one leads (1) by as much as the other lags (-1).
func (f *filter) runState(x, cut, res, morph, ic []float64, leads float64) {
	a, b := ic[0]+deviceNoise*f.seed.next(), ic[1]
	moving := len(cut) > 1 || len(res) > 1 || f.mode == dsp.Morph && len(morph) > 1
	var g, a1, a2, a3, low, band, high float64
	free := dsp.Loses(res[0])
	for i := range x {
		if i == 0 || moving && i&f.mask == 0 {
			o, r := at(cut, i), max(0, at(res, i))
			free = dsp.Loses(r)
			var p placed
			if f.mode == dsp.Morph {
				m, n := at(morph, i), 1
				for n < len(morphs)-1 && m > morphs[n] {
					n++
				}
				p = f.morph[n-1].at(o, r, len(res) == 1).to(f.morph[n].at(o, r, len(res) == 1), clamp((m-morphs[n-1])/(morphs[n]-morphs[n-1]), 0, 1))
			} else {
				p = f.of[0].at(o, r, len(res) == 1)
			}
			if f.mode == dsp.Bandpass {
				p.n2 *= leads
			}
			g = tangent(f.tan, o) * p.g
			a1 = 1 / (1 + g*(g+p.k))
			a2 = g * a1
			a3 = g * a2
			// of low, band and high: high is the input less k band and low
			low, band, high = p.n0-p.n2, p.n1-p.k*p.n2, p.n2
		}
		in := x[i]
		v3 := in - b
		v1 := a1*a + a2*v3
		v2 := b + a2*a + a3*v3
		a, b = 2*v1-a, 2*v2-b
		if a > headroom || a < -headroom { // what goes round saturates
			a = headroom * soft(a/headroom)
		} else if free <= 0.01 { // at the point of oscillation it has to settle at a level
			a -= a * a * a * 0.002
		}
		x[i] = high*in + band*v1 + low*v2
	}
	ic[0], ic[1] = a, b
}

// runComb adds the signal of one period of the cutoff ago, again and again; between samples by a cubic through four of them (Lagrange),
// which leaves more of the highs than a straight line.
func (f *filter) runComb(x, cut []float64, feedback float64) {
	n := len(f.comb)
	feedback = clamp(feedback, -0.98, 0.98)
	for i := range x {
		d := Rate / (lowestCut * math.Exp2(at(cut, i)))
		d = clamp(d, 1, float64(n-2))
		p := float64(f.at) - d
		if p < 0 {
			p += float64(n)
		}
		j := int(p)
		fr := p - float64(j)
		y := f.comb[j%n]*(1-fr) + f.comb[(j+1)%n]*fr
		if d >= 2 { // or the fourth is not there yet
			a, b, c, e := fr+1, fr, fr-1, fr-2
			y = a*c*e/2*f.comb[j%n] - a*b*e/2*f.comb[(j+1)%n] - b*c*e/6*f.comb[(j-1+n)%n] + a*b*c/6*f.comb[(j+2)%n]
		}
		w := x[i] + feedback*y
		f.comb[f.at] = headroom * soft(w/headroom)
		f.at = (f.at + 1) % n
		x[i] = 0.5 * (x[i] + y)
		if feedback != 0 {
			x[i] *= 1 - 0.5*math.Abs(feedback)
		}
	}
}
