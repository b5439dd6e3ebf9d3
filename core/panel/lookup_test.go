package panel_test

import (
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/scale"
	"glossator/testutil/testrack"
)

// What a compiled panel finds by id is what stands there, and nothing else is found.
func TestLookups(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		for i := range c.Controls {
			if k, ok := c.ControlIndex(c.Controls[i].ID); !ok || k != i {
				t.Errorf("%s: control %s is found at %d", id, c.Controls[i].ID, k)
			}
			if c.SectionLabel(i) == "" || c.StepOf(i) == "" || c.Expects(i) == "" {
				t.Errorf("%s: %s has no section, step or expectation", id, c.Controls[i].ID)
			}
			if !c.AtInit(i, c.Init(i)) {
				t.Errorf("%s: %s at init is not at init", id, c.Controls[i].ID)
			}
			if c.OnlyWritten(i) && len(c.Controls[i].Means) > 0 {
				t.Errorf("%s: %s is only written down and means something", id, c.Controls[i].ID)
			}
			if c.Controls[i].Face.Kind == scale.Text {
				continue
			}
			places := c.Places(i)
			if len(places) != c.Controls[i].Face.Len() {
				t.Errorf("%s: %s has %d places, its face %d", id, c.Controls[i].ID, len(places), c.Controls[i].Face.Len())
			}
			for n, p := range places {
				at, err := c.Parse(i, p.Reading)
				if err != nil || at.Index != p.Index || p.Index != n || c.AtInit(i, p) != (p.Index == c.Init(i).Index) {
					t.Errorf("%s: %s at %q is place %d of %d (%v)", id, c.Controls[i].ID, p.Reading, at.Index, n, err)
				}
			}
		}
		for i := range c.Modules {
			if k, ok := c.ModuleIndex(c.Modules[i].ID); !ok || k != i {
				t.Errorf("%s: module %s is found at %d", id, c.Modules[i].ID, k)
			}
		}
		for i := range c.Routes {
			if k, ok := c.RouteIndex(c.Routes[i].ID); !ok || k != i {
				t.Errorf("%s: route %s is found at %d", id, c.Routes[i].ID, k)
			}
		}
		for i := range c.Points {
			if c.PointIndex(c.Points[i].ID) != i {
				t.Errorf("%s: point %s is found at %d", id, c.Points[i].ID, c.PointIndex(c.Points[i].ID))
			}
		}
		if _, ok := c.ControlIndex("nobody"); ok {
			t.Errorf("%s: a control that is none was found", id)
		}
		if _, ok := c.ModuleIndex(""); ok {
			t.Errorf("%s: a module that is none was found", id)
		}
		if _, ok := c.RouteIndex("nobody"); ok || c.PointIndex("nobody") != -1 {
			t.Errorf("%s: a route or point that is none was found", id)
		}
	}
}

// Bindings of a module's parameters by name and by their place in the vocabulary are the same; structural controls are among them or
// what they depend on, and what they alone decide is told.
func TestBindings(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		for i := range c.Modules {
			spec := meaning.SpecOf(c.Modules[i].Kind)
			mine := map[int]bool{}
			for n, p := range spec.Params {
				byPlace, byName := c.ParamBinds(i, n), c.Binds(meaning.Ref(c.Modules[i].ID, p.Name))
				if !slices.Equal(byPlace, byName) {
					t.Errorf("%s: %s.%s has the bindings %v and %v", id, c.Modules[i].ID, p.Name, byPlace, byName)
				}
				for _, ref := range byPlace {
					b := c.Bind(ref)
					mine[ref.Control] = true
					if b.Param != meaning.Ref(c.Modules[i].ID, p.Name) {
						t.Errorf("%s: a binding of %s.%s is of %s", id, c.Modules[i].ID, p.Name, b.Param)
					}
					for w := range b.When {
						k, in := c.Cond(&b.When[w])
						mine[k] = true
						if len(in) == 0 {
							t.Errorf("%s: a condition on %s never holds", id, c.Controls[k].ID)
						}
					}
					if c.Scale(ref).Len() != len(c.Places(ref.Control)) {
						t.Errorf("%s: the scale of %s has %d places of %d", id, c.Controls[ref.Control].ID, c.Scale(ref).Len(), len(c.Places(ref.Control)))
					}
				}
			}
			structural := c.Structural(i)
			if !slices.IsSorted(structural) {
				t.Errorf("%s: %s has structural controls out of order", id, c.Modules[i].ID)
			}
			for _, k := range structural {
				if !mine[k] {
					t.Errorf("%s: %s is structural for %s and sets nothing of it", id, c.Controls[k].ID, c.Modules[i].ID)
				}
			}
			for _, n := range c.Decided(i) {
				for _, ref := range c.ParamBinds(i, n) {
					if !slices.Contains(structural, ref.Control) {
						t.Errorf("%s: %s.%s is decided by %s, which is not structural", id, c.Modules[i].ID, spec.Params[n].Name, c.Controls[ref.Control].ID)
					}
				}
			}
			if c.Pivot(i) < 0 || c.Pivot(i) > 127 {
				t.Errorf("%s: %s has its pivot at %v", id, c.Modules[i].ID, c.Pivot(i))
			}
		}
		if len(c.Binds("nobody.level")) > 0 {
			t.Errorf("%s: nobody has a level", id)
		}
	}
}

