// Package heard answers for a finished sheet by listening: how far apart the patch and its translation sound and in what, how much of that each line alone
// makes, and whether the lines tell the whole difference (invariants I8 and I9 of the design).
//
// It is a second witness: audit reads the sheet's readings back into numbers, this renders them. Its neighbours: translate makes the sheet, refine has the
// player, compare the distance.
package heard

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"reflect"
	"slices"
	"strings"
	"sync"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/phrase"
	"glossator/core/refine"
	"glossator/core/rules"
	"glossator/core/synth"
)

// The bounds of I8: what the sheet says remains and what the target's controls make may lie so far apart, in just-noticeable differences, cents and decibels.
const (
	mostApart = 1.5
	mostCents = 5.0
	mostLevel = 1.0
)

// The keys of an instrument of 88: what is held is not beyond them.
const lowestKey, highestKey = 21.0, 108.0

// matters is how much of a part has to be heard for I9 to ask for a line, in just-noticeable differences.
const matters = 1.5

// Report is what listening to a sheet has shown.
type Report struct {
	// Apart is how far the translation is from the patch, Unsure how much of that is chance: where beats and random movements happen to stand (one standard
	// deviation over renderings with other phases).
	Apart  compare.Distance `json:"apart"`
	Unsure float64          `json:"unsure"`
	// Mostly names the respects in which they differ, the most first; those that are heard.
	Mostly []Respect `json:"mostly"`
	// Silent says that a side cannot be heard here: "source", "target", "both" or empty.
	Silent string `json:"silent"`
	// Told is how far what the sheet says remains is from what the target's controls make.
	Told compare.Distance `json:"told"`
	// Lines are how much the difference of each line that is not held is heard alone, the most first.
	Lines []LineHeard `json:"lines"`
	// Lessen are the parts that lessen what no line tells, when each is put right alone.
	Lessen []Lessening   `json:"lessen"`
	Checks []gloss.Check `json:"checks"`
	// Headline says it in a sentence.
	Headline string `json:"headline"`
	// Renders counts what has been rendered.
	Renders int `json:"renders"`
}

// Respect is a part of a distance.
type Respect struct {
	Name string  `json:"name"`
	JNDs float64 `json:"jnds"`
}

// LineHeard is how much a line is heard: the distance that its difference alone makes.
type LineHeard struct {
	ID    string  `json:"id"`
	Apart float64 `json:"apart"`
	// With are other lines that go over by the same use of a rule, or by one that it builds on: the figure is that of all together.
	With int `json:"with"`
}

// Lessening is a part that, put right alone, lessens what no line tells.
type Lessening struct {
	Part string  `json:"part"`
	By   float64 `json:"by"`
}

// Task is what is listened to.
type Task struct {
	In    *gloss.Input
	Sheet *gloss.Sheet
	Notes []phrase.Note
	// Rack puts an outboard rack behind what the target makes; nil for none.
	Rack func(m *meaning.Meaning) (*meaning.Meaning, error)
	// Lines asks for how much each line is heard, which takes a render for each.
	Lines bool
	// Held asks whether the lines tell the whole difference on held notes too: low and high, soft and hard, wheel down and up.
	Held bool
	Stop func() bool
}

// listener is a report on its way.
type listener struct {
	*Task
	play   *refine.Player
	notes  []phrase.Note
	layer  synth.Layer // how the layer stands in the whole
	wanted *meaning.Meaning
	got    *meaning.Meaning
	out    *Report
	mu     sync.Mutex
}

