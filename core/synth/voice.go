package synth

import (
	"math"

	q "glossator/core/quantity"
)

// block is how many samples are worked out at a time.
const block = 64

// event is something that happens to a voice.
type event struct {
	at       int // samples from the start of the phrase
	on       bool
	key      float64
	velocity float64 // 0 to 1
	fresh    bool    // envelopes begin anew
	glide    bool    // the pitch goes there over the glide time
}

// life is one voice from its first note to its end.
type life struct {
	events []event
	number uint64  // tells it from others, for what is random
	offset float64 // cents: of unison, chord and drift
	pan    float64
	gain   float64
	stop   int // samples; it is stolen then, 0 for never
}

// highest gives the highest key that it plays.
func (l *life) highest() float64 {
	key := 0.0
	for _, ev := range l.events {
		if ev.on {
			key = max(key, ev.key)
		}
	}
	return key
}

// osc is an oscillator at work in a voice.
type osc struct {
	*oscSpec
	phase  []float64
	detune []float64 // as ratios
	gains  [][2]float64
	inc    []float64 // increments at the end of the last block
	out    [2][]float64
	raw    []float64 // mono, before its level: what it modulates with
	// times is its rate over Rate, fine what raw is at that rate (raw itself where they are the same), whole a copy of it; the rest is made where times is over 1.
	times       int
	fine, whole []float64
	spreads     [3][]float64
	thin        []*thinner
	modulation  []float64
	wraps       []float64 // samples since it began anew, -1 where it did not
	carry       float64
	tables      [4]*table
	keys        [2]shapeKey
	band        int
}

type op struct {
	*opSpec
	phase, inc float64
	last, prev float64
	level      []float64
	table      *table
	fine       []float64 // what it gives, at opTimes the rate
	thin       *thinner  // from there to the rate
}

// voice is a life at work.
type voice struct {
	*engine
	*life
	envs           []envelope
	lfos           []lfo
	envBuf, lfoBuf [][]float64
	oscs           []osc
	ops            []op
	opBuf          [][]float64
	opTimes        int // the rate of the operators, over Rate
	scratchOps     []opBend
	noise          []*noiseGen
	filters        [][2]*filter
	nodes, returns []node
	outIn, outOwn  sound
	mixerSat       [][2]*saturator // by bus
	busLate        []lateness
	ampSat         [2]*saturator
	key            float64 // of the note, MIDI with its fraction, as played
	velocity       float64
	cents          float64 // where the glide stands, from key
	glideStep      float64 // cents a sample
	gateOn         bool
	gateLevel      float64
	keyPitch       float64 // MIDI with glide
	n              int     // samples of this block
	at             int
	scratch        [6][]float64
	gestureBuf     [][]float64 // by gesture
	back           [2][]float64
	meters         *Meters
	first          bool
	buses          [][2][]float64
	used           []bool
}

var unity = []float64{1}

func floats(n int) []float64 { return make([]float64, n) }

