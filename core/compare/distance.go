package compare

import (
	"math"

	"glossator/core/hear"
	"glossator/core/jnd"
)

// Distance is how far two sounds are apart, in just-noticeable differences.
type Distance struct {
	Total      float64 `json:"total"`
	Level      float64 `json:"level"`
	Colour     float64 `json:"colour"`
	Shape      float64 `json:"shape"`
	Brightness float64 `json:"brightness"`
	Motion     float64 `json:"motion"`
	Pitch      float64 `json:"pitch"`
	// Shift is how much later b begins, in seconds: it is taken out.
	Shift float64 `json:"shift"`
	// Gain is how much louder b has to be made, in decibels, to be as loud.
	Gain float64 `json:"gain"`
}

// Silent is the distance, and its level, where one of two sounds is silent and the other is not: more than any two sounds that are heard lie apart, as nothing is
// worse than silence.
const Silent = 120.0

// Nothing is the loudness of a sketch in which nothing is heard, in LUFS.
const Nothing = -90.0

// Apart gives the distance of b from a. align looks for a shift in time of up to half a second; sounds
// of one engine need none.
func Apart(a, b *Sketch, align bool) Distance {
	d := Distance{Gain: a.Loudness - b.Loudness}
	if a.Loudness <= Nothing || b.Loudness <= Nothing {
		d.Gain = 0
		if a.Loudness > Nothing || b.Loudness > Nothing {
			d.Level = Silent
		}
		d.Total = d.Level
		return d
	}
	d.Level = math.Abs(d.Gain) / jnd.Level.Size
	shift := 0
	if align {
		shift = offset(a, b)
		d.Shift = float64(shift) * a.Hop
	}
	d.Colour = colour(a, b, d.Gain) / jnd.Level.Size
	d.Shape, d.Brightness = courses(a, b, d.Gain, shift)
	d.Motion = motion(a, b) / jnd.Motion.Size
	d.Pitch = outOfTune(a, b, d.Shift)
	for _, x := range []float64{d.Level, d.Colour, d.Shape, d.Brightness, d.Motion, d.Pitch} {
		d.Total += x * x
	}
	d.Total = math.Sqrt(d.Total)
	return d
}

// Recordings gives the distance of b from a where each is one take of its own: what comes before the sound does not count, nor where a beat stands that both have.
func Recordings(a, b hear.Wave) Distance {
	var sketches [2]*Sketch
	var beats, leads [2]float64
	for i, w := range []hear.Wave{a, b} {
		w, leads[i] = begun(w)
		sketches[i] = Sketched(w)
		beats[i], _ = hear.Listen(w).Beat()
	}
	if x, y := beats[0], beats[1]; x > 0 && math.Abs(x-y) < 0.15*x {
		for i, s := range sketches {
			s.Centre = overBeat(s.Centre, 1/beats[i]/s.Hop)
		}
	}
	d := Apart(sketches[0], sketches[1], true)
	d.Shift += leads[1] - leads[0]
	return d
}

// begun cuts a sound to where it begins, less a hundredth of a second, and gives how many seconds were before that.
func begun(w hear.Wave) (hear.Wave, float64) {
	top := 0.0
	at := func(k int) float64 {
		x := math.Abs(w.Left[k])
		if w.Right != nil {
			x = max(x, math.Abs(w.Right[k]))
		}
		return x
	}
	for k := range w.Left {
		top = max(top, at(k))
	}
	from := 0
	for from < len(w.Left) && at(from) <= top/1000 {
		from++
	}
	lead := int(0.01 * w.Rate)
	cut := func(x []float64) []float64 {
		if x == nil || from >= lead {
			return x[min(len(x), max(0, from-lead)):]
		}
		return append(make([]float64, lead-from), x...)
	}
	return hear.Wave{Rate: w.Rate, Left: cut(w.Left), Right: cut(w.Right)}, float64(from-lead) / w.Rate
}

