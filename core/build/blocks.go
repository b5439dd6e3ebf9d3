package build

import (
	"glossator/core/meaning"
)

// Piece is one control of a block.
type Piece struct {
	// Label is what is printed, and what the piece is left out or put in by.
	Label string `json:"label"`
	// Face is what is printed beside it, as scale.ReadFace reads it; empty for the panel's usual scale, "both ways" for the usual one that goes both ways.
	Face string `json:"face,omitempty"`
	// More is set for what only some instruments have: it is put in where it is asked for.
	More bool `json:"more,omitempty"`
	// Init where it is not the neutral position.
	Init string `json:"init,omitempty"`

	param meaning.ParamName
	part  string
	from  string   // a route from a module of this kind, or a source of play: its depth is set. "self" is the block's own module
	to    []string // where it goes: parameters of the block's own module, or "KIND.PARAM"
}

// Block is a part of an instrument with all that it usually comes with. Pieces are common practice, no source.
type Block struct {
	ID      string `json:"id"`
	Label   string `json:"label"`
	Summary string `json:"summary"`
	// Words are what it is found by, too.
	Words  string  `json:"words"`
	Pieces []Piece `json:"pieces"`
	// Several is set where a panel may have more than one of it; Slots where it is asked how many slots it has.
	Several bool `json:"several,omitempty"`
	Slots   bool `json:"slots,omitempty"`

	kind  meaning.Kind
	step  meaning.Step
	fixed map[meaning.ParamName]string
	mixes bool // its pieces are the levels of what sounds
}

// BothWays is the face of a piece that goes both ways from nothing.
const BothWays = "both ways"

func piece(label string, param meaning.ParamName, face string) Piece {
	return Piece{Label: label, Face: face, param: param}
}

func (p Piece) more() Piece            { p.More = true; return p }
func (p Piece) at(init string) Piece   { p.Init = init; return p }
func (p Piece) adds(part string) Piece { p.part = part; return p }
func moves(label, face, from string, to ...string) Piece {
	return Piece{Label: label, Face: face, from: from, to: to}
}

const (
	feet  = "32' / 16' / 8' / 4' / 2'"
	waves = "saw / pulse / triangle / sine"
	onOff = "off / on"
)

