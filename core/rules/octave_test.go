package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&octave,
	// 2400 ct asked for, 1200 ct the most there is: a key an octave up, and a filter that follows half
	// of the keys half an octave down
	use{"out of the footages, an octave up the keyboard", targetOf{reached: map[string]float64{"o1.interval": 1200, "o2.interval": 0}}.case_(sound([]meaning.Module{osc("o1", 2400), osc("o2", 0), mod("f", meaning.Filter, p{"mode": "lowpass", "cutoff": 800.0, "track": 0.5})})),
		figures{"o1~.interval": 1200, "o2~.interval": -1200, "f~.cutoff": 800 / math.Sqrt2}, nil, "play one octave higher"},
	// 2400 ct asked for, 1200 ct the most there is: 61 keys from C2 to C7, one octave up
	use{"out of the footages, it says which keys still play", targetOf{reached: map[string]float64{"o1.interval": 1200}}.case_(sound([]meaning.Module{osc("o1", 2400)})),
		figures{"o1~.interval": 1200}, nil, "of 61 keys from C2 to C7 a part from C2 to C6 still plays"},
)
