package rules

import "glossator/core/meaning"

var _ = used(&byHand,
	use{"the wheel's hand goes to the knob", targetOf{}.case_(sound([]meaning.Module{cut}, way("r", "wheel", "filter.cutoff", 2, "unipolar")), "r"),
		figures{"filter.cutoff": 500}, []string{"r"}, "by hand"},
)
