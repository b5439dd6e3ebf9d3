package translate_test

import (
	"maps"
	"slices"
	"testing"

	"glossator/core/gloss"
	"glossator/core/plan"
	"glossator/core/rules"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// What is refused is not done, and can only make a plan dearer: neither a rule that the sheet uses, nor a pair that it has, is worth
// less than the way without it. It would show where the search missed something.
func TestRefusalsOnlyCost(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	refused, banned := 0, 0
	for _, name := range []string{"keel", "fog-bank", "gulls", "undertow"} {
		p := patches[name]
		src := rack[p.Panel]
		for _, id := range []string{"sheave", "coracle", "kedge", "thole"} {
			if id == p.Panel {
				continue
			}
			s := sheet(t, src, p, rack[id], translate.Options{})
			if s.Plan.Cut || !s.Plan.Exact {
				continue
			}
			for _, x := range s.Plan.Modules {
				if x.Rule != "" {
					o := sheet(t, src, p, rack[id], translate.Options{Choices: plan.Choices{Refuse: map[string][]string{x.Source: {x.Rule}}}})
					for _, r := range o.Plan.Modules {
						if r.Source == x.Source && r.Rule == x.Rule {
							t.Errorf("%s to %s: %s is made by %s, which was refused", name, id, x.SourceLabel, x.Rule)
						}
					}
					if !o.Plan.Cut && o.Plan.Cost < s.Plan.Cost-0.5 {
						t.Errorf("%s to %s: without %s for %s it costs %.3f, with it %.3f", name, id, x.Rule, x.SourceLabel, o.Plan.Cost, s.Plan.Cost)
					}
					refused++
				}
				if x.Target == "" || x.Rule != "" {
					continue
				}
				o := sheet(t, src, p, rack[id], translate.Options{Choices: plan.Choices{Bans: []plan.Ban{{Part: x.Source, By: x.Target}}}})
				for _, r := range o.Plan.Modules {
					if r.Source == x.Source && r.Target == x.Target && r.Rule == "" {
						t.Errorf("%s to %s: %s is played by %s, which was forbidden", name, id, x.SourceLabel, x.TargetLabel)
					}
				}
				if !o.Plan.Cut && o.Plan.Cost < s.Plan.Cost-0.5 {
					t.Errorf("%s to %s: with %s not on %s it costs %.3f, with it %.3f", name, id, x.SourceLabel, x.TargetLabel, o.Plan.Cost, s.Plan.Cost)
				}
				if !o.Clean() {
					t.Errorf("%s to %s without %s on %s: audit %v", name, id, x.SourceLabel, x.TargetLabel, o.Audit)
				}
				banned++
			}
		}
	}
	if refused < 5 || banned < 60 {
		t.Errorf("only %d rules were refused and %d pairs forbidden", refused, banned)
	}
}

// A part that is to be kept is played at least as well as before, one that does not matter never costs another its place.
func TestWeightsAreFollowed(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	kept := 0
	for _, name := range []string{"keel", "gulls", "storm-front"} {
		p := patches[name]
		src := rack[p.Panel]
		for _, id := range []string{"bowline", "halyard", "kedge"} {
			s := sheet(t, src, p, rack[id], translate.Options{})
			lost := map[string]bool{}
			for _, x := range s.Plan.Modules {
				lost[x.Source] = x.Target == "" && x.Rule == ""
			}
			for _, x := range s.Plan.Modules {
				if !lost[x.Source] {
					continue
				}
				o := sheet(t, src, p, rack[id], translate.Options{Choices: plan.Choices{Weight: map[string]float64{x.Source: plan.Keep}}})
				now := map[string]bool{}
				for _, y := range o.Plan.Modules {
					now[y.Source] = y.Target == "" && y.Rule == ""
				}
				// whatever has been put aside for it: nothing is played less that weighs more than four times as much
				for _, y := range s.Plan.Modules {
					if !lost[y.Source] && now[y.Source] && now[x.Source] && !o.Plan.Cut {
						t.Errorf("%s to %s: to keep %s in vain, %s is left out", name, id, x.SourceLabel, y.SourceLabel)
					}
				}
				if !now[x.Source] {
					kept++
				}
			}
		}
	}
	t.Logf("%d parts that were left out are played when they are to be kept", kept)
	if kept == 0 {
		t.Error("to keep a part never helps")
	}
}

// What the plan costs is what its parts cost: each at most its weight and never below nothing, and no more in all than to lose everything.
func TestCostsAddUp(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, name := range slices.Sorted(maps.Keys(patches)) {
		p := patches[name]
		for _, id := range testrack.IDs(rack) {
			s := sheet(t, rack[p.Panel], p, rack[id], translate.Options{})
			sum, whole := 0.0, 0.0
			for _, list := range [][]gloss.Pair{s.Plan.Modules, s.Plan.Routes} {
				for _, x := range list {
					if x.Cost < 0 || x.Weight < 0 || x.Rule == "" && x.Target != "" && x.Cost > x.Weight+1e-9 {
						t.Errorf("%s to %s: %s costs %.3f of %.3f", name, id, x.SourceLabel, x.Cost, x.Weight)
					}
					whole += x.Weight
					if x.Rule == "" {
						sum += x.Cost
					}
				}
			}
			if d := whole - s.Plan.Whole; d > 1e-6 || d < -1e-6 {
				t.Errorf("%s to %s: the weights make %.3f, the plan says %.3f", name, id, whole, s.Plan.Whole)
			}
			if s.Plan.Cost < 0 || s.Plan.Cost > s.Plan.Whole+1e-6 {
				t.Errorf("%s to %s costs %.3f of %.3f", name, id, s.Plan.Cost, s.Plan.Whole)
			}
			if len(s.Recasts) == 0 && s.Plan.Cost-sum > 0.01 {
				t.Errorf("%s to %s: the parts cost %.3f, the plan %.3f", name, id, sum, s.Plan.Cost)
			}
		}
	}
}

// Every rule that a line names is in the catalogue, stands in the sheet's list, and has its words in the line's reason or in that of
// its use.
func TestLinesNameTheirRules(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	inPlace := map[string]int{}
	for _, p := range patches {
		for _, id := range testrack.IDs(rack) {
			s := sheet(t, rack[p.Panel], p, rack[id], translate.Options{})
			listed := map[string]bool{}
			for _, r := range s.Rules {
				if rules.Named(r.ID) == nil || r.Name == "" || r.Why == "" || r.Source == "" {
					t.Errorf("%s to %s lists %+v", p.ID, id, r)
				}
				listed[r.ID] = true
			}
			named := map[string]bool{}
			for _, g := range s.Glosses {
				for _, r := range g.Rules {
					named[r] = true
					if !listed[r] {
						t.Errorf("%s to %s: %s names %q, which is not listed", p.ID, id, g.ID, r)
					}
					if g.Reason == "" {
						t.Errorf("%s to %s: %s goes over by %q without a word", p.ID, id, g.ID, r)
					}
				}
				if g.Verdict == gloss.Recast && len(g.Rules) == 0 {
					t.Errorf("%s to %s: %s is recast by no rule", p.ID, id, g.ID)
				}
			}
			if len(named) != len(listed) {
				t.Errorf("%s to %s: %d rules are named, %d listed", p.ID, id, len(named), len(listed))
			}
			for _, r := range rules.InPlace {
				if named[r.ID] {
					inPlace[r.ID]++
				}
			}
		}
	}
	for _, id := range []string{"init", "wave", "slope", "pivot", "division", "cable", "slot"} {
		if inPlace[id] == 0 {
			t.Errorf("no demo sheet names the rule %s: %v", id, inPlace)
		}
	}
}

// Two patches that sound alike cost alike: modules under other names, in another order of the file, change nothing but the names.
func TestMeaningDecidesNotNames(t *testing.T) {
	rack := testrack.Panels(t)
	for _, a := range []string{"halyard", "sheave", "thole"} {
		for seed := range uint64(3) {
			p := testrack.Generate(rack[a], 300+seed, 0.3)
			q := *p
			q.ID, q.Name, q.Notes = "another", "Another name", "other notes"
			for _, b := range []string{"windlass", "bowline"} {
				one, two := sheet(t, rack[a], p, rack[b], translate.Options{}), sheet(t, rack[a], &q, rack[b], translate.Options{})
				if one.Plan.Cost != two.Plan.Cost || len(one.Settings) != len(two.Settings) {
					t.Errorf("%s to %s, seed %d: %v and %v", a, b, seed, one.Plan.Cost, two.Plan.Cost)
				}
				for i := range one.Settings {
					if one.Settings[i].Reading != two.Settings[i].Reading {
						t.Errorf("%s to %s, seed %d: %s is %s and %s", a, b, seed, one.Settings[i].Control, one.Settings[i].Reading, two.Settings[i].Reading)
					}
				}
			}
		}
	}
}

// The kinds of a plan match: what plays a part by the same means is of its kind.
func TestPairsAreOfOneKind(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, p := range patches {
		src := rack[p.Panel]
		for _, id := range testrack.IDs(rack) {
			dst := rack[id]
			s := sheet(t, src, p, dst, translate.Options{})
			once := map[string]string{}
			for _, x := range s.Plan.Modules {
				if x.Target == "" || x.Rule != "" {
					continue
				}
				i, _ := src.ModuleIndex(x.Source)
				k, ok := dst.ModuleIndex(x.Target)
				if !ok || src.Modules[i].Kind != dst.Modules[k].Kind {
					t.Errorf("%s to %s: %s is played by %s", p.ID, id, x.Source, x.Target)
				}
				if other := once[x.Target]; other != "" {
					t.Errorf("%s to %s: %s plays %s and %s", p.ID, id, x.Target, other, x.Source)
				}
				once[x.Target] = x.Source
			}
		}
	}
}
