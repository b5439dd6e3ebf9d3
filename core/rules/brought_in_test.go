package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// hiss is noise at no level that an envelope, held at 40 %, brings in by half.
func hiss() *meaning.Meaning {
	n := mod("n", meaning.Noise, nil)
	n.Params = map[meaning.ParamName]meaning.Value{meaning.PLevel: {Quantity: q.OffOf(q.DimLevel)}}
	return sound([]meaning.Module{osc("o", 0), n, mod("e", meaning.Env, p{"decay": 0.3, "sustain": 0.4})}, way("r", "e", "n.level", 0.5, "unipolar"))
}

var _ = used(&broughtIn,
	// 0.4 and a third of the rest is 0.6 of the envelope, and half of that the level
	use{"noise that an envelope opens", targetOf{}.case_(hiss(), "r"), figures{"n~.level": 20 * math.Log10(0.3)}, []string{"r", "e"}, "n stays at"},
	use{"an echo that the wheel turns up", withWheel(targetOf{}.case_(sound([]meaning.Module{osc("o", 0), mod("d", meaning.Delay, p{"time": 0.3, "mix": 0.0})}, way("w", "wheel", "d.mix", 0.6, "unipolar")), "w"), 0.5),
		figures{"d~.mix": 0.3}, []string{"w"}, "d stays at"},
)

func withWheel(c *Case, at float64) *Case { c.Wheel = at; return c }

// Not what sounds anyway, what the wheel at rest does not bring in, or what can be brought in.
func TestBroughtInHoldsBack(t *testing.T) {
	heard := hiss()
	heard.Module("n").Params = mod("n", meaning.Noise, p{"level": -20.0}).Params
	for name, c := range map[string]*Case{
		"it sounds": targetOf{}.case_(heard, "r"), "it can be": targetOf{}.case_(hiss()),
		"at rest": withWheel(targetOf{}.case_(sound([]meaning.Module{mod("d", meaning.Delay, p{"time": 0.3, "mix": 0.0})}, way("w", "wheel", "d.mix", 0.6, "unipolar")), "w"), 0),
	} {
		if got := broughtIn.Try(c); len(got) > 0 {
			t.Errorf("%s: %s", name, got[0].Text)
		}
	}
}
