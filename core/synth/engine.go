package synth

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glossator/core/dsp"
	"glossator/core/meaning"
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

// goesTo gives which filter a source goes to: "" where its panel has no choice, which is both where they stand side by side.
func goesTo(m *meaning.Module) string {
	if _, ok := m.Params[meaning.PTo]; !ok {
		return ""
	}
	return word(m, meaning.PTo)
}

// amplitude gives a parameter in decibels as a factor, 0 where it is off.
func amplitude(m *meaning.Module, name meaning.ParamName) float64 {
	v, _ := m.Get(name)
	if v.Off {
		return 0
	}
	return q.Level(clamp(v.Value, -120, 40)).Amplitude()
}

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
)

type source struct {
	kind  sourceKind
	i     int
	value float64
}

// mod is what moves a parameter: depth at the source's full swing.
type mod struct {
	source
	depth    float64
	unipolar bool // a source that goes both ways is shifted to 0..1
	via      *source
	curve    string
}

// bipolarSource tells whether a source goes both ways by nature.
func (s source) bipolar() bool {
	return s.kind == fromLFO || s.kind == fromOsc || s.kind == fromOperator || s.kind == perNote || s.kind == noteKey
}

type oscSpec struct {
	id                    string
	wave, warp, table     string
	interval, key, fixed  float64
	width, frame, amount  float64
	level, pan            float64
	unison                int
	spread, stereo        float64
	fm                    float64
	modulator, master     int // other oscillators; -1 for none
	start                 float64
	free                  bool
	to                    string
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
	to                 string
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
	to            string
	interval, key float64
	levelMods     []mod
}

type ringSpec struct {
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
	parallel                    bool
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
	noises  []noiseSpec
	rings   []ringSpec
	filters []filterSpec
	drives  []*meaning.Module // that stand before the amplifier, in each voice
	mixer   struct {
		drive, level float64
		mods         []mod // of the drive
	}
	amp ampSpec
	// feedback is the level at which the voice comes back to its mixer.
	feedback float64
	bank     *bank
	stereo   bool
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
}

func (e *engine) assume(text string, args ...any) {
	s := fmt.Sprintf(text, args...)
	if !slices.Contains(e.assumed, s) {
		e.assumed = append(e.assumed, s)
	}
}

// newEngine prepares a meaning. Order is by the meaning's own lists.
func newEngine(m *meaning.Meaning, seed uint64, wheel float64) *engine {
	e := &engine{m: m, graph: m.Graph(), seed: seed, wheel: wheel, bank: &bank{made: map[shapeKey]*shape{}}, index: map[string]source{}}
	e.mixer.level = 1
	e.amp = ampSpec{level: 1}
	e.voice = voiceSpec{count: 8, unison: 1}
	oscOf := map[string]int{}
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
		switch d.Kind {
		case meaning.Env:
			e.index[d.ID] = source{kind: fromEnv, i: len(e.envs)}
			e.envs = append(e.envs, envOf(d))
		case meaning.LFO:
			e.index[d.ID] = source{kind: fromLFO, i: len(e.lfos)}
			e.lfos = append(e.lfos, lfoOf(d, seed+uint64(len(e.lfos))*7919))
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
	noiseOf, filterOf := map[string]int{}, map[string]int{}
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
			e.noises = append(e.noises, noiseSpec{colour: word(d, meaning.PColour), level: amplitude(d, meaning.PLevel), to: goesTo(d), interval: num(d, meaning.PInterval), key: num(d, meaning.PKey)})
		case meaning.Mixer:
			e.mixer.drive, e.mixer.level = num(d, meaning.PDrive), amplitude(d, meaning.PLevel)
		case meaning.Feedback:
			e.feedback = amplitude(d, meaning.PLevel)
		case meaning.Amp:
			e.amp = ampSpec{level: amplitude(d, meaning.PLevel), pan: num(d, meaning.PPan), drive: num(d, meaning.PDrive), spread: num(d, meaning.PSpread)}
		case meaning.Ring:
			r := ringSpec{a: -1, b: -1, level: amplitude(d, meaning.PLevel)}
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
	e.findFilters(filterOf)
	e.wireOscs(oscOf)
	e.route(oscOf, noiseOf, filterOf)
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
		for _, n := range []meaning.ParamName{meaning.PChord2, meaning.PChord3, meaning.PChord4, meaning.PChord5} {
			if c := num(d, n); c != 0 {
				v.chord = append(v.chord, c)
			}
		}
	}
	return v
}

