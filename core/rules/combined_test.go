package rules

import "glossator/core/meaning"

var _ = used(&combined,
	use{"two routes in one", targetOf{}.case_(sound([]meaning.Module{cut}, way("a", "velocity", "filter.cutoff", 1, "unipolar"), way("b", "velocity", "filter.cutoff", 0.5, "unipolar")), "b"),
		figures{"a~": 1.5}, []string{"b"}, "in one"},
)
