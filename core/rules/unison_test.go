package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&unison,
	use{"a pair 10 ct apart is unison about its middle", targetOf{params: []string{"osc.unison"}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 10)}), "o2"),
		figures{"o1~.unison": 2, "o1~.spread": 10, "o1~.interval": 5}, []string{"o2"}, "beats as they did"},
	use{"unison of 12 ct is a pair, each 3 dB down", targetOf{}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "saw", "interval": 0.0, "unison": 4, "spread": 12.0, "level": 0.0})})),
		figures{"o~.interval": -6, "o~2.interval": 6, "o~.level": -3, "o~2.level": -3}, nil, "two oscillators"},
	// 8 ct at 220 Hz beat 1.02 times a second, and a chorus swings twice a period
	use{"a pair is a slow chorus", targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 8)}), "o2"),
		figures{"o2~chorus.rate": 220 * (math.Exp2(8.0/1200) - 1) / 2}, []string{"o2"}, "slow chorus"},
	// a chorus that a rule adds does not take bass to the sides, where the target's has a width; without bass it is as wide as ever
	use{"a pair over bass is a chorus in the middle", targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}, params: []string{"chorus.stereo"}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 8), osc("b", -1200)}), "o2"),
		figures{"o2~chorus.stereo": 0}, []string{"o2"}, "the low oscillator left in the middle"},
	use{"a pair without bass is a wide chorus", targetOf{have: map[meaning.Kind]int{meaning.Chorus: 1}, params: []string{"chorus.stereo"}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 8)}), "o2"),
		figures{"o2~chorus.stereo": 1}, []string{"o2"}, "beat"},
)
