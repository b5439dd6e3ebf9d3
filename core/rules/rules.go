// Package rules has the ways to make a part of a sound by other means: a sub oscillator for a
// low oscillator, a delay for a chorus, an envelope for a gate. Each rule is one file and one
// row of Table.
//
// A rule of Table rewrites the wanted meaning. translate then asks whether the target plays the
// rewritten meaning so much better that it is worth the rule's penalty. A rule of InPlace rewrites
// nothing: it is how a single setting goes over where the two panels have no like for like, and says
// so on the line that it touches.
package rules

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// Rule is one way to make a part, or a single setting, by other means.
type Rule struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Needs says what has to be so, Uses what it takes on the target.
	Needs string `json:"needs"`
	Uses  string `json:"uses"`
	// Penalty is what the rule costs even where it fits exactly, as a share of losing the part;
	// Why says for what.
	Penalty float64 `json:"penalty"`
	Why     string  `json:"why"`
	Source  string  `json:"source"`
	// Player is set where the player has something to do while playing.
	Player bool `json:"player"`

	try  func(c *Case) []Recast
	says func(l *Line) string
}

// Table lists the rules that rewrite a meaning.
var Table = []*Rule{
	&macros, &carriers, &gate, &sharedEnvelope, &copied, &envelopeLFO, &stages, &struck, &amps, &broughtIn,
	&sub, &oscFM, &operators, &asOperator, &warped, &shaped, &unison, &voiceUnison, &movedWidth, &pulseSaws, &inTune, &chord, &heldChord, &sync, &resonant, &syncedNote, &ring, &lowIndex, &click,
	&whistle, &buzz, &bands, &notch, &kind, &oneFilter, &response, &comb, &colour, &drive, &overflow,
	&octave, &transposed, &combined, &split, &source, &polarity, &filterFM, &fade, &heldWheel, &roughNoise, &keyRate, &pwm,
	&chorus, &movedDelay, &echoes, &reverb, &width, &send, &byHand,
}

// InPlace lists the rules by which single settings go over.
var InPlace = []*Rule{
	&initTraps, &transpose, &glide, &trigger, &nearestWave, &tableFrame, &slopes, &pivot, &divisions, &chance, &slot, &cable, &middle, &layer, &rack,
}

// Named finds a rule of either table; nil where there is none.
func Named(id string) *Rule {
	for _, list := range [][]*Rule{Table, InPlace} {
		for _, r := range list {
			if r.ID == id {
				return r
			}
		}
	}
	return nil
}

// Line is a setting on its way to a target, for the rules of InPlace. Only what a line has is set.
type Line struct {
	// Param is the parameter that the line is of.
	Param meaning.Param
	// Want and Got are its values there and here, with the modules they are of.
	Want, Got meaning.Value
	From, To  *meaning.Module
	// FromPivot and ToPivot are the notes at which frequencies are as printed.
	FromPivot, ToPivot q.Note
	Tempo              q.Tempo
	// Sum is set where several controls of the source go over as one sum.
	Sum bool
	// Bent is set where the difference is heard.
	Bent bool
	// Route is the source's route of the line, Means how it is made here ("slot", "cable") and By by what.
	Route     *meaning.Route
	Means, By string
	// Panel is the target's name, Init what a control of it holds after init that the patch has not.
	Panel, Init string
	// Low counts the low oscillators that a use of a rule leaves out of what spreads.
	Low int
	// Missing lists sounding parts that are left out, Rack the outboard rack that plays the line.
	Missing []string
	Rack    string
}

// Says gives what a rule of InPlace has to say on a line; empty where it does not apply.
func (r *Rule) Says(l *Line) string { return r.says(l) }

