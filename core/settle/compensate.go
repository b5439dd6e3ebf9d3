package settle

import (
	"iter"
	"maps"
	"math"
	"slices"

	"glossator/core/dsp"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// Adjusted is a parameter that is set otherwise than by its number, with what for.
type Adjusted struct {
	Value float64
	Notes []Note
}

// Note says for what a parameter is set otherwise: numbers and words for a sentence.
type Note struct {
	Code NoteCode
	// By is in decibels for levels, a factor for a cutoff.
	By float64
	// There and Here are numbers of unison voices or of poles.
	There, Here float64
	// Missing is how many octaves of what opens the filter are not there; 0 where that does not count. Of the notes played it is what velocity opens.
	Missing float64
	// Oscillators is set where the waves of the oscillators were compared, not a saw.
	Oscillators bool
	Note        q.Note
	// From and To are curves.
	From, To string
}

// NoteCode says for what a parameter is set otherwise.
type NoteCode int

// What parameters are set otherwise for.
const (
	ForDrive    NoteCode = iota // a drive that is not there
	ForFilters                  // what the filters let through
	ForBass                     // the bass that resonance takes
	ForUnison                   // unison voices
	AsBright                    // another slope, or what opens the filter
	ForHalfLife                 // another curve
	ForNotes                    // tracking or velocity that is not there: the base where the notes played have it
	ForKey                      // a pitch that follows the keys otherwise: it stands where the notes played have it
	ForVelocity                 // velocity that does not reach the level: it stands where notes of usual strength have it
	ForHeadroom                 // a level beyond the top of the target's scale: all go down, and the volume up
	ForIndex                    // a modulation that is deeper or shallower here: the modulator stands so that the index is the same
	ForOutput                   // an operator whose output has no control: its level makes it
	ForHeld                     // what moves the pitch and does not reach it: it stands where that holds it while a note is held
	ForBeats                    // another oscillator that cannot be tuned as finely as it beats there: this one is moved against it
	ForOthers                   // it stays where it is, and the others were moved against it
	ForTune                     // oscillators that were moved for their beats: the whole is tuned back
)

// Compensation is what a school sets otherwise than by its number.
type Compensation struct {
	// Adjusted holds the parameters, by their names in the plan's cast.
	Adjusted map[string]Adjusted
	// Plan is the plan with the cast so adjusted.
	Plan *plan.Plan
}

// Situation is a target as it has been set for a plan.
type Situation struct {
	T      *plan.Target
	Plan   *plan.Plan
	Wanted *meaning.Meaning
	// State is where the target's controls stand, Got its meaning then.
	State *panel.State
	Got   *meaning.Meaning
	// Note is the middle of the notes that the patch is played at.
	Note q.Note
}

// compensating is a compensation on its way.
type compensating struct {
	*Situation
	adjust map[string]Adjusted
}

// Compensate works out, from how the target stands, what the school sets otherwise, and puts it
// into the meaning that is played; nil where nothing is.
func Compensate(in *Situation) *Compensation {
	c := &compensating{in, map[string]Adjusted{}}
	s := in.T.Policy.School
	level, notes := 0.0, []Note(nil)
	more := func(code NoteCode, db float64) {
		if math.Abs(db) >= 0.1 {
			level += db
			notes = append(notes, Note{Code: code, By: db})
		}
	}
	for i := range c.Wanted.Modules {
		m := &c.Wanted.Modules[i]
		if !m.Used() {
			continue
		}
		id, there := c.Plan.CastID(m.ID)
		ti, placed := c.Plan.Best.Module[id]
		if !there || !placed {
			if s.Loudness && m.Kind == meaning.Drive && c.Plan.RecastOf(m.ID) == nil {
				g, _ := m.Get(meaning.PGain)
				more(ForDrive, dsp.OverloadDB(g.Value))
			}
			continue
		}
		r := c.Got.Module(c.T.Modules[ti].ID)
		switch m.Kind {
		case meaning.Filter:
			c.slope(m, r, id)
			c.base(m, r, id)
			if s.Bass && lowpass(m) && lowpass(r) {
				if db, ok := c.filterLevel(m, r, id); ok {
					more(ForFilters, db)
				} else {
					more(ForBass, bassLoss(r)-bassLoss(m))
				}
			}
		case meaning.Env:
			c.halfLife(m, r, id)
		case meaning.Operator:
			c.pitch(m, r, id)
		case meaning.Osc:
			c.pitch(m, r, id)
			if n, k := count(m, meaning.PUnison), count(r, meaning.PUnison); s.Loudness && n != k && c.Plan.RecastOf(m.ID) == nil {
				db := 10 * math.Log10(n/k)
				if v, ok := m.Params[meaning.PLevel]; ok && !v.Off {
					c.adjust[meaning.Ref(id, meaning.PLevel)] = Adjusted{v.Value + db, []Note{{Code: ForUnison, By: db, There: n, Here: k}}}
				}
			}
		}
	}
	c.held()
	c.beats()
	c.index()
	c.outputs()
	if x := usualGain(c.Wanted) - usualGain(c.Got); math.Abs(x) >= levelMatters {
		more(ForVelocity, x)
	}
	if x := c.headroom(); x > 0 {
		level += x
		notes = append(notes, Note{Code: ForHeadroom, By: x})
	}
	if level != 0 {
		for i := range c.Plan.Cast.Modules {
			m := &c.Plan.Cast.Modules[i]
			if v, ok := m.Params[meaning.PLevel]; ok && m.Kind == meaning.Amp && m.Used() && !v.Off {
				c.adjust[meaning.Ref(m.ID, meaning.PLevel)] = Adjusted{v.Value + level, notes}
				break
			}
		}
	}
	if len(c.adjust) == 0 {
		return nil
	}
	return &Compensation{c.adjust, c.adjusted()}
}

// index sets the level of an operator that only modulates so that its index is kept where the route that it modulates by is of another depth: the index is the product of the two.
func (c *compensating) index() {
	by := map[string]float64{} // decibels by modulator: what it modulates besides by a depth that is as much another is put right with it
	for i := range c.Plan.Cast.Routes {
		r, way := &c.Plan.Cast.Routes[i], &c.Plan.Best.Route[i]
		m := c.Plan.Cast.Module(r.From)
		if !way.Made() || m == nil || m.Kind != meaning.Operator || m.Sounds() || !r.ModulatesPhase() {
			continue
		}
		id, _ := way.Way.Made(c.T)
		ref := meaning.Ref(m.ID, meaning.PLevel)
		got, level := c.Got.Route(id), m.Loud()
		if got == nil || level.Off || got.Depth.Value*r.Depth.Value <= 0 {
			continue
		}
		db := 20 * math.Log10(r.Depth.Value/got.Depth.Value)
		if math.Abs(db) < 0.1 {
			continue
		}
		if _, done := c.adjust[ref]; !done {
			c.adjust[ref] = Adjusted{level.Value + db, []Note{{Code: ForIndex, By: db, From: r.Label}}}
			by[m.ID] = db
		}
		if set, ok := by[m.ID]; ok && math.Abs(db-set) < 0.1 {
			c.adjust[meaning.Ref(r.ID, meaning.PDepth)] = Adjusted{got.Depth.Value, nil}
		}
	}
}

// outputs has the level of an operator that modulates no other make what its output makes where the target has no control for that.
func (c *compensating) outputs() {
	for i := range c.Plan.Cast.Modules {
		m := &c.Plan.Cast.Modules[i]
		ti, placed := c.Plan.Best.Module[m.ID]
		out, stated := m.Params[meaning.POutput]
		if m.Kind != meaning.Operator || !m.Used() || !placed || !stated || !m.Sounds() || slices.ContainsFunc(c.Plan.Cast.Routes, func(r meaning.Route) bool { return r.Used() && r.From == m.ID }) {
			continue
		}
		ref, level := meaning.Ref(m.ID, meaning.PLevel), m.Loud()
		got, has := c.Got.Module(c.T.Modules[ti].ID).Params[meaning.POutput]
		if _, done := c.adjust[ref]; done || !has || len(got.From) > 0 || got.Off || level.Off || math.Abs(out.Value-got.Value) < 0.1 {
			continue
		}
		by := out.Value - got.Value
		c.adjust[ref] = Adjusted{level.Value + by, []Note{{Code: ForOutput, By: by}}}
		c.adjust[meaning.Ref(m.ID, meaning.POutput)] = Adjusted{got.Value, nil}
	}
}

// headroom finds by how much a level lies beyond the top of its scale, and brings the levels of all sources of sound down by that: what they are to each
// other is kept. It gives 0 where none does by a decibel.
func (c *compensating) headroom() float64 {
	type source struct {
		ref string
		v   float64
	}
	var list []source
	most := 0.0
	for i := range c.Plan.Cast.Modules {
		m := &c.Plan.Cast.Modules[i]
		name := meaning.PLevel
		switch m.Kind {
		case meaning.Operator:
			name = meaning.POutput
		case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Ring:
		default:
			continue
		}
		ti, placed := c.Plan.Best.Module[m.ID]
		v, stated := m.Params[name]
		if !m.Used() || !placed || !stated || v.Off {
			continue
		}
		got, has := c.Got.Module(c.T.Modules[ti].ID).Params[name]
		if !has || len(got.From) == 0 {
			return 0 // one that cannot go down would stand out
		}
		want := v.Value
		if a, ok := c.adjust[meaning.Ref(m.ID, name)]; ok {
			want = a.Value
		}
		list = append(list, source{meaning.Ref(m.ID, name), want})
		if !got.Off {
			most = math.Max(most, want-got.Value)
		}
	}
	amp := false
	for i := range c.Plan.Cast.Modules {
		m := &c.Plan.Cast.Modules[i]
		if ti, ok := c.Plan.Best.Module[m.ID]; ok && m.Kind == meaning.Amp {
			v, has := c.Got.Module(c.T.Modules[ti].ID).Params[meaning.PLevel]
			amp = amp || has && len(v.From) > 0 && !v.Off
		}
	}
	if most < 1 || most > 24 || !amp {
		return 0
	}
	for _, x := range list {
		a := c.adjust[x.ref]
		c.adjust[x.ref] = Adjusted{x.v - most, append(a.Notes, Note{Code: ForHeadroom, By: -most})}
	}
	return most
}

// adjusted gives the plan with the adjusted parameters in its cast.
func (c *compensating) adjusted() *plan.Plan {
	out, cast := *c.Plan, *c.Plan.Cast
	cast.Modules, cast.Routes = slices.Clone(cast.Modules), slices.Clone(cast.Routes)
	for i := range cast.Routes {
		if a, ok := c.adjust[meaning.Ref(cast.Routes[i].ID, meaning.PDepth)]; ok {
			cast.Routes[i].Depth.Value = a.Value
		}
	}
	out.Cast, out.Best.Fit = &cast, maps.Clone(out.Best.Fit)
	for i := range cast.Modules {
		m := &cast.Modules[i]
		params := make(map[meaning.ParamName]meaning.Value, len(m.Params))
		changed := false
		for name, v := range m.Params {
			if a, ok := c.adjust[meaning.Ref(m.ID, name)]; ok {
				v.Value, v.Parts, changed = a.Value, nil, true // its parts no longer add up to it
			}
			params[name] = v
		}
		for _, name := range []meaning.ParamName{meaning.PTune, meaning.PInterval} {
			if a, ok := c.adjust[meaning.Ref(m.ID, name)]; ok {
				if _, stated := m.Params[name]; !stated {
					params[name], changed = meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: a.Value}}, true
				}
			}
		}
		if changed {
			m.Params = params
			delete(out.Best.Fit, m.ID) // it was worked out for what it was
		}
	}
	return &out
}

