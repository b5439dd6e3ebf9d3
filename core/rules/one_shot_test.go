package rules

import (
	"maps"
	"math"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var _ = used(&envelopeLFO,
	use{"a saw that runs once at 2 Hz falls in half a second", targetOf{}.case_(sound([]meaning.Module{lfo, cut}, way("r", "lfo", "filter.cutoff", 2, "bipolar")), "lfo"),
		figures{"lfo~.decay": 0.5 * math.Ln10 / 2, "lfo~.sustain": 0}, []string{"lfo"}, "500 ms"},
	use{"one that moves its own rate", targetOf{}.case_(sound([]meaning.Module{lfo, cut}, way("r", "lfo", "filter.cutoff", 2, "bipolar"), way("own", "lfo", "lfo.rate", 1, "bipolar")), "lfo"),
		figures{"lfo~.decay": 0.5 * math.Ln10 / 2, "lfo~.sustain": 0}, []string{"lfo", "own"}, "500 ms"},
	use{"an envelope of a quarter second is an LFO of 4.6 Hz", targetOf{}.case_(sound([]meaning.Module{env, cut}, way("r", "env", "filter.cutoff", 2, "unipolar")), "env"),
		figures{"env~.rate": 4 * math.Ln10 / 2}, []string{"env"}, "217 ms"},
	use{"a straight fall is as long as its ramp", targetOf{}.case_(sound([]meaning.Module{mod("env", meaning.Env, p{"decay": 0.9, "sustain": 0.0, "curve": "linear"}), cut}, way("r", "env", "filter.cutoff", 2, "unipolar")), "env"),
		figures{"env~.rate": 1}, []string{"env"}, "1 s"},
	use{"a sustain is in what it moves: a quarter of two octaves in the cutoff, the rest in the depth", targetOf{}.case_(sound([]meaning.Module{mod("env", meaning.Env, p{"attack": 0.001, "decay": 0.25, "sustain": 0.25}), cut}, way("r", "env", "filter.cutoff", 2, "unipolar")), "env"),
		figures{"env~.rate": 4 * math.Ln10 / 2, "filter~.cutoff": 500 * math.Sqrt2, "r~": 1.5}, []string{"env", "filter", "r"}, "its sustain, 25 %, is in what it moves"},
)

// An envelope that has become an LFO does not become an envelope again: each such use would be another set to look at, and the same sound.
func TestOneShotGoesOneWay(t *testing.T) {
	c := targetOf{}.case_(sound([]meaning.Module{env, cut}, way("r", "env", "filter.cutoff", 2, "unipolar")), "env")
	first := envelopeLFO.try(c)
	if len(first) != 1 {
		t.Fatalf("%d uses", len(first))
	}
	if again := envelopeLFO.try(targetOf{}.case_(first[0].Meaning, "env~")); len(again) > 0 {
		t.Errorf("%s", again[0].Text)
	}
}

// What cannot be folded is not offered: what mostly stays, what swells, what is scaled by the hand, what opens a part that is shut, a table position.
func TestOneShotLeaves(t *testing.T) {
	fall := mod("env", meaning.Env, p{"attack": 0.001, "decay": 0.25, "sustain": 0.25})
	held, slow, late := mod("env", meaning.Env, p{"decay": 0.25, "sustain": 0.8}), mod("env", meaning.Env, p{"attack": 0.2, "decay": 0.25, "sustain": 0.25}), mod("env", meaning.Env, p{"delay": 0.3, "decay": 0.25, "sustain": 0.0})
	shut := cut
	shut.Params = maps.Clone(cut.Params)
	shut.Params[meaning.PCutoff] = meaning.Value{Quantity: q.OffOf(q.DimFrequency)}
	scaled := way("r", "env", "filter.cutoff", 2, "unipolar")
	scaled.Via = "wheel"
	plain := way("r", "env", "filter.cutoff", 2, "unipolar")
	for name, m := range map[string]*meaning.Meaning{
		"what mostly stays": sound([]meaning.Module{held, cut}, plain), "what swells": sound([]meaning.Module{slow, cut}, plain), "what is late": sound([]meaning.Module{late, cut}, plain),
		"what the wheel scales": sound([]meaning.Module{fall, cut}, scaled), "what is shut": sound([]meaning.Module{fall, shut}, plain),
		"a table position":       sound([]meaning.Module{fall, mod("osc", meaning.Osc, p{"wave": "table", "frame": 0.2})}, way("r", "env", "osc.frame", 0.5, "unipolar")),
		"one of two that cannot": sound([]meaning.Module{fall, cut, shut}, plain, way("s", "env", "nothing.level", 1, "unipolar")),
	} {
		if got := envelopeLFO.Try(targetOf{}.case_(m, "env")); len(got) != 0 {
			t.Errorf("%s: %s", name, got[0].Text)
		}
	}
}
