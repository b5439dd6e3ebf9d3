package structures

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/testutil/hearing"
	"glossator/testutil/testrack"
)

// A vibrato for good on an instrument whose LFO only the wheel brings in: the sheet says how far to leave it up, by the depth at full wheel, and it is heard.
func TestVibratoByAWheelThatIsLeftUp(t *testing.T) {
	rack := testrack.Panels(t)
	src, dst := rack["halyard"], rack["windlass"]
	p := &patch.Patch{Format: patch.Format, Version: patch.Version, ID: "vib", Name: "vib", Panel: src.ID, PanelRevision: src.Revision, Kind: "lead", Tempo: 120,
		Layers: []patch.Layer{{ID: "a", Readings: map[string]string{"lfo1.dest": "pitch", "lfo1.amount": "15", "lfo1.rate": "90", "lfo1.wave": "triangle", "wlfo.pitch": "0"}}},
		Phrase: &patch.Phrase{Notes: []patch.PhraseNote{{At: "0", For: "1/2", Note: "A3", Velocity: 100}, {At: "1/2", For: "1/2", Note: "E4", Velocity: 100}}}}
	in, s, up := hearing.Listen(t, src, p, dst, plan.Numbers, false)
	if s.Hands == nil || s.Hands.Wheel <= 0 || s.Hands.Wheel > 1 {
		t.Fatalf("the hands are %+v", s.Hands)
	}
	there, here := 0.0, 0.0
	for i := range in.Plan.Wanted.Routes {
		if r := &in.Plan.Wanted.Routes[i]; r.Used() && strings.HasPrefix(r.From, "lfo1") {
			there = r.Depth.Value
		}
	}
	for i := range in.Got.Routes {
		if r := &in.Got.Routes[i]; r.Used() && r.Via == "wheel" {
			here = r.Depth.Value
		}
	}
	if there == 0 || math.Abs(here*s.Hands.Wheel/there-1) > 0.2 {
		t.Errorf("left at %v: %.1f ct, wanted %.1f", s.Hands.Wheel, here*s.Hands.Wheel, there)
	}
	if note := fmt.Sprintf("to %.0f %%", 100*s.Hands.Wheel); !slices.ContainsFunc(s.Notes, func(n string) bool { return strings.Contains(n, "modulation wheel") && strings.Contains(n, note) }) {
		t.Errorf("no note says %q: %q", note, s.Notes)
	}
	if x := hearing.Check(up, "I8"); x == nil || !x.OK {
		t.Errorf("%+v", x)
	}
	down := *p
	down.ID = "still"
	down.Layers = []patch.Layer{{ID: "a", Readings: map[string]string{"lfo1.dest": "none", "lfo1.amount": "15", "lfo1.rate": "90", "lfo1.wave": "triangle", "wlfo.pitch": "0"}}}
	_, still, _ := hearing.Listen(t, src, &down, dst, plan.Numbers, false)
	if still.Hands != nil {
		t.Errorf("without the vibrato the hands are %+v", still.Hands)
	}
	heard := func(m meaning.Meaning, hands *meaning.Hands) *compare.Sketch {
		m.Hands = hands
		x, err := synth.Render([]synth.Layer{{Meaning: &m}}, []phrase.Note{{End: 2, Key: 57, Velocity: 100}}, synth.Options{Seed: 1})
		if err != nil {
			t.Fatal(err)
		}
		return compare.Sketched(hear.Wave{Rate: synth.Rate, Left: x.Left, Right: x.Right})
	}
	if d := compare.Apart(heard(*in.Got, s.Hands), heard(*in.Got, nil), false); d.Total < 1 {
		t.Errorf("with the wheel left up it is %.1f from what it is with the wheel down", d.Total)
	}
}
