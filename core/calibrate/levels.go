package calibrate

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var sounding = []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator}

// fromPlay tells whether a route takes a way of playing to a parameter.
func fromPlay(source string, param meaning.ParamName) func(t *target) bool {
	return func(t *target) bool {
		if t.kind != meaning.RouteKind || t.name != meaning.PDepth || t.from != source {
			return false
		}
		for _, to := range t.to {
			if _, p := meaning.Split(to); p == param {
				return true
			}
		}
		return false
	}
}

// ringing has two oscillators multiplied a fifth apart, themselves silent where they can be: of one pitch the product would hang on their phases.
func ringing(t *target) []func(s *setup) bool {
	ids := t.modules(meaning.Osc)
	if len(ids) < 2 {
		return nil
	}
	return []func(s *setup) bool{func(s *setup) bool {
		for _, id := range ids[:2] {
			s.put(meaning.Ref(id, meaning.POn), q.Named(q.DimName, "on"))
			for _, w := range saws {
				if s.can(meaning.Ref(id, meaning.PWave), q.Named(q.DimWave, w)) {
					s.put(meaning.Ref(id, meaning.PWave), q.Named(q.DimWave, w))
					break
				}
			}
		}
		s.put(meaning.Ref(ids[1], meaning.PInterval), cents(700))
		return true
	}}
}

var levelRecipes = []*Recipe{
	{Name: "ring-level", Label: "Level of a product by the loudness", Needs: "two oscillators that are multiplied", Traps: []string{"The oscillators themselves are turned down.", steadyIn, notHot},
		fits: is([]meaning.ParamName{meaning.PLevel}, meaning.Ring), ways: ringing, notes: held(57, 1.2), features: []feature{byLevel}},
	{Name: "level", Label: "Level by the loudness", Needs: "a source that is heard alone", Traps: []string{steadyIn, notHot, sameSide},
		fits: is([]meaning.ParamName{meaning.PLevel, meaning.POutput}, meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator, meaning.Amp, meaning.Mixer, meaning.Filter), ways: bringing(saws, sounding), notes: held(57, 1.2), features: []feature{byLevel}},
	{Name: "pan", Label: "Pan by the channels", Needs: "both channels recorded", Traps: []string{"Both inputs have to stand at the same gain."},
		fits: is([]meaning.ParamName{meaning.PPan}, meaning.Osc, meaning.Amp, meaning.Operator), ways: bringing(saws, sounding), notes: held(57, 1), features: []feature{byPan}},
	{Name: "velocity-level", Label: "Velocity on the level by two strokes", Needs: "a keyboard that sends velocity", Traps: []string{steadyIn},
		fits: fromPlay("velocity", meaning.PLevel), ways: bringing(saws, sounding), notes: twoNotes(57, 57, 30, 127), features: []feature{byTwoLevels}},
	{Name: "velocity-cutoff", Label: "Velocity on the cutoff by two strokes", Needs: "a keyboard that sends velocity, and a noise source or a sawtooth", Traps: []string{sameSide},
		fits: fromPlay("velocity", meaning.PCutoff), ways: bringing(onlySaw, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, filterAt(600)), notes: twoNotes(45, 45, 30, 127), features: []feature{byTwoCutoffs, byTwoCentres}},
	{Name: "key-cutoff", Label: "Keys on the cutoff by two keys", Needs: "a noise source or a sawtooth before the filter", Traps: []string{sameSide},
		fits: fromPlay("key", meaning.PCutoff), ways: bringing(onlySaw, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, filterAt(900)), notes: twoNotes(36, 67, 100, 100), features: []feature{byTwoCutoffs, byTwoCentres}},
}
