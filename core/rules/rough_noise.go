package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var roughNoise = Rule{ID: "noise-motion", Name: "Fast steps of chance by noise",
	Needs: "an LFO that wanders by chance faster than 15 times a second, and noise on the target that can move things", Uses: "the noise source and its routes",
	Penalty: 0.4, Why: "noise is rougher than steps, and it is as rough at every rate", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.LFO) {
			if !Chance(named(m, meaning.PWave)) || get(m, meaning.PRate) < 15 || c.Have(meaning.Noise) <= len(c.used(meaning.Noise)) {
				continue
			}
			e := c.begin("noise moves what %s moved at %s", m.Label, text(q.DimFrequency, get(m, meaning.PRate)))
			n := e.replace(m.ID, meaning.Noise, m.Label+" as noise", func(name meaning.ParamName) meaning.ParamName {
				if name == meaning.PWave {
					return meaning.PColour
				}
				return ""
			})
			word(n, meaning.PColour, "white")
			put(n, meaning.PLevel, -60) // it moves things, and is not to be heard itself
			out = append(out, e.Recast)
		}
		return out
	}}
