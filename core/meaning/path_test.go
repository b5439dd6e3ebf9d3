package meaning_test

import (
	"fmt"
	"math/cmplx"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/testutil/build"
)

// written gives a path in words: "osc: mixer>f1; f1 > out".
func written(p *meaning.Path) string {
	name := func(i int) string {
		if i == meaning.Out {
			return "out"
		}
		return p.Nodes[i].Module.ID
	}
	var out []string
	for _, id := range []string{"osc", "osc2", "fb"} {
		var in []string
		for _, e := range p.From[id] {
			x := name(e.To)
			if e.Mixer != nil {
				x = e.Mixer.ID + ">" + x
			}
			in = append(in, x)
		}
		if len(in) > 0 {
			out = append(out, id+": "+strings.Join(in, " "))
		}
	}
	for i := range p.Nodes {
		var to []string
		for _, n := range p.Nodes[i].To {
			to = append(to, name(n))
		}
		out = append(out, p.Nodes[i].Module.ID+" > "+strings.Join(to, " "))
	}
	return strings.Join(out, "; ")
}

// The path of a voice by its edges, with and without parameters that choose: side by side stays side by side whichever filter comes first and for every
// oscillator that feeds both; a drive stands where its edges have it; what comes back passes its own filters.
func TestPath(t *testing.T) {
	mod := build.Module
	for _, x := range []struct {
		name, edges, want string
		change            func(m *meaning.Meaning)
	}{
		{"in a row", "osc>mixer osc2>mixer mixer>f1 f1>f2 f2>amp", "osc: mixer>f1; osc2: mixer>f1; f1 > f2; f2 > out", nil},
		{"side by side by the edges", "osc>mixer osc2>mixer mixer>f1 mixer>f2 f1>amp f2>amp", "osc: mixer>f1 mixer>f2; osc2: mixer>f1 mixer>f2; f1 > out; f2 > out", nil},
		{"the other one first", "osc>mixer mixer>f2 mixer>f1 f2>amp f1>amp osc2>mixer", "osc: mixer>f2 mixer>f1; osc2: mixer>f2 mixer>f1; f2 > out; f1 > out", nil},
		{"one oscillator each", "osc>f1 osc2>f2 f1>amp f2>amp", "osc: f1; osc2: f2; f1 > out; f2 > out", nil},
		{"side by side by a switch", "osc>mixer osc2>mixer mixer>f1 f1>f2 f2>amp", "osc: mixer>f1 mixer>f2; osc2: mixer>f1 mixer>f2; f1 > out; f2 > out", func(m *meaning.Meaning) {
			m.Module("f2").Params = mod("f2", meaning.Filter, build.Params{"routing": "parallel"}).Params
		}},
		{"a source to the second", "osc>mixer osc2>mixer mixer>f1 mixer>f2 f1>amp f2>amp", "osc: mixer>f2; osc2: mixer>f1 mixer>f2; f1 > out; f2 > out", func(m *meaning.Meaning) {
			m.Module("osc").Params = mod("osc", meaning.Osc, build.Params{"to": "filter 2"}).Params
		}},
		{"a source past both", "osc>mixer osc2>mixer mixer>f1 f1>f2 f2>drive drive>amp", "osc: mixer>drive; osc2: mixer>f1; f1 > f2; f2 > drive; drive > out", func(m *meaning.Meaning) {
			m.Module("osc").Params = mod("osc", meaning.Osc, build.Params{"to": "past"}).Params
		}},
		{"a drive before the filter", "osc>mixer osc2>mixer mixer>drive drive>f1 f1>amp", "osc: mixer>drive; osc2: mixer>drive; drive > f1; f1 > out", nil},
		{"filters into a second mixer", "osc>f1 osc2>f2 f1>mixer f2>mixer mixer>amp", "osc: f1; osc2: f2; f1 > mixer; f2 > mixer; mixer > out", nil},
		{"a filter that is off beside one that is on passes nothing", "osc>f1 osc>f2 f1>amp f2>amp osc2>f1", "osc: f1; osc2: f1; f1 > out", func(m *meaning.Meaning) { m.Module("f2").Idle = "switched off" }},
		{"a filter that is off in a row passes all", "osc>f1 osc2>f1 f1>f2 f2>amp", "osc: f2; osc2: f2; f2 > out", func(m *meaning.Meaning) { m.Module("f1").Idle = "switched off" }},
		{"two ways past filters that are off are one", "osc>f1 osc>f2 f1>amp f2>amp osc2>f1", "osc: out; osc2: out", func(m *meaning.Meaning) {
			m.Module("f1").Idle, m.Module("f2").Idle = "switched off", "switched off"
		}},
		{"a mixer that is gone is passed", "osc>f1 osc2>f1 f1>mixer mixer>amp", "osc: f1; osc2: f1; f1 > out", func(m *meaning.Meaning) { m.Module("mixer").Idle = "left out" }},
		{"feedback by its own filter", "osc>mixer osc2>mixer mixer>f1 f1>amp amp>f2 f2>fb fb>mixer amp>out", "osc: mixer>f1; osc2: mixer>f1; fb: mixer>f1; f1 > out", nil},
	} {
		m := path(x.edges, mod("osc", meaning.Osc, nil), mod("osc2", meaning.Osc, nil), mod("mixer", meaning.Mixer, nil), mod("f1", meaning.Filter, nil), mod("f2", meaning.Filter, nil),
			mod("drive", meaning.Drive, nil), mod("amp", meaning.Amp, nil), mod("fb", meaning.Feedback, nil))
		if !strings.Contains(x.edges, "fb") {
			m.Module("fb").Idle = "off"
		}
		if x.change != nil {
			x.change(m)
		}
		p := m.Graph().Path()
		if got := written(p); got != x.want {
			t.Errorf("%s:\n  got  %s\n  want %s", x.name, got, x.want)
		}
		if strings.HasPrefix(x.name, "feedback") && (len(p.Return) != 1 || p.Return[0].ID != "f2" || strings.Contains(ids(m.Graph().Chain()), "f2")) {
			t.Errorf("%s: what comes back passes %v, the chain is %v", x.name, p.Return, m.Graph().Chain())
		}
	}
}

