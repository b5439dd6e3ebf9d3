package build

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/scale"
)

var soundKinds = []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Ring, meaning.Operator}

func (at *builder) kindOf(id string) meaning.Kind {
	for _, m := range at.p.Modules {
		if m.ID == id {
			return m.Kind
		}
	}
	return ""
}

func (at *builder) sounds(id string) bool { return slices.Contains(soundKinds, at.kindOf(id)) }

func (at *builder) isEffect(id string) bool {
	k := at.kindOf(id)
	return k != meaning.Filter && slices.Contains(meaning.EffectKinds, k)
}

// all lists the modules of a kind, in the panel's order.
func (at *builder) all(k meaning.Kind) []string {
	var out []string
	for _, m := range at.p.Modules {
		if m.Kind == k {
			out = append(out, m.ID)
		}
	}
	return out
}

func (at *builder) edge(from, to string) {
	if !slices.ContainsFunc(at.p.Audio, func(e panel.Edge) bool { return e.From == from && e.To == to && len(e.When) == 0 }) {
		at.p.Audio = append(at.p.Audio, panel.Edge{From: from, To: to})
	}
}

// entry is what new sound goes into: the mixer, the first filter, the amplifier, the first effect, or out.
func (at *builder) entry(but string) string {
	if m := at.all(meaning.Mixer); len(m) > 0 && m[0] != but {
		return m[0]
	}
	if f := at.first(func(id string) bool { return at.kindOf(id) == meaning.Filter && id != but }); f != "" {
		return f
	}
	return at.after(but)
}

// after is what stands behind the filters.
func (at *builder) after(but string) string {
	if a := at.all(meaning.Amp); len(a) > 0 && a[0] != but {
		return a[0]
	}
	if f := at.first(func(id string) bool { return at.isEffect(id) && id != but }); f != "" {
		return f
	}
	return "out"
}

// first finds the module of a sort that no other of the sort leads into.
func (at *builder) first(is func(id string) bool) string {
	for _, m := range at.p.Modules {
		if is(m.ID) && !slices.ContainsFunc(at.p.Audio, func(e panel.Edge) bool { return e.To == m.ID && is(e.From) }) {
			return m.ID
		}
	}
	return ""
}

// last finds the module of a sort that leads into no other of the sort.
func (at *builder) last(is func(id string) bool) string {
	out := ""
	for _, m := range at.p.Modules {
		if is(m.ID) && !slices.ContainsFunc(at.p.Audio, func(e panel.Edge) bool { return e.From == m.ID && is(e.To) }) {
			out = m.ID
		}
	}
	return out
}

// wire puts a module into the signal path where one of its kind belongs: what sounds, the mixer, the filters one behind the other, the amplifier, the effects in a row.
func (at *builder) wire(m panel.Module) {
	p := at.p
	switch {
	case m.Kind == meaning.Ring:
		for i, id := range slices.Concat(at.all(meaning.Osc), at.all(meaning.Operator)) {
			if i < 2 {
				at.edge(id, m.ID)
			}
		}
		at.edge(m.ID, at.entry(m.ID))
	case slices.Contains(soundKinds, m.Kind):
		at.edge(m.ID, at.entry(m.ID))
		for _, r := range at.all(meaning.Ring) {
			n := 0
			for _, e := range p.Audio {
				if e.To == r {
					n++
				}
			}
			if m.Kind == meaning.Osc && n < 2 {
				at.edge(m.ID, r)
			}
		}
	case m.Kind == meaning.Mixer:
		to := at.entry(m.ID)
		for i := range p.Audio {
			if e := &p.Audio[i]; at.sounds(e.From) && e.To == to {
				e.To = m.ID
			}
		}
		at.edge(m.ID, to)
	case m.Kind == meaning.Filter:
		isFilter := func(id string) bool { return at.kindOf(id) == meaning.Filter && id != m.ID }
		if end := at.last(isFilter); end != "" && p.Kind == "instrument" {
			for i := range p.Audio {
				if p.Audio[i].From == end {
					p.Audio[i].From = m.ID
				}
			}
			at.edge(end, m.ID)
			return
		}
		if p.Kind != "instrument" {
			at.behind(m.ID)
			return
		}
		to := at.after(m.ID)
		for i := range p.Audio {
			if e := &p.Audio[i]; e.To == to && (at.sounds(e.From) || at.kindOf(e.From) == meaning.Mixer) {
				e.To = m.ID
			}
		}
		at.edge(m.ID, to)
	case m.Kind == meaning.Amp:
		to := at.after(m.ID)
		for i := range p.Audio {
			if e := &p.Audio[i]; e.To == to && !at.isEffect(e.From) {
				e.To = m.ID
			}
		}
		at.edge(m.ID, to)
	case slices.Contains(meaning.EffectKinds, m.Kind):
		at.behind(m.ID)
	}
}

