package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
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
				// each of the two tones that it makes is half of the product; the sidebands are J1(index), the carrier J0
				side, carrier := q.Level(get(m, meaning.PLevel)).Amplitude()/2, 0.0
				if !off(o, meaning.PLevel) {
					carrier = q.Level(get(o, meaning.PLevel)).Amplitude()
				}
				index, level := ringIndex(side, carrier)
				e := c.begin("%s: %s is modulated in frequency instead, at an index of %.2g, where its first sidebands are as loud as the tones that are lost", m.Label, o.Label, index)
				n := e.change(o.ID)
				put(n, meaning.PFM, math.Min(1, index/indexAtFull))
				if _, has := o.Params[meaning.PLevel]; has || carrier == 0 {
					put(n, meaning.PLevel, 20*math.Log10(level))
				}
				e.drop(m.ID)
				e.Map[meaning.Ref(m.ID, meaning.PLevel)] = meaning.Ref(n.ID, meaning.PFM)
				out = append(out, e.Recast)
				break
			}
		}
		return out
	}}

// mostRing is the index at which the first sidebands are as loud as the carrier: beyond it others are as loud as they are.
const mostRing = 1.4347 // J0 = J1

// ringIndex gives the index at which a modulated carrier has first sidebands of an amplitude and is itself as loud as it was, as far as mostRing, and its amplitude then.
func ringIndex(side, carrier float64) (index, level float64) {
	lo, hi := 0.0, mostRing
	for range 40 {
		if mid := (lo + hi) / 2; math.J1(mid)*carrier < side*math.J0(mid) {
			lo = mid
		} else {
			hi = mid
		}
	}
	if index = (lo + hi) / 2; index < 1e-3 {
		return 0, carrier
	}
	return index, side / math.J1(index)
}
