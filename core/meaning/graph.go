package meaning

import (
	"math"
	"slices"
	"sort"
	"strings"

	q "glossator/core/quantity"
)

// Graph is the audio path of a meaning: what feeds what, in which order, what stands before and behind the amplifier. It is built once from the
// audio edges; whoever has a question about the path asks it. It holds while modules and edges stay as they are.
type Graph struct {
	m      *Meaning
	next   map[string][]string
	prev   map[string][]string
	behind map[string]bool
	// inner holds the amplifiers that lead to another one, or that stand beside one: each is a place in the path of the voice
	inner map[string]bool
	amp   *Module
	// returns holds what stands behind the amplifier and leads to a feedback path alone
	returns map[string]bool
	path    *Path
	// filters and drives stand in each voice, in the order of the path.
	filters, drives []*Module
}

// Graph builds the graph of the audio path.
func (m *Meaning) Graph() *Graph {
	g := &Graph{m: m, next: map[string][]string{}, prev: map[string][]string{}, behind: map[string]bool{}, returns: map[string]bool{}}
	for _, e := range m.Audio {
		g.next[e.From] = append(g.next[e.From], e.To)
		g.prev[e.To] = append(g.prev[e.To], e.From)
	}
	g.findAmps()
	for i := range m.Modules {
		if d := &m.Modules[i]; d.Kind == Amp && (!g.inner[d.ID] || g.amp == nil && !g.leadsToAmp(d.ID)) {
			g.markBehind(d.ID)
		}
	}
	g.findReturns()
	g.findVoice()
	return g
}

// findAmps finds the amplifier of the voice: the one that all others lead to. Where several stand side by side there is none, and each is a place in the path.
func (g *Graph) findAmps() {
	var all, last []*Module
	for i := range g.m.Modules {
		if d := &g.m.Modules[i]; d.Kind == Amp && d.Used() {
			if all = append(all, d); !g.leadsToAmp(d.ID) {
				last = append(last, d)
			}
		}
	}
	if len(last) == 1 {
		g.amp = last[0]
	}
	g.inner = map[string]bool{}
	for _, d := range all {
		if len(last) > 0 && d != g.amp && len(g.next[d.ID]) > 0 {
			g.inner[d.ID] = true
		}
	}
}

// leadsToAmp tells whether a way leads from an amplifier to another one that is used, but for one back.
func (g *Graph) leadsToAmp(id string) bool {
	seen := map[string]bool{id: true}
	var walk func(id string) bool
	walk = func(id string) bool {
		return slices.ContainsFunc(g.next[id], func(n string) bool {
			d := g.m.Module(n)
			if seen[n] || d != nil && d.Kind == Feedback {
				return false
			}
			seen[n] = true
			return d != nil && d.Kind == Amp && d.Used() || walk(n)
		})
	}
	return walk(id)
}

// Amplifier gives the amplifier that the whole voice comes to; nil where there is none, or several side by side.
func (g *Graph) Amplifier() *Module { return g.amp }

// Feeds tells whether one module leads straight into another.
func (g *Graph) Feeds(from, to string) bool { return slices.Contains(g.next[from], to) }

// Inputs lists the ids of what leads straight into a module, in the order of the edges.
func (g *Graph) Inputs(id string) []string { return g.prev[id] }

// Behind tells whether a module stands behind the amplifier: one for all voices. A feedback path leads back and is not behind.
func (g *Graph) Behind(id string) bool { return g.behind[id] }

func (g *Graph) markBehind(id string) {
	for _, n := range g.next[id] {
		d := g.m.Module(n)
		if d == nil && g.leadsBack(n, map[string]bool{}) || d != nil && d.Kind == Feedback {
			continue
		}
		if !g.behind[n] { // what is taken out of the meaning is passed
			g.behind[n] = true
			g.markBehind(n)
		}
	}
}

