package refine

import (
	"cmp"
	"errors"
	"math"
	"slices"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/jnd"
	"glossator/core/panel"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
)

// Ground is what a patch is heard on: its line, cut to what is enough, and its own sound. Several walks share it.
type Ground struct {
	notes  []phrase.Note
	line   []phrase.Note
	play   Player
	source []synth.Layer
	// sourceWork is what a render of the source on the line takes
	sourceWork float64
	aim        *compare.Sketch
	align      bool // the aim is a recording
}

// ErrSilent is returned where the recording that a search is to come near to has nothing in it.
var ErrSilent = errors.New("expected a recording that can be heard: this one is silent")

// NewGround renders the source of a task. It gives ErrSilent for a recording of nothing.
func NewGround(t *Task) (*Ground, error) {
	g := &Ground{notes: few(Excerpt(t.Notes)), line: line(t.Notes), play: Player{Wheel: t.Patch.Wheel, Tail: longTail, Bank: synth.NewBank()}}
	if len(g.notes) == 0 {
		return nil, synth.ErrNothing
	}
	source, err := audition.Layers(t.Source, t.Patch, t.Layer)
	if err != nil {
		return nil, err
	}
	g.source = source[:1]
	if t.Aim != nil {
		g.notes = t.Notes // a recording has all of them, to their ends
		g.align = true
		g.aim, err = Aim(t.Aim, g.notes)
		return g, err
	}
	target, err := audition.Target(t.Target, t.Patch, t.Sheet)
	if err != nil {
		return nil, err
	}
	costs := func(notes []phrase.Note, tail float64) float64 { // of the target: the source is rendered once
		return work([]synth.Layer{target}, notes, tail)
	}
	var hold float64
	hold, g.play.Tail = hearing(source[0].Meaning)
	switch short := cut(g.notes, hold); {
	case costs(Excerpt(t.Notes), longTail) <= wholeExcerpt:
		g.notes, g.play.Tail = Excerpt(t.Notes), longTail // it is not much longer to hear all of it
	case costs(short, g.play.Tail) <= costly:
		g.notes = short
	default:
		g.notes = lowest(short)
	}
	// a line that takes long is heard shorter before it is heard with fewer notes: a chord is not told by one of them
	if work(g.source, g.line, longTail) > 2*lineCostly { // it is rendered once
		g.line = Excerpt(t.Notes)
	}
	for _, shorter := range [][]phrase.Note{Excerpt(t.Notes), cut(Excerpt(t.Notes), 0.6)} {
		if costs(g.line, longTail) > lineCostly {
			g.line = shorter
		}
	}
	for len(g.line) > 1 && costs(g.line, longTail) > wholeCostly {
		g.line = g.line[:len(g.line)-1]
	}
	g.sourceWork = work(g.source, g.line, longTail)
	g.aim, err = g.play.Take(g.source, g.notes, 0, 2)
	return g, err
}

// Aim is what is compared of a recording of the source at the notes of its line. It gives ErrSilent for a recording of nothing.
func Aim(w *hear.Wave, notes []phrase.Note) (*compare.Sketch, error) {
	k := compare.Sketched(heardOf(*w, notes))
	if k.Loudness <= compare.Nothing {
		return nil, ErrSilent
	}
	return k, nil
}

// heardOf is what of a recording answers to the notes that are played: from where it begins to be heard, as long as they and what rings on.
func heardOf(w hear.Wave, notes []phrase.Note) hear.Wave {
	loud := 0.0
	for _, x := range w.Left {
		loud = max(loud, math.Abs(x))
	}
	from := max(0, slices.IndexFunc(w.Left, func(x float64) bool { return math.Abs(x) > loud/100 }))
	to := min(len(w.Left), from+int((end(notes)+longTail)*w.Rate))
	out := hear.Wave{Rate: w.Rate, Left: w.Left[from:to]}
	if w.Right != nil {
		out.Right = w.Right[from:to]
	}
	return out
}

