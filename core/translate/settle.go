package translate

import (
	"fmt"
	"math"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	q "glossator/core/quantity"
)

// settled is the target with every control put somewhere.
type settled struct {
	state   *panel.State
	touched map[int]string // why a control was moved, by control
	off     map[int]bool   // controls moved to do nothing
	clamped map[int]bool
	player  map[int]int // target module to index of the source module it plays
	route   map[int]int // target's wired route to index of the source route
	slot    map[int]int
	cable   map[int]int // input point to index of the source route
	always  []string    // what sounds on the target and cannot be switched off
}

// settle puts every control of the target where the allocation needs it, and everything
// the allocation does not use to where it does nothing.
func settle(t *target, src *meaning.Meaning, a allocation) *settled {
	s, taken, l := carry(t, src, a)
	s.neutral(t, src, taken, l)
	return s
}

// carry puts the controls that the allocation needs, and gives those and what they are limited to.
func carry(t *target, src *meaning.Meaning, a allocation) (s *settled, taken map[int]bool, l locks) {
	s = &settled{state: t.InitState(), touched: map[int]string{}, off: map[int]bool{}, clamped: map[int]bool{},
		player: map[int]int{}, route: map[int]int{}, slot: map[int]int{}, cable: map[int]int{}}
	l = locks{}
	for i := range src.Modules {
		if j, ok := a.module[src.Modules[i].ID]; ok {
			s.player[j] = i
			l.add(t.Compiled, t.Modules[j].When)
		}
	}
	for i, c := range a.route {
		switch c.kind {
		case "wired":
			s.route[c.index] = i
			l.add(t.Compiled, t.Routes[c.index].When)
		case "slot":
			s.slot[c.index] = i
			l.add(t.Compiled, t.Matrix.Slots[c.index].When)
		case "cable":
			s.cable[c.index] = i
		}
	}
	l.apply(t.Compiled, s.state)
	taken = map[int]bool{}
	for k := range l {
		s.touched[k] = "chosen for what it brings in"
		if len(t.Controls[k].Means) == 0 {
			taken[k] = true
		}
	}
	for _, i := range t.sourceOrder(src) {
		j, ok := a.module[src.Modules[i].ID]
		if !ok {
			continue
		}
		best := a.fit[src.Modules[i].ID]
		if !reusable(best, l, taken) {
			best, _ = t.fit(j, &src.Modules[i], s.state, l, taken)
		}
		for _, as := range best {
			s.state.At[as.control] = as.at
			taken[as.control] = true
			s.touched[as.control] = "carries " + src.Modules[i].Label
			s.clamped[as.control] = as.clamped
		}
	}
	s.makeRoutes(t, src, a, taken)
	return s, taken, l
}

// reusable tells whether what the search worked out for a pair by itself still holds beside
// the other pairs.
func reusable(best []assignment, l locks, taken map[int]bool) bool {
	for _, a := range best {
		if taken[a.control] || !l.allows(a.control, a.at.Index) {
			return false
		}
	}
	return best != nil
}

// sourceOrder lists the used modules, dearest first.
func (t *target) sourceOrder(src *meaning.Meaning) []int {
	var out []int
	for i := range src.Modules {
		if src.Modules[i].Used() {
			out = append(out, i)
		}
	}
	for i := 1; i < len(out); i++ { // few: insertion keeps it stable
		for j := i; j > 0 && t.policy.leaveOut(&src.Modules[out[j]]) > t.policy.leaveOut(&src.Modules[out[j-1]]); j-- {
			out[j], out[j-1] = out[j-1], out[j]
		}
	}
	return out
}

// put sets the first free control of a parameter as near as it goes to a quantity.
func (s *settled) put(t *target, ref string, want q.Quantity, taken map[int]bool, why string) bool {
	for _, b := range t.Binds(ref) {
		bind := t.Bind(b)
		if taken[b.Control] && want.Dim.Named() && t.Holds(bind.When, s.state) && s.share(t, b, want) {
			s.touched[b.Control] = why
			return true
		}
		if taken[b.Control] || !t.Holds(bind.When, s.state) {
			continue
		}
		set, err := t.Scale(b).Inverse(t.inLaw(want, &bind.Law))
		if err != nil {
			continue
		}
		s.state.At[b.Control] = set.Position
		s.touched[b.Control], s.clamped[b.Control] = why, set.Clamped
		taken[b.Control] = true
		return true
	}
	return false
}

