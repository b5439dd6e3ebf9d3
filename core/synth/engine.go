package synth

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glossator/core/dsp"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

func clamp(x, lo, hi float64) float64 { return min(max(x, lo), hi) }

// num gives a parameter's number, 0 where it is off.
func num(m *meaning.Module, name meaning.ParamName) float64 {
	v, _ := m.Get(name)
	if v.Off || math.IsNaN(v.Value) {
		return 0
	}
	return v.Value
}

func word(m *meaning.Module, name meaning.ParamName) string {
	v, _ := m.Get(name)
	return v.Name
}

// ampOf reads an amplifier.
func ampOf(d *meaning.Module) ampSpec {
	return ampSpec{level: amplitude(d, meaning.PLevel), pan: num(d, meaning.PPan), drive: num(d, meaning.PDrive), spread: num(d, meaning.PSpread)}
}

// amplitude gives a parameter in decibels as a factor, 0 where it is off.
func amplitude(m *meaning.Module, name meaning.ParamName) float64 {
	v, _ := m.Get(name)
	return amplitudeOf(v.Quantity)
}

func amplitudeOf(v q.Quantity) float64 {
	if v.Off {
		return 0
	}
	return q.Level(clamp(v.Value, -120, 40)).Amplitude()
}

// level is the amplitude of what sounds: one whose level is not stated is at full.
func level(m *meaning.Module) float64 { return amplitudeOf(m.Loud()) }

// hertz gives a frequency, or otherwise where it is off.
func hertz(m *meaning.Module, name meaning.ParamName, otherwise float64) float64 {
	if f := num(m, name); f > 0 {
		return f
	}
	return otherwise
}

type sourceKind int

const (
	constant sourceKind = iota // the wheel, a macro: value
	velocity
	noteKey // octaves from middle C
	perNote // random for each note, -1 to 1
	gate
	fromEnv
	fromLFO
	fromOsc
	fromOperator
	fromPlayer // a gesture, by its place
)

type source struct {
	kind  sourceKind
	i     int
	value float64
	both  bool // a gesture that goes both ways
}

// mod is what moves a parameter: depth at the source's full swing.
type mod struct {
	source
	depth    float64
	unipolar bool // a source that goes both ways is shifted to 0..1
	via      *source
	curve    string
}

// bipolar tells whether a source goes both ways by nature.
func (s source) bipolar() bool {
	return s.both || s.kind == fromLFO || s.kind == fromOsc || s.kind == fromOperator || s.kind == perNote || s.kind == noteKey
}

type oscSpec struct {
	id                    string
	wave, warp, table     string
	interval, key, fixed  float64
	width, frame, amount  float64
	level, pan            float64
	unison                int
	spread, stereo, blend float64
	fm                    float64
	modulator, master     int // other oscillators; -1 for none
	start                 float64
	free                  bool
	ranks                 []int // of the voices of its unison (see rank)
	buses                 []int
	pitchMods, widthMods  []mod
	frameMods, amountMods []mod
	levelMods, panMods    []mod
	fmMods                []mod
	masters               bool
	taken                 bool // its sound before the level is taken, to modulate or to be multiplied
}

type opSpec struct {
	id                 string
	wave               string
	interval, key      float64
	fixed, level, out  float64
	feedback, levelKey float64
	pan                float64
	free               bool
	rank               int
	buses              []int
	levelMods, pitch   []mod
	from               []modulation
	fbMods, outMods    []mod
}

// modulation is one operator's reach into another's phase, in cycles at full level.
type modulation struct {
	op    int
	depth float64
}

type noiseSpec struct {
	colour        string
	level         float64
	buses         []int
	interval, key float64
	levelMods     []mod
}

type ringSpec struct {
	id    string
	buses []int
	a, b  int
	level float64
	mods  []mod
}

type filterSpec struct {
	id                          string
	mode                        dsp.Mode
	poles                       int
	cutoff                      float64 // octaves over lowestCut, at middle C
	track, res, drive, offset   float64
	mix, level, morph, feedback float64
	cutMods, resMods, morphMods []mod
	mixMods                     []mod
}

type ampSpec struct {
	level, pan, drive, spread float64
	levelMods, panMods        []mod
	driveMods                 []mod
}

type voiceSpec struct {
	mono, legato, glideLegato, glideRate bool
	priority                             string
	count, unison                        int
	spread, width, transpose, tune       float64
	glide, drift, bits, downsample       float64
	chord                                []float64
	tuneMods                             []mod
}