// slope adjusts a cutoff where the number of poles differs.
func (c *compensating) slope(m, r *meaning.Module, id string) {
	from, to := int(count(m, meaning.PPoles)), int(count(r, meaning.PPoles))
	moved := c.opened(c.Wanted, m.ID) - c.opened(c.Got, r.ID)
	if !c.T.Policy.School.Slope || from == to && math.Abs(moved) < openedMatters || !lowpass(m) || !lowpass(r) {
		return
	}
	cut, ok := m.Params[meaning.PCutoff]
	if !ok || cut.Off {
		return
	}
	if c.Wanted.Graph().Past() {
		return // part of the sound does not go through it: its brightness is not the filter's alone
	}
	note := float64(c.Note.Frequency())
	track, _ := m.Get(meaning.PTrack)
	fc := cut.Value * math.Pow(note/float64(q.Note(60).Frequency()), track.Value) * math.Exp2(c.opened(c.Wanted, m.ID))
	a, _ := m.Get(meaning.PResonance)
	b, _ := r.Get(meaning.PResonance)
	there, here := toneOf(c.Wanted, note), toneOf(c.Got, note)
	known := there != nil && here != nil
	if !known {
		there, here = dsp.SawTone(note), dsp.SawTone(note)
	}
	f := dsp.EqualBrightnessOf(there, here, fc, from, to, a.Value, b.Value)
	if from == to {
		f = 1 // the oscillators alone do not move it: their waves have lines of their own
	}
	f *= math.Exp2(moved)
	if math.Abs(math.Log(f)) < 0.01 {
		return
	}
	why := Note{Code: AsBright, By: f, There: float64(from), Here: float64(to), Oscillators: known, Note: c.Note}
	if math.Abs(moved) >= openedMatters {
		why.Missing = moved
	}
	c.adjust[meaning.Ref(id, meaning.PCutoff)] = Adjusted{cut.Value * f, []Note{why}}
}