// behind puts a module at the end of the signal path.
func (at *builder) behind(id string) {
	for i := range at.p.Audio {
		if at.p.Audio[i].To == "out" {
			at.p.Audio[i].To = id
		}
	}
	at.edge(id, "out")
}

// levels gives each sound that has no level of its own one in the mixer.
func (at *builder) levels() error {
	f, err := scale.ReadFace(at.usual)
	if err != nil {
		return err
	}
	for _, m := range slices.Clone(at.p.Modules) {
		level := meaning.Ref(m.ID, meaning.PLevel)
		if !at.sounds(m.ID) || at.bound(level) {
			continue
		}
		if err := at.control(m.Label, at.section, f, level, "", ""); err != nil {
			return err
		}
	}
	return nil
}

func (at *builder) bound(param string) bool {
	for _, c := range at.p.Controls {
		if slices.ContainsFunc(c.Means, func(b panel.Bind) bool { return b.Param == param }) {
			return true
		}
	}
	return false
}

func (at *builder) labelOf(id string) string {
	for _, m := range at.p.Modules {
		if m.ID == id {
			return m.Label
		}
	}
	return strings.ToUpper(id[:1]) + id[1:]
}

func says(label string, words ...string) bool {
	low := strings.ToLower(label)
	return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(low, w) })
}

// envelopeFor picks the envelope that moves something other than the level.
func (at *builder) envelopeFor(what string) string {
	envs := at.all(meaning.Env)
	for _, id := range envs {
		if says(at.labelOf(id), what) {
			return id
		}
	}
	for _, id := range envs {
		if !at.routed(id, meaning.PLevel) && !says(at.labelOf(id), "amp", "loudness", "vca") {
			return id
		}
	}
	if len(envs) > 0 {
		return envs[0]
	}
	return ""
}

// routed tells whether a module moves a parameter of that name.
func (at *builder) routed(from string, name meaning.ParamName) bool {
	return slices.ContainsFunc(at.p.Routes, func(r panel.Route) bool {
		return r.From == from && slices.ContainsFunc(r.To, func(to string) bool { _, n := meaning.Split(to); return n == name })
	})
}

// route makes the route whose depth a piece sets; ok is false where an end of it is not there.
func (at *builder) route(b *Block, x Piece) (id string, ok bool) {
	from := x.from
	switch from {
	case "self":
		from = at.module
	case "env":
		from = at.envelopeFor(map[bool]string{true: "filter", false: "pitch"}[b.kind == meaning.Filter])
	case "lfo":
		from = ""
		if all := at.all(meaning.LFO); len(all) > 0 {
			from = all[0]
		}
	case "osc": // the one before
		from = at.before(meaning.Osc)
	}
	if from == "" {
		return "", false
	}
	var to []string
	for _, t := range x.to {
		kind, name, other := strings.Cut(t, ".")
		switch {
		case !other:
			to = append(to, meaning.Ref(at.module, meaning.ParamName(t)))
		case kind == "before":
			if one := at.before(b.kind); one != "" {
				to = append(to, meaning.Ref(one, meaning.ParamName(name)))
			}
		case kind == "filter": // the low-pass, not the high-pass before it
			all := slices.DeleteFunc(at.all(meaning.Filter), at.highpass)
			if len(all) > 0 {
				to = append(to, meaning.Ref(all[len(all)-1], meaning.ParamName(name)))
			}
		default:
			for _, one := range at.all(meaning.Kind(kind)) {
				to = append(to, meaning.Ref(one, meaning.ParamName(name)))
			}
		}
	}
	if len(to) == 0 || len(to) == 1 && strings.HasPrefix(to[0], from+".") && b.kind != meaning.Operator {
		return "", false
	}
	return at.addRoute(from, to, ""), true
}