// On any layout of filters without a way back, the gain of a path is the sum over all ways through it of the products of the gains on each, written out.
func TestPathGainIsTheSumOfAllWays(t *testing.T) {
	for seed := range uint64(200) {
		rng := rand.New(rand.NewPCG(seed, 9))
		n := 1 + rng.IntN(5)
		m := &meaning.Meaning{Modules: []meaning.Module{build.Module("osc", meaning.Osc, nil)}}
		ids := []string{"osc"}
		gains := map[string]complex128{}
		for i := range n {
			id := fmt.Sprint("f", i)
			ids = append(ids, id)
			m.Modules = append(m.Modules, build.Module(id, meaning.Filter, nil))
			gains[id] = complex(rng.Float64()*2-1, rng.Float64()*2-1)
		}
		m.Modules = append(m.Modules, build.Module("amp", meaning.Amp, nil))
		ids = append(ids, "amp")
		for i := range ids[:len(ids)-1] {
			for j := i + 1; j < len(ids); j++ {
				if j == i+1 || rng.IntN(3) == 0 {
					m.Audio = append(m.Audio, meaning.Edge{From: ids[i], To: ids[j]})
				}
			}
		}
		var ways func(id string) complex128
		ways = func(id string) complex128 {
			if id == "amp" {
				return 1
			}
			sum := complex128(0)
			for _, e := range m.Audio {
				if e.From == id {
					g := complex128(1)
					if x, is := gains[e.To]; is {
						g = x
					}
					sum += g * ways(e.To)
				}
			}
			return sum
		}
		got := m.Graph().Path().Gain("osc", func(f *meaning.Module) complex128 { return gains[f.ID] })
		if want := ways("osc"); cmplx.Abs(got-want) > 1e-9*max(1, cmplx.Abs(want)) {
			t.Fatalf("seed %d: %v, want %v", seed, got, want)
		}
		slices.Reverse(m.Modules)
		if again := m.Graph().Path().Gain("osc", func(f *meaning.Module) complex128 { return gains[f.ID] }); cmplx.Abs(again-got) > 1e-9 {
			t.Fatalf("seed %d: in another order %v, not %v", seed, again, got)
		}
	}
}