// Walk is a search under way.
type Walk struct {
	*Ground
	t     *Task
	base  synth.Layer  // the target as the sheet has it
	state *panel.State // the target as it stands now
	first []position   // as it stood
	now   compare.Distance
	out   *Outcome
	list  []movable
	turn  int // the round
	// oneByOne is set once moving all together brings no more, or there have been too few renders for it
	oneByOne bool
	woken    int // how many controls have been tried to bring a silent target to sound
	// by control: how much nearer it has brought the sound, and mostly in what
	gains  map[int]float64
	mostly map[int]string
	most   int // renders of the run under way
	// volume is the control of the level behind all that is searched, -1 for none: it is set at the end, and how loud the target is does not count before
	volume int
	// louder is by how many decibels the volume can still be turned up
	louder float64
	// nearest is the least that has been told
	nearest float64
	// cost is what a render takes as the target stands, spent what all of them have taken, by estimate
	cost, spent float64
	// allowed is where spent ends a run; 0 for nowhere
	allowed float64
	// whole is on what a promise has been measured
	whole measured
}

// measured is on what a promise has been measured: by a player, on notes, against an aim.
type measured struct {
	play  Player
	notes []phrase.Note
	aim   *compare.Sketch
}

// Promised gives how far another sound lies from the aim, measured as what the walk promises was. It is for after Finish.
func (w *Walk) Promised(layers []synth.Layer) (compare.Distance, error) {
	list, err := w.whole.play.Sketches([][]synth.Layer{layers}, w.whole.notes)
	if err != nil {
		return compare.Distance{}, err
	}
	return w.apart(w.whole.aim, list[0]), nil
}

// Begin renders the target as its sheet has it. ground may be nil.
func Begin(t *Task, ground *Ground) (*Walk, error) {
	if ground == nil {
		var err error
		if ground, err = NewGround(t); err != nil {
			return nil, err
		}
	}
	w := &Walk{Ground: ground, t: t, out: &Outcome{Changes: []Nudge{}}, gains: map[int]float64{}, mostly: map[int]string{}, nearest: math.Inf(1)}
	var err error
	if w.state, err = audition.State(t.Target, t.Sheet); err != nil {
		return nil, err
	}
	w.first = slices.Clone(w.state.At)
	if w.base, err = audition.Target(t.Target, t.Patch, t.Sheet); err != nil {
		return nil, err
	}
	w.cost = w.work()
	now, err := w.measure(w.state)
	if err != nil {
		return nil, err
	}
	w.now = now[0]
	w.list = t.movables(w.state)
	w.volume = -1
	w.list = slices.DeleteFunc(w.list, func(d movable) bool {
		if !t.isVolume(d.control, w.state) {
			return false
		}
		w.volume = d.control
		return true
	})
	if w.volume >= 0 {
		b := panel.BindRef{Control: w.volume}
		scale, places := t.Target.Scale(b), t.Target.Places(w.volume)
		at, set := scale.Quantity(w.state.At[w.volume])
		for _, p := range places {
			if v, ok := scale.Quantity(p); ok && set && !v.Off && !at.Off {
				w.louder = math.Max(w.louder, v.Value-at.Value)
			}
		}
	}
	w.out.Controls = len(w.list)
	w.tell()
	return w, nil
}

// Work estimates what one render and its comparison take as the target stands, in thousandths of a second of one core.
func (w *Walk) Work() float64 { return w.cost }

// Spent is what all that has been rendered has taken, by the same estimate.
func (w *Walk) Spent() float64 { return w.spent }

// Allow ends the runs that come once so much more has been taken, by the same estimate: a target that is dearer than it was is heard less often.
func (w *Walk) Allow(work float64) { w.allowed = w.spent + max(1, work) }

// left is how many renders there may still be in the run under way.
func (w *Walk) left() int {
	left := w.most - w.out.Renders
	if w.allowed > 0 {
		left = min(left, int((w.allowed-w.spent)/max(1, w.cost)))
	}
	return left
}

func (w *Walk) work() float64 { return work([]synth.Layer{w.sounding(w.state)}, w.notes, w.play.Tail) }

// sounding is the target in a state, played as its sheet says.
func (w *Walk) sounding(s *panel.State) synth.Layer {
	y := w.base
	y.Meaning = w.t.Target.Interpret(s, q.Tempo(w.t.Patch.Tempo))
	y.Meaning.Hands = w.base.Meaning.Hands
	return y
}