// overBeat takes the mean of a course over a beat of so many frames; what is silent stays so.
func overBeat(x []float64, frames float64) []float64 {
	out := make([]float64, len(x))
	half := max(1, int(frames/2))
	for i := range x {
		if out[i] = x[i]; math.IsNaN(x[i]) {
			continue
		}
		sum, n := 0.0, 0.0
		for k := max(0, i-half); k <= i+half && k < len(x); k++ {
			if !math.IsNaN(x[k]) {
				sum, n = sum+x[k], n+1
			}
		}
		out[i] = sum / n
	}
	return out
}

// offset finds by how many frames b lies behind a.
func offset(a, b *Sketch) int {
	reach := int(0.5 / a.Hop)
	best, at := math.Inf(-1), 0
	ta, tb := loudest(a), loudest(b)
	for s := -reach; s <= reach; s++ {
		sum := 0.0
		for i := range a.Contour {
			if k := i + s; k >= 0 && k < len(b.Contour) {
				sum += max(0, a.Contour[i]-ta+floor) * max(0, b.Contour[k]-tb+floor)
			}
		}
		if sum > best*(1+1e-9) || sum > best*(1-1e-9) && abs(s) < abs(at) {
			best, at = sum, s
		}
	}
	return at
}

func abs(n int) int { return max(n, -n) }

func loudest(s *Sketch) float64 {
	top := math.Inf(-1)
	for _, c := range s.Contour {
		top = max(top, c)
	}
	return top
}

// colour compares the mean levels of the bands.
func colour(a, b *Sketch, gain float64) float64 {
	w := weights()
	top := math.Inf(-1)
	for i := range a.Mean {
		top = max(top, a.Mean[i]+w[i], b.Mean[i]+gain+w[i])
	}
	var sum, all float64
	for i := range a.Mean {
		x, y := max(a.Mean[i]+w[i]-top, -floor), max(b.Mean[i]+gain+w[i]-top, -floor)
		weigh := math.Pow(10, 0.03*max(x, y)) // as loud as the band is
		sum += weigh * (x - y) * (x - y)
		all += weigh
	}
	return math.Sqrt(sum / all)
}

// courses compares loudness and brightness over time.
func courses(a, b *Sketch, gain float64, shift int) (shape, brightness float64) {
	top := max(loudest(a), loudest(b)+gain)
	var sum, bright, n, m float64
	for i := range max(len(a.Contour), len(b.Contour)-shift) {
		x, y := -floor, -floor
		cx, cy := math.NaN(), math.NaN()
		if i < len(a.Contour) {
			x, cx = max(a.Contour[i]-top, -floor), a.Centre[i]
		}
		if k := i + shift; k >= 0 && k < len(b.Contour) {
			y, cy = max(b.Contour[k]+gain-top, -floor), b.Centre[k]
		}
		w := math.Pow(10, 0.03*max(x, y))
		if max(x, y) <= -floor {
			continue
		}
		sum += w * (x - y) * (x - y)
		n += w
		if !math.IsNaN(cx) && !math.IsNaN(cy) {
			w := math.Pow(10, 0.03*min(x, y))
			bright += w * (cx - cy) * (cx - cy)
			m += w
		}
	}
	if n > 0 {
		shape = math.Sqrt(sum/n) / jnd.Level.Size
	}
	if m > 0 {
		brightness = math.Sqrt(bright/m) / jnd.Brightness.Size
	}
	return shape, brightness
}

// motion compares how much the bands move, and how fast: what has to be carried from rate to rate, in
// octaves, as a share of what moves.
func motion(a, b *Sketch) float64 {
	w := weights()
	top := math.Inf(-1)
	for i := range a.Mean {
		top = max(top, a.Mean[i]+w[i])
	}
	var sum, all float64
	for i := range a.Motion {
		weigh := math.Pow(10, 0.03*max(a.Mean[i]+w[i]-top, -floor))
		var ma, mb float64
		for r := range rates {
			ma += a.Motion[i][r]
			mb += b.Motion[i][r]
		}
		all += weigh
		const audible = 3.0 // decibels that a band has to move, over all rates, to be heard moving
		carried, ca, cb := 0.0, 0.0, 0.0
		for r := range rates {
			ca += a.Motion[i][r] / max(ma, audible)
			cb += b.Motion[i][r] / max(mb, audible)
			carried += math.Abs(ca - cb)
		}
		sum += weigh * carried * carried
	}
	return math.Sqrt(sum / all)
}
