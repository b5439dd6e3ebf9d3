package show_test

import (
	"errors"
	"strings"
	"testing"

	"glossator/core/dialin"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/show"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

func options(t *testing.T) show.Options {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	return show.Options{School: plan.Numbers, Panels: func(id string) *panel.Compiled { return rack[id] },
		Patches: func(name string) (*patch.Patch, *panel.Compiled, error) {
			p := patches[name]
			if p == nil {
				return nil, nil, errors.New("there is no patch " + name)
			}
			return p, rack[p.Panel], nil
		}}
}

// A show is made of its translations: what a cue loses on an instrument is what its sheet says, a changeover takes as long as its moves by the pace, or a change of program where there is memory. Every changeover of the plan fits its gap.
func TestShowsAreMadeOfSheets(t *testing.T) {
	d := &show.Doc{Format: show.Format, Version: show.Version, Name: "x", Pace: 3, Cues: []show.CueDoc{
		{Name: "one", Patch: "keel", Start: "0:00", End: "2:00", Player: "a"}, {Name: "two", Patch: "undertow", Start: "2:30", End: "4:00", Player: "b"},
		{Name: "three", Patch: "foghorn", Start: "5:30", End: "7:00", Player: "a"}, {Name: "four", Patch: "keel", Start: "1:00:00", End: "1:02:00"},
		{Name: "gone", Patch: "nobody-has-it", Start: "8:00", End: "9:00"}, {Name: "odd", Patch: "keel", Start: "noon", End: "13:00"}, {Name: "back", Patch: "keel", Start: "20:00", End: "19:00"},
	}, Houses: []show.HouseDoc{{Name: "hall", Hire: []show.HireDoc{{Panel: "kedge"}, {Panel: "halyard"}, {Panel: "nobody"}}}}}
	opt := options(t)
	m, err := show.Make(d, 0, opt)
	if err != nil {
		t.Fatal(err)
	}
	for i, says := range map[int]string{4: "nobody-has-it", 5: "noon", 6: "before it begins"} {
		if !strings.Contains(m.Faults[i], says) {
			t.Errorf("%s: %q", d.Cues[i].Name, m.Faults[i])
		}
	}
	if len(m.Faults) != 3 {
		t.Errorf("%v", m.Faults)
	}
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for i := range 4 {
		for k, id := range []string{"kedge", "halyard"} {
			p := patches[d.Cues[i].Patch]
			s, err := translate.Translate(rack[p.Panel], p, rack[id], translate.Options{School: plan.Numbers})
			if err != nil {
				t.Fatal(err)
			}
			if m.Cues[i].Loss[k] != s.Plan.Cost {
				t.Errorf("%s on %s loses %v, its sheet says %v", d.Cues[i].Name, id, m.Cues[i].Loss[k], s.Plan.Cost)
			}
		}
	}
	over, err := dialin.Between(rack["kedge"], m.Sheets[0][0], m.Sheets[1][0])
	if err != nil || over.Count() == 0 || m.Change(0, 0, 1) != 3*float64(over.Count()) {
		t.Errorf("%v s for %d moves, %v", m.Change(0, 0, 1), over.Count(), err)
	}
	if m.Change(1, 0, 1) != 2 || m.Change(1, 0, 3) != 0 {
		t.Errorf("with memory %v s, to the same patch %v s", m.Change(1, 0, 1), m.Change(1, 0, 3))
	}
	x, err := m.Solve()
	if err != nil {
		t.Fatal(err)
	}
	for i, n := range m.Running(x) {
		if n != nil && n.From >= 0 && (n.Takes > n.Gap || x.On[n.From] != x.On[i]) {
			t.Errorf("%s: %+v", d.Cues[i].Name, n)
		}
	}
	for _, bad := range []func(d *show.Doc){func(d *show.Doc) { d.Format = "theirs" }, func(d *show.Doc) { d.Version = 2 }, func(d *show.Doc) { d.Houses = nil }, func(d *show.Doc) { d.Pace = -1 }, func(d *show.Doc) { d.Cues = append(d.Cues[:0:0], show.CueDoc{ID: "a"}, show.CueDoc{ID: "a"}) }} {
		y := *d
		bad(&y)
		if _, err := show.Make(&y, 0, opt); err == nil {
			t.Error("a show without sense is made")
		}
	}
}

// Times of an evening are read and written.
func TestTimes(t *testing.T) {
	for text, want := range map[string]float64{"0:00": 0, "12:30": 750, "1:02:30": 3750, "90:05": 5405} {
		got, err := show.Seconds(text)
		if err != nil || got != want {
			t.Errorf("%s: %v, %v", text, got, err)
		}
		if back, err := show.Seconds(show.Clock(got)); err != nil || back != want {
			t.Errorf("%s is written %s", text, show.Clock(got))
		}
	}
	for _, text := range []string{"", "12", "1:60", "-1:00", "1:2", "a:00", "1:02:3"} {
		if x, err := show.Seconds(text); err == nil {
			t.Errorf("%q is %v", text, x)
		}
	}
}