func newVoice(e *engine, l *life, meters *Meters) *voice {
	v := &voice{engine: e, life: l, meters: meters, first: true, n: block}
	v.envs = make([]envelope, len(e.envs))
	for i := range v.envs {
		v.envs[i] = envelope{envSpec: &e.envs[i], stage: stDone}
		v.envBuf = append(v.envBuf, floats(block))
	}
	v.lfos = make([]lfo, len(e.lfos))
	for i := range v.lfos {
		v.lfos[i] = lfo{lfoSpec: &e.lfos[i]}
		v.lfoBuf = append(v.lfoBuf, floats(block))
	}
	highest := l.highest() + max(0, e.voice.transpose+l.offset)/100
	oscTimes := e.oscTimes(highest)
	v.oscs = make([]osc, len(e.oscs))
	for i := range v.oscs {
		s := &e.oscs[i]
		o := osc{oscSpec: s, raw: floats(block), out: [2][]float64{nil, nil}, times: oscTimes[i]}
		o.fine = o.raw
		if s.modulator >= 0 {
			o.modulation = floats(block * o.times)
		}
		if o.times > 1 {
			o.fine, o.whole = floats(block*o.times), floats(block*o.times)
			for k := range o.spreads {
				o.spreads[k] = floats(block * o.times)
			}
			for range s.unison {
				o.thin = append(o.thin, newThinner(o.times))
			}
		}
		o.out[0] = o.raw
		if e.stereo || s.unison > 1 {
			o.out[0] = floats(block)
		}
		if e.stereo {
			o.out[1] = floats(block)
		}
		if s.masters {
			o.wraps, o.carry = floats(block), -1
		}
		n := s.unison
		for u := range n {
			p := s.start
			if s.free || n > 1 && u > 0 {
				p = e.phaseOf(s.ranks[u], l.number)
			}
			place := 0.0
			if n > 1 {
				place = float64(u)/float64(n-1) - 0.5
			}
			o.phase = append(o.phase, p)
			o.detune = append(o.detune, q.Interval(s.spread*place).Ratio())
			o.inc = append(o.inc, 0)
			gl, gr := panGains(s.pan + 2*place*s.stereo)
			g := 1 / math.Sqrt(1+float64(n-1)*s.blend*s.blend)
			if u != (n-1)/2 { // the others beside the middle one
				g *= s.blend
			}
			o.gains = append(o.gains, [2]float64{gl * g, gr * g})
		}
		v.oscs[i] = o
	}
	v.opTimes = e.operatorTimes(highest)
	v.ops = make([]op, len(e.ops))
	for i := range v.ops {
		v.ops[i] = op{opSpec: &e.ops[i], level: floats(block), fine: floats(block * v.opTimes)}
		if v.opTimes > 1 {
			v.ops[i].thin = newThinner(v.opTimes)
			v.opBuf = append(v.opBuf, floats(block))
		} else {
			v.opBuf = append(v.opBuf, v.ops[i].fine)
		}
		if v.ops[i].free {
			v.ops[i].phase = e.phaseOf(v.ops[i].rank, l.number)
		}
	}
	for i := range e.noises {
		v.noise = append(v.noise, newNoise(e.noises[i].colour, e.seed*31+l.number*17+uint64(i)))
	}
	for i := range e.filters {
		f := &e.filters[i]
		pair := [2]*filter{newFilter(f.mode, f.poles, e.seed+l.number*7+uint64(i)), nil}
		if e.stereo {
			pair[1] = newFilter(f.mode, f.poles, e.seed+l.number*7+uint64(i)+3571)
		}
		v.filters = append(v.filters, pair)
	}
	at := func(specs []nodeSpec) []node {
		out := make([]node, len(specs))
		for i := range specs {
			d := node{nodeSpec: &specs[i], late: make([]lateness, len(specs[i].to))}
			if d.kind == driveNode {
				d.drive = [2]driver{driverOf(d.module), driverOf(d.module)}
			}
			out[i] = d
		}
		return out
	}
	v.nodes, v.returns = at(e.nodes), at(e.returns)
	for i := range v.scratch {
		v.scratch[i] = floats(block)
	}
	channels := 1
	if e.stereo {
		channels = 2
	}
	v.buses, v.mixerSat, v.busLate, v.used = make([][2][]float64, len(e.buses)), make([][2]*saturator, len(e.buses)), make([]lateness, len(e.buses)), make([]bool, len(e.buses))
	for b := range v.buses {
		for c := range channels {
			v.buses[b][c] = floats(block)
		}
	}
	v.back[0], v.back[1] = floats(block), floats(block)
	return v
}

// panGains gives the gains of left and right for -1 to 1: of equal power, 1 in the middle.
func panGains(p float64) (l, r float64) {
	p = clamp(p, -1, 1)
	if p == 0 {
		return 1, 1
	}
	a := (p + 1) * math.Pi / 4
	return math.Sqrt2 * math.Cos(a), math.Sqrt2 * math.Sin(a)
}

