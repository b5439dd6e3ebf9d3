package synth

import (
	"glossator/core/dsp"
	q "glossator/core/quantity"
)

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

// sound is what is on its way through the voice: one channel or two, nil for nothing.
type sound [2][]float64

// lateness keeps what lets one way wait for another that saturates.
type lateness [2][]*saturator

func (l *lateness) wait(x []float64, c, times int) {
	for i := range times {
		if len(l[c]) <= i {
			l[c] = append(l[c], newSaturator())
		}
		l[c][i].wait(x)
	}
}

// leg is a connection of the path at work: where it leads, and what its sound has to wait.
type leg struct {
	to    int // in nodes, or meaning.Out
	waits int // saturations
}

// node is a filter, a drive or a mixer of the path at work in a voice.
type node struct {
	*nodeSpec
	in    sound // what has come to it in this block
	own   sound // memory for it
	late  []lateness
	sat   [2]*saturator
	drive [2]driver
}

// deliver adds a sound to what comes to a node or to the amplifier. It may be worked on in place where nobody else is to have it.
func (v *voice) deliver(x sound, channels int, w leg, late *lateness, alone bool) {
	into, own := &v.outIn, &v.outOwn
	if w.to >= 0 {
		into, own = &v.nodes[w.to].in, &v.nodes[w.to].own
	}
	n := v.n
	for c := range channels {
		y := x[c][:n]
		if w.waits > 0 {
			if !alone {
				y = append(v.scratch[5][:0], y...)
			}
			late.wait(y, c, w.waits)
		}
		switch {
		case into[c] != nil:
			dst := into[c]
			for k := range dst {
				dst[k] += y[k]
			}
		case alone:
			into[c] = y
		default:
			if own[c] == nil {
				own[c] = floats(block)
			}
			into[c] = own[c][:n]
			copy(into[c], y)
		}
	}
}

// runPath takes what is on the buses through mixers, filters and drives to the amplifier.
func (v *voice) runPath(channels int, used []bool) {
	e, n := v.engine, v.n
	v.outIn = sound{}
	for i := range v.nodes {
		v.nodes[i].in = sound{}
	}
	for b := range e.buses {
		if !used[b] && b > 0 {
			continue
		}
		x := sound(v.buses[b])
		for c := range channels {
			x[c] = x[c][:n]
			v.meters.note(stageMixer, x[c])
		}
		if s := &e.buses[b]; s.mixer >= 0 {
			v.runMixer(&e.mixers[s.mixer], x, channels, &v.mixerSat[b])
		}
		v.deliver(x, channels, e.buses[b].leg, &v.busLate[b], true)
	}
	for i := range v.nodes {
		d := &v.nodes[i]
		for c := range channels {
			if d.in[c] == nil { // nothing comes: what rings goes on
				if d.own[c] == nil {
					d.own[c] = floats(block)
				}
				d.in[c] = d.own[c][:n]
				clear(d.in[c])
			}
		}
		v.runNode(d, d.in, channels)
		if e.tap == i && e.feedback > 0 {
			for c := range channels {
				copy(v.back[c], d.in[c])
			}
		}
		for k, w := range d.to {
			v.deliver(d.in, channels, w, &d.late[k], k == len(d.to)-1)
		}
	}
	for c := range channels {
		if v.outIn[c] == nil {
			if v.outOwn[c] == nil {
				v.outOwn[c] = floats(block)
			}
			v.outIn[c] = v.outOwn[c][:n]
			clear(v.outIn[c])
		}
		v.meters.note(stageFilter, v.outIn[c])
	}
}

func (v *voice) runMixer(m *mixerSpec, x sound, channels int, sat *[2]*saturator) {
	drive := v.driveOf(m.drive, m.mods)
	for c := range channels {
		if drive != nil {
			waiter(&sat[c]).run(x[c], drive)
		}
		scale(x[c], m.level)
	}
}

// runNode runs a node on a sound in place.
func (v *voice) runNode(d *node, x sound, channels int) {
	switch d.kind {
	case mixerNode:
		v.runMixer(&v.engine.mixers[d.i], x, channels, &d.sat)
	case ampNode:
		a := &v.engine.inner[d.i]
		g := v.scratch[4][:v.n]
		v.multiply(g, a.levelMods)
		drive := v.driveOf(a.drive, a.driveMods)
		for c := range channels {
			for k := range x[c] {
				x[c][k] *= g[k]
			}
			if drive != nil {
				waiter(&d.sat[c]).run(x[c], drive)
			}
			scale(x[c], a.level)
		}
	case driveNode:
		for c := range channels {
			d.drive[c].run(x[c])
			v.meters.note(stageDrive, x[c])
		}
	default:
		if f := &v.engine.filters[d.i]; f.drive > 0 {
			for c := range channels {
				waiter(&d.sat[c]).run(x[c], []float64{f.drive})
			}
		}
		v.runFilter(d.i, x, channels)
	}
}

// runFilter runs one filter in place.
func (v *voice) runFilter(i int, x sound, channels int) {
	f := &v.engine.filters[i]
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
	mix := clamp(f.mix+v.latest(f.mixMods, v.scratch[3]), 0, 1)
	if channels == 2 && f.mode == dsp.Lowpass && f.poles == 4 && f.offset == 0 && mix == 1 {
		runLadders(v.filters[i][0], v.filters[i][1], x[0], x[1], cut, res, quick)
	} else {
		for c := range channels {
			v.filterChannel(i, c, x[c], cut, res, morph, mix, quick)
		}
	}
	for c := range channels {
		scale(x[c], f.level)
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
