package gloss

import (
	"fmt"
	"math"
	"sort"

	"glossator/core/meaning"
	"glossator/core/panel"
)

// toMeasure lists what to measure to settle the open lines, the most useful first: for each line
// the side whose law leaves most in doubt.
func (in *Input) toMeasure(glosses []Gloss) []ToMeasure {
	at := map[string]*ToMeasure{}
	var order []string
	for i := range glosses {
		g := &glosses[i]
		if !g.Open || g.Wanted == nil || g.Reached == nil {
			continue
		}
		a, b := g.Wanted.Quantity.Tol, g.Reached.Quantity.Tol
		side, readings, ref := in.Source, g.Source, g.Param
		share := a * a / math.Max(1e-12, a*a+b*b)
		if b > a {
			side, readings, ref, share = in.Target.Compiled, g.Target, g.TargetParam, 1-share
		}
		control := widest(side, readings, ref)
		if control < 0 {
			continue
		}
		c := &side.Controls[control]
		key := side.ID + "/" + c.ID
		x, ok := at[key]
		if !ok {
			x = &ToMeasure{Panel: side.Name, Control: c.ID, Label: side.SectionLabel(control) + ": " + c.Label}
			at[key] = x
			order = append(order, key)
		}
		x.Lines = append(x.Lines, g.ID)
		x.Share = math.Max(x.Share, Round(share, 2))
		owner, name := meaning.Split(g.Param)
		if m := in.Plan.Wanted.Module(owner); m != nil {
			if p, ok := meaning.SpecOf(m.Kind).Param(name); ok {
				x.Weight += in.Target.Policy.LeaveOut(m) * p.Weight * in.Target.Policy.Param(m.Kind, name)
			}
		} else if r := in.Plan.Wanted.Route(owner); r != nil && len(r.To) > 0 {
			x.Weight += in.Target.Policy.RouteWeight(in.Plan.Wanted, r)
		}
		if law := lawOf(side, control, ref); law != "" {
			x.Why = law
		}
	}
	out := make([]ToMeasure, 0, len(order))
	for _, k := range order {
		at[k].Weight = Round(at[k].Weight, 2)
		out = append(out, *at[k])
	}
	sort.SliceStable(out, func(a, b int) bool { return out[a].Weight > out[b].Weight })
	return out
}

// widest gives the control among readings whose law for a parameter is the least certain; -1 where
// there is none.
func widest(c *panel.Compiled, readings []Reading, ref string) int {
	best, most := -1, -1.0
	for _, r := range readings {
		k, ok := c.ControlIndex(r.Control)
		if !ok {
			continue
		}
		for i := range c.Controls[k].Means {
			b := &c.Controls[k].Means[i]
			u := 0.0
			if b.Law.Uncertainty != nil {
				u = b.Law.Uncertainty.U
			} else if b.Law.Source == "assumed" {
				u = 1
			}
			if b.Param == ref {
				u += 10
			}
			if u > most {
				best, most = k, u
			}
		}
	}
	return best
}

func lawOf(c *panel.Compiled, control int, ref string) string {
	for i := range c.Controls[control].Means {
		if b := &c.Controls[control].Means[i]; b.Param == ref || len(c.Controls[control].Means) == 1 {
			return fmt.Sprintf("its law is %s", b.Law.String())
		}
	}
	return ""
}
