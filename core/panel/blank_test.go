package panel

import (
	"glossator/core/meaning"
	"glossator/core/scale"
)

// blank gives a small panel without faults.
func blank(id, name string) *Panel {
	p := &Panel{Format: Format, Version: Version, ID: id, Name: name, Revision: 1, Kind: "instrument", Memory: true}
	for _, s := range []struct {
		id, label string
		step      meaning.Step
	}{
		{"voice", "Voice", "voice"}, {"osc", "Oscillator", "oscillators"}, {"filter", "Filter", "filter"}, {"env", "Envelope", "envelopes"}, {"out", "Output", "level"},
	} {
		p.Sections = append(p.Sections, Section{s.id, s.label, s.step})
	}
	p.Modules = []Module{
		{ID: "voice", Kind: "voice", Label: "Voice", Fixed: map[meaning.ParamName]string{meaning.PMode: "poly"}},
		{ID: "osc1", Kind: "osc", Label: "Oscillator"},
		{ID: "filter", Kind: "filter", Label: "Filter", Fixed: map[meaning.ParamName]string{meaning.PMode: "lowpass", meaning.PPoles: "4"}},
		{ID: "env", Kind: "env", Label: "Envelope", Fixed: map[meaning.ParamName]string{meaning.PCurve: "exponential"}},
		{ID: "amp", Kind: "amp", Label: "Amplifier"},
	}
	numbers := func(top float64) scale.Face { return scale.Face{Kind: scale.Numeric, Max: top, Step: 1} }
	add := func(id, label, section string, face scale.Face, init, param string, law scale.Law) {
		law.Source = scale.Assumed
		if law.Kind == scale.Listed {
			law.Source = scale.Stated
		}
		p.Controls = append(p.Controls, Control{ID: id, Label: label, Section: section, Face: face, Init: init, Means: []Bind{{Param: param, Law: law}}})
	}
	add("osc1.wave", "Wave", "osc", scale.Face{Kind: scale.List, Entries: []string{"saw", "pulse", "triangle", "sine"}}, "saw", "osc1.wave",
		scale.Law{Kind: scale.Listed, Unit: "wave", Values: []any{"saw", "pulse", "triangle", "sine"}})
	add("filter.cutoff", "Cutoff", "filter", numbers(127), "127", "filter.cutoff", scale.Law{Kind: scale.Exponential, Unit: "Hz", Min: 20, Max: 20000})
	add("filter.resonance", "Resonance", "filter", numbers(127), "0", "filter.resonance", scale.Law{Kind: scale.Linear, Unit: "fraction", Max: 1})
	for _, s := range []struct{ id, label, init string }{{"attack", "Attack", "0"}, {"decay", "Decay", "64"}, {"release", "Release", "20"}} {
		add("env."+s.id, s.label, "env", numbers(127), s.init, "env."+s.id, scale.Law{Kind: scale.Exponential, Unit: "ms", Min: 1, Max: 10000, Convention: scale.T90})
	}
	add("env.sustain", "Sustain", "env", numbers(127), "127", "env.sustain", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100})
	add("amp.level", "Volume", "out", numbers(127), "100", "amp.level", scale.Law{Kind: scale.Decibel, Unit: "dB", Max: 0, Exponent: 2, Off: "bottom"})
	p.Routes = []Route{{ID: "env-amp", Label: "Envelope to amplifier", From: "env", To: []string{"amp.level"}, Depth: "100 %"}}
	p.Audio = []Edge{{From: "osc1", To: "filter"}, {From: "filter", To: "amp"}, {From: "amp", To: "out"}}
	return p
}
