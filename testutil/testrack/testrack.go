// Package testrack gives tests of the core the panels that ship with the program, and
// patches generated on them.
package testrack

import (
	"fmt"
	"math/rand/v2"
	"sort"
	"testing"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/demo"
	"glossator/formats"
)

// Panels gives the shipped panels, by id.
func Panels(t testing.TB) map[string]*panel.Compiled {
	t.Helper()
	out := map[string]*panel.Compiled{}
	for _, f := range demo.Panels() {
		c, err := formats.ReadPanel(f.Name, f.Data)
		if err != nil {
			t.Fatal(err)
		}
		out[c.ID] = c
	}
	return out
}

// IDs lists the ids of panels in order.
func IDs(rack map[string]*panel.Compiled) []string {
	out := make([]string, 0, len(rack))
	for id := range rack {
		out = append(out, id)
	}
	sort.Strings(out)
	return out
}

// Patches gives the demo's patches, by id.
func Patches(t testing.TB) map[string]*patch.Patch {
	t.Helper()
	out := map[string]*patch.Patch{}
	for _, f := range demo.Patches() {
		p, err := formats.ReadPatch(f.Name, f.Data)
		if err != nil {
			t.Fatal(err)
		}
		out[p.ID] = p
	}
	return out
}

// Generate makes a patch on a panel: about a share of the controls stand anywhere on their
// faces, some cables are plugged, all from the seed.
func Generate(c *panel.Compiled, seed uint64, share float64) *patch.Patch {
	rng := rand.New(rand.NewPCG(seed, 17))
	readings := map[string]string{}
	for i := range c.Controls {
		n := c.Controls[i].Face.Len()
		if n == 0 || rng.Float64() > share {
			continue
		}
		readings[c.Controls[i].ID] = c.Controls[i].Face.At(rng.IntN(n)).Reading
	}
	layer := patch.Layer{ID: "a", Readings: readings}
	taken := map[string]bool{}
	for _, out := range c.Points {
		if out.Dir != "out" || rng.Float64() > share/2 {
			continue
		}
		in := c.Points[rng.IntN(len(c.Points))]
		if in.Dir == "in" && !taken[in.ID] {
			taken[in.ID] = true
			layer.Cables = append(layer.Cables, patch.Cable{From: out.ID, To: in.ID})
		}
	}
	p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: fmt.Sprintf("made-%d", seed), Name: "Made", Panel: c.ID,
		Kind: patch.Kinds[rng.IntN(len(patch.Kinds))], Tempo: float64(60 + rng.IntN(120)), Layers: []patch.Layer{layer}}
	if _, err := c.Read(&p.Layers[0], ""); err != nil {
		p.Layers[0].Cables = nil // the cables led back to themselves
	}
	return p
}