// Of listens to a sheet.
func Of(t Task) (*Report, error) {
	l := &listener{Task: &t, play: refine.Hear(t.In.Patch.Wheel), notes: refine.Excerpt(t.Notes), wanted: t.In.Plan.Wanted, got: t.In.Got,
		out: &Report{Mostly: []Respect{}, Lines: []LineHeard{}, Lessen: []Lessening{}, Checks: []gloss.Check{}}}
	if len(l.notes) == 0 {
		return nil, synth.ErrNothing
	}
	l.layer = audition.Placed(l.wanted, t.In.Layer)
	if t.Rack != nil {
		var err error
		if l.got, err = t.Rack(l.got); err != nil {
			return nil, err
		}
	}
	whole := l.wanted
	if t.Rack != nil { // what the rack plays has been taken out of what the target is to do, and belongs to the patch
		whole = audition.Without(t.In.Source.Interpret(t.In.From, l.wanted.Tempo), t.In.Choices.Elsewhere...)
	}
	source, err := l.takes(whole)
	if err != nil {
		return nil, err
	}
	target, err := l.takes(l.got)
	if err != nil {
		return nil, err
	}
	l.apart(source, target)
	play, excerpt := l.play, l.notes
	if err := l.told(target); err != nil {
		return nil, err
	}
	l.play, l.notes = play, excerpt
	if t.Lines && l.out.Silent == "" {
		if err := l.lines(source); err != nil {
			return nil, err
		}
		if err := l.nothingVanishes(); err != nil {
			return nil, err
		}
	}
	l.headline()
	return l.out, nil
}

// takes are the sketch of a meaning over all takes, and of each.
type takes struct {
	all *compare.Sketch
	one []*compare.Sketch
}

func (l *listener) takes(m *meaning.Meaning) (*takes, error) {
	y := l.layer
	y.Meaning = m
	all, one, err := l.play.Takes5([]synth.Layer{y}, l.notes)
	if err != nil {
		return nil, err
	}
	l.out.Renders += len(one)
	return &takes{all, one}, nil
}

// one gives the sketch of a meaning by one take.
func (l *listener) one(m *meaning.Meaning) (*compare.Sketch, error) {
	y := l.layer
	y.Meaning = m
	l.mu.Lock()
	l.out.Renders++
	l.mu.Unlock()
	return l.play.Take([]synth.Layer{y}, l.notes, 0, 1)
}

// silence is the loudness below which nothing is heard, in LUFS.
const silence = -65.0

// apart fills in how far they lie apart.
func (l *listener) apart(source, target *takes) {
	l.out.Apart = compare.Apart(source.all, target.all, false)
	l.out.Unsure = gloss.Round(spread(source, target), 2)
	a, b := source.all.Loudness < silence, target.all.Loudness < silence
	switch {
	case a && b:
		l.out.Silent = "both"
	case a:
		l.out.Silent = "source"
	case b:
		l.out.Silent = "target"
	}
	for _, r := range refine.Respects(l.out.Apart) {
		if r.JNDs >= 1 {
			l.out.Mostly = append(l.out.Mostly, Respect{r.Name, gloss.Round(r.JNDs, 1)})
		}
	}
	slices.SortStableFunc(l.out.Mostly, func(a, b Respect) int { return cmp.Compare(b.JNDs, a.JNDs) })
}

// spread is how much a distance hangs on the take.
func spread(a, b *takes) float64 {
	var list []float64
	for i := range min(len(a.one), len(b.one)) {
		list = append(list, compare.Apart(a.one[i], b.one[i], false).Total)
	}
	if len(list) < 2 {
		return 0
	}
	mean, sum := 0.0, 0.0
	for _, x := range list {
		mean += x / float64(len(list))
	}
	for _, x := range list {
		sum += (x - mean) * (x - mean)
	}
	return math.Sqrt(sum / float64(len(list)-1) / float64(len(list)))
}

// told is I8: what the sheet says remains is what the controls make, on the excerpt and then on held notes.
func (l *listener) told(target *takes) error {
	said := Remains(l.In, l.Sheet)
	k, err := l.takes(said)
	if err != nil {
		return err
	}
	d, bad := between(k, target)
	l.out.Told = d
	c := gloss.Check{ID: "I8", What: "the lines tell the whole difference: what they say remains sounds like what the controls make", OK: true}
	aim, whole := k.one[0], compare.Apart(k.one[0], target.one[0], false).Total
	if len(bad) == 0 && l.Held {
		if bad, err = l.held(said, &aim, &whole); err != nil {
			return err
		}
	}
	if c.OK = len(bad) == 0; !c.OK {
		if err := l.lessening(said, aim, whole); err != nil {
			return err
		}
		for _, x := range l.out.Lessen[:min(3, len(l.out.Lessen))] {
			bad = append(bad, fmt.Sprintf("%.1f less with %s put right", x.By, x.Part))
		}
	}
	c.Detail = strings.Join(bad, "; ")
	l.out.Checks = append(l.out.Checks, c)
	return nil
}

