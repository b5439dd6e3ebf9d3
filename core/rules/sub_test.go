package rules

import "glossator/core/meaning"

var _ = used(&sub,
	use{"an oscillator an octave below is a sub", targetOf{have: map[meaning.Kind]int{meaning.Sub: 1}}.case_(sound([]meaning.Module{osc("o1", 0), osc("o2", -1200)}), "o2"),
		figures{"o2~.interval": -1200, "o2~.level": -3}, []string{"o2"}, "sub oscillator"},
	use{"a sub is an oscillator", targetOf{}.case_(sound([]meaning.Module{mod("s", meaning.Sub, p{"interval": -1200.0, "level": -6.0})}), "s"),
		figures{"s~.interval": -1200, "s~.level": -6}, []string{"s"}, "by an oscillator"},
)
