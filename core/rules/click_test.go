package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&click,
	// 12 dB down: two octaves by half the decibels, 10^(-12/40)
	use{"a click is a fall of the pitch", targetOf{}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{}), mod("n", meaning.Noise, p{"level": -12.0}), mod("ce", meaning.Env, p{"decay": 0.013, "sustain": 0.0}), osc("o", 0)}, way("r", "ce", "n.level", 1, "unipolar")), "n"),
		figures{"r~": 2400 * math.Pow(10, -0.3)}, []string{"n"}, "13 ms"},
)
