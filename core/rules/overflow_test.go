package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&overflow,
	// 6 dB: 1/(1 - a) = 1.995
	use{"drive by feedback", targetOf{have: map[meaning.Kind]int{meaning.Feedback: 1}}.case_(sound([]meaning.Module{mod("d", meaning.Drive, p{"gain": 6.0}), cut}), "d"),
		figures{"d~.level": 20 * math.Log10(1-math.Pow(10, -0.3))}, []string{"d"}, "turn the monitors and headphones down first"},
)
