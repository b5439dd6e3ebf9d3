package meaning

import (
	"math"

	"glossator/core/dsp"
	q "glossator/core/quantity"
)

// FilterGain gives the complex gain of a filter at a frequency in hertz on a key, without what moves it.
func (m *Module) FilterGain(key, hz float64) complex128 {
	word, _ := m.Get(PMode)
	mode, known := dsp.Modes[word.Name]
	if !known {
		mode = dsp.Lowpass
	}
	num := func(name ParamName) float64 {
		if v, _ := m.Get(name); !v.Off && !math.IsNaN(v.Value) {
			return v.Value
		}
		return 0
	}
	cutoff := num(PCutoff)
	if cutoff <= 0 {
		cutoff = OpenAt(mode)
	}
	h := dsp.Response{Mode: mode, Poles: int(num(PPoles)), Cutoff: cutoff * math.Exp2(num(PTrack)*(key-float64(q.MiddleC))/12),
		Resonance: num(PResonance), Feedback: num(PFeedback), Morph: num(PMorph)}.Gain(hz)
	if v, ok := m.Params[PMix]; ok && !v.Off {
		mix := complex(min(max(v.Value, 0), 1), 0)
		h = 1 + mix*(h-1)
	}
	return h
}

// OpenAt gives the cutoff at which a filter that states none takes nothing, in hertz.
func OpenAt(mode dsp.Mode) float64 {
	if mode == dsp.Highpass {
		return 10
	}
	return 80000
}
