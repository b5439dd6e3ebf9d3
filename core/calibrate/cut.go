package calibrate

import (
	"math"

	"glossator/core/phrase"
)

// How a recording of several takes is cut at its silences (common practice, no source).
const (
	silence = 0.4   // seconds without sound that part two takes
	quietDB = -45.0 // below the loudest place
	lead    = 0.05  // of silence that is left before a take
)

// Cut parts a recording of several takes at its silences. What is shorter than a twentieth of a second is no take.
func Cut(s *Sound) (out []*Sound) {
	for _, x := range s.parts(silence) {
		out = append(out, s.cut(max(0, x[0]-lead), x[1]+0.2))
	}
	return out
}

// parts gives where there is sound, in seconds, parted by silences of gap and more.
func (s *Sound) parts(gap float64) [][2]float64 {
	hop := max(1, int(0.01*s.Rate))
	var env []float64
	high := 0.0
	for i := 0; i+hop <= len(s.Left); i += hop {
		var p float64
		for k := i; k < i+hop; k++ {
			x := math.Abs(s.Left[k])
			if s.Right != nil {
				x = max(x, math.Abs(s.Right[k]))
			}
			p = max(p, x)
		}
		env = append(env, p)
		high = max(high, p)
	}
	gate := high * math.Pow(10, quietDB/20)
	var out [][2]float64
	from, last := -1, -1
	flush := func() {
		if from >= 0 && last-from >= 5 {
			out = append(out, [2]float64{float64(from) * 0.01, float64(last+1) * 0.01})
		}
		from = -1
	}
	for i, p := range env {
		if p > gate {
			if from < 0 {
				from = i
			}
			last = i
		} else if from >= 0 && float64(i-last)*0.01 >= gap {
			flush()
		}
	}
	flush()
	return out
}

// stretches gives the notes of a recording, as they are parted by silences.
func (s *Sound) stretches() (out []phrase.Note) {
	for _, x := range s.parts(0.12) {
		out = append(out, phrase.Note{Start: x[0], End: x[1], Key: s.key, Velocity: 100})
	}
	return out
}
