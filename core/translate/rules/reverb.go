package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var reverb = Rule{ID: "reverb", Name: "Reverb by a delay",
	Needs: "a reverb, and a delay left on the target", Uses: "a short delay with feedback",
	Penalty: 0.35, Why: "echoes that can be told apart where there was a haze", Source: "feedback for a decay: Schroeder, JAES 10(3), 1962",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Reverb) {
			if c.Have(meaning.Delay) <= len(c.used(meaning.Delay)) || off(m, "t60") || get(m, "t60") <= 0 {
				continue
			}
			const time = 0.067 // short enough to blur, long enough not to ring (common practice, no source)
			feedback := float64(q.FeedbackFor(time, q.Duration(get(m, "t60"))))
			e := c.begin("a delay of %s at %s of feedback dies away as fast", text(q.DimDuration, time), text(q.DimRatio, math.Min(0.9, feedback)))
			d := e.replace(m.ID, meaning.Delay, m.Label+" as delay", func(name string) string {
				switch name {
				case "t60", "size":
					return "feedback"
				case "predelay":
					return "time"
				case "lowcut", "mix":
					return name
				case "damping":
					return "tone"
				}
				return ""
			})
			put(d, "time", time)
			put(d, "feedback", math.Min(0.9, feedback))
			put(d, "mix", get(m, "mix")*0.7)
			word(d, "pattern", "stereo")
			delete(e.Map, m.ID+".damping")
			out = append(out, e.Recast)
		}
		return out
	}}
