package calibrate

import (
	"math"

	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

var byTwoPitches = feature{name: "interval of two keys", of: func(s *Sound) Figure {
	a := from([]hear.Measured{s.steady(0).listen().Pitch()}, true, "pitch")
	b := from([]hear.Measured{s.steady(1).listen().Pitch()}, true, "pitch")
	if !a.known() {
		return a
	}
	if !b.known() {
		return b
	}
	return Figure{Value: 1200 * (b.Value - a.Value), U: 1200 * math.Hypot(a.U, b.U)}
}}

// alone plays one voice that slides.
func alone(t *target, s *setup) bool {
	for _, id := range t.modules(meaning.Voice) {
		s.put(meaning.Ref(id, meaning.PMode), q.Named(q.DimName, "mono"))
		s.put(meaning.Ref(id, meaning.PGlideWhen), q.Named(q.DimName, "legato"))
	}
	return true
}

func severalVoices(t *target, s *setup) bool {
	s.put(meaning.Ref(t.module.ID, meaning.PUnison), q.Quantity{Dim: q.DimCount, Value: 2})
	return true
}

var bySpread = feature{name: "spread of the unison", of: func(s *Sound) Figure {
	f := from(s.steady(0).listen().Unison(), true, "unison spread")
	if !f.known() {
		f = from([]hear.Measured{s.steady(0).listen().Detune()}, true, "detune")
	}
	return f
}}

var pitchRecipes = []*Recipe{
	{Name: "pitch", Label: "Interval and fine tune by the pitch", Needs: "an oscillator that is heard alone", Traps: []string{warmUp, sameSide},
		fits: is([]meaning.ParamName{meaning.PInterval, meaning.PTune, meaning.PTranspose}, meaning.Osc, meaning.Operator, meaning.Sub, meaning.Voice), ways: bringing(saws, tonal), notes: held(57, 1.5), features: []feature{byPitch.against(againstNone)}},
	{Name: "key-follow", Label: "Key follow by two keys", Needs: "an oscillator that is heard alone", Traps: []string{warmUp},
		fits: is([]meaning.ParamName{meaning.PKey}, meaning.Osc, meaning.Operator), ways: bringing(saws, tonal), notes: twoNotes(48, 60, 100, 100), features: []feature{byTwoPitches}},
	{Name: "pulse-width", Label: "Pulse width by the harmonics", Needs: "an oscillator with a pulse that is heard alone", Traps: []string{fxOff, sameSide},
		fits: is([]meaning.ParamName{meaning.PWidth}, meaning.Osc, meaning.Sub), ways: bringing([]string{q.WavePulse}, tonal), notes: held(45, 1.5), features: []feature{byWidth}},
	{Name: "glide", Label: "Glide by two keys", Needs: "a mode in which one key slides to the next", Traps: []string{"Hold the first key while the second is struck."},
		fits: is([]meaning.ParamName{meaning.PGlide}, meaning.Voice), ways: bringing(saws, tonal, alone), notes: func(v float64) []phrase.Note {
			long := math.Min(math.Max(2.5*v, 0.8), 27)
			return []phrase.Note{{End: 0.7, Key: 45, Velocity: 100}, {Start: 0.6, End: 0.6 + long, Key: 57, Velocity: 100, Slide: true}}
		}, features: []feature{byGlide}},
	{Name: "unison-spread", Label: "Spread of a unison by its beats", Needs: "a unison of two voices", Traps: []string{warmUp},
		fits: is([]meaning.ParamName{meaning.PSpread}, meaning.Osc, meaning.Voice), ways: bringing(saws, tonal, severalVoices), notes: held(57, 4), features: []feature{bySpread}},
}
