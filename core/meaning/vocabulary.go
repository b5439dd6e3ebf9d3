package meaning

import (
	"strings"

	"glossator/core/jnd"
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

// Kinds is the vocabulary: every kind of module and its parameters. Cutoff is stated at
// middle C, times of stages as t90, depths of modulation as peaks.
var Kinds = []KindSpec{
	{Voice, "voice", "voice set-up", StepVoice, 4, []Param{
		words(PMode, "voice mode", "poly", 1), count(PCount, "voices", 1, 0.3).when(not(PMode, "mono")), words(PPriority, "note priority", "last", 0.3).when(is(PMode, "mono")),
		words(PTrigger, "triggering", "retrigger", 0.6), cents(PTranspose, "transposition", 1), cents(PBend, "bend range", 0.4).stays().unplayed("the bender rests: no phrase moves it"),
		span(PGlide, "glide time", 0.6, jnd.Time).told(shortestGlide), words(PGlideLaw, "glide law", "time", 0.1).when(on(PGlide)), words(PGlideWhen, "glide when", "always", 0.4).when(on(PGlide)),
		count(PUnison, "unison voices", 1, 0.6), cents(PSpread, "unison spread", 0.5).when(several(PUnison)), share(PWidth, "voice width", 0, 0.3),
		words(PChord, "chord", "off", 0.8), cents(PDrift, "difference between voices", 0.2),
		share(PBits, "word length reduction", 0, 0.3), share(PDownsample, "rate reduction", 0, 0.3),
		cents(PTune, "master tuning", 0.3), cents(PChord2, "second chord note", 0.5).harms(3, 10), cents(PChord3, "third chord note", 0.5).harms(3, 10),
		cents(PChord4, "fourth chord note", 0.4).harms(3, 10), cents(PChord5, "fifth chord note", 0.4).harms(3, 10),
	}, nil},
	{Macro, "assignable control", "assignable controls", StepFeel, 2, []Param{share(PValue, "position", 0, 1)}, nil},
	{Osc, "oscillator", "oscillators", StepOsc, 10, []Param{
		{Name: PWave, Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveSaw), Weight: 1, JND: jnd.Wave},
		cents(PInterval, "interval to the key", 1).harms(4, 10), {Name: PFixed, Label: "fixed frequency", Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: 0.8, JND: jnd.Rate},
		duty(0.5),
		share(PFrame, "table position", 0, 0.6).when(is(PWave, "table")), words(PTable, "waves of the table", "none", 1e-9).when(never), words(PWarp, "shape transformation", "none", 0.4).when(warps), share(PWarpAmount, "transformation amount", 0, 0.8).when(not(PWarp, "none")),
		words(PSync, "sync", "off", 0.6).harms(4, 1), share(PFM, "frequency modulation", 0, 0.6), words(PPhase, "start phase", "free", 0.15),
		share(PKey, "key follow", 1, 1), count(PUnison, "unison voices", 1, 0.6), cents(PSpread, "unison spread", 0.5).when(several(PUnison)), share(PStereo, "unison width", 0, 0.3).when(several(PUnison)), share(PBlend, "unison blend", 1, 0.3).when(several(PUnison)),
		decibels(PLevel, "level", 0.8).mutedBy(at(q.OffOf(q.DimLevel))), share(PPan, "pan", 0, 0.3), onSwitch, words(PTo, "choice of filter", "filter", 0.4),
	}, []ParamName{PLevel, POn}},
	{Sub, "sub oscillator", "sub oscillators", StepOsc, 6, []Param{
		{Name: PWave, Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WavePulse), Weight: 0.5, JND: jnd.Wave},
		duty(0.3),
		cents(PInterval, "interval to the key", 1).harms(4, 10), gain(PLevel, "level", 0.8), onSwitch, words(PTo, "choice of filter", "filter", 0.4),
	}, []ParamName{PLevel, POn}},
	{Noise, "noise", "noise sources", StepOsc, 4, []Param{
		words(PColour, "colour", "white", 0.5), cents(PInterval, "tuning", 0.3), share(PKey, "key follow", 0, 0.3),
		gain(PLevel, "level", 1), onSwitch, words(PTo, "choice of filter", "filter", 0.4),
	}, []ParamName{PLevel, POn}},
	{Ring, "ring modulator", "ring modulators", StepOsc, 5, []Param{gain(PLevel, "level", 1), onSwitch}, []ParamName{PLevel, POn}},
	{Operator, "operator", "operators", StepOsc, 8, []Param{
		{Name: PWave, Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveSine), Weight: 0.6, JND: jnd.Wave},
		cents(PInterval, "ratio to the key", 1).harms(4, 10), {Name: PFixed, Label: "fixed frequency", Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: 0.8, JND: jnd.Rate},
		gain(PLevel, "level", 1), gain(POutput, "output", 0.8).harms(8, 30), share(PFeedback, "feedback", 0, 0.5), words(PPhase, "start phase", "free", 0.2),
		share(PKey, "key follow", 1, 1), share(PLevelKey, "level by key", 0, 0.3), share(PPan, "pan", 0, 0.2), onSwitch,
		share(PPM, "phase modulation", 0, 0.6).unplayed("the index is the depth of the route that modulates it"), words(PTo, "choice of filter", "filter", 0.3),
	}, []ParamName{POutput, PLevel, POn}},
	{Mixer, "mixer", "mixers", StepMixer, 3, []Param{decibels(PDrive, "drive over saturation", 0.6), decibels(PLevel, "level", 0.3)}, nil},
	{Feedback, "feedback", "feedback paths", StepMixer, 4, []Param{gain(PLevel, "level", 1), onSwitch}, []ParamName{PLevel, POn}},
	{Atten, "attenuator", "attenuators", StepLFO, 1, []Param{share(PGain, "gain", 0, 1)}, nil},
	{Filter, "filter", "filters", StepFilter, 12, []Param{
		words(PMode, "mode", "lowpass", 1.5).harms(2, 1), count(PPoles, "poles", 4, 0.6), share(PTrack, "key tracking", 0, 0.6),
		hertz(PCutoff, "cutoff at C4", 1, jnd.Cutoff).mutedBy(openFilter), resonance(0.7), decibels(PDrive, "drive", 0.4),
		cents(POffset, "stereo offset", 0.2), share(PMix, "filtered share", 1, 0.5), decibels(PLevel, "level", 0.2), onSwitch,
		words(PRouting, "routing", "series", 0.5).harms(2.5, 1), share(PMorph, "morph", 0, 0.6), share(PFeedback, "comb feedback", 0, 0.4),
	}, []ParamName{POn, PCutoff}},
	{Env, "envelope", "envelopes", StepEnv, 9, []Param{
		span(PDelay, "delay", 0.4, jnd.Time), span(PAttack, "attack", 0.8, jnd.Time), span(PHold, "hold", 0.4, jnd.Time),
		span(PDecay, "decay", 0.8, jnd.Time).when(falls), share(PSustain, "sustain", 1, 0.8), share(PSlope, "slope", 0, 0.3), share(PBreak, "break level", 1, 0.4), span(PDecay2, "second decay", 0.4, jnd.Time).when(falls), span(PRelease, "release", 0.7, jnd.Time),
		words(PCurve, "curve", "exponential", 0.3), words(PTrigger, "triggering", "retrigger", 0.3), words(PLoop, "loop", "off", 0.5),
		share(PVelocity, "velocity", 0, 0.4),
	}, nil},
	{LFO, "LFO", "LFOs", StepLFO, 5, []Param{
		{Name: PWave, Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveTriangle), Weight: 0.6, JND: jnd.Wave},
		duty(0.2),
		{Name: PRate, Label: "rate", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1), Weight: 1, JND: jnd.Rate},
		span(PDelay, "delay", 0.4, jnd.Time), span(PFade, "fade-in", 0.4, jnd.Time), words(PPhase, "phase", "free", 0.3),
		words(PCycle, "cycle", "repeat", 0.8).harms(5, 1), words(PScope, "scope", "voice", 0.2), share(PKey, "key-tracked rate", 0, 0.6),
	}, nil},
	{Amp, "amplifier", "amplifiers", StepLevel, 4, []Param{
		decibels(PLevel, "level", 0.3), share(PPan, "pan", 0, 0.3), decibels(PDrive, "drive", 0.3), share(PSpread, "voice spread", 0, 0.2),
	}, nil},
	{Drive, "drive", "drives", StepEffects, 4, []Param{
		words(PCurve, "curve", "soft", 0.5), decibels(PGain, "gain", 1).rests(0), hertz(PTone, "tone", 0.4, jnd.Cutoff).offIs(highest), words(PToneMode, "tone filter", "after", 0.2),
		decibels(PLevel, "level", 0.3), share(PMix, "mix", 1, 0.8).rests(0), onSwitch, place,
	}, []ParamName{POn, PMix, PGain}},
	{EQ, "EQ band", "EQ bands", StepEffects, 2, []Param{
		words(PMode, "kind", "peak", 0.8), {Name: PFreq, Label: "frequency", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1000), Weight: 0.6, JND: jnd.Cutoff},
		decibels(PGain, "gain", 1).rests(0), count(PQ, "Q", 1, 0.3), onSwitch, place,
	}, []ParamName{PGain, POn}},
	{Compressor, "compressor", "compressors", StepEffects, 3, []Param{
		decibels(PThreshold, "threshold", 1), count(PRatio, "ratio", 1, 0.8).rests(1), span(PAttack, "attack", 0.4, jnd.Time).stays(), span(PRelease, "release", 0.4, jnd.Time).stays(),
		decibels(PMakeup, "make-up", 0.4), share(PMix, "parallel mix", 1, 0.4).rests(0), words(PSidechain, "side-chain", "own", 0.6), onSwitch, place,
	}, []ParamName{POn, PRatio, PMix}},
	{Multiband, "three-band compressor", "three-band compressors", StepEffects, 3, []Param{
		{Name: PLow, Label: "low crossover", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 200), Weight: 0.4, JND: jnd.Cutoff},
		{Name: PHigh, Label: "high crossover", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 2000), Weight: 0.4, JND: jnd.Cutoff},
		decibels(PThresholdLow, "low threshold", 0.5), decibels(PThresholdMid, "middle threshold", 0.5), decibels(PThresholdHigh, "high threshold", 0.5),
		count(PRatio, "ratio", 1, 0.6), decibels(PGainLow, "low gain", 0.5), decibels(PGainMid, "middle gain", 0.5), decibels(PGainHigh, "high gain", 0.5),
		span(PAttack, "attack", 0.2, jnd.Time).stays(), span(PRelease, "release", 0.2, jnd.Time).stays(), share(PMix, "mix", 1, 0.8).rests(0), onSwitch, place,
	}, []ParamName{POn, PMix}},
	{Chorus, "chorus", "choruses", StepEffects, 5, modDelay(), []ParamName{POn, PMix}},
	{Flanger, "flanger", "flangers", StepEffects, 4, oneVoice(modDelay()), []ParamName{POn, PMix}},
	{Phaser, "phaser", "phasers", StepEffects, 4, []Param{
		lfoRate(), share(PDepth, "depth", 0, 0.6), share(PFeedback, "feedback", 0, 0.4), count(PStages, "stages", 4, 0.3).stays(),
		{Name: PCentre, Label: "centre", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 800), Weight: 0.3, JND: jnd.Cutoff}, share(PMix, "mix", 1, 0.8).rests(0), onSwitch, place,
	}, []ParamName{POn, PMix}},
	{Delay, "delay", "delays", StepEffects, 5, []Param{
		span(PTime, "time", 1, jnd.Echo), span(PTimeRight, "right time", 0.4, jnd.Echo).offLike(PTime), share(PFeedback, "feedback", 0, 0.7), words(PPattern, "pattern", "stereo", 0.4),
		share(PCross, "cross-feedback", 0, 0.3), hertz(PTone, "high cut", 0.3, jnd.Cutoff).offIs(highest), hertz(PLowcut, "low cut", 0.2, jnd.Cutoff).offIs(lowest),
		share(PWobble, "modulation", 0, 0.2), lfoRate().when(above(PDepth)), span(PDepth, "depth of modulation", 0.4, jnd.ModDepth), share(PMix, "mix", 1, 0.9).rests(0), onSwitch, place,
	}, []ParamName{POn, PMix}},
	{Reverb, "reverb", "reverbs", StepEffects, 5, []Param{
		span(PT60, "decay to -60 dB", 1, jnd.T60), span(PPredelay, "pre-delay", 0.3, jnd.Time), share(PSize, "size", 0.5, 0.3).stays(), share(PDamping, "damping", 0, 0.3),
		hertz(PLowcut, "low cut", 0.2, jnd.Cutoff).offIs(lowest), share(PMix, "mix", 1, 0.9).rests(0), onSwitch, place,
	}, []ParamName{POn, PMix}},
	{Widener, "widener", "wideners", StepEffects, 2, []Param{share(PWidth, "width", 0, 1).rests(0), onSwitch, place}, []ParamName{POn, PWidth}},
	{Send, "send", "sends", StepEffects, 2, []Param{gain(PLevel, "level", 1), words(PTo, "destination", "bus", 0.5), onSwitch}, []ParamName{PLevel, POn}},
	{RouteKind, "route", "routes", StepLFO, 5, []Param{words(POn, "on", "on", 1), share(PDepth, "depth", 0, 1).rests(0), share(PVia, "scaled by", 1, 0.3),
		words(PSource, "source", "none", 1), words(PDest, "destination", "none", 1), share(PAmount, "amount", 0, 1).rests(0), words(PScaler, "scaled by", "none", 0.5), words(PCurve, "curve", "linear", 0.2), words(PPolarity, "polarity", "both", 0.4)},
		[]ParamName{POn, PDepth, PAmount}},
}

