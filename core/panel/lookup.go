package panel

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// routeParams and slotParams are what laws may set of a route and of a slot.
var (
	routeParams = []meaning.ParamName{meaning.PDepth, meaning.POn, meaning.PCurve, meaning.PPolarity}
	slotParams  = []meaning.ParamName{meaning.PAmount, meaning.PSource, meaning.PDest, meaning.PScaler, meaning.POn, meaning.PPolarity, meaning.PCurve}
)

// Param gives the vocabulary's entry for a parameter of this panel.
func (c *Compiled) Param(ref string) (meaning.Param, error) {
	owner, name := meaning.Split(ref)
	if i, ok := c.module[owner]; ok {
		spec := meaning.SpecOf(c.Modules[i].Kind)
		if spec == nil {
			return meaning.Param{}, fmt.Errorf("module %q has no kind", owner)
		}
		if p, ok := spec.Param(name); ok {
			return p, nil
		}
		return meaning.Param{}, fmt.Errorf("expected a parameter of %s (%s), got %q", spec.Kind, strings.Join(spec.Names(), ", "), name)
	}
	spec := meaning.SpecOf(meaning.RouteKind)
	if i, ok := c.route[owner]; ok && slices.Contains(routeParams, name) {
		if name == meaning.PDepth && len(c.Routes[i].To) > 0 {
			return c.depthParam(c.Routes[i].To[0])
		}
		p, _ := spec.Param(name)
		return p, nil
	}
	if _, ok := c.slot[owner]; ok && slices.Contains(slotParams, name) {
		p, _ := spec.Param(name)
		return p, nil
	}
	return meaning.Param{}, fmt.Errorf("expected MODULE.PARAMETER, ROUTE.depth, ROUTE.on or SLOT.source, dest, amount, got %q", ref)
}

func (c *Compiled) depthParam(dest string) (meaning.Param, error) {
	p, err := c.Param(dest)
	if err != nil {
		return meaning.Param{}, err
	}
	return meaning.DepthParam(p.Dim), nil
}

// ControlIndex finds a control by its id.
func (c *Compiled) ControlIndex(id string) (int, bool) { i, ok := c.control[id]; return i, ok }

// ModuleIndex finds a module by its id.
func (c *Compiled) ModuleIndex(id string) (int, bool) { i, ok := c.module[id]; return i, ok }

// RouteIndex finds a wired or switched route by its id.
func (c *Compiled) RouteIndex(id string) (int, bool) { i, ok := c.route[id]; return i, ok }

// Binds lists the bindings of a parameter, in panel order.
func (c *Compiled) Binds(ref string) []BindRef { return c.binds[ref] }

// Bind gives a binding.
func (c *Compiled) Bind(r BindRef) *Bind { return &c.Controls[r.Control].Means[r.Bind] }

// Parse reads a text as a control shows it, as people say where it stands or, where what it sets is known by a law, as the quantity that is meant: "200 ms" is the nearest reading to that. The
// error says what was expected, what is possible, and what to write for what was probably meant.
func (c *Compiled) Parse(control int, text string) (scale.Position, error) {
	if i, ok := c.table(control).index[text]; ok {
		return c.places[control][i], nil
	}
	f := c.Controls[control].Face
	pos, err := f.Parse(text)
	if err == nil || f.Kind == scale.Text {
		return pos, err
	}
	if at, ok, e := c.physical(control, text); ok || e != nil {
		return at, e
	}
	return pos, err
}