// before finds the module of a kind that stands before the new one.
func (at *builder) before(k meaning.Kind) string {
	all := at.all(k)
	if i := slices.Index(all, at.module); i > 0 {
		return all[i-1]
	}
	return ""
}

// addRoute adds a route under a free id; one that is there and is set by a control is not made again.
func (at *builder) addRoute(from string, to []string, depth string) string {
	for _, r := range at.p.Routes {
		if r.From == from && slices.Equal(r.To, to) && r.Depth == "" && depth == "" && r.Via == "" && len(r.When) == 0 {
			return r.ID
		}
	}
	owner, name := meaning.Split(to[0])
	what := string(name)
	if s, ok := at.p.SetsOf(to[0], ""); ok {
		what, _, _ = strings.Cut(s.Label, " of ")
		if len(to) == 1 && at.kindOf(owner) != meaning.Voice && len(at.all(at.kindOf(owner))) > 1 {
			what = s.Label
		}
	}
	if at.kindOf(owner) == meaning.Voice && name == meaning.PTune {
		what = "pitch"
	}
	r := panel.Route{ID: free(from+"-"+Slug(string(name)), at.taken), Label: at.labelOf(from) + " to " + what, From: from, To: to, Depth: depth, Polarity: "unipolar"}
	if k := at.kindOf(from); k == meaning.LFO || k == meaning.Osc || k == meaning.Operator || from == "bend" || from == "random" {
		r.Polarity = "bipolar"
	}
	at.p.Routes = append(at.p.Routes, r)
	return r.ID
}

// routes makes the connections that go without saying: an envelope opens the amplifier, the next one is for the filter, one that says so is for the modulators.
func (at *builder) routes(b *Block, bare bool) {
	if b.kind == meaning.Env || b.kind == meaning.Amp {
		at.opens()
	}
	if b.kind == meaning.Filter || bare {
		return
	}
	if b.kind == meaning.Env && says(at.label, "modulator") {
		var to []string
		for _, r := range at.p.Routes {
			if at.kindOf(r.From) == meaning.Operator && len(r.To) > 0 && strings.HasSuffix(r.To[0], "."+string(meaning.PPM)) {
				to = append(to, meaning.Ref(r.From, meaning.PLevel))
			}
		}
		if len(to) > 0 {
			at.addRoute(at.module, to, "100 %")
		}
		return
	}
	if b.kind != meaning.Env || at.routed(at.module, meaning.PLevel) || len(at.all(meaning.Env)) < 2 && !says(at.label, "filter") {
		return
	}
	for _, f := range at.all(meaning.Filter) {
		cutoff := meaning.Ref(f, meaning.PCutoff)
		moved := slices.ContainsFunc(at.p.Routes, func(r panel.Route) bool { return at.kindOf(r.From) == meaning.Env && slices.Contains(r.To, cutoff) })
		if moved || at.highpass(f) {
			continue
		}
		section := at.section
		for _, c := range at.p.Controls {
			if len(c.Means) > 0 && c.Means[0].Param == cutoff {
				section = c.Section
			}
		}
		id := at.addRoute(at.module, []string{cutoff}, "")
		if f, err := scale.ReadFace(bothWays(at.usual)); err == nil {
			_ = at.control("Envelope amount", section, f, meaning.Ref(id, meaning.PDepth), "", "") // the route is there: nothing is left to be wrong
		}
		return
	}
}

