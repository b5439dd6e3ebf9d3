package translate

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"glossator/core/audit"
	"glossator/core/fault"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/settle"
)

// Options are the choices of a translation.
type Options struct {
	School plan.School
	// Layer is the id of the patch's layer; empty for the first.
	Layer string
	// Overrides are readings of the target that somebody chose, by control id.
	Overrides map[string]string
	// Choices are what somebody has decided about parts of the patch.
	Choices plan.Choices
	// Heard are factors for what the parts of the patch weigh, by id, from how much each is heard (see
	// refine.Heard); nil where that has not been found out.
	Heard map[string]float64
	// Rack is an outboard rack that stands behind the target, nil for none: it plays effects that the target lacks.
	Rack *panel.Compiled
	// Ears judge the lines by one's own just-noticeable differences; nil for the published ones.
	Ears *gloss.Ears
	// Flavours translates the patch's flavours as well: each costs a translation.
	Flavours bool
}

// Translate sets a patch on another panel. The patch has to stand on src; the error
// is a fault.List where its readings or the overrides are at fault.
func Translate(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*gloss.Sheet, error) {
	w, err := work(src, p, dst, opt)
	if err != nil {
		return nil, err
	}
	return w.sheet, nil
}

// Made is Translate, and gives besides what the sheet was made from, for whoever has to answer for it.
func Made(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*gloss.Input, *gloss.Sheet, error) {
	w, err := work(src, p, dst, opt)
	if err != nil {
		return nil, nil, err
	}
	return w.in, w.sheet, nil
}

// worked is a translation with what its stages have handed on.
type worked struct {
	problem *plan.Problem
	found   *plan.Plan // before the school has adjusted it
	in      *gloss.Input
	sheet   *gloss.Sheet
}

// work runs the stages.
func work(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*worked, error) {
	tuned := opt.Choices.Tuned
	if opt.School != plan.Ear {
		tuned = nil
	}
	if tuned != nil && opt.Heard == nil {
		opt.Heard = tuned.Heard
	}
	in, err := read(src, p, dst, opt)
	if err != nil {
		return nil, err
	}
	w, choices := &worked{in: in}, opt.Choices.With(tuned)
	w.problem = &plan.Problem{T: in.Target, Wanted: in.Plan.Wanted, Wheel: p.Wheel, Note: middle(p), Refuse: choices.Refuse, Bans: choices.Bans,
		Carry: func(m *meaning.Meaning, a *plan.Allocation) *panel.State { return settle.Carry(in.Target, m, a) }}
	if opt.Rack != nil {
		if in.Outside, err = outside(src, p, dst, opt); err != nil {
			return nil, err
		}
		if in.Outside != nil {
			leaveTo(in.Plan.Wanted, in.Outside.Parts, "played by "+opt.Rack.Name)
		}
	}
	w.found = w.problem.Find()
	in.Plan, in.Set = w.found, settle.Settle(in.Target, w.found)
	if !in.SamePanel() {
		got := dst.Interpret(in.Set.State, in.Target.Tempo)
		if heard := in.Plan.WithoutIdle(in.Target, got); heard != in.Plan {
			in.Plan, in.Set = heard, settle.Settle(in.Target, heard)
			got = dst.Interpret(in.Set.State, in.Target.Tempo)
		}
		situation := &settle.Situation{T: in.Target, Plan: in.Plan, Wanted: in.Plan.Wanted, State: in.Set.State, Got: got, Note: middle(p)}
		if c := settle.Compensate(situation); c != nil {
			in.Plan, in.Adjusted = c.Plan, c.Adjusted
			in.Set = settle.Settle(in.Target, in.Plan)
		}
	}
	if in.SamePanel() {
		in.Set.CopyWritten(src, in.From)
	} else if settle.TempoControl(in.Target) >= 0 {
		in.Set.SetTempo(in.Target, dst.Interpret(in.Set.State, in.Target.Tempo))
	}
	in.Mark = w.found.Mark(in.Target)
	if tuned != nil && tuned.Plan == in.Mark {
		tune(in, tuned)
	}
	if in.Over, err = override(in, opt.Overrides); err != nil {
		return nil, err
	}
	in.Got = dst.Interpret(in.Set.State, in.Target.Tempo)
	leaveWheel(in)
	in.Got.Hands = in.Plan.Cast.Hands
	w.sheet = gloss.Make(in)
	w.sheet.Audit = audit.Of(in, w.sheet)
	if w.sheet.Moves, err = movesOf(w, src, p, dst, opt); err != nil {
		return nil, err
	}
	if opt.Flavours {
		w.sheet.Flavours, err = flavoursOf(w, src, p, dst, opt)
	}
	return w, err
}