// Blocks lists the building blocks in the order of the work.
var Blocks = []Block{
	{ID: "voice", Label: "Voice", Words: "poly mono glide portamento unison keyboard", Summary: "mode, glide, bend range, tuning", kind: meaning.Voice, step: meaning.StepVoice, Pieces: []Piece{
		piece("Mode", meaning.PMode, "poly / mono / legato"), piece("Glide", meaning.PGlide, ""), piece("Tune", meaning.PTune, BothWays), piece("Bend range", meaning.PBend, "0 to 12").at("2").more(), piece("Transpose", meaning.PTranspose, "-24 to +24").more(),
		piece("Unison", meaning.PUnison, "off / 2 / 4").more(), piece("Unison detune", meaning.PSpread, "").more(), piece("Glide when", meaning.PGlideWhen, "always / legato").more(),
	}},
	{ID: "osc", Label: "Oscillator", Several: true, Words: "vco dco tone generator", Summary: "range, semitones, fine, wave, width, level", kind: meaning.Osc, step: meaning.StepOsc, fixed: map[meaning.ParamName]string{meaning.PPhase: "free"}, Pieces: []Piece{
		piece("Range", meaning.PInterval, feet).adds("octave").at("8'"), piece("Semitones", meaning.PInterval, "-12 to +12").adds("semi"), piece("Fine", meaning.PInterval, BothWays).adds("fine"), piece("Wave", meaning.PWave, waves), piece("Width", meaning.PWidth, ""), piece("Level", meaning.PLevel, ""),
		piece("Sync", meaning.PSync, onOff).more(), piece("Pan", meaning.PPan, BothWays).more(), moves("FM", "", "osc", "interval").more(), moves("Pitch by envelope", BothWays, "env", "interval").more(), moves("Width by LFO", "", "lfo", "width").more(), piece("On", meaning.POn, onOff).at("on").more(),
	}},
	{ID: "table", Label: "Wavetable oscillator", Several: true, Words: "wavetable position", Summary: "range, semitones, fine, position, level", kind: meaning.Osc, step: meaning.StepOsc, fixed: map[meaning.ParamName]string{meaning.PPhase: "free", meaning.PWave: "table", meaning.PTable: "sine, triangle, saw, pulse 50 %, pulse 12 %"}, Pieces: []Piece{
		piece("Octave", meaning.PInterval, "-2 / -1 / 0 / +1 / +2").adds("octave").at("0"), piece("Semitones", meaning.PInterval, "-12 to +12").adds("semi"), piece("Fine", meaning.PInterval, BothWays).adds("fine"), piece("Position", meaning.PFrame, ""), piece("Level", meaning.PLevel, ""), piece("Pan", meaning.PPan, BothWays).more(), moves("Position by envelope", BothWays, "env", "frame").more(),
	}},
	{ID: "sub", Label: "Sub oscillator", Several: true, Words: "sub", Summary: "octave, level", kind: meaning.Sub, step: meaning.StepOsc, fixed: map[meaning.ParamName]string{meaning.PWave: "pulse"}, Pieces: []Piece{
		piece("Octave", meaning.PInterval, "-1 / -2").adds("octave"), piece("Level", meaning.PLevel, "").at("lowest"), piece("Wave", meaning.PWave, "pulse / sine / triangle").more(),
	}},
	{ID: "noise", Label: "Noise", Several: true, Words: "noise", Summary: "level, colour", kind: meaning.Noise, step: meaning.StepOsc, Pieces: []Piece{
		piece("Level", meaning.PLevel, "").at("lowest"), piece("Colour", meaning.PColour, "white / pink").more(),
	}},
	{ID: "ring", Label: "Ring modulator", Several: true, Words: "ring", Summary: "level", kind: meaning.Ring, step: meaning.StepOsc, Pieces: []Piece{piece("Level", meaning.PLevel, "").at("lowest")}},
	{ID: "operator", Label: "Operator", Several: true, Words: "fm operator", Summary: "ratio, fine, level, into the one before", kind: meaning.Operator, step: meaning.StepOsc, Pieces: []Piece{
		piece("Ratio", meaning.PInterval, "list 0.5 1 2 3 4 5 6 7 8").adds("octave").at("1"), piece("Fine", meaning.PInterval, BothWays).adds("fine"), piece("Level", meaning.PLevel, ""), moves("Into the one before", "", "self", "before.pm"), piece("Output", meaning.POutput, ""), piece("Feedback", meaning.PFeedback, "").more(), piece("Wave", meaning.PWave, "sine / triangle / saw / pulse").more(),
	}},
	{ID: "mixer", Label: "Mixer", Words: "mix levels", Summary: "a level for all that sounds and has none yet", kind: meaning.Mixer, step: meaning.StepMixer, mixes: true, Pieces: []Piece{piece("Drive", meaning.PDrive, "").more()}},
	{ID: "highpass", Label: "High-pass filter", Several: true, Words: "hpf high pass", Summary: "cutoff", kind: meaning.Filter, step: meaning.StepFilter, fixed: map[meaning.ParamName]string{meaning.PMode: "highpass", meaning.PPoles: "2", meaning.PTrack: "0 %"}, Pieces: []Piece{
		piece("Cutoff", meaning.PCutoff, ""), piece("Resonance", meaning.PResonance, "").more(),
	}},
	{ID: "filter", Label: "Filter", Several: true, Words: "vcf low-pass lowpass lpf ladder", Summary: "cutoff, resonance, envelope amount, key tracking", kind: meaning.Filter, step: meaning.StepFilter, fixed: map[meaning.ParamName]string{meaning.PMode: "lowpass", meaning.PPoles: "4"}, Pieces: []Piece{
		piece("Cutoff", meaning.PCutoff, ""), piece("Resonance", meaning.PResonance, ""), moves("Envelope amount", BothWays, "env", "cutoff"), piece("Key tracking", meaning.PTrack, ""), piece("Mode", meaning.PMode, "lowpass / bandpass / highpass").more(), piece("Slope", meaning.PPoles, "12 dB / 24 dB").at("24 dB").more(), piece("Drive", meaning.PDrive, "").more(), moves("LFO amount", "", "lfo", "cutoff").more(), moves("Velocity", "", "velocity", "cutoff").more(),
	}},
	{ID: "env", Label: "Envelope", Several: true, Words: "four-stage adsr eg contour", Summary: "attack, decay, sustain, release", kind: meaning.Env, step: meaning.StepEnv, fixed: map[meaning.ParamName]string{meaning.PCurve: "exponential"}, Pieces: []Piece{
		piece("Attack", meaning.PAttack, "").at("lowest"), piece("Decay", meaning.PDecay, "").at("middle"), piece("Sustain", meaning.PSustain, ""), piece("Release", meaning.PRelease, "").at("lowest"), piece("Delay", meaning.PDelay, "").more(), piece("Hold", meaning.PHold, "").more(), piece("Velocity", meaning.PVelocity, "").more(), piece("Loop", meaning.PLoop, onOff).more(),
	}},
	{ID: "decay", Label: "Two-stage envelope", Several: true, Words: "ad ar attack decay", Summary: "attack, decay", kind: meaning.Env, step: meaning.StepEnv, fixed: map[meaning.ParamName]string{meaning.PCurve: "exponential", meaning.PSustain: "0 %"}, Pieces: []Piece{
		piece("Attack", meaning.PAttack, "").at("lowest"), piece("Decay", meaning.PDecay, "").at("middle"),
	}},
	{ID: "lfo", Label: "LFO", Several: true, Words: "modulation vibrato low frequency", Summary: "rate, wave, to pitch, to cutoff", kind: meaning.LFO, step: meaning.StepLFO, fixed: map[meaning.ParamName]string{meaning.PPhase: "free"}, Pieces: []Piece{
		piece("Rate", meaning.PRate, "").at("middle"), piece("Wave", meaning.PWave, "triangle / saw / pulse / sine"), moves("To pitch", "", "self", "voice.tune"), moves("To cutoff", "", "self", "filter.cutoff"), moves("To width", "", "self", "osc.width").more(), moves("To level", "", "self", "amp.level").more(), piece("Delay", meaning.PDelay, "").more(), piece("Fade in", meaning.PFade, "").more(),
	}},
	{ID: "matrix", Label: "Matrix", Pieces: []Piece{}, Words: "modulation slots routing routes", Summary: "source, destination and amount of each slot", step: meaning.StepLFO, Slots: true},
	{ID: "macro", Label: "Assignable control", Several: true, Words: "macro knob assign performance", Summary: "position", kind: meaning.Macro, step: meaning.StepFeel, Pieces: []Piece{piece("Position", meaning.PValue, "")}},
	{ID: "amp", Label: "Amplifier", Words: "vca output volume", Summary: "volume", kind: meaning.Amp, step: meaning.StepLevel, Pieces: []Piece{
		piece("Volume", meaning.PLevel, ""), piece("Pan", meaning.PPan, BothWays).more(), moves("Velocity", "", "velocity", "level").more(),
	}},
	{ID: "drive", Label: "Drive", Several: true, Words: "distortion overdrive saturation", Summary: "gain, mix", kind: meaning.Drive, step: meaning.StepEffects, Pieces: []Piece{
		piece("Gain", meaning.PGain, ""), piece("Mix", meaning.PMix, "").at("lowest"), piece("Tone", meaning.PTone, "").more(), piece("Curve", meaning.PCurve, "soft / hard / fold").more(), piece("Level", meaning.PLevel, "-24 to 12 dB").more(),
	}},
	effect("eq", "EQ band", "equaliser equalizer tone", meaning.EQ, "frequency, gain, Q", piece("Frequency", meaning.PFreq, ""), piece("Gain", meaning.PGain, "-15 to +15 dB"), piece("Q", meaning.PQ, "").more(), piece("Kind", meaning.PMode, "low shelf / peak / high shelf").more()),
	effect("compressor", "Compressor", "comp limiter", meaning.Compressor, "threshold, ratio, attack, release", piece("Threshold", meaning.PThreshold, "-60 to 0 dB"), piece("Ratio", meaning.PRatio, "list 1 2 4 8 20"), piece("Attack", meaning.PAttack, ""), piece("Release", meaning.PRelease, ""), piece("Make-up", meaning.PMakeup, "0 to 24 dB").more(), piece("Mix", meaning.PMix, "").more()),
	effect("chorus", "Chorus", "ensemble", meaning.Chorus, "rate, depth, mix", piece("Rate", meaning.PRate, "").at("middle"), piece("Depth", meaning.PDepth, ""), piece("Mix", meaning.PMix, "").at("lowest"), piece("Feedback", meaning.PFeedback, "").more(), piece("On", meaning.POn, onOff).more()),
	effect("flanger", "Flanger", "flange", meaning.Flanger, "rate, depth, feedback, mix", piece("Rate", meaning.PRate, "").at("middle"), piece("Depth", meaning.PDepth, ""), piece("Feedback", meaning.PFeedback, ""), piece("Mix", meaning.PMix, "").at("lowest")),
	effect("phaser", "Phaser", "phase", meaning.Phaser, "rate, depth, feedback, mix", piece("Rate", meaning.PRate, "").at("middle"), piece("Depth", meaning.PDepth, ""), piece("Feedback", meaning.PFeedback, ""), piece("Mix", meaning.PMix, "").at("lowest"), piece("Stages", meaning.PStages, "list 4 6 8 12").more()),
	effect("delay", "Delay", "echo", meaning.Delay, "time, feedback, mix", piece("Time", meaning.PTime, "").at("middle"), piece("Feedback", meaning.PFeedback, ""), piece("Mix", meaning.PMix, "").at("lowest"), piece("Tone", meaning.PTone, "").more(), piece("Right time", meaning.PTimeRight, "").more(), piece("Modulation rate", meaning.PRate, "").more(), piece("Modulation depth", meaning.PDepth, "").more(), piece("On", meaning.POn, onOff).more()),
	effect("reverb", "Reverb", "hall room space", meaning.Reverb, "decay time, damping, mix", piece("Decay", meaning.PT60, "").at("middle"), piece("Damping", meaning.PDamping, ""), piece("Mix", meaning.PMix, "").at("lowest"), piece("Pre-delay", meaning.PPredelay, "").more(), piece("Size", meaning.PSize, "").more()),
}

