package rules

import "glossator/core/meaning"

var _ = used(&comb,
	use{"a comb at 250 Hz is a delay of 4 ms", targetOf{have: map[meaning.Kind]int{meaning.Delay: 1}}.case_(sound([]meaning.Module{mod("f", meaning.Filter, p{"mode": "comb", "cutoff": 250.0, "feedback": 0.7})}), "f"),
		figures{"f~.time": 0.004, "f~.feedback": 0.7}, []string{"f"}, "one period"},
)
