package gloss

import (
	"fmt"
	"math"
	"slices"
	"strings"

	q "glossator/core/quantity"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	"glossator/core/rules"
)

// glosses gives a line for every control of the source, in working order, then a line for
// every property that no control shows and that changes, then a line for each thing
// of the target that had to be switched off.
func (in *Input) glosses() []Gloss {
	out := []Gloss{}
	joined := map[string]int{} // sums that go over as one line, by parameter
	for _, k := range in.Source.Order {
		g, key := in.gloss(k)
		if at, ok := joined[key]; ok && key != "" {
			out[at].Source = append(out[at].Source, g.Source...)
			continue
		}
		if key != "" {
			joined[key] = len(out)
		}
		out = append(out, g)
	}
	out = append(out, in.unshown()...)
	if !in.SamePanel() {
		out = append(out, in.between()...)
	}
	out = append(out, in.switchedOff()...)
	out = append(out, in.addedByEar(out)...)
	if !in.SamePanel() {
		out = append(out, in.besides(out)...)
	}
	for i := range out { // a control stands once in a line, however many conditions it meets
		seen := map[string]bool{}
		out[i].Target = slices.DeleteFunc(out[i].Target, func(r Reading) bool {
			again := seen[r.Control]
			seen[r.Control] = true
			return again
		})
	}
	return out
}

// set tells whether a reading stands where somebody, or a search by ear, has put it.
func (r *Reading) set() bool { return r.Overridden || r.ByEar }

// byHand says of a reading that somebody set why, where that is known: by ear, it says what was gained. It holds while the control stands at that reading.
func (in *Input) byHand(t Reading) string {
	if k, ok := in.Target.ControlIndex(t.Control); ok && t.ByEar {
		return in.Tuned[k]
	}
	if why, ok := strings.CutPrefix(in.Choices.Why[t.Control], t.Reading+": "); ok && !t.Outside {
		return why
	}
	return byHand
}

// byEar tells whether a control stands where a search by ear has put it.
func (in *Input) byEar(k int) bool {
	_, is := in.Tuned[k]
	return is && !in.Over[k]
}

// addedByEar gives a line for each control that has been set by ear and that no line of the source shows: what it brings in is told, too.
func (in *Input) addedByEar(lines []Gloss) []Gloss {
	shown := map[string]bool{}
	for i := range lines {
		for _, r := range lines[i].Target {
			shown[r.Control] = true
		}
	}
	var out []Gloss
	for _, k := range in.Target.Order {
		c := &in.Target.Controls[k]
		if !in.byEar(k) || shown[c.ID] {
			continue
		}
		g := Gloss{ID: "target:" + c.ID, Step: in.Target.StepOf(k), Section: in.Target.SectionLabel(k), Label: c.Label, Source: []Reading{}, Target: []Reading{in.targetReading(k)}, Verdict: Bent,
			Reason: "not asked for, and nearer with it: " + in.Tuned[k]}
		most := -1 // a control may set several things: what nothing of the source plays is told before what does, and what does not sound last
		for i := range c.Means {
			b := &c.Means[i]
			v, set := in.Target.Scale(panel.BindRef{Control: k, Bind: i}).Quantity(in.Set.State.At[k])
			if !set || !in.Target.Holds(b.When, in.Set.State) {
				continue
			}
			id, name := meaning.Split(b.Param)
			m, r := in.Got.Module(id), in.Got.Route(id)
			rank := 0
			if m != nil && m.Used() || r != nil && r.Used() {
				rank = 1
				if j, ok := in.Target.ModuleIndex(id); ok && !in.Set.Playing(j) {
					rank = 2
				}
			}
			if rank <= most {
				continue
			}
			most, g.TargetParam, g.Route, g.Reached = rank, b.Param, "", figure(v)
			if r != nil {
				g.Route, g.Reached = id, figure(r.Depth.Quantity)
			} else if m != nil {
				if v, ok := m.Params[name]; ok {
					g.Reached = figure(v.Quantity)
				}
			}
		}
		out = append(out, g)
	}
	return out
}

func (in *Input) sourceReading(k int) Reading {
	c, at := &in.Source.Controls[k], in.From.At[k]
	return Reading{Control: c.ID, Label: c.Label, Reading: at.Reading, Init: in.Source.AtInit(k, at)}
}