// Case is a meaning on its way to a target, with what of it the target does not play so far.
type Case struct {
	Meaning *meaning.Meaning
	// Lost holds the ids of modules and routes that are left out.
	Lost map[string]bool
	// Have counts the target's modules of a kind.
	Have func(k meaning.Kind) int
	// Param tells whether a module of a kind on the target has a parameter.
	Param func(k meaning.Kind, name meaning.ParamName) bool
	// Word tells whether a module of a kind on the target can have a word for a parameter.
	Word func(k meaning.Kind, param meaning.ParamName, word string) bool
	// Moves tells whether anything of a kind can move a parameter of a kind of module on the target.
	Moves func(by, k meaning.Kind, name meaning.ParamName) bool
	// Reached gives the number that a parameter of a module comes to where it is played now; ok is
	// false where it is not.
	Reached func(id string, param meaning.ParamName) (value float64, ok bool)
	// Weight is what it costs to lose a module or route, by id.
	Weight func(id string) float64
	// Wheel is where the modulation wheel is held, 0 to 1.
	Wheel float64
	// Note is the middle of the notes that the patch is played at; 0 for middle C.
	Note q.Note
}

// Recast is a meaning with some of its parts made by other means.
type Recast struct {
	Rule *Rule
	// Parts are the ids of the modules and routes that are made by other means.
	Parts []string
	// Text is the gloss: what is done instead, and what is lost by it.
	Text    string
	Penalty float64
	// Before is the meaning that the use was made of, Meaning what has become of it.
	Before, Meaning *meaning.Meaning
	// Gone holds the routes that are lost with a part: what they moved is not there any more.
	Gone map[string]bool
	// Key names the use among those that a search has looked at: by its rule and parts and, where the rule has several ways with them, by which; Ways is how many it has.
	Key  string
	Ways int
	// Also lists rules in place that the use follows besides.
	Also []*Rule
	// Moved gives the new id of a module that has been changed or replaced.
	Moved map[string]string
	// Map says where a parameter of a part or of a moved module went: "osc3.level" is now
	// "osc3~.level". What is not in it goes with the whole.
	Map map[string]string
}

// Source gives the id of the part of the source that a part of the use is, stands for or was added for.
func (r *Recast) Source(id string) string {
	if m := r.Before.Module(id); m != nil {
		return m.Source()
	}
	if x := r.Before.Route(id); x != nil {
		return x.Source()
	}
	return id
}

// First gives the id that a part of the use had before any rule changed it.
func (r *Recast) First(id string) string {
	if m := r.Before.Module(id); m != nil && m.Changed() {
		return m.First
	}
	if x := r.Before.Route(id); x != nil && x.Changed() {
		return x.First
	}
	return id
}

// Try gives what a rule can do in a case.
func (r *Rule) Try(c *Case) []Recast {
	out := r.try(c)
	for i := range out {
		out[i].Rule = r
		for _, id := range out[i].Parts {
			if out[i].Gone[id] {
				out[i].Penalty += c.Weight(id)
				continue
			}
			out[i].Penalty += r.Penalty * c.Weight(id)
		}
	}
	return out
}

// lost lists the used modules of some kinds that are left out.
func (c *Case) lost(kinds ...meaning.Kind) []*meaning.Module {
	var out []*meaning.Module
	for i := range c.Meaning.Modules {
		m := &c.Meaning.Modules[i]
		if m.Used() && c.Lost[m.ID] && slices.Contains(kinds, m.Kind) {
			out = append(out, m)
		}
	}
	return byID(out)
}

// byID puts modules in the order of their ids: what a rule does must not hang on the order in
// which a panel lists them.
func byID(list []*meaning.Module) []*meaning.Module {
	slices.SortFunc(list, func(a, b *meaning.Module) int { return strings.Compare(a.ID, b.ID) })
	return list
}

func routesByID(list []*meaning.Route) []*meaning.Route {
	slices.SortFunc(list, func(a, b *meaning.Route) int { return strings.Compare(a.ID, b.ID) })
	return list
}

