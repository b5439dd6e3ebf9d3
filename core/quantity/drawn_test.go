package quantity

import (
	"fmt"
	"math"
	"strings"
	"testing"
)

// Drawn waves that are plain ones have their series (Fourier series, Bronshtein): a triangle by four points, a square by two steps.
func TestDrawnPlainWaves(t *testing.T) {
	for name, as := range map[string]Wave{
		"drawn 0 100 0 -100":                             {Name: WaveTriangle},
		"drawn 100 -100":                                 {Name: WaveTriangle},
		"stepped 100 -100":                               {Name: WavePulse, Width: 0.5},
		"stepped 100 -100 -100 -100":                     {Name: WavePulse, Width: 0.25},
		"stepped 100 % 100 % -100 % -100 %":              {Name: WavePulse, Width: 0.5},
		"stepped 100 -100 -100 -100 -100 -100 -100 -100": {Name: WavePulse, Width: 0.125},
	} {
		got, want := (Wave{Name: name}).Amplitudes(30), as.Amplitudes(30)
		for i := range want {
			if math.Abs(got[i]-want[i]) > 1e-12 {
				t.Errorf("%s: harmonic %d is %v, want %v", name, i+1, got[i], want[i])
			}
		}
		if d := WaveDistance(got, want); d > 1e-6 {
			t.Errorf("%s is %v from %v", name, d, as)
		}
	}
}

// The harmonics add up to the points: the series with its phases, summed far enough, goes through them.
func TestDrawnWavesAddUp(t *testing.T) {
	for _, name := range []string{"drawn 0 100 60 80 20 40 -40 -100", "drawn -100 -40 -90 0 -60 60 -20 100", "stepped 100 40 -20 60 -100 0 80 -60", "drawn 10 20 30 40 50 60 70 80 90 100 0"} {
		d, ok, err := ParseDrawn(name)
		if !ok || err != nil {
			t.Fatalf("%s: %v %v", name, ok, err)
		}
		mean := 0.0
		const fine = 4096
		for k := range fine {
			mean += d.At((float64(k)+0.5)/fine) / fine
		}
		list := (Wave{Name: name}).Harmonics(2000)
		for k := range 64 {
			p := (float64(k) + 0.5) / 64 // between points and jumps
			sum := mean
			for n, h := range list {
				sum += h.Amplitude * math.Sin(2*math.Pi*float64(n+1)*p+h.Phase)
			}
			tol := 2e-3
			if d.Stepped {
				tol = 0.02 // a series rings beside a jump
			}
			if math.Abs(sum-d.At(p)) > tol {
				t.Errorf("%s at %.3f: the series gives %.4f, the drawing %.4f", name, p, sum, d.At(p))
			}
		}
	}
}

func TestParseDrawn(t *testing.T) {
	for _, x := range []struct {
		text   string
		ok     bool
		err    string
		points int
	}{
		{"saw", false, "", 0},
		{"", false, "", 0},
		{"drawn 1", false, "", 0}, // it does not say what it is
		{"drawn", false, "", 0},
		{"drawn 0 100 -100", true, "", 3},
		{"stepped 0 % 100 %", true, "", 2},
		{"drawn 0 101", false, "-100 to 100", 0},
		{"drawn 0 high", false, `got "high"`, 0},
		{"drawn 0 NaN", false, "-100 to 100", 0},
		{"stepped 5 5 5", false, "silent", 0},
		{"drawn 0 " + strings.Repeat("1 ", MaxDrawn), false, "at most 256", 0},
		{"drawn 0 " + strings.Repeat("1 ", MaxDrawn-1), true, "", MaxDrawn},
	} {
		d, ok, err := ParseDrawn(x.text)
		if ok != x.ok || (err != nil) != (x.err != "") || err != nil && !strings.Contains(err.Error(), x.err) || ok && len(d.Points) != x.points {
			t.Errorf("%.40q: %v %v %v, want %v %q %d", x.text, len(d.Points), ok, err, x.ok, x.err, x.points)
		}
	}
	if got := Named(DimWave, "stepped 0 100 50").String(); got != "drawn in 3 steps" {
		t.Errorf("it is written %q", got)
	}
	if got := Named(DimWave, "drawn 1").String(); got != "drawn 1" {
		t.Errorf("what does not say what it is is written %q", got)
	}
	if got := fmt.Sprint(Named(DimWave, "drawn 0 100")); got != "drawn by 2 points" {
		t.Errorf("it is written %q", got)
	}
}

// A table may hold drawn waves.
func TestTableOfDrawnWaves(t *testing.T) {
	list, err := ParseTable("sine, drawn 0 100 0 -100, stepped 100 % -100 %")
	if err != nil || len(list) != 3 {
		t.Fatal(list, err)
	}
	if got := TableAmplitudes(list, 0.5, 0.5, 3)[2]; math.Abs(got-8/(math.Pi*math.Pi)/9) > 1e-12 {
		t.Errorf("the third harmonic of the triangle in its middle is %v", got)
	}
	for text, says := range map[string]string{"sine, drawn 7": "two points or more", "sine, drawn 0 1000": "-100 to 100"} {
		if _, err := ParseTable(text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", text, err)
		}
	}
}
