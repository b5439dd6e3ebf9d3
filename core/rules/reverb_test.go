package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&reverb,
	// Schroeder: g = 10^(-3 t/T60) for echoes of t = 67 ms and T60 = 2 s
	use{"a reverb of 2 s is a delay that dies as fast", targetOf{have: map[meaning.Kind]int{meaning.Delay: 1}}.case_(sound([]meaning.Module{mod("r", meaning.Reverb, p{"t60": 2.0, "mix": 0.5})}), "r"),
		figures{"r~.feedback": math.Pow(10, -3*0.067/2), "r~.time": 0.067}, []string{"r"}, "67 ms"},
)
