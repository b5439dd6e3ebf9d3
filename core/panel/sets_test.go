package panel_test

import (
	"strings"
	"testing"

	"glossator/core/build"
	"glossator/core/panel"
	"glossator/testutil/testrack"
)

// What a control sets is found by the trade's words and by their beginnings (common practice, no source).
func TestSetsAreFoundByTheTradesWords(t *testing.T) {
	p, err := build.Begin("mono", "mine", "Mine", "")
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range []struct{ text, section, want string }{
		{"det", "osc1", "fine tune of oscillator 1"}, {"fine", "osc2", "fine tune of oscillator 2"}, {"tune osc 1", "", "fine tune of oscillator 1"}, {"detune 2", "", "fine tune of oscillator 2"}, {"osc 2 semi", "", "semitones of oscillator 2"},
		{"range", "osc2", "octave of oscillator 2"}, {"pulse width", "osc1", "pulse width of oscillator 1"}, {"pw", "osc2", "pulse width of oscillator 2"}, {"cutoff", "", "cutoff of filter"}, {"freq", "filter", "cutoff of filter"}, {"reso", "", "resonance of filter"},
		{"q", "filter", "resonance of filter"}, {"kbd", "filter", "key tracking of filter"}, {"porta", "", "glide time of voice"}, {"att", "filter-envelope", "attack of filter envelope"}, {"dec amp", "", "decay of amplifier envelope"}, {"speed", "lfo", "rate of LFO"},
		{"vol", "amp", "level of amplifier"}, {"level osc 2", "", "level of oscillator 2"}, {"lfo pitch", "", "amount of LFO to pitch"}, {"env amount", "filter", "amount of filter envelope to cutoff"}, {"osc2.width", "", "pulse width of oscillator 2"}, {"osc1.interval fine", "", "fine tune of oscillator 1"},
		{"Fine tune of oscillator 2", "", "fine tune of oscillator 2"}, {"dri", "filter", "drive of filter"}, {"cut", "", "cutoff of filter"},
	} {
		found := p.FindSets(x.text, x.section, false)
		if len(found) == 0 || found[0].Label != x.want {
			var all []string
			for _, f := range found[:min(4, len(found))] {
				all = append(all, f.Label)
			}
			t.Errorf("%q in %q finds %s, want %s first", x.text, x.section, strings.Join(all, "; "), x.want)
		}
	}
	// pitch, tune, det and fine all lead to the fine tune
	for _, w := range []string{"det", "tune", "pitch", "fine"} {
		some := false
		for _, f := range p.FindSets(w, "osc2", false) {
			some = some || f.Label == "fine tune of oscillator 2"
		}
		if !some {
			t.Errorf("%q does not find the fine tune", w)
		}
	}
	if found := p.FindSets("hovercraft", "", false); len(found) != 0 {
		t.Errorf("nonsense finds %v", found[0].Label)
	}
}

// Everything that the controls of the demo's panels set has a label of its own, which finds it again; so do the names in files.
func TestEachSettingIsFoundByItsLabel(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		seen := map[string]string{}
		labels := map[[2]string]string{}
		for _, s := range c.AllSets() {
			labels[[2]string{s.Param, s.Part}] = s.Label
			if other, dup := seen[s.Label]; dup && other != s.Param {
				t.Logf("%s: %s is %s and %s", id, s.Label, other, s.Param)
			}
			seen[s.Label] = s.Param
		}
		for _, k := range c.Controls {
			for _, b := range k.Means {
				label := labels[[2]string{b.Param, b.Part}]
				if label == "" {
					t.Errorf("%s: %s sets %s %s, which has no label", id, k.Label, b.Param, b.Part)
					continue
				}
				name := strings.TrimSpace(b.Param + " " + b.Part)
				found := c.FindSets(name, "", false)
				if len(found) != 1 || found[0].Param != b.Param || found[0].Part != b.Part {
					t.Errorf("%s: %s is not found by its name: %v", id, name, found)
				}
			}
		}
	}
	var p panel.Panel
	if found := p.FindSets("cutoff", "", false); len(found) != 0 {
		t.Error("an empty panel has something to set")
	}
}

// Conditions are written and read with what controls are called; where several are called the same, with their section.
func TestConditionsByLabel(t *testing.T) {
	for id, c := range testrack.Panels(t) {
		for at, text := range c.Conditions() {
			if _, err := c.ReadWhen(text); err != nil {
				t.Errorf("%s %s: %q: %v", id, at, text, err)
			}
		}
		for _, k := range c.Controls {
			for _, b := range k.Means {
				text := c.WhenText(b.When)
				back, err := c.ReadWhen(text)
				if err != nil || panel.WhenText(back) != panel.WhenText(b.When) {
					t.Errorf("%s %s: %q is read as %q, %v", id, k.Label, text, panel.WhenText(back), err)
				}
			}
		}
	}
	p, _ := build.Begin("mono", "mine", "Mine", "")
	ws, err := p.ReadWhen("oscillator 1 wave = saw | pulse; resonance = 0")
	if err != nil || len(ws) != 2 || ws[0].Control != "osc1.wave" || ws[1].Control != "filter.resonance" {
		t.Errorf("%+v, %v", ws, err)
	}
	if _, err := p.ReadWhen("Wave = saw"); err == nil || !strings.Contains(err.Error(), "Oscillator 1 Wave or Oscillator 2 Wave") {
		t.Errorf("a label that several have: %v", err)
	}
}
