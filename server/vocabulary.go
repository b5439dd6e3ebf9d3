package server

import (
	"context"

	"glossator/core/meaning"
	"glossator/core/quantity"
	"glossator/core/scale"
)

// Vocabulary is what panels may be made of.
type Vocabulary struct {
	Kinds   []KindView `json:"kinds"`
	Sources []string   `json:"sources"`
	Steps   []StepView `json:"steps"`
	Units   []UnitView `json:"units"`
	// Laws are the kinds of law, with the numbers that each has.
	Laws []scale.LawSpec `json:"laws"`
}

// KindView is a kind of module with its parameters.
type KindView struct {
	Kind   string      `json:"kind"`
	Label  string      `json:"label"`
	Params []ParamView `json:"params"`
}

// ParamView is a parameter of a kind.
type ParamView struct {
	Name    string `json:"name"`
	Label   string `json:"label"`
	Dim     string `json:"dim"`
	Neutral string `json:"neutral"`
	Sums    bool   `json:"sums"`
}

// StepView is a step of the work.
type StepView struct {
	Step  string `json:"step"`
	Title string `json:"title"`
}

// UnitView is a unit that laws may be in.
type UnitView struct {
	Symbol string `json:"symbol"`
	Dim    string `json:"dim"`
}

// vocabulary tells what panels may be made of.
func (s *Server) vocabulary(ctx context.Context, in None) (none Vocabulary, err error) {
	out := Vocabulary{Kinds: []KindView{}, Sources: meaning.Sources, Steps: []StepView{}, Units: []UnitView{}, Laws: scale.LawKinds}
	for i := range meaning.Kinds {
		k := &meaning.Kinds[i]
		v := KindView{Kind: string(k.Kind), Label: k.Label, Params: []ParamView{}}
		for _, p := range k.Params {
			v.Params = append(v.Params, ParamView{Name: string(p.Name), Label: p.Label, Dim: string(p.Dim), Neutral: p.Neutral.String(), Sums: p.Sums})
		}
		out.Kinds = append(out.Kinds, v)
	}
	for _, st := range meaning.Steps {
		out.Steps = append(out.Steps, StepView{Step: string(st.Step), Title: st.Title})
	}
	for _, u := range quantity.Units {
		out.Units = append(out.Units, UnitView{Symbol: u.Symbol, Dim: string(u.Dim)})
	}
	return out, nil
}
