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
	Name  string
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
	Silence []string
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

func words(n, label, neutral string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimName, Neutral: name(neutral), Weight: weight, JND: jndExact}
}

func share(n, label string, neutral, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimRatio, Neutral: num(q.DimRatio, neutral), Weight: weight, JND: jndShare}
}

func count(n, label string, neutral, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimCount, Neutral: num(q.DimCount, neutral), Weight: weight, JND: jndExact}
}

func cents(n, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimInterval, Neutral: num(q.DimInterval, 0), Weight: weight, JND: jndPitch, Sums: true}
}

func decibels(n, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimLevel, Neutral: num(q.DimLevel, 0), Weight: weight, JND: jndLevel}
}

func gain(n, label string, weight float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimLevel, Neutral: q.OffOf(q.DimLevel), Weight: weight, JND: jndLevel}
}

// span is a time that does nothing when off.
func span(n, label string, weight, jnd float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimDuration, Neutral: q.OffOf(q.DimDuration), Weight: weight, JND: jnd}
}

// hertz is a frequency; where the neutral is off, a filter is open.
func hertz(n, label string, weight, jnd float64) Param {
	return Param{Name: n, Label: label, Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: weight, JND: jnd}
}

func resonance(weight float64) Param {
	return Param{Name: "resonance", Label: "resonance", Dim: q.DimResonance, Neutral: num(q.DimResonance, 0), Weight: weight, JND: jndResonance}
}

var (
	onSwitch = words("on", "on", "on", 1)
	place    = count("place", "place in the chain", 0, 0.1)
)