// baseMatters is how many octaves a filter's base has to be off at the notes played to be moved: two just-noticeable differences of a cutoff.
const baseMatters = 0.2

// base moves a cutoff to where the notes played have it, where the target's tracking is another or velocity does not reach the filter.
func (c *compensating) base(m, r *meaning.Module, id string) {
	n := c.Plan.Cast.Module(id)
	if n == nil {
		return
	}
	cut, ok := n.Params[meaning.PCutoff]
	if got, has := r.Params[meaning.PCutoff]; !ok || cut.Off || !has || len(got.From) == 0 {
		return
	}
	there, _ := n.Get(meaning.PTrack)
	here, _ := r.Get(meaning.PTrack)
	by := (there.Value - here.Value) * float64(c.Note-q.MiddleC) / 12
	why := Note{Code: ForNotes, There: there.Value, Here: here.Value, Note: c.Note}
	if !c.T.Policy.School.Slope || !lowpass(m) || !lowpass(r) { // else it is in what has the filter open
		if x := c.byVelocity(c.Wanted, m.ID) - c.byVelocity(c.Got, r.ID); math.Abs(x) >= baseMatters {
			by, why.Missing = by+x, x
		}
	}
	if math.Abs(by) < baseMatters {
		return
	}
	ref := meaning.Ref(id, meaning.PCutoff)
	a, is := c.adjust[ref]
	if !is {
		a.Value = cut.Value
	}
	if slices.ContainsFunc(a.Notes, func(n Note) bool { return n.Code == ForNotes }) {
		return // two filters have become this one
	}
	why.By = math.Exp2(by)
	c.adjust[ref] = Adjusted{a.Value * why.By, append(a.Notes, why)}
}

