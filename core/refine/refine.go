// Package refine brings a translation nearer by ear: it moves controls of the target by a few of their own
// steps about where the analytic answer has put them, never leaving the plan, and keeps what lessens the
// distance of the sound. It also finds out how much each part of a patch is heard.
//
// Its neighbours: audition says what is rendered, compare how far two sounds are apart, translate makes the
// sheet that is begun from.
package refine

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"sync"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/scale"
	"glossator/core/synth"
)

// Budget is how many renders a search may take where nothing else is said.
const Budget = 160

// worthwhile is the least that a change has to lessen the distance by, in just-noticeable differences.
const worthwhile = 0.05

// reach is how far from the analytic answer a control may go, as a share of its travel.
const reach = 0.15

// Task is what is searched.
type Task struct {
	Source *panel.Compiled
	Target *panel.Compiled
	Patch  *patch.Patch
	Sheet  *gloss.Sheet
	Notes  []phrase.Note
	// Rack is the outboard rack of the sheet, where it has one: it stands as the sheet sets it.
	Rack *panel.Compiled
	// Beside are other layers that sound along, such as a second layer of the target; they are not moved.
	Beside []synth.Layer
	// Budget is the most renders, 0 for Budget.
	Budget int
	// Stop is asked before each step; nil for never.
	Stop func() bool
	// Progress is told how many renders are done, of how many at most, and how far the sounds are apart now.
	Progress func(done, most int, distance float64)
}

// Nudge is one control that has been moved.
type Nudge struct {
	Control string `json:"control"`
	Label   string `json:"label"`
	From    string `json:"from"`
	To      string `json:"to"`
	// Gain is by how much it lessened the distance, in just-noticeable differences.
	Gain float64 `json:"gain"`
	// Text is the note for the margin.
	Text string `json:"text"`
}

// Outcome is what a search has come to.
type Outcome struct {
	Before  compare.Distance `json:"before"`
	After   compare.Distance `json:"after"`
	Changes []Nudge          `json:"changes"`
	Renders int              `json:"renders"`
	// Stopped is set where it was stopped, Spent where the budget was used up.
	Stopped bool `json:"stopped"`
	Spent   bool `json:"spent"`
	// Controls is how many controls were tried.
	Controls int `json:"controls"`
}

// Excerpt shortens notes to what is enough to judge by: those that begin in the first 1.2 s, cut at 1.5 s.
func Excerpt(notes []phrase.Note) []phrase.Note {
	var out []phrase.Note
	for _, n := range notes {
		if n.Start < 1.2 {
			n.End = min(n.End, 1.5)
			if n.End > n.Start {
				out = append(out, n)
			}
		}
	}
	return out
}

func sketch(layers []synth.Layer, notes []phrase.Note, wheel float64, workers int) (*compare.Sketch, error) {
	s, err := synth.Render(layers, notes, synth.Options{Seed: 1, Wheel: wheel, Tail: 0.6, Workers: workers})
	if err != nil {
		return nil, err
	}
	return compare.Sketched(hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right}), nil
}

// movable is a control that may be moved.
type movable struct {
	control      int
	at, from     int // places
	lo, hi, step int
}

// Search looks for better readings. The error is one of reading or rendering.
func Search(t Task) (*Outcome, error) {
	if t.Budget <= 0 {
		t.Budget = Budget
	}
	w, err := t.begin()
	if err != nil {
		return nil, err
	}
	for moving := true; moving && !w.out.Stopped && !w.out.Spent; {
		if moving, err = w.round(); err != nil {
			return nil, err
		}
	}
	w.tellChanges()
	return w.out, nil
}

// walk is a search under way.
type walk struct {
	t     *Task
	notes []phrase.Note
	aim   *compare.Sketch
	base  synth.Layer  // the target as the sheet has it
	state *panel.State // the target as it stands now
	out   *Outcome
	list  []movable
	// by control: how much nearer it has brought the sound, and mostly in what
	gains  map[int]float64
	mostly map[int]string
}