// engine is a meaning prepared for rendering.
type engine struct {
	m       *meaning.Meaning
	graph   *meaning.Graph
	seed    uint64
	wheel   float64
	voice   voiceSpec
	envs    []envSpec
	lfos    []lfoSpec
	oscs    []oscSpec
	ops     []opSpec
	opOrder []int
	// opsInRow is set where each operator comes after all that modulates it, opMoves where one moves something besides the phase of others
	opsInRow, opMoves bool
	noises            []noiseSpec
	rings             []ringSpec
	filters           []filterSpec
	drives            []*meaning.Module // that stand before the amplifier, in each voice
	mixers            []mixerSpec
	mixerOf           map[string]int
	nodes             []nodeSpec // of the voice's path, each after what leads to it
	buses             []busSpec
	amp               ampSpec
	inner             []ampSpec // those before the last, or beside one another
	// feedback is the level at which the voice comes back, taken behind the node tap or the amplifier, through returns, on its buses.
	feedback      float64
	feedbackBuses []int
	tap           int
	returns       []nodeSpec
	bank          *Bank
	from          float64          // when in its phrase the rendering begins, in seconds
	played, moved []phrase.Gesture // of the player's means, and of parameters
	gestures      []phrase.Gesture // both
	stereo        bool
	// ends lists the envelopes that keep a voice sounding; gated is set where the key alone does.
	ends    []int
	gated   bool
	assumed []string
	// moves is what moves the effects, by parameter ("delay.mix"), swings how far, once a block
	moves  map[string][]mod
	swings map[string][]float64

	index map[string]source

	progress func(share float64)
	halt     func() bool
	// unmetered leaves out the levels of the stages
	unmetered bool
}

func (e *engine) assume(text string, args ...any) {
	s := fmt.Sprintf(text, args...)
	if !slices.Contains(e.assumed, s) {
		e.assumed = append(e.assumed, s)
	}
}

// newEngine prepares a meaning. Order is by the meaning's own lists.
func newEngine(m *meaning.Meaning, seed uint64, wheel float64, played, moved []phrase.Gesture) *engine {
	if h := m.Hands; h != nil && h.Wheel > 0 { // it is left there
		wheel, played = h.Wheel, slices.DeleteFunc(slices.Clone(played), func(g phrase.Gesture) bool { return g.What == "wheel" })
	}
	e := &engine{m: m, played: played, moved: moved, gestures: append(slices.Clone(played), moved...), graph: m.Graph(), seed: seed, wheel: wheel, bank: NewBank(), index: map[string]source{}}
	e.amp = ampSpec{level: 1}
	e.voice = voiceSpec{count: 8, unison: 1}
	oscOf, filterOf := map[string]int{}, map[string]int{}
	e.findPath(filterOf)
	for i := range m.Modules {
		d := &m.Modules[i]
		if !d.Used() {
			continue
		}
		if w := word(d, meaning.PWave); strings.HasPrefix(w, "drawn") || strings.HasPrefix(w, "stepped") {
			if _, known, _ := q.ParseDrawn(w); !known {
				e.assume("%s: the panel does not say what its drawn wave is; a triangle is played", d.Label)
			}
		}
		for k := range meaning.KnownWords {
			w := &meaning.KnownWords[k]
			if word, instead := w.Unknown(d); word != "" && w.Kind != meaning.Filter { // filterOf tells of modes
				e.assume("%s: the %s %q is not known here; %s is played", d.Label, w.Param, word, instead)
			}
		}
		switch d.Kind {
		case meaning.Env:
			e.index[d.ID] = source{kind: fromEnv, i: len(e.envs)}
			e.envs = append(e.envs, envOf(d))
		case meaning.LFO:
			e.index[d.ID] = source{kind: fromLFO, i: len(e.lfos)}
			e.lfos = append(e.lfos, lfoOf(d))
		case meaning.Macro:
			e.index[d.ID] = source{kind: constant, value: num(d, meaning.PValue)}
		case meaning.Osc, meaning.Sub:
			oscOf[d.ID] = len(e.oscs)
			e.index[d.ID] = source{kind: fromOsc, i: len(e.oscs)}
			e.oscs = append(e.oscs, e.oscOf(d))
		case meaning.Operator:
			e.index[d.ID] = source{kind: fromOperator, i: len(e.ops)}
			e.ops = append(e.ops, e.opOf(d))
		}
	}
	noiseOf := map[string]int{}
	for i := range m.Modules {
		d := &m.Modules[i]
		if !d.Used() {
			continue
		}
		switch d.Kind {
		case meaning.Voice:
			e.voice = voiceOf(d)
		case meaning.Noise:
			noiseOf[d.ID] = len(e.noises)
			e.noises = append(e.noises, noiseSpec{colour: word(d, meaning.PColour), level: level(d), buses: e.busesOf(d.ID), interval: num(d, meaning.PInterval), key: num(d, meaning.PKey)})
		case meaning.Feedback:
			e.feedback, e.feedbackBuses = amplitude(d, meaning.PLevel), e.busesOf(d.ID)
		case meaning.Amp:
			if last := e.graph.Amplifier(); last == d || last == nil && len(e.inner) == 0 {
				e.amp = ampOf(d)
			}
		case meaning.Ring:
			r := ringSpec{id: d.ID, buses: e.busesOf(d.ID), a: -1, b: -1, level: level(d)}
			for _, from := range e.graph.Inputs(d.ID) {
				if k, ok := oscOf[from]; ok {
					if r.a < 0 {
						r.a = k
					} else {
						r.b = k
					}
				}
			}
			if r.b < 0 && len(e.oscs) >= 2 {
				r.a, r.b = 0, 1
			}
			if r.b >= 0 {
				e.rings = append(e.rings, r)
			}
		}
	}
	e.wireOscs(oscOf)
	e.route(oscOf, noiseOf, filterOf)
	e.bend()
	e.move(oscOf, noiseOf, filterOf)
	e.settlePath()
	e.rank()
	for i := range e.oscs {
		if o := &e.oscs[i]; o.modulator >= 0 && (o.fm != 0 || len(o.fmMods) > 0) {
			e.oscs[o.modulator].taken = true
		}
	}
	for _, r := range e.rings {
		e.oscs[r.a].taken, e.oscs[r.b].taken = true, true
	}
	e.order()
	e.findEnds()
	return e
}

