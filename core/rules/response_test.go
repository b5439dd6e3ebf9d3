package rules

import (
	"math"
	"strings"
	"testing"

	"glossator/core/dsp"
	"glossator/core/meaning"
	"glossator/testutil/build"
)

// beside puts two filters side by side behind an oscillator.
func beside(a, b meaning.Module) *meaning.Meaning {
	m := sound([]meaning.Module{osc("o", 0), mod("amp", meaning.Amp, nil), a, b})
	for _, f := range []meaning.Module{a, b} {
		m.Audio = append(m.Audio, meaning.Edge{From: "o", To: f.ID}, meaning.Edge{From: f.ID, To: "amp"})
	}
	return m
}

var lowpassOnly = targetOf{have: map[meaning.Kind]int{meaning.Filter: 1}, words: []string{"filter.mode=lowpass"}}

// A band-pass of 1 kHz on a target that has a low-pass alone: what comes out nearest lets less of the highs through than no filter, and the reasons say at which note.
var _ = used(&response,
	use{"a band-pass where there are low-passes", lowpassOnly.case_(sound([]meaning.Module{mod("f", meaning.Filter, p{"mode": "bandpass", "poles": 2, "cutoff": 700.0})}), "f"),
		figures{}, nil, "bandpass is not there: a lowpass at"},
)

// 300 Hz below and 3 kHz above, side by side, leave a hole in the middle: a notch is nearest to it, and lies between them.
var _ = used(&oneFilter,
	use{"a low-pass beside a high-pass is a notch", targetOf{have: map[meaning.Kind]int{meaning.Filter: 1}, words: []string{"filter.mode=lowpass", "filter.mode=highpass", "filter.mode=notch"}}.case_(
		beside(mod("a", meaning.Filter, p{"mode": "lowpass", "poles": 2, "cutoff": 300.0}), mod("b", meaning.Filter, p{"mode": "highpass", "poles": 2, "cutoff": 3000.0})), "b"),
		figures{}, []string{"b"}, "side by side come out nearest at C4 by one notch"},
)

// What is found is the nearest of all that can be set: no other mode and cutoff, tried one by one in finer steps, lies nearer by more than a tenth of a decibel.
func TestNearestFilterIsNearest(t *testing.T) {
	for _, x := range []struct {
		mode   string
		cutoff float64
	}{{"bandpass", 300}, {"bandpass", 2000}, {"highpass", 800}, {"notch", 1000}, {"lowpass", 600}} {
		m := mod("f", meaning.Filter, p{"mode": x.mode, "poles": 2, "cutoff": x.cutoff})
		c := targetOf{words: []string{"filter.mode=lowpass", "filter.mode=highpass"}}.case_(sound([]meaning.Module{m}))
		want := func(hz float64) complex128 { return m.FilterGain(60, hz) }
		got := c.nearestFilter(&m, want)
		if got == nil || got.apart > got.open+1e-9 && x.mode != "notch" {
			t.Errorf("%s at %v Hz: %+v", x.mode, x.cutoff, got)
			continue
		}
		if (x.mode == "lowpass" || x.mode == "highpass") && (got.mode != x.mode || math.Abs(math.Log2(got.cutoff/x.cutoff)) > 0.15 || got.apart > 1) {
			t.Errorf("%s at %v Hz comes out as %s at %.0f Hz, %.2f dB off", x.mode, x.cutoff, got.mode, got.cutoff, got.apart)
		}
	}
}

// The sum of two filters is that of their gains, by the closed forms.
func TestPathGain(t *testing.T) {
	a, b := mod("a", meaning.Filter, p{"mode": "lowpass", "poles": 2, "cutoff": 500.0}), mod("b", meaning.Filter, p{"mode": "highpass", "poles": 4, "cutoff": 2000.0})
	m := beside(a, b)
	for _, hz := range []float64{100, 800, 1500, 5000} {
		got := m.Graph().Path().Gain("o", func(f *meaning.Module) complex128 { return f.FilterGain(60, hz) })
		want := dsp.Response{Mode: dsp.Lowpass, Poles: 2, Cutoff: 500}.Gain(hz) + dsp.Response{Mode: dsp.Highpass, Poles: 4, Cutoff: 2000}.Gain(hz)
		if d := got - want; math.Hypot(real(d), imag(d)) > 1e-9 {
			t.Errorf("at %v Hz: %v, want %v", hz, got, want)
		}
	}
	row := build.Row(nil, osc("o", 0), a, b)
	got := row.Graph().Path().Gain("o", func(f *meaning.Module) complex128 { return f.FilterGain(60, 800) })
	if want := a.FilterGain(60, 800) * b.FilterGain(60, 800); math.Abs(real(got-want)) > 1e-9 {
		t.Errorf("in a row: %v, want %v", got, want)
	}
}

// Two filters of which one has a sine alone, far open, come out as the other one: a sine has nothing up there that would ask for the highs. Counted as loud at every frequency as it is at its own, the two came out at 3.5 kHz for a saw
// behind 151 Hz. The witness is the cutoff of the filter that is heard.
func TestASineAsksForNoHighs(t *testing.T) {
	saw, sine := osc("saw", 0), mod("sine", meaning.Osc, p{"wave": "sine", "interval": -1200.0, "level": 0.0})
	a, b := mod("a", meaning.Filter, p{"mode": "lowpass", "poles": 4, "cutoff": 151.0}), mod("b", meaning.Filter, p{"mode": "lowpass", "poles": 4, "cutoff": 17000.0})
	m := sound([]meaning.Module{saw, sine, mod("amp", meaning.Amp, nil), a, b})
	m.Audio = []meaning.Edge{{From: "saw", To: "a"}, {From: "sine", To: "b"}, {From: "a", To: "amp"}, {From: "b", To: "amp"}}
	list := oneFilter.Try(lowpassOnly.case_(m, "b"))
	if len(list) != 1 {
		t.Fatalf("%d ways", len(list))
	}
	v, _ := list[0].Meaning.Module("a~").Get(meaning.PCutoff)
	if math.Abs(math.Log2(v.Value/151)) > 0.7 {
		t.Errorf("the two come out at %.0f Hz", v.Value)
	}
}

// What a rule has changed stays in the way of the sound: the operators that play oscillators lead where those led.
func TestChangedPartsKeepTheirWay(t *testing.T) {
	m := sound([]meaning.Module{osc("x", 0), osc("y", 700), osc("z", 1200), mod("amp", meaning.Amp, nil)})
	for _, id := range []string{"x", "y", "z"} {
		m.Audio = append(m.Audio, meaning.Edge{From: id, To: "amp"})
	}
	c := targetOf{have: map[meaning.Kind]int{meaning.Operator: 6}}.case_(m, "x", "y", "z")
	all := 0
	for _, r := range asOperator.Try(c) {
		ops := 0
		for i := range r.Meaning.Modules {
			if d := &r.Meaning.Modules[i]; d.Kind == meaning.Operator {
				if ops++; strings.HasSuffix(d.ID, "~") && !r.Meaning.Leads(d.ID, "amp") { // what only modulates leads nowhere
					t.Errorf("%s: %s leads nowhere", r.Text, d.ID)
				}
			}
		}
		all = max(all, ops)
	}
	if all != 3 {
		t.Errorf("at most %d operators in one go, expected all three", all)
	}
	if !m.Leads("x", "amp") {
		t.Error("the source has been changed")
	}
}
