// Package show plans which hired instrument plays which cue of a show: so that each changeover fits its gap, and least is lost in sound. It is exact.
//
// Cues are in the order of their times. An instrument plays one cue at a time; between two cues on it lies the changeover, for which there is the time from the end of the one to the beginning of the other. Its neighbours: translate and heard tell what is lost, dialin how long a changeover takes.
package show

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"
)

// Cue is a sound that is played from one time to another, in seconds from the beginning of the evening.
type Cue struct {
	Name       string
	Start, End float64
	// Player plays it; two cues of one player at a time cannot be.
	Player string
	// Loss is what is lost of it on each instrument, in just-noticeable differences; NaN where the instrument cannot play it.
	Loss []float64
}

// Problem is a show.
type Problem struct {
	Cues        []Cue
	Instruments []string
	// Change is how long the changeover of an instrument from one cue to another takes, in seconds; from is -1 at the beginning of the evening, when there is time for all of it.
	Change func(instrument, from, to int) float64
	// Limit is how many states are looked at before it is given up; 0 for MostStates.
	Limit int
	// Stop is asked whether to give up; nil for never. Progress is told how many cues are through, and how many states there are.
	Stop     func() bool
	Progress func(cues, states int)
}

// MostStates is how many states are looked at before planning is given up.
const MostStates = 2_000_000

// Plan is which instrument plays which cue.
type Plan struct {
	// On is the instrument of each cue, -1 for one that is dropped.
	On []int
	// Loss is the sum over all cues that are played.
	Loss float64
	// Dropped are cues that cannot be played beside the others: as few as can be.
	Dropped []int
	// Conflict is a smallest set of cues that cannot all be played, where any is dropped; Least tells that none is smaller (else it cannot be made smaller by leaving one out, but another may be).
	Conflict []int
	Least    bool
	// States counts what was looked at.
	States int
}

var (
	// ErrStopped is returned where Stop has asked to give up.
	ErrStopped = errors.New("planning was stopped")
	// ErrTooMany is returned where a show has more ways than can be looked at.
	ErrTooMany = errors.New("the show has more ways to be played than can be looked at")
)

// Check names what of a show makes no sense, cue by cue: times that run backwards, a player in two places, losses that are missing. The others are planned without them.
func (p *Problem) Check() map[int]string {
	out := map[int]string{}
	for i, c := range p.Cues {
		switch {
		case math.IsNaN(c.Start) || math.IsNaN(c.End) || math.IsInf(c.Start, 0) || math.IsInf(c.End, 0) || c.Start < 0:
			out[i] = "it has no time"
		case c.End <= c.Start:
			out[i] = "it ends before it begins"
		case len(c.Loss) != len(p.Instruments):
			out[i] = "it is not known what each instrument loses of it"
		case !slices.ContainsFunc(c.Loss, func(x float64) bool { return !math.IsNaN(x) }):
			out[i] = "no instrument here can play it"
		}
		for k := range i {
			if d := p.Cues[k]; out[i] == "" && out[k] == "" && c.Player != "" && d.Player == c.Player && c.Start < d.End && d.Start < c.End {
				out[i] = fmt.Sprintf("%s plays %s at that time", c.Player, d.Name)
			}
		}
	}
	return out
}

// state is what is known after some cues: which cue was last on each instrument, as far as that still matters.
type state struct {
	last    []int // by instrument; -1 where any changeover fits
	dropped int
	loss    float64
	from    *state
	on      int
}

// less tells which of two states is better: the fewest dropped, then the least loss.
func (s *state) less(o *state) bool {
	if s.dropped != o.dropped {
		return s.dropped < o.dropped
	}
	return s.loss < o.loss
}

