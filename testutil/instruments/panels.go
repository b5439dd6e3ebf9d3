// Package instruments invents instruments and patches on them for tests: panels as somebody would enter them, by building blocks that differ from seed to
// seed in what there is, how it is wired, what stands printed and by which law, and patches that somebody would play on them. All is from the seed, and
// from nothing that exists.
package instruments

import (
	"fmt"
	"math/rand/v2"
	"slices"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/scale"
)

// maker is a panel on its way.
type maker struct {
	panel.Panel
	*rand.Rand
	noPartials bool
}

func (m *maker) chance(share float64) bool { return m.Float64() < share }

func pick[T any](m *maker, list ...T) T { return list[m.IntN(len(list))] }

// Panel invents an instrument.
func Panel(seed uint64) (*panel.Compiled, error) {
	m := &maker{Rand: rand.New(rand.NewPCG(seed, 401))}
	m.Format, m.Version, m.Revision, m.Kind = panel.Format, panel.Version, 1, "instrument"
	m.ID, m.Name, m.Memory = fmt.Sprintf("invented-%d", seed), fmt.Sprintf("Invented %d", seed), m.chance(0.6)
	for _, s := range meaning.Steps {
		m.Sections = append(m.Sections, panel.Section{ID: string(s.Step), Label: s.Title, Step: s.Step})
	}
	m.voice()
	var last []string
	if m.chance(0.15) {
		last = m.operators()
	} else {
		last = m.oscillators()
	}
	last = m.filters(last)
	m.module("amp", meaning.Amp, nil)
	for _, id := range last {
		m.edge(id, "amp")
	}
	m.fader("volume", "level", "amp.level", 0)
	m.envelopes()
	m.movers()
	m.effects()
	return panel.Compile(&m.Panel)
}

func (m *maker) module(id string, k meaning.Kind, fixed map[meaning.ParamName]string) {
	m.Modules = append(m.Modules, panel.Module{ID: id, Kind: k, Label: id, Fixed: fixed})
}

func (m *maker) edge(from, to string) { m.Audio = append(m.Audio, panel.Edge{From: from, To: to}) }

// section gives the section of a step; the ids of sections are those of the steps.
func section(step meaning.Step) string { return string(step) }

// face makes a face for something continuous.
func (m *maker) face(centred bool) (f scale.Face, init string) {
	switch m.IntN(4) {
	case 0:
		if centred {
			return scale.Face{Kind: scale.Numeric, Min: -64, Max: 63, Step: 1, Sign: true}, "0"
		}
		return scale.Face{Kind: scale.Numeric, Max: 127, Step: 1}, "0"
	case 1:
		if centred {
			return scale.Face{Kind: scale.Numeric, Min: -5, Max: 5, Step: 0.1, Sign: true}, "0"
		}
		return scale.Face{Kind: scale.Numeric, Max: 10, Step: 0.1}, "0"
	case 2:
		if centred {
			return scale.Face{Kind: scale.Clock}, "12:00"
		}
		return scale.Face{Kind: scale.Clock}, "7:00"
	}
	if centred {
		return scale.Face{Kind: scale.Numeric, Min: -100, Max: 100, Step: 1, Sign: true}, "0"
	}
	return scale.Face{Kind: scale.Numeric, Max: 100, Step: 1}, "0"
}

func (m *maker) law(l scale.Law) scale.Law {
	l.Source = pick(m, scale.Stated, scale.Assumed)
	return l
}

func (m *maker) control(id, sec string, f scale.Face, init string, means ...panel.Bind) {
	m.Controls = append(m.Controls, panel.Control{ID: id, Label: id, Section: sec, Face: f, Init: init, Means: means})
}

func (m *maker) knob(id string, step meaning.Step, param string, l scale.Law, part string) {
	f, init := m.face(l.Kind == scale.Bipolar)
	m.control(id, section(step), f, init, panel.Bind{Param: param, Part: part, Law: m.law(l)})
}

