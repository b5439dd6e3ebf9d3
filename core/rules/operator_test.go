package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

var _ = used(&operators,
	use{"a lone operator is a sine", targetOf{have: map[meaning.Kind]int{meaning.Osc: 1}}.case_(sound([]meaning.Module{mod("a", meaning.Operator, p{"interval": 1200.0, "output": -6.0, "wave": "sine"})}), "a"),
		figures{"a~.interval": 1200, "a~.level": -6}, []string{"a"}, "a sine"},
	// a carrier at seven times what modulates it is a clang of the modulator's pitch: 1200 log2 7 below the carrier
	use{"a carrier high above its modulator", targetOf{have: map[meaning.Kind]int{meaning.Osc: 1}}.case_(sound([]meaning.Module{
		mod("a", meaning.Operator, p{"interval": 3368.8259, "output": 0.0, "wave": "sine"}), mod("b", meaning.Operator, p{"interval": 0.0, "level": 0.0, "wave": "sine"})},
		way("m", "b", "a.pm", 1, "bipolar")), "a", "b"), figures{"a~.interval": 0}, []string{"a", "b"}, "where its sidebands have their fundamental"},
	// sin(x + sin 2x): odd harmonics of J1, J2 and on (A&S, table 9.1), nearest to a pulse behind a low-pass of two poles, which the modulator's envelope
	// opens from half an octave above middle C's fundamental to the octaves at which their loudness is nearest (1.75, by a search beside this)
	use{"an operator and its modulator are a wave behind a filter", targetOf{have: map[meaning.Kind]int{meaning.Osc: 1, meaning.Filter: 1}}.case_(sound([]meaning.Module{env,
		mod("a", meaning.Operator, p{"interval": 0.0, "output": 0.0, "wave": "sine"}), mod("b", meaning.Operator, p{"interval": 1200.0, "level": 0.0, "wave": "sine"})},
		way("m", "b", "a.pm", 1/math.Pi, "bipolar"), way("l", "env", "b.level", 1, "unipolar")), "a", "b"),
		figures{"a~filter.cutoff": 261.6256 * math.Sqrt2, "a~filter.track": 1, "a~filter.poles": 2, "a~open": 1.25}, []string{"a", "b"}, "opened by env as it moved the modulation"},
	// two of the same are both through the one filter, at the level at which their spectra lie nearest: that of the modulated sine has the power of a
	// sine, 1/2, whatever the index (A&S 9.1.76: the squares of J_k sum to 1)
	use{"two operators share the one filter", targetOf{have: map[meaning.Kind]int{meaning.Osc: 2, meaning.Filter: 1}}.case_(sound([]meaning.Module{env,
		mod("a", meaning.Operator, p{"interval": 0.0, "output": 0.0, "wave": "sine"}), mod("c", meaning.Operator, p{"interval": 0.0, "output": -6.0, "wave": "sine"}),
		mod("b", meaning.Operator, p{"interval": 1200.0, "level": 0.0, "wave": "sine"})},
		way("m", "b", "a.pm", 1/math.Pi, "bipolar"), way("n", "b", "c.pm", 1/math.Pi, "bipolar"), way("l", "env", "b.level", 1, "unipolar")), "a", "b", "c"),
		figures{"a~filter.cutoff": 261.6256 * math.Sqrt2, "a~filter.poles": 2, "a~open": 1.25}, []string{"a", "b", "c"}, "a and c as a pulse and a pulse through a low-pass"},
)

// An index that falls costs a wave that stands still, and there is a use with a filter that stands where the modulation does on average: lower than the one for its full depth. Where the modulator
// holds its level there is none.
func TestAFilterForTheModulationOnAverage(t *testing.T) {
	falls := mod("env", meaning.Env, p{"attack": 0.001, "decay": 0.3, "sustain": 0.1})
	target := targetOf{have: map[meaning.Kind]int{meaning.Osc: 1, meaning.Filter: 1}}
	uses := func(e meaning.Module) (still, opened []float64, plain float64) {
		for _, r := range operators.try(target.case_(sound([]meaning.Module{e, mod("a", meaning.Operator, p{"output": 0.0, "wave": "sine"}), mod("b", meaning.Operator, p{"interval": 0.0, "level": 0.0, "wave": "sine"})},
			way("m", "b", "a.pm", 0.6, "bipolar"), way("l", "env", "b.level", 1, "unipolar")), "a", "b")) {
			f := r.Meaning.Module("a~filter")
			switch {
			case f == nil:
				plain = r.Penalty
			case r.Meaning.Route("a~open") == nil:
				still = append(still, get(f, meaning.PCutoff))
			default:
				opened = append(opened, get(f, meaning.PCutoff)*math.Exp2(r.Meaning.Route("a~open").Depth.Value))
			}
		}
		return still, opened, plain
	}
	still, opened, moved := uses(falls)
	if len(still) == 0 || len(opened) == 0 {
		t.Fatalf("%d filters that stand still, %d that open", len(still), len(opened))
	}
	for _, x := range still {
		for _, y := range opened {
			if x >= y {
				t.Errorf("it stands at %.0f Hz, and opens to %.0f Hz", x, y)
			}
		}
	}
	holds := mod("env", meaning.Env, p{"attack": 0.001, "decay": 0.3, "sustain": 1.0})
	if _, _, stands := uses(holds); moved <= stands {
		t.Errorf("a wave for an index that falls costs %v, for one that stands %v", moved, stands)
	}
}

