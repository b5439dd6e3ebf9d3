package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var resonant = Rule{ID: "resonant-sweep", Name: "Hard sync by the sweep of a resonant filter",
	Needs: "an oscillator that is synced, none on the target that can be, and a filter left there", Uses: "a filter with resonance, its key tracking and the envelope that swept the sync",
	Penalty: 0.35, Why: "the peak follows the harmonic that sync would bring out, but the wave between the edges is not torn", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		if c.Param(meaning.Osc, meaning.PSync) || c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) || !c.Param(meaning.Filter, meaning.PResonance) {
			return nil
		}
		for _, m := range c.used(meaning.Osc) {
			if !syncs(m) || m.Changed() || get(m, meaning.PInterval) <= c.soundsAt(m) {
				continue
			}
			// the slave's own pitch is where sync has its strongest harmonics
			fc := 440 * math.Exp2(-9.0/12) * q.Interval(get(m, meaning.PInterval)).Ratio()
			e := c.begin("no sync: a filter with resonance, at %s for middle C and following the keys, is swept as the sync was", text(q.DimFrequency, fc))
			e.part(m.ID)
			master, note := c.Meaning.SyncedTo(m), c.soundsAt(m)
			n := e.change(m.ID)
			delete(n.Params, meaning.PSync)
			put(n, meaning.PInterval, note) // it plays the note of the oscillator that it was synced to
			f := e.add(module(m), "sweep", meaning.Filter, "Filter for "+m.Label)
			word(f, meaning.PMode, "lowpass")
			put(f, meaning.PPoles, 2)
			put(f, meaning.PCutoff, fc)
			put(f, meaning.PTrack, 1)
			put(f, meaning.PResonance, 0.7) // common practice, no source
			sweep := f.ID
			e.Map[meaning.Ref(m.ID, meaning.PSync)] = meaning.Ref(sweep, meaning.PResonance)
			e.Map[meaning.Ref(m.ID, meaning.PInterval)] = meaning.Ref(sweep, meaning.PCutoff)
			for _, r := range c.into(m.ID, meaning.PInterval) {
				if r.Depth.Dim != q.DimInterval || len(r.To) != 1 {
					continue
				}
				w := e.route(r.ID)
				w.To = []string{meaning.Ref(sweep, meaning.PCutoff)}
				w.Depth = meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: r.Depth.Value / 1200}}
			}
			e.unneeded(master)
			out = append(out, e.Recast)
		}
		return out
	}}
