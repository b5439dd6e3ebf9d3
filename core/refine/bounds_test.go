package refine_test

import (
	"slices"
	"testing"

	"glossator/core/audition"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/refine"
	"glossator/core/translate"
	"glossator/testutil/instruments"
)

// On invented instruments a search lets nothing sound by itself, and moves a line that was held far only for what the whole gains by it.
func TestASearchKeepsWithinBounds(t *testing.T) {
	moved, held := 0, 0
	for _, seed := range []uint64{9, 34, 24} {
		src, p, dst, err := instruments.Pair(seed, seed+1000)
		if err != nil {
			t.Fatal(err)
		}
		sheet, err := translate.Translate(src, p, dst, translate.Options{School: plan.Ear})
		if err != nil {
			t.Fatal(err)
		}
		notes, _, err := audition.Notes(p, "", 0)
		if err != nil {
			t.Fatal(err)
		}
		r, err := refine.Search(refine.Task{Source: src, Target: dst, Patch: p, Sheet: sheet, Notes: notes, Budget: 90})
		if err != nil {
			t.Fatal(err)
		}
		gain := r.Before.Total - r.After.Total
		for _, c := range r.Changes {
			moved++
			k, _ := dst.ControlIndex(c.Control)
			for b := range dst.Controls[k].Means {
				bind := &dst.Controls[k].Means[b]
				_, name := meaning.Split(bind.Param)
				scale := dst.Scale(panel.BindRef{Control: k, Bind: b})
				var at [2]q.Quantity
				for i, reading := range []string{c.From, c.To} {
					for _, place := range dst.Places(k) {
						if v, ok := scale.Quantity(place); ok && place.Reading == reading {
							at[i] = v
						}
					}
				}
				if limit := at[1].Value + q.Cover*at[1].Tol; (at[1].Dim == q.DimResonance || name == meaning.PFeedback) && limit >= 1 && at[1].Value > at[0].Value {
					t.Errorf("seed %d: %s goes from %v to %v, where something may sound by itself", seed, c.Control, at[0], at[1])
				}
				p, err := dst.Param(bind.Param)
				if err != nil || p.Dim.Named() {
					continue
				}
				if slices.ContainsFunc(sheet.Glosses, func(g gloss.Gloss) bool {
					return g.Verdict == gloss.Held && g.TargetParam == bind.Param && slices.ContainsFunc(g.Target, func(x gloss.Reading) bool { return x.Control == c.Control })
				}) {
					held++
					// what it costs is 0.03 for each just-noticeable difference of the line beyond the first, 1 at the most
					if _, jnds := plan.Compare(p, at[0], at[1], nil, nil); gain < min(1, 0.03*max(0, jnds-1))-0.05 {
						t.Errorf("seed %d: %s, which was held, is moved by %.1f just-noticeable differences where all changes together bring %.2f", seed, c.Control, jnds, gain)
					}
				}
			}
		}
	}
	if moved < 5 || held == 0 {
		t.Errorf("only %d controls were moved, %d of them held", moved, held)
	}
}
