package scale

import (
	"fmt"
	"math"
	"strings"

	"glossator/core/fault"
	"glossator/core/quantity"
)

// LawKind is the shape of the way from travel to quantity.
type LawKind string

// The kinds of law.
const (
	Linear      LawKind = "linear"
	Exponential LawKind = "exponential"
	Power       LawKind = "power"
	Bipolar     LawKind = "bipolar"
	Decibel     LawKind = "decibel"
	Logistic    LawKind = "logistic"
	Table       LawKind = "table"
	Segments    LawKind = "segments"
	Listed      LawKind = "list"
)

// LawKinds has all that is known of each kind of law: a kind is added here, and nowhere else.
var LawKinds = []LawSpec{
	{Kind: Linear, Label: "linear", Words: "linear", Formula: "min + (max - min) p", Fields: []LawField{bottom, top},
		check: isRange, value: func(l Law, p float64) float64 { return l.Min + (l.Max-l.Min)*p }, text: rangeText},
	{Kind: Exponential, Label: "equal ratios", Words: "equal ratios", Formula: "min (max/min)^p", Fields: []LawField{bottom, top},
		check: func(l Law, u quantity.Unit, out *fault.List) {
			isRange(l, u, out)
			if !(l.Min > 0 && l.Max > 0) {
				out.Add("/min", "expected min and max above 0 for equal ratios, got %v and %v", l.Min, l.Max)
			}
		}, value: func(l Law, p float64) float64 { return l.Min * math.Pow(l.Max/l.Min, p) }, text: rangeText},
	{Kind: Power, Label: "power", Words: "power", Formula: "min + (max - min) p^exponent", Fields: []LawField{bottom, top, exponent("Exponent", 2)},
		check: isRange, value: func(l Law, p float64) float64 { return l.Min + (l.Max-l.Min)*math.Pow(p, l.exponent(1)) }, text: rangeText},
	{Kind: Bipolar, Label: "about a centre", Words: "both ways from the centre", Formula: "odd about the centre: max sign(x) ((|x| - dead)/(1 - dead))^exponent, x = 2p - 1",
		Fields: []LawField{{Name: "max", Label: "At either end"}, exponent("Exponent", 0), {Name: "dead", Label: "Dead part of the half"}},
		check: func(l Law, u quantity.Unit, out *fault.List) {
			if l.Max == 0 {
				out.Add("/max", "expected a value other than 0")
			}
			if u.Dim.Geometric() {
				out.Add("/unit", "expected a unit that can be below 0, got %q", l.Unit)
			}
			if l.Dead < 0 || l.Dead >= 1 {
				out.Add("/dead", "expected 0 or more and below 1, got %v", l.Dead)
			}
		}, value: func(l Law, p float64) float64 {
			x := 2*p - 1
			m := (math.Abs(x) - l.Dead) / (1 - l.Dead)
			if m <= 0 {
				return 0
			}
			return math.Copysign(l.Max*math.Pow(m, l.exponent(1)), x*l.Max)
		}, text: func(l Law) string { return fmt.Sprintf("±%g %s", l.Max, l.Unit) }, Centred: true},
	{Kind: Decibel, Label: "fader, dB", Words: "fader", Formula: "max + exponent 20 log10(p): a fader whose gain goes with a power of the travel",
		Fields: []LawField{{Name: "max", Label: "At the top, dB"}, exponent("Exponent of the travel", 0)},
		check: func(l Law, u quantity.Unit, out *fault.List) {
			if u.Dim != quantity.DimLevel || l.Off != "bottom" {
				out.Add("/off", "expected unit dB and off at the bottom: a fader ends in silence")
			}
		}, value: func(l Law, p float64) float64 { return l.Max + l.exponent(1)*20*math.Log10(math.Max(p, 1e-9)) },
		text: func(l Law) string { return fmt.Sprintf("up to %g dB", l.Max) }},
	{Kind: Logistic, Label: "S-shaped", Words: "S-shaped", Formula: "min + (max - min) (s(p) - s(0))/(s(1) - s(0)), s(p) = 1/(1 + e^(-exponent (p - 1/2))): slow at both ends",
		Fields: []LawField{bottom, top, exponent("Steepness", 6)},
		check:  isRange, value: func(l Law, p float64) float64 {
			s := func(p float64) float64 { return 1 / (1 + math.Exp(-l.exponent(6)*(p-0.5))) }
			return l.Min + (l.Max-l.Min)*(s(p)-s(0))/(s(1)-s(0))
		}, text: rangeText},
	{Kind: Table, Label: "smooth through points", Words: "curve through points", Formula: "monotone cubic through the points (Fritsch and Butland), in log value where equal steps are ratios", Fields: []LawField{}, Points: true,
		check: arePoints, value: Law.table, text: pointsText},
	{Kind: Segments, Label: "straight between points", Words: "straight between points", Formula: "straight lines through the points, in log value where equal steps are ratios", Fields: []LawField{}, Points: true,
		check: arePoints, value: Law.segment, text: pointsText},
	{Kind: Listed, Label: "a value each", Words: "a value for each position", Formula: "each position its own value", Fields: []LawField{}, Values: true,
		check: func(Law, quantity.Unit, *fault.List) {}, value: func(Law, float64) float64 { return 0 }, text: func(l Law) string {
			words := make([]string, len(l.Values))
			for i, v := range l.Values {
				words[i] = "–"
				if v != nil {
					words[i] = fmt.Sprint(v)
				}
			}
			return strings.Join(words, ", ") + " " + l.Unit
		}},
}