// Kinds is the vocabulary: every kind of module and its parameters. Cutoff is stated at
// middle C, times of stages as t90, depths of modulation as peaks.
var Kinds = []KindSpec{
	{Voice, "voice", "voice set-up", StepVoice, 4, []Param{
		words("mode", "voice mode", "poly", 1), count("count", "voices", 1, 0.3), words("priority", "note priority", "last", 0.3),
		words("trigger", "triggering", "retrigger", 0.6), cents("transpose", "transposition", 1), cents("bend", "bend range", 0.4),
		span("glide", "glide time", 0.6, jndTime), words("glideLaw", "glide law", "time", 0.1), words("glideWhen", "glide when", "always", 0.4),
		count("unison", "unison voices", 1, 0.6), cents("spread", "unison spread", 0.5), share("width", "voice width", 0, 0.3),
		words("chord", "chord", "off", 0.8), cents("drift", "difference between voices", 0.2),
		share("bits", "word length reduction", 0, 0.3), share("downsample", "rate reduction", 0, 0.3),
		cents("tune", "master tuning", 0.3), cents("chord2", "second chord note", 0.5), cents("chord3", "third chord note", 0.5),
		cents("chord4", "fourth chord note", 0.4), cents("chord5", "fifth chord note", 0.4),
	}, nil},
	{Macro, "assignable control", "assignable controls", StepFeel, 2, []Param{share("value", "position", 0, 1)}, nil},
	{Osc, "oscillator", "oscillators", StepOsc, 10, []Param{
		{Name: "wave", Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveSaw), Weight: 1, JND: 0.1},
		cents("interval", "interval to the key", 1), {Name: "fixed", Label: "fixed frequency", Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: 0.8, JND: jndRate},
		{Name: "width", Label: "pulse width", Dim: q.DimRatio, Neutral: num(q.DimRatio, 0.5), Weight: 0.5, JND: jndWidth},
		share("frame", "table position", 0, 0.6), words("table", "waves of the table", "none", 1e-9), words("warp", "shape transformation", "none", 0.4), share("warpAmount", "transformation amount", 0, 0.4),
		words("sync", "sync", "off", 0.6), share("fm", "frequency modulation", 0, 0.6), words("phase", "start phase", "free", 0.15),
		share("key", "key follow", 1, 1), count("unison", "unison voices", 1, 0.6), cents("spread", "unison spread", 0.5), share("stereo", "unison width", 0, 0.3),
		decibels("level", "level", 0.8), share("pan", "pan", 0, 0.3), onSwitch, words("to", "choice of filter", "filter", 0.4),
	}, []string{"level", "on"}},
	{Sub, "sub oscillator", "sub oscillators", StepOsc, 6, []Param{
		{Name: "wave", Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WavePulse), Weight: 0.5, JND: 0.1},
		{Name: "width", Label: "pulse width", Dim: q.DimRatio, Neutral: num(q.DimRatio, 0.5), Weight: 0.3, JND: jndWidth},
		cents("interval", "interval to the key", 1), gain("level", "level", 0.8), onSwitch, words("to", "choice of filter", "filter", 0.4),
	}, []string{"level", "on"}},
	{Noise, "noise", "noise sources", StepOsc, 4, []Param{
		words("colour", "colour", "white", 0.5), cents("interval", "tuning", 0.3), share("key", "key follow", 0, 0.3),
		gain("level", "level", 1), onSwitch, words("to", "choice of filter", "filter", 0.4),
	}, []string{"level", "on"}},
	{Ring, "ring modulator", "ring modulators", StepOsc, 5, []Param{gain("level", "level", 1), onSwitch}, []string{"level", "on"}},
	{Operator, "operator", "operators", StepOsc, 8, []Param{
		{Name: "wave", Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveSine), Weight: 0.6, JND: 0.1},
		cents("interval", "ratio to the key", 1), {Name: "fixed", Label: "fixed frequency", Dim: q.DimFrequency, Neutral: q.OffOf(q.DimFrequency), Weight: 0.8, JND: jndRate},
		gain("level", "level", 1), gain("output", "output", 0.8), share("feedback", "feedback", 0, 0.5), words("phase", "start phase", "free", 0.2),
		share("key", "key follow", 1, 1), share("levelKey", "level by key", 0, 0.3), share("pan", "pan", 0, 0.2), onSwitch,
		share("pm", "phase modulation", 0, 0.6), words("to", "choice of filter", "filter", 0.3),
	}, []string{"output", "level", "on"}},
	{Mixer, "mixer", "mixers", StepMixer, 3, []Param{decibels("drive", "drive over saturation", 0.6), decibels("level", "level", 0.3)}, nil},
	{Feedback, "feedback", "feedback paths", StepMixer, 4, []Param{gain("level", "level", 1), onSwitch}, []string{"level", "on"}},
	{Atten, "attenuator", "attenuators", StepLFO, 1, []Param{share("gain", "gain", 0, 1)}, nil},
	{Filter, "filter", "filters", StepFilter, 12, []Param{
		words("mode", "mode", "lowpass", 1.5), count("poles", "poles", 4, 0.6), share("track", "key tracking", 0, 0.6),
		hertz("cutoff", "cutoff at C4", 1, jndCutoff), resonance(0.7), decibels("drive", "drive", 0.4),
		cents("offset", "stereo offset", 0.2), share("mix", "filtered share", 1, 0.5), decibels("level", "level", 0.2), onSwitch,
		words("routing", "routing", "series", 0.5), share("morph", "morph", 0, 0.6), share("feedback", "comb feedback", 0, 0.4),
	}, []string{"on", "cutoff"}},
	{Env, "envelope", "envelopes", StepEnv, 9, []Param{
		span("delay", "delay", 0.4, jndTime), span("attack", "attack", 0.8, jndTime), span("hold", "hold", 0.4, jndTime),
		span("decay", "decay", 0.8, jndTime), share("sustain", "sustain", 1, 0.8), share("slope", "slope", 0, 0.3), share("break", "break level", 1, 0.4), span("decay2", "second decay", 0.4, jndTime), span("release", "release", 0.7, jndTime),
		words("curve", "curve", "exponential", 0.3), words("trigger", "triggering", "retrigger", 0.3), words("loop", "loop", "off", 0.5),
		share("velocity", "velocity", 0, 0.4),
	}, nil},
	{LFO, "LFO", "LFOs", StepLFO, 5, []Param{
		{Name: "wave", Label: "wave", Dim: q.DimWave, Neutral: q.Named(q.DimWave, q.WaveTriangle), Weight: 0.6, JND: 0.1},
		{Name: "width", Label: "pulse width", Dim: q.DimRatio, Neutral: num(q.DimRatio, 0.5), Weight: 0.2, JND: jndWidth},
		{Name: "rate", Label: "rate", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1), Weight: 1, JND: jndRate},
		span("delay", "delay", 0.4, jndTime), span("fade", "fade-in", 0.4, jndTime), words("phase", "phase", "free", 0.3),
		words("cycle", "cycle", "repeat", 0.8), words("scope", "scope", "voice", 0.2), share("key", "key-tracked rate", 0, 0.6),
	}, nil},
	{Amp, "amplifier", "amplifiers", StepLevel, 4, []Param{
		decibels("level", "level", 0.3), share("pan", "pan", 0, 0.3), decibels("drive", "drive", 0.3), share("spread", "voice spread", 0, 0.2),
	}, nil},
	{Drive, "drive", "drives", StepEffects, 4, []Param{
		words("curve", "curve", "soft", 0.5), decibels("gain", "gain", 1), hertz("tone", "tone", 0.4, jndCutoff), words("toneMode", "tone filter", "after", 0.2),
		decibels("level", "level", 0.3), share("mix", "mix", 0, 0.8), onSwitch, place,
	}, []string{"on", "mix", "gain"}},
	{EQ, "EQ band", "EQ bands", StepEffects, 2, []Param{
		words("mode", "kind", "peak", 0.8), {Name: "freq", Label: "frequency", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1000), Weight: 0.6, JND: jndCutoff},
		decibels("gain", "gain", 1), count("q", "Q", 1, 0.3), onSwitch, place,
	}, []string{"gain", "on"}},
	{Compressor, "compressor", "compressors", StepEffects, 3, []Param{
		decibels("threshold", "threshold", 1), count("ratio", "ratio", 1, 0.8), span("attack", "attack", 0.4, jndTime), span("release", "release", 0.4, jndTime),
		decibels("makeup", "make-up", 0.4), share("mix", "parallel mix", 1, 0.4), words("sidechain", "side-chain", "own", 0.6), onSwitch, place,
	}, []string{"on", "ratio", "mix"}},
	{Multiband, "three-band compressor", "three-band compressors", StepEffects, 3, []Param{
		{Name: "low", Label: "low crossover", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 200), Weight: 0.4, JND: jndCutoff},
		{Name: "high", Label: "high crossover", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 2000), Weight: 0.4, JND: jndCutoff},
		decibels("thresholdLow", "low threshold", 0.5), decibels("thresholdMid", "middle threshold", 0.5), decibels("thresholdHigh", "high threshold", 0.5),
		count("ratio", "ratio", 1, 0.6), decibels("gainLow", "low gain", 0.5), decibels("gainMid", "middle gain", 0.5), decibels("gainHigh", "high gain", 0.5),
		span("attack", "attack", 0.2, jndTime), span("release", "release", 0.2, jndTime), share("mix", "mix", 0, 0.8), onSwitch, place,
	}, []string{"on", "mix"}},
	{Chorus, "chorus", "choruses", StepEffects, 5, modDelay(), []string{"on", "mix"}},
	{Flanger, "flanger", "flangers", StepEffects, 4, modDelay(), []string{"on", "mix"}},
	{Phaser, "phaser", "phasers", StepEffects, 4, []Param{
		lfoRate(), share("depth", "depth", 0, 0.6), share("feedback", "feedback", 0, 0.4), count("stages", "stages", 4, 0.3),
		{Name: "centre", Label: "centre", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 800), Weight: 0.3, JND: jndCutoff}, share("mix", "mix", 0, 0.8), onSwitch, place,
	}, []string{"on", "mix"}},
	{Delay, "delay", "delays", StepEffects, 5, []Param{
		span("time", "time", 1, jndTime/2), span("timeRight", "right time", 0.4, jndTime/2), share("feedback", "feedback", 0, 0.7), words("pattern", "pattern", "stereo", 0.4),
		share("cross", "cross-feedback", 0, 0.3), hertz("tone", "high cut", 0.3, jndCutoff), hertz("lowcut", "low cut", 0.2, jndCutoff),
		share("wobble", "modulation", 0, 0.2), share("mix", "mix", 0, 0.9), onSwitch, place,
	}, []string{"on", "mix"}},
	{Reverb, "reverb", "reverbs", StepEffects, 5, []Param{
		span("t60", "decay to -60 dB", 1, jndT60), span("predelay", "pre-delay", 0.3, jndTime), share("size", "size", 0.5, 0.3), share("damping", "damping", 0, 0.3),
		hertz("lowcut", "low cut", 0.2, jndCutoff), share("mix", "mix", 0, 0.9), onSwitch, place,
	}, []string{"on", "mix"}},
	{Widener, "widener", "wideners", StepEffects, 2, []Param{share("width", "width", 0, 1), onSwitch, place}, []string{"on", "width"}},
	{Send, "send", "sends", StepEffects, 2, []Param{gain("level", "level", 1), words("to", "destination", "bus", 0.5), onSwitch}, []string{"level", "on"}},
	{RouteKind, "route", "routes", StepLFO, 5, []Param{words("on", "on", "on", 1), share("depth", "depth", 0, 1), share("via", "scaled by", 1, 0.3),
		words("source", "source", "none", 1), words("dest", "destination", "none", 1), share("amount", "amount", 0, 1), words("scaler", "scaled by", "none", 0.5), words("curve", "curve", "linear", 0.2), words("polarity", "polarity", "both", 0.4)},
		[]string{"on", "depth", "amount"}},
}

func lfoRate() Param {
	return Param{Name: "rate", Label: "rate", Dim: q.DimFrequency, Neutral: num(q.DimFrequency, 1), Weight: 0.6, JND: jndRate}
}

func modDelay() []Param {
	return []Param{
		lfoRate(), span("depth", "depth", 0.6, 0.15), span("delay", "delay", 0.4, jndTime), share("feedback", "feedback", 0, 0.4),
		count("voices", "voices", 2, 0.2), share("stereo", "stereo", 1, 0.3), share("diffusion", "diffusion", 0, 0.2), hertz("tone", "high cut", 0.2, jndCutoff), share("mix", "mix", 0, 0.8), onSwitch, place,
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
func (k *KindSpec) Param(name string) (Param, bool) {
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
		out[i] = p.Name
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
	return Param{Name: "depth", Label: "depth", Dim: dim, Neutral: num(dim, 0), Weight: 1, JND: jnd}
}

// Split parts "osc1.width" into module and parameter.
func Split(ref string) (module, param string) {
	i := strings.LastIndexByte(ref, '.')
	if i < 0 {
		return ref, ""
	}
	return ref[:i], ref[i+1:]
}
