package translate

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// SameCost is sameCost, for the tests outside of the package.
const SameCost = sameCost

// Costs gives the cost that the search finds for a patch on a panel, whether it says that it is
// exact, and the least cost of a walk through every assignment (NaN where there are too many).
func Costs(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) (search float64, exact bool, walk float64, err error) {
	from, err := src.Read(&p.Layers[0], "")
	if err != nil {
		return 0, false, 0, err
	}
	tempo := q.Tempo(p.Tempo)
	wanted := src.Mean(from, tempo)
	a, _ := allocateBanned(newTarget(dst, tempo, src, from, policyOf(SpecOfSchool(Numbers), p.Kind, Choices{}, nil)), wanted, newKnownFits(), math.Inf(1), NodeLimit, nil)
	return a.cost, a.exact, exhaustive(newTarget(dst, tempo, src, from, policyOf(SpecOfSchool(Numbers), p.Kind, Choices{}, nil)), wanted), nil
}

// AuditAfter gives the audit of a sheet that was changed after it was made.
func AuditAfter(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, change func(*Sheet)) ([]Check, error) {
	j, s, err := work(src, p, dst, Options{})
	if err != nil {
		return nil, err
	}
	change(s)
	return j.audit(s), nil
}

// Lock adds conditions one after the other and tells which were accepted, and where a control
// that stood at its first position is moved to.
func Lock(c *panel.Compiled, conditions ...[]panel.When) (accepted []bool, state *panel.State) {
	l := locks{}
	for _, w := range conditions {
		accepted = append(accepted, l.add(c, w))
	}
	state = c.InitState()
	for k := range l {
		state.At[k] = c.Places(k)[0]
	}
	l.apply(c, state)
	return accepted, state
}

// exhaustive walks every assignment of modules and, for each, every sharing of the means of routes, and gives the
// least cost; NaN where there are too many.
func exhaustive(t *target, src *meaning.Meaning) float64 {
	s := newSearch(t, src, newKnownFits(), NodeLimit, nil)
	size := 1
	for i := range s.domain {
		if size *= len(s.domain[i]) + 1; size > 20000 {
			return math.NaN()
		}
	}
	best := math.Inf(1)
	looked := 0
	var routes func(n int, cost float64, u *routesUse, l locks)
	routes = func(n int, cost float64, u *routesUse, l locks) {
		if looked++; looked > 400000 {
			return
		}
		if n == len(s.routes) {
			best = math.Min(best, cost)
			return
		}
		r := &s.src.Routes[s.routes[n]]
		options, _ := s.options(r, false)
		for _, o := range options {
			share := o.cost
			if next, ok := s.take(&o, r, u, l); ok {
				routes(n+1, cost+share*s.rweight[n], u, next)
				u.set(&o, false)
			}
		}
		routes(n+1, cost+s.rweight[n], u, l)
	}
	var walk func(i int, cost float64, l locks)
	walk = func(i int, cost float64, l locks) {
		if i == len(s.mods) {
			routes(0, cost, &routesUse{route: map[int]bool{}, slot: map[int]bool{}, point: map[int]bool{}, atten: map[int]bool{}}, l)
			return
		}
		for _, j := range s.domain[i] {
			if s.busy[j] {
				continue
			}
			next := l.copy()
			if !next.add(s.t.Compiled, s.t.Modules[j].When) {
				continue
			}
			s.now[i], s.busy[j] = j, true
			walk(i+1, cost+s.cost[i][j], next)
			s.now[i], s.busy[j] = -1, false
		}
		walk(i+1, cost+s.lost[i], l)
	}
	walk(0, 0, locks{})
	if looked > 400000 {
		return math.NaN()
	}
	return best
}

// CastCosts gives the total that the search over sets of uses of rules finds for a patch on a panel, how many uses it
// takes, whether it says that it met no limit, and the least total of a walk through every set without bounds (NaN where there are too many).
func CastCosts(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) (search float64, uses int, exact bool, walk float64, err error) {
	from, err := src.Read(&p.Layers[0], "")
	if err != nil {
		return 0, 0, false, 0, err
	}
	tempo := q.Tempo(p.Tempo)
	fresh := func() *job {
		return &job{src: src, patch: p, from: from, wanted: src.Mean(from, tempo),
			t: newTarget(dst, tempo, src, from, policyOf(SpecOfSchool(Numbers), p.Kind, Choices{}, nil)), over: map[int]bool{}}
	}
	j := fresh()
	j.recast(p.Wheel)
	found, cut := &cast{plan: j.plan, uses: j.recasts, penalty: j.penalty}, j.cut

	j = fresh()
	known, seen, best := newKnownFits(), map[string]bool{}, math.Inf(1)
	var visit func(c *cast)
	visit = func(c *cast) {
		if !c.idle() {
			best = math.Min(best, c.total())
		}
		k := j.caseOf(c, p.Wheel)
		for _, rule := range rules.Table {
			for _, r := range rule.Try(k) {
				keys := append(slices.Clone(c.keys), useKey(&r)+r.Text)
				set := strings.Join(slices.Sorted(slices.Values(keys)), ";")
				if seen[set] || len(seen) > 300 {
					continue
				}
				seen[set] = true
				x := &cast{meaning: r.Meaning, uses: append(slices.Clone(c.uses), &r), keys: keys, penalty: c.penalty + r.Penalty}
				x.plan, _ = allocateBanned(j.t, x.meaning, known, math.Inf(1), NodeLimit, nil)
				if !j.outOfTune(&r, x.plan) {
					visit(x)
				}
			}
		}
	}
	start := &cast{meaning: j.wanted}
	start.plan, _ = allocateBanned(j.t, j.wanted, known, math.Inf(1), NodeLimit, nil)
	visit(start)
	if len(seen) > 300 {
		best = math.NaN()
	}
	return found.total(), len(found.uses), !cut, best, nil
}

// Costs: nothing lost costs nothing, more costs more, and never more than the whole.
func TestLoss(t *testing.T) {
	if loss(0) != 0 {
		t.Error("no difference costs something")
	}
	last := 0.0
	for _, j := range []float64{0.1, 0.5, 1, 2, 5, 20, 1e6} {
		if c := loss(j); c <= last || c >= 1 {
			t.Errorf("%v differences cost %v, after %v", j, c, last)
		} else {
			last = c
		}
	}
	want, near, far := q.Quantity{Dim: q.DimOctaves, Value: 1}, q.Quantity{Dim: q.DimOctaves, Value: 1.1}, q.Quantity{Dim: q.DimOctaves, Value: 3}
	if depthLoss(want, near, 0.12) >= 1 || depthLoss(want, far, 0.12) <= 1 {
		t.Error("a depth three times too large must be worse than none, one a tenth too large better")
	}
}