// leadsBack tells whether what is taken out of the meaning was a way back to the amplifier.
func (g *Graph) leadsBack(id string, seen map[string]bool) bool {
	if d := g.m.Module(id); seen[id] || d != nil && (d.Kind == Amp || d.Kind == Feedback) {
		return d != nil && d.Kind == Amp
	}
	seen[id] = true
	return slices.ContainsFunc(g.next[id], func(n string) bool { return g.leadsBack(n, seen) })
}

// findReturns finds the filters and drives behind the amplifier that nothing but a feedback path listens to.
func (g *Graph) findReturns() {
	for id := range g.behind {
		d := g.m.Module(id)
		if d == nil || d.Kind != Filter && d.Kind != Drive {
			continue
		}
		next := id
		for range len(g.m.Modules) {
			to := g.next[next]
			if len(to) != 1 {
				break
			}
			n := g.m.Module(to[0])
			if n != nil && n.Kind == Feedback {
				g.returns[id] = true
				break
			}
			next = to[0]
		}
	}
}

// Filters lists the used filters of each voice in the order of the path.
func (g *Graph) Filters() []*Module { return g.filters }

// Drives lists the used drives that stand before the amplifier, in the order of the path.
func (g *Graph) Drives() []*Module { return g.drives }

// Voiced tells whether a filter or drive stands in each voice.
func (g *Graph) Voiced(id string) bool {
	has := func(d *Module) bool { return d.ID == id }
	return slices.ContainsFunc(g.filters, has) || slices.ContainsFunc(g.drives, has)
}

// findVoice walks from every source of sound towards the amplifier; what lies behind it is an effect.
func (g *Graph) findVoice() {
	seen := map[string]bool{}
	var walk func(id string)
	walk = func(id string) {
		d := g.m.Module(id)
		if seen[id] || d != nil && d.Kind == Amp && !(g.inner[id] && g.leadsToAmp(id)) {
			return
		}
		seen[id] = true
		switch {
		case d == nil: // taken out of the meaning: it is passed
		case d.Kind == Filter && d.Used():
			g.filters = append(g.filters, d)
		case d.Kind == Drive && d.Used() && !g.behind[id]:
			g.drives = append(g.drives, d)
		}
		for _, n := range g.next[id] {
			walk(n)
		}
	}
	for i := range g.m.Modules {
		switch d := &g.m.Modules[i]; d.Kind {
		case Osc, Sub, Operator, Noise, Mixer:
			walk(d.ID)
		}
	}
}

// SideBySide tells whether two filters stand side by side: some sound goes through each of them that does not go through the other.
func (g *Graph) SideBySide(a, b *Module) bool {
	p := g.Path()
	i, j := p.at(a), p.at(b)
	return i >= 0 && j >= 0 && i != j && !p.leads(i, j) && !p.leads(j, i)
}

// Past tells whether part of the sound goes past a filter: by another beside it, or by sources that are not sent to it.
func (g *Graph) Past() bool {
	p := g.Path()
	for i := range p.Nodes {
		f := p.Nodes[i].Module
		if f.Kind != Filter {
			continue
		}
		for _, list := range p.From {
			for _, e := range list {
				if p.misses(e.To, i) {
					return true
				}
			}
		}
	}
	return false
}

// EffectKinds are the kinds that stand in the chain behind the amplifier. A filter may, too.
var EffectKinds = []Kind{Drive, EQ, Compressor, Multiband, Chorus, Flanger, Phaser, Delay, Reverb, Widener}

