package gloss

import (
	"fmt"
	"strings"

	"glossator/core/meaning"
	"glossator/core/plan"
	"glossator/core/rules"
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
			if in.Plan.Unheard[m.ID] {
				pair.Cost = in.pairCost(m.ID)
			}
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
	if id, ok := in.Plan.CastID(m.ID); ok && in.Plan.Unheard[id] {
		return "nothing that it moves is made on " + in.Target.Name
	}
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
		return fmt.Sprintf("%s has %s, in use for %s", in.Target.Name, counted(have, spec.Label, spec.Plural), rules.And(in.playedBy(m.Kind)))
	}
	var why []string
	for k := range in.Target.Modules {
		if in.Target.Modules[k].Kind == m.Kind && !in.Set.Playing(k) {
			why = append(why, in.notThis(m, k))
		}
	}
	return strings.Join(why[:min(2, len(why))], "; ")
}

// playedBy lists the parts that the target's modules of a kind play.
func (in *Input) playedBy(kind meaning.Kind) (out []string) {
	for k := range in.Target.Modules {
		for i := range in.Plan.Cast.Modules {
			m := &in.Plan.Cast.Modules[i]
			if j, ok := in.Plan.Best.Module[m.ID]; ok && j == k && m.Kind == kind {
				out = append(out, in.labelOf(m.Source()))
			}
		}
	}
	return out
}

// notThis says why a module of the target that plays nothing does not play a part: a switch that another part needs has it away, or what of it would be the furthest off.
func (in *Input) notThis(m *meaning.Module, target int) string {
	d := &in.Target.Modules[target]
	for i := range d.When {
		k, _ := in.Target.Cond(&d.When[i])
		if in.Target.Holds(d.When[i:i+1], in.Set.State) {
			continue
		}
		why := fmt.Sprintf("%s is not there while %s stands at %s", d.Label, in.Target.Controls[k].Label, in.Set.State.At[k].Reading)
		if part := in.Set.Why[k].Part; part != "" {
			why += ", as " + part + " needs it"
		}
		return why
	}
	st := in.Target.InitState()
	best, _ := in.Target.Fit(target, m, st, plan.Locks{}, nil)
	for _, a := range best {
		st.At[a.Control] = a.At
	}
	got := in.Target.Module(target, st, in.Target.Tempo)
	most, what := 0.0, ""
	for _, p := range meaning.SpecOf(m.Kind).Params {
		if _, asked := m.Params[p.Name]; !asked || !p.Heard(m) {
			continue
		}
		want, v := plan.OnTarget(p, m, &got), got.Params[p.Name]
		has := v.Dim != ""
		if !has {
			v.Quantity = p.Neutral
		}
		if _, jnds := plan.Compare(p, want, v.Quantity, m, &got); want.Name != plan.Any && p.Weight*jnds/(jnds+4) > most {
			most = p.Weight * jnds / (jnds + 4)
			what = fmt.Sprintf("its %s would be %s for %s", p.Label, v.Quantity, want)
			if !has {
				what = fmt.Sprintf("it has no %s, for %s", p.Label, want)
			}
		}
	}
	if what == "" || most < 0.1 {
		return d.Label + " is of no use here: nothing leads from or to it as that would need"
	}
	return d.Label + " would be further off than nothing: " + what
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "one " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}
