package rules

import "glossator/core/meaning"

var _ = used(&asOperator,
	use{"an oscillator that does not say how loud it is", targetOf{have: map[meaning.Kind]int{meaning.Operator: 1}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "triangle", "interval": 0.0})}), "o"),
		figures{"o~.output": 0, "o~.level": 0}, nil, "is played by an operator"},
	use{"an oscillator is an operator", targetOf{have: map[meaning.Kind]int{meaning.Operator: 1}}.case_(sound([]meaning.Module{osc("o", -1200)}), "o"),
		figures{"o~.interval": -1200, "o~.output": -3}, []string{"o"}, "by an operator"},
	// the odd harmonics of a square come nearest by a modulator an octave above: of J0..J4 at 1.4, by a search beside this
	use{"a square by an operator that another modulates", targetOf{have: map[meaning.Kind]int{meaning.Operator: 2}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "pulse", "interval": 0.0, "level": -3.0})}), "o"),
		figures{"o~.interval": 0, "o~.output": -3, "o~by.interval": 1200, "o~by.level": -7.0201, "o~index": 1}, []string{"o"}, "another one modulates"},
	use{"the amplifier's envelope moves each operator", targetOf{}.case_(sound([]meaning.Module{mod("a", meaning.Operator, p{"output": 0.0}), mod("b", meaning.Operator, p{"output": 0.0}), held, amp}, way("r", "held", "amp.level", 1, "unipolar")), "r"),
		figures{"r~a": 1, "r~b": 1}, []string{"r"}, "each operator"},
	use{"a second oscillator as operator has the envelope of the first", targetOf{have: map[meaning.Kind]int{meaning.Operator: 2}}.case_(sound([]meaning.Module{mod("a", meaning.Operator, p{"output": 0.0}), osc("o", 0), held}, madeFor("r", way("r~a", "held", "a.level", 1, "unipolar"))), "o"),
		figures{"o~.output": -3, "r~o~": 1}, []string{"o"}, "by an operator"},
)