// Solve plans a show. Cues that Check names are left aside as if they were not there. Where not all others can be played, as few as can be are dropped, and a smallest set of cues that exclude each other is named.
func (p *Problem) Solve() (*Plan, error) {
	bad := p.Check()
	var cues []int
	for i := range p.Cues {
		if bad[i] == "" {
			cues = append(cues, i)
		}
	}
	sort.SliceStable(cues, func(a, b int) bool { return p.Cues[cues[a]].Start < p.Cues[cues[b]].Start })
	best, states, err := p.solve(cues, true)
	if err != nil {
		return nil, err
	}
	out := &Plan{On: slices.Repeat([]int{-1}, len(p.Cues)), Loss: best.loss, Dropped: []int{}, Conflict: []int{}, Least: true, States: states}
	for s, i := best, len(cues)-1; i >= 0; s, i = s.from, i-1 {
		if out.On[cues[i]] = s.on; s.on < 0 {
			out.Dropped = append(out.Dropped, cues[i])
		}
	}
	slices.Sort(out.Dropped)
	if len(out.Dropped) > 0 {
		out.Conflict, out.Least, err = p.conflict(cues, out.Dropped)
	}
	return out, err
}

// solve goes through the cues in time; of states after which the same can follow the best is kept. Without drop it gives nil where not all can be played.
func (p *Problem) solve(cues []int, drop bool) (*state, int, error) {
	matters := p.mattering(cues)
	n := len(p.Instruments)
	limit := p.Limit
	if limit == 0 {
		limit = MostStates
	}
	now := []*state{{last: slices.Repeat([]int{-1}, n), on: -1}}
	looked := 0
	for at, c := range cues {
		if p.Stop != nil && p.Stop() {
			return nil, looked, ErrStopped
		}
		next := map[string]*state{}
		keep := func(s *state) {
			for k, l := range s.last { // what any later cue has time for matters no more
				if l >= 0 && matters[k][l] <= at {
					s.last[k] = -1
				}
			}
			key := string(keyOf(s.last))
			if old := next[key]; old == nil || s.less(old) {
				next[key] = s
			}
		}
		for _, s := range now {
			for k := range n {
				if math.IsNaN(p.Cues[c].Loss[k]) || s.last[k] >= 0 && !p.fits(k, s.last[k], c) {
					continue
				}
				last := slices.Clone(s.last)
				last[k] = c
				keep(&state{last: last, dropped: s.dropped, loss: s.loss + p.Cues[c].Loss[k], from: s, on: k})
				looked++
			}
			if drop {
				keep(&state{last: slices.Clone(s.last), dropped: s.dropped + 1, loss: s.loss, from: s, on: -1})
				looked++
			}
		}
		if looked > limit {
			return nil, looked, ErrTooMany
		}
		if now = now[:0:0]; len(next) == 0 {
			return nil, looked, nil
		}
		for _, s := range next {
			now = append(now, s)
		}
		if p.Progress != nil && drop {
			p.Progress(at+1, looked)
		}
	}
	var best *state
	for _, s := range now {
		if best == nil || s.less(best) || !best.less(s) && slices.Compare(s.last, best.last) < 0 {
			best = s
		}
	}
	return best, looked, nil
}

func keyOf(last []int) []byte {
	out := make([]byte, 0, 2*len(last))
	for _, l := range last {
		out = append(out, byte(l+1), byte((l+1)>>8))
	}
	return out
}

// fits tells whether an instrument can be changed over from one cue to another in the time between.
func (p *Problem) fits(k, from, to int) bool {
	gap := p.Cues[to].Start - p.Cues[from].End
	return gap >= 0 && p.Change(k, from, to) <= gap
}

// mattering gives for each instrument and cue up to which place in the order its having been played there can be in the way.
func (p *Problem) mattering(cues []int) [][]int {
	out := make([][]int, len(p.Instruments))
	for k := range out {
		out[k] = make([]int, len(p.Cues))
		for i, from := range cues {
			last := i
			for j := i + 1; j < len(cues); j++ {
				if !math.IsNaN(p.Cues[cues[j]].Loss[k]) && !p.fits(k, from, cues[j]) {
					last = j
				}
			}
			out[k][from] = last
		}
	}
	return out
}

// exhaustive is up to how many cues a smallest set that excludes itself is searched among all sets.
const exhaustive = 4

