package rules

import (
	"fmt"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const ampsPenalty = 0.03

// Clicks tells whether an envelope falls to nothing so fast that a click is heard (common practice, no source).
func Clicks(env *meaning.Module) bool {
	return get(env, meaning.PSustain) < 0.02 && get(env, meaning.PDecay) < 0.1
}

var amps = Rule{ID: "amplifiers", Name: "An amplifier's level at another, or at what goes through it",
	Needs: "an amplifier for which the target has none left", Uses: "the level of one before or behind it, or of the sources that go through it alone",
	Penalty: ampsPenalty, Why: "what moved it moves the other, and lines that had envelopes of their own follow one", Source: "arithmetic: gains in a row multiply",
	try: func(c *Case) (out []Recast) {
		for _, m := range c.lost(meaning.Amp) {
			if get(m, meaning.PDrive) > 0 {
				continue
			}
			if x := c.inRow(m); x != nil {
				out = append(out, c.ampInto(m, x).Recast)
				continue
			}
			for _, own := range []bool{true, false} {
				if e := c.ampIntoSources(m, own); e != nil {
					out = append(out, e.Recast)
				}
			}
		}
		return out
	}}

// inRow finds the used amplifier before or behind one that is not left out; where several are before it there is none.
func (c *Case) inRow(m *meaning.Module) (found *meaning.Module) {
	for _, x := range c.used(meaning.Amp) {
		if x.ID == m.ID || !c.Meaning.Leads(x.ID, m.ID) && !c.Meaning.Leads(m.ID, x.ID) || c.shut(m, x) {
			continue
		}
		if found != nil && !c.Lost[found.ID] && !c.Lost[x.ID] {
			return nil
		}
		if !c.Lost[x.ID] {
			found = x
		}
	}
	return found
}

// sourcesOfLines are the kinds of module that sound through amplifiers.
var sourcesOfLines = []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Ring, meaning.Operator}

// shut tells whether what opens an amplifier would open and shut other lines too at another one.
func (c *Case) shut(m, x *meaning.Module) bool {
	if !slices.ContainsFunc(c.into(m.ID, meaning.PLevel), c.Meaning.Opens) || slices.ContainsFunc(c.into(x.ID, meaning.PLevel), c.Meaning.Opens) {
		return false
	}
	for _, k := range sourcesOfLines {
		if slices.ContainsFunc(c.used(k), func(s *meaning.Module) bool {
			return s.Sounds() && !c.Lost[s.ID] && c.Meaning.Leads(s.ID, x.ID) && !c.Meaning.Leads(s.ID, m.ID)
		}) {
			return true
		}
	}
	return false
}

// ampInto has another amplifier in a row with one do what it did.
func (c *Case) ampInto(m, x *meaning.Module) *edit {
	e := c.begin("%s is in a row with %s, which has its level", m.Label, x.Label)
	e.part(m.ID)
	n := e.change(x.ID)
	switch {
	case off(m, meaning.PLevel): // nothing comes through either
		n.Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
	case !off(x, meaning.PLevel):
		put(n, meaning.PLevel, get(n, meaning.PLevel)+get(m, meaning.PLevel))
	}
	if pan := get(m, meaning.PPan); pan != 0 {
		put(n, meaning.PPan, max(-1, min(1, get(n, meaning.PPan)+pan)))
	}
	opened := slices.ContainsFunc(c.into(x.ID, meaning.PLevel), c.Meaning.Opens)
	for _, r := range c.into(m.ID, "") {
		if len(r.To) != 1 || c.Meaning.Opens(r) && opened {
			continue // two envelopes one behind the other: that of the other stays
		}
		_, name := meaning.Split(r.To[0])
		e.route(r.ID).To = []string{meaning.Ref(n.ID, name)}
	}
	e.drop(m.ID)
	e.Moved[m.ID] = n.ID
	for _, name := range []meaning.ParamName{meaning.PLevel, meaning.PPan} {
		e.Map[meaning.Ref(m.ID, name)] = meaning.Ref(n.ID, name)
	}
	return e
}