func (in *Input) targetReading(k int) Reading {
	c, at := &in.Target.Controls[k], in.Set.State.At[k]
	return Reading{Control: c.ID, Label: c.Label, Reading: at.Reading, Init: in.Target.AtInit(k, at), Overridden: in.Over[k], ByEar: in.byEar(k)}
}

// gloss makes the line of one control of the source. key is set where the line stands for
// a whole sum and the other controls of that sum join it.
func (in *Input) gloss(k int) (g Gloss, key string) {
	c := &in.Source.Controls[k]
	g = Gloss{ID: c.ID, Step: in.Source.StepOf(k), Section: in.Source.SectionLabel(k), Label: c.Label, Source: []Reading{in.sourceReading(k)}, Target: []Reading{}}
	switch {
	case in.Source.OnlyWritten(k):
		in.writtenLine(&g, k)
		return g, ""
	case len(c.Means) == 0:
		in.chooser(&g, k)
		return g, ""
	}
	first := true
	for i := range c.Means {
		b := &c.Means[i]
		owner, name := meaning.Split(b.Param)
		if !in.Source.Holds(b.When, in.From) {
			continue
		}
		v, set := in.Source.Scale(panel.BindRef{Control: k, Bind: i}).Quantity(in.From.At[k])
		if !set && b.Law.Kind == "list" {
			continue
		}
		if p, err := in.Source.Param(b.Param); err == nil {
			v, _ = panel.Adapt(v, p.Dim, in.Plan.Wanted.Tempo)
		}
		m, r := in.Plan.Wanted.Module(owner), in.Plan.Wanted.Route(owner)
		if m != nil && m.Absent {
			continue
		}
		if !first {
			if m != nil && m.Used() && m.Heard(name) && len(b.When) == 0 {
				in.also(&g, m, name)
			} else if r != nil && r.Used() && g.Verdict == Idle {
				in.routeLine(&g, r, name, v)
			}
			continue
		}
		g.Param = b.Param
		switch {
		case m != nil && m.Kind == meaning.Atten && m.Used():
			in.attenuatorLine(&g, c.ID, v)
		case m != nil:
			key = in.moduleLine(&g, m, name, b.Part, v)
		case r != nil:
			in.routeLine(&g, r, name, v)
			if g.Verdict == Idle {
				continue // another binding of the control may be at work
			}
		}
		first = false
	}
	if g.Verdict == "" {
		g.Verdict = Idle
		g.Reason = "does nothing as the other controls stand"
		in.lends(&g, k)
	}
	return g, key
}

// lends makes the line of a control that stands where another control speaks for it, such as
// a release that takes the time of the decay.
func (in *Input) lends(g *Gloss, k int) {
	for i := range in.Source.Controls {
		for b := range in.Source.Controls[i].Means {
			bind := &in.Source.Controls[i].Means[b]
			for w := range bind.When {
				c, _ := in.Source.Cond(&bind.When[w])
				id, name := meaning.Split(bind.Param)
				m := in.Plan.Wanted.Module(id)
				if c != k || m == nil || !in.Source.Holds(bind.When, in.From) {
					continue
				}
				g.Param, g.Reason = bind.Param, ""
				in.moduleLine(g, m, name, "", m.Params[name].Quantity)
				return
			}
		}
	}
}

// writtenLine is the line of a control that is only written down. Nothing says what it means,
// so only the same panel can take it.
func (in *Input) writtenLine(g *Gloss, k int) {
	switch {
	case in.SamePanel():
		g.Verdict, g.Reason = Held, "only written down: set as it stands"
		g.Target = []Reading{in.targetReading(k)}
		if in.Over[k] {
			g.Reason = in.byHand(g.Target[0])
		}
	case g.Source[0].Init:
		g.Verdict, g.Reason = Idle, "only written down, and at init"
	default:
		g.Verdict, g.Reason = LeftOut, fmt.Sprintf("only written down on %s: nothing says what it would be on %s", in.Source.Name, in.Target.Name)
	}
}

// attenuatorLine is the line of an attenuator: what it does is part of the depth of the cable
// that goes through it.
func (in *Input) attenuatorLine(g *Gloss, control string, own q.Quantity) {
	for i := range in.Plan.Wanted.Routes {
		r := &in.Plan.Wanted.Routes[i]
		for _, from := range r.Depth.From {
			if from == control && len(r.Cable) > 0 && r.Used() {
				in.routeLine(g, r, meaning.PDepth, r.Depth.Quantity)
				return
			}
		}
	}
	g.Verdict, g.Wanted, g.Reason = Idle, figure(own), "no cable through it moves anything"
}

