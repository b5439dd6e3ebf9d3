package gloss

import (
	"slices"

	"glossator/core/panel"
)

// Make makes the sheet of a translation. Its audit is empty: see package audit.
func Make(in *Input) *Sheet {
	s := &Sheet{Patch: in.Patch.ID, PatchName: in.Patch.Name, PatchKind: in.Patch.Kind, Layer: in.Layer.ID, Layers: len(in.Patch.Layers), Tempo: float64(in.Plan.Wanted.Tempo),
		Source: RefOf(in.Source), Target: RefOf(in.Target.Compiled), School: in.Target.Policy.School.School, Choices: in.Choices, Overrides: map[string]string{}, Cables: []Connection{}, Notes: []string{}, Mark: in.Mark, Summary: map[Verdict]int{}}
	for k, v := range in.Overrides {
		s.Overrides[k] = v
	}
	if in.Ears != nil {
		s.Ears = in.Ears.Who
	}
	s.Plan = in.planOf()
	s.Recasts, s.Hands = in.recastings(), in.Plan.Cast.Hands
	s.Glosses = in.glosses()
	for i := range s.Glosses { // to taste is what every reading of a line is
		g := &s.Glosses[i]
		g.Taste = len(g.Source) > 0 && !slices.ContainsFunc(g.Source, func(r Reading) bool { return !slices.Contains(in.Layer.Taste, r.Control) })
	}
	if in.Outside != nil {
		in.sendOut(s)
	}
	s.Measure = in.toMeasure(s.Glosses)
	s.Settings = in.settings()
	in.beating(s)
	for _, c := range in.Set.State.Cables {
		label := func(point string) string { return in.Target.Points[in.Target.PointIndex(point)].Label }
		s.Cables = append(s.Cables, Connection{From: c.From, To: c.To, FromLabel: label(c.From), ToLabel: label(c.To)})
	}
	for _, v := range Verdicts {
		s.Summary[v] = 0
	}
	for i := range s.Glosses {
		s.Summary[s.Glosses[i].Verdict]++
	}
	s.Notes = append(s.Notes, in.notes()...)
	s.Rules = s.rulesUsed()
	return s
}

// RefOf names a panel.
func RefOf(c *panel.Compiled) PanelRef {
	return PanelRef{ID: c.ID, Name: c.Name, Revision: c.Revision, Memory: c.Memory}
}