func effect(id, label, words string, kind meaning.Kind, summary string, pieces ...Piece) Block {
	return Block{ID: id, Label: label, Words: words, Several: true, Summary: summary, Pieces: pieces, kind: kind, step: meaning.StepEffects}
}

// BlockOf finds a block by its id; nil where there is none.
func BlockOf(id string) *Block {
	for i := range Blocks {
		if Blocks[i].ID == id {
			return &Blocks[i]
		}
	}
	return nil
}

// Put is one block of a starting point.
type Put struct {
	Block, Label string
	Pieces       []string // more pieces
	Leave        []string // pieces left out
	Count        int      // slots of a matrix
}

// Start is a kind of instrument to begin from.
type Start struct {
	ID      string `json:"id"`
	Label   string `json:"label"`
	Summary string `json:"summary"`
	kind    string
	memory  bool
	usual   string
	fixed   map[meaning.ParamName]string // of the voice
	puts    []Put
}

// Starts lists the starting points (common practice, no source). The first is the smallest that sounds.
var Starts = []Start{
	{ID: "blank", Label: "One voice to build on", Summary: "an oscillator through a filter and an amplifier with an envelope", kind: "instrument", memory: true, usual: "0 to 127", puts: []Put{
		{Block: "voice", Leave: []string{"Glide", "Tune"}}, {Block: "osc", Leave: []string{"Semitones", "Width", "Level"}}, {Block: "filter", Leave: []string{"Envelope amount", "Key tracking"}}, {Block: "env"}, {Block: "amp"}}},
	{ID: "mono", Label: "Mono analogue", Summary: "two oscillators, noise, a mixer, a low-pass, two envelopes and an LFO; no memory, knobs from 0 to 10", kind: "instrument", usual: "0 to 10", fixed: map[meaning.ParamName]string{meaning.PMode: "mono", meaning.PCount: "1"}, puts: []Put{
		{Block: "voice", Leave: []string{"Mode"}}, {Block: "osc", Label: "Oscillator 1", Leave: []string{"Semitones", "Fine", "Level"}}, {Block: "osc", Label: "Oscillator 2", Leave: []string{"Level"}}, {Block: "noise", Leave: []string{"Level"}}, {Block: "mixer"},
		{Block: "env", Label: "Filter envelope"}, {Block: "env", Label: "Amplifier envelope"}, {Block: "filter"}, {Block: "lfo"}, {Block: "amp"}}},
	{ID: "poly", Label: "Poly analogue", Summary: "two oscillators, sub, noise, a high-pass and a low-pass, two envelopes, an LFO and a chorus; memory, 0 to 127", kind: "instrument", memory: true, usual: "0 to 127", puts: []Put{
		{Block: "voice", Pieces: []string{"Unison", "Unison detune"}}, {Block: "osc", Label: "Oscillator 1"}, {Block: "osc", Label: "Oscillator 2", Pieces: []string{"Sync"}}, {Block: "sub"}, {Block: "noise"}, {Block: "env", Label: "Filter envelope"}, {Block: "env", Label: "Amplifier envelope"},
		{Block: "highpass"}, {Block: "filter", Pieces: []string{"Velocity"}}, {Block: "lfo", Pieces: []string{"To width"}}, {Block: "amp", Pieces: []string{"Velocity"}}, {Block: "chorus"}}},
	{ID: "operators", Label: "Operators", Summary: "four operators, each of which may go into the one before, an envelope for each of two pairs, an LFO", kind: "instrument", memory: true, usual: "0 to 99", puts: []Put{
		{Block: "voice"}, {Block: "operator", Label: "Operator 1", Leave: []string{"Into the one before"}}, {Block: "operator", Label: "Operator 2"}, {Block: "operator", Label: "Operator 3"}, {Block: "operator", Label: "Operator 4", Pieces: []string{"Feedback"}},
		{Block: "env", Label: "Carrier envelope"}, {Block: "env", Label: "Modulator envelope"}, {Block: "lfo", Leave: []string{"To cutoff"}}, {Block: "amp", Pieces: []string{"Velocity"}}, {Block: "delay"}}},
	{ID: "wavetable", Label: "Wavetable with matrix", Summary: "two wavetable oscillators, a filter, two envelopes, two LFOs, a matrix of eight slots, chorus, delay and reverb", kind: "instrument", memory: true, usual: "0 to 127", puts: []Put{
		{Block: "voice", Pieces: []string{"Unison", "Unison detune"}}, {Block: "table", Label: "Oscillator 1"}, {Block: "table", Label: "Oscillator 2"}, {Block: "noise"}, {Block: "env", Label: "Filter envelope"}, {Block: "env", Label: "Amplifier envelope"}, {Block: "filter", Pieces: []string{"Mode", "Drive"}},
		{Block: "lfo", Label: "LFO 1", Leave: []string{"To pitch", "To cutoff"}}, {Block: "lfo", Label: "LFO 2", Leave: []string{"To pitch", "To cutoff"}}, {Block: "amp"}, {Block: "matrix", Count: 8}, {Block: "chorus"}, {Block: "delay"}, {Block: "reverb"}}},
	{ID: "sample", Label: "Sample based", Summary: "two players of single cycles, a filter, two envelopes, an LFO, chorus and reverb; what a sample sounds like is only written down", kind: "instrument", memory: true, usual: "0 to 127", puts: []Put{
		{Block: "voice"}, {Block: "osc", Label: "Tone 1", Leave: []string{"Width"}}, {Block: "osc", Label: "Tone 2", Leave: []string{"Width"}}, {Block: "env", Label: "Filter envelope"}, {Block: "env", Label: "Amplifier envelope"}, {Block: "filter", Pieces: []string{"Velocity"}},
		{Block: "lfo"}, {Block: "amp", Pieces: []string{"Pan", "Velocity"}}, {Block: "chorus"}, {Block: "reverb"}}},
	{ID: "rack", Label: "Effects rack", Summary: "drive, two EQ bands, compressor, chorus, delay and reverb in a row", kind: "rack", usual: "0 to 10", puts: []Put{
		{Block: "drive"}, {Block: "eq", Label: "Low EQ"}, {Block: "eq", Label: "High EQ"}, {Block: "compressor"}, {Block: "chorus"}, {Block: "delay"}, {Block: "reverb"}}},
}
