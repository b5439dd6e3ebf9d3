package rules

import "glossator/core/meaning"

var _ = used(&send,
	use{"a send of 0 dB is a mix of half", targetOf{}.case_(sound([]meaning.Module{mod("s", meaning.Send, p{"level": 0.0, "to": "reverb"}), mod("r", meaning.Reverb, p{"t60": 2.0, "mix": 1.0})}), "s"),
		figures{"r~.mix": 0.5}, []string{"s"}, "50 %"},
)
