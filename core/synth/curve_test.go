package synth

import (
	"fmt"
	"math"
	"math/cmplx"
	"testing"

	"glossator/core/meaning"
	"glossator/core/phrase"
)

// The curve that is drawn of a filter is what the filter does: each mode and slope, by a quiet impulse through it, 0.2 dB in the range
// of 60 dB, with key tracking and a mix.
func TestDrawnCurveIsTheFilter(t *testing.T) {
	for _, mode := range []string{"lowpass", "highpass", "bandpass", "notch", "peak", "morph", "comb"} {
		for poles := 1.0; poles <= 4; poles++ {
			if mode == "comb" && poles > 1 || poles == 1 && mode != "lowpass" && mode != "highpass" && mode != "comb" {
				continue
			}
			for _, res := range []float64{0, 0.6, 0.9} {
				for _, extra := range []params{{}, {"track": 1.0}, {"mix": 0.6}, {"morph": 0.2}, {"morph": 0.8}} {
					if extra["morph"] != nil && mode != "morph" {
						continue
					}
					ps := params{"mode": mode, "poles": poles, "cutoff": 1500.0, "resonance": res, "feedback": 0.8 * res}
					for k, v := range extra {
						ps[k] = v
					}
					d := part("f", meaning.Filter, ps)
					const key = 67.0
					name := fmt.Sprint(mode, " ", poles, " poles, resonance ", res, " ", extra)
					x := impulseThrough(&d, key)
					for _, f := range []float64{90, 400, 1100, 1500, 2200, 4000, 9000} {
						got, want := cmplx.Abs(plainBin(x, f)), cmplx.Abs(FilterGain(&d, key, f))
						if mode == "comb" && f > 5000 {
							continue // what lies between samples loses some of the highest
						}
						if want < 1e-3 && got < 1.2e-3 {
							continue
						}
						bound := 0.25
						if poles != 2 && extra["mix"] != nil || mode == "bandpass" {
							bound = 1.3 // a single zero leads: what is mixed adds up a little otherwise
						} else if mode == "morph" {
							bound = 2.2 // its band droops
						}
						if math.Abs(decibels(got/want)) > bound && math.Abs(got-want) > 4e-3 {
							t.Errorf("%s at %v Hz: %.2f dB, drawn %.2f dB", name, f, decibels(got), decibels(want))
						}
					}
				}
			}
		}
	}
}

// impulseThrough gives the response of a filter module to an impulse, as a voice on a key runs it.
func impulseThrough(d *meaning.Module, key float64) []float64 {
	e := newEngine(simple(nil, sine(nil), *d), 1, 0, nil, nil)
	l := life{events: []event{{on: true, key: key, velocity: 1}}}
	v := newVoice(e, &l, &Meters{})
	v.keyPitch = key
	x := make([]float64, Rate/4)
	x[0] = 0.2
	for at := 0; at < len(x); at += block {
		v.n = min(block, len(x)-at)
		copy(v.buses[0][0], x[at:at+v.n])
		v.runPath(1, []bool{true})
		copy(x[at:], v.outIn[0])
	}
	for k := range x {
		x[k] *= 5
	}
	return x
}

// plainBin is a term of the Fourier sum, for what has died away.
func plainBin(x []float64, f float64) complex128 {
	var re, im float64
	for k, y := range x {
		sin, cos := math.Sincos(-2 * math.Pi * f * float64(k) / Rate)
		re += y * cos
		im += y * sin
	}
	return complex(re, im)
}

