package rules

import "glossator/core/meaning"

// both is a route that moves the levels of two oscillators at once.
func both() meaning.Route {
	r := way("r", "lfo", "a.level", 0.4, "bipolar")
	r.To = append(r.To, "b.level")
	return r
}

var _ = used(&split,
	use{"a way for each", targetOf{}.case_(sound([]meaning.Module{osc("a", 0), osc("b", 700), lfo}, both()), "r"), figures{"r~": 0.4, "r~split2": 0.4}, []string{"r"}, "a way of its own"},
	use{"one of them alone", targetOf{}.case_(sound([]meaning.Module{osc("a", 0), osc("b", 700), lfo}, both()), "r"), figures{"r~": 0.4}, []string{"r", "r~split2"}, "alone"},
)
