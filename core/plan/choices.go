package plan

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"glossator/core/fault"
	"glossator/core/rules"
)

// Choices are what somebody has decided about parts of a patch: modules and routes of the source,
// by id.
type Choices struct {
	// Weight multiplies what a part weighs: Keep, or NotNeeded.
	Weight map[string]float64 `json:"weight,omitempty"`
	// Refuse lists the rules that a part is not to be made by, or single uses of them (rules.Recast.Key).
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
	// Tuned is what has been found by rendering: the plan that is nearest in sound, and where its controls have been brought. It counts by ear.
	Tuned *Tuned `json:"tuned,omitempty"`
	// Why says of controls that have been set by ear what was gained by it: the reading, a colon, the words. It
	// holds while the control stands at that reading.
	Why map[string]string `json:"why,omitempty"`
}

// Tuned is the outcome of choosing a plan by sound, and of bringing its controls nearer (package nearest).
type Tuned struct {
	// Heard are factors for what the parts weigh, Bans and Refuse what is kept out besides: with them the plan is found again.
	Heard  map[string]float64  `json:"heard,omitempty"`
	Bans   []Ban               `json:"bans,omitempty"`
	Refuse map[string][]string `json:"refuse,omitempty"`
	// Plan is the plan's mark: the readings hold for no other.
	Plan string `json:"plan"`
	// Readings of the target's controls, by id, and what each brought.
	Readings map[string]string `json:"readings,omitempty"`
	Why      map[string]string `json:"why,omitempty"`
	// Plain is set where the plan is that of numbers, with nothing set otherwise than by its number before the search.
	Plain bool `json:"plain,omitempty"`
	// Apart is how far the two then sound apart on the whole line, in just-noticeable differences.
	Apart float64 `json:"apart"`
	// Renders is how many sounds have been compared for it.
	Renders int `json:"renders"`
}

// With gives the choices with what has been found by ear worked in.
func (c Choices) With(t *Tuned) Choices {
	if t == nil {
		return c
	}
	c.Bans = append(slices.Clone(c.Bans), t.Bans...)
	refuse := maps.Clone(c.Refuse)
	if refuse == nil {
		refuse = map[string][]string{}
	}
	for id, list := range t.Refuse {
		refuse[id] = append(slices.Clone(refuse[id]), list...)
	}
	c.Refuse = refuse
	return c
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

// Check gives the faults of choices for a patch's meaning.
func (c Choices) Check(has func(id string) bool) fault.List {
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
			if rule, _, _ := strings.Cut(r, "|"); !known[rule] { // or one of its ways (Recast.Key)
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
func bansOn(bans []Ban, t *Target) (out []ban) {
	for _, b := range bans {
		if b.By == "" {
			out = append(out, ban{b.Part, -1})
		} else if k, ok := t.ModuleIndex(b.By); ok {
			out = append(out, ban{b.Part, k})
		}
	}
	return out
}
