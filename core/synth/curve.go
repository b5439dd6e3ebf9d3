package synth

import (
	"math"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// FilterGain gives the complex gain of a filter module on a note (MIDI number) at a frequency in hertz, by
// its closed form; what the rendered filter does below saturation (see TestFiltersAgainstClosedForms).
func FilterGain(d *meaning.Module, key, hz float64) complex128 {
	mode, known := dsp.Modes[word(d, meaning.PMode)]
	if !known {
		mode = dsp.Lowpass
	}
	h := dsp.Response{Mode: mode, Poles: int(num(d, meaning.PPoles)), Cutoff: hertz(d, meaning.PCutoff, openAt(mode)) * math.Exp2(num(d, meaning.PTrack)*(key-float64(q.MiddleC))/12),
		Resonance: num(d, meaning.PResonance), Feedback: num(d, meaning.PFeedback), Morph: num(d, meaning.PMorph)}.Gain(hz, Rate)
	if v, ok := d.Params[meaning.PMix]; ok && !v.Off {
		mix := complex(clamp(v.Value, 0, 1), 0)
		h = 1 + mix*(h-1)
	}
	return h
}

// openAt gives the cutoff at which a filter that states none takes nothing, in hertz.
func openAt(mode dsp.Mode) float64 {
	if mode == dsp.Highpass {
		return 10
	}
	return 20000
}
