package calibrate

import (
	"math"

	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// filterAt puts the filter that is measured, or that a route moves, at a cutoff.
func filterAt(cutoff float64) func(t *target, s *setup) bool {
	return func(t *target, s *setup) bool {
		for _, id := range t.filters() {
			s.put(meaning.Ref(id, meaning.PCutoff), hertz(cutoff))
		}
		return true
	}
}

// filters lists the filters that are in play: the one that is measured, or those that a route moves.
func (t *target) filters() []string {
	if t.module != nil && t.kind == meaning.Filter {
		return []string{t.module.ID}
	}
	var out []string
	for _, to := range t.to {
		if id, p := meaning.Split(to); p == meaning.PCutoff && t.kindOf(to) == meaning.Filter {
			out = append(out, id)
		}
	}
	return out
}

// envelopeUp opens the envelope that moves a cutoff, at once and for good.
func envelopeUp(t *target, s *setup) bool {
	if t.kindOf(t.from+".x") == meaning.Env {
		s.put(meaning.Ref(t.from, meaning.PAttack), q.OffOf(q.DimDuration))
		s.put(meaning.Ref(t.from, meaning.PSustain), ratio(1))
	}
	return true
}

var noises = []meaning.Kind{meaning.Noise}

var cutoffParam = is([]meaning.ParamName{meaning.PCutoff}, meaning.Filter)

// octavesOf tells whether a route from a source of a kind moves a cutoff.
func movesCutoff(kinds ...meaning.Kind) func(t *target) bool {
	return func(t *target) bool {
		if t.kind != meaning.RouteKind || t.name != meaning.PDepth || len(t.filters()) == 0 {
			return false
		}
		for _, k := range kinds {
			if t.kindOf(t.from+".x") == k {
				return true
			}
		}
		return false
	}
}

var byTwoCutoffs = feature{name: "cutoff of the second note over the first", of: func(s *Sound) Figure {
	one := from(s.steady(0).listen().Cutoff(""), true, "cutoff", "high-pass", "band-pass")
	two := from(s.steady(1).listen().Cutoff(""), true, "cutoff", "high-pass", "band-pass")
	if !one.known() {
		return one
	}
	if !two.known() {
		return two
	}
	return Figure{Value: two.Value - one.Value, U: math.Hypot(one.U, two.U)}
}}

// twoNotes are two keys, or two ways to strike one.
func twoNotes(keyA, keyB float64, hardA, hardB int) func(float64) []phrase.Note {
	return func(float64) []phrase.Note {
		return []phrase.Note{{Start: 0, End: 0.8, Key: keyA, Velocity: hardA}, {Start: 1.1, End: 1.9, Key: keyB, Velocity: hardB}}
	}
}

var cutoffRecipes = []*Recipe{
	{Name: "cutoff-noise", Label: "Cutoff by noise", Needs: "a noise source before the filter", Traps: []string{fxOff, sameSide, notHot},
		fits: cutoffParam, ways: bringing(nil, noises), notes: held(57, 2), features: append([]feature{byCutoff("noise")}, likeness...)},
	{Name: "cutoff-saw", Label: "Cutoff by a sawtooth", Needs: "an oscillator with a sawtooth before the filter", Traps: []string{fxOff, sameSide, notHot, "Use a low key: the cutoff is told by harmonics on both sides of it."},
		fits: cutoffParam, ways: bringing(onlySaw, tonal), notes: held(33, 1.5), features: append([]feature{byCutoff("saw")}, likeness...)},
	{Name: "cutoff-self", Label: "Cutoff by self-oscillation", Needs: "a filter that oscillates by itself at full resonance", Traps: []string{warmUp, sameSide}, Caution: selfLoud,
		fits: cutoffParam, ways: func(t *target) []func(s *setup) bool {
			return []func(s *setup) bool{func(s *setup) bool {
				s.put(meaning.Ref(t.module.ID, meaning.PTrack), ratio(0))
				return s.full(meaning.Ref(t.module.ID, meaning.PResonance))
			}}
		}, notes: held(57, 1.5), features: []feature{{name: "pitch of the whistle", of: func(s *Sound) Figure {
			return from([]hear.Measured{s.steady(0).listen().Pitch()}, true, "pitch")
		}, direct: exp2}}},
	{Name: "resonance-noise", Label: "Resonance by noise", Needs: "a noise source before the filter", Traps: []string{fxOff, sameSide, notHot}, Caution: selfLoud,
		fits: is([]meaning.ParamName{meaning.PResonance}, meaning.Filter), ways: bringing(nil, noises, filterAt(1200)), notes: held(57, 2.5), features: append([]feature{byPeak("noise")}, likeness...)},
	{Name: "resonance-saw", Label: "Resonance by a sawtooth", Needs: "an oscillator with a sawtooth before the filter", Traps: []string{fxOff, sameSide, notHot}, Caution: selfLoud,
		fits: is([]meaning.ParamName{meaning.PResonance}, meaning.Filter), ways: bringing(onlySaw, tonal, filterAt(900)), notes: held(33, 1.5), features: append([]feature{byPeak("saw")}, likeness...)},
	{Name: "tracking", Label: "Key tracking by two keys", Needs: "a noise source or a sawtooth before the filter", Traps: []string{sameSide},
		fits: is([]meaning.ParamName{meaning.PTrack}, meaning.Filter), ways: bringing(onlySaw, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, filterAt(900)), notes: twoNotes(36, 67, 100, 100), features: []feature{byTwoCutoffs, byTwoCentres}},
	{Name: "filter-amount", Label: "Amount of an envelope on the cutoff", Needs: "a noise source or a sawtooth before the filter", Traps: []string{"Sustain stands at full and the attack at nothing: only so does the amount stand still.", sameSide},
		fits: movesCutoff(meaning.Env), ways: bringing(onlySaw, []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}, filterAt(600), envelopeUp), notes: held(36, 1.5), features: append([]feature{byMovedCutoff}, likeness...)},
}

// byMovedCutoff is where an amount moves a cutoff to, against where it is without: the cutoff itself is not the amount, so that there is no direct way.
var byMovedCutoff = func() feature {
	f := byCutoff("").against(againstNone)
	f.direct = nil
	return f
}()

func byPeak(source string) feature {
	return feature{name: "height of the peak", of: func(s *Sound) Figure {
		f := from(s.steady(0).listen().Cutoff(source), false, "resonant peak")
		if f.known() {
			f.U = max(f.U, 0.5)
		}
		return f
	}}
}
