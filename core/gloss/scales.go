package gloss

import (
	"math"

	q "glossator/core/quantity"

	"glossator/core/dsp"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/scale"
)

// Side is one panel's scale along the axis.
type Side struct {
	Panel   string       `json:"panel"`
	Control string       `json:"control"`
	Label   string       `json:"label"`
	Reading string       `json:"reading"`
	Ticks   []scale.Tick `json:"ticks"`
	// Law says in words what the scale is and where it is known from.
	Law string `json:"law"`
}

// Scales is two scales laid along one physical axis.
type Scales struct {
	Gloss string `json:"gloss"`
	Label string `json:"label"`
	// Named is set where the two sides are lists of words without an axis.
	Named     bool `json:"named"`
	Geometric bool `json:"geometric"`
	// Writing is how numbers of the axis are written, Marks are round ones along it.
	Writing     []q.Writing `json:"writing"`
	Marks       []AxisMark  `json:"marks"`
	Min         float64     `json:"min"`
	Max         float64     `json:"max"`
	Source      *Side       `json:"source,omitempty"`
	Target      *Side       `json:"target,omitempty"`
	Wanted      *Figure     `json:"wanted,omitempty"`
	Reached     *Figure     `json:"reached,omitempty"`
	Low         float64     `json:"low"`
	High        float64     `json:"high"`
	Explanation string      `json:"explanation"`
}

// ScalesOf lays the source's and the target's scale of a line along its axis. The tolerance
// band, Low to High, is the wanted value's at k = 2.
func (in *Input) ScalesOf(g *Gloss) *Scales {
	r := &Scales{Writing: []q.Writing{}, Marks: []AxisMark{}, Gloss: g.ID, Label: g.Section + ": " + g.Label, Wanted: g.Wanted, Reached: g.Reached}
	if len(g.Source) > 0 {
		k, _ := in.Source.ControlIndex(g.Source[len(g.Source)-1].Control)
		r.Source = in.edge(in.Source, k, in.From, g.Param, in.Plan.Wanted, nil, g.Wanted)
	}
	if len(g.Target) > 0 && !g.Target[0].Outside { // the rack has scales of its own, on its own sheet
		at, longest := 0, 0
		for i, t := range g.Target { // the control with most steps that is bound to the line's parameter
			k, _ := in.Target.ControlIndex(t.Control)
			for _, b := range in.Target.Controls[k].Means {
				if n := in.Target.Controls[k].Face.Len(); b.Param == g.TargetParam && n > longest {
					at, longest = i, n
				}
			}
		}
		k, _ := in.Target.ControlIndex(g.Target[at].Control)
		r.Target = in.edge(in.Target.Compiled, k, in.Set.State, g.TargetParam, in.Got, g, g.Reached)
	}
	if g.Wanted == nil {
		r.Named, r.Explanation = true, "This line has no quantity: the control is only put where it does nothing."
		return r
	}
	if g.Verdict == Recast && (g.Reached == nil || g.Reached.Quantity.Dim != g.Wanted.Quantity.Dim) {
		r.Target, r.Explanation = nil, "Made by other means: the target has no scale on this axis. "+g.Reason+"."
	}
	w := g.Wanted.Quantity
	r.Geometric = w.Dim.Geometric()
	r.Named = w.Dim.Named()
	if r.Named {
		r.Explanation = "Words have no axis: the entries of both controls are listed."
		return r
	}
	r.span()
	r.Writing, r.Marks = w.Dim.Writings(), marks(w.Dim, r.Min, r.Max)
	if !w.Off {
		t := q.Cover * w.Tol
		r.Low, r.High = w.Value-t, w.Value+t
		if r.Geometric {
			r.Low, r.High = w.Value*math.Exp(-t), w.Value*math.Exp(t)
		}
	}
	return r
}

