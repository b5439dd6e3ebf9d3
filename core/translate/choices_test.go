package translate_test

import (
	"runtime"
	"strings"
	"sync"
	"testing"

	"glossator/core/plan"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// Of every part that is made by other means the ways are listed, each dearer than the one before,
// down to leaving it out or the same means; refusing a rule takes it away.
func TestAlternatives(t *testing.T) {
	rack := testrack.Panels(t)
	seen, several := 0, 0
	for _, p := range testrack.Patches(t) {
		for _, id := range []string{"thole", "sheave", "kedge", "fairlead"} {
			s := sheet(t, rack[p.Panel], p, rack[id], translate.Options{})
			for _, pair := range append(s.Plan.Modules, s.Plan.Routes...) {
				if pair.Rule == "" {
					continue
				}
				ways, err := translate.Alternatives(rack[p.Panel], p, rack[id], translate.Options{}, pair.Source)
				if err != nil {
					t.Fatal(err)
				}
				seen++
				if len(ways) > 2 {
					several++
				}
				if ways[0].Rule != pair.Rule || len(ways[0].Refuse) != 0 {
					t.Errorf("%s to %s: %s first by %q, the sheet by %q", p.ID, id, pair.Source, ways[0].Rule, pair.Rule)
				}
				if last := ways[len(ways)-1]; len(ways) < 4 && last.Rule != "" {
					t.Errorf("%s to %s: the ways for %s end with %+v", p.ID, id, pair.Source, last)
				}
				for i := 1; i < len(ways); i++ {
					w := ways[i]
					if len(w.Refuse) != i || w.Rule != "" && w.Rule == ways[i-1].Rule {
						t.Errorf("%s to %s: way %d for %s is %+v", p.ID, id, i, pair.Source, w)
					}
				}
			}
		}
	}
	if seen < 40 || several == 0 {
		t.Errorf("%d parts looked at, %d with several ways", seen, several)
	}
	p := testrack.Patches(t)["keel"]
	if _, err := translate.Alternatives(rack["windlass"], p, rack["kedge"], translate.Options{}, "attic"); err == nil {
		t.Error("a part that is not there has ways")
	}
}

// What matters gets the means: an oscillator that is to be kept is, another goes instead; one that
// does not matter goes first.
func TestChoices(t *testing.T) {
	rack, keel := testrack.Panels(t), testrack.Patches(t)["keel"]
	missing := func(c plan.Choices) string {
		s := sheet(t, rack["windlass"], keel, rack["kedge"], translate.Options{Choices: c})
		var out []string
		for _, m := range s.Plan.Modules {
			if m.Target == "" && m.Rule == "" {
				out = append(out, m.Source)
			}
		}
		if !s.Clean() {
			t.Errorf("%v: the audit fails: %v", c, s.Audit)
		}
		return strings.Join(out, " ")
	}
	usual := missing(plan.Choices{})
	kept := missing(plan.Choices{Weight: map[string]float64{usual: plan.Keep}})
	if !strings.HasPrefix(usual, "osc") || kept == usual || !strings.HasPrefix(kept, "osc") {
		t.Errorf("usually %q goes, when that is to be kept %q", usual, kept)
	}
	if gone := missing(plan.Choices{Weight: map[string]float64{"osc1": plan.NotNeeded}}); gone != "osc1" {
		t.Errorf("oscillator 1 does not matter, and %q goes", gone)
	}
	for name, c := range map[string]plan.Choices{
		"a part of the patch": {Weight: map[string]float64{"attic": plan.Keep}},
		"to keep it":          {Weight: map[string]float64{"osc1": 7}},
		"id of a rule":        {Refuse: map[string][]string{"osc1": {"magic"}}},
	} {
		_, err := translate.Translate(rack["windlass"], keel, rack["kedge"], translate.Options{Choices: c})
		if err == nil || !strings.Contains(err.Error(), name) {
			t.Errorf("%v: %v, want %q", c, err, name)
		}
	}
}

func BenchmarkBank(b *testing.B) {
	rack, patches := testrack.Panels(b), testrack.Patches(b)
	var targets []string
	for _, id := range testrack.IDs(rack) {
		if rack[id].Kind == "instrument" {
			targets = append(targets, id)
		}
	}
	for b.Loop() { // a hundredth of 1,000 patches on 9 targets
		for _, p := range patches {
			for _, id := range targets {
				sheet(b, rack[p.Panel], p, rack[id], translate.Options{})
			}
		}
	}
}

// BenchmarkThousand translates 1,000 patches (the demo's, a hundred times) to 9 targets on two cores: seconds, and
// the memory that the program has taken from the system.
func BenchmarkThousand(b *testing.B) {
	rack, patches := testrack.Panels(b), testrack.Patches(b)
	type pair struct{ patch, target string }
	for b.Loop() {
		work := make(chan pair)
		var both sync.WaitGroup
		for range 2 {
			both.Go(func() {
				for x := range work {
					p := patches[x.patch]
					if _, err := translate.Translate(rack[p.Panel], p, rack[x.target], translate.Options{}); err != nil {
						b.Error(err)
					}
				}
			})
		}
		for range 100 {
			for name := range patches {
				for _, id := range testrack.IDs(rack) {
					if rack[id].Kind == "instrument" {
						work <- pair{name, id}
					}
				}
			}
		}
		close(work)
		both.Wait()
	}
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	b.ReportMetric(b.Elapsed().Seconds()/float64(b.N), "s/1000x9")
	b.ReportMetric(float64(m.Sys)/(1<<20), "MB")
}

// A next plan that is taken is what it said: the part is played otherwise, the cost is not below the best, the
// audit is clean, and without the bans the best plan is back.
func TestNextPlanTaken(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	for _, x := range [][2]string{{"keel", "halyard"}, {"gulls", "windlass"}, {"tide-pool", "thole"}} {
		p := patches[x[0]]
		src, dst := panels[p.Panel], panels[x[1]]
		best, err := translate.Translate(src, p, dst, translate.Options{})
		if err != nil {
			t.Fatal(err)
		}
		next, err := translate.NextPlans(src, p, dst, translate.Options{})
		if err != nil {
			t.Fatal(err)
		}
		for n, other := range next {
			if len(other.Bans) == 0 {
				t.Fatalf("%v: plan %d forbids nothing", x, n)
			}
			taken, err := translate.Translate(src, p, dst, translate.Options{Choices: plan.Choices{Bans: other.Bans}})
			if err != nil {
				t.Fatal(err)
			}
			if taken.Plan.Cost < best.Plan.Cost-1e-9 || !taken.Clean() {
				t.Errorf("%v: plan %d costs %v, the best %v; clean %v", x, n, taken.Plan.Cost, best.Plan.Cost, taken.Clean())
			}
			for _, pair := range taken.Plan.Modules {
				for _, b := range other.Bans {
					if pair.Source == b.Part && pair.Target == b.By && pair.Rule == "" {
						t.Errorf("%v: %s is played by %q, which is not to be", x, b.Part, b.By)
					}
				}
			}
			if taken.Plan.Cost > other.Cost+1e-3 && len(best.Recasts) == 0 {
				t.Errorf("%v: plan %d costs %v, it said %v", x, n, taken.Plan.Cost, other.Cost)
			}
		}
	}
	for _, c := range []plan.Choices{{Bans: []plan.Ban{{Part: "nothing"}}}, {Bans: make([]plan.Ban, 25)}} {
		if _, err := translate.Translate(panels["windlass"], patches["keel"], panels["halyard"], translate.Options{Choices: c}); err == nil {
			t.Errorf("%d bans were taken", len(c.Bans))
		}
	}
}
