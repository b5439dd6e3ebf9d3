package quantity

import (
	"fmt"
	"math"
)

// Dim is the dimension of a Quantity.
type Dim string

// The dimensions, each with the unit that Quantity.Value is in.
const (
	DimInterval  Dim = "interval"  // cents
	DimFrequency Dim = "frequency" // hertz
	DimDuration  Dim = "duration"  // seconds
	DimLevel     Dim = "level"     // decibels
	DimRatio     Dim = "ratio"     // 0..1, or -1..1 for a signed amount
	DimOctaves   Dim = "octaves"   // octaves
	DimBeats     Dim = "beats"     // quarter notes
	DimCount     Dim = "count"     // a number of things
	DimResonance Dim = "resonance" // fraction of the way to self-oscillation; 1 oscillates
	DimWave      Dim = "wave"      // Name holds the wave
	DimName      Dim = "name"      // Name holds one of a set of words
)

// Geometric tells whether equal steps of the dimension are equal ratios, so that
// axes are logarithmic and tolerances are ratios.
func (d Dim) Geometric() bool { return d == DimFrequency || d == DimDuration || d == DimBeats }

// Named tells whether a quantity of the dimension is a word, not a number.
func (d Dim) Named() bool { return d == DimWave || d == DimName }

// Quantity is a number with a dimension and a tolerance, or, for waves and names, a
// word. Off marks the end of a scale that means "none"; Value is then 0.
type Quantity struct {
	Dim   Dim     `json:"dim"`
	Value float64 `json:"value"`
	// Tol is one standard uncertainty (JCGM 100:2008): in the unit of the dimension,
	// or a ratio of the value where the dimension is geometric.
	Tol  float64 `json:"tol,omitempty"`
	Name string  `json:"name,omitempty"`
	Off  bool    `json:"off,omitempty"`
}

// Named makes a quantity that is a word.
func Named(d Dim, name string) Quantity { return Quantity{Dim: d, Name: name} }

// OffOf makes the "none" of a dimension.
func OffOf(d Dim) Quantity { return Quantity{Dim: d, Off: true} }

// Finite tells whether value and tolerance are ordinary numbers.
func (q Quantity) Finite() bool {
	return !math.IsNaN(q.Value) && !math.IsInf(q.Value, 0) && !math.IsNaN(q.Tol) && !math.IsInf(q.Tol, 0)
}

// WithTol gives the quantity with its tolerance widened by others, as root sum of
// squares (GUM, JCGM 100:2008, 5.1.2, inputs taken as independent).
func (q Quantity) WithTol(others ...float64) Quantity {
	q.Tol = RSS(append(others, q.Tol)...)
	return q
}

// RSS combines standard uncertainties: the root of the sum of their squares.
func RSS(u ...float64) float64 {
	var s float64
	for _, x := range u {
		s += x * x
	}
	return math.Sqrt(s)
}

// Rectangular gives the standard uncertainty of a value known only to lie within plus
// or minus a, all places being equally likely (GUM 4.3.7).
//
//	u = a/sqrt 3
func Rectangular(a float64) float64 { return math.Abs(a) / math.Sqrt(3) }

// Cover is the coverage factor at which tolerances are stated (GUM 6.2.1).
const Cover = 2

// Distance gives how far b is from a, in the sense tolerances are kept: the
// difference, or for geometric dimensions the natural log of the ratio, which for
// small distances is the relative difference. Words are 0 or 1 apart. A value and
// an Off are as far apart as a level of -96 dB, or wholly (1).
func Distance(a, b Quantity) float64 {
	switch {
	case a.Dim.Named() || b.Dim.Named():
		if a.Name == b.Name {
			return 0
		}
		return 1
	case a.Off && b.Off:
		return 0
	case a.Dim == DimLevel:
		return floorLevel(b) - floorLevel(a)
	case a.Off != b.Off:
		if a.Dim.Geometric() {
			return math.Copysign(math.Ln10*3, map[bool]float64{true: 1, false: -1}[a.Off])
		}
		return b.Value - a.Value
	case a.Dim.Geometric() && a.Value > 0 && b.Value > 0:
		return math.Log(b.Value / a.Value)
	}
	return b.Value - a.Value
}

// Silence is the level taken for "off" where arithmetic needs a number.
const Silence Level = -96

func floorLevel(q Quantity) float64 {
	if q.Off || q.Value < float64(Silence) {
		return float64(Silence)
	}
	return q.Value
}

// Mismatch is returned where a quantity of another dimension was needed.
type Mismatch struct{ Want, Got Dim }

func (m Mismatch) Error() string { return fmt.Sprintf("expected %s, got %s", m.Want, m.Got) }

func (q Quantity) must(d Dim) error {
	if q.Dim != d {
		return Mismatch{Want: d, Got: q.Dim}
	}
	return nil
}