// byVelocity gives how many octaves a velocity of 100 (common practice, no source) has a filter open.
func (c *compensating) byVelocity(m *meaning.Meaning, filter string) float64 {
	sum := 0.0
	for i := range m.Routes {
		if r := &m.Routes[i]; r.Used() && r.From == "velocity" && r.Via == "" && r.Depth.Dim == q.DimOctaves && slices.Contains(r.To, meaning.Ref(filter, meaning.PCutoff)) {
			sum += r.Depth.Value * usual
		}
	}
	return sum
}

// pitchMatters is by how many cents a pitch has to be off at the notes played to be moved: a quarter tone.
const pitchMatters = 50

// pitch moves an oscillator to where the notes played have it, where the target's follows the keys otherwise.
func (c *compensating) pitch(m, r *meaning.Module, id string) {
	n := c.Plan.Cast.Module(id)
	if n == nil {
		return
	}
	v, ok := n.Params[meaning.PInterval]
	if fixed, _ := n.Get(meaning.PFixed); !ok || v.Off || !fixed.Off {
		return
	}
	if c.Plan.RecastOf(m.ID) != nil {
		m = n // as a rule has it
	}
	by := followed(c.Wanted, m, c.Note) - followed(c.Got, r, c.Note)
	if math.Abs(by) < pitchMatters {
		return
	}
	c.adjust[meaning.Ref(id, meaning.PInterval)] = Adjusted{v.Value + by, []Note{{Code: ForKey, By: by, Note: c.Note}}}
}

