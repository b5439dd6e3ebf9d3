package gloss

import (
	"fmt"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/rules"
	"glossator/core/settle"
)

// heldMatters is the attack from which an envelope that is held open is heard on short notes, in seconds (common practice, no source).
const heldMatters = 0.0005

// HeldOpen lists the routes of the target by which an envelope that plays no part opens what sounds, held open as it cannot be taken away, and is heard to begin.
func (in *Input) HeldOpen() (out []*meaning.Route) {
	for i := range in.Got.Routes {
		r := &in.Got.Routes[i]
		env := in.Got.Module(r.From)
		if k, _ := in.Target.ModuleIndex(r.From); env == nil || env.Kind != meaning.Env || !r.Used() || in.Set.OpensLine(k) || in.plays(r.From) || in.Plan.Makes(in.Target, r.ID) || r.Depth.Value <= 0 {
			continue
		}
		if a, _ := env.Get(meaning.PAttack); a.Off || a.Value < heldMatters {
			continue
		}
		for _, to := range r.To {
			id, name := meaning.Split(to)
			if d := in.Got.Module(id); d != nil && d.Used() && name == meaning.PLevel && (d.Kind == meaning.Amp || d.Kind == meaning.Operator) {
				out = append(out, r)
				break
			}
		}
	}
	return out
}

// notes say what holds for the whole sheet.
func (in *Input) notes() []string {
	var out []string
	if len(in.Patch.Layers) > 1 {
		out = append(out, fmt.Sprintf("The patch has %d layers; each has a sheet of its own.", len(in.Patch.Layers)))
	}
	if text := in.layerNote(); text != "" {
		out = append(out, text)
	}
	if in.Patch.Tempo == 0 {
		out = append(out, fmt.Sprintf("The patch gives no tempo: %g is taken.", float64(panel.DefaultTempo)))
	}
	if text := in.tempoNote(); text != "" {
		out = append(out, text)
	}
	for _, k := range in.Set.Always {
		out = append(out, fmt.Sprintf("%s cannot be switched off on %s.", in.Target.Routes[k].Label, in.Target.Name))
	}
	if h := in.Plan.Cast.Hands; h != nil && h.Wheel > 0 {
		out = append(out, fmt.Sprintf("Turn the modulation wheel of %s to %s %% before this is played, and leave it there.", in.Target.Name, q.Number(100*h.Wheel, 2)))
	}
	for _, r := range in.HeldOpen() {
		a, _ := in.Got.Module(r.From).Get(meaning.PAttack)
		out = append(out, fmt.Sprintf("%s is held open on %s, as it cannot be taken away: every note begins with its attack of %s.", r.Label, in.Target.Name, a.Quantity))
	}
	var silent []string
	for i := range in.Plan.Wanted.Modules {
		m := &in.Plan.Wanted.Modules[i]
		switch m.Kind {
		case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator:
			if _, ok := in.Plan.Placed(m.ID); m.Used() && !ok && in.Plan.RecastOf(m.ID) == nil {
				silent = append(silent, m.Label)
			}
		}
	}
	if text := rules.Named("layer").Says(&rules.Line{Missing: silent, Panel: in.Target.Name}); text != "" {
		out = append(out, text)
	}
	if !in.Plan.Best.Exact {
		out = append(out, fmt.Sprintf("The search stopped at its limit of %d: a better plan may exist.", plan.NodeLimit))
	}
	if in.Plan.Cut {
		out = append(out, fmt.Sprintf("The search over the uses of rules met a limit after %d sets: a better plan may exist.", in.Plan.Looked))
	}
	if len(in.Choices.Elsewhere) > 0 {
		out = append(out, "A second layer: what the first one plays is left out here.")
	}
	if in.Heard {
		out = append(out, "Parts count for as much as they are heard.")
	}
	return out
}

// LayerNote begins the note that says how a layer stands in the patch: its list says it first.
const LayerNote = "This layer"

// layerNote says what a layer is called, and how it is transposed and how loud it is in the patch: no control of the sheet has that. Empty where there is nothing to say.
func (in *Input) layerNote() string {
	y := in.Layer
	if y == nil {
		return ""
	}
	text := LayerNote
	if y.Label != "" && len(in.Patch.Layers) > 1 {
		text += fmt.Sprintf(" is %q", y.Label)
	}
	var how []string
	if !nothing(y.Transpose) {
		how = append(how, "transposed by "+y.Transpose)
	}
	if !nothing(y.Level) {
		how = append(how, "at "+y.Level)
	}
	if len(how) > 0 {
		if text != LayerNote {
			text += ","
		}
		text += " plays " + rules.And(how) + " in the patch: set that where layers are mixed, or transpose the keys; the controls below do not have it"
	}
	if text == LayerNote {
		return ""
	}
	return text + "."
}

// nothing tells whether a text of a layer says none: no transposition, no gain.
func nothing(text string) bool {
	fields := strings.Fields(text)
	return len(fields) == 0 || strings.Trim(fields[0], "+-0.") == ""
}

// TempoNote begins the note that says at which tempo the target has to run: its list says it first.
const TempoNote = "Set the tempo"

// tempoNote says at which tempo the target has to run where something that is in use there counts in note values; empty where nothing does.
func (in *Input) tempoNote() string {
	var hang []string
	for _, k := range in.Set.Clocked(in.Target, in.Got) {
		hang = append(hang, in.Target.SectionLabel(k)+" "+in.Target.Controls[k].Label)
	}
	if k := settle.TempoControl(in.Target); len(hang) == 0 || k >= 0 && in.Set.Why[k].Code == settle.AtTempo {
		return "" // its own control is on the list
	}
	return fmt.Sprintf("%s of %s to %s beats a minute: %s counts in note values there.", TempoNote, in.Target.Name, q.Number(float64(in.Target.Tempo), 2), rules.And(hang))
}
