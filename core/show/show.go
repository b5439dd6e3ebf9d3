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
)

// Cue is a sound that is played from one time to another, in seconds from the beginning of the show.
type Cue struct {
	Name       string
	Start, End float64
	// Player plays it, and changes its instrument over before; two cues of one player at a time cannot be. Empty for whoever is free.
	Player string
	// Loss is what is lost of it on each instrument, in just-noticeable differences; NaN where the instrument cannot play it.
	Loss []float64
	// Why says why no instrument can play it, where that is known.
	Why string
	// Evening tells evenings apart: between two there is time for everything.
	Evening int
}

// Problem is a show.
type Problem struct {
	Cues        []Cue
	Instruments []string
	// Change is how long the changeover of an instrument from one cue to another takes, in seconds. Before the first cue on an instrument there is time for all of it.
	Change func(instrument, from, to int) float64
	// Hands tells whether that takes the hands of the one who plays the second cue; nil for never. Hands do one thing at a time, and none while they play; a changeover may be left and taken up again.
	Hands func(instrument, from, to int) bool
	// Limit is how many states are looked at before only the likeliest are gone on with; 0 for MostStates.
	Limit int
	// Stop is asked whether to give up; nil for never. Progress is told how many cues are through, how many states have been looked at, and up to how many may be.
	Stop     func() bool
	Progress func(cues, states, limit int)
	// rules are what has been found that cannot be together, whatever else is played.
	rules   *[]rule
	memo    []float64
	inexact *bool
}

// MostStates is how many states are looked at before only the likeliest, kept of them, are gone on with.
const (
	MostStates = 2_000_000
	kept       = 400
)

// Plan is which instrument plays which cue.
type Plan struct {
	// On is the instrument of each cue, -1 for one that is dropped.
	On []int
	// Loss is the sum over all cues that are played.
	Loss float64
	// Dropped are cues that cannot be played beside the others: as few as can be.
	Dropped []int
	// Conflicts are smallest sets of cues that cannot all be played, one for each evening on which any is dropped.
	Conflicts []Conflict
	// States counts what was looked at; Exact tells that no way is better. A show of more ways than MostStates is planned by the likeliest of them.
	States int
	Exact  bool
}

// Conflict is a smallest set of cues that cannot all be played; Least tells that none is smaller (else it cannot be made smaller by leaving one out, but another may be).
type Conflict struct {
	Cues  []int
	Least bool
}

var (
	// ErrStopped is returned where Stop has asked to give up.
	ErrStopped = errors.New("planning was stopped")
	// ErrTooMany is returned where hands exclude more than can be noted.
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
			if out[i] = c.Why; c.Why == "" {
				out[i] = "no instrument here can play it"
			}
		}
		for k := range i {
			if d := p.Cues[k]; out[i] == "" && out[k] == "" && c.Player != "" && d.Player == c.Player && d.Evening == c.Evening && c.Start < d.End && d.Start < c.End {
				out[i] = fmt.Sprintf("%s plays %s at that time", c.Player, d.Name)
			}
		}
	}
	return out
}

// state is what is known after some cues: which cue was last on each instrument, as far as that still matters, and what of each rule has come about.
type state struct {
	last    []int // by instrument; -1 where any changeover fits
	rules   []int // by rule, how much of it
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
	var cues []int
	bad := p.Check()
	for i := range p.Cues {
		if bad[i] == "" {
			cues = append(cues, i)
		}
	}
	if p.rules == nil {
		p.rules = &[]rule{}
		defer func() { p.rules = nil }()
	}
	p.inexact = new(bool)
	p.remember()
	out := &Plan{On: slices.Repeat([]int{-1}, len(p.Cues)), Dropped: []int{}, Conflicts: []Conflict{}}
	evenings := p.evenings(cues)
	for n, cues := range evenings {
		q := *p
		if p.Progress != nil {
			q.Progress = func(done, states, limit int) {
				for _, e := range evenings[:n] {
					done += len(e)
				}
				p.Progress(done, out.States+states, limit)
			}
		}
		on, best, states, err := q.best(cues, true)
		out.States += states
		if err != nil {
			return nil, err
		}
		out.Loss += best.loss
		var dropped []int
		for _, i := range cues {
			if out.On[i] = on[i]; on[i] < 0 {
				dropped = append(dropped, i)
			}
		}
		if len(dropped) == 0 {
			continue
		}
		set, least, err := q.conflict(cues)
		if err != nil {
			return nil, err
		}
		out.Conflicts = append(out.Conflicts, Conflict{set, least})
		out.Dropped = append(out.Dropped, dropped...)
	}
	slices.Sort(out.Dropped)
	out.Exact = !*p.inexact
	return out, nil
}

