package plan

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

// Worthwhile and Fresh are worthwhile and problem, for them.
const Worthwhile = worthwhile

var Fresh = problem

// Costs gives the cost that the search finds for a patch on a panel, whether it says that it is
// exact, and the least cost of a walk through every assignment (NaN where there are too many).
func Costs(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) (search float64, exact bool, walk float64, err error) {
	fresh, err := problem(src, p, dst)
	if err != nil {
		return 0, false, 0, err
	}
	pr := fresh()
	a, _ := allocate(pr.T, pr.Wanted, nil, newKnownFits(), math.Inf(1), NodeLimit, nil)
	pr = fresh()
	return a.Cost, a.Exact, exhaustive(pr.T, pr.Wanted), nil
}

// problem gives the problem of a patch on a panel by numbers, each time afresh.
func problem(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) (func() *Problem, error) {
	from, err := src.Read(&p.Layers[0], "")
	if err != nil {
		return nil, err
	}
	tempo := q.Tempo(p.Tempo)
	return func() *Problem {
		return &Problem{T: NewTarget(dst, tempo, src, from, PolicyOf(SpecOfSchool(Numbers), p.Kind, Choices{}, nil)), Wanted: src.Interpret(from, tempo), Wheel: p.Wheel}
	}, nil
}

// Lock adds conditions one after the other and tells which were accepted, and where a control
// that stood at its first position is moved to.
func Lock(c *panel.Compiled, conditions ...[]panel.When) (accepted []bool, state *panel.State) {
	l := Locks{}
	for _, w := range conditions {
		accepted = append(accepted, l.Add(c, w))
	}
	state = c.InitState()
	for k := range l {
		state.At[k] = c.Places(k)[0]
	}
	l.Apply(c, state)
	return accepted, state
}

// exhaustive walks every assignment of modules and, for each, every sharing of the means of routes, and gives the
// least cost; NaN where there are too many.
func exhaustive(t *Target, src *meaning.Meaning) float64 {
	s := newSearch(t, src, nil, newKnownFits(), NodeLimit, nil)
	size := 1
	for i := range s.domain {
		if size *= len(s.domain[i]) + 1; size > 20000 {
			return math.NaN()
		}
	}
	best := math.Inf(1)
	looked := 0
	var routes func(n int, cost float64, u *taken, l Locks)
	routes = func(n int, cost float64, u *taken, l Locks) {
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
			share := o.Cost
			if next, ok := s.take(&o, r, u, l); ok {
				routes(n+1, cost+share*s.rweight[n], u, next)
				o.Way.take(u, false)
			}
		}
		routes(n+1, cost+s.rweight[n], u, l)
	}
	var walk func(i int, cost float64, l Locks)
	walk = func(i int, cost float64, l Locks) {
		if i == len(s.mods) {
			routes(0, cost+s.modulated()+s.misled(), newTaken(), l)
			return
		}
		for _, j := range s.domain[i] {
			if s.busy[j] {
				continue
			}
			next := l.copy()
			if !next.Add(s.t.Compiled, s.t.Modules[j].When) {
				continue
			}
			s.now[i], s.busy[j] = j, true
			walk(i+1, cost+s.cost[i][j]+s.between(i, j), next)
			s.now[i], s.busy[j] = -1, false
		}
		walk(i+1, cost+s.lost[i], l)
	}
	walk(0, 0, Locks{})
	if looked > 400000 {
		return math.NaN()
	}
	return best
}

// CastCosts gives the total that the search over sets of uses of rules finds for a patch on a panel, how many uses it
// takes, whether it says that it met no limit, and the least total of a walk through every set without bounds (NaN where there are too many).
func CastCosts(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, carry func(t *Target, m *meaning.Meaning, a *Allocation) *panel.State) (search float64, uses int, exact bool, walk float64, err error) {
	fresh, err := problem(src, p, dst)
	if err != nil {
		return 0, 0, false, 0, err
	}
	carried := func() *Problem {
		pr := fresh()
		pr.listen()
		pr.Carry = func(m *meaning.Meaning, a *Allocation) *panel.State { return carry(pr.T, m, a) }
		return pr
	}
	of := carried()
	f := of.Find()
	found := &cast{plan: f.Best, uses: f.Uses, penalty: f.Penalty}

	pr := carried()
	pr.T.Policy.mustSound, pr.T.Policy.anyPitch = of.T.Policy.mustSound, of.T.Policy.anyPitch
	known, seen, best := newKnownFits(), map[string]bool{}, math.Inf(1)
	var visit func(c *cast)
	visit = func(c *cast) {
		if !c.idle() {
			best = math.Min(best, c.total())
		}
		var asked targetAsked
		k := pr.caseOf(c, &asked)
		for _, rule := range rules.Table {
			for _, r := range rule.Try(k) {
				keys := append(slices.Clone(c.keys), useKey(&r)+r.Text)
				set := strings.Join(slices.Sorted(slices.Values(keys)), ";")
				if seen[set] || len(seen) > 300 {
					continue
				}
				seen[set] = true
				x := &cast{meaning: r.Meaning, uses: append(slices.Clone(c.uses), &r), keys: keys, penalty: c.penalty + r.Penalty}
				x.plan, _ = allocate(pr.T, x.meaning, nil, known, math.Inf(1), 400, nil) // where it is cut off it costs no less
				if !pr.outOfTune(&r, &x.plan) {
					visit(x)
				}
			}
		}
	}
	start := &cast{}
	start.meaning, _ = pr.lean()
	start.plan, _ = allocate(pr.T, start.meaning, nil, known, math.Inf(1), NodeLimit, nil)
	visit(start)
	if len(seen) > 300 {
		best = math.NaN()
	}
	return found.total(), len(found.uses), !f.Cut, best, nil
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

// WeighedNames gives every kind, parameter and source that a school or a kind of patch weighs.
func WeighedNames() []string {
	var out []string
	add := func(w weights) {
		for k := range w.kinds {
			out = append(out, string(k))
		}
		for p := range w.params {
			out = append(out, p)
		}
		for s := range w.sources {
			out = append(out, s)
		}
	}
	for i := range Schools {
		add(Schools[i].weights)
	}
	for _, w := range byPatch {
		add(w)
	}
	return out
}
