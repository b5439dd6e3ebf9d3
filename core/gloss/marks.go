package gloss

import (
	"math"

	q "glossator/core/quantity"
)

// AxisMark is a round number along an axis, as short as it is written there.
type AxisMark struct {
	Value float64 `json:"value"`
	Text  string  `json:"text"`
}

// preferred frequencies in octaves (ISO 266:1997).
var preferred = []float64{31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000}

// mostMarks is about how many marks an axis has.
const mostMarks = 11

// marks lays round numbers along an axis of a dimension.
func marks(d q.Dim, low, high float64) []AxisMark {
	var at []float64
	switch octaves := math.Log2(high / low); {
	case !d.Geometric():
		at = evenMarks(low, high)
	case d == q.DimFrequency && low > 10 && octaves > 4:
		at = preferred
	default:
		at = decadeMarks(low, high, octaves)
	}
	out := []AxisMark{}
	for _, v := range at {
		if slack := 1e-9 * (high - low); v >= low-slack && v <= high+slack {
			out = append(out, AxisMark{v, d.Short(v)})
		}
	}
	return out
}

// decadeMarks gives one, two or three numbers a decade.
func decadeMarks(low, high, octaves float64) []float64 {
	if !(low > 0) || math.IsInf(octaves, 0) {
		return nil
	}
	steps := []float64{1, 2, 5}
	if octaves > 12 {
		steps = []float64{1}
	} else if octaves > 6 {
		steps = []float64{1, 3}
	}
	var out []float64
	for e := math.Floor(math.Log10(low)); e <= math.Ceil(math.Log10(high)); e++ {
		for _, s := range steps {
			out = append(out, s*math.Pow(10, e))
		}
	}
	return out
}

// evenMarks gives multiples of 1, 2, 2.5 or 5 times a power of ten.
func evenMarks(low, high float64) []float64 {
	raw := (high - low) / mostMarks
	base := math.Pow(10, math.Floor(math.Log10(raw)))
	step := raw
	for _, m := range []float64{1, 2, 2.5, 5, 10} {
		if m*base >= raw {
			step = m * base
			break
		}
	}
	var out []float64
	for k := math.Ceil(low/step - 1e-9); k*step <= high+1e-9*step; k++ {
		out = append(out, k*step+0) // without a negative zero
	}
	return out
}
