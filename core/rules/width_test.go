package rules

import "glossator/core/meaning"

var _ = used(&width,
	use{"width is unison apart, not of the bass", targetOf{params: []string{"osc.stereo"}}.case_(sound([]meaning.Module{mod("w", meaning.Widener, p{"width": 0.6}), mod("o", meaning.Osc, p{"unison": 3, "interval": 0.0}), mod("b", meaning.Osc, p{"unison": 2, "interval": -1200.0})}), "w"),
		figures{"o~.stereo": 0.6, "b.interval": -1200}, []string{"w"}, "in the middle"},
	use{"width is voices apart", targetOf{params: []string{"amp.spread"}}.case_(sound([]meaning.Module{mod("w", meaning.Widener, p{"width": 0.6}), amp}), "w"),
		figures{"amp~.spread": 0.6}, []string{"w"}, "60 %"},
)
