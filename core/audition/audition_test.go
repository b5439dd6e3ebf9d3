package audition_test

import (
	"math"
	"strings"
	"testing"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/testutil/testrack"
)

func wave(s *synth.Sound) hear.Wave {
	return hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right}
}

// Every demo patch on every panel: finite, below full scale, not silent, and without a click at the seam of
// the loop.
func TestDemoOnEveryPanel(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	for _, p := range patches {
		notes, _, err := audition.Notes(p, "", 0)
		if err != nil {
			t.Fatal(err)
		}
		for _, id := range testrack.IDs(panels) {
			sheet, err := translate.Translate(panels[p.Panel], p, panels[id], translate.Options{School: plan.Ear})
			if err != nil {
				t.Fatal(err)
			}
			layer, err := audition.Target(panels[id], p, sheet)
			if err != nil {
				t.Fatal(err)
			}
			s, err := synth.Render([]synth.Layer{layer}, notes, synth.Options{Seed: 3, Wheel: p.Wheel, Tail: 2})
			if err != nil {
				t.Fatal(err)
			}
			peak := 0.0
			for k := range s.Left {
				for _, y := range []float64{s.Left[k], s.Right[k]} {
					if math.IsNaN(y) || math.IsInf(y, 0) {
						t.Fatalf("%s on %s: sample %d is %v", p.ID, id, k, y)
					}
					peak = max(peak, math.Abs(y))
				}
			}
			if peak > synth.Ceiling.Amplitude()+1e-9 {
				t.Errorf("%s on %s: peak %v", p.ID, id, peak)
			}
			if id == p.Panel && peak < 0.01 {
				t.Errorf("%s on its own panel is silent: peak %v", p.ID, peak)
			}
			left, _ := s.Looped()
			// the step over the seam is no larger than the largest step within
			within := 0.0
			for k := 1; k < len(left); k++ {
				within = max(within, math.Abs(left[k]-left[k-1]))
			}
			if seam := math.Abs(left[0] - left[len(left)-1]); seam > within+1e-6 {
				t.Errorf("%s on %s: a step of %v at the seam, %v within", p.ID, id, seam, within)
			}
		}
	}
}

// The same in, the same out; another seed moves phases only.
func TestDeterministic(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	for _, id := range []string{"storm-front", "lamp-room", "keel"} {
		p := patches[id]
		layers, err := audition.Layers(panels[p.Panel], p, "")
		if err != nil {
			t.Fatal(err)
		}
		notes, _, _ := audition.Notes(p, "held", 0)
		a, _ := synth.Render(layers, notes, synth.Options{Seed: 5, Workers: 1})
		b, _ := synth.Render(layers, notes, synth.Options{Seed: 5, Workers: 4})
		for k := range a.Left {
			if a.Left[k] != b.Left[k] || a.Right[k] != b.Right[k] {
				t.Fatalf("%s: sample %d differs", id, k)
			}
		}
	}
}

// Switching a part off is heard where the part is heard, and a part that does nothing is not missed.
func TestWithout(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["keel"]
	layers, err := audition.Layers(panels[p.Panel], p, "")
	if err != nil {
		t.Fatal(err)
	}
	m := layers[0].Meaning
	notes, _, _ := audition.Notes(p, "held", 0)
	play := func(ids ...string) *compare.Sketch {
		s, err := synth.Render([]synth.Layer{{Meaning: audition.Without(m, ids...)}}, notes, synth.Options{Seed: 1})
		if err != nil {
			t.Fatal(err)
		}
		return compare.Sketched(wave(s))
	}
	whole := play()
	for _, part := range audition.Parts(m, nil) {
		if d := compare.Apart(whole, play(part.ID), false); d.Total < 1 {
			t.Errorf("%s is not missed: %+v", part.Label, d)
		}
	}
	if d := compare.Apart(whole, play("nothing-of-that-name"), false); d.Total != 0 {
		t.Errorf("what is not there is missed: %+v", d)
	}
	if d := m.Module("filter"); d.Idle != "" {
		t.Error("the meaning that was given has been changed")
	}
}

