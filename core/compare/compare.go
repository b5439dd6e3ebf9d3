// Package compare sets two sounds side by side: a table of what differs, in units and in just-noticeable
// differences, and one distance.
//
// The distance is the root of the sum of squares of six parts, each in just-noticeable differences:
//
//   - level: the difference in loudness (ITU-R BS.1770), over 1 dB;
//   - colour: the effective difference of the mean levels in auditory bands at equal loudness, weighed by how loud
//     the bands are, over 1 dB;
//   - shape: the effective difference of the loudness over time at equal loudness, over 1 dB;
//   - brightness: the effective difference of the centre of the spectrum over time, over 0.25 of an auditory band;
//   - motion: how far the movement within bands has to be shifted in rate (octaves) and in amount, over 0.25;
//   - pitch: the difference in cents over 5 apart from whole octaves, at most 20, less where the harmonics do not agree on a pitch; the
//     middle of those at five places of the sound.
//
// The same sound has a distance of 0. Parts that hang on a phase (where a beat stands at a time) are not
// compared, only how fast and how far it beats.
//
// Its neighbours: hear measures one sound, refine lessens the distance.
package compare

import (
	"math"
	"slices"
	"sync"

	"glossator/core/dsp"
	"glossator/core/hear"
	"glossator/core/jnd"
	q "glossator/core/quantity"
)

// Sketch is what the distance needs of a sound.
type Sketch struct {
	Loudness float64 // LUFS; -90 where there is nothing
	// Levels in decibels of each auditory band, in frames of Hop seconds.
	Levels [][]float64
	Hop    float64
	// Contour is the loudness of each frame in decibels, Centre the middle of its spectrum in auditory bands (NaN
	// where it is silent).
	Contour, Centre []float64
	// Mean level of each band over the frames that sound.
	Mean []float64
	// Motion of each band: how much it moves at each of the modulation rates (share).
	Motion [][]float64
	// pitches are what is heard at places pitchStep apart from the beginning
	pitches []pitchAt
}

// pitchAt is the pitch at a place: hertz, 0 for none, and how unsure it is, as a share: much where the harmonics do not agree.
type pitchAt struct{ hz, unsure float64 }

// At how many places pitches are compared, how far they lie apart and how long each is, in seconds.
const (
	pitchPlaces = 5
	pitchStep   = 0.4
	pitchLength = 0.25
)

// rates are the middles of the bands of modulation, in hertz: an octave apart.
var rates = []float64{0.5, 1, 2, 4, 8, 16}

// floor is how far below the loudest a frame or band counts as silent, in decibels.
const floor = 50.0

// weights of the auditory bands by A-weighting, in decibels.
var weights = sync.OnceValue(func() [hear.Bands]float64 {
	var w [hear.Bands]float64
	for b := range w {
		w[b] = q.AWeight(max(30, hear.ERBFrequency(float64(b)+0.5)))
	}
	return w
})

// sketchRate is the rate at which sounds are compared; others are brought to it.
const sketchRate = 48000

// Sketched makes the sketch of a sound.
func Sketched(w hear.Wave) *Sketch {
	w = w.At(sketchRate)
	s := &Sketch{Loudness: -90}
	if l, ok := hear.Loudness(w); ok {
		s.Loudness = l
	}
	mono := make([]float64, len(w.Left))
	for k := range mono {
		mono[k] = w.Left[k]
		if w.Right != nil {
			mono[k] = (w.Left[k] + w.Right[k]) / 2
		}
	}
	size := dsp.PowerUpTo(0.045 * w.Rate)
	hop := size / 2
	s.Hop = float64(hop) / w.Rate
	frames := dsp.NewFrames(size)
	band := make([]int, size/2+1)
	for i := range band {
		band[i] = int(hear.ERBNumber(float64(i) * w.Rate / float64(size)))
	}
	wts := weights()
	// half a frame of silence before, so that the first attack has its frame
	for a := -hop; a < len(mono); a += hop {
		c := frames.Coefficients(mono, a)
		power := make([]float64, hear.Bands)
		for i := range c {
			if b := band[i]; b < hear.Bands {
				power[b] += real(c[i])*real(c[i]) + imag(c[i])*imag(c[i])
			}
		}
		var sum, first, comp float64
		levels := make([]float64, hear.Bands)
		for b, p := range power {
			levels[b] = 10 * math.Log10(p/float64(size)/float64(size)+1e-13)
			p *= math.Pow(10, wts[b]/10)
			sum += p
			l := math.Pow(p, 0.3) // loudness of a band (Stevens' law, from memory)
			first += l * (float64(b) + 0.5)
			comp += l
		}
		s.Levels = append(s.Levels, levels)
		s.Contour = append(s.Contour, 10*math.Log10(sum/float64(size)/float64(size)+1e-13))
		centre := math.NaN()
		if comp > 0 {
			centre = first / comp
		}
		s.Centre = append(s.Centre, centre)
	}
	s.finish(w)
	return s
}

