// Package hear measures sound: pitch, level, times of envelopes, spectrum, modulation, filters, echoes
// and reverberation. Each figure carries one standard uncertainty, and says so where it cannot tell.
//
// Its neighbours: synth makes sound, compare sets two sounds side by side, formats/wav reads files.
package hear

import (
	"fmt"
	"math"
	"slices"
	"sync"

	"glossator/core/dsp"
)

// Wave is a sound of one or two channels; Right is nil for one. Full level is 1.
type Wave struct {
	Rate        float64
	Left, Right []float64
	// Peak is the highest sample where the sound had a higher rate before; 0 for what is in the channels.
	Peak float64
}

// Fastest is the highest rate at which sounds are measured, in hertz: what is above is not heard, and takes the time of all the rest.
const Fastest = 64000

// Seconds gives the length.
func (w *Wave) Seconds() float64 { return float64(len(w.Left)) / w.Rate }

// At gives the sound at another rate.
func (w Wave) At(rate float64) Wave {
	if w.Rate == rate {
		return w
	}
	return Wave{Rate: rate, Left: dsp.Resampled(w.Left, w.Rate, rate), Right: dsp.Resampled(w.Right, w.Rate, rate)}
}

// Measured is one measurement.
type Measured struct {
	What  string  `json:"what"`
	Label string  `json:"label"`
	Value float64 `json:"value"`
	// Word is what was found, where it is no figure: a wave.
	Word string `json:"word,omitempty"`
	Unit string `json:"unit"`
	// Uncertainty is one standard uncertainty in the same unit (JCGM 100:2008).
	Uncertainty float64 `json:"uncertainty"`
	// Known is false where the sound does not tell; Why says what is in the way.
	Known bool   `json:"known"`
	Why   string `json:"why,omitempty"`
}

func cannot(what, label, unit, why string) Measured {
	return Measured{What: what, Label: label, Unit: unit, Why: "cannot tell: " + why}
}

func known(what, label string, value float64, unit string, u float64) Measured {
	if math.IsNaN(value) || math.IsInf(value, 0) {
		return cannot(what, label, unit, "the sound is too short or too even for it")
	}
	return Measured{What: what, Label: label, Value: value, Unit: unit, Uncertainty: math.Abs(u), Known: true}
}

// Whats lists what can be measured, for the command line and the interface.
var Whats = []string{"pitch", "level", "attack", "decay", "release", "lfo", "cutoff", "t60", "delay", "width", "detune", "pulsewidth", "spectrum", "harmonic", "wave", "filter", "unison", "fm", "noise", "glide"}

// Ear listens to one sound, and keeps what several measurements need. It may be used by several
// goroutines.
type Ear struct {
	Wave
	mono   []float64 // both channels together; where they cancel, the one turned over
	turned bool      // the channels are each other turned over
	from   int       // where the sound begins, in samples
	to     int       // where it has died away
	peak   float64   // of both channels together
	loud   float64   // of either
	pitch  func() pitched
	parts  func() partials
	beat   func() beating
	echo   func() echo
	stft   func() spectra
	course func() course
	whole  func() lows
	waves  func() ([]waveFit, string)
	unison func() []Measured
}

// Listen prepares a sound for measuring.
func Listen(w Wave) *Ear {
	if w.Peak == 0 {
		w.Peak = max(highestOf(w.Left), highestOf(w.Right))
	}
	for rate := w.Rate; rate > Fastest; {
		if rate /= 2; rate <= Fastest {
			peak := w.Peak
			w = w.At(rate)
			w.Peak = peak
		}
	}
	e := &Ear{Wave: w, loud: w.Peak}
	e.mono = make([]float64, len(w.Left))
	sign := 1.0
	if w.Right != nil {
		var same, other float64
		for k := range w.Left {
			a, b := w.Left[k]+w.Right[k], w.Left[k]-w.Right[k]
			same, other = same+a*a, other+b*b
		}
		if e.turned = same < turnedOver*other; e.turned {
			sign = -1
		}
	}
	for k := range e.mono {
		e.mono[k] = w.Left[k]
		if w.Right != nil {
			e.mono[k] = (w.Left[k] + sign*w.Right[k]) / 2
		}
		e.peak = max(e.peak, math.Abs(e.mono[k]))
	}
	floor := e.peak * 1e-3 // 60 dB below the peak
	e.from, e.to = len(e.mono), 0
	for k, x := range e.mono {
		if math.Abs(x) > floor {
			e.from = min(e.from, k)
			e.to = k + 1
		}
	}
	if e.from > e.to {
		e.from = e.to
	}
	e.pitch = sync.OnceValue(e.findPitch)
	e.parts = sync.OnceValue(e.findPartials)
	e.beat = sync.OnceValue(e.findBeat)
	e.echo = sync.OnceValue(e.findEcho)
	e.stft = sync.OnceValue(e.findSpectra)
	e.course = sync.OnceValue(e.findCourse)
	e.whole = sync.OnceValue(e.findLows)
	e.waves = sync.OnceValues(e.findWaves)
	e.unison = sync.OnceValue(e.findUnison)
	return e
}

