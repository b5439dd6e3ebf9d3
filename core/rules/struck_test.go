package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

// scaledEnv is an envelope that velocity scales by half, and that is held at 40 %.
var scaledEnv = mod("e", meaning.Env, p{"decay": 0.3, "sustain": 0.4, "velocity": 0.5})

var _ = used(&struck,
	use{"a level is scaled as before", targetOf{}.case_(sound([]meaning.Module{scaledEnv, amp}, way("r", "e", "amp.level", 1, "unipolar"))),
		figures{"e~.velocity": 0, "r~velocity": 0.5, "r": 1}, nil, "velocity moves what e moves"},
	// at a velocity of 100 the envelope has 0.5 + 0.5 * 100/127 of its depth; the rest is on average (0.4 + 0.6/3) of half of it
	use{"a cutoff is moved beside it", targetOf{}.case_(sound([]meaning.Module{scaledEnv, cut}, way("r", "e", "filter.cutoff", 4, "unipolar"))),
		figures{"r~": 4 * (0.5 + 0.5*100/127), "r~velocity": 1.2, "filter~.cutoff": 500 * math.Exp2(-1.2*100/127)}, []string{"r"}, "velocity moves what e moves"},
	use{"a route becomes the envelope's own", targetOf{params: []string{"env.velocity"}}.case_(sound([]meaning.Module{held, amp}, way("r", "held", "amp.level", 1, "unipolar"), way("v", "velocity", "amp.level", 0.7, "unipolar")), "v"),
		figures{"held~.velocity": 0.7}, []string{"v"}, "velocity scales held"},
)

// Not where the target's envelopes have it, or velocity moves the same already; nor where the envelope moves something else too.
func TestStruckHoldsBack(t *testing.T) {
	one, v := way("r", "e", "amp.level", 1, "unipolar"), way("v", "velocity", "amp.level", 0.7, "unipolar")
	plain := mod("e", meaning.Env, p{"decay": 0.3, "sustain": 0.4})
	for name, c := range map[string]*Case{
		"it has it":         targetOf{params: []string{"env.velocity"}}.case_(sound([]meaning.Module{scaledEnv, amp}, one)),
		"velocity is there": targetOf{}.case_(sound([]meaning.Module{scaledEnv, amp}, one, v)),
		"nothing is lost":   targetOf{params: []string{"env.velocity"}}.case_(sound([]meaning.Module{plain, amp}, one, v)),
		"moves more":        targetOf{params: []string{"env.velocity"}}.case_(sound([]meaning.Module{plain, amp, cut}, one, v, way("f", "e", "filter.cutoff", 2, "unipolar")), "v"),
	} {
		if got := struck.Try(c); len(got) > 0 {
			t.Errorf("%s: %s", name, got[0].Text)
		}
	}
}
