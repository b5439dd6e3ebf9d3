package show_test

import (
	"encoding/json"
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/show"
	"glossator/demo"
	"glossator/formats"
)

// lamp is the show of the demo.
func lamp(t testing.TB) *show.Doc {
	t.Helper()
	d, err := formats.ReadShow("lamp.json", demo.Shows()[0].Data)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func made(t *testing.T, d *show.Doc, house int, opt show.Options) *show.Made {
	t.Helper()
	m, err := show.Make(d, house, opt)
	if err != nil {
		t.Fatal(err)
	}
	return m
}

func solved(t *testing.T, m *show.Made) (*show.Plan, *show.Planned) {
	t.Helper()
	x, err := m.Solve()
	if err != nil {
		t.Fatal(err)
	}
	v, err := m.View(x)
	if err != nil {
		t.Fatal(err)
	}
	return x, v
}

// In each house of the demo: every changeover lies in its gap, hands work as long as it takes, never while they play and never at two things at once, and what is lost adds up; the view can be written and read back.
func TestViewsOfTheDemo(t *testing.T) {
	d, opt := lamp(t), options(t)
	for h := range d.Houses {
		m := made(t, d, h, opt)
		x, v := solved(t, m)
		sum, busy := 0.0, map[string][]show.PlannedSpan{}
		for i, c := range v.Cues {
			if c.On < 0 {
				continue
			}
			sum += m.Cues[i].Loss[c.On]
			key := c.Player + string(rune('0'+c.Evening))
			busy[key] = append(append(busy[key], show.PlannedSpan{From: c.Start, To: c.End}), c.Work...)
			worked := 0.0
			for _, w := range c.Work {
				worked += w.To - w.From
				if w.From < v.Cues[c.From].End-1e-9 || w.To > c.Start+1e-9 {
					t.Errorf("%s, %s: hands are at it outside of the gap: %v", v.House, c.Name, w)
				}
			}
			if by := c.From >= 0 && !v.Instruments[c.On].Memory && c.Moves > 0; by != (len(c.Work) > 0) || by && math.Abs(worked-c.Takes) > 0.06 {
				t.Errorf("%s, %s: it takes %v s, hands are at it for %v s", v.House, c.Name, c.Takes, worked)
			}
			if c.From >= 0 && v.Cues[c.From].Evening != c.Evening {
				t.Errorf("%s, %s is changed over from another evening", v.House, c.Name)
			}
		}
		for who, spans := range busy {
			slices.SortFunc(spans, func(a, b show.PlannedSpan) int { return int(1000 * (a.From - b.From)) })
			for i := 1; i < len(spans); i++ {
				if spans[i].From < spans[i-1].To-1e-9 {
					t.Errorf("%s, %s: %v and %v", v.House, who, spans[i-1], spans[i])
				}
			}
		}
		if math.Abs(sum-x.Loss) > 1e-6 || math.Abs(v.Loss-sum) > 0.01 || !v.Exact || v.Heard {
			t.Errorf("%s: %v lost, %v told", v.House, sum, v.Loss)
		}
		for _, c := range v.Conflicts {
			for _, w := range c.Ways {
				if !strings.Contains(w.Says, v.Cues[w.Cue].Name) {
					t.Errorf("%q does not name %s", w.Says, v.Cues[w.Cue].Name)
				}
			}
			for _, i := range c.Cues {
				if v.Cues[i].Evening != c.Evening {
					t.Errorf("a conflict of evening %d holds %s", c.Evening, v.Cues[i].Name)
				}
			}
		}
		b, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		var back show.Planned
		if err := json.Unmarshal(b, &back); err != nil || !reflect.DeepEqual(&back, v) {
			t.Errorf("%s: it is another when read back: %v", v.House, err)
		}
	}
}

// A hire list says of each instrument what the cues lose on it, the worst first; a second one adds what the plan with both has over the plan with one; the sets are in order, and the first of two is the best of all plans with two.
func TestHireListOfTheDemo(t *testing.T) {
	d, opt := lamp(t), options(t)
	m := made(t, d, 1, opt)
	l, err := m.ListHire("Ballast", func(cue, on int) float64 { return m.Cues[cue].Loss[on] / 2 })
	if err != nil {
		t.Fatal(err)
	}
	if len(l.Each) != len(d.Houses[1].Hire) || l.Cues != len(d.Cues) || l.Rack != "Ballast" {
		t.Fatalf("%+v", l)
	}
	for n, h := range l.Each {
		k := slices.Index(m.Instruments, h.Instrument.Name)
		sum := 0.0
		for i := range m.Cues {
			sum += m.Cues[i].Loss[k]
		}
		if math.Abs(h.Loss-sum) > 0.01 || h.Saved == nil || math.Abs(*h.Saved-sum/2) > 0.02 {
			t.Errorf("%s: %v lost, %v by its cues; %v saved", h.Instrument.Name, h.Loss, sum, h.Saved)
		}
		if !slices.IsSortedFunc(h.Cues, func(a, b show.HireCueLoss) int { return int(1e6 * (b.Loss - a.Loss)) }) {
			t.Errorf("%s: the worst is not first", h.Instrument.Name)
		}
		if n > 0 && h.Loss < l.Each[n-1].Loss-1e-9 && len(h.Cannot) <= len(l.Each[n-1].Cannot) {
			t.Errorf("%s comes after %s", h.Instrument.Name, l.Each[n-1].Instrument.Name)
		}
		second := slices.Index(m.Instruments, h.Second)
		one, err := m.With([]int{k}).Solve()
		if err != nil {
			t.Fatal(err)
		}
		two, err := m.With([]int{k, second}).Solve()
		if err != nil {
			t.Fatal(err)
		}
		spares, plays := 0.0, 0
		for i := range m.Cues {
			if two.On[i] >= 0 && one.On[i] < 0 {
				plays++
			} else if two.On[i] < 0 && one.On[i] >= 0 {
				plays--
			} else if one.On[i] >= 0 {
				spares += m.Cues[i].Loss[one.On[i]] - m.Cues[i].Loss[two.On[i]]
			}
		}
		if plays != h.Plays || math.Abs(spares-h.Spares) > 0.01 {
			t.Errorf("%s with %s: %d and %.2f more, told %d and %.2f", h.Instrument.Name, h.Second, plays, spares, h.Plays, h.Spares)
		}
	}
	for i, s := range l.Sets {
		if i > 0 && l.Sets[i-1].Size == s.Size && (len(s.Dropped) < len(l.Sets[i-1].Dropped) || len(s.Dropped) == len(l.Sets[i-1].Dropped) && s.Loss < l.Sets[i-1].Loss) {
			t.Errorf("%v comes after %v", s.Instruments, l.Sets[i-1].Instruments)
		}
		price := 0.0
		for _, name := range s.Instruments {
			price += m.Hire[slices.Index(m.Instruments, name)].Price
		}
		if price != s.Price || len(s.Instruments) != s.Size {
			t.Errorf("%+v", s)
		}
	}
}

// Who an instrument stands with plays it alone; a second one of a kind has a name of its own; hands have the pace of their player, what is known of it before what is written; losses are in sound where they are heard.
func TestPlayersAndPaces(t *testing.T) {
	opt := options(t)
	d := &show.Doc{Format: show.Format, Version: show.Version, Name: "x", Pace: 3, Players: []show.PlayerDoc{{Name: "slow", Pace: 9}}, Cues: []show.CueDoc{
		{Name: "one", Patch: "keel", Start: "0:00", End: "1:00", Player: "slow"}, {Name: "two", Patch: "undertow", Start: "20:00", End: "21:00", Player: "slow"},
		{Name: "three", Patch: "gulls", Start: "40:00", End: "41:00", Player: "quick"}, {Name: "four", Patch: "gulls", Start: "50:00", End: "51:00"},
	}, Houses: []show.HouseDoc{{Name: "hall", Hire: []show.HireDoc{{Panel: "kedge", Player: "slow"}, {Panel: "kedge", Player: "quick"}}}}}
	m := made(t, d, 0, opt)
	if !slices.Equal(m.Instruments, []string{"Kedge", "Kedge 2"}) {
		t.Errorf("%v", m.Instruments)
	}
	x, _ := solved(t, m)
	if x.On[0] != 0 || x.On[1] != 0 || x.On[2] != 1 || x.On[3] != -1 || !strings.Contains(m.Faults[3], "name who plays it") {
		t.Errorf("%v, %v", x.On, m.Faults)
	}
	over, err := m.Over(0, 0, 1)
	if err != nil || m.Change(0, 0, 1) != 9*float64(over.Count()) {
		t.Errorf("%v for %d moves, %v", m.Change(0, 0, 1), over.Count(), err)
	}
	opt.Paces = map[string]float64{"slow": 5}
	if m := made(t, d, 0, opt); m.Change(0, 0, 1) != 5*float64(over.Count()) || m.Pace("quick") != 3 || m.Pace("") != 3 {
		t.Errorf("%v, %v", m.Change(0, 0, 1), m.Pace("quick"))
	}
	d.Houses[0].Hire = d.Houses[0].Hire[:1]
	if m := made(t, d, 0, opt); !strings.Contains(m.Faults[2], "quick has no instrument here") {
		t.Errorf("%v", m.Faults)
	}
	opt.Apart = func(p *patch.Patch, src, dst *panel.Compiled) (*gloss.Sheet, float64, error) {
		return &gloss.Sheet{}, float64(len(p.ID)), nil
	}
	if m := made(t, d, 0, opt); !m.Heard || m.Cues[0].Loss[0] != 4 {
		t.Errorf("%v", m.Cues[0].Loss)
	}
}

// What has no id gets one that is free, and keeps it; evenings are counted from the first; every text stands with its place.
func TestDocs(t *testing.T) {
	d := lamp(t)
	before := d.Cues[3].ID
	d.Cues = append(d.Cues, show.CueDoc{Name: "new"}, show.CueDoc{ID: "c1", Name: "has one"}, show.CueDoc{Name: "newer", Evening: 5})
	d.Houses = append(d.Houses, show.HouseDoc{Name: "barn"})
	d.Identify()
	ids := map[string]bool{}
	for _, c := range d.Cues {
		if c.ID == "" || ids[c.ID] {
			t.Errorf("%+v", c)
		}
		ids[c.ID] = true
	}
	if d.Cues[3].ID != before || d.Houses[3].ID == "" || d.Houses[3].ID == d.Houses[0].ID {
		t.Error("ids have moved")
	}
	if !slices.Equal(d.Evenings(), []int{1, 2, 5}) {
		t.Errorf("%v", d.Evenings())
	}
	found := map[string]string{}
	for _, x := range d.Texts() {
		found[x[0]] = x[1]
	}
	if found["/cues/3/name"] != d.Cues[3].Name || found["/houses/2/name"] != d.Houses[2].Name || found["/name"] != d.Name {
		t.Error("a text is at another place")
	}
}
