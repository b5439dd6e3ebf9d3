package gloss

import (
	"strings"

	"glossator/core/meaning"
	"glossator/core/plan"
	"glossator/core/rules"
	"glossator/core/settle"
)

// unshown gives a line for each property that no control of the source shows and that
// is not the same on the target, and for each route without a control that is lost.
func (in *Input) unshown() []Gloss {
	var out []Gloss
	for i := range in.Plan.Wanted.Modules {
		m := &in.Plan.Wanted.Modules[i]
		ti, ok := in.Plan.Placed(m.ID)
		if !m.Used() || !ok {
			continue
		}
		spec := meaning.SpecOf(m.Kind)
		for _, p := range spec.Params {
			v, have := m.Params[p.Name]
			if !have || len(v.From) > 0 || !p.Heard(m) {
				continue
			}
			g := Gloss{ID: "fixed:" + meaning.Ref(m.ID, p.Name), Step: spec.Step, Section: m.Label, Label: p.Label, Param: meaning.Ref(m.ID, p.Name), Source: []Reading{}, Target: []Reading{}}
			in.moduleLine(&g, m, p.Name, "", v.Quantity)
			if g.Verdict == Held && in.Target.Modules[ti].Fixed[p.Name] != "" || g.Verdict == Idle {
				continue
			}
			if _, bound := in.Got.Module(in.Target.Modules[ti].ID).Params[p.Name]; !bound && g.Verdict == Held {
				continue
			}
			out = append(out, g)
		}
	}
	for i := range in.Plan.Wanted.Routes {
		r := &in.Plan.Wanted.Routes[i]
		if !r.Used() || len(r.Depth.From) > 0 || r.On != nil {
			continue
		}
		c := in.Plan.Choice(r)
		g := Gloss{ID: "fixed:" + r.ID, Step: meaning.StepLFO, Section: "Routes", Label: r.Label, Source: []Reading{}, Target: []Reading{}}
		in.routeLine(&g, r, meaning.PDepth, r.Depth.Quantity)
		if c.Made() && wired(c.Way.Means(in.Target)) && g.Verdict == Held && len(g.Target) == 0 {
			continue
		}
		out = append(out, g)
	}
	return out
}

// switchedOff gives a line for each control of the target that init would have left on, or that opens another line of the sound.
func (in *Input) switchedOff() []Gloss {
	var out []Gloss
	for _, k := range in.Target.Order {
		alike := in.Set.Why[k].Code == settle.Alike
		if !in.Set.Off[k] && !alike || in.Over[k] {
			continue
		}
		at, init := in.Set.State.At[k], in.Target.Init(k)
		if at.Index == init.Index {
			continue
		}
		c := &in.Target.Controls[k]
		g := Gloss{ID: "target:" + c.ID, Step: in.Target.StepOf(k), Section: in.Target.SectionLabel(k), Label: c.Label, Source: []Reading{},
			Target: []Reading{in.targetReading(k)}, Verdict: Held}
		if alike {
			g.Reason = moved(in.Set.Why[k])
		} else {
			g.Reason = strings.Join(g.says(&rules.Line{Init: init.Reading}), "; ")
		}
		out = append(out, g)
	}
	return out
}

func wired(m plan.Means) bool { return m == plan.ByWire || m == plan.BySwitch }
