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
			if mode := named(m, "mode"); mode != "comb" && mode != "flange" || get(m, "cutoff") <= 0 {
				continue
			}
			e := c.begin("a delay of one period of %s rings as the comb did", text(q.DimFrequency, get(m, "cutoff")))
			d := e.replace(m.ID, meaning.Delay, m.Label+" as delay", func(name string) string {
				switch name {
				case "cutoff":
					return "time"
				case "resonance", "feedback":
					return "feedback"
				case "mix":
					return "mix"
				}
				return ""
			})
			put(d, "time", 1/get(m, "cutoff"))
			put(d, "feedback", math.Min(0.95, math.Max(get(m, "feedback"), get(m, "resonance"))))
			put(d, "mix", 0.5)
			out = append(out, e.Recast)
		}
		return out
	}}
