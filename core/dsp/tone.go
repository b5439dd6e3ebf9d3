package dsp

import (
	"math"

	q "glossator/core/quantity"
)

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