// Chain lists the used effects for all voices in order: by the path, or by their place where they have one.
func (g *Graph) Chain() []*Module {
	effect := func(d *Module) bool { return slices.Contains(EffectKinds, d.Kind) || d.Kind == Filter }
	var list []*Module
	seen := map[string]bool{}
	add := func(d *Module) {
		if seen[d.ID] {
			return
		}
		seen[d.ID] = true
		if d.Used() && effect(d) && !g.Voiced(d.ID) && !g.returns[d.ID] {
			list = append(list, d)
		}
	}
	var walk func(id string)
	walk = func(id string) {
		for _, n := range g.next[id] {
			if d := g.m.Module(n); d != nil && !seen[n] && d.Kind != Mixer && d.Kind != Feedback {
				add(d)
				walk(n)
			}
		}
	}
	// a chain begins at the amplifier, or where nothing leads into it
	for i := range g.m.Modules {
		if d := &g.m.Modules[i]; d.Kind == Amp {
			walk(d.ID)
		}
	}
	for i := range g.m.Modules {
		if d := &g.m.Modules[i]; effect(d) && !g.Voiced(d.ID) && !g.fed(d.ID) {
			add(d)
			walk(d.ID)
		}
	}
	for i := range g.m.Modules {
		if d := &g.m.Modules[i]; slices.Contains(EffectKinds, d.Kind) {
			add(d)
		}
	}
	sort.SliceStable(list, func(a, b int) bool {
		x, _ := list[a].Get(PPlace)
		y, _ := list[b].Get(PPlace)
		return !x.Off && !y.Off && x.Value > 0 && y.Value > 0 && x.Value < y.Value
	})
	return list
}

// fed tells whether anything but a send leads into a module.
func (g *Graph) fed(id string) bool {
	return slices.ContainsFunc(g.prev[id], func(from string) bool {
		d := g.m.Module(from)
		return d == nil || d.Kind != Send
	})
}

// Opens tells whether a route opens an amplifier: an envelope or the gate at its level. Without one nothing sounds.
func (m *Meaning) Opens(r *Route) bool {
	return slices.ContainsFunc(r.To, func(to string) bool {
		id, param := Split(to)
		d := m.Module(id)
		return d != nil && Opens(r.From, m.kindOf(r.From), d.Kind, param)
	})
}

// Opens tells whether a source, of a kind where it is a module, opens what a parameter of another kind of module stands for: an amplifier's level.
func Opens(from string, source, dest Kind, param ParamName) bool {
	return dest == Amp && param == PLevel && (from == "gate" || source == Env)
}

// Shapes tells whether a route moves the level of an amplifier or an operator: what opens a sound over time.
func (m *Meaning) Shapes(r *Route) bool {
	return slices.ContainsFunc(r.To, func(to string) bool {
		id, param := Split(to)
		k := m.kindOf(id)
		return param == PLevel && (k == Amp || k == Operator)
	})
}

// kindOf gives the kind of a module, "" where there is none of this id.
func (m *Meaning) kindOf(id string) Kind {
	if d := m.Module(id); d != nil {
		return d.Kind
	}
	return ""
}

// noDepth is below what any depth that is stated comes to, in octaves, cents or shares: a scale whose middle is written down in nine figures is off by that.
const noDepth = 1e-6

// BroughtIn tells whether a part that is silent as it stands is brought in by what moves the parameters that silence it: noise at no level that an envelope opens, an echo at no mix that the wheel
// turns up. Not one that is switched off, nor a filter or an operator: what silences them is no level.
func (m *Meaning) BroughtIn(d *Module) bool {
	spec := SpecOf(d.Kind)
	if d.Absent || d.Kind == Filter || d.Kind == Operator || d.SilencedBy(POn) != "" {
		return false
	}
	moved := false
	for _, name := range spec.Silence {
		if name == POn || d.SilencedBy(name) == "" {
			continue
		}
		if !m.moves(Ref(d.ID, name), func(r *Route) bool { return r.Depth.Value > 0 || r.Polarity == "bipolar" && r.Depth.Value != 0 }) {
			return false
		}
		moved = true
	}
	return moved
}

// moves tells whether a used route of some kind moves a parameter.
func (m *Meaning) moves(to string, is func(r *Route) bool) bool {
	for i := range m.Routes {
		if r := &m.Routes[i]; r.Used() && slices.Contains(r.To, to) && is(r) {
			return true
		}
	}
	return false
}

