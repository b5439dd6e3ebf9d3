package rules

import "glossator/core/meaning"

var _ = used(&filterFM,
	// an oscillator an octave below middle C: 130.8 Hz
	use{"an oscillator at the filter is a fast LFO", targetOf{have: map[meaning.Kind]int{meaning.LFO: 1}}.case_(sound([]meaning.Module{osc("o", -1200), cut}, way("r", "o", "filter.cutoff", 1, "bipolar")), "r"),
		figures{"r~lfo.rate": 130.8128, "r~lfo.key": 1, "r~": 1}, []string{"r"}, "middle C"},
)
