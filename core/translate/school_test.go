package translate_test

import (
	"math"
	"reflect"
	"strings"
	"testing"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// Every demo patch on every panel by every school: the audit is clean, the same again gives the
// same, and what is not the same as by numbers says why.
func TestSchoolsOnEverySheet(t *testing.T) {
	rack := testrack.Panels(t)
	differ, slopes, levels := map[plan.School]int{}, 0, 0
	for _, p := range testrack.Patches(t) {
		for _, id := range testrack.IDs(rack) {
			numbers := sheet(t, rack[p.Panel], p, rack[id], translate.Options{})
			for _, school := range plan.Schools {
				opt := translate.Options{School: school.School}
				s := sheet(t, rack[p.Panel], p, rack[id], opt)
				for _, c := range s.Audit {
					if !c.OK {
						t.Errorf("%s to %s %s: %s fails: %s", p.ID, id, school.Label, c.ID, c.Detail)
					}
				}
				if again := sheet(t, rack[p.Panel], p, rack[id], opt); !reflect.DeepEqual(s, again) {
					t.Errorf("%s to %s %s is another the second time", p.ID, id, school.Label)
				}
				changes := gloss.Changes(numbers, s)
				if (school.School == plan.Numbers || id == p.Panel) && len(changes) > 0 {
					t.Errorf("%s to %s %s differs from by numbers: %v", p.ID, id, school.Label, changes)
				}
				differ[school.School] += len(changes)
				for _, c := range changes {
					slopes += strings.Count(c.Why, "as bright on a saw")
					levels += strings.Count(c.Why, "for the bass that resonance takes") + strings.Count(c.Why, "for the drive that is not there")
				}
			}
		}
	}
	if differ[plan.Ear] < 10 || differ[plan.Feel] < 5 || slopes < 3 || levels < 3 {
		t.Errorf("the schools differ in %v settings; %d by slope, %d by level", differ, slopes, levels)
	}
}

// A 24 dB filter on one of 12 dB: by ear the cutoff goes lower, as the trade has it, and the
// resonance keeps its peak.
func TestSlopeByEar(t *testing.T) {
	rack, keel := testrack.Panels(t), testrack.Patches(t)["keel"]
	numbers := sheet(t, rack["windlass"], keel, rack["bowline"], translate.Options{})
	ear := sheet(t, rack["windlass"], keel, rack["bowline"], translate.Options{School: plan.Ear})
	a, b := line(t, numbers, "filter.cutoff"), line(t, ear, "filter.cutoff")
	if !(b.Reached.Quantity.Value < a.Reached.Quantity.Value) || !strings.Contains(b.Reason, "4 poles there, 2 here") {
		t.Errorf("by numbers %s, by ear %s (%s)", a.Reached.Text, b.Reached.Text, b.Reason)
	}
	if math.Abs(a.Wanted.Quantity.Value-b.Wanted.Quantity.Value) > 1e-9 {
		t.Errorf("what the source means has moved: %s and %s", a.Wanted.Text, b.Wanted.Text)
	}
}

func TestSchoolsAreNamed(t *testing.T) {
	rack, keel := testrack.Panels(t), testrack.Patches(t)["keel"]
	if _, err := translate.Translate(rack["windlass"], keel, rack["kedge"], translate.Options{School: "charm"}); err == nil || !strings.Contains(err.Error(), "numbers, ear or feel") {
		t.Errorf("a school that is none: %v", err)
	}
	for _, s := range plan.Schools {
		if s.Label == "" || s.Says == "" || len(s.Compensates) == 0 || plan.SpecOfSchool(s.School) == nil {
			t.Errorf("a school that says too little: %+v", s)
		}
	}
}

// By feel keeps what is under the hands first: of the routes from velocity, wheel, pressure, bend and key, the key tracking and the glide of the demo's and of invented
// patches it loses no more than the other schools do, on any set of pairs of this size, and fewer in all.
func TestByFeelKeepsTheHandsFirst(t *testing.T) {
	lost := map[plan.School]int{}
	count := func(src *panel.Compiled, p *patch.Patch, dst *panel.Compiled) {
		for _, school := range []plan.School{plan.Numbers, plan.Ear, plan.Feel} {
			in, s, err := translate.Made(src, p, dst, translate.Options{School: school})
			if err != nil {
				t.Fatal(err)
			}
			seen := map[string]bool{}
			for i := range s.Glosses {
				g := &s.Glosses[i]
				id, name := meaning.Split(g.Param)
				hands := name == meaning.PTrack || name == meaning.PGlide
				if r := in.Plan.Wanted.Route(id); r != nil {
					hands = meaning.IsSource(r.From) && r.From != "gate" || r.Via == "wheel"
				}
				if hands && g.Verdict == gloss.LeftOut && !seen[id+string(name)] {
					seen[id+string(name)] = true
					lost[school]++
				}
			}
		}
	}
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, p := range patches {
		for _, to := range testrack.IDs(rack) {
			count(rack[p.Panel], p, rack[to])
		}
	}
	for seed := range seeds(100) {
		src, p, dst := invented(t, seed)
		count(src, p, dst)
	}
	t.Logf("lost: %v", lost)
	if lost[plan.Feel] >= lost[plan.Numbers] || lost[plan.Feel] >= lost[plan.Ear] {
		t.Errorf("lost: %v", lost)
	}
}
