package nearest_test

import (
	"encoding/json"
	"errors"
	"maps"
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/instruments"
	"glossator/testutil/testrack"
)

func task(t testing.TB, src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) nearest.Task {
	t.Helper()
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	return nearest.Task{Source: src, Target: dst, Patch: p, Notes: notes}
}

func find(t testing.TB, k nearest.Task) (*plan.Tuned, *gloss.Sheet) {
	t.Helper()
	tuned, err := nearest.Find(k)
	if err != nil {
		t.Fatal(err)
	}
	s, err := nearest.Sheet(k, tuned)
	if err != nil {
		t.Fatal(err)
	}
	return tuned, s
}

func apart(t testing.TB, k nearest.Task, s *gloss.Sheet) (numbers, ear compare.Distance) {
	t.Helper()
	n, err := translate.Translate(k.Source, k.Patch, k.Target, translate.Options{School: plan.Numbers})
	if err != nil {
		t.Fatal(err)
	}
	if numbers, ear, err = nearest.Apart(k, n, s); err != nil {
		t.Fatal(err)
	}
	return numbers, ear
}

// Over invented patches on invented instruments and on the demo's, a sheet by ear lies much nearer than one by numbers, and none of those that
// were near gets far. What is found is on the sheet with its reasons, it is the same again, and its audit is clean.
func TestByEarIsNear(t *testing.T) {
	rack := testrack.Panels(t)
	const pairs = 7
	var all []float64
	numbers, ear := 0.0, 0.0
	for seed := range uint64(pairs) {
		src, err := instruments.Panel(seed)
		if err != nil {
			t.Fatal(err)
		}
		dst := rack[[]string{"halyard", "thole", "kedge", "windlass", "bowline", "sheave", "coracle"}[seed%7]]
		k := task(t, src, instruments.Patch(src, seed), dst)
		tuned, s := find(t, k)
		n, e := apart(t, k, s)
		numbers, ear, all = numbers+n.Total, ear+e.Total, append(all, e.Total)
		if e.Total > n.Total+2 {
			t.Errorf("seed %d on %s: by ear %.1f, by numbers %.1f", seed, dst.ID, e.Total, n.Total)
		}
		if e.Level > 50 {
			t.Errorf("seed %d on %s is silent", seed, dst.ID)
		}
		if !s.Clean() {
			t.Errorf("seed %d on %s: %+v", seed, dst.ID, s.Audit)
		}
		for control, reading := range tuned.Readings {
			i := slices.IndexFunc(s.Settings, func(x gloss.Setting) bool { return x.Control == control })
			if x := s.Settings[i]; x.Reading != reading || !x.ByEar || !strings.Contains(x.Why, "by ear") {
				t.Errorf("seed %d on %s: found %s at %s, the sheet has %+v", seed, dst.ID, control, reading, x)
			}
		}
	}
	slices.Sort(all)
	t.Logf("by numbers %.1f, by ear %.1f in the mean; the middle by ear %.1f", numbers/pairs, ear/pairs, all[pairs/2])
	if ear > 0.65*numbers || all[pairs/2] > 11 {
		t.Errorf("by numbers %.1f, by ear %.1f in the mean; the middle by ear %.1f", numbers/pairs, ear/pairs, all[pairs/2])
	}
}

// The same again is the same, also when it has been stored; a reading set by hand stays; what was found for one plan is not set on another; the source's own panel needs nothing.
func TestTunedHolds(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["undertow"]
	k := task(t, rack[p.Panel], p, rack[p.Panel])
	if tuned, err := nearest.Find(k); err != nil || tuned != nil {
		t.Errorf("on its own panel: %+v %v", tuned, err)
	}
	k.Target = rack["kedge"]
	tuned, s := find(t, k)
	if len(tuned.Readings) == 0 {
		t.Fatal("nothing was found to hold")
	}
	again, _ := find(t, k)
	if !reflect.DeepEqual(tuned, again) {
		t.Errorf("twice: %+v and %+v", tuned, again)
	}
	text, err := json.Marshal(plan.Choices{Tuned: tuned})
	if err != nil {
		t.Fatal(err)
	}
	var stored plan.Choices
	if err := json.Unmarshal(text, &stored); err != nil {
		t.Fatal(err)
	}
	same, err := nearest.Sheet(k, stored.Tuned)
	if err != nil || !reflect.DeepEqual(settings(s), settings(same)) {
		t.Errorf("stored and read it makes another sheet: %v", err)
	}
	other := *tuned
	other.Plan = "another"
	plain, err := nearest.Sheet(k, &other)
	if err != nil {
		t.Fatal(err)
	}
	for control, reading := range tuned.Readings {
		if settings(plain)[control] == reading && plain.Settings[slices.IndexFunc(plain.Settings, func(x gloss.Setting) bool { return x.Control == control })].ByEar {
			t.Errorf("%s was found for another plan and is set", control)
		}
	}
	hand := slices.Sorted(maps.Keys(tuned.Readings))[0]
	i := slices.IndexFunc(s.Settings, func(x gloss.Setting) bool { return x.Control == hand })
	k.Options.Overrides = map[string]string{hand: s.Settings[i].Init}
	fixed, err := nearest.Sheet(k, tuned)
	if err != nil {
		t.Fatal(err)
	}
	if x := fixed.Settings[i]; x.Reading != s.Settings[i].Init || x.ByEar || !x.Overridden {
		t.Errorf("%s was set by hand: %+v", hand, x)
	}
}

func settings(s *gloss.Sheet) map[string]string {
	out := map[string]string{}
	for _, x := range s.Settings {
		out[x.Control] = x.Reading
	}
	return out
}