func highestOf(x []float64) float64 {
	top := 0.0
	for _, y := range x {
		top = max(top, math.Abs(y))
	}
	return top
}

// turnedOver is how little of the energy of the difference the sum may have for the channels to be each other turned over.
const turnedOver = 0.05

// silent tells whether there is nothing to measure.
func (e *Ear) silent() bool { return e.peak < 1e-5 || e.to-e.from < int(0.005*e.Rate) }

// Measure gives the figures of a kind; off is when the key was let go, in seconds, 0 where it is not
// known. For what is not one of Whats it gives nil.
func (e *Ear) Measure(what string, off float64) []Measured {
	if e.silent() && what != "level" && !(what == "width" && e.loud > 1e-5) {
		return []Measured{cannot(what, what, "", "there is no sound")}
	}
	return e.besidesEchoes(what, e.measure(what, off))
}

// coloured has the kinds of figures that hang on the levels of harmonics, or on what lies between them: an echo that sounds with the tone raises some and takes from
// others.
var coloured = []string{"lfo", "cutoff", "wave", "filter", "unison", "fm", "noise", "detune", "pulsewidth"}

// besidesEchoes leaves out what echoes make of figures.
func (e *Ear) besidesEchoes(what string, all []Measured) []Measured {
	if !slices.Contains(coloured, what) || !slices.ContainsFunc(all, func(m Measured) bool { return m.Known }) {
		return all
	}
	x := e.echo()
	if x.time == 0 {
		return all
	}
	for i, m := range all {
		switch {
		case !m.Known:
		case what == "noise":
			all[i] = cannot(m.What, m.Label, m.Unit, "echoes begin and end in the place between the harmonics")
		case what == "lfo" && m.Unit == "Hz" && near(m.Value*x.time, 1, 0.12):
			for k := i; k < i+2; k++ { // with its depth
				all[k] = cannot(what, all[k].Label, all[k].Unit, "it comes again as the echo does")
			}
		case x.meets:
			all[i] = cannot(m.What, m.Label, m.Unit, "its echo sounds with it and colours it: play a shorter note, or take the echo away")
		}
	}
	return all
}

func (e *Ear) measure(what string, off float64) []Measured {
	switch what {
	case "pitch":
		return []Measured{e.Pitch()}
	case "level":
		return []Measured{e.Loudness(), e.Peak(), e.TruePeak()}
	case "attack":
		return []Measured{e.Attack(off)}
	case "decay":
		return []Measured{e.Decay(off), e.Sustain(off)}
	case "release":
		return []Measured{e.Release(off)}
	case "lfo":
		return e.Modulation()
	case "cutoff":
		return e.cutoff("")
	case "t60":
		return []Measured{e.T60(off)}
	case "delay":
		return append(e.Delay(), e.Sides()...)
	case "width":
		return []Measured{e.StereoWidth()}
	case "detune":
		return []Measured{e.Detune(), e.Balance()}
	case "pulsewidth":
		return []Measured{e.PulseWidth()}
	case "spectrum":
		return []Measured{e.Brightness()}
	case "harmonic":
		return []Measured{e.Harmonicity()}
	case "wave":
		return e.Waveform()
	case "filter":
		return e.FilterCourse()
	case "unison":
		return e.unison()
	case "fm":
		return e.FM()
	case "noise":
		return []Measured{e.NoiseLevel()}
	case "glide":
		return []Measured{e.Glide()}
	}
	return nil
}

// All gives every figure; they are worked out side by side.
func (e *Ear) All(off float64) []Measured {
	return slices.Concat(Each(func(string) (*Ear, float64) { return e, off })...)
}

// Each gives the figures of each of Whats, side by side, by the ear that is to listen for it and when its key was let go.
func Each(by func(what string) (e *Ear, off float64)) [][]Measured {
	parts, faults := make([][]Measured, len(Whats)), make([]any, len(Whats))
	var all sync.WaitGroup
	for i, w := range Whats {
		e, off := by(w)
		all.Go(func() {
			defer func() { faults[i] = recover() }()
			parts[i] = e.Measure(w, off)
		})
	}
	all.Wait()
	for _, f := range faults {
		if f != nil {
			panic(f) // where the caller can catch it
		}
	}
	return parts
}

// Peak gives the highest sample in dBFS.
func (e *Ear) Peak() Measured {
	p := e.loud
	if p < 1e-9 {
		return cannot("level", "peak", "dBFS", "there is no sound")
	}
	m := known("level", "peak", 20*math.Log10(p), "dBFS", 0.01)
	if n := e.clipped(); n > 0 {
		m.Why = fmt.Sprintf("it may clip: it stands at full level in %d places", n)
	}
	return m
}