// read reads the source and prepares the target: the input of the sheet with no plan but what is wanted.
func read(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (*gloss.Input, error) {
	if opt.School == "" {
		opt.School = plan.Numbers
	}
	school := plan.SpecOfSchool(opt.School)
	if school == nil {
		return nil, fmt.Errorf("expected a school: numbers, ear or feel, got %q", opt.School)
	}
	if t := opt.Choices.Tuned; t != nil && t.Plain && opt.School == plan.Ear {
		school = school.Plainly()
	}
	if p.Panel != src.ID {
		return nil, fmt.Errorf("patch %s stands on %s, not on %s", p.ID, p.Panel, src.ID)
	}
	n := max(0, slices.IndexFunc(p.Layers, func(y patch.Layer) bool { return y.ID == opt.Layer }))
	if opt.Layer != "" && p.Layers[n].ID != opt.Layer {
		return nil, fmt.Errorf("patch %s has no layer %q", p.ID, opt.Layer)
	}
	from, err := src.Read(&p.Layers[n], fmt.Sprintf("/layers/%d", n))
	if err != nil {
		return nil, err
	}
	tempo := q.Tempo(p.Tempo)
	if tempo == 0 {
		tempo = panel.DefaultTempo
	}
	wanted := src.Interpret(from, tempo)
	if l := opt.Choices.Check(func(id string) bool { return wanted.Module(id) != nil || wanted.Route(id) != nil }); len(l) > 0 {
		return nil, l
	}
	leaveTo(wanted, opt.Choices.Elsewhere, "played by the first layer")
	return &gloss.Input{Source: src, Patch: p, Layer: &p.Layers[n], From: from, Plan: &plan.Plan{Wanted: wanted}, Choices: opt.Choices, Overrides: opt.Overrides, Heard: opt.Heard != nil, Ears: opt.Ears, Note: middle(p),
		Target: plan.NewTarget(dst, tempo, src, from, plan.PolicyOf(school, p.Kind, opt.Choices, opt.Heard))}, nil
}

// leaveTo takes out of a meaning what another layer or the rack plays, and what moves nothing then.
func leaveTo(m *meaning.Meaning, ids []string, why string) {
	if len(ids) == 0 {
		return
	}
	for i := range m.Modules {
		if d := &m.Modules[i]; d.Used() && slices.Contains(ids, d.ID) {
			d.Idle = why
		}
	}
	m.MarkUnheard(why)
}

// tune sets the readings that have been found by ear. Those that the panel does not have any more, or that somebody sets, are left.
func tune(in *gloss.Input, tuned *plan.Tuned) {
	in.Tuned = map[int]string{}
	for id, text := range tuned.Readings {
		k, ok := in.Target.ControlIndex(id)
		if !ok {
			continue
		}
		pos, err := in.Target.Parse(k, text)
		if err != nil {
			continue
		}
		was := in.Set.State.At[k].Reading
		in.Set.Override(k, pos)
		if in.Tuned[k] = tuned.Why[id]; was != text {
			in.Tuned[k] += "; by numbers it would be " + was
		}
	}
}

// override sets the readings that somebody chose and gives the controls.
func override(in *gloss.Input, texts map[string]string) (map[int]bool, error) {
	var l fault.List
	over := map[int]bool{}
	for _, id := range slices.Sorted(maps.Keys(texts)) {
		k, ok := in.Target.ControlIndex(id)
		if !ok {
			l.Add(fault.Path("overrides", id), "expected a control of %s", in.Target.Name)
			continue
		}
		pos, err := in.Target.Parse(k, texts[id])
		if err != nil {
			l.Add(fault.Path("overrides", id), "%v", err)
			continue
		}
		over[k] = true
		in.Set.Override(k, pos)
	}
	return over, l.Err()
}

// middle gives the middle of the notes that a patch is played at: of its phrase by their lengths, else
// what is usual for its kind (common practice, no source).
func middle(p *patch.Patch) q.Note {
	if p.Phrase != nil {
		if beats, err := phrase.Beats(p.Phrase); err == nil {
			var sum, weighed float64
			for _, b := range beats {
				sum += b.End - b.At
				weighed += (b.End - b.At) * float64(b.Key)
			}
			if sum > 0 {
				return q.Note(math.Round(weighed / sum))
			}
		}
	}
	if key, ok := map[string]q.Note{"bass": 33, "lead": 69, "pad": 60, "pluck": 64}[p.Kind]; ok {
		return key
	}
	return 60
}

// ErrNoLine is returned where a sheet has no line of the id asked for.
var ErrNoLine = errors.New("the sheet has no line")

// ScalesOf lays the source's and the target's scale of one line along its axis.
func ScalesOf(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options, line string) (*gloss.Scales, error) {
	w, err := work(src, p, dst, opt)
	if err != nil {
		return nil, err
	}
	for i := range w.sheet.Glosses {
		if g := &w.sheet.Glosses[i]; g.ID == line {
			return w.in.ScalesOf(g), nil
		}
	}
	return nil, fmt.Errorf("%w %q", ErrNoLine, line)
}

// PictureOf draws what the part of a line does on both sides. Where control is set, the target is taken with that control at reading, set by hand.
func PictureOf(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options, line, control, reading string) (*gloss.Picture, error) {
	if control != "" {
		over := maps.Clone(opt.Overrides)
		if over == nil {
			over = map[string]string{}
		}
		over[control] = reading
		opt.Overrides = over
	}
	w, err := work(src, p, dst, opt)
	if err != nil {
		return nil, err
	}
	for i := range w.sheet.Glosses {
		if g := &w.sheet.Glosses[i]; g.ID == line {
			return w.in.PictureOf(g), nil
		}
	}
	return nil, fmt.Errorf("%w %q", ErrNoLine, line)
}

// PathsOf draws the signal paths of both sides.
func PathsOf(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (gloss.Paths, error) {
	w, err := work(src, p, dst, opt)
	if err != nil {
		return gloss.Paths{}, err
	}
	return w.in.PathsOf(w.sheet), nil
}

// Faults gives the faults in an error of Translate, or nil where it holds none.
func Faults(err error) fault.List {
	var l fault.List
	errors.As(err, &l)
	return l
}

// leaveWheel works out how far up a wheel has to be left that is left up (rule held-wheel): as far as what it brings in is as deep as it was there, by the route that counts most.
func leaveWheel(in *gloss.Input) {
	cast := in.Plan.Cast
	if cast.Hands == nil || cast.Hands.Wheel == 0 {
		return
	}
	at, most := 0.0, 0.0
	for i := range cast.Routes {
		r, way := &cast.Routes[i], &in.Plan.Best.Route[i]
		if r.Via != "wheel" || !way.Made() {
			continue
		}
		id, _ := way.Way.Made(in.Target)
		got, weight := in.Got.Route(id), in.Target.Policy.RouteWeight(cast, r)
		if got == nil || got.Depth.Dim != r.Depth.Dim || got.Depth.Value == 0 || weight <= most {
			continue
		}
		at, most = math.Min(1, math.Abs(r.Depth.Value/got.Depth.Value)), weight
	}
	m, p := *cast, *in.Plan
	m.Hands = m.Hands.With(0)
	if m.Hands.Wheel = 0; most > 0 { // else nothing that it brings in is made
		m.Hands.Wheel = math.Max(0.01, math.Round(100*at)/100)
	}
	p.Cast, in.Plan = &m, &p
}
