package gloss

import (
	"fmt"
	"strings"

	"glossator/core/plan"
	q "glossator/core/quantity"

	"glossator/core/meaning"
	"glossator/core/rules"
)

// routeLine fills the line of a control of a route.
func (in *Input) routeLine(g *Gloss, r *meaning.Route, name meaning.ParamName, own q.Quantity) {
	g.Param = meaning.Ref(r.ID, name)
	if name == meaning.PAmount {
		own = r.Depth.Quantity
	}
	g.Wanted = figure(own)
	if !r.Used() {
		g.Verdict, g.Reason = Idle, r.Label+" moves nothing: "+r.Idle
		return
	}
	c := in.Plan.Choice(r)
	if by := in.Plan.RecastOf(r.ID); by != nil {
		g.recast(by)
		if by.Gone[r.ID] {
			g.Verdict, g.Reason = LeftOut, by.Text+": what it moves is not there"
			return
		}
		ref, _, _ := in.Plan.Where(meaning.Ref(r.ID, meaning.PDepth))
		id, param := meaning.Split(ref)
		if n := in.Plan.Cast.Module(id); n != nil {
			in.recastOnto(g, n, param)
		} else if n := in.Plan.Cast.Route(id); n != nil {
			in.recastOntoRoute(g, n)
		}
		return
	}
	if !c.Made() {
		g.Verdict, g.Reason = LeftOut, whyNot(c.Why)
		if m := in.Plan.Wanted.Module(r.From); m != nil {
			if _, ok := in.Plan.Placed(r.From); !ok {
				g.Reason = m.Label + " is not there: " + in.noPlace(m)
			}
		}
		return
	}
	got, sets, label := in.made(c.Way)
	g.TargetParam = sets
	if got != nil {
		g.Route = got.ID
	}
	if name != meaning.PDepth && name != meaning.PAmount {
		g.Verdict, g.Reached = Held, figure(q.Named(q.DimName, label))
		g.Target = in.shown(c.Way.Ends(in.Target))
		if got == nil || !got.Used() {
			g.Verdict, g.Reason = LeftOut, "off on the target"
		}
		return
	}
	if got == nil || !got.Used() && in.Over != nil && len(in.Over) > 0 && got.Depth.Value == 0 {
		g.Verdict, g.Reason = LeftOut, "off on the target"
		g.Target = in.shown(c.Way.Depth(in.Target))
		return
	}
	g.Target = in.shown(c.Way.Depth(in.Target))
	g.Reached = figure(got.Depth.Quantity)
	p := depthParamOf(r)
	in.judge(g, p, r.Depth.Quantity, got.Depth.Quantity, nil, nil)
	var why []string
	if got.Polarity != r.Polarity {
		why = append(why, fmt.Sprintf("%s there, %s here", r.Polarity, got.Polarity))
		if Worse(Bent, g.Verdict) {
			g.Verdict = Bent
		}
	}
	if extra := in.extra(r, got); extra != "" {
		why = append(why, "moves "+extra+" as well")
		if Worse(Bent, g.Verdict) {
			g.Verdict = Bent
		}
	}
	if x := r.Depth.Value / got.Depth.Value; (r.From == "wheel" || r.Via == "wheel") && g.JNDs > 0.5 && x > 0 && x < 1 {
		why = append(why, fmt.Sprintf("turn the wheel to %s %% for what all of it did there", q.Number(100*x, 2)))
	}
	why = append(why, g.says(&rules.Line{Route: r, Means: string(c.Way.Means(in.Target)), By: label})...)
	for _, t := range g.Target {
		k, _ := in.Target.ControlIndex(t.Control)
		if t.set() {
			why = append(why, in.byHand(t))
		} else if in.Set.Clamped[k] {
			why = append(why, "the end of the target's scale")
		}
	}
	if len(g.Target) == 0 {
		why = append(why, "the depth is fixed on "+in.Target.Name)
	}
	if g.Open {
		why = append(why, "the scales are not known well enough to be sure")
	}
	g.Reason = strings.Join(why, "; ")
}

func depthParamOf(r *meaning.Route) meaning.Param {
	for _, d := range []q.Dim{q.DimFrequency, q.DimInterval, q.DimRatio, q.DimResonance, q.DimCount} {
		if meaning.DepthDim(d) == r.Depth.Dim {
			return meaning.DepthParam(d)
		}
	}
	return meaning.DepthParam(q.DimRatio)
}

// made finds what a way made on the target: the route as it reads there, nil where it is not there, what sets its depth and its label.
func (in *Input) made(w plan.Way) (r *meaning.Route, sets, label string) {
	id, label := w.Made(in.Target)
	return in.Got.Route(id), w.Sets(in.Target), label
}

// shown lists the readings of the target's controls that make some parameters.
func (in *Input) shown(refs []string) []Reading {
	out := []Reading{}
	for _, r := range refs {
		out = append(out, in.shownBy(r)...)
	}
	return out
}

// extra names what a route of the target moves beyond what was wanted.
func (in *Input) extra(want, got *meaning.Route) string {
	wanted := map[string]bool{}
	for _, d := range want.To {
		id, param := meaning.Split(d)
		if k, ok := in.Plan.Placed(id); ok {
			wanted[meaning.Ref(in.Target.Modules[k].ID, param)] = true
			if in.Target.Modules[k].Kind == meaning.Voice && param == meaning.PTune {
				return ""
			}
		}
	}
	var out []string
	for _, d := range got.To {
		id, param := meaning.Split(d)
		k, ok := in.Target.ModuleIndex(id)
		if !ok || wanted[d] || !in.Set.Playing(k) || param == meaning.PTune {
			continue
		}
		out = append(out, in.Target.Modules[k].Label)
	}
	return strings.Join(out, ", ")
}
