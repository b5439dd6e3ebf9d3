// Package nearest makes a translation by ear: of several plans it renders each, takes the one that sounds nearest to the source, and brings its controls
// nearer by a search. What it finds is kept with the sheet (plan.Tuned), from which translate makes it again without rendering.
//
// Its neighbours: translate makes the sheets, refine renders and searches.
package nearest

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
)

// Effort is how much may be rendered.
type Effort struct {
	// Plans is how many plans are compared, Tries how many renders the better ones are searched for first, Renders the most that are spent in all, Work
	// how long that may take by estimate, in thousandths of a second of one core (synth.Effort).
	Plans, Tries, Renders int
	Work                  float64
}

// The efforts: what a sheet by ear waits for, a search for a nearer plan, and what a command of the project spends on what is far off.
var (
	Quick = Effort{Plans: 7, Tries: 12, Renders: 230, Work: 1650}
	Long  = Effort{Plans: 10, Tries: 40, Renders: 1000, Work: 6100}
	Whole = Effort{Plans: 12, Tries: 300, Renders: 5000, Work: 1e9}
)

// Offered is how much nearer a plan of a longer search has to be to be worth offering, in just-noticeable differences.
const Offered = 0.2

// Task is what is to be made.
type Task struct {
	Source, Target *panel.Compiled
	Patch          *patch.Patch
	Options        translate.Options
	Notes          []phrase.Note
	Beside         []synth.Layer
	Effort         Effort
	// Aim is a recording of the source to come near to in place of its rendering, at the notes of its line; nil for the rendering.
	Aim      *hear.Wave
	Stop     func() bool
	Progress func(done, most int, distance float64)
}

// candidate is a plan with its search.
type candidate struct {
	tuned plan.Tuned
	sheet *gloss.Sheet
	walk  *refine.Walk
}

// finder is the work under way.
type finder struct {
	*Task
	ground *refine.Ground
	list   []*candidate
	seen   map[string]bool
	// what has been rendered beside the walks, and what that took
	spent int
	work  float64
	heard bool // the plan by what is heard has been made
}

// Find chooses the plan that sounds nearest, and brings its controls nearer. It gives nil where nothing has to be found: on the source's own panel.
func Find(t Task) (*plan.Tuned, error) {
	if t.Effort.Renders == 0 {
		t.Effort = Quick
	}
	t.Options.School, t.Options.Choices.Tuned = plan.Ear, nil
	if t.Source.ID == t.Target.ID && t.Source.Revision == t.Target.Revision && len(t.Options.Overrides) == 0 {
		return nil, nil
	}
	f := &finder{Task: &t, seen: map[string]bool{}}
	if err := f.candidates(); err != nil {
		return nil, err
	}
	best, err := f.race()
	if err != nil {
		return nil, err
	}
	last := min(pruning, f.left()/5)
	if err := f.run(best, f.left()-last); err != nil {
		return nil, err
	}
	for _, c := range f.list { // where it has ended early, those that were behind go on
		if c == best || f.left() < 3*pruning {
			continue
		}
		if err := f.run(c, f.left()-last); err != nil {
			return nil, err
		}
	}
	best = slices.MinFunc(f.list, nearer)
	if best.walk.Score() > farOff { // where steps find no more, another plan may
		f.Effort.Work *= 1 + farMore
		f.Effort.Renders += int(farMore * float64(f.Effort.Renders))
		for _, c := range f.list {
			if err := f.run(c, f.left()-last); err != nil {
				return nil, err
			}
			if c.walk.Score() < best.walk.Score() {
				best = c
			}
		}
	}
	f.tell(best)
	o, err := best.walk.Finish(last)
	if err != nil {
		return nil, err
	}
	out := best.tuned
	out.Plan, out.Readings, out.Why = best.sheet.Mark, map[string]string{}, map[string]string{}
	for _, c := range o.Changes {
		out.Readings[c.Control], out.Why[c.Control] = c.To, c.Text
	}
	out.Apart, out.Renders = gloss.Round(o.After.Total, 2), f.rendered()
	return f.noWorse(best, &out)
}

