// Package synth renders a meaning and a phrase to stereo sound: what a translation can be judged by
// on instruments that are not at hand. It is for judging, not for performing.
//
// Its neighbours: meaning says what a patch is, phrase what is played, hear measures what comes out.
// Everything hangs on its inputs and a seed alone.
package synth

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// Layer is one set of modules and how it stands in the whole.
type Layer struct {
	Meaning   *meaning.Meaning
	Transpose q.Interval
	Level     q.Level
	// Played is how the player's means go through the phrase, by the names of patch.PlayersMeans; Moved how parameters do, by "module.parameter" or "route.depth": what is added to where
	// they stand, in the depth that a route would move them by (meaning.DepthDim; amplitude for levels).
	Played, Moved []phrase.Gesture
}

// Options are how a sound is rendered; the zero value is ready to use.
type Options struct {
	Seed uint64
	// Wheel is where the modulation wheel is held, 0 to 1.
	Wheel float64
	// From is when in its phrase the first of the notes begins, in seconds: what runs on by itself stands there.
	From float64
	// Tail is the most that is rendered after the last note, in seconds; 0 for 4.
	Tail float64
	// Workers is how many voices are rendered at a time; 0 for two.
	Workers int
	// Raw leaves the starting level and the limiter out, for measuring.
	Raw bool
	// Unmetered leaves out the levels of the stages, where nobody looks at them.
	Unmetered bool
	// Bank keeps waves from one rendering to the next; nil for none.
	Bank *Bank
	// Progress is told how far the rendering is, 0 to 1; nil for nobody. It is called from one goroutine at a time.
	Progress func(share float64)
	// Stop is asked between voices, and between stretches of the effects, whether to give up; by several goroutines. nil for never.
	Stop func() bool
}

// ErrStopped is returned where Stop has asked to give up.
var ErrStopped = errors.New("the rendering was stopped")

// voicesShare is how much of the work of rendering the voices are taken for; the rest is the effects'.
const voicesShare = 0.8

// MaxVoiceSeconds is the most that is rendered in all, over the voices: half a minute's work on one core.
const MaxVoiceSeconds = 5000

// MaxSeconds is the longest sound that is rendered.
const MaxSeconds = 120

// Start is the level at which a sound is given out: 12 dB below where full level would clip.
const Start q.Level = -12

// Ceiling is the level that the limiter lets nothing pass.
const Ceiling q.Level = -1

// Sound is what has been rendered, at Rate.
type Sound struct {
	Left, Right []float64
	// Loop is the length of the phrase in whole beats, in samples: what follows is the tail.
	Loop   int
	Stages []Stage
	// Limited is how far the limiter had to turn the loudest place down, in decibels.
	Limited float64
	// Assumed says what the meaning left open, and what was played for it.
	Assumed []string
	layers  int
	same    bool // both channels are the same: the right one is copied at the end
}

// Stage is the highest level in a stage of the sound.
type Stage struct {
	Name string `json:"name"`
	// Peak in decibels over the full level of one oscillator.
	Peak float64 `json:"peak"`
	// Over is set where the stage saturates by more than its own drive asks for.
	Over bool `json:"over"`
}

const (
	stageMixer = iota
	stageFilter
	stageDrive
	stageAmp
	stageCount
)

// Meters keeps the peaks of the stages of a voice; nil where nobody looks at them.
type Meters struct{ peak [stageCount]float64 }

func (m *Meters) note(stage int, x []float64) {
	if m == nil {
		return
	}
	hi := m.peak[stage]
	for _, y := range x {
		if y = math.Abs(y); y > hi {
			hi = y
		}
	}
	m.peak[stage] = hi
}

// ErrNothing is returned where there is nothing to play.
var ErrNothing = errors.New("expected at least one note and one layer to play")

