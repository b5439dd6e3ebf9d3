package translate_test

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/scale"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// The search is exact: on small cases it finds the same cost as a walk through every
// assignment without bounds.
func TestAllocationIsExact(t *testing.T) {
	rack := testrack.Panels(t)
	small := []string{"windlass", "kedge", "bowline", "coracle", "halyard"}
	cases := 0
	for _, a := range small {
		for _, b := range small {
			for seed := range uint64(6) {
				search, exact, walk, err := translate.Costs(rack[a], testrack.Generate(rack[a], seed, 0.35), rack[b])
				if err != nil {
					t.Fatal(err)
				}
				if math.IsNaN(walk) {
					continue // too many assignments to walk
				}
				cases++
				if !exact || math.Abs(search-walk) > translate.SameCost {
					t.Errorf("%s to %s, seed %d: the search found %v, the walk %v", a, b, seed, search, walk)
				}
			}
		}
	}
	if cases < 60 {
		t.Errorf("only %d cases were small enough", cases)
	}
}

// So is the search over the sets of uses of rules: no set that a walk finds without bounds costs less.
func TestRulesAreChosenExactly(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	cases, several := 0, 0
	check := func(name string, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) {
		search, uses, exact, walk, err := translate.CastCosts(src, p, dst)
		if err != nil {
			t.Fatal(err)
		}
		if math.IsNaN(walk) || !exact {
			return // too many sets to walk, or it says so itself
		}
		cases++
		if uses > 1 {
			several++
		}
		if search > walk+translate.SameCost {
			t.Errorf("%s: the search found %v, the walk %v", name, search, walk)
		}
	}
	for _, a := range []string{"windlass", "kedge", "bowline", "coracle", "halyard", "sheave", "thole"} {
		for _, b := range []string{"windlass", "kedge", "bowline", "coracle", "fairlead"} {
			for seed := range uint64(3) {
				check(fmt.Sprintf("%s to %s, seed %d", a, b, seed), rack[a], testrack.Generate(rack[a], seed, 0.3), rack[b])
			}
		}
	}
	for _, p := range patches {
		for _, b := range []string{"halyard", "sheave", "thole"} {
			check(p.ID+" to "+b, rack[p.Panel], p, rack[b])
		}
	}
	if cases < 80 || several < 15 {
		t.Errorf("only %d cases could be walked, %d with several uses", cases, several)
	}
}