// begin renders the source, and the target as it stands.
func (t *Task) begin() (*walk, error) {
	w := &walk{t: t, notes: Excerpt(t.Notes), out: &Outcome{Changes: []Nudge{}}, gains: map[int]float64{}, mostly: map[int]string{}}
	if len(w.notes) == 0 {
		return nil, synth.ErrNothing
	}
	source, err := audition.Layers(t.Source, t.Patch, t.Sheet.Layer)
	if err != nil {
		return nil, err
	}
	if w.aim, err = sketch(source[:1], w.notes, t.Patch.Wheel, 2); err != nil {
		return nil, err
	}
	if w.state, err = audition.State(t.Target, t.Sheet); err != nil {
		return nil, err
	}
	if w.base, err = audition.Target(t.Target, t.Patch, t.Sheet); err != nil {
		return nil, err
	}
	if w.out.Before, err = w.measure(w.state, 2); err != nil {
		return nil, err
	}
	w.out.After, w.out.Renders = w.out.Before, 1
	w.list = t.movables(w.state)
	w.out.Controls = len(w.list)
	w.tell()
	return w, nil
}

func (w *walk) tell() {
	if w.t.Progress != nil {
		w.t.Progress(w.out.Renders, w.t.Budget, w.out.After.Total)
	}
}

// measure gives how far the target in a state lies from the source.
func (w *walk) measure(s *panel.State, workers int) (compare.Distance, error) {
	t, y, err := w.t, w.base, error(nil)
	y.Meaning = t.Target.Interpret(s, q.Tempo(t.Patch.Tempo))
	if t.Rack != nil && t.Sheet.Rig != nil {
		if y.Meaning, err = audition.WithRack(y.Meaning, t.Rack, t.Sheet.Rig, y.Meaning.Tempo); err != nil {
			return compare.Distance{}, err
		}
	}
	k, err := sketch(append([]synth.Layer{y}, t.Beside...), w.notes, t.Patch.Wheel, workers)
	if err != nil {
		return compare.Distance{}, err
	}
	return compare.Apart(w.aim, k, false), nil
}

// trial is a place of a control, and how far the target lies from the source with it there.
type trial struct {
	at int
	d  compare.Distance
}

