package plan

import (
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
		fmt.Fprint(h, useKey(u), ";")
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