// Loudest gives the level that a source of sound comes to where what moves it has it up, but for LFOs and hands, which only move it about: it adds to the level as it stands, up to full.
func (m *Meaning) Loudest(d *Module) q.Quantity {
	level := d.Loud()
	a := 0.0
	if !level.Off {
		a = q.Level(level.Value).Amplitude()
	}
	top := max(1, a)
	for i := range m.Routes {
		r := &m.Routes[i]
		if by := m.Module(r.From); r.Used() && r.Depth.Value > 0 && slices.Contains(r.To, Ref(d.ID, PLevel)) && (level.Off || by != nil && by.Kind == Env) {
			a += r.Depth.Value
		}
	}
	if a <= 0 {
		return level
	}
	return q.Quantity{Dim: q.DimLevel, Value: 20 * math.Log10(min(a, top))}
}

// MarkIdle marks what does nothing audible: silent modules, routes that move nothing, sources that nothing listens to. Modules and routes that are not
// there are marked already. of gives the module that a patch point is of, for cables through attenuators.
func (m *Meaning) MarkIdle(of func(point string) string) {
	silent := map[string]bool{}
	m.markRoutes()
	for i := range m.Modules {
		d := &m.Modules[i]
		if d.Idle == "" {
			d.Idle = d.Silence()
			if d.Idle != "" && m.BroughtIn(d) {
				d.Idle = ""
			}
		}
		silent[d.ID] = d.Idle != ""
	}
	wired := slices.ContainsFunc(m.Audio, func(e Edge) bool { return m.kindOf(e.From) == Operator })
	// a silent oscillator that moves something still works; a mover that nothing hears
	// does not. Chains settle in as many passes as they are long.
	for range 4 {
		heard := m.Working()
		for i := range m.Modules {
			d := &m.Modules[i]
			switch d.Kind {
			case Env, LFO, Macro:
				if !silent[d.ID] {
					d.Idle = ""
					if !heard[d.ID] {
						d.Idle = "nothing listens to it"
					}
				}
			case Atten:
				d.Idle = "nothing is plugged through it"
				for _, r := range m.Routes {
					if r.Used() && slices.ContainsFunc(r.Cable, func(p string) bool { return of(p) == d.ID }) {
						d.Idle = ""
					}
				}
			case Operator:
				switch {
				case silent[d.ID] && heard[d.ID] && !d.Absent && !d.still():
					d.Idle = ""
				case !silent[d.ID] && wired && !slices.ContainsFunc(m.Audio, func(e Edge) bool { return e.From == d.ID }):
					d.Idle = "" // it only modulates
					if !heard[d.ID] {
						d.Idle = "nothing listens to it"
					}
				}
			default:
				if silent[d.ID] && heard[d.ID] && !d.Absent || d.Idle == nothingThrough {
					d.Idle = ""
				}
			}
		}
		m.markUnfed()
	}
	for i := range m.Routes {
		r := &m.Routes[i]
		if r.Idle == "" && !slices.ContainsFunc(r.To, m.sounds) {
			r.Idle = "what it moves is silent"
			for _, to := range r.To {
				if d := m.Module(moduleOf(to)); d != nil && d.Used() {
					r.Idle, r.Deaf = "what it moves does nothing as "+d.Label+" stands", true
				}
			}
		}
		if d := m.Module(r.From); r.Idle == "" && d != nil && d.Kind == Operator && !d.Used() {
			r.Idle = "what would move it is silent"
		}
	}
	m.markMoved()
}

// lead marks what a way of the sound leads to from a module, and the module itself.
func (m *Meaning) lead(id string, to map[string]bool) {
	if to[id] {
		return
	}
	to[id] = true
	for _, e := range m.Audio {
		if e.From == id {
			m.lead(e.To, to)
		}
	}
}

// Leads tells whether a way of the sound leads from one module to another, through whatever is between.
func (m *Meaning) Leads(from, to string) bool {
	all := map[string]bool{}
	m.lead(from, all)
	return from != to && all[to]
}

// nothingThrough is why a module does nothing that no sound goes through.
const nothingThrough = "no sound goes through it"

