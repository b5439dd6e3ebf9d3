package rules

import "glossator/core/meaning"

var _ = used(&sync,
	use{"sync by modulation", targetOf{params: []string{"osc.fm"}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "saw", "sync": "osc1", "level": 0.0})})),
		figures{"o~.fm": 0.4}, nil, "no sync"},
)