// between gives how far what is said and what is made lie apart, and what of it is more than I8 allows.
func between(said, made *takes) (d compare.Distance, bad []string) {
	d = compare.Apart(said.all, made.all, false)
	if d.Total > mostApart+2*spread(said, made) {
		bad = append(bad, fmt.Sprintf("%.1f just-noticeable differences that no line tells", d.Total))
	}
	if d.Pitch*5 > mostCents {
		bad = append(bad, fmt.Sprintf("%.0f ct out of tune with what the lines say", d.Pitch*5))
	}
	if d.Level >= compare.Silent {
		bad = []string{"by the lines it is heard, by the controls it is silent, or the other way round"}
	} else if d.Level > mostLevel {
		bad = append(bad, fmt.Sprintf("%.1f dB louder or quieter than the lines say", d.Level))
	}
	return d, bad
}

// A held note is listened to for so long, in seconds, and so far beyond the notes of the line, in semitones.
const (
	heldFor   = 0.8
	heldBelow = 5
	heldAbove = 12
)

// held listens to held notes: four of the eight ways to put low and high, soft and hard, wheel down and up together, so that each two meet in every way. It
// gives what is wrong on the worst of them, and changes the player, the notes and the aim to it.
func (l *listener) held(said *meaning.Meaning, aim **compare.Sketch, whole *float64) ([]string, error) {
	low, high := math.Inf(1), math.Inf(-1)
	for _, n := range l.Notes {
		low, high = min(low, n.Key), max(high, n.Key)
	}
	ways := []struct {
		key      float64
		velocity int
		wheel    float64
		name     string
	}{
		{low - heldBelow, 30, 0, "low and soft, wheel down"}, {low - heldBelow, 120, 1, "low and hard, wheel up"},
		{high + heldAbove, 30, 1, "high and soft, wheel up"}, {high + heldAbove, 120, 0, "high and hard, wheel down"},
	}
	play, notes := l.play, l.notes
	at := func(i int) (*refine.Player, []phrase.Note) {
		w := ways[i]
		key := min(max(w.key, lowestKey), highestKey)
		p := *play
		p.Wheel, p.Workers = w.wheel, 1
		return &p, []phrase.Note{{Start: 0, End: heldFor, Key: key, Velocity: w.velocity}}
	}
	apart := make([]float64, len(ways))
	if err := refine.Together(len(ways), l.Stop, func(i int) error {
		p, n := at(i)
		var both [2]*compare.Sketch
		for j, m := range []*meaning.Meaning{said, l.got} {
			y := l.layer
			y.Meaning = m
			k, err := p.Take([]synth.Layer{y}, n, 0, 1)
			if err != nil {
				return err
			}
			both[j] = k
		}
		d := compare.Apart(both[0], both[1], false)
		apart[i] = max(d.Total/mostApart, d.Pitch*5/mostCents, d.Level/mostLevel)
		return nil
	}); err != nil {
		return nil, err
	}
	l.out.Renders += 2 * len(ways)
	order := []int{0, 1, 2, 3}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(apart[b], apart[a]) })
	for _, i := range order {
		if apart[i] <= 1 {
			break
		}
		l.play, l.notes = at(i) // by one take it may be chance
		k, err := l.takes(said)
		if err != nil {
			return nil, err
		}
		made, err := l.takes(l.got)
		if err != nil {
			return nil, err
		}
		if d, bad := between(k, made); len(bad) > 0 {
			l.out.Told = d
			bad[0] = ways[i].name + ": " + bad[0]
			*aim, *whole = k.one[0], compare.Apart(k.one[0], made.one[0], false).Total
			return bad, nil
		}
	}
	l.play, l.notes = play, notes
	return nil, nil
}

