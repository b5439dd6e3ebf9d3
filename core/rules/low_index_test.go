package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&lowIndex,
	// Abramowitz & Stegun, table 9.1: J0(0.5) = 0.93847, J1(0.5) = 0.24227
	use{"little modulation is a ring modulator", targetOf{have: map[meaning.Kind]int{meaning.Ring: 1}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "sine", "fm": 0.5 / math.Pi, "level": -6.0})})),
		figures{"o~ring.level": -6 + 20*math.Log10(2*0.242268/0.938470), "o~.level": -6}, nil, "first sidebands"},
)
