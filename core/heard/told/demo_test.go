package told_test

import (
	"maps"
	"slices"
	"testing"

	"glossator/core/plan"
	"glossator/testutil/hearing"
	"glossator/testutil/testrack"
	"glossator/testutil/whole"
)

// I8 over the demo's pairs, every third one in one of the three schools by turns (all of them in all three with make whole: twenty minutes on a busy machine), and onto themselves: every sheet tells the whole difference. A patch on its own panel is told whole, and sounds the same.
func TestTheDemoIsTold(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	pairs, untold := 0, 0
	for n, id := range slices.Sorted(maps.Keys(patches)) {
		p := patches[id]
		src := rack[p.Panel]
		if src.Kind == "rack" {
			continue
		}
		for at, to := range testrack.IDs(rack) {
			if rack[to].Kind == "rack" {
				continue
			}
			if to != p.Panel && !whole.Asked() && (n+at/3)%3 > 0 {
				continue
			}
			for _, school := range []plan.School{plan.Numbers, plan.Feel, plan.Ear} {
				if school != plan.Numbers && to == p.Panel {
					continue // on its own panel all are one
				}
				if to != p.Panel && !whole.Asked() && school != [...]plan.School{plan.Numbers, plan.Ear, plan.Feel}[(n+at)%3] {
					continue
				}
				_, _, r := hearing.Listen(t, src, p, rack[to], school, false)
				pairs++
				c := hearing.Check(r, "I8")
				if !c.OK {
					untold++
					t.Logf("%s to %s by %s: %s", id, to, school, c.Detail)
				}
				if to == p.Panel && (!c.OK || r.Apart.Total > 0.3) {
					t.Errorf("%s onto itself: %.2f apart, %s", id, r.Apart.Total, c.Detail)
				}
				if r.Silent != "" || r.Headline == "" || c.OK == (c.Detail != "") {
					t.Errorf("%s to %s: silent %q, %q, %+v", id, to, r.Silent, r.Headline, c)
				}
			}
		}
	}
	t.Logf("%d of %d are not told whole", untold, pairs)
	if untold > 0 {
		t.Errorf("%d of %d sheets do not tell the whole difference", untold, pairs)
	}
}
