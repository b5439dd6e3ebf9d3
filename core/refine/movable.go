package refine

import (
	"cmp"
	"slices"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

type position = scale.Position

// movable is a control that may be moved.
type movable struct {
	control  int
	at, from int // places
	least    int // the first place that may be tried
	top      int // the last one
	step     int // 0 for no more
	way      int // where it went last
	words    bool
	told     float64 // how much its steps have been heard
	first    int     // the lower, the earlier it is tried
	// costs is by place what it costs to leave a held line there, in just-noticeable differences of the whole; nil where no held line hangs on it
	costs []float64
}

// cost is what it costs to have the control at a place.
func (d *movable) cost(at int) float64 {
	if d.costs == nil {
		return 0
	}
	return d.costs[at]
}

// A line that is held is given up only for what is worth it: givingUp is how much nearer the whole has to come for each just-noticeable difference that a line is
// moved beyond the first, mostGivenUp for a line at the most. An excerpt of one line does not tell what another line of the music would: a release of 20 s for one of 1 s
// may sound the same there.
const (
	givingUp    = 0.03
	mostGivenUp = 1.0
)

// unstable is the resonance, and the share of feedback, from which on something may sound by itself: the search keeps below it by the uncertainty of the scale.
const unstable = 1.0

// lines tells of a control what it costs to move lines that are held, and where it would let something sound by itself.
func (t *Task) lines(d *movable) {
	places := t.Target.Places(d.control)
	for b := range t.Target.Controls[d.control].Means {
		bind := &t.Target.Controls[d.control].Means[b]
		p, err := t.Target.Param(bind.Param)
		if err != nil || p.Dim.Named() {
			continue
		}
		scale := t.Target.Scale(panel.BindRef{Control: d.control, Bind: b})
		_, name := meaning.Split(bind.Param)
		if p.Dim == q.DimResonance || name == meaning.PFeedback {
			t.stable(d, scale, places)
		}
		held := slices.ContainsFunc(t.Sheet.Glosses, func(g gloss.Gloss) bool {
			return g.TargetParam == bind.Param && (g.Verdict == gloss.Held || g.Verdict == gloss.Near) && slices.ContainsFunc(g.Target, func(x gloss.Reading) bool { return x.Control == t.Target.Controls[d.control].ID })
		})
		was, set := scale.Quantity(places[d.from])
		if !held || !set {
			continue
		}
		if d.costs == nil {
			d.costs = make([]float64, len(places))
		}
		for i, at := range places {
			if v, ok := scale.Quantity(at); ok {
				_, jnds := plan.Compare(p, was, v, nil, nil)
				d.costs[i] = max(d.costs[i], min(mostGivenUp, givingUp*max(0, jnds-1)))
			}
		}
	}
}

// stable leaves out the places at the ends of a travel where something might sound by itself, beyond where the plan has the control.
func (t *Task) stable(d *movable, on *scale.Worked, places []position) {
	safe := func(i int) bool {
		v, ok := on.Quantity(places[i])
		return !ok || v.Off || v.Value+q.Cover*v.Tol < unstable
	}
	for d.top > d.from && !safe(d.top) {
		d.top--
	}
	for d.least < d.from && !safe(d.least) {
		d.least++
	}
}

// played are parameters that no rendering hears or that are how an instrument is played: they stay where the plan has them.
var played = []meaning.ParamName{meaning.PBend, meaning.PPriority, meaning.PTrigger, meaning.PMode, meaning.PCount, meaning.PGlide, meaning.PGlideLaw, meaning.PGlideWhen, meaning.PTranspose, meaning.PTune, meaning.PChord}

// earlier is the order in which controls are tried: what is heard most as a rule comes first (common practice, no source).
var earlier = map[meaning.ParamName]int{meaning.PCutoff: 1, meaning.PDepth: 2, meaning.PAmount: 2, meaning.PWave: 2, meaning.PMode: 2, meaning.PSustain: 3, meaning.PDecay: 3, meaning.PResonance: 3, meaning.PAttack: 4, meaning.PRelease: 4,
	meaning.PLevel: 4, meaning.PWidth: 5, meaning.PFrame: 5, meaning.PMix: 5, meaning.PGain: 6, meaning.PDrive: 6, meaning.PRate: 6}

// movables lists the controls that play a part, or could bring one in, but for those set by hand or to be kept; words among them.
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
	got := t.Target.Interpret(state, q.Tempo(t.Patch.Tempo))
	var out []movable
	for _, x := range t.Sheet.Settings {
		i, ok := t.Target.ControlIndex(x.Control)
		if !ok || x.Overridden && x.Action == gloss.Set || kept[x.Control] {
			continue
		}
		d := movable{control: i, at: -1, first: 9}
		places := t.Target.Places(i)
		if len(places) < 2 || !t.mayMove(i, got, state, &d) {
			continue
		}
		d.at = slices.IndexFunc(places, func(p scale.Position) bool { return p.Index == state.At[i].Index })
		if d.at < 0 || d.words && len(places) > 8 {
			continue
		}
		d.from, d.top, d.step = d.at, len(places)-1, max(1, len(places)/5)
		t.lines(&d)
		if d.words {
			d.step = 1
		}
		out = append(out, d)
	}
	slices.SortStableFunc(out, func(a, b movable) int { return cmp.Compare(a.first, b.first) })
	return out
}

