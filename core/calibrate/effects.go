package calibrate

import (
	"math"

	"glossator/core/meaning"
	"glossator/core/phrase"
)

// burst is a short note, and the time in which it dies away.
func burst(seconds float64) func(float64) []phrase.Note {
	return func(float64) []phrase.Note { return one(57, seconds) }
}

var effectRecipes = []*Recipe{
	{Name: "delay-time", Label: "Time of a delay by its echoes", Needs: "a short note through the delay", Traps: []string{clickPlay, "Effects behind it have to be off."},
		fits: is([]meaning.ParamName{meaning.PTime}, meaning.Delay), ways: bringing(saws, anySource, inUse, sets(meaning.PFeedback, ratio(0.5))), notes: func(v float64) []phrase.Note { return one(57, math.Min(0.06, math.Max(0.02, v/3))) }, features: []feature{byEcho}},
	{Name: "delay-feedback", Label: "Feedback of a delay by its echoes", Needs: "a short note through the delay", Traps: []string{clickPlay}, Caution: "Feedback near full builds up by itself: turn the monitors down first.",
		fits: is([]meaning.ParamName{meaning.PFeedback}, meaning.Delay), ways: bringing(saws, anySource, inUse, sets(meaning.PTime, second(0.25))), notes: burst(0.06), features: []feature{byFeedback}},
	{Name: "reverb-time", Label: "Time of a reverb by its decay", Needs: "a short note through the reverb", Traps: []string{clickPlay, "Record until it is gone."},
		fits: is([]meaning.ParamName{meaning.PT60}, meaning.Reverb), ways: bringing(saws, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, inUse), notes: burst(0.15), features: []feature{byT60}},
}

// byLeftCentre is how bright what comes after a short note is: how much of it there is does not count.
var byLeftCentre = feature{name: "brightness of what is left after the note", of: func(s *Sound) Figure {
	n := s.note(0)
	after := s.cut(n.End+0.1, n.End+0.8)
	if after.power() < 1e-8 {
		return Figure{Why: "nothing is left after the note"}
	}
	hz := centre(after)
	if hz == 0 {
		return Figure{Why: "nothing is left after the note"}
	}
	return Figure{Value: math.Log2(hz), U: 0.02}
}}

// allWet has nothing of the dry sound beside the effect.
func allWet(t *target, s *setup) bool {
	s.put(meaning.Ref(t.module.ID, meaning.PMix), ratio(1))
	return true
}

// oneBandDown turns down the band on the outer side of the crossover that is measured.
func oneBandDown(t *target, s *setup) bool {
	gain := meaning.PGainLow
	if t.name == meaning.PHigh {
		gain = meaning.PGainHigh
	}
	return s.put(meaning.Ref(t.module.ID, gain), level(-24))
}

// colourRecipes are for the filters within effects: the sound of the effect alone tells them, and not how loud it is.
var colourRecipes = []*Recipe{
	{Name: "echo-colour", Label: "Filter of an effect by what is left after the note", Needs: "a noise source or a sawtooth through the effect", Traps: []string{fxOff, clickPlay},
		fits: is([]meaning.ParamName{meaning.PTone, meaning.PLowcut, meaning.PDamping}, meaning.Delay, meaning.Reverb),
		ways: bringing(onlySaw, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, inUse, allWet, sets(meaning.PTime, second(0.2)), sets(meaning.PFeedback, ratio(0)), sets(meaning.PT60, second(2))), notes: func(float64) []phrase.Note { return one(33, 0.15) }, features: []feature{byLeftCentre}},
	{Name: "wet-colour", Label: "Filter of an effect by its sound alone", Needs: "a noise source or a sawtooth through the effect, and no dry sound beside it", Traps: []string{fxOff, steadyIn},
		fits: is([]meaning.ParamName{meaning.PTone, meaning.PLowcut}, meaning.Chorus, meaning.Flanger, meaning.Drive),
		ways: bringing(onlySaw, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, inUse, allWet, sets(meaning.PDepth, second(0))), notes: held(33, 1.5), features: []feature{byCentre}},
	{Name: "crossover", Label: "Crossover with one band turned down", Needs: "a noise source or a sawtooth through the effect, and a gain of each band", Traps: []string{fxOff, steadyIn, "Nothing is pressed: the ratio stands at 1."},
		fits: is([]meaning.ParamName{meaning.PLow, meaning.PHigh}, meaning.Multiband),
		ways: bringing(onlySaw, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, inUse, allWet, oneBandDown), notes: held(33, 1.5), features: []feature{byCentre}},
}

