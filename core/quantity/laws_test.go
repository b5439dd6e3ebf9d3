package quantity

import (
	"math"
	"strings"
	"testing"
)

var numbered = []Dim{DimInterval, DimFrequency, DimDuration, DimLevel, DimRatio, DimOctaves, DimBeats, DimCount, DimResonance}

// Distance is signed, 0 from itself, and adds up along the way; in equal-ratio dimensions it is the log of the ratio.
func TestDistanceAddsUp(t *testing.T) {
	for _, d := range numbered {
		a, b, c := Quantity{Dim: d, Value: 0.4}, Quantity{Dim: d, Value: 1.3}, Quantity{Dim: d, Value: 7}
		ab, bc, ac := Distance(a, b), Distance(b, c), Distance(a, c)
		if Distance(a, a) != 0 || math.Abs(ab+bc-ac) > 1e-12 || math.Abs(Distance(b, a)+ab) > 1e-12 || ab <= 0 {
			t.Errorf("%s: %v and %v make %v", d, ab, bc, ac)
		}
		if want := math.Log(1.3 / 0.4); d.Geometric() && math.Abs(ab-want) > 1e-12 {
			t.Errorf("%s: %v, want the log of the ratio %v", d, ab, want)
		}
		off := OffOf(d)
		if Distance(off, off) != 0 || d != DimLevel && Distance(off, b) == 0 {
			t.Errorf("%s: off is %v from itself and %v from a value", d, Distance(off, off), Distance(off, b))
		}
	}
	// below -96 dB there is silence, whatever the number
	if d := Distance(OffOf(DimLevel), Quantity{Dim: DimLevel, Value: -140}); d != 0 {
		t.Errorf("off is %v dB from -140 dB", d)
	}
	if d := Distance(OffOf(DimLevel), Quantity{Dim: DimLevel, Value: 0}); d != 96 {
		t.Errorf("full level is %v dB over off", d)
	}
	for _, d := range []Dim{DimWave, DimName} {
		if Distance(Named(d, "saw"), Named(d, "saw")) != 0 || Distance(Named(d, "saw"), Named(d, "sine")) != 1 {
			t.Errorf("%s: words are not 0 or 1 apart", d)
		}
	}
}

// Every unit goes into its dimension and back.
func TestUnitsGoBack(t *testing.T) {
	for _, u := range Units {
		if found, ok := UnitOf(u.Symbol); !ok || found != u {
			t.Errorf("%s is found as %v", u.Symbol, found)
		}
		if u.Dim.Named() {
			continue
		}
		for _, x := range []float64{0.6, 1, 2.5, 12} {
			v := u.Of(x)
			if back, err := v.In(u.Symbol); err != nil || math.Abs(back-x) > 1e-12*x || v.Dim != u.Dim {
				t.Errorf("%v %s is %v, and back %v (%v)", x, u.Symbol, v, back, err)
			}
		}
		for _, other := range Units {
			if _, err := u.Of(1).In(other.Symbol); (err == nil) != (other.Dim == u.Dim) {
				t.Errorf("a quantity in %s as %s: %v", u.Symbol, other.Symbol, err)
			}
		}
	}
	for text, want := range map[string]bool{"HZ": true, "khz": true, "MS": true, "furlong": false, "": false} {
		if _, ok := UnitOf(text); ok != want {
			t.Errorf("unit %q: %v", text, ok)
		}
	}
	if _, err := (Quantity{Dim: DimLevel}).In("furlong"); err == nil {
		t.Error("a unit that nobody knows was taken")
	}
	// the Q of two poles: 1/2 without resonance, without bound at oscillation (circuit theory)
	for q, want := range map[float64]float64{0.5: 0, 1: 0.5, 5: 0.9} {
		if r := ResonanceOfQ(q); math.Abs(float64(r)-want) > 1e-12 || math.Abs(r.Q()-q) > 1e-12 {
			t.Errorf("a Q of %v is a resonance of %v, and back %v", q, r, r.Q())
		}
	}
}

// What is written can be read again and comes to the same within what was written of it.
func TestWrittenQuantitiesReadBack(t *testing.T) {
	for _, d := range []Dim{DimInterval, DimFrequency, DimDuration, DimLevel, DimOctaves} {
		for _, x := range []float64{0.0023, 0.021, 0.5, 1, 3.25, 12, 99.5, 440, 1200, 8000, 15000} {
			if d == DimLevel && x > 96 || d == DimOctaves && x > 12 {
				continue
			}
			v := Quantity{Dim: d, Value: x}
			e, err := Parse(v.String())
			if err != nil {
				t.Errorf("%v is written %q: %v", x, v.String(), err)
				continue
			}
			back, err := e.Quantity()
			if err != nil || back.Dim != d {
				t.Errorf("%q reads as %v (%v), want %s", v.String(), back, err, d)
				continue
			}
			off := math.Abs(back.Value - x)
			if d.Geometric() {
				off = math.Abs(back.Value/x - 1)
				if off > 0.006 {
					t.Errorf("%v %s is written %q and read as %v", x, d, v.String(), back.Value)
				}
			} else if off > 0.06 {
				t.Errorf("%v %s is written %q and read as %v", x, d, v.String(), back.Value)
			}
		}
	}
	for _, d := range numbered {
		if got := OffOf(d).String(); got != "off" {
			t.Errorf("%s off is written %q", d, got)
		}
	}
}

