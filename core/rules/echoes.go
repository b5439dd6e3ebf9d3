package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var echoes = Rule{ID: "echoes", Name: "Echoes from side to side folded into plain ones",
	Needs: "a delay whose echoes change sides, and none on the target that does so", Uses: "a delay with the same time",
	Penalty: 0.03, Why: "the echoes come when they came, but all from the same place", Source: "each echo of a ping-pong comes one delay time after the one before",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.Delay) {
			pattern := named(m, meaning.PPattern)
			if pattern != "pingpong" && pattern != "cross" || c.Word(meaning.Delay, meaning.PPattern, pattern) || c.Lost[m.ID] || m.Changed() {
				continue
			}
			feedback := math.Min(0.95, get(m, meaning.PFeedback)+get(m, meaning.PCross))
			e := c.begin("the echoes no longer change sides: the same %s, and %s of feedback in all", text(q.DimDuration, get(m, meaning.PTime)), text(q.DimRatio, feedback))
			e.part(m.ID)
			d := e.change(m.ID)
			word(d, meaning.PPattern, "stereo")
			put(d, meaning.PFeedback, feedback)
			if _, has := d.Params[meaning.PCross]; has {
				delete(d.Params, meaning.PCross)
				e.Map[meaning.Ref(m.ID, meaning.PCross)] = meaning.Ref(d.ID, meaning.PFeedback)
			}
			if _, has := d.Params[meaning.PTimeRight]; has && !c.Param(meaning.Delay, meaning.PTimeRight) {
				delete(d.Params, meaning.PTimeRight)
				delete(e.Map, meaning.Ref(m.ID, meaning.PTimeRight))
			}
			out = append(out, e.Recast)
		}
		return out
	}}
