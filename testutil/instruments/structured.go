package instruments

import (
	"fmt"
	"math/rand/v2"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/scale"
)

// Structures are those of Structured: for each, which operators modulate which, and which are heard.
var Structures = []struct {
	Name string
	Into [][2]int
	Out  []int
}{
	{"stack", [][2]int{{4, 3}, {3, 2}, {2, 1}}, []int{1}},
	{"pairs", [][2]int{{4, 3}, {2, 1}}, []int{1, 3}},
	{"one for three", [][2]int{{4, 1}, {4, 2}, {4, 3}}, []int{1, 2, 3}},
	{"beside each other", nil, []int{1, 2, 3, 4}},
}

// Structured invents an instrument of four operators without an output control, whose structure one control chooses: which of them modulate which, to a fixed depth, and which
// are heard. Nothing but the envelopes of the operators opens and ends a note.
func Structured(id, depth string) (*panel.Compiled, error) {
	m := &maker{Rand: rand.New(rand.NewPCG(1, 409))}
	m.Format, m.Version, m.Revision, m.Kind, m.Memory = panel.Format, panel.Version, 1, "instrument", true
	m.ID, m.Name = id, id
	for _, s := range meaning.Steps {
		m.Sections = append(m.Sections, panel.Section{ID: string(s.Step), Label: s.Title, Step: s.Step})
	}
	m.module("voice", meaning.Voice, map[meaning.ParamName]string{meaning.PMode: "poly", meaning.PCount: "8"})
	var names []string
	into, out := map[[2]int][]string{}, map[int][]string{}
	for _, s := range Structures {
		names = append(names, s.Name)
		for _, x := range s.Into {
			into[x] = append(into[x], s.Name)
		}
		for _, x := range s.Out {
			out[x] = append(out[x], s.Name)
		}
	}
	m.control("structure", section(meaning.StepVoice), scale.Face{Kind: scale.List, Entries: names}, names[0])
	when := func(list []string) []panel.When { return []panel.When{{Control: "structure", In: list}} }
	face := func(top float64) scale.Face { return scale.Face{Kind: scale.Numeric, Max: top, Step: 1} }
	one := func(id string, step meaning.Step, init string, param, part string, l scale.Law) {
		l.Source = scale.Stated
		m.control(id, section(step), face(99), init, panel.Bind{Param: param, Part: part, Law: l})
	}
	for i := 1; i <= 4; i++ {
		op, env := fmt.Sprintf("op%d", i), fmt.Sprintf("env%d", i)
		m.module(op, meaning.Operator, map[meaning.ParamName]string{meaning.PWave: "sine", meaning.PPhase: "reset"})
		m.module(env, meaning.Env, map[meaning.ParamName]string{meaning.PCurve: "exponential"})
		m.control(op+".ratio", section(meaning.StepOsc), scale.Face{Kind: scale.List, Entries: []string{"0.5", "1", "2", "3", "4", "5"}}, "1", panel.Bind{Param: op + ".interval", Part: "octave",
			Law: scale.Law{Kind: scale.Listed, Unit: "ct", Values: []any{-1200.0, 0.0, 1200.0, 1901.955, 2400.0, 2786.3137}, Source: scale.Stated}})
		one(op+".level", meaning.StepOsc, map[bool]string{true: "99", false: "0"}[i == 1], op+".level", "", scale.Law{Kind: scale.Linear, Unit: "dB", Min: -74.25, Max: 0, Off: "bottom"})
		one(env+".attack", meaning.StepEnv, "99", env+".attack", "", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 10, Max: 0.001})
		one(env+".decay", meaning.StepEnv, "50", env+".decay", "", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 20, Max: 0.005})
		one(env+".sustain", meaning.StepEnv, "99", env+".sustain", "", scale.Law{Kind: scale.Power, Unit: "%", Max: 100, Exponent: 2})
		one(env+".release", meaning.StepEnv, "70", env+".release", "", scale.Law{Kind: scale.Exponential, Unit: "s", Min: 20, Max: 0.005})
		m.Routes = append(m.Routes, panel.Route{ID: env + "-" + op, Label: env + " to " + op, From: env, To: []string{op + ".level"}, Depth: "100 %", Polarity: "unipolar"})
		for j := 1; j <= 4; j++ {
			if list := into[[2]int{i, j}]; list != nil {
				m.Routes = append(m.Routes, panel.Route{ID: fmt.Sprintf("m%d%d", i, j), Label: fmt.Sprintf("%d into %d", i, j), From: op, To: []string{fmt.Sprintf("op%d.pm", j)}, Depth: depth, Polarity: "bipolar", When: when(list)})
			}
		}
		m.Audio = append(m.Audio, panel.Edge{From: op, To: "amp", When: when(out[i])})
	}
	m.module("amp", meaning.Amp, nil)
	m.edge("amp", "out")
	one("volume", meaning.StepLevel, "90", "amp.level", "", scale.Law{Kind: scale.Decibel, Unit: "dB", Exponent: 2, Off: "bottom"})
	return panel.Compile(&m.Panel)
}
