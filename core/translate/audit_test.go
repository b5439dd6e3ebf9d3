package translate_test

import (
	"testing"

	"glossator/core/gloss"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// The audit finds what is wrong with a sheet: each change breaks one invariant.
func TestAuditFindsFaults(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	drop := func(id string) func(*gloss.Sheet) {
		return func(s *gloss.Sheet) {
			for i := range s.Glosses {
				if s.Glosses[i].ID == id {
					s.Glosses = append(s.Glosses[:i], s.Glosses[i+1:]...)
					return
				}
			}
		}
	}
	reached := func(id string, by float64) func(*gloss.Sheet) {
		return func(s *gloss.Sheet) {
			for i := range s.Glosses {
				if s.Glosses[i].ID == id {
					s.Glosses[i].Reached.Quantity.Value += by
				}
			}
		}
	}
	reading := func(control, to string) func(*gloss.Sheet) {
		return func(s *gloss.Sheet) {
			for i := range s.Settings {
				if s.Settings[i].Control == control {
					s.Settings[i].Reading = to
				}
			}
		}
	}
	for _, c := range []struct {
		name, patch, target, fails string
		change                     func(*gloss.Sheet)
	}{
		{"nothing changed", "keel", "halyard", "", func(*gloss.Sheet) {}},
		{"a line dropped", "keel", "halyard", "I1", drop("filter.cutoff")},
		{"a line twice", "keel", "halyard", "I1", func(s *gloss.Sheet) { s.Glosses = append(s.Glosses, s.Glosses[3]) }},
		{"a setting dropped", "keel", "halyard", "I2", func(s *gloss.Sheet) { s.Settings = s.Settings[1:] }},
		{"a setting twice", "keel", "halyard", "I2", func(s *gloss.Sheet) { s.Settings = append(s.Settings, s.Settings[0]) }},
		{"another cutoff shown", "keel", "halyard", "I3", reached("filter.cutoff", 5)},
		{"another depth of a route shown", "keel", "halyard", "I3", reached("filter.amount", 0.2)},
		{"another depth of a slot shown", "fog-bank", "halyard", "I3", reached("lfo1.amount", 0.1)},
		{"another depth of a cable shown", "foghorn", "kedge", "I3", reached("att", 0.3)},
		{"another sustain set", "keel", "halyard", "I3", reading("env2.sustain", "3")},
		{"another wave set", "keel", "halyard", "I3", reading("osc3.wave", "saw")},
		{"a reading off the face", "keel", "halyard", "I6", reading("env2.sustain", "999")},
		{"a cable pulled", "foghorn", "kedge", "I3", func(s *gloss.Sheet) { s.Cables = nil }},
	} {
		p := patches[c.patch]
		checks, err := translate.AuditAfter(rack[p.Panel], p, rack[c.target], c.change)
		if err != nil {
			t.Fatal(err)
		}
		failed := map[string]bool{}
		for _, x := range checks {
			if !x.OK {
				failed[x.ID] = true
			}
		}
		if c.fails == "" && len(failed) > 0 || c.fails != "" && !failed[c.fails] {
			t.Errorf("%s: %v fail, want %q", c.name, failed, c.fails)
		}
	}
}
