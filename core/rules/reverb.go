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
			if c.Have(meaning.Delay) <= len(c.used(meaning.Delay)) || off(m, meaning.PT60) || get(m, meaning.PT60) <= 0 {
				continue
			}
			const time = 0.067 // short enough to blur, long enough not to ring (common practice, no source)
			feedback := float64(q.FeedbackFor(time, q.Duration(get(m, meaning.PT60))))
			e := c.begin("a delay of %s at %s of feedback dies away as fast", text(q.DimDuration, time), text(q.DimRatio, math.Min(0.9, feedback)))
			d := e.replace(m.ID, meaning.Delay, m.Label+" as delay", func(name meaning.ParamName) meaning.ParamName {
				switch name {
				case meaning.PT60, meaning.PSize:
					return meaning.PFeedback
				case meaning.PPredelay:
					return meaning.PTime
				case meaning.PLowcut, meaning.PMix:
					return name
				case meaning.PDamping:
					return meaning.PTone
				}
				return ""
			})
			put(d, meaning.PTime, time)
			put(d, meaning.PFeedback, math.Min(0.9, feedback))
			put(d, meaning.PMix, get(m, meaning.PMix)*0.7)
			word(d, meaning.PPattern, "stereo")
			delete(e.Map, meaning.Ref(m.ID, meaning.PDamping))
			out = append(out, e.Recast)
		}
		return out
	}}
