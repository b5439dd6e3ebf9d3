package rules

import (
	"fmt"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var slopes = Rule{ID: "slope", Name: "Another slope of filter, with its peak kept",
	Needs: "a filter of other poles than the target's", Uses: "resonance and cutoff of the same filter",
	Penalty: 0.1, Why: "what lies beyond the cutoff falls by other decibels an octave", Source: "circuit theory: poles and peaks of the ladder and of two poles",
	says: func(l *Line) string {
		if l.Param.Name != meaning.PResonance || l.From == nil || l.From.Kind != meaning.Filter || !OtherPoles(l.From, l.To) || l.Want.Value == 0 {
			return ""
		}
		from := int(get(l.From, meaning.PPoles))
		peak := dsp.PeakDB(from, l.Want.Value)
		if peak < 0.5 {
			return fmt.Sprintf("next to no peak there: %d poles there, %g here", from, get(l.To, meaning.PPoles))
		}
		return fmt.Sprintf("the peak of %s dB is kept: %d poles there, %g here", q.Number(peak, 2), from, get(l.To, meaning.PPoles))
	}}

// OtherPoles tells whether two filters have different numbers of poles.
func OtherPoles(w, r *meaning.Module) bool { return get(w, meaning.PPoles) != get(r, meaning.PPoles) }

// KeptPeak gives the resonance that a target's filter needs for the peak of a source's.
func KeptPeak(w, r *meaning.Module) float64 {
	return dsp.EqualPeak(get(w, meaning.PResonance), int(get(w, meaning.PPoles)), int(get(r, meaning.PPoles)))
}