// followed gives by how many cents the keys have moved an oscillator from where it stands at middle C, on a note.
func followed(m *meaning.Meaning, d *meaning.Module, note q.Note) float64 {
	follow, _ := d.Get(meaning.PKey)
	up := float64(note - q.MiddleC)
	cents := 100 * follow.Value * up
	for i := range m.Routes {
		r := &m.Routes[i]
		if !r.Used() || r.From != "key" || r.Via != "" || r.Depth.Dim != q.DimInterval {
			continue
		}
		for _, to := range r.To {
			id, name := meaning.Split(to)
			if x := m.Module(id); id == d.ID && name == meaning.PInterval || name == meaning.PTune && x != nil && x.Kind == meaning.Voice {
				cents += r.Depth.Value * up / 12
			}
		}
	}
	return cents
}

// tuned goes through what is played at the pitch of the keys, with the target's module that plays it.
func (c *compensating) tuned() iter.Seq2[*meaning.Module, int] {
	return func(yield func(*meaning.Module, int) bool) {
		for i := range c.Plan.Cast.Modules {
			n := &c.Plan.Cast.Modules[i]
			ti, placed := c.Plan.Best.Module[n.ID]
			if !n.Used() || !placed || n.Kind != meaning.Osc && n.Kind != meaning.Sub && n.Kind != meaning.Operator {
				continue
			}
			if fixed, _ := n.Get(meaning.PFixed); !fixed.Off && n.Kind != meaning.Sub {
				continue
			}
			if !yield(n, ti) {
				return
			}
		}
	}
}

// heldMatters is by how many cents a pitch has to be off while a note is held to be moved: two just-noticeable differences (common practice, no source).
const heldMatters = 10

// held tunes the target to where envelopes and velocity that do not reach its pitch have it while a note is held: all by the master tuning where they are all moved alike, else each
// oscillator, if each can be set finely enough for the intervals between them to be kept.
func (c *compensating) held() {
	type pitched struct {
		id   string
		by   float64
		from string
		fine bool
	}
	var list []pitched
	for n, ti := range c.tuned() {
		there, from := holds(c.Plan.Cast, n)
		here, _ := holds(c.Got, c.Got.Module(c.T.Modules[ti].ID))
		list = append(list, pitched{n.ID, there - here, from, c.tunes(meaning.Ref(c.T.Modules[ti].ID, meaning.PInterval), 0, heldMatters) > 0})
	}
	if !slices.ContainsFunc(list, func(x pitched) bool { return math.Abs(x.by) >= heldMatters }) {
		return
	}
	alike := !slices.ContainsFunc(list, func(x pitched) bool { return math.Abs(x.by-list[0].by) > 1 })
	finely := !slices.ContainsFunc(list, func(x pitched) bool { return !x.fine })
	for i := range c.Plan.Cast.Modules {
		v := &c.Plan.Cast.Modules[i]
		ti, placed := c.Plan.Best.Module[v.ID]
		if v.Kind != meaning.Voice || !placed || !alike {
			continue
		}
		was, _ := v.Get(meaning.PTune)
		to := was.Value + list[0].by
		if reach := c.tunes(meaning.Ref(c.T.Modules[ti].ID, meaning.PTune), to, math.Abs(list[0].by)); reach == 0 || reach < 1 && finely {
			continue
		}
		c.adjust[meaning.Ref(v.ID, meaning.PTune)] = Adjusted{to, []Note{{Code: ForHeld, By: list[0].by, From: list[0].from}}}
		return
	}
	if !finely {
		return // the others would be out of tune with it
	}
	for _, each := range list {
		if math.Abs(each.by) < heldMatters {
			continue
		}
		ref := meaning.Ref(each.id, meaning.PInterval)
		a, is := c.adjust[ref]
		if !is {
			v, _ := c.Plan.Cast.Module(each.id).Get(meaning.PInterval)
			a.Value = v.Value
		}
		c.adjust[ref] = Adjusted{a.Value + each.by, append(a.Notes, Note{Code: ForHeld, By: each.by, From: each.from})}
	}
}

// Bounds of what is done for beats, in cents (common practice, no source): by how much an oscillator has to be off, the most that is a detuning and no interval, and the most by which the whole may
// be off for it.
const (
	beatMatters = 1.5
	mostDetuned = 60.0
	mostFlat    = 10.0
)