// What a route adds at its source's full swing is what the parameter would be if it were set there: for every parameter that can be moved
// in a voice, by a source that stands still and by one that has a value for each sample.
func TestMovedIsSet(t *testing.T) {
	osc := func(id string, ps params) meaning.Module {
		all := params{"wave": "saw", "level": -6.0, "phase": "reset"}
		for k, v := range ps {
			all[k] = v
		}
		return part(id, meaning.Osc, all)
	}
	op := func(id string, ps params) meaning.Module {
		all := params{"wave": "sine", "level": 0.0, "phase": "reset"}
		for k, v := range ps {
			all[k] = v
		}
		return part(id, meaning.Operator, all)
	}
	filter := func(mode string, ps params) []meaning.Module {
		all := params{"mode": mode, "poles": 2.0, "cutoff": 800.0, "resonance": 0.2}
		for k, v := range ps {
			all[k] = v
		}
		return []meaning.Module{osc("o", nil), part("f", meaning.Filter, all)}
	}
	one := func(m ...meaning.Module) []meaning.Module { return m }
	const half = 6.020599913279624 // decibels to the half
	for _, x := range []struct {
		to       string
		depth    float64
		from, at float64 // the parameter as set, and as moved
		mods     []meaning.Module
		routes   []meaning.Route
	}{
		{"o.interval", 700, 0, 700, one(osc("o", nil)), nil},
		{"o.width", 0.2, 0.5, 0.7, one(osc("o", params{"wave": "pulse"})), nil},
		{"o.frame", 0.5, 0.25, 0.75, one(osc("o", params{"wave": "table", "table": Frames})), nil},
		{"o.warpAmount", 0.5, 0.25, 0.75, one(osc("o", params{"warp": "bend"})), nil},
		{"o.level", 0.25, -half, 20 * math.Log10(0.75), one(osc("o", nil)), nil},
		{"o.pan", 0.5, -0.2, 0.3, one(osc("o", nil)), nil},
		{"o.fm", 0.4, 0.1, 0.5, one(osc("o", nil), osc("p", params{"interval": 700.0, "level": -60.0})), nil},
		{"a.output", 0.25, -half, 20 * math.Log10(0.75), one(op("a", nil)), nil},
		{"a.interval", 700, 0, 700, one(op("a", params{"output": 0.0})), nil},
		{"a.feedback", 0.5, 0.2, 0.7, one(op("a", params{"output": 0.0})), nil},
		{"n.level", 0.25, -half, 20 * math.Log10(0.75), one(part("n", meaning.Noise, params{"colour": "white"})), nil},
		{"r.level", 0.25, -half, 20 * math.Log10(0.75), one(osc("o", nil), osc("p", params{"interval": 700.0}), part("r", meaning.Ring, nil)), nil},
		{"f.cutoff", 1, 800, 1600, filter("lowpass", nil), nil},
		{"f.cutoff", 1, 800, 1600, filter("lowpass", params{"poles": 4.0}), nil},
		{"f.cutoff", -1, 800, 400, filter("highpass", params{"poles": 4.0}), nil},
		{"f.resonance", 0.4, 0.3, 0.7, filter("bandpass", nil), nil},
		{"f.morph", 0.5, 0.25, 0.75, filter("morph", nil), nil},
		{"f.mix", 0.5, 0.25, 0.75, filter("lowpass", nil), nil},
		{"mixer.drive", 0.25, 6, 12, one(osc("o", nil)), nil},
		{"amp.drive", 0.25, 6, 12, one(osc("o", nil)), nil},
		{"amp.pan", 0.5, -0.2, 0.3, one(osc("o", nil)), nil},
		{"v.tune", 50, 0, 50, one(osc("o", nil), setup(nil)), nil},
		{"l.rate", 1, 3, 6, one(osc("o", nil), part("l", meaning.LFO, params{"wave": "sine", "phase": "reset"})), []meaning.Route{way("l", "o.interval", 100)}},
		{"e.sustain", 0.25, 0.5, 0.75, one(osc("o", nil), part("e", meaning.Env, params{"attack": 0.01, "decay": 0.1, "release": 0.1})), []meaning.Route{way("e", "amp.level", 1)}},
		{"e.attack", 1, 0.05, 0.1, one(osc("o", nil), part("e", meaning.Env, params{"decay": 0.1, "sustain": 0.5, "release": 0.1})), []meaning.Route{way("e", "amp.level", 1)}},
		{"e.decay", 1, 0.05, 0.1, one(osc("o", nil), part("e", meaning.Env, params{"attack": 0.01, "sustain": 0.5, "release": 0.1})), []meaning.Route{way("e", "amp.level", 1)}},
	} {
		id, param := meaning.Split(x.to)
		with := func(value float64, routes ...meaning.Route) *Sound {
			m := simple(append(append([]meaning.Route(nil), x.routes...), routes...), append([]meaning.Module{part("still", meaning.LFO, params{"wave": "pulse", "width": 1.0, "rate": 1.0, "phase": "reset"})}, x.mods...)...)
			d := m.Module(id)
			set := part(id, d.Kind, params{param: value}).Params[param]
			all := map[meaning.ParamName]meaning.Value{param: set}
			for k, v := range d.Params {
				if k != param {
					all[k] = v
				}
			}
			d.Params = all
			return rendered(t, m, 1, note(0, 0.4, 57))
		}
		want, base := with(x.at), with(x.from)
		if differ(want, base) < 1e-3 {
			t.Errorf("%s: %v and %v sound the same", x.to, x.from, x.at)
			continue
		}
		for _, source := range []string{"wheel", "still"} {
			if source == "still" && (param == "attack" || param == "decay") {
				continue // what an LFO is at the start of a note counts
			}
			r := way(source, x.to, x.depth)
			r.Polarity = "bipolar"
			// an LFO begins with its first block: levels come up in it
			if got := differ(want, with(x.from, r)); got > 1e-3 {
				t.Errorf("%s moved by %s: %.2g of it differs from what is set", x.to, source, got)
			}
		}
	}
}

