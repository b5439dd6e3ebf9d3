package rules

import (
	"testing"

	"glossator/core/meaning"
)

// four is a chord memory of four notes beside the key's, one of them an octave.
var four = p{"chord": "on", "chord2": 700.0, "chord3": 1200.0, "chord4": 1600.0, "chord5": 2300.0}

var _ = used(&chord,
	use{"two notes of a chord, one oscillator to spare", targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{"chord": "on", "chord2": 400.0, "chord3": 700.0}), osc("o", 0)})),
		figures{"o~chord2.interval": 400}, nil, "one note of the chord played by oscillators at their intervals, one note left out"},
	use{"an octave comes last: the first note has it among its harmonics", targetOf{have: map[meaning.Kind]int{meaning.Osc: 3}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, four), osc("o", -1200)})),
		figures{"o~chord2.interval": -500, "o~chord4.interval": 400}, nil, "2 notes of the chord"},
	use{"one that doubles the note plays another of the chord, as loud as the first", targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, four), osc("o", 0), mod("second", meaning.Osc, p{"wave": "pulse", "interval": 7.0, "level": -12.0})})),
		figures{"second~.interval": 700, "second~.level": -3}, []string{"second"}, "second in place of the note that it doubles, 3 notes left out"},
	use{"what is spare first, then what doubles", targetOf{have: map[meaning.Kind]int{meaning.Osc: 3}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, four), osc("o", 0), mod("second", meaning.Osc, p{"wave": "pulse", "interval": 7.0, "level": 0.0})})),
		figures{"o~chord2.interval": 700, "second~.interval": 1600, "second~.level": 0}, []string{"second"}, "2 notes of the chord"},
)

// The more notes there are, the less it costs, and with all of them no oscillator has to give up the note that it doubles; a chord that is off and a target with a chord memory of its own are left.
func TestChordByOscillators(t *testing.T) {
	voice := mod("v", meaning.Voice, four)
	second := mod("second", meaning.Osc, p{"wave": "saw", "interval": 7.0, "level": -3.0})
	last := 1e9
	for n := 2; n <= 7; n++ {
		got := chord.Try(targetOf{have: map[meaning.Kind]int{meaning.Osc: n}}.case_(sound([]meaning.Module{voice, osc("o", 0), second})))
		if want := map[bool]int{true: 1, false: 2}[n == 2 || n >= 6]; len(got) != want {
			t.Fatalf("%d oscillators: %d ways, want %d", n, len(got), want)
		}
		if n >= 4 && n <= 6 && got[0].Penalty >= last {
			t.Errorf("%d oscillators: it costs %.2f, with one less %.2f", n, got[0].Penalty, last)
		}
		last = got[0].Penalty
		for _, r := range got {
			if left := r.Meaning.Module(r.Moved["v"]); left == nil || len(left.Chord()) != 0 {
				t.Errorf("%d oscillators: the chord is still asked for: %+v", n, left)
			}
		}
	}
	plain := mod("v", meaning.Voice, p{"chord": "off", "chord2": 700.0})
	for name, c := range map[string]*Case{
		"a chord that is off":  targetOf{have: map[meaning.Kind]int{meaning.Osc: 4}}.case_(sound([]meaning.Module{plain, osc("o", 0)})),
		"a target that has it": targetOf{have: map[meaning.Kind]int{meaning.Osc: 4}, params: []string{"voice.chord"}}.case_(sound([]meaning.Module{voice, osc("o", 0)})),
		"nothing to play it":   targetOf{have: map[meaning.Kind]int{meaning.Osc: 1}}.case_(sound([]meaning.Module{voice, osc("o", 0)})),
	} {
		if got := chord.Try(c); len(got) != 0 {
			t.Errorf("%s: %s", name, got[0].Text)
		}
	}
}
