package rules

import "glossator/core/meaning"

var _ = used(&echoes,
	use{"a ping-pong is a plain delay", targetOf{words: []string{"delay.pattern=stereo"}}.case_(sound([]meaning.Module{mod("d", meaning.Delay, p{"time": 0.375, "feedback": 0.3, "cross": 0.2, "pattern": "cross"})})),
		figures{"d~.feedback": 0.5, "d~.time": 0.375}, nil, "no longer change sides"},
)