// Render plays notes (seconds) on layers.
func Render(layers []Layer, notes []phrase.Note, opt Options) (s *Sound, err error) {
	// voices run on goroutines of their own: a fault of the engine has to end one render, not the program
	defer func() {
		if fault := recover(); fault != nil {
			s, err = nil, fmt.Errorf("the engine failed on this sound, which is a fault of the program: %v", fault)
		}
	}()
	if len(layers) == 0 || len(notes) == 0 {
		return nil, ErrNothing
	}
	if opt.Tail <= 0 {
		opt.Tail = 4
	}
	if opt.Workers <= 0 {
		opt.Workers = 2
	}
	end := 0.0
	for _, n := range notes {
		if !(n.Start >= 0 && n.End > n.Start && n.Key > -24 && n.Key < 151) {
			return nil, fmt.Errorf("expected notes that end after they begin, got one from %v s to %v s on key %v", n.Start, n.End, n.Key)
		}
		end = max(end, n.End)
	}
	if end > MaxSeconds {
		return nil, fmt.Errorf("expected at most %d s of notes, got %.0f s", MaxSeconds, end)
	}
	tempo := float64(layers[0].Meaning.Tempo)
	if tempo <= 0 {
		tempo = 120
	}
	beat := 60 / tempo
	s = &Sound{layers: len(layers), Loop: int(math.Round(math.Ceil(end/beat-1e-6) * beat * Rate))}
	frames, salts := 0, saltsOf(layers)
	for i := range layers {
		e := newEngine(layers[i].Meaning, opt.Seed+salts[i], opt.Wheel, layers[i].Played, layers[i].Moved)
		e.from = opt.From
		if opt.Bank != nil {
			e.bank = opt.Bank
		}
		e.voice.transpose += float64(layers[i].Transpose)
		tail := min(e.tail(), opt.Tail)
		frames = max(frames, s.Loop, int((end+tail)*Rate))
		for _, x := range []*[]float64{&s.Left, &s.Right} {
			if len(*x) < frames {
				longer := e.bank.room(frames)
				copy(longer, *x)
				*x = longer
			}
		}
		notes := handed(layers[i].Meaning.Hands, notes)
		lives := e.lives(notes)
		if work := e.work(lives, frames); work > MaxVoiceSeconds {
			return nil, fmt.Errorf("expected at most %d s of sound over all voices, got %.0f s: fewer notes, voices of unison or notes of the chord will do", MaxVoiceSeconds, work)
		}
		s.same = len(layers) == 1 && layers[i].Level == 0 && e.oneChannel()
		one := opt
		if opt.Progress != nil {
			one.Progress = func(x float64) { opt.Progress((float64(i) + x) / float64(len(layers))) }
		}
		if !e.render(s, lives, notes, layers[i].Level.Amplitude(), one) {
			return nil, ErrStopped
		}
	}
	s.finish(opt)
	return s, nil
}

// render plays one layer and adds it to the sound; false where it was stopped.
func (e *engine) render(s *Sound, lives []life, notes []phrase.Note, gain float64, opt Options) bool {
	e.progress, e.halt, e.unmetered = opt.Progress, opt.Stop, opt.Unmetered
	frames := len(s.Left)
	left, right := s.Left, s.Right
	alone := s.layers == 1 && gain == 1
	if !alone {
		left, right = make([]float64, frames), make([]float64, frames)
	}
	if len(e.oscs)+len(e.ops)+len(e.noises) == 0 && !hasSources(e.m) {
		e.rackInput(left, right, notes)
		lives = nil
	}
	type result struct {
		l, r   []float64
		meters Meters
		fault  any
	}
	release := e.longestRelease()
	pending := make([]chan result, len(lives))
	slots := make(chan struct{}, opt.Workers)     // voices at work
	waiting := make(chan struct{}, 4*opt.Workers) // and with those that wait to be added up: they take memory
	for i := range lives {
		pending[i] = make(chan result, 1)
	}
	go func() {
		for i := range lives {
			waiting <- struct{}{}
			slots <- struct{}{}
			go func() {
				defer func() { <-slots }()
				l := &lives[i]
				from := l.events[0].at
				to := l.events[len(l.events)-1].at + int((release+0.1)*Rate)
				if l.stop > 0 {
					to = min(to, l.stop+Rate/50)
				}
				to = min(to, frames)
				var out result
				defer func() {
					out.fault = recover()
					pending[i] <- out
				}()
				if n := to - from; n > 0 && !e.stopped() {
					out.l = e.bank.room(n)
					if !s.same {
						out.r = e.bank.room(n)
					}
					meters := &out.meters
					if e.unmetered {
						meters = nil
					}
					v := newVoice(e, l, meters)
					n = v.run(out.l, out.r)
					out.l = out.l[:n]
				}
			}()
		}
	}()
	var meters Meters
	var fault any
	for i := range lives { // in order: sums of floats hang on it
		out := <-pending[i]
		<-waiting
		if out.fault != nil {
			fault = out.fault
			continue
		}
		e.tell(voicesShare * float64(i+1) / float64(len(lives)))
		from := lives[i].events[0].at
		l := left[from : from+len(out.l)]
		for k, y := range out.l {
			l[k] += y
		}
		if out.r != nil {
			r := right[from : from+len(out.l)]
			for k := range r {
				r[k] += out.r[k]
			}
		}
		e.bank.leave(out.l)
		e.bank.leave(out.r)
		for k, p := range out.meters.peak {
			meters.peak[k] = max(meters.peak[k], p)
		}
	}
	if fault != nil {
		panic(fault) // once all voices have ended; Render catches it
	}
	if e.stopped() {
		return false
	}
	if len(lives) > 0 && !e.unmetered {
		s.stage("mixer", meters.peak[stageMixer], e.mixerDrive())
		if len(e.filters) > 0 {
			s.stage("filter", meters.peak[stageFilter], 0)
		}
		if len(e.drives) > 0 {
			s.stage("drive", meters.peak[stageDrive], 0)
		}
		s.stage("amplifier", meters.peak[stageAmp], e.amp.drive)
	}
	crush(left, right, e.voice.bits, e.voice.downsample)
	e.conduct(notes, frames)
	e.effects(s, left, right)
	if !alone {
		for k := range left {
			s.Left[k] += gain * left[k]
			s.Right[k] += gain * right[k]
		}
	}
	for _, a := range e.assumed {
		if !slices.Contains(s.Assumed, a) {
			s.Assumed = append(s.Assumed, a)
		}
	}
	return !e.stopped()
}

