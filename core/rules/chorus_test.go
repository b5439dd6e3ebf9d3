package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&chorus,
	use{"a chorus is a flanger without feedback", targetOf{have: map[meaning.Kind]int{meaning.Flanger: 1}}.case_(sound([]meaning.Module{mod("c", meaning.Chorus, p{"rate": 0.5, "depth": 0.002, "mix": 0.4, "feedback": 0.3})}), "c"),
		figures{"c~.feedback": 0, "c~.rate": 0.5, "c~.mix": 0.4}, []string{"c"}, "one voice"},
	// 2 pi 0.5 Hz 2 ms: the pitch is bent by 0.63 %
	use{"a chorus is unison as wide as it bent the pitch", targetOf{params: []string{"osc.unison"}}.case_(sound([]meaning.Module{mod("c", meaning.Chorus, p{"rate": 0.5, "depth": 0.002, "mix": 0.4}), osc("o", 0)}), "c"),
		figures{"o~.spread": 1200 * math.Log2(1.0062832)}, []string{"c"}, "+10.8 ct"},
	use{"a chorus is a short delay that moves", targetOf{have: map[meaning.Kind]int{meaning.Delay: 1}, params: []string{"delay.depth", "delay.rate"}}.case_(sound([]meaning.Module{mod("c", meaning.Chorus, p{"rate": 0.5, "depth": 0.002, "delay": 0.009, "mix": 0.4})}), "c"),
		figures{"c~.time": 0.009, "c~.depth": 0.002, "c~.rate": 0.5, "c~.mix": 0.4, "c~.feedback": 0}, []string{"c"}, "a chorus of one voice"},
	use{"a flanger is a shorter one, by half its mix", targetOf{have: map[meaning.Kind]int{meaning.Delay: 1}, params: []string{"delay.wobble"}}.case_(sound([]meaning.Module{mod("c", meaning.Flanger, p{"rate": 0.5, "depth": 0.001, "feedback": -0.6, "mix": 0.8})}), "c"),
		figures{"c~.time": 0.001, "c~.wobble": 0.25, "c~.feedback": 0.6, "c~.mix": 0.4}, []string{"c"}, "a flanger"},
)
