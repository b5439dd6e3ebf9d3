package panel_test

import (
	"encoding/json"
	"math/rand/v2"
	"strings"
	"testing"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/testutil/testrack"
)

func copyOf[T any](t *testing.T, v *T) *T {
	t.Helper()
	b, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	out := new(T)
	if err := json.Unmarshal(b, out); err != nil {
		t.Fatal(err)
	}
	return out
}

// Each change of a panel is told once, by what it is and what it was.
func TestDiffTellsEachChange(t *testing.T) {
	was := testrack.Panels(t)["halyard"].Panel
	for _, x := range []struct {
		name            string
		change          func(p *panel.Panel)
		where, old, now string
	}{
		{"nothing", func(*panel.Panel) {}, "", "", ""},
		{"head", func(p *panel.Panel) { p.Name = "Other" }, "name", was.Name, "Other"},
		{"a label", func(p *panel.Panel) { p.Controls[3].Label = "Xyz" }, "Xyz: label", was.Controls[3].Label, "Xyz"},
		{"a face", func(p *panel.Panel) { p.Controls[0].Face.Suffix = " u" }, ": face: suffix", was.Controls[0].Face.Suffix, " u"},
		{"a law", func(p *panel.Panel) { p.Controls[0].Means[0].Law.Source = "measured" }, ": law 1", "", "measured"},
		{"a law more", func(p *panel.Panel) { p.Controls[0].Means = append(p.Controls[0].Means, p.Controls[1].Means[0]) }, ": law", "", p1(was)},
		{"a control gone", func(p *panel.Panel) { p.Controls = p.Controls[1:] }, was.Controls[0].Label, "was there", ""},
		{"a module", func(p *panel.Panel) { p.Modules[0].Label = "Xyz" }, "module Xyz: label", was.Modules[0].Label, "Xyz"},
		{"order", func(p *panel.Panel) { p.Sections[0], p.Sections[1] = p.Sections[1], p.Sections[0] }, "order of the sections", was.Sections[0].ID, was.Sections[1].ID},
		{"a note", func(p *panel.Panel) { p.Hidden = append(p.Hidden, panel.Note{About: "Xyz", Text: "t"}) }, "note Xyz", "", "new"},
		{"the signal path", func(p *panel.Panel) { p.Audio = p.Audio[:len(p.Audio)-1] }, "signal", "was there", ""},
		{"the dump", func(p *panel.Panel) { p.Dump = &panel.Dump{Header: "7D 09", Length: 9} }, "dump", "", "7D 09, 9 bytes"},
	} {
		is := copyOf(t, was)
		x.change(is)
		d := panel.Diff(was, is)
		if x.where == "" {
			if len(d) != 0 {
				t.Errorf("%s: %v", x.name, d)
			}
			continue
		}
		if len(d) != 1 || !strings.Contains(d[0].Where, x.where) || !strings.Contains(d[0].Was, x.old) || !strings.Contains(d[0].Is, x.now) {
			t.Errorf("%s: %v, want %q: %q, %q", x.name, d, x.where, x.old, x.now)
		}
		if back := panel.Diff(is, was); len(back) != 1 {
			t.Errorf("%s: backwards %v", x.name, back)
		}
	}
}

func p1(p *panel.Panel) string { return p.Controls[1].Means[0].Param }

// Renaming anything of any shipped panel leaves it without faults, and renaming it back gives
// the panel as it was.
func TestRenameEverything(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		ids := map[string][]string{}
		for i := range c.Sections {
			ids["section"] = append(ids["section"], c.Sections[i].ID)
		}
		for i := range c.Controls {
			ids["control"] = append(ids["control"], c.Controls[i].ID)
		}
		for i := range c.Modules {
			ids["module"] = append(ids["module"], c.Modules[i].ID)
		}
		for i := range c.Routes {
			ids["route"] = append(ids["route"], c.Routes[i].ID)
		}
		for i := range c.Points {
			ids["point"] = append(ids["point"], c.Points[i].ID)
		}
		if c.Matrix != nil {
			for i := range c.Matrix.Slots {
				ids["slot"] = append(ids["slot"], c.Matrix.Slots[i].ID)
			}
		}
		rng := rand.New(rand.NewPCG(3, uint64(len(id))))
		for kind, all := range ids {
			for range 4 {
				from := all[rng.IntN(len(all))]
				now, err := panel.Rename(c.Panel, kind, from, "renamed-one")
				if err != nil {
					t.Fatalf("%s %s %s: %v", id, kind, from, err)
				}
				if _, err := panel.Compile(copyOf(t, now)); err != nil {
					t.Errorf("%s: renaming %s %s brings %v", id, kind, from, err)
				}
				back, err := panel.Rename(now, kind, "renamed-one", from)
				if err != nil || len(panel.Diff(c.Panel, back)) > 0 {
					t.Errorf("%s: %s %s renamed back: %v %v", id, kind, from, err, panel.Diff(c.Panel, back))
				}
			}
		}
	}
	c := testrack.Panels(t)["halyard"]
	for _, kind := range []string{"section", "control", "module", "route", "slot", "point", "attic", ""} {
		if _, err := panel.Rename(c.Panel, kind, "nobody", "x"); err == nil || !strings.Contains(err.Error(), "expected") {
			t.Errorf("a %q that is not there was renamed: %v", kind, err)
		}
	}
}

func TestDiffPatch(t *testing.T) {
	rack := testrack.Panels(t)
	for id, was := range testrack.Patches(t) {
		c := rack[was.Panel]
		if d := panel.DiffPatch(c, was, copyOf(t, was)); len(d) != 0 {
			t.Errorf("%s differs from itself: %v", id, d)
		}
		for _, x := range []struct {
			change func(p *patch.Patch)
			where  string
		}{
			{func(p *patch.Patch) { p.Name += "x" }, "name"},
			{func(p *patch.Patch) { p.Tempo++ }, "tempo"},
			{func(p *patch.Patch) { p.Layers[0].Label += "x" }, "label"},
			{func(p *patch.Patch) { p.Phrase = &patch.Phrase{Name: "other"} }, "phrase"},
			{func(p *patch.Patch) {
				l := p.Layers[0]
				l.ID = "zz"
				p.Layers = append(p.Layers, l)
			}, "layer zz"},
		} {
			is := copyOf(t, was)
			x.change(is)
			if d := panel.DiffPatch(c, was, is); len(d) != 1 || !strings.Contains(d[0].Where, x.where) {
				t.Errorf("%s: %v, want %s", id, d, x.where)
			}
		}
		// a reading more is told with the control's name and from init
		is := copyOf(t, was)
		for k := range c.Controls {
			if _, ok := was.Layers[0].Readings[c.Controls[k].ID]; !ok && c.Controls[k].Face.Len() > 1 {
				n := c.Controls[k].Face.At(0).Reading
				if n == c.Init(k).Reading {
					n = c.Controls[k].Face.At(1).Reading
				}
				is.Layers[0].Readings[c.Controls[k].ID] = n
				d := panel.DiffPatch(c, was, is)
				if len(d) != 1 || !strings.Contains(d[0].Where, c.Controls[k].Label) || d[0].Is != n || !strings.Contains(d[0].Was, "init") {
					t.Errorf("%s: %v for %s at %s", id, d, c.Controls[k].ID, n)
				}
				break
			}
		}
	}
}
