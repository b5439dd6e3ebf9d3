package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var lowIndex = Rule{ID: "low-index", Name: "Frequency modulation of low index by ring modulation",
	Needs: "an oscillator that a neighbour modulates little, and on the target a ring modulator but no such modulation", Uses: "a ring modulator beside the oscillator",
	Penalty: 0.3, Why: "the first sidebands alone are there, and of one sign", Source: "Chowning, JAES 21(7), 1973: sidebands of J1 over a carrier of J0",
	try: func(c *Case) []Recast {
		var out []Recast
		if c.Param(meaning.Osc, meaning.PFM) || c.Have(meaning.Ring) <= len(c.used(meaning.Ring)) {
			return nil
		}
		for _, m := range c.used(meaning.Osc) {
			index := get(m, meaning.PFM) * indexAtFull
			// from an index of 1 on the second sidebands are within 17 dB of the carrier: they are heard
			if index <= 0.02 || index > 1 || m.Changed() {
				continue
			}
			level := get(m, meaning.PLevel) + 20*math.Log10(2*math.J1(index)/math.J0(index))
			e := c.begin("a ring modulator at %s beside %s has the first sidebands of its modulation", text(q.DimLevel, level), m.Label)
			e.part(m.ID)
			n := e.change(m.ID)
			delete(n.Params, meaning.PFM)
			r := e.add(module(m), "ring", meaning.Ring, "Ring modulator for "+m.Label)
			put(r, meaning.PLevel, level)
			e.Map[meaning.Ref(m.ID, meaning.PFM)] = meaning.Ref(r.ID, meaning.PLevel)
			out = append(out, e.Recast)
		}
		return out
	}}
