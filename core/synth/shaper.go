package synth

import (
	"math"

	"glossator/core/dsp"
	q "glossator/core/quantity"
)

// shaper distorts by a curve at four times the rate (twice, where it is light), so that most of the harmonics that the curve makes have gone before they
// could fold back; at that rate it gives the mean of the curve between one sample and the next, from the curve's antiderivative
// (Parker, Zavalishin and Le Bivic, DAFx-16, 2016, from memory). What comes out is late by shaperDelay samples, or lightDelay.
type shaper struct {
	curve string
	light bool
	last  float64 // the sample before
	value float64 // the antiderivative there, or the curve where that is smooth
	wide  [2]halfband
	fine  [2]halfband
	held  float64 // of the double rate: with it the delay is of whole samples
	twice [2][block]float64
	pair  [2 * block]float64 // the double rate, in order of time
	four  [2][2 * block]float64
	down  [2 * block]float64
	bent  [4][2 * block]float64
}

// The coefficients on each side of the filters between the rate and its double, and between that and the fourfold.
const (
	wideTaps = 12
	fineTaps = 4
)

// shaperDelay is how late the shaper is, in samples; with the mean an eighth of one more.
const (
	shaperDelay = lightDelay + fineTaps
	lightDelay  = 2*wideTaps - 1
)

func newShaper(curve string) *shaper {
	return &shaper{curve: curve, wide: [2]halfband{newHalfband(wideTaps, block), newHalfband(wideTaps, block)}, fine: [2]halfband{newHalfband(fineTaps, 2*block), newHalfband(fineTaps, 2*block)}}
}

// run distorts in place, up to a block.
func (s *shaper) run(x []float64) {
	n := len(x)
	a, b := s.twice[0][:n], s.twice[1][:n]
	pair := s.pair[:2*n]
	c, d := s.four[0][:2*n], s.four[1][:2*n]
	s.wide[0].up(x, a, b)
	if s.light {
		s.means(a, b)
		s.wide[1].down(a, b, x)
		return
	}
	for i := range a {
		pair[2*i], pair[2*i+1] = a[i], b[i]
	}
	s.fine[0].up(pair, c, d)
	s.means(c, d)
	out := s.down[:2*n]
	s.fine[1].down(c, d, out)
	for i := range a {
		a[i], b[i], s.held = s.held, out[2*i], out[2*i+1]
	}
	s.wide[1].down(a, b, x)
}

// means puts in the place of each sample, c and d in turn, the mean of the curve from the one before to it: from the antiderivative, or,
// where the curve is smooth and the way short, by Simpson's rule, which is as near (its error is d^4/2880 of the fourth derivative)
// and needs no logarithm.
func (s *shaper) means(c, d []float64) {
	last, value := s.last, s.value
	switch s.curve {
	case "hard", "fold":
		mean := func(x float64) float64 {
			from, was := last, value
			last, value = x, beneath(s.curve, x)
			if math.Abs(x-from) > 1e-5 {
				return (value - was) / (x - from)
			}
			return bend(s.curve, (x+from)/2)
		}
		for i := range c {
			c[i] = mean(c[i])
			d[i] = mean(d[i])
		}
	default:
		n := len(c)
		vc, vd, mc, md := s.bent[0][:n], s.bent[1][:n], s.bent[2][:n], s.bent[3][:n]
		from := last
		for i := range c {
			mc[i], md[i] = (from+c[i])/2, (c[i]+d[i])/2
			from = d[i]
		}
		bendAll(s.curve, c, vc)
		bendAll(s.curve, d, vd)
		bendAll(s.curve, mc, mc)
		bendAll(s.curve, md, md)
		for i := range c {
			x, y := c[i], d[i]
			c[i] = (value + 4*mc[i] + vc[i]) * (1.0 / 6)
			if math.Abs(x-last) >= 0.5 {
				c[i] = (beneath(s.curve, x) - beneath(s.curve, last)) / (x - last)
			}
			d[i] = (vc[i] + 4*md[i] + vd[i]) * (1.0 / 6)
			if math.Abs(y-x) >= 0.5 {
				d[i] = (beneath(s.curve, y) - beneath(s.curve, x)) / (y - x)
			}
			last, value = y, vd[i]
		}
	}
	s.last, s.value = last, value
}