func (s *Sketch) finish(w hear.Wave) {
	top := math.Inf(-1)
	for _, c := range s.Contour {
		top = max(top, c)
	}
	s.Mean = make([]float64, hear.Bands)
	n := 0.0
	for i, c := range s.Contour {
		if c < top-floor {
			s.Centre[i] = math.NaN()
			continue
		}
		n++
		for b, l := range s.Levels[i] {
			s.Mean[b] += math.Pow(10, l/10)
		}
	}
	for b := range s.Mean {
		s.Mean[b] = 10 * math.Log10(s.Mean[b]/max(n, 1)+1e-13)
	}
	s.moves(top)
	for i := range pitchPlaces {
		from := int(float64(i) * pitchStep * w.Rate)
		to := min(len(w.Left), from+int(pitchLength*w.Rate))
		if to-from < int(0.1*w.Rate) {
			break
		}
		at := pitchAt{}
		if k := int((float64(i)*pitchStep + pitchLength/2) / s.Hop); k < len(s.Contour) && s.Contour[k] > top-25 {
			part := hear.Wave{Rate: w.Rate, Left: w.Left[from:to]}
			if w.Right != nil {
				part.Right = w.Right[from:to]
			}
			if p := hear.Listen(part).Measure("pitch", 0)[0]; p.Known {
				at = pitchAt{p.Value, p.Uncertainty / p.Value}
			}
		}
		s.pitches = append(s.pitches, at)
	}
}

// outOfTune gives the middle of the differences in pitch at the places where both have one, in just-noticeable differences, each the less
// the less sure it is. Two sounds are compared at the same places, as which note of a phrase is loudest is not the same in both.
func outOfTune(a, b *Sketch, shift float64) float64 {
	var all []float64
	late := int(math.Round(shift / pitchStep)) // with a shift that is no whole step, what is held through it still tells
	for i, x := range a.pitches {
		k := i + late
		if x.hz == 0 || k < 0 || k >= len(b.pitches) || b.pitches[k].hz == 0 {
			continue
		}
		// an octave is taken out: which of two octaves a tone is in is not always plain, and the colour tells
		d := min(20, math.Abs(math.Remainder(1200*math.Log2(b.pitches[k].hz/x.hz), 1200))/jnd.Pitch.Size)
		// the less the harmonics agree (detuned voices, several notes), the less a pitch says
		u := max(x.unsure, b.pitches[k].unsure) / 0.006
		all = append(all, d/(1+u*u))
	}
	if len(all) == 0 {
		return 0
	}
	slices.Sort(all)
	if n := len(all); n%2 == 0 {
		return (all[n/2-1] + all[n/2]) / 2
	}
	return all[len(all)/2]
}

// moves finds how much each band moves at each rate, about its own course smoothed over a second.
func (s *Sketch) moves(top float64) {
	n := len(s.Levels)
	for b := range hear.Bands {
		out := make([]float64, len(rates))
		series := make([]float64, n)
		peak := math.Inf(-1)
		for i := range series {
			series[i] = max(s.Levels[i][b], top-60)
			peak = max(peak, series[i])
		}
		if peak > top-floor {
			for r, rate := range rates {
				// the energy that is left when the mean over one period is taken from the mean over half of one
				lo, hi := smooth(series, 1/rate/s.Hop), smooth(series, 0.5/rate/s.Hop)
				sum, c := 0.0, 0.0
				for i := range series {
					if s.Contour[i] > top-30 {
						d := hi[i] - lo[i]
						sum += d * d
						c++
					}
				}
				if c > 0 {
					out[r] = math.Sqrt(sum / c) // decibels, effective
				}
			}
		}
		s.Motion = append(s.Motion, out)
	}
}

// smooth gives the running mean over n frames (not a whole number).
func smooth(x []float64, n float64) []float64 {
	sum := make([]float64, len(x)+1)
	for k, y := range x {
		sum[k+1] = sum[k] + y
	}
	at := func(p float64) float64 {
		p = min(max(p, 0), float64(len(x)))
		i := int(p)
		if i >= len(x) {
			return sum[len(x)]
		}
		return sum[i] + (p-float64(i))*x[i]
	}
	out := make([]float64, len(x))
	for k := range x {
		a, b := max(0, float64(k)+0.5-n/2), min(float64(len(x)), float64(k)+0.5+n/2)
		if b-a < 1e-9 {
			out[k] = x[k]
			continue
		}
		out[k] = (at(b) - at(a)) / (b - a)
	}
	return out
}

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

