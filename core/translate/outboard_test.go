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
					found := false
					for _, x := range s.Plan.Modules {
						found = found || x.SourceLabel == part && (x.Target == "" || x.Rule != "")
					}
					if !found {
						t.Errorf("%s to %s: %s is offered outside and played inside", p.ID, id, part)
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