// noWorse compares what has been found with the plan of numbers, as the promise was measured, and gives that plan where it is the nearer one. Where one take
// hardly tells them apart and it can be afforded, whole sets of takes decide.
func (f *finder) noWorse(best *candidate, found *plan.Tuned) (*plan.Tuned, error) {
	if f.Aim != nil || best.tuned.Plain && len(found.Readings) == 0 {
		return found, nil
	}
	plain := &plan.Tuned{Plain: true}
	a, err := Sheet(*f.Task, plain)
	if err != nil {
		return nil, err
	}
	if len(found.Readings) == 0 && same(a) == same(best.sheet) {
		return found, nil
	}
	layers, err := f.layers(a)
	if err != nil {
		return nil, err
	}
	x, err := best.walk.Promised(append(layers, f.Beside...))
	if err != nil {
		return nil, err
	}
	by := found.Apart - x.Total
	source, err := audition.Layers(f.Source, f.Patch, f.Options.Layer)
	if err != nil {
		return nil, err
	}
	doubt := doubtful
	if byChance(source[0].Meaning) {
		doubt = doubtfulByChance
	}
	doubt = max(doubt, doubtfulShare*x.Total)
	if math.Abs(by) < doubt && synth.Takes*(refine.ExcerptWork(source[:1], f.Notes)+2*refine.ExcerptWork(layers, f.Notes)) <= checking {
		b, err := Sheet(*f.Task, found)
		if err != nil {
			return nil, err
		}
		x, y, err := Apart(*f.Task, a, b)
		if err != nil {
			return nil, err
		}
		by = y.Total - x.Total
	}
	if by <= 0 {
		return found, nil
	}
	plain.Plan, plain.Apart, plain.Renders = a.Mark, gloss.Round(x.Total, 2), found.Renders+3*synth.Takes
	return plain, nil
}

// doubtful is how near to each other two distances by one take may lie for whole sets to decide, in just-noticeable differences: two takes of one patch whose oscillators
// beat are up to that far apart. doubtfulByChance is the same where something of the source is by chance from note to note: one take tells little of it.
// doubtfulShare is the same as a share of how far off it is: what is far is told the worse.
const doubtful, doubtfulByChance, doubtfulShare = 4.0, 6.0, 0.5

// byChance tells whether something that is heard is another with each note.
func byChance(m *meaning.Meaning) bool {
	return slices.ContainsFunc(m.Routes, func(r meaning.Route) bool {
		if !r.Used() {
			return false
		}
		lfo := m.Module(r.From)
		return r.From == "random" || r.Via == "random" || lfo != nil && lfo.Kind == meaning.LFO && strings.Contains(lfo.Params[meaning.PWave].Name, "random")
	})
}

// checking is how much work the last comparison may take, in thousandths of a second of one core.
const checking = 500.0

// farOff is the distance at which a plan is searched for longer, in just-noticeable differences, farMore by what share of the effort.
const (
	farOff  = 8.0
	farMore = 0.25
)

// pruning is how many renders are kept for taking back what hardly brings anything.
const pruning = 12

// task is what a walk needs of a sheet.
func (f *finder) task(s *gloss.Sheet) *refine.Task {
	return &refine.Task{Source: f.Source, Target: f.Target, Patch: f.Patch, Layer: f.Options.Layer, Sheet: s, Notes: f.Notes, Rack: f.Options.Rack, Beside: f.Beside, Aim: f.Aim, Stop: f.Stop}
}

// full tells whether no more plans are compared.
func (f *finder) full() bool {
	return len(f.list) >= f.Effort.Plans || len(f.list) > 1 && f.left() < 24 || len(f.list) > 0 && f.left() < 2*pruning
}

// sheet makes the sheet of a plan.
func (f *finder) sheet(t *plan.Tuned) (*gloss.Sheet, error) {
	opt := f.Options
	opt.Choices = opt.Choices.With(t)
	if t.Plain {
		opt.Choices.Tuned = &plan.Tuned{Plain: true}
	}
	if opt.Heard == nil {
		opt.Heard = t.Heard
	}
	return translate.Translate(f.Source, f.Patch, f.Target, opt)
}

// add makes the sheets of plans, two at a time, and hears them. One that has been seen, or a faulty one, is left.
func (f *finder) add(list ...plan.Tuned) error {
	if f.full() {
		return nil
	}
	stop := f.Stop
	if len(f.list) == 0 { // one is heard whatever happens: there has to be something to give
		stop = nil
	}
	sheets := make([]*gloss.Sheet, len(list))
	if err := refine.Together(len(list), stop, func(i int) (err error) {
		sheets[i], err = f.sheet(&list[i])
		return err
	}); err != nil {
		return err
	}
	var fresh []*candidate
	for i, s := range sheets {
		if s == nil {
			break // it has been stopped
		}
		f.work += planWork(s)
		if key := same(s); !f.seen[key] && len(f.list)+len(fresh) < f.Effort.Plans {
			f.seen[key] = true
			fresh = append(fresh, &candidate{tuned: list[i], sheet: s})
		}
	}
	if len(fresh) == 0 {
		return nil
	}
	if f.ground == nil {
		ground, err := refine.NewGround(f.task(fresh[0].sheet))
		if err != nil {
			return err
		}
		f.ground = ground
	}
	if err := refine.Together(len(fresh), stop, func(i int) (err error) {
		fresh[i].walk, err = refine.Begin(f.task(fresh[i].sheet), f.ground)
		return err
	}); err != nil {
		return err
	}
	for _, c := range fresh {
		if c.walk == nil { // it has been stopped before
			continue
		}
		if slices.ContainsFunc(f.list, func(x *candidate) bool { return alike(x.walk.Distance(), c.walk.Distance()) }) {
			f.spent, f.work = f.spent+c.walk.Renders(), f.work+c.walk.Spent() // what it sets otherwise is not heard
			continue
		}
		f.list = append(f.list, c)
		f.tell(c)
	}
	return nil
}

