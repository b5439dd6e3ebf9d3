package rules

import (
	"slices"

	"glossator/core/meaning"
)

var combined = Rule{ID: "combined", Name: "Two routes in one",
	Needs: "two routes from one source to one destination, and one way on the target", Uses: "the depth of the one",
	Penalty: 0.02, Why: "the two can no longer be set apart", Source: "depths add",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			for _, o := range c.routes() {
				if o.ID == r.ID || c.Lost[o.ID] || o.From != r.From || o.Via != r.Via || o.Polarity != r.Polarity || !slices.Equal(o.To, r.To) || o.Depth.Dim != r.Depth.Dim {
					continue
				}
				e := c.begin("%s and %s add up to %s in one", r.Label, o.Label, text(r.Depth.Dim, r.Depth.Value+o.Depth.Value))
				way := e.route(o.ID)
				way.Depth.Value += r.Depth.Value
				e.Map[meaning.Ref(r.ID, meaning.PDepth)] = meaning.Ref(way.ID, meaning.PDepth)
				e.dropRoute(r.ID) // what was found before stands elsewhere now
				out = append(out, e.Recast)
				break
			}
		}
		return out
	}}
