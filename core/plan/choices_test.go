package plan_test

import (
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/rules"
	"glossator/core/settle"
	"glossator/testutil/testrack"
)

// Choices that name what is not there, or want what cannot be, are told at their place; those that can be have no fault.
func TestChoicesAreChecked(t *testing.T) {
	has := func(id string) bool { return id == "osc1" || id == "filter" }
	many := make([]plan.Ban, 25)
	for i := range many {
		many[i] = plan.Ban{Part: "osc1"}
	}
	for _, x := range []struct {
		name string
		c    plan.Choices
		path string // of the first fault; empty for none
		says string
	}{
		{"nothing", plan.Choices{}, "", ""},
		{"kept and not needed", plan.Choices{Weight: map[string]float64{"osc1": plan.Keep, "filter": plan.NotNeeded}}, "", ""},
		{"a part that is not there", plan.Choices{Weight: map[string]float64{"osc9": plan.Keep}}, "/choices/weight/osc9", "expected a part of the patch"},
		{"a weight of one's own", plan.Choices{Weight: map[string]float64{"osc1": 2}}, "/choices/weight/osc1", "got 2"},
		{"a rule refused", plan.Choices{Refuse: map[string][]string{"osc1": {"sub", "unison"}}}, "", ""},
		{"a rule that is none", plan.Choices{Refuse: map[string][]string{"osc1": {"magic"}}}, "/choices/refuse/osc1", `"magic"`},
		{"a rule in place cannot be refused", plan.Choices{Refuse: map[string][]string{"osc1": {"slope"}}}, "/choices/refuse/osc1", `"slope"`},
		{"a pair forbidden", plan.Choices{Bans: []plan.Ban{{Part: "osc1", By: "o2"}, {Part: "x", Of: "filter"}}}, "", ""},
		{"as it was stored before parts said of what they are", plan.Choices{Bans: []plan.Ban{{Part: "osc1~2"}}}, "", ""},
		{"a pair of nobody", plan.Choices{Bans: []plan.Ban{{Part: "osc1"}, {Part: "attic"}}}, "/choices/bans/1/part", `"attic"`},
		{"too many pairs", plan.Choices{Bans: many}, "/choices/bans", "at most 24, got 25"},
		{"elsewhere", plan.Choices{Elsewhere: []string{"osc1", "attic"}}, "/choices/elsewhere/1", `"attic"`},
	} {
		l := x.c.Check(has)
		if x.path == "" && len(l) > 0 || x.path != "" && (len(l) == 0 || l[0].Path != x.path || !strings.Contains(l[0].Message, x.says)) {
			t.Errorf("%s: %v", x.name, l)
		}
	}
}

// The weights of schools and kinds of patch name what there is: a name that is misspelt would weigh nothing.
func TestSchoolsWeighWhatThereIs(t *testing.T) {
	seen := map[plan.School]bool{}
	for i := range plan.Schools {
		s := &plan.Schools[i]
		if seen[s.School] || s.Label == "" || s.Says == "" || len(s.Compensates) == 0 || plan.SpecOfSchool(s.School) != s {
			t.Errorf("school %+v", s)
		}
		seen[s.School] = true
	}
	if plan.SpecOfSchool("of thought") != nil {
		t.Error("a school that is not there was found")
	}
	for _, name := range plan.WeighedNames() {
		kind, param, is := strings.Cut(name, ".")
		if meaning.IsSource(name) {
			continue
		}
		spec := meaning.SpecOf(meaning.Kind(kind))
		if spec == nil {
			t.Errorf("%q is neither a kind nor a source of play", name)
			continue
		}
		if _, ok := spec.Param(meaning.ParamName(param)); is && !ok {
			t.Errorf("a %s has no %q to weigh", kind, param)
		}
	}
}

// found gives the plan of a patch on a target with choices.
func found(t *testing.T, rack map[string]*panel.Compiled, patchID, on string, c plan.Choices) (*plan.Target, *plan.Plan) {
	t.Helper()
	p := testrack.Patches(t)[patchID]
	src := rack[p.Panel]
	from, err := src.Read(&p.Layers[0], "")
	if err != nil {
		t.Fatal(err)
	}
	tempo := q.Tempo(p.Tempo)
	target := plan.NewTarget(rack[on], tempo, src, from, plan.PolicyOf(plan.SpecOfSchool(plan.Numbers), p.Kind, c, nil))
	problem := &plan.Problem{T: target, Wanted: src.Interpret(from, tempo), Wheel: p.Wheel, Refuse: c.Refuse, Bans: c.Bans,
		Carry: func(m *meaning.Meaning, a *plan.Allocation) *panel.State { return settle.Carry(target, m, a) }}
	return target, problem.Find()
}

