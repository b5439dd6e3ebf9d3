package rules

import (
	"testing"

	"glossator/core/meaning"
)

// echo is a delay that moves.
func echo(more p) meaning.Module {
	ps := p{"time": 0.012, "feedback": 0.1, "mix": 0.5, "depth": 0.002, "rate": 0.5}
	for name, v := range more {
		if ps[name] = v; v == nil {
			delete(ps, name)
		}
	}
	return mod("d", meaning.Delay, ps)
}

var _ = used(&movedDelay,
	use{"a short delay that moves is a chorus of one voice", targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1, meaning.Delay: 0}}.case_(sound([]meaning.Module{echo(nil)}), "d"),
		figures{"d~.delay": 0.012, "d~.depth": 0.002, "d~.rate": 0.5, "d~.voices": 1, "d~.mix": 0.5, "d~.feedback": 0.1}, []string{"d"}, "a chorus"},
	use{"its delay cannot be moved here, and there is a chorus", targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1, meaning.Delay: 1}}.case_(sound([]meaning.Module{echo(nil)})),
		figures{"d~.delay": 0.012, "d~.depth": 0.002}, []string{"d"}, "a chorus"},
	use{"with feedback it is a flanger, which has the two in equal shares", targetOf{have: map[meaning.Kind]int{meaning.Flanger: 1}}.case_(sound([]meaning.Module{echo(p{"feedback": 0.7, "time": 0.004, "mix": 0.3})}), "d"),
		figures{"d~.delay": 0.004, "d~.feedback": 0.7, "d~.mix": 0.6}, []string{"d"}, "a flanger"},
	use{"rate and depth by one modulation", targetOf{have: map[meaning.Kind]int{meaning.Delay: 1}, params: []string{"delay.wobble"}}.case_(sound([]meaning.Module{echo(nil)})),
		figures{"d~.wobble": 0.5, "d~.time": 0.012}, []string{"d"}, "whose rate is its own"},
	use{"and the other way", targetOf{have: map[meaning.Kind]int{meaning.Delay: 1}, params: []string{"delay.depth", "delay.rate"}}.case_(sound([]meaning.Module{echo(p{"depth": nil, "rate": nil, "wobble": 0.25})})),
		figures{"d~.depth": 0.001, "d~.rate": 0.7}, []string{"d"}, "1 ms at 0.7 Hz"},
)

// Echoes that can be told apart are no chorus, and what has a way of its own needs none.
func TestOnlyAShortDelayIsAChorus(t *testing.T) {
	all := targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1, meaning.Flanger: 1}}
	own := targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1, meaning.Delay: 1}, params: []string{"delay.depth", "delay.rate"}}
	for _, x := range []struct {
		name string
		c    *Case
		want int
	}{
		{"short", all.case_(sound([]meaning.Module{echo(nil)}), "d"), 2},
		{"an echo", all.case_(sound([]meaning.Module{echo(p{"time": 0.3})}), "d"), 0},
		{"it does not move", all.case_(sound([]meaning.Module{echo(p{"depth": nil})}), "d"), 0},
		{"it rings", all.case_(sound([]meaning.Module{echo(p{"feedback": 0.9, "time": 0.03})}), "d"), 0},
		{"it has its own", own.case_(sound([]meaning.Module{echo(nil)})), 0},
		{"no chorus is left", targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}}.case_(sound([]meaning.Module{echo(nil), mod("c", meaning.Chorus, p{"mix": 0.5})}), "d"), 0},
	} {
		if got := movedDelay.Try(x.c); len(got) != x.want {
			t.Errorf("%s: %d ways, want %d", x.name, len(got), x.want)
		}
	}
}