// The audit finds what is wrong with a sheet: each change breaks one invariant.
func TestAuditFindsFaults(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	drop := func(id string) func(*translate.Sheet) {
		return func(s *translate.Sheet) {
			for i := range s.Glosses {
				if s.Glosses[i].ID == id {
					s.Glosses = append(s.Glosses[:i], s.Glosses[i+1:]...)
					return
				}
			}
		}
	}
	reached := func(id string, by float64) func(*translate.Sheet) {
		return func(s *translate.Sheet) {
			for i := range s.Glosses {
				if s.Glosses[i].ID == id {
					s.Glosses[i].Reached.Quantity.Value += by
				}
			}
		}
	}
	reading := func(control, to string) func(*translate.Sheet) {
		return func(s *translate.Sheet) {
			for i := range s.Settings {
				if s.Settings[i].Control == control {
					s.Settings[i].Reading = to
				}
			}
		}
	}
	for _, c := range []struct {
		name, patch, target, fails string
		change                     func(*translate.Sheet)
	}{
		{"nothing changed", "keel", "halyard", "", func(*translate.Sheet) {}},
		{"a line dropped", "keel", "halyard", "I1", drop("filter.cutoff")},
		{"a line twice", "keel", "halyard", "I1", func(s *translate.Sheet) { s.Glosses = append(s.Glosses, s.Glosses[3]) }},
		{"a setting dropped", "keel", "halyard", "I2", func(s *translate.Sheet) { s.Settings = s.Settings[1:] }},
		{"a setting twice", "keel", "halyard", "I2", func(s *translate.Sheet) { s.Settings = append(s.Settings, s.Settings[0]) }},
		{"another cutoff shown", "keel", "halyard", "I3", reached("filter.cutoff", 5)},
		{"another depth of a route shown", "keel", "halyard", "I3", reached("filter.amount", 0.2)},
		{"another depth of a slot shown", "fog-bank", "halyard", "I3", reached("lfo1.amount", 0.1)},
		{"another depth of a cable shown", "foghorn", "kedge", "I3", reached("att", 0.3)},
		{"another sustain set", "keel", "halyard", "I3", reading("env2.sustain", "3")},
		{"another wave set", "keel", "halyard", "I3", reading("osc3.wave", "saw")},
		{"a reading off the face", "keel", "halyard", "I6", reading("env2.sustain", "999")},
		{"a cable pulled", "foghorn", "kedge", "I3", func(s *translate.Sheet) { s.Cables = nil }},
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

// A control that is only written down goes over onto its own panel, and is left out elsewhere,
// never dropped in silence; the words of a text count as its reading.
func TestWrittenDownOnly(t *testing.T) {
	rack := testrack.Panels(t)
	withText := *rack["thole"].Panel
	withText.Controls = append(append([]panel.Control{}, withText.Controls...), panel.Control{ID: "label", Label: "Label", Section: "voice", Face: scale.Face{Kind: scale.Text}, Init: "none"})
	withText.ID = "thole-two"
	two, err := panel.Compile(&withText)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		src, dst         *panel.Compiled
		control, reading string
		verdict          translate.Verdict
		set              string
	}{
		{rack["thole"], rack["thole"], "tempo", "96", translate.Held, "96"},
		{rack["thole"], rack["halyard"], "tempo", "96", translate.LeftOut, ""},
		{rack["thole"], rack["halyard"], "tempo", "120", translate.Idle, ""},
		{two, two, "label", "gulls, second act", translate.Held, "gulls, second act"},
		{two, rack["kedge"], "label", "gulls, second act", translate.LeftOut, ""},
		{two, rack["kedge"], "label", "none", translate.Idle, ""},
	} {
		p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: "x", Name: "X", Panel: c.src.ID, Kind: "lead", Layers: []patch.Layer{{ID: "a", Readings: map[string]string{c.control: c.reading}}}}
		s := sheet(t, c.src, p, c.dst, translate.Options{})
		if g := line(t, s, c.control); g.Verdict != c.verdict || g.Reason == "" || !s.Clean() {
			t.Errorf("%s at %s to %s is %s (%s), want %s; audit %v", c.control, c.reading, c.dst.ID, g.Verdict, g.Reason, c.verdict, s.Audit)
		}
		for _, x := range s.Settings {
			if c.set != "" && x.Control == c.control && (x.Reading != c.set || x.Action != translate.Set) {
				t.Errorf("%s is to be %s at %q, want set to %q", c.control, x.Action, x.Reading, c.set)
			}
		}
	}
}

// Locks meet in what both allow, and refuse what nothing allows: the third oscillator of
// Windlass sounds or is an LFO, not both.
func TestLocks(t *testing.T) {
	k := testrack.Panels(t)["windlass"]
	whens := map[string][]panel.When{}
	for i := range k.Modules {
		whens[k.Modules[i].ID] = k.Modules[i].When
	}
	for _, c := range []struct {
		name   string
		order  [][]panel.When
		accept []bool
	}{
		{"sound, then LFO", [][]panel.When{whens["osc3"], whens["lfo3"]}, []bool{true, false}},
		{"LFO, then sound", [][]panel.When{whens["lfo3"], whens["osc3"]}, []bool{true, false}},
		{"the same twice", [][]panel.When{whens["osc3"], whens["osc3"]}, []bool{true, true}},
		{"no condition", [][]panel.When{whens["osc1"], whens["osc3"]}, []bool{true, true}},
	} {
		accepted, state := translate.Lock(k, c.order...)
		for i := range accepted {
			if accepted[i] != c.accept[i] {
				t.Errorf("%s: accepted %v, want %v", c.name, accepted, c.accept)
			}
		}
		for i, w := range c.order {
			if c.accept[i] && !k.Holds(w, state) {
				t.Errorf("%s: the lock leaves a condition unmet", c.name)
			}
		}
	}
}
