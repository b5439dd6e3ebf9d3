package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var drive = Rule{ID: "drive", Name: "Drive by another stage that overloads",
	Needs: "a drive, and a filter, mixer or amplifier on the target that can be driven", Uses: "the drive of that stage",
	Penalty: 0.2, Why: "it distorts before or after the filter where the other did not, and by another curve", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Drive) {
			for _, into := range []meaning.Kind{meaning.Filter, meaning.Mixer, meaning.Amp} {
				if !c.Param(into, meaning.PDrive) {
					continue
				}
				for _, host := range c.used(into) {
					if get(host, meaning.PDrive) > 0 || c.Lost[host.ID] || host.Changed() {
						continue
					}
					e := c.begin("%s of %s is made in the %s: turn the level down first", text(q.DimLevel, get(m, meaning.PGain)), m.Label, meaning.SpecOf(into).Label)
					h := e.change(host.ID)
					take(h, m, meaning.PGain, meaning.PDrive)
					e.drop(m.ID)
					e.Map[meaning.Ref(m.ID, meaning.PGain)] = meaning.Ref(h.ID, meaning.PDrive)
					out = append(out, e.Recast)
					break
				}
			}
		}
		return out
	}}
