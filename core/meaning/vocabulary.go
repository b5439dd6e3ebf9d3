package meaning

import (
	"strings"

	q "glossator/core/quantity"
)

// Kind is what a module is.
type Kind string

// Step is a stage of the work of setting an instrument.
type Step string

// The steps, in working order (common practice, no source).
const (
	StepVoice   Step = "voice"
	StepOsc     Step = "oscillators"
	StepMixer   Step = "mixer"
	StepFilter  Step = "filter"
	StepEnv     Step = "envelopes"
	StepLFO     Step = "modulation"
	StepFeel    Step = "feel"
	StepEffects Step = "effects"
	StepLevel   Step = "level"
)

// Steps lists the steps in working order with their titles.
var Steps = []struct {
	Step  Step
	Title string
}{
	{StepVoice, "Voice set-up"}, {StepOsc, "Oscillators"}, {StepMixer, "Mixer"}, {StepFilter, "Filter"},
	{StepEnv, "Envelopes"}, {StepLFO, "Modulation"}, {StepFeel, "Playing feel"}, {StepEffects, "Effects"}, {StepLevel, "Level"},
}

// Param is one parameter that modules of a kind may have.
type Param struct {
	Name  ParamName
	Label string
	Dim   q.Dim
	// Neutral is the value that does nothing: what holds where a panel lacks the parameter.
	Neutral q.Quantity
	// Weight is how much it matters that the parameter is right, as a share of its module.
	Weight float64
	// JND is the just-noticeable difference, in the sense of quantity.Distance.
	JND float64
	// Sums is set where several controls may add to the value (footage, semitones, fine).
	Sums bool
}

// KindSpec describes a kind of module.
type KindSpec struct {
	Kind   Kind
	Label  string
	Plural string
	Step   Step
	// Weight is what it costs to lose a module of this kind, before its level is counted.
	Weight float64
	Params []Param
	// Silence names the parameters that take an unused module out of the sound.
	Silence []ParamName
}

// The kinds.
const (
	Osc        Kind = "osc"
	Sub        Kind = "sub"
	Noise      Kind = "noise"
	Ring       Kind = "ring"
	Operator   Kind = "operator"
	Mixer      Kind = "mixer"
	Feedback   Kind = "feedback"
	Filter     Kind = "filter"
	Amp        Kind = "amp"
	Env        Kind = "env"
	LFO        Kind = "lfo"
	Voice      Kind = "voice"
	Atten      Kind = "attenuator"
	Macro      Kind = "macro"
	Drive      Kind = "drive"
	EQ         Kind = "eq"
	Compressor Kind = "compressor"
	Multiband  Kind = "multiband"
	Chorus     Kind = "chorus"
	Flanger    Kind = "flanger"
	Phaser     Kind = "phaser"
	Delay      Kind = "delay"
	Reverb     Kind = "reverb"
	Widener    Kind = "widener"
	Send       Kind = "send"
	RouteKind  Kind = "route"
)

// Just-noticeable differences, each with its source. Adjust here.
const (
	jndLevel     = 1.0  // dB; Zwicker & Fastl, Psychoacoustics (from memory)
	jndPitch     = 5.0  // ct in a steady unison; Zwicker & Fastl (from memory)
	jndTime      = 0.10 // ratio; duration, Zwicker & Fastl (from memory)
	jndT60       = 0.05 // ratio; reverberation time, ISO 3382-1:2009 table A.1
	jndCutoff    = 0.06 // ratio, about a semitone (common practice, no source)
	jndRate      = 0.08 // ratio (common practice, no source)
	jndShare     = 0.05 // of a full share: sustain, mix, feedback, tracking (common practice, no source)
	jndWidth     = 0.03 // of a cycle (common practice, no source)
	jndOctaves   = 0.12 // octaves of modulation (common practice, no source)
	jndResonance = 0.04 // of the way to self-oscillation (common practice, no source)
	jndExact     = 1e-6 // words and counts are right or wrong
)

func name(n string) q.Quantity          { return q.Named(q.DimName, n) }
func num(d q.Dim, v float64) q.Quantity { return q.Quantity{Dim: d, Value: v} }

func words(n ParamName, label, neutral string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimName, Neutral: name(neutral), Weight: weight, JND: jndExact}
}