var likenessRecipes = []*Recipe{
	{Name: "likeness-after", Label: "By what is left after the note", Needs: "a source through the effect", Traps: []string{fxOff, steadyIn},
		fits: func(t *target) bool {
			return t.module != nil && (t.kind == meaning.Delay || t.kind == meaning.Reverb) && t.name == meaning.PMix
		}, ways: bringing(saws, anySource, inUse, sets(meaning.PTime, second(0.3)), sets(meaning.PFeedback, ratio(0.4))), notes: burst(0.2), features: append([]feature{byEchoLevel}, likeness...), trial: true},
	{Name: "likeness", Label: "By likeness to the model", Needs: "a source that is heard through it", Traps: []string{"This rests on the program's model of the instrument: where a recipe with a figure of its own fits, take that.", fxOff, steadyIn},
		fits: func(t *target) bool {
			switch t.kind {
			case meaning.Macro, meaning.Atten, meaning.RouteKind:
				return false
			case meaning.Env, meaning.LFO: // times that have no recipe are not told by a spectrum
				return false
			}
			return true
		}, ways: bringing(saws, anySource, inUse, likely), notes: held(45, 1.6), features: likeness},
}

// likely sets what makes other parameters heard: a cutoff in the middle, some resonance, voices in a unison.
func likely(t *target, s *setup) bool {
	if t.module == nil {
		return true
	}
	id := t.module.ID
	switch t.kind {
	case meaning.Filter:
		s.put(meaning.Ref(id, meaning.PCutoff), hertz(900))
	case meaning.Osc, meaning.Voice:
		if t.name == meaning.PStereo || t.name == meaning.PBlend {
			severalVoices(t, s)
			s.put(meaning.Ref(id, meaning.PSpread), cents(20))
		}
		if t.name == meaning.PFM { // its modulator is another oscillator, which need not be heard
			break
		}
		if t.name == meaning.PFrame {
			s.put(meaning.Ref(id, meaning.PWave), tableWave)
		}
	case meaning.Phaser:
		if t.name == meaning.PCentre { // standing still
			s.put(meaning.Ref(id, meaning.PDepth), ratio(0))
			break
		}
		s.put(meaning.Ref(id, meaning.PRate), hertz(1))
		s.put(meaning.Ref(id, meaning.PDepth), ratio(0.5))
	case meaning.Chorus, meaning.Flanger:
		s.put(meaning.Ref(id, meaning.PRate), hertz(1))
		s.put(meaning.Ref(id, meaning.PDepth), second(0.003))
	case meaning.Drive:
		s.put(meaning.Ref(id, meaning.PMix), ratio(1))
		s.put(meaning.Ref(id, meaning.PGain), level(12))
	case meaning.EQ:
		s.put(meaning.Ref(id, meaning.PGain), level(12))
	case meaning.Delay:
		s.put(meaning.Ref(id, meaning.PTime), second(0.2))
		s.put(meaning.Ref(id, meaning.PFeedback), ratio(0.4))
	}
	return true
}

// byEchoLevel is the level of what comes after a short note against the note.
var byEchoLevel = feature{name: "level after the note", of: func(s *Sound) Figure {
	n := s.note(0)
	during, after := decibels(s.cut(0, n.End).power()), decibels(s.cut(n.End+0.05, n.End+1).power()+1e-11)
	if during < -85 {
		return Figure{Why: "it is silent"}
	}
	return Figure{Value: after - during, U: 0.1}
}}
