package gloss

import (
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/settle"
)

// Input is what a sheet is made from: the outcome of the stages before. It is not changed.
type Input struct {
	Source *panel.Compiled
	Patch  *patch.Patch
	Layer  *patch.Layer
	// From is where the source's controls stand.
	From   *panel.State
	Target *plan.Target
	Plan   *plan.Plan
	// Set is where the target's controls stand, Got the meaning that they have.
	Set *settle.Set
	Got *meaning.Meaning
	// Adjusted holds what the school sets otherwise, by parameter of the plan's cast.
	Adjusted map[string]settle.Adjusted
	// Over holds the controls of the target that somebody set.
	Over map[int]bool
	// Tuned holds the controls of the target that have been set by ear, with what that brought; Mark names the plan.
	Tuned map[int]string
	Mark  string
	// Choices are what somebody has decided, Overrides the readings that they set.
	Choices   plan.Choices
	Overrides map[string]string
	// Heard is set where parts count for as much as they are heard.
	Heard bool
	// Outside is what the outboard rack plays; nil for nothing.
	Outside *Outside
	// Ears judge; nil for the published differences.
	Ears *Ears
	// Note is the middle of the notes that the patch is played at.
	Note q.Note
}

// SamePanel tells whether the target is the source's own panel.
func (in *Input) SamePanel() bool {
	return in.Source.ID == in.Target.ID && in.Source.Revision == in.Target.Revision
}