func share(n ParamName, label string, neutral, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimRatio, Neutral: num(q.DimRatio, neutral), Weight: weight, JND: jndShare}
}

func count(n ParamName, label string, neutral, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimCount, Neutral: num(q.DimCount, neutral), Weight: weight, JND: jndExact}
}

func cents(n ParamName, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimInterval, Neutral: num(q.DimInterval, 0), Weight: weight, JND: jndPitch, Sums: true}
}

func decibels(n ParamName, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimLevel, Neutral: num(q.DimLevel, 0), Weight: weight, JND: jndLevel}
}

func gain(n ParamName, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimLevel, Neutral: q.OffOf(q.DimLevel), Weight: weight, JND: jndLevel}
}

// span is a time that does nothing when off.
func span(n ParamName, label string, weight, jnd float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimDuration, Neutral: q.OffOf(q.DimDuration), Weight: weight, JND: jnd}
}

// hertz is a frequency; where the neutral is off, a filter is open.
func hertz(n ParamName, label string, weight, jnd float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: weight, JND: jnd}
}

func resonance(weight float64) Param {
	return Param{Name: PResonance, Label: "resonance", Dim: q.DimResonance, Neutral: num(q.DimResonance, 0), Weight: weight, JND: jndResonance}
}

var (
	onSwitch = words(POn, "on", "on", 1)
	place    = count(PPlace, "place in the chain", 0, 0.1)
)

