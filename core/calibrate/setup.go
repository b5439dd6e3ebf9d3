package calibrate

import (
	"slices"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// Stand is a control and the reading that it is set to for a measurement.
type Stand struct {
	Control string `json:"control"`
	Section string `json:"section"`
	Label   string `json:"label"`
	Reading string `json:"reading"`
	// Init is set where that is what init leaves it at.
	Init bool `json:"init,omitempty"`
}

// setup is a panel set for a measurement.
type setup struct {
	c  *panel.Compiled
	at *panel.State
	// held are the controls that have been decided; what comes later does not move them.
	held map[int]bool
	// free is the control that is measured; nothing moves it.
	free int
	// plain is set while all is being made neutral: what is not there as the panel stands is not brought in to be made so.
	plain bool
	// player is which of the player's means is held all the way (patch.PlayersMeans); empty for none.
	player string
	// gentle halves how far an LFO is made to move things, where the pitch of the note has to stay one.
	gentle bool
}

// quiet sets a panel so that nothing sounds and nothing moves: sources off, filters open, effects out, depths at nothing, the amplifier opened at once and fully.
func quiet(c *panel.Compiled, control int) *setup {
	s := &setup{c: c, at: c.InitState(), held: map[int]bool{}, free: control, plain: true}
	defer func() { s.plain = false }()
	for i := range c.Modules {
		m := &c.Modules[i]
		spec := meaning.SpecOf(m.Kind)
		if spec == nil {
			continue
		}
		for _, p := range spec.Params {
			s.neutral(m, spec, p)
		}
		for id, reading := range m.Quiet {
			if k, ok := c.ControlIndex(id); ok && k != s.free {
				if at, err := c.Parse(k, reading); err == nil {
					s.set(k, at)
				}
			}
		}
	}
	for i := range c.Routes {
		s.still(i)
	}
	if c.Matrix != nil {
		for i := range c.Matrix.Slots {
			id := c.Matrix.Slots[i].ID
			if !s.put(meaning.Ref(id, meaning.PSource), q.Named(q.DimName, "none")) {
				s.put(meaning.Ref(id, meaning.PAmount), q.Quantity{Dim: q.DimRatio})
			}
		}
	}
	return s
}

// sources are the kinds that sound by themselves.
var sources = []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Ring, meaning.Operator, meaning.Feedback, meaning.Send}

// neutral sets a module's parameter so that it does nothing.
func (s *setup) neutral(m *panel.Module, spec *meaning.KindSpec, p meaning.Param) {
	ref := meaning.Ref(m.ID, p.Name)
	switch {
	case slices.Contains(sources, m.Kind) && (p.Name == meaning.PLevel || p.Name == meaning.POutput):
		s.put(ref, q.OffOf(q.DimLevel))
	case p.Name == meaning.POn && m.Kind != meaning.Filter:
		s.put(ref, q.Named(q.DimName, "off"))
	case m.Kind == meaning.Filter && p.Name == meaning.PCutoff:
		s.open(m, ref)
	case m.Kind == meaning.Amp && p.Name == meaning.PLevel, m.Kind == meaning.Mixer && p.Name == meaning.PLevel, m.Kind == meaning.LFO, m.Kind == meaning.Voice && p.Name == meaning.PMode:
	case spec.Step == meaning.StepEffects && p.Rest != nil:
		s.put(ref, q.Quantity{Dim: p.Dim, Value: *p.Rest})
	case m.Kind == meaning.Env && p.Name == meaning.PRelease:
		s.put(ref, q.Quantity{Dim: q.DimDuration, Value: 0.02})
	case p.Dim == q.DimCount: // the nearest count is another one: none, or as init leaves it
		if s.exactly(ref, p.Neutral) {
			s.put(ref, p.Neutral)
		} else if s.exactly(ref, q.OffOf(q.DimCount)) {
			s.put(ref, q.OffOf(q.DimCount))
		}
	case p.Dim == q.DimName || p.Dim == q.DimWave:
		if s.can(ref, p.Neutral) {
			s.put(ref, p.Neutral)
		}
	default:
		want := p.Neutral
		if want.Off && p.OffAs != nil && !s.exactly(ref, want) { // a high cut that has no off is open at its top, not at its bottom
			if v := p.OffAs(&meaning.Module{}); !v.Off {
				want = v
			}
		}
		s.put(ref, want)
	}
}

// open sets the cutoff of a filter to where it lets all through.
func (s *setup) open(m *panel.Module, ref string) {
	for _, b := range s.c.Binds(ref) {
		if b.Control == s.free || s.held[b.Control] {
			continue
		}
		places := s.c.Places(b.Control)
		mode, _ := s.mode(m)
		low, high := places[0], places[len(places)-1]
		if l := s.c.Bind(b).Law; l.Kind != scale.Listed {
			a, okA := l.Raw(0)
			z, okZ := l.Raw(1)
			if okA && okZ && a > z {
				low, high = high, low
			}
		}
		if mode == "highpass" {
			s.set(b.Control, low)
		} else {
			s.set(b.Control, high)
		}
	}
}

// mode gives the mode that a filter has as the panel is set.
func (s *setup) mode(m *panel.Module) (string, bool) {
	i, ok := s.c.ModuleIndex(m.ID)
	if !ok {
		return "", false
	}
	d := s.c.Module(i, s.at, panel.DefaultTempo)
	v, ok := d.Get(meaning.PMode)
	return v.Name, ok
}

