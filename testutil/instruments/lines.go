package instruments

import (
	"math/rand/v2"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/scale"
)

// Lines invents an instrument without a filter: two lines, each a sine that an envelope bends, through an amplifier that another envelope opens, and both through a third; the second line can be
// switched off.
func Lines(id string) (*panel.Compiled, error) {
	m := &maker{Rand: rand.New(rand.NewPCG(1, 411))}
	m.Format, m.Version, m.Revision, m.Kind, m.Memory = panel.Format, panel.Version, 1, "instrument", true
	m.ID, m.Name = id, id
	for _, s := range meaning.Steps {
		m.Sections = append(m.Sections, panel.Section{ID: string(s.Step), Label: s.Title, Step: s.Step})
	}
	m.module("voice", meaning.Voice, map[meaning.ParamName]string{meaning.PMode: "poly", meaning.PCount: "8"})
	one := func(id string, step meaning.Step, init string, param string, l scale.Law) {
		l.Source = scale.Stated
		m.control(id, section(step), scale.Face{Kind: scale.Numeric, Max: 99, Step: 1}, init, panel.Bind{Param: param, Law: l})
	}
	stages := func(env, sustain string) {
		m.module(env, meaning.Env, map[meaning.ParamName]string{meaning.PCurve: "exponential"})
		one(env+".attack", meaning.StepEnv, "0", env+".attack", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 0.001, Max: 5})
		one(env+".decay", meaning.StepEnv, "50", env+".decay", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 0.005, Max: 10})
		one(env+".sustain", meaning.StepEnv, sustain, env+".sustain", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100})
		one(env+".release", meaning.StepEnv, "40", env+".release", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 0.005, Max: 10})
	}
	for _, line := range []string{"x", "y"} {
		m.module(line, meaning.Osc, map[meaning.ParamName]string{meaning.PWave: "sine", meaning.PWarp: "bend"})
		m.control(line+".note", section(meaning.StepOsc), scale.Face{Kind: scale.Numeric, Min: -24, Max: 24, Step: 1}, "0", panel.Bind{Param: line + ".interval", Part: "semi", Law: scale.Law{Kind: scale.Linear, Unit: "ct", Min: -2400, Max: 2400, Source: scale.Stated}})
		one(line+".bend", meaning.StepOsc, "0", line+".warpAmount", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100})
		stages(line+"1", "0")
		stages(line+"2", "99")
		one(line+".depth", meaning.StepEnv, "0", line+".bends.depth", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100})
		m.Routes = append(m.Routes, panel.Route{ID: line + ".bends", Label: line + " bends", From: line + "1", To: []string{line + ".warpAmount"}, Polarity: "unipolar"},
			panel.Route{ID: line + ".opens", Label: line + " opens", From: line + "2", To: []string{line + "amp.level"}, Depth: "100 %", Polarity: "unipolar"})
		m.module(line+"amp", meaning.Amp, nil)
		one(line+".level", meaning.StepLevel, "99", line+"amp.level", scale.Law{Kind: scale.Decibel, Unit: "dB", Exponent: 2, Off: "bottom"})
		m.edge(line, line+"amp")
		m.edge(line+"amp", "amp")
	}
	m.control("lines", section(meaning.StepVoice), scale.Face{Kind: scale.List, Entries: []string{"one", "both"}}, "one", panel.Bind{Param: "y.on", Law: scale.Law{Kind: scale.Listed, Unit: "name", Values: []any{"off", "on"}, Source: scale.Stated}})
	m.module("amp", meaning.Amp, nil)
	m.edge("amp", "out")
	one("volume", meaning.StepLevel, "80", "amp.level", scale.Law{Kind: scale.Decibel, Unit: "dB", Exponent: 2, Off: "bottom"})
	return panel.Compile(&m.Panel)
}
