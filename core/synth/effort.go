package synth

import (
	"glossator/core/dsp"
	"glossator/core/meaning"
	"glossator/core/phrase"
)

// What a second of each takes, in thousandths of a second of one core. Of voices: fitted by least squares to renderings of the demo's pairs, four fifths of
// which it estimates within a quarter; of effects that no demo pair uses, of what is like them.
const (
	effortEnvelope = 0.75 // an envelope or LFO
	effortOsc      = 0.6  // one of a unison
	effortFine     = 2.0  // one of a unison at each multiple of the rate, where it is made at one
	effortOperator = 0.75
	effortFilter   = 0.75 // one channel of it
	effortDriven   = 1.1  // and its drive
	effortDrive    = 3.2  // one channel of a drive in the voice
	effortMixer    = 2.0  // one channel of a mixer, or an amplifier, that saturates
	effortNoise    = 1.1

	effortSound = 1.1
	// effortOther is for a chain's filter, phaser, compressor or equaliser.
	effortReverb, effortChorus, effortVoice, effortDelay, effortBehind, effortOther = 2.3, 0.7, 1.4, 0.8, 7.3, 2.6
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
	sum := effortEnvelope*float64(len(e.envs)+len(e.lfos)) + effortNoise*float64(len(e.noises))
	for i, times := range e.oscTimes(highest) {
		each := effortOsc
		if times > 1 {
			each = effortFine * float64(times)
		}
		sum += each * float64(e.oscs[i].unison)
	}
	sum += effortOperator * float64(len(e.ops)*e.operatorTimes(highest))
	each := effortDrive * float64(len(e.drives))
	for i := range e.filters {
		each += effortFilter
		if f := &e.filters[i]; f.drive > 0 {
			each += effortDriven
		}
		if m := e.filters[i].mode; m == dsp.Comb {
			each += effortFilter
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
	sum := effortSound
	for _, d := range e.graph.Chain() {
		switch d.Kind {
		case meaning.Reverb:
			sum += effortReverb
		case meaning.Chorus, meaning.Flanger:
			sum += effortChorus + effortVoice*clamp(num(d, meaning.PVoices), 1, 6)
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