// share moves a control that is already set to a position that says the same about
// everything else it sets, and the wanted word about one more parameter.
func (s *settled) share(t *target, ref panel.BindRef, want q.Quantity) bool {
	k := ref.Control
	for _, place := range t.Places(k) {
		if v, set := t.Scale(ref).Quantity(place); !set || v.Name != want.Name {
			continue
		}
		same := true
		for j := range t.Controls[k].Means {
			other := panel.BindRef{Control: k, Bind: j}
			if other == ref {
				continue
			}
			a, as := t.Scale(other).Quantity(s.state.At[k])
			b, bs := t.Scale(other).Quantity(place)
			same = same && as == bs && math.Abs(q.Distance(a, b)) < 1e-9
		}
		if same {
			s.state.At[k] = place
			return true
		}
	}
	return false
}

func (s *settled) makeRoutes(t *target, src *meaning.Meaning, a allocation, taken map[int]bool) {
	for i, c := range a.route {
		r := &src.Routes[i]
		why := "carries " + r.Label
		switch c.kind {
		case "wired":
			id := t.Routes[c.index].ID
			s.put(t, meaning.Ref(id, meaning.POn), q.Named(q.DimName, "on"), taken, why)
			s.put(t, meaning.Ref(id, meaning.PDepth), r.Depth.Quantity, taken, why)
		case "slot":
			slot, m := &t.Matrix.Slots[c.index], t.Matrix
			d := m.Destinations[c.dest]
			from := r.From
			if j, ok := a.module[from]; ok {
				from = t.Modules[j].ID
			}
			s.put(t, meaning.Ref(slot.ID, meaning.PSource), q.Named(q.DimName, m.SourceName(from)), taken, why)
			s.put(t, meaning.Ref(slot.ID, meaning.PDest), q.Named(q.DimName, d.Name), taken, why)
			if via := r.Via; via != "" && slot.Via == "" {
				if j, ok := a.module[via]; ok {
					via = t.Modules[j].ID
				}
				s.put(t, meaning.Ref(slot.ID, meaning.PScaler), q.Named(q.DimName, m.SourceName(via)), taken, why)
			}
			s.put(t, meaning.Ref(slot.ID, meaning.POn), q.Named(q.DimName, "on"), taken, why)
			s.put(t, meaning.Ref(slot.ID, meaning.PPolarity), q.Named(q.DimName, r.Polarity), taken, why)
			s.put(t, meaning.Ref(slot.ID, meaning.PAmount), q.Quantity{Dim: q.DimRatio, Value: r.Depth.Value / t.Full(d.Name).Value}, taken, why)
		case "cable":
			out, in := t.Points[c.out].ID, t.Points[c.index].ID
			if c.atten < 0 {
				s.state.Cables = append(s.state.Cables, patch.Cable{From: out, To: in})
				continue
			}
			ain, aout := t.AttenuatorThrough(c.atten)
			s.state.Cables = append(s.state.Cables, patch.Cable{From: out, To: t.Points[ain].ID}, patch.Cable{From: t.Points[aout].ID, To: in})
			s.put(t, meaning.Ref(t.Modules[c.atten].ID, meaning.PGain), q.Quantity{Dim: q.DimRatio, Value: r.Depth.Value / t.PointDepth(in).Value}, taken, why)
		}
	}
}

// neutral takes out of the sound what the plan does not use.
func (s *settled) neutral(t *target, src *meaning.Meaning, taken map[int]bool, l locks) {
	s.selectors(t, taken, l)
	before := make(map[int]int, len(s.state.At))
	for k := range s.state.At {
		before[k] = s.state.At[k].Index
	}
	const why = "the patch has none: switched off"
	for j := range t.Modules {
		if _, used := s.player[j]; used || !t.Holds(t.Modules[j].When, s.state) {
			continue
		}
		s.silence(t, j, taken, why)
	}
	ampDriven := false
	for j := range s.route {
		ampDriven = ampDriven || t.Opens(j)
	}
	for j := range t.Routes {
		r := &t.Routes[j]
		if _, used := s.route[j]; used || !t.Holds(r.When, s.state) || t.Opens(j) && !ampDriven {
			continue
		}
		zero := q.Quantity{}
		if p, err := t.Param(meaning.Ref(r.ID, meaning.PDepth)); err == nil {
			zero = p.Neutral
		}
		if s.put(t, meaning.Ref(r.ID, meaning.POn), q.Named(q.DimName, "off"), taken, why) || s.put(t, meaning.Ref(r.ID, meaning.PDepth), zero, taken, why) {
			continue
		}
		if m := t.Route(j, s.state, t.tempo); m.Used() && m.Depth.Value != 0 && !t.Opens(j) {
			if k, is := t.ModuleIndex(r.From); !is || s.playing(k) {
				s.always = append(s.always, r.Label)
			}
		}
	}
	if t.Matrix != nil {
		for j := range t.Matrix.Slots {
			if _, used := s.slot[j]; used {
				continue
			}
			id := t.Matrix.Slots[j].ID
			if !s.put(t, meaning.Ref(id, meaning.PDest), q.Named(q.DimName, "none"), taken, why) {
				s.put(t, meaning.Ref(id, meaning.PSource), q.Named(q.DimName, "none"), taken, why)
			}
			s.put(t, meaning.Ref(id, meaning.PAmount), q.Quantity{Dim: q.DimRatio}, taken, why)
		}
	}
	for k, i := range before {
		if s.state.At[k].Index != i || s.touched[k] == why {
			s.off[k] = s.touched[k] == why
		}
	}
}

