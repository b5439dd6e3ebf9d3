package synth

import (
	"fmt"
	"math"
	"math/cmplx"
	"testing"

	"gonum.org/v1/gonum/dsp/fourier"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/testutil/build"
)

type params = build.Params

var part, simple = build.Module, build.Row

func way(from, to string, depth float64) meaning.Route {
	return meaning.Route{ID: from + ">" + to, Label: from, From: from, To: []string{to}, Depth: meaning.Value{Quantity: q.Quantity{Value: depth}}}
}

// play renders one note without level or limiter.
func play(t testing.TB, m *meaning.Meaning, key, seconds float64) *Sound {
	t.Helper()
	s, err := Render([]Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: seconds, Key: key, Velocity: 127}}, Options{Seed: 7, Raw: true})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// bin gives amplitude and phase of a frequency in a stretch of sound, by a windowed Fourier sum: a
// four-term window whose side lobes lie 92 dB down (Blackman-Harris, from memory).
func bin(x []float64, f float64) complex128 {
	var sum complex128
	var norm float64
	n := float64(len(x))
	for k, y := range x {
		p := 2 * math.Pi * float64(k) / n
		w := 0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p)
		sum += complex(y*w, 0) * cmplx.Exp(complex(0, -2*math.Pi*f*float64(k)/Rate))
		norm += w
	}
	return sum * complex(2/norm, 0)
}

func decibels(x float64) float64 { return 20 * math.Log10(max(x, 1e-12)) }

// Harmonics of the waves below 5 kHz against the Fourier series (Bronshtein): saw 1/n, square 1/n odd,
// triangle 1/n^2 odd, pulse of duty d |sin(pi n d)|/n.
func TestHarmonicsAgainstFourier(t *testing.T) {
	for _, x := range []struct {
		wave  string
		width float64
		want  func(n float64) float64
	}{
		{"saw", 0.5, func(n float64) float64 { return 2 / math.Pi / n }},
		{"pulse", 0.5, func(n float64) float64 { return 4 / math.Pi * math.Abs(math.Sin(math.Pi*n/2)) / n }},
		{"pulse", 0.14, func(n float64) float64 { return 4 / math.Pi * math.Abs(math.Sin(math.Pi*n*0.14)) / n }},
		{"triangle", 0.5, func(n float64) float64 {
			return 8 / math.Pi / math.Pi * math.Abs(math.Sin(math.Pi*n/2)) / n / n
		}},
		{"sine", 0.5, func(n float64) float64 { return map[float64]float64{1: 1}[n] }},
	} {
		for _, key := range []float64{28, 45, 57, 69, 81} {
			m := simple(nil, part("o", meaning.Osc, params{"wave": x.wave, "width": x.width, "level": 0.0}))
			s := play(t, m, key, 1.2)
			f := float64(q.Note(key).Frequency())
			for n := 1.0; n*f < 5000; n++ {
				got, want := cmplx.Abs(bin(s.Left[Rate/10:Rate/10+Rate], n*f)), x.want(n)
				if want < 1e-3 {
					if got > 1e-3 {
						t.Errorf("%s %v on key %v: harmonic %v is %.1f dB where there is none", x.wave, x.width, key, n, decibels(got))
					}
				} else if d := decibels(got / want); math.Abs(d) > 0.1 {
					t.Errorf("%s %v on key %v: harmonic %v is off by %.2f dB", x.wave, x.width, key, n, d)
				}
			}
		}
	}
}

// What is not a harmonic of a saw of 2 kHz lies 60 dB below its fundamental.
func TestAliases(t *testing.T) {
	for _, f := range []float64{2000, 2017.3, 1661.2} {
		m := simple(nil, part("o", meaning.Osc, params{"wave": "saw", "fixed": f, "level": 0.0}))
		s := play(t, m, 60, 1.2)
		x := s.Left[Rate/10 : Rate/10+Rate]
		fundamental := cmplx.Abs(bin(x, f))
		worst, at := 0.0, 0.0
		for g := 37.0; g < 20000; g += 41 {
			if d := math.Abs(math.Remainder(g, f)); d < 12 {
				continue
			}
			if a := cmplx.Abs(bin(x, g)); a > worst {
				worst, at = a, g
			}
		}
		for n := 11; n < 40; n++ { // the places where aliases fall
			g := math.Abs(math.Remainder(float64(n)*f, Rate))
			if math.Abs(math.Remainder(g, f)) > 12 {
				if a := cmplx.Abs(bin(x, g)); a > worst {
					worst, at = a, g
				}
			}
		}
		if d := decibels(worst / fundamental); d > -60 {
			t.Errorf("a saw of %v Hz: %.1f dB at %.0f Hz", f, d, at)
		}
	}
}

