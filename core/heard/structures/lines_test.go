package structures

import (
	"fmt"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/testutil/hearing"
	"glossator/testutil/instruments"
	"glossator/testutil/testrack"
)

func lined(t *testing.T) *panel.Compiled {
	t.Helper()
	c, err := instruments.Lines("lines")
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func onLines(id string, readings map[string]string) *patch.Patch {
	p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: id, Name: id, Panel: "lines", PanelRevision: 1, Kind: "lead", Tempo: 120, Layers: []patch.Layer{{ID: "a", Readings: readings}}}
	p.Phrase = &patch.Phrase{}
	for k, note := range []string{"C4", "G4", "E4"} {
		p.Phrase.Notes = append(p.Phrase.Notes, patch.PhraseNote{At: fmt.Sprintf("%d/4", k), For: "1/4", Note: note, Velocity: 100})
	}
	return p
}

// Two lines that are bent alike and one that dies away beside another: a line that is switched off is not in the way, brightness goes over to a filter or to a modulation, and each line keeps its
// envelope where the target has a way. The render is the witness: by numbers, before there were rules for it, the first of them lay 43 apart on Halyard and Thole, 45 on Fairlead.
func TestBentLines(t *testing.T) {
	src, rack := lined(t), testrack.Panels(t)
	horn := onLines("horn", map[string]string{"lines": "both", "y.note": "0", "x.depth": "70", "y.depth": "60", "x1.attack": "45", "y1.attack": "45", "x1.sustain": "55", "y1.sustain": "55"})
	alone := onLines("alone", map[string]string{"x.depth": "80", "x1.decay": "55", "x1.sustain": "10", "y.depth": "99", "y2.attack": "90"})
	bell := onLines("bell", map[string]string{"lines": "both", "y.note": "19", "y.level": "70", "x.depth": "20", "x2.sustain": "0", "x2.decay": "85", "y2.sustain": "0", "y2.decay": "45"})
	for _, x := range []struct {
		p    *patch.Patch
		on   string
		most float64
	}{{horn, "halyard", 10}, {horn, "thole", 10}, {horn, "fairlead", 25}, {alone, "halyard", 10}, {alone, "sheave", 12}, {bell, "binnacle", 6}} {
		_, s, r := hearing.Listen(t, src, x.p, rack[x.on], plan.Numbers, false)
		if r.Silent != "" || r.Apart.Total > x.most {
			t.Errorf("%s on %s: %+v, silent: %q", x.p.ID, x.on, r.Apart, r.Silent)
		}
		if x.p == alone {
			for _, g := range s.Glosses {
				if g.Label == "y2.attack" && g.Verdict != "idle" {
					t.Errorf("what opens a line that is off is %s on %s", g.Verdict, x.on)
				}
			}
		}
	}
	for _, p := range []*patch.Patch{horn, alone, bell} {
		if _, _, r := hearing.Listen(t, src, p, src, plan.Numbers, false); r.Apart.Total > 0.5 {
			t.Errorf("%s onto itself: %.1f apart", p.ID, r.Apart.Total)
		}
	}
}

// What has one amplifier is opened alike in both lines of an instrument that has one for each; each line is bent where there was a filter.
func TestBothLinesAreOpened(t *testing.T) {
	dst, rack := lined(t), testrack.Panels(t)
	tried := 0
	for _, p := range testrack.Patches(t) {
		if p.ID != "keel" && p.ID != "undertow" {
			continue
		}
		in, s, r := hearing.Listen(t, rack[p.Panel], p, dst, plan.Numbers, false)
		if r.Silent != "" {
			t.Errorf("%s is silent: %s", p.ID, r.Silent)
		}
		a, b := in.Got.Module("x2"), in.Got.Module("y2")
		if y := in.Got.Module("y"); y == nil || !y.Used() {
			continue
		}
		tried++
		for _, name := range []meaning.ParamName{meaning.PAttack, meaning.PDecay, meaning.PSustain, meaning.PRelease} {
			v, _ := a.Get(name)
			w, _ := b.Get(name)
			if v.Quantity != w.Quantity {
				t.Errorf("%s: %s is %v in one line and %v in the other", p.ID, name, v, w)
			}
		}
		bends := false
		for _, d := range []string{"x", "y"} {
			v, _ := in.Got.Module(d).Get(meaning.PWarpAmount)
			bends = bends || v.Value > 0 || in.Got.Module(d).Moved[meaning.PWarpAmount]
		}
		if !bends {
			t.Errorf("%s: neither line is bent: %+v", p.ID, s.Recasts)
		}
	}
	if tried == 0 {
		t.Error("no patch plays both lines")
	}
}