func (s *settled) playing(module int) bool { _, ok := s.player[module]; return ok }

// selectors puts controls that only choose between modules to where the fewest unused
// ones are there; where that is no matter they stay.
func (s *settled) selectors(t *target, taken map[int]bool, l locks) {
	seen := map[int]bool{}
	for j := range t.Modules {
		for w := range t.Modules[j].When {
			k, _ := t.Cond(&t.Modules[j].When[w])
			if seen[k] || taken[k] || len(t.Controls[k].Means) > 0 {
				continue
			}
			seen[k] = true
			home := s.state.At[k]
			count := func() int {
				n := 0
				for i := range t.Modules {
					if !s.playing(i) && t.Holds(t.Modules[i].When, s.state) {
						n++
					}
				}
				return n
			}
			best, least := home, count()
			for p, place := range t.Places(k) {
				if !l.allows(k, p) {
					continue
				}
				s.state.At[k] = place
				if n := count(); n < least {
					best, least = s.state.At[k], n
				}
			}
			s.state.At[k] = best
			if best.Index != home.Index {
				s.touched[k], s.off[k] = "the patch has none: switched off", true
			}
			taken[k] = true
		}
	}
}

// silence takes one unused module out of the sound by its quiet readings, or by the first
// of its kind's silencing parameters that it has.
func (s *settled) silence(t *target, j int, taken map[int]bool, why string) {
	d := &t.Modules[j]
	if len(d.Quiet) > 0 {
		for id, text := range d.Quiet {
			k, _ := t.ControlIndex(id)
			if pos, err := t.Controls[k].Face.Parse(text); err == nil && !taken[k] {
				s.state.At[k], s.touched[k], taken[k] = pos, why, true
			}
		}
		return
	}
	if m := t.Module(j, s.state, t.tempo); m.Silence() != "" {
		// it stands right: no need to move anything, but nothing else may move it either
		return
	}
	spec := meaning.SpecOf(d.Kind)
	for _, name := range spec.Silence {
		p, _ := spec.Param(name)
		m := t.Module(j, s.state, t.tempo)
		want := p.Muted(&m)
		if s.put(t, meaning.Ref(d.ID, name), want, taken, why) {
			return
		}
	}
}

// caution warns of steps that can jump in level.
func caution(t *target, k int, r *meaning.Meaning) string {
	for i := range t.Controls[k].Means {
		id, param := meaning.Split(t.Controls[k].Means[i].Param)
		m := r.Module(id)
		if m == nil || !m.Used() {
			continue
		}
		v, ok := m.Params[param]
		if !ok || v.Off {
			continue
		}
		const first = "turn the monitors and headphones down first"
		switch {
		case param == meaning.PResonance && v.Value >= 1:
			return "The filter oscillates by itself here: " + first + "."
		case param == meaning.PResonance && v.Value >= 0.75:
			return "Close to self-oscillation: " + first + "."
		case m.Kind == meaning.Feedback && param == meaning.PLevel:
			return "A feedback path can jump in level: " + first + ", raise it slowly."
		case param == meaning.PFeedback && v.Value > 0.85:
			return "High feedback can build up: " + first + "."
		case param == meaning.PUnison && v.Value > 1:
			return fmt.Sprintf("Unison of %g voices is louder: %s.", math.Round(v.Value), first)
		case (param == meaning.PDrive || m.Kind == meaning.Drive && param == meaning.PGain) && v.Value > 6:
			return "Drive raises the level: " + first + "."
		}
	}
	return ""
}