// Sidebands of phase modulation against Bessel functions (Chowning, JAES 21(7), 1973).
func TestSidebandsAgainstBessel(t *testing.T) {
	for _, index := range []float64{0.5, 1, 2, math.Pi, 5} {
		a := part("a", meaning.Operator, params{"wave": "sine", "output": 0.0, "level": 0.0, "fixed": 4000.0})
		b := part("b", meaning.Operator, params{"wave": "sine", "level": 0.0, "output": nil, "fixed": 300.0})
		m := simple([]meaning.Route{way("b", "a.pm", index/math.Pi)}, a, b)
		s := play(t, m, 60, 1.2)
		for n := 0; n <= 6; n++ {
			want := math.Abs(math.Jn(n, index))
			for _, sign := range []float64{1, -1} {
				got := cmplx.Abs(bin(s.Left[Rate/10:Rate/10+Rate], 4000+sign*float64(n)*300))
				if math.Abs(got-want) > 0.002 {
					t.Errorf("index %v: sideband %v is %.4f, J is %.4f", index, sign*float64(n), got, want)
				}
			}
		}
	}
}

// response gives a filter's gain at a frequency, by a quiet sine through it.
func response(t testing.TB, f meaning.Module, hz float64) float64 {
	m := simple(nil, part("o", meaning.Osc, params{"wave": "sine", "fixed": hz, "level": -20.0}), f)
	s := play(t, m, 60, 1.0)
	return cmplx.Abs(bin(s.Left[Rate/4:Rate/4+Rate/2], hz)) / 0.1
}

