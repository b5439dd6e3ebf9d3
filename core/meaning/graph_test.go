package meaning_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/testutil/build"
)

func path(edges string, mods ...meaning.Module) *meaning.Meaning {
	m := &meaning.Meaning{Modules: mods}
	for _, e := range strings.Fields(edges) {
		from, to, _ := strings.Cut(e, ">")
		m.Audio = append(m.Audio, meaning.Edge{From: from, To: to})
	}
	return m
}

func ids(list []*meaning.Module) string {
	var out []string
	for _, d := range list {
		out = append(out, d.ID)
	}
	return strings.Join(out, " ")
}

// The path of a voice and of the chain, on layouts whose answers are plain to see; the order of the modules in the list is not that of the path.
func TestGraph(t *testing.T) {
	mod := func(id string, k meaning.Kind, ps build.Params) meaning.Module { return build.Module(id, k, ps) }
	parts := func() []meaning.Module {
		return []meaning.Module{mod("f2", meaning.Filter, nil), mod("echo", meaning.Delay, nil), mod("amp", meaning.Amp, nil), mod("f1", meaning.Filter, nil), mod("drive", meaning.Drive, nil),
			mod("osc", meaning.Osc, nil), mod("mixer", meaning.Mixer, nil), mod("room", meaning.Reverb, nil), mod("fb", meaning.Feedback, nil), mod("send", meaning.Send, nil)}
	}
	for _, x := range []struct{ name, edges, filters, drives, chain string }{
		{"in a row", "osc>mixer mixer>f1 f1>drive drive>f2 f2>amp amp>echo echo>room", "f1 f2", "drive", "echo room"},
		{"a drive behind the amplifier is an effect", "osc>f1 f1>amp amp>drive drive>echo", "f1", "", "drive echo"},
		{"a filter behind the amplifier is one, too", "osc>f1 f1>amp amp>f2 f2>echo", "f1", "", "f2 echo"},
		{"feedback leads back, not behind", "osc>mixer mixer>f1 f1>amp amp>fb fb>mixer amp>echo", "f1", "", "echo"},
		{"a loop ends", "osc>mixer mixer>f1 f1>fb fb>mixer f1>f2 f2>fb f2>amp", "f1 f2", "", "echo"},
		{"fed by a send alone it begins a chain", "osc>amp send>room room>echo", "", "", "room echo"},
	} {
		m := path(x.edges, parts()...)
		g := m.Graph()
		if ids(g.Filters()) != x.filters || ids(g.Drives()) != x.drives {
			t.Errorf("%s: filters %q and drives %q, want %q and %q", x.name, ids(g.Filters()), ids(g.Drives()), x.filters, x.drives)
		}
		want := strings.Fields(x.chain)
		got := slices.DeleteFunc(strings.Fields(ids(g.Chain())), func(id string) bool { return !slices.Contains(want, id) })
		if !slices.Equal(got, want) {
			t.Errorf("%s: the chain is %q, want %q in it", x.name, ids(g.Chain()), x.chain)
		}
	}
	m := path("osc>amp amp>echo echo>room", parts()...)
	m.Module("echo").Params["place"] = meaning.Value{Quantity: build.Module("x", meaning.Delay, build.Params{"place": 2}).Params["place"].Quantity}
	m.Module("room").Params["place"] = meaning.Value{Quantity: build.Module("x", meaning.Reverb, build.Params{"place": 1}).Params["place"].Quantity}
	if got := ids(m.Graph().Chain()); !strings.HasPrefix(got, "room echo") {
		t.Errorf("places put the chain to %q", got)
	}
}

