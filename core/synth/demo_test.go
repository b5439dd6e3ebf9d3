package synth_test

import (
	"math"
	"testing"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
	"glossator/testutil/testrack"
)

// layersOf reads a patch into layers.
func layersOf(t testing.TB, c *panel.Compiled, p *patch.Patch) []synth.Layer {
	t.Helper()
	var out []synth.Layer
	for i := range p.Layers {
		s, err := c.Read(&p.Layers[i], "")
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, synth.Layer{Meaning: c.Interpret(s, q.Tempo(p.Tempo))})
	}
	return out
}

func notesOf(t testing.TB, p *patch.Patch) []phrase.Note {
	t.Helper()
	tempo := q.Tempo(p.Tempo)
	if tempo == 0 {
		tempo = panel.DefaultTempo
	}
	notes, err := phrase.Timeline(p.Phrase, tempo)
	if err != nil {
		t.Fatal(err)
	}
	return notes
}

func TestDemoPatches(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	for _, p := range patches {
		s, err := synth.Render(layersOf(t, panels[p.Panel], p), notesOf(t, p), synth.Options{Seed: 1, Wheel: p.Wheel})
		if err != nil {
			t.Fatal(p.ID, err)
		}
		peak, sum := 0.0, 0.0
		for k := range s.Left {
			for _, y := range []float64{s.Left[k], s.Right[k]} {
				if math.IsNaN(y) || math.IsInf(y, 0) {
					t.Fatalf("%s: sample %d is %v", p.ID, k, y)
				}
				peak = max(peak, math.Abs(y))
				sum += y * y
			}
		}
		t.Logf("%s: %.2f s peak %.1f dB rms %.1f dB limited %.1f stages %v %v", p.ID, float64(len(s.Left))/synth.Rate, 20*math.Log10(peak), 10*math.Log10(sum/float64(2*len(s.Left))), s.Limited, s.Stages, s.Assumed)
	}
}

func BenchmarkDemo(b *testing.B) {
	panels, patches := testrack.Panels(b), testrack.Patches(b)
	for _, p := range patches {
		b.Run(p.ID, func(b *testing.B) {
			layers, notes := layersOf(b, panels[p.Panel], p), notesOf(b, p)
			length := 0
			for b.Loop() {
				s, err := synth.Render(layers, notes, synth.Options{Seed: 1})
				if err != nil {
					b.Fatal(err)
				}
				length = len(s.Left)
			}
			seconds := float64(length) / synth.Rate
			b.ReportMetric(b.Elapsed().Seconds()/float64(b.N)/seconds*10, "s/10s")
		})
	}
}
