package rules

import (
	"glossator/core/meaning"
)

var source = Rule{ID: "source", Name: "Another hand for a route", Player: true,
	Needs: "a route from pressure, pedal, breath or release velocity that the target lacks", Uses: "a route from the wheel, or from pressure",
	Penalty: 0.35, Why: "the sound is there, but the player reaches for it otherwise", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			var to []string
			switch r.From {
			case "aftertouch", "pedal", "breath":
				to = []string{"wheel", "aftertouch", "pedal"}
			case "release velocity":
				to = []string{"velocity"}
			case "random":
				to = []string{"key"}
			}
			for _, other := range to {
				if other == r.From || r.From == "random" && len(c.used(meaning.LFO)) > 0 {
					continue
				}
				e := c.begin("played by the %s where it was %s", other, r.From)
				e.route(r.ID).From = other
				out = append(out, e.Recast)
			}
			if r.Via == "aftertouch" || r.Via == "pedal" || r.Via == "breath" {
				e := c.begin("the wheel brings it in where it was %s", r.Via)
				e.route(r.ID).Via = "wheel"
				out = append(out, e.Recast)
			}
		}
		return out
	}}
