package rules

import (
	"fmt"
	"math"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const broughtInPenalty = 0.12

var broughtIn = Rule{ID: "brought-in", Name: "A part that is brought in, as loud as it is while a note is held",
	Needs: "a part that is silent until an envelope or a hand brings it in, and no way to that on the target", Uses: "the level of the part",
	Penalty: broughtInPenalty, Why: "it is there for good: it neither comes nor goes with what brought it in", Source: "common practice, no source",
	try: func(c *Case) (out []Recast) {
		for _, r := range c.lostRoutes() {
			if r.Depth.Value <= 0 || r.Via != "" || len(r.To) != 1 || r.Changed() {
				continue
			}
			id, name := meaning.Split(r.To[0])
			m := c.Meaning.Module(id)
			if m == nil || !m.Used() || m.SilencedBy(name) == "" || !slices.Contains(meaning.SpecOf(m.Kind).Silence, name) || m.Kind == meaning.Operator || m.Kind == meaning.Filter {
				continue
			}
			share := 0.5 // a hand, or an LFO, half way
			env := c.Meaning.Module(r.From)
			switch {
			case env != nil && env.Kind == meaning.LFO && r.Polarity == "bipolar":
				share = 1 / math.Pi // the mean of a sine that is cut off below nothing (arithmetic)
			case env != nil && env.Kind == meaning.Env:
				share = heldOf(env)
			case r.From == "velocity":
				share = struckAt
			case r.From == "wheel":
				share = c.Wheel
			}
			reached := math.Min(1, r.Depth.Value) * share
			if reached < 0.01 {
				continue
			}
			e := c.begin("")
			n := e.change(id)
			if p, _ := meaning.SpecOf(m.Kind).Param(name); p.Dim == q.DimLevel {
				put(n, name, 20*math.Log10(reached))
			} else {
				put(n, name, get(m, name)+reached)
			}
			v := n.Params[name]
			e.Text = fmt.Sprintf("%s stays at %s: %s does not bring it in", m.Label, v.Quantity, r.Label)
			e.dropRoute(r.ID)
			e.part(id)
			e.Map[meaning.Ref(r.ID, meaning.PDepth)] = meaning.Ref(n.ID, name)
			if env != nil && env.Kind == meaning.Env {
				if e.worse(c, broughtInPenalty, 0.5*(1-get(env, meaning.PSustain))); len(c.from(env.ID)) == 1 {
					e.drop(env.ID)
				}
			}
			out = append(out, e.Recast)
		}
		return out
	}}
