package quantity

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Drawing is a wave that was drawn: points at equal steps over one cycle, -1 to 1, joined by straight lines, or each held up to
// the next where it is stepped.
type Drawing struct {
	Points  []float64
	Stepped bool
}

// MaxDrawn is how many points a drawn wave may have.
const MaxDrawn = 256

// ParseDrawn reads a drawn wave: "drawn 0 70 100 40 -100", in per cent of full, joined by straight lines, or "stepped 100 -50 30".
// ok is false, and the error nil, where the name is not one of a drawn wave, or of one that does not say what it is
// ("drawn 1").
func ParseDrawn(name string) (d Drawing, ok bool, err error) {
	words := strings.Fields(strings.ReplaceAll(name, "%", " "))
	if len(words) == 0 || words[0] != "drawn" && words[0] != "stepped" {
		return d, false, nil
	}
	if d.Stepped = words[0] == "stepped"; len(words) <= 2 {
		return d, false, nil
	}
	if len(words)-1 > MaxDrawn {
		return d, false, fmt.Errorf("expected at most %d points, got %d", MaxDrawn, len(words)-1)
	}
	flat := true
	for i, w := range words[1:] {
		x, err := strconv.ParseFloat(w, 64)
		if err != nil || !(x >= -100 && x <= 100) {
			return d, false, fmt.Errorf("point %d: expected -100 to 100 (per cent of full), got %q", i+1, w)
		}
		d.Points = append(d.Points, x/100)
		flat = flat && d.Points[i] == d.Points[0]
	}
	if flat {
		return d, false, fmt.Errorf("expected points that are not all the same: such a wave is silent")
	}
	return d, true, nil
}

// String says what it is in few words.
func (d Drawing) String() string {
	if d.Stepped {
		return fmt.Sprintf("drawn in %d steps", len(d.Points))
	}
	return fmt.Sprintf("drawn by %d points", len(d.Points))
}

// At gives the wave at a place in its cycle, 0 to 1.
func (d Drawing) At(p float64) float64 {
	x := (p - math.Floor(p)) * float64(len(d.Points))
	i := min(int(x), len(d.Points)-1)
	a := d.Points[i]
	if d.Stepped {
		return a
	}
	return a + (x-float64(i))*(d.Points[(i+1)%len(d.Points)]-a)
}

// series gives the complex coefficients c_1 to c_n of the wave's Fourier series. Source: Fourier series (Bronshtein), by parts: a
// wave of straight lines has -1/(2 pi k)^2 times the sum of its changes of slope, each turned to its place; one of steps
// 1/(2 pi i k) times that of its jumps.
func (d Drawing) series(n int) []complex128 {
	m := len(d.Points)
	out := make([]complex128, n)
	before := func(j int) float64 { return d.Points[(j+m-1)%m] }
	for k := range out {
		w := 2 * math.Pi * float64(k+1)
		var sum complex128
		for j, y := range d.Points {
			change := y - before(j)
			if !d.Stepped {
				change = float64(m) * (d.Points[(j+1)%m] - 2*y + before(j))
			}
			sin, cos := math.Sincos(w * float64(j) / float64(m))
			sum += complex(change*cos, -change*sin)
		}
		if d.Stepped {
			out[k] = sum / complex(0, w)
		} else {
			out[k] = sum / complex(-w*w, 0)
		}
	}
	return out
}

// drawnSeries gives a drawn wave's series; nil where the name is none that says what it is.
func drawnSeries(name string, n int) []complex128 {
	d, ok, err := ParseDrawn(name)
	if !ok || err != nil {
		return nil
	}
	return d.series(n)
}
