package rules

import "glossator/core/meaning"

var _ = used(&keyRate,
	use{"a rate that follows the key by a route", targetOf{}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 5.0, "key": 1.0})})),
		figures{"lfo~key": 1}, nil, "100 %"},
)
