package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var sharedEnvelope = Rule{ID: "shared-envelope", Name: "One envelope for filter and amplifier",
	Needs: "two envelopes, and one on the target, or a gate that opens its amplifier", Uses: "one envelope, or the gate",
	Penalty: 0.25, Why: "the two no longer differ: what was plucked in one is held in the other", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		envs := c.used(meaning.Env)
		for _, lost := range envs {
			if !c.Lost[lost.ID] {
				continue
			}
			for _, kept := range envs {
				if kept.ID == lost.ID || c.Lost[kept.ID] {
					continue
				}
				e := c.begin("%s moves what %s moved too", kept.Label, lost.Label)
				for _, r := range c.from(lost.ID) {
					e.route(r.ID).From = kept.ID
				}
				e.drop(lost.ID)
				out = append(out, e.Recast)
			}
		}
		// the amplifier left to the gate, so that the one envelope can serve the filter
		if len(c.lost(meaning.Env)) == 0 {
			return out
		}
		for _, r := range c.routes() {
			id, name := meaning.Split(r.To[0])
			m, env := c.Meaning.Module(id), c.Meaning.Module(r.From)
			if m == nil || m.Kind != meaning.Amp || name != "level" || env == nil || env.Kind != meaning.Env || len(envs) < 2 {
				continue
			}
			if get(env, "sustain") < 0.5 || get(env, "attack") > 0.05 && !off(env, "attack") {
				continue // a gate cannot swell or die away
			}
			e := c.begin("the gate opens the amplifier, so that the one envelope can serve the filter: %s of release is lost", text(q.DimDuration, get(env, "release")))
			way := e.route(r.ID)
			way.From = "gate"
			if len(c.from(env.ID)) == 1 {
				e.drop(env.ID)
			}
			out = append(out, e.Recast)
		}
		return out
	}}
