package synth

import (
	"math"

	"glossator/core/dsp"
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

// osc is an oscillator at work in a voice.
type osc struct {
	*oscSpec
	phase  []float64
	detune []float64 // as ratios
	gains  [][2]float64
	inc    []float64 // increments at the end of the last block
	out    [2][]float64
	raw    []float64 // mono, before its level: what it modulates with
	wraps  []float64 // samples since it began anew, -1 where it did not
	carry  float64
	tables [4]*table
	keys   [2]shapeKey
	band   int
}

type op struct {
	*opSpec
	phase, inc float64
	last, prev float64
	level      []float64
	table      *table
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
	noise          []*noiseGen
	filters        [][2]*filter
	drives         [2][]driver
	mixerSat       [3][2]*saturator
	filterSat      [][3][2]*saturator
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
	back           [2][]float64
	meters         *Meters
	first          bool
	buses          [3][2][]float64
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
	v.oscs = make([]osc, len(e.oscs))
	for i := range v.oscs {
		s := &e.oscs[i]
		o := osc{oscSpec: s, raw: floats(block), out: [2][]float64{nil, nil}}
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
				p = unit(e.seed+uint64(i)*131, l.number*64+uint64(u))
			}
			place := 0.0
			if n > 1 {
				place = float64(u)/float64(n-1) - 0.5
			}
			o.phase = append(o.phase, p)
			o.detune = append(o.detune, q.Interval(s.spread*place).Ratio())
			o.inc = append(o.inc, 0)
			gl, gr := panGains(s.pan + 2*place*s.stereo)
			g := 1 / math.Sqrt(float64(n))
			o.gains = append(o.gains, [2]float64{gl * g, gr * g})
		}
		v.oscs[i] = o
	}
	v.ops = make([]op, len(e.ops))
	for i := range v.ops {
		v.ops[i] = op{opSpec: &e.ops[i], level: floats(block)}
		v.opBuf = append(v.opBuf, floats(block))
		if v.ops[i].free {
			v.ops[i].phase = unit(e.seed+uint64(i)*977, l.number)
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
	v.filterSat = make([][3][2]*saturator, len(e.filters))
	for _, d := range e.drives {
		v.drives[0], v.drives[1] = append(v.drives[0], driverOf(d)), append(v.drives[1], driverOf(d))
	}
	for i := range v.scratch {
		v.scratch[i] = floats(block)
	}
	for b := range v.buses {
		v.buses[b][0] = floats(block)
		v.buses[b][1] = floats(block)
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

// value gives what a source is in this block: a number, or a list that changes within it.
func (v *voice) value(s source) (float64, []float64) {
	switch s.kind {
	case velocity:
		return v.velocity, nil
	case noteKey:
		return (v.keyPitch - float64(q.MiddleC)) / 12, nil
	case perNote:
		return 2*unit(v.seed+99, v.number) - 1, nil
	case gate:
		if v.gateOn {
			return 1, nil
		}
		return 0, nil
	case fromEnv:
		return 0, v.envBuf[s.i]
	case fromLFO:
		return 0, v.lfoBuf[s.i]
	case fromOsc:
		return 0, v.oscs[s.i].raw
	case fromOperator:
		return 0, v.opBuf[s.i]
	}
	return s.value, nil
}

// sum adds up what moves a parameter. Where nothing of it changes within the block, list is nil;
// otherwise it is in buf and holds the constant part too.
func (v *voice) sum(mods []mod, buf []float64) (c float64, list []float64) {
	for i := range mods {
		m := &mods[i]
		x, moving := v.value(m.source)
		depth, viaList := m.depth, []float64(nil)
		if m.via != nil {
			f, l := v.value(*m.via)
			if l == nil {
				depth *= f
			} else {
				viaList = l
			}
		}
		if depth == 0 {
			continue
		}
		shift := m.unipolar && m.bipolar()
		if moving == nil && viaList == nil {
			if shift && m.kind != noteKey {
				x = (x + 1) / 2
			}
			c += depth * curved(x, m.curve)
			continue
		}
		if list == nil {
			list = buf[:v.n]
			for k := range list {
				list[k] = 0
			}
		}
		for k := range list {
			y := x
			if moving != nil {
				y = moving[k]
			}
			if shift {
				y = (y + 1) / 2
			}
			if m.curve != "" && m.curve != "linear" {
				y = curved(y, m.curve)
			}
			if viaList != nil {
				f := viaList[k]
				if m.via.bipolar() {
					f = (f + 1) / 2
				}
				y *= f
			}
			list[k] += depth * y
		}
	}
	if list != nil && c != 0 {
		for k := range list {
			list[k] += c
		}
	}
	return c, list
}

// curved bends a source's swing: "exponential" and "convex" rise late, "logarithmic" and "concave" early.
func curved(x float64, curve string) float64 {
	switch curve {
	case "exponential", "convex", "square":
		return x * math.Abs(x)
	case "logarithmic", "concave", "root":
		return math.Copysign(math.Sqrt(math.Abs(x)), x)
	}
	return x
}

// mean gives the last value of a sum, for what is worked out once a block.
func (v *voice) mean(mods []mod, buf []float64) float64 {
	if len(mods) == 0 {
		return 0
	}
	c, l := v.sum(mods, buf)
	if l != nil {
		return l[len(l)-1]
	}
	return c
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
				e.shift[s] = v.mean(e.timeMods[name], v.scratch[5])
			}
			e.begin(v.velocity)
		}
		for i := range v.lfos {
			l := &v.lfos[i]
			l.begin(float64(v.at)/Rate, v.number*1009+uint64(len(v.events)))
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
			e.raise(v.mean(e.susMods, v.scratch[0]))
		}
		v.envs[i].run(v.envBuf[i][:n])
	}
	for i := range v.lfos {
		l := &v.lfos[i]
		oct := v.mean(l.rateMods, v.scratch[0])
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
	n := v.n
	e := v.engine
	v.control()
	voiceCents := e.voice.transpose + e.voice.tune + v.offset
	if e.voice.drift > 0 {
		t := float64(v.at) / Rate
		w := unit(v.seed+5, v.number)
		voiceCents += e.voice.drift * (0.7*(2*unit(v.seed+3, v.number)-1) + 0.3*math.Sin(2*math.Pi*(w+t*(0.2+0.2*w))))
	}
	tune := v.mean(e.voice.tuneMods, v.scratch[0])
	voiceCents += tune

	stereo := e.stereo
	buses := &v.buses
	channels := 1
	if stereo {
		channels = 2
	}
	for b := range buses {
		for c := range channels {
			clear(buses[b][c][:n])
		}
	}
	var used [3]bool
	toBus := func(to string, x [2][]float64, gl, gr float64, gain []float64) {
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
		switch to {
		case "filter 2":
			add(1)
		case "both", "":
			add(0)
			if e.twoPaths() {
				add(1)
			}
		case "past":
			add(pastBus)
		default:
			add(0)
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
		toBus("", [2][]float64{out, nil}, 1, 1, g)
	}
	if len(v.ops) > 0 {
		v.runOps(voiceCents, toBus)
	}
	for i := range v.noise {
		s := &e.noises[i]
		g := v.levelOf(s.level, s.levelMods)
		out := v.scratch[1][:n]
		v.noise[i].run(out, s, v.keyPitch)
		toBus(s.to, [2][]float64{out, nil}, 1, 1, g)
	}
	if e.feedback > 0 {
		back := v.back
		for k := range n {
			back[0][k] = soft(back[0][k])
			if stereo {
				back[1][k] = soft(back[1][k])
			}
		}
		toBus("", back, e.feedback, e.feedback, unity)
	}
	for c := range channels {
		v.meters.note(stageMixer, buses[0][c][:n])
	}
	drive := v.driveOf(e.mixer.drive, e.mixer.mods)
	for b := range buses {
		if b > 0 && !used[b] {
			continue
		}
		for c := range channels {
			x := buses[b][c][:n]
			if drive != nil && b == pastBus {
				waiter(&v.mixerSat[b][c]).wait(x)
			} else if drive != nil {
				waiter(&v.mixerSat[b][c]).run(x, drive)
			}
			if b != pastBus {
				scale(x, e.mixer.level)
			}
		}
	}
	v.runFilters(channels, used)
	for c := range channels {
		for i := range v.drives[c] {
			v.drives[c][i].run(buses[0][c][:n])
			v.meters.note(stageDrive, buses[0][c][:n])
		}
	}
	// amplifier
	g := v.gainOf()
	pan := e.amp.pan + v.pan
	if len(e.amp.panMods) > 0 {
		pan += v.mean(e.amp.panMods, v.scratch[2])
	}
	gl, gr := panGains(pan)
	gl *= v.gain
	gr *= v.gain
	out := &buses[0]
	for c := range channels {
		x := out[c][:n]
		for k := range x {
			x[k] *= g[k]
		}
		if drive := v.driveOf(e.amp.drive, e.amp.driveMods); drive != nil {
			waiter(&v.ampSat[c]).run(x, drive)
		}
		scale(x, e.amp.level)
		if e.feedback > 0 {
			copy(v.back[c], x)
		}
		v.meters.note(stageAmp, x)
	}
	a, b := out[0][:n], out[0][:n]
	if stereo {
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

// twoPaths tells whether the second filter stands beside the first.
func (e *engine) twoPaths() bool { return len(e.filters) > 1 && e.filters[1].parallel }

// levelOf gives a source's level: what moves it adds to it, up to full level.
func (v *voice) levelOf(base float64, mods []mod) []float64 {
	buf := v.scratch[3]
	c, list := v.sum(mods, buf)
	top := max(1, base)
	if list == nil {
		buf[0] = clamp(base+c, 0, top)
		return buf[:1]
	}
	for k := range list {
		list[k] = clamp(base+list[k], 0, top)
	}
	return list
}

// gainOf gives the amplifier's gain: envelopes, velocity and gate multiply.
func (v *voice) gainOf() []float64 {
	buf := v.scratch[4][:v.n]
	v.multiply(buf, v.engine.amp.levelMods)
	if !v.gated {
		return buf
	}
	// the gate's own edges, so that it does not click: 2 ms up, 4 ms down
	g := v.gateLevel
	up, down := 1/(0.002*Rate), 1/(0.004*Rate)
	for k := range buf {
		if v.gateOn {
			g = min(1, g+up)
		} else {
			g = max(0, g-down)
		}
		buf[k] *= g
	}
	v.gateLevel = g
	return buf
}

// multiply sets buf to the product of what moves a level.
func (v *voice) multiply(buf []float64, mods []mod) {
	if len(mods) > 0 && mods[0].kind == fromEnv && mods[0].depth == 1 && mods[0].via == nil && mods[0].curve == "" {
		copy(buf, v.envBuf[mods[0].i]) // as it mostly is
		mods = mods[1:]
	} else {
		for k := range buf {
			buf[k] = 1
		}
	}
	for i := range mods {
		m := &mods[i]
		if m.kind == gate {
			continue
		}
		d := m.depth
		c, list := v.sum(mods[i:i+1], v.scratch[5])
		base := 1.0
		if !m.bipolar() && m.via == nil && d > 0 && (m.kind == fromEnv || m.kind == velocity) {
			base = 1 - min(1, d) // full level is at the source's full swing
		}
		if list == nil {
			f := max(0, base+c)
			for k := range buf {
				buf[k] *= f
			}
			continue
		}
		for k := range buf {
			buf[k] *= max(0, base+list[k])
		}
	}
}

// driveOf gives the drive of a saturation in decibels, nil where there never is any: one number, or one a sample.
func (v *voice) driveOf(base float64, mods []mod) []float64 {
	if base <= 0 && len(mods) == 0 {
		return nil
	}
	buf := v.scratch[2]
	c, list := v.sum(mods, buf)
	if list == nil {
		buf[0] = base + decibelsAtFull*c
		return buf[:1]
	}
	for k := range list {
		list[k] = base + decibelsAtFull*list[k]
	}
	return list
}

// waiter gives a saturator, made when it is first needed.
func waiter(s **saturator) *saturator {
	if *s == nil {
		*s = newSaturator()
	}
	return *s
}

func scale(x []float64, level float64) {
	if level != 1 {
		for k := range x {
			x[k] *= level
		}
	}
}

// pastBus is the bus of what goes past the filters.
const pastBus = 2

// driveFilters saturates what goes into filter i, and lets what goes beside it wait as long, so that all stay together.
func (v *voice) driveFilters(i, channels int, used [3]bool) {
	e := v.engine
	parallel := e.twoPaths()
	if !(e.filters[i].drive > 0) && !(parallel && i < 2 && e.filters[1-i].drive > 0) {
		return
	}
	for c := range channels {
		for b := range v.buses {
			own := b == 0 && !(parallel && i == 1) || b == 1 && parallel && i == 1
			s := waiter(&v.filterSat[i][b][c])
			x := v.buses[b][c][:v.n]
			switch {
			case own && e.filters[i].drive > 0:
				s.run(x, []float64{e.filters[i].drive})
			case own:
				s.wait(x)
			case b == pastBus && used[b] && !(parallel && i == 1), b == 1 && used[b] && !parallel && i == 0:
				s.wait(x)
			}
		}
	}
}

func (v *voice) runFilters(channels int, used [3]bool) {
	n := v.n
	e := v.engine
	parallel := e.twoPaths()
	for i := range e.filters {
		f := &e.filters[i]
		bus := 0
		if parallel && i == 1 {
			bus = 1
			if !used[1] && !used[0] {
				continue
			}
		}
		if i == 1 && !parallel && used[1] { // in series what goes to the second filter joins there
			for c := range channels {
				a, b := v.buses[0][c], v.buses[1][c]
				for k := range n {
					a[k] += b[k]
				}
			}
		}
		v.driveFilters(i, channels, used)
		quick := fast(f.cutMods, v) || fast(f.resMods, v)
		base := f.cutoff + f.track*(v.keyPitch-float64(q.MiddleC))/12
		c0, cut := v.sum(f.cutMods, v.scratch[0])
		if cut == nil {
			cut = v.scratch[0][:1]
			cut[0] = base + c0
		} else {
			for k := range cut {
				cut[k] += base
			}
		}
		r0, res := v.sum(f.resMods, v.scratch[1])
		if res == nil {
			res = v.scratch[1][:1]
			res[0] = min(f.res+r0, 1.1)
		} else {
			for k := range res {
				res[k] = min(f.res+res[k], 1.1)
			}
		}
		m0, morph := v.sum(f.morphMods, v.scratch[2])
		if morph == nil {
			morph = v.scratch[2][:1]
			morph[0] = clamp(f.morph+m0, 0, 1)
		} else {
			for k := range morph {
				morph[k] = clamp(f.morph+morph[k], 0, 1)
			}
		}
		mix := clamp(f.mix+v.mean(f.mixMods, v.scratch[3]), 0, 1)
		if channels == 2 && f.mode == dsp.Lowpass && f.poles == 4 && f.offset == 0 && mix == 1 {
			x, y := v.buses[bus][0][:n], v.buses[bus][1][:n]
			runLadders(v.filters[i][0], v.filters[i][1], x, y, cut, res, quick)
		} else {
			for c := range channels {
				v.filterChannel(i, c, v.buses[bus][c][:n], cut, res, morph, mix, quick)
			}
		}
		for c := range channels {
			scale(v.buses[bus][c][:n], f.level)
		}
	}
	for c := range channels {
		a := v.buses[0][c]
		if parallel {
			for k := range n {
				a[k] += v.buses[1][c][k]
			}
		} else if used[1] && len(e.filters) < 2 {
			for k := range n {
				a[k] += v.buses[1][c][k]
			}
		}
		if used[2] {
			for k := range n {
				a[k] += v.buses[2][c][k]
			}
		}
		v.meters.note(stageFilter, a[:n])
	}
}

// filterChannel runs one filter on one channel.
func (v *voice) filterChannel(i, c int, x, cut, res, morph []float64, mix float64, quick bool) {
	f := &v.engine.filters[i]
	var dry []float64
	if mix < 1 {
		dry = append(v.scratch[5][:0], x...)
	}
	d := f.offset / 2400
	if c == 0 {
		d = -d
	}
	if d != 0 {
		for k := range cut {
			cut[k] += d
		}
	}
	v.filters[i][c].run(x, cut, res, morph, f.feedback, quick)
	if d != 0 {
		for k := range cut {
			cut[k] -= d
		}
	}
	for k := range dry {
		x[k] = dry[k] + mix*(x[k]-dry[k])
	}
}
