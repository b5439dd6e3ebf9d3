package plan_test

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/settle"
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
				search, exact, walk, err := plan.Costs(rack[a], testrack.Generate(rack[a], seed, 0.35), rack[b])
				if err != nil {
					t.Fatal(err)
				}
				if math.IsNaN(walk) {
					continue // too many assignments to walk
				}
				cases++
				if !exact || math.Abs(search-walk) > plan.SameCost {
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
		search, uses, exact, walk, err := plan.CastCosts(src, p, dst, settle.Carry)
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
		if search > walk+plan.SameCost {
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
		accepted, state := plan.Lock(k, c.order...)
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
