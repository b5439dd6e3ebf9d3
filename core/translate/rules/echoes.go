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
			pattern := named(m, "pattern")
			if pattern != "pingpong" && pattern != "cross" || c.Word(meaning.Delay, "pattern", pattern) || c.Lost[m.ID] || m.ID[len(m.ID)-1] == '~' {
				continue
			}
			feedback := math.Min(0.95, get(m, "feedback")+get(m, "cross"))
			e := c.begin("the echoes no longer change sides: the same %s, and %s of feedback in all", text(q.DimDuration, get(m, "time")), text(q.DimRatio, feedback))
			e.part(m.ID)
			d := e.change(m.ID)
			word(d, "pattern", "stereo")
			put(d, "feedback", feedback)
			if _, has := d.Params["cross"]; has {
				delete(d.Params, "cross")
				e.Map[m.ID+".cross"] = d.ID + ".feedback"
			}
			if _, has := d.Params["timeRight"]; has && !c.Param(meaning.Delay, "timeRight") {
				delete(d.Params, "timeRight")
				delete(e.Map, m.ID+".timeRight")
			}
			out = append(out, e.Recast)
		}
		return out
	}}