func end(notes []phrase.Note) float64 {
	out := 0.0
	for _, n := range notes {
		out = max(out, n.End)
	}
	return out
}

// LineWork is the same of the whole line.
func (w *Walk) LineWork() float64 {
	return work([]synth.Layer{w.sounding(w.state)}, w.line, longTail)
}

// FinishWork is what Finish may take beside its renders, by the same estimate.
func (w *Walk) FinishWork() float64 {
	return min(promiseWork, synth.Takes*(2*w.LineWork()+w.sourceWork))
}

// Distance is how far the target is from the source as it stands now, on what the search hears.
func (w *Walk) Distance() compare.Distance { return w.now }

// Score is what the search lessens: the distance, without the loudness where the volume can put that right, and what lines that were held have been given up for.
func (w *Walk) Score() float64 { return w.score(w.now) + w.given() }

// given is what it costs that lines that were held are not any more.
func (w *Walk) given() float64 {
	sum := 0.0
	for i := range w.list {
		sum += w.list[i].cost(w.list[i].at)
	}
	return sum
}

// scoreAt is the score with one control at a place where it has been tried.
func (w *Walk) scoreAt(d *movable, x trial) float64 {
	return w.score(x.d) + w.given() + d.cost(x.at) - d.cost(d.at)
}

func (w *Walk) score(d compare.Distance) float64 {
	if w.volume < 0 || d.Level >= compare.Silent {
		return d.Total
	}
	able := d.Level // what the volume can put right: it has an end upwards
	if d.Gain > 0 {
		able = min(d.Level, w.louder/jnd.Level.Size)
	}
	left := d.Level - able
	return math.Sqrt(max(0, d.Total*d.Total-d.Level*d.Level+0.05*able*able+left*left))
}

// Renders counts what has been rendered.
func (w *Walk) Renders() int { return w.out.Renders }

// Run searches on for so many renders, or until nothing more is found. It tells whether more may be found.
func (w *Walk) Run(renders int) (more bool, err error) {
	w.most, w.out.Spent = w.out.Renders+renders, false
	if err := w.wake(); err != nil {
		return false, err
	}
	for !w.done() {
		if !w.oneByOne { // at first, and before each round for as long as it helps
			nearer, err := w.joint()
			if err != nil {
				return false, err
			}
			w.oneByOne = !nearer
		}
		moving, err := w.round(w.turn)
		if err != nil {
			return false, err
		}
		if !w.out.Spent {
			w.turn++
		}
		if !moving {
			return false, nil
		}
	}
	return !w.out.Stopped, nil
}

// waking is how many controls are tried before the best of them is taken.
const waking = 12

// wake looks for a control that brings a silent target to sound, each over the whole of its travel, at the ends and between: of the first dozen the best, and else the
// first that does.
func (w *Walk) wake() error {
	var best trial
	var by *movable
	for ; w.woken < len(w.list) && w.now.Level >= compare.Silent && (by == nil || w.woken < waking) && !w.done(); w.woken++ {
		d := &w.list[w.woken]
		list, err := w.try(d, d.least, d.top/3, 2*d.top/3, d.top)
		if err != nil {
			return err
		}
		for _, x := range list {
			if x.d.Level < compare.Silent && (by == nil || w.score(x.d) < w.score(best.d)) {
				best, by = x, d
			}
		}
	}
	if by != nil {
		w.take(by, best)
	}
	return nil
}

// Finish takes back what hardly brings anything, in at most so many renders, measures on the whole line and tells what has been found.
func (w *Walk) Finish(renders int) (*Outcome, error) {
	w.most = w.out.Renders + renders
	if err := w.prune(); err != nil {
		return nil, err
	}
	if err := w.promise(); err != nil {
		return nil, err
	}
	w.tellChanges()
	return w.out, nil
}

func (w *Walk) tell() {
	if w.t.Progress != nil {
		w.nearest = min(w.nearest, w.Score())
		w.t.Progress(w.out.Renders, w.t.Budget, w.nearest)
	}
}

// done tells whether the search has to end.
func (w *Walk) done() bool {
	if w.t.Stop != nil && w.t.Stop() {
		w.out.Stopped = true
	}
	if w.out.Renders+2 > w.most || w.allowed > 0 && w.spent >= w.allowed {
		w.out.Spent = true
	}
	return w.out.Stopped || w.out.Spent
}

