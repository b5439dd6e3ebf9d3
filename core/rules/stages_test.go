package rules

import "glossator/core/meaning"

var _ = used(&stages,
	use{"hold and delay go into decay and attack", targetOf{}.case_(sound([]meaning.Module{mod("e", meaning.Env, p{"delay": 0.2, "attack": 0.1, "hold": 0.3, "decay": 0.4, "sustain": 0.5})})),
		figures{"e~.attack": 0.3, "e~.decay": 0.7}, nil, "delay of 200 ms added to the attack"},
)
