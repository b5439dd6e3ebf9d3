package scale

import (
	"fmt"
	"math"
	"sort"

	"gonum.org/v1/gonum/interp"

	"glossator/core/fault"
	"glossator/core/quantity"
)

// Source says where a law comes from.
type Source string

// The sources of a law.
const (
	Stated   Source = "stated"   // in the maker's words
	Measured Source = "measured" // by calibration
	Assumed  Source = "assumed"  // from the kind of control
)

// Convention says what a time law counts as "the time" of a stage.
type Convention string

// The conventions of section 4 of the design; see T90.
const (
	Ramp Convention = "ramp" // the whole of a straight ramp
	Tau  Convention = "tau"  // the time constant
	T60  Convention = "t60"  // to -60 dB
	T90  Convention = "t90"  // 90 % of the way
	Half Convention = "half" // half of the way
)

// ToT90 gives the factor from a time in the convention to t90 (circuit theory).
func (c Convention) ToT90() float64 {
	switch c {
	case Ramp:
		return quantity.RampTo90
	case Tau:
		return quantity.TausTo90
	case T60:
		return quantity.TausTo90 / quantity.TausTo60dB
	case Half:
		return quantity.TausTo90 / quantity.TausToHalf
	}
	return 1
}

// Swing says how a modulation depth is counted.
type Swing string

// The swings; the meaning of a patch keeps the peak.
const (
	Peak       Swing = "peak"         // from the middle to the top, or from rest to the top
	PeakToPeak Swing = "peak-to-peak" // from the lowest to the highest
)

// Uncertainty is the standard uncertainty of a law.
type Uncertainty struct {
	// U is in the law's unit, or a ratio where Relative is set.
	U        float64 `json:"u"`
	Relative bool    `json:"relative,omitempty"`
}

// Law is the way from travel to quantity.
type Law struct {
	Kind LawKind `json:"kind"`
	// Unit that Min, Max, Points and Values are in.
	Unit string  `json:"unit"`
	Min  float64 `json:"min,omitempty"`
	Max  float64 `json:"max,omitempty"`
	// Exponent of a power, bipolar or decibel law; where absent 1 (decibel: 1).
	Exponent float64 `json:"exponent,omitempty"`
	// Dead is the part of a bipolar law's half travel about the centre that does nothing.
	Dead float64 `json:"dead,omitempty"`
	// Points are travel and value, in rising travel.
	Points [][2]float64 `json:"points,omitempty"`
	// Values of a list law, one a position: a number, a word, "off", or null for a position
	// that says nothing about the parameter.
	Values []any `json:"values,omitempty"`
	// Off is "bottom" or "top" where that end of the travel means none.
	Off string `json:"off,omitempty" jsonschema:"enum=bottom,enum=top"`
	// Convention of a time law.
	Convention Convention `json:"convention,omitempty" jsonschema:"enum=ramp,enum=tau,enum=t60,enum=t90,enum=half"`
	// Swing of a modulation depth.
	Swing       Swing        `json:"swing,omitempty" jsonschema:"enum=peak,enum=peak-to-peak"`
	Source      Source       `json:"source,omitempty" jsonschema:"enum=stated,enum=measured,enum=assumed"`
	Uncertainty *Uncertainty `json:"uncertainty,omitempty"`
}

// Quarters turns a law whose beats are whole notes, as panels of version 1 wrote them, into one in quarter notes. Other laws stay as they are.
func (l *Law) Quarters() {
	if l.Dim() != quantity.DimBeats {
		return
	}
	l.Min, l.Max = 4*l.Min, 4*l.Max
	for i := range l.Points {
		l.Points[i][1] *= 4
	}
	for i, v := range l.Values {
		if x, ok := v.(float64); ok {
			l.Values[i] = 4 * x
		}
	}
	if u := l.Uncertainty; u != nil && !u.Relative {
		u.U *= 4
	}
}

// AssumedU is the standard uncertainty of a law that is only assumed and states none, as a ratio of the value (with a fifth of the range where the value may be
// nothing), of a fader's travel, and of the value alone about a centre, which is exact (common practice, no source).
const AssumedU = 0.05

// Dim gives the dimension of what the law gives.
func (l Law) Dim() quantity.Dim {
	u, _ := quantity.UnitOf(l.Unit)
	return u.Dim
}

