package scale

import (
	"fmt"
	"math"

	"glossator/core/quantity"
)

// Worked is a scale worked out at every position that its face can hold. It is not changed
// after WorkOut and may be shared.
type Worked struct {
	Law   Law
	at    []Position
	value []quantity.Quantity // with the tolerance of a plain reading
	set   []bool
	lo    int // the ends of the search: without an "off" end
	hi    int
	up    bool // the law rises
}

// WorkOut works a scale out. Face and law must have no faults.
func WorkOut(f Face, l Law) *Worked {
	places := Places(f)
	return WorkOutAt(places, l)
}

// Places lists all positions of a face.
func Places(f Face) []Position {
	if len(f.places) > 0 {
		return f.places
	}
	out := make([]Position, f.Len())
	if f.Kind == Numeric && f.Decimals == nil { // the decimals are worked out once
		n := f.decimals()
		f.Decimals = &n
	}
	if f.Kind != Marks {
		for i := range out {
			out[i] = f.At(i)
		}
		return out
	}
	u := f.readU()
	for k := range len(f.Marks) - 1 { // the legends of a stretch are read once
		qa, qb, ok := markPair(f.Marks[k].Legend, f.Marks[k+1].Legend)
		for part := range f.between() {
			i := k*f.between() + part
			out[i] = Position{Index: i, U: u, Travel: f.travelAt(i), Reading: f.Marks[k].Legend}
			if part > 0 {
				out[i].Reading = f.legendBetween(k, part, qa, qb, ok)
			}
		}
	}
	last := len(out) - 1
	out[last] = f.At(last)
	return out
}

// WorkOutAt works a law out at the places of its face, as Places gives them.
func WorkOutAt(places []Position, l Law) *Worked {
	n := len(places)
	t := &Worked{Law: l, at: places, value: make([]quantity.Quantity, n), set: make([]bool, n), hi: n - 1}
	for i, p := range places {
		t.value[i], t.set[i] = l.Quantity(p)
	}
	if n > 2 && l.Kind != Listed {
		if l.Off == "bottom" {
			t.lo = 1
		}
		if l.Off == "top" {
			t.hi = n - 2
		}
	}
	t.up = n > 0 && t.value[t.hi].Value > t.value[t.lo].Value
	return t
}

// Quantity gives what the law makes of a position; from the table where the position is one
// of the face's own and read as plainly.
func (t *Worked) Quantity(p Position) (quantity.Quantity, bool) {
	if p.Index >= 0 && p.Index < len(t.at) && p.U == t.at[p.Index].U {
		return t.value[p.Index], t.set[p.Index]
	}
	return t.Law.Quantity(p)
}

// Len counts the positions.
func (t *Worked) Len() int { return len(t.at) }

// Step gives the larger distance from a position to its neighbours, in the sense of
// quantity.Distance; 0 for words and for positions that say nothing.
func (t *Worked) Step(i int) float64 {
	if i < 0 || i >= len(t.at) || !t.set[i] || t.value[i].Dim.Named() {
		return 0
	}
	step := 0.0
	for _, k := range [2]int{i - 1, i + 1} {
		if k >= 0 && k < len(t.at) && t.set[k] && !t.value[k].Off && !t.value[i].Off {
			step = math.Max(step, math.Abs(quantity.Distance(t.value[i], t.value[k])))
		}
	}
	return step
}

// Inverse gives the nearest position for a quantity: nearest in the sense of
// quantity.Distance, ties to the smaller travel. A value beyond the ends is clamped, and
// says so. A quantity of another dimension, one that is not an ordinary number and a word
// that no position has are errors.
func (t *Worked) Inverse(want quantity.Quantity) (Setting, error) {
	if want.Dim != t.Law.Dim() {
		return Setting{}, quantity.Mismatch{Want: t.Law.Dim(), Got: want.Dim}
	}
	if !want.Finite() {
		return Setting{}, fmt.Errorf("expected an ordinary number, got %v", want.Value)
	}
	at, clamped := 0, false
	if t.Law.Kind == Listed {
		var ok bool
		if at, clamped, ok = t.inList(want); !ok {
			return Setting{}, fmt.Errorf("no position of the control gives %s", want)
		}
	} else {
		at, clamped = t.inCurve(want)
	}
	return Setting{Position: t.at[at], Reached: t.value[at], Step: t.Step(at), Clamped: clamped, Error: quantity.Distance(want, t.value[at])}, nil
}

func (t *Worked) inList(want quantity.Quantity) (at int, clamped, ok bool) {
	best := math.Inf(1)
	lo, hi := math.Inf(1), math.Inf(-1)
	for i, v := range t.value {
		if !t.set[i] {
			continue
		}
		lo, hi = math.Min(lo, v.Value), math.Max(hi, v.Value)
		if d := math.Abs(quantity.Distance(want, v)); d < best-1e-12 {
			best, at, ok = d, i, true
		}
	}
	if want.Dim.Named() && best > 0 {
		return 0, false, false
	}
	return at, !want.Dim.Named() && !want.Off && (want.Value < lo-1e-9 || want.Value > hi+1e-9), ok
}

func (t *Worked) inCurve(want quantity.Quantity) (at int, clamped bool) {
	n, lo, hi := len(t.at), t.lo, t.hi
	least, most := lo, hi
	if !t.up {
		least, most = hi, lo
	}
	if want.Off {
		switch t.Law.Off {
		case "bottom":
			return 0, false
		case "top":
			return n - 1, false
		}
		return least, t.value[least].Value > 0 // no such end here: the least of the scale
	}
	end := math.Max(math.Abs(t.value[lo].Value), math.Abs(t.value[hi].Value)) * 1e-9
	clamped = want.Value < t.value[least].Value-end || want.Value > t.value[most].Value+end
	// within a dead zone all places are alike: the centre is the one for nothing
	if s := SpecOfLaw(t.Law.Kind); s != nil && s.Centred && want.Value == 0 {
		return (n - 1) / 2, false
	}
	for hi-lo > 1 {
		mid := (lo + hi) / 2
		if v := t.value[mid].Value; v == want.Value || (v < want.Value) == t.up {
			lo = mid
		} else {
			hi = mid
		}
	}
	dlo := math.Abs(quantity.Distance(want, t.value[lo]))
	dhi := math.Abs(quantity.Distance(want, t.value[hi]))
	if dhi < dlo*(1-1e-9)-1e-15 {
		return t.amid(hi), clamped
	}
	return t.amid(lo), clamped
}

// amid gives the middle of the places that give what a place gives: where a law has a flat part, a hand is put into its middle.
func (t *Worked) amid(i int) int {
	if t.Law.Kind != Segments {
		return i
	}
	a, b := i, i
	for a > t.lo && t.value[a-1].Value == t.value[i].Value {
		a--
	}
	for b < t.hi && t.value[b+1].Value == t.value[i].Value {
		b++
	}
	return (a + b) / 2
}
