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
			fold := func(stage, into meaning.ParamName) bool {
				return !off(m, stage) && get(m, stage) > 0 && !c.Param(meaning.Env, stage)
			}
			delay, hold, second := fold(meaning.PDelay, meaning.PAttack), fold(meaning.PHold, meaning.PDecay), fold(meaning.PDecay2, meaning.PDecay)
			if !delay && !hold && !second || m.Changed() {
				continue
			}
			said := ""
			e := c.begin("")
			e.part(m.ID)
			n := e.change(m.ID)
			add := func(stage, into meaning.ParamName) {
				v := n.Params[into]
				if v.Off {
					v.Value = 0
				}
				v.Off, v.Dim = false, q.DimDuration
				v.Value += get(m, stage)
				n.Params[into] = v
				delete(n.Params, stage)
				e.Map[meaning.Ref(m.ID, stage)] = meaning.Ref(n.ID, into)
				said += ", " + string(stage) + " of " + text(q.DimDuration, get(m, stage)) + " added to the " + string(into)
			}
			if delay {
				add(meaning.PDelay, meaning.PAttack)
			}
			if hold {
				add(meaning.PHold, meaning.PDecay)
			}
			if second {
				add(meaning.PDecay2, meaning.PDecay)
				for _, name := range []meaning.ParamName{meaning.PBreak, meaning.PSlope} { // what the second decay fell from
					delete(n.Params, name)
					e.Map[meaning.Ref(m.ID, name)] = meaning.Ref(n.ID, meaning.PDecay)
				}
			}
			e.Text = "the target has fewer stages" + said
			out = append(out, e.Recast)
		}
		return out
	}}