// moduleLine fills the line of a parameter of a module. It gives a key where the parameter is
// a sum that goes over as a whole.
func (in *Input) moduleLine(g *Gloss, m *meaning.Module, name meaning.ParamName, part string, own q.Quantity) (key string) {
	spec := meaning.SpecOf(m.Kind)
	p, _ := spec.Param(name)
	v := m.Params[name]
	g.Wanted = figure(v.Quantity)
	if part != "" {
		g.Wanted = figure(own)
	}
	if !m.Used() {
		g.Verdict, g.Reason = Idle, m.Label+" is silent: "+m.Idle
		return ""
	}
	if !m.Heard(name) {
		g.Verdict, g.Reason = Idle, "does nothing as "+m.Label+" stands"
		return ""
	}
	if key, is := in.recastLine(g, m, name); is {
		return key
	}
	ti, ok := in.Plan.Placed(m.ID)
	if !ok {
		g.Verdict, g.Reason = LeftOut, in.noPlace(m)
		brought := m.SilencedBy(name) != "" && in.Plan.Wanted.BroughtIn(m) // at nothing until something brings it in: all of it is lost
		if _, n := plan.Compare(p, v.Quantity, p.Neutral, m, m); g.asInit() && !brought && (n < 0.01 && p.Dim != q.DimWave || part != "" && own.Value == 0) {
			g.Verdict, g.Reason = Idle, "adds nothing, and goes with "+m.Label+", which is left out"
		}
		return ""
	}
	tm := &in.Target.Modules[ti]
	r := in.Got.Module(tm.ID)
	g.TargetParam = meaning.Ref(tm.ID, name)
	got, present := r.Params[name]
	if name == meaning.POn {
		in.onLine(g, m, r, present)
		return ""
	}
	if !present {
		_, j0 := plan.Compare(p, plan.OnTarget(p, m, r), p.Neutral, m, r)
		if j0 <= 1 {
			g.Verdict, g.Reason = Held, fmt.Sprintf("%s has no %s, and none is asked for", tm.Label, p.Label)
			if kind := m.AsMorphed(); name == meaning.PMorph && kind != "" {
				g.Reason = fmt.Sprintf("it is a %s where it stands, and %s is one", kind, tm.Label)
			}
			g.Reached = figure(p.Neutral)
			return ""
		}
		g.Verdict, g.Reason = LeftOut, fmt.Sprintf("%s of %s has no %s", tm.Label, in.Target.Name, p.Label)
		g.TargetParam = ""
		return ""
	}
	if part != "" {
		if in.partLine(g, meaning.Ref(tm.ID, name), part, own, p) {
			return ""
		}
		key = g.Param
		g.Wanted = figure(v.Quantity)
		g.Reason = strings.Join(g.says(&rules.Line{Param: p, Sum: true}), "; ")
	}
	g.Target = in.shownBy(meaning.Ref(tm.ID, name))
	want := plan.OnTarget(p, m, r)
	want.Tol = v.Tol
	if id, ok := in.Plan.CastID(m.ID); ok {
		if a, ok := in.Adjusted[meaning.Ref(id, name)]; ok {
			want.Value = a.Value
			g.Reason = joined(g.Reason, forWhat(a.Notes))
		}
	}
	g.Reached = figure(got.Quantity)
	in.judge(g, p, want, got.Quantity, m, r)
	in.explain(g, p, v, got, want, m, r, ti)
	return key
}

// asInit tells whether the source's controls of a line all stand as init has them: nobody has set them for this sound.
func (g *Gloss) asInit() bool {
	return !slices.ContainsFunc(g.Source, func(r Reading) bool { return !r.Init })
}

