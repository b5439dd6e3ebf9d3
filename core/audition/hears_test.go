package audition_test

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/audition"
	"glossator/core/dsp"
	"glossator/core/hear"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
	"glossator/testutil/build"
	"glossator/testutil/testrack"
)

var piece = build.Module

type ps = build.Params

// heardFrom renders a row of modules on one note and listens to it.
func heardFrom(t *testing.T, key, seconds float64, routes []meaning.Route, mods ...meaning.Module) *hear.Ear {
	t.Helper()
	m := &meaning.Meaning{Tempo: 120, Modules: append([]meaning.Module{piece("amp", meaning.Amp, nil), piece("v", meaning.Voice, nil)}, mods...), Routes: routes}
	last, behind := "", "amp"
	for _, d := range mods {
		switch d.Kind {
		case meaning.Osc, meaning.Noise:
			m.Audio = append(m.Audio, meaning.Edge{From: d.ID, To: "f"})
		case meaning.Filter:
			last = d.ID
		case meaning.Env, meaning.LFO:
		default:
			m.Audio = append(m.Audio, meaning.Edge{From: behind, To: d.ID})
			behind = d.ID
		}
	}
	if last == "" {
		for i := range m.Audio {
			if m.Audio[i].To == "f" {
				m.Audio[i].To = "amp"
			}
		}
	} else {
		m.Audio = append(m.Audio, meaning.Edge{From: last, To: "amp"})
	}
	s, err := synth.Render([]synth.Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: seconds, Key: key, Velocity: 127}}, synth.Options{Seed: 9, Tail: 8})
	if err != nil {
		t.Fatal(err)
	}
	return hear.Listen(wave(s))
}

func route(from, to string, depth float64, polarity string) meaning.Route {
	return meaning.Route{ID: from + to, From: from, To: []string{to}, Polarity: polarity, Depth: meaning.Value{Quantity: q.Quantity{Value: depth}}}
}

