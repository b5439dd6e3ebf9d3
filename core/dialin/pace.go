package dialin

import (
	"slices"

	"gonum.org/v1/gonum/stat"
)

// Pace is how long a line of a list takes by hand, in seconds: the median of past ones with the quartiles. N counts them; with fewer than PaceLeast nothing is told, and all are 0.
type Pace struct {
	Each float64 `json:"each"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
	N    int     `json:"n"`
}

// Between ticks of a hand lies at least paceShort and at most paceLong, in seconds: what is quicker was sent by MIDI, what is slower was a pause (common practice, no source).
const (
	PaceLeast = 8
	paceShort = 0.4
	paceLong  = 120
)

// PaceOf tells from the times of ticks, list by list in rising order, how long a line takes.
func PaceOf(lists [][]float64) (out Pace) {
	var all []float64
	for _, times := range lists {
		for i := 1; i < len(times); i++ {
			if d := times[i] - times[i-1]; d >= paceShort && d <= paceLong {
				all = append(all, d)
			}
		}
	}
	if out.N = len(all); out.N < PaceLeast {
		return out
	}
	slices.Sort(all)
	q := func(p float64) float64 { return stat.Quantile(p, stat.LinInterp, all, nil) }
	out.Low, out.Each, out.High = q(0.25), q(0.5), q(0.75)
	return out
}

// Spent tells from the times of the ticks of a list, in rising order, how long the hands were at it, in seconds: pauses count for nothing.
func Spent(times []float64) (sum float64) {
	for i := 1; i < len(times); i++ {
		if d := times[i] - times[i-1]; d <= paceLong {
			sum += d
		}
	}
	return sum
}