// Noise at no level that an LFO brings in is heard at the source, and on the targets, with it or, where nothing can bring it in, for good; the lines tell all. That it is heard is told by the levels of two renders, with and without the LFO's way to it.
func TestNoiseThatIsBroughtIn(t *testing.T) {
	rack := testrack.Panels(t)
	src := rack["sheave"]
	hiss := func(depth string) *patch.Patch {
		p := onLines("hiss", map[string]string{"noise.level": "0", "lfo2.noise.level": depth})
		p.Panel, p.PanelRevision = src.ID, src.Revision
		return p
	}
	loud := func(p *patch.Patch, dst *panel.Compiled) float64 {
		in, s, r := hearing.Listen(t, src, p, dst, plan.Numbers, false)
		if x := hearing.Check(r, "I8"); r.Silent != "" || x == nil || !x.OK {
			t.Errorf("on %s: silent: %q, %+v", dst.ID, r.Silent, x)
		}
		for _, g := range s.Glosses {
			if g.ID == "lfo2.noise.level" && (g.Verdict == "idle") != (p.Layers[0].Readings["lfo2.noise.level"] == "0.0") {
				t.Errorf("on %s: %s at %s", dst.ID, g.Verdict, p.Layers[0].Readings["lfo2.noise.level"])
			}
		}
		sound, err := synth.Render([]synth.Layer{{Meaning: in.Got}}, []phrase.Note{{End: 2, Key: 48, Velocity: 100}}, synth.Options{Seed: 1, Raw: true})
		if err != nil {
			t.Fatal(err)
		}
		high := 0.0 // what is left of the differences of differences of neighbours: noise has most of it
		for k := 2; k < len(sound.Left); k++ {
			d := sound.Left[k] - 2*sound.Left[k-1] + sound.Left[k-2]
			high += d * d
		}
		return high
	}
	for _, on := range []string{"sheave", "halyard", "binnacle", "kedge"} {
		if with, without := loud(hiss("+4.0"), rack[on]), loud(hiss("0.0"), rack[on]); with < 1.5*without {
			t.Errorf("on %s: %v with the noise, %v without", on, with, without)
		}
	}
	// an instrument without noise loses all of it, and a line says so: by its level it was idle
	_, s, r := hearing.Listen(t, src, hiss("+4.0"), rack["fairlead"], plan.Numbers, true)
	if x := hearing.Check(r, "I9"); x == nil || !x.OK {
		t.Errorf("on fairlead: %+v", x)
	}
	for _, g := range s.Glosses {
		if g.ID == "noise.level" && g.Verdict != "left out" {
			t.Errorf("on fairlead the noise is %s", g.Verdict)
		}
	}
}

// The path is told as it is wired, each line through its own amplifier into the last.
func TestPathOfLines(t *testing.T) {
	src := lined(t)
	in, sheet, _ := hearing.Listen(t, src, onLines("both", map[string]string{"lines": "both"}), src, plan.Numbers, false)
	const want = "x into xamp; y into yamp; xamp and yamp into amp; amp into output"
	if p := in.PathsOf(sheet); p.Source.Text != want || p.Target.Text != want {
		t.Errorf("the paths are %q and %q, want %q", p.Source.Text, p.Target.Text, want)
	}
}
