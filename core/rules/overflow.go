package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var overflow = Rule{ID: "feedback-drive", Name: "Drive by feeding the output back into the input",
	Needs: "a drive, and a feedback path on the target that is not used", Uses: "the feedback path",
	Penalty: 0.35, Why: "it can jump in level, and its colour changes with the filter", Source: "a loop that feeds a share a back adds up to 1/(1 - a)",
	try: func(c *Case) []Recast {
		var out []Recast
		if c.Have(meaning.Feedback) <= len(c.used(meaning.Feedback)) {
			return nil
		}
		for _, m := range c.lost(meaning.Drive) {
			gain := get(m, meaning.PGain)
			if gain <= 0 {
				continue
			}
			share := math.Min(0.7, 1-math.Pow(10, -gain/20)) // more than that may howl (common practice, no source)
			level := 20 * math.Log10(share)
			e := c.begin("the output fed back at %s drives the input as %s did: turn the monitors and headphones down first and raise it slowly", text(q.DimLevel, level), m.Label)
			f := e.replace(m.ID, meaning.Feedback, m.Label+" by feedback", func(name meaning.ParamName) meaning.ParamName {
				if name == meaning.PGain || name == meaning.PMix {
					return meaning.PLevel
				}
				return ""
			})
			put(f, meaning.PLevel, level)
			out = append(out, e.Recast)
		}
		return out
	}}
