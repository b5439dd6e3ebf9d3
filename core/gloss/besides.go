package gloss

import (
	"fmt"
	"math"
	"slices"

	"glossator/core/meaning"
	"glossator/core/plan"
	q "glossator/core/quantity"
)

// PlaceLine begins the id of a line that tells that an effect stands on the other side of the amplifier; what follows is the target's module.
const PlaceLine = "place:"

// silentWords are words that change nothing that is heard of a part by themselves.
var silentWords = map[meaning.ParamName]bool{meaning.PTable: true, meaning.PPhase: true, meaning.PScope: true, meaning.PTo: true, meaning.POn: true, meaning.PGlideLaw: true, meaning.PGlideWhen: true, meaning.PToneMode: true, meaning.PRouting: true,
	meaning.PFrame: true, meaning.PWarp: true} // the line of the wave tells what a table plays

// besides gives lines for what the target's parts do that nothing of the source asks for and no line tells so far: a control that means something else as
// another one stands, a property that the source has not, a place on the other side of the amplifier.
func (in *Input) besides(lines []Gloss) []Gloss {
	told := map[string]bool{}
	for i := range lines {
		told[lines[i].TargetParam] = true
		for _, a := range lines[i].Also {
			ref, _, _ := in.Plan.Where(a.Param)
			id, name := meaning.Split(ref)
			if j, ok := in.Plan.Best.Module[id]; ok {
				told[meaning.Ref(in.Target.Modules[j].ID, name)] = true
			}
		}
	}
	out := in.routesBesides(lines)
	there, here := in.Plan.Cast.Graph(), in.Got.Graph()
	for i := range in.Plan.Cast.Modules {
		m := &in.Plan.Cast.Modules[i]
		j, placed := in.Plan.Best.Module[m.ID]
		if !placed || !m.Used() {
			continue
		}
		d := in.Got.Module(in.Target.Modules[j].ID)
		if d == nil || !d.Used() {
			continue
		}
		spec := meaning.SpecOf(m.Kind)
		for _, p := range spec.Params {
			ref := meaning.Ref(d.ID, p.Name)
			got, has := d.Params[p.Name]
			want, asked := m.Params[p.Name]
			woken := asked && !p.Heard(m) && want.Name != got.Name // it does nothing there, and does here: the priority of notes of one voice
			if asked && !woken || !has || told[ref] || p.Name == meaning.PPlace || p.Name == meaning.PCount || !p.Heard(d) || p.Unplayed != "" {
				continue
			}
			if silentWords[p.Name] {
				continue
			}
			if !woken {
				want.Quantity = p.Neutral
			}
			dist, jnds := plan.Compare(p, want.Quantity, got.Quantity, m, d)
			if jnds <= 1 {
				continue
			}
			g := Gloss{ID: "target:" + ref, Step: spec.Step, Section: d.Label, Label: p.Label, Source: []Reading{}, Target: in.shownBy(ref), TargetParam: ref, Wanted: figure(want.Quantity), Reached: figure(got.Quantity),
				Verdict: Bent, Diff: difference(p, want.Quantity, got.Quantity, dist), JNDs: Round(jnds, 2), Reason: "nothing of the source asks for it"}
			if woken {
				g.Reason = "it does nothing there, and does here"
			}
			if len(g.Target) == 0 {
				g.Reason += ": fixed on " + in.Target.Name
			}
			for _, t := range g.Target {
				if t.set() {
					g.Reason += "; " + in.byHand(t)
					break
				}
			}
			out = append(out, g)
		}
		if m.Kind == meaning.Drive && !m.Made() && there.Behind(m.ID) != here.Behind(d.ID) {
			before, after := "before", "behind"
			if there.Behind(m.ID) {
				before, after = after, before
			}
			out = append(out, Gloss{ID: PlaceLine + d.ID, Step: spec.Step, Section: m.Label, Label: "place", Source: []Reading{}, Target: []Reading{}, Verdict: Bent,
				Reason: fmt.Sprintf("it stands %s the amplifier there and %s it here: it distorts by another level, and what the envelope does to it is heard otherwise", before, after)})
		}
	}
	return out
}

// routesBesides gives a line for each route of the target that moves what a route of the plan should, which is off as the target is set: what opens the amplifier in
// place of an envelope that has been taken off it, by hand or by ear.
func (in *Input) routesBesides(lines []Gloss) []Gloss {
	off := map[string]string{} // what it should move, and by what
	for i := range in.Plan.Cast.Routes {
		r := &in.Plan.Cast.Routes[i]
		c := &in.Plan.Best.Route[i]
		if !r.Used() || !c.Made() {
			continue
		}
		if got, _, _ := in.made(c.Way); got != nil && got.Used() {
			continue
		}
		for _, to := range r.To {
			id, name := meaning.Split(to)
			if j, ok := in.Plan.Best.Module[id]; ok {
				off[meaning.Ref(in.Target.Modules[j].ID, name)] = r.Label
			}
		}
	}
	var out []Gloss
	for i := range in.Got.Routes {
		r := &in.Got.Routes[i]
		k := slices.IndexFunc(r.To, func(to string) bool { return off[to] != "" })
		if k < 0 || !r.Used() || in.Plan.Makes(in.Target, r.ID) || math.Abs(r.Depth.Value) <= depthParamOf(r).JND.Size || slices.ContainsFunc(lines, func(g Gloss) bool { return g.Route == r.ID }) {
			continue
		}
		ref := meaning.Ref(r.ID, meaning.PDepth)
		out = append(out, Gloss{ID: "target:" + ref, Step: meaning.StepLFO, Section: "Routes", Label: r.Label, Source: []Reading{}, Target: in.shownBy(ref), TargetParam: ref, Route: r.ID,
			Wanted: figure(q.Quantity{Dim: r.Depth.Dim}), Reached: figure(r.Depth.Quantity), Verdict: Bent, Reason: "in place of " + off[r.To[k]] + ", which is off as the target is set"})
	}
	return out
}
