package plan

import (
	"cmp"
	"math"
	"slices"
)

// leafNodes is how many ways to share the means of routes are looked at for one assignment of the modules.
const leafNodes = 2000

// leaf finds the routes for a full assignment of modules at least cost: a branch and bound over the means of each,
// dearest route first, cheapest means first.
func (s *moduleSearch) leaf(cost float64, l Locks) {
	n := len(s.routes)
	options, why := make([][]Choice, n), make([]Why, n)
	rest := make([]float64, n+1) // the least that the routes from one on can cost
	for k := n - 1; k >= 0; k-- {
		rest[k] = rest[k+1] + s.looseCost(k)
	}
	if cost+rest[0] >= s.best.Cost-sameCost {
		return
	}
	sum := cost
	for k := range n {
		options[k], why[k] = s.options(&s.src.Routes[s.routes[k]], false)
		least := s.rweight[k]
		for i := range options[k] {
			options[k][i].Cost *= s.rweight[k]
			least = math.Min(least, options[k][i].Cost)
		}
		if sum += least; sum+rest[k+1] >= s.best.Cost-sameCost {
			return
		}
		rest[k] = least
	}
	for k := n - 1; k >= 0; k-- {
		rest[k] += rest[k+1]
	}
	u := newTaken()
	choices := make([]Choice, len(s.src.Routes))
	nodes := 0
	defer func() { s.nodes += n + nodes }() // as much work as so many partial plans, or more
	var at map[int]int
	var walk func(k int, cost float64, l Locks)
	walk = func(k int, cost float64, l Locks) {
		if nodes++; nodes > leafNodes {
			s.cut = true
			return
		}
		if cost+rest[k] >= s.best.Cost-sameCost {
			return
		}
		if k == n {
			s.best.Cost, s.best.Route, s.found = cost, slices.Clone(choices), true
			s.chosen = append(s.chosen[:0], s.now...)
			s.best.Wiring = at
			return
		}
		i := s.routes[k]
		for _, o := range options[k] {
			if o.Cost >= s.rweight[k] {
				break // they are in the order of cost
			}
			next, ok := s.take(&o, &s.src.Routes[i], u, l)
			if !ok {
				continue
			}
			choices[i] = o
			walk(k+1, cost+o.Cost, next)
			o.Way.take(u, false)
			if o.Cost+cost+rest[k+1] >= s.best.Cost-sameCost {
				return // nothing that is dearer can do better
			}
		}
		reason := why[k]
		if len(options[k]) > 0 {
			reason = s.inTheWay(options[k], s.rweight[k], choices, s.routes[:k])
		}
		choices[i] = Choice{Cost: s.rweight[k], Why: reason}
		walk(k+1, cost+s.rweight[k], l)
	}
	if len(s.t.wirings) == 0 {
		walk(0, cost, l)
		return
	}
	type way struct {
		*wiring
		cost float64
	}
	var ways []way
	for i := range s.t.wirings {
		if w := &s.t.wirings[i]; l.holds(w.at) {
			ways = append(ways, way{w, s.miswired(w)})
		}
	}
	slices.SortStableFunc(ways, func(a, b way) int { return cmp.Compare(a.cost, b.cost) })
	for _, w := range ways {
		if cost+w.cost+rest[0] >= s.best.Cost-sameCost {
			return
		}
		at = w.at
		walk(0, cost+w.cost, l.at(w.at))
	}
}

// inTheWay says why a route is left out that could be made: every way would be further off than nothing, or another route, decided before it, has taken it.
func (s *moduleSearch) inTheWay(options []Choice, weight float64, choices []Choice, decided []int) Why {
	if options[0].Cost >= weight {
		return Why{Code: Further}
	}
	for _, o := range options {
		if o.Way.Means(s.t) == BySlot {
			continue // any of its class would do: they are all taken
		}
		id, _ := o.Way.Made(s.t)
		for _, i := range decided {
			if c := &choices[i]; c.Made() && o.Cost < weight {
				if other, _ := c.Way.Made(s.t); other == id {
					return Why{Code: Taken, From: s.src.Routes[i].Label}
				}
			}
		}
	}
	return Why{Code: Taken}
}