// planWork estimates what it has taken to plan a sheet, in thousandths of a second of one core: by how many sets of uses of rules were looked at.
func planWork(s *gloss.Sheet) float64 { return 9 + 1.6*float64(s.Plan.Sets) }

// same is equal for sheets that sound the same: all that can be set is set alike, and played by the same hands.
func same(s *gloss.Sheet) string {
	var key strings.Builder
	for _, x := range s.Settings {
		fmt.Fprintf(&key, "%s=%s|", x.Control, x.Reading)
	}
	for _, c := range s.Cables {
		fmt.Fprintf(&key, "%+v|", c)
	}
	if s.Hands != nil {
		fmt.Fprintf(&key, "%+v", *s.Hands)
	}
	return key.String()
}

// alike tells whether two plans lie so near to each other in each respect that they are one sound: a hundredth of a just-noticeable difference is no choice.
func alike(a, b compare.Distance) bool {
	const same = 0.01
	near := func(x, y float64) bool { return math.Abs(x-y) < same }
	return near(a.Total, b.Total) && near(a.Colour, b.Colour) && near(a.Brightness, b.Brightness) && near(a.Shape, b.Shape) && near(a.Motion, b.Motion) && near(a.Level, b.Level)
}

// candidates lists plans: the best by the school's weights, that of numbers, without each of its costliest uses of rules, those that come next, and by what is heard.
func (f *finder) candidates() error {
	if err := f.add(plan.Tuned{}, plan.Tuned{Plain: true}); err != nil {
		return err
	}
	if f.full() || len(f.list) == 0 {
		return nil
	}
	first := f.list[0].sheet
	if f.crowded(first) {
		if err := f.byHeard(24); err != nil || f.full() {
			return err
		}
	}
	// what the rack plays is no choice of the plan's
	uses := slices.DeleteFunc(slices.Clone(first.Recasts), func(u gloss.Recasting) bool { return u.Rule == gloss.OutboardRule })
	slices.SortStableFunc(uses, func(a, b gloss.Recasting) int { return cmp.Compare(b.Penalty, a.Penalty) })
	var refusals []plan.Tuned
	for _, u := range uses[:min(2, len(uses))] {
		refuse := map[string][]string{}
		for _, p := range slices.Concat(first.Plan.Modules, first.Plan.Routes) {
			if p.Rule == u.Rule {
				refuse[p.Source] = []string{u.Rule}
			}
		}
		refusals = append(refusals, plan.Tuned{Refuse: refuse})
	}
	for _, u := range uses { // the same by the rule's next way
		if u.Key != "" {
			refusals = append(refusals, plan.Tuned{Refuse: map[string][]string{u.Part: {u.Key}}})
		}
	}
	if err := f.add(refusals...); err != nil || f.full() {
		return err
	}
	next, err := translate.NextPlans(f.Source, f.Patch, f.Target, f.Options)
	if err != nil {
		return err
	}
	var others []plan.Tuned
	for _, n := range next {
		others = append(others, plan.Tuned{Bans: n.Bans})
	}
	if err := f.add(others...); err != nil {
		return err
	}
	return f.byHeard(60)
}

// byHeard adds the plan in which parts count for as much as they are heard, where there may be so many more renders after that.
func (f *finder) byHeard(rest int) error {
	work := refine.HeardWork(f.Source, f.Patch, f.Options.Layer, f.Notes)
	if f.heard || f.full() || f.Options.Heard != nil || f.left() <= rest || work >= f.Effort.Work/6 {
		return nil
	}
	f.heard = true
	heard, err := refine.Heard(f.Source, f.Patch, f.Options.Layer, f.Notes, f.Stop)
	if err != nil {
		return err
	}
	f.spent, f.work = f.spent+len(heard)/2, f.work+work
	return f.add(plan.Tuned{Heard: refine.Weights(heard)})
}

