package synth

import (
	"math"

	q "glossator/core/quantity"
)

// most is the greatest number of times the rate at which modulated oscillators and operators are worked out.
const most = 16

// timesFor gives how many times the rate carries frequencies up to top, in hertz, without more than what cannot be heard folding back.
func timesFor(top float64) int {
	n := 1
	for n < most && float64(n)*Rate-20000 < top {
		n *= 2
	}
	return n
}

// swing gives how steep a wave is at most, as a share of a cycle of its frequency (a sine: 2 pi), and up to which harmonic it counts: bounds for
// what it makes of another wave that it modulates, and of one that modulates it.
func swing(wave string, f float64) (slope, top float64) {
	n := float64(harmonicsIn(bandOf(f)))
	switch wave {
	case q.WaveSine:
		return 2 * math.Pi, 1
	case q.WaveTriangle:
		return 4, min(n, 7)
	case q.WaveSaw:
		return 4 * n, n
	}
	return 8 * n, n // a pulse is two saws; what is drawn or read from a table may be as steep as that
}

// loudest is the highest level that an operator comes to, 0 where it never gives anything.
func (o *opSpec) loudest() float64 {
	top := o.level
	if o.levelKey != 0 {
		top *= 2 // at the lowest keys
	}
	for i := range o.levelMods {
		if m := &o.levelMods[i]; m.bipolar() || m.via != nil || m.depth < 0 || m.kind != fromEnv && m.kind != velocity {
			top *= 1 + math.Abs(m.depth)
		}
	}
	return top
}

// operatorTimes gives how many times the rate the operators need on a note: 1 where all are sines that reach as far as their sidebands do.
// The highest frequency of an operator is that of its highest harmonic at the fastest its phase ever runs, and three times that of what modulates it (Carson, Proc. IRE 10,
// 1922, from memory, has once; more, since less must be left).
func (e *engine) operatorTimes(key float64) int {
	need := 1
	speed := make([]float64, len(e.ops)) // cycles a second at most
	top := make([]float64, len(e.ops))   // the highest frequency
	for _, i := range e.opOrder {
		o := &e.ops[i]
		if o.loudest() == 0 {
			continue
		}
		f := pitchOf(key, o.key, o.interval, o.fixed, 0)
		run, beside := f, 0.0
		for _, m := range o.from {
			index := math.Abs(m.depth) * e.ops[m.op].loudest()
			if index == 0 {
				continue
			}
			if speed[m.op] == 0 { // in a circle, not reached yet
				speed[m.op] = pitchOf(key, e.ops[m.op].key, e.ops[m.op].interval, e.ops[m.op].fixed, 0)
				top[m.op] = speed[m.op]
			}
			slope, _ := swing(e.ops[m.op].wave, speed[m.op])
			run += index * slope * speed[m.op]
			beside = max(beside, top[m.op])
		}
		fb := o.feedback
		for i := range o.fbMods {
			fb += math.Abs(o.fbMods[i].depth)
		}
		if fb = min(1, fb); fb > 0 { // it leans towards a saw
			run += 40 * fb * fb * f
		}
		_, harmonics := swing(o.wave, f)
		speed[i], top[i] = run, harmonics*run+3*beside
		need = max(need, timesFor(top[i]))
	}
	return need
}

// oscTimes gives how many times the rate each oscillator needs on a note: more than 1 where another modulates its phase, and for that other one as many.
func (e *engine) oscTimes(key float64) []int {
	need := make([]int, len(e.oscs))
	for i := range need {
		need[i] = 1
	}
	speedOf := func(o *oscSpec) float64 { return pitchOf(key, o.key, o.interval, o.fixed, 0) }
	for round := 0; round < 3; round++ { // chains of three are as far as anybody goes
		for i := range e.oscs {
			o := &e.oscs[i]
			depth := math.Abs(o.fm)
			for k := range o.fmMods {
				depth += math.Abs(o.fmMods[k].depth)
			}
			bent := 0.0 // what moves its pitch as fast, in cents
			for k := range o.pitchMods {
				if w := &o.pitchMods[k]; w.kind == fromOsc || w.kind == fromOperator {
					bent += math.Abs(w.depth)
				}
			}
			_, harmonics := swing(o.wave, speedOf(o))
			if bent > 0 {
				run := speedOf(o) * math.Exp2(bent/1200)
				need[i] = max(need[i], timesFor(min(2, harmonics)*4*run))
			}
			if o.modulator < 0 || depth == 0 {
				continue
			}
			m := &e.oscs[o.modulator]
			slope, _ := swing(m.wave, speedOf(m))
			_, beside := swing(m.wave, speedOf(m))
			run := speedOf(o) + min(1, depth)/2*slope*speedOf(m)
			need[i] = max(need[i], timesFor(harmonics*run+3*beside*speedOf(m)), need[o.modulator])
			need[o.modulator] = max(need[o.modulator], need[i])
		}
	}
	return need
}
