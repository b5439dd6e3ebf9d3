package gloss

import (
	"fmt"

	"glossator/core/meaning"
	"glossator/core/plan"
)

// planOf tells the plan by labels.
func (in *Input) planOf() Plan {
	pl, pol := in.Plan, in.Target.Policy
	p := Plan{Cost: pl.Cost(), Whole: pl.Whole(pol), Nodes: pl.Best.Nodes, Exact: pl.Best.Exact, Sets: pl.Looked, Cut: pl.Cut, Modules: []Pair{}, Routes: []Pair{}}
	for i := range in.Plan.Wanted.Modules {
		m := &in.Plan.Wanted.Modules[i]
		if !plan.Counts(m) {
			continue
		}
		pair := Pair{Source: m.ID, SourceLabel: m.Label, Cost: pol.LeaveOut(m), Weight: pol.LeaveOut(m)}
		k, ok := in.Plan.Placed(m.ID)
		if ok {
			pair.Target, pair.TargetLabel, pair.Cost = in.Target.Modules[k].ID, in.Target.Modules[k].Label, in.pairCost(m.ID)
		}
		if by := in.Plan.RecastOf(m.ID); by != nil {
			pair.Rule, pair.Reason = by.Rule.ID, by.Text
		} else if !ok {
			pair.Reason = in.noPlace(m)
		}
		p.Modules = append(p.Modules, pair)
	}
	for i := range in.Plan.Wanted.Routes {
		r := &in.Plan.Wanted.Routes[i]
		if !r.Used() {
			continue
		}
		c := in.Plan.Choice(r)
		pair := Pair{Source: r.ID, SourceLabel: r.Label, Cost: c.Cost, Weight: pol.RouteWeight(in.Plan.Wanted, r), Reason: whyNot(c.Why)}
		if by := in.Plan.RecastOf(r.ID); by != nil && !by.Gone[r.ID] {
			pair.Rule, pair.Reason = by.Rule.ID, by.Text
		} else if by != nil {
			pair.Reason = by.Text + ": what it moves is not there"
		}
		if c.Made() {
			pair.Target, pair.TargetLabel = c.Way.Made(in.Target)
		}
		p.Routes = append(p.Routes, pair)
	}
	return p
}

// pairCost gives what it costs that somebody plays a module of the source.
func (in *Input) pairCost(id string) float64 {
	id, _ = in.Plan.CastID(id)
	return in.Plan.Best.Pair[id]
}

// noPlace says why a module of the source is not on the target.
func (in *Input) noPlace(m *meaning.Module) string {
	spec := meaning.SpecOf(m.Kind)
	have, used := 0, 0
	for k := range in.Target.Modules {
		if in.Target.Modules[k].Kind == m.Kind {
			have++
			if in.Set.Playing(k) {
				used++
			}
		}
	}
	switch {
	case have == 0:
		return fmt.Sprintf("%s has no %s", in.Target.Name, spec.Label)
	case used == have:
		return fmt.Sprintf("%s has %s, in use for what matters more", in.Target.Name, counted(have, spec.Label, spec.Plural))
	}
	switch m.Kind {
	case meaning.Env, meaning.LFO, meaning.Macro:
		return fmt.Sprintf("no %s left on %s can move what it moves, or is near enough", spec.Label, in.Target.Name)
	}
	return fmt.Sprintf("no %s of %s is near enough, or what it needs is taken by another part", spec.Label, in.Target.Name)
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "one " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}
