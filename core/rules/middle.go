package rules

import (
	"glossator/core/meaning"
)

var middle = Rule{ID: "bass-middle", Name: "Bass kept in the middle",
	Needs: "an oscillator an octave or more below the key, and a rule that spreads the sound", Uses: "the width of the unison or chorus that the rule takes",
	Penalty: 0.05, Why: "a wide bass is lost where a house sums it to one loudspeaker", Source: "common practice, no source",
	says: func(l *Line) string {
		switch {
		case l.Low == 0:
			return ""
		case l.Low == 1:
			return "the low oscillator left in the middle"
		}
		return "the low oscillators left in the middle"
	}}

// keepMiddle notes that a use leaves low oscillators out of what spreads.
func (e *edit) keepMiddle(low int) {
	if text := middle.Says(&Line{Low: low}); text != "" {
		e.Text += ", " + text
		e.Also = append(e.Also, &middle)
	}
}

// narrowForBass leaves the sides out of a chorus that a rule adds to a sound with bass in it, where the target's can.
func (c *Case) narrowForBass(e *edit, chorus *meaning.Module) {
	n := 0
	for _, o := range c.used(meaning.Osc) {
		if low(o) {
			n++
		}
	}
	if n > 0 && c.Param(meaning.Chorus, meaning.PStereo) {
		put(chorus, meaning.PStereo, 0)
		e.keepMiddle(n)
	}
}

// bassBelow is the interval to the key, in cents, from which down an oscillator is bass that stays in
// the middle (common practice, no source).
const bassBelow = -1200

// low tells whether an oscillator is bass.
func low(o *meaning.Module) bool { return get(o, meaning.PInterval) <= bassBelow }
