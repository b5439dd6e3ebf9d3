// Package refine brings a translation nearer by ear: it moves controls of the target by a few of their own
// steps about where the analytic answer has put them, never leaving the plan, and keeps what lessens the
// distance of the sound. It also finds out how much each part of a patch is heard.
//
// Its neighbours: audition says what is rendered, compare how far two sounds are apart, translate makes the
// sheet that is begun from.
package refine

import (
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
	notes := Excerpt(t.Notes)
	if len(notes) == 0 {
		return nil, synth.ErrNothing
	}
	source, err := audition.Layers(t.Source, t.Patch, t.Sheet.Layer)
	if err != nil {
		return nil, err
	}
	aim, err := sketch(source[:1], notes, t.Patch.Wheel, 2)
	if err != nil {
		return nil, err
	}
	state, err := audition.State(t.Target, t.Sheet)
	if err != nil {
		return nil, err
	}
	base, err := audition.Target(t.Target, t.Patch, t.Sheet)
	if err != nil {
		return nil, err
	}
	r := &Outcome{Changes: []Nudge{}}
	measure := func(s *panel.State, workers int) (compare.Distance, error) {
		y, err := base, error(nil)
		y.Meaning = t.Target.Interpret(s, q.Tempo(t.Patch.Tempo))
		if t.Rack != nil && t.Sheet.Rig != nil {
			if y.Meaning, err = audition.WithRack(y.Meaning, t.Rack, t.Sheet.Rig, y.Meaning.Tempo); err != nil {
				return compare.Distance{}, err
			}
		}
		k, err := sketch(append([]synth.Layer{y}, t.Beside...), notes, t.Patch.Wheel, workers)
		if err != nil {
			return compare.Distance{}, err
		}
		return compare.Apart(aim, k, false), nil
	}
	if r.Before, err = measure(state, 2); err != nil {
		return nil, err
	}
	r.After = r.Before
	r.Renders = 1
	dials := t.movables(state)
	r.Controls = len(dials)
	gains := map[int]float64{}
	mostly := map[int]string{}
	tell := func() {
		if t.Progress != nil {
			t.Progress(r.Renders, t.Budget, r.After.Total)
		}
	}
	tell()
	type trial struct {
		at int
		d  compare.Distance
	}
	// try gives the distances at several places of a control, two renders at a time
	try := func(d *movable, places ...int) ([]trial, error) {
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
				s := *state
				s.At = slices.Clone(state.At)
				s.At[d.control] = t.Target.Places(d.control)[out[i].at]
				out[i].d, errs[i] = measure(&s, 1)
			})
		}
		wg.Wait()
		r.Renders += len(out)
		for _, err := range errs {
			if err != nil {
				return nil, err
			}
		}
		return out, nil
	}
	for moving := true; moving; {
		moving = false
		for i := range dials {
			d := &dials[i]
			if d.step == 0 {
				continue
			}
			if t.Stop != nil && t.Stop() {
				r.Stopped = true
				break
			}
			if r.Renders+2 > t.Budget {
				r.Spent = true
				break
			}
			list, err := try(d, d.at-d.step, d.at+d.step)
			if err != nil {
				return nil, err
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
				tell()
				continue
			}
			gains[d.control] += r.After.Total - list[best].d.Total
			mostly[d.control] = lessened(r.After, list[best].d)
			d.at, r.After = list[best].at, list[best].d
			state.At[d.control] = t.Target.Places(d.control)[d.at]
			moving = true
			tell()
		}
		if r.Stopped || r.Spent {
			break
		}
	}
	for _, d := range dials {
		if d.at == d.from {
			continue
		}
		places := t.Target.Places(d.control)
		n := d.at - d.from
		way := "higher"
		if n < 0 {
			n, way = -n, "lower"
		}
		steps := fmt.Sprintf("%d steps", n)
		if n == 1 {
			steps = "one step"
		}
		c := Nudge{Control: t.Target.Controls[d.control].ID, Label: t.Target.SectionLabel(d.control) + ": " + t.Target.Controls[d.control].Label, From: places[d.from].Reading, To: places[d.at].Reading, Gain: gains[d.control]}
		c.Text = fmt.Sprintf("%s %s by ear: %.2f nearer, mostly in %s", steps, way, c.Gain, mostly[d.control])
		r.Changes = append(r.Changes, c)
	}
	slices.SortStableFunc(r.Changes, func(a, b Nudge) int {
		switch {
		case a.Gain > b.Gain:
			return -1
		case a.Gain < b.Gain:
			return 1
		}
		return 0
	})
	return r, nil
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

// dials lists the controls of the plan that may be moved: those that the sheet sets to a number, that nobody
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
