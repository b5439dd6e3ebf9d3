package synth

import (
	"math"

	q "glossator/core/quantity"
)

// pitchOf gives the frequency of an oscillator that follows the key by a share.
func pitchOf(key, follow, interval, fixed, cents float64) float64 {
	if fixed > 0 {
		return fixed
	}
	c := 100*(key-float64(q.MiddleC))*follow + interval + cents
	return clamp(261.6255653005986*math.Exp2(c/1200), 0.01, 0.45*Rate)
}

func (v *voice) runOscs(cents float64, toBus func(to []int, x [2][]float64, gl, gr float64, gain []float64)) {
	// what modulates or resets another comes first; a circle takes the block before
	done := make([]bool, len(v.oscs))
	var visit func(i, depth int)
	visit = func(i, depth int) {
		if done[i] {
			return
		}
		done[i] = true
		o := &v.oscs[i]
		if o.modulator >= 0 && (o.fm != 0 || len(o.fmMods) > 0) {
			visit(o.modulator, depth+1)
		}
		if o.master >= 0 {
			visit(o.master, depth+1)
		}
		v.runOsc(o, cents)
	}
	for i := range v.oscs {
		visit(i, 0)
	}
	for i := range v.oscs {
		o := &v.oscs[i]
		if o.level == 0 && len(o.levelMods) == 0 {
			continue
		}
		toBus(o.buses, o.out, 1, 1, v.levelOf(o.level, o.levelMods))
	}
}

func (v *voice) runOsc(o *osc, cents float64) {
	n := v.n
	c0, moving := v.sum(o.pitchMods, v.scratch[0])
	follow := v.keyPitch
	if moving != nil && !fast(o.pitchMods, v) {
		c0, moving = moving[n-1], nil
	}
	f := pitchOf(follow, o.key, o.interval, o.fixed, cents+c0)
	// shape
	amount := o.amount
	if len(o.amountMods) > 0 {
		amount = clamp(amount+v.latest(o.amountMods, v.scratch[1]), 0, 1)
	}
	pos := o.frame
	if len(o.frameMods) > 0 {
		pos = clamp(pos+v.latest(o.frameMods, v.scratch[1]), 0, 1)
	}
	w0, widths := v.sum(o.widthMods, v.scratch[1])
	width := clamp(o.width+w0, 0.02, 0.98)
	warps := o.warp != "" && o.warp != "none" && amount > 0
	pulse := o.wave == q.WavePulse && !warps
	if widths != nil && pulse {
		for k := range widths {
			widths[k] = clamp(o.width+widths[k], 0.02, 0.98)
		}
	} else {
		if widths != nil {
			width = clamp(o.width+widths[n-1], 0.02, 0.98)
		}
		widths = nil
	}
	var a, b *table // crossfaded where the shape lies between two steps
	mix := 0.0
	switch {
	case pulse:
		a = plain()[q.WaveSaw].band(f)
	case o.wave == waveTable || warps:
		a, b, mix = v.between(o, pos, width, amount, warps, f)
	default:
		s := plain()[o.wave]
		if s == nil {
			s = v.bank.get(shapeKey{wave: o.wave}) // drawn
		}
		a = s.band(f)
	}
	times := o.times
	var phaseMod []float64
	if o.modulator >= 0 && (o.fm != 0 || len(o.fmMods) > 0) {
		share := o.fm + v.latest(o.fmMods, v.scratch[2])
		if share != 0 {
			phaseMod = o.modulation[:n*times]
			m := &v.oscs[o.modulator]
			fine, finer := m.fine, m.times
			if times == 1 { // it is worked out more finely for another
				fine, finer = m.raw, 1
			}
			for k := range phaseMod {
				phaseMod[k] = share / 2 * fine[k*finer/times] // full is an index of pi: half a cycle
			}
		}
	}
	var resets []float64
	if o.master >= 0 {
		resets = v.oscs[o.master].wraps
	}
	if times > 1 {
		widths, moving, resets = o.finer(n, widths, moving, resets)
	}
	out := o.out
	for c := range out {
		if out[c] != nil && (o.unison > 1 || out[1] != nil) {
			out[c] = out[c][:n]
			clear(out[c])
		}
	}
	raw := o.raw[:n]
	if o.unison > 1 && o.taken {
		clear(raw)
	}
	for u := range o.phase {
		end := f * o.detune[u] / Rate
		inc := o.inc[u]
		if inc == 0 {
			inc = end
		}
		dst := raw
		if o.unison > 1 {
			dst = v.scratch[4][:n]
		}
		if times == 1 {
			o.phase[u] = o.cycle(dst, o.phase[u], inc, (end-inc)/float64(n), a, b, mix, width, widths, phaseMod, moving, resets, pulse, u == 0)
		} else {
			o.finely(dst, u, inc, end, a, b, mix, width, widths, phaseMod, moving, resets, pulse)
		}
		o.inc[u] = end
		if len(o.phase) == 1 && out[1] == nil {
			continue // what goes out is what it is
		}
		gl, gr := o.gains[u][0], o.gains[u][1]
		if len(o.panMods) > 0 {
			p, _ := panGains(o.pan + v.latest(o.panMods, v.scratch[5]))
			_, r := panGains(o.pan + v.latest(o.panMods, v.scratch[5]))
			s := 1 / math.Sqrt(float64(len(o.phase)))
			gl, gr = p*s, r*s
		}
		if out[1] == nil {
			g := (gl + gr) / 2
			left := out[0][:len(dst)]
			for k, y := range dst {
				left[k] += g * y
			}
		} else {
			left, right := out[0][:len(dst)], out[1][:len(dst)]
			for k, y := range dst {
				left[k] += gl * y
				right[k] += gr * y
			}
		}
		if o.unison > 1 && o.taken {
			g := 1 / math.Sqrt(float64(o.unison))
			for k := range dst {
				raw[k] += g * dst[k]
			}
		}
	}
}