// One module or route read by itself is as it stands in the whole, into a used map as into a new one.
func TestPartsOfAMeaning(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		for seed := range uint64(3) {
			p := testrack.Generate(c, 500+seed, 0.4)
			s, err := c.Read(&p.Layers[0], "")
			if err != nil {
				t.Fatal(err)
			}
			whole := c.Interpret(s, 96)
			used := meaning.Module{Params: map[meaning.ParamName]meaning.Value{"left": {}}}
			for i := range c.Modules {
				one := c.Module(i, s, 96)
				in := whole.Module(c.Modules[i].ID)
				if in == nil || !reflect.DeepEqual(one.Params, in.Params) {
					t.Errorf("%s, seed %d: %s by itself is %v", id, seed, c.Modules[i].ID, one.Params)
					continue
				}
				c.ModuleInto(&used, i, s, 96)
				if !reflect.DeepEqual(used.Params, one.Params) {
					t.Errorf("%s, seed %d: %s into a used map is %v", id, seed, c.Modules[i].ID, used.Params)
				}
			}
			for i := range c.Routes {
				one, in := c.Route(i, s, 96), whole.Route(c.Routes[i].ID)
				if in == nil || one.Depth.Quantity != in.Depth.Quantity || one.From != in.From {
					t.Errorf("%s, seed %d: route %s by itself is %v", id, seed, c.Routes[i].ID, one)
				}
			}
		}
	}
}

// The matrix and the points: full depths are of the dimension that moves what they move, names of sources lead back, and a cable goes
// through an attenuator that has both ends.
func TestMatrixAndPoints(t *testing.T) {
	through := 0
	for id, c := range testrack.Panels(t) {
		dimOf := func(ref string) q.Dim {
			p, err := c.Param(ref)
			if err != nil {
				t.Fatalf("%s: %s: %v", id, ref, err)
			}
			return meaning.DepthDim(p.Dim)
		}
		if m := c.Matrix; m != nil {
			for i := range m.Destinations {
				d := &m.Destinations[i]
				if len(d.To) == 0 {
					continue
				}
				if full := c.Full(d.Name); full.Dim != dimOf(d.To[0]) || !full.Finite() {
					t.Errorf("%s: %s at full is %v", id, d.Name, full)
				}
			}
			for name, from := range m.Sources {
				if back := m.SourceName(from); m.Sources[back] != from || back > name {
					t.Errorf("%s: %s is named %q", id, from, back)
				}
			}
			if m.SourceName("nobody") != "" {
				t.Errorf("%s: nobody has a name", id)
			}
		}
		for i := range c.Points {
			if a := c.AttenuatorIn(i); a >= 0 {
				through++
				in, out := c.AttenuatorThrough(a)
				if c.Modules[a].Kind != meaning.Atten || !c.AttenuatorPoints(a) || in != i || c.Points[out].Dir != "out" {
					t.Errorf("%s: through %s leads %d to %d", id, c.Modules[a].ID, in, out)
				}
				continue
			}
			if c.Points[i].Dir == "in" {
				if full := c.PointDepth(c.Points[i].ID); full.Dim != dimOf(c.Points[i].To[0]) || !full.Finite() {
					t.Errorf("%s: %s at full is %v", id, c.Points[i].ID, full)
				}
			}
		}
	}
	if through == 0 {
		t.Error("no demo panel has an attenuator to go through")
	}
}

