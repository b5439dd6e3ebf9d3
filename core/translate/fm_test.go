package translate_test

import (
	"slices"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// An oscillator that another one modulates is modulated by the same one on the target, whichever of them stand side by side there.
func TestWhatModulatesStandsBesideIt(t *testing.T) {
	rack := testrack.Panels(t)
	for _, x := range []struct {
		src, dst string
		readings map[string]string
	}{
		{"halyard", "binnacle", map[string]string{"osc1.fm": "90", "osc1.level": "90", "osc2.level": "0", "osc2.semi": "71", "osc3.level": "120", "osc3.semi": "59"}},
		{"halyard", "binnacle", map[string]string{"osc1.fm": "90", "osc1.level": "60", "osc2.level": "110", "osc3.level": "120"}},
		{"binnacle", "halyard", map[string]string{"osc1.on": "on", "osc1.level": "-6.0 dB", "osc1.fm": "40.0 %", "osc2.on": "on", "osc2.level": "-3.0 dB"}},
		{"binnacle", "halyard", map[string]string{"osc1.on": "on", "osc1.level": "-6.0 dB", "osc2.on": "on", "osc2.level": "-3.0 dB", "osc2.fm": "40.0 %", "osc3.on": "on", "osc3.level": "-9.0 dB"}},
	} {
		p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: "fm", Name: "fm", Panel: x.src, PanelRevision: 1, Kind: "lead", Tempo: 120, Layers: []patch.Layer{{ID: "a", Readings: x.readings}}}
		for _, school := range []plan.School{plan.Numbers, plan.Ear} {
			s := sheet(t, rack[x.src], p, rack[x.dst], translate.Options{School: school})
			source, err := audition.Layers(rack[x.src], p, "")
			if err != nil {
				t.Fatal(err)
			}
			target, err := audition.Target(rack[x.dst], p, s)
			if err != nil {
				t.Fatal(err)
			}
			played := map[string]string{}
			for _, m := range s.Plan.Modules {
				played[m.Source] = m.Target
			}
			m, got := source[0].Meaning, target.Meaning
			found := false
			for i := range m.Modules {
				d := &m.Modules[i]
				by := m.ModulatedBy(d)
				if by == "" {
					continue
				}
				found = true
				if to := got.Module(played[d.ID]); to == nil || got.ModulatedBy(to) != played[by] || played[by] == "" {
					t.Errorf("%s to %s by %s: %s is modulated by %s; %v", x.src, x.dst, school, d.ID, by, played)
				}
			}
			if !found {
				t.Errorf("%s: nothing is modulated in %v", x.src, x.readings)
			}
		}
	}
}

// A synced oscillator is synced on the target too, whatever its panel calls the one that it is synced to; where none can be it sounds at that one's note. By the render: unsynced
// it would be a fifth off.
func TestSyncUnderAnotherName(t *testing.T) {
	rack := testrack.Panels(t)
	other := *rack["halyard"].Panel
	other.ID, other.Controls = "other", slices.Clone(other.Controls)
	k := slices.IndexFunc(other.Controls, func(c panel.Control) bool { return c.ID == "osc2.sync" })
	other.Controls[k].Means = slices.Clone(other.Controls[k].Means)
	other.Controls[k].Means[0].Law.Values = []any{"off", "osc1"}
	src, err := panel.Compile(&other)
	if err != nil {
		t.Fatal(err)
	}
	p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: "synced", Name: "synced", Panel: "other", PanelRevision: other.Revision, Kind: "lead", Tempo: 120,
		Layers: []patch.Layer{{ID: "a", Readings: map[string]string{"osc1.level": "0", "osc2.level": "127", "osc2.semi": "71", "osc2.sync": "on"}}},
		Phrase: &patch.Phrase{Notes: []patch.PhraseNote{{At: "0/4", For: "2/4", Note: "C4", Velocity: 100}}}}
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	source, err := audition.Layers(src, p, "")
	if err != nil {
		t.Fatal(err)
	}
	play := refine.Hear(0)
	aim, _, err := play.Takes5(source[:1], notes)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range []struct {
		id     string
		synced bool
	}{{"halyard", true}, {"binnacle", true}, {"bowline", true}, {"coracle", false}, {"kedge", true}, {"fairlead", false}, {"windlass", false}} {
		s := sheet(t, src, p, rack[x.id], translate.Options{School: plan.Numbers})
		target, err := audition.Target(rack[x.id], p, s)
		if err != nil {
			t.Fatal(err)
		}
		m := target.Meaning
		synced := false
		for i := range m.Modules {
			d := &m.Modules[i]
			synced = synced || d.Kind == meaning.Osc && d.Used() && d.Sounds() && m.SyncedTo(d) != ""
		}
		got, _, err := play.Takes5([]synth.Layer{target}, notes)
		if err != nil {
			t.Fatal(err)
		}
		if d := compare.Apart(aim, got, false); synced != x.synced || d.Level >= compare.Silent || d.Pitch > 3 {
			t.Errorf("%s: synced %v; %+v", x.id, synced, d)
		}
	}
}
