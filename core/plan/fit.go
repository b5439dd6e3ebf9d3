package plan

import (
	"fmt"
	"math"
	"sort"

	q "glossator/core/quantity"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/rules"
	"glossator/core/scale"
)

// Assignment is one control put somewhere.
type Assignment struct {
	Control int
	At, Was scale.Position
	Clamped bool
}

// put moves a control and notes where it stood.
func (t *Target) put(s *panel.State, control int, at scale.Position, clamped bool) Assignment {
	a := Assignment{Control: control, At: at, Was: s.At[control], Clamped: clamped}
	s.At[control] = at
	return a
}

// Fit finds the positions at which module mi of the target comes closest to w. It leaves the
// state as it was; taken controls are not moved.
func (t *Target) Fit(mi int, w *meaning.Module, s *panel.State, l Locks, taken map[int]bool) (best []Assignment, cost float64) {
	cost = math.Inf(1)
	free := make([]int, 0, 4)
	for _, k := range t.Structural(mi) {
		if !taken[k] {
			free = append(free, k)
		}
	}
	var fixed []Assignment
	var try func(i int)
	try = func(i int) {
		if i == len(free) {
			if t.hopeless(mi, w, s, cost) {
				return
			}
			out := t.follow(mi, w, s, l, taken, fixed)
			t.read(mi, w, s)
			c := t.Policy.moduleCost(w, &t.scratch)
			for _, a := range out {
				if a.At.Index != t.home[a.Control] {
					c += 1e-7 // of equals, the one at home
				}
			}
			if c < cost-1e-12 {
				cost = c
				best = append(best[:0], out...)
			}
			for j := len(fixed); j < len(out); j++ {
				s.At[out[j].Control] = out[j].Was
			}
			return
		}
		k := free[i]
		old := s.At[k]
		for p, place := range t.Places(k) {
			if !l.Allows(k, p) {
				continue
			}
			s.At[k] = place
			fixed = append(fixed, Assignment{Control: k, At: s.At[k]})
			try(i + 1)
			fixed = fixed[:len(fixed)-1]
		}
		s.At[k] = old
	}
	try(0)
	return best, cost
}

// hopeless tells whether what the structural controls decide costs more than the best so far.
func (t *Target) hopeless(mi int, w *meaning.Module, s *panel.State, best float64) bool {
	decided := t.Decided(mi)
	if math.IsInf(best, 1) || len(decided) == 0 {
		return false
	}
	t.read(mi, w, s)
	spec := meaning.SpecOf(w.Kind)
	sum := 0.0
	wide := len(t.Binds(meaning.Ref(t.Modules[mi].ID, meaning.PWidth))) > 0 || len(t.Binds(meaning.Ref(t.Modules[mi].ID, meaning.PFrame))) > 0
	for _, n := range decided {
		if wide && spec.Params[n].Dim == q.DimWave {
			continue // how near the wave is hangs on a width that is still to be set
		}
		sum += t.Policy.paramCost(&spec.Params[n], w, &t.scratch)
	}
	return sum*t.Policy.costUnit(spec)*t.Policy.chosen(w.Source()) > best
}

