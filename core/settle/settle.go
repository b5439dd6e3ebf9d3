package settle

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// Set is the target with every control put somewhere.
type Set struct {
	State *panel.State
	// Why says of each control that was moved why it was.
	Why map[int]Why
	// Off holds the controls that were moved to do nothing, Clamped those that stand at the end of their scale for want of more.
	Off, Clamped map[int]bool
	// Always lists the routes of the target that sound and cannot be switched off, by their places among the panel's routes.
	Always []int
	player map[int]string  // of a module of the target: the source's module that it plays
	routes map[string]bool // ids of the target's routes and slots that are used
	taken  map[int]bool
	limits plan.Locks
	opened bool         // an envelope opens the amplifier
	ended  bool         // every source of sound is opened and ended by an envelope of its own
	lines  map[int]bool // envelopes that open another line of the sound as the one that plays a part opens its own
}

// Why is the reason for which a control was moved.
type Why struct {
	Code WhyCode
	// Part is the label of the part that it carries.
	Part string
}

// WhyCode says for what a control was moved.
type WhyCode int

// The reasons for which a control is moved.
const (
	Untouched   WhyCode = iota
	BringsIn            // chosen for what it brings in
	Carries             // carries a part
	SwitchedOff         // the patch has none of it
	Written             // as it is written down
	AtTempo             // the instrument's own tempo, as the patch has it
	ByHand              // set by hand
	Alike               // as what opens the sound, in another line of it
)

// Settle puts every control of the target where the plan needs it, and everything
// the plan does not use to where it does nothing.
func Settle(t *plan.Target, p *plan.Plan) *Set {
	s := carry(t, p.Cast, &p.Best)
	s.inOrder(t, p)
	s.neutral(t)
	return s
}

// Carry gives where the target's controls stand with those put that an allocation needs.
func Carry(t *plan.Target, m *meaning.Meaning, a *plan.Allocation) *panel.State {
	return carry(t, m, a).State
}

func carry(t *plan.Target, src *meaning.Meaning, a *plan.Allocation) *Set {
	s := &Set{State: t.InitState(), Why: map[int]Why{}, Off: map[int]bool{}, Clamped: map[int]bool{}, player: map[int]string{}, routes: map[string]bool{}, taken: map[int]bool{}, limits: plan.Locks{}}
	for i := range src.Modules {
		if j, ok := a.Module[src.Modules[i].ID]; ok {
			s.player[j] = src.Modules[i].ID
			s.limits.Add(t.Compiled, t.Modules[j].When)
		}
	}
	for i := range a.Route {
		if c := &a.Route[i]; c.Made() {
			id, _ := c.Way.Made(t)
			s.routes[id] = true
			s.limits.Add(t.Compiled, c.Way.When(t))
		}
	}
	for k, i := range a.Wiring {
		s.limits[k] = map[int]bool{i: true}
	}
	s.limits.Apply(t.Compiled, s.State)
	for k := range s.limits {
		s.Why[k] = Why{Code: BringsIn}
		if len(t.Controls[k].Means) == 0 {
			s.taken[k] = true
		}
	}
	for _, i := range order(t, src) {
		m := &src.Modules[i]
		j, ok := a.Module[m.ID]
		if !ok {
			continue
		}
		best := a.Fit[m.ID]
		if !s.reusable(best) {
			best, _ = t.Fit(j, m, s.State, s.limits, s.taken)
		}
		for _, as := range best {
			s.State.At[as.Control] = as.At
			s.taken[as.Control] = true
			s.Why[as.Control] = Why{Carries, m.Label}
			s.Clamped[as.Control] = as.Clamped
		}
	}
	player := func(id string) string {
		if j, ok := a.Module[id]; ok {
			return t.Modules[j].ID
		}
		return id
	}
	for i := range a.Route {
		if c := &a.Route[i]; c.Made() {
			r := &src.Routes[i]
			c.Way.Put(&putter{s, t, Why{Carries, r.Label}}, t, r, player)
			if r.From == "wheel" || r.Via == "wheel" {
				s.atLeast(t, c.Way.Depth(t), r.Depth.Quantity)
			}
			s.opened = s.opened || src.Opens(&src.Routes[i]) && src.Routes[i].From != "gate"
		}
	}
	s.ended = endThemselves(src, a)
	return s
}