// fast tells whether something at audio rate moves a pitch.
func fast(mods []mod, v *voice) bool {
	for i := range mods {
		switch mods[i].kind {
		case fromOsc, fromOperator:
			return true
		case fromLFO:
			if v.lfos[mods[i].i].rate > 25 {
				return true
			}
		}
	}
	return false
}

// finer spreads what changes from sample to sample over o.times as many.
func (o *osc) finer(n int, widths, cents, resets []float64) (w, c, r []float64) {
	spread := func(to, from []float64) []float64 {
		if from == nil {
			return nil
		}
		to = to[:n*o.times]
		for k := range to {
			to[k] = from[k/o.times]
		}
		return to
	}
	w, c = spread(o.spreads[0], widths), spread(o.spreads[1], cents)
	if resets != nil {
		r = o.spreads[2][:n*o.times]
		for k := range r {
			r[k] = -1
		}
		for k, t := range resets[:n] {
			if t >= 0 { // so long before sample k
				at := math.Ceil((float64(k) - t) * float64(o.times))
				i := max(0, int(at))
				r[i] = clamp(float64(i)-(float64(k)-t)*float64(o.times), 0, 1)
			}
		}
	}
	return w, c, r
}

// finely writes a block of one voice of an oscillator that is worked out at o.times the rate. What it resets is told at the rate, by where its plain phase begins anew.
func (o *osc) finely(dst []float64, u int, inc, end float64, a, b *table, mix, width float64, widths, phaseMod, cents, resets []float64, pulse bool) {
	n, times := len(dst), float64(o.times)
	fine := o.fine[:n*o.times]
	if o.wraps != nil && u == 0 {
		o.wraps[0] = o.carry
		phase, d := o.phase[0], inc
		for k := range n {
			d += (end - inc) / float64(n)
			phase += d
			wrapped := -1.0
			if phase >= 1 {
				phase -= math.Floor(phase)
				wrapped = phase / d
			}
			if k+1 < n {
				o.wraps[k+1] = wrapped
			} else {
				o.carry = wrapped
			}
		}
	}
	o.phase[u] = o.cycle(fine, o.phase[u], inc/times, (end-inc)/float64(n)/times/times, a, b, mix, width, widths, phaseMod, cents, resets, pulse, u == 0)
	if o.unison > 1 { // the thinner spoils it
		if u == 0 {
			clear(o.whole[:len(fine)])
		}
		g := 1 / math.Sqrt(float64(o.unison))
		for k, y := range fine {
			o.whole[k] += g * y
		}
	} else {
		copy(o.whole, fine)
	}
	o.thin[u].run(fine, dst)
	if u == len(o.phase)-1 {
		copy(fine, o.whole)
	}
}