// beats keeps what oscillators are to each other where one of them cannot be tuned as finely as it is wanted: those that can be are moved against it, and the whole is tuned back by the master tuning.
// Without a fine one of those, a pair is detuned the other way round: the same two pitches, with the parts exchanged.
func (c *compensating) beats() {
	type pitched struct {
		id, ref  string
		want, by float64 // in cents, and how far off it has come to stand
	}
	var all, stuck, movers []pitched
	off := 0.0
	for n, ti := range c.tuned() {
		if !n.Sounds() {
			continue // its beats are not heard
		}
		want, _ := n.Get(meaning.PInterval)
		got, _ := c.Got.Module(c.T.Modules[ti].ID).Get(meaning.PInterval)
		if a, is := c.adjust[meaning.Ref(n.ID, meaning.PInterval)]; is {
			want.Value = a.Value
		}
		x := pitched{n.ID, meaning.Ref(c.T.Modules[ti].ID, meaning.PInterval), want.Value, got.Value - want.Value}
		if all = append(all, x); math.Abs(x.by) >= beatMatters && c.tunes(x.ref, 0, math.Abs(x.by)) < 1 && math.Abs(x.by) > math.Abs(off) {
			off = x.by
		}
	}
	if off == 0 || math.Abs(off) > mostDetuned {
		return // nothing is off, or it is another note
	}
	for _, x := range all {
		switch {
		case c.tunes(x.ref, 0, math.Abs(off)) == 1:
			movers = append(movers, x)
		case math.Abs(x.by-off) > beatMatters:
			return // they are out of tune with each other
		default:
			stuck = append(stuck, x)
		}
	}
	if len(stuck) == 0 || len(movers) == 0 {
		return
	}
	by, tuned := off, false
	reach := func(by float64) bool {
		return !slices.ContainsFunc(movers, func(x pitched) bool {
			low, high := c.spans(x.ref)
			return x.want+by < low || x.want+by > high
		})
	}
	for i := range c.Plan.Cast.Modules {
		v := &c.Plan.Cast.Modules[i]
		ti, placed := c.Plan.Best.Module[v.ID]
		if v.Kind != meaning.Voice || !placed {
			continue
		}
		ref := meaning.Ref(v.ID, meaning.PTune)
		was, _ := v.Get(meaning.PTune)
		a, is := c.adjust[ref]
		if !is {
			a.Value = was.Value
		}
		if reach(off) && c.tunes(meaning.Ref(c.T.Modules[ti].ID, meaning.PTune), a.Value-off, math.Abs(off)) == 1 {
			c.adjust[ref], tuned = Adjusted{a.Value - off, append(a.Notes, Note{Code: ForTune, By: -off})}, true
		}
	}
	if !tuned {
		apart := math.Abs(stuck[0].want - movers[0].want)
		octaves := 1200 * math.Round(apart/1200)
		switch {
		case len(stuck) == 1 && len(movers) == 1 && math.Abs(apart-octaves) <= mostDetuned:
			by = -off
		case math.Abs(off) > mostFlat:
			return
		}
		if !reach(by) {
			return
		}
	}
	for _, each := range stuck {
		ref := meaning.Ref(each.id, meaning.PInterval)
		a := c.adjust[ref]
		c.adjust[ref] = Adjusted{each.want + off, append(a.Notes, Note{Code: ForOthers, By: off})}
	}
	for _, each := range movers {
		ref := meaning.Ref(each.id, meaning.PInterval)
		a := c.adjust[ref]
		c.adjust[ref] = Adjusted{each.want + by, append(a.Notes, Note{Code: ForBeats, By: by, From: c.Plan.Cast.Module(stuck[0].id).Label})}
	}
}

// spans gives the least and the most that the controls of what ref names add up to, in cents.
func (c *compensating) spans(ref string) (low, high float64) {
	for _, b := range c.T.Binds(ref) {
		if !c.T.Holds(c.T.Bind(b).When, c.State) {
			continue
		}
		least, most := math.Inf(1), math.Inf(-1)
		for _, at := range c.T.Places(b.Control) {
			if v, ok := c.T.Scale(b).Quantity(at); ok && !v.Off {
				least, most = math.Min(least, v.Value), math.Max(most, v.Value)
			}
		}
		if least <= most {
			low, high = low+least, high+most
		}
	}
	return low, high
}