// markUnfed marks filters, amplifiers, mixers and drives that stand in the path of the sound where none of what sounds leads: the amplifier of a line that is switched off. Where nothing sounds at all,
// all stay as they are, and so does what lies behind a filter that may whistle by itself.
func (m *Meaning) markUnfed() {
	fed := map[string]bool{}
	sounds := false
	lead := func(id string) { m.lead(id, fed) }
	for i := range m.Modules {
		d := &m.Modules[i]
		switch d.Kind {
		case Osc, Sub, Noise, Operator, Ring, Feedback:
			if d.Used() {
				sounds = sounds || d.Kind != Feedback
				lead(d.ID)
			}
		case Filter:
			if r, _ := d.Get(PResonance); d.Used() && (r.Value >= 0.9 || m.moves(Ref(d.ID, PResonance), func(*Route) bool { return true })) {
				lead(d.ID)
			}
		}
	}
	for i := range m.Modules {
		d := &m.Modules[i]
		switch d.Kind {
		case Filter, Amp, Mixer, Drive:
			if sounds && d.Used() && !fed[d.ID] && slices.ContainsFunc(m.Audio, func(e Edge) bool { return e.To == d.ID || e.From == d.ID }) {
				d.Idle = nothingThrough
			}
		}
	}
}

// markMoved notes on each module which of its parameters are moved.
func (m *Meaning) markMoved() {
	for i := range m.Routes {
		r := &m.Routes[i]
		if !r.Used() {
			continue
		}
		for _, to := range r.To {
			id, name := Split(to)
			if d := m.Module(id); d != nil {
				if d.Moved == nil {
					d.Moved = map[ParamName]bool{}
				}
				d.Moved[name] = true
			}
		}
	}
}

// still tells whether a module that gives no sound moves nothing either: of an operator the level is what modulates, where an oscillator's is behind what listens to it.
func (m *Module) still() bool {
	if m.Kind != Operator {
		return false
	}
	level, has := m.Params[PLevel]
	return has && level.Off || m.Params[POn].Name == "off"
}

// markRoutes marks the routes that can move nothing: without depth, source or destination.
func (m *Meaning) markRoutes() {
	present := func(id string) bool {
		d := m.Module(id)
		return d == nil || !d.Absent
	}
	for i := range m.Routes {
		r := &m.Routes[i]
		switch {
		case r.Idle != "":
		case r.Depth.Off || math.Abs(r.Depth.Value) < noDepth:
			r.Idle = "its depth is 0"
		case !present(r.From):
			r.Idle = "its source is not there"
		case !slices.ContainsFunc(r.To, func(to string) bool { id, _ := Split(to); return present(id) }):
			r.Idle = "its destination is not there"
		}
	}
}

func moduleOf(ref string) string { id, _ := Split(ref); return id }

// Deaf tells whether moving a parameter of an oscillator does nothing as the oscillator stands: a width where no pulse is played, a position where there is no table,
// the amount of no transformation. A width that a moved position may come to is heard.
func (m *Meaning) Deaf(to string) bool {
	id, name := Split(to)
	d := m.Module(id)
	if d == nil || d.Kind != Osc || name != PWidth && name != PFrame && name != PWarpAmount {
		return false
	}
	p, ok := SpecOf(d.Kind).Param(name)
	if !ok || p.Heard(d) {
		return false
	}
	if w, _ := d.Get(PWave); w.Name != "table" {
		return true
	}
	if t, _ := d.Get(PTable); name == PWidth && strings.Contains(t.Name, q.WavePulse) {
		frame := Ref(id, PFrame)
		return !slices.ContainsFunc(m.Routes, func(r Route) bool { return r.Idle == "" && slices.Contains(r.To, frame) })
	}
	return true
}

// sounds tells whether the module of a destination is in use and hears what moves it, or is none of the meaning's.
func (m *Meaning) sounds(to string) bool {
	id, _ := Split(to)
	d := m.Module(id)
	return d == nil || d.Used() && !m.Deaf(to)
}

