package rules

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/testutil/build"
)

// sound is a small meaning: modules by id, kind and parameters; texts are words and waves.
func sound(mods []meaning.Module, routes ...meaning.Route) *meaning.Meaning {
	return &meaning.Meaning{Tempo: 120, Modules: mods, Routes: routes}
}

var mod = build.Module

func way(id, from, to string, depth float64, polarity string) meaning.Route {
	return meaning.Route{ID: id, Label: id, From: from, To: []string{to}, Polarity: polarity, Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: depth}}}
}

// madeFor makes a route one that a rule has added for a part.
func madeFor(part string, r meaning.Route) meaning.Route {
	r.Origin = meaning.Origin{Part: part}
	return r
}

type p = build.Params

// target describes what a target has: how many of each kind, and which parameters.
type targetOf struct {
	have    map[meaning.Kind]int
	params  []string // "osc.unison"
	words   []string // "filter.mode=lowpass"
	reached map[string]float64
	moves   []string // "env osc.fm"
}

func (t targetOf) case_(m *meaning.Meaning, lost ...string) *Case {
	c := &Case{Meaning: m, Lost: map[string]bool{}, Have: func(k meaning.Kind) int { return t.have[k] },
		Param: func(k meaning.Kind, name meaning.ParamName) bool {
			return strings.Contains(" "+strings.Join(t.params, " ")+" ", " "+meaning.Ref(string(k), name)+" ")
		},
		Word: func(k meaning.Kind, name meaning.ParamName, word string) bool {
			return slices.Contains(t.words, meaning.Ref(string(k), name)+"="+word)
		},
		Moves: func(by, k meaning.Kind, name meaning.ParamName) bool {
			return slices.Contains(t.moves, string(by)+" "+meaning.Ref(string(k), name))
		},
		Reached: func(id string, param meaning.ParamName) (float64, bool) {
			v, ok := t.reached[meaning.Ref(id, param)]
			return v, ok
		},
		Weight: func(string) float64 { return 10 }}
	for _, id := range lost {
		c.Lost[id] = true
	}
	return c
}

// figures are parameters of the new meaning, and depths of its routes, by what they come to.
type figures map[string]float64

// use is a sound that calls for a rule of Table: what it makes, by figures worked out beside it.
type use struct {
	name string
	c    *Case
	want figures
	gone []string // ids that are no longer there
	says string
}

// said is a line that a rule of InPlace may have something to say on.
type said struct {
	name string
	l    *Line
	says string // empty: nothing
}

// The cases of each rule, which stand in the file beside it.
var (
	uses  = map[*Rule][]use{}
	lines = map[*Rule][]said{}
)

func used(r *Rule, cases ...use) bool {
	uses[r] = append(uses[r], cases...)
	return true
}

func heard(r *Rule, cases ...said) bool {
	lines[r] = append(lines[r], cases...)
	return true
}

// What several rules are tried on.
var (
	env  = mod("env", meaning.Env, p{"attack": 0.001, "decay": 0.25, "sustain": 0.0, "release": 0.3})
	held = mod("held", meaning.Env, p{"attack": 0.002, "decay": 0.1, "sustain": 0.9, "release": 0.3})
	lfo  = mod("lfo", meaning.LFO, p{"rate": 2.0, "wave": "saw", "cycle": "once"})
	amp  = mod("amp", meaning.Amp, p{"level": 0.0})
	cut  = mod("filter", meaning.Filter, p{"mode": "lowpass", "poles": 4, "cutoff": 500.0, "resonance": 0.2})
)

func osc(id string, interval float64) meaning.Module {
	return mod(id, meaning.Osc, p{"wave": "saw", "interval": interval, "level": -3.0})
}

// line gives a parameter's line from one module to another.
func line(k meaning.Kind, name meaning.ParamName, from, to meaning.Module) *Line {
	param, _ := meaning.SpecOf(k).Param(name)
	want, _ := from.Get(name)
	got, _ := to.Get(name)
	return &Line{Param: param, Want: want, Got: got, From: &from, To: &to, Tempo: 120, Bent: true, FromPivot: 60, ToPivot: 60}
}

