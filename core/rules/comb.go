package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var comb = Rule{ID: "comb", Name: "Comb filter by a short delay",
	Needs: "a comb or flange filter, and a delay left on the target", Uses: "a delay of one period, with feedback",
	Penalty: 0.3, Why: "a delay seldom follows the key, and its shortest time sets the highest note", Source: "period and frequency: t = 1/f",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Filter) {
			if mode := named(m, meaning.PMode); mode != "comb" && mode != "flange" || get(m, meaning.PCutoff) <= 0 {
				continue
			}
			e := c.begin("a delay of one period of %s rings as the comb did", text(q.DimFrequency, get(m, meaning.PCutoff)))
			d := e.replace(m.ID, meaning.Delay, m.Label+" as delay", func(name meaning.ParamName) meaning.ParamName {
				switch name {
				case meaning.PCutoff:
					return meaning.PTime
				case meaning.PResonance, meaning.PFeedback:
					return meaning.PFeedback
				case meaning.PMix:
					return meaning.PMix
				}
				return ""
			})
			put(d, meaning.PTime, 1/get(m, meaning.PCutoff))
			put(d, meaning.PFeedback, math.Min(0.95, math.Max(get(m, meaning.PFeedback), get(m, meaning.PResonance))))
			put(d, meaning.PMix, 0.5)
			out = append(out, e.Recast)
		}
		return out
	}}
