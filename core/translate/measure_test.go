package translate_test

import (
	"testing"

	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// What is open says what to measure: a control of one of the two panels whose law is not exact, in
// the order of what hangs on it; every open line with two figures hangs on one of them, and no
// other does.
func TestWhatToMeasure(t *testing.T) {
	rack := testrack.Panels(t)
	open := 0
	for _, p := range testrack.Patches(t) {
		for _, id := range testrack.IDs(rack) {
			s := sheet(t, rack[p.Panel], p, rack[id], translate.Options{})
			hangs := map[string]int{}
			for i, m := range s.Measure {
				if i > 0 && m.Weight > s.Measure[i-1].Weight {
					t.Errorf("%s to %s: %s after one that weighs less", p.ID, id, m.Label)
				}
				if m.Share < 0.5 || m.Share > 1 || m.Why == "" || len(m.Lines) == 0 {
					t.Errorf("%s to %s: says too little: %+v", p.ID, id, m)
				}
				on := rack[p.Panel]
				if m.Panel == rack[id].Name && m.Panel != on.Name {
					on = rack[id]
				}
				if _, ok := on.ControlIndex(m.Control); !ok {
					t.Errorf("%s to %s: %s has no %s", p.ID, id, m.Panel, m.Control)
				}
				for _, l := range m.Lines {
					hangs[l]++
				}
			}
			for i := range s.Glosses {
				g := &s.Glosses[i]
				want := 0
				if g.Open && g.Wanted != nil && g.Reached != nil && len(g.Source)+len(g.Target) > 0 {
					want = 1
					open++
				}
				if hangs[g.ID] > 1 || hangs[g.ID] > want || want == 1 && hangs[g.ID] == 0 && len(g.Source) > 0 && len(g.Target) > 0 {
					t.Errorf("%s to %s: %s (open %v) hangs on %d scales", p.ID, id, g.ID, g.Open, hangs[g.ID])
				}
			}
		}
	}
	if open < 20 {
		t.Errorf("only %d open lines", open)
	}
}