// Drawn waves are checked where they stand: in a list law, a fixed property and a table.
func TestDrawnWavesAreChecked(t *testing.T) {
	rack := testrack.Panels(t)
	binnacle := rack["binnacle"]
	k, _ := binnacle.ControlIndex("lfo1.wave")
	i := slices.IndexFunc(binnacle.Controls[k].Means[0].Law.Values, func(v any) bool { s, _ := v.(string); return strings.HasPrefix(s, "stepped") })
	if i < 0 {
		t.Fatal("Binnacle has no stepped wave")
	}
	for text, says := range map[string]string{"drawn 0 100 -100": "", "drawn 0 200": "-100 to 100", "stepped 3 3": "silent", "drawn 1 x": `got "x"`} {
		p := *binnacle.Panel
		p.Controls = slices.Clone(p.Controls)
		c := p.Controls[k]
		c.Means = slices.Clone(c.Means)
		c.Means[0].Law.Values = slices.Clone(c.Means[0].Law.Values)
		c.Means[0].Law.Values[i] = text
		p.Controls[k] = c
		_, err := panel.Compile(&p)
		if (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
			t.Errorf("a list with %q: %v", text, err)
		}
	}
	s := binnacle.InitState()
	s.At[k] = binnacle.Places(k)[i]
	m := binnacle.Module(must(binnacle.ModuleIndex("lfo1")), s, 120)
	v, _ := m.Get("wave")
	if d, ok, err := q.ParseDrawn(v.Name); !ok || err != nil || len(d.Points) != 8 || math.Abs(d.At(0)-1) > 1e-9 {
		t.Errorf("the wave reads as %v: %v %v", v.Name, d, err)
	}
}

func must(i int, _ bool) int { return i }

// An oscillator that is synced to the one beside it is synced to "on", whatever its panel calls that one: as a control has it, and fixed. Another oscillator keeps its name.
func TestSyncIsToTheNeighbour(t *testing.T) {
	rack := testrack.Panels(t)
	for _, x := range []struct{ slave, word, want string }{{"osc2", "osc1", "on"}, {"osc2", "on", "on"}, {"osc2", "off", "off"}, {"osc1", "osc2", "on"}, {"osc2", "osc3", "osc3"}} {
		p := *rack["bowline"].Panel
		p.Controls, p.Modules = slices.Clone(p.Controls), append(slices.Clone(p.Modules), panel.Module{ID: "osc3", Kind: meaning.Osc, Label: "Oscillator 3"})
		k := slices.IndexFunc(p.Controls, func(c panel.Control) bool { return c.ID == "osc2.link" })
		m := slices.IndexFunc(p.Modules, func(d panel.Module) bool { return d.ID == x.slave })
		read := func() string {
			t.Helper()
			c, err := panel.Compile(&p)
			if err != nil {
				t.Fatal(err)
			}
			s := c.InitState()
			s.At[k] = c.Places(k)[1]
			return c.Module(must(c.ModuleIndex(x.slave)), s, 120).Params["sync"].Name
		}
		link := p.Controls[k]
		link.Means = slices.Clone(link.Means)
		link.Means[0].Law.Values = []any{"off", x.word, "off"}
		link.Means[0].Param = x.slave + ".sync"
		p.Controls[k] = link
		if got := read(); got != x.want {
			t.Errorf("%s synced to %s by a control reads as %q, want %q", x.slave, x.word, got, x.want)
		}
		link.Means = link.Means[1:]
		p.Controls[k] = link
		p.Modules[m].Fixed = map[meaning.ParamName]string{"phase": "free", "sync": x.word}
		if got := read(); got != x.want {
			t.Errorf("%s that is always synced to %s reads as %q, want %q", x.slave, x.word, got, x.want)
		}
	}
}