// endThemselves tells whether every source of sound that is played has an envelope that moves its own level.
func endThemselves(src *meaning.Meaning, a *plan.Allocation) bool {
	none := true
	for i := range src.Modules {
		m := &src.Modules[i]
		switch m.Kind {
		case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator:
		default:
			continue
		}
		if _, placed := a.Module[m.ID]; !placed || !m.Used() {
			continue
		}
		own := m.Kind == meaning.Operator && !m.Sounds() // it modulates only
		for k := range src.Routes {
			r := &src.Routes[k]
			env := src.Module(r.From)
			own = own || a.Route[k].Made() && env != nil && env.Kind == meaning.Env && slices.Contains(r.To, meaning.Ref(m.ID, meaning.PLevel))
		}
		level, _ := m.Get(meaning.PLevel)
		switch rests := level.Off && m.Kind != meaning.Operator; {
		case rests && !own:
			continue // it is silent
		case !rests && m.Kind != meaning.Operator:
			return false // what moves its level adds to it
		}
		none = false
		if !own {
			return false
		}
	}
	return !none
}

// inOrder keeps the order of the effects where the target has places for them: those in use change places among themselves, so far as they stand otherwise.
func (s *Set) inOrder(t *plan.Target, p *plan.Plan) {
	if t.Same() {
		return
	}
	type slot struct {
		control int
		label   string
		at      scale.Position
		place   float64
	}
	var list []slot
	for _, d := range p.Wanted.Graph().Chain() {
		j, ok := p.Placed(d.ID) // by what a rule has put in its place, too
		if !ok {
			continue
		}
		for _, b := range t.Binds(meaning.Ref(t.Modules[j].ID, meaning.PPlace)) {
			if v, set := t.Scale(b).Quantity(s.State.At[b.Control]); set && !s.taken[b.Control] {
				list = append(list, slot{b.Control, d.Label, s.State.At[b.Control], v.Value})
				break
			}
		}
	}
	sorted := slices.Clone(list)
	slices.SortStableFunc(sorted, func(x, y slot) int { return cmp.Compare(x.place, y.place) })
	for i, x := range list {
		s.taken[x.control] = true
		if to := sorted[i]; to.place != x.place && t.Controls[x.control].Face.Kind == t.Controls[to.control].Face.Kind {
			s.State.At[x.control], s.Why[x.control] = to.at, Why{Carries, x.label}
		}
	}
}

// short is the share of a depth that the wheel may fall short of.
const short = 0.1

// atLeast sets what makes a depth that the wheel brings in to the next place up, where the nearest one falls short: the wheel can be turned less far, and not farther.
func (s *Set) atLeast(t *plan.Target, refs []string, want q.Quantity) {
	for _, ref := range refs {
		for _, b := range t.Binds(ref) {
			scale := t.Scale(b)
			now, ok := scale.Quantity(s.State.At[b.Control])
			if !s.taken[b.Control] || len(t.Controls[b.Control].Means) != 1 || !ok || now.Dim != want.Dim || want.Value == 0 || now.Value/want.Value >= 1-short {
				continue
			}
			best, reach := s.State.At[b.Control], math.Inf(1)
			for _, place := range t.Places(b.Control) {
				if v, ok := scale.Quantity(place); ok && !v.Off && v.Value/want.Value >= 1 && v.Value/want.Value < reach {
					best, reach = place, v.Value/want.Value
				}
			}
			s.State.At[b.Control] = best
		}
	}
}

// putter puts for one reason.
type putter struct {
	s   *Set
	t   *plan.Target
	why Why
}

func (p *putter) Put(ref string, want q.Quantity) bool { return p.s.put(p.t, ref, want, p.why) }

func (p *putter) Plug(c patch.Cable) { p.s.State.Cables = append(p.s.State.Cables, c) }

// reusable tells whether what the search worked out for a pair by itself still holds beside
// the other pairs.
func (s *Set) reusable(best []plan.Assignment) bool {
	for _, a := range best {
		if s.taken[a.Control] || !s.limits.Allows(a.Control, a.At.Index) {
			return false
		}
	}
	return best != nil
}

// order lists the used modules, dearest first.
func order(t *plan.Target, src *meaning.Meaning) []int {
	var out []int
	for i := range src.Modules {
		if src.Modules[i].Used() {
			out = append(out, i)
		}
	}
	for i := 1; i < len(out); i++ { // few: insertion keeps it stable
		for j := i; j > 0 && t.Policy.LeaveOut(&src.Modules[out[j]]) > t.Policy.LeaveOut(&src.Modules[out[j-1]]); j-- {
			out[j], out[j-1] = out[j-1], out[j]
		}
	}
	return out
}

