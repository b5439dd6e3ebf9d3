package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var kind = Rule{ID: "filter-kind", Name: "Peak filter by an EQ band, and one for another",
	Needs: "a filter in peak mode, or an EQ band that boosts or cuts", Uses: "an EQ band, or a filter that has a peak",
	Penalty: 0.2, Why: "an EQ band does not follow envelopes or keys", Source: "circuit theory: Q and gain of a peaking section",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Filter) {
			if named(m, meaning.PMode) != "peak" || c.Have(meaning.EQ) == 0 {
				continue
			}
			quality := q.Resonance(math.Min(0.99, get(m, meaning.PResonance))).Q()
			e := c.begin("the peak at %s is made by an EQ band, which stays where it is", text(q.DimFrequency, get(m, meaning.PCutoff)))
			b := e.replace(m.ID, meaning.EQ, m.Label+" as EQ", func(name meaning.ParamName) meaning.ParamName {
				if name == meaning.PCutoff {
					return meaning.PFreq
				}
				return ""
			})
			word(b, meaning.PMode, "peak")
			put(b, meaning.PFreq, get(m, meaning.PCutoff))
			put(b, meaning.PGain, math.Min(15, 20*math.Log10(math.Max(1, 2*quality))))
			put(b, meaning.PQ, quality)
			e.Map[meaning.Ref(m.ID, meaning.PResonance)] = meaning.Ref(b.ID, meaning.PGain)
			out = append(out, e.Recast)
		}
		return out
	}}
