package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// singing is a filter at self-oscillation, an octave over middle C, that follows half of the keys, with something that goes through it at a level.
func singing(level, resonance float64, more ...meaning.Route) *meaning.Meaning {
	return sound([]meaning.Module{mod("n", meaning.Noise, p{"level": level}), mod("f", meaning.Filter, p{"mode": "lowpass", "poles": 2, "cutoff": 2 * float64(q.MiddleC.Frequency()), "resonance": resonance, "track": 0.5})}, more...)
}

func opens(depth float64) meaning.Route {
	return meaning.Route{ID: "r", Label: "r", From: "velocity", To: []string{"f.cutoff"}, Polarity: "unipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: depth}}}
}

var (
	_ = used(&whistle,
		use{"a sine where the filter stands, moved as it was", targetOf{have: map[meaning.Kind]int{meaning.Osc: 1, meaning.Filter: 1}}.case_(singing(-40, 1.1, opens(0.25))),
			figures{"f~whistle.interval": 1200, "f~whistle.key": 0.5, "f~whistle.level": 6, "r~": 300}, []string{"f", "n"}, "a sine at 523 Hz"},
		use{"an operator where there is no oscillator", targetOf{have: map[meaning.Kind]int{meaning.Operator: 2}}.case_(singing(-40, 1.05)), figures{"f~whistle.interval": 1200, "f~whistle.output": 0}, []string{"f", "n"}, "oscillates by itself"})
	_ = used(&buzz,
		use{"a tone at the pitch of the filter", targetOf{have: map[meaning.Kind]int{meaning.Osc: 1}}.case_(singing(-3, 0.8), "n"), figures{"n~.interval": 1200, "n~.level": -3}, []string{"n"}, "no noise here"},
		use{"two octaves up through one that does not ring", targetOf{have: map[meaning.Kind]int{meaning.Operator: 1}}.case_(singing(-3, 0.1), "n"), figures{"n~.interval": 2400, "n~.feedback": 0.5}, []string{"n"}, "no noise here"})
)

// A filter for something is no whistle, nor one below self-oscillation; noise beside other sounds may go without one.
func TestWhistleAndBuzzLeave(t *testing.T) {
	target := targetOf{have: map[meaning.Kind]int{meaning.Osc: 2, meaning.Filter: 1}}
	two := singing(-40, 1.1)
	two.Modules = append(two.Modules, mod("g", meaning.Filter, p{"mode": "highpass", "cutoff": 100.0}))
	beside := singing(-3, 0.2)
	beside.Modules = append(beside.Modules, osc("o", 0))
	for name, c := range map[string]*Case{"below self-oscillation": target.case_(singing(-40, 0.98)), "noise goes through it": target.case_(singing(-6, 1.1)), "two filters": target.case_(two), "nothing plays tones": targetOf{}.case_(singing(-40, 1.1)),
		"its resonance is moved": target.case_(singing(-40, 1.1, way("w", "lfo", "f.resonance", 0.2, "bipolar")))} {
		if got := whistle.Try(c); len(got) > 0 {
			t.Errorf("%s: %s", name, got[0].Text)
		}
	}
	for name, c := range map[string]*Case{"an oscillator sounds too": target.case_(beside, "n"), "there is noise": targetOf{have: map[meaning.Kind]int{meaning.Osc: 1, meaning.Noise: 1}}.case_(singing(-3, 0.2), "n"), "it has its place": target.case_(singing(-3, 0.2))} {
		if got := buzz.Try(c); len(got) > 0 {
			t.Errorf("%s: %s", name, got[0].Text)
		}
	}
}

// The more a filter oscillates, the louder, and the less with more poles.
func TestHowLoudAWhistleIs(t *testing.T) {
	last := math.Inf(-1)
	for _, res := range []float64{1.02, 1.05, 1.1} {
		two, four := singing(-40, res).Module("f"), singing(-40, res).Module("f")
		put(four, meaning.PPoles, 4)
		if a, b := whistles(two), whistles(four); a <= last || b >= a {
			t.Errorf("at %v: %v dB with two poles, %v with four, %v before", res, a, b, last)
		} else {
			last = a
		}
	}
}
