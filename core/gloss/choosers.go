package gloss

import (
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// chooser makes the line of a control that only decides what else is there.
func (in *Input) chooser(g *Gloss, k int) {
	g.Verdict, g.Reason = Idle, "chooses nothing that is used here"
	var parts []string
	kept := true
	for i := range in.Plan.Wanted.Modules {
		m := &in.Plan.Wanted.Modules[i]
		mi, _ := in.Source.ModuleIndex(m.ID)
		for w := range in.Source.Modules[mi].When {
			if c, _ := in.Source.Cond(&in.Source.Modules[mi].When[w]); c != k || !m.Used() {
				continue
			}
			parts = append(parts, m.Label)
			ti, ok := in.Plan.Placed(m.ID)
			if by := in.Plan.RecastOf(m.ID); by != nil {
				g.recast(by)
			} else if !ok {
				kept = false
				g.Reason = in.noPlace(m)
			}
			if !ok {
				continue
			}
			for w := range in.Target.Modules[ti].When {
				tc, _ := in.Target.Cond(&in.Target.Modules[ti].When[w])
				g.Target = append(g.Target, in.targetReading(tc))
			}
		}
	}
	for i := range in.Plan.Wanted.Routes {
		r := &in.Plan.Wanted.Routes[i]
		ri, ok := in.Source.RouteIndex(r.ID)
		if !ok || !r.Used() {
			continue
		}
		for w := range in.Source.Routes[ri].When {
			if c, _ := in.Source.Cond(&in.Source.Routes[ri].When[w]); c != k {
				continue
			}
			parts = append(parts, r.Label)
			if choice := in.Plan.Choice(r); !choice.Made() {
				if by := in.Plan.RecastOf(r.ID); by != nil {
					g.recast(by)
					continue
				}
				kept = false
				g.Reason = whyNot(choice.Why)
			} else {
				when := choice.Way.When(in.Target)
				for w := range when {
					tc, _ := in.Target.Cond(&when[w])
					g.Target = append(g.Target, in.targetReading(tc))
				}
			}
		}
	}
	in.clockChooser(g, k, &parts, &kept)
	if len(parts) == 0 {
		return
	}
	g.Wanted = figure(q.Named(q.DimName, strings.Join(parts, ", ")))
	switch {
	case !kept:
		g.Verdict = LeftOut
	case g.Verdict != Recast:
		g.Verdict, g.Reached = Held, g.Wanted
		g.Reason = "the target has it too"
	}
}

// clockChooser handles a control that decides which binding of a parameter holds, such as
// free or by the tempo.
func (in *Input) clockChooser(g *Gloss, k int, parts *[]string, kept *bool) {
	for i := range in.Source.Controls {
		for b := range in.Source.Controls[i].Means {
			bind := &in.Source.Controls[i].Means[b]
			for w := range bind.When {
				c, _ := in.Source.Cond(&bind.When[w])
				id, name := meaning.Split(bind.Param)
				m := in.Plan.Wanted.Module(id)
				if c != k || m == nil || !m.Used() || !in.Source.Holds(bind.When, in.From) {
					continue
				}
				p, _ := meaning.SpecOf(m.Kind).Param(name)
				*parts = append(*parts, m.Label+" "+p.Label+" by "+in.Source.Controls[i].Label)
				if ti, ok := in.Plan.Placed(m.ID); !ok {
					if by := in.Plan.RecastOf(m.ID); by != nil {
						g.recast(by)
						continue
					}
					*kept, g.Reason = false, in.noPlace(m)
				} else {
					for _, ref := range in.Target.Binds(meaning.Ref(in.Target.Modules[ti].ID, name)) {
						for w := range in.Target.Bind(ref).When {
							if !in.Target.Holds(in.Target.Bind(ref).When, in.Set.State) {
								continue
							}
							tc, _ := in.Target.Cond(&in.Target.Bind(ref).When[w])
							g.Target = append(g.Target, in.targetReading(tc))
						}
					}
				}
			}
		}
	}
}
