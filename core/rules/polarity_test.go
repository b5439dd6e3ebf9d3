package rules

import "glossator/core/meaning"

var _ = used(&polarity,
	use{"both ways by 1 oct is up by 2 oct from an octave below", targetOf{}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.0}), cut}, way("r", "lfo", "filter.cutoff", 1, "bipolar")), "r"),
		figures{"filter~.cutoff": 250, "r~": 2}, []string{"r"}, "the low end"},
	use{"up by 2 oct is both ways by 1 from an octave above", targetOf{}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.0}), cut}, way("r", "lfo", "filter.cutoff", 2, "unipolar")), "r"),
		figures{"filter~.cutoff": 1000, "r~": 1}, []string{"r"}, "the middle"},
)