func (m *maker) fader(id string, step meaning.Step, param string, top float64) {
	f, init := m.face(false)
	if id == "volume" {
		switch f.Kind {
		case scale.Clock:
			init = "3:00"
		default:
			init = fmt.Sprint(0.8 * f.Max)
			if f.Step == 1 {
				init = fmt.Sprint(int(0.8 * f.Max))
			}
		}
	}
	m.control(id, section(step), f, init, panel.Bind{Param: param, Law: m.law(scale.Law{Kind: scale.Decibel, Unit: "dB", Max: top, Exponent: pick(m, 1.0, 1, 2), Off: "bottom"})})
}

// words is a switch of words: what stands printed and what each means.
func (m *maker) words(id string, step meaning.Step, param, unit string, init int, printed []string, values []any) {
	m.control(id, section(step), scale.Face{Kind: scale.List, Entries: printed}, printed[init], panel.Bind{Param: param, Law: scale.Law{Kind: scale.Listed, Unit: unit, Values: values, Source: scale.Stated}})
}

func same(list ...string) (printed []string, values []any) {
	for _, s := range list {
		printed, values = append(printed, s), append(values, s)
	}
	return printed, values
}

func (m *maker) voice() {
	fixed := map[meaning.ParamName]string{meaning.PPriority: "last", meaning.PTrigger: pick(m, "retrigger", "legato")}
	mono := m.chance(0.35)
	if mono {
		fixed[meaning.PMode], fixed[meaning.PCount] = "mono", "1"
	} else {
		fixed[meaning.PCount] = pick(m, "4", "6", "8", "16")
		if m.chance(0.5) {
			p, v := same("poly", "mono")
			m.words("voice.mode", meaning.StepVoice, "voice.mode", "name", 0, p, v)
		} else {
			fixed[meaning.PMode] = "poly"
		}
	}
	m.module("voice", meaning.Voice, fixed)
	if m.chance(0.4) {
		m.control("transpose", section(meaning.StepVoice), scale.Face{Kind: scale.Numeric, Min: -24, Max: 24, Step: 12, Sign: true, Exact: true}, "0",
			panel.Bind{Param: "voice.transpose", Law: scale.Law{Kind: scale.Linear, Unit: "ct", Min: -2400, Max: 2400, Source: scale.Stated}})
	}
	if m.chance(0.6) {
		m.knob("glide", meaning.StepFeel, "voice.glide", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 0.005, Max: pick(m, 2.0, 5), Off: "bottom", Convention: "t90"}, "")
	}
	if !mono && m.chance(0.3) {
		m.control("unison", section(meaning.StepVoice), scale.Face{Kind: scale.Numeric, Min: 1, Max: 4, Step: 1, Exact: true}, "1", panel.Bind{Param: "voice.unison", Law: scale.Law{Kind: scale.Linear, Unit: "count", Min: 1, Max: 4, Source: scale.Stated}})
		m.knob("unison.detune", meaning.StepVoice, "voice.spread", scale.Law{Kind: scale.Linear, Unit: "ct", Max: 50}, "")
	}
}

// waves are sets of waves that oscillators have.
var waves = [][]string{{"saw", "square"}, {"triangle", "saw", "square", "sine"}, {"saw", "pulse", "triangle"}, {"sine", "triangle", "saw", "pulse"}, {"saw", "square", "narrow"}}

func (m *maker) wave(id string, step meaning.Step, set []string) {
	var values, widths []any
	width := false
	for _, w := range set {
		switch w {
		case "square":
			values, widths = append(values, "pulse"), append(widths, 50.0)
		case "narrow":
			values, widths = append(values, "pulse"), append(widths, 15.0)
		case "pulse":
			values, widths, width = append(values, "pulse"), append(widths, nil), true
		default:
			values, widths = append(values, w), append(widths, nil)
		}
	}
	means := []panel.Bind{{Param: id + ".wave", Law: scale.Law{Kind: scale.Listed, Unit: "wave", Values: values, Source: scale.Stated}}}
	if !width && slices.ContainsFunc(widths, func(x any) bool { return x != nil }) {
		means = append(means, panel.Bind{Param: id + ".width", Law: scale.Law{Kind: scale.Listed, Unit: "%", Values: widths, Source: scale.Stated}})
	}
	m.control(id+".wave", section(step), scale.Face{Kind: scale.List, Entries: set}, set[0], means...)
	if width {
		m.knob(id+".width", step, id+".width", scale.Law{Kind: scale.Linear, Unit: "%", Min: 50, Max: pick(m, 5.0, 95)}, "")
	}
}

