package synth

import (
	"slices"

	"glossator/core/dsp"
	"glossator/core/meaning"
)

// nodeKind is what a node of the path is.
type nodeKind int

const (
	filterNode nodeKind = iota
	driveNode
	mixerNode
	ampNode
)

// nodeSpec is a node of the voice's path: i is its place among the engine's filters or mixers.
type nodeSpec struct {
	kind   nodeKind
	i      int
	module *meaning.Module
	to     []leg
}

// busSpec is where some sources go in together: through a mixer (-1 for none).
type busSpec struct {
	mixer int
	leg
}

type mixerSpec struct {
	drive, level float64
	mods         []mod // of the drive
}

func (a *ampSpec) saturates() bool { return a.drive > 0 || len(a.driveMods) > 0 }

func (m *mixerSpec) saturates() bool { return m.drive > 0 || len(m.mods) > 0 }

// findPath lays out the path of a voice: nodes, and a bus for each place where sources go in. What is moved is not known yet (settlePath).
func (e *engine) findPath(filterOf map[string]int) {
	p := e.graph.Path()
	e.mixerOf = map[string]int{}
	for i := range e.m.Modules {
		if d := &e.m.Modules[i]; d.Kind == meaning.Mixer && d.Used() {
			e.mixerOf[d.ID] = len(e.mixers)
			e.mixers = append(e.mixers, mixerSpec{drive: num(d, meaning.PDrive), level: amplitude(d, meaning.PLevel)})
		}
	}
	add := func(d *meaning.Module, to []int) nodeSpec {
		s := nodeSpec{kind: filterNode, module: d}
		switch d.Kind {
		case meaning.Drive:
			s.kind = driveNode
			e.drives = append(e.drives, d)
		case meaning.Mixer:
			s.kind, s.i = mixerNode, e.mixerOf[d.ID]
		case meaning.Amp:
			s.kind, s.i = ampNode, len(e.inner)
			e.inner = append(e.inner, ampOf(d))
		default:
			s.i = len(e.filters)
			filterOf[d.ID] = s.i
			e.filters = append(e.filters, e.filterOf(d))
		}
		for _, t := range to {
			s.to = append(s.to, leg{to: t})
		}
		return s
	}
	for i := range p.Nodes {
		e.nodes = append(e.nodes, add(p.Nodes[i].Module, p.Nodes[i].To))
	}
	for _, d := range p.Return {
		e.returns = append(e.returns, add(d, nil))
	}
	e.tap = p.Tap
}

// busesOf gives the buses on which a source goes in; they are made when they are first asked for.
func (e *engine) busesOf(id string) (out []int) {
	for _, x := range e.graph.Path().From[id] {
		b := busSpec{mixer: -1, leg: leg{to: x.To}}
		if x.Mixer != nil {
			if k, ok := e.mixerOf[x.Mixer.ID]; ok {
				b.mixer = k
			}
		}
		k := slices.Index(e.buses, b)
		if k < 0 {
			k = len(e.buses)
			e.buses = append(e.buses, b)
		}
		out = append(out, k)
	}
	return out
}

// settlePath finds out how long each way has to wait for those that saturate beside it.
func (e *engine) settlePath() {
	if len(e.buses) == 0 {
		e.buses = []busSpec{{mixer: -1, leg: leg{to: meaning.Out}}}
	}
	late := make([]int, len(e.nodes)+1) // before each node, and before the amplifier
	at := func(to int) *int {
		if to < 0 {
			return &late[len(e.nodes)]
		}
		return &late[to]
	}
	bus := func(b *busSpec) int {
		if b.mixer >= 0 && e.mixers[b.mixer].saturates() {
			return 1
		}
		return 0
	}
	behind := func(i int) int {
		d := &e.nodes[i]
		if d.kind == filterNode && e.filters[d.i].drive > 0 || d.kind == mixerNode && e.mixers[d.i].saturates() || d.kind == ampNode && e.inner[d.i].saturates() {
			return late[i] + 1
		}
		return late[i]
	}
	for i := range e.buses {
		*at(e.buses[i].to) = max(*at(e.buses[i].to), bus(&e.buses[i]))
	}
	for i := range e.nodes { // each comes after what leads to it
		for _, w := range e.nodes[i].to {
			*at(w.to) = max(*at(w.to), behind(i))
		}
	}
	for i := range e.buses {
		e.buses[i].waits = *at(e.buses[i].to) - bus(&e.buses[i])
	}
	for i := range e.nodes {
		for k := range e.nodes[i].to {
			w := &e.nodes[i].to[k]
			w.waits = *at(w.to) - behind(i)
		}
	}
}