// lessening finds the parts that bring the target nearer to what the sheet says when they are put right, one at a time: modules as the lines have them, and
// routes that no line has taken away.
func (l *listener) lessening(said *meaning.Meaning, aim *compare.Sketch, whole float64) error {
	type try struct {
		label string
		m     *meaning.Meaning
	}
	var list []try
	for i := range said.Modules {
		m := &said.Modules[i]
		j, ok := l.In.Plan.Best.Module[m.ID]
		if !ok {
			continue
		}
		d := l.got.Module(l.In.Target.Modules[j].ID)
		if d == nil {
			continue
		}
		x := *l.got
		x.Modules = slices.Clone(l.got.Modules)
		n := x.Module(d.ID)
		n.Params, n.Idle = m.Params, ""
		list = append(list, try{d.Label, &x})
	}
	for i := range l.got.Routes {
		r := &l.got.Routes[i]
		if !r.Used() || l.In.Plan.Makes(l.In.Target, r.ID) {
			continue
		}
		list = append(list, try{r.Label + " taken away", audition.Without(l.got, r.ID)})
	}
	by := make([]float64, len(list))
	if err := refine.Together(len(list), l.Stop, func(i int) error {
		k, err := l.one(list[i].m)
		if err == nil {
			by[i] = whole - compare.Apart(aim, k, false).Total
		}
		return err
	}); err != nil {
		return err
	}
	for i := range list {
		if by[i] > 0.3 {
			l.out.Lessen = append(l.out.Lessen, Lessening{list[i].label, gloss.Round(by[i], 1)})
		}
	}
	slices.SortStableFunc(l.out.Lessen, func(a, b Lessening) int { return cmp.Compare(b.By, a.By) })
	return nil
}

// lines finds how much each line that is not held is heard alone.
func (l *listener) lines(source *takes) error {
	type job struct {
		ids  []string
		m    *meaning.Meaning
		uses []int // that it builds on
	}
	var list []job
	byUse := map[int]int{} // use to its job
	for i := range l.Sheet.Glosses {
		g := &l.Sheet.Glosses[i]
		if !slices.Contains(gloss.Losses, g.Verdict) || g.Param == "" {
			continue
		}
		if g.Verdict == gloss.Recast {
			if u := l.useOf(g.Param); u >= 0 {
				if k, ok := byUse[u]; ok {
					list[k].ids = append(list[k].ids, g.ID)
					continue
				}
				byUse[u] = len(list)
				m, on := l.byRule(u)
				list = append(list, job{[]string{g.ID}, m, on})
				continue
			}
		}
		if m := l.alone(g); m != nil {
			list = append(list, job{ids: []string{g.ID}, m: m})
		}
	}
	apart := make([]float64, len(list))
	if err := refine.Together(len(list), l.Stop, func(i int) error {
		k, err := l.one(list[i].m)
		if err == nil {
			apart[i] = compare.Apart(source.one[0], k, false).Total
		}
		return err
	}); err != nil {
		return err
	}
	for i, j := range list {
		with := len(j.ids) - 1
		for _, u := range j.uses {
			if k, ok := byUse[u]; ok {
				with += len(list[k].ids)
			}
		}
		for _, id := range j.ids {
			l.out.Lines = append(l.out.Lines, LineHeard{ID: id, Apart: gloss.Round(apart[i], 1), With: with})
		}
	}
	slices.SortStableFunc(l.out.Lines, func(a, b LineHeard) int { return cmp.Compare(b.Apart, a.Apart) })
	return nil
}

// useOf gives the use of a rule by which a parameter goes over; -1 for none.
func (l *listener) useOf(param string) int {
	_, by, _ := l.In.Plan.Where(param)
	if by == nil {
		id, _ := meaning.Split(param)
		by = l.In.Plan.RecastOf(id)
	}
	return slices.Index(l.In.Plan.Uses, by)
}