func (m *maker) oscillators() []string {
	n := 1 + m.IntN(3)
	mixer := m.chance(0.85)
	var out []string
	join := func(id string) {
		if mixer {
			m.edge(id, "mixer")
		} else {
			out = append(out, id)
		}
	}
	set := pick(m, waves...)
	for i := range n {
		id := fmt.Sprintf("osc%d", i+1)
		m.module(id, meaning.Osc, map[meaning.ParamName]string{meaning.PPhase: "free"})
		m.wave(id, meaning.StepOsc, set)
		switch m.IntN(3) {
		case 0:
			m.control(id+".range", section(meaning.StepOsc), scale.Face{Kind: scale.List, Entries: []string{"32'", "16'", "8'", "4'", "2'"}}, "8'", panel.Bind{Param: id + ".interval", Part: "octave",
				Law: scale.Law{Kind: scale.Listed, Unit: "ct", Values: []any{-2400.0, -1200.0, 0.0, 1200.0, 2400.0}, Source: scale.Stated}})
		case 1:
			m.control(id+".octave", section(meaning.StepOsc), scale.Face{Kind: scale.Numeric, Min: -2, Max: 2, Step: 1, Sign: true, Exact: true}, "0", panel.Bind{Param: id + ".interval", Part: "octave",
				Law: scale.Law{Kind: scale.Linear, Unit: "ct", Min: -2400, Max: 2400, Source: scale.Stated}})
		}
		if i > 0 || m.chance(0.5) {
			if m.chance(0.6) {
				r := pick(m, 7.0, 12, 24)
				m.control(id+".semi", section(meaning.StepOsc), scale.Face{Kind: scale.Numeric, Min: -r, Max: r, Step: 1, Sign: true, Exact: true}, "0", panel.Bind{Param: id + ".interval", Part: "semi",
					Law: scale.Law{Kind: scale.Linear, Unit: "ct", Min: -100 * r, Max: 100 * r, Source: scale.Stated}})
				m.knob(id+".fine", meaning.StepOsc, id+".interval", scale.Law{Kind: scale.Bipolar, Unit: "ct", Max: pick(m, 50.0, 100)}, "fine")
			} else {
				m.knob(id+".fine", meaning.StepOsc, id+".interval", scale.Law{Kind: scale.Bipolar, Unit: "ct", Max: pick(m, 50.0, 200, 700), Exponent: pick(m, 1.0, 2)}, "fine")
			}
		}
		m.fader("mix."+id, meaning.StepMixer, id+".level", pick(m, 0.0, 0, 6))
		join(id)
		if i == 1 && m.chance(0.25) {
			m.words(id+".sync", meaning.StepOsc, id+".sync", "name", 0, []string{"off", "on"}, []any{"off", "osc1"})
		}
	}
	if m.chance(0.35) {
		m.module("sub", meaning.Sub, map[meaning.ParamName]string{meaning.PWave: pick(m, "pulse", "sine"), meaning.PInterval: "-12 st"})
		m.fader("mix.sub", meaning.StepMixer, "sub.level", 0)
		join("sub")
	}
	if m.chance(0.6) {
		m.module("noise", meaning.Noise, map[meaning.ParamName]string{meaning.PColour: pick(m, "white", "pink")})
		m.fader("mix.noise", meaning.StepMixer, "noise.level", 0)
		join("noise")
	}
	if mixer {
		m.module("mixer", meaning.Mixer, nil)
		if m.chance(0.3) {
			m.knob("mixer.drive", meaning.StepMixer, "mixer.drive", scale.Law{Kind: scale.Linear, Unit: "dB", Max: 18}, "")
		}
		out = append(out, "mixer")
	}
	return out
}

