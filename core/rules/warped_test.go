package rules

import (
	"math"
	"testing"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// bent is a sine that is bent as far as an envelope says, from nothing to 80 %.
func bent(sustain float64) *meaning.Meaning {
	m := sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "sine", "interval": 0.0, "level": -3.0, "warp": "bend", "warpAmount": 0.0}), mod("e", meaning.Env, p{"decay": 0.3, "sustain": sustain})},
		way("w", "e", "o.warpAmount", 0.8, "unipolar"))
	m.Module("o").Moved = map[meaning.ParamName]bool{meaning.PWarpAmount: true}
	return m
}

var plainWords = []string{"osc.wave=sine", "osc.wave=triangle", "osc.wave=saw", "osc.wave=pulse"}

var _ = used(&warped,
	use{"no filter is left: the nearest wave", targetOf{words: plainWords}.case_(bent(0)), figures{"o~.warpAmount": 0}, []string{"w", "e"}, "o as a"},
	use{"a filter opens as it was bent", targetOf{have: map[meaning.Kind]int{meaning.Filter: 1}, words: plainWords}.case_(bent(0)), figures{"o~filter.track": 1, "o~filter.poles": 2}, nil, "which moves as the wave was transformed"},
	use{"or stands where it is held", targetOf{have: map[meaning.Kind]int{meaning.Filter: 1}, words: plainWords}.case_(bent(0.5)), figures{"o~filter.track": 1, "o~filter.poles": 4}, []string{"w", "e"}, "as it is while a note is held"},
)

var bendWords = append([]string{"osc.warp=bend", "osc.warp=fold"}, plainWords...)

var _ = used(&shaped,
	use{"what a low-pass lets through", targetOf{params: []string{"osc.warpAmount"}, words: bendWords, moves: []string{"env osc.warpAmount"}}.case_(through(), "filter"), nil, []string{"filter", "r"}, "as far as filter is open"},
	use{"as it is held, where no envelope can move it", targetOf{params: []string{"osc.warpAmount"}, words: bendWords}.case_(through(), "filter"), nil, []string{"filter", "r"}, "as far as filter is open"},
)

// through is a saw through a low-pass that an envelope opens.
func through() *meaning.Meaning {
	m := sound([]meaning.Module{osc("o", 0), cut, mod("env", meaning.Env, p{"decay": 0.25, "sustain": 0.0}), amp}, way("r", "env", "filter.cutoff", 4, "unipolar"))
	for _, e := range [][2]string{{"o", "filter"}, {"filter", "amp"}, {"amp", "out"}} {
		m.Audio = append(m.Audio, meaning.Edge{From: e[0], To: e[1]})
	}
	return m
}

// A filter in a transformation's place moves the way it did, and further where it was moved further; and the other way round.
func TestBrightnessMovesTheSameWay(t *testing.T) {
	cutoff := func(depth float64) (base, moves float64) {
		m := bent(0)
		m.Routes[0].Depth.Value = depth
		for _, r := range warped.Try(targetOf{have: map[meaning.Kind]int{meaning.Filter: 1}, words: plainWords}.case_(m)) {
			if f := r.Meaning.Module("o~filter"); f != nil && r.Meaning.Route("w~") != nil && get(f, meaning.PPoles) == 2 {
				return get(f, meaning.PCutoff), r.Meaning.Route("w~").Depth.Value
			}
		}
		t.Fatalf("no filter for a depth of %v", depth)
		return 0, 0
	}
	_, little := cutoff(0.5)
	base, far := cutoff(0.9)
	if little <= 0 || far <= little || base < 100 || base > 1000 {
		t.Errorf("the cutoff moves by %v octaves from a little bending and by %v from much, from %v Hz", little, far, base)
	}
	amount := func(octaves float64) (rest, moves float64) {
		m := through()
		m.Routes[0].Depth.Value = octaves
		r := shaped.Try(targetOf{params: []string{"osc.warpAmount"}, words: bendWords, moves: []string{"env osc.warpAmount"}}.case_(m, "filter"))
		o := r[0].Meaning.Module("o~")
		way := r[0].Meaning.Routes[0]
		if named(o, meaning.PWarp) == "" || way.To[0] != "o~.warpAmount" {
			t.Fatalf("%s: %v moved by %+v", r[0].Text, o.Params, way)
		}
		return get(o, meaning.PWarpAmount), way.Depth.Value
	}
	rest, up := amount(3)
	_, down := amount(-1)
	if up <= 0 || down >= 0 || rest < 0 || rest+up > 1+1e-9 {
		t.Errorf("the amount stands at %v and moves by %v as the filter opens, by %v as it shuts", rest, up, down)
	}
}

// The harmonics of a bent sine against sin(2 pi p^k) sampled and summed by hand; unbent they are those of the wave.
func TestTransformedHarmonics(t *testing.T) {
	const n = 1 << 14
	for _, amount := range []float64{0, 0.25, 0.5, 1} {
		got := transformed((q.Wave{Name: q.WaveSine}).Harmonics(8), dsp.WarpBend, amount, 12)
		for h := 1; h <= 12; h++ {
			var re, im float64
			for i := range n {
				x := float64(i) / n
				y := math.Sin(2 * math.Pi * math.Pow(x, math.Exp2(2*amount)))
				re += y * math.Cos(2*math.Pi*float64(h)*x)
				im += y * math.Sin(2*math.Pi*float64(h)*x)
			}
			if want := 2 * math.Hypot(re, im) / n; math.Abs(got[h-1]-want) > 2e-3 {
				t.Errorf("bent by %v: harmonic %d is %.4f, sampled %.4f", amount, h, got[h-1], want)
			}
		}
	}
	for _, w := range []string{q.WaveSaw, q.WaveTriangle, q.WavePulse} {
		want := (q.Wave{Name: w, Width: 0.5}).Amplitudes(12)
		for h, a := range transformed((q.Wave{Name: w, Width: 0.5}).Harmonics(256), dsp.WarpFold, 0, 12) {
			if math.Abs(a-want[h]) > 2e-2 { // folding at no gain cuts what overshoots full level
				t.Errorf("a %s that is not transformed: harmonic %d is %.4f, want %.4f", w, h+1, a, want[h])
			}
		}
	}
}

// Others that sound would go through the same filter; a target that transforms likewise needs nothing.
func TestWarpedHoldsBack(t *testing.T) {
	if got := warped.Try(targetOf{params: []string{"osc.warpAmount"}, words: bendWords}.case_(bent(0))); len(got) > 0 {
		t.Errorf("it can bend: %s", got[0].Text)
	}
	m := bent(0)
	m.Modules = append(m.Modules, osc("other", 0))
	for _, r := range warped.Try(targetOf{have: map[meaning.Kind]int{meaning.Filter: 1}, words: plainWords}.case_(m)) {
		if r.Meaning.Module("o~filter") != nil {
			t.Errorf("another oscillator goes through its filter: %s", r.Text)
		}
	}
}
