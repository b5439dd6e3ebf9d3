package plan

import (
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// cable is a connection put in by hand between two patch points, through an attenuator where that is not -1.
type cable struct{ out, in, atten int }

func (w cable) Made(t *Target) (id, label string) {
	return panel.CableID(t.Points[w.in].ID), t.Points[w.out].Label + " to " + t.Points[w.in].Label
}

func (w cable) Sets(t *Target) string {
	if w.atten < 0 {
		return ""
	}
	return meaning.Ref(t.Modules[w.atten].ID, meaning.PGain)
}

func (w cable) Depth(t *Target) []string {
	if w.atten < 0 {
		return nil
	}
	return []string{w.Sets(t)}
}

func (w cable) Ends(t *Target) []string { return w.Depth(t) }

func (w cable) When(*Target) []panel.When { return nil }

func (w cable) Means(*Target) Means { return ByCable }

func (w cable) Put(on Putter, t *Target, r *meaning.Route, _ func(string) string) {
	out, in := t.Points[w.out].ID, t.Points[w.in].ID
	if w.atten < 0 {
		on.Plug(patch.Cable{From: out, To: in})
		return
	}
	from, to := t.AttenuatorThrough(w.atten)
	on.Plug(patch.Cable{From: out, To: t.Points[from].ID})
	on.Plug(patch.Cable{From: t.Points[to].ID, To: in})
	on.Put(w.Sets(t), q.Quantity{Dim: q.DimRatio, Value: r.Depth.Value / t.PointDepth(in).Value})
}

func (w cable) free(s *moduleSearch, _ *meaning.Route, u *taken) (Way, bool) {
	return nil, !u.point[w.in] && (w.atten < 0 || !u.atten[w.atten]) && !s.breaks(w.in, u.route)
}

func (w cable) take(u *taken, is bool) {
	mark(u.point, w.in, is)
	if w.atten >= 0 {
		mark(u.atten, w.atten, is)
	}
}

// breaks tells whether a cable into a point would cut a wired route that is in use.
func (s *moduleSearch) breaks(point int, used map[int]bool) bool {
	for i := range used {
		if n := s.t.Routes[i].Normal; n != "" && s.t.PointIndex(n) == point {
			return true
		}
	}
	return false
}

// inlet is a point of the target that a cable can go into.
type inlet struct {
	index int
	full  q.Quantity // what a full voltage moves
	jnd   float64
}

// inlets lists the points that cables can go into, those of attenuators left aside, and the outlets by what they are
// of; passes lists the attenuators that a cable can go through.
func (t *Target) inlets() {
	t.outlets = map[string][]int{}
	for i := range t.Points {
		p := &t.Points[i]
		if p.Dir == "out" {
			t.outlets[p.Of] = append(t.outlets[p.Of], i)
		}
		if p.Dir != "in" || t.AttenuatorIn(i) >= 0 {
			continue
		}
		d, _ := t.Param(p.To[0])
		t.ins = append(t.ins, inlet{i, t.PointDepth(p.ID), meaning.DepthParam(d.Dim).JND.Size})
	}
	for a := range t.Modules {
		if t.Modules[a].Kind == meaning.Atten && t.AttenuatorPoints(a) {
			t.passes = append(t.passes, a)
		}
	}
}

// cable gives the way by a cable; each is made once.
func (t *Target) cable(out, in, atten int) Way {
	if t.cables == nil {
		t.cables = make([]Way, len(t.Points)*len(t.Points)*(len(t.Modules)+1))
	}
	w := &t.cables[(out*len(t.Points)+in)*(len(t.Modules)+1)+atten+1]
	if *w == nil {
		*w = cable{out, in, atten}
	}
	return *w
}

// cables adds the cables that can make a route: nothing scales a cable.
func (s *moduleSearch) cables(out []Choice, e *ends) []Choice {
	if e.via != "" {
		return out
	}
	for _, o := range s.t.outlets[e.from] {
		for _, in := range s.t.ins {
			if in.full.Dim != e.r.Depth.Dim || in.full.Value == 0 {
				continue
			}
			c, ok := s.shape(e, s.t.Points[in.index].To, s.t.Points[in.index].Polarity)
			if !ok {
				continue
			}
			// a cable is more to do than a switch
			c += rules.CableCost
			out = append(out, Choice{Way: s.t.cable(o, in.index, -1), Cost: c + depthLoss(e.r.Depth.Quantity, in.full, in.jnd)})
			if share := e.r.Depth.Value / in.full.Value; share > 0 && share < 1 {
				for _, a := range s.t.passes {
					out = append(out, Choice{Way: s.t.cable(o, in.index, a), Cost: c + rules.CableCost})
				}
			}
		}
	}
	return out
}