// put sets the first free control of a parameter as near as it goes to a quantity.
func (s *Set) put(t *plan.Target, ref string, want q.Quantity, why Why) bool {
	for _, b := range t.Binds(ref) {
		bind := t.Bind(b)
		if s.taken[b.Control] && want.Dim.Named() && t.Holds(bind.When, s.State) && s.share(t, b, want) {
			s.Why[b.Control] = why
			return true
		}
		if s.taken[b.Control] || !t.Holds(bind.When, s.State) {
			continue
		}
		set, err := t.Scale(b).Inverse(t.InLaw(want, &bind.Law))
		if err != nil {
			continue
		}
		s.State.At[b.Control] = set.Position
		s.Why[b.Control], s.Clamped[b.Control] = why, set.Clamped
		s.taken[b.Control] = true
		return true
	}
	return false
}

// share moves a control that is already set to a position that says the same about
// everything else it sets, and the wanted word about one more parameter.
func (s *Set) share(t *plan.Target, ref panel.BindRef, want q.Quantity) bool {
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
			a, as := t.Scale(other).Quantity(s.State.At[k])
			b, bs := t.Scale(other).Quantity(place)
			same = same && as == bs && math.Abs(q.Distance(a, b)) < 1e-9
		}
		if same {
			s.State.At[k] = place
			return true
		}
	}
	return false
}

// neutral takes out of the sound what the plan does not use.
func (s *Set) neutral(t *plan.Target) {
	s.selectors(t)
	before := make(map[int]int, len(s.State.At))
	for k := range s.State.At {
		before[k] = s.State.At[k].Index
	}
	why := Why{Code: SwitchedOff}
	for j := range t.Modules {
		if s.Playing(j) || !t.Holds(t.Modules[j].When, s.State) {
			continue
		}
		s.silence(t, j, why)
	}
	opened := s.opened
	for j := range t.Routes {
		r := &t.Routes[j]
		if s.routes[r.ID] || !t.Holds(r.When, s.State) || t.Opens(j) && !opened {
			continue
		}
		zero := q.Quantity{}
		if p, err := t.Param(meaning.Ref(r.ID, meaning.PDepth)); err == nil {
			zero = p.Neutral
		}
		if s.put(t, meaning.Ref(r.ID, meaning.POn), q.Named(q.DimName, "off"), why) || s.put(t, meaning.Ref(r.ID, meaning.PDepth), zero, why) {
			continue
		}
		if m := t.Route(j, s.State, t.Tempo); m.Used() && m.Depth.Value != 0 && !t.Opens(j) {
			if k, is := t.ModuleIndex(r.From); !is || s.Playing(k) {
				s.Always = append(s.Always, j)
			}
		}
	}
	s.holdOpen(t, opened)
	if t.Matrix != nil {
		for j := range t.Matrix.Slots {
			id := t.Matrix.Slots[j].ID
			if s.routes[id] {
				continue
			}
			if !s.put(t, meaning.Ref(id, meaning.PDest), q.Named(q.DimName, "none"), why) {
				s.put(t, meaning.Ref(id, meaning.PSource), q.Named(q.DimName, "none"), why)
			}
			s.put(t, meaning.Ref(id, meaning.PAmount), q.Quantity{Dim: q.DimRatio}, why)
		}
	}
	for k, i := range before {
		if s.State.At[k].Index != i || s.Why[k] == why {
			s.Off[k] = s.Why[k] == why
		}
	}
}

// The shortest edges that open and shut without a click, in seconds (common practice, no source).
const gateUp, gateDown = 0.002, 0.005

// holdOpen sets the envelopes that play no part and yet open what sounds, for good: at full sustain they take nothing away. Where another envelope opens and
// ends the sound, or each source of sound has one of its own, their attack is the shortest and their release the longest; where none does they are the gate, as short as does not click.
func (s *Set) holdOpen(t *plan.Target, opened bool) {
	why := Why{Code: SwitchedOff}
	s.openLines(t)
	for j := range t.Routes {
		r := &t.Routes[j]
		k, is := t.ModuleIndex(r.From)
		if !is || s.lines[k] || s.routes[r.ID] || s.Playing(k) || t.Modules[k].Kind != meaning.Env || !t.Holds(r.When, s.State) {
			continue
		}
		opens := false
		for _, to := range r.To {
			id, param := meaning.Split(to)
			if d, ok := t.ModuleIndex(id); ok && param == meaning.PLevel && (t.Modules[d].Kind == meaning.Amp || t.Modules[d].Kind == meaning.Operator && s.Playing(d)) {
				opens = true
			}
		}
		if m := t.Route(j, s.State, t.Tempo); !opens || !m.Used() || m.Depth.Value <= 0 {
			continue
		}
		ref := func(p meaning.ParamName) string { return meaning.Ref(r.From, p) }
		seconds := func(x float64) q.Quantity { return q.Quantity{Dim: q.DimDuration, Value: x} }
		s.put(t, ref(meaning.PSustain), q.Quantity{Dim: q.DimRatio, Value: 1}, why)
		now := t.Module(k, s.State, t.Tempo)
		if v, ok := now.Get(meaning.PSustain); !ok || v.Value < 1 {
			s.put(t, ref(meaning.PDecay), seconds(1e3), why)
		}
		if opened || s.ended {
			s.put(t, ref(meaning.PAttack), seconds(1e-4), why)
			s.put(t, ref(meaning.PRelease), seconds(1e3), why)
		} else {
			s.put(t, ref(meaning.PAttack), seconds(gateUp), why)
			s.put(t, ref(meaning.PRelease), seconds(gateDown), why)
		}
	}
}

