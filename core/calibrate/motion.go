package calibrate

import (
	"math"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// movedBy lists the wired routes from a module.
func (t *target) movedBy(id string) (out []int) {
	for i := range t.c.Routes {
		if t.c.Routes[i].From == id {
			out = append(out, i)
		}
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
	wired := &t.c.Routes[r]
	if !s.meet(wired.When) {
		return false
	}
	s.put(meaning.Ref(wired.ID, meaning.POn), q.Named(q.DimName, "on"))
	t.through(s, wired.Via)
	depth := meaning.Ref(wired.ID, meaning.PDepth)
	if p, err := t.c.Param(depth); err == nil {
		v := map[int]float64{0: 60, 1: 0.5, 2: 0.2, 3: 1}[rank(wired.To[0])]
		if s.gentle {
			v /= 2
		}
		s.put(depth, q.Quantity{Dim: p.Dim, Value: v})
	}
	if to, p := meaning.Split(wired.To[0]); p == meaning.PCutoff {
		s.put(meaning.Ref(to, meaning.PCutoff), hertz(900))
	}
	aside(s, wired.To)
	return true
}

// aside sets the pulse widths that are moved beside the square: about it, either way is the same.
func aside(s *setup, to []string) {
	for _, ref := range to {
		if _, p := meaning.Split(ref); p == meaning.PWidth {
			s.put(ref, ratio(0.3))
		}
	}
}

// through opens what scales a route, where that is an attenuator.
func (t *target) through(s *setup, via string) {
	if t.kindOf(via+".x") == meaning.Atten {
		s.put(meaning.Ref(via, meaning.PGain), ratio(1))
	}
	if slices.Contains(patch.PlayersMeans, via) {
		s.player = via
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

// swaying makes set-ups in which the LFO that is measured moves something: the pitch first, a pulse width last, which moves the same either way about the square.
func swaying(t *target) (out []func(s *setup) bool) {
	for _, n := range []int{0, 1, 3, 2} {
		waves := saws
		if n == 2 {
			waves = []string{q.WavePulse}
		}
		for _, r := range t.movedBy(t.module.ID) {
			if rank(t.c.Routes[r].To[0]) != n {
				continue
			}
			ids := t.modules(tonal...)
			if to, _ := meaning.Split(t.c.Routes[r].To[0]); slices.Contains(ids, to) { // what is moved is what sounds
				ids = []string{to}
			}
			for _, id := range ids {
				out = append(out, func(s *setup) bool { return s.bring(id, waves...) && t.sway(s, r) })
			}
		}
		out = append(out, t.bySlots(n, waves)...)
	}
	return out
}

// bySlots makes set-ups in which a slot takes the LFO that is measured to something of a rank.
func (t *target) bySlots(n int, waves []string) (out []func(s *setup) bool) {
	if t.c.Matrix == nil {
		return nil
	}
	for _, d := range t.c.Matrix.Destinations {
		if rank(d.To[0]) != n {
			continue
		}
		for _, slot := range t.c.Matrix.Slots {
			if slot.Source != "" && slot.Source != t.module.ID && t.c.Matrix.Sources[slot.Source] != t.module.ID {
				continue
			}
			for _, id := range t.modules(tonal...) {
				out = append(out, func(s *setup) bool { return s.bring(id, waves...) && t.slot(s, slot.ID, t.module.ID, d.Name) })
				break
			}
			return out
		}
	}
	return out
}

// slot takes a source to a destination by a slot of the matrix.
func (t *target) slot(s *setup, slot, module, dest string) bool {
	if !t.slotEnds(s, slot, module, dest) {
		return false
	}
	amount := 0.3
	if d := t.destination(dest); d != nil { // about as much as a wired route
		if full := t.c.Full(dest).Value; full != 0 {
			amount = min(map[int]float64{0: 60, 1: 0.5, 2: 0.2, 3: 1}[rank(d.To[0])]/math.Abs(full), 1)
		}
	}
	s.put(meaning.Ref(slot, meaning.PAmount), ratio(amount))
	return true
}

func (t *target) destination(name string) *panel.Destination {
	for i := range t.c.Matrix.Destinations {
		if t.c.Matrix.Destinations[i].Name == name {
			return &t.c.Matrix.Destinations[i]
		}
	}
	return nil
}

// slotEnds sets where a slot comes from and goes to; false where it cannot.
func (t *target) slotEnds(s *setup, slot, module, dest string) bool {
	i := slices.IndexFunc(t.c.Matrix.Slots, func(x panel.Slot) bool { return x.ID == slot })
	x := &t.c.Matrix.Slots[i]
	if !s.meet(x.When) {
		return false
	}
	source := ""
	for name, id := range t.c.Matrix.Sources {
		if id == module && (source == "" || name < source) {
			source = name
		}
	}
	switch {
	case x.Source == module || x.Source != "" && x.Source == source:
	case x.Source != "" || source == "" || !s.put(meaning.Ref(slot, meaning.PSource), q.Named(q.DimName, source)):
		return false
	}
	switch {
	case x.Dest == dest:
	case x.Dest != "" || !s.put(meaning.Ref(slot, meaning.PDest), q.Named(q.DimName, dest)):
		return false
	}
	t.through(s, x.Via)
	if d := t.destination(dest); d != nil {
		aside(s, d.To)
	}
	if d := t.destination(dest); d != nil && rank(d.To[0]) == 3 {
		to, _ := meaning.Split(d.To[0])
		s.put(meaning.Ref(to, meaning.PCutoff), hertz(900))
	}
	return true
}

// inSlot makes set-ups in which the slot whose amount is measured takes an LFO to something.
func inSlot(n int) func(t *target) []func(s *setup) bool {
	return func(t *target) (out []func(s *setup) bool) {
		slot, _ := meaning.Split(t.ref)
		waves := saws
		if n == 2 {
			waves = []string{q.WavePulse}
		}
		for _, lfo := range t.modules(meaning.LFO) {
			for _, d := range t.c.Matrix.Destinations {
				if rank(d.To[0]) != n {
					continue
				}
				for _, id := range t.modules(meaning.Osc, meaning.Operator) {
					out = append(out, func(s *setup) bool {
						if !s.bring(id, waves...) || !t.slotEnds(s, slot, lfo, d.Name) {
							return false
						}
						s.put(meaning.Ref(lfo, meaning.PRate), hertz(4))
						return true
					})
				}
				break
			}
		}
		return out
	}
}

func slotAmount(t *target) bool {
	return t.kind == meaning.RouteKind && t.name == meaning.PAmount && t.c.Matrix != nil
}

// periods holds a key for so many periods of a rate.
func periods(rate float64) []phrase.Note {
	rate = math.Max(rate, 0.05)
	return one(57, math.Min(math.Max(math.Min(5/rate, math.Max(20, 4.2/rate)), 1.5), 45))
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
		aside(s, t.c.Routes[i].To)
	}
	return true
}

var motionRecipes = []*Recipe{
	{Name: "lfo-rate", Label: "Rate of an LFO by what it moves", Needs: "something that the LFO moves", Traps: []string{"Record five periods and more."},
		fits: is([]meaning.ParamName{meaning.PRate}, meaning.LFO), ways: swaying, notes: periods, features: []feature{byRate}},
	{Name: "vibrato-depth", Label: "Depth of an LFO on the pitch", Needs: "an oscillator that is heard alone", Traps: []string{warmUp},
		fits: fromLFO(0), ways: bringing(saws, tonal, routeOn, atFourHertz), notes: held(57, 2.5), features: []feature{byDepth("pitch")}},
	{Name: "tremolo-depth", Label: "Depth of an LFO on the level", Needs: "an oscillator that is heard alone", Traps: []string{fxOff},
		fits: fromLFO(1), ways: tremolo, notes: held(57, 2.5), features: []feature{byDepth("level")}},
	{Name: "width-depth", Label: "Depth of an LFO on the pulse width", Needs: "an oscillator with a pulse", Traps: []string{fxOff},
		fits: fromLFO(2), ways: bringing([]string{q.WavePulse}, tonal, routeOn, atFourHertz), notes: held(45, 2.5), features: []feature{byDepth("pulse width")}},
	{Name: "sweep-depth", Label: "Depth of an LFO on the cutoff", Needs: "an oscillator with a sawtooth before the filter", Traps: []string{sameSide},
		fits: fromLFO(3), ways: bringing(onlySaw, []meaning.Kind{meaning.Osc, meaning.Operator, meaning.Noise}, routeOn, atFourHertz, filterAt(900)), notes: held(36, 2.5), features: []feature{byDepth("brightness")}},
	{Name: "slot-pitch", Label: "Amount of a slot by what it moves the pitch", Needs: "a slot that takes an LFO to the pitch", Traps: []string{warmUp}, fits: slotAmount, ways: inSlot(0), notes: held(57, 2.5), features: []feature{byDepth("pitch")}},
	{Name: "slot-width", Label: "Amount of a slot by what it moves the pulse width", Needs: "a slot that takes an LFO to a pulse width", Traps: []string{fxOff}, fits: slotAmount, ways: inSlot(2), notes: held(45, 2.5), features: []feature{byDepth("pulse width")}},
	{Name: "slot-level", Label: "Amount of a slot by what it moves the level", Needs: "a slot that takes an LFO to a level", Traps: []string{fxOff}, fits: slotAmount, ways: inSlot(1), notes: held(57, 2.5), features: []feature{byDepth("level")}},
	{Name: "slot-cutoff", Label: "Amount of a slot by what it moves the cutoff", Needs: "a slot that takes an LFO to a cutoff", Traps: []string{fxOff}, fits: slotAmount, ways: inSlot(3), notes: held(36, 2.5), features: []feature{byDepth("brightness")}},
	{Name: "fm-index", Label: "Index by the sidebands", Needs: "a modulator and a carrier that is heard", Traps: []string{"Both envelopes stand at full: an index that moves has no one value.", steadyIn},
		fits: modulates, ways: modulating, notes: held(57, 1.5), features: append([]feature{byIndex}, likeness[1:]...)},
	{Name: "attenuator", Label: "Gain of an attenuator by the depth of what it lets through", Needs: "an LFO through it", Traps: []string{sameSide},
		fits: is([]meaning.ParamName{meaning.PGain}, meaning.Atten), ways: throughIt, notes: held(57, 2.5), features: []feature{byDepth("pitch"), byDepth("level"), byDepth("pulse width"), byDepth("brightness")}},
	{Name: "lfo-delay", Label: "Delay of an LFO by what it moves", Needs: "something that the LFO moves", Traps: []string{"Fade-in stands at nothing, and the LFO begins with the key."},
		fits: is([]meaning.ParamName{meaning.PDelay}, meaning.LFO), ways: swelling(meaning.PFade), notes: lasting(1.6, 2, 25), features: []feature{bySwelling(false)}},
	{Name: "lfo-fade", Label: "Fade-in of an LFO by what it moves", Needs: "something that the LFO moves", Traps: []string{"Delay stands at nothing, and the LFO begins with the key."},
		fits: is([]meaning.ParamName{meaning.PFade}, meaning.LFO), ways: swelling(meaning.PDelay), notes: lasting(1.8, 2, 25), features: []feature{bySwelling(true)}},
	{Name: "effect-rate", Label: "Rate of a moved effect", Needs: "a sawtooth through the effect", Traps: []string{"Record five periods and more."},
		fits: is([]meaning.ParamName{meaning.PRate}, movedFx...), ways: bringing(saws, tonal, inUse, sets(meaning.PDepth, second(0.003))), notes: periods, features: []feature{byRate}},
}

// swelling makes set-ups in which an LFO moves something quickly, with the other of its delay and fade-in at nothing.
func swelling(other meaning.ParamName) func(t *target) []func(s *setup) bool {
	return func(t *target) (out []func(s *setup) bool) {
		for _, way := range swaying(t) {
			out = append(out, func(s *setup) bool {
				s.gentle = true
				ref := meaning.Ref(t.module.ID, meaning.PRate)
				for _, b := range t.c.Binds(ref) { // the range that reaches it
					if set, err := t.c.Scale(b).Inverse(hertz(quick)); err == nil && nearly(set.Reached.Value, quick) && s.meet(t.c.Bind(b).When) {
						break
					}
				}
				if !way(s) {
					return false
				}
				at(t, s, meaning.PRate, hertz(quick))
				at(t, s, other, q.OffOf(q.DimDuration))
				return true
			})
		}
		return out
	}
}

// bySwelling is the time from where a note sounds until what is moved sets in, or until a fade-in that rises in a straight line is at its end, of which half is heard the best.
func bySwelling(fades bool) feature {
	return feature{name: "time until it moves", of: func(s *Sound) Figure {
		m := s.listen().Swelling(!fades)
		if !m.Known {
			return Figure{Why: strings.TrimPrefix(m.Why, "cannot tell: ")}
		}
		up, _, ok := s.crossing() // from where it sounds: what the instrument takes to answer is in both
		if !ok {
			return Figure{Why: "it is silent"}
		}
		x := m.Value - up
		if fades {
			x *= 2
			m.Uncertainty *= 2
		}
		if x < 2*m.Uncertainty {
			return Figure{Why: "it is too short to be told"}
		}
		return Figure{Value: math.Log2(x), U: m.Uncertainty / x / math.Ln2}
	}, direct: exp2}
}

// quick is how fast an LFO goes whose delay or fade-in is measured, in hertz: the quicker, the more exactly it is told.
const quick = 9.0

func nearly(a, b float64) bool { return math.Abs(a-b) < 0.2*b }

// tremolo brings in the source whose level is moved.
func tremolo(t *target) []func(s *setup) bool {
	id, _ := meaning.Split(t.to[0])
	if k := t.kindOf(t.to[0]); k == meaning.Osc || k == meaning.Operator {
		return []func(s *setup) bool{func(s *setup) bool { return s.bring(id, saws...) && routeOn(t, s) && atFourHertz(t, s) }}
	}
	return bringing(saws, tonal, routeOn, atFourHertz)(t)
}

// modulates tells whether a route takes one operator or oscillator to the phase or frequency of another.
func modulates(t *target) bool {
	if t.kind != meaning.RouteKind || t.name != meaning.PDepth || len(t.to) == 0 {
		return false
	}
	k := t.kindOf(t.from + ".x")
	_, p := meaning.Split(t.to[0])
	return (k == meaning.Operator || k == meaning.Osc) && (p == meaning.PPM || p == meaning.PFM)
}

// modulating brings in a carrier that is heard and its modulator, which is not.
func modulating(t *target) []func(s *setup) bool {
	carrier, _ := meaning.Split(t.to[0])
	if carrier == t.from {
		return nil
	}
	return []func(s *setup) bool{func(s *setup) bool {
		if !s.bring(carrier, q.WaveSine, q.WaveTriangle, q.WaveSaw) {
			return false
		}
		s.put(meaning.Ref(t.from, meaning.POn), q.Named(q.DimName, "on"))
		if t.kindOf(t.from+".x") == meaning.Operator {
			s.put(meaning.Ref(t.from, meaning.PLevel), level(0))
		}
		return routeOn(t, s)
	}}
}

var byIndex = feature{name: "index of FM", of: func(s *Sound) Figure { return from(s.steady(0).listen().FM(), false, "FM index") }}
