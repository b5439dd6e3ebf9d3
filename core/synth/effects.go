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
func (e *engine) sendsTo(d *meaning.Module) (gains []dial, is bool) {
	for i := range e.m.Modules {
		s := &e.m.Modules[i]
		if s.Kind != meaning.Send || !s.Used() {
			continue
		}
		if strings.HasPrefix(word(s, meaning.PTo), string(d.Kind)) && word(s, meaning.PTo) != "bus" || e.graph.Feeds(s.ID, d.ID) {
			gains = append(gains, e.dial(s, meaning.PLevel, amplitude(s, meaning.PLevel), 0, 4))
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
				peaks[n] = max(peaks[n], peakOf(left[from:to], right[from:to]))
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
		s.stage(d.Label, peaks[n], 0)
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
			w.moved = &driveDials{gain: e.dial(d, meaning.PGain, num(d, meaning.PGain), -60, 60), tone: e.dial(d, meaning.PTone, hertz(d, meaning.PTone, 20000), 20, 20000), level: e.dial(d, meaning.PLevel, w.level, 0, 10), mix: e.mixDial(d, 1)}
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
		return compress(left, right, keyL, keyR, e.dial(d, meaning.PThreshold, num(d, meaning.PThreshold), -90, 24), max(1, num(d, meaning.PRatio)), num(d, meaning.PAttack), num(d, meaning.PRelease), e.dial(d, meaning.PMakeup, amplitude(d, meaning.PMakeup), 0, 16), e.mixDial(d, 1))
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
		w := e.dial(d, meaning.PWidth, num(d, meaning.PWidth), -1, 2)
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
	mix := e.mixDial(d, 1)
	cutoff, res, morph := e.dial(d, meaning.PCutoff, hertz(d, meaning.PCutoff, openAt(f.mode)), 5, 20000), e.dial(d, meaning.PResonance, num(d, meaning.PResonance), 0, 0.99), e.dial(d, meaning.PMorph, num(d, meaning.PMorph), 0, 1)
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

func mixOf(d *meaning.Module, otherwise float64) float64 {
	if v, ok := d.Params[meaning.PMix]; ok && !v.Off {
		return clamp(v.Value, 0, 1)
	}
	return otherwise
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
	moved            *driveDials // in the chain, where routes move it
}

// driveDials is what routes can move in a drive.
type driveDials struct{ gain, tone, level, mix dial }

// still tells whether nothing moves some parameters of an effect.
func (e *engine) still(d *meaning.Module, names ...meaning.ParamName) bool {
	return !slices.ContainsFunc(names, func(n meaning.ParamName) bool { return e.swings[meaning.Ref(d.ID, n)] != nil })
}

func driverOf(d *meaning.Module) driver {
	w := driver{gain: amplitude(d, meaning.PGain), level: 1, mix: mixOf(d, 1), shape: newShaper(word(d, meaning.PCurve)), before: word(d, meaning.PToneMode) == "before",
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
	freq, gain, width := e.dial(d, meaning.PFreq, hertz(d, meaning.PFreq, 1000), 10, 22000), e.dial(d, meaning.PGain, num(d, meaning.PGain), -40, 40), e.dial(d, meaning.PQ, quality, 0.1, 40)
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

// compress turns both channels down by what the louder of the keys asks for.
func compress(left, right, keyL, keyR []float64, threshold dial, ratio, attack, release float64, makeup, mix dial) step {
	a := math.Exp(-1 / (max(attack/math.Ln10, 0.0001) * Rate))
	r := math.Exp(-1 / (max(release/math.Ln10, 0.001) * Rate))
	slope := 1 - 1/ratio
	env := 0.0 // decibels of reduction
	gain, last := makeup.at(0), 0.0
	top := q.Level(threshold.at(0)).Amplitude()
	return func(from, to int) {
		for k := from; k < to; k++ {
			if threshold.turns(k) {
				top = q.Level(threshold.at(k)).Amplitude()
			}
			p := max(math.Abs(keyL[k]), math.Abs(keyR[k]))
			want := 0.0
			if p > top {
				want = slope * 20 * math.Log10(p/top)
			}
			if want > env {
				env = want + (env-want)*a
			} else {
				env = want + (env-want)*r
			}
			if math.Abs(env-last) > 0.005 || makeup.turns(k) {
				last = env
				gain = makeup.at(k) * math.Exp(-env*math.Ln10/20)
			}
			m := mix.at(k)
			left[k] += m * (left[k]*gain - left[k])
			right[k] += m * (right[k]*gain - right[k])
		}
	}
}

// beats is what stands in for a side-chain input: on every quarter note a knock at full level that falls by 60 dB in 300 ms
// (common practice, no source).
func (e *engine) beats(frames int) []float64 {
	out := make([]float64, frames)
	tempo := float64(e.m.Tempo)
	if tempo <= 0 {
		tempo = 120
	}
	every := 60 / tempo * Rate
	fall := math.Pow(10, -3/(0.3*Rate))
	for n := 0; ; n++ {
		from := int(math.Round(float64(n) * every))
		if from >= frames {
			return out
		}
		g := 1.0
		for k := from; k < min(frames, int(math.Round(float64(n+1)*every))); k++ {
			out[k] = g
			g *= fall
		}
	}
}

// multiband parts the sound in three by pairs of equal low- and high-passes whose sum is flat, and
// compresses each.
func (e *engine) multiband(d *meaning.Module, left, right []float64) step {
	mix := e.mixDial(d, 0)
	low, high := hertz(d, meaning.PLow, 200), hertz(d, meaning.PHigh, 2000)
	ratio := max(1, num(d, meaning.PRatio))
	var bands [3][2][]float64 // low, middle, high
	var press [3]step
	for b, x := range []struct{ threshold, gain meaning.ParamName }{{meaning.PThresholdLow, meaning.PGainLow}, {meaning.PThresholdMid, meaning.PGainMid}, {meaning.PThresholdHigh, meaning.PGainHigh}} {
		l, r := floats(len(left)), floats(len(left))
		bands[b] = [2][]float64{l, r}
		press[b] = compress(l, r, l, r, dial{base: num(d, x.threshold)}, ratio, num(d, meaning.PAttack), num(d, meaning.PRelease), dial{base: amplitude(d, x.gain)}, dial{base: 1})
	}
	part := eachChannel(left, right, func(c int, x []float64) step {
		first, second, again := splitAt(low), splitAt(high), splitAt(high)
		rest, over := floats(stretch), floats(stretch)
		return func(from, to int) {
			rest, over := rest[:to-from], over[:to-from]
			lo, mid, hi := bands[0][c][from:to], bands[1][c][from:to], bands[2][c][from:to]
			first(x[from:to], lo, rest)
			second(rest, mid, hi)
			// the low band goes through the second split too, or the phases would not meet
			again(lo, lo, over)
			for k := range lo {
				lo[k] += over[k]
			}
		}
	})
	return func(from, to int) {
		part(from, to)
		for _, run := range press {
			run(from, to)
		}
		for k := from; k < to; k++ {
			m := mix.at(k)
			left[k] += m * (bands[0][0][k] + bands[1][0][k] + bands[2][0][k] - left[k])
			right[k] += m * (bands[0][1][k] + bands[1][1][k] + bands[2][1][k] - right[k])
		}
	}
}

// splitAt parts x at a frequency in hertz by two equal sections each way; lo may be x.
func splitAt(f float64) func(x, lo, hi []float64) {
	l, h := dsp.EQ("low-pass", f, 0, math.Sqrt2/2, Rate), dsp.EQ("high-pass", f, 0, math.Sqrt2/2, Rate)
	var state [4][2]float64
	return func(x, lo, hi []float64) {
		copy(hi, x)
		copy(lo, x)
		for i := range 2 {
			l.From(lo, &state[i])
			h.From(hi, &state[2+i])
		}
	}
}

// line is a delay line that is read between its samples.
type line struct {
	buf []float64
	at  int
}

func newLine(seconds float64) *line {
	return &line{buf: make([]float64, dsp.PowerFrom(int(seconds*Rate)+4))}
}

func (l *line) write(x float64) {
	if math.Abs(x) < 1e-18 {
		x = 0
	}
	l.at = (l.at + 1) & (len(l.buf) - 1)
	l.buf[l.at] = x
}

// read gives the sample of a number of samples ago, 0 being the last written.
func (l *line) read(ago float64) float64 {
	i := int(ago)
	f := ago - float64(i)
	m := len(l.buf) - 1
	a := l.buf[(l.at-i)&m]
	return a + f*(l.buf[(l.at-i-1)&m]-a)
}

// modulated is chorus and flanger: short delays that move, each voice at its own phase.
func (e *engine) modulated(d *meaning.Module, left, right []float64) step {
	chorus := d.Kind == meaning.Chorus
	base := num(d, meaning.PDelay)
	voices := 1
	stereo := 1.0
	if v, ok := d.Params[meaning.PStereo]; ok && !v.Off {
		stereo = v.Value
	}
	if chorus {
		voices = max(1, min(6, int(num(d, meaning.PVoices))))
		if base == 0 {
			base = 0.008 // common practice, no source
		}
	} else if base == 0 {
		base = 0.001
	}
	delay, depth := e.dial(d, meaning.PDelay, base, 0, 0.2), e.dial(d, meaning.PDepth, num(d, meaning.PDepth), 0, 0.1)
	// voices that move together add up by their number, and come back as loud: less than 1 in all, or it howls
	most := 0.95 / math.Sqrt(float64(voices))
	feedback, mix := e.dial(d, meaning.PFeedback, num(d, meaning.PFeedback), -most, most), e.mixDial(d, 0)
	rate := e.dial(d, meaning.PRate, num(d, meaning.PRate), 0, 200)
	longest := max(delay.top(), depth.top()+0.0002) + 2*depth.top() + 0.01
	tone := [2]onePole{lowAt(hertz(d, meaning.PTone, 20000)), lowAt(hertz(d, meaning.PTone, 20000))}
	lines := [2]*line{newLine(longest), newLine(longest)}
	smear := [2]*smearing{newSmearing(num(d, meaning.PDiffusion)), newSmearing(num(d, meaning.PDiffusion))}
	phase := 0.0
	const hold = 16
	var held [2][6][2]float64
	g := 1 / math.Sqrt(float64(voices))
	return func(from, to int) {
		taps := held
		defer func() { held = taps }()
		for k := from; k < to; k++ {
			if k%hold == 0 {
				inc := rate.at(k) / Rate
				d0, d1 := depth.at(k), depth.at(k+hold)
				b0, b1 := max(delay.at(k), d0+0.0002), max(delay.at(k+hold), d1+0.0002)
				for c := range 2 {
					for n := range voices {
						p := phase + float64(n)/float64(voices) + float64(c)*0.25*stereo
						now := (b0 + d0*math.Sin(2*math.Pi*p)) * Rate
						then := (b1 + d1*math.Sin(2*math.Pi*(p+inc*hold))) * Rate
						taps[c][n] = [2]float64{now, (then - now) / hold}
					}
				}
				phase += inc * hold
			}
			back, m := feedback.at(k), mix.at(k)
			for c, x := range [2][]float64{left, right} {
				in := x[k]
				var wet float64
				for n := range voices {
					t := &taps[c][n]
					wet += lines[c].read(t[0])
					t[0] += t[1]
				}
				wet = smear[c].next(tone[c].next(wet * g))
				lines[c].write(in + back*wet)
				x[k] = in + m*(wet-in)
				if !chorus { // equal shares leave the comb at full depth
					x[k] = in*(1-m/2) + wet*m/2
				}
			}
		}
	}
}

// smearing spreads a sound in time by three all-passes, by a share: the diffusion of a chorus (lengths of 2 to 7 ms: common practice, no source).
type smearing struct {
	share  float64
	stages [3]allpass
}

func newSmearing(share float64) *smearing {
	s := &smearing{share: clamp(share, 0, 1)}
	if s.share > 0 {
		s.stages = [3]allpass{newAllpass(113), newAllpass(199), newAllpass(337)}
	}
	return s
}

func (s *smearing) next(x float64) float64 {
	if s.share == 0 {
		return x
	}
	y := x
	for i := range s.stages {
		y = s.stages[i].next(y)
	}
	return x + s.share*(y-x)
}

func (e *engine) phaser(d *meaning.Module, left, right []float64) step {
	stages := max(2, min(12, int(num(d, meaning.PStages))))
	centre, depth := e.dial(d, meaning.PCentre, hertz(d, meaning.PCentre, 800), 20, 18000), e.dial(d, meaning.PDepth, num(d, meaning.PDepth), 0, 1)
	feedback, mix := e.dial(d, meaning.PFeedback, num(d, meaning.PFeedback), -0.9, 0.9), e.mixDial(d, 0)
	rate := e.dial(d, meaning.PRate, num(d, meaning.PRate), 0, 200)
	return eachChannel(left, right, func(c int, x []float64) step {
		var s [12]float64
		var last, a float64
		phase := 0.25 * float64(c)
		return func(from, to int) {
			for k := from; k < to; k++ {
				if k%16 == 0 { // two octaves either way at full depth (common practice, no source)
					f := clamp(centre.at(k)*math.Exp2(2*depth.at(k)*math.Sin(2*math.Pi*phase)), 20, 18000)
					t := math.Tan(math.Pi * f / Rate)
					a = (t - 1) / (t + 1)
					phase += 16 * rate.at(k) / Rate
				}
				y := x[k] + feedback.at(k)*last
				for n := range stages {
					out := a*y + s[n]
					s[n] = y - a*out
					y = out
				}
				last = y
				x[k] += mix.at(k) / 2 * (y - x[k])
			}
		}
	})
}

// echo is a delay: left and right with their own times, crossed, or from side to side.
func (e *engine) echo(d *meaning.Module, left, right []float64) step {
	tl := max(num(d, meaning.PTime), 1.0/Rate)
	tr := num(d, meaning.PTimeRight)
	if tr <= 0 {
		tr = tl
	}
	timeL, timeR := e.dial(d, meaning.PTime, tl, 1.0/Rate, 10), e.dial(d, meaning.PTimeRight, tr, 1.0/Rate, 10)
	if timeR.moved == nil && num(d, meaning.PTimeRight) <= 0 {
		timeR = timeL
	}
	feedback, cross := clamp(num(d, meaning.PFeedback), 0, 0.98), clamp(num(d, meaning.PCross), 0, 0.98)
	mix := e.mixDial(d, 0)
	pattern := word(d, meaning.PPattern)
	if pattern == "cross" && cross == 0 {
		feedback, cross = 0, feedback
	}
	back, over := e.dial(d, meaning.PFeedback, feedback, 0, 0.98), e.dial(d, meaning.PCross, cross, 0, 0.98)
	wobble := e.dial(d, meaning.PWobble, num(d, meaning.PWobble), 0, 1)
	tone := e.dial(d, meaning.PTone, hertz(d, meaning.PTone, 20000), 20, 20000)
	high := [2]onePole{lowAt(hertz(d, meaning.PTone, 20000)), lowAt(hertz(d, meaning.PTone, 20000))}
	low := [2]onePole{lowAt(hertz(d, meaning.PLowcut, 5)), lowAt(hertz(d, meaning.PLowcut, 5))}
	cut := hertz(d, meaning.PLowcut, 0) > 0
	lines := [2]*line{newLine(timeL.top() + 0.02), newLine(timeR.top() + 0.02)}
	return func(from, to int) {
		for k := from; k < to; k++ {
			w := 0.0
			if x := wobble.at(k); x > 0 { // 4 ms at full modulation (common practice, no source)
				w = 0.004 * Rate * x * (1 + math.Sin(2*math.Pi*0.7*float64(k)/Rate))
			}
			if tone.turns(k) {
				high[0].c = lowAt(tone.at(k)).c
				high[1].c = high[0].c
			}
			feedback, cross := back.at(k), over.at(k)
			if feedback+cross > 0.98 {
				s := 0.98 / (feedback + cross)
				feedback, cross = feedback*s, cross*s
			}
			mix := mix.at(k)
			yl, yr := lines[0].read(timeL.at(k)*Rate-1+w), lines[1].read(timeR.at(k)*Rate-1+w)
			yl, yr = high[0].next(yl), high[1].next(yr)
			if cut {
				yl -= low[0].next(yl)
				yr -= low[1].next(yr)
			}
			if pattern == "pingpong" { // in by the left, and each echo on the other side
				lines[0].write((left[k]+right[k])/2 + feedback*yr)
				lines[1].write(feedback * yl)
			} else {
				lines[0].write(left[k] + feedback*yl + cross*yr)
				lines[1].write(right[k] + feedback*yr + cross*yl)
			}
			left[k] += mix * (yl - left[k])
			right[k] += mix * (yr - right[k])
		}
	}
}

// reverberate is a feedback network of eight delays (Schroeder, JAES 10(3), 1962, for the gains that
// give a T60; the network by an orthogonal matrix is common practice, no source).
func (e *engine) reverberate(d *meaning.Module, left, right []float64) step {
	t60 := e.dial(d, meaning.PT60, num(d, meaning.PT60), 0.05, 60)
	mix := e.mixDial(d, 0)
	size := 0.5
	if v, ok := d.Params[meaning.PSize]; ok && !v.Off {
		size = v.Value
	}
	damping := e.dial(d, meaning.PDamping, num(d, meaning.PDamping), 0, 1)
	wait := e.dial(d, meaning.PPredelay, num(d, meaning.PPredelay), 0, 2)
	pre := newLine(wait.top() + 0.01)
	cut := hertz(d, meaning.PLowcut, 0) > 0
	primes := [8]int{1123, 1283, 1451, 1607, 1811, 1993, 2203, 2423} // samples at middle size, 23 to 50 ms
	scale := 0.5 + size
	var bufs [8][]float64
	var held struct {
		at           [8]int
		state, gains [8]float64
		coef         float64
		low          onePole
		diffuse      [2]allpass
	}
	for i, p := range primes {
		n := max(64, int(float64(p)*scale))
		bufs[i] = make([]float64, n)
	}
	set := func(k int) {
		// damping takes the highs: from 16 kHz down to 2 kHz
		c := lowAt(16000 * math.Exp2(-3*damping.at(k))).c
		if damping.at(k) == 0 {
			c = 1
		}
		held.coef = c
		for i := range bufs {
			held.gains[i] = float64(q.FeedbackFor(q.Duration(float64(len(bufs[i]))/Rate), q.Duration(t60.at(k))))
		}
	}
	set(0)
	const h = 0.35355339059327373 // 1/sqrt 8
	held.low, held.diffuse = lowAt(hertz(d, meaning.PLowcut, 5)), [2]allpass{newAllpass(241), newAllpass(557)}
	return func(from, to int) {
		bufs, diffuse, low := bufs, held.diffuse, held.low // by value: they stay in registers and on the stack
		at, state, coefs, gains := held.at, held.state, held.coef, held.gains
		for k := from; k < to; k++ {
			if t60.turns(k) || damping.turns(k) {
				set(k)
				coefs, gains = held.coef, held.gains
			}
			pre.write((left[k] + right[k]) / 2)
			in := pre.read(wait.at(k) * Rate)
			if cut {
				in -= low.next(in)
			}
			in = diffuse[1].next(diffuse[0].next(in))
			var y [8]float64
			for i := range y {
				state[i] += coefs * (bufs[i][at[i]] - state[i])
				y[i] = state[i] * gains[i]
			}
			wl := 0.5 * (y[0] - y[2] + y[4] - y[6])
			wr := 0.5 * (y[1] - y[3] + y[5] - y[7])
			// Hadamard's matrix in three steps
			for s := 1; s < 8; s *= 2 {
				for i := 0; i < 8; i += 2 * s {
					for j := i; j < i+s; j++ {
						a, b := y[j], y[j+s]
						y[j], y[j+s] = a+b, a-b
					}
				}
			}
			for i := range y {
				v := y[i]*h + in
				if v < 1e-18 && v > -1e-18 {
					v = 0
				}
				bufs[i][at[i]] = v
				if at[i]++; at[i] == len(bufs[i]) {
					at[i] = 0
				}
			}
			m := mix.at(k)
			left[k] += m * (wl - left[k])
			right[k] += m * (wr - right[k])
		}
		held.at, held.state = at, state
		held.diffuse, held.low = diffuse, low
	}
}

type allpass struct {
	buf []float64
	at  int
}

func newAllpass(n int) allpass { return allpass{buf: make([]float64, n)} }

func (a *allpass) next(x float64) float64 {
	const g = 0.6
	y := a.buf[a.at]
	w := x + g*y
	if w < 1e-18 && w > -1e-18 {
		w = 0
	}
	a.buf[a.at] = w
	if a.at++; a.at == len(a.buf) {
		a.at = 0
	}
	return y - g*w
}
