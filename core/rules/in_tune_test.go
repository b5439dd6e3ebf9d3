package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// bar is an oscillator of an organ: a wave at an interval and a level.
func bar(id, wave string, interval, level float64) meaning.Module {
	return mod(id, meaning.Osc, p{"wave": wave, "interval": interval, "level": level})
}

var one = targetOf{have: map[meaning.Kind]int{meaning.Osc: 1}}

var _ = used(&inTune,
	use{"a sine and its third harmonic are nearest to a pulse", one.case_(sound([]meaning.Module{bar("a", "sine", 0, 0), bar("b", "sine", 1901.955, -10)}), "b"),
		figures{"a~.interval": 0}, []string{"b"}, "nearest to what the two play"},
	use{"the lower one is lost: what has a place goes down to it", one.case_(sound([]meaning.Module{bar("a", "saw", 0, -6), mod("s", meaning.Sub, p{"wave": "pulse", "interval": -1200.0, "level": -6.0})}), "s"),
		figures{"a~.interval": -1200}, []string{"s"}, "a harmonic of it"},
)

// An operator without a place that nothing modulates is an oscillator as any other: its harmonic goes into the wave of one that has a place.
func TestAnOperatorInTuneGoesIntoTheWave(t *testing.T) {
	plain := mod("p", meaning.Operator, p{"interval": 1901.955, "output": -4.0, "level": -6.0, "wave": "sine"})
	got := inTune.Try(one.case_(sound([]meaning.Module{bar("a", "sine", 0, 0), plain}), "p"))
	if len(got) != 1 || got[0].Meaning.Module("p") != nil || got[0].Meaning.Module("a~") == nil {
		t.Fatalf("%d uses: %+v", len(got), got)
	}
	if to := got[0].Map["p.output"]; to != "a~.level" {
		t.Errorf("its output is in %q", to)
	}
	by := mod("q", meaning.Operator, p{"interval": 0.0, "level": 0.0, "wave": "sine"})
	if got := inTune.Try(one.case_(sound([]meaning.Module{bar("a", "sine", 0, 0), plain, by}, way("m", "q", "p.pm", 0.5, "bipolar")), "p", "q")); len(got) > 0 {
		t.Errorf("one that is modulated: %s", got[0].Text)
	}
	if got := inTune.Try(targetOf{have: map[meaning.Kind]int{meaning.Osc: 1}}.case_(sound([]meaning.Module{plain, mod("p2", meaning.Operator, p{"output": 0.0})}), "p", "p2")); len(got) > 0 {
		t.Errorf("none of the two is an oscillator: %s", got[0].Text)
	}
}

// Two oscillators are one wave where one is a harmonic of the other and both stay as they are; where they beat, move alone, modulate or are silent they are two.
func TestOnlyWhatIsInTuneIsOneWave(t *testing.T) {
	width := way("w", "lfo", "b.width", 0.3, "bipolar")
	mover := mod("lfo", meaning.LFO, p{"rate": 2.0, "wave": "triangle"})
	for _, x := range []struct {
		name string
		b    meaning.Module
		more []meaning.Route
		want bool
	}{
		{"a twelfth up", bar("b", "sine", 1901.955, -10), nil, true},
		{"a fifth", bar("b", "sine", 700, -6), nil, false},
		{"a beating octave", bar("b", "sine", 1215, -6), nil, false},
		{"its width moves", bar("b", "pulse", 1200, -9), []meaning.Route{width}, false},
		{"it is silent", mod("b", meaning.Osc, p{"wave": "sine", "interval": 1200.0, "level": nil}), nil, false},
		{"in sync", mod("b", meaning.Osc, p{"wave": "sine", "interval": 1200.0, "level": -6.0, "sync": "hard"}), nil, false},
		{"on the other side", mod("b", meaning.Osc, p{"wave": "sine", "interval": 1200.0, "level": -6.0, "pan": 0.8}), nil, false},
	} {
		got := inTune.Try(one.case_(sound([]meaning.Module{bar("a", "sine", 0, 0), x.b, mover}, x.more...), "b"))
		if (len(got) > 0) != x.want {
			t.Errorf("%s: %d ways", x.name, len(got))
		}
	}
	if got := inTune.Try(one.case_(sound([]meaning.Module{bar("a", "sine", 0, 0), bar("b", "sine", 1200, -6)}))); len(got) > 0 {
		t.Error("both have a place: nothing is to be made")
	}
}

