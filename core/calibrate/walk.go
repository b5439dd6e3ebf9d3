package calibrate

import (
	"slices"

	"glossator/core/panel"
	"glossator/core/scale"
)

// Stop is a control on the walk over an instrument.
type Stop struct {
	Control string `json:"control"`
	// Changes counts the controls that have to be set anew for it, after the stop before it (after init for the first).
	Changes int `json:"changes"`
}

// MinutesOf is about how long measuring a control takes by hand, in minutes: eight takes of a third of a minute, and a set-up of so many changes (common practice, no source).
func MinutesOf(changes int) float64 { return 8.0/3 + float64(changes)/6 }

// Walk puts controls in an order in which few settings have to be changed from one to the next: the nearest first, then whatever turning a stretch of it round spares (2-opt: Croes, A method for solving traveling-salesman problems, 1958, from memory). from is the control that the instrument is set up for now; empty for none. Those that no recipe has a set-up for are left out.
func Walk(c *panel.Compiled, controls []string, from string) []Stop {
	var ids []string
	var stands [][]scale.Position
	for _, id := range append([]string{from}, controls...) {
		if len(ids) > 0 && (id == from || slices.Contains(ids[1:], id)) {
			continue
		}
		k, ok := c.ControlIndex(id)
		if !ok && len(ids) > 0 {
			continue
		}
		at := c.InitState().At
		if ok {
			s := setUpOf(c, k)
			if s != nil {
				at = s.at.At
			} else if len(ids) > 0 {
				continue
			}
		}
		ids, stands = append(ids, id), append(stands, at)
	}
	n := len(ids)
	far := make([][]int, n)
	for i := range far {
		far[i] = make([]int, n)
		for k := range far[i] {
			for x := range stands[i] {
				if c.Controls[x].ID != ids[i] && c.Controls[x].ID != ids[k] && stands[i][x].Reading != stands[k][x].Reading {
					far[i][k]++
				}
			}
		}
	}
	order, left := []int{0}, make([]int, 0, n)
	for i := 1; i < n; i++ {
		left = append(left, i)
	}
	for len(left) > 0 {
		at := order[len(order)-1]
		best := 0
		for i := range left {
			if far[at][left[i]] < far[at][left[best]] {
				best = i
			}
		}
		order = append(order, left[best])
		left = slices.Delete(left, best, best+1)
	}
	for again := true; again; {
		again = false
		for i := 1; i < n; i++ {
			for k := i + 1; k < n; k++ {
				was, is := far[order[i-1]][order[i]], far[order[i-1]][order[k]]
				if k+1 < n {
					was, is = was+far[order[k]][order[k+1]], is+far[order[i]][order[k+1]]
				}
				if is < was {
					slices.Reverse(order[i : k+1])
					again = true
				}
			}
		}
	}
	out := make([]Stop, 0, n-1)
	for i := 1; i < n; i++ {
		out = append(out, Stop{ids[order[i]], far[order[i-1]][order[i]]})
	}
	return out
}

// setUpOf gives the set-up that measuring a control begins with, without playing the model; nil where no recipe has one.
func setUpOf(c *panel.Compiled, k int) *setup {
	bind := slices.IndexFunc(c.Controls[k].Means, func(b panel.Bind) bool { return b.Law.Kind != scale.Listed })
	if bind < 0 {
		return nil
	}
	t := targetOf(c, k, bind)
	for _, r := range Recipes {
		if !r.fits(t) {
			continue
		}
		for _, way := range r.ways(t) {
			if s := readied(t, way); s != nil {
				return s
			}
		}
	}
	return nil
}

// readied sets a panel up for one way of measuring a control; nil where it cannot be.
func readied(t *target, way func(*setup) bool) *setup {
	s := quiet(t.c, t.control)
	if !s.meet(t.law().When) {
		return nil
	}
	for _, w := range t.law().When {
		if k, ok := t.c.ControlIndex(w.Control); ok {
			s.hold(k)
		}
	}
	if !way(s) {
		return nil
	}
	return s
}