// crowded tells whether a source of sound is left out of a plan: which one it should be is for the ear to tell.
func (f *finder) crowded(s *gloss.Sheet) bool {
	missing, _ := s.Missing(func(id string) meaning.Kind {
		if i, ok := f.Source.ModuleIndex(id); ok {
			return f.Source.Modules[i].Kind
		}
		return ""
	})
	return len(missing) > 0
}

// nearer puts what lies nearer first.
func nearer(a, b *candidate) int { return cmp.Compare(a.walk.Score(), b.walk.Score()) }

// raceWorth is how many renders there have to be for each plan that is searched a little before one is chosen.
const raceWorth = 35

// race searches each of the three nearest a little, and gives the one that is nearest then.
func (f *finder) race() (*candidate, error) {
	slices.SortStableFunc(f.list, nearer)
	if n := min(3, f.left()/raceWorth); len(f.list) > 1 && n > 1 {
		n = min(n, len(f.list))
		for _, c := range f.list[n:] { // what they have taken stays taken
			f.spent, f.work = f.spent+c.walk.Renders(), f.work+c.walk.Spent()
		}
		f.list = f.list[:n]
		for _, c := range f.list {
			if err := f.run(c, min(f.Effort.Tries, f.left()/2-pruning)); err != nil {
				return nil, err
			}
			f.tell(c)
		}
		slices.SortStableFunc(f.list, nearer)
	}
	return f.list[0], nil
}

// rendered counts what has been rendered.
func (f *finder) rendered() int {
	n := f.spent
	for _, c := range f.list {
		n += c.walk.Renders()
	}
	return n
}

// rest gives how much more work there may be, beside what is measured at the end.
func (f *finder) rest() float64 {
	worked := f.work
	for _, c := range f.list {
		worked += c.walk.Spent()
	}
	return f.Effort.Work - worked - f.list[0].walk.FinishWork()
}

// left gives how many more renders of the nearest plan there may be.
func (f *finder) left() int {
	left := f.Effort.Renders - f.rendered()
	if len(f.list) > 0 {
		left = min(left, int(f.rest()/max(1, f.list[0].walk.Work())))
	}
	return max(0, left)
}

// run searches on from a plan, as long as there may be.
func (f *finder) run(c *candidate, renders int) error {
	c.walk.Allow(f.rest())
	_, err := c.walk.Run(max(0, renders))
	return err
}

func (f *finder) tell(c *candidate) {
	if f.Progress != nil {
		done := f.rendered()
		f.Progress(done, done+f.left(), c.walk.Distance().Total)
	}
}

// Apart gives how far two sheets of a task sound from the patch, by a whole set of takes on the excerpt of its line; from a recording that is the aim on all of it.
func Apart(t Task, a, b *gloss.Sheet) (x, y compare.Distance, err error) {
	play, notes := refine.Hear(t.Patch.Wheel), refine.Excerpt(t.Notes)
	source, err := audition.Layers(t.Source, t.Patch, t.Options.Layer)
	if err != nil {
		return x, y, err
	}
	var aim *compare.Sketch
	if t.Aim != nil {
		notes = t.Notes
		aim, err = refine.Aim(t.Aim, notes)
	} else {
		aim, _, err = play.Takes5(source[:1], notes)
	}
	if err != nil {
		return x, y, err
	}
	of := func(s *gloss.Sheet) (compare.Distance, error) {
		layers, err := t.layers(s)
		if err != nil {
			return compare.Distance{}, err
		}
		k, _, err := play.Takes5(layers, notes)
		if err != nil {
			return compare.Distance{}, err
		}
		if t.Aim != nil {
			return refine.FromRecording(aim, k), nil
		}
		return compare.Apart(aim, k, false), nil
	}
	if x, err = of(a); err != nil {
		return x, y, err
	}
	y, err = of(b)
	return x, y, err
}

// layers is what a sheet makes, with its rack.
func (t *Task) layers(s *gloss.Sheet) ([]synth.Layer, error) {
	y, err := audition.Target(t.Target, t.Patch, s)
	if err == nil && t.Options.Rack != nil && s.Rig != nil {
		y.Meaning, err = audition.WithRack(y.Meaning, t.Options.Rack, s.Rig, y.Meaning.Tempo)
	}
	return []synth.Layer{y}, err
}

// Sheet makes the sheet by ear of what has been found.
func Sheet(t Task, tuned *plan.Tuned) (*gloss.Sheet, error) {
	t.Options.School, t.Options.Choices.Tuned = plan.Ear, tuned
	return translate.Translate(t.Source, t.Patch, t.Target, t.Options)
}
