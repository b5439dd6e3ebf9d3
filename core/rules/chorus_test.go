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
)
