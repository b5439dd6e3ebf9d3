package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var stages = Rule{ID: "stages", Name: "Missing stages folded into the others",
	Needs: "an envelope with delay, hold or a second decay, and none on the target", Uses: "attack and decay of the same envelope",
	Penalty: 0.08, Why: "the whole takes as long, the corner is rounded", Source: "sum of the times",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.Env) {
			fold := func(stage, into string) bool {
				return !off(m, stage) && get(m, stage) > 0 && !c.Param(meaning.Env, stage)
			}
			delay, hold, second := fold("delay", "attack"), fold("hold", "decay"), fold("decay2", "decay")
			if !delay && !hold && !second || m.ID[len(m.ID)-1] == '~' {
				continue
			}
			said := ""
			e := c.begin("")
			e.part(m.ID)
			n := e.change(m.ID)
			add := func(stage, into string) {
				v := n.Params[into]
				if v.Off {
					v.Value = 0
				}
				v.Off, v.Dim = false, q.DimDuration
				v.Value += get(m, stage)
				n.Params[into] = v
				delete(n.Params, stage)
				e.Map[m.ID+"."+stage] = n.ID + "." + into
				said += ", " + stage + " of " + text(q.DimDuration, get(m, stage)) + " added to the " + into
			}
			if delay {
				add("delay", "attack")
			}
			if hold {
				add("hold", "decay")
			}
			if second {
				add("decay2", "decay")
				for _, name := range []string{"break", "slope"} { // what the second decay fell from
					delete(n.Params, name)
					e.Map[m.ID+"."+name] = n.ID + ".decay"
				}
			}
			e.Text = "the target has fewer stages" + said
			out = append(out, e.Recast)
		}
		return out
	}}