// operators is an instrument of four operators in one of three fixed orders.
func (m *maker) operators() []string {
	order := pick(m, [][2]int{{2, 1}, {4, 3}}, [][2]int{{4, 3}, {3, 2}, {2, 1}}, [][2]int{{2, 1}, {3, 1}, {4, 1}})
	modulates := map[int]bool{}
	for _, o := range order {
		modulates[o[0]] = true
		m.Routes = append(m.Routes, panel.Route{ID: fmt.Sprintf("m%d%d", o[0], o[1]), Label: fmt.Sprintf("%d into %d", o[0], o[1]), From: fmt.Sprintf("opr%d", o[0]), To: []string{fmt.Sprintf("opr%d.pm", o[1])}, Depth: "100 %", Polarity: "bipolar"})
	}
	var out []string
	for i := 1; i <= 4; i++ {
		id := fmt.Sprintf("opr%d", i)
		fixed := map[meaning.ParamName]string{meaning.PWave: "sine", meaning.PPhase: "reset"}
		if !modulates[i] {
			fixed[meaning.POutput] = "0 dB"
			out = append(out, id)
		}
		m.module(id, meaning.Operator, fixed)
		m.control(id+".ratio", section(meaning.StepOsc), scale.Face{Kind: scale.List, Entries: []string{"0.5", "1", "2", "3", "4", "5", "7"}}, "1", panel.Bind{Param: id + ".interval", Part: "octave",
			Law: scale.Law{Kind: scale.Listed, Unit: "ct", Values: []any{-1200.0, 0.0, 1200.0, 1901.955, 2400.0, 2786.3137, 3368.8259}, Source: scale.Stated}})
		m.knob(id+".fine", meaning.StepOsc, id+".interval", scale.Law{Kind: scale.Bipolar, Unit: "ct", Max: 50}, "fine")
		m.fader(id+".level", meaning.StepOsc, id+".level", 0)
		m.module("env-"+id, meaning.Env, map[meaning.ParamName]string{meaning.PCurve: "exponential"})
		m.stages("env-"+id, true)
		m.Routes = append(m.Routes, panel.Route{ID: "env-" + id + "-level", Label: "envelope to level", From: "env-" + id, To: []string{id + ".level"}, Depth: "100 %", Polarity: "unipolar"})
	}
	m.noPartials = true
	return out
}

