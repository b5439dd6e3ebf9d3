package translate

import (
	"math"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	q "glossator/core/quantity"
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
	a := allocate(newTarget(dst, tempo, src, from, policyOf(SpecOfSchool(Numbers), p.Kind, Choices{}, nil)), wanted)
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

// exhaustive walks every assignment and gives the least cost; NaN where there are too many.
func exhaustive(t *target, src *meaning.Meaning) float64 {
	s := &search{t: t, src: src, cost: map[[2]int]float64{}, now: map[string]int{}, busy: map[int]bool{}, depthC: map[[2]int]float64{},
		loose: map[string]float64{}, fits: map[[2]int][]assignment{}, known: knownFits{}, limit: NodeLimit}
	s.prepare()
	s.prepareRoutes()
	size := 1
	for i := range s.domain {
		if size *= len(s.domain[i]) + 1; size > 20000 {
			return math.NaN()
		}
	}
	best := math.Inf(1)
	var walk func(i int, cost float64, l locks)
	walk = func(i int, cost float64, l locks) {
		if i == len(s.mods) {
			s.best.cost = math.Inf(1) // every leaf is worked out to its end
			s.leaf(cost, l)
			best = math.Min(best, s.best.cost)
			return
		}
		id := s.src.Modules[s.mods[i]].ID
		for _, j := range s.domain[i] {
			if s.busy[j] {
				continue
			}
			next := l.copy()
			if !next.add(s.t.Compiled, s.t.Modules[j].When) {
				continue
			}
			s.now[id], s.busy[j] = j, true
			walk(i+1, cost+s.cost[[2]int{s.mods[i], j}], next)
			delete(s.now, id)
			delete(s.busy, j)
		}
		walk(i+1, cost+s.lost[i], l)
	}
	walk(0, 0, locks{})
	return best
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