// An envelope in stages falls to where it breaks, and from there to its sustain: 90 % of the way in each of its times (common practice, no source).
func TestLevelInStages(t *testing.T) {
	c := targetOf{}.case_(sound([]meaning.Module{mod("e", meaning.Env, p{"attack": 0.1, "decay": 0.2, "break": 0.5, "decay2": 1.0, "sustain": 0.0}), mod("a", meaning.Operator, p{"output": 0.0})}, way("r", "e", "a.level", 1, "unipolar")))
	for _, x := range []struct{ at, want float64 }{{0.05, 0.5}, {0.1, 1}, {0.3, 0.55}, {1.3, 0.055}} {
		if got := c.levelAt(c.Meaning.Module("a"), x.at); math.Abs(got-x.want) > 1e-6 {
			t.Errorf("after %v s it is at %.4f, want %.4f", x.at, got, x.want)
		}
	}
}

// Bessel functions of the first kind to 4 decimals, Abramowitz & Stegun, table 9.1 and 9.2:
// with a modulator far above the carrier no sidebands fold into one another.
func TestSidebandsAgainstTables(t *testing.T) {
	for _, x := range []struct {
		index          float64
		j0, j1, j2, j3 float64
	}{
		{0.5, 0.9385, 0.2423, 0.0306, 0.0026}, {1, 0.7652, 0.4401, 0.1149, 0.0196}, {2, 0.2239, 0.5767, 0.3528, 0.1289}, {3, 0.2601, 0.3391, 0.4861, 0.3091},
	} {
		got := Sidebands(20, x.index, 70)
		for h, want := range map[int]float64{1: x.j0, 21: x.j1, 19: x.j1, 41: x.j2, 39: x.j2, 61: x.j3, 59: x.j3, 5: 0} {
			if math.Abs(got[h-1]-want) > 6e-5 {
				t.Errorf("index %v: harmonic %d is %.4f, want %.4f", x.index, h, got[h-1], want)
			}
		}
	}
	if Sidebands(1.41, 1, 10) != nil {
		t.Error("a ratio that is not whole gave harmonics")
	}
}

// The same for a carrier that is itself a harmonic: sin(c x + I sin(m x)).
func TestSidebandsOfACarrierAgainstSampling(t *testing.T) {
	const n = 4096
	for _, x := range []struct {
		carrier   int
		modulator float64
		index     float64
	}{{2, 1, 1}, {3, 2, 0.7}, {7, 1, 2.5}, {5, 3, 1.4}, {4, 7, 3}} {
		got := sidebands(x.carrier, x.modulator, x.index, 24)
		for h := 1; h <= 24; h++ {
			var re, im float64
			for i := range n {
				a := 2 * math.Pi * float64(i) / n
				y := math.Sin(float64(x.carrier)*a + x.index*math.Sin(x.modulator*a))
				re += y * math.Cos(float64(h)*a)
				im += y * math.Sin(float64(h)*a)
			}
			if want := 2 * math.Hypot(re, im) / n; math.Abs(got[h-1]-want) > 1e-9 {
				t.Errorf("%+v: harmonic %d is %v, sampled %v", x, h, got[h-1], want)
			}
		}
	}
}

// The same by sampling: the harmonics of sin(x + I sin(r x)) by a discrete Fourier sum.
func TestSidebandsAgainstSampling(t *testing.T) {
	const n = 4096
	for _, ratio := range []float64{1, 2, 3, 5} {
		for _, index := range []float64{0.3, 1, 2.2, 4} {
			got := Sidebands(ratio, index, 24)
			for h := 1; h <= 24; h++ {
				var re, im float64
				for i := range n {
					x := 2 * math.Pi * float64(i) / n
					y := math.Sin(x + index*math.Sin(ratio*x))
					re += y * math.Cos(float64(h)*x)
					im += y * math.Sin(float64(h)*x)
				}
				if want := 2 * math.Hypot(re, im) / n; math.Abs(got[h-1]-want) > 1e-9 {
					t.Errorf("ratio %v, index %v: harmonic %d is %v, sampled %v", ratio, index, h, got[h-1], want)
				}
			}
		}
	}
}
