package synth

import (
	"glossator/core/dsp"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// What a second of each takes, in thousandths of a second of one core, fitted by least squares (none below nothing) to 586 renderings: of the demo's pairs and of
// instruments entered by hand, four fifths of which it estimates within a quarter. Of what none of them uses, what is like it.
const (
	effortVoice    = 0.4
	effortEnvelope = 0.36 // an envelope or LFO
	effortRoute    = 0.18 // what moves an oscillator or a filter
	effortNoise    = 0.1
	effortPlain    = 0.5 // an oscillator
	effortPulse    = 0.78
	effortUnison   = 0.66 // one more of a unison
	effortFine     = 1.04 // one of a unison at each multiple of the rate, where it is made at one
	effortOperator = 0.71 // at each multiple of the rate

	// one channel of each
	effortNode   = 0.47 // of the voice's path
	effortLadder = 1.45 // four poles in a loop
	effortState  = 0.26 // two poles
	effortMoved  = 0.45 // two poles that something moves, more than at rest
	effortDriven = 2.9  // a filter's drive
	effortDrive  = 4.7  // a drive in the voice
	effortMixer  = 3.2  // a mixer, or an amplifier, that saturates

	// behind the voices; effortOther is for a chain's filter, phaser, compressor or equaliser
	effortReverb, effortChorus, effortDetuned, effortDelay, effortBehind, effortOther = 3.1, 2.6, 2.0, 1.1, 10.0, 4.1
)

// Effort estimates the work of a rendering, in thousandths of a second of one core (of the machine on which it was fitted): for how often somebody can
// afford it, whatever the clock says.
func Effort(layers []Layer, notes []phrase.Note, tail float64) float64 {
	end := 0.0
	for _, n := range notes {
		end = max(end, n.End)
	}
	sum := 0.0
	for i := range layers {
		e := newEngine(layers[i].Meaning, 0, 0, layers[i].Played, layers[i].Moved)
		e.voice.transpose += float64(layers[i].Transpose)
		seconds := end + min(tail, e.tail())
		lives := e.lives(handed(layers[i].Meaning.Hands, notes))
		for k := range lives {
			sum += e.work(lives[k:k+1], int(seconds*Rate)) * e.voiceEffort(&lives[k])
		}
		sum += seconds * e.chainEffort()
	}
	return sum
}

// voiceEffort is the work of a second of a voice.
func (e *engine) voiceEffort(l *life) float64 {
	channels := 1.0
	if e.stereo {
		channels = 2
	}
	highest := l.highest() + max(0, e.voice.transpose+l.offset)/100
	sum := effortVoice + effortEnvelope*float64(len(e.envs)+len(e.lfos)) + effortNoise*float64(len(e.noises))
	for i, times := range e.oscTimes(highest) {
		o := &e.oscs[i]
		sum += effortRoute * float64(len(o.pitchMods)+len(o.widthMods)+len(o.frameMods)+len(o.amountMods)+len(o.levelMods)+len(o.panMods)+len(o.fmMods))
		switch {
		case times > 1:
			sum += effortFine * float64(times*o.unison)
			continue
		case o.wave == q.WavePulse:
			sum += effortPulse
		default:
			sum += effortPlain
		}
		sum += effortUnison * float64(o.unison-1)
	}
	sum += effortOperator * float64(len(e.ops)*e.operatorTimes(highest))
	each := effortNode*float64(len(e.nodes)) + effortDrive*float64(len(e.drives))
	for i := range e.filters {
		f := &e.filters[i]
		moved := len(f.cutMods) + len(f.resMods)
		sum += effortRoute * float64(moved)
		pairs := float64((f.poles + 1) / 2)
		switch {
		case f.mode == dsp.Comb, f.poles == 4 && (f.mode == dsp.Lowpass || f.mode == dsp.Highpass):
			each += effortLadder
		default:
			each += effortState * pairs
		}
		if moved > 0 {
			each += effortMoved * pairs
		}
		if f.drive > 0 {
			each += effortDriven
		}
	}
	for i := range e.mixers {
		if e.mixers[i].saturates() {
			each += effortMixer
		}
	}
	if e.amp.drive > 0 {
		each += effortMixer
	}
	return sum + channels*each
}

// chainEffort is the work of a second of what stands behind the voices.
func (e *engine) chainEffort() float64 {
	sum := 0.0
	for _, d := range e.graph.Chain() {
		switch d.Kind {
		case meaning.Reverb:
			sum += effortReverb
		case meaning.Chorus, meaning.Flanger:
			sum += effortChorus + effortDetuned*clamp(num(d, meaning.PVoices), 1, 6)
		case meaning.Delay:
			sum += effortDelay
		case meaning.Drive:
			sum += effortBehind
		default:
			sum += effortOther
		}
	}
	return sum
}

// Channels gives how many channels there are to listen to: one where the right is the same as the left.
func Channels(layers []Layer) int {
	if len(layers) == 1 && layers[0].Level == 0 && newEngine(layers[0].Meaning, 0, 0, layers[0].Played, layers[0].Moved).oneChannel() {
		return 1
	}
	return 2
}
