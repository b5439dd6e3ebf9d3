package translate

import (
	"fmt"
	"math"
	"strings"

	"glossator/core/meaning"
	"glossator/core/patch"
	q "glossator/core/quantity"
)

// audit checks a sheet against the invariants of the design by reading it afresh.
func (j *job) audit(s *Sheet) []Check {
	return []Check{j.accounted(s), j.complete(s), j.readsBack(s), j.inRange(s)}
}

// accounted is I1: every source reading that is not at init stands in exactly one gloss.
func (j *job) accounted(s *Sheet) Check {
	c := Check{ID: "I1", What: "every reading of the source is accounted for once", OK: true}
	times := map[string]int{}
	for i := range s.Glosses {
		for _, r := range s.Glosses[i].Source {
			times[r.Control]++
		}
	}
	var bad []string
	for k := range j.src.Controls {
		id := j.src.Controls[k].ID
		if n := times[id]; n > 1 || n == 0 && !j.sourceReading(k).Init {
			bad = append(bad, fmt.Sprintf("%s stands in %d lines", j.src.Controls[k].Label, n))
		}
	}
	return c.with(bad)
}

func (c Check) with(bad []string) Check {
	c.OK = len(bad) == 0
	c.Detail = strings.Join(bad, "; ")
	return c
}

// complete is I2: every control of the target is set, switched off or left, once.
func (j *job) complete(s *Sheet) Check {
	c := Check{ID: "I2", What: "every control of the target is on the list once", OK: true}
	times := map[string]int{}
	var bad []string
	for _, x := range s.Settings {
		times[x.Control]++
		if x.Action == Leave && j.t.Memory && x.Reading != x.Init {
			bad = append(bad, fmt.Sprintf("%s is left at init but should show %s", x.Label, x.Reading))
		}
	}
	for k := range j.t.Controls {
		if n := times[j.t.Controls[k].ID]; n != 1 {
			bad = append(bad, fmt.Sprintf("%s is listed %d times", j.t.Controls[k].Label, n))
		}
	}
	return c.with(bad)
}

// readsBack is I3: the target readings, read as texts, give the reached meaning that the
// sheet shows.
func (j *job) readsBack(s *Sheet) Check {
	c := Check{ID: "I3", What: "the target readings read back to what the sheet shows", OK: true}
	layer := patch.Layer{ID: "a", Readings: map[string]string{}}
	for _, x := range s.Settings {
		layer.Readings[x.Control] = x.Reading
	}
	for _, k := range s.Cables {
		layer.Cables = append(layer.Cables, patch.Cable{From: k.From, To: k.To})
	}
	state, err := j.t.Read(&layer, "")
	if err != nil {
		return c.with([]string{err.Error()})
	}
	back := j.t.Mean(state, j.wanted.Tempo)
	var bad []string
	for i := range s.Glosses {
		g := &s.Glosses[i]
		if g.Reached == nil {
			continue
		}
		shown := g.Reached.Quantity
		if g.route != "" { // a depth, whatever control makes it
			if r := back.Route(g.route); !shown.Dim.Named() && (r == nil || !alike(r.Depth.Quantity, shown)) {
				bad = append(bad, fmt.Sprintf("%s does not read back as %s", g.Label, g.Reached.Text))
			}
			continue
		}
		id, name := meaning.Split(g.TargetParam)
		m := back.Module(id)
		if m == nil {
			continue
		}
		v, _ := m.Get(name)
		got := v.Quantity
		if len(v.Parts) > 0 && len(g.Source) == 1 {
			for _, b := range j.src.Binds(g.Param) {
				if j.src.Controls[b.Control].ID == g.Source[0].Control {
					if p, ok := v.Parts[j.src.Bind(b).Part]; ok && math.Abs(p.Value-g.Reached.Quantity.Value) < math.Abs(got.Value-g.Reached.Quantity.Value) {
						got = p
					}
				}
			}
		}
		if !alike(got, shown) {
			bad = append(bad, fmt.Sprintf("%s reads back as %s, not %s", g.Label, got, g.Reached.Text))
		}
	}
	return c.with(bad)
}

// alike tells whether two quantities are the same but for rounding.
func alike(a, b q.Quantity) bool {
	if a.Dim.Named() || b.Dim.Named() {
		return a.Name == b.Name
	}
	return a.Off == b.Off && math.Abs(a.Value-b.Value) <= 1e-6*math.Max(1, math.Abs(a.Value))
}

// inRange is I6: every reading is one its control can show, and every number is ordinary.
func (j *job) inRange(s *Sheet) Check {
	c := Check{ID: "I6", What: "every reading is on its control's face and every number is ordinary", OK: true}
	var bad []string
	for _, x := range s.Settings {
		k, _ := j.t.ControlIndex(x.Control)
		if _, err := j.t.Parse(k, x.Reading); err != nil {
			bad = append(bad, fmt.Sprintf("%s: %v", x.Label, err))
		}
	}
	for i := range s.Glosses {
		for _, f := range []*Figure{s.Glosses[i].Wanted, s.Glosses[i].Reached} {
			if f != nil && !f.Quantity.Finite() {
				bad = append(bad, s.Glosses[i].Label+" has a number that is not ordinary")
			}
		}
	}
	return c.with(bad)
}
