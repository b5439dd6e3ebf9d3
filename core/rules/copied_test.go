package rules

import "glossator/core/meaning"

var _ = used(&copied,
	use{"the envelope of filter and amplifier on two", targetOf{have: map[meaning.Kind]int{meaning.Env: 2}}.case_(sound([]meaning.Module{cut, held, amp}, way("a", "held", "amp.level", 1, "unipolar"), way("f", "held", "filter.cutoff", 2, "unipolar")), "f"),
		figures{"f~": 2, "f~alike.decay": 0.1, "f~alike.sustain": 0.9, "a": 1}, nil, "set alike on a second one"},
	use{"an LFO that vibrates and sweeps on two", targetOf{have: map[meaning.Kind]int{meaning.LFO: 2}}.case_(sound([]meaning.Module{cut, lfo, osc("o", 0)}, way("v", "lfo", "o.interval", 20, "bipolar"), way("f", "lfo", "filter.cutoff", 1, "bipolar")), "v"),
		figures{"v~": 20, "v~alike.rate": 2, "f": 1}, nil, "lfo is set alike"},
)