// A search that is stopped gives what it has, and tells how far it is, never beyond what it may.
func TestStoppedAndTold(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["keel"]
	k := task(t, rack[p.Panel], p, rack["kedge"])
	for _, most := range []int{0, 1, 2, 3, 4, 6} { // from the very first question on: something is given all the same
		asked := 0
		k.Stop = func() bool { asked++; return asked > most }
		if tuned, err := nearest.Find(k); err != nil || tuned == nil {
			t.Errorf("stopped at question %d: %+v %v", most+1, tuned, err)
		}
	}
	n := 0
	k.Stop = func() bool { n++; return n > 20 }
	k.Progress = func(done, most int, d float64) {
		if done > most || d < 0 {
			t.Errorf("%d of %d, %v apart", done, most, d)
		}
	}
	tuned, err := nearest.Find(k)
	if err != nil || tuned == nil {
		t.Errorf("stopped: %+v %v", tuned, err)
	}
}

// BenchmarkFind is what somebody waits for who opens a sheet by ear.
func BenchmarkFind(b *testing.B) {
	rack, patches := testrack.Panels(b), testrack.Patches(b)
	for _, x := range [][2]string{{"keel", "halyard"}, {"storm-front", "sheave"}, {"fog-bank", "thole"}} {
		p := patches[x[0]]
		k := task(b, rack[p.Panel], p, rack[x[1]])
		b.Run(x[0]+"-"+x[1], func(b *testing.B) {
			for b.Loop() {
				if _, err := nearest.Find(k); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// The aim may be a recording of the source in place of its rendering: one that is brighter than the patch as it stands brings the target nearer to it than
// the search without it does, however loud and however late the recording is.
func TestAimAtARecording(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	brighter := *patches["keel"]
	y := brighter.Layers[0]
	y.Readings = maps.Clone(y.Readings)
	y.Readings["filter.cutoff"] = "7.0"
	brighter.Layers = []patch.Layer{y}
	k := task(t, rack[brighter.Panel], patches["keel"], rack["halyard"])
	layers, err := audition.Layers(k.Source, &brighter, "")
	if err != nil {
		t.Fatal(err)
	}
	s, err := synth.Render(layers, k.Notes, synth.Options{Seed: 20, Wheel: brighter.Wheel, Tail: 1})
	if err != nil {
		t.Fatal(err)
	}
	sound := func(gain float64, late int) *hear.Wave {
		w := &hear.Wave{Rate: synth.Rate, Left: make([]float64, late+len(s.Left))}
		for i, x := range s.Left {
			w.Left[late+i] = gain * x
		}
		return w
	}
	there := compare.Sketched(*sound(1, 0))
	to := func(aim *hear.Wave) float64 {
		k := k
		k.Aim = aim
		_, sheet := find(t, k)
		y, err := audition.Target(k.Target, k.Patch, sheet)
		if err != nil {
			t.Fatal(err)
		}
		x, err := synth.Render([]synth.Layer{y}, k.Notes, synth.Options{Seed: 3, Wheel: k.Patch.Wheel, Tail: 1})
		if err != nil {
			t.Fatal(err)
		}
		d := compare.Apart(there, compare.Sketched(hear.Wave{Rate: synth.Rate, Left: x.Left, Right: x.Right}), false)
		return math.Sqrt(d.Total*d.Total - d.Level*d.Level)
	}
	silent := k
	silent.Aim = sound(0, 0)
	if _, err := nearest.Find(silent); !errors.Is(err, refine.ErrSilent) {
		t.Errorf("a recording of nothing: %v", err)
	}
	plain, aimed, late := to(nil), to(sound(1, 0)), to(sound(0.2, 9000))
	t.Logf("without %.1f, with %.1f, quiet and late %.1f", plain, aimed, late)
	if aimed > 0.7*plain || late > 0.8*plain {
		t.Errorf("without the recording %.1f from it, with it %.1f, with it quiet and late %.1f", plain, aimed, late)
	}
}

// The plans that are compared are different sounds: no two set the same, or lie as near in every respect. Over invented pairs there are several, some of them by another way of a rule.
func TestPlansDiffer(t *testing.T) {
	plans, ways := 0, 0
	const pairs = 6
	for i, seed := range []uint64{24, 3, 8, 34, 39, 46} {
		src, p, dst, err := instruments.Pair(seed, seed+1000)
		if err != nil {
			t.Fatal(err)
		}
		k := task(t, src, p, dst)
		k.Effort = nearest.Quick
		apart, sets, n, err := nearest.Begun(k)
		if err != nil {
			t.Fatal(err)
		}
		plans, ways = plans+len(sets), ways+n
		for a := range sets {
			for b := range a {
				if sets[a] == sets[b] || apart[a] == apart[b] {
					t.Errorf("pair %d: plans %d and %d are one sound", i, b, a)
				}
			}
		}
	}
	if plans < 2*pairs || ways == 0 {
		t.Errorf("%d plans of %d pairs, %d by another way of a rule", plans, pairs, ways)
	}
}

// An operator that is modulated is heard beside a plain one: a square on four operators, which by numbers is a sine.
func TestAnotherWayIsHeard(t *testing.T) {
	src, p, dst, err := instruments.Pair(24, 1024)
	if err != nil {
		t.Fatal(err)
	}
	k := task(t, src, p, dst)
	_, s := find(t, k)
	numbers, ear := apart(t, k, s)
	if numbers.Total < 15 || ear.Total > 10 {
		t.Errorf("by numbers %.1f, by ear %.1f", numbers.Total, ear.Total)
	}
	if !slices.ContainsFunc(s.Recasts, func(r gloss.Recasting) bool { return strings.Contains(r.Text, "another one modulates") }) {
		t.Errorf("%+v", s.Recasts)
	}
}
