package rules

import "glossator/core/meaning"

var _ = used(&envelopeLFO,
	use{"a saw that runs once at 2 Hz falls in half a second", targetOf{}.case_(sound([]meaning.Module{lfo, cut}, way("r", "lfo", "filter.cutoff", 2, "bipolar")), "lfo"),
		figures{"lfo~.decay": 0.5, "lfo~.sustain": 0}, []string{"lfo"}, "500 ms"},
	use{"one that moves its own rate", targetOf{}.case_(sound([]meaning.Module{lfo, cut}, way("r", "lfo", "filter.cutoff", 2, "bipolar"), way("own", "lfo", "lfo.rate", 1, "bipolar")), "lfo"),
		figures{"lfo~.decay": 0.5, "lfo~.sustain": 0}, []string{"lfo", "own"}, "500 ms"},
	use{"an envelope of a quarter second is an LFO of 4 Hz", targetOf{}.case_(sound([]meaning.Module{env, cut}, way("r", "env", "filter.cutoff", 2, "unipolar")), "env"),
		figures{"env~.rate": 4}, []string{"env"}, "250 ms"},
)
