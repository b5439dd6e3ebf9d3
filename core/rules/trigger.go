package rules

import "glossator/core/meaning"

var trigger = Rule{ID: "trigger", Name: "Retrigger and legato for one another by how it is played", Player: true,
	Needs: "envelopes that start with each note there and with the first of tied ones here, or the reverse", Uses: "the player's hands",
	Penalty: 0.15, Why: "what the envelope did by itself the player has to do", Source: "common practice, no source",
	says: func(l *Line) string {
		if l.Param.Name != meaning.PTrigger || l.From == nil || l.To == nil {
			return ""
		}
		switch there, here := named(l.From, meaning.PTrigger), named(l.To, meaning.PTrigger); {
		case there == here:
			return ""
		case here == "legato":
			return "tied notes do not start the envelopes again here: lift each key before the next"
		case there == "legato":
			return "every note starts the envelopes again here: where notes are tied there, a shorter attack and a higher sustain hide it"
		}
		return ""
	}}
