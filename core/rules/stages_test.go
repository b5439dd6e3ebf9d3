package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

var _ = used(&stages,
	use{"hold and delay go into decay and attack", targetOf{}.case_(sound([]meaning.Module{mod("e", meaning.Env, p{"delay": 0.2, "attack": 0.1, "hold": 0.3, "decay": 0.4, "sustain": 0.5})})),
		figures{"e~.attack": 0.3, "e~.decay": 0.7}, nil, "delay of 200 ms added to the attack"},
)

// One decay lies between the two it stands for, and is the first where the second is not there: a straight one falls at first as an exponential of about its own time does.
func TestOneDecay(t *testing.T) {
	for _, x := range []struct {
		first, level, second, sustain float64
		linear                        bool
	}{{0.3, 0.3, 2, 0, false}, {0.6, 0.3, 1.9, 0.05, true}, {1.7, 0.7, 4.5, 0.4, true}, {0.1, 0.9, 3, 0.2, false}} {
		got := oneDecay(x.first, x.level, x.second, x.sustain, x.linear)
		if got < x.first/2 || got > 2*(x.first+x.second) {
			t.Errorf("%+v: one decay of %v", x, got)
		}
		if more := oneDecay(x.first, x.level, 2*x.second, x.sustain, x.linear); more < got {
			t.Errorf("%+v: a longer second decay makes it shorter, %v", x, more)
		}
	}
	for _, first := range []float64{0.05, 0.3, 1} {
		if got := oneDecay(first, 0.2, 0.01, 0.2, false); math.Abs(math.Log2(got/first)) > 0.1 {
			t.Errorf("a decay of %v that stays where it comes to: %v", first, got)
		}
	}
}