// physical reads a quantity, or from one to another, by the laws of a control; ok is false where the text is no quantity of what it sets.
func (c *Compiled) physical(control int, text string) (p scale.Position, ok bool, err error) {
	bare := strings.TrimSpace(strings.TrimLeft(text, "~≈ "))
	switch strings.ToLower(bare) {
	case "off", "none", "nothing", "no":
		return c.none(control)
	}
	if a, b, is := scale.Span(bare); is {
		from, ok1, _ := c.physical(control, a)
		to, ok2, _ := c.physical(control, b)
		if ok1 && ok2 {
			return scale.Midway(from, to, strings.ToLower(bare)), true, nil
		}
		return p, false, nil
	}
	e, err := q.Parse(text)
	if err != nil || e.Form == q.FormNumber || e.Form == q.FormWord || e.Form == q.FormShare || e.Form == q.FormClock || e.Form == q.FormOff {
		return p, false, nil
	}
	want, err := e.Quantity()
	if err != nil {
		return p, false, nil
	}
	k := &c.Controls[control]
	for j := range k.Means {
		law := k.Means[j].Law
		v := want
		if v.Dim == q.DimOctaves && law.Dim() == q.DimInterval {
			v.Dim, v.Value = q.DimInterval, v.Value*1200
		}
		if v.Dim != law.Dim() || law.Dim().Named() {
			continue
		}
		set, err := c.table(control).laws[j].Inverse(law.Said(v))
		if err != nil {
			continue
		}
		if set.Clamped {
			end, _ := law.Quantity(set.Position)
			most := "least"
			if law.Said(v).Value > end.Value {
				most = "most"
			}
			return p, false, fmt.Errorf("%q is beyond the end: the %s here is %s, at %s", bare, most, law.Shown(end), set.Reading)
		}
		if law.Kind == scale.Listed && set.Error > 0.02*set.Step { // 17' is not 16'
			continue
		}
		return set.Position, true, nil
	}
	return p, false, nil
}

// none finds the position at which a control adds nothing: one whose law says off or nothing, else the lowest of a scale that goes one way.
func (c *Compiled) none(control int) (p scale.Position, ok bool, err error) {
	k := &c.Controls[control]
	places := c.places[control]
	for j := range k.Means {
		law := c.Controls[control].Means[j].Law
		if law.Dim().Named() {
			continue
		}
		best, least, span := -1, 0.0, 0.0
		for i := range places {
			v, set := law.Quantity(places[i])
			span = max(span, math.Abs(v.Value))
			switch {
			case !set:
			case v.Off:
				return places[i], true, nil
			case v.Dim != q.DimFrequency && v.Dim != q.DimDuration && v.Dim != q.DimLevel && (best < 0 || math.Abs(v.Value) < least):
				best, least = i, math.Abs(v.Value)
			}
		}
		if best >= 0 && least < 1e-4*span || best >= 0 && places[best].Travel == 0 {
			return places[best], true, nil
		}
	}
	if f := k.Face; len(places) > 0 && !f.Discrete() && !(f.Kind == scale.Numeric && f.Min < 0) {
		return places[0], true, nil
	}
	return p, false, nil
}

// ParamBinds lists the bindings of a module's n-th parameter in the vocabulary's order.
func (c *Compiled) ParamBinds(module, n int) []BindRef { return c.params[module][n].binds }

// Structural lists the controls of a module that have to be tried in every position: those
// that its bindings depend on, and lists that set several parameters or a wave.
func (c *Compiled) Structural(module int) []int { return c.structural[module] }

func (c *Compiled) findStructural(module int) []int {
	count := map[int]int{}
	structural := map[int]bool{}
	for _, p := range c.params[module] {
		for _, ref := range p.binds {
			count[ref.Control]++
			b := c.Bind(ref)
			for i := range b.When {
				structural[c.whens[&b.When[i]].control] = true
			}
			if c.Controls[ref.Control].Face.Discrete() && (count[ref.Control] > 1 || p.Dim == q.DimWave) {
				structural[ref.Control] = true
			}
		}
	}
	out := make([]int, 0, len(structural))
	for k := range structural {
		out = append(out, k)
	}
	sort.Ints(out)
	return out
}

// Decided lists the module's parameters, by their place in the vocabulary, that the structural
// controls alone decide.
func (c *Compiled) Decided(module int) []int { return c.decided[module] }

