package meaning

import (
	"math"

	q "glossator/core/quantity"
)

// PeakDB gives the height of a low-pass filter's resonant peak over its passband, in
// decibels, at a fraction of the way to self-oscillation (0 to below 1).
//
// Four poles, as a ladder with feedback k = 4 fraction (Stilson & Smith, ICMC 1996, from memory):
//
//	|H| = (1 + k)/|(1 + jw)^4 + k|
//
// Two poles (circuit theory), Q = 1/(2 (1 - fraction)):
//
//	peak = Q/sqrt(1 - 1/(4 Q^2)), 1 where Q < 1/sqrt 2
func PeakDB(poles int, fraction float64) float64 {
	fraction = math.Min(math.Max(fraction, 0), 0.9999)
	if poles <= 2 {
		quality := 1 / (2 * (1 - fraction))
		if quality <= math.Sqrt2/2 {
			return 0
		}
		return 20 * math.Log10(quality/math.Sqrt(1-1/(4*quality*quality)))
	}
	k := 4 * fraction
	// the one peak lies between 0 and the pole frequency: golden section
	const golden = 0.6180339887498949
	lo, hi := 0.0, 1.0
	a, b := hi-golden*(hi-lo), lo+golden*(hi-lo)
	ga, gb := LadderGain(a, k), LadderGain(b, k)
	for hi-lo > 1e-6 {
		if ga > gb {
			hi, b, gb = b, a, ga
			a = hi - golden*(hi-lo)
			ga = LadderGain(a, k)
		} else {
			lo, a, ga = a, b, gb
			b = lo + golden*(hi-lo)
			gb = LadderGain(b, k)
		}
	}
	return math.Max(20*math.Log10(LadderGain((lo+hi)/2, k)*(1+k)), 0)
}

// LadderGain gives the gain of four equal poles with feedback k at w times the pole
// frequency; 1/(1+k) at w = 0.
func LadderGain(w, k float64) float64 {
	re, im := 1-6*w*w+w*w*w*w, 4*w-4*w*w*w
	return 1 / math.Hypot(re+k, im)
}

// EqualPeak gives the fraction at which a filter of another number of poles has the same
// peak. A filter that oscillates (fraction 1 or more) stays so.
func EqualPeak(fraction float64, from, to int) float64 {
	if fraction >= 1 || fraction <= 0 || (from <= 2) == (to <= 2) {
		return fraction
	}
	want := PeakDB(from, fraction)
	if want == 0 {
		return 0
	}
	lo, hi := 0.0, 0.9999
	for range 40 {
		mid := (lo + hi) / 2
		if PeakDB(to, mid) < want {
			lo = mid
		} else {
			hi = mid
		}
	}
	return (lo + hi) / 2
}

// LowpassGain gives the gain of a low-pass at w times its cutoff over that of its passband, for
// 1 to 4 poles at a fraction of the way to self-oscillation. One pole and two are circuit theory,
// three are two with one more, four a ladder (Stilson & Smith, ICMC 1996, from memory).
func LowpassGain(poles int, fraction, w float64) float64 {
	fraction = math.Min(math.Max(fraction, 0), 0.98)
	two := func() float64 { return 1 / math.Hypot(1-w*w, 2*(1-fraction)*w) }
	switch {
	case poles <= 1:
		return 1 / math.Hypot(1, w)
	case poles == 2:
		return two()
	case poles == 3:
		return two() / math.Hypot(1, w)
	}
	return LadderGain(w, 4*fraction) * (1 + 4*fraction)
}

// Partial is one sine of a tone: its frequency in hertz and its power.
type Partial struct{ Hz, Power float64 }

// heardTo is the highest partial that counts for brightness, in hertz.
const heardTo = 16000

// SawTone gives the partials of a saw up to 16 kHz (Fourier series: 1/n).
func SawTone(f float64) []Partial {
	var out []Partial
	for k := 1; float64(k)*f <= heardTo && k <= 400; k++ {
		out = append(out, Partial{float64(k) * f, 1 / float64(k*k)})
	}
	return out
}

