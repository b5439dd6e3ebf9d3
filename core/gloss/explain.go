package gloss

import (
	"fmt"
	"slices"
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// explain adds the reason where a line needs one.
func (in *Input) explain(g *Gloss, p meaning.Param, v, got meaning.Value, want q.Quantity, w, r *meaning.Module, ti int) {
	var why []string
	if g.Reason != "" {
		why = append(why, g.Reason)
	}
	clamped, hand := false, ""
	for _, t := range g.Target {
		k, _ := in.Target.ControlIndex(t.Control)
		clamped = clamped || in.Set.Clamped[k]
		if t.set() && (hand == "" || hand == byHand) {
			hand = in.byHand(t)
		}
	}
	if hand != "" {
		why = append(why, hand)
	}
	if clamped && hand == "" {
		why = append(why, "the end of the target's scale")
	}
	si, _ := in.Source.ModuleIndex(w.ID)
	why = append(why, g.says(&rules.Line{Param: p, Want: v, Got: got, From: w, To: r, FromPivot: in.Source.Pivot(si), ToPivot: in.Target.Pivot(ti), Tempo: in.Plan.Wanted.Tempo, Bent: g.Verdict == Bent})...)
	if v.Beats > 0 && got.Beats == 0 && g.Verdict == Held {
		g.Verdict = Near
	}
	if len(g.Target) == 0 {
		why = append(why, fmt.Sprintf("fixed on %s", in.Target.Name))
	} else if g.Verdict == Bent && !clamped && hand == "" && p.Dim != q.DimWave {
		why = append(why, "the nearest that the control can be set to")
	}
	if g.Open {
		why = append(why, "the scales are not known well enough to be sure")
	}
	g.Reason = strings.Join(why, "; ")
}

// says asks the rules by which single settings go over what they have to say on a line, and notes those that do.
func (g *Gloss) says(l *rules.Line) []string {
	var out []string
	for _, r := range rules.InPlace {
		if text := r.Says(l); text != "" {
			out = append(out, text)
			if !slices.Contains(g.Rules, r.ID) {
				g.Rules = append(g.Rules, r.ID)
			}
		}
	}
	return out
}

// recast makes a line one of a part that is made by other means.
func (g *Gloss) recast(by *rules.Recast) {
	g.Verdict, g.Reason = Recast, by.Text
	for _, r := range append([]*rules.Rule{by.Rule}, by.Also...) {
		if !slices.Contains(g.Rules, r.ID) {
			g.Rules = append(g.Rules, r.ID)
		}
	}
}

func orText(a, b string) string {
	if a != "" {
		return a
	}
	return b
}
