package synth

import (
	"math"
	"slices"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// movable lists what routes can move in an effect. An effect is one for all voices: what moves it is what the voice of
// the last note would move.
var movable = map[meaning.Kind][]meaning.ParamName{
	meaning.Drive:      {meaning.PGain, meaning.PTone, meaning.PLevel, meaning.PMix},
	meaning.EQ:         {meaning.PFreq, meaning.PGain, meaning.PQ},
	meaning.Compressor: {meaning.PThreshold, meaning.PMakeup, meaning.PMix},
	meaning.Multiband:  {meaning.PMix},
	meaning.Chorus:     {meaning.PRate, meaning.PDepth, meaning.PDelay, meaning.PFeedback, meaning.PMix},
	meaning.Flanger:    {meaning.PRate, meaning.PDepth, meaning.PDelay, meaning.PFeedback, meaning.PMix},
	meaning.Phaser:     {meaning.PRate, meaning.PDepth, meaning.PFeedback, meaning.PCentre, meaning.PMix},
	meaning.Delay:      {meaning.PTime, meaning.PTimeRight, meaning.PFeedback, meaning.PCross, meaning.PTone, meaning.PWobble, meaning.PRate, meaning.PDepth, meaning.PMix},
	meaning.Reverb:     {meaning.PT60, meaning.PDamping, meaning.PPredelay, meaning.PMix},
	meaning.Widener:    {meaning.PWidth},
	meaning.Filter:     {meaning.PCutoff, meaning.PResonance, meaning.PMorph, meaning.PMix},
	meaning.Send:       {meaning.PLevel},
}

// inChain tells whether a module is an effect behind the voices, or a send into one.
func (e *engine) inChain(d *meaning.Module) bool {
	return (slices.Contains(meaning.EffectKinds, d.Kind) || d.Kind == meaning.Filter || d.Kind == meaning.Send) && !slices.Contains(e.drives, d)
}

// attachEffect notes what moves an effect; false where that is not played.
func (e *engine) attachEffect(d *meaning.Module, param meaning.ParamName, w mod) bool {
	if !e.inChain(d) || !slices.Contains(movable[d.Kind], param) || w.kind == fromOsc || w.kind == fromOperator {
		return false
	}
	if e.moves == nil {
		e.moves = map[string][]mod{}
	}
	e.moves[meaning.Ref(d.ID, param)] = append(e.moves[meaning.Ref(d.ID, param)], w)
	return true
}

// conduct follows what moves the effects through the phrase: the swing of each in its own dimension, once a block.
func (e *engine) conduct(notes []phrase.Note, frames int) {
	if len(e.moves) == 0 {
		return
	}
	e.swings = map[string][]float64{}
	l := e.monoLife(notes)[0]
	for i := range l.events {
		l.events[i].fresh = l.events[i].fresh || !e.voice.mono
	}
	v := newVoice(e, &l, &Meters{})
	v.at = 0
	next := 0
	for at := 0; at < frames; at += block {
		v.at, v.n = at, block
		for next < len(l.events) && l.events[next].at < at+block {
			v.happen(l.events[next])
			next++
			v.first = false
		}
		v.control()
		for ref, mods := range e.moves {
			e.swings[ref] = append(e.swings[ref], v.latest(mods, v.scratch[1]))
		}
	}
}

// setting is a parameter of an effect: a number, or one that moves from block to block.
type setting struct {
	base  float64
	moved []float64 // at the end of each block
}

// at gives the value at a sample.
func (x *setting) at(k int) float64 {
	if x.moved == nil {
		return x.base
	}
	return x.between(k)
}

func (x *setting) between(k int) float64 {
	i := min(k/block, len(x.moved)-1)
	to := x.moved[i]
	from := to
	if i > 0 {
		from = x.moved[i-1]
	}
	return from + (to-from)*float64(k%block)/block
}

// top gives the highest value that it comes to.
func (x *setting) top() float64 {
	if x.moved == nil {
		return x.base
	}
	return slices.Max(x.moved)
}

// turns tells whether what hangs on the value has to be worked out again at a sample.
func (x *setting) turns(k int) bool { return x.moved != nil && k%block == 0 }

// decibelsAtFull is how far a route of full depth moves a gain or a threshold (common practice, no source).
const decibelsAtFull = 24

// setting gives a parameter of an effect, base being what it stands at: amplitudes for levels. It stays within limits.
func (e *engine) setting(d *meaning.Module, name meaning.ParamName, base, low, high float64) setting {
	x := setting{base: clamp(base, low, high)}
	swing := e.swings[meaning.Ref(d.ID, name)]
	if swing == nil {
		return x
	}
	p, _ := meaning.SpecOf(d.Kind).Param(name)
	x.moved = make([]float64, len(swing))
	for i, m := range swing {
		y := base
		switch {
		case meaning.DepthDim(p.Dim) == q.DimOctaves:
			y = base * math.Exp2(m)
		case p.Dim == q.DimLevel && (name == meaning.PLevel || name == meaning.PMakeup):
			y = base + m // a fader, in amplitude
		case p.Dim == q.DimLevel:
			y = base + decibelsAtFull*m
		default:
			y = base + m
		}
		x.moved[i] = clamp(y, low, high)
	}
	return x
}

func (e *engine) mixSetting(d *meaning.Module) setting {
	return e.setting(d, meaning.PMix, mixOf(d), 0, 1)
}
