package rules

import "glossator/core/meaning"

var _ = used(&notch,
	// the two at one cutoff and one Q add to (1 + s^2)/D
	use{"a notch is a low-pass and a high-pass beside one another", targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, words: []string{"filter.mode=lowpass", "filter.mode=highpass", "filter.routing=parallel"}}.case_(sound([]meaning.Module{env, mod("f", meaning.Filter, p{"mode": "notch", "cutoff": 700.0, "resonance": 0.3})}, way("r", "env", "f.cutoff", 1, "unipolar"))),
		figures{"f~.cutoff": 700, "f~high.cutoff": 700, "f~.resonance": 0.3, "f~high.resonance": 0.3, "f~.poles": 2, "r~high": 1}, nil, "700 Hz"},
)
