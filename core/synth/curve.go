package synth

import (
	"math"
	"math/cmplx"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// FilterGain gives the complex gain of a filter module on a note (MIDI number) at a frequency in hertz, by
// its closed form; what the rendered filter does below saturation (see TestFiltersAgainstClosedForms).
func FilterGain(d *meaning.Module, key, hz float64) complex128 {
	mode, known := filterModes[word(d, meaning.PMode)]
	if !known {
		mode = lowpass
	}
	open := 20000.0
	if mode == highpass {
		open = 10
	}
	fc := hertz(d, meaning.PCutoff, open) * math.Exp2(num(d, meaning.PTrack)*(key-float64(q.MiddleC))/12)
	fc = clamp(fc, 2, 0.4995*Rate)
	s := complex(0, math.Tan(math.Pi*clamp(hz, 1, 0.4995*Rate)/Rate)/math.Tan(math.Pi*fc/Rate))
	res := clamp(num(d, meaning.PResonance), 0, 0.995)
	k := complex(4*res, 0)
	damp := complex(2*(1-res), 0)
	two := 1 / (s*s + damp*s + 1)
	poles := min(max(int(num(d, meaning.PPoles)), 1), 4)
	var h complex128
	switch {
	case mode == combMode:
		fb := complex(clamp(num(d, meaning.PFeedback), -0.98, 0.98), 0)
		z := cmplx.Exp(complex(0, -2*math.Pi*hz/fc))
		h = 0.5 * (1 + z/(1-fb*z)) * complex(1-0.5*math.Abs(real(fb)), 0)
	case mode == lowpass && poles == 4:
		h = 1 / (cmplx.Pow(1+s, 4) + k)
	case mode == highpass && poles == 4:
		h = cmplx.Pow(s, 4) / (cmplx.Pow(1+s, 4) + k*cmplx.Pow(s, 4))
	case poles == 1 && mode == lowpass:
		h = 1 / (1 + s)
	case poles == 1 && mode == highpass:
		h = s / (1 + s)
	default:
		switch mode {
		case lowpass:
			h = two
		case highpass:
			h = s * s * two
		case bandpass:
			h = damp * s * two
		case notchMode:
			h = (s*s + 1) * two
		case peakMode:
			h = 1 + (complex(max(1/(1-res), 1), 0)-1)*damp*s*two
		case morphMode:
			m := complex(clamp(num(d, meaning.PMorph), 0, 1), 0)
			if real(m) < 0.5 {
				h = two * (1 + 2*m*(damp*s-1))
			} else {
				h = two * (damp*s + (2*m-1)*(s*s-damp*s))
			}
		}
		switch {
		case poles == 3 && mode == highpass:
			h *= s / (1 + s)
		case poles == 3:
			h *= 1 / (1 + s)
		case poles == 4:
			h *= h
		}
	}
	if v, ok := d.Params[meaning.PMix]; ok && !v.Off {
		mix := complex(clamp(v.Value, 0, 1), 0)
		h = 1 + mix*(h-1)
	}
	return h
}
