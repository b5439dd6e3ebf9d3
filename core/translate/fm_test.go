package translate_test

import (
	"testing"

	"glossator/core/audition"
	"glossator/core/patch"
	"glossator/core/plan"
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