// Filters against the analogue curves in s = i f/fc, up to 15 kHz (circuit theory; ladder: Stilson & Smith, ICMC 1996, from memory).
func TestFiltersAgainstClosedForms(t *testing.T) {
	two := func(quality float64) func(s complex128) complex128 {
		return func(s complex128) complex128 { return 1 / (s*s + s/complex(quality, 0) + 1) }
	}
	ladder := func(k float64) func(s complex128) complex128 {
		return func(s complex128) complex128 { return 1 / (cmplx.Pow(1+s, 4) + complex(k, 0)) }
	}
	high := func(k float64) func(s complex128) complex128 {
		return func(s complex128) complex128 { return ladder(k)(1 / s) }
	}
	type filter struct {
		name string
		p    params
		h    func(s complex128) complex128
	}
	all := []filter{
		{"one pole", params{"mode": "lowpass", "poles": 1.0}, func(s complex128) complex128 { return 1 / (1 + s) }},
		{"one pole high", params{"mode": "highpass", "poles": 1.0}, func(s complex128) complex128 { return s / (1 + s) }},
		{"two poles, Q 1/2", params{"mode": "lowpass", "poles": 2.0}, two(0.5)},
		{"two poles, Q 2", params{"mode": "lowpass", "poles": 2.0, "resonance": 0.75}, two(2)},
		{"two poles high", params{"mode": "highpass", "poles": 2.0, "resonance": 0.75}, func(s complex128) complex128 { return s * s * two(2)(s) }},
		{"band-pass", params{"mode": "bandpass", "poles": 2.0, "resonance": 0.75}, func(s complex128) complex128 { return s / 2 * two(2)(s) }},
		{"four poles in band-pass", params{"mode": "bandpass", "poles": 4.0, "resonance": 0.5}, func(s complex128) complex128 { return cmplx.Pow(s*two(1)(s), 2) }},
		{"notch", params{"mode": "notch", "poles": 2.0, "resonance": 0.5}, func(s complex128) complex128 { return (s*s + 1) * two(1)(s) }},
		{"peak", params{"mode": "peak", "poles": 2.0, "resonance": 0.75}, func(s complex128) complex128 { return 1 + 3*s/2*two(2)(s) }},
		{"three poles", params{"mode": "lowpass", "poles": 3.0}, func(s complex128) complex128 { return two(0.5)(s) / (1 + s) }},
		{"ladder", params{"mode": "lowpass", "poles": 4.0}, ladder(0)},
		{"ladder, k 2", params{"mode": "lowpass", "poles": 4.0, "resonance": 0.5}, ladder(2)},
		{"ladder, k 3.2", params{"mode": "lowpass", "poles": 4.0, "resonance": 0.8}, ladder(3.2)},
		{"high ladder", params{"mode": "highpass", "poles": 4.0}, high(0)},
		{"high ladder, k 2", params{"mode": "highpass", "poles": 4.0, "resonance": 0.5}, high(2)},
		{"high ladder, k 3.2", params{"mode": "highpass", "poles": 4.0, "resonance": 0.8}, high(3.2)},
	}
	for _, m := range []float64{0.1, 0.25, 0.4, 0.5, 0.6, 0.75, 0.9, 1} { // between the low-pass, the band-pass and the high-pass their weighted sum
		for _, res := range []float64{0, 0.75} {
			low, band, top := complex(max(0, 1-2*m), 0), complex((1-math.Abs(1-2*m))*2*(1-res), 0), complex(max(0, 2*m-1), 0)
			all = append(all, filter{fmt.Sprintf("morph %v, resonance %v", m, res), params{"mode": "morph", "poles": 2.0, "resonance": res, "morph": m},
				func(s complex128) complex128 { return (low + band*s + top*s*s) * two(0.5/(1-res))(s) }})
		}
	}
	for _, x := range all {
		for _, fc := range []float64{200, 1000, 2300, 3500, 5000, 9000, 12000} {
			x.p["cutoff"] = fc
			f := part("f", meaning.Filter, x.p)
			for _, hz := range []float64{0.1 * fc, 0.43498 * fc, 0.9 * fc, fc, 1.3 * fc, 3 * fc, 6000, 12000, 15000} {
				if hz > 15000 {
					continue
				}
				s := complex(0, hz/fc)
				want := cmplx.Abs(x.h(s))
				got := response(t, f, hz)
				if want < 1e-3 {
					if got > 2e-3 {
						t.Errorf("%s at %v Hz: %.1f dB at %.0f Hz, want less than -60", x.name, fc, decibels(got), hz)
					}
				} else if d := decibels(got / want); math.Abs(d) > 0.5 {
					t.Errorf("%s at %v Hz: %.2f dB at %.0f Hz, want %.2f", x.name, fc, decibels(got), hz, decibels(want))
				}
			}
		}
	}
	// four equal poles: -12.04 dB at the pole frequency, -3.01 dB at 0.43498 of it (circuit theory)
	f := part("f", meaning.Filter, params{"mode": "lowpass", "poles": 4.0, "cutoff": 500.0})
	for hz, want := range map[float64]float64{500: -12.04, 500 * 0.43498: -3.01} {
		if got := decibels(response(t, f, hz)); math.Abs(got-want) > 0.1 {
			t.Errorf("four poles at 500 Hz: %.2f dB at %.1f Hz, want %.2f", got, hz, want)
		}
	}
}

// crossings gives the frequency of a tone from where it rises through zero.
func crossings(x []float64) float64 {
	first, last, n := -1.0, 0.0, -1
	for k := 1; k < len(x); k++ {
		if x[k-1] < 0 && x[k] >= 0 {
			p := float64(k-1) + x[k-1]/(x[k-1]-x[k])
			if first < 0 {
				first = p
			}
			last = p
			n++
		}
	}
	return Rate * float64(n) / (last - first)
}

