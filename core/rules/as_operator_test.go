package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

var _ = used(&asOperator,
	use{"an oscillator that does not say how loud it is", targetOf{have: map[meaning.Kind]int{meaning.Operator: 1}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "triangle", "interval": 0.0})}), "o"),
		figures{"o~.output": 0, "o~.level": 0}, nil, "is played by an operator"},
	use{"an oscillator is an operator", targetOf{have: map[meaning.Kind]int{meaning.Operator: 1}}.case_(sound([]meaning.Module{osc("o", -1200)}), "o"),
		figures{"o~.interval": -1200, "o~.output": -3}, []string{"o"}, "by an operator"},
	// the odd harmonics of a square come nearest by a modulator an octave above: of J0..J4 at 1.4, by a search beside this
	use{"a square by an operator that another modulates", targetOf{have: map[meaning.Kind]int{meaning.Operator: 2}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "pulse", "interval": 0.0, "level": -3.0})}), "o"),
		figures{"o~.interval": 0, "o~.output": -3, "o~by.interval": 1200, "o~by.level": -7.0201, "o~index": 1}, []string{"o"}, "another one modulates"},
	use{"the amplifier's envelope moves each operator", targetOf{}.case_(sound([]meaning.Module{mod("a", meaning.Operator, p{"output": 0.0}), mod("b", meaning.Operator, p{"output": 0.0}), held, amp}, way("r", "held", "amp.level", 1, "unipolar")), "r"),
		figures{"r~a": 1, "r~b": 1}, []string{"r"}, "each operator"},
	use{"a second oscillator as operator has the envelope of the first", targetOf{have: map[meaning.Kind]int{meaning.Operator: 2}}.case_(sound([]meaning.Module{mod("a", meaning.Operator, p{"output": 0.0}), osc("o", 0), held}, madeFor("r", way("r~a", "held", "a.level", 1, "unipolar"))), "o"),
		figures{"o~.output": -3, "r~o~": 1}, []string{"o"}, "by an operator"},
)

// What a low-pass that the target has not lets through is made by the index of a modulation: the further it is open, the higher, up to that of the bare wave; what opens it moves the
// modulator instead, and rests where the filter did.
func TestFilterByIndex(t *testing.T) {
	saw := mod("o", meaning.Osc, p{"wave": "saw", "interval": 0.0, "level": -3.0})
	try := func(cutoff, sustain float64, opens bool, lost ...string) []Recast {
		list := []meaning.Module{saw, mod("filter", meaning.Filter, p{"mode": "lowpass", "poles": 4, "cutoff": cutoff, "resonance": 0.0})}
		var ways []meaning.Route
		if opens {
			list = append(list, mod("env", meaning.Env, p{"attack": 0.001, "decay": 0.3, "sustain": sustain}))
			ways = append(ways, way("r", "env", "filter.cutoff", 3, "unipolar"))
		}
		return asOperator.Try(targetOf{have: map[meaning.Kind]int{meaning.Operator: 2, meaning.Env: 1}}.case_(sound(list, ways...), append(lost, "o")...))
	}
	index := func(r Recast) float64 { return math.Pow(10, get(r.Meaning.Module("o~by"), meaning.PLevel)/20) }
	bare := try(800, 0, false)
	if len(bare) != 2 {
		t.Fatalf("%d ways where no filter is lost", len(bare))
	}
	last := 0.0
	for _, cutoff := range []float64{500, 800, 1600, 4000, 19000} {
		got := try(cutoff, 0, false, "filter")
		if len(got) != 3 {
			t.Fatalf("%d ways with a filter at %g Hz", len(got), cutoff)
		}
		if i := index(got[2]); i < last {
			t.Errorf("at %g Hz the index is %.3f of the most, below it %.3f", cutoff, i, last)
		} else {
			last = i
		}
	}
	if math.Abs(last-index(bare[1])) > 0.02 {
		t.Errorf("wide open the index is %.3f of the most, of the bare wave %.3f", last, index(bare[1]))
	}
	rest := -1.0
	for _, sustain := range []float64{0, 0.3, 0.6, 1} {
		got := try(150, sustain, true, "filter", "r")
		x := got[len(got)-1]
		if len(got) != 3 || x.Meaning.Route("r~") == nil || x.Meaning.Route("r~").To[0] != "o~by.level" || x.Map["r.depth"] != "r~.depth" {
			t.Fatalf("sustain %g: %d ways, %+v", sustain, len(got), x)
		}
		s := get(x.Meaning.Module("env~"), meaning.PSustain)
		if s < rest || sustain == 1 && s != 1 || sustain == 0 && s > 0.2 {
			t.Errorf("an envelope that rests at %g rests at %g at the modulator, one below it at %g", sustain, s, rest)
		}
		rest = s
	}
	if got := try(60, 0, false, "filter"); len(got) != 2 {
		t.Errorf("a filter that lets less than the first harmonic through: %d ways", len(got))
	}
}
