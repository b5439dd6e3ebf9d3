package translate_test

import (
	"slices"
	"testing"

	"glossator/core/panel"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// What an instrument has not, and a rack has, is offered outside; what the instrument plays itself
// is not, and nothing but effects is.
func TestRacks(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	all := []*panel.Compiled{rack["ballast"], rack["kedge"]}
	offered := 0
	for _, p := range patches {
		for _, id := range testrack.IDs(rack) {
			s := sheet(t, rack[p.Panel], p, rack[id], translate.Options{})
			got, err := translate.Racks(rack[p.Panel], p, s, all, translate.Options{})
			if err != nil {
				t.Fatal(err)
			}
			for _, o := range got {
				offered++
				if o.Rack.ID != "ballast" || o.Rack.ID == id {
					t.Errorf("%s to %s: offered %s", p.ID, id, o.Rack.ID)
				}
				for _, part := range o.Parts {
					there := sheet(t, rack[p.Panel], p, rack[o.Rack.ID], translate.Options{})
					found := false
					for i, x := range s.Plan.Modules {
						if x.SourceLabel != part {
							continue
						}
						// left out, made by other means, or further off here than there by more than a fifth of what it weighs
						found = found || x.Target == "" || x.Rule != "" || x.Cost > there.Plan.Modules[i].Cost+0.2*x.Weight
					}
					if !found {
						t.Errorf("%s to %s: %s is offered outside and played as well inside", p.ID, id, part)
					}
				}
			}
		}
	}
	if offered < 10 {
		t.Errorf("only %d offers", offered)
	}
	// Gulls on Bowline, which has no EQ: Ballast has bands
	s := sheet(t, rack["thole"], patches["gulls"], rack["bowline"], translate.Options{})
	got, err := translate.Racks(rack["thole"], patches["gulls"], s, all, translate.Options{})
	if err != nil || len(got) != 1 || !slices.Contains(got[0].Parts, "Treble") {
		t.Errorf("for Gulls on Bowline: %+v, %v", got, err)
	}
}