// Check gives the faults of the law for the face it belongs to.
func (l Law) Check(f Face) fault.List {
	var out fault.List
	u, ok := quantity.UnitOf(l.Unit)
	if !ok {
		out.Add("/unit", "expected a known unit (%s), got %q", quantity.Symbols(""), l.Unit)
		return out
	}
	if u.Dim.Named() && l.Kind != Listed {
		out.Add("/kind", "expected list for the unit %q, got %q", l.Unit, l.Kind)
		return out
	}
	spec := SpecOfLaw(l.Kind)
	if spec == nil {
		out.Add("/kind", "expected %s, got %q", kindNames(), l.Kind)
	} else {
		spec.check(l, u, &out)
	}
	if l.Exponent < 0 || l.Exponent > 20 {
		out.Add("/exponent", "expected a number above 0 and at most 20, got %v", l.Exponent)
	}
	if l.Kind == Listed {
		l.checkList(f, &out)
	}
	if l.Kind != Listed && f.Discrete() {
		out.Add("/kind", "expected list: the face has only named positions")
	}
	if f.Kind == Text {
		out.Add("/kind", "expected no law: a text has no travel")
	}
	if l.Off != "" && l.Off != "bottom" && l.Off != "top" {
		out.Add("/off", "expected bottom or top, got %q", l.Off)
	}
	if l.Convention != "" && u.Dim != quantity.DimDuration {
		out.Add("/convention", "expected none: only times have a convention")
	}
	if c := l.Convention; c != "" && !has(Conventions, string(c)) {
		out.Add("/convention", "expected ramp, tau, t60, t90 or half, got %q", c)
	}
	if l.Swing != "" && !has(Swings, string(l.Swing)) {
		out.Add("/swing", "expected peak or peak-to-peak, got %q", l.Swing)
	}
	switch l.Source {
	case Stated, Measured, Assumed, "":
	default:
		out.Add("/source", "expected stated, measured or assumed, got %q", l.Source)
	}
	if l.Source == Measured && l.Uncertainty == nil {
		out.Add("/uncertainty", "expected the uncertainty of the measurement")
	}
	if l.Uncertainty != nil && !(l.Uncertainty.U >= 0) {
		out.Add("/uncertainty/u", "expected 0 or more, got %v", l.Uncertainty.U)
	}
	for _, v := range []float64{l.Min, l.Max, l.Exponent, l.Dead} {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			out.Add("", "expected ordinary numbers, got %v", v)
		}
	}
	if len(out) == 0 && f.Kind != Text {
		l.checkValues(f, &out)
	}
	return out
}

// checkList finds what is wrong with the values of a list.
func (l Law) checkList(f Face, out *fault.List) {
	if !f.Discrete() && f.Kind != Numeric {
		out.Add("/kind", "expected another law: a list needs named positions")
		return
	}
	if len(l.Values) != f.Len() {
		out.Add("/values", "expected %d values, one a position, got %d", f.Len(), len(l.Values))
	}
	for i, v := range l.Values {
		if _, _, err := l.listed(v); err != nil {
			out.Add(fmt.Sprintf("/values/%d", i), "%v", err)
		}
	}
}

func (l Law) checkPoints(geo bool) fault.List {
	var out fault.List
	pts := l.Points
	if len(pts) < 2 {
		out.Add("", "expected at least 2 points, got %d", len(pts))
		return out
	}
	if pts[0][0] != 0 || pts[len(pts)-1][0] != 1 {
		out.Add("", "expected the first point at travel 0 and the last at 1")
	}
	rising := pts[len(pts)-1][1] > pts[0][1]
	if pts[len(pts)-1][1] == pts[0][1] {
		out.Add("", "expected the last point to be another than the first, got %v for both: a law that gives one value is fixed", pts[0][1])
		return out
	}
	flat := l.Kind == Segments // a dead stretch: several places do the same
	for i, p := range pts {
		at := fmt.Sprintf("/%d", i)
		if math.IsNaN(p[0]+p[1]) || math.IsInf(p[0]+p[1], 0) {
			out.Add(at, "expected ordinary numbers, got %v", p)
			continue
		}
		if geo && p[1] <= 0 {
			out.Add(at, "expected a value above 0, got %v", p[1])
		}
		if i == 0 {
			continue
		}
		q := pts[i-1]
		if p[0] <= q[0] {
			out.Add(at, "expected a travel above %v, got %v", q[0], p[0])
		}
		if flat && p[1] == q[1] {
			continue
		}
		if p[1] == q[1] || (p[1] > q[1]) != rising {
			out.Add(at, "expected the law to go on %s from %v, got %v: it must be strictly monotone", map[bool]string{true: "rising", false: "falling"}[rising], q[1], p[1])
		}
	}
	return out
}

