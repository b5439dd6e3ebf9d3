package plan

import (
	"math"
	"slices"
	"sort"

	"glossator/core/meaning"
)

// ban forbids a module of the source to be played by a module of the target (-1: to be left out).
type ban struct {
	source string
	target int
}

// swapped is how many of the dearest parts next plans may differ in.
const swapped = 12

// Next is a plan that comes after the best: who plays what otherwise.
type Next struct {
	// Cost is what it costs in all.
	Cost float64
	// Best allocates the parts.
	Best Allocation
	// Bans are the pairs to forbid so that this is the best plan.
	Bans []Ban
}

// Next gives the best n plans after a plan: each differs from those before in who plays one of the dearest parts, and is the
// cheapest that does, with the rules of the plan.
func (p *Problem) Next(after *Plan, n int) []Next {
	known := newKnownFits()
	_, ranks := p.lean()
	found := []Allocation{after.Best}
	var out []Next
	for len(out) < n {
		// a plan that is none of those found differs from each of them in some part
		best, ok := Allocation{Cost: math.Inf(1)}, false
		var by []ban
		var try func(level int, bans []ban)
		try = func(level int, bans []ban) {
			if level < len(found) {
				for _, b := range p.pairsOf(after.Cast, found[level], known) {
					try(level+1, append(append([]ban(nil), bans...), b...))
				}
				return
			}
			if a, is := allocate(p.T, after.Cast, ranks, known, best.Cost, candidateNodes, bans); is {
				best, ok, by = a, true, bans
			}
		}
		try(0, bansOn(p.Bans, p.T))
		if !ok {
			break
		}
		found = append(found, best)
		out = append(out, Next{Cost: best.Cost + after.Penalty, Best: best, Bans: p.named(after.Cast, by)})
	}
	return out
}

// named gives forbidden pairs by their ids.
func (p *Problem) named(cast *meaning.Meaning, list []ban) []Ban {
	out := []Ban{}
	for _, b := range list {
		x := Ban{Part: b.source, Of: b.source}
		if m := cast.Module(b.source); m != nil {
			x.Of = m.Source()
		}
		if b.target >= 0 {
			x.By = p.T.Modules[b.target].ID
		}
		if !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	return out
}

// idles tells whether a module is an envelope or LFO nothing of which is made: who plays it is no matter.
func (a *Allocation) idles(cast *meaning.Meaning, m *meaning.Module) bool {
	if m.Kind != meaning.Env && m.Kind != meaning.LFO {
		return false
	}
	moves := false
	for i := range cast.Routes {
		if r := &cast.Routes[i]; r.Used() && (r.From == m.ID || r.Via == m.ID) {
			if moves = true; a.Route[i].Made() {
				return false
			}
		}
	}
	return moves
}

// pairsOf lists who plays the dearest parts in a plan. With an oscillator go those that would play the part as well: to exchange two names is no other plan.
func (p *Problem) pairsOf(cast *meaning.Meaning, a Allocation, known *knownFits) [][]ban {
	var mods []*meaning.Module
	for i := range cast.Modules {
		if m := &cast.Modules[i]; Counts(m) && !a.idles(cast, m) {
			mods = append(mods, m)
		}
	}
	sort.SliceStable(mods, func(x, y int) bool {
		a, b := p.T.Policy.LeaveOut(mods[x]), p.T.Policy.LeaveOut(mods[y])
		return a > b || a == b && mods[x].ID < mods[y].ID
	})
	var out [][]ban
	for _, m := range mods[:min(len(mods), swapped)] {
		k, ok := a.Module[m.ID]
		if !ok {
			out = append(out, []ban{{m.ID, -1}})
			continue
		}
		list := []ban{{m.ID, k}}
		fits := known.of(p.T.Policy, m)
		for _, j := range p.T.ofKind[m.Kind] {
			if m.Kind != meaning.Osc || j == k {
				continue
			}
			if x, y := p.T.fitOnce(fits, k, m), p.T.fitOnce(fits, j, m); x != nil && y != nil && math.Abs(x.cost-y.cost) < sameCost {
				list = append(list, ban{m.ID, j})
			}
		}
		out = append(out, list)
	}
	return out
}