// happen carries out an event.
func (v *voice) happen(ev event) {
	if !ev.on {
		v.gateOn = false
		for i := range v.envs {
			v.envs[i].release_()
		}
		return
	}
	from := v.keyPitch
	v.key, v.velocity = ev.key, ev.velocity
	v.cents, v.glideStep = 0, 0
	if ev.glide && v.engine.voice.glide > 0 && !v.first {
		d := (from - ev.key) * 100
		t := v.engine.voice.glide / q.RampTo90
		if v.engine.voice.glideRate {
			t *= math.Abs(d) / 1200
		}
		if n := t * Rate; n >= 1 && d != 0 {
			v.cents, v.glideStep = d, -d/n
		}
	}
	v.keyPitch = v.key + v.cents/100
	if ev.fresh || v.first {
		for i := range v.envs {
			e := &v.envs[i]
			if e.legato && !v.first && v.gateOn {
				continue
			}
			for s, name := range stageNames {
				e.shift[s] = v.latest(e.timeMods[name], v.scratch[5])
			}
			e.begin(v.velocity)
		}
		for i := range v.lfos {
			l := &v.lfos[i]
			l.begin(v.from+float64(v.at)/Rate, v.number*1009+uint64(len(v.events)))
		}
		for i := range v.oscs {
			if o := &v.oscs[i]; !o.free && o.unison == 1 {
				o.phase[0] = o.start
			}
		}
		for i := range v.ops {
			if o := &v.ops[i]; !o.free {
				o.phase, o.last, o.prev = 0, 0, 0
			}
		}
	}
	v.gateOn = true
}

// over tells whether the voice has fallen silent.
func (v *voice) over() bool {
	if v.gateOn {
		return false
	}
	for _, i := range v.ends {
		if !v.envs[i].done() {
			return false
		}
	}
	return !v.gated || v.gateLevel <= 0
}

// run renders the life and adds it up in left and right, which begin at the life's first event.
// It gives how many samples it took.
func (v *voice) run(left, right []float64) int {
	start := v.events[0].at
	v.at = start
	next, limit := 0, start+len(left)
	fade := 0
	for v.at < limit {
		for next < len(v.events) && v.events[next].at <= v.at {
			v.happen(v.events[next])
			next++
			v.first = false
		}
		if next == len(v.events) && v.over() {
			break
		}
		n := min(block, limit-v.at)
		if next < len(v.events) {
			n = min(n, v.events[next].at-v.at)
		}
		v.n = n
		i := v.at - start
		l := left[i : i+n]
		var r []float64 // none where both channels are the same
		if right != nil {
			r = right[i : i+n]
		}
		v.block(l, r)
		if v.stop > 0 && v.at >= v.stop { // stolen: gone in 5 ms
			for k := range l {
				g := max(0, 1-float64(fade)/(0.005*Rate))
				l[k] *= g
				if r != nil {
					r[k] *= g
				}
				fade++
			}
			if float64(fade) >= 0.005*Rate {
				v.at += n
				break
			}
		}
		v.at += n
	}
	return v.at - start
}

// control runs what moves things, and the glide, for v.n samples.
func (v *voice) control() {
	n := v.n
	for i := range v.envs {
		if e := &v.envs[i]; len(e.susMods) > 0 {
			e.raise(v.latest(e.susMods, v.scratch[0]))
		}
		v.envs[i].run(v.envBuf[i][:n])
	}
	for i := range v.lfos {
		l := &v.lfos[i]
		oct := v.latest(l.rateMods, v.scratch[0])
		if l.key != 0 {
			oct += l.key * (v.keyPitch - float64(q.MiddleC)) / 12
		}
		l.run(v.lfoBuf[i][:n], oct)
	}
	// pitch
	if v.glideStep != 0 {
		v.cents += v.glideStep * float64(n)
		if (v.glideStep > 0) == (v.cents >= 0) {
			v.cents, v.glideStep = 0, 0
		}
	}
	v.keyPitch = v.key + v.cents/100
}

// block renders v.n samples.
func (v *voice) block(left, right []float64) {
	v.control()
	channels := 1
	if v.engine.stereo {
		channels = 2
	}
	v.runPath(channels, v.sources(channels))
	v.amplify(channels, left, right)
}

