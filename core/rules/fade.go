package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var fade = Rule{ID: "fade", Name: "Fade-in by the wheel or by an envelope", Player: true,
	Needs: "an LFO that comes in late, and none on the target that does", Uses: "a route scaled by the wheel, or by an envelope that is left",
	Penalty: 0.2, Why: "the player has to bring it in, or an envelope is taken that comes in by another curve", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.LFO) {
			late := get(m, meaning.PFade) + get(m, meaning.PDelay)
			if off(m, meaning.PFade) && off(m, meaning.PDelay) || late < 0.1 || c.Param(meaning.LFO, meaning.PFade) || c.Param(meaning.LFO, meaning.PDelay) || m.Changed() {
				continue
			}
			e := c.begin("the target's LFO does not fade in: bring the wheel up %s after the note", text(q.DimDuration, late))
			e.part(m.ID)
			n := e.change(m.ID)
			delete(n.Params, meaning.PFade)
			delete(n.Params, meaning.PDelay)
			for _, r := range c.from(m.ID) {
				if r.Via == "" {
					way := e.route(r.ID)
					way.Via = "wheel"
					e.Map[meaning.Ref(m.ID, meaning.PFade)], e.Map[meaning.Ref(m.ID, meaning.PDelay)] = meaning.Ref(way.ID, meaning.PDepth), meaning.Ref(way.ID, meaning.PDepth)
				}
			}
			out = append(out, e.Recast)
			if c.Have(meaning.Env) <= len(c.used(meaning.Env)) {
				continue
			}
			e = c.begin("the target's LFO does not fade in: an envelope that rises in %s brings it in", text(q.DimDuration, late))
			e.part(m.ID)
			n = e.change(m.ID)
			delete(n.Params, meaning.PFade)
			delete(n.Params, meaning.PDelay)
			env := e.add(module(m), "fade", meaning.Env, "Fade-in of "+m.Label)
			take(env, m, meaning.PDelay, meaning.PDelay)
			put(env, meaning.PAttack, math.Max(get(m, meaning.PFade), 0.001))
			put(env, meaning.PSustain, 1)
			put(env, meaning.PRelease, 1)
			by := env.ID
			for _, r := range c.from(m.ID) {
				if r.Via == "" {
					e.route(r.ID).Via = by
				}
			}
			e.Map[meaning.Ref(m.ID, meaning.PFade)], e.Map[meaning.Ref(m.ID, meaning.PDelay)] = meaning.Ref(by, meaning.PAttack), meaning.Ref(by, meaning.PDelay)
			out = append(out, e.Recast)
		}
		return out
	}}