func (at *builder) highpass(id string) bool {
	return slices.ContainsFunc(at.p.Modules, func(m panel.Module) bool { return m.ID == id && m.Fixed[meaning.PMode] == "highpass" })
}

// opens sees to it that an envelope moves the amplifier: the one that says so or, of several, the last.
func (at *builder) opens() {
	amps, envs := at.all(meaning.Amp), at.all(meaning.Env)
	if len(amps) == 0 || len(envs) == 0 {
		return
	}
	level := meaning.Ref(amps[0], meaning.PLevel)
	for i := range at.p.Routes {
		r := &at.p.Routes[i]
		if !slices.Contains(r.To, level) || at.kindOf(r.From) != meaning.Env && r.From != "gate" {
			continue
		}
		if r.From != at.module && at.kindOf(at.module) == meaning.Env && says(at.label, "amp", "loudness", "vca") && len(r.When) == 0 && !at.bound(meaning.Ref(r.ID, meaning.PDepth)) {
			r.From, r.Label = at.module, at.label+" to level"
		}
		return
	}
	by := envs[len(envs)-1]
	for _, id := range envs {
		if says(at.labelOf(id), "amp", "loudness", "vca", "carrier") {
			by = id
		}
	}
	at.addRoute(by, []string{level}, "100 %")
}

// play lists what slots may come from beside modules, as panels print it.
var play = [][2]string{{"velocity", "velocity"}, {"key", "key"}, {"wheel", "wheel"}, {"pressure", "aftertouch"}, {"bend", "bend"}, {"random", "random"}}

// ends lists what a matrix over the panel can connect.
func (at *builder) ends() (sources map[string]string, order []string, dests []panel.Destination) {
	sources = map[string]string{}
	source := func(name, id string) {
		if _, has := sources[name]; !has {
			sources[name] = id
			order = append(order, name)
		}
	}
	dest := func(name, full string, to string) {
		if !slices.ContainsFunc(dests, func(d panel.Destination) bool { return d.Name == name }) {
			dests = append(dests, panel.Destination{Name: name, To: []string{to}, Full: full})
		}
	}
	for _, m := range at.p.Modules {
		name := panel.LowerFirst(m.Label)
		ref := func(n meaning.ParamName) string { return meaning.Ref(m.ID, n) }
		switch m.Kind {
		case meaning.Env, meaning.Macro:
			source(name, m.ID)
		case meaning.LFO:
			source(name, m.ID)
			dest(name+" rate", "5 oct", ref(meaning.PRate))
		case meaning.Voice:
			dest("pitch", "24 st", ref(meaning.PTune))
		case meaning.Osc:
			dest(name+" pitch", "24 st", ref(meaning.PInterval))
			if m.Fixed[meaning.PWave] == "table" {
				dest(name+" position", "100 %", ref(meaning.PFrame))
			} else {
				dest(name+" width", "45 %", ref(meaning.PWidth))
			}
			dest(name+" level", "100 %", ref(meaning.PLevel))
		case meaning.Operator, meaning.Noise, meaning.Sub:
			dest(name+" level", "100 %", ref(meaning.PLevel))
		case meaning.Filter:
			dest(name+" cutoff", "7 oct", ref(meaning.PCutoff))
			dest(name+" resonance", "1", ref(meaning.PResonance))
		case meaning.Amp:
			dest("level", "100 %", ref(meaning.PLevel))
			dest("pan", "100 %", ref(meaning.PPan))
		case meaning.EQ:
			dest(name+" gain", "100 %", ref(meaning.PGain))
		default:
			if k := meaning.SpecOf(m.Kind); k != nil && at.isEffect(m.ID) {
				if _, has := k.Param(meaning.PMix); has {
					dest(name+" mix", "100 %", ref(meaning.PMix))
				}
			}
		}
	}
	for _, x := range play {
		source(x[0], x[1])
	}
	return sources, order, dests
}

