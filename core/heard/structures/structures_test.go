// Package structures listens to instruments whose operators are wired by one control: a structure that is chosen, and nothing else that says what is heard.
package structures

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/testutil/hearing"
	"glossator/testutil/instruments"
	"glossator/testutil/testrack"
)

func structured(t *testing.T, id, depth string) *panel.Compiled {
	t.Helper()
	c, err := instruments.Structured(id, depth)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// played is a patch on a structured instrument: what of its operators is in use, each with an envelope of its own.
func played(id, on, structure string, seed uint64) *patch.Patch {
	r := rand.New(rand.NewPCG(seed, 11))
	readings := map[string]string{"structure": structure}
	set := func(control string, least, most int) {
		readings[control] = fmt.Sprint(least + r.IntN(most-least+1))
	}
	for i := 1; i <= 4; i++ {
		readings[fmt.Sprintf("op%d.ratio", i)] = []string{"0.5", "1", "1", "2", "3"}[r.IntN(5)]
		set(fmt.Sprintf("op%d.level", i), 62, 84)
		set(fmt.Sprintf("env%d.decay", i), 25, 60)
		set(fmt.Sprintf("env%d.sustain", i), 0, 90)
		set(fmt.Sprintf("env%d.release", i), 45, 75)
	}
	p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: id, Name: id, Panel: on, PanelRevision: 1, Kind: "lead", Tempo: 120, Layers: []patch.Layer{{ID: "a", Readings: readings}}}
	p.Phrase = &patch.Phrase{}
	for k, note := range []string{"C4", "G4", "E3"} {
		p.Phrase.Notes = append(p.Phrase.Notes, patch.PhraseNote{At: fmt.Sprintf("%d/4", k), For: "1/4", Note: note, Velocity: 100})
	}
	return p
}

// What is read of a structure: who is heard, and who only modulates. By the wiring of the panel, not by anything that the program reckons.
func TestStructuresAreRead(t *testing.T) {
	c := structured(t, "structured", "400 %")
	for _, s := range instruments.Structures {
		p := played("p", c.ID, s.Name, 3)
		state, err := c.Read(&p.Layers[0], "")
		if err != nil {
			t.Fatal(err)
		}
		m := c.Interpret(state, 120)
		for i := 1; i <= 4; i++ {
			op := m.Module(fmt.Sprintf("op%d", i))
			if out, _ := op.Get(meaning.POutput); !out.Off != slices.Contains(s.Out, i) {
				t.Errorf("%s: operator %d: output %v, heard are %v", s.Name, i, out, s.Out)
			}
			if !op.Used() {
				t.Errorf("%s: operator %d is %s: it is heard or modulates", s.Name, i, op.Idle)
			}
		}
		used := 0
		for i := range m.Routes {
			if r := &m.Routes[i]; r.Used() && r.ModulatesPhase() {
				used++
			}
		}
		if used != len(s.Into) {
			t.Errorf("%s: %d modulations, want %d", s.Name, used, len(s.Into))
		}
	}
}

// From one structured instrument to another whose modulations are four times as deep, and on the demo's operators, which have outputs and depths of their own: the structure
// is chosen, the index kept, and it sounds the same. The render is the witness.
func TestStructuresAreKept(t *testing.T) {
	src, deep, rack := structured(t, "structured", "100 %"), structured(t, "deep", "400 %"), testrack.Panels(t)
	for k, s := range instruments.Structures {
		p := played("p-"+fmt.Sprint(k), src.ID, s.Name, uint64(k))
		for _, dst := range []*panel.Compiled{deep, rack["fairlead"]} {
			_, sheet, r := hearing.Listen(t, src, p, dst, plan.Numbers, false)
			if r.Silent != "" || r.Apart.Total > 1.5 {
				t.Errorf("%s on %s: %.1f apart, silent: %q", s.Name, dst.ID, r.Apart.Total, r.Silent)
			}
			if c := hearing.Check(r, "I8"); c == nil || !c.OK {
				t.Errorf("%s on %s: %+v", s.Name, dst.ID, c)
			}
			if dst != deep {
				continue
			}
			for _, x := range sheet.Settings {
				if x.Control == "structure" && x.Reading != s.Name && len(s.Into) > 0 {
					t.Errorf("%s: the structure is %s", s.Name, x.Reading)
				}
			}
		}
		// and back from the deeper one: a level goes up where the depth goes down, as far as there is room
		back := played("b-"+fmt.Sprint(k), deep.ID, s.Name, uint64(k)+20)
		if _, _, r := hearing.Listen(t, deep, back, src, plan.Numbers, false); r.Silent != "" || r.Apart.Total > 2.5 {
			t.Errorf("%s back: %.1f apart, silent: %q", s.Name, r.Apart.Total, r.Silent)
		}
	}
}

// The demo's patches on a structured instrument, and a structured one's on all of the demo's: none is silent, and the lines tell all.
func TestNothingFallsSilentByItsStructure(t *testing.T) {
	c, rack := structured(t, "structured", "400 %"), testrack.Panels(t)
	listen := func(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) {
		_, s, r := hearing.Listen(t, src, p, dst, plan.Numbers, false)
		if r.Silent != "" {
			t.Errorf("%s on %s: silent: %s", p.ID, dst.ID, r.Silent)
		}
		if x := hearing.Check(r, "I8"); x == nil || !x.OK {
			t.Errorf("%s on %s: %+v", p.ID, dst.ID, x)
		}
		if len(s.Settings) == 0 {
			t.Errorf("%s on %s: nothing is set", p.ID, dst.ID)
		}
	}
	for _, p := range testrack.Patches(t) {
		if p.ID == "keel" || p.ID == "undertow" || p.ID == "tide-pool" || p.ID == "lamp-room" {
			listen(rack[p.Panel], p, c)
		}
	}
	for k, id := range []string{"halyard", "windlass", "bowline", "coracle"} {
		listen(c, played("p-"+id, c.ID, instruments.Structures[k].Name, uint64(k)+40), rack[id])
	}
}

// What ends a note is kept: the release of the operators' envelopes where the target has one amplifier for all, which the source has nothing to open.
func TestReleaseOfOperators(t *testing.T) {
	c, rack := structured(t, "structured", "400 %"), testrack.Panels(t)
	p := played("p", c.ID, "pairs", 5)
	for i := 1; i <= 4; i++ {
		p.Layers[0].Readings[fmt.Sprintf("env%d.sustain", i)] = "99"
		p.Layers[0].Readings[fmt.Sprintf("env%d.release", i)] = "35" // about a second
	}
	p.Phrase.Notes = p.Phrase.Notes[:1]
	for _, id := range []string{"binnacle", "halyard", "thole"} {
		in, _, r := hearing.Listen(t, c, p, rack[id], plan.Numbers, false)
		if r.Apart.Shape > 6 {
			t.Errorf("on %s: the shape is %.1f apart", id, r.Apart.Shape)
		}
		longest := 0.0
		for i := range in.Got.Routes {
			x := &in.Got.Routes[i]
			if env := in.Got.Module(x.From); x.Used() && env != nil && env.Kind == meaning.Env && in.Got.Opens(x) {
				v, _ := env.Get(meaning.PRelease)
				longest = max(longest, v.Value)
			}
		}
		if longest < 0.5 {
			t.Errorf("on %s: what opens the amplifier lets go in %.3f s", id, longest)
		}
	}
}