// LawSpec is a kind of law.
type LawSpec struct {
	Kind LawKind `json:"kind"`
	// Label is what a form calls it, Words what a sentence does, Formula what it is of the travel p.
	Label   string `json:"label"`
	Words   string `json:"words"`
	Formula string `json:"formula"`
	// Fields are the numbers that it has.
	Fields []LawField `json:"fields"`
	// Points is set where it goes through points, Values where it has a value for each position.
	Points bool `json:"points"`
	Values bool `json:"values"`
	// Centred is set where the middle of the travel is none.
	Centred bool `json:"centred"`

	// check finds what is wrong with its numbers, value gives what it makes of a travel in the law's own unit, text tells its numbers in short.
	check func(l Law, u quantity.Unit, out *fault.List)
	value func(l Law, p float64) float64
	text  func(l Law) string
}

// LawField is a number that a kind of law has.
type LawField struct {
	// Name is that of the field in the JSON form of a law.
	Name  string `json:"name"`
	Label string `json:"label"`
	// Start is what a form begins with; 0 for nothing.
	Start float64 `json:"start"`
}

var (
	bottom = LawField{Name: "min", Label: "At the bottom"}
	top    = LawField{Name: "max", Label: "At the top"}
)

func exponent(label string, start float64) LawField {
	return LawField{Name: "exponent", Label: label, Start: start}
}

// LawNumbers lists the numbers that laws may have: their names in the JSON form, and the columns of a table of controls.
var LawNumbers = []struct {
	Name, Column string
	Of           func(l *Law) *float64
}{
	{"min", "law min", func(l *Law) *float64 { return &l.Min }}, {"max", "law max", func(l *Law) *float64 { return &l.Max }},
	{"exponent", "exponent", func(l *Law) *float64 { return &l.Exponent }}, {"dead", "dead", func(l *Law) *float64 { return &l.Dead }},
}

var lawIndex = func() map[LawKind]*LawSpec {
	m := map[LawKind]*LawSpec{}
	for i := range LawKinds {
		m[LawKinds[i].Kind] = &LawKinds[i]
	}
	return m
}()

// SpecOfLaw finds a kind of law; nil where there is none.
func SpecOfLaw(k LawKind) *LawSpec { return lawIndex[k] }

// exponent gives the law's exponent, or what holds where there is none.
func (l Law) exponent(otherwise float64) float64 {
	if l.Exponent == 0 {
		return otherwise
	}
	return l.Exponent
}

// isRange checks a law from min to max.
func isRange(l Law, u quantity.Unit, out *fault.List) {
	if l.Max == l.Min {
		out.Add("/max", "expected a value other than min (%v): a law must rise or fall", l.Min)
	}
	if u.Dim.Geometric() && (l.Min < 0 || l.Max < 0 || (l.Min == 0 || l.Max == 0) && l.Off == "") {
		out.Add("/min", "expected values above 0 for %s unless that end is off", u.Dim)
	}
}

