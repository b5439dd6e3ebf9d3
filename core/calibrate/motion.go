package calibrate

import (
	"math"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// movedBy lists the wired routes from a module, those that are measured best first: to pitch, level, width, cutoff.
func (t *target) movedBy(id string) []int {
	var byRank [4][]int
	for i := range t.c.Routes {
		if r := &t.c.Routes[i]; r.From == id {
			if n := rank(r.To[0]); n >= 0 {
				byRank[n] = append(byRank[n], i)
			}
		}
	}
	var out []int
	for _, x := range byRank {
		out = append(out, x...)
	}
	return out
}

func rank(to string) int {
	switch _, p := meaning.Split(to); p {
	case meaning.PTune, meaning.PInterval:
		return 0
	case meaning.PLevel:
		return 1
	case meaning.PWidth:
		return 2
	case meaning.PCutoff:
		return 3
	}
	return -1
}

// sway brings in a route of an LFO by a moderate depth.
func (t *target) sway(s *setup, r int) bool {
	x := &t.c.Routes[r]
	if !s.meet(x.When) {
		return false
	}
	s.put(meaning.Ref(x.ID, meaning.POn), q.Named(q.DimName, "on"))
	t.through(s, x.Via)
	depth := meaning.Ref(x.ID, meaning.PDepth)
	if p, err := t.c.Param(depth); err == nil {
		v := map[int]float64{0: 60, 1: 0.5, 2: 0.2, 3: 1}[rank(x.To[0])]
		s.put(depth, q.Quantity{Dim: p.Dim, Value: v})
	}
	if to, p := meaning.Split(x.To[0]); p == meaning.PCutoff {
		s.put(meaning.Ref(to, meaning.PCutoff), hertz(900))
	}
	return true
}

// through opens what scales a route, where that is an attenuator.
func (t *target) through(s *setup, via string) {
	if t.kindOf(via+".x") == meaning.Atten {
		s.put(meaning.Ref(via, meaning.PGain), ratio(1))
	}
	if via == "wheel" {
		s.wheel = 1
	}
}

// throughIt makes set-ups in which what an attenuator scales moves something.
func throughIt(t *target) (out []func(s *setup) bool) {
	for n := range 4 {
		for i := range t.c.Routes {
			r := &t.c.Routes[i]
			if r.Via != t.module.ID || rank(r.To[0]) != n || t.kindOf(r.From+".x") != meaning.LFO {
				continue
			}
			waves := saws
			if n == 2 {
				waves = []string{q.WavePulse}
			}
			for _, id := range t.modules(tonal...) {
				out = append(out, func(s *setup) bool {
					s.put(meaning.Ref(r.From, meaning.PRate), hertz(4))
					return s.bring(id, waves...) && t.sway(s, i)
				})
			}
		}
	}
	return out
}

// swaying makes set-ups in which the LFO that is measured moves something.
func swaying(t *target) (out []func(s *setup) bool) {
	routes := t.movedBy(t.module.ID)
	for _, r := range routes {
		waves := saws
		if rank(t.c.Routes[r].To[0]) == 2 {
			waves = []string{q.WavePulse}
		}
		for _, id := range t.modules(tonal...) {
			out = append(out, func(s *setup) bool { return s.bring(id, waves...) && t.sway(s, r) })
		}
	}
	if t.c.Matrix != nil {
		for _, slot := range t.c.Matrix.Slots {
			for _, d := range t.c.Matrix.Destinations {
				if rank(d.To[0]) < 0 {
					continue
				}
				for _, id := range t.modules(tonal...) {
					out = append(out, func(s *setup) bool { return s.bring(id, saws...) && t.slot(s, slot.ID, t.module.ID, d.Name) })
				}
				break
			}
			break
		}
	}
	return out
}

// slot takes a source to a destination by a slot of the matrix.
func (t *target) slot(s *setup, slot, module, dest string) bool {
	source := ""
	for name, id := range t.c.Matrix.Sources {
		if id == module && (source == "" || name < source) {
			source = name
		}
	}
	if source == "" || !s.put(meaning.Ref(slot, meaning.PSource), q.Named(q.DimName, source)) || !s.put(meaning.Ref(slot, meaning.PDest), q.Named(q.DimName, dest)) {
		return false
	}
	s.put(meaning.Ref(slot, meaning.PAmount), ratio(0.3))
	return true
}

// periods holds a key for so many periods of a rate.
func periods(rate float64) []phrase.Note {
	rate = math.Max(rate, 0.05)
	return one(57, math.Min(math.Max(math.Min(5/rate, math.Max(20, 3.3/rate)), 1.5), 40))
}

// fromLFO tells whether a route takes an LFO to a parameter of a rank.
func fromLFO(n int) func(t *target) bool {
	return func(t *target) bool {
		return t.kind == meaning.RouteKind && t.name == meaning.PDepth && t.kindOf(t.from+".x") == meaning.LFO && len(t.to) > 0 && rank(t.to[0]) == n
	}
}

// atFourHertz sets the LFO that moves.
func atFourHertz(t *target, s *setup) bool {
	s.put(meaning.Ref(t.from, meaning.PRate), hertz(4))
	for _, w := range []string{q.WaveSine, q.WaveTriangle} {
		if ref := meaning.Ref(t.from, meaning.PWave); s.can(ref, q.Named(q.DimWave, w)) {
			s.put(ref, q.Named(q.DimWave, w))
			break
		}
	}
	return true
}

// routeOn switches the route that is measured on.
func routeOn(t *target, s *setup) bool {
	owner, _ := meaning.Split(t.ref)
	i, ok := t.c.RouteIndex(owner)
	if ok && !s.meet(t.c.Routes[i].When) {
		return false
	}
	s.put(meaning.Ref(owner, meaning.POn), q.Named(q.DimName, "on"))
	if ok {
		t.through(s, t.c.Routes[i].Via)
	}
	return true
}

var motionRecipes = []*Recipe{
	{Name: "lfo-rate", Label: "Rate of an LFO by what it moves", Needs: "something that the LFO moves", Traps: []string{"Record five periods and more."},
		fits: is([]meaning.ParamName{meaning.PRate}, meaning.LFO), ways: swaying, notes: periods, features: []feature{byRate}},
	{Name: "vibrato-depth", Label: "Depth of an LFO on the pitch", Needs: "an oscillator that is heard alone", Traps: []string{warmUp},
		fits: fromLFO(0), ways: bringing(saws, tonal, routeOn, atFourHertz), notes: held(57, 2.5), features: append([]feature{byDepth("pitch")}, likeness...)},
	{Name: "tremolo-depth", Label: "Depth of an LFO on the level", Needs: "an oscillator that is heard alone", Traps: []string{fxOff},
		fits: fromLFO(1), ways: tremolo, notes: held(57, 2.5), features: append([]feature{byDepth("level")}, likeness...)},
	{Name: "width-depth", Label: "Depth of an LFO on the pulse width", Needs: "an oscillator with a pulse", Traps: []string{fxOff},
		fits: fromLFO(2), ways: bringing([]string{q.WavePulse}, tonal, routeOn, atFourHertz), notes: held(45, 2.5), features: append([]feature{byDepth("pulse width")}, likeness...)},
	{Name: "sweep-depth", Label: "Depth of an LFO on the cutoff", Needs: "an oscillator with a sawtooth before the filter", Traps: []string{sameSide},
		fits: fromLFO(3), ways: bringing(onlySaw, []meaning.Kind{meaning.Osc, meaning.Operator, meaning.Noise}, routeOn, atFourHertz, filterAt(900)), notes: held(36, 2.5), features: append([]feature{byDepth("brightness")}, likeness...)},
	{Name: "attenuator", Label: "Gain of an attenuator by the depth of what it lets through", Needs: "an LFO through it", Traps: []string{sameSide},
		fits: is([]meaning.ParamName{meaning.PGain}, meaning.Atten), ways: throughIt, notes: held(57, 2.5), features: []feature{byDepth("pitch"), byDepth("level"), byDepth("pulse width"), byDepth("brightness")}},
	{Name: "effect-rate", Label: "Rate of a moved effect", Needs: "a sawtooth through the effect", Traps: []string{"Record five periods and more."},
		fits: is([]meaning.ParamName{meaning.PRate}, movedFx...), ways: bringing(saws, tonal, inUse, sets(meaning.PDepth, second(0.003))), notes: periods, features: []feature{byRate}},
}

// tremolo brings in the source whose level is moved.
func tremolo(t *target) []func(s *setup) bool {
	id, _ := meaning.Split(t.to[0])
	if k := t.kindOf(t.to[0]); k == meaning.Osc || k == meaning.Operator {
		return []func(s *setup) bool{func(s *setup) bool { return s.bring(id, saws...) && routeOn(t, s) && atFourHertz(t, s) }}
	}
	return bringing(saws, tonal, routeOn, atFourHertz)(t)
}