// What is set is what is heard: the engine's settings measured back, each within a just-noticeable difference
// (duration 10 %, 5 ct: Zwicker & Fastl, from memory; reverberation 5 %: ISO 3382-1:2009; others common practice).
// The engine and the measures are each checked against the outside by themselves.
func TestWhatIsSetIsHeard(t *testing.T) {
	saw := func(f ...any) meaning.Module {
		p := ps{"wave": "saw", "level": -6.0}
		for i := 0; i+1 < len(f); i += 2 {
			p[meaning.ParamName(f[i].(string))] = f[i+1]
		}
		return piece("o", meaning.Osc, p)
	}
	figure := func(name string, list []hear.Measured, label string, want, share, abs float64) {
		t.Helper()
		for _, f := range list {
			if f.Label == label {
				if !f.Known || math.Abs(f.Value-want) > share*math.Abs(want)+abs {
					t.Errorf("%s: %s is heard as %.4g %s (known %v), set to %.4g", name, label, f.Value, f.Unit, f.Known, want)
				}
				return
			}
		}
		t.Errorf("%s: no %s", name, label)
	}
	for _, key := range []float64{33, 45, 60, 76, 88} {
		figure(fmt.Sprint("key ", key), heardFrom(t, key, 1, nil, saw()).Measure("pitch", 0), "pitch", float64(q.Note(key).Frequency()), 0.0029, 0)
	}
	for _, sec := range []float64{0.02, 0.1, 0.4, 1} {
		e := piece("e", meaning.Env, ps{"attack": sec, "decay": 0.1, "sustain": 1.0, "release": 0.1, "curve": "linear"})
		// a ramp: 10 to 90 % is eight ninths of the time to 90 %
		figure(fmt.Sprint("attack ", sec), heardFrom(t, 69, sec*2+0.6, []meaning.Route{route("e", "amp.level", 1, "unipolar")}, saw(), e).Measure("attack", 0), "attack (10-90 %)", sec*8/9, 0.1, 0)
	}
	for _, x := range []struct{ decay, sustain float64 }{{0.1, 0}, {0.3, 0.5}, {0.8, 0.2}, {1.5, 0}} {
		e := piece("e", meaning.Env, ps{"attack": 0.002, "decay": x.decay, "sustain": x.sustain, "release": 0.1})
		off := 4 * x.decay
		figure(fmt.Sprint("decay ", x), heardFrom(t, 69, off, []meaning.Route{route("e", "amp.level", 1, "unipolar")}, saw(), e).Measure("decay", off), "decay to 90 %", x.decay, 0.1, 0)
	}
	for _, sec := range []float64{0.1, 0.5, 1.2} {
		e := piece("e", meaning.Env, ps{"attack": 0.002, "decay": 0.1, "sustain": 1.0, "release": sec})
		figure(fmt.Sprint("release ", sec), heardFrom(t, 69, 0.6, []meaning.Route{route("e", "amp.level", 1, "unipolar")}, saw(), e).Measure("release", 0.6), "release to 10 %", sec, 0.1, 0)
	}
	for _, x := range []struct{ fc, poles, res float64 }{{300, 4, 0}, {800, 4, 0.5}, {1500, 2, 0}, {900, 2, 0.6}, {3000, 4, 0.3}} {
		f := piece("f", meaning.Filter, ps{"mode": "lowpass", "poles": x.poles, "cutoff": x.fc, "resonance": x.res})
		noise := piece("n", meaning.Noise, ps{"colour": "white", "level": -18.0})
		list := heardFrom(t, 60, 4, nil, noise, f).Measure("cutoff", 0)
		figure(fmt.Sprint("filter ", x), list, "cutoff", x.fc, 0.06, 0)
		figure(fmt.Sprint("filter ", x), list, "resonant peak", dsp.PeakDB(int(x.poles), x.res), 0, 1.2)
	}
	for _, ct := range []float64{4, 9, 18} {
		two := piece("o2", meaning.Osc, ps{"wave": "saw", "level": -6.0, "interval": ct})
		figure(fmt.Sprint("detune ", ct), heardFrom(t, 57, 5, nil, saw(), two).Measure("detune", 0), "detune", ct, 0, 1)
	}
	for _, w := range []float64{0.1, 0.23, 0.37, 0.5} {
		figure(fmt.Sprint("width ", w), heardFrom(t, 45, 1.2, nil, saw("wave", "pulse", "width", w)).Measure("pulsewidth", 0), "pulse width", 100*w, 0, 1.5)
	}
	for _, x := range []struct{ rate, cents float64 }{{0.8, 15}, {5, 30}, {7, 50}} {
		l := piece("l", meaning.LFO, ps{"wave": "sine", "rate": x.rate, "phase": "reset"})
		list := heardFrom(t, 57, 4, []meaning.Route{route("l", "v.tune", x.cents, "bipolar")}, saw(), l).Measure("lfo", 0)
		figure(fmt.Sprint("vibrato ", x), list, "pitch rate", x.rate, 0.05, 0)
		figure(fmt.Sprint("vibrato ", x), list, "pitch depth", x.cents, 0.12, 1)
	}
	for _, x := range []struct{ time, feedback float64 }{{0.12, 0.3}, {0.25, 0.5}, {0.4, 0.7}} {
		e := piece("e", meaning.Env, ps{"attack": 0.001, "decay": 0.02, "sustain": 0.0, "release": 0.02})
		d := piece("d", meaning.Delay, ps{"time": x.time, "feedback": x.feedback, "mix": 0.5})
		noise := piece("n", meaning.Noise, ps{"colour": "white", "level": -6.0})
		list := heardFrom(t, 60, 0.1, []meaning.Route{route("e", "amp.level", 1, "unipolar")}, noise, e, d).Measure("delay", 0)
		figure(fmt.Sprint("delay ", x), list, "delay time", x.time, 0.01, 0)
		figure(fmt.Sprint("delay ", x), list, "delay feedback", 100*x.feedback, 0, 3)
	}
	for _, t60 := range []float64{0.8, 1.6, 3} {
		e := piece("e", meaning.Env, ps{"attack": 0.001, "decay": 0.03, "sustain": 0.0, "release": 0.02})
		r := piece("r", meaning.Reverb, ps{"t60": t60, "mix": 1.0})
		noise := piece("n", meaning.Noise, ps{"colour": "white", "level": 0.0})
		figure(fmt.Sprint("reverb ", t60), heardFrom(t, 60, 0.1, []meaning.Route{route("e", "amp.level", 1, "unipolar")}, noise, e, r).Measure("t60", 0), "decay to -60 dB", t60, 0.07, 0)
	}
}