func rangeText(l Law) string { return fmt.Sprintf("%g to %g %s", l.Min, l.Max, l.Unit) }

func arePoints(l Law, u quantity.Unit, out *fault.List) {
	out.Under("/points", l.checkPoints(u.Dim.Geometric()))
}

func pointsText(l Law) string {
	pts := make([]string, len(l.Points))
	for i, p := range l.Points {
		pts[i] = fmt.Sprintf("%g: %g", p[0], p[1])
	}
	return strings.Join(pts, ", ") + " " + l.Unit
}

// NumbersText tells the numbers of a law in short: "20 to 20000 Hz".
func (l Law) NumbersText() string {
	if s := SpecOfLaw(l.Kind); s != nil {
		return s.text(l)
	}
	return ""
}

// kindNames lists the kinds for a message: "linear, exponential, ... or list".
func kindNames() string {
	var names []string
	for _, s := range LawKinds {
		names = append(names, string(s.Kind))
	}
	last := len(names) - 1
	return strings.Join(names[:last], ", ") + " or " + names[last]
}

// bounds are the values that a law may give, by dimension: wider than anything an instrument has, narrow enough that all arithmetic stays finite.
var bounds = map[quantity.Dim][2]float64{
	quantity.DimFrequency: {1e-6, 1e7}, quantity.DimDuration: {1e-7, 1e6}, quantity.DimBeats: {1e-6, 1e4}, quantity.DimLevel: {-1000, 1000}, quantity.DimInterval: {-1e6, 1e6},
	quantity.DimOctaves: {-1000, 1000}, quantity.DimRatio: {-1e6, 1e6}, quantity.DimCount: {-1e6, 1e6}, quantity.DimResonance: {-10, 10},
}

// checkValues sees to it that the value at every position of the face is an ordinary number within what an instrument can have, with an uncertainty that
// is one too. Values are looked at where they are extreme: a test holds that against all of them.
func (l Law) checkValues(f Face, out *fault.List) {
	u, _ := quantity.UnitOf(l.Unit)
	if u.Dim.Named() {
		return
	}
	n := f.Len()
	if l.Kind == Listed {
		for i := range min(n, len(l.Values)) {
			if v, set := l.Quantity(Position{Index: i}); set && !v.Off && !l.ordinary(v, func() string { return f.At(i).Reading }, out) {
				return
			}
		}
		return
	}
	// all kinds go one way along the travel, so that their extremes are at the ends, beside an end that is off, or at a point
	for _, i := range []int{0, 1, n / 2, n - 2, n - 1} {
		if at := f.At(i); !l.ordinaryAt(at, out) {
			return
		}
	}
	for _, pt := range l.Points {
		if !l.ordinaryAt(Position{Travel: pt[0], Reading: fmt.Sprintf("travel %g", pt[0])}, out) {
			return
		}
	}
}

// outOfBounds tells whether a value is beyond what an instrument can have.
func outOfBounds(v quantity.Quantity) bool {
	limit, is := bounds[v.Dim]
	return is && (v.Value < limit[0] || v.Value > limit[1])
}

// ordinaryAt adds a fault where the law gives no ordinary number at a position.
func (l Law) ordinaryAt(p Position, out *fault.List) bool {
	v, set := l.Quantity(p)
	if !set || v.Off {
		return true
	}
	return l.ordinary(v, func() string { return p.Reading }, out)
}

// ordinary adds a fault where a value is no ordinary number; reading tells where it stands.
func (l Law) ordinary(v quantity.Quantity, reading func() string, out *fault.List) bool {
	u, _ := quantity.UnitOf(l.Unit)
	switch {
	case u.Symbol == "Q" && v.Value >= 1:
		out.Add("", "expected an ordinary number at every position, got a Q of %g at %s", quantity.Resonance(v.Value).Q(), reading())
	case math.IsNaN(v.Value) || math.IsInf(v.Value, 0):
		out.Add("", "expected an ordinary number at every position, got %v at %s", v.Value, reading())
	case outOfBounds(v):
		out.Add("", "expected values that an instrument can have, got %g %s at %s", v.Value/max(u.Factor, 1e-300), l.Unit, reading())
	case !v.Finite():
		out.Add("", "expected an uncertainty that is an ordinary number, got %v at %s", v.Tol, reading())
	default:
		return true
	}
	return false
}