// A filter beside another one is shut where it lets nothing through that is heard; in a row, or open, it is not. A source forks where it goes into both.
func TestShutAndForks(t *testing.T) {
	mod := build.Module
	for _, x := range []struct {
		name, edges string
		cutoff      float64
		shut, forks bool
	}{
		{"beside, down", "osc>f1 osc>f2 f1>amp f2>amp", 10, true, true},
		{"beside, open", "osc>f1 osc>f2 f1>amp f2>amp", 15000, false, true},
		{"in a row, down", "osc>f1 f1>f2 f2>amp", 10, false, false},
		{"beside, by a mixer", "osc>mixer mixer>f1 mixer>f2 f1>amp f2>amp", 10, true, true},
	} {
		m := path(x.edges, mod("osc", meaning.Osc, nil), mod("mixer", meaning.Mixer, nil), mod("f1", meaning.Filter, build.Params{"mode": "lowpass", "cutoff": 800, "poles": 4}),
			mod("f2", meaning.Filter, build.Params{"mode": "lowpass", "cutoff": x.cutoff, "poles": 4}), mod("amp", meaning.Amp, nil))
		p := m.Graph().Path()
		if got := p.Shut(m.Module("f2")); got != x.shut || p.Shut(m.Module("f1")) {
			t.Errorf("%s: shut %v, want %v", x.name, got, x.shut)
		}
		if p.Forks("osc") != x.forks {
			t.Errorf("%s: forks %v, want %v", x.name, p.Forks("osc"), x.forks)
		}
	}
}

// An operator whose level is off modulates nothing, and what modulates it alone is idle too; one without an output that modulates is in use, an oscillator with
// its level down that does so as well.
func TestSilentModulators(t *testing.T) {
	mod := build.Module
	m := build.Row([]meaning.Route{build.Route("b", "a.pm", 1, "bipolar"), build.Route("c", "b.pm", 1, "bipolar"), build.Route("d", "a.pm", 1, "bipolar"), build.Route("o", "p.interval", 100, "bipolar")},
		mod("a", meaning.Operator, build.Params{"level": 0, "output": 0}), mod("b", meaning.Operator, build.Params{"level": nil}), mod("c", meaning.Operator, build.Params{"level": 0}), mod("d", meaning.Operator, build.Params{"level": -6}),
		mod("o", meaning.Osc, build.Params{"level": nil}), mod("p", meaning.Osc, nil))
	m.Audio = slices.DeleteFunc(m.Audio, func(e meaning.Edge) bool { return slices.Contains([]string{"b", "c", "d"}, e.From) })
	m.MarkIdle(func(string) string { return "" })
	for id, used := range map[string]bool{"a": true, "b": false, "c": false, "d": true, "o": true, "p": true} {
		if d := m.Module(id); d.Used() != used {
			t.Errorf("%s is used: %v (%s), want %v", id, d.Used(), d.Idle, used)
		}
	}
	for i, used := range []bool{false, false, true, true} {
		if r := &m.Routes[i]; r.Used() != used {
			t.Errorf("%s is used: %v (%s), want %v", r.ID, r.Used(), r.Idle, used)
		}
	}
}

// Amplifiers before the last stand in the path, as do those side by side; one alone, or one that nothing goes through, does not. Filters between two of them are those of the voice.
func TestAmplifiersInThePath(t *testing.T) {
	mod := build.Module
	parts := func() []meaning.Module {
		return []meaning.Module{mod("osc", meaning.Osc, nil), mod("osc2", meaning.Osc, nil), mod("a", meaning.Amp, nil), mod("b", meaning.Amp, nil), mod("all", meaning.Amp, nil), mod("f", meaning.Filter, nil), mod("echo", meaning.Delay, nil)}
	}
	for _, x := range []struct{ name, edges, want, amp, filters string }{
		{"one", "osc>f osc2>f f>all all>echo echo>out", "osc: f; osc2: f; f > out", "all", "f"},
		{"two lines into one", "osc>a osc2>b a>all b>all all>out", "osc: a; osc2: b; a > out; b > out", "all", ""},
		{"in a row with a filter between", "osc>a a>f f>all osc2>f all>out", "osc: a; osc2: f; a > f; f > out", "all", "f"},
		{"side by side", "osc>a osc2>b a>echo b>echo echo>out", "osc: a; osc2: b; a > out; b > out", "", ""},
	} {
		m := path(x.edges, parts()...)
		for i := range m.Modules {
			if d := &m.Modules[i]; d.Kind == meaning.Amp && !strings.Contains(x.edges, d.ID+">") {
				d.Idle = "not there"
			}
		}
		g := m.Graph()
		amp := ""
		if d := g.Amplifier(); d != nil {
			amp = d.ID
		}
		if got := written(g.Path()); got != x.want || amp != x.amp || ids(g.Filters()) != x.filters {
			t.Errorf("%s: %q, the amplifier is %q, filters %q; want %q, %q and %q", x.name, got, amp, ids(g.Filters()), x.want, x.amp, x.filters)
		}
		if !g.Behind("echo") && strings.Contains(x.edges, "echo") {
			t.Errorf("%s: the echo is not behind the amplifier", x.name)
		}
	}
}