// maxSlots is how many slots a matrix may be given at once.
const maxSlots = 100

// matrix puts in a matrix of slots over what stands there.
func (at *builder) matrix(b *Block, w Want) (*panel.Panel, string, error) {
	p := at.p
	if p.Matrix != nil && len(p.Matrix.Slots) > 0 {
		return nil, "", fmt.Errorf("the panel has one already: matrix")
	}
	n := w.Count
	if n == 0 {
		n = 8
	}
	if n < 1 || n > maxSlots {
		return nil, "", fmt.Errorf("expected 1 to %d slots, got %d", maxSlots, n)
	}
	label := strings.TrimSpace(w.Label)
	if label == "" {
		label = b.Label
	}
	at.section = at.sectionFor(b, label)
	sources, order, dests := at.ends()
	if len(dests) == 0 {
		return nil, "", fmt.Errorf("expected something that slots could move: add an oscillator, a filter or an amplifier first")
	}
	p.Matrix = &panel.Matrix{Sources: sources, Destinations: dests}
	from, to := []string{"none"}, []string{"none"}
	from = append(from, order...)
	for _, d := range dests {
		to = append(to, d.Name)
	}
	amount, err := scale.ReadFace(bothWays(at.usual))
	if err != nil {
		return nil, "", err
	}
	for i := 1; i <= n; i++ {
		s := panel.Slot{ID: at.freeModule(fmt.Sprintf("slot%d", i)), Label: fmt.Sprintf("Slot %d", i)}
		p.Matrix.Slots = append(p.Matrix.Slots, s)
		for _, c := range []struct {
			label string
			face  scale.Face
			name  meaning.ParamName
		}{{"Source", scale.Face{Kind: scale.List, Entries: from}, meaning.PSource}, {"Destination", scale.Face{Kind: scale.List, Entries: to}, meaning.PDest}, {"Amount", amount, meaning.PAmount}} {
			if err := at.control(fmt.Sprintf("%s %d", c.label, i), at.section, c.face, meaning.Ref(s.ID, c.name), "", ""); err != nil {
				return nil, "", err
			}
		}
	}
	return p, at.section, nil
}

// known lets the slots of a matrix reach what has been put in beside it, where their lists hold all that there was.
func (at *builder) known() {
	p := at.p
	if p.Matrix == nil || len(p.Matrix.Slots) == 0 {
		return
	}
	sources, order, dests := at.ends()
	ids := slices.Collect(maps.Values(p.Matrix.Sources))
	var moreFrom, moreTo []string
	for _, name := range order {
		if _, has := p.Matrix.Sources[name]; !has && !slices.Contains(ids, sources[name]) && sources[name] == at.module {
			moreFrom = append(moreFrom, name)
		}
	}
	for _, d := range dests {
		owner, _ := meaning.Split(d.To[0])
		if owner == at.module && !slices.ContainsFunc(p.Matrix.Destinations, func(x panel.Destination) bool { return x.Name == d.Name }) {
			moreTo = append(moreTo, d.Name)
			p.Matrix.Destinations = append(p.Matrix.Destinations, d)
		}
	}
	for _, name := range moreFrom {
		p.Matrix.Sources[name] = sources[name]
	}
	for i := range p.Controls {
		c := &p.Controls[i]
		for j := range c.Means {
			_, name := meaning.Split(c.Means[j].Param)
			more := map[meaning.ParamName][]string{meaning.PSource: moreFrom, meaning.PDest: moreTo}[name]
			if len(more) == 0 || c.Face.Kind != scale.List || len(c.Means) != 1 || len(c.Face.Entries) < 3 || len(c.Means[j].Law.Values) != len(c.Face.Entries) {
				continue
			}
			for _, m := range more {
				c.Face.Entries, c.Means[j].Law.Values = append(c.Face.Entries, m), append(c.Means[j].Law.Values, m)
			}
		}
	}
}