// between gives the tables of the two steps of a shape that lie about a position.
func (v *voice) between(o *osc, pos, width, amount float64, warps bool, f float64) (a, b *table, mix float64) {
	k := shapeKey{wave: o.wave}
	x := 0.0
	steps := 0
	step := func() {}
	if o.wave == waveTable {
		k.table, k.width = o.table, int(math.Round(width*frameSteps))
		x = pos * frameSteps
		steps = int(x)
		k.frame = steps
		step = func() { k.frame = min(steps+1, frameSteps) }
	}
	if o.wave == q.WavePulse {
		k.width = int(math.Round(width * frameSteps))
	}
	if warps {
		k.warp = o.warp
		if len(o.amountMods) > 0 && len(o.frameMods) == 0 {
			x = amount * warpSteps
			steps = int(x)
			k.amount = steps
			if o.wave == waveTable {
				k.frame = int(math.Round(pos * frameSteps))
			}
			step = func() { k.amount = min(steps+1, warpSteps) }
		} else {
			k.amount = int(math.Round(amount * warpSteps))
		}
	}
	band := bandOf(f)
	if o.keys[0] != k || o.band != band || o.tables[0] == nil {
		o.keys[0], o.band = k, band
		o.tables[0] = v.bank.get(k).band(f)
		step()
		o.tables[1] = v.bank.get(k).band(f)
	}
	return o.tables[0], o.tables[1], x - float64(steps)
}

// cycle writes samples of one oscillator and gives the phase it ends at. inc grows by slope each
// sample. The plain case is a loop of its own: most oscillators are that.
func (o *osc) cycle(out []float64, phase, inc, slope float64, a, b *table, mix, width float64, widths, phaseMod, cents, resets []float64, pulse, first bool) float64 {
	if phaseMod == nil && cents == nil && resets == nil && (!first || o.wraps == nil) {
		switch {
		case !pulse && mix != 0:
			m := float32(mix)
			for k := range out {
				x := phase * tableSize
				i := int(x)
				if uint(i) >= tableSize {
					i = tableSize - 1
				}
				p, q := a[i], a[i+1]
				p += m * (b[i] - p)
				q += m * (b[i+1] - q)
				out[k] = float64(p + float32(x-float64(i))*(q-p))
				inc += slope
				phase += inc
				if phase >= 1 {
					phase--
				}
			}
			return phase
		case !pulse:
			for k := range out {
				x := phase * tableSize
				i := int(x)
				if uint(i) >= tableSize {
					i = tableSize - 1
				}
				y := float64(a[i])
				out[k] = y + (x-float64(i))*(float64(a[i+1])-y)
				inc += slope
				phase += inc
				if phase >= 1 {
					phase--
				}
			}
			return phase
		case widths == nil:
			for k := range out {
				p := phase - width
				if p < 0 {
					p++
				}
				out[k] = a.at(phase) - a.at(p)
				inc += slope
				phase += inc
				if phase >= 1 {
					phase--
				}
			}
			return phase
		}
	}
	for k := range out {
		p := phase
		if phaseMod != nil {
			p += phaseMod[k]
			p -= math.Floor(p)
		}
		y := o.read(p, k, a, b, mix, width, widths, pulse)
		if resets != nil && resets[k] >= 0 { // begun anew by its master, resets[k] samples ago
			t := resets[k]
			was := y
			phase = math.Mod(o.start+t*inc, 1)
			y = o.read(phase, k, a, b, mix, width, widths, pulse)
			jump := y - was
			y -= jump * (1 - t) * (1 - t) / 2
			if k > 0 {
				out[k-1] += jump * t * t / 2
			}
		}
		out[k] = y
		inc += slope
		d := inc
		if cents != nil {
			d *= math.Exp2(cents[k] / 1200)
			d = min(d, 0.45)
		}
		phase += d
		wrapped := -1.0
		if phase >= 1 {
			phase -= math.Floor(phase)
			wrapped = phase / d
		}
		if first && o.wraps != nil && o.times == 1 {
			if k == 0 {
				o.wraps[0] = o.carry
			}
			if k+1 < len(out) {
				o.wraps[k+1] = wrapped
			} else {
				o.carry = wrapped
			}
		}
	}
	return phase
}