// still takes a wired route out, but one that opens the amplifier.
func (s *setup) still(i int) {
	r := &s.c.Routes[i]
	on, depth := meaning.Ref(r.ID, meaning.POn), meaning.Ref(r.ID, meaning.PDepth)
	if s.c.Opens(i) {
		s.put(on, q.Named(q.DimName, "on"))
		s.full(depth)
		return
	}
	if p, err := s.c.Param(depth); err == nil {
		s.put(depth, q.Quantity{Dim: p.Dim})
	}
	s.put(on, q.Named(q.DimName, "off"))
}

// set moves a control, where nothing holds it.
func (s *setup) set(control int, at scale.Position) bool {
	if control == s.free || s.held[control] {
		return false
	}
	at.U = 0
	s.at.At[control], s.at.Given[control] = at, true
	return true
}

// can tells whether a control can be set so that a parameter is a word.
func (s *setup) can(ref string, want q.Quantity) bool {
	for _, b := range s.c.Binds(ref) {
		if _, err := s.c.Scale(b).Inverse(want); err == nil {
			return true
		}
	}
	return false
}

// exactly tells whether a control has just the value.
func (s *setup) exactly(ref string, want q.Quantity) bool {
	for _, b := range s.c.Binds(ref) {
		if set, err := s.c.Scale(b).Inverse(want); err == nil && set.Reached.Off == want.Off && (want.Off || set.Reached.Value == want.Value) {
			return true
		}
	}
	return false
}

// put sets a parameter as near to a value as its controls can, by those that set it as the panel stands; where none does, what its first one needs is set, too. ok is false where no control could be moved.
func (s *setup) put(ref string, want q.Quantity) (ok bool) {
	binds := s.c.Binds(ref)
	holds := func(b panel.BindRef) bool { return s.c.Holds(s.c.Bind(b).When, s.at) }
	if len(binds) > 0 && !s.plain && !slices.ContainsFunc(binds, holds) {
		s.meet(s.c.Bind(binds[0]).When)
	}
	rest := want
	for _, b := range binds {
		if !holds(b) || b.Control == s.free || s.held[b.Control] {
			continue
		}
		set, err := s.c.Scale(b).Inverse(rest)
		if err != nil && want.Off { // none is the least that there is
			places := s.c.Places(b.Control)
			if len(places) == 0 {
				continue
			}
			set.Position, err = places[0], nil
		}
		if err != nil {
			continue
		}
		if s.set(b.Control, set.Position) {
			ok = true
			if !want.Dim.Named() && !want.Off { // the next control of a sum gives what is left
				rest.Value -= set.Reached.Value
			}
		}
	}
	return ok
}

// full sets a parameter to the top of its scale.
func (s *setup) full(ref string) (ok bool) {
	for _, b := range s.c.Binds(ref) {
		places := s.c.Places(b.Control)
		if len(places) == 0 || !s.c.Holds(s.c.Bind(b).When, s.at) {
			continue
		}
		best := places[len(places)-1]
		if l := s.c.Bind(b).Law; l.Kind != scale.Listed {
			a, okA := l.Raw(0)
			if z, okZ := l.Raw(1); okA && okZ && a > z {
				best = places[0]
			}
		}
		ok = s.set(b.Control, best) || ok
	}
	return ok
}

// meet sets what conditions ask for.
func (s *setup) meet(all []panel.When) bool {
	for i := range all {
		w := &all[i]
		k, in := s.c.Cond(w)
		if in[s.at.At[k].Index] {
			continue
		}
		at, err := s.c.Parse(k, w.In[0])
		if err != nil || !s.set(k, at) {
			return false
		}
	}
	return true
}

// bring brings a source in at full level, as near to a wave as it has; waves are tried in order. Where there is only one it has to be that.
func (s *setup) bring(id string, waves ...string) bool {
	i, ok := s.c.ModuleIndex(id)
	if !ok || !s.meet(s.c.Modules[i].When) {
		return false
	}
	s.put(meaning.Ref(id, meaning.POn), q.Named(q.DimName, "on"))
	s.put(meaning.Ref(id, meaning.PLevel), q.Quantity{Dim: q.DimLevel})
	s.put(meaning.Ref(id, meaning.POutput), q.Quantity{Dim: q.DimLevel})
	if len(waves) == 0 || s.c.Modules[i].Kind == meaning.Noise {
		return true
	}
	wave := meaning.Ref(id, meaning.PWave)
	for _, w := range waves {
		if s.can(wave, q.Named(q.DimWave, w)) && s.put(wave, q.Named(q.DimWave, w)) {
			break
		}
	}
	d := s.c.Module(i, s.at, panel.DefaultTempo)
	v, _ := d.Get(meaning.PWave)
	return len(waves) > 1 || slices.Contains(waves, v.Name) // of several any other will do as well
}

// hold fixes a control where it stands.
func (s *setup) hold(control int) { s.held[control] = true }

// settings lists where everything stands, in working order, without the control that is measured.
func (s *setup) settings() []Stand {
	out := []Stand{}
	for _, k := range s.c.Order {
		if k == s.free || s.c.OnlyWritten(k) {
			continue
		}
		out = append(out, Stand{s.c.Controls[k].ID, s.c.SectionLabel(k), s.c.Controls[k].Label, s.at.At[k].Reading, s.c.AtInit(k, s.at.At[k])})
	}
	return out
}
