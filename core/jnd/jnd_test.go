package jnd_test

import (
	"math"
	"testing"

	"glossator/core/hear"
	"glossator/core/jnd"
)

// Every difference has a size and says where it is known from; no two share a name.
func TestDifferencesSayWhereTheyAreFrom(t *testing.T) {
	names := map[string]bool{}
	for _, d := range jnd.Table {
		if d.Size <= 0 || d.Source == "" || d.Name == "" || names[d.Name] || d.Share && d.Unit != "" {
			t.Errorf("%+v", *d)
		}
		names[d.Name] = true
	}
}

// The figures are in the units of what is measured: each label is one that hear has, and the unit is the same.
func TestFiguresAreWhatIsMeasured(t *testing.T) {
	n := 48000
	x := make([]float64, n)
	for i := range x {
		x[i] = 0.2 * math.Sin(2*math.Pi*220*float64(i)/48000)
	}
	measured := map[string]string{}
	swept := make([]float64, n) // harmonics that come in one by one
	for i := range swept {
		s := float64(i) / 48000
		for h := 1.0; h <= 20; h++ {
			swept[i] += 0.1 / h / (1 + math.Exp(20*(h/20-s))) * math.Sin(2*math.Pi*220*h*s)
		}
	}
	passed := func(gain func(hz float64) float64) []float64 { // harmonics of a saw through a filter
		out := make([]float64, n)
		for i := range out {
			for h := 1.0; h <= 60; h++ {
				out[i] += 0.1 / h * gain(110*h) * math.Sin(2*math.Pi*110*h*float64(i)/48000)
			}
		}
		return out
	}
	highPassed := passed(func(hz float64) float64 { return 1 / math.Hypot(1-900*900/hz/hz, math.Sqrt2*900/hz) })
	bandPassed := passed(func(hz float64) float64 { w := hz / 900; return 0.3 * w / math.Hypot(1-w*w, 0.3*w) })
	words := map[string]bool{}
	measure := func(left, right []float64) {
		for _, m := range hear.Listen(hear.Wave{Rate: 48000, Left: left, Right: right}).All(0.5) {
			measured[m.Label] = m.Unit
			if m.Word != "" {
				words[m.Label] = true
			}
		}
	}
	for _, x := range [][]float64{x, swept, highPassed, bandPassed} {
		measure(x, x)
	}
	for label, d := range jnd.Figures {
		unit, ok := measured[label]
		if !ok {
			t.Errorf("%q is not measured", label)
		}
		if !d.Share && d.Unit != unit && !(d.Unit == "dB" && (unit == "LUFS" || unit == "dBFS" || unit == "dBTP")) {
			t.Errorf("%q is in %q, its difference in %q", label, unit, d.Unit)
		}
	}
	for label := range measured {
		if _, ok := jnd.Figure(label); !ok && !words[label] {
			t.Errorf("%q has no difference", label)
		}
	}
	// ISO 3382-1:2009, table A.1: 5 % of the reverberation time; 5 ct in a steady unison are 0.29 %
	if d, _ := jnd.Figure("decay to -60 dB"); d.Size != 0.05 || !d.Share {
		t.Errorf("reverberation: %+v", d)
	}
	if d, _ := jnd.Figure("pitch"); math.Abs(d.Size-(math.Exp2(5.0/1200)-1)) > 1e-4 {
		t.Errorf("pitch: %+v", d)
	}
	if _, ok := jnd.Figure("taste"); ok {
		t.Error("a figure that is not measured has a difference")
	}
}