// listed gives the quantity of one value of a list; set is false for null.
func (l Law) listed(v any) (q quantity.Quantity, set bool, err error) {
	u, _ := quantity.UnitOf(l.Unit)
	switch x := v.(type) {
	case nil:
		return quantity.Quantity{Dim: u.Dim}, false, nil
	case string:
		if x == "off" && !u.Dim.Named() {
			return quantity.OffOf(u.Dim), true, nil
		}
		if u.Dim.Named() {
			if u.Dim == quantity.DimWave {
				if _, _, err := quantity.ParseDrawn(x); err != nil {
					return quantity.Quantity{}, false, err
				}
			}
			return quantity.Named(u.Dim, x), true, nil
		}
		return quantity.Quantity{}, false, fmt.Errorf("expected a number in %s, null or \"off\", got %q", l.Unit, x)
	case float64:
		if u.Dim.Named() {
			return quantity.Quantity{}, false, fmt.Errorf("expected a word, got %v", x)
		}
		if u.Dim.Geometric() && x <= 0 {
			return quantity.Quantity{}, false, fmt.Errorf("expected a number above 0, got %v", x)
		}
		return l.convert(u.Of(x)), true, nil
	}
	return quantity.Quantity{}, false, fmt.Errorf("expected a number, a word or null, got %T", v)
}

// convert applies the time convention and the swing: times become t90, depths peaks.
func (l Law) convert(q quantity.Quantity) quantity.Quantity {
	if q.Dim == quantity.DimDuration {
		q.Value *= l.Convention.ToT90()
	}
	if l.Swing == PeakToPeak {
		q.Value /= 2
	}
	return q
}

// Said gives the quantity that is meant by one that is said of the control: times are said as the law counts them.
func (l Law) Said(v quantity.Quantity) quantity.Quantity { return l.convert(v) }

// Shown writes a quantity of the law as the law counts it; it undoes Said.
func (l Law) Shown(v quantity.Quantity) string {
	if one := l.convert(quantity.Quantity{Dim: v.Dim, Value: 1}).Value; one != 0 && !v.Dim.Named() {
		v.Value /= one
	}
	return v.String()
}

func (l Law) factor() float64 {
	u, _ := quantity.UnitOf(l.Unit)
	k := u.Factor
	if u.Dim == quantity.DimDuration {
		k *= l.Convention.ToT90()
	}
	if l.Swing == PeakToPeak {
		k /= 2
	}
	return k
}

// Quantity gives what the law makes of a position, with the tolerance of the reading and
// of the law together. set is false where a list says nothing there.
func (l Law) Quantity(p Position) (q quantity.Quantity, set bool) {
	if l.Kind == Listed {
		i := p.Index
		if i < 0 {
			i = int(math.Round(p.Travel * float64(len(l.Values)-1)))
		}
		if i >= len(l.Values) {
			return quantity.Quantity{}, false
		}
		q, set, _ = l.listed(l.Values[i])
		if set && !q.Dim.Named() && !q.Off {
			q.Tol = l.uncertainty(q.Value)
		}
		return q, set
	}
	q = l.value(p.Travel)
	if q.Off {
		return q, true
	}
	q.Tol = quantity.RSS(l.uncertainty(q.Value), l.spread(p))
	return q, true
}

// value is the law without tolerance.
func (l Law) value(p float64) quantity.Quantity {
	u, _ := quantity.UnitOf(l.Unit)
	if l.Off == "bottom" && p <= 1e-12 || l.Off == "top" && p >= 1-1e-12 {
		return quantity.OffOf(u.Dim)
	}
	v := l.raw(p)
	if u.Symbol == "Q" {
		return u.Of(v)
	}
	return quantity.Quantity{Dim: u.Dim, Value: v * l.factor()}
}

// raw is the law in its own unit.
func (l Law) raw(p float64) float64 {
	if s := SpecOfLaw(l.Kind); s != nil {
		return s.value(l, p)
	}
	return 0
}

func (l Law) geo() bool { return l.Dim().Geometric() }

func (l Law) segment(p float64) float64 {
	pts := l.Points
	i := sort.Search(len(pts), func(i int) bool { return pts[i][0] >= p })
	if i == 0 {
		return pts[0][1]
	}
	if i == len(pts) {
		return pts[len(pts)-1][1]
	}
	a, b := pts[i-1], pts[i]
	t := (p - a[0]) / (b[0] - a[0])
	if l.geo() {
		return a[1] * math.Pow(b[1]/a[1], t)
	}
	return a[1] + (b[1]-a[1])*t
}

// table is the monotone cubic of Fritsch and Butland (gonum's interp), through the logs
// of the values where the dimension is geometric. Two points make a straight line.
func (l Law) table(p float64) float64 {
	if len(l.Points) < 3 {
		return l.segment(p)
	}
	xs, ys := make([]float64, len(l.Points)), make([]float64, len(l.Points))
	for i, pt := range l.Points {
		xs[i], ys[i] = pt[0], pt[1]
		if l.geo() {
			ys[i] = math.Log(pt[1])
		}
	}
	var c interp.FritschButland
	if err := c.Fit(xs, ys); err != nil {
		return l.segment(p)
	}
	y := c.Predict(p)
	if l.geo() {
		return math.Exp(y)
	}
	return y
}

