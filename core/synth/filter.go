package synth

import (
	"math"
	"sync"

	"glossator/core/dsp"
)

// Cutoffs are kept in octaves over lowestCut; tangents are looked up.
const (
	lowestCut  = 8.0 // Hz
	cutOctaves = 11.5
	perOctave  = 256
)

// tangents has tan(pi f/Rate) by the octave over lowestCut.
var tangents = sync.OnceValue(func() *[int(cutOctaves*perOctave) + 2]float64 {
	out := &[int(cutOctaves*perOctave) + 2]float64{}
	for i := range out {
		f := lowestCut * math.Exp2(float64(i)/perOctave)
		out[i] = math.Tan(math.Pi * min(f, 0.4995*Rate) / Rate)
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
}

func newFilter(mode dsp.Mode, poles int, seed uint64) *filter {
	f := &filter{mode: mode, poles: min(max(poles, 1), 4), tan: tangents(), seed: random(seed | 1)}
	if mode == dsp.Comb {
		f.comb = make([]float64, Rate/20)
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
		for i := range x {
			g := tangent(f.tan, at(cut, i))
			v := (x[i] - f.s[0]) * g / (1 + g)
			low := v + f.s[0]
			f.s[0] = low + v
			if f.mode == dsp.Highpass {
				low = x[i] - low
			}
			x[i] = low
		}
	default:
		f.runState(x, cut, res, morph, f.ic[:2])
		switch f.poles {
		case 3:
			for i := range x {
				g := tangent(f.tan, at(cut, i))
				v := (x[i] - f.s[0]) * g / (1 + g)
				low := v + f.s[0]
				f.s[0] = low + v
				if f.mode == dsp.Highpass {
					low = x[i] - low
				}
				x[i] = low
			}
		case 4:
			f.runState(x, cut, res, morph, f.ic[2:])
		}
	}
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
	var a, b, k, norm float64
	for i := range x {
		if i == 0 || moving && i&f.mask == 0 {
			a, b, k, norm = f.ladder(cut, res, i)
		}
		// what comes out of the four stages from their states alone
		y := b * (s3 + a*(s2+a*(s1+a*s0)))
		u := (x[i] - k*y) * norm
		u = saturated(u)
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
		x[i] = y3
	}
	f.s = [4]float64{s0, s1, s2, s3}
}

// ladder gives the coefficients of a ladder at a sample.
func (f *filter) ladder(cut, res []float64, i int) (a, b, k, norm float64) {
	g := tangent(f.tan, at(cut, i))
	k = 4 * max(0, at(res, i))
	b = 1 / (1 + g)
	a = g * b
	return a, b, k, 1 / (1 + k*a*a*a*a)
}

// runLadders is runLadder for two channels that move together, at once: the one does not wait for the other.
func runLadders(f, h *filter, x, z, cut, res []float64, quick bool) {
	mask := maskOf(quick)
	s0, s1, s2, s3 := f.s[0], f.s[1], f.s[2], f.s[3]
	t0, t1, t2, t3 := h.s[0], h.s[1], h.s[2], h.s[3]
	moving := len(cut) > 1 || len(res) > 1
	s0 += deviceNoise * f.seed.next()
	t0 += deviceNoise * h.seed.next()
	var a, b, k, norm float64
	z = z[:len(x)]
	for i := range x {
		if i == 0 || moving && i&mask == 0 {
			a, b, k, norm = f.ladder(cut, res, i)
		}
		u := saturated((x[i] - k*b*(s3+a*(s2+a*(s1+a*s0)))) * norm)
		w := saturated((z[i] - k*b*(t3+a*(t2+a*(t1+a*t0)))) * norm)
		v, y := (u-s0)*a, (w-t0)*a
		u, w = v+s0, y+t0
		s0, t0 = u+v, w+y
		v, y = (u-s1)*a, (w-t1)*a
		u, w = v+s1, y+t1
		s1, t1 = u+v, w+y
		v, y = (u-s2)*a, (w-t2)*a
		u, w = v+s2, y+t2
		s2, t2 = u+v, w+y
		v, y = (u-s3)*a, (w-t3)*a
		u, w = v+s3, y+t3
		s3, t3 = u+v, w+y
		x[i], z[i] = u, w
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
	for i := range x {
		g := tangent(f.tan, at(cut, i))
		k := 4 * max(0, at(res, i))
		b := 1 / (1 + g)
		// each stage gives b (in - state)
		y := -b * (s[3] + b*(s[2]+b*(s[1]+b*s[0])))
		b2 := b * b
		u := (x[i] - k*y) / (1 + k*b2*b2)
		u = headroom * soft(u/headroom)
		in := u
		for n := range s {
			v := (in - s[n]) * g * b
			low := v + s[n]
			s[n] = low + v
			in -= low
		}
		x[i] = in
	}
	f.s = s
}

// runState is a state-variable filter of two poles, Q = 1/(2 (1 - res)), by trapezoidal integrators.
func (f *filter) runState(x, cut, res, morph, ic []float64) {
	a, b := ic[0]+deviceNoise*f.seed.next(), ic[1]
	moving := len(cut) > 1 || len(res) > 1
	var g, a1, a2, a3 float64
	k := max(2*(1-max(0, res[0])), -0.05)
	for i := range x {
		if i == 0 || moving && i&f.mask == 0 {
			g = tangent(f.tan, at(cut, i))
			if len(res) > 1 {
				k = max(2*(1-max(0, res[i])), -0.05)
			}
			a1 = 1 / (1 + g*(g+k))
			a2 = g * a1
			a3 = g * a2
		}
		in := x[i]
		v3 := in - b
		v1 := a1*a + a2*v3
		v2 := b + a2*a + a3*v3
		a, b = 2*v1-a, 2*v2-b
		if a > headroom || a < -headroom { // what goes round saturates
			a = headroom * soft(a/headroom)
		} else if k <= 0.01 { // at the point of oscillation it has to settle at a level
			a -= a * a * a * 0.002
		}
		switch f.mode {
		case dsp.Lowpass:
			x[i] = v2
		case dsp.Highpass:
			x[i] = in - k*v1 - v2
		case dsp.Bandpass:
			x[i] = max(k, 0.02) * v1
		case dsp.Notch:
			x[i] = in - k*v1
		case dsp.Peak: // the peak is 2 Q high: 1 + (2 Q - 1) of a band-pass of gain 1
			kk := max(k, 0.05)
			x[i] = in + (max(2/kk, 1)-1)*kk*v1
		case dsp.Morph: // low-pass, band-pass, high-pass in turn
			m := at(morph, i)
			lo, band, hi := v2, k*v1, in-k*v1-v2
			if m < 0.5 {
				x[i] = lo + 2*m*(band-lo)
			} else {
				x[i] = band + (2*m-1)*(hi-band)
			}
		}
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
