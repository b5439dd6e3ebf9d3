package dsp

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

// Gains over the passband against the closed forms: the cutoff of one pole at -3.01 dB, slopes far
// above the cutoff, and peaks as PeakDB has them.
func TestLowpassGain(t *testing.T) {
	db := func(x float64) float64 { return 20 * math.Log10(x) }
	if got := db(LowpassGain(1, 0, 1)); math.Abs(got+3.0103) > 1e-4 {
		t.Errorf("one pole at its cutoff: %v dB", got)
	}
	if got := db(LowpassGain(2, 0, 1)); math.Abs(got+6.0206) > 1e-4 { // two equal poles
		t.Errorf("two poles at their cutoff: %v dB", got)
	}
	if got := db(LowpassGain(4, 0, 1)); math.Abs(got+12.0412) > 1e-4 { // four equal poles
		t.Errorf("four poles at their cutoff: %v dB", got)
	}
	for poles := 1; poles <= 4; poles++ {
		for _, f := range []float64{0, 0.3, 0.8} {
			if slope := db(LowpassGain(poles, f, 400) / LowpassGain(poles, f, 200)); math.Abs(slope+6.0206*float64(poles)) > 0.05 {
				t.Errorf("%d poles at %v fall by %v dB an octave", poles, f, slope)
			}
			if g := LowpassGain(poles, f, 1e-6); math.Abs(g-1) > 1e-6 {
				t.Errorf("%d poles at %v pass %v", poles, f, g)
			}
		}
	}
	for _, poles := range []int{2, 4} {
		for _, f := range []float64{0.5, 0.7, 0.9} {
			top := 0.0
			for w := 0.2; w < 2; w += 0.0005 {
				top = math.Max(top, LowpassGain(poles, f, w))
			}
			if math.Abs(db(top)-PeakDB(poles, f)) > 0.01 {
				t.Errorf("%d poles at %v peak at %v dB, PeakDB says %v", poles, f, db(top), PeakDB(poles, f))
			}
		}
	}
}

// Another slope: there and back is the same, the two are as bright as each other, and a 12 dB
// filter has to go lower than one of 24 dB (common practice, no source). Where two poles cannot be as dark
// as four, the nearest counts.
func TestEqualBrightness(t *testing.T) {
	for _, f := range []float64{55, 110, 220, 440} {
		for _, fc := range []float64{300, 800, 2500} {
			for _, res := range []float64{0, 0.3, 0.6} {
				to := EqualPeak(res, 4, 2)
				x := EqualBrightness(f, fc, 4, 2, res, to)
				off := func(x float64) float64 { return math.Abs(Brightness(f, x*fc, 2, to)/Brightness(f, fc, 4, res) - 1) }
				if off(x) > 1e-6 {
					// two poles cannot be so dark: then nothing within two octaves is nearer
					for y := 0.28; y <= 3.6; y *= 1.05 {
						if off(y) < off(x)*0.98 {
							t.Errorf("%v Hz through %v Hz at %v: the factor %v is %v off, %v only %v", f, fc, res, x, off(x), y, off(y))
							break
						}
					}
					continue
				}
				if res == 0 && x >= 1 {
					t.Errorf("%v Hz through %v Hz: 12 dB at %v times the cutoff of 24 dB", f, fc, x)
				}
				if back := EqualBrightness(f, x*fc, 2, 4, to, res); res < 0.5 && math.Abs(x*back-1) > 1e-5 {
					t.Errorf("%v Hz through %v Hz at %v: there %v, back %v", f, fc, res, x, back)
				}
			}
		}
	}
	if x := EqualBrightness(110, 500, 4, 4, 0.5, 0.5); x != 1 {
		t.Errorf("the same filter: %v", x)
	}
}

func TestLevelsOfResonanceAndDrive(t *testing.T) {
	// a ladder at self-oscillation has lost 1 + 4, or 13.98 dB (Stilson & Smith, ICMC 1996, from memory)
	if got := BassLossDB(4, 1); math.Abs(got-13.9794) > 1e-3 || BassLossDB(2, 0.9) != 0 || BassLossDB(4, 0) != 0 {
		t.Errorf("bass lost: %v dB", got)
	}
	// a triangle driven without end is a square: sqrt 3 louder, 4.77 dB
	if got := OverloadDB(80); math.Abs(got-10*math.Log10(3)) > 0.02 {
		t.Errorf("a square of a triangle is %v dB louder", got)
	}
	for g := -20.0; g < 40; g += 5 {
		if OverloadDB(g+5) <= OverloadDB(g) {
			t.Errorf("driven harder at %v dB it is no louder", g)
		}
	}
}

// The brightness of a saw goes up with the cutoff and down with the poles, and the cutoff that makes another slope as bright undoes itself.
func TestBrightnessGoesWithTheFilter(t *testing.T) {
	for _, note := range []float64{55, 110, 440} {
		tone := SawTone(note)
		last := 0.0
		for _, fc := range []float64{100, 200, 400, 800, 1600, 3200, 6400} {
			b := BrightnessOf(tone, fc, 4, 0.2)
			if b <= last {
				t.Errorf("%v Hz through four poles at %v Hz: %.1f Hz bright, after %.1f", note, fc, b, last)
			}
			last = b
			if two := BrightnessOf(tone, fc, 2, 0.2); fc <= 2000 && two <= b { // near the top of hearing there is no more to tell
				t.Errorf("%v Hz at %v Hz: two poles %.1f Hz bright, four %.1f", note, fc, two, b)
			}
		}
		for _, fc := range []float64{300, 1000, 2500} {
			f := EqualBrightnessOf(tone, tone, fc, 4, 2, 0.2, 0.2)
			if f >= 1 {
				t.Errorf("two poles have to be lower than four to be as bright: %v", f)
			}
			back := EqualBrightnessOf(tone, tone, fc*f, 2, 4, 0.2, 0.2)
			if math.Abs(f*back-1) > 0.02 {
				t.Errorf("%v Hz at %v Hz: %v there, %v back", note, fc, f, back)
			}
		}
	}
}
