package synth

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

// valueAt reads a sketch at a place.
func valueAt(list [][2]float64, at float64) float64 {
	for i := 1; i < len(list); i++ {
		if list[i][0] >= at {
			a, b := list[i-1], list[i]
			if b[0] == a[0] {
				return b[1]
			}
			return a[1] + (b[1]-a[1])*(at-a[0])/(b[0]-a[0])
		}
	}
	return list[len(list)-1][1]
}

// A sketch shows what the parameters say: times as 90 % of the way (the project's convention), a filter's cutoff 3.01 dB down for one pole and 12 or 24 dB an octave beyond (Butterworth's limit, circuit theory),
// a pulse high for its width, an LFO round once a period, echoes at multiples of their time, each lower by the feedback.
func TestSketchesShowWhatTheParametersSay(t *testing.T) {
	near := func(what string, got, want, within float64) {
		t.Helper()
		if math.IsNaN(got) || math.Abs(got-want) > within {
			t.Errorf("%s is %.4f, want %.4f", what, got, want)
		}
	}
	env := part("e", meaning.Env, params{"attack": 0.2, "decay": 0.6, "sustain": 0.4, "release": 0.5})
	span, shape, ok := SpanOf(&env)
	if !ok || shape != ShapeEnvelope {
		t.Fatal(shape, ok)
	}
	e := Sketch(&env, 60, span)
	near("the attack at its time", valueAt(e, 0.2), 0.9, 0.02)
	full := 0.0
	for _, x := range e {
		if x[1] >= 0.999 {
			full = x[0]
			break
		}
	}
	near("the decay at its time", valueAt(e, full+0.6), 0.4+0.1*0.6, 0.02)
	near("the release at its time", valueAt(e, span.Held+0.5), 0.1*valueAt(e, span.Held-0.001), 0.02)

	for _, poles := range []int{1, 2, 4} { // poles on one place, without resonance: 10 n log10(1 + (f/fc)^2)
		f := part("f", meaning.Filter, params{"mode": "lowpass", "poles": poles, "cutoff": 500.0, "track": 1.0})
		list := Sketch(&f, 72, Span{}) // an octave above middle C: the cutoff follows to 1 kHz
		near("at its cutoff", valueAt(list, 1000), -3.01*float64(poles), 0.05)
		near("at three times its cutoff", valueAt(list, 3000), -10*float64(poles), 0.05)
	}

	pulse := part("o", meaning.Osc, params{"wave": "pulse", "width": 0.25})
	high, list := 0, Sketch(&pulse, 48, Span{})
	for _, x := range list {
		if x[1] > 0 {
			high++
		}
	}
	near("the share of a pulse that is high", float64(high)/float64(len(list)), 0.25, 0.01)
	near("two periods", list[len(list)-1][0], 2, 1e-9)

	lfo := part("l", meaning.LFO, params{"wave": "sine", "rate": 4.0, "phase": "reset", "delay": 0.1})
	span, _, _ = SpanOf(&lfo)
	l := Sketch(&lfo, 60, span)
	near("before its delay", valueAt(l, 0.05), 0, 1e-9)
	near("a period", valueAt(l, 0.1+1.0/16+0.25)-valueAt(l, 0.1+1.0/16), 0, 0.02)

	delay := part("d", meaning.Delay, params{"time": 0.3, "feedback": 0.5, "mix": 0.4})
	span, _, _ = SpanOf(&delay)
	tops := map[int]float64{}
	for _, x := range Sketch(&delay, 60, span) {
		if x[1] > quietest {
			tops[int(math.Round(x[0]/0.3))] = x[1]
			near("an echo's time", math.Mod(x[0]+1e-9, 0.3), 0, 1e-6)
		}
	}
	near("the first echo", tops[1], 20*math.Log10(0.4), 0.01)
	near("from echo to echo", tops[2]-tops[1], 20*math.Log10(0.5), 0.01)
	// heard: a click through the delay comes back where the sketch has its pillars
	m := simple([]meaning.Route{way("env", "amp.level", 1)}, part("env", meaning.Env, params{"attack": 0.0005, "decay": 0.01, "sustain": 0.0, "release": 0.005}),
		part("o", meaning.Osc, params{"wave": "saw", "level": 0.0, "phase": "reset"}), delay)
	s, err := Render([]Layer{{Meaning: m}}, notesFor(0.5, 1), Options{Seed: 1, Raw: true})
	if err != nil {
		t.Fatal(err)
	}
	peak := func(from, to float64) float64 {
		hi := 0.0
		for k := int(from * Rate); k < int(to*Rate) && k < len(s.Left); k++ {
			hi = max(hi, math.Abs(s.Left[k]))
		}
		return hi
	}
	near("the second echo under the first, as rendered", 20*math.Log10(peak(0.59, 0.66)/peak(0.29, 0.36)), 20*math.Log10(0.5), 0.5)

	for _, kind := range []meaning.Kind{meaning.Amp, meaning.Voice, meaning.Chorus} {
		x := part("x", kind, nil)
		if _, _, ok := SpanOf(&x); ok || Sketch(&x, 60, Span{1, 1}) != nil {
			t.Errorf("%s has a sketch", kind)
		}
	}
	env.Idle = "switched off"
	if Sketch(&env, 60, span) != nil {
		t.Error("what is switched off is drawn")
	}
}
