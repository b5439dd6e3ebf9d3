package rules

import (
	"testing"

	"glossator/core/meaning"
)

var transposable = targetOf{params: []string{"voice.transpose"}}

func voiced(cents float64, mods ...meaning.Module) *meaning.Meaning {
	return sound(append([]meaning.Module{mod("v", meaning.Voice, p{"transpose": cents})}, mods...))
}

// 2400 ct asked for and lost: the whole up two octaves and the oscillators down as much is the same sum.
var _ = used(&transposed,
	use{"oscillators beyond the footages, by the transposition", transposable.case_(voiced(0, osc("o1", -2400), osc("o2", -1193)), "o1"),
		figures{"v~.transpose": -2400, "o1~.interval": 0, "o2~.interval": 1207}, nil, "transposed by -24 st"},
)

// A transposition that the target has not is set at the oscillators, before anything else: the sum of both stays what it was for each of them.
func TestTranspositionIsMoved(t *testing.T) {
	for _, cents := range []float64{-1200, 1200, 700} {
		m := voiced(cents, osc("o1", 0), osc("o2", -1193))
		list := Moved(targetOf{}.case_(m))
		if len(list) != 1 {
			t.Fatalf("%v ct: %d ways", cents, len(list))
		}
		n := list[0].Meaning
		for _, id := range []string{"o1", "o2"} {
			was, is := m.Module(id), n.Module(id+"~")
			if got, want := get(is, meaning.PInterval), get(was, meaning.PInterval)+cents; got != want {
				t.Errorf("%v ct: %s lies at %v, want %v", cents, id, got, want)
			}
		}
		if v := n.Module("v~"); get(v, meaning.PTranspose) != 0 {
			t.Errorf("%v ct: the transposition is still there", cents)
		}
	}
	if list := Moved(transposable.case_(voiced(-1200, osc("o1", 0)))); len(list) != 0 {
		t.Error("it is moved where the target has one")
	}
	if list := Moved(targetOf{}.case_(voiced(0, osc("o1", 0)))); len(list) != 0 {
		t.Error("nothing is moved")
	}
}
