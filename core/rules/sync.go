package rules

import (
	"glossator/core/meaning"
)

var sync = Rule{ID: "sync", Name: "Hard sync by frequency modulation",
	Needs: "an oscillator that is synced, and none on the target that can be", Uses: "frequency modulation from a neighbour",
	Penalty: 0.4, Why: "both are bright and follow the interval, but the edge of sync is gone", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		if c.Param(meaning.Osc, meaning.PSync) || !c.Param(meaning.Osc, meaning.PFM) {
			return nil
		}
		for _, m := range c.used(meaning.Osc) {
			if !syncs(m) || m.Changed() || len(c.into(m.ID, meaning.PInterval)) > 0 { // swept, it would leave the note
				continue
			}
			interval := harmonicOver(c.soundsAt(m), get(m, meaning.PInterval))
			e := c.begin("no sync: %s is modulated in frequency by its neighbour instead; its interval, to the next harmonic, sets the colour", m.Label)
			e.part(m.ID)
			n := e.change(m.ID)
			delete(n.Params, meaning.PSync)
			put(n, meaning.PInterval, interval) // between two harmonics it would have another pitch
			put(n, meaning.PFM, 0.4)            // common practice, no source
			e.Map[meaning.Ref(m.ID, meaning.PSync)] = meaning.Ref(n.ID, meaning.PFM)
			out = append(out, e.Recast)
		}
		return out
	}}
