package plan

import (
	"math"

	"glossator/core/panel"
)

// Locks limits controls to some of their positions.
type Locks map[int]map[int]bool

// Add limits the controls of the conditions; it gives false, having changed nothing,
// where one of them would have no position left.
func (l Locks) Add(dst *panel.Compiled, ws []panel.When) bool {
	next := Locks{}
	for i := range ws {
		k, in := dst.Cond(&ws[i])
		old, ok := next[k]
		if !ok {
			old, ok = l[k]
		}
		if !ok {
			next[k] = in
			continue
		}
		both := map[int]bool{}
		for p := range in {
			if old[p] {
				both[p] = true
			}
		}
		if len(both) == 0 {
			return false
		}
		next[k] = both
	}
	for k, in := range next {
		l[k] = in
	}
	return true
}

func (l Locks) copy() Locks {
	out := make(Locks, len(l))
	for k, v := range l {
		out[k] = v
	}
	return out
}

// Allows tells whether a control may stand at a position.
func (l Locks) Allows(control, index int) bool {
	in, ok := l[control]
	return !ok || in[index]
}

// Apply moves every locked control that stands where it may not to its first allowed
// position.
func (l Locks) Apply(dst *panel.Compiled, s *panel.State) {
	for k, in := range l {
		if in[s.At[k].Index] {
			continue
		}
		first := math.MaxInt
		for i := range in {
			first = min(first, i)
		}
		s.At[k] = dst.Places(k)[first]
	}
}

// holds tells whether controls may stand at positions.
func (l Locks) holds(at map[int]int) bool {
	for k, i := range at {
		if !l.Allows(k, i) {
			return false
		}
	}
	return true
}

// at limits controls to one position each.
func (l Locks) at(at map[int]int) Locks {
	out := l.copy()
	for k, i := range at {
		out[k] = map[int]bool{i: true}
	}
	return out
}