// evenings parts cues by evening, each in the order of their times.
func (p *Problem) evenings(cues []int) (out [][]int) {
	cues = slices.Clone(cues)
	p.order(cues)
	for i, c := range cues {
		if i == 0 || p.Cues[c].Evening != p.Cues[cues[i-1]].Evening {
			out = append(out, nil)
		}
		out[len(out)-1] = append(out[len(out)-1], c)
	}
	return out
}

func (p *Problem) order(cues []int) {
	sort.SliceStable(cues, func(a, b int) bool {
		x, y := &p.Cues[cues[a]], &p.Cues[cues[b]]
		return x.Evening < y.Evening || x.Evening == y.Evening && x.Start < y.Start
	})
}

// best plans cues, which are in their order, and looks whether the hands suffice; where they do not, what cannot be together is noted as a rule, and it is planned again.
// So the first plan that hands can do is the best of all that they can: rules exclude none of those. Without drop best is nil where not all can be played.
func (p *Problem) best(cues []int, drop bool) (on []int, best *state, states int, err error) {
	for {
		best, n, err := p.solve(cues, drop)
		states += n
		if err != nil || best == nil {
			return nil, nil, states, err
		}
		on := slices.Repeat([]int{-1}, len(p.Cues))
		for s, i := best, len(cues)-1; i >= 0; s, i = s.from, i-1 {
			on[cues[i]] = s.on
		}
		more := p.beyondHands(cues, on)
		if len(more) == 0 {
			return on, best, states, nil
		}
		if *p.rules = append(*p.rules, more...); len(*p.rules) > mostRules {
			return nil, nil, states, ErrTooMany
		}
	}
}

func (p *Problem) limit() int {
	if p.Limit == 0 {
		return MostStates
	}
	return p.Limit
}

// cost is what a plan is judged by: the fewest dropped, then the least loss.
type cost struct {
	dropped int
	loss    float64
}

// under tells whether a cost is less than another, by more than rounding.
func (c cost) under(o cost) bool {
	return c.dropped < o.dropped || c.dropped == o.dropped && c.loss < o.loss-1e-9
}

func (c cost) plus(o cost) cost { return cost{c.dropped + o.dropped, c.loss + o.loss} }