// Every rule has a case beside it, and says what it is.
func TestEveryRuleHasACase(t *testing.T) {
	seen := map[string]bool{}
	is := func(r *Rule, cases int) {
		if cases == 0 {
			t.Errorf("the rule %s has no case: write one beside it", r.ID)
		}
		if seen[r.ID] || Named(r.ID) != r || r.Name == "" || r.Needs == "" || r.Uses == "" || r.Why == "" || r.Source == "" || !(r.Penalty > 0 && r.Penalty < 1) {
			t.Errorf("rule %q does not say what it is: %+v", r.ID, r)
		}
		seen[r.ID] = true
	}
	for _, r := range Table {
		n := len(uses[r])
		if r == &carriers { // TestCarriers
			n++
		}
		is(r, n)
	}
	for _, r := range InPlace {
		says := slices.ContainsFunc(lines[r], func(x said) bool { return x.says != "" })
		is(r, map[bool]int{true: 1}[says])
	}
	if Named("nobody's rule") != nil {
		t.Error("a rule that is not there was found")
	}
}

// Every rule on the sounds that call for it.
func TestRules(t *testing.T) {
	for rule, cases := range uses {
		for _, x := range cases {
			t.Run(rule.ID+"/"+x.name, func(t *testing.T) { x.run(t, rule) })
		}
	}
}

func (x use) run(t *testing.T, rule *Rule) {
	for range 2 { // in both orders of modules and routes
		slices.Reverse(x.c.Meaning.Modules)
		slices.Reverse(x.c.Meaning.Routes)
		before := len(x.c.Meaning.Modules)
		hit := false
		var told []string
		for _, r := range rule.Try(x.c) {
			told = append(told, r.Text)
			ok := strings.Contains(r.Text, x.says)
			for ref, want := range x.want {
				got := math.NaN()
				if way := r.Meaning.Route(ref); way != nil {
					got = way.Depth.Value
				}
				id, name := meaning.Split(ref)
				if m := r.Meaning.Module(id); m != nil {
					got = get(m, name)
				}
				ok = ok && math.Abs(got-want) <= 1e-4*math.Max(1, math.Abs(want))
			}
			for _, id := range x.gone {
				ok = ok && r.Meaning.Module(id) == nil && r.Meaning.Route(id) == nil
			}
			for _, w := range r.Meaning.Routes { // nothing is left hanging
				for _, d := range w.To {
					id, name := meaning.Split(d)
					if m := r.Meaning.Module(id); m == nil {
						t.Errorf("%s: %s moves %s, which is gone", x.name, w.ID, d)
					} else if _, is := meaning.SpecOf(m.Kind).Param(name); !is {
						t.Errorf("%s: %s moves %s, which a %s has not", x.name, w.ID, d, m.Kind)
					}
				}
				if !meaning.IsSource(w.From) && r.Meaning.Module(w.From) == nil {
					t.Errorf("%s: %s comes from %s, which is gone", x.name, w.ID, w.From)
				}
			}
			for from, to := range r.Map { // what a part has become is there
				id, name := meaning.Split(to)
				if way := r.Meaning.Route(id); way != nil {
					continue
				}
				m := r.Meaning.Module(id)
				if m == nil {
					t.Errorf("%s: %s has become %s, which is not there", x.name, from, to)
				} else if _, is := meaning.SpecOf(m.Kind).Param(name); !is {
					t.Errorf("%s: %s has become %s, which a %s has not", x.name, from, to, m.Kind)
				}
			}
			if len(r.Parts) == 0 || r.Penalty <= 0 {
				t.Errorf("%s: made by other means %v at a penalty of %v", x.name, r.Parts, r.Penalty)
			}
			hit = hit || ok
		}
		if !hit {
			t.Errorf("%s: got %q, want %v and %q", x.name, told, x.want, x.says)
		}
		if len(x.c.Meaning.Modules) != before {
			t.Errorf("%s: the meaning that was given has been changed", x.name)
		}
	}
}

// A rule asks for nothing where nothing is missing.
func TestRulesHoldBack(t *testing.T) {
	whole := sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "saw", "level": 0.0}), mod("amp", meaning.Amp, p{"level": 0.0})}, way("g", "gate", "amp.level", 1, "unipolar"))
	for _, r := range Table {
		if got := r.Try(targetOf{}.case_(whole)); len(got) > 0 {
			t.Errorf("%s: %q where nothing is left out", r.ID, got[0].Text)
		}
	}
}

// What the rules by which single settings go over say, each where it applies and not where nothing differs.
func TestRulesInPlace(t *testing.T) {
	for rule, cases := range lines {
		for _, x := range cases {
			got := rule.Says(x.l)
			if x.says == "" && got != "" || x.says != "" && !strings.Contains(got, x.says) || strings.Contains(got, "%!") {
				t.Errorf("%s: %s says %q, want %q", x.name, rule.ID, got, x.says)
			}
		}
	}
}
