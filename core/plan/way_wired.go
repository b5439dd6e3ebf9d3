package plan

import (
	"math"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
)

// wired is a route of the instrument's own, for good or by a switch: its place among the panel's routes.
type wired int

func (w wired) of(t *Target) *panel.Route { return &t.Routes[w] }

func (w wired) Made(t *Target) (id, label string) { return w.of(t).ID, w.of(t).Label }

func (w wired) Sets(t *Target) string { return meaning.Ref(w.of(t).ID, meaning.PDepth) }

func (w wired) Depth(t *Target) []string { return []string{w.Sets(t)} }

func (w wired) Ends(t *Target) []string { return []string{meaning.Ref(w.of(t).ID, meaning.POn)} }

func (w wired) When(t *Target) []panel.When { return w.of(t).When }

func (w wired) Means(t *Target) Means {
	if len(t.Binds(meaning.Ref(w.of(t).ID, meaning.POn))) > 0 {
		return BySwitch
	}
	return ByWire
}

func (w wired) Put(on Putter, t *Target, r *meaning.Route, _ func(string) string) {
	id := w.of(t).ID
	on.Put(meaning.Ref(id, meaning.POn), q.Named(q.DimName, "on"))
	on.Put(meaning.Ref(id, meaning.PDepth), r.Depth.Quantity)
}

func (w wired) free(s *moduleSearch, _ *meaning.Route, u *taken) (Way, bool) {
	p := w.of(s.t).Normal
	return nil, !u.route[int(w)] && (p == "" || !u.point[s.t.PointIndex(p)])
}

func (w wired) take(u *taken, is bool) { mark(u.route, int(w), is) }

// wires adds the wired routes that can make a route.
func (s *moduleSearch) wires(out []Choice, e *ends) []Choice {
	for i := range s.t.Routes {
		d := &s.t.Routes[i]
		if d.From != e.from || d.Via != e.via {
			continue
		}
		if c, ok := s.shape(e, d.To, d.Polarity); ok {
			out = append(out, Choice{Way: s.t.wired[i], Cost: c + s.wiredDepth(i, e.r)})
		}
	}
	return out
}

// wiredDepth gives how badly a wired route can be as deep as wanted, 0 to 1.
func (s *moduleSearch) wiredDepth(i int, r *meaning.Route) float64 {
	key := wiredKey{i, r.Depth.Quantity}
	if c, ok := s.t.depths[key]; ok {
		return c
	}
	d := &s.t.Routes[i]
	p, err := s.t.Param(meaning.Ref(d.ID, meaning.PDepth))
	c := 1.0
	if err == nil && p.Dim == r.Depth.Dim {
		got := q.Quantity{}
		if refs := s.t.Binds(meaning.Ref(d.ID, meaning.PDepth)); len(refs) > 0 {
			if set, err := s.t.Scale(refs[0]).Inverse(r.Depth.Quantity); err == nil {
				got = set.Reached
			}
		} else {
			m := s.t.Route(i, s.t.start, s.t.Tempo)
			got = m.Depth.Quantity
		}
		if c = depthLoss(r.Depth.Quantity, got, p.JND.Size); r.ModulatesPhase() && got.Value*r.Depth.Value > 0 {
			c = math.Min(c, otherIndex) // the modulator's level makes up for it
		}
	}
	s.t.depths[key] = c
	return c
}

// otherIndex is what another depth of a modulation costs whose index can be kept, as a share of losing the route.
const otherIndex = 0.05

// wiredKey is a route of the target and the depth that is wanted of it.
type wiredKey struct {
	route int
	depth q.Quantity
}

// depthLoss gives how bad a depth is, as a share of losing the route. One that goes
// twice as far as wanted is worse than none.
func depthLoss(want, got q.Quantity, jnd float64) float64 {
	c := loss(math.Abs(q.Distance(want, got)) / jnd)
	if math.Abs(got.Value) > 2*math.Abs(want.Value) {
		c += 0.5
	}
	return c
}
