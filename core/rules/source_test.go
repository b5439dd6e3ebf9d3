package rules

import "glossator/core/meaning"

var _ = used(&source,
	use{"pressure becomes the wheel", targetOf{}.case_(sound([]meaning.Module{cut}, way("r", "aftertouch", "filter.cutoff", 1, "unipolar")), "r"),
		figures{"r~": 1}, []string{"r"}, "played by the wheel"},
)
