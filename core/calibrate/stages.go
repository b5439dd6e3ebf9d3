package calibrate

import (
	"math"
	"slices"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// opens lists the routes by which an envelope does something: to the amplifier first, then to a cutoff.
func (t *target) opens(level bool) (routes []int) {
	for i := range t.c.Routes {
		r := &t.c.Routes[i]
		if r.From != t.module.ID {
			continue
		}
		_, p := meaning.Split(r.To[0])
		k := t.kindOf(r.To[0])
		if level && p == meaning.PLevel && (k == meaning.Amp || k == meaning.Operator) || !level && p == meaning.PCutoff && k == meaning.Filter {
			routes = append(routes, i)
		}
	}
	return routes
}

// shapes makes set-ups in which an envelope shapes the level, or else a cutoff.
func shapes(level bool, stage func(t *target, s *setup)) func(t *target) []func(s *setup) bool {
	return func(t *target) (out []func(s *setup) bool) {
		kinds := anySource
		if !level {
			kinds = []meaning.Kind{meaning.Noise, meaning.Osc, meaning.Operator}
		}
		for _, i := range t.opens(level) {
			r := &t.c.Routes[i]
			ids := t.modules(kinds...)
			if id, _ := meaning.Split(r.To[0]); t.kindOf(r.To[0]) == meaning.Operator {
				ids = []string{id}
			}
			for _, id := range ids {
				out = append(out, func(s *setup) bool {
					if !s.bring(id, saws...) || !s.meet(r.When) {
						return false
					}
					s.put(meaning.Ref(r.ID, meaning.POn), q.Named(q.DimName, "on"))
					if level {
						s.full(meaning.Ref(r.ID, meaning.PDepth))
					} else { // as far as the brightness goes along
						s.put(meaning.Ref(r.ID, meaning.PDepth), q.Quantity{Dim: meaning.DepthDim(q.DimFrequency), Value: 4})
					}
					t.through(s, r.Via)
					if !level {
						to, _ := meaning.Split(r.To[0])
						s.put(meaning.Ref(to, meaning.PCutoff), hertz(250))
					}
					stage(t, s)
					return true
				})
			}
		}
		return out
	}
}

func at(t *target, s *setup, name meaning.ParamName, want q.Quantity) {
	s.put(meaning.Ref(t.module.ID, name), want)
}

func attackStage(t *target, s *setup) {
	at(t, s, meaning.PSustain, ratio(1))
}

func decayStage(t *target, s *setup) {
	at(t, s, meaning.PAttack, q.OffOf(q.DimDuration))
	at(t, s, meaning.PSustain, ratio(0))
}

func releaseStage(t *target, s *setup) {
	at(t, s, meaning.PAttack, q.OffOf(q.DimDuration))
	at(t, s, meaning.PSustain, ratio(1))
}

// tailStage keeps the amplifier open after the key, by the other envelopes.
func tailStage(t *target, s *setup) {
	releaseStage(t, s)
	for i := range t.c.Routes {
		if r := &t.c.Routes[i]; t.c.Opens(i) && r.From != t.module.ID {
			s.put(meaning.Ref(r.From, meaning.PRelease), second(5))
		}
	}
}

func sustainStage(t *target, s *setup) {
	at(t, s, meaning.PAttack, q.OffOf(q.DimDuration))
	at(t, s, meaning.PDecay, second(0.08))
}

// breakStage falls at once to the level between the two decays, and from there as slowly as it can; secondStage falls by its second decay alone.
func breakStage(t *target, s *setup) {
	decayStage(t, s)
	at(t, s, meaning.PDecay, second(0.02))
	s.full(meaning.Ref(t.module.ID, meaning.PDecay2))
}

func secondStage(t *target, s *setup) {
	decayStage(t, s)
	at(t, s, meaning.PBreak, ratio(1))
	at(t, s, meaning.PDecay, q.OffOf(q.DimDuration))
}

// lasting holds a key for so many times what is measured, within bounds.
func lasting(times, least, most float64) func(value float64) []phrase.Note {
	return func(value float64) []phrase.Note { return one(57, math.Min(math.Max(times*value, least), most)) }
}

func stage1(name meaning.ParamName) func(t *target) bool {
	return is([]meaning.ParamName{name}, meaning.Env)
}

var afterWarm = []string{fxOff, sameSide}

var stageRecipes = []*Recipe{
	{Name: "attack", Label: "Attack by the level", Needs: "an envelope on the amplifier", Traps: afterWarm, fits: stage1(meaning.PAttack), ways: shapes(true, attackStage), notes: lasting(2.5, 0.4, 25), features: []feature{byAttack}},
	{Name: "decay", Label: "Decay by the level", Needs: "an envelope on the amplifier", Traps: append([]string{"Sustain stands at nothing."}, afterWarm...), fits: stage1(meaning.PDecay), ways: shapes(true, decayStage), notes: lasting(3, 0.5, 25), features: []feature{byDecay}},
	{Name: "release", Label: "Release by the level", Needs: "an envelope on the amplifier", Traps: append([]string{"Record until the sound is gone."}, afterWarm...), fits: stage1(meaning.PRelease), ways: shapes(true, releaseStage), notes: held(57, 0.5), features: []feature{byRelease}},
	{Name: "sustain", Label: "Sustain by the level", Needs: "an envelope on the amplifier", Traps: []string{steadyIn, sameSide}, fits: stage1(meaning.PSustain), ways: shapes(true, sustainStage), notes: held(57, 2), features: []feature{byLate}},
	{Name: "delay-stage", Label: "Delay of an envelope by the level", Needs: "an envelope on the amplifier, and a recording that begins with the key", Traps: afterWarm, fits: stage1(meaning.PDelay), ways: shapes(true, delayStage), notes: lasting(1.5, 0.6, 20), features: []feature{byOnset}},
	{Name: "hold-stage", Label: "Hold of an envelope by the level", Needs: "an envelope on the amplifier", Traps: append([]string{"Sustain stands at nothing."}, afterWarm...), fits: stage1(meaning.PHold), ways: shapes(true, holdStage), notes: lasting(1.5, 0.6, 20), features: []feature{byHold}},
	{Name: "break-level", Label: "Level between two decays", Needs: "an envelope on the amplifier", Traps: append([]string{"The second decay stands at its longest."}, steadyIn, sameSide), fits: stage1(meaning.PBreak), ways: shapes(true, breakStage), notes: held(57, 0.5), features: []feature{byLate}},
	{Name: "second-decay", Label: "Second decay by the level", Needs: "an envelope on the amplifier", Traps: append([]string{"The level between the decays stands at full, sustain at nothing."}, afterWarm...), fits: stage1(meaning.PDecay2), ways: shapes(true, secondStage), notes: lasting(3, 0.5, 25), features: []feature{byDecay}},
	{Name: "filter-attack", Label: "Attack by the cutoff", Needs: "an envelope on a cutoff", Traps: afterWarm, fits: stage1(meaning.PAttack), ways: shapes(false, attackStage), notes: lasting(2.5, 0.6, 20), features: []feature{byFilterAttack, byRise}},
	{Name: "filter-decay", Label: "Decay by the cutoff", Needs: "an envelope on a cutoff", Traps: afterWarm, fits: stage1(meaning.PDecay), ways: shapes(false, decayStage), notes: lasting(3, 0.8, 20), features: []feature{byFilterDecay, byFall}},
	{Name: "filter-release", Label: "Release by the cutoff", Needs: "an envelope on a cutoff, and another that keeps the amplifier open", Traps: afterWarm, fits: stage1(meaning.PRelease), ways: shapes(false, tailStage), notes: held(45, 0.6), features: []feature{byFallAfter}},
	{Name: "filter-sustain", Label: "Sustain by the cutoff", Needs: "an envelope on a cutoff", Traps: afterWarm, fits: stage1(meaning.PSustain), ways: shapes(false, sustainStage), notes: held(45, 2), features: []feature{byLateCentre}},
}

// delayStage opens at once after the delay; holdStage falls at once after the hold.
func delayStage(t *target, s *setup) {
	at(t, s, meaning.PAttack, q.OffOf(q.DimDuration))
	at(t, s, meaning.PSustain, ratio(1))
}

func holdStage(t *target, s *setup) {
	decayStage(t, s)
	at(t, s, meaning.PDecay, second(0.02))
}

// levels gives the level of a sound in steps of a millisecond, smoothed over a period of a low note, and its highest.
func (s *Sound) levels() (all []float64, most float64) {
	step, wide := int(s.Rate/1000), int(s.Rate/100)
	for i := 0; i+wide <= len(s.Left); i += step {
		sum := 0.0
		for k := i; k < i+wide; k++ {
			sum += s.Left[k] * s.Left[k]
			if s.Right != nil {
				sum += s.Right[k] * s.Right[k]
			}
		}
		all = append(all, sum/float64(wide))
		most = max(most, all[len(all)-1])
	}
	return all, most
}

// crossing gives when the level first comes over a quarter of its highest power, and when it last was: the middles of a rise and a fall, in seconds.
func (s *Sound) crossing() (up, down float64, ok bool) {
	all, most := s.levels()
	first, last := -1, -1
	for i, p := range all {
		if p > most/4 {
			if first < 0 {
				first = i
			}
			last = i
		}
	}
	return float64(first)/1000 + 0.005, float64(last)/1000 + 0.005, first >= 0 && decibels(most) > -75
}

// byOnset is how long after the key the sound comes, byHold how long it stays at its highest: in octaves of a second, with what the shortest takes.
var (
	byOnset = feature{name: "time until it sounds", of: func(s *Sound) Figure {
		if len(s.Notes) == 0 {
			return Figure{Why: "a recording alone does not tell when the key was struck"}
		}
		up, _, ok := s.crossing()
		return timed(up-s.Notes[0].Start, ok)
	}}
	byHold = feature{name: "time at its highest", of: func(s *Sound) Figure {
		up, down, ok := s.crossing()
		return timed(down-up, ok)
	}}
)

func timed(seconds float64, ok bool) Figure {
	if !ok {
		return Figure{Why: "it is silent"}
	}
	if seconds < 0.003 {
		return Figure{Why: "it is too short to be told"}
	}
	return Figure{Value: math.Log2(seconds), U: 0.002 / seconds / math.Ln2}
}

// byLate is the level long after the key was struck.
var byLate = feature{name: "level that it settles at", relative: againstTop, of: func(s *Sound) Figure {
	n := s.note(0)
	p := decibels(s.cut(n.End-0.8, n.End-0.05).power())
	if p < -85 {
		return Figure{Why: "it is silent"}
	}
	return Figure{Value: p, U: 0.05}
}}

var byLateCentre = feature{name: "brightness that it settles at", relative: againstTop, of: func(s *Sound) Figure {
	n := s.note(0)
	hz := centre(s.cut(n.End-0.8, n.End-0.05))
	if hz == 0 {
		return Figure{Why: "it is silent"}
	}
	return Figure{Value: math.Log2(hz), U: 0.02}
}}

// middles smooths a course: each place is the middle one of five.
func middles(y []float64) []float64 {
	out := make([]float64, len(y))
	for i := range y {
		near := slices.Clone(y[max(0, i-2):min(len(y), i+3)])
		slices.Sort(near)
		out[i] = near[len(near)/2]
	}
	return out
}

// crossing gives when the brightness has gone a share of its way, as a binary logarithm of seconds.
func crossing(s *Sound, share float64) Figure {
	hop, hz := s.listen().Centroids()
	n := s.note(0)
	last := min(len(hz), int(n.End/hop))
	var y []float64
	var t []float64
	for i := range last {
		if !math.IsNaN(hz[i]) && hz[i] > 0 {
			y, t = append(y, math.Log2(hz[i])), append(t, float64(i)*hop)
		}
	}
	if len(y) < 8 {
		return Figure{Why: "the sound is too short"}
	}
	y = middles(y)
	a, b := y[1], y[len(y)-2]
	if share > 0.5 { // a rise: from the lowest to the last
		a = min(y[0], y[1], y[2])
	} else {
		for i := range min(6, len(y)) {
			a = max(a, y[i])
		}
	}
	if math.Abs(b-a) < 0.3 {
		return Figure{Why: "the brightness does not move enough"}
	}
	for i := range y {
		if x := (y[i] - a) / (b - a); x >= 0.6 && i > 0 {
			x0 := (y[i-1] - a) / (b - a)
			at := t[i-1] + (t[i]-t[i-1])*(0.6-x0)/math.Max(1e-9, x-x0)
			return Figure{Value: math.Log2(math.Max(at, hop/4)), U: math.Max(0.03, hop/math.Max(at, hop)/3)}
		}
	}
	return Figure{Why: "the brightness does not get there"}
}

// byFallAfter follows the brightness after the key is let go.
var byFallAfter = feature{name: "fall of the brightness after the key", of: func(s *Sound) Figure {
	if len(s.Notes) == 0 {
		return Figure{Why: "it is not known when the key was let go"}
	}
	return crossing(s.cut(s.off(), s.off()+3), 0.4)
}}

var (
	byRise = feature{name: "rise of the brightness", of: func(s *Sound) Figure { return crossing(s, 0.6) }}
	byFall = feature{name: "fall of the brightness", of: func(s *Sound) Figure { return crossing(s, 0.4) }}
)
