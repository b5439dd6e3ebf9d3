package translate

import (
	"errors"
	"fmt"
	"sort"

	"glossator/core/fault"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// Options are the choices of a translation.
type Options struct {
	School School
	// Layer is the id of the patch's layer; empty for the first.
	Layer string
	// Overrides are readings of the target that somebody chose, by control id.
	Overrides map[string]string
	// Choices are what somebody has decided about parts of the patch.
	Choices Choices
	// Heard are factors for what the parts of the patch weigh, by id, from how much each is heard (see
	// refine.Heard); nil where that has not been found out.
	Heard map[string]float64
	// Rack is an outboard rack that stands behind the target, nil for none: it plays effects that the target lacks.
	Rack *panel.Compiled
}

// job is one translation on its way.
type job struct {
	src    *panel.Compiled
	patch  *patch.Patch
	from   *panel.State
	wanted *meaning.Meaning
	t      *target
	// cast is the wanted meaning with parts made by other means, penalty what that costs
	cast    *meaning.Meaning
	recasts []*rules.Recast
	penalty float64
	looked  int  // sets of uses of rules that were looked at
	cut     bool // the search over them has met a limit
	// adjust holds what the school sets otherwise, by parameter of the meaning that is played
	adjust map[string]adjusted
	refuse map[string][]string
	bans   []ban
	plan   allocation
	set    *settled
	got    *meaning.Meaning
	over   map[int]bool
}

// Translate sets a patch on another panel. The patch has to stand on src; the error
// is a fault.List where its readings or the overrides are at fault.
func Translate(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*Sheet, error) {
	_, s, err := work(src, p, dst, opt)
	return s, err
}

// work runs the pipeline and keeps what a look at one line needs.
func work(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*job, *Sheet, error) {
	if opt.School == "" {
		opt.School = Numbers
	}
	school := SpecOfSchool(opt.School)
	if school == nil {
		return nil, nil, fmt.Errorf("expected a school: numbers, ear or feel, got %q", opt.School)
	}
	if p.Panel != src.ID {
		return nil, nil, fmt.Errorf("patch %s stands on %s, not on %s", p.ID, p.Panel, src.ID)
	}
	n := 0
	for i := range p.Layers {
		if p.Layers[i].ID == opt.Layer {
			n = i
			break
		}
		if i == len(p.Layers)-1 && opt.Layer != "" {
			return nil, nil, fmt.Errorf("patch %s has no layer %q", p.ID, opt.Layer)
		}
	}
	layer := &p.Layers[n]
	from, err := src.Read(layer, fmt.Sprintf("/layers/%d", n))
	if err != nil {
		return nil, nil, err
	}
	tempo := q.Tempo(p.Tempo)
	if tempo == 0 {
		tempo = panel.DefaultTempo
	}
	j := &job{src: src, patch: p, from: from, wanted: src.Mean(from, tempo), t: newTarget(dst, tempo, src, from, policyOf(school, p.Kind, opt.Choices, opt.Heard)), over: map[int]bool{}}
	if l := opt.Choices.check(func(id string) bool { return j.wanted.Module(id) != nil || j.wanted.Route(id) != nil }); len(l) > 0 {
		return nil, nil, l
	}
	elsewhere(j.wanted, opt.Choices.Elsewhere, byFirst)
	var out []string
	var there *Sheet
	if opt.Rack != nil {
		if out, there, err = outboard(src, p, dst, opt); err != nil {
			return nil, nil, err
		}
		elsewhere(j.wanted, out, "played by "+opt.Rack.Name)
	}
	j.refuse, j.bans = opt.Choices.Refuse, opt.Choices.bansOn(j.t)
	j.recast(p.Wheel)
	j.set = settle(j.t, j.cast, j.plan)
	if school.School != Numbers && !j.samePanel() {
		j.got = dst.Mean(j.set.state, tempo)
		if j.compensate() {
			j.set = settle(j.t, j.cast, j.plan)
		}
	}
	if j.samePanel() {
		for k := range src.Controls {
			if src.OnlyWritten(k) {
				j.set.state.At[k], j.set.touched[k] = from.At[k], "as it is written down"
			}
		}
	}
	if err := j.override(opt.Overrides); err != nil {
		return nil, nil, err
	}
	j.got = dst.Mean(j.set.state, tempo)

	s := &Sheet{Patch: p.ID, PatchName: p.Name, PatchKind: p.Kind, Layer: layer.ID, Layers: len(p.Layers), Tempo: float64(tempo),
		Source: ref(src), Target: ref(dst), School: opt.School, Choices: opt.Choices, Overrides: map[string]string{}, Cables: []Connection{}, Notes: []string{}, Summary: map[Verdict]int{}}
	for k, v := range opt.Overrides {
		s.Overrides[k] = v
	}
	s.Plan = j.planOf()
	s.Recasts = j.recastings()
	s.Glosses = j.glosses()
	if len(out) > 0 {
		j.sendOut(s, opt.Rack, out, there)
	}
	s.Measure = j.toMeasure(s.Glosses)
	s.Settings = j.settings()
	for _, c := range j.set.state.Cables {
		s.Cables = append(s.Cables, Connection{From: c.From, To: c.To, FromLabel: dst.Points[dst.PointIndex(c.From)].Label, ToLabel: dst.Points[dst.PointIndex(c.To)].Label})
	}
	for _, v := range Verdicts {
		s.Summary[v] = 0
	}
	for i := range s.Glosses {
		s.Summary[s.Glosses[i].Verdict]++
	}
	s.Notes = append(s.Notes, j.notes()...)
	if len(opt.Choices.Elsewhere) > 0 {
		s.Notes = append(s.Notes, "A second layer: what the first one plays is left out here.")
	}
	if opt.Heard != nil {
		s.Notes = append(s.Notes, "Parts count for as much as they are heard.")
	}
	s.byEar(opt.Choices.Why)
	s.Rules = s.rulesUsed()
	s.Audit = j.audit(s)
	return j, s, nil
}

func ref(c *panel.Compiled) PanelRef {
	return PanelRef{ID: c.ID, Name: c.Name, Revision: c.Revision, Memory: c.Memory}
}

func (j *job) override(texts map[string]string) error {
	var l fault.List
	ids := make([]string, 0, len(texts))
	for id := range texts {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	for _, id := range ids {
		k, ok := j.t.ControlIndex(id)
		if !ok {
			l.Add("/overrides/"+id, "expected a control of %s", j.t.Name)
			continue
		}
		pos, err := j.t.Parse(k, texts[id])
		if err != nil {
			l.Add("/overrides/"+id, "%v", err)
			continue
		}
		j.set.state.At[k], j.over[k] = pos, true
		j.set.off[k], j.set.clamped[k] = false, false
		j.set.touched[k] = "set by hand"
	}
	return l.Err()
}

func (j *job) notes() []string {
	var out []string
	if len(j.patch.Layers) > 1 {
		out = append(out, fmt.Sprintf("The patch has %d layers; each has a sheet of its own.", len(j.patch.Layers)))
	}
	if j.patch.Tempo == 0 {
		out = append(out, fmt.Sprintf("The patch gives no tempo: %g is taken.", float64(panel.DefaultTempo)))
	}
	for _, label := range j.set.always {
		out = append(out, fmt.Sprintf("%s cannot be switched off on %s.", label, j.t.Name))
	}
	var silent []string
	for i := range j.wanted.Modules {
		m := &j.wanted.Modules[i]
		switch m.Kind {
		case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator:
			if _, ok := j.placed(m.ID); m.Used() && !ok && j.recastOf(m.ID) == nil {
				silent = append(silent, m.Label)
			}
		}
	}
	if text := rules.Named("layer").Says(&rules.Line{Missing: silent, Panel: j.t.Name}); text != "" {
		out = append(out, text)
	}
	if !j.plan.exact {
		out = append(out, fmt.Sprintf("The search stopped at its limit of %d: a better plan may exist.", NodeLimit))
	}
	if j.cut {
		out = append(out, fmt.Sprintf("The search over the uses of rules met a limit after %d sets: a better plan may exist.", j.looked))
	}
	return out
}

func (j *job) planOf() Plan {
	p := Plan{Cost: j.plan.cost + j.penalty, Nodes: j.plan.nodes, Exact: j.plan.exact, Sets: j.looked, Cut: j.cut, Modules: []Pair{}, Routes: []Pair{}}
	for i := range j.wanted.Modules {
		m := &j.wanted.Modules[i]
		if !m.Used() || m.Kind == meaning.Atten {
			continue
		}
		pair := Pair{Source: m.ID, SourceLabel: m.Label, Cost: j.t.policy.leaveOut(m), Weight: j.t.policy.leaveOut(m)}
		p.Whole += pair.Cost
		k, ok := j.placed(m.ID)
		if ok {
			pair.Target, pair.TargetLabel, pair.Cost = j.t.Modules[k].ID, j.t.Modules[k].Label, j.pairCost(m.ID, k)
		}
		if by := j.recastOf(m.ID); by != nil {
			pair.Rule, pair.Reason = by.Rule.ID, by.Text
		} else if !ok {
			pair.Reason = j.noPlace(m)
		}
		p.Modules = append(p.Modules, pair)
	}
	for i := range j.wanted.Routes {
		r := &j.wanted.Routes[i]
		if !r.Used() {
			continue
		}
		c := j.choice(r)
		p.Whole += j.t.policy.routeWeight(j.wanted, r)
		pair := Pair{Source: r.ID, SourceLabel: r.Label, Cost: c.cost, Weight: j.t.policy.routeWeight(j.wanted, r), Reason: c.reason}
		if by := j.recastOf(r.ID); by != nil && !by.Gone[r.ID] {
			pair.Rule, pair.Reason = by.Rule.ID, by.Text
		} else if by != nil {
			pair.Reason = by.Text + ": what it moves is not there"
		}
		switch c.kind {
		case "wired":
			pair.Target, pair.TargetLabel = j.t.Routes[c.index].ID, j.t.Routes[c.index].Label
		case "slot":
			pair.Target, pair.TargetLabel = j.t.Matrix.Slots[c.index].ID, j.t.Matrix.Slots[c.index].Label
		case "cable":
			pair.Target = "cable:" + j.t.Points[c.index].ID
			pair.TargetLabel = j.t.Points[c.out].Label + " to " + j.t.Points[c.index].Label
		}
		p.Routes = append(p.Routes, pair)
	}
	return p
}

// pairCost gives what it costs that a module of the target plays one of the source.
func (j *job) pairCost(id string, target int) float64 {
	id, _ = j.castID(id)
	return j.plan.pair[id]
}

// noPlace says why a module of the source is not on the target.
func (j *job) noPlace(m *meaning.Module) string {
	spec := meaning.SpecOf(m.Kind)
	have, used := 0, 0
	for k := range j.t.Modules {
		if j.t.Modules[k].Kind == m.Kind {
			have++
			if j.set.playing(k) {
				used++
			}
		}
	}
	switch {
	case have == 0:
		return fmt.Sprintf("%s has no %s", j.t.Name, spec.Label)
	case used == have:
		return fmt.Sprintf("%s has %s, in use for what matters more", j.t.Name, counted(have, spec.Label, spec.Plural))
	}
	switch m.Kind {
	case meaning.Env, meaning.LFO, meaning.Macro:
		return fmt.Sprintf("no %s left on %s can move what it moves, or is near enough", spec.Label, j.t.Name)
	}
	return fmt.Sprintf("no %s of %s is near enough, or what it needs is taken by another part", spec.Label, j.t.Name)
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "one " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// settings lists every control of the target in working order.
func (j *job) settings() []Setting {
	t, out := j.t, make([]Setting, 0, len(j.t.Controls))
	for _, k := range t.Order {
		c := &t.Controls[k]
		at, init := j.set.state.At[k], t.Init(k)
		s := Setting{Control: c.ID, Label: c.Label, Section: t.SectionLabel(k), Step: t.StepOf(k), Reading: at.Reading, Init: init.Reading,
			Hidden: c.Hidden, Overridden: j.over[k], Expects: t.Expects(k), Why: j.set.touched[k]}
		same := t.AtInit(k, at)
		live := j.alive(k)
		switch {
		case j.over[k]:
			s.Action = Set
		case j.set.off[k] && (!same || !t.Memory):
			s.Action = Off
			if !same && t.Memory {
				s.Why = fmt.Sprintf("init holds %s; the patch has none", init.Reading)
			}
		case same && (t.Memory || !live):
			s.Action = Leave
			if !live && s.Why == "" {
				s.Why = "does nothing here"
			}
		default:
			s.Action = Set
		}
		if s.Action == Set {
			s.Caution = caution(t, k, j.got)
		}
		out = append(out, s)
	}
	return out
}

// alive tells whether a control of the target does anything as the target is set.
func (j *job) alive(k int) bool {
	t := j.t
	if len(t.Controls[k].Means) == 0 {
		return true
	}
	for i := range t.Controls[k].Means {
		b := &t.Controls[k].Means[i]
		if !t.Holds(b.When, j.set.state) {
			continue
		}
		id, _ := meaning.Split(b.Param)
		if m := j.got.Module(id); m != nil && m.Used() {
			return true
		}
		if r := j.got.Route(id); r != nil && r.Used() {
			return true
		}
		// what keeps a module silent is itself at work
		if m := j.got.Module(id); m != nil {
			_, name := meaning.Split(b.Param)
			for _, s := range meaning.SpecOf(m.Kind).Silence {
				if s == name {
					return true
				}
			}
		}
		if r := j.got.Route(id); r != nil {
			return true
		}
	}
	return false
}

// Faults gives the faults in an error of Translate, or nil where it holds none.
func Faults(err error) fault.List {
	var l fault.List
	errors.As(err, &l)
	return l
}