func (o *osc) read(p float64, k int, a, b *table, mix, width float64, widths []float64, pulse bool) float64 {
	if pulse {
		if widths != nil {
			width = widths[k]
		}
		w := p - width
		if w < 0 {
			w++
		}
		return a.at(p) - a.at(w)
	}
	y := a.at(p)
	if mix != 0 {
		y += mix * (b.at(p) - y)
	}
	return y
}

// runOps renders the operators, each after what modulates it.
func (v *voice) runOps(cents float64, toBus func(to []int, x [2][]float64, gl, gr float64, gain []float64)) {
	n := v.n
	for i := range v.ops {
		o := &v.ops[i]
		c := cents + v.latest(o.pitch, v.scratch[0])
		f := pitchOf(v.keyPitch, o.key, o.interval, o.fixed, c)
		o.inc = f / Rate / float64(v.opTimes)
		s := plain()[o.wave]
		if s == nil && o.wave == q.WavePulse {
			s = v.bank.get(shapeKey{wave: q.WavePulse, width: frameSteps / 2})
		} else if s == nil {
			s = v.bank.get(shapeKey{wave: o.wave}) // drawn
		}
		o.table = s.band(f)
		v.multiply(o.level[:n], o.levelMods)
		g := o.level_(v.keyPitch)
		for k := range n {
			o.level[k] *= g
		}
	}
	fb := make([]float64, len(v.ops))
	for i := range v.ops {
		fb[i] = v.ops[i].feedback
		if len(v.ops[i].fbMods) > 0 {
			fb[i] = clamp(fb[i]+v.latest(v.ops[i].fbMods, v.scratch[0]), 0, 1)
		}
	}
	times := v.opTimes
	if v.opsInRow {
		for _, i := range v.opOrder {
			v.runOp(i, fb[i], n, times)
		}
	} else {
		v.runOpsTogether(fb, n, times)
	}
	if times > 1 {
		for i := range v.ops {
			if o := &v.ops[i]; o.out != 0 || len(o.outMods) > 0 || v.opMoves {
				o.thin.run(o.fine[:n*times], v.opBuf[i][:n])
			}
		}
	}
	for i := range v.ops {
		o := &v.ops[i]
		if o.out == 0 && len(o.outMods) == 0 {
			continue
		}
		gl, gr := panGains(o.pan)
		g := v.levelOf(o.out, o.outMods)
		toBus(o.buses, [2][]float64{v.opBuf[i], nil}, gl, gr, g)
	}
}

// runOp renders an operator through a block, after all that modulates it.
func (v *voice) runOp(i int, fb float64, n, times int) {
	o := &v.ops[i]
	fine, t, phase, inc := o.fine[:n*times], o.table, o.phase, o.inc
	if o.opSpec.level == 0 {
		clear(fine)
		o.prev, o.last = 0, 0
		return
	}
	bend := v.scratchOps[:0]
	for _, m := range o.from {
		if v.ops[m.op].opSpec.level != 0 {
			bend = append(bend, opBend{m.depth, v.ops[m.op].fine[:n*times]})
		}
	}
	k := 0
	for at := range n {
		level := o.level[at]
		for range times {
			p := phase
			for b := range bend {
				p += bend[b].depth * bend[b].fine[k]
			}
			if fb != 0 { // full feedback is an index of pi/2 (common practice, no source)
				p += fb / 8 * (o.last + o.prev)
			}
			if p < 0 || p >= 1 {
				p -= math.Floor(p)
			}
			y := t.at(p) * level
			o.prev, o.last = o.last, y
			fine[k] = y
			k++
			if phase += inc; phase >= 1 {
				phase -= math.Floor(phase)
			}
		}
	}
	o.phase, v.scratchOps = phase, bend
}