// Kinds is the vocabulary: every kind of module and its parameters. Cutoff is stated at
// middle C, times of stages as t90, depths of modulation as peaks.
var Kinds = []KindSpec{
	{Voice, "voice", "voice set-up", StepVoice, 4, []Param{
		words(PMode, "voice mode", "poly", 1), count(PCount, "voices", 1, 0.3), words(PPriority, "note priority", "last", 0.3),
		words(PTrigger, "triggering", "retrigger", 0.6), cents(PTranspose, "transposition", 1), cents(PBend, "bend range", 0.4),
		span(PGlide, "glide time", 0.6, jndTime), words(PGlideLaw, "glide law", "time", 0.1), words(PGlideWhen, "glide when", "always", 0.4),
		count(PUnison, "unison voices", 1, 0.6), cents(PSpread, "unison spread", 0.5), share(PWidth, "voice width", 0, 0.3),
		words(PChord, "chord", "off", 0.8), cents(PDrift, "difference between voices", 0.2),
		share(PBits, "word length reduction", 0, 0.3), share(PDownsample, "rate reduction", 0, 0.3),
		cents(PTune, "master tuning", 0.3), cents(PChord2, "second chord note", 0.5), cents(PChord3, "third chord note", 0.5),
		cents(PChord4, "fourth chord note", 0.4), cents(PChord5, "fifth chord note", 0.4),
	}, nil},
	{Macro, "assignable control", "assignable controls", StepFeel, 2, []Param{share(PValue, "position", 0, 1)}, nil},
	{Osc, "oscillator", "oscillators", StepOsc, 10, []Param{
		{Name: PWave, Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveSaw), Weight: 1, JND: 0.1},
		cents(PInterval, "interval to the key", 1), {Name: PFixed, Label: "fixed frequency", Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: 0.8, JND: jndRate},
		{Name: PWidth, Label: "pulse width", Dim: q.DimRatio, Neutral: num(q.DimRatio, 0.5), Weight: 0.5, JND: jndWidth},
		share(PFrame, "table position", 0, 0.6), words(PTable, "waves of the table", "none", 1e-9), words(PWarp, "shape transformation", "none", 0.4), share(PWarpAmount, "transformation amount", 0, 0.4),
		words(PSync, "sync", "off", 0.6), share(PFM, "frequency modulation", 0, 0.6), words(PPhase, "start phase", "free", 0.15),
		share(PKey, "key follow", 1, 1), count(PUnison, "unison voices", 1, 0.6), cents(PSpread, "unison spread", 0.5), share(PStereo, "unison width", 0, 0.3),
		decibels(PLevel, "level", 0.8), share(PPan, "pan", 0, 0.3), onSwitch, words(PTo, "choice of filter", "filter", 0.4),
	}, []ParamName{PLevel, POn}},
	{Sub, "sub oscillator", "sub oscillators", StepOsc, 6, []Param{
		{Name: PWave, Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WavePulse), Weight: 0.5, JND: 0.1},
		{Name: PWidth, Label: "pulse width", Dim: q.DimRatio, Neutral: num(q.DimRatio, 0.5), Weight: 0.3, JND: jndWidth},
		cents(PInterval, "interval to the key", 1), gain(PLevel, "level", 0.8), onSwitch, words(PTo, "choice of filter", "filter", 0.4),
	}, []ParamName{PLevel, POn}},
	{Noise, "noise", "noise sources", StepOsc, 4, []Param{
		words(PColour, "colour", "white", 0.5), cents(PInterval, "tuning", 0.3), share(PKey, "key follow", 0, 0.3),
		gain(PLevel, "level", 1), onSwitch, words(PTo, "choice of filter", "filter", 0.4),
	}, []ParamName{PLevel, POn}},
	{Ring, "ring modulator", "ring modulators", StepOsc, 5, []Param{gain(PLevel, "level", 1), onSwitch}, []ParamName{PLevel, POn}},
	{Operator, "operator", "operators", StepOsc, 8, []Param{
		{Name: PWave, Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveSine), Weight: 0.6, JND: 0.1},
		cents(PInterval, "ratio to the key", 1), {Name: PFixed, Label: "fixed frequency", Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: 0.8, JND: jndRate},
		gain(PLevel, "level", 1), gain(POutput, "output", 0.8), share(PFeedback, "feedback", 0, 0.5), words(PPhase, "start phase", "free", 0.2),
		share(PKey, "key follow", 1, 1), share(PLevelKey, "level by key", 0, 0.3), share(PPan, "pan", 0, 0.2), onSwitch,
		share(PPM, "phase modulation", 0, 0.6), words(PTo, "choice of filter", "filter", 0.3),
	}, []ParamName{POutput, PLevel, POn}},
	{Mixer, "mixer", "mixers", StepMixer, 3, []Param{decibels(PDrive, "drive over saturation", 0.6), decibels(PLevel, "level", 0.3)}, nil},
	{Feedback, "feedback", "feedback paths", StepMixer, 4, []Param{gain(PLevel, "level", 1), onSwitch}, []ParamName{PLevel, POn}},
	{Atten, "attenuator", "attenuators", StepLFO, 1, []Param{share(PGain, "gain", 0, 1)}, nil},
	{Filter, "filter", "filters", StepFilter, 12, []Param{
		words(PMode, "mode", "lowpass", 1.5), count(PPoles, "poles", 4, 0.6), share(PTrack, "key tracking", 0, 0.6),
		hertz(PCutoff, "cutoff at C4", 1, jndCutoff), resonance(0.7), decibels(PDrive, "drive", 0.4),
		cents(POffset, "stereo offset", 0.2), share(PMix, "filtered share", 1, 0.5), decibels(PLevel, "level", 0.2), onSwitch,
		words(PRouting, "routing", "series", 0.5), share(PMorph, "morph", 0, 0.6), share(PFeedback, "comb feedback", 0, 0.4),
	}, []ParamName{POn, PCutoff}},
	{Env, "envelope", "envelopes", StepEnv, 9, []Param{
		span(PDelay, "delay", 0.4, jndTime), span(PAttack, "attack", 0.8, jndTime), span(PHold, "hold", 0.4, jndTime),
		span(PDecay, "decay", 0.8, jndTime), share(PSustain, "sustain", 1, 0.8), share(PSlope, "slope", 0, 0.3), share(PBreak, "break level", 1, 0.4), span(PDecay2, "second decay", 0.4, jndTime), span(PRelease, "release", 0.7, jndTime),
		words(PCurve, "curve", "exponential", 0.3), words(PTrigger, "triggering", "retrigger", 0.3), words(PLoop, "loop", "off", 0.5),
		share(PVelocity, "velocity", 0, 0.4),
	}, nil},
	{LFO, "LFO", "LFOs", StepLFO, 5, []Param{
		{Name: PWave, Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveTriangle), Weight: 0.6, JND: 0.1},
		{Name: PWidth, Label: "pulse width", Dim: q.DimRatio, Neutral: num(q.DimRatio, 0.5), Weight: 0.2, JND: jndWidth},
		{Name: PRate, Label: "rate", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1), Weight: 1, JND: jndRate},
		span(PDelay, "delay", 0.4, jndTime), span(PFade, "fade-in", 0.4, jndTime), words(PPhase, "phase", "free", 0.3),
		words(PCycle, "cycle", "repeat", 0.8), words(PScope, "scope", "voice", 0.2), share(PKey, "key-tracked rate", 0, 0.6),
	}, nil},
	{Amp, "amplifier", "amplifiers", StepLevel, 4, []Param{
		decibels(PLevel, "level", 0.3), share(PPan, "pan", 0, 0.3), decibels(PDrive, "drive", 0.3), share(PSpread, "voice spread", 0, 0.2),
	}, nil},
	{Drive, "drive", "drives", StepEffects, 4, []Param{
		words(PCurve, "curve", "soft", 0.5), decibels(PGain, "gain", 1), hertz(PTone, "tone", 0.4, jndCutoff), words(PToneMode, "tone filter", "after", 0.2),
		decibels(PLevel, "level", 0.3), share(PMix, "mix", 0, 0.8), onSwitch, place,
	}, []ParamName{POn, PMix, PGain}},
	{EQ, "EQ band", "EQ bands", StepEffects, 2, []Param{
		words(PMode, "kind", "peak", 0.8), {Name: PFreq, Label: "frequency", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1000), Weight: 0.6, JND: jndCutoff},
		decibels(PGain, "gain", 1), count(PQ, "Q", 1, 0.3), onSwitch, place,
	}, []ParamName{PGain, POn}},
	{Compressor, "compressor", "compressors", StepEffects, 3, []Param{
		decibels(PThreshold, "threshold", 1), count(PRatio, "ratio", 1, 0.8), span(PAttack, "attack", 0.4, jndTime), span(PRelease, "release", 0.4, jndTime),
		decibels(PMakeup, "make-up", 0.4), share(PMix, "parallel mix", 1, 0.4), words(PSidechain, "side-chain", "own", 0.6), onSwitch, place,
	}, []ParamName{POn, PRatio, PMix}},
	{Multiband, "three-band compressor", "three-band compressors", StepEffects, 3, []Param{
		{Name: PLow, Label: "low crossover", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 200), Weight: 0.4, JND: jndCutoff},
		{Name: PHigh, Label: "high crossover", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 2000), Weight: 0.4, JND: jndCutoff},
		decibels(PThresholdLow, "low threshold", 0.5), decibels(PThresholdMid, "middle threshold", 0.5), decibels(PThresholdHigh, "high threshold", 0.5),
		count(PRatio, "ratio", 1, 0.6), decibels(PGainLow, "low gain", 0.5), decibels(PGainMid, "middle gain", 0.5), decibels(PGainHigh, "high gain", 0.5),
		span(PAttack, "attack", 0.2, jndTime), span(PRelease, "release", 0.2, jndTime), share(PMix, "mix", 0, 0.8), onSwitch, place,
	}, []ParamName{POn, PMix}},
	{Chorus, "chorus", "choruses", StepEffects, 5, modDelay(), []ParamName{POn, PMix}},
	{Flanger, "flanger", "flangers", StepEffects, 4, modDelay(), []ParamName{POn, PMix}},
	{Phaser, "phaser", "phasers", StepEffects, 4, []Param{
		lfoRate(), share(PDepth, "depth", 0, 0.6), share(PFeedback, "feedback", 0, 0.4), count(PStages, "stages", 4, 0.3),
		{Name: PCentre, Label: "centre", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 800), Weight: 0.3, JND: jndCutoff}, share(PMix, "mix", 0, 0.8), onSwitch, place,
	}, []ParamName{POn, PMix}},
	{Delay, "delay", "delays", StepEffects, 5, []Param{
		span(PTime, "time", 1, jndTime/2), span(PTimeRight, "right time", 0.4, jndTime/2), share(PFeedback, "feedback", 0, 0.7), words(PPattern, "pattern", "stereo", 0.4),
		share(PCross, "cross-feedback", 0, 0.3), hertz(PTone, "high cut", 0.3, jndCutoff), hertz(PLowcut, "low cut", 0.2, jndCutoff),
		share(PWobble, "modulation", 0, 0.2), share(PMix, "mix", 0, 0.9), onSwitch, place,
	}, []ParamName{POn, PMix}},
	{Reverb, "reverb", "reverbs", StepEffects, 5, []Param{
		span(PT60, "decay to -60 dB", 1, jndT60), span(PPredelay, "pre-delay", 0.3, jndTime), share(PSize, "size", 0.5, 0.3), share(PDamping, "damping", 0, 0.3),
		hertz(PLowcut, "low cut", 0.2, jndCutoff), share(PMix, "mix", 0, 0.9), onSwitch, place,
	}, []ParamName{POn, PMix}},
	{Widener, "widener", "wideners", StepEffects, 2, []Param{share(PWidth, "width", 0, 1), onSwitch, place}, []ParamName{POn, PWidth}},
	{Send, "send", "sends", StepEffects, 2, []Param{gain(PLevel, "level", 1), words(PTo, "destination", "bus", 0.5), onSwitch}, []ParamName{PLevel, POn}},
	{RouteKind, "route", "routes", StepLFO, 5, []Param{words(POn, "on", "on", 1), share(PDepth, "depth", 0, 1), share(PVia, "scaled by", 1, 0.3),
		words(PSource, "source", "none", 1), words(PDest, "destination", "none", 1), share(PAmount, "amount", 0, 1), words(PScaler, "scaled by", "none", 0.5), words(PCurve, "curve", "linear", 0.2), words(PPolarity, "polarity", "both", 0.4)},
		[]ParamName{POn, PDepth, PAmount}},
}