// filters lays filters behind what sounds and gives what leads on to the amplifier.
func (m *maker) filters(last []string) []string {
	add := func(id string, modes ...string) {
		fixed := map[meaning.ParamName]string{meaning.PPoles: pick(m, "2", "4")}
		if len(modes) == 1 {
			fixed[meaning.PMode] = modes[0]
		}
		m.module(id, meaning.Filter, fixed)
		if m.chance(0.4) {
			m.Modules[len(m.Modules)-1].Pivot = pick(m, "C2", "C3", "A3")
		}
		if len(modes) > 1 {
			p, v := same(modes...)
			m.words(id+".mode", meaning.StepFilter, id+".mode", "name", 0, p, v)
		}
		f, _ := m.face(false)
		top := map[scale.FaceKind]string{scale.Clock: "5:00"}[f.Kind]
		if top == "" {
			top = fmt.Sprint(f.Max)
		}
		if modes[0] == "highpass" {
			top = map[scale.FaceKind]string{scale.Clock: "7:00", scale.Numeric: "0"}[f.Kind]
		}
		m.control(id+".cutoff", section(meaning.StepFilter), f, top, panel.Bind{Param: id + ".cutoff", Law: m.law(scale.Law{Kind: scale.Exponential, Unit: "Hz", Min: pick(m, 16.0, 20, 30), Max: pick(m, 12000.0, 18000, 20000)})})
		if m.chance(0.85) {
			m.knob(id+".resonance", meaning.StepFilter, id+".resonance", scale.Law{Kind: scale.Linear, Unit: "fraction", Max: pick(m, 0.9, 1.0, 1.1)}, "")
		}
		switch m.IntN(3) {
		case 0:
			m.words(id+".track", meaning.StepFilter, id+".track", "%", 0, []string{"off", "half", "full"}, []any{0.0, 50.0, 100.0})
		case 1:
			m.knob(id+".track", meaning.StepFilter, id+".track", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100}, "")
		}
	}
	low := func() []string {
		return pick(m, []string{"lowpass"}, []string{"lowpass"}, []string{"lowpass", "highpass", "bandpass"}, []string{"lowpass", "bandpass", "highpass", "notch"})
	}
	into := func(id string) {
		for _, x := range last {
			m.edge(x, id)
		}
	}
	switch m.IntN(6) {
	case 0, 1, 2:
		add("filter", low()...)
		into("filter")
		return []string{"filter"}
	case 3: // a row
		add("highpass", "highpass")
		add("filter", low()...)
		into("highpass")
		m.edge("highpass", "filter")
		return []string{"filter"}
	case 4: // side by side, by the wiring
		add("filter1", low()...)
		add("filter2", pick(m, []string{"highpass"}, []string{"bandpass"}, low())...)
		into("filter1")
		into("filter2")
		return []string{"filter1", "filter2"}
	}
	// either, by a switch
	add("filter1", low()...)
	add("filter2", low()...)
	into("filter1")
	m.edge("filter1", "filter2")
	p, v := same("series", "parallel")
	m.words("filter2.routing", meaning.StepFilter, "filter2.routing", "name", 0, p, v)
	return []string{"filter2"}
}

// filterIDs lists the filters.
func (m *maker) ids(kinds ...meaning.Kind) (out []string) {
	for _, d := range m.Modules {
		if slices.Contains(kinds, d.Kind) {
			out = append(out, d.ID)
		}
	}
	return out
}

func (m *maker) stages(id string, whole bool) {
	longest := pick(m, 5.0, 10, 20)
	conv := pick(m, scale.T90, scale.T90, scale.T60, scale.Tau)
	for _, s := range []string{"attack", "decay", "release"} {
		if s == "release" && !whole {
			continue
		}
		l := scale.Law{Kind: scale.Exponential, Unit: "s", Min: pick(m, 0.001, 0.002, 0.005), Max: longest, Convention: conv}
		if s == "attack" {
			l.Convention = scale.T90
		}
		m.knob(id+"."+s, meaning.StepEnv, id+"."+s, l, "")
	}
	m.knob(id+".sustain", meaning.StepEnv, id+".sustain", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100}, "")
}

func (m *maker) envelopes() {
	curve := map[meaning.ParamName]string{meaning.PCurve: pick(m, "exponential", "exponential", "linear")}
	add := func(id string) {
		m.module(id, meaning.Env, curve)
		m.stages(id, true)
	}
	route := func(id, from, to, depth string) {
		m.Routes = append(m.Routes, panel.Route{ID: id, Label: from + " to " + to, From: from, To: []string{to}, Depth: depth, Polarity: "unipolar"})
	}
	filterEnv := "aenv"
	switch {
	case m.noPartials:
		filterEnv = ""
		m.Routes = append(m.Routes, panel.Route{ID: "gate-amp", Label: "gate", From: "gate", To: []string{"amp.level"}, Depth: "100 %", Polarity: "unipolar"})
	case m.chance(0.3): // one for both
		add("aenv")
		route("aenv-amp", "aenv", "amp.level", "100 %")
	default:
		add("fenv")
		add("aenv")
		route("aenv-amp", "aenv", "amp.level", "100 %")
		filterEnv = "fenv"
	}
	for _, f := range m.ids(meaning.Filter) {
		if filterEnv == "" || f == "highpass" && m.chance(0.7) {
			continue
		}
		id := "env-" + f
		route(id, filterEnv, f+".cutoff", "")
		l := scale.Law{Kind: scale.Linear, Unit: "oct", Max: pick(m, 4.0, 5, 8)}
		if m.chance(0.5) {
			l.Kind = scale.Bipolar
		}
		m.knob(id+".amount", meaning.StepFilter, id+".depth", l, "")
	}
	if m.chance(0.5) {
		route("velocity-amp", "velocity", "amp.level", "")
		m.knob("velocity.amp", meaning.StepFeel, "velocity-amp.depth", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100}, "")
	}
	if f := m.ids(meaning.Filter); m.chance(0.4) && filterEnv != "" {
		route("velocity-filter", "velocity", f[len(f)-1]+".cutoff", "")
		m.knob("velocity.filter", meaning.StepFeel, "velocity-filter.depth", scale.Law{Kind: scale.Linear, Unit: "oct", Max: 4}, "")
	}
}

