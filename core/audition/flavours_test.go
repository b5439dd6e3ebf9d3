package audition_test

import (
	"maps"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// What a sheet says is set otherwise for a flavour, set so by hand on the sheet as it is, sounds as the flavour translated by itself; and where the flavour is heard on the source, it is heard on the target or said to be left out.
func TestFlavoursSoundAsTheirOwnSheets(t *testing.T) {
	panels := testrack.Panels(t)
	n := 0
	for _, p := range testrack.Patches(t) {
		if len(p.Flavours) == 0 {
			continue
		}
		for _, to := range []string{"kedge", "halyard", "thole"} {
			src, dst := panels[p.Panel], panels[to]
			if src == nil || dst == nil || src == dst {
				continue
			}
			sheet, err := translate.Translate(src, p, dst, translate.Options{School: plan.Numbers, Flavours: true})
			if err != nil {
				t.Fatal(err)
			}
			if len(sheet.Flavours) != len(p.Flavours) {
				t.Fatalf("%s to %s: expected %d flavours, got %d", p.ID, to, len(p.Flavours), len(sheet.Flavours))
			}
			for _, f := range sheet.Flavours {
				as, err := p.As(f.Name)
				if err != nil {
					t.Fatal(err)
				}
				own, err := translate.Translate(src, as, dst, translate.Options{School: plan.Numbers})
				if err != nil {
					t.Fatal(err)
				}
				over := map[string]string{}
				for _, x := range f.Target {
					over[x.Control] = x.To
				}
				byHand, err := translate.Translate(src, p, dst, translate.Options{School: plan.Numbers, Overrides: over})
				if err != nil {
					t.Fatal(err)
				}
				if a, b := settings(own), settings(byHand); !maps.Equal(a, b) {
					t.Errorf("%s to %s, %s: set by hand and by its own sheet differ:\n%v\n%v", p.ID, to, f.Name, a, b)
				}
				plain, flavoured := sound(t, dst, p, sheet), sound(t, dst, as, own)
				apart := compare.Apart(plain, flavoured, false).Total
				if f.Verdict != gloss.LeftOut && len(f.Source) > 0 && apart < 0.5 {
					t.Errorf("%s to %s, %s: said to be %s, and not heard: %.2f", p.ID, to, f.Name, f.Verdict, apart)
				}
				n++
			}
		}
	}
	if n < 3 {
		t.Errorf("only %d flavours looked at", n)
	}
}

func settings(s *gloss.Sheet) map[string]string {
	out := map[string]string{}
	for _, x := range s.Settings {
		out[x.Control] = x.Reading
	}
	return out
}

// sound renders a note in the middle of a patch on its target.
func sound(t *testing.T, dst *panel.Compiled, p *patch.Patch, s *gloss.Sheet) *compare.Sketch {
	t.Helper()
	y, err := audition.Target(dst, p, s)
	if err != nil {
		t.Fatal(err)
	}
	out, err := synth.Render([]synth.Layer{y}, []phrase.Note{{End: 2, Key: 57, Velocity: 100}}, synth.Options{Seed: 1})
	if err != nil {
		t.Fatal(err)
	}
	return compare.Sketched(hear.Wave{Rate: synth.Rate, Left: out.Left, Right: out.Right})
}
