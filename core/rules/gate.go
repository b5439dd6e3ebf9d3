package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var gate = Rule{ID: "gate", Name: "Gate by an envelope of full sustain",
	Needs: "an amplifier that the gate opens, and an envelope left on the target", Uses: "one envelope",
	Penalty: 0.05, Why: "an envelope cannot open at once: its shortest attack and release are heard as a softer edge", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			if r.From != "gate" || !c.Meaning.Opens(r) {
				continue
			}
			e := c.begin("an envelope of full sustain and the shortest times opens the amplifier, as the gate did")
			env := e.add(route(r), "env", meaning.Env, "Gate as envelope")
			// as short as opens without a click (common practice, no source)
			put(env, meaning.PAttack, 0.002)
			put(env, meaning.PDecay, 0.1)
			put(env, meaning.PSustain, 1)
			put(env, meaning.PRelease, 0.005)
			way := e.route(r.ID)
			way.From = env.ID
			way.Depth = meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}
			out = append(out, e.Recast)
		}
		return out
	}}
