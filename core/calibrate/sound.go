package calibrate

import (
	"math"

	"glossator/core/hear"
	"glossator/core/phrase"
)

// Sound is a take: a recording, and the notes that were played on it. Notes is nil for a recording of which that is not known.
type Sound struct {
	hear.Wave
	Notes []phrase.Note

	ear *hear.Ear
	// of a recording of which it is not known when the keys went down
	key   float64       // that was asked for
	asked int           // how many notes were
	found []phrase.Note // where they are
}

func (s *Sound) listen() *hear.Ear {
	if s.ear == nil {
		s.ear = hear.Listen(s.Wave)
	}
	return s.ear
}

// off gives when the first key was let go; 0 where it is not known.
func (s *Sound) off() float64 {
	if len(s.Notes) == 0 {
		return 0
	}
	return s.Notes[0].End
}

// note gives the n-th note; where that is not known, the whole recording.
func (s *Sound) note(n int) phrase.Note {
	if n < len(s.Notes) {
		return s.Notes[n]
	}
	if s.asked > 1 && s.found == nil { // the silence between two notes tells where they are
		parts := s.stretches()
		s.found = []phrase.Note{}
		if len(parts) == s.asked {
			s.found = parts
		}
	}
	if n < len(s.found) {
		return s.found[n]
	}
	return phrase.Note{End: s.Seconds(), Key: s.key, Velocity: 100}
}

// cut gives a stretch of the sound as one of its own.
func (s *Sound) cut(from, to float64) *Sound {
	a := min(max(int(from*s.Rate), 0), len(s.Left))
	b := min(max(int(to*s.Rate), a), len(s.Left))
	w := hear.Wave{Rate: s.Rate, Left: s.Left[a:b]}
	if s.Right != nil {
		w.Right = s.Right[a:b]
	}
	return &Sound{Wave: w}
}

// steady gives the part of the n-th note in which it has settled.
func (s *Sound) steady(n int) *Sound {
	x := s.note(n)
	length := x.End - x.Start
	return s.cut(x.Start+min(0.15, length/4), x.End-min(0.03, length/10))
}

// power gives the mean power of both channels.
func (s *Sound) power() float64 {
	var sum float64
	for i, x := range s.Left {
		y := x
		if s.Right != nil {
			y = s.Right[i]
		}
		sum += (x*x + y*y) / 2
	}
	if len(s.Left) == 0 {
		return 0
	}
	return sum / float64(len(s.Left))
}

// sides gives the mean powers of the channels.
func (s *Sound) sides() (left, right float64) {
	for i, x := range s.Left {
		y := x
		if s.Right != nil {
			y = s.Right[i]
		}
		left, right = left+x*x, right+y*y
	}
	n := float64(max(1, len(s.Left)))
	return left / n, right / n
}

func decibels(power float64) float64 { return 10 * math.Log10(max(power, 1e-20)) }
