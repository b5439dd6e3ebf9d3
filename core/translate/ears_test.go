package translate_test

import (
	"math"
	"testing"

	"glossator/core/gloss"
	"glossator/core/jnd"
	"glossator/core/plan"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// Ears judge and do nothing else: settings, plan and cost are the same; a line's just-noticeable differences are divided by the factor of its kind; duller ears find no line worse, keener ones none better; all checks hold.
func TestEarsJudgeAlone(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	kinds := map[string]float64{}
	all := func(f float64) *gloss.Ears {
		e := &gloss.Ears{Who: "somebody", Factors: map[string]float64{}}
		for _, d := range jnd.Table {
			e.Factors[d.Name] = f
		}
		return e
	}
	for _, pair := range [][2]string{{"keel", "kedge"}, {"gulls", "bowline"}, {"fog-bank", "thole"}, {"morning-light", "coracle"}} {
		p := patches[pair[0]]
		sheet := func(e *gloss.Ears) *gloss.Sheet {
			s, err := translate.Translate(rack[p.Panel], p, rack[pair[1]], translate.Options{School: plan.Numbers, Ears: e})
			if err != nil {
				t.Fatal(err)
			}
			for _, c := range s.Audit {
				if !c.OK {
					t.Errorf("%v: %s fails: %s", pair, c.ID, c.Detail)
				}
			}
			return s
		}
		plain, dull, keen := sheet(nil), sheet(all(2)), sheet(all(0.5))
		if plain.Ears != "" || dull.Ears != "somebody" {
			t.Errorf("%q, %q", plain.Ears, dull.Ears)
		}
		for _, s := range []*gloss.Sheet{dull, keen} {
			if s.Plan.Cost != plain.Plan.Cost || len(s.Settings) != len(plain.Settings) || len(s.Glosses) != len(plain.Glosses) {
				t.Fatalf("%v: it is translated otherwise", pair)
			}
			for i := range s.Settings {
				if s.Settings[i].Reading != plain.Settings[i].Reading {
					t.Errorf("%v: %s is set otherwise", pair, s.Settings[i].Control)
				}
			}
		}
		for i := range plain.Glosses {
			a, b, c := &plain.Glosses[i], &dull.Glosses[i], &keen.Glosses[i]
			if a.JNDs > 0 && a.JNDs < 4000 {
				kinds[a.TargetParam]++
				if math.Abs(b.JNDs-a.JNDs/2) > 0.011 || math.Abs(c.JNDs-2*a.JNDs) > 0.011 {
					t.Errorf("%v, %s: %v, %v and %v", pair, a.ID, a.JNDs, b.JNDs, c.JNDs)
				}
			}
			if gloss.Worse(b.Verdict, a.Verdict) || gloss.Worse(a.Verdict, c.Verdict) {
				t.Errorf("%v, %s: %s by the published, %s by duller, %s by keener ears", pair, a.ID, a.Verdict, b.Verdict, c.Verdict)
			}
		}
	}
	if len(kinds) < 10 {
		t.Errorf("%d parameters differ", len(kinds))
	}
}
