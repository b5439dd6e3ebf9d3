package translate

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/rules"
)

// Choices are what somebody has decided about parts of a patch: modules and routes of the source,
// by id.
type Choices struct {
	// Weight multiplies what a part weighs: Keep, or NotNeeded.
	Weight map[string]float64 `json:"weight,omitempty"`
	// Refuse lists the rules that a part is not to be made by.
	Refuse map[string][]string `json:"refuse,omitempty"`
	// Bans are pairs that are not to be: which module of the target is not to play a part, By being empty
	// where it is not to be left out. Parts may be those that rules make.
	Bans []Ban `json:"bans,omitempty"`
	// Rack is the id of the outboard rack that stands behind the target; see Options.Rack.
	Rack string `json:"rack,omitempty"`
	// Elsewhere lists the sources of sound that another layer of the target plays: this sheet is of a second layer,
	// which brings in what the first leaves out.
	Elsewhere []string `json:"elsewhere,omitempty"`
	// ByEar asks that parts count for as much as they are heard; see Options.Heard.
	ByEar bool `json:"byEar,omitempty"`
	// Why says of controls that have been set by ear what was gained by it: the reading, a colon, the words. It
	// holds while the control stands at that reading.
	Why map[string]string `json:"why,omitempty"`
}

// Ban is a pair that is not to be.
type Ban struct {
	Part string `json:"part"`
	By   string `json:"by"`
	// Of is the part of the source that Part is, stands for or was added for.
	Of string `json:"of,omitempty"`
}

// of gives the part of the source. What was stored before Ban had Of named a made part by the source's part and a mark.
func (b Ban) of() string {
	if b.Of != "" {
		return b.Of
	}
	id, _, _ := strings.Cut(b.Part, "~")
	return id
}

// maxBans is how many pairs may be forbidden.
const maxBans = 24

// The weights that can be chosen for a part (common practice, no source).
const (
	Keep      = 4.0
	NotNeeded = 0.05
)

// check gives the faults of choices for a patch's meaning.
func (c Choices) check(has func(id string) bool) fault.List {
	var l fault.List
	known := map[string]bool{}
	for _, r := range rules.Table {
		known[r.ID] = true
	}
	for _, id := range slices.Sorted(maps.Keys(c.Weight)) {
		if !has(id) {
			l.Add("/choices/weight/"+id, "expected a part of the patch")
		}
		if w := c.Weight[id]; w != Keep && w != NotNeeded {
			l.Add("/choices/weight/"+id, "expected %g to keep it or %g where it does not matter, got %v", Keep, NotNeeded, w)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(c.Refuse)) {
		if !has(id) {
			l.Add("/choices/refuse/"+id, "expected a part of the patch")
		}
		for _, r := range c.Refuse[id] {
			if !known[r] {
				l.Add("/choices/refuse/"+id, "expected the id of a rule, got %q", r)
			}
		}
	}
	if len(c.Bans) > maxBans {
		l.Add("/choices/bans", "expected at most %d, got %d", maxBans, len(c.Bans))
	}
	for i, id := range c.Elsewhere {
		if !has(id) {
			l.Add(fmt.Sprintf("/choices/elsewhere/%d", i), "expected a part of the patch, got %q", id)
		}
	}
	for i, b := range c.Bans {
		if !has(b.of()) {
			l.Add(fmt.Sprintf("/choices/bans/%d/part", i), "expected a part of the patch, got %q", b.Part)
		}
	}
	return l
}

// bansOn finds the modules of forbidden pairs on a target; those of another are left aside.
func (c Choices) bansOn(t *target) (out []ban) {
	for _, b := range c.Bans {
		if b.By == "" {
			out = append(out, ban{b.Part, -1})
		} else if k, ok := t.ModuleIndex(b.By); ok {
			out = append(out, ban{b.Part, k})
		}
	}
	return out
}

// unheard is the least that a part counts for that is not heard at all: it may go wherever something is to be
// gained by it.
const unheard = 0.02

// chosen gives the factor on a part by what somebody has decided about it and how much it is heard.
func (p *policy) chosen(id string) float64 {
	return factor(p.parts, id) * max(unheard, factor(p.heard, id))
}

// refused tells whether a recast makes a part by a rule that it is not to be made by.
func (j *job) refused(r *rules.Recast) bool {
	for _, id := range r.Parts {
		if slices.Contains(j.refuse[r.Source(id)], r.Rule.ID) {
			return true
		}
	}
	return false
}

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
		pair := s.Plan.pair(part)
		if pair == nil {
			return nil, fmt.Errorf("expected a part of the patch that is heard, got %q", part)
		}
		a := Alternative{Rule: pair.Rule, By: pair.TargetLabel, Text: pair.Reason, Cost: round(s.Plan.Cost, 3), Share: s.share(), Refuse: append([]string{}, refuse...), Name: "the same means"}
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

func (p *Plan) pair(source string) *Pair {
	for _, list := range [][]Pair{p.Modules, p.Routes} {
		for i := range list {
			if list[i].Source == source {
				return &list[i]
			}
		}
	}
	return nil
}

func (s *Sheet) share() float64 {
	if s.Plan.Whole <= 0 {
		return 1
	}
	return round(max(0, 1-s.Plan.Cost/s.Plan.Whole), 4)
}

// byEar puts what was gained by setting a control by ear into the margin of the lines that it carries.
func (s *Sheet) byEar(why map[string]string) {
	for i := range s.Glosses {
		g := &s.Glosses[i]
		for _, t := range g.Target {
			if w, ok := strings.CutPrefix(why[t.Control], t.Reading+": "); ok && t.Overridden && !t.Outside {
				g.Reason = strings.Replace(g.Reason, "set by hand", w, 1)
			}
		}
	}
	for i := range s.Settings {
		x := &s.Settings[i]
		if w, ok := strings.CutPrefix(why[x.Control], x.Reading+": "); ok && x.Overridden {
			x.Why = strings.Replace(x.Why, "set by hand", w, 1)
		}
	}
}
