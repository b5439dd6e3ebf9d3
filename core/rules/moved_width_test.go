package rules

import (
	"math"

	"glossator/core/meaning"
)

var _ = used(&movedWidth,
	use{"a pair is a width that moves", targetOf{have: map[meaning.Kind]int{meaning.LFO: 1}, params: []string{"osc.width"}, words: []string{"osc.wave=pulse"}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", 8)}), "o2"),
		// 8 ct at 220 Hz beat 1.019 times a second
		figures{"o2~lfo.rate": 220 * (math.Exp2(8.0/1200) - 1) / 1.4, "o1~.width": 0.5, "o2~width": 0.35}, []string{"o2"}, "beat against"},
	use{"a chorus is a width that moves as fast", targetOf{have: map[meaning.Kind]int{meaning.LFO: 1}, params: []string{"osc.width"}, words: []string{"osc.wave=pulse"}}.case_(sound([]meaning.Module{mod("c", meaning.Chorus, p{"rate": 0.7, "depth": 0.002, "mix": 0.5}), osc("o", 0)}), "c"),
		figures{"c~lfo.rate": 0.7, "o~.width": 0.5, "c~width": 0.35}, []string{"c"}, "as thick as"},
)
