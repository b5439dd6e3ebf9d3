package show

import (
	"math"
	"slices"
	"sort"
)

// Carried is what one instrument would carry of the whole book, each cue by itself: what time there is for changeovers does not count.
type Carried struct {
	Instrument int
	// Cues are those that it can play, the worst first.
	Cues []CueLoss
	// Loss is the sum, Worst the largest of it.
	Loss, Worst float64
	// Cannot are the cues that it cannot play, or that it is not there for.
	Cannot []int
	// Saved is how much less is lost with a rack of effects behind it; NaN where that is not known.
	Saved float64
}

// CueLoss is what is lost of a cue.
type CueLoss struct {
	Cue  int
	Loss float64
}

// Carry tells what each instrument would carry of the book, what carries it best first. racked gives what is lost of a cue on an instrument with a rack behind it, NaN where that is not known; nil for no rack.
func (m *Made) Carry(racked func(cue, on int) float64) []Carried {
	out := []Carried{}
	for k := range m.Instruments {
		c := Carried{Instrument: k, Saved: math.NaN()}
		saved, known := 0.0, racked != nil
		for i := range m.Cues {
			if m.Faults[i] != "" && m.Cues[i].Loss == nil {
				continue
			}
			loss := m.Cues[i].Loss[k]
			if math.IsNaN(loss) {
				c.Cannot = append(c.Cannot, i)
				continue
			}
			c.Cues = append(c.Cues, CueLoss{i, loss})
			c.Loss, c.Worst = c.Loss+loss, max(c.Worst, loss)
			if racked != nil {
				with := racked(i, k)
				known = known && !math.IsNaN(with)
				saved += max(0, loss-with) // it may be left out
			}
		}
		if known {
			c.Saved = saved
		}
		sort.SliceStable(c.Cues, func(a, b int) bool { return c.Cues[a].Loss > c.Cues[b].Loss })
		out = append(out, c)
	}
	sort.SliceStable(out, func(a, b int) bool {
		if len(out[a].Cannot) != len(out[b].Cannot) {
			return len(out[a].Cannot) < len(out[b].Cannot)
		}
		return out[a].Loss < out[b].Loss
	})
	return out
}

// Second is what one more instrument adds to one alone: as they can be played, changeovers and all.
type Second struct {
	First, Second int
	// Plays is how many cues more can be played, Spares how much less is lost of those that can be played either way.
	Plays  int
	Spares float64
}

// Adds tells for each instrument what each other one adds to it, the most first.
func (p *Problem) Adds(ones, twos []Hire) (out []Second) {
	alone := map[int]*Plan{}
	for i := range ones {
		alone[ones[i].Set[0]] = ones[i].Plan
	}
	for i := range twos {
		for side := range 2 {
			first, second := twos[i].Set[side], twos[i].Set[1-side]
			a, b := alone[first], twos[i].Plan
			if a == nil {
				continue
			}
			s := Second{First: first, Second: second, Plays: len(a.Dropped) - len(b.Dropped)}
			for c := range p.Cues {
				if a.On[c] >= 0 && b.On[c] >= 0 {
					s.Spares += p.Cues[c].Loss[a.On[c]] - p.Cues[c].Loss[b.On[c]]
				}
			}
			out = append(out, s)
		}
	}
	sort.SliceStable(out, func(a, b int) bool {
		x, y := out[a], out[b]
		if x.First != y.First {
			return x.First < y.First
		}
		if x.Plays != y.Plays {
			return x.Plays > y.Plays
		}
		return x.Spares > y.Spares
	})
	return out
}

// Price is what a set of instruments costs.
func (m *Made) Price(set []int) (sum float64) {
	for _, k := range set {
		sum += m.Hire[k].Price
	}
	return sum
}

// Worst gives the cue of which the most is lost in a plan; ok is false where none is played.
func (m *Made) Worst(x *Plan) (cue int, loss float64, ok bool) {
	loss = -1
	for i, k := range x.On {
		if k >= 0 && m.Cues[i].Loss[k] > loss {
			cue, loss = i, m.Cues[i].Loss[k]
		}
	}
	return cue, loss, loss >= 0
}

// Needed leaves out what a set has and a plan does not use.
func Needed(h Hire) (set []int) {
	for _, k := range h.Set {
		if slices.Contains(h.Plan.On, k) {
			set = append(set, k)
		}
	}
	return set
}