// oneVoice makes the number of voices one that is not played: a flanger has one moved delay.
func oneVoice(list []Param) []Param {
	for i := range list {
		if list[i].Name == PVoices {
			list[i] = list[i].unplayed("a flanger is one moved delay")
		}
	}
	return list
}

func modDelay() []Param {
	return []Param{
		lfoRate(), span(PDepth, "depth", 0.6, jnd.ModDepth), span(PDelay, "delay", 0.4, jnd.Time).stays(), share(PFeedback, "feedback", 0, 0.4),
		count(PVoices, "voices", 2, 0.2).stays(), share(PStereo, "stereo", 1, 0.3).stays(), share(PDiffusion, "diffusion", 0, 0.2), hertz(PTone, "high cut", 0.2, jnd.Cutoff).offIs(highest), share(PMix, "mix", 1, 0.8).rests(0), onSwitch, place,
	}
}

var kindIndex = map[Kind]*KindSpec{}

// The rows ask modules, which ask the index: it is filled when the rows stand.
func init() {
	for i := range Kinds {
		kindIndex[Kinds[i].Kind] = &Kinds[i]
	}
}

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

// Split parts "osc1.width" into module and parameter.
func Split(ref string) (module string, param ParamName) {
	i := strings.LastIndexByte(ref, '.')
	if i < 0 {
		return ref, ""
	}
	return ref[:i], ParamName(ref[i+1:])
}