func (m *maker) movers() {
	n := m.IntN(3)
	for i := range n {
		id := fmt.Sprintf("lfo%d", i+1)
		m.module(id, meaning.LFO, map[meaning.ParamName]string{meaning.PPhase: pick(m, "free", "reset")})
		p, v := same(pick(m, []string{"triangle", "saw", "pulse"}, []string{"sine", "triangle", "saw", "pulse", "sample and hold"}, []string{"triangle", "pulse"})...)
		m.words(id+".wave", meaning.StepLFO, id+".wave", "wave", 0, p, v)
		m.knob(id+".rate", meaning.StepLFO, id+".rate", scale.Law{Kind: scale.Exponential, Unit: "Hz", Min: pick(m, 0.05, 0.1, 0.3), Max: pick(m, 10.0, 20, 50)}, "")
		if m.chance(0.3) {
			m.knob(id+".delay", meaning.StepLFO, id+".fade", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 0.01, Max: 5, Off: "bottom"}, "")
		}
	}
	type dest struct {
		name, full string
		to         []string
	}
	list := []dest{{"pitch", "12 st", []string{"voice.tune"}}, {"level", "100 %", []string{"amp.level"}}}
	for _, f := range m.ids(meaning.Filter) {
		list = append(list, dest{f, "5 oct", []string{f + ".cutoff"}})
	}
	for _, c := range m.Controls {
		if len(c.Means) > 0 && c.Face.Kind != scale.List && len(c.Means[0].Param) > 5 && c.Means[0].Param[len(c.Means[0].Param)-5:] == "width" {
			list = append(list, dest{"width " + c.ID, "45 %", []string{c.Means[0].Param}})
		}
	}
	if n > 0 && m.chance(0.4) { // a matrix
		x := &panel.Matrix{Sources: map[string]string{"velocity": "velocity", "wheel": "wheel", "key": "key"}}
		names := []string{"none", "velocity", "wheel", "key"}
		for _, id := range m.ids(meaning.LFO, meaning.Env) {
			x.Sources[id] = id
			names = append(names, id)
		}
		var dests []string
		for _, d := range list {
			x.Destinations = append(x.Destinations, panel.Destination{Name: d.name, To: d.to, Full: d.full})
			dests = append(dests, d.name)
		}
		for i := range 2 + m.IntN(5) {
			id := fmt.Sprintf("slot%d", i+1)
			x.Slots = append(x.Slots, panel.Slot{ID: id, Label: id})
			p, v := same(names...)
			m.words(id+".source", meaning.StepLFO, id+".source", "name", 0, p, v)
			p, v = same(append([]string{"none"}, dests...)...)
			m.words(id+".dest", meaning.StepLFO, id+".dest", "name", 0, p, v)
			m.knob(id+".amount", meaning.StepLFO, id+".amount", scale.Law{Kind: scale.Bipolar, Unit: "%", Max: 100}, "")
		}
		m.Matrix = x
		return
	}
	for i, id := range m.ids(meaning.LFO) {
		for k, d := range list {
			if !m.chance(0.6) || i > 0 && k == 0 {
				continue
			}
			route := fmt.Sprintf("%s-%d", id, k)
			r := panel.Route{ID: route, Label: id + " to " + d.name, From: id, To: d.to, Polarity: "bipolar"}
			if k == 0 && m.chance(0.5) {
				r.Via = "wheel"
			}
			m.Routes = append(m.Routes, r)
			l := scale.Law{Kind: scale.Linear, Unit: "%", Max: 100}
			switch d.full {
			case "12 st":
				l = scale.Law{Kind: scale.Power, Unit: "ct", Max: pick(m, 100.0, 700, 1200), Exponent: 2}
			case "5 oct":
				l = scale.Law{Kind: scale.Linear, Unit: "oct", Max: pick(m, 2.0, 4)}
			case "45 %":
				l.Max = 45
			}
			m.knob(route+".depth", meaning.StepLFO, route+".depth", l, "")
		}
	}
}