// solve plans cues, which are in their order. It plans the last one alone, then the last two, and so on (Russian doll search; Verfaillie, Lemaitre and Schiex 1996, from memory): what the rest of a show costs at
// least is known then from where nothing is in its way, and whatever cannot get under what has been found already is not gone on with. Without drop it gives nil where not all can be played.
func (p *Problem) solve(cues []int, drop bool) (*state, int, error) {
	rules := p.rulesOf(cues)
	matters := p.mattering(cues, rules)
	rest := make([]cost, len(cues)+1)
	var found []int // the instruments of the cues from i on
	looked := 0
	for i := len(cues) - 1; i >= 0; i-- {
		if p.Stop != nil && p.Stop() {
			return nil, looked, ErrStopped
		}
		// with what has been found for the rest
		best, on := cost{math.MaxInt, 0}, []int(nil)
		try := func(k int, c cost) {
			with := append([]int{k}, found...)
			if c = c.plus(rest[i+1]); c.under(best) && p.allowed(cues[i:], with, rules) {
				best, on = c, with
			}
		}
		least := math.Inf(1)
		for k, loss := range p.Cues[cues[i]].Loss {
			if !math.IsNaN(loss) {
				least = min(least, loss)
				try(k, cost{0, loss})
			}
		}
		if drop {
			try(-1, cost{1, 0})
		}
		if on == nil || best.dropped != rest[i+1].dropped || best.loss > rest[i+1].loss+least+1e-9 { // it may be better
			s, n, err := p.search(cues, i, drop, rules, matters, rest, best, limitOf(p.limit(), looked))
			looked += n
			if err != nil {
				return nil, looked, err
			}
			if s != nil {
				best, on = cost{s.dropped, s.loss}, s.instruments(len(cues)-i)
			}
		}
		if on == nil {
			return nil, looked, nil
		}
		rest[i], found = best, on
		if p.Progress != nil && drop {
			p.Progress(len(cues)-i, looked, p.limit())
		}
	}
	var out *state
	for i := range cues {
		out = &state{on: found[i], from: out}
	}
	if out == nil {
		out = &state{on: -1}
	}
	out.dropped, out.loss = rest[0].dropped, rest[0].loss
	return out, looked, nil
}

func limitOf(limit, looked int) int { return max(1, limit-looked) }

// instruments gives what a state has put its last n cues on.
func (s *state) instruments(n int) []int {
	out := make([]int, n)
	for i := n - 1; i >= 0; i, s = i-1, s.from {
		out[i] = s.on
	}
	return out
}

// allowed tells whether cues can be played as they are put on instruments, and no rule comes about; the first is new, the rest is known to be.
func (p *Problem) allowed(cues, on []int, rules []ruleOf) bool {
	if k := on[0]; k >= 0 {
		for j := 1; j < len(on); j++ {
			if on[j] == k {
				if !p.fits(k, cues[0], cues[j]) {
					return false
				}
				break
			}
		}
	}
	if len(rules) == 0 {
		return true
	}
	last := slices.Repeat([]int{-1}, len(p.Instruments))
	came := make([]int, len(rules))
	for i, k := range on {
		if k < 0 {
			continue
		}
		for r := range rules {
			came[r] += rules[r].comes(cues[i], k, last[k])
		}
		last[k] = cues[i]
	}
	for r := range rules {
		if came[r] == len(rules[r].parts) {
			return false
		}
	}
	return true
}