// onLine is the line of a switch of a module.
func (in *Input) onLine(g *Gloss, m, r *meaning.Module, present bool) {
	g.Verdict, g.Reached = Held, figure(q.Named(q.DimName, "on"))
	if present {
		g.Target = in.shownBy(meaning.Ref(r.ID, meaning.POn))
		if r.Params[meaning.POn].Name == "off" {
			g.Verdict, g.Reached = LeftOut, figure(q.Named(q.DimName, "off"))
			g.Reason = "switched off by hand"
		}
		return
	}
	g.Reason = r.Label + " has no switch: it is on, and its level says how much"
	if !r.Used() {
		g.Verdict, g.Reason = LeftOut, r.Label+" is silent: "+r.Idle
	}
}

// splits tells whether a sum goes over part by part: the target has every part that adds
// something, as near as it can set it, and adds nothing of its own.
func (in *Input) splits(source, ref string, p meaning.Param) bool {
	id, name := meaning.Split(source)
	want := in.Plan.Wanted.Module(id).Params[name].Parts
	have := map[string]bool{}
	for _, b := range in.Target.Binds(ref) {
		bind, at := in.Target.Bind(b), in.Set.State.At[b.Control]
		if !in.Target.Holds(bind.When, in.Set.State) {
			continue
		}
		v, set := in.Target.Scale(b).Quantity(at)
		if !set {
			continue
		}
		have[bind.Part] = true
		near := math.Max(in.Target.Scale(b).Step(at.Index)/2, p.JND.Size/100)
		if !in.Over[b.Control] && !in.byEar(b.Control) && !in.Set.Clamped[b.Control] && math.Abs(v.Value-want[bind.Part].Value) > near+1e-9 {
			return false
		}
	}
	for part, v := range want {
		if !have[part] && math.Abs(v.Value) > p.JND.Size/100 {
			return false
		}
	}
	return true
}

// partLine fills the line of one part of a sum that goes over part by part.
func (in *Input) partLine(g *Gloss, ref, part string, own q.Quantity, p meaning.Param) bool {
	if !in.splits(g.Param, ref, p) {
		return false
	}
	for _, b := range in.Target.Binds(ref) {
		bind := in.Target.Bind(b)
		if bind.Part != part || !in.Target.Holds(bind.When, in.Set.State) {
			continue
		}
		v, set := in.Target.Scale(b).Quantity(in.Set.State.At[b.Control])
		if !set {
			continue
		}
		g.Target = []Reading{in.targetReading(b.Control)}
		g.Reached = figure(v)
		in.judge(g, p, own, v, nil, nil)
		if g.Target[0].set() {
			g.Reason = in.byHand(g.Target[0])
		} else if in.Set.Clamped[b.Control] {
			g.Reason = "the end of the target's scale"
		}
		return true
	}
	g.Verdict, g.Reason, g.TargetParam = Held, "nothing to add here", ""
	g.Reached = figure(q.Quantity{Dim: own.Dim})
	return true
}

// shownBy lists the readings of the target's controls that make a parameter as it is set.
func (in *Input) shownBy(ref string) []Reading {
	out := []Reading{}
	for _, b := range in.Target.Binds(ref) {
		bind := in.Target.Bind(b)
		if !in.Target.Holds(bind.When, in.Set.State) {
			continue
		}
		if _, set := in.Target.Scale(b).Quantity(in.Set.State.At[b.Control]); set {
			out = append(out, in.targetReading(b.Control))
		}
	}
	return out
}

// also adds a second parameter that the control sets.
func (in *Input) also(g *Gloss, m *meaning.Module, name meaning.ParamName) {
	p, ok := meaning.SpecOf(m.Kind).Param(name)
	v, have := m.Params[name]
	if !ok || !have {
		return
	}
	sub := Gloss{}
	in.moduleLine(&sub, m, name, "", v.Quantity)
	for i, t := range sub.Target {
		seen := false
		for _, u := range g.Target {
			seen = seen || u.Control == t.Control
		}
		if !seen {
			g.Target = append(g.Target, sub.Target[i])
		}
	}
	g.Also = append(g.Also, Also{Param: meaning.Ref(m.ID, name), Label: p.Label, Wanted: sub.Wanted, Reached: sub.Reached, Verdict: sub.Verdict, Diff: sub.Diff})
	if Worse(sub.Verdict, g.Verdict) {
		g.Verdict = sub.Verdict
		g.Reason = joined(g.Reason, p.Label+": "+orText(sub.Reason, sub.Diff))
		for _, r := range sub.Rules {
			if !slices.Contains(g.Rules, r) {
				g.Rules = append(g.Rules, r)
			}
		}
	}
}
