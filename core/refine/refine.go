// Package refine brings a translation nearer by ear: it moves controls of the target from where the analytic answer has put them, over the whole of
// their travel and from one word to another, never leaving the plan, and keeps what lessens the distance of the sound. It also finds out how
// much each part of a patch is heard.
//
// All controls are moved together at first, by damped least squares (joint); then the method is a pattern search, control by control, with steps that grow where
// they help and are halved where they do not (Hooke and Jeeves, 1961, from memory). Its neighbours: audition says what is rendered, compare how far two sounds are apart, translate makes the sheet that is begun from,
// nearest chooses among plans.
package refine

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
)

// Budget is how many renders a search may take where nothing else is said.
const Budget = 240

// worthwhile is the least that a step has to lessen the distance by, in just-noticeable differences; spared and sparedShare (of all that is gained) are what
// may be lost in all by leaving controls where they stood, so that there are fewer to turn.
const (
	worthwhile  = 0.05
	spared      = 0.1
	sparedShare = 0.03
)

// Task is what is searched.
type Task struct {
	Source *panel.Compiled
	Target *panel.Compiled
	Patch  *patch.Patch
	// Layer is that of the patch; empty for the sheet's, or the first.
	Layer string
	Sheet *gloss.Sheet
	Notes []phrase.Note
	// Rack is the outboard rack of the sheet, where it has one: it stands as the sheet sets it.
	Rack *panel.Compiled
	// Beside are other layers that sound along, such as a second layer of the target; they are not moved.
	Beside []synth.Layer
	// Aim is a sound to come near to in place of the source's rendering: a recording of it, at the same notes; nil for the rendering.
	Aim *hear.Wave
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
	// Before and After are of the whole line.
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

// cut shortens notes to what has to be held.
func cut(notes []phrase.Note, hold float64) []phrase.Note {
	var out []phrase.Note
	for _, n := range notes {
		if n.Start <= max(0, hold-0.3) {
			n.End = min(n.End, hold)
			out = append(out, n)
		}
	}
	return out
}

// few keeps of notes that begin together the lowest and the highest: what a search hears while it tries.
func few(notes []phrase.Note) []phrase.Note {
	var out []phrase.Note
	for i, n := range notes {
		lower, higher := false, false
		for j, x := range notes {
			if math.Abs(x.Start-n.Start) < 0.02 && j != i {
				lower = lower || x.Key < n.Key || x.Key == n.Key && j < i
				higher = higher || x.Key > n.Key || x.Key == n.Key && j > i
			}
		}
		if !lower || !higher {
			out = append(out, n)
		}
	}
	return out
}

// costly is the work of a render (synth.Effort) above which a search hears one note at a time, wholeExcerpt that up to which it hears the whole excerpt, lineCostly that of the line on which a promise is measured;
// sketching that of comparing a second of a channel.
const (
	costly       = 30.0
	wholeExcerpt = 24.0
	lineCostly   = 90.0
	// wholeCostly is the work above which it is heard with fewer notes than the line has.
	wholeCostly = 340.0
	sketching   = 2.0
)

// lowest keeps of notes that begin together the lowest.
func lowest(notes []phrase.Note) []phrase.Note {
	var out []phrase.Note
	for i, n := range notes {
		if !slices.ContainsFunc(notes, func(x phrase.Note) bool { return math.Abs(x.Start-n.Start) < 0.02 && x.Key < n.Key }) && !slices.ContainsFunc(notes[:i], func(x phrase.Note) bool { return math.Abs(x.Start-n.Start) < 0.02 && x.Key == n.Key }) {
			out = append(out, n)
		}
	}
	return out
}

// wholeLine is how much of a line what a search promises is measured on, in seconds.
const wholeLine = 8.0

// line cuts notes to what a promise is measured on.
func line(notes []phrase.Note) []phrase.Note {
	var out []phrase.Note
	for _, n := range notes {
		if n.Start < wholeLine-0.5 {
			n.End = min(n.End, wholeLine)
			out = append(out, n)
		}
	}
	return out
}

// Player renders for one purpose, and keeps the waves that it makes.
type Player struct {
	Wheel float64
	Tail  float64
	Bank  *synth.Bank
	// Workers is how many voices are rendered at a time, 0 for what is usual
	Workers int
	// Takes is how many renderings with other phases are taken together, 0 for one
	Takes int
}

// Takes5 renders a whole set of takes, two at a time, and gives the sketch of all together and of each.
func (p *Player) Takes5(layers []synth.Layer, notes []phrase.Note) (all *compare.Sketch, each []*compare.Sketch, err error) {
	each = make([]*compare.Sketch, synth.Takes)
	err = Together(len(each), nil, func(i int) (err error) {
		each[i], err = p.Take(layers, notes, uint64(i), 1)
		return err
	})
	if err != nil {
		return nil, nil, err
	}
	return compare.Mean(each), each, nil
}

// Hear prepares to render patches with the wheel held somewhere.
func Hear(wheel float64) *Player { return &Player{Wheel: wheel, Tail: longTail, Bank: synth.NewBank()} }

// nearEnough is the distance below which a promise is measured on several takes.
const nearEnough = 6.0

// longTail is the most that is heard of how a sound dies away.
const longTail = 0.6

// hearing gives how long notes have to be held for what a meaning does to be heard, and how long it is worth to listen on: seconds.
func hearing(m *meaning.Meaning) (hold, tail float64) {
	hold, tail = 0.5, 0.2
	for i := range m.Modules {
		d := &m.Modules[i]
		if !d.Used() {
			continue
		}
		of := func(name meaning.ParamName) float64 {
			if v, _ := d.Get(name); !v.Off {
				return v.Value
			}
			return 0
		}
		switch d.Kind {
		case meaning.Env:
			hold = max(hold, 1.2*(of(meaning.PDelay)+of(meaning.PAttack)+of(meaning.PHold))+min(0.9, 0.8*of(meaning.PDecay)))
			tail = max(tail, of(meaning.PRelease)+0.1)
		case meaning.LFO:
			hold = max(hold, min(1.5, of(meaning.PDelay)+of(meaning.PFade)+1.2/max(of(meaning.PRate), 0.1)))
		case meaning.Chorus, meaning.Flanger, meaning.Phaser:
			hold = max(hold, 1)
		case meaning.Delay, meaning.Reverb:
			hold, tail = max(hold, 0.8), longTail
		case meaning.Osc:
			if of(meaning.PInterval) != 0 || of(meaning.PUnison) > 1 {
				hold = max(hold, 0.8)
			}
		}
	}
	return min(hold, 1.5), min(tail, longTail)
}

// Search looks for better readings. The error is one of reading or rendering.
func Search(t Task) (*Outcome, error) {
	if t.Budget <= 0 {
		t.Budget = Budget
	}
	if t.Layer == "" {
		t.Layer = t.Sheet.Layer
	}
	w, err := Begin(&t, nil)
	if err != nil {
		return nil, err
	}
	reserve := min(16, t.Budget/5)
	if _, err := w.Run(t.Budget - 1 - reserve); err != nil {
		return nil, err
	}
	return w.Finish(t.Budget - w.out.Renders)
}

// promise measures on the whole line what has been found; what makes that worse is not offered.
func (w *Walk) promise() error {
	notes := w.line
	if w.align || len(notes) == 0 {
		notes = w.notes
	}
	play := w.play
	play.Tail = longTail
	cost := w.LineWork()
	if w.now.Total < nearEnough && synth.Takes*(2*cost+w.sourceWork) < promiseWork { // where a beat stands would count for too much
		play.Takes = synth.Takes
	}
	aim := w.aim
	apart := func(states ...*panel.State) ([]compare.Distance, error) {
		var sounds [][]synth.Layer
		if aim == nil {
			sounds = append(sounds, w.source)
		}
		for _, s := range states {
			y, err := w.layers(s)
			if err != nil {
				return nil, err
			}
			sounds = append(sounds, y)
		}
		list, err := play.Sketches(sounds, notes)
		if err != nil {
			return nil, err
		}
		if aim == nil {
			aim, list = list[0], list[1:]
		}
		out := make([]compare.Distance, len(list))
		for i, k := range list {
			out[i] = w.apart(aim, k)
		}
		return out, nil
	}
	if !w.align {
		aim = nil
	}

	start := *w.state
	start.At = slices.Clone(w.first)
	both := []*panel.State{&start}
	if len(w.moved()) > 0 {
		both = append(both, w.state)
	}
	list, err := apart(both...)
	if err != nil {
		return err
	}
	w.whole = measured{play, notes, aim}
	w.out.Before, w.out.After = list[0], list[len(list)-1]
	if len(both) == 1 {
		return w.asLoud(apart)
	}
	// what makes the whole line worse is taken back, the worst of it first; how loud it is is put right after that
	better := func() bool { return w.score(w.out.After) < w.score(w.out.Before)-worthwhile }
	for range mostBack {
		list := w.moved()
		if len(list) == 0 || better() || float64(len(list)*max(1, play.Takes))*cost > promiseWork/2 {
			break
		}
		best, least := -1, w.out.After
		var back []*panel.State
		for _, d := range list {
			s := *w.state
			s.At = slices.Clone(w.state.At)
			s.At[d.control] = w.first[d.control]
			back = append(back, &s)
		}
		each, err := apart(back...)
		if err != nil {
			return err
		}
		for i, x := range each {
			if w.score(x) < w.score(least) {
				best, least = i, x
			}
		}
		if best < 0 {
			break
		}
		w.state.At[list[best].control], w.out.After = w.first[list[best].control], least
	}
	if better() {
		if err := w.asLoud(apart); err != nil || w.out.After.Total < w.out.Before.Total-worthwhile {
			return err
		}
	}
	copy(w.state.At, w.first)
	w.out.After = w.out.Before
	return w.asLoud(apart)
}

// asLoud sets the volume so that the target is as loud on the line, where that brings it nearer by what is worth a hand.
func (w *Walk) asLoud(apart func(...*panel.State) ([]compare.Distance, error)) error {
	if w.out.Stopped && len(w.moved()) == 0 {
		return nil
	}
	if w.volume < 0 || math.Abs(w.out.After.Gain) < 0.7 || w.out.After.Level >= 50 {
		return nil
	}
	target := w.t.Target
	b := panel.BindRef{Control: w.volume}
	was, set := target.Scale(b).Quantity(w.state.At[w.volume])
	if !set || was.Off {
		return nil
	}
	to, err := target.Scale(b).Inverse(q.Quantity{Dim: was.Dim, Value: was.Value + w.out.After.Gain})
	if err != nil || to.Reached.Off || to.Index == w.state.At[w.volume].Index {
		return nil
	}
	s := *w.state
	s.At = slices.Clone(w.state.At)
	s.At[w.volume] = to.Position
	list, err := apart(&s)
	if err != nil {
		return err
	}
	d := list[0]
	if d.Total > w.out.After.Total-worthwhile {
		return nil
	}
	w.gains[w.volume], w.mostly[w.volume] = w.out.After.Total-d.Total, "level"
	w.state.At[w.volume], w.out.After = to.Position, d
	places := target.Places(w.volume)
	from := slices.IndexFunc(places, func(p position) bool { return p.Index == w.first[w.volume].Index })
	if !slices.ContainsFunc(w.list, func(d movable) bool { return d.control == w.volume }) {
		w.list = append(w.list, movable{control: w.volume, from: from})
	}
	return nil
}

// promiseWork is how much work a promise may take, in thousandths of a second of one core.
const promiseWork = 300.0

// mostBack is how many controls are taken back for the sake of the whole line.
const mostBack = 3

// tellChanges lists what was moved, by what it brought.
func (w *Walk) tellChanges() {
	target := w.t.Target
	sum := 0.0
	for _, d := range w.moved() {
		sum += max(0, w.gains[d.control])
	}
	if sum > 0 { // as shares of what the whole line gains
		for k, g := range w.gains {
			w.gains[k] = max(0, g) / sum * (w.out.Before.Total - w.out.After.Total)
		}
	}
	for _, d := range w.moved() {
		places := target.Places(d.control)
		from, to := places[d.from], w.state.At[d.control]
		c := Nudge{Control: target.Controls[d.control].ID, Label: target.SectionLabel(d.control) + ": " + target.Controls[d.control].Label, From: from.Reading, To: to.Reading, Gain: w.gains[d.control]}
		how := fmt.Sprintf("in place of %s", from.Reading)
		if n := to.Index - from.Index; !d.words {
			way := "higher"
			if n < 0 {
				n, way = -n, "lower"
			}
			how = fmt.Sprintf("%d steps %s", n, way)
			if n == 1 {
				how = "one step " + way
			}
		}
		c.Text = fmt.Sprintf("%s by ear: %.2f nearer, mostly in %s", how, c.Gain, w.mostly[d.control])
		w.out.Changes = append(w.out.Changes, c)
	}
	slices.SortStableFunc(w.out.Changes, func(a, b Nudge) int { return cmp.Compare(b.Gain, a.Gain) })
}

// Respects are the parts of a distance by name.
func Respects(d compare.Distance) []struct {
	Name string
	JNDs float64
} {
	return []struct {
		Name string
		JNDs float64
	}{{"level", d.Level}, {"colour", d.Colour}, {"shape", d.Shape}, {"brightness", d.Brightness}, {"motion", d.Motion}, {"pitch", d.Pitch}}
}

// lessened names the part of the distance that has lessened most.
func lessened(was, is compare.Distance) string {
	best, name := math.Inf(-1), ""
	a, b := Respects(was), Respects(is)
	for i := range a {
		if d := a[i].JNDs*a[i].JNDs - b[i].JNDs*b[i].JNDs; d > best {
			best, name = d, a[i].Name
		}
	}
	return name
}
