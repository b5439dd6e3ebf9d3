package rules

import (
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// twoLines are two oscillators, each through an amplifier of its own that an envelope opens, and both through a third.
func twoLines() *meaning.Meaning {
	m := sound([]meaning.Module{osc("x", 0), osc("y", 700), mod("ax", meaning.Amp, p{"level": -1.0}), mod("ay", meaning.Amp, p{"level": -5.0}), mod("all", meaning.Amp, p{"level": -4.0}),
		mod("e1", meaning.Env, p{"decay": 2.0, "sustain": 0.5}), mod("e2", meaning.Env, p{"decay": 0.1, "sustain": 0.0})}, way("r1", "e1", "ax.level", 1, "unipolar"), way("r2", "e2", "ay.level", 1, "unipolar"))
	for _, e := range [][2]string{{"x", "ax"}, {"y", "ay"}, {"ax", "all"}, {"ay", "all"}, {"all", "out"}} {
		m.Audio = append(m.Audio, meaning.Edge{From: e[0], To: e[1]})
	}
	return m
}

var _ = used(&amps,
	use{"in a row", targetOf{}.case_(twoLines(), "all", "ay"), figures{"ax~.level": -5}, []string{"all"}, "in a row with ax"},
	use{"beside: at the source", targetOf{}.case_(twoLines(), "all", "ay"), figures{"y~.level": -8}, []string{"ay", "r2", "e2"}, "y at the level of -5 dB"},
	// its level of -3 dB and the amplifier's -5 are an amplitude of 0.398
	use{"beside: opened at the source", targetOf{moves: []string{"env osc.level"}}.case_(twoLines(), "all", "ay"), figures{"r2~y": q.Level(-8).Amplitude()}, []string{"ay", "r2"}, "y opened by e2"},
)

// An amplifier that is the only one, or that has its place, is left alone; the more the envelopes of two lines differ the more it costs that one goes.
func TestAmplifiersHoldBack(t *testing.T) {
	for name, c := range map[string]*Case{
		"all have a place": targetOf{}.case_(twoLines()),
		"the only one":     targetOf{}.case_(sound([]meaning.Module{osc("x", 0), amp}), "amp"),
		"none is left":     targetOf{}.case_(twoLines(), "ax", "ay", "all"),
	} {
		if got := amps.Try(c); len(got) > 0 {
			t.Errorf("%s: %s", name, got[0].Text)
		}
	}
	near := twoLines()
	near.Module("e2").Params = near.Module("e1").Params
	cost := func(m *meaning.Meaning) float64 {
		for _, r := range amps.Try(targetOf{}.case_(m, "all", "ay")) {
			if r.Meaning.Module("e2") == nil {
				return r.Penalty
			}
		}
		t.Fatal("no use without the envelope")
		return 0
	}
	if a, b := cost(near), cost(twoLines()); a >= b {
		t.Errorf("two envelopes alike cost %v, other ones %v", a, b)
	}
}
