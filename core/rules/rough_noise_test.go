package rules

import "glossator/core/meaning"

var _ = used(&roughNoise,
	use{"fast steps by noise", targetOf{have: map[meaning.Kind]int{meaning.Noise: 1}}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 30.0, "wave": "sample and hold"}), cut}, way("r", "lfo", "filter.cutoff", 1, "bipolar")), "lfo"),
		figures{"lfo~.level": -60, "r": 1}, []string{"lfo"}, "noise moves"},
)