// A ladder at k = 4 and above oscillates at its pole frequency (Stilson & Smith, ICMC 1996, from memory),
// within 5 cents; a filter of two poles at its cutoff. Both stay within bounds.
func TestSelfOscillation(t *testing.T) {
	for _, poles := range []float64{2, 4} {
		for _, fc := range []float64{110, 440, 1000, 3520, 9000} {
			f := part("f", meaning.Filter, params{"mode": "lowpass", "poles": poles, "cutoff": fc, "resonance": 1.05})
			m := simple(nil, part("n", meaning.Noise, params{"level": -90.0}), f)
			s := play(t, m, 60, 3)
			x := s.Left[2*Rate : 3*Rate-Rate/10]
			peak := 0.0
			for _, y := range x {
				peak = max(peak, math.Abs(y))
			}
			if peak < 0.05 || peak > 10 {
				t.Errorf("%v poles at %v Hz: peak %v", poles, fc, peak)
				continue
			}
			if c := 1200 * math.Log2(crossings(x)/fc); math.Abs(c) > 5 {
				t.Errorf("%v poles at %v Hz: %.2f ct off", poles, fc, c)
			}
		}
	}
}

// The stages of envelopes take their times within 1 % (exponential stages: 90 % of the way in t90;
// circuit theory), by a constant level through the amplifier.
func TestEnvelopeTimes(t *testing.T) {
	for _, curve := range []string{"exponential", "linear"} {
		for _, x := range []struct{ attack, hold, decay, sustain, release float64 }{{0.05, 0, 0.3, 0.4, 0.5}, {0.5, 0.2, 0.1, 0.7, 0.2}, {0.01, 0, 1, 0, 0.1}, {0.002, 0, 0.02, 0.5, 1}} {
			e := envOf(&[]meaning.Module{part("e", meaning.Env, params{"attack": x.attack, "hold": x.hold, "decay": x.decay, "sustain": x.sustain, "release": x.release, "curve": curve})}[0])
			v := envelope{envSpec: &e}
			v.begin(1)
			on := make([]float64, 4*Rate)
			for i := 0; i < len(on); i += 50 { // in blocks that divide nothing
				v.run(on[i:min(i+50, len(on))])
			}
			v.release_()
			off := make([]float64, 4*Rate)
			v.run(off)
			when := func(list []float64, from int, level float64, rising bool) float64 {
				for k := from; k < len(list); k++ {
					if rising == (list[k] >= level) {
						return float64(k+1) / Rate
					}
				}
				return math.NaN()
			}
			full := int(when(on, 0, 0.999999, true) * Rate)
			near := func(what string, got, want float64) {
				if !(math.Abs(got-want) <= 0.01*want+2.0/Rate) {
					t.Errorf("%s %+v: %s takes %.5f s, want %.5f", curve, x, what, got, want)
				}
			}
			near("attack", when(on, 0, 0.9, true), x.attack)
			near("decay", when(on, full+int(x.hold*Rate)+1, x.sustain+0.1*(1-x.sustain), false)-float64(full)/Rate-x.hold, x.decay)
			if x.sustain > 0 {
				near("release", when(off, 0, 0.1*x.sustain, false), x.release)
			}
		}
	}
}

// The reverb dies away to -60 dB in its T60 within 5 % (Schroeder integration of a burst).
func TestReverbTime(t *testing.T) {
	for _, t60 := range []float64{0.5, 1.2, 2, 4} {
		r := part("r", meaning.Reverb, params{"t60": t60, "mix": 1.0})
		left, right := make([]float64, int((t60+0.5)*Rate)), make([]float64, int((t60+0.5)*Rate))
		left[0], right[0] = 1, 1
		whole(new(engine).reverberate(&r, left, right), len(left))
		var total float64
		for k := range left {
			total += left[k] * left[k]
		}
		rest, at5, at35 := total, 0.0, 0.0
		for k := range left {
			rest -= left[k] * left[k]
			if d := 10 * math.Log10(rest/total); d > -5 {
				at5 = float64(k) / Rate
			} else if d > -35 {
				at35 = float64(k) / Rate
			}
		}
		if got := 2 * (at35 - at5); math.Abs(got/t60-1) > 0.05 {
			t.Errorf("T60 of %v s is %.3f s", t60, got)
		}
	}
}

