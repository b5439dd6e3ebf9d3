package rules

import (
	"glossator/core/meaning"
)

var middle = Rule{ID: "bass-middle", Name: "Bass kept in the middle",
	Needs: "an oscillator an octave or more below the key, and width on the target", Uses: "nothing: it is left out of what spreads",
	Penalty: 0.05, Why: "a wide bass is lost where a house sums it to one loudspeaker", Source: "common practice, no source",
	says: func(l *Line) string {
		if l.From == nil || l.From.Kind != meaning.Osc || l.Param.Name != "stereo" || !low(l.From) || l.Got.Value >= l.Want.Value || l.Want.Value == 0 {
			return ""
		}
		return "it is bass: left in the middle"
	}}

// bassBelow is the interval to the key, in cents, from which down an oscillator is bass that stays in
// the middle (common practice, no source).
const bassBelow = -1200

// low tells whether an oscillator is bass.
func low(o *meaning.Module) bool { return get(o, "interval") <= bassBelow }
