package audition_test

import (
	"math"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/phrase"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// The reading that is to make a target louder does so: by what it says to a decibel in what is heard, and what it says to be missing is the
// rest, unless what stands behind it bends levels, which is told. What is not heard or no number asks for nothing.
func TestAsLoud(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	given, told := 0, 0
	for _, p := range patches {
		for _, id := range []string{"kedge", "halyard", "sheave", "coracle"} {
			src, dst := panels[p.Panel], panels[id]
			if p.Panel == id || src.Kind != "instrument" || dst == nil {
				continue
			}
			loudness := func(over map[string]string) (float64, *gloss.Sheet, *meaning.Meaning) {
				sheet, err := translate.Translate(src, p, dst, translate.Options{Overrides: over})
				if err != nil {
					t.Fatal(err)
				}
				y, err := audition.Target(dst, p, sheet)
				if err != nil {
					t.Fatal(err)
				}
				notes, _, err := audition.Notes(p, "held", 0)
				if err != nil {
					t.Fatal(err)
				}
				s, err := synth.Render([]synth.Layer{y}, notes, synth.Options{Seed: 1, Raw: true})
				if err != nil {
					t.Fatal(err)
				}
				l, ok := hear.Loudness(hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right})
				if !ok {
					return math.Inf(-1), sheet, y.Meaning
				}
				return l, sheet, y.Meaning
			}
			was, sheet, played := loudness(nil)
			for _, by := range []float64{-6, 4, 40} {
				l, ok := audition.AsLoud(dst, sheet, played, by)
				if !ok {
					continue
				}
				given++
				if l.Behind != "" {
					told++
				}
				if math.Abs(l.By+l.Missing-by) > 1e-9 || l.From == l.To || l.Control == "" || l.Label == "" {
					t.Errorf("%s on %s by %v dB: %+v", p.ID, id, by, l)
				}
				if now, _, _ := loudness(map[string]string{l.Control: l.To}); math.Abs(now-was-l.By) > 1 && l.Behind == "" || (now-was)*l.By < 0 {
					t.Errorf("%s on %s: %s from %s to %s makes it %.1f dB louder, said to be %.1f", p.ID, id, l.Label, l.From, l.To, now-was, l.By)
				}
			}
			for _, by := range []float64{0, 0.9, math.NaN(), math.Inf(1)} {
				if l, ok := audition.AsLoud(dst, sheet, played, by); ok {
					t.Errorf("by %v dB: %+v", by, l)
				}
			}
		}
	}
	if given < 30 || told == 0 {
		t.Errorf("only %d readings were given, of %d it is told what stands behind them", given, told)
	}
}

// When the notes of a phrase begin: chords together, in any order.
func TestTimes(t *testing.T) {
	n := func(start, end float64) phrase.Note {
		return phrase.Note{Start: start, End: end, Key: 60, Velocity: 100}
	}
	for _, x := range []struct {
		notes []phrase.Note
		want  compare.Times
	}{
		{nil, compare.Times{}},
		{[]phrase.Note{n(0, 2)}, compare.Times{Off: 2}},
		{[]phrase.Note{n(0, 2), n(0.01, 2), n(0, 1)}, compare.Times{Off: 2}},
		{[]phrase.Note{n(1, 2), n(0, 0.5), n(0.5, 3)}, compare.Times{Off: 3, Second: 0.5, Last: 1}},
		{[]phrase.Note{n(0, 1), n(1, 2), n(1.015, 2.5)}, compare.Times{Off: 2.5, Second: 1, Last: 1}},
	} {
		if got := audition.Times(x.notes); got != x.want {
			t.Errorf("%v: %+v, want %+v", x.notes, got, x.want)
		}
	}
}