// tunes tells how far a control of the target can tune what ref names to a number of cents, in steps that are no greater than step: 1 all the way, 0 not at all.
func (c *compensating) tunes(ref string, to, step float64) (reach float64) {
	for _, b := range c.T.Binds(ref) {
		places := c.T.Places(b.Control)
		if len(places) < 3 || !c.T.Holds(c.T.Bind(b).When, c.State) {
			continue
		}
		mid := len(places) / 2
		x, ok := c.T.Scale(b).Quantity(places[mid])
		y, also := c.T.Scale(b).Quantity(places[mid+1])
		if !ok || !also || math.Abs(x.Value-y.Value) > step {
			continue
		}
		if at, err := c.T.Scale(b).Inverse(q.Quantity{Dim: q.DimInterval, Value: to}); err == nil && !at.Clamped {
			return 1
		}
		reach = 0.5
	}
	return reach
}

// holds gives by how many cents envelopes have a pitch while a note is held, and velocity on a note of usual strength, with the label of what does the most.
func holds(m *meaning.Meaning, d *meaning.Module) (cents float64, from string) {
	most := 0.0
	for i := range m.Routes {
		r := &m.Routes[i]
		if !r.Used() || r.Depth.Off || r.Depth.Dim != q.DimInterval || r.Via != "" && r.Via != "velocity" {
			continue
		}
		share, label := usual, r.Label
		if e := m.Module(r.From); e != nil && e.Kind == meaning.Env {
			s, _ := e.Get(meaning.PSustain)
			share, label = s.Value, e.Label
			if r.Via == "velocity" {
				share *= usual
			}
		} else if r.From != "velocity" || r.Via != "" {
			continue
		}
		for _, to := range r.To {
			id, name := meaning.Split(to)
			if x := m.Module(id); id == d.ID && name == meaning.PInterval || (name == meaning.PTune || name == meaning.PTranspose) && x != nil && x.Kind == meaning.Voice {
				cents += r.Depth.Value * share
				if math.Abs(r.Depth.Value*share) > most {
					most, from = math.Abs(r.Depth.Value*share), label
				}
			}
		}
	}
	return cents, from
}

// usual is a velocity of 100 as a share of the most (common practice, no source).
const usual = 100.0 / 127

// levelMatters is by how many decibels the level of usual notes has to be off: half a just-noticeable difference.
const levelMatters = 0.5

// usualGain gives the gain of the amplifier by velocity on a note of usual strength, in decibels; full level is at the highest velocity.
func usualGain(m *meaning.Meaning) float64 {
	gain := 1.0
	for i := range m.Routes {
		r := &m.Routes[i]
		if !r.Used() || r.From != "velocity" || r.Via != "" || r.Depth.Off || r.Depth.Value <= 0 {
			continue
		}
		for _, to := range r.To {
			id, name := meaning.Split(to)
			if d := m.Module(id); name == meaning.PLevel && d != nil && d.Kind == meaning.Amp {
				gain *= 1 - min(1, r.Depth.Value)*(1-usual)
			}
		}
	}
	return 20 * math.Log10(gain)
}

// openedMatters is how many octaves of what opens a filter have to be missing to count: about a third of an octave
// is heard (common practice, no source).
const openedMatters = 0.3

// opened gives how many octaves a filter stands open while a note is held, beyond its cutoff: envelopes at a third of
// the way from their sustain to full, velocity at 100 (common practice, no source).
func (c *compensating) opened(m *meaning.Meaning, filter string) float64 {
	sum := 0.0
	for i := range m.Routes {
		r := &m.Routes[i]
		if !r.Used() || r.Via != "" && r.Via != "velocity" || r.Depth.Dim != q.DimOctaves {
			continue
		}
		for _, to := range r.To {
			if to != meaning.Ref(filter, meaning.PCutoff) {
				continue
			}
			d := r.Depth.Value
			if r.Via == "velocity" {
				d *= usual
			}
			switch e := m.Module(r.From); {
			case r.From == "velocity":
				sum += d * usual
			case e != nil && e.Kind == meaning.Env:
				s, _ := e.Get(meaning.PSustain)
				sum += d * (s.Value + (1-s.Value)/3)
			}
		}
	}
	return sum
}

