package rules

import "glossator/core/meaning"

var _ = used(&colour,
	use{"brown noise is white noise through a low-pass of its own", targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, words: []string{"noise.to=filter 2", "noise.colour=white", "filter.mode=lowpass"}}.case_(sound([]meaning.Module{mod("n", meaning.Noise, p{"colour": "brown", "level": -12.0}), cut})),
		figures{"n~filter.cutoff": 100, "n~.level": -12}, nil, "nearly brown"},
)