// The one wave has the power of the two at the fundamental and lies nearer to them than either does alone: by the harmonics themselves (Fourier series).
func TestTheOneWaveIsNearer(t *testing.T) {
	for _, up := range []float64{2, 3, 4} {
		for _, db := range []float64{-18, -9, 0} {
			a, b := bar("a", "sine", 0, 0), bar("b", "saw", 1200*math.Log2(up), db)
			got := inTune.Try(one.case_(sound([]meaning.Module{a, b}), "b"))
			sum := Harmonics(&a, HarmonicsCompared)
			for i, x := range Harmonics(&b, HarmonicsCompared) {
				if h := (i+1)*int(up) - 1; h < len(sum) {
					sum[h] = math.Hypot(sum[h], x*q.Level(db).Amplitude())
				}
			}
			for _, r := range got {
				m := r.Meaning.Module("a~")
				if with, without := loudnessApart(sum, Harmonics(m, HarmonicsCompared)), loudnessApart(sum, Harmonics(&a, HarmonicsCompared)); with > without-inTuneNearer+1e-9 {
					t.Errorf("%g times, %g dB: the wave is %.3f off, without the other it is %.3f", up, db, with, without)
				}
			}
		}
	}
}

// A filter that lets little through of the upper one takes it out of the comparison: the fundamental decides.
func TestTheOneWaveIsHeardThroughTheFilter(t *testing.T) {
	shut := mod("f", meaning.Filter, p{"mode": "lowpass", "poles": 4, "cutoff": 300.0, "resonance": 0.0})
	m := sound([]meaning.Module{bar("a", "pulse", 0, -9), bar("b", "sine", 1901.955, 0), shut, amp})
	m.Audio = []meaning.Edge{{From: "a", To: "f"}, {From: "b", To: "f"}, {From: "f", To: "amp"}, {From: "amp", To: "out"}}
	c := one.case_(m, "a")
	a := c.Meaning.Module("a")
	through := c.through(a)
	if !(through[0] > 3*through[2] && through[2] > through[5]) {
		t.Fatalf("what a low-pass at 300 Hz lets through of C4: %.3f", through[:6])
	}
	for _, r := range inTune.Try(c) {
		if x := r.Meaning.Module("a~"); x == nil || get(x, meaning.PInterval) != 0 {
			t.Errorf("the wave stands at %v", x)
		}
	}
}

// An envelope that moves two parameters of one filter is folded into both: the second is found where the first has been changed.
func TestTwoParametersOfOneModuleAreShifted(t *testing.T) {
	falls := mod("e", meaning.Env, p{"attack": 0.001, "decay": 0.4, "sustain": 0.3, "release": 0.3})
	cutoff := way("c", "e", "filter.cutoff", 2, "unipolar")
	cutoff.Depth.Quantity = q.Quantity{Dim: q.DimOctaves, Value: 2}
	res := way("r", "e", "filter.resonance", 0.4, "unipolar")
	got := envelopeLFO.Try(targetOf{have: map[meaning.Kind]int{meaning.LFO: 1}}.case_(sound([]meaning.Module{falls, cut}, cutoff, res), "e"))
	if len(got) != 1 {
		t.Fatalf("%d ways, want one", len(got))
	}
	f := got[0].Meaning.Module("filter~")
	if hz, peak := get(f, meaning.PCutoff), get(f, meaning.PResonance); math.Abs(hz-500*math.Exp2(0.6)) > 0.5 || math.Abs(peak-0.2-0.12) > 1e-9 {
		t.Errorf("cutoff %.1f Hz, want %.1f; resonance %.3f, want 0.32", hz, 500*math.Exp2(0.6), peak)
	}
}

// A modulator that an envelope takes away counts for less the sooner it goes, and for what it has where its carrier is loud: against the integral over fine steps.
func TestHeldShare(t *testing.T) {
	for _, x := range []struct{ by, of [3]float64 }{{[3]float64{0.001, 0.1, 0}, [3]float64{0.001, 5, 1}}, {[3]float64{0.001, 0.1, 0}, [3]float64{0.001, 0.1, 0}}, {[3]float64{0.3, 1, 1}, [3]float64{0.001, 1, 1}}, {[3]float64{0.001, 1, 1}, [3]float64{0.01, 0.2, 0.2}}} {
		env := func(id string, v [3]float64) meaning.Module {
			return mod(id, meaning.Env, p{"attack": v[0], "decay": v[1], "sustain": v[2]})
		}
		by, of := mod("by", meaning.Operator, p{"level": 0.0}), mod("of", meaning.Operator, p{"level": 0.0})
		c := one.case_(sound([]meaning.Module{by, of, env("e1", x.by), env("e2", x.of)}, way("r1", "e1", "by.level", 1, "unipolar"), way("r2", "e2", "of.level", 1, "unipolar")))
		level := func(v [3]float64, at float64) float64 {
			if at < v[0] {
				return at / v[0]
			}
			return v[2] + (1-v[2])*math.Pow(10, -(at-v[0])/v[1])
		}
		sum, all := 0.0, 0.0
		for k := range 20000 {
			at := heldFor * (float64(k) + 0.5) / 20000
			sum, all = sum+level(x.by, at)*level(x.of, at), all+level(x.of, at)
		}
		if got := c.heldShare(c.Meaning.Module("by"), c.Meaning.Module("of")); math.Abs(got-sum/all) > 0.02 {
			t.Errorf("%v under %v: %.3f, the integral is %.3f", x.by, x.of, got, sum/all)
		}
	}
}