// What is decided about a part holds: a rule that is refused does not make it, a module that is forbidden does not play it, and each of the
// two costs no less than the best plan, which is found again where nothing is decided.
func TestDecisionsHold(t *testing.T) {
	rack := testrack.Panels(t)
	refused, banned := 0, 0
	for _, x := range []struct{ patch, on string }{{"keel", "coracle"}, {"keel", "bowline"}, {"lamp-room", "halyard"}, {"foghorn", "thole"}, {"gulls", "kedge"}, {"storm-front", "coracle"}} {
		target, best := found(t, rack, x.patch, x.on, plan.Choices{})
		for _, u := range best.Uses {
			part := u.Source(u.Parts[0])
			_, other := found(t, rack, x.patch, x.on, plan.Choices{Refuse: map[string][]string{part: {u.Rule.ID}}})
			if slices.ContainsFunc(other.Uses, func(r *rules.Recast) bool { return r.Rule == u.Rule && r.Source(r.Parts[0]) == part }) {
				t.Errorf("%s on %s: %s is made by %s, which was refused", x.patch, x.on, part, u.Rule.ID)
			}
			if !best.Cut && other.Cost() < best.Cost()-plan.SameCost {
				t.Errorf("%s on %s: without %s the plan costs %v, the best %v", x.patch, x.on, u.Rule.ID, other.Cost(), best.Cost())
			}
			refused++
		}
		n := 0
		for id, j := range best.Best.Module {
			if m := best.Cast.Module(id); m == nil || m.Changed() || !plan.Counts(m) {
				continue
			}
			if n++; n > 3 {
				break
			}
			_, other := found(t, rack, x.patch, x.on, plan.Choices{Bans: []plan.Ban{{Part: id, By: target.Modules[j].ID, Of: id}}})
			if k, ok := other.Best.Module[id]; ok && k == j {
				t.Errorf("%s on %s: %s is played by %s, which was forbidden", x.patch, x.on, id, target.Modules[j].ID)
			}
			if !best.Cut && other.Cost() < best.Cost()-plan.SameCost {
				t.Errorf("%s on %s: without that pair the plan costs %v, the best %v", x.patch, x.on, other.Cost(), best.Cost())
			}
			banned++
		}
		if _, again := found(t, rack, x.patch, x.on, plan.Choices{}); again.Cost() != best.Cost() {
			t.Errorf("%s on %s: %v, then %v", x.patch, x.on, best.Cost(), again.Cost())
		}
	}
	if refused < 4 || banned < 8 {
		t.Errorf("%d rules were refused, %d pairs forbidden", refused, banned)
	}
}

// A part that is to be kept is left out in no case where it was played; parts that do not matter cost no more than they did.
func TestWeightsOfParts(t *testing.T) {
	rack := testrack.Panels(t)
	for _, x := range []struct{ patch, on string }{{"keel", "coracle"}, {"gulls", "bowline"}, {"storm-front", "kedge"}} {
		_, usual := found(t, rack, x.patch, x.on, plan.Choices{})
		for _, m := range usual.Wanted.Modules {
			if !plan.Counts(&m) {
				continue
			}
			_, kept := found(t, rack, x.patch, x.on, plan.Choices{Weight: map[string]float64{m.ID: plan.Keep}})
			_, less := found(t, rack, x.patch, x.on, plan.Choices{Weight: map[string]float64{m.ID: plan.NotNeeded}})
			_, was := usual.Best.Module[m.ID]
			if _, is := kept.Best.Module[m.ID]; was && !is && kept.Cast.Module(m.ID) != nil {
				t.Errorf("%s on %s: %s was played, and is left out when it is to be kept", x.patch, x.on, m.Label)
			}
			if less.Cost() > usual.Cost()+plan.SameCost || kept.Cost() < usual.Cost()-plan.SameCost {
				t.Errorf("%s on %s: %s costs %v as usual, %v when it does not matter, %v kept", x.patch, x.on, m.Label, usual.Cost(), less.Cost(), kept.Cost())
			}
		}
	}
}