// The curve that is drawn is the response that is rendered (a saw's harmonics through Keel's filter).
func TestCurve(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["keel"]
	layers, _ := audition.Layers(panels[p.Panel], p, "")
	m := audition.Without(layers[0].Meaning, "osc2", "osc3", "fenv", "aenv")
	for i := range m.Modules {
		if m.Modules[i].ID == "filter" { // quiet enough not to saturate
			m.Modules[i].Idle = ""
		}
	}
	notes, _, _ := audition.Notes(p, "held", 0)
	render := func(m *meaning.Meaning) *hear.Ear {
		s, err := synth.Render([]synth.Layer{{Meaning: m}}, notes, synth.Options{Seed: 1, Raw: true})
		if err != nil {
			t.Fatal(err)
		}
		return hear.Listen(wave(s))
	}
	with, without := render(m).Bands(), render(audition.Without(m, "filter")).Bands()
	for _, b := range []int{2, 3, 4, 5, 6, 8} {
		hz := hear.ERBFrequency(float64(b) + 0.5)
		want := audition.Curve(m, notes[0].Key, []float64{hz})[0]
		if got := with[b] - without[b]; math.Abs(got-want) > 3 { // a band is wider than a line of the curve
			t.Errorf("at %.0f Hz: rendered %.1f dB, drawn %.1f dB", hz, got, want)
		}
	}
}

// Patches with any readings at all, on every panel: what is rendered is finite and below the ceiling.
func TestGeneratedPatches(t *testing.T) {
	panels := testrack.Panels(t)
	for _, id := range testrack.IDs(panels) {
		for seed := range uint64(12) {
			p := testrack.Generate(panels[id], seed, 0.6)
			layers, err := audition.Layers(panels[id], p, "")
			if err != nil {
				t.Fatal(err)
			}
			notes := []phrase.Note{{Start: 0, End: 0.25, Key: 36 + float64(seed)*5, Velocity: 127}, {Start: 0.2, End: 0.5, Key: 60, Velocity: 40, Slide: true}}
			s, err := synth.Render(layers, notes, synth.Options{Seed: seed, Wheel: 1, Tail: 0.3})
			if err != nil {
				t.Fatal(err)
			}
			for k := range s.Left {
				if l, r := s.Left[k], s.Right[k]; math.IsNaN(l+r) || math.Abs(l) > synth.Ceiling.Amplitude()+1e-9 || math.Abs(r) > synth.Ceiling.Amplitude()+1e-9 {
					t.Fatalf("%s, seed %d: sample %d is %v, %v", id, seed, k, l, r)
				}
			}
		}
	}
}

// A rack behind a meaning is heard: its modules stand beside the others under names of their own, its settings change the sound, and a
// reading that does not fit is refused.
func TestWithRack(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	p, dst, rack := patches["gulls"], panels["bowline"], panels["ballast"]
	s, err := translate.Translate(panels[p.Panel], p, dst, translate.Options{Rack: rack})
	if err != nil || s.Rig == nil {
		t.Fatalf("no rig: %v", err)
	}
	y, err := audition.Target(dst, p, s)
	if err != nil {
		t.Fatal(err)
	}
	behind, err := audition.WithRack(y.Meaning, rack, s.Rig, y.Meaning.Tempo)
	if err != nil {
		t.Fatal(err)
	}
	named := 0
	for i := range behind.Modules {
		if strings.HasPrefix(behind.Modules[i].ID, audition.RackPrefix) {
			named++
			if !strings.HasPrefix(behind.Modules[i].Label, rack.Name) {
				t.Errorf("%s is labelled %q", behind.Modules[i].ID, behind.Modules[i].Label)
			}
		}
	}
	if named == 0 || len(behind.Modules) != len(y.Meaning.Modules)+named || len(behind.Audio) <= len(y.Meaning.Audio) {
		t.Errorf("%d modules of the rack beside %d, %d paths of %d", named, len(y.Meaning.Modules), len(behind.Audio), len(y.Meaning.Audio))
	}
	notes := []phrase.Note{{Start: 0, End: 0.5, Key: 60, Velocity: 100}}
	render := func(m *meaning.Meaning) *synth.Sound {
		x := y
		x.Meaning = m
		out, err := synth.Render([]synth.Layer{x}, notes, synth.Options{Seed: 1})
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	a, b := render(y.Meaning), render(behind)
	apart := 0.0
	for k := range min(len(a.Left), len(b.Left)) {
		apart = max(apart, math.Abs(a.Left[k]-b.Left[k]))
	}
	if apart < 1e-3 {
		t.Errorf("the rack changes nothing: %v", apart)
	}
	bad := *s.Rig
	bad.Settings = append([]gloss.Setting{}, bad.Settings...)
	bad.Settings[0].Reading = "far too much"
	if _, err := audition.WithRack(y.Meaning, rack, &bad, y.Meaning.Tempo); err == nil {
		t.Error("a reading that does not fit was taken")
	}
}
