package refine

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"glossator/core/compare"
	"glossator/core/panel"
)

// jointFewest is how many controls are worth a step of all together, jointShare the share of the renders that are left that it may take, jointFarthest how many
// first steps a control may go in one, jointLeast how many it has to go to be turned at all.
const (
	jointFewest   = 4
	jointShare    = 0.45
	jointFarthest = 3.0
	jointLeast    = 0.3
)

// dampings are those that are tried for a joint step, as shares of the mean square of what the controls do.
var dampings = []float64{0.02, 0.3}

// joint moves all controls that have a scale together: it hears what a step of each does to every band of every frame, and solves for the steps that bring
// the target nearest to the aim by least squares, damped (Levenberg, 1944; Marquardt, 1963; from memory). How loud the whole is counts for nothing, as
// in the search. It tells whether that has brought it nearer.
func (w *Walk) joint() (nearer bool, err error) {
	if w.align || w.now.Level >= compare.Silent {
		return false, nil
	}
	var list []*movable
	for i := range w.list {
		if d := &w.list[i]; !d.words && d.top-d.least >= 4 {
			list = append(list, d)
		}
	}
	n := min(len(list), int(jointShare*float64(w.left()))-len(dampings)*2)
	if n < jointFewest {
		return false, nil
	}
	list = list[:n] // what is heard most as a rule comes first
	steps, states := make([]int, n), []*panel.State{w.state}
	for i, d := range list {
		steps[i] = max(1, (d.top-d.least)/8)
		if d.at+steps[i] > d.top {
			steps[i] = -steps[i]
		}
		states = append(states, w.with(d.control, d.at+steps[i]))
	}
	sketches, away := make([]*compare.Sketch, len(states)), make([][]float64, len(states))
	if err := w.each(states, func(i int, k *compare.Sketch) { sketches[i], away[i] = k, compare.Difference(w.aim, k) }); err != nil || w.done() {
		return false, err
	}
	rest := away[0]
	cols := n + 1 // and the level of the whole
	jac := mat.NewDense(len(rest), cols, nil)
	for i := range list {
		for k := range rest {
			jac.Set(k, i, rest[k]-away[i+1][k])
		}
		list[i].told = max(list[i].told, math.Abs(w.score(w.apart(w.aim, sketches[i+1]))-w.score(w.now)))
	}
	for k := range rest {
		jac.Set(k, n, 1)
	}
	var normal mat.Dense
	normal.Mul(jac.T(), jac)
	right := mat.NewVecDense(cols, nil)
	right.MulVec(jac.T(), mat.NewVecDense(len(rest), rest))
	mean := 0.0
	for i := range n {
		mean += normal.At(i, i) / float64(n)
	}
	if mean == 0 {
		return false, nil
	}
	var tries []*panel.State
	var places [][]int
	for _, damping := range dampings {
		damped := mat.DenseCopyOf(&normal)
		for i := range n {
			damped.Set(i, i, damped.At(i, i)*(1+damping)+damping*mean*0.1)
		}
		var x mat.VecDense
		if err := x.SolveVec(damped, right); err != nil {
			continue // two controls do the same
		}
		for _, share := range []float64{1, 0.5} {
			s := *w.state
			s.At = slices.Clone(w.state.At)
			at := make([]int, n)
			for i, d := range list {
				by := min(max(share*x.AtVec(i), -jointFarthest), jointFarthest)
				if at[i] = d.at; math.Abs(by) >= jointLeast {
					at[i] = min(max(d.at+int(math.Round(by*float64(steps[i]))), d.least), d.top)
				}
				s.At[d.control] = w.t.Target.Places(d.control)[at[i]]
			}
			tries, places = append(tries, &s), append(places, at)
		}
	}
	if len(tries) == 0 {
		return false, nil
	}
	apart, err := w.measure(tries...)
	if err != nil {
		return false, err
	}
	scores, best := make([]float64, len(apart)), 0
	for i := range apart {
		scores[i] = w.score(apart[i]) + w.given()
		for k, d := range list {
			scores[i] += d.cost(places[i][k]) - d.cost(d.at)
		}
		if scores[i] < scores[best] {
			best = i
		}
	}
	gain := w.Score() - scores[best]
	if gain < worthwhile*float64(jointFewest) {
		return false, nil
	}
	var moved []*movable
	for i, d := range list {
		if places[best][i] != d.at {
			moved = append(moved, d)
			d.at = places[best][i]
		}
	}
	for _, d := range moved {
		w.gains[d.control] += gain / float64(len(moved))
		w.mostly[d.control] = lessened(w.now, apart[best])
		w.state.At[d.control] = w.t.Target.Places(d.control)[d.at]
	}
	w.now = apart[best]
	w.tell()
	return true, nil
}