// lostRoutes lists the used routes that are left out.
func (c *Case) lostRoutes() []*meaning.Route {
	var out []*meaning.Route
	for i := range c.Meaning.Routes {
		if r := &c.Meaning.Routes[i]; r.Used() && c.Lost[r.ID] {
			out = append(out, r)
		}
	}
	return routesByID(out)
}

func (c *Case) used(kind meaning.Kind) []*meaning.Module {
	var out []*meaning.Module
	for i := range c.Meaning.Modules {
		if m := &c.Meaning.Modules[i]; m.Used() && m.Kind == kind {
			out = append(out, m)
		}
	}
	return byID(out)
}

// into lists the used routes that move a parameter ("osc1.width"), or any of a module where
// param is empty.
func (c *Case) into(id string, param meaning.ParamName) []*meaning.Route {
	var out []*meaning.Route
	for i := range c.Meaning.Routes {
		r := &c.Meaning.Routes[i]
		for _, d := range r.To {
			m, p := meaning.Split(d)
			if r.Used() && m == id && (param == "" || p == param) {
				out = append(out, r)
				break
			}
		}
	}
	return routesByID(out)
}

// routes lists the used routes.
func (c *Case) routes() []*meaning.Route {
	var out []*meaning.Route
	for i := range c.Meaning.Routes {
		if r := &c.Meaning.Routes[i]; r.Used() {
			out = append(out, r)
		}
	}
	return routesByID(out)
}

// from lists the used routes that a source drives.
func (c *Case) from(id string) []*meaning.Route {
	var out []*meaning.Route
	for i := range c.Meaning.Routes {
		if r := &c.Meaning.Routes[i]; r.Used() && r.From == id {
			out = append(out, r)
		}
	}
	return routesByID(out)
}

// edit is a recast that is being made; own holds the ids of modules that may be changed.
type edit struct {
	Recast
	own map[string]bool
}

// begin copies the meaning, so far that modules and routes can be changed.
func (c *Case) begin(text string, args ...any) *edit {
	m := *c.Meaning
	m.Modules = slices.Clone(m.Modules)
	m.Routes = slices.Clone(m.Routes)
	return &edit{Recast{Text: fmt.Sprintf(text, args...), Before: c.Meaning, Meaning: &m, Map: map[string]string{}, Moved: map[string]string{}, Gone: map[string]bool{}}, map[string]bool{}}
}

// part notes that a module or route is made by other means.
func (e *edit) part(id string) {
	if !slices.Contains(e.Parts, id) {
		e.Parts = append(e.Parts, id)
	}
}

// worse notes that the parts come out worse by a share, 0 to 1, of what the rule's penalty leaves of them.
func (e *edit) worse(c *Case, penalty, share float64) {
	for _, id := range e.Parts {
		if !e.Gone[id] {
			e.Penalty += (1 - penalty) * share * c.Weight(id)
		}
	}
}

// change gives a module of the copy under a new id, ready to be changed. Routes go along.
func (e *edit) change(id string) *meaning.Module {
	m := e.Meaning.Module(id)
	if e.own[id] {
		return m
	}
	to := id + "~"
	for e.Meaning.Module(to) != nil {
		to += "~"
	}
	m.Origin = m.Origin.ChangedFrom(id)
	m.ID, m.Params = to, maps.Clone(m.Params)
	e.own[to], e.Moved[id] = true, to
	for name := range m.Params {
		e.Map[meaning.Ref(id, name)] = meaning.Ref(to, name)
	}
	e.retarget(id, to, func(param meaning.ParamName) meaning.ParamName { return param })
	e.rewire(id, to)
	return m
}

// rewire has the sound go through a module under its new id.
func (e *edit) rewire(from, to string) {
	if !slices.ContainsFunc(e.Meaning.Audio, func(x meaning.Edge) bool { return x.From == from || x.To == from }) {
		return
	}
	e.Meaning.Audio = slices.Clone(e.Meaning.Audio)
	for i := range e.Meaning.Audio {
		x := &e.Meaning.Audio[i]
		if x.From == from {
			x.From = to
		}
		if x.To == from {
			x.To = to
		}
	}
}

