package ear

import "fmt"

// Answer is one answer of a sitting: whether the other sound was found, and which part was named as what differs, if any.
type Answer struct {
	Right bool   `json:"right"`
	Named string `json:"named,omitempty"`
}

// Trial is what is asked next: which part differs and by how much; Second tells that the second of the two sounds is the other one.
type Trial struct {
	Number int
	Part   string
	Size   float64
	Second bool
	Up     bool
}

// Sitting is a run of trials over some parts, each with a staircase of its own, in turn. It is made of its answers alone: the same seed and answers give the same.
type Sitting struct {
	Seed    uint64
	Parts   []string
	Answers []Answer
	stairs  map[string]*Stair
	named   map[string][2]int
}

// Replay makes a sitting from its answers; most gives the largest difference that there is room for. The error says that there are more of them than it asks for.
func Replay(seed uint64, parts []string, most func(part string) float64, answers []Answer) (*Sitting, error) {
	if len(parts) == 0 {
		return nil, fmt.Errorf("expected at least one part that is to differ")
	}
	s := &Sitting{Seed: seed, Parts: parts, stairs: map[string]*Stair{}, named: map[string][2]int{}}
	for _, p := range parts {
		s.stairs[p] = NewStair(most(p))
	}
	for i, a := range answers {
		if !s.Answer(a) {
			return nil, fmt.Errorf("answer %d comes after the end", i+1)
		}
	}
	return s, nil
}

// Next gives what is asked next; ok is false where all staircases have ended.
func (s *Sitting) Next() (t Trial, ok bool) {
	n := len(s.Answers)
	for i := range s.Parts {
		p := s.Parts[(n+i)%len(s.Parts)]
		if x := s.stairs[p]; !x.Done() {
			second, up := Toss(s.Seed, n)
			return Trial{n, p, x.Size(), second, up}, true
		}
	}
	return t, false
}

// Answer takes the answer to what was asked; false where nothing was.
func (s *Sitting) Answer(a Answer) bool {
	t, ok := s.Next()
	if !ok {
		return false
	}
	s.stairs[t.Part].Answer(a.Right)
	if a.Named != "" {
		x := s.named[t.Part]
		if x[1]++; a.Named == t.Part {
			x[0]++
		}
		s.named[t.Part] = x
	}
	s.Answers = append(s.Answers, a)
	return true
}

// Stair gives the staircase of a part; nil for one that is not in the sitting.
func (s *Sitting) Stair(part string) *Stair { return s.stairs[part] }

// Named tells how often a part was named rightly as what differs, of how often one was named.
func (s *Sitting) Named(part string) (right, of int) { return s.named[part][0], s.named[part][1] }
