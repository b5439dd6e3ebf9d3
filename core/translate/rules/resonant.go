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
		if c.Param(meaning.Osc, "sync") || c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) || !c.Param(meaning.Filter, "resonance") {
			return nil
		}
		for _, m := range c.used(meaning.Osc) {
			if s := named(m, "sync"); s == "off" || s == "" || m.ID[len(m.ID)-1] == '~' || get(m, "interval") <= 0 {
				continue
			}
			// the slave's own pitch is where sync has its strongest harmonics
			fc := 440 * math.Exp2(-9.0/12) * q.Interval(get(m, "interval")).Ratio()
			e := c.begin("no sync: a filter with resonance, at %s for middle C and following the keys, is swept as the sync was", text(q.DimFrequency, fc))
			e.part(m.ID)
			n := e.change(m.ID)
			delete(n.Params, "sync")
			put(n, "interval", 0) // it plays the note of the oscillator that it was synced to
			f := e.add(m.ID+"~sweep", meaning.Filter, "Filter for "+m.Label)
			word(f, "mode", "lowpass")
			put(f, "poles", 2)
			put(f, "cutoff", fc)
			put(f, "track", 1)
			put(f, "resonance", 0.7) // common practice, no source
			sweep := f.ID
			e.Map[m.ID+".sync"] = sweep + ".resonance"
			e.Map[m.ID+".interval"] = sweep + ".cutoff"
			for _, r := range c.into(m.ID, "interval") {
				if r.Depth.Dim != q.DimInterval || len(r.To) != 1 {
					continue
				}
				w := e.route(r.ID)
				w.To = []string{sweep + ".cutoff"}
				w.Depth = meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: r.Depth.Value / 1200}}
			}
			out = append(out, e.Recast)
		}
		return out
	}}
