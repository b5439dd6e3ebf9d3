package rules

import (
	"math"

	"glossator/core/meaning"
)

var ring = Rule{ID: "ring", Name: "Ring modulation by frequency modulation of low index",
	Needs: "a ring modulator, and an oscillator on the target that can be modulated in frequency", Uses: "frequency modulation from a neighbour",
	Penalty: 0.35, Why: "the sum and the difference are there, but so is the carrier", Source: "Chowning, JAES 21(7), 1973: at a low index the first sidebands alone are heard",
	try: func(c *Case) []Recast {
		var out []Recast
		if !c.Param(meaning.Osc, meaning.PFM) {
			return nil
		}
		for _, m := range c.lost(meaning.Ring) {
			for _, o := range c.used(meaning.Osc) {
				if get(o, meaning.PFM) > 0 || c.Lost[o.ID] || o.Changed() {
					continue
				}
				// the index at which the first sidebands are as loud as the carrier: J0 = J1 at 1.43
				const index = 1.4347
				e := c.begin("%s: %s is modulated in frequency instead, at an index of %.2g, where its first sidebands are as loud as itself", m.Label, o.Label, index)
				n := e.change(o.ID)
				put(n, meaning.PFM, math.Min(1, index/indexAtFull))
				e.drop(m.ID)
				e.Map[meaning.Ref(m.ID, meaning.PLevel)] = meaning.Ref(n.ID, meaning.PFM)
				out = append(out, e.Recast)
				break
			}
		}
		return out
	}}