// byRule is what is wanted with one use of a rule made, with those that it builds on, which it gives, and no other.
func (l *listener) byRule(u int) (m *meaning.Meaning, on []int) {
	uses := l.In.Plan.Uses
	take, needs := []*rules.Recast{uses[u]}, changed(uses[u])
	for v := u - 1; v >= 0; v-- {
		by := changed(uses[v])
		if touches(uses[v], by, needs) {
			take, on = append(take, uses[v]), append(on, v)
			maps.Copy(needs, by)
		}
	}
	slices.Reverse(take)
	to := *l.wanted
	to.Modules, to.Routes = slices.Clone(to.Modules), slices.Clone(to.Routes)
	for _, r := range take {
		by := changed(r)
		to.Modules = slices.DeleteFunc(to.Modules, func(d meaning.Module) bool { return by[d.ID] })
		to.Routes = slices.DeleteFunc(to.Routes, func(x meaning.Route) bool { return by[x.ID] })
		for i := range r.Meaning.Modules {
			if d := &r.Meaning.Modules[i]; by[d.ID] {
				to.Modules = append(to.Modules, *d)
			}
		}
		for i := range r.Meaning.Routes {
			if x := &r.Meaning.Routes[i]; by[x.ID] {
				to.Routes = append(to.Routes, *x)
			}
		}
	}
	out := to
	out.Audio = edges(l.wanted, &to, take)
	return &out, on
}

// touches tells whether what a use of a rule has changed is among ids, or is a route from or to one of them.
func touches(r *rules.Recast, changed, ids map[string]bool) bool {
	for id := range changed {
		if ids[id] {
			return true
		}
		for _, m := range []*meaning.Meaning{r.Before, r.Meaning} {
			if x := m.Route(id); x != nil && (ids[x.From] || ids[x.Via] || slices.ContainsFunc(x.To, func(to string) bool { d, _ := meaning.Split(to); return ids[d] })) {
				return true
			}
		}
	}
	return false
}

// changed gives the modules and routes that a use of a rule has changed, taken away or brought in.
func changed(r *rules.Recast) map[string]bool {
	out := map[string]bool{}
	for i := range r.Before.Modules {
		a := &r.Before.Modules[i]
		if b := r.Meaning.Module(a.ID); b == nil || !reflect.DeepEqual(a, b) {
			out[a.ID] = true
		}
	}
	for i := range r.Meaning.Modules {
		if id := r.Meaning.Modules[i].ID; r.Before.Module(id) == nil {
			out[id] = true
		}
	}
	for i := range r.Before.Routes {
		a := &r.Before.Routes[i]
		if b := r.Meaning.Route(a.ID); b == nil || !reflect.DeepEqual(a, b) {
			out[a.ID] = true
		}
	}
	for i := range r.Meaning.Routes {
		if id := r.Meaning.Routes[i].ID; r.Before.Route(id) == nil {
			out[id] = true
		}
	}
	return out
}

// alone is what is wanted with the difference of one line: at the figure reached, or without what is left out. nil where the line tells of nothing that sounds.
func (l *listener) alone(g *gloss.Gloss) *meaning.Meaning {
	id, name := meaning.Split(g.Param)
	m := *l.wanted
	if r := l.wanted.Route(id); r != nil {
		if g.Verdict == gloss.LeftOut || g.Reached == nil {
			return audition.Without(l.wanted, id)
		}
		m.Routes = slices.Clone(l.wanted.Routes)
		if x := m.Route(id); x.Depth.Dim == g.Reached.Quantity.Dim {
			x.Depth.Quantity = g.Reached.Quantity
		}
		return &m
	}
	d := l.wanted.Module(id)
	if d == nil {
		return nil
	}
	if g.Verdict == gloss.LeftOut {
		if _, placed := l.In.Plan.Placed(id); !placed && l.In.Plan.RecastOf(id) == nil {
			return audition.Without(l.wanted, id)
		}
	}
	m.Modules = slices.Clone(l.wanted.Modules)
	x := m.Module(id)
	x.Params = map[meaning.ParamName]meaning.Value{}
	for k, v := range d.Params {
		x.Params[k] = v
	}
	p, ok := meaning.SpecOf(d.Kind).Param(name)
	switch {
	case !ok:
		return nil
	case g.Verdict == gloss.LeftOut && len(g.Also) == 0 || g.Reached == nil:
		delete(x.Params, name)
	case p.Dim != g.Reached.Quantity.Dim:
		return nil
	case p.Sums && g.Wanted != nil && len(d.Params[name].Parts) > 1:
		v := x.Params[name]
		v.Value += g.Reached.Quantity.Value - g.Wanted.Quantity.Value
		x.Params[name] = v
	default:
		v := x.Params[name]
		v.Quantity = g.Reached.Quantity
		x.Params[name] = v
	}
	return &m
}