func lfoRate() Param {
	return Param{Name: PRate, Label: "rate", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1), Weight: 0.6, JND: jndRate}
}

func modDelay() []Param {
	return []Param{
		lfoRate(), span(PDepth, "depth", 0.6, 0.15), span(PDelay, "delay", 0.4, jndTime), share(PFeedback, "feedback", 0, 0.4),
		count(PVoices, "voices", 2, 0.2), share(PStereo, "stereo", 1, 0.3), share(PDiffusion, "diffusion", 0, 0.2), hertz(PTone, "high cut", 0.2, jndCutoff), share(PMix, "mix", 0, 0.8), onSwitch, place,
	}
}

var kindIndex = func() map[Kind]*KindSpec {
	m := map[Kind]*KindSpec{}
	for i := range Kinds {
		m[Kinds[i].Kind] = &Kinds[i]
	}
	return m
}()

// SpecOf finds a kind in the vocabulary; nil where there is none.
func SpecOf(k Kind) *KindSpec { return kindIndex[k] }

// Param finds a parameter of the kind.
func (k *KindSpec) Param(name ParamName) (Param, bool) {
	for _, p := range k.Params {
		if p.Name == name {
			return p, true
		}
	}
	return Param{}, false
}

// Names lists the names of the kind's parameters.
func (k *KindSpec) Names() []string {
	out := make([]string, len(k.Params))
	for i, p := range k.Params {
		out[i] = string(p.Name)
	}
	return out
}

