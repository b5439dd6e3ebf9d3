package synth

import (
	"math"
	"math/cmplx"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// Shape is what a sketch shows, and along what.
type Shape string

// The shapes: an envelope's level by seconds; a filter's gain in decibels by hertz; two periods of a wave by periods; an LFO's swing by seconds; echoes, in decibels
// under what is played, by seconds.
const (
	ShapeEnvelope Shape = "envelope"
	ShapeFilter   Shape = "filter"
	ShapeWave     Shape = "wave"
	ShapeLFO      Shape = "lfo"
	ShapeEchoes   Shape = "echoes"
)

// Span is how much of a module is sketched: the gate is held for Held seconds, Whole is the end of what is drawn, in seconds. Waves and filters need none.
type Span struct{ Held, Whole float64 }

// Over gives the span that holds both.
func (s Span) Over(o Span) Span { return Span{max(s.Held, o.Held), max(s.Whole, o.Whole)} }

// longestSketch is the longest that is drawn, in seconds.
const longestSketch = 30

// quietest is the lowest level of a sketch in decibels.
const quietest = -60

// SpanOf gives how much of a module there is to see, and its shape; false where a module has no sketch.
func SpanOf(d *meaning.Module) (s Span, shape Shape, ok bool) {
	switch d.Kind {
	case meaning.Env:
		e := envOf(d)
		s.Held = e.delay + e.attack + e.hold
		if e.sustain < 1 || e.second {
			s.Held += 1.2 * (e.decay + e.decay2)
		}
		s.Held = clamp(1.1*s.Held, 0.05, longestSketch/2)
		s.Whole = s.Held + clamp(1.2*e.release, 0.02, longestSketch/2)
		return s, ShapeEnvelope, true
	case meaning.LFO:
		l := lfoOf(d)
		if l.rate <= 0 {
			return s, "", false
		}
		s.Whole = clamp(l.delay+l.fade+2/l.rate, 0.02, longestSketch)
		return s, ShapeLFO, true
	case meaning.Delay:
		s.Whole = clamp(6*max(num(d, meaning.PTime), num(d, meaning.PTimeRight)), 0.01, longestSketch)
		return s, ShapeEchoes, true
	case meaning.Reverb:
		s.Whole = clamp(num(d, meaning.PPredelay)+num(d, meaning.PT60), 0.05, longestSketch)
		return s, ShapeEchoes, true
	case meaning.Filter:
		return s, ShapeFilter, true
	case meaning.Osc, meaning.Sub, meaning.Operator:
		return s, ShapeWave, true
	}
	return s, "", false
}

// Sketch draws what a module does by itself on a key (a MIDI note number) over a span, as places along and values; nothing where it has no sketch, is off or does nothing.
func Sketch(d *meaning.Module, key float64, s Span) [][2]float64 {
	if d.Idle != "" {
		return nil
	}
	switch _, shape, _ := SpanOf(d); shape {
	case ShapeEnvelope:
		return sketchEnvelope(d, s)
	case ShapeLFO:
		return sketchLFO(d, s)
	case ShapeFilter:
		return sketchFilter(d, key)
	case ShapeWave:
		return sketchWave(d, key)
	case ShapeEchoes:
		return sketchEchoes(d, s)
	}
	return nil
}

// sketched is how many places a curve is drawn at.
const sketched = 240

// thinned keeps the highest and the lowest of each stretch of a run of samples, so that edges stay where they are.
func thinned(x []float64) [][2]float64 {
	n := max(1, len(x)/sketched)
	var out [][2]float64
	for i := 0; i < len(x); i += n {
		part := x[i:min(i+n, len(x))]
		low, high := 0, 0
		for k, v := range part {
			if v < part[low] {
				low = k
			}
			if v > part[high] {
				high = k
			}
		}
		for _, k := range []int{min(low, high), max(low, high)} {
			out = append(out, [2]float64{float64(i+k) / Rate, part[k]})
			if low == high {
				break
			}
		}
	}
	return out
}

func sketchEnvelope(d *meaning.Module, s Span) [][2]float64 {
	spec := envOf(d)
	e := envelope{envSpec: &spec, stage: stDone}
	x := make([]float64, max(2, int(s.Whole*Rate)))
	held := min(len(x), int(s.Held*Rate))
	e.begin(1)
	e.run(x[:held])
	e.release_()
	e.run(x[held:])
	return thinned(x)
}

func sketchLFO(d *meaning.Module, s Span) [][2]float64 {
	spec := lfoOf(d)
	l := lfo{lfoSpec: &spec, from: 1}
	x := make([]float64, max(2, int(s.Whole*Rate)))
	l.run(x, 0)
	return thinned(x)
}

func sketchFilter(d *meaning.Module, key float64) [][2]float64 {
	var out [][2]float64
	for i := range sketched + 1 {
		hz := 20 * math.Pow(1000, float64(i)/sketched)
		out = append(out, [2]float64{hz, max(quietest, 20*math.Log10(max(1e-9, cmplx.Abs(d.FilterGain(key, hz)))))})
	}
	return out
}

func sketchWave(d *meaning.Module, key float64) [][2]float64 {
	wave := word(d, meaning.PWave)
	if wave == "" {
		return nil
	}
	k := shapeKey{wave: wave}
	width := 0.5
	if v, ok := d.Get(meaning.PWidth); ok && v.Value > 0 {
		width = clamp(v.Value, 0.02, 0.98)
	}
	switch wave {
	case waveTable:
		k.table, k.width, k.frame = word(d, meaning.PTable), int(math.Round(width*frameSteps)), int(math.Round(clamp(num(d, meaning.PFrame), 0, 1)*frameSteps))
	case q.WavePulse:
		k.width = int(math.Round(width * frameSteps))
	}
	if w := word(d, meaning.PWarp); w != "" && w != "none" {
		k.warp, k.amount = w, int(math.Round(clamp(num(d, meaning.PWarpAmount), 0, 1)*warpSteps))
	}
	t := NewBank().get(k).band(float64(q.Note(key + num(d, meaning.PInterval)/100).Frequency()))
	var out [][2]float64
	for i := range 2*sketched + 1 {
		at := float64(i) / sketched
		_, phase := math.Modf(at)
		out = append(out, [2]float64{at, t.at(phase)})
	}
	return out
}

func sketchEchoes(d *meaning.Module, s Span) [][2]float64 {
	level := func(share float64) float64 { return max(quietest, 20*math.Log10(max(1e-9, share))) }
	mix := mixOf(d)
	if mix <= 0 {
		return nil
	}
	if d.Kind == meaning.Reverb {
		from, t60 := num(d, meaning.PPredelay), num(d, meaning.PT60)
		if t60 <= 0 {
			return nil
		}
		top := level(mix)
		return [][2]float64{{from, quietest}, {from, top}, {from + t60*(top-quietest)/60, quietest}}
	}
	var out [][2]float64
	pillar := func(at, share float64) {
		if l := level(share); at <= s.Whole && l > quietest {
			out = append(out, [2]float64{at, quietest}, [2]float64{at, l}, [2]float64{at, quietest})
		}
	}
	pillar(0, 1-mix)
	time, right := num(d, meaning.PTime), num(d, meaning.PTimeRight)
	if time <= 0 {
		return nil
	}
	if right <= 0 {
		right = time
	}
	share := mix
	for n := 1; n <= 200 && share > 0.001 && float64(n)*min(time, right) <= s.Whole; n++ {
		pillar(float64(n)*time, share)
		if right != time {
			pillar(float64(n)*right, share)
		}
		share *= clamp(num(d, meaning.PFeedback)+num(d, meaning.PCross), 0, 0.98)
	}
	// in order of time, each as a pillar of three places
	for i := 3; i < len(out); i += 3 {
		for k := i; k >= 3 && out[k][0] < out[k-3][0]; k -= 3 {
			for j := range 3 {
				out[k+j], out[k-3+j] = out[k-3+j], out[k+j]
			}
		}
	}
	return out
}