// ampIntoSources has the sources that go through an amplifier alone take its level. What opened it goes, as the amplifier that they come to then is opened by its own; or, with own, the envelope that
// opened it opens the sources from nothing, or an operator at its own level. nil where another amplifier is not there, a source goes on elsewhere too, or there is no such envelope, or no way to a source's level.
func (c *Case) ampIntoSources(m *meaning.Module, own bool) *edit {
	beside := slices.ContainsFunc(c.used(meaning.Amp), func(x *meaning.Module) bool { return x.ID != m.ID && !c.Lost[x.ID] })
	level := get(m, meaning.PLevel)
	var list []*meaning.Module
	for _, k := range sourcesOfLines {
		for _, s := range c.used(k) {
			if !c.Meaning.Leads(s.ID, m.ID) {
				continue
			}
			if slices.ContainsFunc(c.used(meaning.Amp), func(x *meaning.Module) bool {
				return x.ID != m.ID && c.Meaning.Leads(s.ID, x.ID) && !c.Meaning.Leads(m.ID, x.ID)
			}) {
				return nil
			}
			list = append(list, s)
		}
	}
	if !beside || len(list) == 0 {
		return nil
	}
	var opens []*meaning.Route
	for _, r := range c.into(m.ID, "") {
		if c.Meaning.Opens(r) {
			opens = append(opens, r)
		}
	}
	if own && (len(opens) != 1 || opens[0].From == "gate" || len(opens[0].To) != 1 ||
		slices.ContainsFunc(list, func(s *meaning.Module) bool {
			return off(s, meaning.PLevel) || !c.Moves(meaning.Env, s.Kind, meaning.PLevel) || s.Kind == meaning.Operator && slices.ContainsFunc(c.into(s.ID, meaning.PLevel), c.Meaning.Opens)
		})) {
		return nil
	}
	e := c.begin("")
	var names []string
	e.part(m.ID)
	for i, s := range list {
		n := e.change(s.ID)
		name := meaning.PLevel
		if s.Kind == meaning.Operator { // its level is what its envelope moves
			name = meaning.POutput
		}
		if own {
			put(n, name, get(s, name)+level)
			way := *opens[0]
			way.Label, way.To, way.Polarity = opens[0].Label+" for "+s.Label, []string{meaning.Ref(n.ID, meaning.PLevel)}, "unipolar"
			way.Depth = meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}
			if s.Kind != meaning.Operator {
				way.Depth.Value = min(1, q.Level(get(n, meaning.PLevel)).Amplitude())
				n.Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
			}
			id := e.connect(route(opens[0]), s.ID, way)
			if i == 0 {
				e.Map[meaning.Ref(opens[0].ID, meaning.PDepth)] = meaning.Ref(id, meaning.PDepth)
			}
			e.Map[meaning.Ref(m.ID, meaning.PLevel)] = meaning.Ref(id, meaning.PDepth)
			names = append(names, s.Label)
			continue
		}
		if _, has := s.Params[name]; !has || !off(s, name) {
			put(n, name, get(s, name)+level)
		}
		names = append(names, s.Label)
		e.Map[meaning.Ref(m.ID, meaning.PLevel)] = meaning.Ref(n.ID, name)
	}
	e.drop(m.ID)
	if own {
		e.Text = fmt.Sprintf("%s opened by %s before the amplifier, up to the level that it had behind its own", And(names), c.Meaning.Module(opens[0].From).Label)
		return e
	}
	for _, r := range opens {
		if env := c.Meaning.Module(r.From); env != nil && env.Kind == meaning.Env && !slices.ContainsFunc(e.Meaning.Routes, func(x meaning.Route) bool { return x.From == env.ID || x.Via == env.ID }) {
			other := c.opener(m.ID)
			if Clicks(env) && (other == nil || !Clicks(other)) {
				return nil // a click that is held, or rings on, is none
			}
			if other != nil {
				e.worse(c, ampsPenalty, apart(env, other))
				times := 1 - ampsPenalty
				if get(env, meaning.PSustain) > get(other, meaning.PSustain)+0.3 { // what was held dies away
					times *= 2
				}
				for _, s := range list { // all that is heard of them has the other's course
					e.Penalty += times * apart(env, other) * c.Weight(s.ID)
				}
			}
			e.drop(env.ID)
		}
	}
	e.Text = fmt.Sprintf("%s at the level of %s: it goes through an amplifier with others", And(names), text(q.DimLevel, level))
	return e
}

// opener gives an envelope that opens an amplifier that has its place; nil for none.
func (c *Case) opener(but string) *meaning.Module {
	for _, x := range c.used(meaning.Amp) {
		if x.ID == but || c.Lost[x.ID] {
			continue
		}
		for _, r := range c.into(x.ID, meaning.PLevel) {
			if env := c.Meaning.Module(r.From); env != nil && env.Kind == meaning.Env && c.Meaning.Opens(r) {
				return env
			}
		}
	}
	return nil
}
