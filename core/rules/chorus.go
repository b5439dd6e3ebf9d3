package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var chorus = Rule{ID: "chorus", Name: "Chorus by a flanger, a moving delay or unison",
	Needs: "a chorus, and none left on the target", Uses: "a flanger without feedback, a delay with modulation, or unison",
	Penalty: 0.2, Why: "one voice where there were more, or no movement at all", Source: "all are short delays that move; common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Chorus) {
			if c.Have(meaning.Flanger) > len(c.used(meaning.Flanger)) {
				e := c.begin("a flanger without feedback and at its longest delay is a chorus of one voice")
				f := e.replace(m.ID, meaning.Flanger, m.Label+" as flanger", same(meaning.Flanger))
				for name, v := range m.Params {
					f.Params[name] = v
				}
				put(f, meaning.PFeedback, 0)
				delete(f.Params, meaning.PPlace)
				out = append(out, e.Recast)
			}
			if c.Have(meaning.Delay) > len(c.used(meaning.Delay)) && c.Param(meaning.Delay, meaning.PWobble) {
				e := c.begin("a delay of %s that wavers, without feedback, is a chorus of one voice", text(q.DimDuration, 0.02))
				d := e.replace(m.ID, meaning.Delay, m.Label+" as delay", func(name meaning.ParamName) meaning.ParamName {
					switch name {
					case meaning.PMix, meaning.PTone:
						return name
					case meaning.PDelay:
						return meaning.PTime
					case meaning.PDepth, meaning.PRate:
						return meaning.PWobble
					}
					return ""
				})
				put(d, meaning.PTime, 0.02) // common practice, no source
				put(d, meaning.PFeedback, 0)
				put(d, meaning.PWobble, math.Min(1, get(m, meaning.PDepth)/0.005))
				take(d, m, meaning.PMix, meaning.PMix)
				out = append(out, e.Recast)
			}
			if c.Param(meaning.Osc, meaning.PUnison) {
				for _, o := range c.used(meaning.Osc) {
					if get(o, meaning.PUnison) > 1 || c.Lost[o.ID] || o.Changed() {
						continue
					}
					// the greatest change of pitch of a delay that moves by d at a rate f is 2 pi f d
					cents := 1200 * math.Log2(1+2*math.Pi*get(m, meaning.PRate)*get(m, meaning.PDepth))
					e := c.begin("unison of two, %s apart: as far as the chorus bent the pitch", text(q.DimInterval, cents))
					n := e.change(o.ID)
					put(n, meaning.PUnison, 2)
					put(n, meaning.PSpread, math.Min(50, cents))
					e.drop(m.ID)
					e.Map[meaning.Ref(m.ID, meaning.PDepth)] = meaning.Ref(n.ID, meaning.PSpread)
					out = append(out, e.Recast)
					break
				}
			}
		}
		return out
	}}
