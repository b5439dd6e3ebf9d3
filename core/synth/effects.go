package synth

import (
	"math"
	"slices"
	"sort"
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// effectKinds are the kinds that stand in the chain behind the amplifier. A filter may, too.
var effectKinds = []meaning.Kind{meaning.Drive, meaning.EQ, meaning.Compressor, meaning.Multiband, meaning.Chorus, meaning.Flanger, meaning.Phaser, meaning.Delay, meaning.Reverb, meaning.Widener}

// chain gives the effects in order: by the signal path, or by their place where they have one.
func (e *engine) chain() []*meaning.Module {
	m := e.m
	voiced := map[string]bool{}
	for i := range e.filters {
		voiced[e.filters[i].id] = true
	}
	for _, d := range e.drives {
		voiced[d.ID] = true
	}
	var list []*meaning.Module
	seen := map[string]bool{}
	add := func(d *meaning.Module) {
		if d == nil || seen[d.ID] {
			return
		}
		seen[d.ID] = true
		if d.Used() && (slices.Contains(effectKinds, d.Kind) || d.Kind == meaning.Filter) && !voiced[d.ID] {
			list = append(list, d)
		}
	}
	next := map[string][]string{}
	into := map[string]bool{}
	for _, x := range m.Audio {
		next[x.From] = append(next[x.From], x.To)
		if from := m.Module(x.From); from == nil || from.Kind != meaning.Send {
			into[x.To] = true
		}
	}
	var walk func(id string, depth int)
	walk = func(id string, depth int) {
		if depth > 64 {
			return
		}
		for _, n := range next[id] {
			if d := m.Module(n); d != nil && !seen[n] && d.Kind != meaning.Mixer && d.Kind != meaning.Feedback {
				add(d)
				walk(n, depth+1)
			}
		}
	}
	// a chain begins at the amplifier, or where nothing leads into it
	for i := range m.Modules {
		if d := &m.Modules[i]; d.Kind == meaning.Amp {
			walk(d.ID, 0)
		}
	}
	for i := range m.Modules {
		if d := &m.Modules[i]; (slices.Contains(effectKinds, d.Kind) || d.Kind == meaning.Filter) && !voiced[d.ID] && !into[d.ID] {
			add(d)
			walk(d.ID, 0)
		}
	}
	for i := range m.Modules {
		if d := &m.Modules[i]; slices.Contains(effectKinds, d.Kind) {
			add(d)
		}
	}
	sort.SliceStable(list, func(a, b int) bool {
		x, y := num(list[a], "place"), num(list[b], "place")
		return x > 0 && y > 0 && x < y
	})
	return list
}

// sendsTo lists the sends that feed an effect beside the chain.
func (e *engine) sendsTo(d *meaning.Module) (gains []dial, is bool) {
	for i := range e.m.Modules {
		s := &e.m.Modules[i]
		if s.Kind != meaning.Send || !s.Used() {
			continue
		}
		hit := strings.HasPrefix(word(s, "to"), string(d.Kind)) && word(s, "to") != "bus"
		for _, x := range e.m.Audio {
			hit = hit || x.From == s.ID && x.To == d.ID
		}
		if hit {
			gains = append(gains, e.dial(s, "level", amplitude(s, "level"), 0, 4))
			is = true
		}
	}
	return gains, is
}

// effects runs the chain in place.
func (e *engine) effects(s *Sound, left, right []float64) {
	var dryL, dryR []float64
	keep := func() {
		if dryL == nil {
			dryL, dryR = slices.Clone(left), slices.Clone(right)
		}
	}
	list := e.chain()
	for _, d := range list {
		if word(d, "sidechain") == "dry" {
			keep()
		}
	}
	for n, d := range list {
		if e.stopped() {
			return
		}
		e.tell(voicesShare + (1-voicesShare)*float64(n)/float64(len(list)))
		l, r := left, right
		gains, sent := e.sendsTo(d)
		if sent { // beside the chain
			l, r = slices.Clone(left), slices.Clone(right)
			for k := range l {
				g := 0.0
				for i := range gains {
					g += gains[i].at(k)
				}
				l[k] *= g
				r[k] *= g
			}
		}
		e.effect(d, l, r, dryL, dryR)
		if sent {
			for k := range l {
				left[k] += l[k]
				right[k] += r[k]
			}
		}
		s.stage(d.Label, peakOf(left, right), 0)
	}
}

func (e *engine) effect(d *meaning.Module, left, right, dryL, dryR []float64) {
	switch d.Kind {
	case meaning.Drive:
		e.eachChannel(left, right, func(_ int, x []float64) {
			w := driverOf(d)
			w.moved = &driveDials{gain: e.dial(d, "gain", num(d, "gain"), -60, 60), tone: e.dial(d, "tone", hertz(d, "tone", 20000), 20, 20000), level: e.dial(d, "level", w.level, 0, 10), mix: e.mixDial(d, 1)}
			if e.still(d, "gain", "tone", "level", "mix") {
				w.moved = nil
			}
			w.run(x)
		})
	case meaning.EQ:
		e.eq(d, left, right)
	case meaning.Filter:
		e.eachChannel(left, right, func(c int, x []float64) { e.filterBehind(d, c, x) })
	case meaning.Compressor:
		keyL, keyR := left, right
		if word(d, "sidechain") == "dry" && dryL != nil {
			keyL, keyR = dryL, dryR
		} else if w := word(d, "sidechain"); w != "own" && w != "" && w != "dry" {
			e.assume("%s: nothing is known of what comes into its side-chain; a beat on every quarter note stands in for it", d.Label)
			keyL = e.beats(len(left))
			keyR = keyL
		}
		compress(left, right, keyL, keyR, e.dial(d, "threshold", num(d, "threshold"), -90, 24), max(1, num(d, "ratio")), num(d, "attack"), num(d, "release"), e.dial(d, "makeup", amplitude(d, "makeup"), 0, 16), e.mixDial(d, 1))
	case meaning.Multiband:
		e.multiband(d, left, right)
	case meaning.Chorus, meaning.Flanger:
		e.modulated(d, left, right)
	case meaning.Phaser:
		e.phaser(d, left, right)
	case meaning.Delay:
		e.echo(d, left, right)
	case meaning.Reverb:
		e.reverberate(d, left, right)
	case meaning.Widener:
		w := e.dial(d, "width", num(d, "width"), -1, 2)
		for k := range left {
			m, s := (left[k]+right[k])/2, (left[k]-right[k])/2*(1+w.at(k))
			left[k], right[k] = m+s, m-s
		}
	}
}

// eachChannel runs what the two channels do by themselves at the same time.
func (e *engine) eachChannel(left, right []float64, run func(c int, x []float64)) {
	var fault any
	done := make(chan struct{})
	go func() {
		defer close(done)
		defer func() { fault = recover() }()
		run(1, right)
	}()
	run(0, left)
	<-done
	if fault != nil {
		panic(fault) // Render catches it
	}
}

// filterBehind is a filter in the chain behind the voices: one channel.
func (e *engine) filterBehind(d *meaning.Module, c int, x []float64) {
	f := newFilter(filterModes[word(d, "mode")], int(num(d, "poles")), e.seed+uint64(c))
	open := 20000.0
	if f.mode == highpass {
		open = 10
	}
	dry := slices.Clone(x)
	mix := e.mixDial(d, 1)
	cutoff, res, morph := e.dial(d, "cutoff", hertz(d, "cutoff", open), 5, 20000), e.dial(d, "resonance", num(d, "resonance"), 0, 0.99), e.dial(d, "morph", num(d, "morph"), 0, 1)
	if e.still(d, "cutoff", "resonance", "morph") {
		f.run(x, []float64{octaveOf(cutoff.base)}, []float64{res.base}, []float64{morph.base}, num(d, "feedback"), false)
	} else {
		var oct, rs, mo [block]float64
		for at := 0; at < len(x); at += block {
			n := min(block, len(x)-at)
			for k := range n {
				oct[k], rs[k], mo[k] = octaveOf(cutoff.at(at+k)), res.at(at+k), morph.at(at+k)
			}
			f.run(x[at:at+n], oct[:n], rs[:n], mo[:n], num(d, "feedback"), false)
		}
	}
	for k := range x {
		x[k] = dry[k] + mix.at(k)*(x[k]-dry[k])
	}
}

func mixOf(d *meaning.Module, otherwise float64) float64 {
	if v, ok := d.Params["mix"]; ok && !v.Off {
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
	shape            shaper
	dry              [shaperDelay]float64 // what waits for the shaper
	at               int
	before           bool
	tone, direct     onePole
	moved            *driveDials // in the chain, where routes move it
}

// driveDials is what routes can move in a drive.
type driveDials struct{ gain, tone, level, mix dial }

// still tells whether nothing moves some parameters of an effect.
func (e *engine) still(d *meaning.Module, names ...string) bool {
	return !slices.ContainsFunc(names, func(n string) bool { return e.swings[d.ID+"."+n] != nil })
}

func driverOf(d *meaning.Module) driver {
	w := driver{gain: amplitude(d, "gain"), level: 1, mix: mixOf(d, 1), shape: newShaper(word(d, "curve")), before: word(d, "toneMode") == "before",
		tone: lowAt(hertz(d, "tone", 20000)), direct: lowAt(10)}
	if _, ok := d.Params["level"]; ok {
		w.level = amplitude(d, "level")
	}
	return w
}

// run distorts in place. What the curve adds of direct current is taken away again.
func (w *driver) run(x []float64) {
	for k, in := range x {
		if m := w.moved; m != nil {
			w.gain, w.level, w.mix = q.Level(m.gain.at(k)).Amplitude(), m.level.at(k), m.mix.at(k)
			if m.tone.turns(k) {
				w.tone.c = lowAt(m.tone.at(k)).c
			}
		}
		y := in
		if w.before {
			y = w.tone.next(y)
		}
		y *= w.gain
		y = w.shape.next(y)
		y -= w.direct.next(y)
		if !w.before {
			y = w.tone.next(y)
		}
		in, w.dry[w.at] = w.dry[w.at], in
		if w.at++; w.at == len(w.dry) {
			w.at = 0
		}
		x[k] = in + w.mix*(w.level*y-in)
	}
}

// Biquad is a section of two poles and two zeros; a0 is 1.
type Biquad struct{ B0, B1, B2, A1, A2 float64 }

// EQSection gives the section for a band: peak, low shelf, high shelf, low-pass, high-pass.
// Source: W3C, Audio EQ Cookbook (Bristow-Johnson).
func EQSection(kind string, hz, gain, quality float64) Biquad {
	w := 2 * math.Pi * clamp(hz, 5, 0.49*Rate) / Rate
	quality = clamp(quality, 0.05, 50)
	cos, alpha := math.Cos(w), math.Sin(w)/(2*quality)
	a := math.Pow(10, gain/40)
	var b0, b1, b2, a0, a1, a2 float64
	switch kind {
	case "low shelf", "high shelf":
		s := 2 * math.Sqrt(a) * math.Sin(w) / 2 * math.Sqrt2 // a slope of 1
		sign := 1.0
		if kind == "high shelf" {
			sign = -1
		}
		b0 = a * (a + 1 - sign*(a-1)*cos + s)
		b1 = sign * 2 * a * (a - 1 - sign*(a+1)*cos)
		b2 = a * (a + 1 - sign*(a-1)*cos - s)
		a0 = a + 1 + sign*(a-1)*cos + s
		a1 = -sign * 2 * (a - 1 + sign*(a+1)*cos)
		a2 = a + 1 + sign*(a-1)*cos - s
	case "low-pass":
		b0, b1, b2 = (1-cos)/2, 1-cos, (1-cos)/2
		a0, a1, a2 = 1+alpha, -2*cos, 1-alpha
	case "high-pass":
		b0, b1, b2 = (1+cos)/2, -(1 + cos), (1+cos)/2
		a0, a1, a2 = 1+alpha, -2*cos, 1-alpha
	default:
		b0, b1, b2 = 1+alpha*a, -2*cos, 1-alpha*a
		a0, a1, a2 = 1+alpha/a, -2*cos, 1-alpha/a
	}
	return Biquad{b0 / a0, b1 / a0, b2 / a0, a1 / a0, a2 / a0}
}

// Run filters in place.
func (b Biquad) Run(x []float64) {
	var z [2]float64
	b.from(x, &z)
}

// from filters in place, on from a state.
func (b Biquad) from(x []float64, z *[2]float64) {
	z1, z2 := z[0], z[1]
	for k, in := range x {
		y := b.B0*in + z1
		z1 = b.B1*in - b.A1*y + z2
		z2 = b.B2*in - b.A2*y
		if math.Abs(z1) < 1e-18 {
			z1 = 0
		}
		if math.Abs(z2) < 1e-18 {
			z2 = 0
		}
		x[k] = y
	}
	z[0], z[1] = z1, z2
}

// Gain gives the section's gain at a frequency in hertz.
func (b Biquad) Gain(hz, rate float64) float64 {
	w := 2 * math.Pi * hz / rate
	c1, s1, c2, s2 := math.Cos(w), math.Sin(w), math.Cos(2*w), math.Sin(2*w)
	return math.Hypot(b.B0+b.B1*c1+b.B2*c2, b.B1*s1+b.B2*s2) / math.Hypot(1+b.A1*c1+b.A2*c2, b.A1*s1+b.A2*s2)
}

func (e *engine) eq(d *meaning.Module, left, right []float64) {
	quality := num(d, "q")
	if kind := word(d, "mode"); kind != "peak" || quality <= 0 {
		if quality <= 0 || strings.HasSuffix(kind, "shelf") {
			quality = math.Sqrt2 / 2
		}
	}
	freq, gain, width := e.dial(d, "freq", hertz(d, "freq", 1000), 10, 22000), e.dial(d, "gain", num(d, "gain"), -40, 40), e.dial(d, "q", quality, 0.1, 40)
	if e.still(d, "freq", "gain", "q") {
		s := EQSection(word(d, "mode"), freq.base, gain.base, width.base)
		e.eachChannel(left, right, func(_ int, x []float64) { s.Run(x) })
		return
	}
	e.eachChannel(left, right, func(_ int, x []float64) {
		var z [2]float64
		for at := 0; at < len(x); at += block {
			s := EQSection(word(d, "mode"), freq.at(at), gain.at(at), width.at(at))
			s.from(x[at:min(at+block, len(x))], &z)
		}
	})
}

// compress turns both channels down by what the louder of the keys asks for.
func compress(left, right, keyL, keyR []float64, threshold dial, ratio, attack, release float64, makeup, mix dial) {
	a := math.Exp(-1 / (max(attack/math.Ln10, 0.0001) * Rate))
	r := math.Exp(-1 / (max(release/math.Ln10, 0.001) * Rate))
	slope := 1 - 1/ratio
	env := 0.0 // decibels of reduction
	gain, last := makeup.at(0), 0.0
	top := q.Level(threshold.at(0)).Amplitude()
	for k := range left {
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
func (e *engine) multiband(d *meaning.Module, left, right []float64) {
	mix := e.mixDial(d, 0)
	low, high := hertz(d, "low", 200), hertz(d, "high", 2000)
	split := func(x []float64, f float64) (lo, hi []float64) {
		lo, hi = slices.Clone(x), slices.Clone(x)
		l, h := EQSection("low-pass", f, 0, math.Sqrt2/2), EQSection("high-pass", f, 0, math.Sqrt2/2)
		for range 2 {
			l.Run(lo)
			h.Run(hi)
		}
		return lo, hi
	}
	lowL, restL := split(left, low)
	lowR, restR := split(right, low)
	midL, highL := split(restL, high)
	midR, highR := split(restR, high)
	// the low band goes through the second split too, or the phases would not meet
	a, b := split(lowL, high)
	for k := range a {
		lowL[k] = a[k] + b[k]
	}
	a, b = split(lowR, high)
	for k := range a {
		lowR[k] = a[k] + b[k]
	}
	ratio := max(1, num(d, "ratio"))
	for _, x := range []struct {
		l, r      []float64
		threshold string
		gain      string
	}{{lowL, lowR, "thresholdLow", "gainLow"}, {midL, midR, "thresholdMid", "gainMid"}, {highL, highR, "thresholdHigh", "gainHigh"}} {
		compress(x.l, x.r, x.l, x.r, dial{base: num(d, x.threshold)}, ratio, num(d, "attack"), num(d, "release"), dial{base: amplitude(d, x.gain)}, dial{base: 1})
	}
	for k := range left {
		m := mix.at(k)
		left[k] += m * (lowL[k] + midL[k] + highL[k] - left[k])
		right[k] += m * (lowR[k] + midR[k] + highR[k] - right[k])
	}
}

// line is a delay line that is read between its samples.
type line struct {
	buf []float64
	at  int
}

func newLine(seconds float64) *line {
	n := 1
	for n < int(seconds*Rate)+4 {
		n *= 2
	}
	return &line{buf: make([]float64, n)}
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
func (e *engine) modulated(d *meaning.Module, left, right []float64) {
	chorus := d.Kind == meaning.Chorus
	base := num(d, "delay")
	voices := 1
	stereo := 1.0
	if v, ok := d.Params["stereo"]; ok && !v.Off {
		stereo = v.Value
	}
	if chorus {
		voices = max(1, min(6, int(num(d, "voices"))))
		if base == 0 {
			base = 0.008 // common practice, no source
		}
	} else if base == 0 {
		base = 0.001
	}
	delay, depth := e.dial(d, "delay", base, 0, 0.2), e.dial(d, "depth", num(d, "depth"), 0, 0.1)
	// voices that move together add up by their number, and come back as loud: less than 1 in all, or it howls
	most := 0.95 / math.Sqrt(float64(voices))
	feedback, mix := e.dial(d, "feedback", num(d, "feedback"), -most, most), e.mixDial(d, 0)
	rate := e.dial(d, "rate", num(d, "rate"), 0, 200)
	longest := max(delay.top(), depth.top()+0.0002) + 2*depth.top() + 0.01
	tone := [2]onePole{lowAt(hertz(d, "tone", 20000)), lowAt(hertz(d, "tone", 20000))}
	lines := [2]*line{newLine(longest), newLine(longest)}
	phase := 0.0
	const hold = 16
	taps := [2][6][2]float64{}
	g := 1 / math.Sqrt(float64(voices))
	for k := range left {
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
			wet = tone[c].next(wet * g)
			lines[c].write(in + back*wet)
			x[k] = in + m*(wet-in)
			if !chorus { // equal shares leave the comb at full depth
				x[k] = in*(1-m/2) + wet*m/2
			}
		}
	}
}

func (e *engine) phaser(d *meaning.Module, left, right []float64) {
	stages := max(2, min(12, int(num(d, "stages"))))
	centre, depth := e.dial(d, "centre", hertz(d, "centre", 800), 20, 18000), e.dial(d, "depth", num(d, "depth"), 0, 1)
	feedback, mix := e.dial(d, "feedback", num(d, "feedback"), -0.9, 0.9), e.mixDial(d, 0)
	rate := e.dial(d, "rate", num(d, "rate"), 0, 200)
	e.eachChannel(left, right, func(c int, x []float64) {
		var s [12]float64
		var last, a float64
		phase := 0.25 * float64(c)
		for k := range x {
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
	})
}

// echo is a delay: left and right with their own times, crossed, or from side to side.
func (e *engine) echo(d *meaning.Module, left, right []float64) {
	tl := max(num(d, "time"), 1.0/Rate)
	tr := num(d, "timeRight")
	if tr <= 0 {
		tr = tl
	}
	timeL, timeR := e.dial(d, "time", tl, 1.0/Rate, 10), e.dial(d, "timeRight", tr, 1.0/Rate, 10)
	if timeR.moved == nil && num(d, "timeRight") <= 0 {
		timeR = timeL
	}
	feedback, cross := clamp(num(d, "feedback"), 0, 0.98), clamp(num(d, "cross"), 0, 0.98)
	mix := e.mixDial(d, 0)
	pattern := word(d, "pattern")
	if pattern == "cross" && cross == 0 {
		feedback, cross = 0, feedback
	}
	back, over := e.dial(d, "feedback", feedback, 0, 0.98), e.dial(d, "cross", cross, 0, 0.98)
	wobble := e.dial(d, "wobble", num(d, "wobble"), 0, 1)
	tone := e.dial(d, "tone", hertz(d, "tone", 20000), 20, 20000)
	high := [2]onePole{lowAt(hertz(d, "tone", 20000)), lowAt(hertz(d, "tone", 20000))}
	low := [2]onePole{lowAt(hertz(d, "lowcut", 5)), lowAt(hertz(d, "lowcut", 5))}
	cut := hertz(d, "lowcut", 0) > 0
	lines := [2]*line{newLine(timeL.top() + 0.02), newLine(timeR.top() + 0.02)}
	for k := range left {
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

// reverberate is a feedback network of eight delays (Schroeder, JAES 10(3), 1962, for the gains that
// give a T60; the network by an orthogonal matrix is common practice, no source).
func (e *engine) reverberate(d *meaning.Module, left, right []float64) {
	t60 := e.dial(d, "t60", num(d, "t60"), 0.05, 60)
	mix := e.mixDial(d, 0)
	size := 0.5
	if v, ok := d.Params["size"]; ok && !v.Off {
		size = v.Value
	}
	damping := e.dial(d, "damping", num(d, "damping"), 0, 1)
	wait := e.dial(d, "predelay", num(d, "predelay"), 0, 2)
	pre := newLine(wait.top() + 0.01)
	low := lowAt(hertz(d, "lowcut", 5))
	cut := hertz(d, "lowcut", 0) > 0
	primes := [8]int{1123, 1283, 1451, 1607, 1811, 1993, 2203, 2423} // samples at middle size, 23 to 50 ms
	scale := 0.5 + size
	var bufs [8][]float64
	var at [8]int
	var gains [8]float64
	var damp [8]onePole
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
		for i := range damp {
			damp[i].c = c
			gains[i] = float64(q.FeedbackFor(q.Duration(float64(len(bufs[i]))/Rate), q.Duration(t60.at(k))))
		}
	}
	set(0)
	const h = 0.35355339059327373 // 1/sqrt 8
	diffuse := [2]allpass{newAllpass(241), newAllpass(557)}
	for k := range left {
		if t60.turns(k) || damping.turns(k) {
			set(k)
		}
		pre.write((left[k] + right[k]) / 2)
		in := pre.read(wait.at(k) * Rate)
		if cut {
			in -= low.next(in)
		}
		in = diffuse[1].next(diffuse[0].next(in))
		var y [8]float64
		for i := range y {
			y[i] = damp[i].next(bufs[i][at[i]]) * gains[i]
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
