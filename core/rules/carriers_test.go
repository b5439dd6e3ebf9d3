package rules

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// Carriers: the envelope that moves them opens the amplifier, the strongest one's where they have several, and the more the others differ the
// more it costs; not where the amplifier has one, where others than operators sound, or where all has its place.
func TestCarriers(t *testing.T) {
	amp := mod("amp", meaning.Amp, p{"level": 0.0})
	op := func(id string, output float64) meaning.Module {
		return mod(id, meaning.Operator, p{"wave": "sine", "output": output, "level": 0.0})
	}
	level := func(m meaning.Module, db float64) meaning.Module { put(&m, meaning.PLevel, db); return m }
	env := func(id string, decay float64) meaning.Module {
		return mod(id, meaning.Env, p{"attack": 0.001, "decay": decay, "sustain": 0.0, "release": 0.1})
	}
	gated := way("g", "gate", "amp.level", 1, "unipolar")
	one, two := way("r1", "e1", "a.level", 1, "unipolar"), way("r2", "e2", "b.level", 1, "unipolar")
	both := way("r2", "e1", "b.level", 1, "unipolar")
	for _, x := range []struct {
		name string
		m    *meaning.Meaning
		lost string
		env  string // that opens the amplifier; empty for no use
		gone []string
	}{
		{"one for both", sound([]meaning.Module{op("a", 0), op("b", -3), env("e1", 0.8), amp}, one, both, gated), "e1", "e1", []string{"r1", "r2", "g"}},
		{"the stronger's", sound([]meaning.Module{op("a", 0), op("b", -6), env("e1", 0.8), env("e2", 0.2), amp}, one, two, gated), "e2", "e1", []string{"r1", "r2", "e2"}},
		{"the stronger's, the other way round", sound([]meaning.Module{op("a", -6), op("b", 0), env("e1", 0.8), env("e2", 0.2), amp}, one, two, gated), "e2", "e2", []string{"r1", "r2", "e1"}},
		{"nothing is lost", sound([]meaning.Module{op("a", 0), env("e1", 0.8), amp}, one, gated), "", "", nil},
		{"the amplifier has an envelope", sound([]meaning.Module{op("a", 0), env("e1", 0.8), env("e2", 1), amp}, one, way("g", "e2", "amp.level", 1, "unipolar")), "e1", "", nil},
		{"noise sounds too", sound([]meaning.Module{op("a", 0), mod("n", meaning.Noise, p{"level": -20.0}), env("e1", 0.8), amp}, one, gated), "e1", "", nil},
		{"their levels tell, not their outputs", sound([]meaning.Module{level(op("a", 0), -30), op("b", -6), env("e1", 0.8), env("e2", 0.2), amp}, one, two, gated), "e1", "e2", []string{"r1", "r2", "e1"}},
		{"three that move alike, none of which is half of the sound", sound([]meaning.Module{op("a", -1), op("b", 0), op("c", -1), env("e1", 0.8), env("e2", 0.9), env("e3", 0.7), amp}, one, two, way("r3", "e3", "c.level", 1, "unipolar"), gated), "e2", "e2", []string{"r1", "r2", "r3", "e1", "e3"}},
		{"the weaker alone", sound([]meaning.Module{op("a", -12), op("b", 0), env("e1", 0.8), amp}, one, gated), "e1", "", nil},
		{"little depth", sound([]meaning.Module{op("a", 0), env("e1", 0.8), amp}, way("r1", "e1", "a.level", 0.4, "unipolar"), gated), "e1", "", nil},
	} {
		out := carriers.Try(targetOf{}.case_(x.m, x.lost))
		if x.env == "" {
			if len(out) > 0 {
				t.Errorf("%s: %s", x.name, out[0].Text)
			}
			continue
		}
		if len(out) != 1 {
			t.Errorf("%s: %d uses", x.name, len(out))
			continue
		}
		m := out[0].Meaning
		if r := m.Route("g~"); r == nil || r.From != x.env || r.To[0] != "amp.level" {
			t.Errorf("%s: the amplifier is opened by %+v", x.name, r)
		}
		for _, id := range x.gone {
			if m.Route(id) != nil || m.Module(id) != nil {
				t.Errorf("%s: %s is still there", x.name, id)
			}
			if !slices.Contains(out[0].Parts, id) {
				t.Errorf("%s: %s is no part of it: %v", x.name, id, out[0].Parts)
			}
		}
	}
	cost := func(decay float64) float64 {
		m := sound([]meaning.Module{op("a", 0), op("b", -3), env("e1", 0.8), env("e2", decay), amp}, one, two, gated)
		return carriers.Try(targetOf{}.case_(m, "e2"))[0].Penalty
	}
	if !(cost(0.8) < cost(0.5) && cost(0.5) < cost(0.1)) {
		t.Errorf("envelopes alike cost %v, further apart %v and %v", cost(0.8), cost(0.5), cost(0.1))
	}
	// an operator that becomes an oscillator brings the amplifier its envelope: an oscillator's level has none that multiplies
	m := sound([]meaning.Module{op("a", -2), mod("m", meaning.Operator, p{"wave": "sine", "level": 0.0, "output": -100.0}), env("e1", 0.8), env("e2", 0.2), amp},
		one, way("pm", "m", "a.pm", 0.5, "unipolar"), way("r2", "e2", "m.level", 1, "unipolar"), gated)
	mo := m.Module("m")
	mo.Params["output"] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
	out := operators.Try(targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}}.case_(m, "a", "m", "e1", "e2", "r1", "r2", "pm"))
	if len(out) == 0 {
		t.Fatal("no use")
	}
	r := out[0]
	if g := r.Meaning.Route("g~"); g == nil || g.From != "e1" || r.Meaning.Route("r1") != nil {
		t.Errorf("the amplifier is opened by %+v", g)
	}
	for _, id := range []string{"m", "e2"} { // the wave has the modulator in it, and its envelope moved nothing else
		if r.Meaning.Module(id) != nil || !slices.Contains(r.Parts, id) {
			t.Errorf("%s is still there, or no part: %v", id, r.Parts)
		}
	}
	if !slices.Contains(r.Also, &carriers) || !strings.Contains(r.Text, "opens the amplifier") || r.Penalty <= 0 {
		t.Errorf("%q with %v at %v", r.Text, r.Also, r.Penalty)
	}
}

