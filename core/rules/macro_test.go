package rules

import "glossator/core/meaning"

var _ = used(&macros,
	use{"a control at half of two octaves opens the filter one octave", targetOf{}.case_(sound([]meaning.Module{mod("m1", meaning.Macro, p{"value": 0.5}), cut}, way("r", "m1", "filter.cutoff", 2, "unipolar")), "m1"),
		figures{"filter~.cutoff": 1000}, []string{"m1"}, "50 %"},
)
