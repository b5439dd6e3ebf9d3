// Package build makes meanings for tests in few words: modules from numbers and words, routes, and rows of modules with
// their audio edges. It imports meaning alone, so that tests inside any package of the core may use it.
package build

import (
	"fmt"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// Params are a module's parameters: a number (float64 or int), a word, or nil for off.
type Params = map[meaning.ParamName]any

// Module makes a module that is labelled by its id. It panics on a parameter that its kind does not have.
func Module(id string, k meaning.Kind, params Params) meaning.Module {
	m := meaning.Module{ID: id, Kind: k, Label: id, Params: map[meaning.ParamName]meaning.Value{}}
	for name, v := range params {
		p, ok := meaning.SpecOf(k).Param(name)
		if !ok {
			panic(fmt.Sprintf("a %s has no %s", k, name))
		}
		m.Params[name] = value(p.Dim, v)
	}
	return m
}

func value(d q.Dim, v any) meaning.Value {
	switch x := v.(type) {
	case string:
		return meaning.Value{Quantity: q.Named(d, x)}
	case nil:
		return meaning.Value{Quantity: q.OffOf(d)}
	case int:
		return meaning.Value{Quantity: q.Quantity{Dim: d, Value: float64(x)}}
	case float64:
		return meaning.Value{Quantity: q.Quantity{Dim: d, Value: x}}
	}
	panic(fmt.Sprintf("no value: %v", v))
}

// Route makes a route to one destination. Its depth has the dimension of that destination's depth only where the caller
// sets it: the engine takes the number.
func Route(from, to string, depth float64, polarity string) meaning.Route {
	return meaning.Route{ID: from + ">" + to, Label: from + " to " + to, From: from, To: []string{to}, Polarity: polarity, Depth: meaning.Value{Quantity: q.Quantity{Value: depth}}}
}

// Row puts modules in a row: sources into the mixer, then the filters, the amplifier and the effects, each in the order given.
// A mixer and an amplifier are added, called "mixer" and "amp".
func Row(routes []meaning.Route, mods ...meaning.Module) *meaning.Meaning {
	m := &meaning.Meaning{Tempo: 120, Routes: routes}
	m.Modules = append([]meaning.Module{Module("mixer", meaning.Mixer, nil), Module("amp", meaning.Amp, nil)}, mods...)
	last, behind := "mixer", "amp"
	for _, d := range mods {
		switch d.Kind {
		case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator:
			m.Audio = append(m.Audio, meaning.Edge{From: d.ID, To: "mixer"})
		case meaning.Filter:
			m.Audio = append(m.Audio, meaning.Edge{From: last, To: d.ID})
			last = d.ID
		case meaning.Env, meaning.LFO, meaning.Voice:
		default:
			m.Audio = append(m.Audio, meaning.Edge{From: behind, To: d.ID})
			behind = d.ID
		}
	}
	m.Audio = append(m.Audio, meaning.Edge{From: last, To: "amp"})
	return m
}
