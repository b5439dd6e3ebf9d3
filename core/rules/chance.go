package rules

import (
	"glossator/core/meaning"
)

var chance = Rule{ID: "chance", Name: "Steps and curves of chance for one another",
	Needs: "an LFO that steps or glides by chance, and another of the two on the target", Uses: "the wave of the same LFO",
	Penalty: stepsForCurves, Why: "both wander as far and as fast: the one jumps where the other glides", Source: "common practice, no source",
	says: func(l *Line) string {
		if l.Param.Name != meaning.PWave || l.From == nil || l.To == nil || l.From.Kind != meaning.LFO {
			return ""
		}
		there, here := named(l.From, meaning.PWave), named(l.To, meaning.PWave)
		switch {
		case there == here || !Chance(there) || !Chance(here):
			return ""
		case here == "smooth random":
			return "it glides by chance where the other jumps"
		case there == "smooth random":
			return "it jumps by chance where the other glides"
		}
		return "both wander by chance"
	}}

// stepsForCurves is how far steps by chance are from curves by chance, of 1 (common practice, no source).
const stepsForCurves = 0.4

// Chance tells whether a wave is one of the random ones.
func Chance(wave string) bool {
	switch wave {
	case "random", "sample and hold", "smooth random":
		return true
	}
	return false
}
