package gloss

import (
	"fmt"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	"glossator/core/rules"
)

// notes say what holds for the whole sheet.
func (in *Input) notes() []string {
	var out []string
	if len(in.Patch.Layers) > 1 {
		out = append(out, fmt.Sprintf("The patch has %d layers; each has a sheet of its own.", len(in.Patch.Layers)))
	}
	if in.Patch.Tempo == 0 {
		out = append(out, fmt.Sprintf("The patch gives no tempo: %g is taken.", float64(panel.DefaultTempo)))
	}
	for _, k := range in.Set.Always {
		out = append(out, fmt.Sprintf("%s cannot be switched off on %s.", in.Target.Routes[k].Label, in.Target.Name))
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
