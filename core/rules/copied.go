package rules

import (
	"fmt"
	"maps"

	"glossator/core/meaning"
)

var copied = Rule{ID: "copied", Name: "One envelope or LFO set alike on two",
	Needs: "an envelope or LFO that moves two things, and on the target one for each", Uses: "a second envelope or LFO, set alike",
	Penalty: 0.03, Why: "both have to be moved together, and two LFOs that run free drift apart", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, kind := range []meaning.Kind{meaning.Env, meaning.LFO} {
			if c.Have(kind) <= len(c.used(kind)) {
				continue
			}
			for _, m := range c.used(kind) {
				var lost []*meaning.Route
				made := 0
				for _, r := range c.from(m.ID) {
					if c.Lost[r.ID] {
						lost = append(lost, r)
					} else {
						made++
					}
				}
				if c.Lost[m.ID] || made == 0 || len(lost) == 0 {
					continue
				}
				e := c.begin("%s is set alike on a second one", m.Label)
				x := e.add(route(lost[0]), "alike", kind, m.Label+" again")
				x.Params = maps.Clone(m.Params)
				id := x.ID
				for i, r := range lost {
					if e.route(r.ID).From = id; i == 0 {
						e.Text += fmt.Sprintf(", for %s", r.Label)
					}
				}
				out = append(out, e.Recast)
			}
		}
		return out
	}}
