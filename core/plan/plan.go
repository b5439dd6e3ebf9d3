package plan

import (
	"cmp"
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"strconv"

	"glossator/core/meaning"
	"glossator/core/rules"
)

// Plan is the outcome of the search: who plays what, by which rules. It is not changed after Find.
type Plan struct {
	// Wanted is what was asked for, Cast the same with parts made by other means, Uses the rules by which, in the order in which it was decided.
	Wanted, Cast *meaning.Meaning
	Uses         []*rules.Recast
	// Best is the allocation of Cast, Penalty what the rules cost.
	Best    Allocation
	Penalty float64
	// Looked counts the sets of uses of rules that were looked at; Cut is set where the search over them has met a limit.
	Looked int
	Cut    bool
	// Unheard are modules of the cast that have no place because nothing that they move is made.
	Unheard map[string]bool
}

// Cost is what the plan costs in all, in the unit of meaning's weights.
func (p *Plan) Cost() float64 { return p.Best.Cost + p.Penalty }

// Makes tells whether a route of the target, by its id there, is made for one of the source.
func (p *Plan) Makes(t *Target, id string) bool {
	for i := range p.Best.Route {
		if c := &p.Best.Route[i]; c.Made() {
			if x, _ := c.Way.Made(t); x == id {
				return true
			}
		}
	}
	return false
}

// Mark names the plan: who plays what, by which rules, and how routes are made. Two plans of one patch on one target with one mark are the same.
func (p *Plan) Mark(t *Target) string {
	h := fnv.New64a()
	for _, id := range slices.Sorted(maps.Keys(p.Best.Module)) {
		fmt.Fprint(h, id, ">", t.Modules[p.Best.Module[id]].ID, ";")
	}
	for _, u := range p.Uses {
		fmt.Fprint(h, cmp.Or(u.Key, useKey(u)), ";")
	}
	for i := range p.Best.Route {
		if c := &p.Best.Route[i]; c.Made() {
			id, _ := c.Way.Made(t)
			fmt.Fprint(h, p.Cast.Routes[i].ID, ">", id, ";")
		}
	}
	return strconv.FormatUint(h.Sum64(), 36)
}

// Whole is what it would cost to lose everything.
func (p *Plan) Whole(pol *Policy) float64 {
	sum := 0.0
	for i := range p.Wanted.Modules {
		if m := &p.Wanted.Modules[i]; Counts(m) {
			sum += pol.LeaveOut(m)
		}
	}
	for i := range p.Wanted.Routes {
		if r := &p.Wanted.Routes[i]; r.Used() {
			sum += pol.RouteWeight(p.Wanted, r)
		}
	}
	return sum
}

// WithoutIdle gives the plan without what does nothing as the target has come to stand: routes that move nothing (a width where no pulse is played, a depth finer than
// the first step of its scale), and the envelopes and LFOs nothing of which is made: nobody is to set them for nothing. What the search has reckoned stands. The plan
// itself where there is nothing of the kind.
func (p *Plan) WithoutIdle(t *Target, got *meaning.Meaning) *Plan {
	out := *p
	out.Best.Route, out.Best.Module = slices.Clone(p.Best.Route), maps.Clone(p.Best.Module)
	out.Unheard = map[string]bool{}
	changed := false
	listens := map[string]bool{}
	for i := range out.Best.Route {
		c := &out.Best.Route[i]
		if !c.Made() {
			continue
		}
		id, _ := c.Way.Made(t)
		r := got.Route(id)
		if r == nil || r.Used() || !r.Deaf && (r.Depth.Off || r.Depth.Value != 0) {
			if want := &p.Cast.Routes[i]; r == nil || r.Used() {
				listens[want.From], listens[want.Via] = true, true
			}
			continue
		}
		changed = true
		*c = Choice{Cost: c.Cost, Why: Why{Code: TooFine, From: r.Label}}
		if r.Deaf {
			m, _ := meaning.Split(r.To[0])
			c.Why = Why{Code: Deaf, From: got.Module(m).Label}
		}
	}
	for i := range p.Cast.Modules {
		m := &p.Cast.Modules[i]
		k, placed := p.Best.Module[m.ID]
		if !placed || !m.Used() || m.Kind != meaning.Env && m.Kind != meaning.LFO || listens[m.ID] {
			continue
		}
		if d := got.Module(t.Modules[k].ID); d == nil || d.Used() || d.Absent {
			continue
		}
		changed = true
		delete(out.Best.Module, m.ID)
		out.Unheard[m.ID] = true
	}
	if !changed {
		return p
	}
	return &out
}

// Counts tells whether a module has to be played by somebody: an attenuator is part of its cable.
func Counts(m *meaning.Module) bool { return m.Used() && m.Kind != meaning.Atten }

// Where follows a parameter of the source's meaning ("osc3.level") through the recasts. by is
// the last of them that makes its part by other means; ref is empty where the parameter goes
// with the whole, or, with lost, where what makes the part has nothing for it.
func (p *Plan) Where(ref string) (now string, by *rules.Recast, lost bool) {
	for _, r := range p.Uses {
		id, _ := meaning.Split(ref)
		is := slices.Contains(r.Parts, id)
		to, mapped := r.Map[ref]
		_, moved := r.Moved[id]
		switch {
		case is:
			by = r
		case !mapped && !moved:
			continue
		}
		if !mapped {
			if by == nil {
				by = r
			}
			return "", by, moved
		}
		ref = to
	}
	return ref, by, false
}

// CastID follows a module through the recasts; ok is false where it has been dropped.
func (p *Plan) CastID(id string) (now string, ok bool) {
	for _, r := range p.Uses {
		if to, moved := r.Moved[id]; moved {
			id = to
		} else if slices.Contains(r.Parts, id) && r.Meaning.Module(id) == nil {
			return "", false
		}
	}
	return id, true
}

// Placed gives the module of the target that plays a module of the source.
func (p *Plan) Placed(id string) (target int, ok bool) {
	id, ok = p.CastID(id)
	if !ok {
		return -1, false
	}
	target, ok = p.Best.Module[id]
	return target, ok
}

// RecastOf gives the last recast that makes a module or route by other means, or nil.
func (p *Plan) RecastOf(id string) *rules.Recast {
	var by *rules.Recast
	for _, r := range p.Uses {
		if slices.Contains(r.Parts, id) {
			by = r
		}
		if to, ok := r.Moved[id]; ok {
			id = to
		} else if to, ok := r.Map[meaning.Ref(id, meaning.PDepth)]; ok {
			id, _ = meaning.Split(to)
		}
	}
	return by
}

// Choice gives how a route of the source is made; none where it has been made by other means.
func (p *Plan) Choice(r *meaning.Route) Choice {
	ref, _, _ := p.Where(meaning.Ref(r.ID, meaning.PDepth))
	id, _ := meaning.Split(ref)
	return p.ChoiceOf(id)
}

// ChoiceOf gives how a route of the cast is made.
func (p *Plan) ChoiceOf(id string) Choice {
	for i := range p.Cast.Routes {
		if p.Cast.Routes[i].ID == id {
			return p.Best.Route[i]
		}
	}
	return Choice{}
}
