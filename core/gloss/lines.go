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
	out = append(out, in.switchedOff()...)
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

// byHand says of a reading that somebody set why, where that is known: by ear, it says what was gained. It holds while the control stands at that reading.
func (in *Input) byHand(t Reading) string {
	if why, ok := strings.CutPrefix(in.Choices.Why[t.Control], t.Reading+": "); ok && !t.Outside {
		return why
	}
	return byHand
}

func (in *Input) sourceReading(k int) Reading {
	c, at := &in.Source.Controls[k], in.From.At[k]
	return Reading{Control: c.ID, Label: c.Label, Reading: at.Reading, Init: in.Source.AtInit(k, at)}
}

func (in *Input) targetReading(k int) Reading {
	c, at := &in.Target.Controls[k], in.Set.State.At[k]
	return Reading{Control: c.ID, Label: c.Label, Reading: at.Reading, Init: in.Target.AtInit(k, at), Overridden: in.Over[k]}
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
		if _, n := plan.Compare(p, v.Quantity, p.Neutral, m, m); n < 0.01 && p.Dim != q.DimWave || part != "" && own.Value == 0 {
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
		_, j0 := plan.Compare(p, v.Quantity, p.Neutral, m, r)
		if j0 <= 1 {
			g.Verdict, g.Reason = Held, fmt.Sprintf("%s has no %s, and none is asked for", tm.Label, p.Label)
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
		if !in.Over[b.Control] && !in.Set.Clamped[b.Control] && math.Abs(v.Value-want[bind.Part].Value) > near+1e-9 {
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
		if in.Over[b.Control] {
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

// judge gives the verdict and the difference of a line. The tolerance that counts is that
// of both panels together at k = 2; a value that differs by less may be the same.
func (in *Input) judge(g *Gloss, p meaning.Param, want, got q.Quantity, w, r *meaning.Module) {
	d, jnds := plan.Compare(p, want, got, w, r)
	g.JNDs = Round(jnds, 2)
	if p.JND.Size <= 1e-5 || want.Dim.Named() && p.Dim != q.DimWave {
		g.JNDs = 0
	}
	g.Diff = difference(p, want, got, d)
	tol := q.Cover * q.RSS(want.Tol, got.Tol)
	step := in.stepOf(g)
	switch a := math.Abs(d); {
	case jnds <= 1 && (a <= step/2+1e-9 || a <= tol || jnds <= 0.5):
		g.Verdict = Held
	case jnds <= 1:
		g.Verdict = Near
	case a <= tol && !want.Dim.Named() && !want.Off && !got.Off:
		g.Verdict, g.Open = Near, true
	default:
		g.Verdict = Bent
	}
	if g.Verdict == Held && tol > 3*p.JND.Size && !want.Dim.Named() && !want.Off && !got.Off {
		g.Open = true
	}
}

// stepOf gives the target's step at a line's reading, in the sense of quantity.Distance.
func (in *Input) stepOf(g *Gloss) float64 {
	step := 0.0
	for _, r := range g.Target {
		k, _ := in.Target.ControlIndex(r.Control)
		for i := range in.Target.Controls[k].Means {
			b := &in.Target.Controls[k].Means[i]
			if b.Param == g.TargetParam && in.Target.Holds(b.When, in.Set.State) && in.Set.State.At[k].Index >= 0 {
				if s := in.Target.Scale(panel.BindRef{Control: k, Bind: i}).Step(in.Set.State.At[k].Index); step == 0 || s < step {
					step = s
				}
			}
		}
	}
	return step
}

func difference(p meaning.Param, want, got q.Quantity, d float64) string {
	switch {
	case p.Dim == q.DimWave:
		if math.Abs(d) < 1e-9 {
			return "0"
		}
		return q.Number(100*math.Abs(d), 2) + " % of its harmonics"
	case want.Dim.Named():
		if d == 0 {
			return "0"
		}
		return want.Name + " asked"
	case want.Off != got.Off:
		return want.String() + " asked"
	case want.Dim == q.DimFrequency && p.Name != meaning.PRate:
		return sign(1200*d/math.Ln2, " ct")
	case want.Dim.Geometric():
		return sign(100*(math.Exp(d)-1), " %")
	}
	got.Value = d
	got.Off = false
	text := got.String()
	if d > 0 && !strings.HasPrefix(text, "+") {
		text = "+" + text
	}
	return text
}

func sign(x float64, unit string) string {
	s := q.Number(x, 3)
	if math.Abs(x) < 0.05 {
		return "0" + unit
	}
	if x > 0 {
		s = "+" + s
	}
	return s + unit
}

// Round rounds a number for people to a number of decimals; what is beyond 9999 is that.
func Round(x float64, decimals int) float64 {
	p := math.Pow(10, float64(decimals))
	if x > 9999 {
		return 9999
	}
	return math.Round(x*p) / p
}

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
		if t.Overridden && (hand == "" || hand == byHand) {
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
	if worse(sub.Verdict, g.Verdict) {
		g.Verdict = sub.Verdict
		g.Reason = joined(g.Reason, p.Label+": "+orText(sub.Reason, sub.Diff))
	}
}

func orText(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

func worse(a, b Verdict) bool {
	rank := func(v Verdict) int {
		for i, w := range Verdicts {
			if w == v {
				return i
			}
		}
		return -1
	}
	return a != Idle && rank(a) > rank(b)
}
