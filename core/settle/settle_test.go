package settle_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	q "glossator/core/quantity"
	"glossator/core/scale"
	"glossator/core/settle"
	"glossator/testutil/testrack"
)

// planned is a patch with its plan on a target, and the target with it put.
type planned struct {
	name string
	t    *plan.Target
	p    *plan.Plan
	set  *settle.Set
	got  *meaning.Meaning
}

// plans gives every demo patch on every demo instrument, by numbers.
func plans(t *testing.T) []planned {
	t.Helper()
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	var out []planned
	for _, name := range testrack.IDs(rack) {
		dst := rack[name]
		if dst.Kind != "instrument" {
			continue
		}
		for _, id := range slices.Sorted(keys(patches)) {
			p := patches[id]
			src := rack[p.Panel]
			from, err := src.Read(&p.Layers[0], "")
			if err != nil {
				t.Fatal(err)
			}
			x := planned{name: id + " on " + name}
			x.t = plan.NewTarget(dst, q.Tempo(p.Tempo), src, from, plan.PolicyOf(plan.SpecOfSchool(plan.Numbers), p.Kind, plan.Choices{}, nil))
			problem := &plan.Problem{T: x.t, Wanted: src.Interpret(from, q.Tempo(p.Tempo)), Wheel: p.Wheel,
				Carry: func(m *meaning.Meaning, a *plan.Allocation) *panel.State { return settle.Carry(x.t, m, a) }}
			x.p = problem.Find()
			x.set = settle.Settle(x.t, x.p)
			x.got = dst.Interpret(x.set.State, q.Tempo(p.Tempo))
			out = append(out, x)
		}
	}
	return out
}

func keys(m map[string]*patch.Patch) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

// What a plan says is made is there once it is put: the target that was settled, read again as its panel reads it, has
// every module and every route under the name that the way gave it, in use and between the ends that were meant.
func TestWhatIsPlannedIsThere(t *testing.T) {
	made := map[plan.Means]int{}
	for _, x := range plans(t) {
		cast, best := x.p.Cast, &x.p.Best
		for id, j := range best.Module {
			m := x.got.Module(x.t.Modules[j].ID)
			if m == nil {
				t.Errorf("%s: %s is to play %s, and is not there", x.name, x.t.Modules[j].ID, id)
			} else if m.Kind != cast.Module(id).Kind {
				t.Errorf("%s: a %s is to play a %s", x.name, m.Kind, cast.Module(id).Kind)
			}
		}
		for i := range best.Route {
			c := &best.Route[i]
			if !c.Made() {
				continue
			}
			want := &cast.Routes[i]
			id, label := c.Way.Made(x.t)
			made[c.Way.Means(x.t)]++
			r := x.got.Route(id)
			if r == nil || label == "" {
				t.Errorf("%s: %s is to be made as %s, which is not there", x.name, want.ID, id)
				continue
			}
			from := want.From
			if j, ok := best.Module[from]; ok {
				from = x.t.Modules[j].ID
			}
			if r.From != from {
				t.Errorf("%s: %s comes from %s here, from %s as planned", x.name, id, r.From, from)
			}
			for _, to := range want.To { // where the part it moves is played
				owner, param := meaning.Split(to)
				j, ok := best.Module[owner]
				if !ok || cast.Deaf(to) { // what does not hear it need not be moved
					continue
				}
				if player := x.t.Modules[j].ID; !slices.Contains(r.To, meaning.Ref(player, param)) {
					t.Errorf("%s: %s moves %v here, not %s of %s", x.name, id, r.To, param, player)
				}
			}
		}
	}
	for _, m := range []plan.Means{plan.ByWire, plan.BySwitch, plan.BySlot, plan.ByCable} {
		if made[m] == 0 {
			t.Errorf("no route was made by %s: %v", m, made)
		}
	}
}

// A control is moved for a reason, and what is not moved stands at init.
func TestEveryMoveHasAReason(t *testing.T) {
	for _, x := range plans(t) {
		for k := range x.t.Controls {
			at, why := x.set.State.At[k], x.set.Why[k]
			if moved := at.Index != x.t.Init(k).Index; moved && why.Code == settle.Untouched && !x.set.Off[k] {
				t.Errorf("%s: %s is moved from %q to %q for nothing", x.name, x.t.Controls[k].ID, x.t.Init(k).Reading, at.Reading)
			}
			if why.Code == settle.Carries && why.Part == "" {
				t.Errorf("%s: %s carries a part without a name", x.name, x.t.Controls[k].ID)
			}
			if places := x.t.Places(k); len(places) > 0 && !slices.ContainsFunc(places, func(x2 scale.Position) bool { return x2.Index == at.Index }) {
				t.Errorf("%s: %s stands at %q, which is none of its places", x.name, x.t.Controls[k].ID, at.Reading)
			}
		}
	}
}

