package rules

var rack = Rule{ID: "outboard", Name: "Outboard rack",
	Needs: "an effect that the target leaves out or makes by other means, and an outboard rack that has it", Uses: "the effect of the rack, behind the target",
	Penalty: 0.2, Why: "it follows no key, envelope or velocity of the instrument, and is not kept in its memory", Source: "common practice, no source",
	says: func(l *Line) string {
		if l.Rack == "" {
			return ""
		}
		return "outside, on " + l.Rack
	}}
