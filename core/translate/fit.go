package translate

import (
	"fmt"
	"math"
	"sort"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/rules"
	"glossator/core/scale"
)

// locks limits controls to some of their positions.
type locks map[int]map[int]bool

// add limits the controls of the conditions; it gives false, having changed nothing,
// where one of them would have no position left.
func (l locks) add(dst *panel.Compiled, ws []panel.When) bool {
	next := locks{}
	for i := range ws {
		k, in := dst.Cond(&ws[i])
		old, ok := next[k]
		if !ok {
			old, ok = l[k]
		}
		if !ok {
			next[k] = in
			continue
		}
		both := map[int]bool{}
		for p := range in {
			if old[p] {
				both[p] = true
			}
		}
		if len(both) == 0 {
			return false
		}
		next[k] = both
	}
	for k, in := range next {
		l[k] = in
	}
	return true
}

func (l locks) copy() locks {
	out := make(locks, len(l))
	for k, v := range l {
		out[k] = v
	}
	return out
}

func (l locks) allows(control, index int) bool {
	in, ok := l[control]
	return !ok || in[index]
}

// apply moves every locked control that stands where it may not to its first allowed
// position.
func (l locks) apply(dst *panel.Compiled, s *panel.State) {
	for k, in := range l {
		if in[s.At[k].Index] {
			continue
		}
		first := math.MaxInt
		for i := range in {
			first = min(first, i)
		}
		s.At[k] = dst.Places(k)[first]
	}
}

// target is a panel to be set, with what a search over it needs.
type target struct {
	*panel.Compiled
	tempo    q.Tempo
	scratch  meaning.Module // for looks that are not kept
	classes  []slotClass
	home     []int    // by control: the position to take of equals
	pitchRef []string // by module: its pitch, where it is an oscillator
	policy   *policy
	frames   map[string]float64 // nearest positions in tables
	stuck    []int              // routes from envelopes that nothing can take away
	start    *panel.State       // init
	ofKind   map[meaning.Kind][]int
	ins      []inlet
	outlets  map[string][]int // output points by what they are of
	passes   []int            // attenuators that a cable can go through
	fulls    []q.Quantity     // by destination of the matrix: what an amount of one moves
	// sourceRank holds, by id of the source's module, how many of its kind come before it
	sourceRank map[string]int
	ranks      []int                      // by module: how many of its kind come before it
	drives     map[string]map[string]bool // by kind of module or player's source: what its routes can move (driveKey)
}

// newTarget prepares a panel to be set. Of equals the position at init is taken, or, where the
// source is the same panel, the one that the source has.
func newTarget(dst *panel.Compiled, tempo q.Tempo, src *panel.Compiled, from *panel.State, pol *policy) *target {
	t := &target{Compiled: dst, policy: pol, tempo: tempo, frames: map[string]float64{}, scratch: meaning.Module{Params: map[meaning.ParamName]meaning.Value{}}, pitchRef: make([]string, len(dst.Modules))}
	for i := range dst.Modules {
		switch dst.Modules[i].Kind {
		case meaning.Osc, meaning.Sub, meaning.Operator:
			t.pitchRef[i] = meaning.Ref(dst.Modules[i].ID, meaning.PInterval)
		}
	}
	t.start, t.ofKind, t.drives = dst.InitState(), map[meaning.Kind][]int{}, map[string]map[string]bool{}
	t.sourceRank = map[string]int{}
	for i := range dst.Modules {
		k := dst.Modules[i].Kind
		t.ranks = append(t.ranks, len(t.ofKind[k]))
		t.ofKind[k] = append(t.ofKind[k], i)
	}
	t.findDrives()
	t.inlets()
	if dst.Matrix != nil {
		for i := range dst.Matrix.Destinations {
			t.fulls = append(t.fulls, dst.Full(dst.Matrix.Destinations[i].Name))
		}
	}
	t.classes = t.slotClasses()
	for i := range dst.Routes {
		r := &dst.Routes[i]
		k, ok := dst.ModuleIndex(r.From)
		if ok && dst.Modules[k].Kind == meaning.Env && len(r.When) == 0 && r.Normal == "" && r.Via == "" && len(dst.Binds(meaning.Ref(r.ID, meaning.PDepth))) == 0 && len(dst.Binds(meaning.Ref(r.ID, meaning.POn))) == 0 {
			t.stuck = append(t.stuck, i)
		}
	}
	t.home = make([]int, len(dst.Controls))
	for k := range t.home {
		t.home[k] = dst.Init(k).Index
		if src.ID == dst.ID && src.Revision == dst.Revision {
			t.home[k] = from.At[k].Index
		}
	}
	return t
}