// try gives the distances at several places of a control, two renders at a time.
func (w *walk) try(d *movable, places ...int) ([]trial, error) {
	out := make([]trial, 0, len(places))
	for _, p := range places {
		if p = min(max(p, d.lo), d.hi); p != d.at && !slices.ContainsFunc(out, func(x trial) bool { return x.at == p }) {
			out = append(out, trial{at: p})
		}
	}
	errs := make([]error, len(out))
	var wg sync.WaitGroup
	for i := range out {
		wg.Go(func() {
			s := *w.state
			s.At = slices.Clone(w.state.At)
			s.At[d.control] = w.t.Target.Places(d.control)[out[i].at]
			out[i].d, errs[i] = w.measure(&s, 1)
		})
	}
	wg.Wait()
	w.out.Renders += len(out)
	for _, err := range errs {
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// round tries a step of each control either way, and keeps what brings the sound nearer. It tells whether another
// round may find more.
func (w *walk) round() (moving bool, err error) {
	r := w.out
	for i := range w.list {
		d := &w.list[i]
		if d.step == 0 {
			continue
		}
		if w.t.Stop != nil && w.t.Stop() {
			r.Stopped = true
			break
		}
		if r.Renders+2 > w.t.Budget {
			r.Spent = true
			break
		}
		list, err := w.try(d, d.at-d.step, d.at+d.step)
		if err != nil {
			return false, err
		}
		best := -1
		for k := range list {
			if list[k].d.Total < r.After.Total-worthwhile && (best < 0 || list[k].d.Total < list[best].d.Total) {
				best = k
			}
		}
		if best < 0 {
			d.step /= 2
			moving = moving || d.step > 0
			w.tell()
			continue
		}
		w.gains[d.control] += r.After.Total - list[best].d.Total
		w.mostly[d.control] = lessened(r.After, list[best].d)
		d.at, r.After = list[best].at, list[best].d
		w.state.At[d.control] = w.t.Target.Places(d.control)[d.at]
		moving = true
		w.tell()
	}
	return moving, nil
}

// tellChanges lists what was moved, by what it brought.
func (w *walk) tellChanges() {
	target := w.t.Target
	for _, d := range w.list {
		if d.at == d.from {
			continue
		}
		places := target.Places(d.control)
		n := d.at - d.from
		way := "higher"
		if n < 0 {
			n, way = -n, "lower"
		}
		steps := fmt.Sprintf("%d steps", n)
		if n == 1 {
			steps = "one step"
		}
		c := Nudge{Control: target.Controls[d.control].ID, Label: target.SectionLabel(d.control) + ": " + target.Controls[d.control].Label, From: places[d.from].Reading, To: places[d.at].Reading, Gain: w.gains[d.control]}
		c.Text = fmt.Sprintf("%s %s by ear: %.2f nearer, mostly in %s", steps, way, c.Gain, w.mostly[d.control])
		w.out.Changes = append(w.out.Changes, c)
	}
	slices.SortStableFunc(w.out.Changes, func(a, b Nudge) int { return cmp.Compare(b.Gain, a.Gain) })
}

// lessened names the part of the distance that has lessened most.
func lessened(was, is compare.Distance) string {
	best, name := math.Inf(-1), ""
	for _, x := range []struct {
		name    string
		was, is float64
	}{{"level", was.Level, is.Level}, {"colour", was.Colour, is.Colour}, {"shape", was.Shape, is.Shape}, {"brightness", was.Brightness, is.Brightness},
		{"motion", was.Motion, is.Motion}, {"pitch", was.Pitch, is.Pitch}} {
		if d := x.was*x.was - x.is*x.is; d > best {
			best, name = d, x.name
		}
	}
	return name
}

// movables lists the controls of the plan that may be moved: those that the sheet sets to a number, that nobody
// has set by hand, and that stand for a part that is not to be kept as it is.
func (t *Task) movables(state *panel.State) []movable {
	kept := map[string]bool{}
	for _, g := range t.Sheet.Glosses {
		id, _ := meaning.Split(g.Param)
		if t.Sheet.Choices.Weight[id] == plan.Keep {
			for _, x := range g.Target {
				kept[x.Control] = true
			}
		}
	}
	var out []movable
	for _, x := range t.Sheet.Settings {
		i, ok := t.Target.ControlIndex(x.Control)
		if !ok || x.Action != gloss.Set && x.Action != gloss.Leave || x.Overridden || kept[x.Control] || !t.plays(x.Control) {
			continue
		}
		c := &t.Target.Controls[i]
		places := t.Target.Places(i)
		if len(places) < 5 {
			continue
		}
		number := len(c.Means) > 0
		for b := range c.Means {
			p, err := t.Target.Param(c.Means[b].Param)
			number = number && err == nil && !p.Dim.Named() && p.Dim != q.DimCount && !p.Sums
		}
		if !number {
			continue
		}
		at := slices.IndexFunc(places, func(p scale.Position) bool { return p.Index == state.At[i].Index })
		if at < 0 {
			continue
		}
		span := max(2, int(reach*float64(len(places))))
		d := movable{control: i, at: at, from: at, lo: max(0, at-span), hi: min(len(places)-1, at+span)}
		d.step = max(1, span/4)
		out = append(out, d)
	}
	return out
}

// plays tells whether a control carries a part of the source on this sheet.
func (t *Task) plays(control string) bool {
	for i := range t.Sheet.Glosses {
		g := &t.Sheet.Glosses[i]
		if g.Verdict == gloss.Idle || g.Verdict == gloss.LeftOut {
			continue
		}
		for _, x := range g.Target {
			if x.Control == control && !x.Outside {
				return true
			}
		}
	}
	return false
}
