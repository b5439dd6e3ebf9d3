package rules

import (
	"math"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// open is an envelope that a gate is like.
var open = meaning.Module{ID: "gate", Kind: meaning.Env, Params: map[meaning.ParamName]meaning.Value{meaning.PSustain: {Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}},
	meaning.PAttack: {Quantity: q.Quantity{Dim: q.DimDuration, Value: shortestStage}}, meaning.PRelease: {Quantity: q.Quantity{Dim: q.DimDuration, Value: shortestStage}}}}

// shortestStage is a time below which stages sound alike: 10 ms (common practice, no source).
const shortestStage = 0.01

// apart tells how far the shape of one envelope is from that of another, 0 to 1: times by their ratio, four times being all there is, the
// sustain by its level, a half being all. A decay counts for as much as it falls (common practice, no source).
func apart(a, b *meaning.Module) float64 {
	ratio := func(name meaning.ParamName) float64 {
		x, y := max(get(a, name), shortestStage), max(get(b, name), shortestStage)
		return min(1, math.Abs(math.Log2(x/y))/2)
	}
	level := func(m *meaning.Module) float64 {
		if v, ok := m.Get(meaning.PSustain); ok && !v.Off {
			return v.Value
		}
		return 0
	}
	fall := 1 - min(level(a), level(b))
	return 0.25*ratio(meaning.PAttack) + 0.3*fall*ratio(meaning.PDecay) + 0.35*min(1, 2*math.Abs(level(a)-level(b))) + 0.1*ratio(meaning.PRelease)
}

const sharedPenalty = 0.25

var sharedEnvelope = Rule{ID: "shared-envelope", Name: "One envelope for filter and amplifier",
	Needs: "two envelopes, and one on the target, or a gate that opens its amplifier", Uses: "one envelope, or the gate",
	Penalty: sharedPenalty, Why: "the two no longer differ: what was plucked in one is held in the other; the more they did, the more it costs", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		envs := c.used(meaning.Env)
		for _, lost := range envs {
			if !c.Lost[lost.ID] {
				continue
			}
			for _, kept := range envs {
				if kept.ID == lost.ID || c.Lost[kept.ID] || Clicks(lost) && !Clicks(kept) && slices.ContainsFunc(c.from(lost.ID), c.Meaning.Opens) {
					continue // a click that is held, or rings on, is none
				}
				e := c.begin("%s moves what %s moved too", kept.Label, lost.Label)
				for _, r := range c.from(lost.ID) {
					e.route(r.ID).From = kept.ID
				}
				e.drop(lost.ID)
				e.worse(c, sharedPenalty, apart(lost, kept))
				out = append(out, e.Recast)
			}
		}
		// the amplifier left to the gate, so that the one envelope can serve the filter
		if len(c.lost(meaning.Env)) == 0 {
			return out
		}
		for _, r := range c.routes() {
			env := c.Meaning.Module(r.From)
			if env == nil || !c.Meaning.Opens(r) || len(envs) < 2 {
				continue
			}
			if get(env, meaning.PSustain) < 0.5 || get(env, meaning.PAttack) > 0.05 && !off(env, meaning.PAttack) {
				continue // a gate cannot swell or die away
			}
			e := c.begin("the gate opens the amplifier, so that the one envelope can serve the filter: %s of release is lost", text(q.DimDuration, get(env, meaning.PRelease)))
			way := e.route(r.ID)
			way.From = "gate"
			if len(c.from(env.ID)) == 1 {
				e.drop(env.ID)
			}
			e.worse(c, sharedPenalty, apart(env, &open))
			out = append(out, e.Recast)
		}
		return out
	}}
