package rules

import (
	"math"
	"sort"

	"glossator/core/meaning"
)

// indexAtFull is the modulation index that a depth of 100 % is counted as (common practice, no
// source: instruments differ by a factor of four).
const indexAtFull = math.Pi

var operators = Rule{ID: "operator", Name: "Operators to the nearest wave",
	Needs: "operators that are heard, and none on the target", Uses: "one oscillator for each",
	Penalty: 0.3, Why: "a wave is fixed where modulation moves with its envelopes; clangs of odd ratios become plain", Source: "Chowning, JAES 21(7), 1973: sidebands by Bessel functions",
	try: func(c *Case) []Recast {
		var heard []*meaning.Module
		for _, m := range c.lost(meaning.Operator) {
			if !off(m, "output") && get(m, "output") > -60 {
				heard = append(heard, m)
			}
		}
		if len(heard) == 0 || c.Have(meaning.Osc) == 0 {
			return nil
		}
		// what is dearest goes first
		sort.SliceStable(heard, func(a, b int) bool { return c.Weight(heard[a].ID) > c.Weight(heard[b].ID) })
		var out []Recast
		for _, m := range heard {
			wave, with := c.nearestWave(m)
			e := c.begin("%s as %s: nearest to its spectrum%s", m.Label, article(wave), with)
			o := e.replace(m.ID, meaning.Osc, m.Label+" as oscillator", func(name string) string {
				switch name {
				case "interval", "fixed", "level", "key", "pan", "to", "on":
					return name
				case "output":
					return "level"
				}
				return ""
			})
			word(o, "wave", wave)
			for _, name := range []string{"interval", "fixed", "key", "pan", "to"} {
				take(o, m, name, name)
			}
			level := get(m, "output")
			if !off(m, "level") {
				level += get(m, "level")
			}
			put(o, "level", level)
			e.Map[m.ID+".wave"] = o.ID + ".wave"
			e.Map[m.ID+".output"] = o.ID + ".level"
			e.Map[m.ID+".level"] = o.ID + ".level"
			for _, r := range c.into(m.ID, "pm") {
				delete(e.Gone, r.ID) // the wave has it in it
			}
			// what only modulated it goes with it: the wave stands for both
			for _, r := range c.into(m.ID, "pm") {
				if x := c.Meaning.Module(r.From); x != nil && x.ID != m.ID && c.Lost[x.ID] && off(x, "output") && len(c.from(x.ID)) == 1 {
					e.drop(x.ID)
				}
			}
			out = append(out, e.Recast)
		}
		return out
	}}