// A part that is played stands as near to what it was as the steps of its control allow: no other place of the control
// that sets it alone would be nearer. The panel's own reading is the witness.
func TestNoOtherPlaceIsNearer(t *testing.T) {
	tried := 0
	for _, x := range plans(t) {
		if tried > 4000 {
			break
		}
		for id, j := range x.p.Best.Module {
			want, got := x.p.Cast.Module(id), x.got.Module(x.t.Modules[j].ID)
			for _, p := range meaning.SpecOf(want.Kind).Params {
				if p.Dim != q.DimFrequency || p.Name == meaning.PCutoff { // a cutoff is adjusted for pivots and poles
					continue
				}
				a, ok1 := want.Get(p.Name)
				b, ok2 := got.Get(p.Name)
				player := x.t.Modules[j].ID
				binds := x.t.Binds(meaning.Ref(player, p.Name))
				if !ok1 || !ok2 || a.Off || b.Off || a.Beats != 0 || b.Beats != 0 || len(binds) != 1 || len(x.t.Controls[binds[0].Control].Means) != 1 || x.set.Why[binds[0].Control].Code != settle.Carries {
					continue
				}
				k := binds[0].Control
				here := math.Abs(q.Distance(a.Quantity, b.Quantity))
				for _, place := range x.t.Places(k) {
					s := *x.set.State
					s.At = slices.Clone(s.At)
					s.At[k] = place
					v, ok := x.t.Interpret(&s, x.p.Wanted.Tempo).Module(got.ID).Get(p.Name)
					if ok && !v.Off && math.Abs(q.Distance(a.Quantity, v.Quantity)) < here-1e-9 {
						t.Errorf("%s: %s of %s is %s at %q, %s at %q; wanted %s", x.name, p.Name, got.Label, b, x.set.State.At[k].Reading, v, place.Reading, a)
						break
					}
					tried++
				}
			}
		}
	}
	if tried < 500 {
		t.Errorf("only %d places were tried", tried)
	}
}

// Compensation never makes the target worse by its own account, and says of each control that it moves what for.
func TestCompensationSaysWhatFor(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	adjusted := 0
	for _, name := range []string{"halyard", "binnacle", "thole"} {
		for _, id := range []string{"keel", "foghorn", "undertow", "tide-pool"} {
			p := patches[id]
			src, dst := rack[p.Panel], rack[name]
			if src == dst {
				continue
			}
			from, err := src.Read(&p.Layers[0], "")
			if err != nil {
				t.Fatal(err)
			}
			tempo := q.Tempo(p.Tempo)
			target := plan.NewTarget(dst, tempo, src, from, plan.PolicyOf(plan.SpecOfSchool(plan.Ear), p.Kind, plan.Choices{}, nil))
			problem := &plan.Problem{T: target, Wanted: src.Interpret(from, tempo), Carry: func(m *meaning.Meaning, a *plan.Allocation) *panel.State { return settle.Carry(target, m, a) }}
			found := problem.Find()
			set := settle.Settle(target, found)
			c := settle.Compensate(&settle.Situation{T: target, Plan: found, Wanted: found.Wanted, Got: dst.Interpret(set.State, tempo), Note: 45})
			if c == nil {
				continue
			}
			adjusted++
			if c.Plan == found || len(c.Adjusted) == 0 {
				t.Errorf("%s on %s: adjusted without a plan of its own: %v", id, name, c.Adjusted)
			}
			for part, why := range c.Adjusted {
				if owner, _ := meaning.Split(part); found.Wanted.Module(owner) == nil && found.Wanted.Route(owner) == nil && found.Cast.Module(owner) == nil && found.Cast.Route(owner) == nil {
					t.Errorf("%s on %s: %s was adjusted, which is no part", id, name, part)
				}
				if len(why.Notes) == 0 || math.IsNaN(why.Value) || math.IsInf(why.Value, 0) {
					t.Errorf("%s on %s: %s set to %v for %v", id, name, part, why.Value, why.Notes)
				}
			}
			again := settle.Settle(target, c.Plan)
			for k, at := range again.State.At {
				if v := at.Travel; math.IsNaN(v) || strings.TrimSpace(at.Reading) == "" && len(target.Places(k)) > 0 {
					t.Errorf("%s on %s: %s stands nowhere", id, name, target.Controls[k].ID)
				}
			}
		}
	}
	if adjusted == 0 {
		t.Error("nothing was adjusted by ear")
	}
}