// Notes: the patch's own phrase, presets, octaves; what cannot be played is refused.
func TestNotes(t *testing.T) {
	patches := testrack.Patches(t)
	p := patches["keel"]
	own, name, err := audition.Notes(p, "", 0)
	if err != nil || len(own) != len(p.Phrase.Notes) || name == "" {
		t.Fatalf("%d notes, %q, %v", len(own), name, err)
	}
	up, _, err := audition.Notes(p, "", 2)
	if err != nil {
		t.Fatal(err)
	}
	for i := range own {
		if up[i].Key != own[i].Key+24 || up[i].Start != own[i].Start {
			t.Errorf("note %d: key %v, two octaves up %v", i, own[i].Key, up[i].Key)
		}
	}
	for _, x := range phrase.Presets {
		notes, name, err := audition.Notes(p, x.ID, 0)
		if err != nil || len(notes) == 0 || name != x.Name {
			t.Errorf("%s: %d notes, %q, %v", x.ID, len(notes), name, err)
		}
		if off := audition.Off(notes); off <= 0 {
			t.Errorf("%s ends at %v", x.ID, off)
		}
	}
	bare := *p
	bare.Phrase = nil
	if notes, _, err := audition.Notes(&bare, "", 0); err != nil || notes[0].Key != 36 {
		t.Errorf("a bass without a phrase is tried on %v, %v", notes, err)
	}
	for _, x := range []struct {
		preset  string
		octaves int
	}{{"none", 0}, {"", 5}, {"", -5}, {"", -4}} {
		if _, _, err := audition.Notes(p, x.preset, x.octaves); err == nil {
			t.Errorf("%+v was played", x)
		}
	}
}

// A layer has its transposition and level, and one that is not there is refused.
func TestLayers(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	p := *patches["keel"]
	p.Layers = append([]patch.Layer{}, p.Layers...)
	second := p.Layers[0]
	second.ID, second.Transpose, second.Level = "b", "+12 st", "-6 dB"
	p.Layers = append(p.Layers, second)
	all, err := audition.Layers(panels[p.Panel], &p, "")
	if err != nil || len(all) != 2 || all[1].Transpose != 1200 || all[1].Level != -6 {
		t.Fatalf("%v %+v", err, all)
	}
	one, err := audition.Layers(panels[p.Panel], &p, "b")
	if err != nil || len(one) != 1 || one[0].Transpose != 1200 {
		t.Errorf("%v %+v", err, one)
	}
	if _, err := audition.Layers(panels[p.Panel], &p, "c"); err == nil {
		t.Error("a layer that is not there was read")
	}
	var c *panel.Compiled = panels[p.Panel]
	notes, _, _ := audition.Notes(&p, "held", 0)
	s, err := synth.Render(all[1:], notes, synth.Options{Seed: 1})
	if err != nil {
		t.Fatal(err)
	}
	first, err := synth.Render(all[:1], notes, synth.Options{Seed: 1})
	if err != nil {
		t.Fatal(err)
	}
	a, b := hear.Listen(wave(first)).Measure("level", 0)[0], hear.Listen(wave(s)).Measure("level", 0)[0]
	if !a.Known || !b.Known || b.Value >= a.Value+3 {
		t.Errorf("%s: %v and, 6 dB down an octave up, %v", c.Name, a.Value, b.Value)
	}
}

// What would take too long is refused before it is begun.
func TestTooMuchIsRefused(t *testing.T) {
	panels, patches := testrack.Panels(t), testrack.Patches(t)
	p := patches["storm-front"]
	layers, err := audition.Layers(panels[p.Panel], p, "")
	if err != nil {
		t.Fatal(err)
	}
	var many []phrase.Note
	for i := range 2000 {
		many = append(many, phrase.Note{Start: float64(i) * 0.05, End: 110, Key: 40 + float64(i%40), Velocity: 100})
	}
	for i := range layers[0].Meaning.Modules {
		if m := &layers[0].Meaning.Modules[i]; m.Kind == meaning.Voice {
			m.Params["count"] = meaning.Value{Quantity: q.Quantity{Dim: q.DimCount, Value: 128}}
			m.Params["unison"] = meaning.Value{Quantity: q.Quantity{Dim: q.DimCount, Value: 16}}
		}
	}
	if _, err := synth.Render(layers, many, synth.Options{}); err == nil {
		t.Error("hours of voices were rendered")
	}
	if _, err := synth.Render([]synth.Layer{{}}, []phrase.Note{{Start: 0, End: 1, Key: 60, Velocity: 100}}, synth.Options{}); err == nil {
		t.Error("a layer of no meaning was rendered")
	}
	for _, bad := range [][]phrase.Note{nil, {{Start: 1, End: 1, Key: 60}}, {{Start: 0, End: math.NaN(), Key: 60}}, {{Start: 0, End: 1000, Key: 60}}, {{Start: 0, End: 1, Key: 900}}} {
		if _, err := synth.Render(layers, bad, synth.Options{}); err == nil {
			t.Errorf("%+v was rendered", bad)
		}
	}
}
