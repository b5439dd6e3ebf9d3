// Package ear measures how small a difference somebody hears, and makes the sounds for it: a patch as it is, and with one parameter moved, at equal loudness.
//
// Its neighbours: jnd has the published differences, in which sizes are counted here; synth renders, audition reads patches.
package ear

import (
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/stat"
)

// Stair is an adaptive staircase: smaller after two right answers in a row, larger after a wrong one, which tends to the size at which 70.7 % are right (Levitt, JASA 49(2), 1971). Sizes are in
// just-noticeable differences as published, and steps are factors, coarse at first.
type Stair struct {
	size      float64
	most      float64
	right     int       // in a row
	down      bool      // it went down last
	moved     bool      // it has gone anywhere
	reversals []float64 // the logarithms of the sizes at which it turned
	answers   int
	large     int // answers to large differences, and how many of them were right
	largeHit  int
}

// Bounds of a staircase. Two sounds that differ by Largest differ by much more than anybody asks for; what is not heard there is not heard.
const (
	Start   = 6.0
	Largest = 12.0
	Least   = 0.05
	// turns are how many reversals end it, of which the last counted are averaged.
	turns   = 14
	counted = 10
	// mostAnswers ends it anyhow.
	mostAnswers = 120
	// enough answers to differences of Start and more tell whether anything is heard: whoever guesses has half of them right.
	enough  = 12
	guessed = 0.72
	// unsure is the standard deviation of the logarithm of what one sitting finds, as sittings of listeners of known thresholds spread (see the tests).
	unsure = 0.25
)

// Chance is how many of the answers are right where nothing is heard: one of two sounds is chosen.
const Chance = 0.5

// Aim is the share of right answers at what is measured: two in a row are right as often as not.
var Aim = math.Sqrt(0.5)

// NewStair begins well above what is just heard; most is the largest difference that there is room for, Largest at most.
func NewStair(most float64) *Stair {
	most = min(Largest, max(leastRoom, most))
	return &Stair{size: min(Start, most), most: most}
}

// Size is how large the next difference is.
func (s *Stair) Size() float64 { return s.size }

// Answers counts what was answered.
func (s *Stair) Answers() int { return s.answers }

// step is by what factor it goes: coarse until it has turned twice, then finer.
func (s *Stair) step() float64 {
	switch n := len(s.reversals); {
	case n < 2:
		return 2
	case n < turns-counted:
		return math.Sqrt2
	}
	return math.Pow(2, 0.25)
}

// Answer takes an answer.
func (s *Stair) Answer(right bool) {
	s.answers++
	if s.size >= min(Start, s.most) {
		if s.large++; right {
			s.largeHit++
		}
	}
	down := right
	if right {
		if s.right++; s.right < 2 {
			return
		}
	}
	s.right = 0
	if s.moved && down != s.down {
		s.reversals = append(s.reversals, math.Log(s.size))
	}
	s.down, s.moved = down, true
	if down {
		s.size = max(Least, s.size/s.step())
	} else {
		s.size = min(s.most, s.size*s.step())
	}
}

// guesses tells whether large differences are not heard either.
func (s *Stair) guesses() bool {
	return s.large >= enough && float64(s.largeHit) < guessed*float64(s.large)
}

// Done tells whether it has ended.
func (s *Stair) Done() bool {
	return len(s.reversals) >= turns || s.answers >= mostAnswers || s.guesses()
}

// Threshold is what a staircase has found: the size of which Aim are heard, with the bounds of 95 % and how many turns it rests on. Heard is false where even the largest was not: then all three are that.
type Threshold struct {
	Size  float64 `json:"size"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
	Turns int     `json:"turns"`
	Heard bool    `json:"heard"`
}

// Threshold gives what has been found; ok is false before there are four turns.
func (s *Stair) Threshold() (t Threshold, ok bool) {
	if s.guesses() {
		return Threshold{Size: s.most, Low: s.most, High: s.most}, true
	}
	last := s.reversals
	if n := len(last); n > counted {
		last = last[n-counted:]
	}
	last = last[len(last)%2:] // as many up as down
	if len(last) < 4 {
		return t, false
	}
	mean, half := stat.Mean(last, nil), 2*unsure*math.Sqrt(float64(counted)/float64(len(last)))
	return Threshold{Size: math.Exp(mean), Low: math.Exp(mean - half), High: math.Exp(mean + half), Turns: len(last), Heard: true}, true
}

// Toss says for a trial which of the two sounds is the other one, and whether it is moved up; the same for the same seed.
func Toss(seed uint64, trial int) (second, up bool) {
	r := rand.New(rand.NewPCG(seed, uint64(trial)+1))
	return r.IntN(2) == 1, r.IntN(2) == 1
}