func (m *maker) effects() {
	share := func(id string) {
		m.knob(id+".mix", meaning.StepEffects, id+".mix", scale.Law{Kind: scale.Linear, Unit: "%", Max: pick(m, 50.0, 100)}, "")
	}
	all := []func() string{
		func() string {
			m.module("chorus", meaning.Chorus, nil)
			m.knob("chorus.rate", meaning.StepEffects, "chorus.rate", scale.Law{Kind: scale.Exponential, Unit: "Hz", Min: 0.1, Max: 8}, "")
			m.knob("chorus.depth", meaning.StepEffects, "chorus.depth", scale.Law{Kind: scale.Linear, Unit: "ms", Min: 0.1, Max: 5}, "")
			share("chorus")
			return "chorus"
		},
		func() string {
			m.module("delay", meaning.Delay, nil)
			m.knob("delay.time", meaning.StepEffects, "delay.time", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 0.02, Max: pick(m, 0.6, 1.2, 2)}, "")
			m.knob("delay.feedback", meaning.StepEffects, "delay.feedback", scale.Law{Kind: scale.Linear, Unit: "%", Max: 95}, "")
			switch m.IntN(3) {
			case 0:
				m.knob("delay.rate", meaning.StepEffects, "delay.rate", scale.Law{Kind: scale.Exponential, Unit: "Hz", Min: 0.1, Max: 8}, "")
				m.knob("delay.depth", meaning.StepEffects, "delay.depth", scale.Law{Kind: scale.Linear, Unit: "ms", Min: 0.05, Max: 5, Off: "bottom"}, "")
			case 1:
				m.knob("delay.sway", meaning.StepEffects, "delay.wobble", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100}, "")
			}
			share("delay")
			return "delay"
		},
		func() string {
			m.module("reverb", meaning.Reverb, nil)
			m.knob("reverb.time", meaning.StepEffects, "reverb.t60", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 0.3, Max: 10}, "")
			share("reverb")
			return "reverb"
		},
		func() string {
			m.module("drive", meaning.Drive, map[meaning.ParamName]string{meaning.PCurve: pick(m, "soft", "hard", "tube")})
			m.knob("drive.gain", meaning.StepEffects, "drive.gain", scale.Law{Kind: scale.Linear, Unit: "dB", Max: pick(m, 20.0, 36)}, "")
			return "drive"
		},
		func() string {
			m.module("phaser", meaning.Phaser, map[meaning.ParamName]string{meaning.PStages: "4"})
			m.knob("phaser.rate", meaning.StepEffects, "phaser.rate", scale.Law{Kind: scale.Exponential, Unit: "Hz", Min: 0.05, Max: 5}, "")
			m.knob("phaser.depth", meaning.StepEffects, "phaser.depth", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100}, "")
			share("phaser")
			return "phaser"
		},
	}
	m.Shuffle(len(all), func(a, b int) { all[a], all[b] = all[b], all[a] })
	last := "amp"
	for _, make := range all[:m.IntN(4)] {
		id := make()
		m.edge(last, id)
		last = id
	}
	m.edge(last, "out")
}
