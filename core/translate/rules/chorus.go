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
				put(f, "feedback", 0)
				delete(f.Params, "place")
				out = append(out, e.Recast)
			}
			if c.Have(meaning.Delay) > len(c.used(meaning.Delay)) && c.Param(meaning.Delay, "wobble") {
				e := c.begin("a delay of %s that wavers, without feedback, is a chorus of one voice", text(q.DimDuration, 0.02))
				d := e.replace(m.ID, meaning.Delay, m.Label+" as delay", func(name string) string {
					switch name {
					case "mix", "tone":
						return name
					case "delay":
						return "time"
					case "depth", "rate":
						return "wobble"
					}
					return ""
				})
				put(d, "time", 0.02) // common practice, no source
				put(d, "feedback", 0)
				put(d, "wobble", math.Min(1, get(m, "depth")/0.005))
				take(d, m, "mix", "mix")
				out = append(out, e.Recast)
			}
			if c.Param(meaning.Osc, "unison") {
				for _, o := range c.used(meaning.Osc) {
					if get(o, "unison") > 1 || c.Lost[o.ID] || o.ID[len(o.ID)-1] == '~' {
						continue
					}
					// the greatest change of pitch of a delay that moves by d at a rate f is 2 pi f d
					cents := 1200 * math.Log2(1+2*math.Pi*get(m, "rate")*get(m, "depth"))
					e := c.begin("unison of two, %s apart: as far as the chorus bent the pitch", text(q.DimInterval, cents))
					n := e.change(o.ID)
					put(n, "unison", 2)
					put(n, "spread", math.Min(50, cents))
					e.drop(m.ID)
					e.Map[m.ID+".depth"] = n.ID + ".spread"
					out = append(out, e.Recast)
					break
				}
			}
		}
		return out
	}}
