package gloss

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"sort"

	q "glossator/core/quantity"

	"glossator/core/meaning"
	"glossator/core/plan"
	"glossator/core/rules"
)

// recastLine fills the line of a parameter that is made by other means. It gives false where
// the parameter has not been touched, and the line is made as ever. The key is set where the line
// stands for a whole sum.
func (in *Input) recastLine(g *Gloss, m *meaning.Module, name meaning.ParamName) (key string, is bool) {
	ref, by, lost := in.Plan.Where(meaning.Ref(m.ID, name))
	if ref == meaning.Ref(m.ID, name) {
		return "", false
	}
	v := m.Params[name]
	id, param := meaning.Split(ref)
	n, r := in.Plan.Cast.Module(id), in.Plan.Cast.Route(id)
	if n != nil && n.Kind == m.Kind && param == name { // what has stayed as it was goes over as ever
		if now, ok := n.Params[param]; ok && Alike(now.Quantity, v.Quantity) {
			return "", false
		}
	}
	if by == nil { // a module that was adjusted for the sake of another part
		if n == nil {
			return "", false
		}
		for _, x := range in.Plan.Uses {
			if _, moved := x.Moved[m.ID]; moved {
				by = x
			}
		}
		if by == nil {
			return "", false
		}
	}
	p, _ := meaning.SpecOf(m.Kind).Param(name)
	if _, jnds := plan.Compare(p, v.Quantity, p.Neutral, m, m); ref == "" && jnds < 0.01 && p.Dim != q.DimWave && g.asInit() {
		g.Verdict, g.Reason = Idle, "adds nothing, and goes with "+m.Label+", which is made by other means"
		return key, true
	}
	g.recast(by)
	if p.Sums && len(v.Parts) > 0 { // the parts of a sum go over together
		g.Wanted, key = figure(v.Quantity), g.Param
	}
	switch {
	case lost:
		g.Verdict, g.Reason = LeftOut, by.Text+": there it has no "+p.Label
	case n != nil:
		in.recastOnto(g, n, param)
	case r != nil:
		in.recastOntoRoute(g, r)
	}
	return key, true
}

// recastOnto shows the parameter of the target that a recast came to.
func (in *Input) recastOnto(g *Gloss, n *meaning.Module, param meaning.ParamName) {
	ti, ok := in.Plan.Best.Module[n.ID]
	if !ok {
		g.Verdict, g.Reason = LeftOut, "even by other means there is no place for it: "+in.noPlace(n)
		return
	}
	tm := &in.Target.Modules[ti]
	got := in.Got.Module(tm.ID)
	v, have := got.Params[param]
	p, _ := meaning.SpecOf(n.Kind).Param(param)
	want := plan.OnTarget(p, n, got)
	if !have {
		if _, jnds := plan.Compare(p, want, p.Neutral, n, n); jnds >= 0.01 {
			g.Verdict = LeftOut
			g.Reason += fmt.Sprintf(": %s of %s has no %s", tm.Label, in.Target.Name, p.Label)
		}
		return
	}
	g.TargetParam = meaning.Ref(tm.ID, param)
	g.Target = in.shownBy(g.TargetParam)
	g.Reached = figure(v.Quantity)
	d, jnds := in.compare(p, want, v.Quantity, n, got)
	g.JNDs = shownJNDs(p, want, jnds)
	if jnds > 1 {
		g.Diff = difference(p, want, v.Quantity, d)
		g.Reason += "; asked for there: " + want.String()
	}
	if a, ok := in.Adjusted[meaning.Ref(n.ID, param)]; ok {
		g.Reason = joined(g.Reason, forWhat(a.Notes))
	}
	for _, t := range g.Target {
		if t.set() {
			g.Reason += "; " + in.byHand(t)
			break
		}
	}
}

// recastOntoRoute shows the route of the target that a recast came to.
func (in *Input) recastOntoRoute(g *Gloss, r *meaning.Route) {
	c := in.Plan.ChoiceOf(r.ID)
	if !c.Made() {
		g.Verdict, g.Reason = LeftOut, whyNot(c.Why)
		return
	}
	got, sets, _ := in.made(c.Way)
	if got == nil || !got.Used() {
		g.Verdict, g.Reason = LeftOut, "off on the target"
		return
	}
	g.TargetParam, g.Route = sets, got.ID
	g.Target = append(in.shown(c.Way.Depth(in.Target)), in.shown(c.Way.Ends(in.Target))...)
	g.Reached = figure(got.Depth.Quantity)
}

func (in *Input) recastings() []Recasting {
	out := []Recasting{}
	label := func(id string) string {
		for _, m := range []*meaning.Meaning{in.Plan.Wanted, in.Plan.Cast} {
			if x := m.Module(id); x != nil {
				return x.Label
			}
			if x := m.Route(id); x != nil {
				return x.Label
			}
		}
		return id
	}
	for _, r := range in.Plan.Uses {
		x := Recasting{Rule: r.Rule.ID, Name: r.Rule.Name, Parts: []string{}, By: []string{}, Text: r.Text, Why: r.Rule.Why, Source: r.Rule.Source, Penalty: Round(r.Penalty, 3), Player: r.Rule.Player}
		if r.Ways > 1 && len(r.Parts) > 0 {
			x.Key, x.Part = r.Key, r.Source(r.Parts[0])
		}
		for _, id := range r.Parts {
			x.Parts = append(x.Parts, label(r.First(id)))
		}
		seen := map[string]bool{}
		for _, id := range r.Parts {
			for ref, to := range r.Map {
				if from, _ := meaning.Split(ref); from != id {
					continue
				}
				tid, _ := meaning.Split(to)
				for _, later := range in.Plan.Uses {
					if next, ok := later.Moved[tid]; ok && later != r {
						tid = next
					}
				}
				by := ""
				if k, ok := in.Plan.Best.Module[tid]; ok {
					by = in.Target.Modules[k].Label
				}
				for i := range in.Plan.Cast.Routes {
					if c := &in.Plan.Best.Route[i]; in.Plan.Cast.Routes[i].ID == tid && c.Made() {
						_, _, by = in.made(c.Way)
					}
				}
				if by != "" && !seen[by] {
					seen[by] = true
					x.By = append(x.By, by)
				}
			}
		}
		sort.Strings(x.By)
		out = append(out, x)
	}
	place := map[string]int{}
	for i, r := range rules.Table {
		place[r.ID] = i
	}
	slices.SortStableFunc(out, func(a, b Recasting) int { return cmp.Compare(place[a.Rule], place[b.Rule]) })
	return out
}

// Alike tells whether two quantities are the same but for rounding.
func Alike(a, b q.Quantity) bool {
	if a.Dim.Named() || b.Dim.Named() {
		return a.Name == b.Name
	}
	return a.Off == b.Off && math.Abs(a.Value-b.Value) <= 1e-6*math.Max(1, math.Abs(a.Value))
}