// uncertainty gives the law's own standard uncertainty at a value, in the sense of
// quantity.Quantity.Tol.
func (l Law) uncertainty(value float64) float64 {
	geo := l.geo()
	if l.Uncertainty == nil {
		if l.Source != Assumed || l.Kind == Listed {
			return 0
		}
		switch {
		case geo:
			return AssumedU
		case l.Kind == Listed: // what a switch is printed with
			return 0
		case l.Kind == Decibel: // of the travel: about half a decibel wherever the fader stands
			return math.Abs(l.exponent(1)) * 20 * math.Log10(1+AssumedU)
		case l.Kind == Bipolar: // nothing in the middle, which is exact
			return AssumedU * math.Abs(value)
		}
		// with the value, and a little of the range: an end of the scale is printed, a law between its ends is not
		ends := math.Abs(l.value(1-1e-6).Value - l.value(1e-6).Value)
		return AssumedU * min(ends, math.Abs(value)+0.2*ends)
	}
	u := l.Uncertainty.U
	switch {
	case l.Uncertainty.Relative && geo:
		return u
	case l.Uncertainty.Relative:
		return u * math.Abs(value)
	case geo:
		return u * l.factor() / math.Max(math.Abs(value), 1e-12)
	}
	return u * math.Abs(l.factor())
}

// spread gives what the uncertainty of the travel makes in the quantity.
func (l Law) spread(p Position) float64 {
	if p.U == 0 {
		return 0
	}
	a, b := l.value(math.Max(p.Travel-p.U, 1e-9)), l.value(math.Min(p.Travel+p.U, 1-1e-9))
	width := math.Min(p.Travel+p.U, 1) - math.Max(p.Travel-p.U, 0)
	if a.Off || b.Off || width <= 0 {
		return 0
	}
	return math.Abs(quantity.Distance(a, b)) * p.U / width
}

// Setting is a position chosen for a wanted quantity.
type Setting struct {
	Position
	Reached quantity.Quantity
	// Step is the larger of the distances to the neighbouring positions, in the sense of
	// quantity.Distance.
	Step float64
	// Clamped is set where the wanted value is beyond the end of the scale.
	Clamped bool
	// Error is how far Reached is from the wanted value (quantity.Distance).
	Error float64
}

// Inverse gives the nearest position of the face for a quantity; see Worked.Inverse, which is
// quicker where the same scale is asked more than once.
func (l Law) Inverse(f Face, want quantity.Quantity) (Setting, error) {
	return WorkOut(f, l).Inverse(want)
}

// StepAt gives the larger distance from a position to its neighbours, in the sense of
// quantity.Distance; 0 for words.
func (l Law) StepAt(f Face, i int) float64 { return WorkOut(f, l).Step(i) }

// Travel gives the travel at which the law reaches a value, not rounded to any step; ok is
// false beyond the ends or for a list. It is what a scale is drawn by.
func (l Law) Travel(want quantity.Quantity) (p float64, ok bool) {
	if l.Kind == Listed || want.Off || want.Dim != l.Dim() {
		return 0, false
	}
	lo, hi := 0.0, 1.0
	if l.Off == "bottom" {
		lo = 1e-6
	}
	if l.Off == "top" {
		hi = 1 - 1e-6
	}
	a, b := l.value(lo).Value, l.value(hi).Value
	if want.Value < math.Min(a, b) || want.Value > math.Max(a, b) {
		return 0, false
	}
	for range 60 {
		mid := (lo + hi) / 2
		if (l.value(mid).Value <= want.Value) == (b > a) {
			lo = mid
		} else {
			hi = mid
		}
	}
	return lo, true
}

// Raw gives what a law of numbers makes of a travel in the law's own unit and by its own convention; ok is false where that end means none, and for a list.
func (l Law) Raw(travel float64) (v float64, ok bool) {
	if l.Kind == Listed || l.value(travel).Off {
		return 0, false
	}
	return l.raw(travel), true
}

// Own gives a quantity's value, as a meaning has it, in the law's own unit and by its own convention; it undoes what Quantity makes of Raw. For a resonance in Q there is no such factor: the law's own unit is then that of the meaning.
func (l Law) Own(value float64) float64 {
	if u, _ := quantity.UnitOf(l.Unit); u.Symbol == "Q" {
		return value
	}
	return value / l.factor()
}
