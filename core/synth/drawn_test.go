package synth

import (
	"math"
	"strings"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// A drawn wave sounds with the harmonics of its series (Bronshtein), within 0.1 dB, and needs no excuse; one that the panel does not
// describe is a triangle, and it says so.
func TestDrawnWavesSound(t *testing.T) {
	const shape = "drawn 0 100 60 80 20 40 -40 -100"
	s := rendered(t, simple(nil, part("o", meaning.Osc, params{"wave": shape, "level": 0.0, "phase": "reset"})), 0, note(0, 2, 45))
	if len(s.Assumed) > 0 {
		t.Errorf("it says %v", s.Assumed)
	}
	const f = 110.0 // A2: whole periods in a second
	x := s.Left[Rate/2 : Rate/2+Rate]
	for n, want := range (q.Wave{Name: shape}).Amplitudes(40) {
		if want < 0.002 {
			continue
		}
		if got := harmonic(x, f*float64(n+1)); math.Abs(20*math.Log10(got/want)) > 0.1 {
			t.Errorf("harmonic %d: %.5f, want %.5f", n+1, got, want)
		}
	}
	s = rendered(t, simple(nil, part("o", meaning.Osc, params{"wave": "drawn 3", "level": 0.0})), 0, note(0, 0.3, 45))
	if !strings.Contains(strings.Join(s.Assumed, ";"), "a triangle is played") {
		t.Errorf("a wave that nobody describes is played without a word: %v", s.Assumed)
	}
}

// An LFO follows what was drawn: a level by four steps.
func TestDrawnLFO(t *testing.T) {
	lfo := part("l", meaning.LFO, params{"wave": "stepped 100 0 -100 50", "rate": 1.0, "phase": "reset"})
	m := simple([]meaning.Route{moves("l", "w.width", q.DimRatio, 1, "bipolar")}, sine(params{"pan": 0.5}), lfo, part("w", meaning.Widener, params{"width": 0.0}))
	s := rendered(t, m, 0, note(0, 1, 69))
	side := make([]float64, len(s.Left))
	for k := range side {
		side[k] = s.Left[k] - s.Right[k]
	}
	plain := levelAt(side, 0.30, 0.45) // at 0 the side is as it was
	for i, want := range []float64{2, 1, 0, 1.5} {
		from := 0.25*float64(i) + 0.05
		got := math.Pow(10, (levelAt(side, from, from+0.15)-plain)/20)
		if math.Abs(got-want) > 0.02 {
			t.Errorf("step %d: the side is %.3f of itself, want %v", i+1, got, want)
		}
	}
}
