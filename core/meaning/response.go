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

// MorphPlaces are the places of a morphing filter at which it is a filter of one kind, as Response has them: what lies between is a mixture of two.
var MorphPlaces = map[string]float64{"lowpass": 0, "bandpass": 0.5, "highpass": 1}

// atMorph is how near a morph has to be to one of its places to be that filter (common practice, no source).
const atMorph = 0.03

// AsMorphed gives the kind of filter that a morphing one is as it stands, "" where it is a mixture or no such filter.
func (m *Module) AsMorphed() string {
	mode, _ := m.Get(PMode)
	if at, ok := m.Get(PMorph); mode.Name == "morph" && (!ok || !at.Off) {
		for _, name := range []string{"lowpass", "bandpass", "highpass"} {
			if math.Abs(at.Value-MorphPlaces[name]) <= atMorph {
				return name
			}
		}
	}
	return ""
}