func voiceOf(d *meaning.Module) voiceSpec {
	v := voiceSpec{mono: word(d, meaning.PMode) == "mono", legato: word(d, meaning.PTrigger) == "legato" || word(d, meaning.PTrigger) == "first", glideLegato: word(d, meaning.PGlideWhen) == "legato",
		glideRate: word(d, meaning.PGlideLaw) == "rate", priority: word(d, meaning.PPriority), count: max(1, int(num(d, meaning.PCount))), unison: min(16, max(1, int(num(d, meaning.PUnison)))), spread: num(d, meaning.PSpread),
		width: num(d, meaning.PWidth), transpose: num(d, meaning.PTranspose), tune: num(d, meaning.PTune), glide: num(d, meaning.PGlide), drift: num(d, meaning.PDrift),
		bits: num(d, meaning.PBits), downsample: num(d, meaning.PDownsample)}
	if w := word(d, meaning.PChord); w != "" && w != "off" {
		for _, n := range meaning.ChordNotes {
			if c := num(d, n); c != 0 {
				v.chord = append(v.chord, c)
			}
		}
	}
	return v
}

func (e *engine) oscOf(d *meaning.Module) oscSpec {
	o := oscSpec{id: d.ID, wave: word(d, meaning.PWave), warp: word(d, meaning.PWarp), interval: num(d, meaning.PInterval), key: 1, fixed: num(d, meaning.PFixed), width: 0.5,
		frame: num(d, meaning.PFrame), amount: clamp(num(d, meaning.PWarpAmount), 0, 1), level: level(d), pan: num(d, meaning.PPan), unison: min(16, max(1, int(num(d, meaning.PUnison)))),
		spread: num(d, meaning.PSpread), stereo: num(d, meaning.PStereo), blend: 1, fm: num(d, meaning.PFM), modulator: -1, master: -1, buses: e.busesOf(d.ID)}
	if v, ok := d.Params[meaning.PKey]; ok && !v.Off {
		o.key = v.Value
	}
	if v, ok := d.Get(meaning.PWidth); ok && v.Value > 0 {
		o.width = clamp(v.Value, 0.02, 0.98)
	}
	if v, ok := d.Params[meaning.PBlend]; ok {
		o.blend = clamp(v.Value, 0, 1)
		if v.Off {
			o.blend = 0
		}
	}
	o.table = word(d, meaning.PTable)
	if _, err := q.ParseTable(o.table); o.wave == waveTable && err != nil {
		o.table = Frames
		e.assume("%s: the panel does not say what its table holds; this one is played: %s", d.Label, Frames)
	}
	switch word(d, meaning.PPhase) {
	case "reset":
	case "reset at 90":
		o.start = 0.25
	case "reset at 180":
		o.start = 0.5
	case "reset at 270":
		o.start = 0.75
	default:
		o.free = true
	}
	if d.Idle != "" {
		o.level = 0
	}
	return o
}

func (e *engine) opOf(d *meaning.Module) opSpec {
	o := opSpec{id: d.ID, wave: word(d, meaning.PWave), interval: num(d, meaning.PInterval), key: 1, fixed: num(d, meaning.PFixed), level: level(d), out: amplitude(d, meaning.POutput),
		feedback: num(d, meaning.PFeedback), levelKey: num(d, meaning.PLevelKey), pan: num(d, meaning.PPan), free: word(d, meaning.PPhase) != "reset", buses: e.busesOf(d.ID)}
	if v, ok := d.Params[meaning.PKey]; ok && !v.Off {
		o.key = v.Value
	}
	return o
}
