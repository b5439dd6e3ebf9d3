package translate

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// glosses gives a line for every control of the source, in working order, then a line for
// every property that no control shows and that changes, then a line for each thing
// of the target that had to be switched off.
func (j *job) glosses() []Gloss {
	out := []Gloss{}
	joined := map[string]int{} // sums that go over as one line, by parameter
	for _, k := range j.src.Order {
		g, key := j.gloss(k)
		if at, ok := joined[key]; ok && key != "" {
			out[at].Source = append(out[at].Source, g.Source...)
			continue
		}
		if key != "" {
			joined[key] = len(out)
		}
		out = append(out, g)
	}
	out = append(out, j.unshown()...)
	out = append(out, j.switchedOff()...)
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

func (j *job) sourceReading(k int) Reading {
	c, at := &j.src.Controls[k], j.from.At[k]
	return Reading{Control: c.ID, Label: c.Label, Reading: at.Reading, Init: j.src.AtInit(k, at)}
}

func (j *job) targetReading(k int) Reading {
	c, at := &j.t.Controls[k], j.set.state.At[k]
	return Reading{Control: c.ID, Label: c.Label, Reading: at.Reading, Init: j.t.AtInit(k, at), Overridden: j.over[k]}
}

// gloss makes the line of one control of the source. key is set where the line stands for
// a whole sum and the other controls of that sum join it.
func (j *job) gloss(k int) (g Gloss, key string) {
	c := &j.src.Controls[k]
	g = Gloss{ID: c.ID, Step: j.src.StepOf(k), Section: j.src.SectionLabel(k), Label: c.Label, Source: []Reading{j.sourceReading(k)}, Target: []Reading{}}
	switch {
	case j.src.OnlyWritten(k):
		j.writtenLine(&g, k)
		return g, ""
	case len(c.Means) == 0:
		j.chooser(&g, k)
		return g, ""
	}
	first := true
	for i := range c.Means {
		b := &c.Means[i]
		owner, name := meaning.Split(b.Param)
		if !j.src.Holds(b.When, j.from) {
			continue
		}
		v, set := j.src.Scale(panel.BindRef{Control: k, Bind: i}).Quantity(j.from.At[k])
		if !set && b.Law.Kind == "list" {
			continue
		}
		v, _ = adaptTo(j, b.Param, v)
		m, r := j.wanted.Module(owner), j.wanted.Route(owner)
		if m != nil && m.Absent {
			continue
		}
		if !first {
			if m != nil && m.Used() && m.Heard(name) && len(b.When) == 0 {
				j.also(&g, m, name)
			} else if r != nil && r.Used() && g.Verdict == Idle {
				j.routeLine(&g, r, name, v)
			}
			continue
		}
		g.Param = b.Param
		switch {
		case m != nil && m.Kind == meaning.Atten && m.Used():
			j.attenuatorLine(&g, c.ID, v)
		case m != nil:
			key = j.moduleLine(&g, m, name, b.Part, v)
		case r != nil:
			j.routeLine(&g, r, name, v)
			if g.Verdict == Idle {
				continue // another binding of the control may be at work
			}
		}
		first = false
	}
	if g.Verdict == "" {
		g.Verdict = Idle
		g.Reason = "does nothing as the other controls stand"
		j.lends(&g, k)
	}
	return g, key
}

// lends makes the line of a control that stands where another control speaks for it, such as
// a release that takes the time of the decay.
func (j *job) lends(g *Gloss, k int) {
	for i := range j.src.Controls {
		for b := range j.src.Controls[i].Means {
			bind := &j.src.Controls[i].Means[b]
			for w := range bind.When {
				c, _ := j.src.Cond(&bind.When[w])
				id, name := meaning.Split(bind.Param)
				m := j.wanted.Module(id)
				if c != k || m == nil || !j.src.Holds(bind.When, j.from) {
					continue
				}
				g.Param, g.Reason = bind.Param, ""
				j.moduleLine(g, m, name, "", m.Params[name].Quantity)
				return
			}
		}
	}
}

// writtenLine is the line of a control that is only written down. Nothing says what it means,
// so only the same panel can take it.
func (j *job) writtenLine(g *Gloss, k int) {
	switch {
	case j.samePanel():
		g.Verdict, g.Reason = Held, "only written down: set as it stands"
		g.Target = []Reading{j.targetReading(k)}
		if j.over[k] {
			g.Reason = "set by hand"
		}
	case g.Source[0].Init:
		g.Verdict, g.Reason = Idle, "only written down, and at init"
	default:
		g.Verdict, g.Reason = LeftOut, fmt.Sprintf("only written down on %s: nothing says what it would be on %s", j.src.Name, j.t.Name)
	}
}

// samePanel tells whether the target is the source's own panel.
func (j *job) samePanel() bool { return j.src.ID == j.t.ID && j.src.Revision == j.t.Revision }

// attenuatorLine is the line of an attenuator: what it does is part of the depth of the cable
// that goes through it.
func (j *job) attenuatorLine(g *Gloss, control string, own q.Quantity) {
	for i := range j.wanted.Routes {
		r := &j.wanted.Routes[i]
		for _, from := range r.Depth.From {
			if from == control && len(r.Cable) > 0 && r.Used() {
				j.routeLine(g, r, meaning.PDepth, r.Depth.Quantity)
				return
			}
		}
	}
	g.Verdict, g.Wanted, g.Reason = Idle, figure(own), "no cable through it moves anything"
}

func adaptTo(j *job, ref string, v q.Quantity) (q.Quantity, float64) {
	if v.Dim != q.DimBeats {
		return v, 0
	}
	p, err := j.src.Param(ref)
	if err != nil {
		return v, 0
	}
	d := q.Beats(v.Value).At(j.wanted.Tempo)
	if p.Dim == q.DimFrequency {
		return q.Quantity{Dim: p.Dim, Value: float64(d.Rate())}, v.Value
	}
	return q.Quantity{Dim: p.Dim, Value: float64(d)}, v.Value
}

// chooser makes the line of a control that only decides what else is there.
func (j *job) chooser(g *Gloss, k int) {
	g.Verdict, g.Reason = Idle, "chooses nothing that is used here"
	var parts []string
	kept := true
	for i := range j.wanted.Modules {
		m := &j.wanted.Modules[i]
		mi, _ := j.src.ModuleIndex(m.ID)
		for w := range j.src.Modules[mi].When {
			if c, _ := j.src.Cond(&j.src.Modules[mi].When[w]); c != k || !m.Used() {
				continue
			}
			parts = append(parts, m.Label)
			ti, ok := j.placed(m.ID)
			if by := j.recastOf(m.ID); by != nil {
				g.recast(by)
			} else if !ok {
				kept = false
				g.Reason = j.noPlace(m)
			}
			if !ok {
				continue
			}
			for w := range j.t.Modules[ti].When {
				tc, _ := j.t.Cond(&j.t.Modules[ti].When[w])
				g.Target = append(g.Target, j.targetReading(tc))
			}
		}
	}
	for i := range j.wanted.Routes {
		r := &j.wanted.Routes[i]
		ri, ok := j.src.RouteIndex(r.ID)
		if !ok || !r.Used() {
			continue
		}
		for w := range j.src.Routes[ri].When {
			if c, _ := j.src.Cond(&j.src.Routes[ri].When[w]); c != k {
				continue
			}
			parts = append(parts, r.Label)
			if choice := j.choice(r); choice.kind == "" {
				if by := j.recastOf(r.ID); by != nil {
					g.recast(by)
					continue
				}
				kept = false
				g.Reason = choice.reason
			} else if choice.kind == "wired" {
				for w := range j.t.Routes[choice.index].When {
					tc, _ := j.t.Cond(&j.t.Routes[choice.index].When[w])
					g.Target = append(g.Target, j.targetReading(tc))
				}
			}
		}
	}
	j.clockChooser(g, k, &parts, &kept)
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
func (j *job) clockChooser(g *Gloss, k int, parts *[]string, kept *bool) {
	for i := range j.src.Controls {
		for b := range j.src.Controls[i].Means {
			bind := &j.src.Controls[i].Means[b]
			for w := range bind.When {
				c, _ := j.src.Cond(&bind.When[w])
				id, name := meaning.Split(bind.Param)
				m := j.wanted.Module(id)
				if c != k || m == nil || !m.Used() || !j.src.Holds(bind.When, j.from) {
					continue
				}
				p, _ := meaning.SpecOf(m.Kind).Param(name)
				*parts = append(*parts, m.Label+" "+p.Label+" by "+j.src.Controls[i].Label)
				if ti, ok := j.placed(m.ID); !ok {
					if by := j.recastOf(m.ID); by != nil {
						g.recast(by)
						continue
					}
					*kept, g.Reason = false, j.noPlace(m)
				} else {
					for _, ref := range j.t.Binds(meaning.Ref(j.t.Modules[ti].ID, name)) {
						for w := range j.t.Bind(ref).When {
							if !j.t.Holds(j.t.Bind(ref).When, j.set.state) {
								continue
							}
							tc, _ := j.t.Cond(&j.t.Bind(ref).When[w])
							g.Target = append(g.Target, j.targetReading(tc))
						}
					}
				}
			}
		}
	}
}

// moduleLine fills the line of a parameter of a module. It gives a key where the parameter is
// a sum that goes over as a whole.
func (j *job) moduleLine(g *Gloss, m *meaning.Module, name meaning.ParamName, part string, own q.Quantity) (key string) {
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
	if key, is := j.recastLine(g, m, name); is {
		return key
	}
	ti, ok := j.placed(m.ID)
	if !ok {
		g.Verdict, g.Reason = LeftOut, j.noPlace(m)
		if _, n := compare(p, v.Quantity, p.Neutral, m, m); n < 0.01 && p.Dim != q.DimWave || part != "" && own.Value == 0 {
			g.Verdict, g.Reason = Idle, "adds nothing, and goes with "+m.Label+", which is left out"
		}
		return ""
	}
	tm := &j.t.Modules[ti]
	r := j.got.Module(tm.ID)
	g.TargetParam = meaning.Ref(tm.ID, name)
	got, present := r.Params[name]
	if name == meaning.POn {
		j.onLine(g, m, r, present)
		return ""
	}
	if !present {
		_, j0 := compare(p, v.Quantity, p.Neutral, m, r)
		if j0 <= 1 {
			g.Verdict, g.Reason = Held, fmt.Sprintf("%s has no %s, and none is asked for", tm.Label, p.Label)
			g.Reached = figure(p.Neutral)
			return ""
		}
		g.Verdict, g.Reason = LeftOut, fmt.Sprintf("%s of %s has no %s", tm.Label, j.t.Name, p.Label)
		g.TargetParam = ""
		return ""
	}
	if part != "" {
		if j.partLine(g, meaning.Ref(tm.ID, name), part, own, p) {
			return ""
		}
		key = g.Param
		g.Wanted = figure(v.Quantity)
		g.Reason = strings.Join(g.says(&rules.Line{Param: p, Sum: true}), "; ")
	}
	g.Target = j.shownBy(meaning.Ref(tm.ID, name))
	want := onTarget(p, m, r)
	want.Tol = v.Tol
	if id, ok := j.castID(m.ID); ok {
		if a, ok := j.adjust[meaning.Ref(id, name)]; ok {
			want.Value = a.value
			g.Reason = strings.TrimPrefix(g.Reason+"; "+a.note, "; ")
		}
	}
	g.Reached = figure(got.Quantity)
	j.judge(g, p, want, got.Quantity, m, r)
	j.explain(g, p, v, got, want, m, r, ti)
	return key
}

// onLine is the line of a switch of a module.
func (j *job) onLine(g *Gloss, m, r *meaning.Module, present bool) {
	g.Verdict, g.Reached = Held, figure(q.Named(q.DimName, "on"))
	if present {
		g.Target = j.shownBy(meaning.Ref(r.ID, meaning.POn))
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
func (j *job) splits(source, ref string, p meaning.Param) bool {
	id, name := meaning.Split(source)
	want := j.wanted.Module(id).Params[name].Parts
	have := map[string]bool{}
	for _, b := range j.t.Binds(ref) {
		bind, at := j.t.Bind(b), j.set.state.At[b.Control]
		if !j.t.Holds(bind.When, j.set.state) {
			continue
		}
		v, set := j.t.Scale(b).Quantity(at)
		if !set {
			continue
		}
		have[bind.Part] = true
		near := math.Max(j.t.Scale(b).Step(at.Index)/2, p.JND.Size/100)
		if !j.over[b.Control] && !j.set.clamped[b.Control] && math.Abs(v.Value-want[bind.Part].Value) > near+1e-9 {
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
func (j *job) partLine(g *Gloss, ref, part string, own q.Quantity, p meaning.Param) bool {
	if !j.splits(g.Param, ref, p) {
		return false
	}
	for _, b := range j.t.Binds(ref) {
		bind := j.t.Bind(b)
		if bind.Part != part || !j.t.Holds(bind.When, j.set.state) {
			continue
		}
		v, set := j.t.Scale(b).Quantity(j.set.state.At[b.Control])
		if !set {
			continue
		}
		g.Target = []Reading{j.targetReading(b.Control)}
		g.Reached = figure(v)
		j.judge(g, p, own, v, nil, nil)
		if j.over[b.Control] {
			g.Reason = "set by hand"
		} else if j.set.clamped[b.Control] {
			g.Reason = "the end of the target's scale"
		}
		return true
	}
	g.Verdict, g.Reason, g.TargetParam = Held, "nothing to add here", ""
	g.Reached = figure(q.Quantity{Dim: own.Dim})
	return true
}

// shownBy lists the readings of the target's controls that make a parameter as it is set.
func (j *job) shownBy(ref string) []Reading {
	out := []Reading{}
	for _, b := range j.t.Binds(ref) {
		bind := j.t.Bind(b)
		if !j.t.Holds(bind.When, j.set.state) {
			continue
		}
		if _, set := j.t.Scale(b).Quantity(j.set.state.At[b.Control]); set {
			out = append(out, j.targetReading(b.Control))
		}
	}
	return out
}

// judge gives the verdict and the difference of a line. The tolerance that counts is that
// of both panels together at k = 2; a value that differs by less may be the same.
func (j *job) judge(g *Gloss, p meaning.Param, want, got q.Quantity, w, r *meaning.Module) {
	d, jnds := compare(p, want, got, w, r)
	g.JNDs = round(jnds, 2)
	if p.JND.Size <= 1e-5 || want.Dim.Named() && p.Dim != q.DimWave {
		g.JNDs = 0
	}
	g.Diff = difference(p, want, got, d)
	tol := q.Cover * q.RSS(want.Tol, got.Tol)
	step := j.stepOf(g)
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
func (j *job) stepOf(g *Gloss) float64 {
	step := 0.0
	for _, r := range g.Target {
		k, _ := j.t.ControlIndex(r.Control)
		for i := range j.t.Controls[k].Means {
			b := &j.t.Controls[k].Means[i]
			if b.Param == g.TargetParam && j.t.Holds(b.When, j.set.state) && j.set.state.At[k].Index >= 0 {
				if s := j.t.Scale(panel.BindRef{Control: k, Bind: i}).Step(j.set.state.At[k].Index); step == 0 || s < step {
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

func round(x float64, decimals int) float64 {
	p := math.Pow(10, float64(decimals))
	if x > 9999 {
		return 9999
	}
	return math.Round(x*p) / p
}

// explain adds the reason where a line needs one.
func (j *job) explain(g *Gloss, p meaning.Param, v, got meaning.Value, want q.Quantity, w, r *meaning.Module, ti int) {
	var why []string
	if g.Reason != "" {
		why = append(why, g.Reason)
	}
	clamped, byHand := false, false
	for _, t := range g.Target {
		k, _ := j.t.ControlIndex(t.Control)
		clamped = clamped || j.set.clamped[k]
		byHand = byHand || t.Overridden
	}
	if byHand {
		why = append(why, "set by hand")
	}
	if clamped && !byHand {
		why = append(why, "the end of the target's scale")
	}
	si, _ := j.src.ModuleIndex(w.ID)
	why = append(why, g.says(&rules.Line{Param: p, Want: v, Got: got, From: w, To: r, FromPivot: j.src.Pivot(si), ToPivot: j.t.Pivot(ti), Tempo: j.wanted.Tempo, Bent: g.Verdict == Bent})...)
	if v.Beats > 0 && got.Beats == 0 && g.Verdict == Held {
		g.Verdict = Near
	}
	if len(g.Target) == 0 {
		why = append(why, fmt.Sprintf("fixed on %s", j.t.Name))
	} else if g.Verdict == Bent && !clamped && !byHand && p.Dim != q.DimWave {
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
func (j *job) also(g *Gloss, m *meaning.Module, name meaning.ParamName) {
	p, ok := meaning.SpecOf(m.Kind).Param(name)
	v, have := m.Params[name]
	if !ok || !have {
		return
	}
	sub := Gloss{}
	j.moduleLine(&sub, m, name, "", v.Quantity)
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
		g.Reason = strings.TrimPrefix(g.Reason+"; "+p.Label+": "+orText(sub.Reason, sub.Diff), "; ")
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

// routeLine fills the line of a control of a route.
func (j *job) routeLine(g *Gloss, r *meaning.Route, name meaning.ParamName, own q.Quantity) {
	g.Param = meaning.Ref(r.ID, name)
	if name == meaning.PAmount {
		own = r.Depth.Quantity
	}
	g.Wanted = figure(own)
	if !r.Used() {
		g.Verdict, g.Reason = Idle, r.Label+" moves nothing: "+r.Idle
		return
	}
	c := j.choice(r)
	if by := j.recastOf(r.ID); by != nil {
		g.recast(by)
		if by.Gone[r.ID] {
			g.Verdict, g.Reason = LeftOut, by.Text+": what it moves is not there"
			return
		}
		ref, _, _ := j.where(meaning.Ref(r.ID, meaning.PDepth))
		id, param := meaning.Split(ref)
		if n := j.cast.Module(id); n != nil {
			j.recastOnto(g, n, param)
		} else if n := j.cast.Route(id); n != nil {
			j.recastOntoRoute(g, n)
		}
		return
	}
	if c.kind == "" {
		g.Verdict, g.Reason = LeftOut, c.reason
		if m := j.wanted.Module(r.From); m != nil {
			if _, ok := j.placed(r.From); !ok {
				g.Reason = m.Label + " is not there: " + j.noPlace(m)
			}
		}
		return
	}
	got, ref, label := j.made(c)
	g.TargetParam = ref
	if got != nil {
		g.route = got.ID
	}
	if name != meaning.PDepth && name != meaning.PAmount {
		g.Verdict, g.Reached = Held, figure(q.Named(q.DimName, label))
		g.Target = j.routeControls(c, name)
		if got == nil || !got.Used() {
			g.Verdict, g.Reason = LeftOut, "off on the target"
		}
		return
	}
	if got == nil || !got.Used() && j.over != nil && len(j.over) > 0 && got.Depth.Value == 0 {
		g.Verdict, g.Reason = LeftOut, "off on the target"
		g.Target = j.routeControls(c, name)
		return
	}
	g.Target = j.routeControls(c, meaning.PDepth)
	g.Reached = figure(got.Depth.Quantity)
	p := depthParamOf(r)
	j.judge(g, p, r.Depth.Quantity, got.Depth.Quantity, nil, nil)
	var why []string
	if got.Polarity != r.Polarity {
		why = append(why, fmt.Sprintf("%s there, %s here", r.Polarity, got.Polarity))
		if worse(Bent, g.Verdict) {
			g.Verdict = Bent
		}
	}
	if extra := j.extra(r, got); extra != "" {
		why = append(why, "moves "+extra+" as well")
		if worse(Bent, g.Verdict) {
			g.Verdict = Bent
		}
	}
	why = append(why, g.says(&rules.Line{Route: r, Means: j.means(c), By: label})...)
	for _, t := range g.Target {
		k, _ := j.t.ControlIndex(t.Control)
		if t.Overridden {
			why = append(why, "set by hand")
		} else if j.set.clamped[k] {
			why = append(why, "the end of the target's scale")
		}
	}
	if len(g.Target) == 0 {
		why = append(why, "the depth is fixed on "+j.t.Name)
	}
	if g.Open {
		why = append(why, "the scales are not known well enough to be sure")
	}
	g.Reason = strings.Join(why, "; ")
}

// means says how a route is made here where that is not how it is made there: by a cable or a slot, or by a switch
// that wires it.
func (j *job) means(c routeChoice) string {
	if c.kind == "wired" && len(j.t.Binds(meaning.Ref(j.t.Routes[c.index].ID, meaning.POn))) > 0 {
		return "switch"
	}
	return c.kind
}

func depthParamOf(r *meaning.Route) meaning.Param {
	for _, d := range []q.Dim{q.DimFrequency, q.DimInterval, q.DimRatio, q.DimResonance, q.DimCount} {
		if meaning.DepthDim(d) == r.Depth.Dim {
			return meaning.DepthParam(d)
		}
	}
	return meaning.DepthParam(q.DimRatio)
}

// made finds what a choice made on the target: the route as it reads there, its depth's
// name and its label.
func (j *job) made(c routeChoice) (r *meaning.Route, ref, label string) {
	switch c.kind {
	case "wired":
		d := &j.t.Routes[c.index]
		return j.got.Route(d.ID), meaning.Ref(d.ID, meaning.PDepth), d.Label
	case "slot":
		d := &j.t.Matrix.Slots[c.index]
		return j.got.Route(d.ID), meaning.Ref(d.ID, meaning.PAmount), d.Label
	}
	r = j.got.Route("cable:" + j.t.Points[c.index].ID)
	if r == nil {
		return nil, "", ""
	}
	if c.atten >= 0 {
		ref = meaning.Ref(j.t.Modules[c.atten].ID, meaning.PGain)
	}
	return r, ref, r.Label
}

// routeControls lists the target's controls that make a route: those of its depth, or of its
// switch and ends.
func (j *job) routeControls(c routeChoice, name meaning.ParamName) []Reading {
	var refs []string
	switch c.kind {
	case "wired":
		id := j.t.Routes[c.index].ID
		refs = []string{meaning.Ref(id, meaning.PDepth)}
		if name != meaning.PDepth {
			refs = []string{meaning.Ref(id, meaning.POn)}
		}
	case "slot":
		id := j.t.Matrix.Slots[c.index].ID
		refs = []string{meaning.Ref(id, meaning.PAmount)}
		if name != meaning.PDepth && name != meaning.PAmount {
			refs = []string{meaning.Ref(id, meaning.PSource), meaning.Ref(id, meaning.PDest), meaning.Ref(id, meaning.PScaler), meaning.Ref(id, meaning.POn)}
		}
	case "cable":
		if c.atten >= 0 {
			refs = []string{meaning.Ref(j.t.Modules[c.atten].ID, meaning.PGain)}
		}
	}
	out := []Reading{}
	for _, r := range refs {
		out = append(out, j.shownBy(r)...)
	}
	return out
}

// extra names what a route of the target moves beyond what was wanted.
func (j *job) extra(want, got *meaning.Route) string {
	wanted := map[string]bool{}
	for _, d := range want.To {
		id, param := meaning.Split(d)
		if k, ok := j.placed(id); ok {
			wanted[meaning.Ref(j.t.Modules[k].ID, param)] = true
			if j.t.Modules[k].Kind == meaning.Voice && param == meaning.PTune {
				return ""
			}
		}
	}
	var out []string
	for _, d := range got.To {
		id, param := meaning.Split(d)
		k, ok := j.t.ModuleIndex(id)
		if !ok || wanted[d] || !j.set.playing(k) || param == meaning.PTune {
			continue
		}
		out = append(out, j.t.Modules[k].Label)
	}
	return strings.Join(out, ", ")
}

// unshown gives a line for each property that no control of the source shows and that
// is not the same on the target, and for each route without a control that is lost.
func (j *job) unshown() []Gloss {
	var out []Gloss
	for i := range j.wanted.Modules {
		m := &j.wanted.Modules[i]
		ti, ok := j.placed(m.ID)
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
			j.moduleLine(&g, m, p.Name, "", v.Quantity)
			if g.Verdict == Held && j.t.Modules[ti].Fixed[p.Name] != "" || g.Verdict == Idle {
				continue
			}
			if _, bound := j.got.Module(j.t.Modules[ti].ID).Params[p.Name]; !bound && g.Verdict == Held {
				continue
			}
			out = append(out, g)
		}
	}
	for i := range j.wanted.Routes {
		r := &j.wanted.Routes[i]
		if !r.Used() || len(r.Depth.From) > 0 || r.On != nil {
			continue
		}
		c := j.choice(r)
		g := Gloss{ID: "fixed:" + r.ID, Step: meaning.StepLFO, Section: "Routes", Label: r.Label, Source: []Reading{}, Target: []Reading{}}
		j.routeLine(&g, r, meaning.PDepth, r.Depth.Quantity)
		if c.kind == "wired" && g.Verdict == Held && len(g.Target) == 0 {
			continue
		}
		out = append(out, g)
	}
	return out
}

// switchedOff gives a line for each control of the target that init would have left on.
func (j *job) switchedOff() []Gloss {
	var out []Gloss
	for _, k := range j.t.Order {
		if !j.set.off[k] || j.over[k] {
			continue
		}
		at, init := j.set.state.At[k], j.t.Init(k)
		if at.Index == init.Index {
			continue
		}
		c := &j.t.Controls[k]
		g := Gloss{ID: "target:" + c.ID, Step: j.t.StepOf(k), Section: j.t.SectionLabel(k), Label: c.Label, Source: []Reading{},
			Target: []Reading{j.targetReading(k)}, Verdict: Held}
		g.Reason = strings.Join(g.says(&rules.Line{Init: init.Reading}), "; ")
		out = append(out, g)
	}
	return out
}