// Brightness gives the middle of the spectrum, in hertz, of a saw of frequency f through a low-pass with its
// cutoff at fc; see BrightnessOf.
func Brightness(f, fc float64, poles int, fraction float64) float64 {
	if b := BrightnessOf(SawTone(f), fc, poles, fraction); b > 0 {
		return b
	}
	return f
}

// BrightnessOf gives the middle of the spectrum of a tone through a low-pass: the centroid on the scale of auditory bands
// (Glasberg & Moore, 1990) of the amplitude in each, A-weighted (IEC 61672-1). 0 for a tone of no partials.
func BrightnessOf(tone []Partial, fc float64, poles int, fraction float64) float64 {
	var bands [40]float64
	for _, p := range tone {
		a := LowpassGain(poles, fraction, p.Hz/fc)
		b := min(len(bands)-1, int(21.4*math.Log10(0.00437*p.Hz+1)))
		bands[b] += a * a * p.Power * math.Pow(10, q.AWeight(p.Hz)/10)
	}
	var sum, weighed float64
	for b, power := range bands {
		l := math.Pow(power, 0.5)
		sum += l
		weighed += l * (float64(b) + 0.5)
	}
	if sum == 0 {
		return 0
	}
	return (math.Pow(10, weighed/sum/21.4) - 1) / 0.00437
}

// EqualBrightness gives the factor on a cutoff at which a low-pass of other poles is as bright on
// a saw of frequency f, or, where none within two octaves is (two poles can hardly be as dark as four when the
// cutoff is below the note), as near as it gets.
func EqualBrightness(f, fc float64, from, to int, fraction, toFraction float64) float64 {
	if from == to && fraction == toFraction || f <= 0 || fc <= 0 {
		return 1
	}
	return EqualBrightnessOf(SawTone(f), SawTone(f), fc, from, to, fraction, toFraction)
}

// EqualBrightnessOf is EqualBrightness for a tone at the source and another at the target.
func EqualBrightnessOf(there, here []Partial, fc float64, from, to int, fraction, toFraction float64) float64 {
	if len(there) == 0 || len(here) == 0 || fc <= 0 {
		return 1
	}
	want := BrightnessOf(there, fc, from, fraction)
	over := func(x float64) float64 { return BrightnessOf(here, x*fc, to, toFraction) - want }
	// a resonant peak that passes a harmonic makes the way up uneven: the nearest crossing counts
	step := math.Exp2(1.0 / 8)
	lo, hi := 1.0, 1.0
	best, nearest := 1.0, math.Abs(over(1))
	for i := 0; ; i++ {
		if i == 16 { // none is as bright within two octaves: the nearest
			return best
		}
		up, down := math.Pow(step, float64(i)), math.Pow(step, -float64(i))
		for _, x := range []float64{up, down} {
			if d := math.Abs(over(x)); d < nearest*0.999 {
				best, nearest = x, d
			}
		}
		if over(up) < 0 != (over(up*step) < 0) {
			lo, hi = up, up*step
			break
		}
		if over(down/step) < 0 != (over(down) < 0) {
			lo, hi = down/step, down
			break
		}
	}
	rising := over(lo) < 0
	for range 40 {
		mid := math.Sqrt(lo * hi)
		if over(mid) < 0 == rising {
			lo = mid
		} else {
			hi = mid
		}
	}
	return math.Sqrt(lo * hi)
}

// BassLossDB gives how many decibels a low-pass's passband falls as its resonance goes up: a ladder
// without compensation by 1 + k (Stilson & Smith, ICMC 1996, from memory), two poles by nothing.
func BassLossDB(poles int, fraction float64) float64 {
	if poles <= 2 {
		return 0
	}
	return 20 * math.Log10(1+4*math.Min(math.Max(fraction, 0), 1))
}

// OverloadDB gives how much louder a triangle wave of full level gets when it is driven by a gain
// in decibels into tanh saturation: the ratio of effective values.
func OverloadDB(gain float64) float64 {
	const n = 256
	g := math.Pow(10, gain/20)
	var plain, driven float64
	for i := range n {
		x := (float64(i) + 0.5) / n
		plain += x * x
		y := math.Tanh(g * x)
		driven += y * y
	}
	return 10 * math.Log10(driven/plain)
}