// Sources are the things other than modules that may drive a route.
var Sources = []string{"gate", "key", "velocity", "release velocity", "wheel", "aftertouch", "bend", "random", "pedal", "breath"}

// IsSource tells whether a name is one of Sources.
func IsSource(name string) bool {
	for _, s := range Sources {
		if s == name {
			return true
		}
	}
	return false
}

// DepthDim gives the dimension in which a route moves a parameter of dimension d: octaves
// for frequencies and times, cents for pitch, shares for levels and shares.
func DepthDim(d q.Dim) q.Dim {
	switch d {
	case q.DimFrequency, q.DimDuration, q.DimBeats:
		return q.DimOctaves
	case q.DimInterval, q.DimResonance, q.DimCount:
		return d
	}
	return q.DimRatio
}

// DepthParam is the depth of a route whose destination has dimension d.
func DepthParam(d q.Dim) Param {
	dim := DepthDim(d)
	jnd := map[q.Dim]float64{q.DimOctaves: jndOctaves, q.DimInterval: jndPitch, q.DimRatio: jndShare, q.DimResonance: jndResonance, q.DimCount: 0.5}[dim]
	return Param{Name: PDepth, Label: "depth", Dim: dim, Neutral: num(dim, 0), Weight: 1, JND: jnd}
}

// Split parts "osc1.width" into module and parameter.
func Split(ref string) (module string, param ParamName) {
	i := strings.LastIndexByte(ref, '.')
	if i < 0 {
		return ref, ""
	}
	return ref[:i], ParamName(ref[i+1:])
}