// filterOf prepares a filter.
func (e *engine) filterOf(d *meaning.Module) filterSpec {
	mode, known := dsp.Modes[word(d, meaning.PMode)]
	if !known {
		e.assume("%s: the mode %q is not known here; a low-pass is played", d.Label, word(d, meaning.PMode))
	}
	f := filterSpec{id: d.ID, mode: mode, poles: int(num(d, meaning.PPoles)), track: num(d, meaning.PTrack), res: num(d, meaning.PResonance), drive: num(d, meaning.PDrive), offset: num(d, meaning.POffset),
		mix: 1, level: 1, morph: num(d, meaning.PMorph), feedback: num(d, meaning.PFeedback)}
	if v, ok := d.Params[meaning.PMix]; ok && !v.Off {
		f.mix = v.Value
	}
	if _, ok := d.Params[meaning.PLevel]; ok {
		f.level = amplitude(d, meaning.PLevel)
	}
	f.cutoff = octaveOf(hertz(d, meaning.PCutoff, meaning.OpenAt(mode)))
	if f.offset != 0 {
		e.stereo = true
	}
	return f
}

// wireOscs finds out which oscillator modulates or resets which.
func (e *engine) wireOscs(oscOf map[string]int) {
	for i := range e.oscs {
		o := &e.oscs[i]
		if d := e.m.Module(o.id); d.Kind == meaning.Osc {
			if k, ok := oscOf[e.m.Modulator(d)]; ok {
				o.modulator = k
			}
			if k, ok := oscOf[e.m.SyncedTo(d)]; ok {
				o.master = k
				e.oscs[k].masters = true
			}
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
	}
	for i := range e.played {
		if e.played[i].What == name {
			return source{kind: fromPlayer, i: i, both: name == "bend"}, true
		}
	}
	switch name {
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
	e.opMoves = e.opMoves || w.kind == fromOperator && (d.Kind != meaning.Operator || param != meaning.PPM) || w.via != nil && w.via.kind == fromOperator
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
			if w.kind == fromOsc { // it is what modulates (meaning.Modulator), by as much
				w.source = source{kind: constant, value: 1}
			}
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
			if k, ok := e.mixerOf[d.ID]; ok {
				return join(&e.mixers[k].mods)
			}
		}
	case meaning.Amp:
		amp := &e.amp
		for i := range e.nodes {
			if n := &e.nodes[i]; n.kind == ampNode && n.module.ID == d.ID {
				amp = &e.inner[n.i]
			}
		}
		switch param {
		case meaning.PDrive:
			return join(&amp.driveMods)
		case meaning.PLevel:
			return join(&amp.levelMods)
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
	e.opsInRow = true
	for at, i := range e.opOrder {
		for _, m := range e.ops[i].from {
			e.opsInRow = e.opsInRow && slices.Contains(e.opOrder[:at], m.op)
		}
	}
}

// throughAmps tells whether all sources of sound go through an amplifier before the last.
func (e *engine) throughAmps() bool {
	var ends func(to int) bool
	ends = func(to int) bool {
		if to < 0 {
			return false
		}
		d := &e.nodes[to]
		return d.kind == ampNode || !slices.ContainsFunc(d.to, func(w leg) bool { return !ends(w.to) })
	}
	return !slices.ContainsFunc(e.buses, func(b busSpec) bool { return !ends(b.leg.to) })
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
	inner := 0
	for i := range e.inner {
		if take(e.inner[i].levelMods) {
			inner++
		}
	}
	if inner > 0 && inner == len(e.inner) && e.throughAmps() {
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
