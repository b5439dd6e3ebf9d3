package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// countedAt gives the line of a cutoff that is as printed at other keys there and here.
func countedAt(there, here q.Note) *Line {
	l := line(meaning.Filter, "cutoff", cut, cut)
	l.FromPivot, l.ToPivot = there, here
	return l
}

var _ = heard(&pivot,
	said{"another pivot", countedAt(60, 36), "C4 there, C2 here"},
	said{"the same pivot", countedAt(60, 60), ""},
)