// tuning gives how far the voice stands from its keys: transposition, tuning, drift and what moves them.
func (v *voice) tuning() float64 {
	e := v.engine
	cents := e.voice.transpose + e.voice.tune + v.offset
	if e.voice.drift > 0 {
		t := float64(v.at) / Rate
		w := unit(v.seed+5, v.number)
		cents += e.voice.drift * (0.7*(2*unit(v.seed+3, v.number)-1) + 0.3*math.Sin(2*math.Pi*(w+t*(0.2+0.2*w))))
	}
	return cents + v.latest(e.voice.tuneMods, v.scratch[0])
}

// sources puts what sounds on its buses, and tells which of them hold anything.
func (v *voice) sources(channels int) []bool {
	n := v.n
	e := v.engine
	buses, used := v.buses, v.used
	for b := range buses {
		used[b] = false
		for c := range channels {
			clear(buses[b][c][:n])
		}
	}
	voiceCents := v.tuning()
	toBus := func(to []int, x [2][]float64, gl, gr float64, gain []float64) {
		add := func(b int) {
			used[b] = true
			for c := range channels {
				src, g := x[c], gl
				if c == 1 {
					g = gr
					if src == nil {
						src = x[0]
					}
				}
				dst := buses[b][c][:n]
				src = src[:n]
				if len(gain) == 1 {
					g *= gain[0]
					for k := range dst {
						dst[k] += g * src[k]
					}
					continue
				}
				for k := range dst {
					dst[k] += g * gain[k] * src[k]
				}
			}
		}
		for _, b := range to {
			add(b)
		}
	}
	v.runOscs(voiceCents, toBus)
	for i := range e.rings {
		r := &e.rings[i]
		g := v.levelOf(r.level, r.mods)
		x, y := v.oscs[r.a].raw, v.oscs[r.b].raw
		out := v.scratch[1][:n]
		for k := range out {
			out[k] = x[k] * y[k]
		}
		toBus(r.buses, [2][]float64{out, nil}, 1, 1, g)
	}
	if len(v.ops) > 0 {
		v.runOps(voiceCents, toBus)
	}
	for i := range v.noise {
		s := &e.noises[i]
		g := v.levelOf(s.level, s.levelMods)
		out := v.scratch[1][:n]
		v.noise[i].run(out, s, v.keyPitch)
		toBus(s.buses, [2][]float64{out, nil}, 1, 1, g)
	}
	if e.feedback > 0 {
		back := v.back
		for k := range n {
			back[0][k] = soft(back[0][k])
			if channels == 2 {
				back[1][k] = soft(back[1][k])
			}
		}
		for i := range v.returns {
			v.runNode(&v.returns[i], sound{back[0][:n], back[1][:n]}, channels)
		}
		toBus(e.feedbackBuses, back, e.feedback, e.feedback, unity)
	}
	return used
}

// amplify opens the amplifier, and adds the voice to the sound. right is nil where there is one channel.
func (v *voice) amplify(channels int, left, right []float64) {
	n := v.n
	e := v.engine
	g := v.gainOf()
	pan := e.amp.pan + v.pan
	if len(e.amp.panMods) > 0 {
		pan += v.latest(e.amp.panMods, v.scratch[2])
	}
	gl, gr := panGains(pan)
	gl *= v.gain
	gr *= v.gain
	out := &v.outIn
	for c := range channels {
		x := out[c][:n]
		for k := range x {
			x[k] *= g[k]
		}
		if drive := v.driveOf(e.amp.drive, e.amp.driveMods); drive != nil {
			waiter(&v.ampSat[c]).run(x, drive)
		}
		scale(x, e.amp.level)
		if e.feedback > 0 && e.tap < 0 {
			copy(v.back[c], x)
		}
		v.meters.note(stageAmp, x)
	}
	a, b := out[0][:n], out[0][:n]
	if channels == 2 {
		b = out[1][:n]
	}
	if right == nil {
		for k := range left {
			left[k] += a[k] * gl
		}
		return
	}
	for k := range left {
		left[k] += a[k] * gl
		right[k] += b[k] * gr
	}
}