func (e *engine) oscOf(d *meaning.Module) oscSpec {
	o := oscSpec{id: d.ID, wave: word(d, meaning.PWave), warp: word(d, meaning.PWarp), interval: num(d, meaning.PInterval), key: 1, fixed: num(d, meaning.PFixed), width: 0.5,
		frame: num(d, meaning.PFrame), amount: clamp(num(d, meaning.PWarpAmount), 0, 1), level: amplitude(d, meaning.PLevel), pan: num(d, meaning.PPan), unison: min(16, max(1, int(num(d, meaning.PUnison)))),
		spread: num(d, meaning.PSpread), stereo: num(d, meaning.PStereo), fm: num(d, meaning.PFM), modulator: -1, master: -1, to: goesTo(d)}
	if v, ok := d.Params[meaning.PKey]; ok && !v.Off {
		o.key = v.Value
	}
	if v, ok := d.Get(meaning.PWidth); ok && v.Value > 0 {
		o.width = clamp(v.Value, 0.02, 0.98)
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
	o := opSpec{id: d.ID, wave: word(d, meaning.PWave), interval: num(d, meaning.PInterval), key: 1, fixed: num(d, meaning.PFixed), level: amplitude(d, meaning.PLevel), out: amplitude(d, meaning.POutput),
		feedback: num(d, meaning.PFeedback), levelKey: num(d, meaning.PLevelKey), pan: num(d, meaning.PPan), free: word(d, meaning.PPhase) != "reset", to: goesTo(d)}
	if v, ok := d.Params[meaning.PKey]; ok && !v.Off {
		o.key = v.Value
	}
	if v, ok := d.Params[meaning.POutput]; !ok || v.Off {
		o.out = 0
	}
	if _, ok := d.Params[meaning.PLevel]; !ok {
		o.level = 1
	}
	return o
}

// findFilters puts the filters in the order of the signal path.
func (e *engine) findFilters(filterOf map[string]int) {
	e.drives = e.graph.Drives()
	for _, d := range e.graph.Filters() {
		mode, known := dsp.Modes[word(d, meaning.PMode)]
		if !known {
			e.assume("%s: the mode %q is not known here; a low-pass is played", d.Label, word(d, meaning.PMode))
		}
		f := filterSpec{id: d.ID, mode: mode, poles: int(num(d, meaning.PPoles)), track: num(d, meaning.PTrack), res: num(d, meaning.PResonance), drive: num(d, meaning.PDrive), offset: num(d, meaning.POffset),
			mix: 1, level: 1, morph: num(d, meaning.PMorph), feedback: num(d, meaning.PFeedback), parallel: e.graph.SideBySide(d)}
		if v, ok := d.Params[meaning.PMix]; ok && !v.Off {
			f.mix = v.Value
		}
		if _, ok := d.Params[meaning.PLevel]; ok {
			f.level = amplitude(d, meaning.PLevel)
		}
		f.cutoff = octaveOf(hertz(d, meaning.PCutoff, openAt(mode)))
		if f.offset != 0 {
			e.stereo = true
		}
		filterOf[d.ID] = len(e.filters)
		e.filters = append(e.filters, f)
	}
}

// wireOscs finds out which oscillator modulates or resets which: for frequency modulation the
// next one, for sync the one before (common practice, no source).
func (e *engine) wireOscs(oscOf map[string]int) {
	var own []int
	for i := range e.oscs {
		if d := e.m.Module(e.oscs[i].id); d.Kind == meaning.Osc {
			own = append(own, i)
		}
	}
	for n, i := range own {
		o := &e.oscs[i]
		if len(own) > 1 {
			if n+1 < len(own) {
				o.modulator = own[n+1]
			} else {
				o.modulator = own[n-1]
			}
		}
		d := e.m.Module(o.id)
		switch s := word(d, meaning.PSync); {
		case s == "" || s == "off":
		default:
			if k, ok := oscOf[s]; ok && k != i {
				o.master = k
			} else if n > 0 {
				o.master = own[n-1]
			} else if len(own) > 1 {
				o.master = own[1]
			}
		}
		if o.master >= 0 {
			e.oscs[o.master].masters = true
		}
		if o.pan != 0 || o.unison > 1 && o.stereo > 0 {
			e.stereo = true
		}
	}
	for i := range e.ops {
		if e.ops[i].pan != 0 && e.ops[i].out > 0 {
			e.stereo = true
		}
	}
}

func (e *engine) sourceOf(name string) (source, bool) {
	if s, ok := e.index[name]; ok {
		if s.kind == fromOsc {
			e.oscs[s.i].taken = true
		}
		return s, true
	}
	switch name {
	case "velocity":
		return source{kind: velocity}, true
	case "key":
		return source{kind: noteKey}, true
	case "random":
		return source{kind: perNote}, true
	case "gate":
		return source{kind: gate}, true
	case "wheel":
		return source{kind: constant, value: e.wheel}, true
	case "release velocity":
		return source{kind: constant, value: 0.5}, true
	case "aftertouch", "bend", "pedal", "breath":
		return source{kind: constant}, true // at rest
	}
	return source{}, false
}

// route sends the modulation edges to what they move.
func (e *engine) route(oscOf, noiseOf, filterOf map[string]int) {
	for i := range e.m.Routes {
		r := &e.m.Routes[i]
		if !r.Used() || r.Depth.Off || r.Depth.Value == 0 {
			continue
		}
		src, ok := e.sourceOf(r.From)
		if !ok {
			continue // its source is silent
		}
		w := mod{source: src, depth: r.Depth.Value, unipolar: r.Polarity == "unipolar", curve: r.Curve}
		if r.Via != "" {
			if s, ok := e.sourceOf(r.Via); ok {
				w.via = &s
			}
		}
		for _, to := range r.To {
			id, param := meaning.Split(to)
			d := e.m.Module(id)
			if d == nil || !d.Used() {
				continue
			}
			if !e.attach(d, param, w, oscOf, noiseOf, filterOf) {
				e.assume("%s: what %s does to the %s of %s is not played", r.Label, r.From, param, d.Label)
			}
		}
	}
}

func (e *engine) attach(d *meaning.Module, param meaning.ParamName, w mod, oscOf, noiseOf, filterOf map[string]int) bool {
	join := func(list *[]mod) bool { *list = append(*list, w); return true }
	switch d.Kind {
	case meaning.Osc, meaning.Sub:
		o := &e.oscs[oscOf[d.ID]]
		switch param {
		case meaning.PInterval:
			return join(&o.pitchMods)
		case meaning.PWidth:
			return join(&o.widthMods)
		case meaning.PFrame:
			return join(&o.frameMods)
		case meaning.PWarpAmount:
			return join(&o.amountMods)
		case meaning.PLevel:
			return join(&o.levelMods)
		case meaning.PFM:
			return join(&o.fmMods)
		case meaning.PPan:
			e.stereo = true
			return join(&o.panMods)
		}
	case meaning.Operator:
		o := &e.ops[e.index[d.ID].i]
		switch param {
		case meaning.PLevel:
			return join(&o.levelMods)
		case meaning.POutput:
			return join(&o.outMods)
		case meaning.PInterval:
			return join(&o.pitch)
		case meaning.PFeedback:
			return join(&o.fbMods)
		case meaning.PPM:
			if w.kind == fromOperator {
				// full depth is an index of pi: half a cycle
				o.from = append(o.from, modulation{w.i, w.depth / 2})
				return true
			}
		}
	case meaning.Noise:
		if param == meaning.PLevel {
			return join(&e.noises[noiseOf[d.ID]].levelMods)
		}
	case meaning.Ring:
		if param == meaning.PLevel && len(e.rings) > 0 {
			return join(&e.rings[0].mods)
		}
	case meaning.Filter:
		i, ok := filterOf[d.ID]
		if !ok { // behind the voices
			return e.attachEffect(d, param, w)
		}
		f := &e.filters[i]
		switch param {
		case meaning.PCutoff:
			return join(&f.cutMods)
		case meaning.PResonance:
			return join(&f.resMods)
		case meaning.PMorph:
			return join(&f.morphMods)
		case meaning.PMix:
			return join(&f.mixMods)
		}
	case meaning.Mixer:
		if param == meaning.PDrive {
			return join(&e.mixer.mods)
		}
	case meaning.Amp:
		switch param {
		case meaning.PDrive:
			return join(&e.amp.driveMods)
		case meaning.PLevel:
			return join(&e.amp.levelMods)
		case meaning.PPan:
			return join(&e.amp.panMods)
		}
	case meaning.Voice:
		if param == meaning.PTune || param == meaning.PTranspose {
			return join(&e.voice.tuneMods)
		}
	case meaning.LFO:
		if param == meaning.PRate {
			return join(&e.lfos[e.index[d.ID].i].rateMods)
		}
	case meaning.Env:
		v := &e.envs[e.index[d.ID].i]
		for _, s := range stageNames {
			if s == param {
				v.timeMods[param] = append(v.timeMods[param], w)
				return true
			}
		}
		if param == meaning.PSustain {
			return join(&v.susMods)
		}
	default:
		return e.attachEffect(d, param, w)
	}
	return false
}

// order sorts operators so that what modulates comes before what it modulates; a circle is
// broken at its end, where the sample before is taken.
func (e *engine) order() {
	state := make([]int, len(e.ops))
	var visit func(i int)
	visit = func(i int) {
		if state[i] != 0 {
			return
		}
		state[i] = 1
		for _, m := range e.ops[i].from {
			visit(m.op)
		}
		e.opOrder = append(e.opOrder, i)
	}
	for i := range e.ops {
		visit(i)
	}
}

// findEnds finds what keeps a voice sounding.
func (e *engine) findEnds() {
	take := func(list []mod) (found bool) {
		for _, w := range list {
			if w.kind == fromEnv && w.depth > 0.3 {
				if !slices.Contains(e.ends, w.i) {
					e.ends = append(e.ends, w.i)
				}
				found = true
			}
		}
		return found
	}
	if take(e.amp.levelMods) {
		return
	}
	for i := range e.ops {
		if e.ops[i].out > 0 && !take(e.ops[i].levelMods) {
			e.gated = true // an operator that only the key ends
		}
	}
	if len(e.ops) == 0 {
		e.gated = true
	}
	for i := range e.oscs {
		if e.oscs[i].level > 0 && len(e.ops) > 0 {
			e.gated = true
		}
	}
	if e.gated {
		e.ends = nil
	}
}