// span sets the ends of the axis to hold every tick of both edges.
func (r *Scales) span() {
	r.Min, r.Max = math.Inf(1), math.Inf(-1)
	for _, e := range []*Side{r.Source, r.Target} {
		if e == nil {
			continue
		}
		for _, t := range e.Ticks {
			if !t.Off {
				r.Min, r.Max = math.Min(r.Min, t.Value), math.Max(r.Max, t.Value)
			}
		}
	}
	if w := r.Wanted.Quantity; !w.Off && (!r.Geometric || w.Value > 0) {
		r.Min, r.Max = math.Min(r.Min, w.Value), math.Max(r.Max, w.Value)
	}
	if math.IsInf(r.Min, 0) || math.IsInf(r.Max, 0) {
		r.Min, r.Max = 0, 1
	}
	if r.Min == r.Max {
		if r.Geometric && r.Min > 0 {
			r.Min, r.Max = r.Min/2, r.Max*2
		} else {
			r.Min, r.Max = r.Min-1, r.Max+1
		}
	}
}

// edge gives the ticks of a control in the meaning's own quantity, the other controls
// staying as they are; shown is what the line says of this side, g the line where it is the
// target's.
func (in *Input) edge(c *panel.Compiled, k int, s *panel.State, ref string, m *meaning.Meaning, g *Gloss, shown *Figure) *Side {
	d := &c.Controls[k]
	e := &Side{Panel: c.Name, Control: d.ID, Label: d.Label, Reading: s.At[k].Reading, Ticks: []scale.Tick{}}
	var b *panel.Bind
	for i := range d.Means {
		if (d.Means[i].Param == ref || b == nil) && c.Holds(d.Means[i].When, s) {
			if b != nil && b.Param == ref {
				break
			}
			b = &d.Means[i]
		}
	}
	if b == nil {
		for i := range min(d.Face.Len(), scale.MaxTicks) {
			at := d.Face.At(i)
			e.Ticks = append(e.Ticks, scale.Tick{Value: at.Travel, Reading: at.Reading, Major: true, Text: at.Reading})
		}
		e.Law = "chooses what else is there"
		return e
	}
	e.Law = b.Law.String()
	toAxis := in.axis(c, b, m, g, shown)
	p, _ := c.Param(b.Param)
	e.Ticks = scale.Ticks(d.Face, b.Law, func(v q.Quantity) q.Quantity {
		v, _ = panel.Adapt(v, p.Dim, in.Plan.Wanted.Tempo)
		return toAxis(v)
	})
	return e
}

// axis gives the way from what a control's law gives to the quantity of the line.
func (in *Input) axis(c *panel.Compiled, b *panel.Bind, m *meaning.Meaning, g *Gloss, shown *Figure) func(q.Quantity) q.Quantity {
	same := func(v q.Quantity) q.Quantity { return v }
	id, name := meaning.Split(b.Param)
	mod := m.Module(id)
	switch {
	case mod == nil && name == meaning.PAmount:
		r := m.Route(id)
		if r == nil || len(r.To) == 0 {
			return same
		}
		full := c.Full(r.Extra[meaning.PDest].Name)
		return func(v q.Quantity) q.Quantity {
			return q.Quantity{Dim: full.Dim, Value: v.Value * full.Value, Off: v.Off}
		}
	case mod == nil:
		return same
	case mod.Kind == meaning.Atten && shown != nil:
		gain, full := mod.Params[meaning.PGain].Value, shown.Quantity
		if gain == 0 {
			return same
		}
		return func(v q.Quantity) q.Quantity {
			return q.Quantity{Dim: full.Dim, Value: v.Value * full.Value / gain}
		}
	case name == meaning.PCutoff:
		i, _ := c.ModuleIndex(id)
		track, _ := mod.Get(meaning.PTrack)
		f := panel.AtMiddleC(track.Value, c.Pivot(i))
		return func(v q.Quantity) q.Quantity { v.Value *= f; return v }
	case name == meaning.PInterval && g != nil && len(g.Source) > 1:
		// one sum: the other controls add what they add now
		k, rest := mod.Params[name], 0.0
		for part, v := range k.Parts {
			if part != b.Part {
				rest += v.Value
			}
		}
		return func(v q.Quantity) q.Quantity { v.Value += rest; return v }
	case name == meaning.PResonance && g != nil:
		wid, _ := meaning.Split(g.Param)
		w := in.Plan.Wanted.Module(wid)
		if w == nil {
			return same
		}
		from, _ := w.Get(meaning.PPoles)
		to, _ := mod.Get(meaning.PPoles)
		return func(v q.Quantity) q.Quantity {
			v.Value = dsp.EqualPeak(v.Value, int(to.Value), int(from.Value))
			return v
		}
	}
	return same
}
