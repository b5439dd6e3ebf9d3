package rules

import "glossator/core/meaning"

var _ = used(&voiceUnison,
	use{"unison of the voice on an instrument whose oscillators have it", targetOf{params: []string{"osc.unison"}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{"unison": 4.0, "spread": 20.0}), osc("a", 0), osc("b", 1200)})),
		figures{"a~.unison": 4, "a~.spread": 20, "b~.unison": 4, "b~.spread": 20}, []string{"v"}, "those of each oscillator"},
	use{"the other way round", targetOf{params: []string{"voice.unison"}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{}), mod("a", meaning.Osc, p{"wave": "saw", "interval": 0.0, "level": 0.0, "unison": 6.0, "spread": 35.0}), osc("b", 1200)})),
		figures{"v~.unison": 6, "v~.spread": 35}, []string{"a"}, "every oscillator is doubled so"},
	// half the spread to each side, and 3 dB less: two of equal power
	use{"with neither there, by a second oscillator", targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}}.case_(sound([]meaning.Module{mod("v", meaning.Voice, p{"unison": 2.0, "spread": 14.0}), mod("a", meaning.Osc, p{"wave": "saw", "interval": 100.0, "level": -2.0})})),
		figures{"a~.interval": 93, "a~2.interval": 107, "a~.level": -5}, []string{"v"}, "a second oscillator for each, 14 ct apart"},
)
