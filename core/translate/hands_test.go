package translate_test

import (
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// What the hands make up for is heard in the translation as it is in the source: a chord memory by the fingers, a line in another octave. The first plan by numbers that has either is rendered, and is no octave off.
func TestTheHandsMakeUpForIt(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	s := sheet(t, rack["sheave"], patches["morning-light"], rack["binnacle"], translate.Options{School: plan.Numbers})
	if s.Hands == nil || len(s.Hands.Chord) != 4 {
		t.Fatalf("the hands hold %+v", s.Hands)
	}
	octaves := 0
	for _, src := range testrack.IDs(rack) {
		for _, dst := range testrack.IDs(rack) {
			for seed := range uint64(12) {
				if src == dst || octaves == 3 {
					continue
				}
				p := testrack.Generate(rack[src], seed, 0.35)
				s := sheet(t, rack[src], p, rack[dst], translate.Options{School: plan.Numbers})
				if s.Hands == nil || s.Hands.Octaves == 0 {
					continue
				}
				notes, _, err := audition.Notes(p, "", 0)
				if err != nil {
					t.Fatal(err)
				}
				y, err := audition.Target(rack[dst], p, s)
				if err != nil {
					t.Fatal(err)
				}
				x, err := audition.Layers(rack[src], p, "")
				if err != nil {
					t.Fatal(err)
				}
				play := refine.Hear(p.Wheel)
				line := refine.Excerpt(notes)[:1]
				far := func(m synth.Layer) float64 {
					a, err := play.Take(x[:1], line, 0, 1)
					if err != nil {
						t.Fatal(err)
					}
					b, err := play.Take([]synth.Layer{m}, line, 0, 1)
					if err != nil {
						t.Fatal(err)
					}
					return compare.Apart(a, b, false).Pitch
				}
				with := far(y)
				bare := y
				m := *y.Meaning
				m.Hands = nil
				bare.Meaning = &m
				if without := far(bare); with > 15 && without < with {
					t.Errorf("%s, seed %d, to %s: %.1f just-noticeable differences out of tune as it is played, %.1f as it stands", src, seed, dst, with, without)
				}
				octaves++
			}
		}
	}
	t.Logf("%d lines are played in another octave", octaves)
}