// OpensLine tells whether a module of the target is an envelope that plays no part and opens another line of the sound.
func (s *Set) OpensLine(module int) bool { return s.lines[module] }

// openLines sets what opens an amplifier that stands beside the one that plays a part as what opens that one: where the target has an amplifier and an envelope for each of its lines, and what
// plays goes through both.
func (s *Set) openLines(t *plan.Target) {
	amps := 0
	for j := range t.Modules {
		if t.Modules[j].Kind == meaning.Amp {
			amps++
		}
	}
	if amps < 2 || !s.opened {
		return
	}
	m := t.Interpret(s.State, t.Tempo)
	opener := func(amp string) (env string) {
		for i := range m.Routes {
			r := &m.Routes[i]
			if d := m.Module(r.From); r.Used() && d != nil && d.Kind == meaning.Env && slices.Contains(r.To, meaning.Ref(amp, meaning.PLevel)) {
				env = r.From
			}
		}
		return env
	}
	plays := func(id string) bool { k, is := t.ModuleIndex(id); return is && s.Playing(k) }
	for i := range m.Modules {
		like := &m.Modules[i]
		from := m.Module(opener(like.ID))
		if like.Kind != meaning.Amp || !like.Used() || !plays(like.ID) || from == nil || !plays(from.ID) {
			continue
		}
		for j := range m.Modules {
			d := &m.Modules[j]
			env := opener(d.ID)
			k, is := t.ModuleIndex(env)
			if d.Kind != meaning.Amp || !d.Used() || plays(d.ID) || m.Leads(d.ID, like.ID) || m.Leads(like.ID, d.ID) || !is || s.Playing(k) || s.lines[k] {
				continue
			}
			for _, p := range meaning.SpecOf(meaning.Env).Params {
				if v, has := from.Params[p.Name]; has {
					s.put(t, meaning.Ref(env, p.Name), v.Quantity, Why{Alike, from.Label})
				}
			}
			if s.lines == nil {
				s.lines = map[int]bool{}
			}
			s.lines[k] = true
		}
	}
}

// Playing tells whether a module of the target plays a part.
func (s *Set) Playing(module int) bool { _, ok := s.player[module]; return ok }

// selectors puts controls that only choose between modules to where the fewest unused
// ones are there; where that is no matter they stay.
func (s *Set) selectors(t *plan.Target) {
	seen := map[int]bool{}
	for j := range t.Modules {
		for w := range t.Modules[j].When {
			k, _ := t.Cond(&t.Modules[j].When[w])
			if seen[k] || s.taken[k] || len(t.Controls[k].Means) > 0 {
				continue
			}
			seen[k] = true
			home := s.State.At[k]
			count := func() int {
				n := 0
				for i := range t.Modules {
					if !s.Playing(i) && t.Holds(t.Modules[i].When, s.State) {
						n++
					}
				}
				return n
			}
			best, least := home, count()
			for p, place := range t.Places(k) {
				if !s.limits.Allows(k, p) {
					continue
				}
				s.State.At[k] = place
				if n := count(); n < least {
					best, least = s.State.At[k], n
				}
			}
			s.State.At[k] = best
			if best.Index != home.Index {
				s.Why[k], s.Off[k] = Why{Code: SwitchedOff}, true
			}
			s.taken[k] = true
		}
	}
}

