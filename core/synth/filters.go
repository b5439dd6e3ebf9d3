package synth

import (
	"glossator/core/dsp"
	q "glossator/core/quantity"
)

// twoPaths tells whether the second filter stands beside the first.
func (e *engine) twoPaths() bool { return len(e.filters) > 1 && e.filters[1].parallel }

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
		mix := clamp(f.mix+v.latest(f.mixMods, v.scratch[3]), 0, 1)
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
