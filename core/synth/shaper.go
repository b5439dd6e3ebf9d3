package synth

import "math"

// shaper distorts by a curve at four times the rate, so that most of the harmonics that the curve makes have gone before they
// could fold back; at that rate it gives the mean of the curve between one sample and the next, from the curve's antiderivative
// (Parker, Zavalishin and Le Bivic, DAFx-16, 2016, from memory). What comes out is late by shaperDelay samples.
type shaper struct {
	curve string
	last  float64 // the sample before
	value float64 // the antiderivative there, or the curve where that is smooth
	wide  [2]halfband
	fine  [2]halfband
	held  float64 // of the double rate: with it the delay is of whole samples
}

// The coefficients on each side of the filters between the rate and its double, and between that and the fourfold.
const (
	wideTaps = 12
	fineTaps = 4
)

// shaperDelay is how late the shaper is, in samples; with the mean an eighth of one more.
const shaperDelay = 2*wideTaps - 1 + fineTaps

func newShaper(curve string) shaper {
	return shaper{curve: curve, wide: [2]halfband{newHalfband(wideTaps), newHalfband(wideTaps)}, fine: [2]halfband{newHalfband(fineTaps), newHalfband(fineTaps)}}
}

func (s *shaper) next(x float64) float64 {
	a, b := s.wide[0].up(x)
	a0, a1 := s.fine[0].up(a)
	b0, b1 := s.fine[0].up(b)
	a = s.fine[1].down(s.mean(a0), s.mean(a1))
	b = s.fine[1].down(s.mean(b0), s.mean(b1))
	a, b, s.held = s.held, a, b
	return s.wide[1].down(a, b)
}

// mean gives the mean of the curve from the last sample to this one: from the antiderivative, or, where the curve is smooth and
// the way short, by Simpson's rule, which is as near (its error is d^4/2880 of the fourth derivative) and needs no logarithm.
func (s *shaper) mean(x float64) float64 {
	from, d := s.last, x-s.last
	s.last = x
	if s.curve == "hard" || s.curve == "fold" {
		was := s.value
		s.value = beneath(s.curve, x)
		if math.Abs(d) > 1e-5 {
			return (s.value - was) / d
		}
		return bend(s.curve, (x+from)/2)
	}
	was := s.value
	s.value = bend(s.curve, x)
	if math.Abs(d) < 0.5 {
		return (was + 4*bend(s.curve, (x+from)/2) + s.value) / 6
	}
	return (beneath(s.curve, x) - beneath(s.curve, from)) / d
}

// bend is the curve of a drive: its slope is 1 at 0, but for "diode" and "tube" below 0, which fall as steeply.
func bend(curve string, y float64) float64 {
	switch curve {
	case "hard":
		return clamp(y, -1, 1)
	case "fold":
		return fold(y)
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