// silence takes one unused module out of the sound by its quiet readings, or by the first
// of its kind's silencing parameters that it has.
func (s *Set) silence(t *plan.Target, j int, why Why) {
	d := &t.Modules[j]
	if len(d.Quiet) > 0 {
		for id, text := range d.Quiet {
			k, _ := t.ControlIndex(id)
			if pos, err := t.Controls[k].Face.Parse(text); err == nil && !s.taken[k] {
				s.State.At[k], s.Why[k], s.taken[k] = pos, why, true
			}
		}
		return
	}
	if m := t.Module(j, s.State, t.Tempo); m.Silence() != "" {
		// it stands right: no need to move anything, but nothing else may move it either
		return
	}
	spec := meaning.SpecOf(d.Kind)
	if d.Kind == meaning.Filter && s.besidePlaying(t, j) {
		// open, it would let past what is to go through the one beside it
		m := t.Module(j, s.State, t.Tempo)
		shut := q.Quantity{Dim: q.DimFrequency, Value: 1}
		if v, _ := m.Get(meaning.PMode); v.Name == "highpass" {
			shut.Value = 1e6
		}
		if s.put(t, meaning.Ref(d.ID, meaning.POn), q.Named(q.DimName, "off"), why) || s.put(t, meaning.Ref(d.ID, meaning.PLevel), q.OffOf(q.DimLevel), why) || s.put(t, meaning.Ref(d.ID, meaning.PCutoff), shut, why) {
			return
		}
	}
	for _, name := range spec.Silence {
		p, _ := spec.Param(name)
		m := t.Module(j, s.State, t.Tempo)
		want := p.Muted(&m)
		if s.put(t, meaning.Ref(d.ID, name), want, why) {
			return
		}
	}
}

// besidePlaying tells whether a filter stands beside one that plays a part.
func (s *Set) besidePlaying(t *plan.Target, j int) bool {
	d := &t.Modules[j]
	m := t.Interpret(s.State, t.Tempo)
	for i := range m.Modules {
		m.Modules[i].Idle = ""
	}
	graph, one := m.Graph(), m.Module(d.ID)
	for k := range t.Modules {
		if k != j && t.Modules[k].Kind == meaning.Filter && s.Playing(k) && graph.SideBySide(one, m.Module(t.Modules[k].ID)) {
			return true
		}
	}
	return false
}

// Clocked lists the controls of a target that count in note values of its tempo and are heard as it stands.
func (s *Set) Clocked(t *plan.Target, got *meaning.Meaning) (out []int) {
	for _, k := range t.Order {
		c := &t.Controls[k]
		for i := range c.Means {
			b := &c.Means[i]
			id, name := meaning.Split(b.Param)
			d := got.Module(id)
			v, set := t.Scale(panel.BindRef{Control: k, Bind: i}).Quantity(s.State.At[k])
			if b.Law.Dim() == q.DimBeats && set && !v.Off && t.Holds(b.When, s.State) && d != nil && d.Used() && d.Heard(name) {
				out = append(out, k)
				break
			}
		}
	}
	return out
}

// TempoControl finds the control of an instrument's own tempo: a number that is only written down and is called so. -1 where there is none.
func TempoControl(t *plan.Target) int {
	for k := range t.Controls {
		c := &t.Controls[k]
		named := strings.EqualFold(c.ID, "tempo") || strings.EqualFold(c.Label, "tempo") || slices.ContainsFunc(c.Aliases, func(a string) bool { return strings.EqualFold(a, "tempo") || strings.EqualFold(a, "bpm") })
		if named && t.OnlyWritten(k) && c.Face.Kind == "numeric" {
			return k
		}
	}
	return -1
}

// SetTempo sets the instrument's own tempo to the patch's, where anything that is heard hangs on it and its scale has it.
func (s *Set) SetTempo(t *plan.Target, got *meaning.Meaning) {
	k := TempoControl(t)
	if k < 0 || len(s.Clocked(t, got)) == 0 {
		return
	}
	f := &t.Controls[k].Face
	step := f.Step
	if step <= 0 {
		step = 1
	}
	for _, x := range []float64{float64(t.Tempo), f.Min + math.Round((float64(t.Tempo)-f.Min)/step)*step} {
		if at, err := t.Parse(k, q.Number(x, 6)); err == nil {
			s.State.At[k], s.Why[k] = at, Why{Code: AtTempo}
			return
		}
	}
}

// CopyWritten sets what is only written down as it stands on the source, which is the same panel.
func (s *Set) CopyWritten(src *panel.Compiled, from *panel.State) {
	for k := range src.Controls {
		if src.OnlyWritten(k) {
			s.State.At[k], s.Why[k] = from.At[k], Why{Code: Written}
		}
	}
}

// Override puts a control where somebody wants it.
func (s *Set) Override(k int, at scale.Position) {
	s.State.At[k] = at
	s.Off[k], s.Clamped[k] = false, false
	s.Why[k] = Why{Code: ByHand}
}
