// Package audit checks a finished sheet against the invariants of the design by reading it afresh: it asks the panels and the sheet's own texts, not the
// stages that made it.
//
// Its neighbours: gloss makes the sheet, translate joins the two.
package audit

import (
	"fmt"
	"math"
	"strings"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/patch"
)

// Of checks a sheet against the invariants of the design by reading it afresh.
func Of(in *gloss.Input, s *gloss.Sheet) []gloss.Check {
	return []gloss.Check{accounted(in, s), complete(in, s), readsBack(in, s), inRange(in, s)}
}

// accounted is I1: every source reading that is not at init stands in exactly one gloss.
func accounted(in *gloss.Input, s *gloss.Sheet) gloss.Check {
	c := gloss.Check{ID: "I1", What: "every reading of the source is accounted for once", OK: true}
	times := map[string]int{}
	for i := range s.Glosses {
		for _, r := range s.Glosses[i].Source {
			times[r.Control]++
		}
	}
	var bad []string
	for k := range in.Source.Controls {
		id := in.Source.Controls[k].ID
		if n := times[id]; n > 1 || n == 0 && !in.Source.AtInit(k, in.From.At[k]) {
			bad = append(bad, fmt.Sprintf("%s stands in %d lines", in.Source.Controls[k].Label, n))
		}
	}
	return with(c, bad)
}

func with(c gloss.Check, bad []string) gloss.Check {
	c.OK = len(bad) == 0
	c.Detail = strings.Join(bad, "; ")
	return c
}

// complete is I2: every control of the target is set, switched off or left, once.
func complete(in *gloss.Input, s *gloss.Sheet) gloss.Check {
	c := gloss.Check{ID: "I2", What: "every control of the target is on the list once", OK: true}
	times := map[string]int{}
	var bad []string
	for _, x := range s.Settings {
		times[x.Control]++
		if x.Action == gloss.Leave && in.Target.Memory && x.Reading != x.Init {
			bad = append(bad, fmt.Sprintf("%s is left at init but should show %s", x.Label, x.Reading))
		}
	}
	for k := range in.Target.Controls {
		if n := times[in.Target.Controls[k].ID]; n != 1 {
			bad = append(bad, fmt.Sprintf("%s is listed %d times", in.Target.Controls[k].Label, n))
		}
	}
	return with(c, bad)
}

// readsBack is I3: the target readings, read as texts, give the reached meaning that the
// sheet shows.
func readsBack(in *gloss.Input, s *gloss.Sheet) gloss.Check {
	c := gloss.Check{ID: "I3", What: "the target readings read back to what the sheet shows", OK: true}
	layer := patch.Layer{ID: "a", Readings: map[string]string{}}
	for _, x := range s.Settings {
		layer.Readings[x.Control] = x.Reading
	}
	for _, k := range s.Cables {
		layer.Cables = append(layer.Cables, patch.Cable{From: k.From, To: k.To})
	}
	state, err := in.Target.Read(&layer, "")
	if err != nil {
		return with(c, []string{err.Error()})
	}
	back := in.Target.Interpret(state, in.Plan.Wanted.Tempo)
	var bad []string
	for i := range s.Glosses {
		g := &s.Glosses[i]
		if g.Reached == nil {
			continue
		}
		shown := g.Reached.Quantity
		if g.Route != "" { // a depth, whatever control makes it
			if r := back.Route(g.Route); !shown.Dim.Named() && (r == nil || !gloss.Alike(r.Depth.Quantity, shown)) {
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
			for _, b := range in.Source.Binds(g.Param) {
				if in.Source.Controls[b.Control].ID == g.Source[0].Control {
					if p, ok := v.Parts[in.Source.Bind(b).Part]; ok && math.Abs(p.Value-g.Reached.Quantity.Value) < math.Abs(got.Value-g.Reached.Quantity.Value) {
						got = p
					}
				}
			}
		}
		if !gloss.Alike(got, shown) {
			bad = append(bad, fmt.Sprintf("%s reads back as %s, not %s", g.Label, got, g.Reached.Text))
		}
	}
	return with(c, bad)
}

// inRange is I6: every reading is one its control can show, and every number is ordinary.
func inRange(in *gloss.Input, s *gloss.Sheet) gloss.Check {
	c := gloss.Check{ID: "I6", What: "every reading is on its control's face and every number is ordinary", OK: true}
	var bad []string
	for _, x := range s.Settings {
		k, _ := in.Target.ControlIndex(x.Control)
		if _, err := in.Target.Parse(k, x.Reading); err != nil {
			bad = append(bad, fmt.Sprintf("%s: %v", x.Label, err))
		}
	}
	for i := range s.Glosses {
		for _, f := range []*gloss.Figure{s.Glosses[i].Wanted, s.Glosses[i].Reached} {
			if f != nil && !f.Quantity.Finite() {
				bad = append(bad, s.Glosses[i].Label+" has a number that is not ordinary")
			}
		}
	}
	return with(c, bad)
}