// Working lists what something in use listens to: sources of routes, what scales them, what a ring modulator multiplies, and what resets or modulates an oscillator.
func (m *Meaning) Working() map[string]bool {
	out := map[string]bool{}
	for i := range m.Routes {
		if r := &m.Routes[i]; r.Used() && slices.ContainsFunc(r.To, m.sounds) {
			out[r.From], out[r.Via] = true, true
		}
	}
	for _, e := range m.Audio {
		if to := m.Module(e.To); to != nil && to.Used() && to.Kind == Ring {
			out[e.From] = true
		}
	}
	for i := range m.Modules {
		if d := &m.Modules[i]; d.Used() && d.Kind == Osc {
			out[m.SyncedTo(d)], out[m.ModulatedBy(d)] = true, true
		}
	}
	return out
}

// oscillators are those that play, or would if their level were up.
func (m *Meaning) oscillators() (list []*Module) {
	for i := range m.Modules {
		if d := &m.Modules[i]; d.Kind == Osc && !d.Absent && (d.Used() || d.Idle == d.SilencedBy(PLevel)) {
			list = append(list, d)
		}
	}
	return list
}

// SyncedTo gives the oscillator that resets another: the one that its sync names, else the one before it, else the next (common practice, no source). "" for none.
func (m *Meaning) SyncedTo(d *Module) string {
	v, _ := d.Get(PSync)
	if v.Name == "" || v.Name == "off" {
		return ""
	}
	list := m.oscillators()
	at := slices.Index(list, d)
	if x := m.Module(v.Name); x != nil && x != d && !x.Absent && (x.Used() || x.Idle == x.SilencedBy(PLevel)) {
		return x.ID
	}
	switch {
	case at > 0:
		return list[at-1].ID
	case at == 0 && len(list) > 1:
		return list[1].ID
	}
	return ""
}

// ModulatedBy gives the oscillator that modulates another in frequency (common practice, no source); "" where nothing does.
func (m *Meaning) ModulatedBy(d *Module) string {
	v, _ := d.Get(PFM)
	to := Ref(d.ID, PFM)
	if v.Off || v.Value == 0 {
		if !slices.ContainsFunc(m.Routes, func(r Route) bool { return r.Used() && slices.Contains(r.To, to) }) {
			return ""
		}
	}
	return m.Modulator(d)
}

// Modulator gives the oscillator that would modulate another in frequency: one that a route takes there, else the next one, and of the last the one before. "" where there is no other.
func (m *Meaning) Modulator(d *Module) string {
	list := m.oscillators()
	to := Ref(d.ID, PFM)
	for i := range m.Routes {
		if r := &m.Routes[i]; r.Used() && slices.Contains(r.To, to) && r.From != d.ID && slices.ContainsFunc(list, func(x *Module) bool { return x.ID == r.From }) {
			return r.From
		}
	}
	if k := Beside(slices.Index(list, d), len(list)); k >= 0 {
		return list[k].ID
	}
	return ""
}

// Beside gives which of n oscillators in a row modulates the one at a place where nothing else is said: the next, and of the last the one before (common practice, no source); -1 for none.
func Beside(at, n int) int {
	switch {
	case at < 0 || n < 2:
		return -1
	case at+1 < n:
		return at + 1
	}
	return at - 1
}

// MarkUnheard marks what moves nothing any more, after modules have been taken out for a reason ("played by ...").
func (m *Meaning) MarkUnheard(why string) {
	for range 4 { // chains of movers settle in as many passes as they are long
		heard := map[string]bool{}
		for i := range m.Routes {
			r := &m.Routes[i]
			if !r.Used() {
				continue
			}
			if !slices.ContainsFunc(r.To, m.sounds) {
				r.Idle = "what it moves is " + why
				continue
			}
			heard[r.From], heard[r.Via] = true, true
		}
		for i := range m.Modules {
			if d := &m.Modules[i]; d.Used() && (d.Kind == Env || d.Kind == LFO) && !heard[d.ID] {
				d.Idle = "nothing listens to it in this layer"
			}
		}
	}
}