// differ gives the power of the difference of two sounds, of that of the first.
func differ(a, b *Sound) float64 {
	var d, all float64
	for k := range min(len(a.Left), len(b.Left)) {
		l, r := a.Left[k]-b.Left[k], a.Right[k]-b.Right[k]
		d += l*l + r*r
		all += a.Left[k]*a.Left[k] + a.Right[k]*a.Right[k]
	}
	return math.Sqrt(d / all)
}

// Curves bend a source's swing and keep its ends and its sign: pitch by a wheel half way, and by an envelope that stays at half.
func TestRouteCurves(t *testing.T) {
	for curve, half := range map[string]float64{"": 0.5, "linear": 0.5, "exponential": 0.25, "convex": 0.25, "square": 0.25, "logarithmic": math.Sqrt(0.5), "concave": math.Sqrt(0.5), "root": math.Sqrt(0.5)} {
		for _, wheel := range []float64{0, 0.5, 1} {
			want := map[float64]float64{0: 0, 0.5: half, 1: 1}[wheel]
			for _, sign := range []float64{1, -1} {
				r := way("wheel", "v.tune", sign*200)
				r.Curve = curve
				s := rendered(t, simple([]meaning.Route{r}, setup(nil), sine(nil)), wheel, note(0, 0.6, 69))
				if got := 1200 * math.Log2(hzAt(s, 0.3)/440); math.Abs(got-sign*200*want) > 1 {
					t.Errorf("%s, wheel at %v by %v: %+.1f ct, want %+.1f", curve, wheel, sign, got, sign*200*want)
				}
			}
		}
		r := way("e", "v.tune", 200)
		r.Curve = curve
		e := part("e", meaning.Env, params{"attack": 0.001, "decay": 0.005, "sustain": 0.5, "release": 0.1})
		s := rendered(t, simple([]meaning.Route{r}, setup(nil), sine(nil), e), 0, note(0, 0.6, 69))
		if got := 1200 * math.Log2(hzAt(s, 0.3)/440); math.Abs(got-200*half) > 1 {
			t.Errorf("%s, envelope at a half: %+.1f ct, want %+.1f", curve, got, 200*half)
		}
	}
}

// Sources of play are what they say: the key by the octave from middle C, the gate while the key is down, random the same for a note and
// another for the next, within its range.
func TestSourcesOfPlay(t *testing.T) {
	for key, want := range map[float64]float64{60: 0, 72: 100, 48: -100, 66: 50} {
		s := rendered(t, simple([]meaning.Route{way("key", "v.tune", 100)}, setup(nil), sine(nil)), 0, note(0, 0.6, key))
		if got := 1200 * math.Log2(hzAt(s, 0.3)/(440*math.Exp2((key-69)/12))); math.Abs(got-want) > 1 {
			t.Errorf("key %v: %+.1f ct, want %+.1f", key, got, want)
		}
	}
	e := part("e", meaning.Env, params{"attack": 0.001, "decay": 0.1, "sustain": 1.0, "release": 2.0})
	s := rendered(t, simple([]meaning.Route{way("gate", "v.tune", 100), way("e", "amp.level", 1)}, setup(nil), sine(nil), e), 0, note(0, 0.5, 69))
	for at, want := range map[float64]float64{0.3: 100, 0.7: 0} {
		if got := 1200 * math.Log2(hzAt(s, at)/440); math.Abs(got-want) > 1 {
			t.Errorf("gate at %v s: %+.1f ct, want %+.1f", at, got, want)
		}
	}
	seen := map[float64]bool{}
	for _, polarity := range []string{"bipolar", "unipolar"} {
		r := way("random", "v.tune", 100)
		r.Polarity = polarity
		m := simple([]meaning.Route{r}, setup(params{"count": 8.0}), sine(nil))
		var notes []phrase.Note
		for n := range 8 {
			notes = append(notes, note(float64(n)*0.3, float64(n)*0.3+0.25, 69))
		}
		a, b := rendered(t, m, 0, notes...), rendered(t, m, 0, notes...)
		for n := range notes {
			at := float64(n)*0.3 + 0.12
			got := 1200 * math.Log2(hzAt(a, at)/440)
			seen[math.Round(got)] = true
			if again := 1200 * math.Log2(hzAt(b, at)/440); again != got || got > 101 || got < -101 || polarity == "unipolar" && got < -1 {
				t.Errorf("%s, note %d: %+.1f ct, then %+.1f", polarity, n, got, again)
			}
		}
	}
	if len(seen) < 8 {
		t.Errorf("16 random notes have %d pitches", len(seen))
	}
}