// follow sets the controls that are not structural, parameter by parameter, and gives all
// assignments. The caller undoes them.
func (t *Target) follow(mi int, w *meaning.Module, s *panel.State, l Locks, taken map[int]bool, fixed []Assignment) []Assignment {
	out := append([]Assignment(nil), fixed...)
	isSet := func(control int) bool {
		if taken[control] {
			return true
		}
		for _, a := range out {
			if a.Control == control {
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
		if _, stated := w.Params[p.Name]; !stated && p.Stays {
			continue // it is left as init has it
		}
		if !p.Heard(w) && p.Name != meaning.PWidth && p.Name != meaning.PFrame && !t.same {
			continue // it does nothing there: nobody has to set it here (a width is set for the sake of the wave)
		}
		want := t.wanted(p, mi, w, s)
		if p.Sums {
			out = append(out, t.sum(free, want, w.Params[p.Name], others, s)...)
			continue
		}
		ref := free[0]
		b := t.Bind(ref)
		set, err := t.Scale(ref).Inverse(t.InLaw(want, &b.Law))
		switch {
		case want.Name == Any && t.home[ref.Control] < len(t.Places(ref.Control)):
			set.Position, err = t.Places(ref.Control)[t.home[ref.Control]], nil
		case err != nil:
			set.Position = t.Init(ref.Control) // no such word here: stay
		}
		if err == nil && set.Clamped && p.Mirrored {
			want.Value = 1 - want.Value
			if other, err := t.Scale(ref).Inverse(want); err == nil && !other.Clamped {
				set = other
			}
		}
		if !l.Allows(ref.Control, set.Index) {
			continue
		}
		out = append(out, t.put(s, ref.Control, set.Position, set.Clamped))
	}
	return out
}

// wanted gives the value that the control itself must take: a morph is where it is a filter of one kind, an envelope in stages breaks where one that falls at once stops, cutoff is turned back
// to the panel's own pivot with the tracking that was reached.
func (t *Target) wanted(p meaning.Param, mi int, w *meaning.Module, s *panel.State) q.Quantity {
	if p.Name == meaning.PFrame {
		return t.frame(mi, w, s)
	}
	if p.Name != meaning.PCutoff && p.Name != meaning.PResonance && p.Name != meaning.PMorph && p.Name != meaning.PBreak {
		v, _ := w.Get(p.Name)
		return p.Effective(v.Quantity, w)
	}
	t.ModuleInto(&t.scratch, mi, s, t.Tempo)
	want := OnTarget(p, w, &t.scratch)
	if p.Name == meaning.PCutoff && !want.Off {
		track, _ := t.scratch.Get(meaning.PTrack)
		want.Value /= panel.AtMiddleC(track.Value, t.Pivot(mi))
	}
	return want
}

// frame gives the position of the target's table whose wave is nearest to the one that is wanted.
func (t *Target) frame(mi int, w *meaning.Module, s *panel.State) q.Quantity {
	v, _ := w.Get(meaning.PFrame)
	t.ModuleInto(&t.scratch, mi, s, t.Tempo)
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

// InLaw turns a quantity into the dimension of a law that counts in note values.
func (t *Target) InLaw(v q.Quantity, l *scale.Law) q.Quantity {
	if l.Dim() != q.DimBeats || v.Off || v.Value <= 0 {
		return v
	}
	d := q.Duration(v.Value)
	if v.Dim == q.DimFrequency {
		d = q.Frequency(v.Value).Period()
	}
	return q.Quantity{Dim: q.DimBeats, Value: float64(q.BeatsOf(d, t.Tempo)), Tol: v.Tol}
}

// sum shares a wanted sum among controls. Where the source splits it in the same parts the
// split is kept; otherwise the coarsest control goes first and the next takes what is left.
func (t *Target) sum(free []panel.BindRef, want q.Quantity, source meaning.Value, others float64, s *panel.State) []Assignment {
	goal := want.Value - others
	put := func(value func(ref panel.BindRef, left float64) float64, refs []panel.BindRef) ([]Assignment, float64) {
		left := goal
		var out []Assignment
		for _, ref := range refs {
			set, err := t.Scale(ref).Inverse(q.Quantity{Dim: want.Dim, Value: value(ref, left)})
			if err != nil {
				continue
			}
			left -= set.Reached.Value
			out = append(out, Assignment{Control: ref.Control, At: set.Position, Clamped: set.Clamped})
		}
		return out, math.Abs(left)
	}
	apply := func(as []Assignment) []Assignment {
		for i, a := range as {
			as[i] = t.put(s, a.Control, a.At, a.Clamped)
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

// fitOnce fits a module of the target to a module of the source with nothing else set, where that is not known yet;
// nil where it cannot be brought in.
func (t *Target) fitOnce(known map[int]*knownFit, j int, w *meaning.Module) *knownFit {
	if k, ok := known[j]; ok {
		return k
	}
	known[j] = nil
	l, st := Locks{}, t.start
	if len(t.Modules[j].When) > 0 {
		if !l.Add(t.Compiled, t.Modules[j].When) {
			return nil
		}
		st = t.InitState()
		l.Apply(t.Compiled, st)
	}
	k := &knownFit{}
	k.best, k.cost = t.Fit(j, w, st, l, nil)
	known[j] = k
	return k
}