// conflict finds a smallest set of cues that cannot all be played. What is dropped lies in it.
func (p *Problem) conflict(cues, dropped []int) (set []int, least bool, err error) {
	possible := func(set []int) (bool, error) {
		best, _, err := p.solve(set, false)
		return best != nil, err
	}
	// fewer than all up to the first that cannot be played: it is among them, and whatever excludes it
	upTo := len(cues)
	for n := 1; n <= len(cues); n++ {
		ok, err := possible(cues[:n])
		if err != nil {
			return nil, false, err
		}
		if !ok {
			upTo = n
			break
		}
	}
	for size := 1; size <= exhaustive; size++ {
		if ways(len(cues), size) > 200_000 {
			break
		}
		found, err := choose(len(cues), size, func(at []int) (bool, error) {
			set = set[:0]
			for _, i := range at {
				set = append(set, cues[i])
			}
			ok, err := possible(set)
			return !ok, err
		})
		if err != nil || found {
			return set, err == nil, err
		}
	}
	// one that cannot be made smaller by leaving any out
	set = slices.Clone(cues[:upTo])
	for i := 0; i < len(set); {
		less := slices.Delete(slices.Clone(set), i, i+1)
		ok, err := possible(less)
		if err != nil {
			return nil, false, err
		}
		if ok {
			i++
		} else {
			set = less
		}
	}
	return set, len(set) == exhaustive+1, nil
}

func ways(n, k int) float64 {
	out := 1.0
	for i := range k {
		out *= float64(n-i) / float64(i+1)
	}
	return out
}

// choose goes through all sets of k of n until one is found.
func choose(n, k int, try func(at []int) (bool, error)) (bool, error) {
	at := make([]int, k)
	var place func(i, from int) (bool, error)
	place = func(i, from int) (bool, error) {
		if i == k {
			return try(at)
		}
		for x := from; x < n; x++ {
			at[i] = x
			if found, err := place(i+1, x+1); err != nil || found {
				return found, err
			}
		}
		return false, nil
	}
	return place(0, 0)
}

// Hire is what some of the instruments carry of the whole show.
type Hire struct {
	// Set are the instruments, by their numbers.
	Set  []int
	Plan *Plan
}

// Hires plans the show with each set of so many of the instruments, the best first: the fewest dropped, then the least loss.
func (p *Problem) Hires(size int) ([]Hire, error) {
	var out []Hire
	_, err := choose(len(p.Instruments), size, func(at []int) (bool, error) {
		q := *p
		q.Progress = nil
		q.Cues = slices.Clone(p.Cues)
		for i := range q.Cues {
			loss := slices.Repeat([]float64{math.NaN()}, len(p.Instruments))
			for _, k := range at {
				if k < len(q.Cues[i].Loss) {
					loss[k] = q.Cues[i].Loss[k]
				}
			}
			q.Cues[i].Loss = loss
		}
		plan, err := q.Solve()
		if err != nil {
			return false, err
		}
		for i := range q.Cues { // what none of them can play is dropped, too
			if p.Check()[i] == "" && plan.On[i] < 0 && !slices.Contains(plan.Dropped, i) {
				plan.Dropped = append(plan.Dropped, i)
			}
		}
		slices.Sort(plan.Dropped)
		out = append(out, Hire{slices.Clone(at), plan})
		return false, nil
	})
	sort.SliceStable(out, func(a, b int) bool {
		x, y := out[a].Plan, out[b].Plan
		if len(x.Dropped) != len(y.Dropped) {
			return len(x.Dropped) < len(y.Dropped)
		}
		return x.Loss < y.Loss
	})
	return out, err
}

// Explain says in words why not all can be played.
func (p *Problem) Explain(x *Plan) string {
	if len(x.Dropped) == 0 {
		return ""
	}
	name := func(i int) string { return p.Cues[i].Name }
	var names, gone []string
	for _, i := range x.Conflict {
		names = append(names, name(i))
	}
	for _, i := range x.Dropped {
		gone = append(gone, name(i))
	}
	return fmt.Sprintf("%s cannot all be played: the time between them is too short for every instrument that can play them. Dropping %s lets the rest be played.", strings.Join(names, ", "), strings.Join(gone, ", "))
}