// Echoes come at their times with the gains of their feedback, and a pattern from side to side has
// each on the other side.
func TestEchoes(t *testing.T) {
	for _, pattern := range []string{"stereo", "pingpong", "cross"} {
		d := part("d", meaning.Delay, params{"time": 0.1, "feedback": 0.5, "mix": 1.0, "pattern": pattern})
		left, right := make([]float64, Rate/2), make([]float64, Rate/2)
		left[0], right[0] = 1, 1
		whole(new(engine).echo(&d, left, right), len(left))
		for n := 1; n <= 4; n++ {
			k := n * Rate / 10
			want := math.Pow(0.5, float64(n-1))
			l, r := left[k], right[k]
			switch pattern {
			case "pingpong":
				if n%2 == 0 {
					l, r = r, l
				}
				if math.Abs(l-want) > 1e-6 || math.Abs(r) > 1e-6 {
					t.Errorf("pingpong, echo %d: %v and %v, want %v on one side", n, left[k], right[k], want)
				}
			default:
				if math.Abs(l-want) > 1e-6 || math.Abs(r-want) > 1e-6 {
					t.Errorf("%s, echo %d: %v and %v, want %v", pattern, n, l, r, want)
				}
			}
		}
	}
}

// A compressor of 4:1 above -20 dB turns -8 dB down to -17 dB.
func TestCompressor(t *testing.T) {
	x := make([]float64, Rate)
	for k := range x {
		x[k] = q.Level(-8).Amplitude()
	}
	y := append([]float64(nil), x...)
	whole(compress(x, y, x, y, setting{base: -20}, 4, 0.001, 0.1, setting{base: 1}, setting{base: 1}), len(x))
	if got := decibels(x[Rate-1]); math.Abs(got+17) > 0.05 {
		t.Errorf("%.2f dB, want -17", got)
	}
}

// The limiter lets nothing pass its ceiling, and leaves alone what lies below.
func TestLimiter(t *testing.T) {
	r := random(99)
	x, y := make([]float64, Rate), make([]float64, Rate)
	for k := range x {
		x[k], y[k] = 0.3*r.next(), 0.3*r.next()
		if k%4800 < 3 {
			x[k] = 5
		}
	}
	was := append([]float64(nil), x...)
	if d := Limit(x, y, Ceiling); math.Abs(d-(decibels(5)+1)) > 0.01 {
		t.Errorf("turned down by %.2f dB, want %.2f", d, decibels(5)+1)
	}
	for k := range x {
		if math.Abs(x[k]) > Ceiling.Amplitude()+1e-12 {
			t.Fatalf("sample %d is %v", k, x[k])
		}
		if k < 4000 && k > 3 && was[k] != 0 && k > 3000 && x[k]/was[k] < 0.3 {
			t.Fatalf("sample %d, long after, is still turned down to %v", k, x[k]/was[k])
		}
	}
	if Limit(was[5:100], y[5:100], Ceiling) != 0 {
		t.Error("what is quiet was turned down")
	}
}

// Two saws 10 cents apart at 440 Hz beat as often a second as their frequencies differ.
func TestBeating(t *testing.T) {
	m := simple(nil, part("a", meaning.Osc, params{"wave": "sine", "level": -6.0}), part("b", meaning.Osc, params{"wave": "sine", "level": -6.0, "interval": 10.0}))
	s := play(t, m, 69, 3)
	quiet := []float64{}
	const w = 480
	level := []float64{}
	for i := 0; i+w < 3*Rate-Rate/20; i += w {
		sum := 0.0
		for _, y := range s.Left[i : i+w] {
			sum += y * y
		}
		level = append(level, sum)
	}
	for i := 1; i+1 < len(level); i++ {
		if level[i] < level[i-1] && level[i] <= level[i+1] && level[i] < 10 {
			quiet = append(quiet, float64(i)*w/Rate)
		}
	}
	want := 440 * (math.Exp2(10.0/1200) - 1)
	if len(quiet) < 3 {
		t.Fatalf("only %d places of quiet", len(quiet))
	}
	if got := float64(len(quiet)-1) / (quiet[len(quiet)-1] - quiet[0]); math.Abs(got/want-1) > 0.02 {
		t.Errorf("%.3f beats a second, want %.3f", got, want)
	}
}

