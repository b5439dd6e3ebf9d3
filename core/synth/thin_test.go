package synth

import (
	"math"
	"math/cmplx"
	"testing"
)

// A sine at two to sixteen times the rate comes out as it was up to 20 kHz, and what would fold back there lies 75 dB down.
func TestThinner(t *testing.T) {
	for _, times := range []int{2, 4, 8, 16} {
		rate := float64(times) * Rate
		for _, hz := range []float64{100, 5000, 12000, 19000, 20000, 28100, 35000, 45000, 76000, 90000, 145000, 185000, 250000, 370000} {
			if hz > rate/2 {
				continue
			}
			s := newThinner(times)
			const n = 8192
			got := make([]float64, n)
			x := make([]float64, block*times)
			for at := 0; at < n; at += block {
				for i := range x {
					x[i] = math.Sin(2 * math.Pi * hz * float64(at*times+i) / rate)
				}
				s.run(x, got[at:at+block])
			}
			fold := math.Abs(math.Remainder(hz, Rate))
			a := decibels(cmplx.Abs(bin(got[n/2:], fold)))
			if hz <= 20000 && math.Abs(a) > 0.01 {
				t.Errorf("%d times, %v Hz: %.3f dB", times, hz, a)
			}
			if hz > 28000 && fold <= 20000 && a > -75 {
				t.Errorf("%d times, %v Hz folds back to %v Hz at %.1f dB", times, hz, fold, a)
			}
		}
	}
}
