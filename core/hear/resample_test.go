package hear_test

import (
	"math"
	"testing"

	"glossator/core/compare"
	"glossator/core/hear"
)

// A sine keeps its level and its phase at another rate, and what the new rate cannot hold goes.
func TestResample(t *testing.T) {
	for _, x := range []struct{ from, to, hz float64 }{{44100, 48000, 440}, {48000, 44100, 8000}, {192000, 48000, 1000}, {8000, 48000, 3000}, {96000, 48000, 15000}} {
		w := hear.Wave{Rate: x.from, Left: make([]float64, int(x.from/4))}
		for k := range w.Left {
			w.Left[k] = math.Sin(2 * math.Pi * x.hz * float64(k) / x.from)
		}
		got := w.At(x.to)
		worst := 0.0
		for k := len(got.Left) / 4; k < len(got.Left)*3/4; k++ {
			worst = max(worst, math.Abs(got.Left[k]-math.Sin(2*math.Pi*x.hz*float64(k)/x.to)))
		}
		if worst > 0.003 || math.Abs(float64(len(got.Left))-x.to/4) > 1 {
			t.Errorf("%v Hz from %v to %v: %d samples, %.4f off", x.hz, x.from, x.to, len(got.Left), worst)
		}
	}
	high := hear.Wave{Rate: 96000, Left: make([]float64, 24000)}
	for k := range high.Left {
		high.Left[k] = math.Sin(2 * math.Pi * 30000 * float64(k) / 96000)
	}
	for k, y := range high.At(48000).Left[1000:10000] {
		if math.Abs(y) > 0.01 {
			t.Fatalf("30 kHz at 48 kHz leaves %v at %d", y, k)
		}
	}
}

// The same sound recorded at other rates is hardly apart.
func TestRatesDoNotCount(t *testing.T) {
	body := "k1 expon 1, 1.2, 0.01\na1 vco2 k1*0.4, 110"
	a := compare.Sketched(csoundFile(t, 48000, 1.2, body))
	for _, rate := range []int{44100, 96000} {
		if d := compare.Apart(a, compare.Sketched(csoundFile(t, rate, 1.2, body)), true); d.Total > 1.5 || math.Abs(d.Gain) > 0.1 || math.Abs(d.Shift) > 0.025 {
			t.Errorf("at %d: %+v", rate, d)
		}
	}
}
