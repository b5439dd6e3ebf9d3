package translate_test

import (
	"slices"
	"strings"
	"testing"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// With a rack behind it a target leaves out none of the effects that the rack plays, the lines have the rack's
// readings, the audit stays clean, and no line gets worse.
func TestRig(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	rack := panels["ballast"]
	rank := map[gloss.Verdict]int{gloss.Held: 0, gloss.Near: 1, gloss.Bent: 2, gloss.Recast: 3, gloss.LeftOut: 4, gloss.Idle: 0}
	played := 0
	for _, p := range patches {
		src := panels[p.Panel]
		if src.Kind == "rack" {
			continue
		}
		for _, id := range testrack.IDs(panels) {
			if panels[id].Kind == "rack" {
				continue
			}
			alone, err := translate.Translate(src, p, panels[id], translate.Options{})
			if err != nil {
				t.Fatal(err)
			}
			s, err := translate.Translate(src, p, panels[id], translate.Options{Rack: rack})
			if err != nil {
				t.Fatal(err)
			}
			if !s.Clean() {
				t.Errorf("%s to %s: the audit fails: %+v", p.ID, id, s.Audit)
			}
			offers, err := translate.Racks(src, p, alone, []*panel.Compiled{rack}, translate.Options{})
			if err != nil {
				t.Fatal(err)
			}
			if (len(offers) > 0) != (s.Rig != nil) || len(offers) > 0 && strings.Join(offers[0].Parts, ",") != strings.Join(s.Rig.Parts, ",") {
				t.Errorf("%s to %s: offered %+v, plays %v", p.ID, id, offers, s.Rig != nil)
			}
			if s.Rig != nil { // the rack does that alone: nothing of the instrument's own is set on it
				for _, x := range s.Rig.Settings {
					if x.Action == gloss.Set && strings.Contains(x.Why, "carries") && !slices.ContainsFunc(s.Rig.Parts, func(part string) bool { return strings.Contains(x.Why, part) }) {
						t.Errorf("%s to %s: %s is set on the rack: %s", p.ID, id, x.Control, x.Why)
					}
				}
			}
			was := map[string]gloss.Gloss{}
			for _, g := range alone.Glosses {
				was[g.ID] = g
			}
			for _, g := range s.Glosses {
				if len(g.Target) == 0 || !g.Target[0].Outside {
					continue
				}
				played++
				if !strings.HasPrefix(g.Target[0].Label, rack.Name) || !strings.HasPrefix(g.Reason, "outside, on ") {
					t.Errorf("%s to %s, %s: %+v %q", p.ID, id, g.Label, g.Target, g.Reason)
				}
				if before := was[g.ID]; rank[g.Verdict] > max(rank[before.Verdict], rank[gloss.Recast]) {
					t.Errorf("%s to %s, %s was %s, is %s", p.ID, id, g.Label, before.Verdict, g.Verdict)
				}
			}
		}
	}
	if played < 20 {
		t.Errorf("the rack plays %d lines in all", played)
	}
}

// The rule of a line that the rack plays has no scale of the target.
func TestRuleOfOutsideLine(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["gulls"]
	r, err := translate.ScalesOf(panels[p.Panel], p, panels["bowline"], translate.Options{Rack: panels["ballast"]}, "delay.feedback")
	if err != nil {
		t.Fatal(err)
	}
	if r.Target != nil || r.Source == nil {
		t.Errorf("target %+v", r.Target)
	}
}