// What no sound goes through does nothing, and with it what opens it: the amplifier of a line that is switched off. Not a filter that whistles by itself, nor what lies behind it, nor anything where nothing sounds.
func TestNothingGoesThrough(t *testing.T) {
	mod := build.Module
	for _, x := range []struct {
		name string
		set  func(m *meaning.Meaning)
		idle string
	}{
		{"both sound", func(*meaning.Meaning) {}, ""},
		{"one is off", func(m *meaning.Meaning) { m.Module("y").Idle = "off" }, "f b e"},
		{"its filter whistles", func(m *meaning.Meaning) {
			m.Module("y").Idle = "off"
			m.Module("f").Params = mod("f", meaning.Filter, build.Params{"resonance": 1.0}).Params
		}, ""},
		{"nothing sounds", func(m *meaning.Meaning) { m.Module("x").Idle, m.Module("y").Idle = "off", "off" }, ""},
	} {
		m := path("x>a y>f f>b a>all b>all all>out", mod("x", meaning.Osc, nil), mod("y", meaning.Osc, nil), mod("f", meaning.Filter, nil), mod("a", meaning.Amp, nil), mod("b", meaning.Amp, nil), mod("all", meaning.Amp, nil), mod("e", meaning.Env, nil))
		m.Routes = []meaning.Route{{ID: "r", From: "e", To: []string{"b.level"}, Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}}}
		x.set(m)
		m.MarkIdle(func(string) string { return "" })
		var idle []string
		for i := range m.Modules {
			if d := &m.Modules[i]; !d.Used() && d.Kind != meaning.Osc {
				idle = append(idle, d.ID)
			}
		}
		if got := strings.Join(idle, " "); got != x.idle {
			t.Errorf("%s: %q do nothing, want %q", x.name, got, x.idle)
		}
	}
}

// A part at no level is in use where something brings it in, and so is what does; not where that turns it down, where it is switched off besides, or where nothing moves it.
func TestBroughtIn(t *testing.T) {
	mod := build.Module
	off := func(id string, k meaning.Kind, more build.Params) meaning.Module {
		d := mod(id, k, more)
		if d.Params == nil {
			d.Params = map[meaning.ParamName]meaning.Value{}
		}
		d.Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
		return d
	}
	for _, x := range []struct {
		name     string
		part     meaning.Module
		to       string
		depth    float64
		polarity string
		used     bool
	}{
		{"an oscillator", off("p", meaning.Osc, nil), "p.level", 0.5, "unipolar", true},
		{"noise", off("p", meaning.Noise, nil), "p.level", 1, "unipolar", true},
		{"by swings", off("p", meaning.Noise, nil), "p.level", -0.3, "bipolar", true},
		{"an echo", mod("p", meaning.Delay, build.Params{"mix": 0.0}), "p.mix", 0.4, "unipolar", true},
		{"down", off("p", meaning.Noise, nil), "p.level", -0.5, "unipolar", false},
		{"by nothing", off("p", meaning.Noise, nil), "p.level", 0, "unipolar", false},
		{"something else", off("p", meaning.Osc, nil), "p.width", 0.5, "unipolar", false},
		{"switched off besides", off("p", meaning.Osc, build.Params{"on": "off"}), "p.level", 0.5, "unipolar", false},
	} {
		m := path("x>a p>a a>out", mod("x", meaning.Osc, nil), x.part, mod("a", meaning.Amp, nil), mod("e", meaning.Env, nil))
		m.Routes = []meaning.Route{{ID: "r", From: "e", To: []string{x.to}, Polarity: x.polarity, Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: x.depth}}}}
		m.MarkIdle(func(string) string { return "" })
		if m.Module("p").Used() != x.used || m.Module("e").Used() != x.used || m.Routes[0].Used() != x.used {
			t.Errorf("%s: the part %q, what brings it in %q, the route %q", x.name, m.Module("p").Idle, m.Module("e").Idle, m.Routes[0].Idle)
		}
	}
}