// replace puts a module of another kind in place of one. Routes that move it follow where
// param names a parameter of the new one; the others are left out with it.
func (e *edit) replace(id string, kind meaning.Kind, label string, param func(name meaning.ParamName) meaning.ParamName) *meaning.Module {
	e.part(id)
	m := e.change(id)
	old := m.Params
	m.Kind, m.Label, m.Params = kind, label, map[meaning.ParamName]meaning.Value{}
	for name := range old {
		delete(e.Map, meaning.Ref(id, name))
		if p := param(name); p != "" {
			e.Map[meaning.Ref(id, name)] = meaning.Ref(m.ID, p)
		}
	}
	// change has already sent the routes to the new id: rename what they move
	e.retarget(m.ID, m.ID, param)
	return m
}

// retarget sends routes from one module to another.
func (e *edit) retarget(from, to string, param func(name meaning.ParamName) meaning.ParamName) {
	into := func(d string) bool { return len(d) > len(from) && d[len(from)] == '.' && strings.HasPrefix(d, from) }
	if !slices.ContainsFunc(e.Meaning.Routes, func(r meaning.Route) bool { return r.From == from || r.Via == from || slices.ContainsFunc(r.To, into) }) {
		return
	}
	kept := make([]meaning.Route, 0, len(e.Meaning.Routes))
	for i := range e.Meaning.Routes {
		r := e.Meaning.Routes[i]
		if r.From == from {
			r.From = to
		}
		if r.Via == from {
			r.Via = to
		}
		gone := false
		if !slices.ContainsFunc(r.To, into) {
			kept = append(kept, r)
			continue
		}
		dest := make([]string, 0, len(r.To))
		for _, d := range r.To {
			if id, p := meaning.Split(d); id == from {
				if p = param(p); p == "" {
					gone = true
					continue
				}
				d = meaning.Ref(to, p)
			}
			dest = append(dest, d)
		}
		if len(dest) == 0 && gone {
			if r.Used() {
				e.part(r.ID)
				e.Gone[r.ID] = true
			}
			continue
		}
		r.To = dest
		kept = append(kept, r)
	}
	e.Meaning.Routes = kept
}

// drop takes a module out, with the routes from it and into it alone.
func (e *edit) drop(id string) {
	e.part(id)
	for i := range e.Meaning.Modules {
		if e.Meaning.Modules[i].ID == id {
			// a new list: what a rule holds of the old one keeps its place
			e.Meaning.Modules = slices.Concat(e.Meaning.Modules[:i], e.Meaning.Modules[i+1:])
			break
		}
	}
	gone := maps.Clone(e.Gone)
	e.retarget(id, id, func(meaning.ParamName) meaning.ParamName { return "" })
	e.Gone = gone // what moved it goes with what it was for
	kept := make([]meaning.Route, 0, len(e.Meaning.Routes))
	for i := range e.Meaning.Routes {
		if r := &e.Meaning.Routes[i]; r.From == id || r.Via == id {
			if r.Used() {
				e.part(r.ID)
			}
			continue
		}
		kept = append(kept, e.Meaning.Routes[i])
	}
	e.Meaning.Routes = kept
}

// dropRoute takes a route out.
func (e *edit) dropRoute(id string) {
	e.part(id)
	e.Meaning.Routes = slices.DeleteFunc(slices.Clone(e.Meaning.Routes), func(r meaning.Route) bool { return r.ID == id })
}

// route gives a route of the copy under a new id, ready to be changed.
func (e *edit) route(id string) *meaning.Route {
	r := e.Meaning.Route(id)
	e.part(id)
	r.Origin = r.Origin.ChangedFrom(id)
	r.ID = id + "~"
	r.To = slices.Clone(r.To)
	for _, name := range []meaning.ParamName{meaning.PDepth, meaning.PAmount, meaning.POn} {
		e.Map[meaning.Ref(id, name)] = meaning.Ref(r.ID, name)
	}
	return r
}

