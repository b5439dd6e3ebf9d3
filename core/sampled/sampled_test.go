package sampled_test

import (
	"maps"
	"math"
	"slices"
	"testing"

	"glossator/core/audition"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/sampled"
	"glossator/core/synth"
	"glossator/testutil/testrack"
)

func set(t *testing.T, patch string, low, high int) *sampled.Set {
	t.Helper()
	p := testrack.Patches(t)[patch]
	layers, err := audition.Played(testrack.Panels(t)[p.Panel], p, "")
	if err != nil {
		t.Fatal(err)
	}
	s, err := sampled.Make(sampled.Task{Name: p.Name, Layers: layers, Low: low, High: high, Seed: 1})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// Every key and every velocity from 1 to 127 is played by exactly one sample, which is no more than a whole tone and a half away.
func TestEveryKeyHasOneSample(t *testing.T) {
	for _, c := range []struct {
		patch     string
		low, high int
	}{{"keel", 33, 50}, {"gulls", 60, 60}, {"fog-bank", 58, 62}} {
		s := set(t, c.patch, c.low, c.high)
		for key := c.low; key <= c.high; key++ {
			for v := 1; v <= 127; v++ {
				n := 0
				for _, r := range s.Regions {
					if key >= r.Low && key <= r.High && v >= r.Softest && v <= r.Hardest {
						n++
						if d := r.Key - key; d > sampled.Apart || d < -sampled.Apart {
							t.Errorf("%s: key %d is played by that of %d", c.patch, key, r.Key)
						}
					}
				}
				if n != 1 {
					t.Fatalf("%s: key %d, velocity %d is played by %d samples", c.patch, key, v, n)
				}
			}
		}
	}
}

// A held note that is looped sounds on as it did: its level does not jump at the seam, nor its pitch, over many rounds.
func TestLoopsAreNotHeard(t *testing.T) {
	looped := 0
	for _, patch := range []string{"keel", "foghorn", "morning-light"} {
		for _, r := range set(t, patch, 48, 52).Regions {
			if r.LoopTo == 0 {
				continue
			}
			looped++
			long := append([]float64{}, r.Left[:r.LoopTo+1]...)
			for range 3 {
				long = append(long, r.Left[r.LoopFrom:r.LoopTo+1]...)
			}
			seam := r.LoopTo
			step, most := math.Abs(long[seam+1]-long[seam]), 0.0
			for i := r.LoopFrom; i < r.LoopTo; i++ {
				most = max(most, math.Abs(long[i+1]-long[i]))
			}
			if step > 1.2*most {
				t.Errorf("%s, key %d: a step of %.3f at the seam, %.3f elsewhere", patch, r.Key, step, most)
			}
			before := hear.Listen(hear.Wave{Rate: synth.Rate, Left: long[r.LoopFrom : r.LoopTo+1]}).Loudness().Value
			after := hear.Listen(hear.Wave{Rate: synth.Rate, Left: long[len(long)-2*(r.LoopTo-r.LoopFrom):]}).Loudness().Value
			if math.Abs(before-after) > 1 {
				t.Errorf("%s, key %d: %.1f LUFS before the loop, %.1f in it", patch, r.Key, before, after)
			}
		}
	}
	if looped < 3 {
		t.Errorf("%d loops", looped)
	}
}

// A pluck ends by itself and is not looped; a longer release takes longer to be gone, by as much.
func TestEndsAndReleases(t *testing.T) {
	for _, r := range set(t, "tide-pool", 60, 60).Regions {
		if r.LoopTo != 0 {
			t.Error("a pluck is looped")
		}
	}
	rack, p := testrack.Panels(t), testrack.Patches(t)["foghorn"]
	var times, set [2]float64
	for i, reading := range []string{"11:00", "1:00"} {
		q := *p
		q.Layers = slices.Clone(q.Layers)
		q.Layers[0].Readings = maps.Clone(q.Layers[0].Readings)
		q.Layers[0].Readings["env.release"], q.Layers[0].Readings["spring"] = reading, "7:00"
		layers, err := audition.Played(rack[q.Panel], &q, "")
		if err != nil {
			t.Fatal(err)
		}
		s, err := sampled.Make(sampled.Task{Layers: layers, Low: 60, High: 60})
		if err != nil {
			t.Fatal(err)
		}
		times[i] = s.Regions[0].Release
		for _, m := range layers[0].Meaning.Modules {
			if m.ID == "env" {
				v, _ := m.Get(meaning.PRelease)
				set[i] = v.Value
			}
		}
	}
	if x := times[1] / times[0] / (set[1] / set[0]); x < 0.6 || x > 1.6 || set[1] < 2*set[0] {
		t.Errorf("releases of %v s are gone after %v s", set, times)
	}
	for _, bad := range [][2]int{{-1, 40}, {40, 30}, {0, 128}} {
		if _, err := sampled.Make(sampled.Task{Layers: []synth.Layer{{}}, Low: bad[0], High: bad[1]}); err == nil {
			t.Errorf("keys %v are taken", bad)
		}
	}
	if _, err := sampled.Make(sampled.Task{Low: 1, High: 2}); err == nil {
		t.Error("nothing is taken")
	}
}