// mixerDrive gives the most that a mixer saturates by, in decibels.
func (e *engine) mixerDrive() float64 {
	most := 0.0
	for i := range e.mixers {
		most = max(most, e.mixers[i].drive)
	}
	return most
}

func (e *engine) stopped() bool { return e.halt != nil && e.halt() }

func (e *engine) tell(share float64) {
	if e.progress != nil {
		e.progress(share)
	}
}

// oneChannel tells whether left and right are the same, all the way to the output.
func (e *engine) oneChannel() bool {
	makesSound := len(e.oscs)+len(e.ops)+len(e.noises) > 0
	return makesSound && !e.stereo && len(e.graph.Chain()) == 0 && e.amp.pan == 0 && len(e.amp.panMods) == 0 && e.amp.spread == 0 && e.voice.width == 0 && e.voice.bits <= 0 && e.voice.downsample <= 0
}

// work gives how many seconds of voices there are to render.
func (e *engine) work(lives []life, frames int) float64 {
	sum := 0
	release := int(e.longestRelease() * Rate)
	for i := range lives {
		list := lives[i].events
		to := list[len(list)-1].at + release
		if lives[i].stop > 0 {
			to = min(to, lives[i].stop)
		}
		sum += max(0, min(to, frames)-list[0].at)
	}
	return float64(sum) / Rate
}

// stage notes the peak of a stage. It is over where it lies above the headroom that a chain has
// before its converters: 12 dB over one oscillator.
func (s *Sound) stage(name string, peak, drive float64) {
	x := Stage{Name: name, Peak: -120}
	if peak > 1e-6 {
		x.Peak = math.Round(200*math.Log10(peak)) / 10
	}
	x.Over = x.Peak > -float64(Start) && drive <= 0
	for i := range s.Stages {
		if s.Stages[i].Name == name {
			s.Stages[i].Peak = max(s.Stages[i].Peak, x.Peak)
			s.Stages[i].Over = s.Stages[i].Over || x.Over
			return
		}
	}
	s.Stages = append(s.Stages, x)
}

// longestRelease gives how long a voice may sound after its key is let go, in seconds.
func (e *engine) longestRelease() float64 {
	t := 0.01
	for _, i := range e.ends {
		// to silence: from 1 to 5e-5 is 4.3 times the time to 90 %
		t = max(t, 4.4*e.envs[i].release*math.Exp2(2*boolFloat(len(e.envs[i].timeMods[meaning.PRelease]) > 0)))
	}
	return min(t, 30)
}

func boolFloat(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

// tail gives how long the sound goes on after the last note.
func (e *engine) tail() float64 {
	t := e.longestRelease()
	for i := range e.m.Modules {
		d := &e.m.Modules[i]
		if !d.Used() {
			continue
		}
		switch d.Kind {
		case meaning.Reverb:
			t = max(t, num(d, meaning.PT60)+num(d, meaning.PPredelay))
		case meaning.Delay:
			g := clamp(num(d, meaning.PFeedback)+num(d, meaning.PCross), 0, 0.98)
			n := 1.0
			if g > 0.01 {
				n = min(20, 1-3/math.Log10(g))
			}
			t = max(t, n*num(d, meaning.PTime))
		}
	}
	return t + 0.05
}

// hasSources tells whether there is anything that could make sound, in use or not: an instrument whose sources are all off is silent, and no rack.
func hasSources(m *meaning.Meaning) bool {
	return slices.ContainsFunc(m.Modules, func(d meaning.Module) bool {
		switch d.Kind {
		case meaning.Osc, meaning.Sub, meaning.Operator, meaning.Noise:
			return true
		}
		return false
	})
}

// rackInput is what goes through a rack that makes no sound of its own: a saw for each note.
func (e *engine) rackInput(left, right []float64, notes []phrase.Note) {
	e.assume("nothing here makes a sound: a saw of half level goes through it")
	saw := plain()[q.WaveSaw]
	for _, n := range notes {
		f := float64(q.Note(n.Key).Frequency())
		t := saw.band(f)
		from, to := int(n.Start*Rate), min(int(n.End*Rate), len(left))
		for k := from; k < to; k++ {
			_, p := math.Modf(float64(k-from) * f / Rate)
			g := 0.5 * min(1, min(float64(k-from), float64(to-k))/(0.005*Rate))
			y := g * t.at(p)
			left[k] += y
			right[k] += y
		}
	}
}