func (c *Compiled) findDecided(module int) []int {
	var out []int
	for n, p := range c.params[module] {
		all := len(p.binds) > 0
		for _, ref := range p.binds {
			_, in := slices.BinarySearch(c.structural[module], ref.Control)
			all = all && in
		}
		if all {
			out = append(out, n)
		}
	}
	return out
}

// Expects says in words what a control takes.
func (c *Compiled) Expects(control int) string { return c.expects[control] }

// Scale gives the worked-out scale of a binding.
func (c *Compiled) Scale(r BindRef) *scale.Worked { return c.table(r.Control).laws[r.Bind] }

// table works a control's scales out, once; it may be called from several goroutines.
func (c *Compiled) table(control int) *table {
	t := &c.tables[control]
	t.once.Do(func() {
		k := &c.Controls[control]
		for j := range k.Means {
			t.laws = append(t.laws, scale.WorkOutAt(c.places[control], c.syncLaw(&k.Means[j])))
		}
		t.index = make(map[string]int, len(c.places[control]))
		for n, p := range c.places[control] {
			t.index[p.Reading] = n
		}
	})
	return t
}

// syncLaw gives the law of a binding. Where it names the oscillator that a sync takes without a name (meaning.SyncedTo) it is "on": another panel has other ids.
func (c *Compiled) syncLaw(b *Bind) scale.Law {
	id, name := meaning.Split(b.Param)
	if name != meaning.PSync || b.Law.Kind != scale.Listed {
		return b.Law
	}
	out := b.Law
	out.Values = slices.Clone(b.Law.Values)
	for i, v := range out.Values {
		if s, ok := v.(string); ok {
			out.Values[i] = c.syncWord(id, s)
		}
	}
	return out
}

// syncWord gives "on" for the id of the oscillator that a sync takes without a name, and other words as they are.
func (c *Compiled) syncWord(slave, word string) string {
	before, next, met := "", "", false
	for i := range c.Modules {
		switch d := &c.Modules[i]; {
		case d.Kind != meaning.Osc:
		case d.ID == slave:
			met = true
		case !met:
			before = d.ID
		case next == "":
			next = d.ID
		}
	}
	if met && word != "" && (word == before || before == "" && word == next) {
		return "on"
	}
	return word
}

// Places lists the positions of a control's face.
func (c *Compiled) Places(control int) []scale.Position { return c.places[control] }

// Init gives the position of a control at init.
func (c *Compiled) Init(i int) scale.Position { return c.inits[i] }

// AtInit tells whether a position of a control is what init holds. A text has no travel: its
// words count.
func (c *Compiled) AtInit(control int, at scale.Position) bool {
	init := c.inits[control]
	if c.Controls[control].Face.Kind == scale.Text {
		return at.Reading == init.Reading
	}
	return at.Index == init.Index && at.Travel == init.Travel
}

// OnlyWritten tells whether a control is only written down: it sets no parameter, and nothing
// depends on where it stands.
func (c *Compiled) OnlyWritten(control int) bool {
	return len(c.Controls[control].Means) == 0 && !c.chooses[control]
}

// StepOf gives the stage of the work of a control.
func (c *Compiled) StepOf(i int) meaning.Step { return c.stepOf[c.Controls[i].Section] }

// SectionLabel gives the label of a control's section.
func (c *Compiled) SectionLabel(i int) string { return c.sectionN[c.Controls[i].Section] }

// Cond gives a condition's control and the positions at which it holds.
func (c *Compiled) Cond(w *When) (control int, in map[int]bool) {
	k := c.whens[w]
	return k.control, k.in
}

// Full gives the depth of a destination of the matrix at an amount of 100 %.
func (c *Compiled) Full(dest string) q.Quantity { return c.depths["dest:"+dest] }

// PointDepth gives the depth of an input point at full signal.
func (c *Compiled) PointDepth(point string) q.Quantity { return c.depths["point:"+point] }

// Pivot gives the note at which a module's frequency is as printed.
func (c *Compiled) Pivot(module int) q.Note { return c.pivots[module] }