// isVolume tells whether a control sets the level of the amplifier and nothing else.
func (t *Task) isVolume(control int, state *panel.State) bool {
	c := &t.Target.Controls[control]
	if len(c.Means) != 1 || !t.Target.Holds(c.Means[0].When, state) {
		return false
	}
	id, name := meaning.Split(c.Means[0].Param)
	i, ok := t.Target.ModuleIndex(id)
	return ok && name == meaning.PLevel && t.Target.Modules[i].Kind == meaning.Amp
}

// mayMove tells whether a control sets something that sounds here, and nothing that has to stay.
func (t *Task) mayMove(control int, got *meaning.Meaning, state *panel.State, d *movable) bool {
	sounds := false
	for b := range t.Target.Controls[control].Means {
		bind := &t.Target.Controls[control].Means[b]
		p, err := t.Target.Param(bind.Param)
		if err != nil {
			return false
		}
		if !t.Target.Holds(bind.When, state) {
			continue
		}
		id, name := meaning.Split(bind.Param)
		m, r := got.Module(id), got.Route(id)
		switch {
		case slices.Contains(played, name) && m != nil && m.Kind == meaning.Voice:
			return false
		case p.Sums && bind.Part != "fine" || p.Dim == q.DimInterval && bind.Part == "octave":
			return false
		case p.Dim == q.DimInterval && m != nil && t.inTune(bind.Param):
			return false // where beats happen to stand would be taken for what is nearer
		case name == meaning.PSource || name == meaning.PDest || name == meaning.PScaler || name == meaning.PCurve && m == nil || name == meaning.PTable || name == meaning.PPlace || name == meaning.PRouting || name == meaning.PTo && m != nil && m.Kind == meaning.Send:
			return false
		case r != nil && r.Used() && r.From != "gate" && got.Opens(r):
			return false // what opens the amplifier by a part alone does not shut it: the note would never end
		case p.Dim.Named() || p.Dim == q.DimCount:
			d.words = true
		}
		if m != nil {
			sounds = sounds || m.Used() && m.Heard(name) || wakes(m, name)
		}
		rests := r != nil && r.Idle == "its depth is 0" && wakesRoute(got, r)
		if r != nil {
			sounds = sounds || r.Used() || rests
		}
		if f, ok := earlier[name]; ok {
			if m != nil && !m.Used() || r != nil && !r.Used() {
				f = 8 // what is not in use comes last
			}
			d.first = min(d.first, f)
		}
	}
	return sounds
}

// inTune tells whether a line says that a parameter of the target has come within a few just-noticeable differences of what was asked.
func (t *Task) inTune(param string) bool {
	return slices.ContainsFunc(t.Sheet.Glosses, func(g gloss.Gloss) bool { return g.TargetParam == param && g.JNDs <= tuneMatters })
}

// tuneMatters is how many just-noticeable differences of pitch are left alone.
const tuneMatters = 3

// wakesRoute tells whether a route at rest is worth a try: from an envelope in use to something in use.
func wakesRoute(got *meaning.Meaning, r *meaning.Route) bool {
	from := got.Module(r.From)
	return from != nil && from.Kind == meaning.Env && slices.ContainsFunc(r.To, func(to string) bool {
		id, name := meaning.Split(to)
		d := got.Module(id)
		return d != nil && d.Used() && name != meaning.PInterval && name != meaning.PTune
	})
}

// wakes tells whether a parameter of a silent module is what keeps it silent, so that raising it brings it in.
func wakes(m *meaning.Module, name meaning.ParamName) bool {
	if m.Used() || m.Absent {
		return false
	}
	switch name {
	case meaning.PLevel, meaning.PMix, meaning.PGain:
		return slices.Contains(meaning.SpecOf(m.Kind).Silence, name)
	}
	return false
}