// saturator saturates by tanh, up to 3 dB over saturation bit by bit. What comes out is late by lightDelay samples, driven or not.
type saturator struct {
	shape *shaper
	past  [lightDelay + block]float64
}

func newSaturator() *saturator {
	s := newShaper("soft")
	s.light = true
	return &saturator{shape: s}
}

// run saturates in place, up to a block, by a drive in decibels over saturation: one, or one a sample.
func (s *saturator) run(x, drive []float64) {
	var wet [block]float64
	y := wet[:len(x)]
	amount := func(k int) (gain, share float64) {
		d := at(drive, k)
		return q.Level(max(d, 0)).Amplitude(), clamp(d/3, 0, 1)
	}
	g, w := amount(0)
	for k, in := range x {
		if len(drive) > 1 {
			g, _ = amount(k)
		}
		y[k] = g * in
	}
	s.shape.run(y)
	copy(s.past[lightDelay:], x)
	for k := range x {
		if len(drive) > 1 {
			_, w = amount(k)
		}
		x[k] = s.past[k] + w*(y[k]-s.past[k])
	}
	copy(s.past[:lightDelay], s.past[len(x):])
}

// wait delays like a saturator.
func (s *saturator) wait(x []float64) {
	copy(s.past[lightDelay:], x)
	copy(x, s.past[:len(x)])
	copy(s.past[:lightDelay], s.past[len(x):])
}

// bend is the curve of a drive: its slope is 1 at 0, but for "diode" and "tube" below 0, which fall as steeply.
func bend(curve string, y float64) float64 {
	switch curve {
	case "hard":
		return clamp(y, -1, 1)
	case "fold":
		return dsp.Fold(y)
	case "tube": // softer above than below
		if y > 0 {
			return 1.2 * soft(y/1.2)
		}
		return 0.8 * soft(y/0.8)
	case "diode":
		if y > 0 {
			return 1 - math.Exp(-y)
		}
		return 0.25 * soft(4*y)
	}
	return soft(y)
}

// bendAll is bend for each of x, without its way through the curves for those that are used most.
func bendAll(curve string, x, out []float64) {
	switch curve {
	case "soft":
		for i, y := range x {
			out[i] = soft(y)
		}
	case "tube":
		for i, y := range x {
			if y > 0 {
				out[i] = 1.2 * soft(y*(1/1.2))
			} else {
				out[i] = 0.8 * soft(y*(1/0.8))
			}
		}
	default:
		for i, y := range x {
			out[i] = bend(curve, y)
		}
	}
}

// beneath is the antiderivative of bend, 0 at 0.
func beneath(curve string, y float64) float64 {
	switch curve {
	case "hard":
		if a := math.Abs(y); a > 1 {
			return a - 0.5
		}
		return y * y / 2
	case "fold": // over one turn of four it comes back to where it was
		u := math.Mod(math.Mod(y+1, 4)+4, 4)
		if u <= 2 {
			return u*u/2 - u + 0.5
		}
		return 3*(u-2) - (u*u-4)/2 + 0.5
	case "tube":
		if y > 0 {
			return 1.2 * 1.2 * beneathSoft(y/1.2)
		}
		return 0.8 * 0.8 * beneathSoft(y/0.8)
	case "diode":
		if y > 0 {
			return y + math.Exp(-y) - 1
		}
		return 0.25 / 4 * beneathSoft(4*y)
	}
	return beneathSoft(y)
}

// beneathSoft is the antiderivative of soft: x (27 + x^2)/(27 + 9 x^2) is x/9 (1 + 24/(x^2 + 3)).
func beneathSoft(x float64) float64 {
	const at3 = 0.5 + 4.0/3*1.3862943611198906 // ln 4
	if a := math.Abs(x); a > 3 {
		return at3 + a - 3
	}
	return x*x/18 + 4.0/3*math.Log((x*x+3)/3)
}