// filterLevel gives how much louder the target's oscillators have to be behind its filter to be as loud as the source's
// behind its own: A-weighted power of what passes, with what resonance takes from the bass.
func (c *compensating) filterLevel(m, r *meaning.Module, id string) (db float64, ok bool) {
	note := float64(c.Note.Frequency())
	there, here := toneOf(c.Wanted, note), toneOf(c.Got, note)
	if there == nil || here == nil || c.Wanted.Graph().Past() {
		return 0, false
	}
	pass := func(of *meaning.Meaning, f *meaning.Module, tone []dsp.Partial, cutoff float64) float64 {
		track, _ := f.Get(meaning.PTrack)
		res, _ := f.Get(meaning.PResonance)
		fc := cutoff * math.Pow(note/float64(q.Note(60).Frequency()), track.Value) * math.Exp2(c.opened(of, f.ID))
		sum := 0.0
		for _, p := range tone {
			g := dsp.LowpassGain(int(count(f, meaning.PPoles)), res.Value, p.Hz/fc)
			sum += g * g * p.Power * math.Pow(10, q.AWeight(p.Hz)/10)
		}
		return 10*math.Log10(sum) - bassLoss(f)
	}
	a, _ := m.Get(meaning.PCutoff)
	b, _ := r.Get(meaning.PCutoff)
	if a.Off || b.Off {
		return 0, false
	}
	cutoff := b.Value
	if x, is := c.adjust[meaning.Ref(id, meaning.PCutoff)]; is {
		cutoff = x.Value // it is set to that next
	}
	return pass(c.Wanted, m, there, a.Value) - pass(c.Got, r, here, cutoff), true
}

// toneOf gives the partials of the oscillators of a meaning on a note; nil where there is none whose wave is known,
// or other sources besides.
func toneOf(m *meaning.Meaning, note float64) (out []dsp.Partial) {
	for i := range m.Modules {
		d := &m.Modules[i]
		if !d.Used() {
			continue
		}
		switch d.Kind {
		case meaning.Operator, meaning.Ring:
			return nil
		case meaning.Osc, meaning.Sub:
		default:
			continue
		}
		level, _ := d.Get(meaning.PLevel)
		if level.Off {
			continue
		}
		interval, _ := d.Get(meaning.PInterval)
		f := note * q.Interval(interval.Value).Ratio()
		amplitudes := rules.Harmonics(d, min(400, max(1, int(16000/f))))
		if amplitudes == nil {
			return nil
		}
		power := math.Pow(10, level.Value/10)
		for n, a := range amplitudes {
			if hz := float64(n+1) * f; hz < 16000 {
				out = append(out, dsp.Partial{Hz: hz, Power: power * a * a})
			}
		}
	}
	return out
}

// halfLife adjusts decay and release where one envelope falls straight and the other curved: both
// are then half way at the same time.
func (c *compensating) halfLife(m, r *meaning.Module, id string) {
	if !c.T.Policy.School.Half {
		return
	}
	a, _ := m.Get(meaning.PCurve)
	b, _ := r.Get(meaning.PCurve)
	if a.Name == b.Name {
		return
	}
	f := halfOfT90(a.Name) / halfOfT90(b.Name)
	if math.Abs(f-1) < 0.01 {
		return
	}
	for _, name := range []meaning.ParamName{meaning.PDecay, meaning.PRelease} {
		if v, ok := m.Params[name]; ok && !v.Off {
			c.adjust[meaning.Ref(id, name)] = Adjusted{v.Value * f, []Note{{Code: ForHalfLife, From: a.Name, To: b.Name}}}
		}
	}
}

// halfOfT90 gives the time to half way over that to 90 % (circuit theory; a straight ramp).
func halfOfT90(curve string) float64 {
	if curve == "linear" {
		return 0.5 / 0.9
	}
	return math.Ln2 / math.Log(10)
}

func lowpass(m *meaning.Module) bool {
	v, _ := m.Get(meaning.PMode)
	return v.Name == "lowpass" || m.AsMorphed() == "lowpass"
}

func bassLoss(m *meaning.Module) float64 {
	r, _ := m.Get(meaning.PResonance)
	return dsp.BassLossDB(int(count(m, meaning.PPoles)), r.Value)
}

func count(m *meaning.Module, name meaning.ParamName) float64 {
	v, _ := m.Get(name)
	return math.Max(1, math.Round(v.Value))
}