func TestNumbersAndTolerances(t *testing.T) {
	for _, x := range []struct {
		x    float64
		n    int
		want string
	}{{0, 3, "0"}, {1234.6, 3, "1235"}, {12.345, 3, "12.3"}, {0.012345, 3, "0.0123"}, {-0.0000001, 3, "0"}, {99.96, 3, "100"}, {2.50, 3, "2.5"}, {math.NaN(), 3, "0"}, {math.Inf(1), 3, "0"}, {-42, 2, "-42"}} {
		if got := Number(x.x, x.n); got != x.want {
			t.Errorf("%v to %d figures is %q, want %q", x.x, x.n, got, x.want)
		}
	}
	// tolerances are stated at k = 2 (GUM 6.2.1)
	for want, v := range map[string]Quantity{
		"±10 %":    {Dim: DimFrequency, Value: 500, Tol: 0.05},
		"±4 ct":    {Dim: DimInterval, Value: 7, Tol: 2},
		"±1.5 dB":  {Dim: DimLevel, Tol: 0.75},
		"±0.3 oct": {Dim: DimOctaves, Tol: 0.15},
		"±6 %":     {Dim: DimRatio, Tol: 0.03},
		"±1":       {Dim: DimCount, Tol: 0.5},
		"":         {Dim: DimRatio},
	} {
		if got := v.TolString(); got != want {
			t.Errorf("%+v has the tolerance %q, want %q", v, got, want)
		}
	}
	if (Quantity{Dim: DimRatio, Tol: 1, Off: true}).TolString() != "" || (Quantity{Dim: DimName, Tol: 1}).TolString() != "" {
		t.Error("what is off, or a word, has no tolerance")
	}
	// GUM 5.1.2 and 4.3.7: a 3-4-5 triangle, and half a step of 2
	if got := (Quantity{Dim: DimRatio, Tol: 3}).WithTol(4).Tol; got != 5 {
		t.Errorf("3 and 4 make %v", got)
	}
	if got := Rectangular(-1); math.Abs(got-0.57735027) > 1e-8 {
		t.Errorf("a half-width of 1 is %v", got)
	}
	for _, v := range []Quantity{{Value: math.NaN()}, {Value: math.Inf(-1)}, {Tol: math.NaN()}, {Tol: math.Inf(1)}} {
		if v.Finite() {
			t.Errorf("%+v is taken for ordinary", v)
		}
	}
}

// What cannot be is refused.
func TestNoSuchFootage(t *testing.T) {
	for _, bad := range []float64{0, -1, math.NaN(), math.Inf(1)} {
		if _, err := FootageInterval(bad); err == nil {
			t.Errorf("a footage of %v has an interval", bad)
		}
	}
}

// Inverses: interval and ratio, octaves, level and amplitude, note and frequency, period and rate, beats and time, detune and beating.
func TestInverses(t *testing.T) {
	for _, x := range []float64{-2400, -7, -0.1, 0, 3, 701.955, 1200, 5000} {
		for name, r := range map[string]Relation{"ct": CentsToRatio, "octaves": OctavesToSemitones, "dB": DecibelsToRatio.Scaled(100, 1)} {
			if back := r.Back(r.There(x, Context{}), Context{}); math.Abs(back-x) > 1e-9 {
				t.Errorf("%v %s come back as %v", x, name, back)
			}
		}
	}
	for n := Note(0); n <= 127; n += 0.5 {
		if back := n.Frequency().Note(); math.Abs(float64(back-n)) > 1e-9 {
			t.Errorf("note %v comes back as %v", n, back)
		}
	}
	for _, f := range []Frequency{0.1, 8, 55, 440, 12345} {
		if back := f.Period().Rate(); math.Abs(float64(back/f)-1) > 1e-12 {
			t.Errorf("%v Hz comes back as %v", f, back)
		}
		if b := f.Detune(f / 100).Beating(f); math.Abs(float64(b/f)-0.01) > 1e-12 {
			t.Errorf("%v Hz detuned to beat at a hundredth beats at %v", f, b)
		}
	}
	for _, tempo := range []Tempo{40, 96, 120, 300} {
		for _, b := range []Beats{1.0 / 64, 1.0 / 12, 0.1875, 0.25, 2} {
			if back := BeatsOf(b.At(tempo), tempo); math.Abs(float64(back-b)) > 1e-12 {
				t.Errorf("%v at %v comes back as %v", b, tempo, back)
			}
		}
	}
	// footages (common practice: each half an octave up)
	for feet, want := range map[float64]float64{32: -2400, 16: -1200, 8: 0, 4: 1200, 2: 2400, 5 + 1.0/3: 701.955} {
		if i, err := FootageInterval(feet); err != nil || math.Abs(float64(i)-want) > 1e-3 {
			t.Errorf("%v feet are %v ct (%v), want %v", feet, i, err, want)
		}
	}
}

// Every unit is told where its dimension is asked for, and a dimension without units has none.
func TestSymbols(t *testing.T) {
	for _, u := range Units {
		for _, list := range []string{Symbols(u.Dim), Symbols("")} {
			if !strings.Contains(", "+list+",", ", "+u.Symbol+",") {
				t.Errorf("%s is not among %s", u.Symbol, list)
			}
		}
	}
	if got := Symbols(DimResonance); got != "fraction, Q" {
		t.Errorf("resonance: %s", got)
	}
}
