package quantity

import (
	"math"
	"testing"
)

// At its waves a table has their harmonics (Fourier series, Bronshtein), half way the mean of two.
func TestTable(t *testing.T) {
	table, err := ParseTable("triangle, saw, pulse 25 %, pulse")
	if err != nil {
		t.Fatal(err)
	}
	for i, w := range []Wave{{Name: WaveTriangle}, {Name: WaveSaw}, {WavePulse, 0.25}, {WavePulse, 0.4}} {
		got, want := TableAmplitudes(table, float64(i)/3, 0.4, 16), w.Amplitudes(16)
		for n := range want {
			if math.Abs(got[n]-want[n]) > 1e-9 {
				t.Errorf("%s at %d: harmonic %d is %v, want %v", w.Name, i, n+1, got[n], want[n])
			}
		}
	}
	half, saw, tri := TableAmplitudes(table, 1.0/6, 0.4, 4), Wave{Name: WaveSaw}.Amplitudes(4), Wave{Name: WaveTriangle}.Amplitudes(4)
	for n := range half {
		if math.Abs(half[n]-(saw[n]+tri[n])/2) > 1e-9 {
			t.Errorf("half way: harmonic %d is %v", n+1, half[n])
		}
	}
	for _, bad := range []string{"", "saw", "saw, noise", "saw 20, sine", "pulse 0, saw", "pulse x, saw", "saw,, sine", "pulse 25 30, saw"} {
		if _, err := ParseTable(bad); err == nil {
			t.Errorf("%q was taken", bad)
		}
	}
}
