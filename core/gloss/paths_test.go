package gloss_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// On both sides of every demo pair: what makes a sound that is heard stands in the drawing and leads to the output, nothing is drawn twice, edges go to the right, and what is said to be played is played by what the plan says.
func TestSignalPathsLeadOut(t *testing.T) {
	panels := testrack.Panels(t)
	seen := 0
	for _, p := range testrack.Patches(t) {
		src := panels[p.Panel]
		for _, dst := range panels {
			if dst.Kind != "instrument" || src.Kind != "instrument" {
				continue
			}
			both, err := translate.PathsOf(src, p, dst, translate.Options{School: plan.Numbers})
			if err != nil {
				t.Fatal(err)
			}
			for _, path := range []gloss.Path{both.Source, both.Target} {
				out := slices.IndexFunc(path.Nodes, func(n gloss.PathNode) bool { return n.ID == "out" })
				if out < 0 {
					t.Fatalf("%s on %s: no output: %s", p.ID, path.Panel, path.Text)
				}
				reach := map[int]bool{out: true}
				for range path.Nodes {
					for _, e := range path.Edges {
						if path.Nodes[e[0]].Column >= path.Nodes[e[1]].Column {
							t.Errorf("%s on %s: %s stands behind %s", p.ID, path.Panel, path.Nodes[e[0]].ID, path.Nodes[e[1]].ID)
						}
						if reach[e[1]] {
							reach[e[0]] = true
						}
					}
				}
				places := map[[2]int]bool{}
				for i, n := range path.Nodes {
					if !reach[i] {
						t.Errorf("%s on %s: %s leads nowhere", p.ID, path.Panel, n.ID)
					}
					if at := [2]int{n.Column, n.Row}; places[at] {
						t.Errorf("%s on %s: two at one place", p.ID, path.Panel)
					} else {
						places[at] = true
					}
				}
				seen++
			}
		}
		state, err := src.Read(&p.Layers[0], "")
		if err != nil {
			t.Fatal(err)
		}
		m := src.Interpret(state, 120)
		self, err := translate.PathsOf(src, p, src, translate.Options{School: plan.Numbers})
		if err != nil {
			t.Fatal(err)
		}
		for i := range m.Modules {
			d := &m.Modules[i]
			drawn := slices.ContainsFunc(self.Source.Nodes, func(n gloss.PathNode) bool { return n.ID == d.ID })
			if (d.Kind == meaning.Filter || d.Kind == meaning.Osc) && d.Used() && !drawn && len(m.Graph().Path().From[d.ID]) > 0 {
				t.Errorf("%s: %s is not drawn: %s", p.ID, d.ID, self.Source.Text)
			}
		}
		// two filters side by side are drawn so
		if p.ID == "storm-front" {
			var columns []int
			for _, n := range self.Source.Nodes {
				if strings.HasPrefix(n.Label, "Filter") {
					columns = append(columns, n.Column)
				}
			}
			if len(columns) != 2 || columns[0] != columns[1] {
				t.Errorf("Storm Front: filters in columns %v: %s", columns, self.Source.Text)
			}
		}
	}
	if seen < 100 {
		t.Errorf("%d paths seen", seen)
	}
}

// Pictures of every line of every demo pair: places go on, values are finite and within the drawing; of a line that is held exactly both sides are the same.
func TestPicturesOfEveryLine(t *testing.T) {
	panels := testrack.Panels(t)
	shapes := map[synth.Shape]int{}
	for _, p := range testrack.Patches(t) {
		src := panels[p.Panel]
		for _, id := range []string{"halyard", p.Panel} {
			dst := panels[id]
			if dst.Kind != src.Kind {
				continue
			}
			s, err := translate.Translate(src, p, dst, translate.Options{School: plan.Numbers})
			if err != nil {
				t.Fatal(err)
			}
			for i := range s.Glosses {
				g := &s.Glosses[i]
				if i%5 > 0 || id != p.Panel && i%3 > 0 { // a share of them: each is a translation
					continue
				}
				pic, err := translate.PictureOf(src, p, dst, translate.Options{School: plan.Numbers}, g.ID, "", "")
				if err != nil {
					t.Fatal(err)
				}
				shapes[pic.Shape]++
				for _, list := range [][][2]float64{pic.Source, pic.Target} {
					for k, x := range list {
						if math.IsNaN(x[0]) || math.IsInf(x[0], 0) || math.IsNaN(x[1]) || x[1] < pic.Low-1e-9 && pic.Shape != synth.ShapeFilter || x[1] > 60 && pic.Shape == synth.ShapeFilter || k > 0 && x[0] < list[k-1][0] {
							t.Fatalf("%s to %s, %s: point %d is %v of %v to %v", p.ID, id, g.ID, k, x, pic.Low, pic.High)
						}
					}
				}
				if id == p.Panel && pic.Shape != "" && g.Verdict == gloss.Held && len(pic.Source) > 0 && len(pic.Target) > 0 {
					for k := range pic.Source {
						if math.Abs(pic.Source[k][1]-pic.Target[k][1]) > 0.02*(pic.High-pic.Low) {
							t.Errorf("%s onto itself, %s: the two sides differ: %v and %v", p.ID, g.ID, pic.Source[k], pic.Target[k])
							break
						}
					}
				}
			}
		}
	}
	for _, shape := range []synth.Shape{synth.ShapeEnvelope, synth.ShapeFilter, synth.ShapeWave, synth.ShapeLFO, synth.ShapeEchoes} {
		if shapes[shape] == 0 {
			t.Errorf("no picture of %s: %v", shape, shapes)
		}
	}
}