// add puts a module beside the others, for the sake of a part: a module or a route, as it is or was.
func (e *edit) add(part part, suffix string, kind meaning.Kind, label string) *meaning.Module {
	id, origin := part.added(suffix)
	e.Meaning.Modules = append(e.Meaning.Modules, meaning.Module{ID: id, Kind: kind, Label: label, Params: map[meaning.ParamName]meaning.Value{}, Origin: origin})
	return &e.Meaning.Modules[len(e.Meaning.Modules)-1]
}

// connect puts a route beside the others, for the sake of a part, and gives its id.
func (e *edit) connect(part part, suffix string, r meaning.Route) string {
	r.ID, r.Origin = part.added(suffix)
	e.Meaning.Routes = append(e.Meaning.Routes, r)
	return r.ID
}

// part is what something is added for.
type part struct {
	id string
	meaning.Origin
}

func module(m *meaning.Module) part { return part{m.ID, m.Origin} }

func route(r *meaning.Route) part { return part{r.ID, r.Origin} }

// added gives id and origin of what is added for a part. Ids only have to differ: what they are made of is never read.
func (p part) added(suffix string) (string, meaning.Origin) {
	return p.id + "~" + suffix, p.AddedFor(p.id)
}

// done is the finished recast, where anything has been made by other means.
func (e *edit) done() []Recast { return []Recast{e.Recast} }

// put sets a parameter to a number in its own dimension.
func put(m *meaning.Module, name meaning.ParamName, value float64) {
	p, _ := meaning.SpecOf(m.Kind).Param(name)
	m.Params[name] = meaning.Value{Quantity: q.Quantity{Dim: p.Dim, Value: value}}
}

// word sets a parameter to a word.
func word(m *meaning.Module, name meaning.ParamName, value string) {
	p, _ := meaning.SpecOf(m.Kind).Param(name)
	m.Params[name] = meaning.Value{Quantity: q.Named(p.Dim, value)}
}

// take copies a parameter from another module, with its tolerance. A level that is not stated is full: what has none sounds. What else is not stated is what it
// is on modules of that kind: an oscillator's wave is a saw, and an operator's would be a sine.
func take(m, from *meaning.Module, name, as meaning.ParamName) {
	v, ok := from.Get(name)
	switch neutral, _ := (&meaning.Module{Kind: m.Kind}).Get(as); {
	case ok:
		m.Params[as] = v
	case name == meaning.PLevel:
		m.Params[as] = meaning.Value{Quantity: from.Loud()}
	case v.Dim != "" && v.Dim == neutral.Dim && v.Quantity != neutral.Quantity:
		m.Params[as] = v
	}
}

// get gives a parameter's number, its neutral one where it is not there.
func get(m *meaning.Module, name meaning.ParamName) float64 {
	v, _ := m.Get(name)
	return v.Value
}

// off tells whether a parameter is none.
func off(m *meaning.Module, name meaning.ParamName) bool {
	v, _ := m.Get(name)
	return v.Off
}

func named(m *meaning.Module, name meaning.ParamName) string {
	v, _ := m.Get(name)
	return v.Name
}

// same keeps a parameter's name where the new kind has it too.
func same(kind meaning.Kind) func(meaning.ParamName) meaning.ParamName {
	spec := meaning.SpecOf(kind)
	return func(name meaning.ParamName) meaning.ParamName {
		if _, ok := spec.Param(name); ok {
			return name
		}
		return ""
	}
}

// text writes a number as a quantity.
func text(d q.Dim, v float64) string { return q.Quantity{Dim: d, Value: v}.String() }

// And joins words: "a, b and c".
func And(list []string) string {
	if n := len(list); n > 1 {
		return strings.Join(list[:n-1], ", ") + " and " + list[n-1]
	}
	return strings.Join(list, "")
}
