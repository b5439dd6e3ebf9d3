package synth

import (
	"math"

	"glossator/core/meaning"
)

// overshoot is where an exponential attack aims, so that it ends: it reaches 90 % at its t90 and full
// level at 1.244 times that (common practice, no source).
const overshoot = 1.3

// shortest is the shortest stage, in seconds: shorter ones would click.
const shortest = 0.0004

// silence is the level below which an envelope has ended: -86 dB.
const silence = 5e-5

type envSpec struct {
	delay, attack, hold, decay, decay2, release float64 // seconds; stages as t90
	sustain, slope, brk, velocity               float64
	second                                      bool
	linear, loop, legato                        bool
	// what moves the stages, in octaves, at the start of a note
	timeMods map[meaning.ParamName][]mod
	susMods  []mod
}

func envOf(m *meaning.Module) envSpec {
	e := envSpec{delay: num(m, meaning.PDelay), attack: num(m, meaning.PAttack), hold: num(m, meaning.PHold), decay: num(m, meaning.PDecay), decay2: num(m, meaning.PDecay2), release: num(m, meaning.PRelease),
		sustain: clamp(num(m, meaning.PSustain), 0, 1), slope: clamp(num(m, meaning.PSlope), -1, 1), brk: clamp(num(m, meaning.PBreak), 0, 1), velocity: num(m, meaning.PVelocity),
		linear: word(m, meaning.PCurve) == "linear", loop: word(m, meaning.PLoop) == "on", legato: word(m, meaning.PTrigger) != "retrigger", timeMods: map[meaning.ParamName][]mod{}}
	e.second = e.decay2 > 0
	if v, ok := m.Params[meaning.PDecay]; ok && v.Off {
		e.decay = 0
	}
	return e
}

type stage int

const (
	stDelay stage = iota
	stAttack
	stHold
	stDecay
	stDecay2
	stSustain
	stRelease
	stDone
)

// envelope is an envelope at work.
type envelope struct {
	*envSpec
	stage        stage
	value        float64
	left         int     // samples of a stage of fixed length
	coef, target float64 // of the stage: value goes to target by coef each sample, or by step
	step         float64
	scale        float64 // by velocity
	shift        [6]float64
	lift         float64 // what is added to the sustain level
}

// level is where the sustain stands.
func (e *envelope) level() float64 { return clamp(e.sustain+e.lift, 0, 1) }

// raise sets what is added to the sustain level from here on. A decay on its way there goes to the new level.
func (e *envelope) raise(lift float64) {
	if e.lift = lift; !e.linear && (e.stage == stDecay2 || e.stage == stDecay && !e.second) {
		e.target = e.level()
	}
}

// stageNames are the stages in the order of shift.
var stageNames = [6]meaning.ParamName{meaning.PDelay, meaning.PAttack, meaning.PHold, meaning.PDecay, meaning.PDecay2, meaning.PRelease}

func (e *envelope) time(i int) float64 {
	t := [6]float64{e.delay, e.attack, e.hold, e.decay, e.decay2, e.release}[i]
	if e.shift[i] != 0 {
		t *= math.Exp2(clamp(e.shift[i], -10, 10))
	}
	return t
}

func (e *envelope) begin(velocity float64) {
	e.scale = 1 - e.velocity + e.velocity*velocity
	e.enter(stDelay)
}

func (e *envelope) enter(s stage) {
	e.stage = s
	e.step = 0
	switch s {
	case stDelay:
		if e.left = int(e.time(0) * Rate); e.left == 0 {
			e.enter(stAttack)
		}
	case stAttack:
		t := max(e.time(1), shortest)
		if e.linear {
			e.step = 0.9 / (t * Rate)
		} else {
			tau := t / math.Log(overshoot/(overshoot-0.9))
			e.coef, e.target = math.Exp(-1/(tau*Rate)), overshoot
		}
	case stHold:
		if e.left = int(e.time(2) * Rate); e.left == 0 {
			e.enter(stDecay)
		}
	case stDecay:
		to := e.level()
		if e.second {
			to = e.brk
		}
		e.fall(e.time(3), to)
	case stDecay2:
		e.fall(e.time(4), e.level())
	case stSustain:
		if e.slope != 0 { // full slope goes 90 % of the way in a second (common practice, no source)
			e.target = 0
			if e.slope > 0 {
				e.target = 1
			}
			e.coef = math.Exp(-math.Ln10 * math.Abs(e.slope) / Rate)
		}
	case stRelease:
		e.fall(e.time(5), 0)
	}
}

// fall sets the stage to go to a level, 90 % of the way in t.
func (e *envelope) fall(t, to float64) {
	t = max(t, shortest)
	e.target = to
	if e.linear {
		e.step = (to - e.value) * 0.9 / (t * Rate)
		return
	}
	e.coef = math.Exp(-math.Ln10 / (t * Rate))
}

func (e *envelope) release_() {
	if e.stage < stRelease {
		e.enter(stRelease)
	}
}

func (e *envelope) done() bool { return e.stage == stDone }

// run writes the values of the next samples.
func (e *envelope) run(out []float64) {
	i := 0
	for i < len(out) {
		switch e.stage {
		case stDelay, stHold:
			for ; i < len(out) && e.left > 0; i++ {
				out[i] = e.value * e.scale
				e.left--
			}
			if e.left == 0 {
				e.enter(e.stage + 1)
			}
		case stAttack:
			v := e.value
			for ; i < len(out); i++ {
				if e.linear {
					v += e.step
				} else {
					v = e.target + (v-e.target)*e.coef
				}
				if v >= 1 {
					v = 1
					out[i] = v * e.scale
					i++
					e.value = v
					e.enter(stHold)
					break
				}
				out[i] = v * e.scale
			}
			e.value = v
		case stDecay, stDecay2, stRelease:
			v, ended := e.value, false
			if !e.linear && !e.loop && !e.second { // where the end is not heard it may come at the end of a block
				coef, target, scale := e.coef, e.target, e.scale
				rest := v - target
				for ; i < len(out); i++ {
					rest *= coef
					out[i] = (target + rest) * scale
				}
				v = target + rest
				if ended = math.Abs(rest) < silence; ended {
					v = target
				}
			}
			for ; i < len(out) && !ended; i++ {
				if e.linear {
					v += e.step
					ended = e.step == 0 || (e.step < 0) == (v <= e.target)
				} else {
					v = e.target + (v-e.target)*e.coef
					ended = math.Abs(v-e.target) < silence
				}
				if ended {
					v = e.target
				}
				out[i] = v * e.scale
			}
			e.value = v
			if ended {
				switch {
				case e.stage == stRelease:
					e.enter(stDone)
				case e.stage == stDecay && e.second:
					e.enter(stDecay2)
				case e.loop:
					e.enter(stAttack)
				default:
					e.enter(stSustain)
				}
			}
		case stSustain:
			v, step := e.value, 0.0
			if e.slope == 0 && e.level() != v { // moved: it is there at the end of the block
				step = (e.level() - v) / float64(len(out)-i)
			}
			for ; i < len(out); i++ {
				if e.slope != 0 {
					v = e.target + (v-e.target)*e.coef
				}
				v += step
				out[i] = v * e.scale
			}
			e.value = v
		case stDone:
			for ; i < len(out); i++ {
				out[i] = 0
			}
		}
	}
}
