package plan

import (
	"slices"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
)

// wiring is one choice of the controls that choose between ways of the audio path and between routes: an operators' structure, filters in a row or side by side.
type wiring struct {
	at map[int]int // by control: the position
	*panel.Wiring
	held []heldRoute // routes that nothing but the choice can take away
}

// mostWirings is how many choices of a panel's wiring are looked at.
const mostWirings = 256

// findWirings lists the choices of the wiring that a plan can make; none where they make no difference to what sounds.
func (t *Target) findWirings() {
	var list []int
	pure := func(k int) bool { return len(t.Controls[k].Means) == 0 && !slices.Contains(list, k) }
	for _, k := range t.Choosing() {
		if pure(k) {
			list = append(list, k)
		}
	}
	for i := range t.Routes { // what is wired among parts that play
		if r := &t.Routes[i]; len(r.When) > 0 && t.fixedBetween(i) {
			for w := range r.When {
				if k, _ := t.Cond(&r.When[w]); pure(k) {
					list = append(list, k)
				}
			}
		}
	}
	n := 1
	for i, k := range list {
		if n *= len(t.Places(k)); n > mostWirings {
			list = list[:i]
			break
		}
	}
	if len(list) == 0 {
		return
	}
	var all []wiring
	st := t.InitState()
	var each func(i int)
	each = func(i int) {
		if i == len(list) {
			w := wiring{at: map[int]int{}, Wiring: t.WiringAt(st)}
			for _, k := range list {
				w.at[k] = st.At[k].Index
			}
			for n := range t.Routes {
				if r := &t.Routes[n]; len(r.When) > 0 && t.fixedBetween(n) && t.Holds(r.When, st) {
					w.held = t.ends(w.held, n)
				}
			}
			all = append(all, w)
			return
		}
		old := st.At[list[i]]
		for _, at := range t.Places(list[i]) {
			st.At[list[i]] = at
			each(i + 1)
		}
		st.At[list[i]] = old
	}
	each(0)
	differ := false
	for i := range all[1:] {
		differ = differ || !all[0].like(&all[i+1])
	}
	if differ {
		t.wirings = all
	}
}

// like tells whether two choices of the wiring make no difference to what sounds.
func (w *wiring) like(o *wiring) bool {
	if !slices.Equal(w.Out, o.Out) || len(w.Beside) != len(o.Beside) || !slices.Equal(w.held, o.held) {
		return false
	}
	for pair := range w.Beside {
		if !o.Beside[pair] {
			return false
		}
	}
	return true
}

// fixedBetween tells whether a route leads from a part that plays to another, with no control of its own.
func (t *Target) fixedBetween(i int) bool {
	r := &t.Routes[i]
	k, ok := t.ModuleIndex(r.From)
	if !ok || r.Normal != "" || r.Via != "" || len(t.Binds(meaning.Ref(r.ID, meaning.PDepth))) > 0 || len(t.Binds(meaning.Ref(r.ID, meaning.POn))) > 0 {
		return false
	}
	switch t.Modules[k].Kind {
	case meaning.Osc, meaning.Operator, meaning.Noise, meaning.Sub:
		return true
	}
	return false
}

// ends adds the ends of a route of the target.
func (t *Target) ends(out []heldRoute, i int) []heldRoute {
	r := &t.Routes[i]
	k, _ := t.ModuleIndex(r.From)
	for _, to := range r.To {
		id, param := meaning.Split(to)
		if j, ok := t.ModuleIndex(id); ok && j != k {
			out = append(out, heldRoute{k, j, param})
		}
	}
	return out
}

// read reads a module of the target into the scratch one. What follows from the wiring is as it is wanted: the whole plan chooses that.
func (t *Target) read(mi int, w *meaning.Module, s *panel.State) {
	t.ModuleInto(&t.scratch, mi, s, t.Tempo)
	if len(t.wirings) == 0 {
		return
	}
	if t.ByWiring(mi, meaning.POutput) {
		out := q.Quantity{Dim: q.DimLevel}
		if !w.Sounds() {
			out = q.OffOf(q.DimLevel)
		}
		t.scratch.Params[meaning.POutput] = meaning.Value{Quantity: out}
	}
	if v, has := w.Params[meaning.PRouting]; t.ByWiring(mi, meaning.PRouting) {
		if delete(t.scratch.Params, meaning.PRouting); has {
			t.scratch.Params[meaning.PRouting] = meaning.Value{Quantity: v.Quantity}
		}
	}
}

// otherwiseBeside is what it costs that two filters stand in a row and not side by side, or the other way round: as a filter that is lost costs a quarter.
const otherwiseBeside = 3.0

// path is how sound goes in the source, made when it is first asked for.
func (s *moduleSearch) path() *meaning.Graph {
	if s.graph == nil {
		s.graph = s.src.Graph()
	}
	return s.graph
}

// miswired gives what it costs to have the wiring so, for the assignment as it stands: what is to be heard and leads nowhere is lost, and what only modulates is heard;
// a part moves another one that it is not to move.
func (s *moduleSearch) miswired(w *wiring) float64 {
	sum := 0.0
	for p, j := range s.now {
		if j < 0 {
			continue
		}
		m := &s.src.Modules[s.mods[p]]
		switch m.Kind {
		case meaning.Operator, meaning.Osc, meaning.Sub, meaning.Noise, meaning.Ring:
			heard := m.Sounds()
			if heard && !w.Out[j] {
				sum += s.lost[p] + 1 // it may modulate others besides
			}
			if !heard && w.Out[j] && s.t.ByWiring(j, meaning.POutput) {
				sum += s.lost[p] + 1
			}
		case meaning.Filter:
			for p2 := range p {
				j2 := s.now[p2]
				if o := &s.src.Modules[s.mods[p2]]; j2 >= 0 && o.Kind == meaning.Filter && (s.t.ByWiring(j, meaning.PRouting) || s.t.ByWiring(j2, meaning.PRouting)) &&
					w.Beside[[2]int{min(j, j2), max(j, j2)}] != s.path().SideBySide(o, m) {
					sum += otherwiseBeside
				}
			}
		}
	}
	for _, h := range w.held {
		sum += s.heldCost(h, len(s.now), -1)
	}
	return sum
}
