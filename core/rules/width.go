package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var width = Rule{ID: "width", Name: "Width by spread unison, with the bass kept in the middle",
	Needs: "a widener, and none on the target", Uses: "the width of unison voices, or of the voices",
	Penalty: 0.25, Why: "a single voice without unison stays as narrow as it is", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Widener) {
			amount := math.Abs(get(m, meaning.PWidth))
			if c.Param(meaning.Osc, meaning.PStereo) {
				e := c.begin("")
				kept, to := 0, ""
				for _, o := range c.used(meaning.Osc) {
					switch {
					case c.Lost[o.ID] || o.Changed() || get(o, meaning.PUnison) < 2:
					case low(o):
						kept++
					default:
						n := e.change(o.ID)
						put(n, meaning.PStereo, math.Min(1, math.Max(get(o, meaning.PStereo), amount)))
						to = n.ID
					}
				}
				if to != "" {
					e.Text = "unison spread by " + text(q.DimRatio, amount)
					e.keepMiddle(kept)
					e.drop(m.ID)
					e.Map[meaning.Ref(m.ID, meaning.PWidth)] = meaning.Ref(to, meaning.PStereo)
					out = append(out, e.Recast)
				}
			}
			if !c.Param(meaning.Amp, meaning.PSpread) {
				continue
			}
			for _, a := range c.used(meaning.Amp) {
				if c.Lost[a.ID] || a.Changed() || get(a, meaning.PSpread) >= amount {
					continue
				}
				e := c.begin("the voices spread by %s: what is played one note at a time stays in the middle", text(q.DimRatio, amount))
				n := e.change(a.ID)
				put(n, meaning.PSpread, math.Min(1, amount))
				to := n.ID
				e.drop(m.ID)
				e.Map[meaning.Ref(m.ID, meaning.PWidth)] = meaning.Ref(to, meaning.PSpread)
				out = append(out, e.Recast)
				break
			}
		}
		return out
	}}
