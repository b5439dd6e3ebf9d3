package structures

import (
	"fmt"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
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
