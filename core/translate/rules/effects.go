package rules

import (
	"math"
	"strings"

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

var send = Rule{ID: "send", Name: "Send by the mix of the effect itself",
	Needs: "a send into an effect that the target has as an insert", Uses: "the effect's mix",
	Penalty: 0.1, Why: "the dry sound goes through the effect: the level of both moves with the mix", Source: "parallel and insert: mix = wet / (wet + dry)",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Send) {
			for _, k := range []meaning.Kind{meaning.Reverb, meaning.Delay, meaning.Chorus} {
				all := c.used(k)
				if !strings.Contains(named(m, "to"), string(k)) {
					continue // it feeds another
				}
				if len(all) == 0 || c.Lost[all[0].ID] || all[0].ID[len(all[0].ID)-1] == '~' {
					continue
				}
				wet := q.Level(get(m, "level")).Amplitude()
				e := c.begin("%s is the mix of the %s: %s", m.Label, meaning.SpecOf(k).Label, text(q.DimRatio, wet/(1+wet)))
				n := e.change(all[0].ID)
				put(n, "mix", wet/(1+wet))
				e.drop(m.ID)
				e.Map[m.ID+".level"] = n.ID + ".mix"
				out = append(out, e.Recast)
				break
			}
		}
		return out
	}}
