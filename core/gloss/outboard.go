package gloss

import (
	"fmt"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/rules"
)

// Outside is what an outboard rack plays.
type Outside struct {
	Rack *panel.Compiled
	// Parts are the ids of the source's modules, Sheet the rack's own sheet of them.
	Parts []string
	Sheet *Sheet
}

// sendOut turns the lines of parts that the rack plays into lines that say so, with the rack's readings.
func (in *Input) sendOut(s *Sheet) {
	rack, ids, there := in.Outside.Rack, in.Outside.Parts, in.Outside.Sheet
	s.Rig = &Rig{Rack: RefOf(rack), Parts: []string{}, Settings: there.Settings}
	lines := map[string]*Gloss{}
	for i := range there.Glosses {
		lines[there.Glosses[i].ID] = &there.Glosses[i]
	}
	rule := rules.Named(OutboardRule)
	why := Recasting{Rule: rule.ID, Name: rule.Name, Parts: []string{}, By: []string{rack.Name},
		Text: fmt.Sprintf("stands behind %s, on %s", in.Target.Name, rack.Name), Why: rule.Why, Source: rule.Source}
	for _, x := range there.Plan.Modules {
		if !slices.Contains(ids, x.Source) {
			continue
		}
		s.Rig.Parts = append(s.Rig.Parts, x.SourceLabel)
		why.Parts = append(why.Parts, x.SourceLabel)
		s.Plan.Modules = append(s.Plan.Modules, Pair{Source: x.Source, SourceLabel: x.SourceLabel, Outside: x.Target, TargetLabel: rack.Name + ", " + x.TargetLabel, Rule: OutboardRule, Reason: why.Text})
	}
	s.Recasts = append(s.Recasts, why)
	for i := range s.Glosses {
		g := &s.Glosses[i]
		id, _ := meaning.Split(g.Param)
		other := lines[g.ID]
		if !slices.Contains(ids, id) || other == nil || other.Verdict == Idle {
			continue
		}
		g.Wanted, g.Reached, g.Diff, g.JNDs, g.Open = other.Wanted, other.Reached, other.Diff, other.JNDs, other.Open
		g.Target = []Reading{}
		for _, r := range other.Target {
			r.Label, r.Outside = rack.Name+" "+r.Label, true
			g.Target = append(g.Target, r)
		}
		if g.Verdict = Recast; other.Verdict == LeftOut {
			g.Verdict = LeftOut
		}
		g.Reason = strings.Join(g.says(&rules.Line{Rack: rack.Name}), "; ")
		if other.Reason != "" {
			g.Reason += ": " + other.Reason
		}
		g.Also, g.TargetParam = other.Also, ""
	}
}