// nothingVanishes is I9: each part of the source that is heard has a line that is not idle.
func (l *listener) nothingVanishes() error {
	heard, err := refine.Heard(l.In.Source, l.In.Patch, l.Sheet.Layer, l.Notes, l.Stop)
	if err != nil {
		return err
	}
	l.out.Renders += len(heard) + 1
	told := map[string]bool{}
	for i := range l.Sheet.Glosses {
		g := &l.Sheet.Glosses[i]
		if g.Verdict != gloss.Idle {
			id, _ := meaning.Split(g.Param)
			told[id] = true
			for _, a := range g.Also {
				id, _ := meaning.Split(a.Param)
				told[id] = true
			}
		}
	}
	c := gloss.Check{ID: "I9", What: "nothing that is heard vanishes: each such part of the source has a line", OK: true}
	var bad []string
	for i := range l.wanted.Modules {
		if d := &l.wanted.Modules[i]; heard[d.ID] > matters && !told[d.ID] && !fixed(l.In, d.ID) {
			bad = append(bad, fmt.Sprintf("%s is heard (%.1f) and has no line", d.Label, heard[d.ID]))
		}
	}
	for i := range l.wanted.Routes {
		if r := &l.wanted.Routes[i]; heard[r.ID] > matters && !told[r.ID] && len(l.In.Source.Binds(meaning.Ref(r.ID, meaning.PDepth))) > 0 {
			bad = append(bad, fmt.Sprintf("%s is heard (%.1f) and has no line", r.Label, heard[r.ID]))
		}
	}
	c.OK, c.Detail = len(bad) == 0, strings.Join(bad, "; ")
	l.out.Checks = append(l.out.Checks, c)
	return nil
}

// fixed tells whether no control of the source sets anything of a module that has a place: nothing of it is to be told.
func fixed(in *gloss.Input, id string) bool {
	i, ok := in.Source.ModuleIndex(id)
	if !ok {
		return false
	}
	for _, p := range meaning.SpecOf(in.Source.Modules[i].Kind).Params {
		if len(in.Source.Binds(meaning.Ref(id, p.Name))) > 0 {
			return false
		}
	}
	_, placed := in.Plan.Placed(id)
	return placed
}

// headline says how far apart they sound.
func (l *listener) headline() {
	d := l.out.Apart
	switch l.out.Silent {
	case "target":
		l.out.Headline = "The translation cannot be heard here: its rendering is silent."
		return
	case "source", "both":
		l.out.Headline = "The patch cannot be heard here: its rendering is silent, so nothing tells how far apart they sound."
		return
	}
	how := "apart in sound"
	switch {
	case d.Total < 2:
		how = "apart in sound: hardly told from each other"
	case d.Total < 5:
		how = "apart in sound: near"
	}
	var in []string
	for _, r := range l.out.Mostly[:min(3, len(l.out.Mostly))] {
		in = append(in, r.Name)
	}
	l.out.Headline = fmt.Sprintf("%.1f just-noticeable differences %s", d.Total, how)
	if l.out.Unsure >= 0.1 {
		l.out.Headline = fmt.Sprintf("%.1f ± %.1f just-noticeable differences %s", d.Total, l.out.Unsure, how)
	}
	if len(in) > 0 {
		l.out.Headline += ", mostly in " + strings.Join(in, ", ")
	}
	l.out.Headline += "."
}
