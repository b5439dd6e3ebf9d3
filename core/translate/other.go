package translate

import (
	"fmt"
	"maps"
	"strings"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
)

// Alternative is one way to make a part of a patch on a target.
type Alternative struct {
	// Rule is the rule's id, empty where it is made by the same means, or not at all.
	Rule string `json:"rule"`
	Name string `json:"name"`
	By   string `json:"by"`
	Text string `json:"text"`
	// Cost is that of the whole plan; Share how much of the patch is carried.
	Cost  float64 `json:"cost"`
	Share float64 `json:"share"`
	// Refuse lists the rules to refuse for the part to have it so.
	Refuse  []string `json:"refuse"`
	LeftOut bool     `json:"leftOut"`
}

// maxAlternatives is how many ways are looked for.
const maxAlternatives = 4

// Alternatives gives the ways to make a part, the cheapest first: as the sheet has it with no rule
// refused for the part, then what is next when each way is refused in turn.
func Alternatives(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options, part string) ([]Alternative, error) {
	out := []Alternative{}
	refuse := []string{}
	for range maxAlternatives {
		o := opt
		o.Choices.Refuse = map[string][]string{}
		maps.Copy(o.Choices.Refuse, opt.Choices.Refuse)
		o.Choices.Refuse[part] = refuse
		s, err := Translate(src, p, dst, o)
		if err != nil {
			return nil, err
		}
		pair := s.Plan.Pair(part)
		if pair == nil {
			return nil, fmt.Errorf("expected a part of the patch that is heard, got %q", part)
		}
		a := Alternative{Rule: pair.Rule, By: pair.TargetLabel, Text: pair.Reason, Cost: gloss.Round(s.Plan.Cost, 3), Share: s.Share(), Refuse: append([]string{}, refuse...), Name: "the same means"}
		for _, r := range s.Recasts {
			if r.Rule == pair.Rule {
				a.Name = r.Name
				if a.By == "" {
					a.By = strings.Join(r.By, ", ")
				}
			}
		}
		a.LeftOut = pair.Rule == "" && pair.Target == ""
		if a.LeftOut {
			a.Name = "left out"
		}
		out = append(out, a)
		if pair.Rule == "" {
			break
		}
		refuse = append(refuse, pair.Rule)
	}
	return out, nil
}

// NextPlan is a plan that comes after the best: who plays what otherwise.
type NextPlan struct {
	Cost  float64 `json:"cost"`
	Share float64 `json:"share"`
	// Differs lists the parts that are played otherwise than in the best plan.
	Differs []Swap `json:"differs"`
	// Bans are the pairs to forbid (Choices.Bans) so that this is the best plan.
	Bans []plan.Ban `json:"bans"`
}

// Swap is a part that another plan gives to another module; empty is left out.
type Swap struct {
	Part string `json:"part"`
	Best string `json:"best"`
	Here string `json:"here"`
}

// nextPlans is how many plans are looked for after the best.
const nextPlans = 2

// NextPlans gives the second and the third best plan of a patch on a target (plan.Problem.Next).
func NextPlans(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled, opt Options) ([]NextPlan, error) {
	w, err := work(src, p, dst, opt)
	if err != nil {
		return nil, err
	}
	player := func(a *plan.Allocation, id string) string {
		if k, ok := a.Module[id]; ok {
			return dst.Modules[k].Label
		}
		return ""
	}
	out := []NextPlan{}
	for _, x := range w.problem.Next(w.found, nextPlans) {
		n := NextPlan{Cost: gloss.Round(x.Cost, 3), Differs: []Swap{}, Bans: x.Bans}
		if whole := w.sheet.Plan.Whole; whole > 0 {
			n.Share = gloss.Round(max(0, 1-x.Cost/whole), 4)
		}
		for i := range w.found.Cast.Modules {
			m := &w.found.Cast.Modules[i]
			if a, b := player(&w.found.Best, m.ID), player(&x.Best, m.ID); a != b {
				n.Differs = append(n.Differs, Swap{m.Label, a, b})
			}
		}
		out = append(out, n)
	}
	return out, nil
}
