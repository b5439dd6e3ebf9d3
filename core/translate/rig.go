package translate

import (
	"fmt"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/rules"
)

// OutboardRule is the id under which a sheet says that a part is played by the outboard rack (see rules.InPlace).
const OutboardRule = "outboard"

// Rig is the outboard rack beside the target: what it plays, and where its controls are to stand.
type Rig struct {
	Rack PanelRef `json:"rack"`
	// Parts are the labels of what it plays.
	Parts    []string  `json:"parts"`
	Settings []Setting `json:"settings"`
}

// outboard finds what a rack would play, by the same means, of what the target leaves out or makes by other
// means. there is the sheet of the rack; nil where it has nothing to play.
func outboard(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) (ids []string, there *Sheet, err error) {
	alone := opt
	alone.Rack = nil
	_, here, err := work(src, p, dst, alone)
	if err != nil {
		return nil, nil, err
	}
	ids, err = rackPlays(src, p, here, opt.Rack, opt)
	if err != nil || len(ids) == 0 {
		return nil, nil, err
	}
	// the rack's sheet of these alone: the rest is the instrument's
	var rest []string
	for i := range src.Modules {
		if id := src.Modules[i].ID; !slices.Contains(ids, id) {
			rest = append(rest, id)
		}
	}
	there, err = Translate(src, p, opt.Rack, Options{School: opt.School, Layer: opt.Layer, Choices: Choices{Elsewhere: rest}})
	return ids, there, err
}

// rackPlays lists what a rack plays by its own effect of the same kind of what a sheet leaves out, and, where
// it needs no other means, of what the sheet makes by other means, or plays so badly that the rack is worth its penalty.
func rackPlays(src *panel.Compiled, p *patch.Patch, s *Sheet, rack *panel.Compiled, opt Options) (ids []string, err error) {
	missing := missingEffects(src, s)
	out, cost := map[string]bool{}, map[string]float64{}
	for _, x := range s.Plan.Modules {
		out[x.Source], cost[x.Source] = x.Target == "" && x.Rule == "", x.Cost
		if i, ok := src.ModuleIndex(x.Source); ok && effects[src.Modules[i].Kind] && x.Target != "" && x.Rule == "" && x.Cost > 0 {
			missing[x.Source] = true // played, but perhaps nearer on the rack
		}
	}
	if len(missing) == 0 {
		return nil, nil
	}
	there, err := Translate(src, p, rack, Options{School: opt.School, Layer: opt.Layer})
	if err != nil {
		return nil, err
	}
	for _, x := range there.Plan.Modules {
		if !missing[x.Source] || x.Target == "" || x.Rule != "" && !out[x.Source] {
			continue
		}
		if c := cost[x.Source]; c > 0 && x.Cost+rules.Named(OutboardRule).Penalty*x.Weight >= c {
			continue // the target's own is near enough for what the rack costs
		}
		a, _ := src.ModuleIndex(x.Source)
		b, ok := rack.ModuleIndex(x.Target)
		if ok && src.Modules[a].Kind == rack.Modules[b].Kind {
			ids = append(ids, x.Source)
		}
	}
	return ids, nil
}

// missingEffects lists the effects of the source that a sheet leaves out or makes by other means.
func missingEffects(src *panel.Compiled, s *Sheet) map[string]bool {
	out := map[string]bool{}
	for _, x := range s.Plan.Modules {
		if i, ok := src.ModuleIndex(x.Source); ok && effects[src.Modules[i].Kind] && x.Outside == "" && (x.Target == "" || x.Rule != "") {
			out[x.Source] = true
		}
	}
	return out
}

// sendOut turns the lines of parts that the rack plays into lines that say so, with the rack's readings.
func (j *job) sendOut(s *Sheet, rack *panel.Compiled, ids []string, there *Sheet) {
	s.Rig = &Rig{Rack: ref(rack), Parts: []string{}, Settings: there.Settings}
	lines := map[string]*Gloss{}
	for i := range there.Glosses {
		lines[there.Glosses[i].ID] = &there.Glosses[i]
	}
	rule := rules.Named(OutboardRule)
	why := Recasting{Rule: rule.ID, Name: rule.Name, Parts: []string{}, By: []string{rack.Name},
		Text: fmt.Sprintf("stands behind %s, on %s", j.t.Name, rack.Name), Why: rule.Why, Source: rule.Source}
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
