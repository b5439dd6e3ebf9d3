package dialin_test

import (
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

// Whoever has dialled in the first patch and makes the moves of the changeover plays the second: on every instrument, for every two demo patches, the instrument then means what the second sheet's own readings mean. To the same patch nothing is to be done where all is known. Second witness: the panel read as it stands, not the list.
func TestAChangeoverEndsAtTheSecondPatch(t *testing.T) {
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	n, spared := 0, 0
	for _, id := range testrack.IDs(rack) {
		c := rack[id]
		if c.Kind == "rack" {
			continue
		}
		var sheets []*gloss.Sheet
		for _, name := range []string{"keel", "fog-bank", "gulls", "undertow"} {
			p := patches[name]
			s, err := translate.Translate(rack[p.Panel], p, c, translate.Options{School: plan.Numbers})
			if err != nil {
				t.Fatal(err)
			}
			sheets = append(sheets, s)
		}
		for _, a := range sheets {
			for _, b := range sheets {
				x, err := dialin.Between(c, a, b)
				if err != nil {
					t.Fatal(err)
				}
				stands := layer(a)
				for _, m := range x.Moves {
					if m.From != "" && stands.Readings[m.Control] != m.From {
						t.Errorf("%s, %s to %s: %s is said to stand at %s, it is at %s", id, x.From, x.To, m.Control, m.From, stands.Readings[m.Control])
					}
					stands.Readings[m.Control] = m.To
				}
				stands.Cables = layer(b).Cables
				if off := apart(t, c, stands, layer(b)); off > 1e-9 {
					t.Errorf("%s, %s to %s: it sounds otherwise, by %g", id, x.From, x.To, off)
				}
				if a == b && c.Memory && x.Count() > 0 {
					t.Errorf("%s: %d moves from %s to itself: %+v", id, x.Count(), x.From, x.Moves)
				}
				n++
				spared += x.Same
				md := x.Markdown()
				if strings.Count(md, "- [ ]") != x.Count() || !strings.Contains(md, x.To) {
					t.Errorf("%d lines of %d moves:\n%s", strings.Count(md, "- [ ]"), x.Count(), md)
				}
			}
		}
		if _, err := dialin.Between(c, sheets[0], &gloss.Sheet{}); err == nil {
			t.Error("another instrument, and no error")
		}
	}
	if n < 100 || spared == 0 {
		t.Errorf("%d changeovers, %d settings spared", n, spared)
	}
}

func layer(s *gloss.Sheet) *patch.Layer {
	y := &patch.Layer{ID: "a", Readings: map[string]string{}}
	for _, x := range s.Settings {
		y.Readings[x.Control] = x.Reading
	}
	for _, x := range s.Cables {
		y.Cables = append(y.Cables, patch.Cable{From: x.From, To: x.To})
	}
	return y
}

// apart renders a note on both, and gives by how much they differ at the most.
func apart(t *testing.T, c *panel.Compiled, a, b *patch.Layer) (most float64) {
	t.Helper()
	if maps.Equal(a.Readings, b.Readings) && slices.Equal(a.Cables, b.Cables) {
		return 0
	}
	var sounds [2]*synth.Sound
	for i, y := range []*patch.Layer{a, b} {
		st, err := c.Read(y, "")
		if err != nil {
			t.Fatal(err)
		}
		if sounds[i], err = synth.Render([]synth.Layer{{Meaning: c.Interpret(st, panel.DefaultTempo)}}, []phrase.Note{{Key: 45, Velocity: 90, End: 0.3}}, synth.Options{Seed: 3, Tail: 0.1}); err != nil {
			t.Fatal(err)
		}
	}
	for i := range sounds[0].Left {
		most = max(most, math.Abs(sounds[0].Left[i]-sounds[1].Left[i]))
	}
	return most
}

// The pace of a hand is the median of what lies between ticks; pauses, and what was sent by MIDI, do not count; few tell nothing. (Quartiles of 1 to 9 by hand: 2.25 and 6.75 of the way in linear interpolation over the order statistics, as gonum has it.)
func TestPace(t *testing.T) {
	at, times := 0.0, []float64{0}
	for d := 1.0; d <= 9; d++ {
		at += d
		times = append(times, at)
	}
	p := dialin.PaceOf([][]float64{times, {0, 0.01, 0.02, 4000}})
	if p.N != 9 || math.Abs(p.Each-4.5) > 0.51 || p.Low < 2 || p.Low > 3 || p.High < 6 || p.High > 7.5 {
		t.Errorf("%+v", p)
	}
	if few := dialin.PaceOf([][]float64{times[:8]}); few.N != 7 || few.Each != 0 {
		t.Errorf("of seven: %+v", few)
	}
	if none := dialin.PaceOf(nil); none != (dialin.Pace{}) {
		t.Errorf("of nothing: %+v", none)
	}
}

// The time at a list is the sum of what lies between ticks, without pauses.
func TestSpent(t *testing.T) {
	for _, c := range []struct {
		times []float64
		want  float64
	}{{nil, 0}, {[]float64{5}, 0}, {[]float64{0, 4, 9}, 9}, {[]float64{0, 4, 4000, 4003}, 7}, {[]float64{0, 120, 240.5}, 120}} {
		if got := dialin.Spent(c.times); got != c.want {
			t.Errorf("%v: %v, want %v", c.times, got, c.want)
		}
	}
}
