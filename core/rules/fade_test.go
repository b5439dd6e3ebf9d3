package rules

import "glossator/core/meaning"

var _ = used(&fade,
	use{"a late LFO comes by the wheel", targetOf{}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 5.0, "delay": 0.5, "fade": 1.0}), cut}, way("r", "lfo", "filter.cutoff", 1, "bipolar"))),
		figures{"lfo~.rate": 5}, nil, "1.5 s after the note"},
	use{"a late LFO comes by an envelope", targetOf{have: map[meaning.Kind]int{meaning.Env: 2}}.case_(sound([]meaning.Module{env, mod("lfo", meaning.LFO, p{"rate": 5.0, "delay": 0.5, "fade": 1.0}), cut}, way("r", "lfo", "filter.cutoff", 1, "bipolar"))),
		figures{"lfo~fade.attack": 1, "lfo~fade.delay": 0.5, "lfo~fade.sustain": 1, "r~": 1}, nil, "an envelope that rises in 1.5 s"},
)
