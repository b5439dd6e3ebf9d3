package translate_test

import (
	"slices"
	"testing"

	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// The next plans cost no less than the ones before, and differ from them and from the best.
func TestNextPlans(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	found := 0
	for _, id := range []string{"keel", "fog-bank", "gulls", "undertow", "tide-pool"} {
		p := patches[id]
		for _, target := range []string{"halyard", "kedge", "windlass", "thole"} {
			s := sheet(t, rack[p.Panel], p, rack[target], translate.Options{})
			next, err := translate.NextPlans(rack[p.Panel], p, rack[target], translate.Options{})
			if err != nil {
				t.Fatal(err)
			}
			before, seen := s.Plan.Cost, map[string]bool{}
			for _, n := range next {
				found++
				if n.Cost < before-1e-3 || n.Share < 0 || n.Share > 1 {
					t.Errorf("%s on %s: a next plan costs %v after %v", id, target, n.Cost, before)
				}
				before = n.Cost
				key := ""
				for _, d := range n.Differs {
					if d.Best == d.Here {
						t.Errorf("%s on %s: %s is no difference", id, target, d.Part)
					}
					key += d.Part + ">" + d.Here + ";"
				}
				if key == "" || seen[key] {
					t.Errorf("%s on %s: a next plan that is one of those before: %q", id, target, key)
				}
				seen[key] = true
			}
		}
	}
	if found < 20 {
		t.Errorf("only %d next plans", found)
	}
}

// Keel on Kedge, by hand: three oscillators on two, so the next plan leaves out another of them or
// swaps the two.
func TestNextPlanOfKeel(t *testing.T) {
	rack, keel := testrack.Panels(t), testrack.Patches(t)["keel"]
	next, err := translate.NextPlans(rack["windlass"], keel, rack["kedge"], translate.Options{})
	if err != nil || len(next) != 2 {
		t.Fatalf("%d next plans, %v", len(next), err)
	}
	osc := false
	for _, d := range next[0].Differs {
		osc = osc || len(d.Part) > 10 && d.Part[:10] == "Oscillator"
	}
	if !osc {
		t.Errorf("the second plan differs in %+v", next[0].Differs)
	}
}

// A next plan is another plan, never two names exchanged that play alike.
func TestNextPlansAreOthers(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	met := 0
	for _, id := range []string{"keel", "foghorn", "gulls", "tide-pool", "undertow"} {
		p := patches[id]
		for _, to := range testrack.IDs(rack) {
			best := sheet(t, rack[p.Panel], p, rack[to], translate.Options{})
			next, err := translate.NextPlans(rack[p.Panel], p, rack[to], translate.Options{})
			if err != nil {
				t.Fatal(err)
			}
			for _, n := range next {
				met++
				var from, into []string
				for _, x := range n.Differs {
					from, into = append(from, x.Best), append(into, x.Here)
				}
				slices.Sort(from)
				slices.Sort(into)
				if slices.Equal(from, into) && n.Cost-best.Plan.Cost < 1e-3 {
					t.Errorf("%s to %s: a next plan exchanges %v alone", id, to, from)
				}
			}
		}
	}
	if met < 30 {
		t.Errorf("only %d next plans were met", met)
	}
}
