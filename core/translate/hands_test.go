package translate_test

import (
	"slices"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/meaning"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// A wheel is left up for something: where the sheet says so, the target has a route that it brings in.
func TestAWheelIsLeftUpForSomething(t *testing.T) {
	rack, left := testrack.Panels(t), 0
	for _, id := range testrack.IDs(rack) {
		for _, to := range []string{"windlass", "kedge"} {
			for seed := range uint64(30) {
				p := testrack.Generate(rack[id], seed, 0.35)
				in, s := made(t, rack[id], p, rack[to])
				if s.Hands == nil || s.Hands.Wheel == 0 {
					continue
				}
				left++
				if s.Hands.Wheel < 0 || s.Hands.Wheel > 1 || !slices.ContainsFunc(in.Got.Routes, func(r meaning.Route) bool { return r.Used() && r.Via == "wheel" && r.Depth.Value != 0 }) {
					t.Errorf("%s, seed %d, to %s: the wheel is left at %v, and brings in nothing", id, seed, to, s.Hands.Wheel)
				}
			}
		}
	}
	if left < 5 {
		t.Errorf("it is left up on %d sheets alone", left)
	}
}

// What the hands make up for is heard in the translation as it is in the source: a chord memory by the fingers, a line in another octave. The first plan by numbers that has either is rendered, and is no octave off.
func TestTheHandsMakeUpForIt(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	s := sheet(t, rack["sheave"], patches["morning-light"], rack["binnacle"], translate.Options{School: plan.Numbers})
	if s.Hands == nil || len(s.Hands.Chord) != 4 {
		t.Fatalf("the hands hold %+v", s.Hands)
	}
	octaves, better := 0, 0
	for _, src := range testrack.IDs(rack) {
		for _, dst := range testrack.IDs(rack) {
			for seed := range uint64(12) {
				if src == dst || octaves == 6 {
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
				bare, m := y, *y.Meaning
				m.Hands = nil
				bare.Meaning = &m
				with, without := far(y), far(bare)
				t.Logf("%s seed %d > %s: octaves %d: %.1f as played, %.1f as it stands", src, seed, dst, s.Hands.Octaves, with, without)
				if with > without+1 {
					t.Errorf("%s, seed %d, to %s: %.1f just-noticeable differences out of tune as it is played, %.1f as it stands", src, seed, dst, with, without)
				}
				if octaves++; without > 10 && with < 5 {
					better++
				}
			}
		}
	}
	if better < 2 {
		t.Errorf("of %d lines that are played in another octave %d are in tune for it", octaves, better)
	}
}
