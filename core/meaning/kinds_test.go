package meaning

import (
	"slices"
	"testing"

	q "glossator/core/quantity"
)

// A module gives what it has, and for what it has not the neutral value of its kind; modules and routes are found by their ids.
func TestParameters(t *testing.T) {
	for i := range Kinds {
		k := &Kinds[i]
		if SpecOf(k.Kind) != k {
			t.Errorf("%s is not found", k.Kind)
		}
		bare := Module{ID: "x", Kind: k.Kind, Params: map[ParamName]Value{}}
		names := k.Names()
		if len(names) != len(k.Params) {
			t.Errorf("%s has %d names for %d parameters", k.Kind, len(names), len(k.Params))
		}
		for n, p := range k.Params {
			if found, ok := k.Param(p.Name); !ok || found.Label != p.Label || names[n] != string(p.Name) {
				t.Errorf("%s of %s is found as %+v", p.Name, k.Kind, found)
			}
			if slices.Index(names, string(p.Name)) != n {
				t.Errorf("%s has %s twice", k.Kind, p.Name)
			}
			v, has := bare.Get(p.Name)
			if has || v.Quantity != p.Neutral {
				t.Errorf("%s without %s gives %v", k.Kind, p.Name, v)
			}
			set := Value{Quantity: q.Quantity{Dim: p.Dim, Value: 0.3}}
			bare.Params[p.Name] = set
			if v, has := bare.Get(p.Name); !has || v.Quantity != set.Quantity {
				t.Errorf("%s with %s gives %v", k.Kind, p.Name, v)
			}
		}
		if v, has := bare.Get("nonsense"); has || v.Quantity != (q.Quantity{}) {
			t.Errorf("%s has nonsense: %v", k.Kind, v)
		}
		for _, s := range k.Silence {
			if !slices.Contains(names, string(s)) {
				t.Errorf("%s is silenced by %s, which it has not", k.Kind, s)
			}
		}
	}
	if SpecOf("nonsense") != nil {
		t.Error("a kind that is none was found")
	}
	if v, has := (&Module{Kind: "nonsense"}).Get("level"); has || v.Quantity != (q.Quantity{}) {
		t.Errorf("a module of no kind has a level: %v", v)
	}
	m := Meaning{Modules: []Module{{ID: "a"}, {ID: "b", Idle: "silent"}}, Routes: []Route{{ID: "r"}, {ID: "s", Idle: "off"}}}
	if m.Module("b") != &m.Modules[1] || m.Module("c") != nil || m.Route("s") != &m.Routes[1] || m.Route("a") != nil {
		t.Error("modules or routes are not found by their ids")
	}
	if !m.Modules[0].Used() || m.Modules[1].Used() || !m.Routes[0].Used() || m.Routes[1].Used() {
		t.Error("what is idle is used, or the reverse")
	}
}

// What a route moves a parameter by: octaves where equal steps are ratios, cents for pitch, and shares for levels and shares; each has a
// just-noticeable difference.
func TestDepths(t *testing.T) {
	for d, want := range map[q.Dim]q.Dim{
		q.DimFrequency: q.DimOctaves, q.DimDuration: q.DimOctaves, q.DimBeats: q.DimOctaves, q.DimInterval: q.DimInterval, q.DimResonance: q.DimResonance,
		q.DimCount: q.DimCount, q.DimLevel: q.DimRatio, q.DimRatio: q.DimRatio,
	} {
		if got := DepthDim(d); got != want {
			t.Errorf("%s is moved by %s, want %s", d, got, want)
		}
		p := DepthParam(d)
		if p.Dim != want || p.JND.Size <= 0 || p.Weight <= 0 {
			t.Errorf("the depth on %s is %+v", d, p)
		}
	}
	for _, s := range Sources {
		if !IsSource(s) {
			t.Errorf("%s is no source", s)
		}
	}
	if IsSource("env1") || IsSource("") {
		t.Error("a module is taken for a source of play")
	}
}

// Splitting a reference is the inverse of joining it, whatever dots the id has.
func TestSplit(t *testing.T) {
	for ref, want := range map[string][2]string{"osc1.level": {"osc1", "level"}, "fx.a.mix": {"fx.a", "mix"}, "osc1": {"osc1", ""}, "": {"", ""}} {
		id, param := Split(ref)
		if want[1] == "" {
			if id+string(param) != ref {
				t.Errorf("%q is %q and %q", ref, id, param)
			}
			continue
		}
		if id != want[0] || string(param) != want[1] {
			t.Errorf("%q is %q and %q, want %v", ref, id, param, want)
		}
	}
}
