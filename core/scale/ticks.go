package scale

import (
	"fmt"
	"math"
	"strings"

	"glossator/core/quantity"
)

// Tick is one settable place of a scale.
type Tick struct {
	// Value is the quantity there, in the unit of its dimension.
	Value   float64 `json:"value"`
	Reading string  `json:"reading"`
	// Major ticks carry their reading when the scale is drawn.
	Major bool `json:"major"`
	// Text is the quantity with its unit.
	Text string `json:"text"`
	// Off is set for the end that means none; it has no place on an axis.
	Off bool `json:"off,omitempty"`
}

// MaxTicks is the most ticks that Ticks gives; longer faces are thinned evenly.
const MaxTicks = 256

// Ticks lists the places of a scale; onto turns what the law gives into the quantity of
// the axis and may be nil.
func Ticks(f Face, l Law, onto func(quantity.Quantity) quantity.Quantity) []Tick {
	n := f.Len()
	stride := max((n+MaxTicks-1)/MaxTicks, 1)
	out := make([]Tick, 0, n/stride+1)
	for i := mod(f.zero(), stride); i < n; i += stride {
		at := f.At(i)
		v, set := l.Quantity(at)
		if !set {
			continue
		}
		if onto != nil {
			v = onto(v)
		}
		out = append(out, Tick{Value: v.Value, Reading: at.Reading, Major: f.major(i), Text: v.String(), Off: v.Off})
	}
	return out
}

// major picks the ticks that carry their reading.
func (f Face) major(i int) bool {
	n := f.Len()
	switch f.Kind {
	case Marks:
		return i%f.between() == 0
	case Clock:
		return strings.HasSuffix(f.At(i).Reading, ":00")
	}
	if n <= 13 {
		return true
	}
	for _, every := range []int{2, 5, 10, 16, 20, 25, 50, 100, 200, 500, 1000, 2000, 5000} {
		if n/every <= 11 {
			return mod(i-f.zero(), every) == 0
		}
	}
	return false
}

// zero gives the place of a numeric face's nought, from which round numbers are counted; it may lie outside of the face. Of other faces it is the first place.
func (f Face) zero() int {
	if f.Kind != Numeric || f.Step <= 0 {
		return 0
	}
	z := -f.Min / f.Step
	if math.Abs(z) > 1e6 || math.Abs(z-math.Round(z)) > 1e-6 {
		return 0
	}
	return int(math.Round(z))
}

func mod(i, n int) int { return ((i % n) + n) % n }

// String says in words what the law is, where it is known from and how well (at k = 2).
func (l Law) String() string {
	out := string(l.Kind)
	if s := SpecOfLaw(l.Kind); s != nil {
		out = s.Words
	}
	if l.Source != "" {
		out += ", " + string(l.Source)
	}
	if l.Convention != "" {
		out += ", counted as " + textOf(Conventions, string(l.Convention))
	}
	if u := l.Uncertainty; u != nil {
		if u.Relative {
			return out + fmt.Sprintf(", ±%s %%", quantity.Number(quantity.Cover*u.U*100, 2))
		}
		unit := l.Unit
		if unit == "fraction" {
			unit = "of the way to oscillation"
		}
		return out + fmt.Sprintf(", ±%s %s", quantity.Number(quantity.Cover*u.U, 2), unit)
	}
	if l.Source == Assumed && l.Kind != Listed {
		return out + fmt.Sprintf(", ±%g %%", quantity.Cover*AssumedU*100)
	}
	return out
}

// Short tells the law in a few words: from where to where, how many points or which values.
func (l Law) Short() string {
	s := SpecOfLaw(l.Kind)
	switch {
	case s == nil:
		return ""
	case s.Points && len(l.Points) > 1:
		text := fmt.Sprintf("%g to %g %s", l.Points[0][1], l.Points[len(l.Points)-1][1], l.Unit)
		if n := len(l.Points); n > 2 {
			text += fmt.Sprintf(" by %d points", n)
		}
		return text
	case s.Values:
		if len(l.Values) > 12 {
			return fmt.Sprintf("a value for each of %d", len(l.Values))
		}
		u, _ := quantity.UnitOf(l.Unit)
		text := s.text(l)
		if u.Dim.Named() || u.Dim == quantity.DimCount {
			text = strings.TrimSuffix(text, " "+l.Unit)
		}
		return text
	}
	return s.text(l)
}