// Two filters: one behind the other multiply, side by side add up; a source goes to the first, the second, both or past them. Gains by the
// closed forms, for a sine.
func TestWaysThroughFilters(t *testing.T) {
	const hz, key = 1000.0, 60
	low := part("f", meaning.Filter, params{"mode": "lowpass", "poles": 2.0, "cutoff": 700.0, "resonance": 0.4, "level": -6.0})
	high := part("g", meaning.Filter, params{"mode": "highpass", "poles": 2.0, "cutoff": 1800.0, "resonance": 0.4})
	a, b := FilterGain(&low, key, hz)*complex(math.Pow(10, -0.3), 0), FilterGain(&high, key, hz)
	for _, x := range []struct {
		routing, to string
		want        complex128
	}{
		{"series", "", a * b},
		{"series", "filter", a * b},
		{"series", "filter 2", b},
		{"series", "both", a * b}, // one behind the other there is but one way
		{"series", "past", 1},
		{"parallel", "", a + b}, // without a choice both have it
		{"parallel", "filter", a},
		{"parallel", "both", a + b},
		{"parallel", "filter 2", b},
		{"parallel", "past", 1},
	} {
		second := part("g", meaning.Filter, params{"mode": "highpass", "poles": 2.0, "cutoff": 1800.0, "resonance": 0.4, "routing": x.routing})
		o := sine(params{"fixed": hz, "level": -20.0, "to": x.to})
		if x.to == "" {
			delete(o.Params, "to")
		}
		s := play(t, simple(nil, o, low, second), key, 0.8)
		got := cmplx.Abs(bin(s.Left[Rate/4:Rate/4+Rate/2], hz)) / 0.1
		if math.Abs(decibels(got/cmplx.Abs(x.want))) > 0.1 {
			t.Errorf("%s, to %q: %.2f dB, want %.2f dB", x.routing, x.to, decibels(got), decibels(cmplx.Abs(x.want)))
		}
	}
}

// A filter offset moves the cutoffs of left and right apart by so many cents.
func TestFilterOffset(t *testing.T) {
	f := part("f", meaning.Filter, params{"mode": "lowpass", "poles": 4.0, "cutoff": 700.0, "offset": 1200.0})
	s := play(t, simple(nil, sine(params{"fixed": 1000.0, "level": -20.0}), f), 60, 0.8)
	for c, x := range [][]float64{s.Left, s.Right} {
		alone := part("f", meaning.Filter, params{"mode": "lowpass", "poles": 4.0, "cutoff": 700 * math.Exp2(float64(c)-0.5)})
		got, want := cmplx.Abs(bin(x[Rate/4:Rate/4+Rate/2], 1000))/0.1, cmplx.Abs(FilterGain(&alone, 60, 1000))
		if math.Abs(decibels(got/want)) > 0.1 {
			t.Errorf("channel %d: %.2f dB, want %.2f dB", c, decibels(got), decibels(want))
		}
	}
}

// Feedback to the mixer brings more than there was, stays bounded at any level, and is the same on both sides for what is.
func TestFeedbackIsBounded(t *testing.T) {
	last := 0.0
	for _, level := range []float64{-40, -20, -10, 0, 10} {
		for _, wide := range []float64{0, 0.4} {
			o := part("o", meaning.Osc, params{"wave": "saw", "level": -12.0, "phase": "reset", "pan": wide})
			s := play(t, simple(nil, o, part("f", meaning.Filter, params{"mode": "lowpass", "poles": 2.0, "cutoff": 900.0}), part("b", meaning.Feedback, params{"level": level})), 45, 1)
			for k := range s.Left {
				if math.Abs(s.Left[k])+math.Abs(s.Right[k]) > 12 || math.IsNaN(s.Left[k]) {
					t.Fatalf("%v dB: sample %d is %v", level, k, s.Left[k])
				}
				if wide == 0 && s.Left[k] != s.Right[k] {
					t.Fatalf("%v dB: the sides differ at %d", level, k)
				}
			}
			if wide != 0 {
				continue
			}
			now := levelAt(s.Left, 0.3, 0.9)
			if level > -40 && math.Abs(now-last) < 0.05 {
				t.Errorf("from the level before to %v dB of feedback nothing changes", level)
			}
			last = now
		}
	}
}
