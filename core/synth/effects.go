package synth

import (
	"math"
	"slices"
	"strings"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// sendsTo lists the sends that feed an effect beside the chain.
func (e *engine) sendsTo(d *meaning.Module) (gains []setting, is bool) {
	for i := range e.m.Modules {
		s := &e.m.Modules[i]
		if s.Kind != meaning.Send || !s.Used() {
			continue
		}
		if strings.HasPrefix(word(s, meaning.PTo), string(d.Kind)) && word(s, meaning.PTo) != "bus" || e.graph.Feeds(s.ID, d.ID) {
			gains = append(gains, e.setting(s, meaning.PLevel, amplitude(s, meaning.PLevel), 0, 4))
			is = true
		}
	}
	return gains, is
}

// step is an effect ready to run: it works in place on the samples from one to before another, which follow those of the call before:
// whole blocks but for the last, and no more than a stretch.
type step func(from, to int)

// stretch is how many samples an effect hands on at a time; whole blocks.
const stretch = 64 * block

// effects runs the chain in place: each effect at its own time, on what the one before has done.
func (e *engine) effects(s *Sound, left, right []float64) {
	list := e.graph.Chain()
	var dryL, dryR []float64
	if slices.ContainsFunc(list, func(d *meaning.Module) bool { return word(d, meaning.PSidechain) == "dry" }) {
		dryL, dryR = slices.Clone(left), slices.Clone(right)
	}
	if len(list) == 0 {
		return
	}
	frames := len(left)
	peaks := make([]float64, len(list))
	faults := make([]any, len(list))
	ready := make([]chan int, len(list)+1) // the end of what has been done
	for i := range ready {
		ready[i] = make(chan int, frames/stretch+1)
	}
	steps := make([]step, len(list)) // all made ready before any is begun
	for n, d := range list {
		steps[n] = e.effect(d, left, right, dryL, dryR)
	}
	for n, run := range steps {
		go func() {
			defer close(ready[n+1])
			defer func() { faults[n] = recover() }()
			from := 0
			for to := range ready[n] {
				if e.stopped() {
					return
				}
				run(from, to)
				if !e.unmetered {
					peaks[n] = max(peaks[n], peakOf(left[from:to], right[from:to]))
				}
				ready[n+1] <- to
				from = to
			}
		}()
	}
	for to := stretch; to < frames; to += stretch {
		ready[0] <- to
	}
	ready[0] <- frames
	close(ready[0])
	for to := range ready[len(list)] {
		e.tell(voicesShare + (1-voicesShare)*float64(to)/float64(max(frames, 1)))
	}
	for n, d := range list {
		if faults[n] != nil {
			panic(faults[n]) // Render catches it
		}
		if !e.unmetered {
			s.stage(d.Label, peaks[n], 0)
		}
	}
}

// effect makes an effect ready, in the chain or beside it where sends feed it.
func (e *engine) effect(d *meaning.Module, left, right, dryL, dryR []float64) step {
	gains, sent := e.sendsTo(d)
	if !sent {
		return e.inline(d, left, right, dryL, dryR)
	}
	l, r := floats(len(left)), floats(len(left))
	run := e.inline(d, l, r, dryL, dryR)
	return func(from, to int) {
		for k := from; k < to; k++ {
			g := 0.0
			for i := range gains {
				g += gains[i].at(k)
			}
			l[k], r[k] = g*left[k], g*right[k]
		}
		run(from, to)
		for k := from; k < to; k++ {
			left[k] += l[k]
			right[k] += r[k]
		}
	}
}

func (e *engine) inline(d *meaning.Module, left, right, dryL, dryR []float64) step {
	switch d.Kind {
	case meaning.Drive:
		return eachChannel(left, right, func(_ int, x []float64) step {
			w := driverOf(d)
			w.moved = &driveSettings{gain: e.setting(d, meaning.PGain, num(d, meaning.PGain), -60, 60), tone: e.setting(d, meaning.PTone, hertz(d, meaning.PTone, 20000), 20, 20000), level: e.setting(d, meaning.PLevel, w.level, 0, 10), mix: e.mixSetting(d)}
			if e.still(d, meaning.PGain, meaning.PTone, meaning.PLevel, meaning.PMix) {
				w.moved = nil
			}
			return func(from, to int) { w.run(x[from:to]) }
		})
	case meaning.EQ:
		return e.eq(d, left, right)
	case meaning.Filter:
		return eachChannel(left, right, func(c int, x []float64) step { return e.filterBehind(d, c, x) })
	case meaning.Compressor:
		keyL, keyR := left, right
		if word(d, meaning.PSidechain) == "dry" && dryL != nil {
			keyL, keyR = dryL, dryR
		} else if w := word(d, meaning.PSidechain); w != "own" && w != "" && w != "dry" {
			e.assume("%s: nothing is known of what comes into its side-chain; a beat on every quarter note stands in for it", d.Label)
			keyL = e.beats(len(left))
			keyR = keyL
		}
		return compress(left, right, keyL, keyR, e.setting(d, meaning.PThreshold, num(d, meaning.PThreshold), -90, 24), max(1, num(d, meaning.PRatio)), num(d, meaning.PAttack), num(d, meaning.PRelease), e.setting(d, meaning.PMakeup, amplitude(d, meaning.PMakeup), 0, 16), e.mixSetting(d))
	case meaning.Multiband:
		return e.multiband(d, left, right)
	case meaning.Chorus, meaning.Flanger:
		return e.modulated(d, left, right)
	case meaning.Phaser:
		return e.phaser(d, left, right)
	case meaning.Delay:
		return e.echo(d, left, right)
	case meaning.Reverb:
		return e.reverberate(d, left, right)
	case meaning.Widener:
		w := e.setting(d, meaning.PWidth, num(d, meaning.PWidth), -1, 2)
		return func(from, to int) {
			for k := from; k < to; k++ {
				m, s := (left[k]+right[k])/2, (left[k]-right[k])/2*(1+w.at(k))
				left[k], right[k] = m+s, m-s
			}
		}
	}
	return func(int, int) {}
}

// eachChannel runs what the two channels do by themselves at the same time.
func eachChannel(left, right []float64, ready func(c int, x []float64) step) step {
	l, r := ready(0, left), ready(1, right)
	return func(from, to int) {
		var fault any
		done := make(chan struct{})
		go func() {
			defer close(done)
			defer func() { fault = recover() }()
			r(from, to)
		}()
		l(from, to)
		<-done
		if fault != nil {
			panic(fault)
		}
	}
}

// filterBehind is a filter in the chain behind the voices: one channel.
func (e *engine) filterBehind(d *meaning.Module, c int, x []float64) step {
	f := newFilter(dsp.Modes[word(d, meaning.PMode)], int(num(d, meaning.PPoles)), e.seed+uint64(c))
	mix := e.mixSetting(d)
	cutoff, res, morph := e.setting(d, meaning.PCutoff, hertz(d, meaning.PCutoff, meaning.OpenAt(f.mode)), 5, 80000), e.setting(d, meaning.PResonance, num(d, meaning.PResonance), 0, 0.99), e.setting(d, meaning.PMorph, num(d, meaning.PMorph), 0, 1)
	still := e.still(d, meaning.PCutoff, meaning.PResonance, meaning.PMorph)
	var dry, oct, rs, mo [block]float64
	oct[0], rs[0], mo[0] = octaveOf(cutoff.base), res.base, morph.base
	return func(from, to int) {
		for at := from; at < to; at += block {
			n := min(block, to-at)
			wet, moves := x[at:at+n], 1
			copy(dry[:n], wet)
			if !still {
				moves = n
				for k := range n {
					oct[k], rs[k], mo[k] = octaveOf(cutoff.at(at+k)), res.at(at+k), morph.at(at+k)
				}
			}
			f.run(wet, oct[:moves], rs[:moves], mo[:moves], num(d, meaning.PFeedback), false)
			for k := range wet {
				wet[k] = dry[k] + mix.at(at+k)*(wet[k]-dry[k])
			}
		}
	}
}

// mixOf gives the share of an effect in what goes on: all of it where the panel states none, as it stands in line.
func mixOf(d *meaning.Module) float64 {
	v, _ := d.Get(meaning.PMix)
	if v.Off {
		return 0
	}
	return clamp(v.Value, 0, 1)
}

// onePole is a low-pass of one pole.
type onePole struct{ c, y float64 }

func lowAt(f float64) onePole {
	if f <= 0 || f >= 19000 { // open
		return onePole{c: 1}
	}
	return onePole{c: 1 - math.Exp(-2*math.Pi*f/Rate)}
}

func (p *onePole) next(x float64) float64 {
	p.y += p.c * (x - p.y)
	return p.y
}

// driver distorts by a curve, with a tone filter before or after it: one channel.
type driver struct {
	gain, level, mix float64
	shape            *shaper
	dry              [shaperDelay]float64 // what waits for the shaper
	at, done         int
	before           bool
	tone, direct     onePole
	moved            *driveSettings // in the chain, where routes move it
}

// driveSettings is what routes can move in a drive.
type driveSettings struct{ gain, tone, level, mix setting }

// still tells whether nothing moves some parameters of an effect.
func (e *engine) still(d *meaning.Module, names ...meaning.ParamName) bool {
	return !slices.ContainsFunc(names, func(n meaning.ParamName) bool { return e.swings[meaning.Ref(d.ID, n)] != nil })
}

func driverOf(d *meaning.Module) driver {
	w := driver{gain: amplitude(d, meaning.PGain), level: 1, mix: mixOf(d), shape: newShaper(word(d, meaning.PCurve)), before: word(d, meaning.PToneMode) == "before",
		tone: lowAt(hertz(d, meaning.PTone, 20000)), direct: lowAt(10)}
	if _, ok := d.Params[meaning.PLevel]; ok {
		w.level = amplitude(d, meaning.PLevel)
	}
	return w
}

// run distorts in place. What the curve adds of direct current is taken away again.
func (w *driver) run(x []float64) {
	for from := 0; from < len(x); from += block {
		w.piece(x[from:min(from+block, len(x))])
	}
}

// piece distorts up to a block. What moves the drive counts from its first piece on.
func (w *driver) piece(x []float64) {
	var wet [block]float64
	y := wet[:len(x)]
	for k, in := range x {
		if m := w.moved; m != nil {
			w.gain = q.Level(m.gain.at(w.done + k)).Amplitude()
			if m.tone.turns(w.done + k) {
				w.tone.c = lowAt(m.tone.at(w.done + k)).c
			}
		}
		if w.before {
			in = w.tone.next(in)
		}
		y[k] = in * w.gain
	}
	w.shape.run(y)
	for k, wet := range y {
		if m := w.moved; m != nil {
			w.level, w.mix = m.level.at(w.done+k), m.mix.at(w.done+k)
		}
		wet -= w.direct.next(wet)
		if !w.before {
			wet = w.tone.next(wet)
		}
		in := w.dry[w.at]
		w.dry[w.at] = x[k]
		if w.at++; w.at == len(w.dry) {
			w.at = 0
		}
		x[k] = in + w.mix*(w.level*wet-in)
	}
	w.done += len(x)
}

func (e *engine) eq(d *meaning.Module, left, right []float64) step {
	quality := num(d, meaning.PQ)
	if kind := word(d, meaning.PMode); kind != "peak" || quality <= 0 {
		if quality <= 0 || strings.HasSuffix(kind, "shelf") {
			quality = math.Sqrt2 / 2
		}
	}
	freq, gain, width := e.setting(d, meaning.PFreq, hertz(d, meaning.PFreq, 1000), 10, 22000), e.setting(d, meaning.PGain, num(d, meaning.PGain), -40, 40), e.setting(d, meaning.PQ, quality, 0.1, 40)
	still := e.still(d, meaning.PFreq, meaning.PGain, meaning.PQ)
	return eachChannel(left, right, func(_ int, x []float64) step {
		s := dsp.EQ(word(d, meaning.PMode), freq.base, gain.base, width.base, Rate)
		var z [2]float64
		return func(from, to int) {
			if still {
				s.From(x[from:to], &z)
				return
			}
			for at := from; at < to; at += block {
				s = dsp.EQ(word(d, meaning.PMode), freq.at(at), gain.at(at), width.at(at), Rate)
				s.From(x[at:min(at+block, to)], &z)
			}
		}
	})
}
