package rules

import "glossator/core/meaning"

var _ = used(&chord,
	use{"two notes of a chord, one oscillator to spare", targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{"chord": "on", "chord2": 400.0, "chord3": 700.0}), osc("o", 0)})),
		figures{"o~chord2.interval": 400}, nil, "one note of the chord played by oscillators at their intervals, one note left out"},
)