// Apart gives the distance of b from a. align looks for a shift in time of up to half a second; sounds
// of one engine need none.
func Apart(a, b *Sketch, align bool) Distance {
	d := Distance{Gain: a.Loudness - b.Loudness}
	if a.Loudness <= -90 || b.Loudness <= -90 {
		d.Gain = 0
		if a.Loudness > -90 || b.Loudness > -90 {
			d.Level = 60 // one of them is silent
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

// Contrast is one line of the table of differences.
type Contrast struct {
	What  string        `json:"what"`
	Label string        `json:"label"`
	A     hear.Measured `json:"a"`
	B     hear.Measured `json:"b"`
	// Diff is b less a in the unit of the row: a number, or for times and frequencies a share of a.
	Diff float64 `json:"diff"`
	// Unit of Diff.
	Unit string `json:"unit"`
	// JNDs is how many just-noticeable differences that is; Known is set where both figures are.
	JNDs  float64 `json:"jnds"`
	Known bool    `json:"known"`
	// Of says which note of a phrase the figures are of: "first", "last", or empty for the whole.
	Of string `json:"of"`
	// Sure is set where the difference is more than twice what the two figures together are unsure by.
	Sure bool `json:"sure"`
}

// Times says when the notes of a phrase begin and when the last key is let go, in seconds.
type Times struct {
	// Off is 0 where it is not known.
	Off float64
	// Second and Last are when other notes begin than the first ones; 0 where there are none, or it is not known.
	Second, Last float64
}

// ofNote tells which note of a phrase a figure is taken from: an attack from the first, which comes out of silence, what a single note has
// from the last, which dies away by itself. The rest is of the whole.
var ofNote = map[string]string{"attack": "first", "pitch": "last", "decay": "last", "release": "last", "lfo": "last", "cutoff": "last", "t60": "last", "delay": "last", "detune": "last",
	"pulsewidth": "last", "harmonic": "last"}

// figures measures a sound; of gives for each figure which note it is of.
func figures(w hear.Wave, t Times) (out []hear.Measured, of []string) {
	cut := func(from, to float64) hear.Wave {
		a := min(int(from*w.Rate), len(w.Left))
		b := len(w.Left)
		if to > 0 {
			b = min(int(to*w.Rate), b)
		}
		x := hear.Wave{Rate: w.Rate, Left: w.Left[a:max(a, b)]}
		if w.Right != nil {
			x.Right = w.Right[a:max(a, b)]
		}
		return x
	}
	ears := map[string]*hear.Ear{"": hear.Listen(w)}
	offs := map[string]float64{"": t.Off}
	if t.Second > 0 {
		ears["first"], offs["first"] = hear.Listen(cut(0, t.Second)), 0
	}
	if t.Last > 0 {
		ears["last"], offs["last"] = hear.Listen(cut(t.Last, 0)), max(0, t.Off-t.Last)
	}
	note := func(what string) string {
		if name := ofNote[what]; ears[name] != nil {
			return name
		}
		return ""
	}
	for i, list := range hear.Each(func(what string) (*hear.Ear, float64) { return ears[note(what)], offs[note(what)] }) {
		for _, f := range list {
			out, of = append(out, f), append(of, note(hear.Whats[i]))
		}
	}
	return out, of
}

// Table measures both sounds and says what differs. The times are those of both.
func Table(a, b hear.Wave, t Times) []Contrast {
	var fa, fb []hear.Measured
	var ofA, ofB []string
	var both sync.WaitGroup
	var fault any
	both.Go(func() {
		defer func() { fault = recover() }()
		fa, ofA = figures(a, t)
	})
	fb, ofB = figures(b, t)
	both.Wait()
	if fault != nil {
		panic(fault) // on the caller's goroutine, where it can be caught
	}
	// a sound without a tone has fewer rows: what both have is matched by label
	var out []Contrast
	other := map[string]hear.Measured{}
	for _, f := range fb {
		other[f.Label] = f
	}
	seen := map[string]bool{}
	row := func(x, y hear.Measured, of string) {
		r := Contrast{Of: of, What: x.What, Label: x.Label, A: x, B: y, Unit: x.Unit, Known: x.Known && y.Known}
		if r.Known {
			j, _ := jnd.Figure(x.Label)
			r.Diff = y.Value - x.Value
			r.Sure = math.Abs(r.Diff) > 2*math.Hypot(x.Uncertainty, y.Uncertainty)
			switch {
			case j.Share && x.Value > 0 && y.Value > 0:
				l := math.Log(y.Value / x.Value)
				r.Diff, r.Unit = 100*math.Expm1(l), "%"
				if x.Label == "pitch" {
					r.Diff, r.Unit = 1200*l/math.Ln2, "ct"
				}
				r.JNDs = math.Abs(l) / j.Size
			case j.Size > 0 && !j.Share:
				r.JNDs = math.Abs(r.Diff) / j.Size
			}
		}
		seen[x.Label] = true
		out = append(out, r)
	}
	for i, f := range fa {
		y, ok := other[f.Label]
		if !ok {
			y = hear.Measured{What: f.What, Label: f.Label, Unit: f.Unit, Why: "cannot tell: the other sound has no tone"}
		}
		row(f, y, ofA[i])
	}
	for i, f := range fb {
		if !seen[f.Label] {
			row(hear.Measured{What: f.What, Label: f.Label, Unit: f.Unit, Why: "cannot tell: the other sound has no tone"}, f, ofB[i])
		}
	}
	return out
}
