package dsp

import (
	"math"
	"testing"
)

// Fold is a triangle of period 4 that is the identity between -1 and 1.
func TestFold(t *testing.T) {
	for x := -9.0; x <= 9; x += 0.0625 {
		want := 2 / math.Pi * math.Asin(math.Sin(math.Pi/2*x))
		if got := Fold(x); math.Abs(got-want) > 1e-9 {
			t.Errorf("%v folds to %v, want %v", x, got, want)
		}
	}
}

// At nothing a transformation changes nothing, by whatever word; the more it does the brighter a sine gets, but for mirroring, which has no more harmonics than a wave and its half.
func TestWarp(t *testing.T) {
	const n = 1024
	cycle := make([]float64, n)
	for i := range cycle {
		cycle[i] = math.Sin(2 * math.Pi * float64(i) / n)
	}
	bright := func(kind string, amount float64) float64 {
		h := WarpedHarmonics([]float64{1}, []float64{0}, kind, amount, 64)
		sum, all := 0.0, 0.0
		for i, a := range h {
			sum, all = sum+float64(i+1)*a*a, all+a*a
		}
		return sum / all
	}
	for _, kind := range []string{WarpFold, WarpBend, WarpMirror, WarpQuantise, "something"} {
		for i, y := range Warp(cycle, kind, 0) {
			if math.Abs(y-cycle[i]) > 1e-9 {
				t.Fatalf("%s by nothing: %v at %d, was %v", kind, y, i, cycle[i])
			}
		}
		last := 1.0
		for _, amount := range []float64{0.25, 0.5, 1} {
			b := bright(kind, amount)
			if (kind == WarpFold || kind == WarpBend) && b <= last || math.IsNaN(b) {
				t.Errorf("%s by %v is at %v harmonics on average, by less at %v", kind, amount, b, last)
			}
			last = b
		}
	}
	// phases count: a cosine bent begins at its top
	a, b := WarpedHarmonics([]float64{1}, []float64{0}, WarpBend, 0.5, 4), WarpedHarmonics([]float64{1}, []float64{math.Pi / 2}, WarpBend, 0.5, 4)
	if math.Abs(a[0]-b[0])+math.Abs(a[1]-b[1]) < 1e-3 {
		t.Errorf("a sine and a cosine have the same harmonics when they are bent: %v", a)
	}
}
