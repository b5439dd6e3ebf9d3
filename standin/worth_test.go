package standin_test

import (
	"encoding/json"
	"errors"
	"slices"
	"testing"

	"glossator/core/calibrate"
	"glossator/core/compare"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/scale"
	"glossator/core/translate"
	"glossator/standin"
	"glossator/testutil/testrack"
	"glossator/testutil/whole"
)

// changed gives a panel whose controls are changed.
func changed(t *testing.T, c *panel.Compiled, change func(x *panel.Control)) *panel.Compiled {
	t.Helper()
	var p panel.Panel
	b, err := json.Marshal(c.Panel)
	if err == nil {
		err = json.Unmarshal(b, &p)
	}
	if err != nil {
		t.Fatal(err)
	}
	for k := range p.Controls {
		change(&p.Controls[k])
	}
	out, err := panel.Compile(&p)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// withLaws gives a panel with other laws on some of its controls.
func withLaws(t *testing.T, c *panel.Compiled, laws map[string]scale.Law) *panel.Compiled {
	t.Helper()
	return changed(t, c, func(x *panel.Control) {
		l, ok := laws[x.ID]
		if i := slices.IndexFunc(x.Means, func(m panel.Bind) bool { return m.Law.Kind != scale.Listed }); ok && i >= 0 {
			x.Means[i].Law = l
		}
	})
}

// finer gives a panel on whose printed scales so many places between two marks can be set.
func finer(t *testing.T, c *panel.Compiled, between int) *panel.Compiled {
	t.Helper()
	return changed(t, c, func(x *panel.Control) {
		if x.Face.Kind == scale.Marks {
			x.Face.Between = between
		}
	})
}

// What the bench is worth, by the sound: a patch is translated to a unit by its panel as it came, by the laws that a sitting has measured, and by the laws that it truly has, and each is set on the unit by hand and played six times (one take by one is as far apart as oscillators that run free happen to stand). Measured, it sounds nearer to
// the one that knows the truth. Where the plan itself hangs on the laws (keel: a cable, or the envelope's own amount) they stay apart.
func TestWhatASittingIsWorthBySound(t *testing.T) {
	rack := testrack.Panels(t)
	c := finer(t, rack["kedge"], 20) // a place more or less on a scale of five between two marks is nearly four just-noticeable differences
	patches := testrack.Patches(t)
	const takes = 6
	var before, after, chance float64
	n := 0
	units := []int{51}
	if whole.Asked() {
		units = append(units, 12, 34, 7, 22, 3, 60, 61)
	}
	for _, number := range units {
		u := unit(t, c, number)
		truth, measured := map[string]scale.Law{}, map[string]scale.Law{}
		told := u.Truth().Controls
		for k := range c.Controls {
			x := &c.Controls[k]
			for _, m := range x.Means {
				if m.Law.Kind == scale.Listed {
					continue
				}
				l := scale.Law{Kind: scale.Segments, Unit: m.Law.Unit, Off: m.Law.Off, Convention: m.Law.Convention, Swing: m.Law.Swing, Source: scale.Stated}
				for i, v := range told[x.ID] {
					if v.Value != nil {
						l.Points = append(l.Points, [2]float64{c.Places(k)[i].Travel, *v.Value})
					}
				}
				if l.Points[0][0] > 0 { // an end that means none
					l.Points = append([][2]float64{{0, l.Points[0][1] - 40}}, l.Points...)
				}
				if len(l.Check(x.Face)) == 0 {
					truth[x.ID] = l
				}
				break
			}
			if truth[x.ID].Kind == "" {
				continue
			}
			b, err := calibrate.Begin(c, x.ID, "")
			if errors.Is(err, calibrate.ErrNoRecipe) {
				continue
			}
			if err != nil {
				t.Fatal(err)
			}
			r, err := unit(t, c, number).Sit(b, 9)
			if err != nil {
				t.Fatal(err)
			}
			if len(r.Law.Check(x.Face)) == 0 {
				measured[x.ID] = r.Law
			}
		}
		if len(measured) < 12 {
			t.Fatalf("unit %d: only %d laws were measured", number, len(measured))
		}
		for _, id := range []string{"keel", "undertow", "foghorn"} {
			p := patches[id]
			if p == nil || p.Panel == "kedge" {
				continue
			}
			sound := func(by *panel.Compiled, again int) *compare.Sketch {
				t.Helper()
				s, err := translate.Translate(rack[p.Panel], p, by, translate.Options{School: plan.Numbers})
				if err != nil {
					t.Fatal(err)
				}
				u := unit(t, c, number)
				u.Wait(standin.WarmUp)
				for _, x := range s.Settings {
					if err := u.Hand(x.Control, x.Reading); err != nil {
						t.Fatal(err)
					}
				}
				var cables []patch.Cable
				for _, x := range s.Cables {
					cables = append(cables, patch.Cable{From: x.From, To: x.To})
				}
				u.Patch(cables)
				u.Went(again * takes) // what runs free stands elsewhere
				var list []*compare.Sketch
				for range takes {
					w, err := u.Play([]phrase.Note{{End: 1.2, Key: 45, Velocity: 100}}, 0)
					if err != nil {
						t.Fatal(err)
					}
					list = append(list, compare.Sketched(w))
				}
				return compare.Mean(list)
			}
			want := sound(withLaws(t, c, truth), 0)
			a, z, same := compare.Apart(sound(c, 1), want, false).Total, compare.Apart(sound(withLaws(t, c, measured), 1), want, false).Total, compare.Apart(sound(withLaws(t, c, truth), 1), want, false).Total
			t.Logf("unit %d, %s: %.2f just-noticeable differences from the one that knows the laws before the sitting, %.2f after; the same played again is %.2f away", number, id, a, z, same)
			before, after, chance, n = before+a, after+z, chance+same, n+1
		}
	}
	if n == 0 {
		t.Fatalf("only %d patches", n)
	}
	t.Logf("on average %.2f before, %.2f after; the same played again is %.2f away", before/float64(n), after/float64(n), chance/float64(n))
	if after > 0.7*before || chance > after {
		t.Errorf("%.2f just-noticeable differences before the sitting, %.2f after; the same played again is %.2f away", before/float64(n), after/float64(n), chance/float64(n))
	}
}
