package gloss

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	q "glossator/core/quantity"
)

// Whatever the axis: its marks lie within it, rise, and are neither too many nor none.
func TestMarksLieAlongTheAxis(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for _, d := range []q.Dim{q.DimFrequency, q.DimDuration, q.DimInterval, q.DimLevel, q.DimOctaves, q.DimRatio, q.DimResonance, q.DimCount} {
		for range 300 {
			low := math.Pow(10, r.Float64()*6-3)
			high := low * math.Pow(10, 0.8+r.Float64()*4)
			if !d.Geometric() && r.IntN(2) == 0 {
				low = -low
			}
			all := marks(d, low, high)
			if len(all) == 0 || len(all) > 16 {
				t.Fatalf("%s from %g to %g: %d marks", d, low, high, len(all))
			}
			slack := 1e-8 * (high - low)
			if !slices.IsSortedFunc(all, func(a, b AxisMark) int { return cmp.Compare(a.Value, b.Value) }) || all[0].Value < low-slack || all[len(all)-1].Value > high+slack {
				t.Fatalf("%s from %g to %g: %v", d, low, high, all)
			}
		}
	}
	if all := marks(q.DimFrequency, 20, 20000); len(all) != 10 || all[0].Text != "31.5" || all[9].Text != "16k" { // ISO 266
		t.Errorf("20 Hz to 20 kHz: %v", all)
	}
	if all := marks(q.DimFrequency, 0, 100); len(all) != 0 {
		t.Errorf("an axis of ratios from 0: %v", all)
	}
}