// findDrives notes what the routes of the target can come from and move.
func (t *target) findDrives() {
	note := func(from string, to []string) {
		if j, ok := t.ModuleIndex(from); ok {
			from = string(t.Modules[j].Kind)
		}
		if t.drives[from] == nil {
			t.drives[from] = map[string]bool{}
		}
		for _, ref := range to {
			id, param := meaning.Split(ref)
			if j, ok := t.ModuleIndex(id); ok {
				t.drives[from][driveKey(t.Modules[j].Kind, param)] = true
			}
		}
	}
	for i := range t.Routes {
		note(t.Routes[i].From, t.Routes[i].To)
	}
	if t.Matrix != nil {
		for _, id := range t.Matrix.Sources {
			for i := range t.Matrix.Destinations {
				note(id, t.Matrix.Destinations[i].To)
			}
		}
		for i := range t.Matrix.Slots {
			for k := range t.Matrix.Destinations {
				note(t.Matrix.Slots[i].Source, t.Matrix.Destinations[k].To)
			}
		}
	}
	for _, out := range t.Points {
		if out.Dir != "out" {
			continue
		}
		for _, in := range t.Points {
			if in.Dir == "in" {
				note(out.Of, in.To)
			}
		}
	}
}

// assignment is one control put somewhere.
type assignment struct {
	control int
	at, was scale.Position
	clamped bool
}

// put moves a control and notes where it stood.
func (t *target) put(s *panel.State, control int, at scale.Position, clamped bool) assignment {
	a := assignment{control: control, at: at, was: s.At[control], clamped: clamped}
	s.At[control] = at
	return a
}

// fit finds the positions at which module mi of the target comes closest to w. It leaves the
// state as it was; taken controls are not moved.
func (t *target) fit(mi int, w *meaning.Module, s *panel.State, l locks, taken map[int]bool) (best []assignment, cost float64) {
	cost = math.Inf(1)
	free := make([]int, 0, 4)
	for _, k := range t.Structural(mi) {
		if !taken[k] {
			free = append(free, k)
		}
	}
	var fixed []assignment
	var try func(i int)
	try = func(i int) {
		if i == len(free) {
			if t.hopeless(mi, w, s, cost) {
				return
			}
			out := t.follow(mi, w, s, l, taken, fixed)
			t.ModuleInto(&t.scratch, mi, s, t.tempo)
			c := t.policy.moduleCost(w, &t.scratch)
			for _, a := range out {
				if a.at.Index != t.home[a.control] {
					c += 1e-7 // of equals, the one at home
				}
			}
			if c < cost-1e-12 {
				cost = c
				best = append(best[:0], out...)
			}
			for j := len(fixed); j < len(out); j++ {
				s.At[out[j].control] = out[j].was
			}
			return
		}
		k := free[i]
		old := s.At[k]
		for p, place := range t.Places(k) {
			if !l.allows(k, p) {
				continue
			}
			s.At[k] = place
			fixed = append(fixed, assignment{control: k, at: s.At[k]})
			try(i + 1)
			fixed = fixed[:len(fixed)-1]
		}
		s.At[k] = old
	}
	try(0)
	return best, cost
}

// hopeless tells whether what the structural controls decide costs more than the best so far.
func (t *target) hopeless(mi int, w *meaning.Module, s *panel.State, best float64) bool {
	decided := t.Decided(mi)
	if math.IsInf(best, 1) || len(decided) == 0 {
		return false
	}
	t.ModuleInto(&t.scratch, mi, s, t.tempo)
	spec := meaning.SpecOf(w.Kind)
	sum := 0.0
	wide := len(t.Binds(meaning.Ref(t.Modules[mi].ID, meaning.PWidth))) > 0 || len(t.Binds(meaning.Ref(t.Modules[mi].ID, meaning.PFrame))) > 0
	for _, n := range decided {
		if wide && spec.Params[n].Dim == q.DimWave {
			continue // how near the wave is hangs on a width that is still to be set
		}
		sum += t.policy.paramCost(&spec.Params[n], w, &t.scratch)
	}
	return sum*t.policy.costUnit(spec)*t.policy.chosen(w.Source()) > best
}

// follow sets the controls that are not structural, parameter by parameter, and gives all
// assignments. The caller undoes them.
func (t *target) follow(mi int, w *meaning.Module, s *panel.State, l locks, taken map[int]bool, fixed []assignment) []assignment {
	out := append([]assignment(nil), fixed...)
	isSet := func(control int) bool {
		if taken[control] {
			return true
		}
		for _, a := range out {
			if a.control == control {
				return true
			}
		}
		return false
	}
	for n, p := range meaning.SpecOf(w.Kind).Params {
		binds := t.ParamBinds(mi, n)
		if len(binds) == 0 {
			continue
		}
		var free []panel.BindRef
		var others float64 // what controls that are already set add to a sum
		for _, ref := range binds {
			b := t.Bind(ref)
			if !t.Holds(b.When, s) {
				continue
			}
			if isSet(ref.Control) {
				if v, set := t.Scale(ref).Quantity(s.At[ref.Control]); set {
					others += v.Value
				}
				continue
			}
			free = append(free, ref)
		}
		if len(free) == 0 {
			continue
		}
		want := t.wanted(p, mi, w, s)
		if p.Sums {
			out = append(out, t.sum(free, want, w.Params[p.Name], others, s)...)
			continue
		}
		ref := free[0]
		b := t.Bind(ref)
		set, err := t.Scale(ref).Inverse(t.inLaw(want, &b.Law))
		if err != nil {
			set.Position = t.Init(ref.Control) // no such word here: stay
		}
		if err == nil && set.Clamped && p.Mirrored {
			want.Value = 1 - want.Value
			if other, err := t.Scale(ref).Inverse(want); err == nil && !other.Clamped {
				set = other
			}
		}
		if !l.allows(ref.Control, set.Index) {
			continue
		}
		out = append(out, t.put(s, ref.Control, set.Position, set.Clamped))
	}
	return out
}