// clipped counts the places at which three samples and more in a row stand at full level.
func (e *Ear) clipped() (n int) {
	if e.loud < 0.985 {
		return 0
	}
	for _, x := range [][]float64{e.Left, e.Right} {
		run := 0
		for _, y := range x {
			if math.Abs(y) < 0.9999*e.loud {
				run = 0
				continue
			}
			if run++; run == 3 {
				n++
			}
		}
	}
	return n
}

// TruePeak gives the highest level between the samples too, in decibels above full level: by four times as many samples (ITU-R BS.1770, annex 2).
func (e *Ear) TruePeak() Measured {
	if e.loud < 1e-9 {
		return cannot("level", "true peak", "dBTP", "there is no sound")
	}
	const reach = 16
	var kernels [6][2*reach + 1]float64 // a windowed sinc at each place between
	for n, part := range []float64{-0.75, -0.5, -0.25, 0.25, 0.5, 0.75} {
		for i := range kernels[n] {
			d := float64(i-reach) - part
			kernels[n][i] = math.Sin(math.Pi*d) / (math.Pi * d) * (0.5 + 0.5*math.Cos(math.Pi*d/(reach+1)))
		}
	}
	top := e.loud
	for _, x := range [][]float64{e.Left, e.Right} {
		for k := range x {
			a := math.Abs(x[k])
			if a < 0.6*top || k > 0 && math.Abs(x[k-1]) > a || k+1 < len(x) && math.Abs(x[k+1]) > a { // between two samples it is not half as high again, and beside the higher of them
				continue
			}
			for n := range kernels {
				top = max(top, math.Abs(dsp.Along(x, k-reach, kernels[n][:])))
			}
		}
	}
	return known("level", "true peak", 20*math.Log10(top), "dBTP", 0.05)
}

// StereoWidth gives how much of the energy lies in the difference of the channels: 0 % for mono, 50 % for
// two channels with nothing in common, 100 % for the one turned over.
func (e *Ear) StereoWidth() Measured {
	if e.Right == nil {
		return known("width", "stereo width", 0, "%", 0)
	}
	var m, s float64
	for k := range e.Left {
		a, b := e.Left[k]+e.Right[k], e.Left[k]-e.Right[k]
		m += a * a
		s += b * b
	}
	if m+s < 1e-12 {
		return cannot("width", "stereo width", "%", "there is no sound")
	}
	width := known("width", "stereo width", 100*s/(m+s), "%", 0.5)
	if e.turned {
		width.Why = "one channel is the other turned over: in mono next to nothing is left"
	}
	return width
}

// envelope gives the level over time: the root of the mean square over a window (seconds) at every hop.
// Times are of the middles of the windows, from the start.
func (e *Ear) envelope(window, hop float64) (level []float64) {
	n := max(1, int(window*e.Rate))
	sum := make([]float64, len(e.mono)+1)
	for k, x := range e.Left { // of both channels by their energy: two voices, one in each, do not beat
		sum[k+1] = sum[k] + x*x
		if e.Right != nil {
			sum[k+1] += e.Right[k] * e.Right[k]
		}
	}
	for t := 0.0; ; t += hop {
		mid := int(t * e.Rate)
		if mid >= len(e.mono) {
			return level
		}
		a, b := max(0, mid-n/2), min(len(e.mono), mid-n/2+n)
		// a window that hangs over an end is as loud as what of it there is
		level = append(level, math.Sqrt(max(0, sum[b]-sum[a])/float64(max(1, b-a))))
	}
}

// outline gives the level with the ripple of the wave taken out: over whole periods where it has a pitch, and without the beat where two voices beat.
func (e *Ear) outline() (level []float64, hop, window float64) {
	level, hop, window = e.rough()
	if b := e.beat(); b.ok {
		for i := range level {
			level[i] /= math.Sqrt(b.at(float64(i) * hop))
		}
	}
	return level, hop, window
}

// lowestTone is what is taken for a tone at least, in hertz.
const lowestTone = 20

// rough is the outline with its beats.
func (e *Ear) rough() (level []float64, hop, window float64) {
	window = 0.004
	if p := e.pitch(); p.ok && p.f > lowestTone { // what comes again more slowly are echoes or beats, no tone
		window = 1 / p.f
		if window < 0.003 {
			window *= math.Ceil(0.003 / window)
		}
	}
	hop = min(0.001, window/4)
	return e.envelope(window, hop), hop, window
}

func median(x []float64) float64 {
	if len(x) == 0 {
		return math.NaN()
	}
	s := slices.Clone(x)
	slices.Sort(s)
	return s[len(s)/2]
}

func mean(x []float64) float64 {
	sum := 0.0
	for _, y := range x {
		sum += y
	}
	return sum / float64(len(x))
}
