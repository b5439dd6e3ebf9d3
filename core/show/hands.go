package show

import (
	"slices"
	"sort"
)

// Hands: a changeover by hand takes the hands of the one who plays what comes after it, at a time when they do not play. They can leave one changeover for another and take
// it up again, so that changeovers can all be made where for every stretch of time those that lie wholly in it take no longer than the hands are free in it (the condition
// for one machine that may be interrupted; Horn 1974 by way of earliest deadline first, from memory).

// job is a changeover by hand: from when it can be begun, by when it must be done, how long it takes.
type job struct {
	on, from, to   int
	release, until float64
	takes          float64
}

// part is something of a plan: that a cue is played (on is -1), or that it is played on an instrument right after another.
type part struct{ cue, on, from int }

// rule is a set of parts that cannot be together.
type rule struct{ parts []part }

// ruleOf is a rule as it counts for some cues: has tells which of them it speaks of, over after which of them it can come about no more.
type ruleOf struct {
	rule
	has  map[int]bool
	over int
}

// after gives how much of a rule has come about after one more cue, n before; -1 where it cannot any more.
func (r *ruleOf) after(n, at, cue, on, from int) int {
	if n < 0 || r.has[cue] && r.comes(cue, on, from) == 0 {
		return -1
	}
	if n += r.comes(cue, on, from); at == r.over && n < len(r.parts) {
		return -1
	}
	return n
}

// mostRules is how many are noted before planning is given up.
const mostRules = 2000

// rulesOf gives the rules that can come about among some cues.
func (p *Problem) rulesOf(cues []int) []ruleOf {
	var out []ruleOf
	if p.rules == nil {
		return nil
	}
	place := map[int]int{}
	for i, c := range cues {
		place[c] = i
	}
	for _, r := range *p.rules {
		last, all, has := 0, true, map[int]bool{}
		for _, x := range r.parts {
			i, ok := place[x.cue]
			if x.on >= 0 {
				_, from := place[x.from]
				ok = ok && from
			}
			last, all, has[x.cue] = max(last, i), all && ok, true
		}
		if all {
			out = append(out, ruleOf{r, has, last})
		}
	}
	return out
}

// comes counts what of a rule comes about with a cue on an instrument after another; on is -1 where it is dropped.
func (r *rule) comes(cue, on, from int) (n int) {
	if on < 0 {
		return 0
	}
	for _, x := range r.parts {
		if x.cue == cue && (x.on < 0 || x.on == on && x.from == from) {
			n++
		}
	}
	return n
}

// jobs gives the changeovers by hand of a plan, by player.
func (p *Problem) jobs(cues, on []int) map[string][]job {
	out := map[string][]job{}
	if p.Hands == nil {
		return out
	}
	last := slices.Repeat([]int{-1}, len(p.Instruments))
	for _, c := range cues {
		k := on[c]
		if k < 0 {
			continue
		}
		from := last[k]
		last[k] = c
		if who := p.Cues[c].Player; from >= 0 && who != "" && p.Hands(k, from, c) {
			if takes := p.change(k, from, c); takes > 0 {
				out[who] = append(out[who], job{k, from, c, p.Cues[from].End, p.Cues[c].Start, takes})
			}
		}
	}
	return out
}

// beyondHands gives for each player whose hands do not suffice a smallest set of what cannot be together, as a rule.
func (p *Problem) beyondHands(cues, on []int) (out []rule) {
	byPlayer := p.jobs(cues, on)
	var players []string
	for who := range byPlayer {
		players = append(players, who)
	}
	sort.Strings(players)
	for _, who := range players {
		var busy []int
		for _, c := range cues {
			if on[c] >= 0 && p.Cues[c].Player == who {
				busy = append(busy, c)
			}
		}
		if r := p.tooMuch(byPlayer[who], busy); r != nil {
			out = append(out, *r)
		}
	}
	return out
}

// tooMuch finds a stretch of time in which one player has more to do than there is time, and of what is in it what cannot be left out; nil where there is none.
func (p *Problem) tooMuch(jobs []job, busy []int) *rule {
	var worst *rule
	for _, a := range jobs {
		for _, b := range jobs {
			from, to := a.release, b.until
			var in []job
			var playing []int
			for _, j := range jobs {
				if j.release >= from && j.until <= to {
					in = append(in, j)
				}
			}
			for _, c := range busy {
				if p.Cues[c].Start < to && p.Cues[c].End > from {
					playing = append(playing, c)
				}
			}
			if p.enough(in, playing, from, to) {
				continue
			}
			for i := 0; i < len(in); { // what can be left out
				if less := slices.Delete(slices.Clone(in), i, i+1); !p.enough(less, playing, from, to) {
					in = less
				} else {
					i++
				}
			}
			for i := 0; i < len(playing); {
				if less := slices.Delete(slices.Clone(playing), i, i+1); !p.enough(in, less, from, to) {
					playing = less
				} else {
					i++
				}
			}
			r := &rule{}
			done := map[int]bool{}
			for _, j := range in {
				r.parts = append(r.parts, part{j.to, j.on, j.from})
				done[j.to], done[j.from] = true, true
			}
			for _, c := range playing {
				if !done[c] { // what a changeover is to or from is played anyway
					r.parts = append(r.parts, part{c, -1, -1})
				}
			}
			if worst == nil || len(r.parts) < len(worst.parts) {
				worst = r
			}
		}
	}
	return worst
}

// enough tells whether changeovers take no longer than one player is free from one time to another, who plays some cues.
func (p *Problem) enough(jobs []job, playing []int, from, to float64) bool {
	need := 0.0
	for _, j := range jobs {
		need += j.takes
	}
	return need <= p.free(playing, from, to)+1e-9
}

// free is how long nobody of some cues, which do not overlap, is played between two times.
func (p *Problem) free(playing []int, from, to float64) float64 {
	out := to - from
	for _, c := range playing {
		out -= max(0, min(to, p.Cues[c].End)-max(from, p.Cues[c].Start))
	}
	return max(0, out)
}

// Span is a stretch of time.
type Span struct{ From, To float64 }

// work says when a player works at each changeover of a plan, by the cue that it is for: what must be done first is done first.
func (p *Problem) work(cues, on []int) map[int][]Span {
	out := map[int][]Span{}
	for who, jobs := range p.jobs(cues, on) {
		sort.SliceStable(jobs, func(a, b int) bool { return jobs[a].until < jobs[b].until })
		var taken []Span
		for _, c := range cues {
			if on[c] >= 0 && p.Cues[c].Player == who {
				taken = append(taken, Span{p.Cues[c].Start, p.Cues[c].End})
			}
		}
		for _, j := range jobs { // each into what those before it have left
			sort.Slice(taken, func(a, b int) bool { return taken[a].From < taken[b].From })
			at, left := j.release, j.takes
			var mine []Span
			for _, t := range append(slices.Clone(taken), Span{j.until, j.until}) {
				if t.From > at && left > 0 {
					x := Span{at, min(at+left, t.From)}
					left -= x.To - x.From
					mine = append(mine, x)
				}
				at = max(at, t.To)
			}
			out[j.to], taken = mine, append(taken, mine...)
		}
	}
	return out
}
