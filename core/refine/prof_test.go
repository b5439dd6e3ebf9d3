package refine_test

import (
	"testing"
	"time"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/testutil/testrack"
)

func TestProf(t *testing.T) {
	rack := testrack.Panels(t)
	for range 3 {
	for id, p := range testrack.Patches(t) {
		src := rack[p.Panel]
		notes, _, _ := audition.Notes(p, "", 0)
		notes = refine.Excerpt(notes)
		ls, err := audition.Layers(src, p, "")
		if err != nil {
			continue
		}
		at := time.Now()
		s, err := synth.Render(ls[:1], notes, synth.Options{Seed: 1, Wheel: p.Wheel, Tail: 0.6, Workers: 1})
		if err != nil {
			t.Log(id, err)
			continue
		}
		a := time.Since(at)
		at = time.Now()
		compare.Sketched(hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right})
		t.Log(id, "notes", len(notes), "render", a, "sketch", time.Since(at), "seconds", float64(len(s.Left))/48000.0)
	}
	}
}