// search goes through the cues from one on in time; of states after which the same can follow the best is kept, and none that cannot get under what is known. It gives nil where none does.
func (p *Problem) search(cues []int, first int, drop bool, rules []ruleOf, matters [][]int, rest []cost, known cost, limit int) (*state, int, error) {
	n := len(p.Instruments)
	now := []*state{{last: slices.Repeat([]int{-1}, n), rules: make([]int, len(rules)), on: -1}}
	looked := 0
	for at := first; at < len(cues); at++ {
		c := cues[at]
		if p.Stop != nil && p.Stop() {
			return nil, looked, ErrStopped
		}
		next := map[string]int{}
		var states []*state
		keep := func(s *state, k, from int) {
			looked++
			if !(cost{s.dropped, s.loss}).plus(rest[at+1]).under(known) {
				return
			}
			s.rules = slices.Clone(s.rules)
			for i := range rules {
				r := &rules[i]
				if s.rules[i] = r.after(s.rules[i], at, c, k, from); s.rules[i] == len(r.parts) {
					return // that cannot be together
				}
			}
			for k, l := range s.last { // what any later cue has time for matters no more
				if l >= 0 && matters[k][l] <= at {
					s.last[k] = -1
				}
			}
			key := string(keyOf(s.last)) + string(keyOf(s.rules))
			if i, ok := next[key]; !ok {
				next[key] = len(states)
				states = append(states, s)
			} else if s.less(states[i]) {
				states[i] = s
			}
		}
		for _, s := range now {
			if looked > 2*limit {
				break
			}
			for k := range n {
				if math.IsNaN(p.Cues[c].Loss[k]) || s.last[k] >= 0 && !p.fits(k, s.last[k], c) {
					continue
				}
				last := slices.Clone(s.last)
				last[k] = c
				keep(&state{last: last, rules: s.rules, dropped: s.dropped, loss: s.loss + p.Cues[c].Loss[k], from: s, on: k}, k, s.last[k])
			}
			if drop {
				keep(&state{last: slices.Clone(s.last), rules: s.rules, dropped: s.dropped + 1, loss: s.loss, from: s, on: -1}, -1, -1)
			}
		}
		if looked > limit { // then the likeliest are gone on with alone
			*p.inexact = true
			sort.SliceStable(states, func(a, b int) bool { return states[a].less(states[b]) })
			states = states[:min(len(states), kept)]
		}
		if now = states; len(now) == 0 {
			return nil, looked, nil
		}
	}
	var best *state
	for _, s := range now {
		if best == nil || s.less(best) {
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
	return gap >= 0 && p.change(k, from, to) <= gap
}

// change is Change, asked once.
func (p *Problem) change(k, from, to int) float64 {
	if p.memo == nil {
		return p.Change(k, from, to)
	}
	x := &p.memo[(k*len(p.Cues)+from)*len(p.Cues)+to]
	if math.IsNaN(*x) {
		*x = p.Change(k, from, to)
	}
	return *x
}

// remember has changeovers asked for once.
func (p *Problem) remember() {
	if p.memo == nil {
		p.memo = slices.Repeat([]float64{math.NaN()}, len(p.Instruments)*len(p.Cues)*len(p.Cues))
	}
}

// mattering gives for each instrument and cue up to which place in the order its having been played there can be in the way.
func (p *Problem) mattering(cues []int, rules []ruleOf) [][]int {
	out := make([][]int, len(p.Instruments))
	place := map[int]int{}
	for i, c := range cues {
		place[c] = i
	}
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
	for _, r := range rules { // which changeover it was is told by the cue before it
		for _, x := range r.parts {
			if x.on >= 0 {
				out[x.on][x.from] = max(out[x.on][x.from], place[x.cue])
			}
		}
	}
	return out
}

// exhaustive is up to how many cues a smallest set that excludes itself is searched among all sets.
const exhaustive = 4

// conflict finds a smallest set of cues of one evening that cannot all be played.
func (p *Problem) conflict(cues []int) (set []int, least bool, err error) {
	possible := func(set []int) (bool, error) {
		_, best, _, err := p.best(set, false)
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

// With gives the show with some of its instruments alone.
func (p *Problem) With(set []int) *Problem {
	q := *p
	q.Progress, q.rules = nil, nil
	q.Cues = slices.Clone(p.Cues)
	for i := range q.Cues {
		loss := slices.Repeat([]float64{math.NaN()}, len(p.Instruments))
		for _, k := range set {
			if k < len(q.Cues[i].Loss) {
				loss[k] = q.Cues[i].Loss[k]
			}
		}
		q.Cues[i].Loss = loss
	}
	return &q
}

// Hires plans the show with each set of so many of the instruments, the best first: the fewest dropped, then the least loss.
func (p *Problem) Hires(size int) ([]Hire, error) {
	var out []Hire
	p.remember()
	bad := p.Check()
	_, err := choose(len(p.Instruments), size, func(at []int) (bool, error) {
		q := p.With(at)
		plan, err := q.Solve()
		if err != nil {
			return false, err
		}
		for i := range q.Cues { // what none of them can play is dropped, too
			if bad[i] == "" && plan.On[i] < 0 && !slices.Contains(plan.Dropped, i) {
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
