package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&pwm,
	// a width that moves 20 % either way at 1 Hz as a triangle drifts 0.8 of a cycle a second: 6.3 ct at 220 Hz
	use{"a moving width is unison", targetOf{params: []string{"osc.unison"}}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.0}), osc("o", 0)}, way("r", "lfo", "o.width", 0.2, "bipolar")), "r"),
		figures{"o~.spread": 1200 * math.Log2(220.8/220), "o~.unison": 2}, []string{"r"}, "+6.3 ct"},
	use{"a moving width is a chorus", targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.5}), osc("o", 0)}, way("r", "lfo", "o.width", 0.2, "bipolar")), "r"),
		figures{"r~chorus.rate": 1.5}, []string{"r"}, "chorus"},
	use{"a width that moves over bass is a chorus in the middle", targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}, params: []string{"chorus.stereo"}}.case_(sound([]meaning.Module{mod("lfo", meaning.LFO, p{"rate": 1.5}), osc("o", -1200)}, way("r", "lfo", "o.width", 0.2, "bipolar")), "r"),
		figures{"r~chorus.stereo": 0}, []string{"r"}, "the low oscillator left in the middle"},
)
