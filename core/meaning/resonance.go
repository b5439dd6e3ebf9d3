package meaning

import "math"

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