// opBend is what bends the phase of an operator: another one's block, by so many cycles.
type opBend struct {
	depth float64
	fine  []float64
}

// runOpsTogether renders operators that modulate each other in a circle, sample by sample.
func (v *voice) runOpsTogether(fb []float64, n, times int) {
	for k := range n * times {
		at := k
		if times > 1 {
			at = k / times
		}
		for _, i := range v.opOrder {
			o := &v.ops[i]
			p := o.phase
			for _, m := range o.from {
				p += m.depth * v.ops[m.op].last
			}
			if fb[i] != 0 {
				p += fb[i] / 8 * (o.last + o.prev)
			}
			p -= math.Floor(p)
			y := o.table.at(p) * o.level[at]
			o.prev, o.last = o.last, y
			o.fine[k] = y
			o.phase += o.inc
			if o.phase >= 1 {
				o.phase -= math.Floor(o.phase)
			}
		}
	}
}

// level_ gives an operator's level at a key: levelKey of 1 takes 12 dB an octave away upwards.
func (o *op) level_(key float64) float64 {
	if o.levelKey == 0 {
		return o.opSpec.level
	}
	return o.opSpec.level * q.Level(clamp(-12*o.levelKey*(key-float64(q.MiddleC))/12, -60, 6)).Amplitude()
}

// noiseGen is noise of a colour.
type noiseGen struct {
	r      random
	colour string
	b      [7]float64
	held   float64
	phase  float64
}

func newNoise(colour string, seed uint64) *noiseGen {
	g := &noiseGen{r: random(seed*0x9E3779B97F4A7C15 | 1), colour: colour}
	for range 8 {
		g.r.next()
	}
	return g
}

func (g *noiseGen) run(out []float64, s *noiseSpec, key float64) {
	switch g.colour {
	case "pink": // poles and zeros in turn, -3 dB an octave within 0.5 dB from 20 Hz (common practice, from memory)
		b := &g.b
		for k := range out {
			w := g.r.next()
			b[0] = 0.99886*b[0] + w*0.0555179
			b[1] = 0.99332*b[1] + w*0.0750759
			b[2] = 0.96900*b[2] + w*0.1538520
			b[3] = 0.86650*b[3] + w*0.3104856
			b[4] = 0.55000*b[4] + w*0.5329522
			b[5] = -0.7616*b[5] - w*0.0168980
			out[k] = 0.25 * (b[0] + b[1] + b[2] + b[3] + b[4] + b[5] + b[6] + w*0.5362)
			b[6] = w * 0.115926
		}
	case "brown":
		c := math.Exp(-2 * math.Pi * 20 / Rate)
		for k := range out {
			g.held = c*g.held + (1-c)*g.r.next()
			out[k] = clamp(24*g.held, -2, 2)
		}
	case "air": // what is left above 4 kHz
		c := 1 - math.Exp(-2*math.Pi*4000/Rate)
		for k := range out {
			w := g.r.next()
			g.held += c * (w - g.held)
			out[k] = w - g.held
		}
	case "grit": // held samples, at a rate that may follow the key
		inc := clamp(4000*math.Exp2((s.interval+s.key*100*(key-float64(q.MiddleC)))/1200)/Rate, 0.001, 1)
		for k := range out {
			g.phase += inc
			if g.phase >= 1 {
				g.phase -= math.Floor(g.phase)
				g.held = g.r.next()
			}
			out[k] = g.held
		}
	default:
		for k := range out {
			out[k] = g.r.next()
		}
	}
}
