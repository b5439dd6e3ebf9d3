package translate

import (
	"math"
	"slices"
	"sort"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
)

// NextPlan is a plan that comes after the best: who plays what otherwise.
type NextPlan struct {
	Cost  float64 `json:"cost"`
	Share float64 `json:"share"`
	// Differs lists the parts that are played otherwise than in the best plan.
	Differs []Swap `json:"differs"`
	// Bans are the pairs to forbid (Choices.Bans) so that this is the best plan.
	Bans []Ban `json:"bans"`
}

// Swap is a part that another plan gives to another module; empty is left out.
type Swap struct {
	Part string `json:"part"`
	Best string `json:"best"`
	Here string `json:"here"`
}

// ban forbids a module of the source to be played by a module of the target (-1: to be left out).
type ban struct {
	source string
	target int
}

// swapped is how many of the dearest parts next plans may differ in.
const swapped = 12

// NextPlans gives the second and the third best plan of a patch on a target: each differs from
// those before in who plays one of the dearest parts, and is the cheapest that does, with the
// rules of the best plan.
func NextPlans(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) ([]NextPlan, error) {
	j, s, err := work(src, p, dst, opt)
	if err != nil {
		return nil, err
	}
	known := newKnownFits()
	found := []allocation{j.plan}
	out := []NextPlan{}
	for len(found) < 3 {
		// a plan that is none of those found differs from each of them in some part
		best, ok := allocation{cost: math.Inf(1)}, false
		var by []ban
		var try func(level int, bans []ban)
		try = func(level int, bans []ban) {
			if level < len(found) {
				for _, b := range j.pairsOf(found[level]) {
					try(level+1, append(append([]ban(nil), bans...), b))
				}
				return
			}
			if a, is := allocateBanned(j.t, j.cast, known, best.cost, candidateNodes, bans); is {
				best, ok, by = a, true, bans
			}
		}
		try(0, j.bans)
		if !ok {
			break
		}
		found = append(found, best)
		n := NextPlan{Cost: round(best.cost+j.penalty, 3), Differs: []Swap{}, Bans: j.banned(by)}
		if s.Plan.Whole > 0 {
			n.Share = round(math.Max(0, 1-(best.cost+j.penalty)/s.Plan.Whole), 4)
		}
		for i := range j.cast.Modules {
			m := &j.cast.Modules[i]
			a, b := j.playerName(found[0], m.ID), j.playerName(best, m.ID)
			if a != b {
				n.Differs = append(n.Differs, Swap{m.Label, a, b})
			}
		}
		out = append(out, n)
	}
	return out, nil
}

// banned names forbidden pairs.
func (j *job) banned(list []ban) []Ban {
	out := []Ban{}
	for _, b := range list {
		x := Ban{Part: b.source, Of: b.source}
		if m := j.cast.Module(b.source); m != nil {
			x.Of = m.Source()
		}
		if b.target >= 0 {
			x.By = j.t.Modules[b.target].ID
		}
		if !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	return out
}

// pairsOf lists who plays the dearest parts in a plan.
func (j *job) pairsOf(a allocation) []ban {
	var mods []*meaning.Module
	for i := range j.cast.Modules {
		if m := &j.cast.Modules[i]; m.Used() && m.Kind != meaning.Atten {
			mods = append(mods, m)
		}
	}
	sort.SliceStable(mods, func(x, y int) bool {
		a, b := j.t.policy.leaveOut(mods[x]), j.t.policy.leaveOut(mods[y])
		return a > b || a == b && mods[x].ID < mods[y].ID
	})
	var out []ban
	for _, m := range mods[:min(len(mods), swapped)] {
		b := ban{m.ID, -1}
		if k, ok := a.module[m.ID]; ok {
			b.target = k
		}
		out = append(out, b)
	}
	return out
}

func (j *job) playerName(a allocation, id string) string {
	if k, ok := a.module[id]; ok {
		return j.t.Modules[k].Label
	}
	return ""
}
