package synth_test

import (
	"errors"
	"math"
	"runtime"
	"sync/atomic"
	"testing"
	"time"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
	"glossator/testutil/testrack"
)

// However many voices are worked out side by side, the sound is the same to the last bit.
func TestWorkersDoNotMatter(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	for _, id := range []string{"storm-front", "fog-bank", "gulls", "lamp-room", "undertow"} {
		p := patches[id]
		layers, notes := layersOf(t, panels[p.Panel], p), notesOf(t, p)
		var first *synth.Sound
		for _, n := range []int{1, 2, 7} {
			s, err := synth.Render(layers, notes, synth.Options{Seed: 5, Workers: n, Tail: 1})
			if err != nil {
				t.Fatal(err)
			}
			if first == nil {
				first = s
				continue
			}
			if len(s.Left) != len(first.Left) || s.Limited != first.Limited {
				t.Errorf("%s with %d workers: %d samples limited by %v, %d and %v with one", id, n, len(s.Left), s.Limited, len(first.Left), first.Limited)
				continue
			}
			for k := range s.Left {
				if s.Left[k] != first.Left[k] || s.Right[k] != first.Right[k] {
					t.Errorf("%s with %d workers: sample %d is %v, %v with one", id, n, k, s.Left[k], first.Left[k])
					break
				}
			}
			for i := range s.Stages {
				if s.Stages[i] != first.Stages[i] {
					t.Errorf("%s with %d workers: %+v, %+v with one", id, n, s.Stages[i], first.Stages[i])
				}
			}
		}
	}
}

// Wherever a rendering is given up, in the voices or in the effects, it ends soon and leaves nothing running.
func TestStoppedAnywhere(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["storm-front"]
	layers, notes := layersOf(t, panels[p.Panel], p), notesOf(t, p)
	var asked atomic.Int64
	if _, err := synth.Render(layers, notes, synth.Options{Seed: 1, Stop: func() bool { asked.Add(1); return false }}); err != nil {
		t.Fatal(err)
	}
	whole := asked.Load()
	if whole < 100 {
		t.Fatalf("it asks %d times only", whole)
	}
	before := runtime.NumGoroutine() // what is still on its way out of the rendering above only makes it more
	for _, share := range []float64{0, 0.02, 0.1, 0.3, 0.5, 0.7, 0.9} {
		most := int64(share * float64(whole))
		var n atomic.Int64
		s, err := synth.Render(layers, notes, synth.Options{Seed: 1, Stop: func() bool { return n.Add(1) > most }})
		if s != nil || !errors.Is(err, synth.ErrStopped) {
			t.Errorf("stopped after %d of %d: %v", most, whole, err)
		}
	}
	for runtime.NumGoroutine() > before { // or the test's time ends
		runtime.Gosched()
	}
}

// A fault in an effect ends the rendering with an error, not the program, and nothing waits for ever.
func TestFaultInAnEffect(t *testing.T) {
	m := &meaning.Meaning{Tempo: 120, Modules: []meaning.Module{
		{ID: "o", Kind: meaning.Osc, Label: "o", Params: map[meaning.ParamName]meaning.Value{"wave": {Quantity: q.Named(q.DimWave, q.WaveSaw)}}},
		{ID: "amp", Kind: meaning.Amp, Label: "amp"},
		{ID: "r", Kind: meaning.Reverb, Label: "r", Params: map[meaning.ParamName]meaning.Value{
			"t60": {Quantity: q.Quantity{Dim: q.DimDuration, Value: 1}}, "mix": {Quantity: q.Quantity{Dim: q.DimRatio, Value: 0.5}},
			// the network's delays would be longer than any memory
			"size": {Quantity: q.Quantity{Dim: q.DimRatio, Value: 1e15}}}},
		{ID: "d", Kind: meaning.Drive, Label: "d", Params: map[meaning.ParamName]meaning.Value{"curve": {Quantity: q.Named(q.DimName, "soft")}, "gain": {Quantity: q.Quantity{Dim: q.DimLevel, Value: 6}}}},
	}, Audio: []meaning.Edge{{From: "o", To: "amp"}, {From: "amp", To: "d"}, {From: "d", To: "r"}}}
	before := runtime.NumGoroutine()
	done := make(chan error, 1)
	go func() {
		_, err := synth.Render([]synth.Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: 1, Key: 60, Velocity: 100}}, synth.Options{})
		done <- err
	}()
	select {
	case err := <-done:
		if err == nil {
			t.Error("it made a reverb of that size")
		}
	case <-time.After(20 * time.Second):
		t.Fatal("it waits for ever")
	}
	for runtime.NumGoroutine() > before { // or the test's time ends
		runtime.Gosched()
	}
}

// The stages tell the peaks: a gain of 6 dB at the end of a chain shows there and not before.
func TestStagesOfAChain(t *testing.T) {
	sine := func(effects ...meaning.Module) map[string]float64 {
		m := &meaning.Meaning{Tempo: 120, Modules: append([]meaning.Module{
			{ID: "o", Kind: meaning.Osc, Label: "o", Params: map[meaning.ParamName]meaning.Value{"wave": {Quantity: q.Named(q.DimWave, q.WaveSine)}, "level": {Quantity: q.Quantity{Dim: q.DimLevel, Value: -20}}}},
			{ID: "amp", Kind: meaning.Amp, Label: "amp"}}, effects...), Audio: []meaning.Edge{{From: "o", To: "amp"}}}
		last := "amp"
		for _, d := range effects {
			m.Audio = append(m.Audio, meaning.Edge{From: last, To: d.ID})
			last = d.ID
		}
		s, err := synth.Render([]synth.Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: 1, Key: 69, Velocity: 127}}, synth.Options{})
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]float64{}
		for _, x := range s.Stages {
			out[x.Name] = x.Peak
		}
		return out
	}
	eq := func(id string, gain float64) meaning.Module {
		return meaning.Module{ID: id, Kind: meaning.EQ, Label: id, Params: map[meaning.ParamName]meaning.Value{"mode": {Quantity: q.Named(q.DimName, "peak")},
			"freq": {Quantity: q.Quantity{Dim: q.DimFrequency, Value: 440}}, "q": {Quantity: q.Quantity{Value: 0.5}}, "gain": {Quantity: q.Quantity{Dim: q.DimLevel, Value: gain}}}}
	}
	got := sine(eq("up", 6), eq("down", -12))
	for name, want := range map[string]float64{"mixer": -20, "amplifier": -20, "up": -14, "down": -26, "output": -26} {
		if math.Abs(got[name]-want) > 1 {
			t.Errorf("%s peaks at %.1f dB, want %.1f: %v", name, got[name], want, got)
		}
	}
}
