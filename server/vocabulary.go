package server

import (
	"context"

	"glossator/core/build"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/quantity"
	"glossator/core/scale"
)

// Vocabulary is what panels may be made of.
type Vocabulary struct {
	// Reasons are the short reasons of a correction.
	Reasons []string   `json:"reasons"`
	Kinds   []KindView `json:"kinds"`
	Sources []string   `json:"sources"`
	Steps   []StepView `json:"steps"`
	Units   []UnitView `json:"units"`
	// Laws are the kinds of law, with the numbers that each has.
	Laws []scale.LawSpec `json:"laws"`
	// Faces, Conventions, Swings, Known, Ends, Parts and Polarities are the words of a panel's format, with what a form says for them.
	Faces       []scale.Choice `json:"faces"`
	Conventions []scale.Choice `json:"conventions"`
	Swings      []scale.Choice `json:"swings"`
	Known       []scale.Choice `json:"known"`
	Ends        []scale.Choice `json:"ends"`
	Parts       []scale.Choice `json:"parts"`
	Polarities  []scale.Choice `json:"polarities"`
	// PatchKinds are the kinds of patch.
	PatchKinds []string `json:"patchKinds"`
	// Verdicts in the order of the sheet, with Losses those that lose something.
	Verdicts []gloss.Verdict `json:"verdicts"`
	Losses   []gloss.Verdict `json:"losses"`
	// Notes are the names of the MIDI notes from 0 to 127; Whole is how many of a phrase line's units make a whole note.
	Notes []string `json:"notes"`
	Whole int      `json:"whole"`
	// Means are what a player moves beside the controls.
	Means []string `json:"means"`
	// Blocks are the building blocks of a panel, Starts the starting points.
	Blocks []build.Block `json:"blocks"`
	Starts []build.Start `json:"starts"`
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
	// Named is set where its values are words.
	Named bool `json:"named"`
}

// vocabulary tells what panels may be made of.
func (s *Server) vocabulary(ctx context.Context, in None) (none Vocabulary, err error) {
	return Words(), nil
}

// Words gives the vocabulary, which is the same for every server: the front end is built with it.
func Words() Vocabulary {
	out := Vocabulary{Reasons: Reasons, Kinds: []KindView{}, Sources: meaning.Sources, Steps: []StepView{}, Units: []UnitView{}, Laws: scale.LawKinds,
		Faces: scale.FaceKinds, Conventions: scale.Conventions, Swings: scale.Swings, Known: scale.Sources, Ends: scale.Ends, Parts: panel.Parts, Polarities: panel.Polarities,
		PatchKinds: patch.Kinds, Verdicts: gloss.Verdicts, Losses: gloss.Losses, Whole: phrase.Whole, Means: patch.PlayersMeans, Blocks: build.Blocks, Starts: build.Starts}
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
		out.Units = append(out.Units, UnitView{Symbol: u.Symbol, Dim: string(u.Dim), Named: u.Dim.Named()})
	}
	for key := range 128 {
		out.Notes = append(out.Notes, quantity.Note(key).NoteName())
	}
	return out
}