// layers is what sounds with the target in a state.
func (w *Walk) layers(s *panel.State) ([]synth.Layer, error) {
	return w.behind(w.sounding(s))
}

// behind puts the rack behind the target, and the other layers beside it.
func (w *Walk) behind(y synth.Layer) (list []synth.Layer, err error) {
	t := w.t
	if t.Rack != nil && t.Sheet.Rig != nil {
		if y.Meaning, err = audition.WithRack(y.Meaning, t.Rack, t.Sheet.Rig, y.Meaning.Tempo); err != nil {
			return nil, err
		}
	}
	return append([]synth.Layer{y}, t.Beside...), nil
}

// each renders the target in each of some states, two at a time, and does something with the sketch of each where it comes.
func (w *Walk) each(states []*panel.State, do func(i int, k *compare.Sketch)) error {
	workers := 1
	if len(states) == 1 {
		workers = 2
	}
	w.out.Renders += len(states)
	took := make([]float64, len(states)) // what is tried may be dearer than what stands: a wave that modulates, a unison
	err := Together(len(states), nil, func(i int) error {
		bare := w.sounding(states[i])
		took[i] = work([]synth.Layer{bare}, w.notes, w.play.Tail) // as what stands is: without the rack
		y, err := w.behind(bare)
		if err != nil {
			return err
		}
		k, err := w.play.Take(y, w.notes, 0, workers)
		if err == nil {
			do(i, k)
		}
		return err
	})
	for _, x := range took {
		w.spent += x
	}
	return err
}

// measure gives how far the target in each of some states lies from the source.
func (w *Walk) measure(states ...*panel.State) ([]compare.Distance, error) {
	out := make([]compare.Distance, len(states))
	return out, w.each(states, func(i int, k *compare.Sketch) { out[i] = w.apart(w.aim, k) })
}

// apart is the distance of a sound from the aim.
func (w *Walk) apart(aim, k *compare.Sketch) compare.Distance {
	if w.align {
		return FromRecording(aim, k)
	}
	return compare.Apart(aim, k, false)
}

// FromRecording is the distance of a sound from a recording: shifted in time, and how loud that is is nobody's matter.
func FromRecording(aim, k *compare.Sketch) compare.Distance {
	d := compare.Apart(aim, k, true)
	if d.Level < compare.Silent {
		d.Total = math.Sqrt(max(0, d.Total*d.Total-d.Level*d.Level))
		d.Level, d.Gain = 0, 0
	}
	return d
}

// trial is a place of a control, and how far the target lies from the source with it there.
type trial struct {
	at int
	d  compare.Distance
}

// with gives the state with a control at a place.
func (w *Walk) with(control, at int) *panel.State {
	s := *w.state
	s.At = slices.Clone(w.state.At)
	s.At[control] = w.t.Target.Places(control)[at]
	return &s
}

// try gives the distances at several places of a control, two renders at a time. Where one place is all that is left of two, as at an end of the travel, one
// half of the way to it is tried beside it: it comes at the same time.
func (w *Walk) try(d *movable, places ...int) ([]trial, error) {
	out := make([]trial, 0, len(places))
	add := func(p int) {
		if p = min(max(p, d.least), d.top); p != d.at && !slices.ContainsFunc(out, func(x trial) bool { return x.at == p }) {
			out = append(out, trial{at: p})
		}
	}
	for _, p := range places {
		add(p)
	}
	if len(out) == 1 && len(places) == 2 && !d.words {
		add(d.at + (out[0].at-d.at)/2)
	}
	states := make([]*panel.State, len(out))
	for i := range out {
		states[i] = w.with(d.control, out[i].at)
	}
	list, err := w.measure(states...)
	if err != nil {
		return nil, err
	}
	for i := range out {
		out[i].d = list[i]
	}
	return out, nil
}

// take puts a control where it has been tried.
func (w *Walk) take(d *movable, x trial) {
	w.gains[d.control] += w.Score() - w.scoreAt(d, x)
	w.mostly[d.control] = lessened(w.now, x.d)
	d.at, w.now = x.at, x.d
	w.state.At[d.control] = w.t.Target.Places(d.control)[d.at]
	w.cost = w.work()
	w.tell()
}

