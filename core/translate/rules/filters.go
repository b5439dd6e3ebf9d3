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
			if named(m, "mode") != "peak" || c.Have(meaning.EQ) == 0 {
				continue
			}
			quality := q.Resonance(math.Min(0.99, get(m, "resonance"))).Q()
			e := c.begin("the peak at %s is made by an EQ band, which stays where it is", text(q.DimFrequency, get(m, "cutoff")))
			b := e.replace(m.ID, meaning.EQ, m.Label+" as EQ", func(name string) string {
				if name == "cutoff" {
					return "freq"
				}
				return ""
			})
			word(b, "mode", "peak")
			put(b, "freq", get(m, "cutoff"))
			put(b, "gain", math.Min(15, 20*math.Log10(math.Max(1, 2*quality))))
			put(b, "q", quality)
			e.Map[m.ID+".resonance"] = b.ID + ".gain"
			out = append(out, e.Recast)
		}
		return out
	}}

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

var drive = Rule{ID: "drive", Name: "Drive by another stage that overloads",
	Needs: "a drive, and a filter, mixer or amplifier on the target that can be driven", Uses: "the drive of that stage",
	Penalty: 0.2, Why: "it distorts before or after the filter where the other did not, and by another curve", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Drive) {
			for _, into := range []meaning.Kind{meaning.Filter, meaning.Mixer, meaning.Amp} {
				if !c.Param(into, "drive") {
					continue
				}
				for _, host := range c.used(into) {
					if get(host, "drive") > 0 || c.Lost[host.ID] || host.ID[len(host.ID)-1] == '~' {
						continue
					}
					e := c.begin("%s of %s is made in the %s: turn the level down first", text(q.DimLevel, get(m, "gain")), m.Label, meaning.SpecOf(into).Label)
					h := e.change(host.ID)
					take(h, m, "gain", "drive")
					e.drop(m.ID)
					e.Map[m.ID+".gain"] = h.ID + ".drive"
					out = append(out, e.Recast)
					break
				}
			}
		}
		return out
	}}
