package hear_test

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/hear"
)

// Key tracking and the answer to velocity, from recordings that csound makes: a saw through two poles whose cutoff follows the key by so much, and whose level and cutoff
// follow the velocity. The slope is right within what it says of itself, and within a twentieth; one note alone tells nothing.
func TestResponses(t *testing.T) {
	saw := func(f, fc, level float64) *hear.Ear {
		return hear.Listen(csoundFile(t, 48000, 2, fmt.Sprintf("a0 vco2 %v, %v\na1 butterlp a0, %v\n", level, f, fc)))
	}
	get := func(list []hear.Measured, label string) hear.Measured {
		for _, m := range list {
			if m.Label == label {
				return m
			}
		}
		t.Fatalf("%s is not among %v", label, list)
		return hear.Measured{}
	}
	for _, track := range []float64{0, 0.33, 0.5, 1} {
		var takes []hear.Take
		for _, f := range []float64{55, 110, 220} {
			takes = append(takes, hear.Take{Ear: saw(f, 900*math.Pow(f/110, track), 0.3), Velocity: 100})
		}
		for n := 2; n <= 3; n++ {
			m := get(hear.Responses(takes[:n]), "key tracking of the cutoff")
			if !m.Known || math.Abs(m.Value-100*track) > 5 && math.Abs(m.Value-100*track) > 2*m.Uncertainty {
				t.Errorf("tracking %v of %d notes: %+v", track, n, m)
			}
		}
		if m := get(hear.Responses(takes[:1]), "key tracking of the cutoff"); m.Known {
			t.Errorf("one note tells %+v", m)
		}
	}
	for _, x := range []struct{ dB, octaves float64 }{{0, 0}, {20, 0}, {30, 1.5}, {12, 1}} {
		var takes []hear.Take
		for _, v := range []float64{40, 80, 127} {
			takes = append(takes, hear.Take{Ear: saw(110, 420*math.Exp2(x.octaves*v/127), 0.5*math.Pow(10, x.dB*(v/127-1)/20)), Velocity: v})
		}
		got := hear.Responses(takes)
		if m := get(got, "velocity response of the cutoff"); !m.Known || math.Abs(m.Value-x.octaves) > 0.12 && math.Abs(m.Value-x.octaves) > 2*m.Uncertainty {
			t.Errorf("%v octaves: %+v", x.octaves, m)
		}
		// the filter lets more of it through too: what is louder is no less than the level alone
		if m := get(got, "velocity response of the level"); !m.Known || m.Value < x.dB-1 || x.octaves == 0 && math.Abs(m.Value-x.dB) > 1 {
			t.Errorf("%v dB: %+v", x.dB, m)
		}
		if m := get(hear.Responses(takes[:1]), "velocity response of the level"); m.Known {
			t.Errorf("one velocity tells %+v", m)
		}
	}
}
