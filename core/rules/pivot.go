package rules

import (
	"fmt"

	"glossator/core/meaning"
)

var pivot = Rule{ID: "pivot", Name: "Cutoff counted from another key",
	Needs: "a cutoff that follows the keys, and another key at which it is as printed", Uses: "the cutoff of the same filter",
	Penalty: 0.01, Why: "the number is another, the sound the same", Source: "common practice, no source",
	says: func(l *Line) string {
		if l.Param.Name != meaning.PCutoff || l.Want.Off || l.FromPivot == l.ToPivot {
			return ""
		}
		return fmt.Sprintf("the pivot is %s there, %s here: both are counted at C4", l.FromPivot.NoteName(), l.ToPivot.NoteName())
	}}
