package rules

import "glossator/core/meaning"

var _ = used(&bands,
	use{"a band-pass is two filters", targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, words: []string{"filter.mode=lowpass", "filter.mode=highpass"}}.case_(sound([]meaning.Module{mod("f", meaning.Filter, p{"mode": "bandpass", "cutoff": 900.0, "track": 0.5})})),
		figures{"f~.cutoff": 900, "f~high.cutoff": 900, "f~high.track": 0.5}, nil, "900 Hz"},
)
