package compare_test

import (
	"math"
	"testing"

	"glossator/core/compare"
	"glossator/core/hear"
)

// Several takes of two sounds that are in tune take by take are in tune together, however many partials they have and whichever are strong: an even one, whose upper partials are a hair the
// stronger, beside one that falls off.
func TestTakesInTuneAreInTuneTogether(t *testing.T) {
	sound := func(take int, level func(h int) float64) *compare.Sketch {
		const rate = 48000
		w := hear.Wave{Rate: rate, Left: make([]float64, 2*rate)}
		for h := 1; h <= 24; h++ {
			phase := float64(h*h*(take+1)) * 0.7
			for i := range w.Left {
				w.Left[i] += 0.05 * level(h) * math.Sin(2*math.Pi*110*float64(h)*float64(i)/rate+phase)
			}
		}
		return compare.Sketched(w)
	}
	even, falling := func(h int) float64 { return 0.5 + 0.005*float64(h) }, func(h int) float64 { return math.Pow(0.85, float64(h)) }
	var a, b []*compare.Sketch
	for take := range 5 {
		a, b = append(a, sound(take, even)), append(b, sound(take, falling))
		if d := compare.Apart(a[take], b[take], false); d.Pitch > 1 {
			t.Errorf("take %d is %.1f just-noticeable differences out of tune", take, d.Pitch)
		}
	}
	if d := compare.Apart(compare.Mean(a), compare.Mean(b), false); d.Pitch > 1 {
		t.Errorf("together they are %.1f just-noticeable differences out of tune", d.Pitch)
	}
}
