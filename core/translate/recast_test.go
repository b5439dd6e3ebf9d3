package translate_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/gloss"
	"glossator/core/rules"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// On every demo patch and many generated ones: a recast names its parts, its lines lead to
// controls of the target or say that they go with the whole, a rule that is used is in the
// table, and onto the same panel none is.
func TestRecastsOfEverySheet(t *testing.T) {
	rack := testrack.Panels(t)
	used := map[string]int{}
	known := map[string]bool{}
	for _, r := range rules.Table {
		known[r.ID] = true
	}
	check := func(s *gloss.Sheet, own bool) {
		name := s.Patch + " to " + s.Target.ID
		if own && len(s.Recasts) > 0 {
			t.Errorf("%s: %v onto its own panel", name, s.Recasts)
		}
		for _, r := range s.Recasts {
			used[r.Rule]++
			if !known[r.Rule] || len(r.Parts) == 0 || r.Text == "" || r.Penalty <= 0 || strings.Contains(r.Text, "%!") {
				t.Errorf("%s: a recast that says too little: %+v", name, r)
			}
		}
		lines := 0
		transposed := slices.ContainsFunc(s.Recasts, func(r gloss.Recasting) bool { return r.Rule == "transposed" }) // then the sum is moved
		for _, g := range s.Glosses {
			if g.Verdict != gloss.Recast {
				continue
			}
			lines++
			// a part that is made by other means is in tune, or left out
			if g.Wanted != nil && g.Reached != nil && strings.HasSuffix(g.TargetParam, ".interval") && strings.HasSuffix(g.Param, ".interval") && !strings.Contains(g.Reason, "octave") &&
				!strings.Contains(g.Reason, "unison") && !strings.Contains(g.Reason, "asked for there") && !transposed && !strings.Contains(g.Reason, "apart") && math.Abs(g.Reached.Quantity.Value-g.Wanted.Quantity.Value) > 60 {
				t.Errorf("%s: %s is recast %s for %s (%s)", name, g.ID, g.Reached.Text, g.Wanted.Text, g.Reason)
			}
			seen := map[string]bool{}
			for _, r := range g.Target {
				if seen[r.Control] {
					t.Errorf("%s: %s names %s twice", name, g.ID, r.Control)
				}
				seen[r.Control] = true
			}
			if g.Reason == "" {
				t.Errorf("%s: %s is recast without a reason", name, g.ID)
			}
			if g.Reached != nil && g.TargetParam == "" && len(g.Target) > 0 {
				t.Errorf("%s: %s reaches %s, but nobody knows where", name, g.ID, g.Reached.Text)
			}
		}
		if lines > 0 && len(s.Recasts) == 0 {
			t.Errorf("%s: %d lines are recast by no rule", name, lines)
		}
	}
	for _, p := range testrack.Patches(t) {
		for _, id := range testrack.IDs(rack) {
			check(sheet(t, rack[p.Panel], p, rack[id], translate.Options{}), id == p.Panel)
		}
	}
	for _, a := range testrack.IDs(rack) {
		for _, b := range testrack.IDs(rack) {
			for seed := range uint64(2) {
				p := testrack.Generate(rack[a], 100+seed, 0.4)
				check(sheet(t, rack[a], p, rack[b], translate.Options{}), a == b)
			}
		}
	}
	for _, r := range rules.Table {
		if used[r.ID] == 0 {
			t.Logf("no sheet here calls for the rule %s", r.ID)
		}
	}
	if len(used) < 14 {
		t.Errorf("only %d of %d rules are ever used: %v", len(used), len(rules.Table), used)
	}
}

// Lines of the demo whose other means can be worked out by hand.
func TestRecastsByHand(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, c := range []struct{ patch, target, line, control, says string }{
		// an oscillator an octave below goes to the sub oscillator
		{"fog-bank", "sheave", "osc3.range", "", "sub oscillator plays it"},
		{"undertow", "halyard", "drive", "filter.drive", "made in the filter"},
		{"foghorn", "thole", "reverb", "delay.feedback", "dies away as fast"},
		{"gulls", "halyard", "r1.amount", "", "played by the wheel"},
	} {
		s := sheet(t, rack[patches[c.patch].Panel], patches[c.patch], rack[c.target], translate.Options{})
		found := false
		for _, g := range s.Glosses {
			if g.Verdict != gloss.Recast || !strings.Contains(g.Reason, c.says) {
				continue
			}
			hit := c.control == ""
			for _, r := range g.Target {
				hit = hit || r.Control == c.control
			}
			found = found || hit
		}
		if !found {
			t.Errorf("%s on %s: no line says %q at %s", c.patch, c.target, c.says, c.control)
			for _, g := range s.Glosses {
				if g.Verdict == gloss.Recast {
					t.Logf("  %s: %s, %v", g.ID, g.Reason, g.Target)
				}
			}
		}
	}
}
