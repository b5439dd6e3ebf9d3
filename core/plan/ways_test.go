package plan_test

import (
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	"glossator/core/rules"
	"glossator/core/settle"
	"glossator/testutil/instruments"
)

// Where a rule has several ways with a part, one of them can be refused by its key: the plan then costs no less, and does without it. Two ways never have one mark.
func TestWaysOfARule(t *testing.T) {
	refused := 0
	for seed := range uint64(150) {
		src, p, dst, err := instruments.Pair(seed, seed+1000)
		if err != nil {
			t.Fatal(err)
		}
		fresh, err := plan.Fresh(src, p, dst)
		if err != nil {
			t.Fatal(err)
		}
		carried := func() *plan.Problem {
			p := fresh()
			p.Carry = func(m *meaning.Meaning, a *plan.Allocation) *panel.State { return settle.Carry(p.T, m, a) }
			return p
		}
		problem := carried()
		found := problem.Find()
		for _, u := range found.Uses {
			if u.Ways < 2 {
				continue
			}
			if u.Key == "" || !strings.HasPrefix(u.Key, u.Rule.ID+"|") {
				t.Fatalf("seed %d: a way without a key: %+v", seed, u)
			}
			other := carried()
			other.Refuse = map[string][]string{u.Source(u.Parts[0]): {u.Key}}
			next := other.Find()
			if slices.ContainsFunc(next.Uses, func(x *rules.Recast) bool { return x.Key == u.Key }) {
				t.Errorf("seed %d: %s is made in spite of being refused", seed, u.Key)
			}
			if !found.Cut && !next.Cut && next.Cost() < found.Cost()-plan.SameCost-plan.Worthwhile*float64(len(next.Uses)) {
				t.Errorf("seed %d: without %s it costs %.3f, with it %.3f", seed, u.Key, next.Cost(), found.Cost())
			}
			if next.Mark(other.T) == found.Mark(problem.T) {
				t.Errorf("seed %d: two ways of %s have one mark", seed, u.Rule.ID)
			}
			refused++
		}
	}
	if refused < 5 {
		t.Errorf("only %d ways were refused: the instruments call for too few", refused)
	}
}
