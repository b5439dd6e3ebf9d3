package rules

import "glossator/core/meaning"

var _ = used(&gate,
	use{"a gate is an envelope that stays up", targetOf{}.case_(sound([]meaning.Module{amp}, way("g", "gate", "amp.level", 1, "unipolar")), "g"),
		figures{"g~env.sustain": 1, "g~env.attack": 0.002}, nil, "full sustain"},
)
