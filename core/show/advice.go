package show

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"
)

// Way is one way to let a show be played whole: without a cue, or with one that waits.
type Way struct {
	// Cue is left out where Wait is 0; else it begins so many seconds later, and all after it on that evening.
	Cue  int
	Wait float64
	// Loss is the sum of what is lost then.
	Loss float64
}

// Ways finds what lets all of an evening be played that is not left aside, where a plan drops cues: each cue of its conflict left out, or waiting as short as does; those that
// work, the shortest wait first, then what loses the least. Where more than one cue of an evening is dropped none may.
func (p *Problem) Ways(x Conflict) (out []Way, err error) {
	p.remember()
	bad := p.Check()
	var cues []int
	for i := range p.Cues {
		if bad[i] == "" && p.Cues[i].Evening == p.Cues[x.Cues[0]].Evening {
			cues = append(cues, i)
		}
	}
	try := func(q *Problem, cues []int) (float64, bool, error) {
		q.rules, q.Progress, q.inexact = &[]rule{}, nil, new(bool)
		q.order(cues)
		_, best, _, err := q.best(cues, false)
		if err != nil || best == nil {
			return 0, false, err
		}
		return best.loss, true, nil
	}
	for _, c := range x.Cues {
		q := *p
		loss, ok, err := try(&q, slices.DeleteFunc(slices.Clone(cues), func(i int) bool { return i == c }))
		if err != nil {
			return nil, err
		}
		if ok {
			out = append(out, Way{Cue: c, Loss: loss})
		}
		// waiting longer never makes less possible: what lies between what waits and what does not only grows
		later := func(wait int) (loss float64, ok bool, err error) {
			q := *p
			q.Cues = slices.Clone(p.Cues)
			for _, i := range cues {
				if q.Cues[i].Start >= p.Cues[c].Start {
					q.Cues[i].Start, q.Cues[i].End = q.Cues[i].Start+float64(wait), q.Cues[i].End+float64(wait)
				}
			}
			return try(&q, slices.Clone(cues))
		}
		wait := 1 + sort.Search(longestWait, func(i int) bool {
			if err != nil {
				return true
			}
			var ok bool
			_, ok, err = later(i + 1)
			return ok
		})
		if err != nil {
			return nil, err
		}
		if wait <= longestWait {
			if loss, _, err = later(wait); err != nil {
				return nil, err
			}
			out = append(out, Way{c, float64(wait), loss})
		}
	}
	slices.SortStableFunc(out, func(a, b Way) int {
		if (a.Wait == 0) != (b.Wait == 0) { // waiting plays all
			return map[bool]int{true: 1, false: -1}[a.Wait == 0]
		}
		if a.Wait != b.Wait {
			return cmp.Compare(a.Wait, b.Wait)
		}
		return cmp.Compare(a.Loss, b.Loss)
	})
	return out, nil
}

// longestWait is how long a cue is let wait at most, in seconds.
const longestWait = 600

// Short is the shortest that a gap falls short of the quickest changeover in it, between two cues of a conflict; found is false where no gap alone is too short.
type Short struct {
	From, To   int
	Gap, Takes float64
	On         int
}

// Shorts names the gaps between cues of a conflict that are too short for the quickest changeover on every instrument that can play both; 0 long where they overlap.
func (p *Problem) Shorts(x Conflict) (out []Short) {
	for a, i := range x.Cues {
		for _, j := range x.Cues[a+1:] {
			from, to := i, j
			if p.Cues[to].Start < p.Cues[from].Start {
				from, to = to, from
			}
			s := Short{From: from, To: to, Gap: p.Cues[to].Start - p.Cues[from].End, Takes: math.Inf(1), On: -1}
			for k := range p.Instruments {
				if math.IsNaN(p.Cues[from].Loss[k]) || math.IsNaN(p.Cues[to].Loss[k]) {
					continue
				}
				if takes := p.change(k, from, to); takes < s.Takes {
					s.Takes, s.On = takes, k
				}
			}
			if s.On >= 0 && s.Takes > s.Gap {
				out = append(out, s)
			}
		}
	}
	return out
}

// Explain says in words why the cues of a conflict cannot all be played, and which gaps are too short.
func (p *Problem) Explain(x Conflict) string {
	var names []string
	for _, i := range x.Cues {
		names = append(names, p.Cues[i].Name)
	}
	all := strings.Join(names, ", ")
	var b strings.Builder
	if len(names) == 1 {
		fmt.Fprintf(&b, "%s cannot be played.", all)
	} else {
		fmt.Fprintf(&b, "%s cannot all be played: on the instruments here, and with the hands that are free, there is no time for the changeovers between them.", all)
	}
	for _, s := range p.Shorts(x) {
		if s.Gap < 0 {
			fmt.Fprintf(&b, " %s and %s overlap: one instrument cannot play both.", p.Cues[s.From].Name, p.Cues[s.To].Name)
		} else {
			fmt.Fprintf(&b, " From %s to %s there are %.0f s; the quickest changeover, on %s, takes %.0f s.", p.Cues[s.From].Name, p.Cues[s.To].Name, s.Gap, p.Instruments[s.On], math.Ceil(s.Takes))
		}
	}
	return b.String()
}
