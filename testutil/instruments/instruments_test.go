package instruments_test

import (
	"testing"

	"glossator/core/audition"
	"glossator/core/hear"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/testutil/instruments"
)

// Every invented panel compiles and every invented patch on it sounds.
func TestInvented(t *testing.T) {
	for seed := range uint64(60) {
		c, err := instruments.Panel(seed)
		if err != nil {
			t.Errorf("panel %d: %v", seed, err)
			continue
		}
		p := instruments.Patch(c, seed)
		layers, err := audition.Layers(c, p, "")
		if err != nil {
			t.Errorf("patch %d: %v", seed, err)
			continue
		}
		notes, _, err := audition.Notes(p, "", 0)
		if err != nil {
			t.Fatal(err)
		}
		s, err := synth.Render(layers, refine.Excerpt(notes), synth.Options{Seed: 1, Tail: 0.5})
		if err != nil {
			t.Fatal(err)
		}
		if _, ok := hear.Loudness(hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right}); !ok {
			t.Errorf("patch %d is silent", seed)
		}
	}
}
