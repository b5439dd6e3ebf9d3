package rules

import "glossator/core/meaning"

var slot = Rule{ID: "slot", Name: "Route in a free slot of the matrix",
	Needs: "a route that is wired or made by a cable there", Uses: "a slot of the target's matrix",
	Penalty: 0.01, Why: "a slot that is taken is not free for another route", Source: "common practice, no source",
	says: func(l *Line) string {
		if l.Route == nil || l.Means != "slot" || l.Route.Extra[meaning.PDest].Name != "" {
			return ""
		}
		return "in the matrix: " + l.By
	}}