// On any graph without a way back, filters come in an order in which none stands before one that leads to it, what is behind the amplifier is just what it
// leads to, and the order of the modules in the list changes nothing but the order of what stands side by side.
func TestGraphOnRandomPaths(t *testing.T) {
	for seed := range uint64(200) {
		rng := rand.New(rand.NewPCG(seed, 5))
		n := 3 + rng.IntN(6)
		m := &meaning.Meaning{Modules: []meaning.Module{build.Module("osc", meaning.Osc, nil)}}
		for i := range n {
			m.Modules = append(m.Modules, build.Module(fmt.Sprint("f", i), meaning.Filter, nil))
		}
		amp := 1 + rng.IntN(n)
		m.Modules[amp] = build.Module("amp", meaning.Amp, nil)
		lead := map[[2]int]bool{}
		for i := range m.Modules {
			for j := i + 1; j < len(m.Modules); j++ {
				if j == i+1 || rng.IntN(4) == 0 {
					m.Audio = append(m.Audio, meaning.Edge{From: m.Modules[i].ID, To: m.Modules[j].ID})
					lead[[2]int{i, j}] = true
				}
			}
		}
		reach := func(from, to int) bool { // by all ways, written out
			var walk func(int) bool
			walk = func(i int) bool {
				for j := i + 1; j < len(m.Modules); j++ {
					if lead[[2]int{i, j}] && (j == to || walk(j)) {
						return true
					}
				}
				return false
			}
			return walk(from)
		}
		g := m.Graph()
		for i := range m.Modules {
			if got, want := g.Behind(m.Modules[i].ID), reach(amp, i); got != want {
				t.Fatalf("seed %d: %s behind the amplifier: %v", seed, m.Modules[i].ID, got)
			}
		}
		shuffled := *m
		shuffled.Modules = slices.Clone(m.Modules)
		rng.Shuffle(len(shuffled.Modules), func(a, b int) {
			shuffled.Modules[a], shuffled.Modules[b] = shuffled.Modules[b], shuffled.Modules[a]
		})
		a, b := strings.Fields(ids(g.Filters())), strings.Fields(ids(shuffled.Graph().Filters()))
		slices.Sort(a)
		slices.Sort(b)
		if !slices.Equal(a, b) {
			t.Fatalf("seed %d: filters %v, shuffled %v", seed, a, b)
		}
		out := 1 + rng.IntN(n)
		if out == amp {
			continue
		}
		without := *m // what is taken out is passed: nothing else changes its place
		without.Modules = slices.Delete(slices.Clone(m.Modules), out, out+1)
		for i := range without.Modules {
			if id := without.Modules[i].ID; without.Graph().Behind(id) != g.Behind(id) {
				t.Fatalf("seed %d: without %s, %s is no more where it was", seed, m.Modules[out].ID, id)
			}
		}
		left := strings.Fields(ids(g.Filters()))
		left = slices.DeleteFunc(left, func(id string) bool { return id == m.Modules[out].ID })
		if got := ids(without.Graph().Filters()); got != strings.Join(left, " ") {
			t.Fatalf("seed %d: without %s the filters are %q, not %q", seed, m.Modules[out].ID, got, left)
		}
	}
	m := path("osc>mixer mixer>f1 f1>amp amp>fb fb>mixer amp>echo", build.Module("osc", meaning.Osc, nil), build.Module("mixer", meaning.Mixer, nil),
		build.Module("f1", meaning.Filter, nil), build.Module("amp", meaning.Amp, nil), build.Module("echo", meaning.Delay, nil))
	if g := m.Graph(); g.Behind("f1") || !g.Behind("echo") || ids(g.Filters()) != "f1" {
		t.Error("a way back that is taken out puts what it led to behind the amplifier")
	}
}

// What opens an amplifier: an envelope or the gate at its level, and nothing else.
func TestOpens(t *testing.T) {
	m := &meaning.Meaning{Modules: []meaning.Module{build.Module("amp", meaning.Amp, nil), build.Module("env", meaning.Env, nil), build.Module("lfo", meaning.LFO, nil), build.Module("op", meaning.Operator, nil)}}
	for _, x := range []struct {
		from, to      string
		opens, shapes bool
	}{
		{"env", "amp.level", true, true}, {"gate", "amp.level", true, true}, {"lfo", "amp.level", false, true}, {"velocity", "amp.level", false, true}, {"env", "amp.pan", false, false},
		{"env", "op.level", false, true}, {"gate", "op.output", false, false}, {"env", "gone.level", false, false},
	} {
		r := build.Route(x.from, x.to, 1, "unipolar")
		if m.Opens(&r) != x.opens || m.Shapes(&r) != x.shapes {
			t.Errorf("%s to %s opens: %v, shapes: %v", x.from, x.to, m.Opens(&r), m.Shapes(&r))
		}
	}
}

// Of three oscillators the next one modulates in frequency, and the last by the one before; a route from any other takes its place, one from elsewhere (an envelope that opens the amount) does not.
func TestModulator(t *testing.T) {
	osc := func(id string) meaning.Module { return build.Module(id, meaning.Osc, build.Params{"level": 0.0}) }
	m := build.Row(nil, osc("a"), osc("b"), osc("c"), build.Module("e", meaning.Env, nil))
	is := func(of, want string) {
		t.Helper()
		if got := m.Modulator(m.Module(of)); got != want {
			t.Errorf("%s is modulated by %q, want %q", of, got, want)
		}
	}
	is("a", "b")
	is("c", "b")
	if by := m.ModulatedBy(m.Module("a")); by != "" {
		t.Errorf("with no amount it is modulated by %q", by)
	}
	m.Routes = []meaning.Route{{ID: "1", From: "e", To: []string{"a.fm"}}, {ID: "2", From: "c", To: []string{"a.fm", "b.width"}}, {ID: "3", From: "b", To: []string{"b.fm"}}}
	is("a", "c")
	is("b", "c")
	if by := m.ModulatedBy(m.Module("a")); by != "c" {
		t.Errorf("by a route it is modulated by %q", by)
	}
	m.Routes[1].Idle = "off"
	is("a", "b")
}
