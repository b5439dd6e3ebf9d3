package rules

import (
	"testing"

	"glossator/core/meaning"
)

// swing is an LFO that moves a filter for good.
func swing(more ...meaning.Route) *meaning.Meaning {
	return sound([]meaning.Module{mod("l", meaning.LFO, p{"rate": 5.0, "wave": "sine"}), cut}, append(more, way("r", "l", "filter.cutoff", 1, "bipolar"))...)
}

var _ = used(&heldWheel,
	use{"an LFO that only the wheel brings in", targetOf{}.case_(swing(), "r"), figures{"r~": 1}, []string{"r"}, "by the wheel, which is left up"})

// The wheel has to be free, and left where it is for one thing.
func TestTheWheelIsLeftUpOnlyWhereItIsFree(t *testing.T) {
	byWheel := way("w", "l", "filter.resonance", 0.2, "bipolar")
	byWheel.Via = "wheel"
	up := swing()
	up.Hands = &meaning.Hands{Wheel: 1}
	once := swing()
	word(once.Module("l"), meaning.PCycle, "once")
	for _, x := range []struct {
		name string
		c    *Case
		want int
	}{
		{"free", targetOf{}.case_(swing(), "r"), 1},
		{"two ways: each, and both", targetOf{}.case_(swing(way("q", "l", "filter.resonance", 0.1, "bipolar")), "r", "q"), 3},
		{"the wheel brings in something else", targetOf{}.case_(swing(byWheel), "r"), 0},
		{"the wheel moves something", targetOf{}.case_(swing(way("w", "wheel", "filter.cutoff", 1, "unipolar")), "r"), 0},
		{"it is left up already", targetOf{}.case_(up, "r"), 0},
		{"the patch has it up", withWheel(targetOf{}.case_(swing(), "r"), 0.4), 0},
		{"it runs once", targetOf{}.case_(once, "r"), 0},
		{"nothing is lost", targetOf{}.case_(swing()), 0},
	} {
		got := heldWheel.Try(x.c)
		if len(got) != x.want {
			t.Errorf("%s: %d ways, want %d", x.name, len(got), x.want)
		}
		for _, r := range got {
			if h := r.Meaning.Hands; h == nil || h.Wheel != 1 || x.c.Meaning.Hands != nil {
				t.Errorf("%s: the hands are %+v", x.name, h)
			}
		}
	}
}
