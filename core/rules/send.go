package rules

import (
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var send = Rule{ID: "send", Name: "Send by the mix of the effect itself",
	Needs: "a send into an effect that the target has as an insert with a mix", Uses: "the effect's mix",
	Penalty: 0.1, Why: "the dry sound goes through the effect: the level of both moves with the mix", Source: "parallel and insert: mix = wet / (wet + dry)",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Send) {
			for _, k := range meaning.EffectKinds {
				all := c.used(k)
				if !strings.HasPrefix(named(m, meaning.PTo), string(k)) && !(len(all) > 0 && c.Meaning.Graph().Feeds(m.ID, all[0].ID)) {
					continue // it feeds another
				}
				if len(all) == 0 || c.Lost[all[0].ID] || all[0].Changed() || !c.Param(k, meaning.PMix) {
					continue // without a mix it would be in line: a parallel compressor is not one in line
				}
				wet := q.Level(get(m, meaning.PLevel)).Amplitude()
				e := c.begin("%s is the mix of the %s: %s", m.Label, meaning.SpecOf(k).Label, text(q.DimRatio, wet/(1+wet)))
				n := e.change(all[0].ID)
				put(n, meaning.PMix, wet/(1+wet))
				e.drop(m.ID)
				e.Map[meaning.Ref(m.ID, meaning.PLevel)] = meaning.Ref(n.ID, meaning.PMix)
				out = append(out, e.Recast)
				break
			}
		}
		return out
	}}