// Envelopes are as far apart as their shapes: 0 for the same, at most 1, the same both ways, more for more.
func TestEnvelopesApart(t *testing.T) {
	env := func(a, d, s, r float64) *meaning.Module {
		m := mod("e", meaning.Env, p{"attack": a, "decay": d, "sustain": s, "release": r})
		return &m
	}
	list := []*meaning.Module{env(0.001, 0.3, 0, 0.1), env(0.001, 0.3, 0.8, 0.1), env(0.5, 0.3, 1, 2), env(0.01, 3, 0.2, 0.3), &open, env(2, 0.01, 0, 0.01)}
	for i, a := range list {
		for k, b := range list {
			d := apart(a, b)
			if d < 0 || d > 1 || math.Abs(d-apart(b, a)) > 1e-12 || (d < 1e-9) != (i == k) {
				t.Errorf("%d and %d are %v apart, the other way %v", i, k, d, apart(b, a))
			}
		}
	}
	last := -1.0
	for _, s := range []float64{0.8, 0.7, 0.5, 0.3} {
		d := apart(env(0.001, 0.3, 0.8, 0.1), env(0.001, 0.3, s, 0.1))
		if d <= last {
			t.Errorf("a sustain of %v is %v apart, one nearer %v", s, d, last)
		}
		last = d
	}
}

// Where nothing opens the amplifier the carriers' envelope does, and what velocity does to each of them is done there once, as the deepest has it.
func TestCarriersOfAnAmplifierThatNothingOpens(t *testing.T) {
	op := func(id string) meaning.Module { return mod(id, meaning.Operator, p{"level": 0.0, "output": 0.0}) }
	m := sound([]meaning.Module{op("a"), op("b"), env, held, amp}, way("ea", "env", "a.level", 1, "unipolar"), way("eb", "env", "b.level", 1, "unipolar"), way("va", "velocity", "a.level", 0.3, "unipolar"), way("vb", "velocity", "b.level", 0.6, "unipolar"))
	got := carriers.Try(targetOf{have: map[meaning.Kind]int{meaning.Env: 1}}.case_(m, "ea", "eb"))
	if len(got) != 1 {
		t.Fatalf("%d ways, want one", len(got))
	}
	for _, id := range []string{"va", "vb"} { // where each has gone is there
		to, _ := meaning.Split(got[0].Map[meaning.Ref(id, meaning.PDepth)])
		if r := got[0].Meaning.Route(to); r == nil || r.From != "velocity" {
			t.Errorf("%s has gone to %q: %+v", id, to, r)
		}
	}
	opens, struck := 0, 0.0
	for _, r := range got[0].Meaning.Routes {
		switch {
		case r.From == "env" && slices.Contains(r.To, "amp.level"):
			opens++
		case r.From == "velocity" && slices.Contains(r.To, "amp.level"):
			struck += r.Depth.Value
		default:
			t.Errorf("%s from %s to %v is left", r.ID, r.From, r.To)
		}
	}
	if opens != 1 || struck != 0.6 {
		t.Errorf("%d routes open the amplifier, velocity by %g", opens, struck)
	}
}