// round tries a step of each control either way, and keeps what brings the sound nearer. It tells whether another round may find more.
func (w *Walk) round(n int) (moving bool, err error) {
	order := make([]*movable, len(w.list))
	for i := range w.list {
		order[i] = &w.list[i]
	}
	if n > 0 { // what has told most comes first
		slices.SortStableFunc(order, func(a, b *movable) int { return cmp.Compare(b.told, a.told) })
	}
	for _, d := range order {
		if d.step == 0 || w.done() {
			continue
		}
		var places []int
		if d.words {
			for p := range d.top + 1 {
				places = append(places, p)
			}
			d.step = 0
		} else {
			places = []int{d.at - d.step, d.at + d.step}
			if d.way != 0 { // where it went last, further on
				places = []int{d.at + d.way*d.step, d.at - d.way*d.step/2}
			}
		}
		if w.out.Renders+len(places) > w.most {
			continue
		}
		list, err := w.try(d, places...)
		if err != nil {
			return false, err
		}
		best := -1
		for k := range list {
			change := w.scoreAt(d, list[k]) - w.Score()
			d.told = max(d.told*0.7, math.Abs(change))
			if change < -worthwhile && (best < 0 || w.scoreAt(d, list[k]) < w.scoreAt(d, list[best])) {
				best = k
			}
		}
		if best < 0 {
			d.step /= 2
			if d.told < worthwhile/2 {
				d.step = 0 // it is not heard
			}
			d.way = 0
			moving = moving || d.step > 0
			w.tell()
			continue
		}
		d.way = 1
		if list[best].at < d.at {
			d.way = -1
		}
		w.take(d, list[best])
		moving = true
		if d.words {
			continue
		}
		// on in the same direction while it helps
		for going := true; going && !w.done(); {
			next, err := w.try(d, d.at+d.way*d.step, d.at+2*d.way*d.step)
			if err != nil {
				return false, err
			}
			going = len(next) == 2
			for _, x := range next {
				if w.scoreAt(d, x) > w.Score()-worthwhile {
					going = false
					break
				}
				w.take(d, x)
			}
		}
		d.step = max(1, d.step/2)
	}
	for i := range w.list { // words may be worth another try when all else has moved
		if d := &w.list[i]; d.words && n == 1 {
			d.step = 1
		}
	}
	return moving, nil
}

// moved lists the controls that do not stand where they stood.
func (w *Walk) moved() (out []*movable) {
	for i := range w.list {
		if d := &w.list[i]; w.state.At[d.control].Index != w.first[d.control].Index {
			out = append(out, d)
		}
	}
	return out
}

// prune takes back what hardly brings anything: somebody has to dial it.
func (w *Walk) prune() error {
	list := w.moved()
	slices.SortStableFunc(list, func(a, b *movable) int { return cmp.Compare(w.gains[a.control], w.gains[b.control]) })
	gain := 0.0
	for _, d := range list {
		gain += w.gains[d.control]
	}
	allowance := spared + sparedShare*gain // of what is lost by all that is taken back
	for len(list) > 0 {
		n := min(2, len(list), w.most-w.out.Renders)
		if n <= 0 || w.t.Stop != nil && w.t.Stop() {
			return nil
		}
		states := []*panel.State{w.with(list[0].control, list[0].from)}
		if n == 2 { // the second as if the first were taken back
			x := *states[0]
			x.At = slices.Clone(x.At)
			x.At[list[1].control] = w.first[list[1].control]
			states = append(states, &x)
		}
		back, err := w.measure(states...)
		if err != nil {
			return err
		}
		for i, d := range list[:n] {
			worth := w.scoreAt(d, trial{d.from, back[i]}) - w.Score()
			list = list[1:]
			if worth > allowance {
				w.gains[d.control], w.mostly[d.control] = worth, lessened(back[i], w.now)
				break // what comes after it was not heard with it
			}
			allowance -= max(0, worth)
			w.now = back[i]
			d.at = d.from
			w.state.At[d.control] = w.first[d.control]
		}
	}
	w.tell()
	return nil
}