// wanted gives the value that the control itself must take: cutoff is turned back
// to the panel's own pivot with the tracking that was reached.
func (t *target) wanted(p meaning.Param, mi int, w *meaning.Module, s *panel.State) q.Quantity {
	if p.Name == meaning.PFrame {
		return t.frame(mi, w, s)
	}
	if p.Name != meaning.PCutoff && p.Name != meaning.PResonance {
		v, _ := w.Get(p.Name)
		return p.Effective(v.Quantity, w)
	}
	t.ModuleInto(&t.scratch, mi, s, t.tempo)
	want := onTarget(p, w, &t.scratch)
	if p.Name == meaning.PCutoff && !want.Off {
		track, _ := t.scratch.Get(meaning.PTrack)
		want.Value /= panel.AtMiddleC(track.Value, t.Pivot(mi))
	}
	return want
}

// frame gives the position of the target's table whose wave is nearest to the one that is wanted.
func (t *target) frame(mi int, w *meaning.Module, s *panel.State) q.Quantity {
	v, _ := w.Get(meaning.PFrame)
	t.ModuleInto(&t.scratch, mi, s, t.tempo)
	width := q.Ratio(0.5)
	if x, ok := t.scratch.Params[meaning.PWidth]; ok {
		width = q.Ratio(x.Value)
	}
	if x, ok := w.Params[meaning.PWidth]; ok && len(t.Binds(meaning.Ref(t.Modules[mi].ID, meaning.PWidth))) > 0 {
		width = q.Ratio(x.Value) // it is set to that next
	}
	table, _ := t.scratch.Get(meaning.PTable)
	wave, _ := w.Get(meaning.PWave)
	from, _ := w.Get(meaning.PTable)
	duty, _ := w.Get(meaning.PWidth)
	here, _ := t.scratch.Get(meaning.PWave)
	key := fmt.Sprint(table.Name, here.Name, width, wave.Name, from.Name, v.Value, duty.Value)
	at, ok := t.frames[key]
	if !ok {
		if at, ok = rules.NearestFrame(w, &t.scratch, width); !ok {
			at = math.NaN()
		}
		t.frames[key] = at
	}
	if math.IsNaN(at) {
		return v.Quantity
	}
	return q.Quantity{Dim: q.DimRatio, Value: at}
}

// inLaw turns a quantity into the dimension of a law that counts in note values.
func (t *target) inLaw(v q.Quantity, l *scale.Law) q.Quantity {
	if l.Dim() != q.DimBeats || v.Off || v.Value <= 0 {
		return v
	}
	d := q.Duration(v.Value)
	if v.Dim == q.DimFrequency {
		d = q.Frequency(v.Value).Period()
	}
	return q.Quantity{Dim: q.DimBeats, Value: float64(q.BeatsOf(d, t.tempo)), Tol: v.Tol}
}

// sum shares a wanted sum among controls. Where the source splits it in the same parts the
// split is kept; otherwise the coarsest control goes first and the next takes what is left.
func (t *target) sum(free []panel.BindRef, want q.Quantity, source meaning.Value, others float64, s *panel.State) []assignment {
	goal := want.Value - others
	put := func(value func(ref panel.BindRef, left float64) float64, refs []panel.BindRef) ([]assignment, float64) {
		left := goal
		var out []assignment
		for _, ref := range refs {
			set, err := t.Scale(ref).Inverse(q.Quantity{Dim: want.Dim, Value: value(ref, left)})
			if err != nil {
				continue
			}
			left -= set.Reached.Value
			out = append(out, assignment{control: ref.Control, at: set.Position, clamped: set.Clamped})
		}
		return out, math.Abs(left)
	}
	apply := func(as []assignment) []assignment {
		for i, a := range as {
			as[i] = t.put(s, a.control, a.at, a.clamped)
		}
		return as
	}
	refs := append([]panel.BindRef(nil), free...)
	step := func(ref panel.BindRef) float64 {
		return t.Scale(ref).Step(t.Scale(ref).Len() / 2)
	}
	sort.SliceStable(refs, func(a, b int) bool { return step(refs[a]) > step(refs[b]) })
	rest, restLeft := put(func(_ panel.BindRef, left float64) float64 { return left }, refs)
	if len(source.Parts) > 0 {
		same, left := put(func(ref panel.BindRef, _ float64) float64 { return source.Parts[t.Bind(ref).Part].Value }, refs)
		finest := step(refs[len(refs)-1])
		if left <= restLeft+finest/2+1e-9 {
			return apply(same)
		}
	}
	return apply(rest)
}
