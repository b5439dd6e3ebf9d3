package rules

import "glossator/core/meaning"

var _ = used(&sharedEnvelope,
	use{"one envelope for both", targetOf{}.case_(sound([]meaning.Module{env, held, cut, amp}, way("a", "held", "amp.level", 1, "unipolar"), way("f", "env", "filter.cutoff", 2, "unipolar")), "env"),
		figures{"held.decay": 0.1}, []string{"env"}, "held moves what env moved too"},
)
