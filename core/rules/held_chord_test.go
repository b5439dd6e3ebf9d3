package rules

import (
	"slices"
	"testing"

	"glossator/core/meaning"
)

var _ = used(&heldChord,
	use{"a chord on an instrument of many voices", targetOf{words: []string{"voice.mode=poly"}, reached: map[string]float64{"v.count": 8}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{"chord": "on", "chord2": 400.0, "chord3": 700.0}), osc("o", 0)})),
		nil, nil, "hold the chord yourself: with each key those at +4 st and +7 st"},
	use{"more notes than voices", targetOf{words: []string{"voice.mode=poly"}, reached: map[string]float64{"v.count": 2}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{"chord": "on", "chord2": 400.0, "chord3": 700.0}), osc("o", 0)})),
		nil, nil, "+4 st, one note left out for want of voices"},
)

// The hands hold what the chord memory held, and the memory is off; one voice holds no chord.
func TestTheHandsHoldTheChord(t *testing.T) {
	chord := func(voices float64) []Recast {
		m := sound([]meaning.Module{mod("v", meaning.Voice, p{"chord": "on", "chord2": 700.0, "chord3": 1200.0, "chord5": -500.0}), osc("o", 0)})
		return heldChord.try(targetOf{words: []string{"voice.mode=poly"}, reached: map[string]float64{"v.count": voices}}.case_(m))
	}
	for _, x := range []struct {
		voices float64
		keys   []int
		lost   int
	}{{8, []int{7, 12, -5}, 0}, {3, []int{7, 12}, 1}, {2, []int{7}, 2}, {1, nil, 0}} {
		got := chord(x.voices)
		if x.keys == nil {
			if len(got) > 0 {
				t.Errorf("%v voices: %+v", x.voices, got)
			}
			continue
		}
		if len(got) != 1 || got[0].Meaning.Hands == nil || !slices.Equal(got[0].Meaning.Hands.Chord, x.keys) {
			t.Fatalf("%v voices: %+v", x.voices, got)
		}
		lost := 0
		for _, name := range []meaning.ParamName{meaning.PChord2, meaning.PChord3, meaning.PChord5} {
			if _, kept := got[0].Map[meaning.Ref("v", name)]; !kept {
				lost++
			}
		}
		if v := got[0].Meaning.Module("v~"); lost != x.lost || v.Params[meaning.PChord].Name != "off" {
			t.Errorf("%v voices: %d notes without a line, the chord is %s", x.voices, lost, v.Params[meaning.PChord].Name)
		}
	}
}
