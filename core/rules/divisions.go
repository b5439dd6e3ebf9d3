package rules

import (
	"fmt"

	q "glossator/core/quantity"
)

var divisions = Rule{ID: "division", Name: "Free value for a division at the tempo, and a division for a free value",
	Needs: "a rate or time by the tempo, and none on the target, or the reverse", Uses: "the rate or time of the same module",
	Penalty: 0.1, Why: "the one drifts if the tempo moves, the other moves with it", Source: "arithmetic: a beat lasts 60 s over the tempo",
	says: func(l *Line) string {
		switch {
		case l.Want.Beats > 0 && l.Got.Beats == 0 && !l.Got.Off:
			return fmt.Sprintf("a free value for %s at %g: it drifts if the tempo moves", note(l.Want.Beats), float64(l.Tempo))
		case l.Want.Beats == 0 && l.Got.Beats > 0 && !l.Want.Off:
			return fmt.Sprintf("the nearest division, %s at %g: it moves with the tempo", note(l.Got.Beats), float64(l.Tempo))
		}
		return ""
	}}

func note(beats float64) string { return q.Quantity{Dim: q.DimBeats, Value: beats}.String() }
