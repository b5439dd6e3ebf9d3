package meaning

import (
	"math"
	"testing"

	q "glossator/core/quantity"
)

// Figures of filters. Circuit theory: four equal poles are -12.04 dB at the pole frequency
// and -3.01 dB at 0.43498 of it; two poles of Q = 2 peak 6.30 dB over the passband. Stilson &
// Smith, ICMC 1996 (from memory): a ladder with k = 3.2 loses 12.46 dB at low frequencies and
// oscillates at k = 4, at the pole frequency.
func TestFilterFigures(t *testing.T) {
	db := func(x float64) float64 { return 20 * math.Log10(x) }
	for _, c := range []struct {
		what            string
		got, want, half float64
	}{
		{"four poles at the pole frequency", db(LadderGain(1, 0)), -12.04, 0.005},
		{"four poles at 0.43498 of it", db(LadderGain(0.43498, 0)), -3.01, 0.005},
		{"ladder, k = 3.2, low frequencies", db(LadderGain(0, 3.2)), -12.46, 0.005},
		{"two poles, Q = 2", PeakDB(2, float64(q.ResonanceOfQ(2))), 6.30, 0.005},
		{"two poles, Q = 0.7 has no peak", PeakDB(2, float64(q.ResonanceOfQ(0.7))), 0, 1e-9},
		{"four poles without feedback have no peak", PeakDB(4, 0), 0, 1e-9},
	} {
		if math.Abs(c.got-c.want) > c.half {
			t.Errorf("%s: %v dB, want %v", c.what, c.got, c.want)
		}
	}
	if g := LadderGain(1, 3.9999); g < 1e3 {
		t.Errorf("close to k = 4 the gain at the pole frequency is only %v", g)
	}
	if PeakDB(4, 0.9999) < 60 || PeakDB(2, 0.9999) < 60 {
		t.Error("the peak does not grow without bound towards self-oscillation")
	}
}

func TestEqualPeakIsEqual(t *testing.T) {
	for f := 0.3; f < 0.99; f += 0.03 {
		two := EqualPeak(f, 4, 2)
		if a, b := PeakDB(4, f), PeakDB(2, two); math.Abs(a-b) > 0.05 {
			t.Errorf("fraction %v: %v dB with four poles, %v dB with two", f, a, b)
		}
		if back := EqualPeak(two, 2, 4); PeakDB(4, f) > 0.1 && math.Abs(back-f) > 0.005 {
			t.Errorf("fraction %v came back as %v", f, back)
		}
	}
	for _, f := range []float64{0, 1, 1.2} {
		if EqualPeak(f, 4, 2) != f {
			t.Errorf("fraction %v moved", f)
		}
	}
}

// The vocabulary is consistent: parameters are named once, silences exist, weights and
// thresholds are above 0, neutrals have the parameter's dimension.
func TestVocabulary(t *testing.T) {
	seen := map[Kind]bool{}
	for _, k := range Kinds {
		if seen[k.Kind] || k.Label == "" || k.Plural == "" || k.Weight <= 0 {
			t.Errorf("kind %q is there twice or has no label or weight", k.Kind)
		}
		seen[k.Kind] = true
		names := map[string]bool{}
		for _, p := range k.Params {
			if names[p.Name] || p.Weight <= 0 || p.JND <= 0 || p.Label == "" || p.Neutral.Dim != p.Dim {
				t.Errorf("%s.%s: named twice, or without weight, threshold, label or neutral", k.Kind, p.Name)
			}
			names[p.Name] = true
		}
		for _, s := range k.Silence {
			if !names[s] {
				t.Errorf("%s is silenced by %q, which it has not", k.Kind, s)
			}
		}
	}
	if m, p := Split("osc1.width"); m != "osc1" || p != "width" {
		t.Errorf("split gave %q and %q", m, p)
	}
}
