package rules

import (
	"glossator/core/meaning"
)

var byHand = Rule{ID: "by-hand", Name: "By hand, at the control itself", Player: true,
	Needs: "a wheel, pedal or pressure that moves something the target has, and no way to it there", Uses: "the player's other hand",
	Penalty: 0.6, Why: "it can be done between notes, hardly within them", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			if r.From != "wheel" && r.From != "pedal" && r.From != "breath" && r.From != "aftertouch" || r.Via != "" || len(r.To) == 0 {
				continue
			}
			id, name := meaning.Split(r.To[0])
			m := c.Meaning.Module(id)
			if m == nil || c.Lost[id] {
				continue
			}
			p, _ := meaning.SpecOf(m.Kind).Param(name)
			at := 0.0
			if r.From == "wheel" {
				at = c.Wheel
			}
			e := c.begin("no way from the %s: turn the %s of %s by hand, by up to %s", r.From, p.Label, m.Label, text(r.Depth.Dim, r.Depth.Value))
			if at > 0 {
				shift(e, id, name, at*r.Depth.Value)
			}
			e.dropRoute(r.ID)
			out = append(out, e.Recast)
		}
		return out
	}}