// folded gives what lies off the multiples of a frequency below 20 kHz, in decibels under the whole.
func folded(x []float64, f float64) float64 {
	n := float64(len(x))
	y := make([]float64, len(x))
	for k := range x {
		p := 2 * math.Pi * float64(k) / n
		y[k] = x[k] * (0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p))
	}
	var on, off float64
	for i, c := range fourier.NewFFT(len(x)).Coefficients(nil, y) {
		hz := float64(i) * Rate / n
		if hz > 20000 {
			break
		}
		e := real(c)*real(c) + imag(c)*imag(c)
		if math.Abs(math.Remainder(hz, f)) < 8 {
			on += e
		} else {
			off += e
		}
	}
	return 10 * math.Log10(off/on)
}

// What modulates the phase of a high note leaves nothing between the harmonics: at an index of 1.5 on C6 and C7, of all waves, by oscillators and by
// operators, and by an operator of itself. Both give the same harmonics.
func TestModulationDoesNotFold(t *testing.T) {
	const index = 1.5
	for _, f := range []float64{1046.5, 2093} {
		for _, ratio := range []float64{1, 2, 3} {
			for _, w := range [][2]string{{"sine", "sine"}, {"saw", "sine"}, {"sine", "saw"}, {"saw", "saw"}, {"pulse", "sine"}, {"triangle", "triangle"}} {
				name := fmt.Sprintf("%v Hz, modulator %v times it, %v", f, ratio, w)
				a := part("a", meaning.Osc, params{"wave": w[0], "fixed": f, "level": 0.0})
				b := part("b", meaning.Osc, params{"wave": w[1], "fixed": f * ratio, "level": -100.0})
				byRoute := play(t, simple([]meaning.Route{way("b", "a.fm", index/math.Pi)}, a, b), 60, 1.2).Left[Rate/10:][:Rate]
				a.Params["fm"] = number(index / math.Pi)
				byKnob := play(t, simple(nil, a, b), 60, 1.2).Left[Rate/10:][:Rate]
				ops := play(t, simple([]meaning.Route{way("b", "a.pm", index/math.Pi)}, part("a", meaning.Operator, params{"wave": w[0], "fixed": f, "output": 0.0, "level": 0.0}),
					part("b", meaning.Operator, params{"wave": w[1], "fixed": f * ratio, "level": 0.0, "output": nil})), 60, 1.2).Left[Rate/10:][:Rate]
				for k, x := range [][]float64{byRoute, byKnob, ops} {
					if d := folded(x, f); d > -60 {
						t.Errorf("%s, %d: %.1f dB lie between the harmonics", name, k, d)
					}
				}
				if w != [2]string{"sine", "sine"} {
					continue
				}
				for n := 1.0; n < 5; n++ {
					x, y := cmplx.Abs(bin(byKnob, n*f)), cmplx.Abs(bin(ops, n*f))
					want := math.Abs(math.Jn(0, index))
					if n == 1 && ratio == 3 && (math.Abs(x-want) > 0.005 || math.Abs(y-want) > 0.005) { // nothing else falls on it (Chowning, as above)
						t.Errorf("%s: the carrier is %.4f and %.4f, J is %.4f", name, x, y, want)
					}
					if math.Abs(decibels(x/y)) > 0.1 && x > 1e-3 {
						t.Errorf("%s: harmonic %v is %.2f dB by oscillators, %.2f by operators", name, n, decibels(x), decibels(y))
					}
				}
			}
		}
		m := simple(nil, part("a", meaning.Operator, params{"wave": "sine", "fixed": f, "output": 0.0, "level": 0.0, "feedback": 1.0}))
		if d := folded(play(t, m, 60, 1.2).Left[Rate/10:][:Rate], f); d > -60 {
			t.Errorf("an operator of %v Hz by itself: %.1f dB", f, d)
		}
	}
}
