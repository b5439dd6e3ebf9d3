package synth

import (
	"math"
	"strings"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// moves is a route into an effect.
func moves(from, to string, dim q.Dim, depth float64, polarity string) meaning.Route {
	return meaning.Route{ID: from + ">" + to, Label: from + " to " + to, From: from, To: []string{to}, Polarity: polarity, Depth: meaning.Value{Quantity: q.Quantity{Dim: dim, Value: depth}}}
}

// behind puts a module behind the amplifier.
func behind(m *meaning.Meaning, id string) {
	kept := m.Audio[:0]
	for _, x := range m.Audio {
		if x.From != id && x.To != id {
			kept = append(kept, x)
		}
	}
	m.Audio = append(kept, meaning.Edge{From: "amp", To: id})
}

// levelAt gives the level of a stretch of a sound, in decibels.
func levelAt(x []float64, from, to float64) float64 {
	sum := 0.0
	part := x[int(from*Rate):int(to*Rate)]
	for _, y := range part {
		sum += y * y
	}
	return 10 * math.Log10(sum/float64(len(part))+1e-20)
}

// The wheel moves the time of an echo by octaves: it comes twice as late.
func TestRouteIntoDelayTime(t *testing.T) {
	for wheel, want := range map[float64]float64{0: 0.1, 1: 0.2} {
		m := simple([]meaning.Route{moves("wheel", "d.time", q.DimOctaves, 1, "unipolar")}, sine(nil), part("d", meaning.Delay, params{"time": 0.1, "mix": 1.0}))
		s := rendered(t, m, wheel, note(0, 0.05, 69))
		first := 0
		for math.Abs(s.Left[first]) < 0.05 {
			first++
		}
		if got := float64(first) / Rate; math.Abs(got-want) > 0.002 {
			t.Errorf("wheel at %v: the echo comes after %.4f s, want %v", wheel, got, want)
		}
		for _, a := range s.Assumed {
			if strings.Contains(a, "not played") {
				t.Errorf("it says %q", a)
			}
		}
	}
}

// An LFO moves the width of a widener: the side goes up and down with it, the middle stays.
func TestRouteIntoWidth(t *testing.T) {
	lfo := part("l", meaning.LFO, params{"wave": "sine", "rate": 1.0, "phase": "reset"})
	o := sine(params{"pan": 0.5})
	m := simple([]meaning.Route{moves("l", "w.width", q.DimRatio, 1, "bipolar")}, o, lfo, part("w", meaning.Widener, params{"width": 0.0}))
	s := rendered(t, m, 0, note(0, 2, 69))
	side := make([]float64, len(s.Left))
	mid := make([]float64, len(s.Left))
	for k := range side {
		side[k], mid[k] = s.Left[k]-s.Right[k], s.Left[k]+s.Right[k]
	}
	// a sine from 0 is at 1 after a quarter of its second and at -1 after three quarters: the side doubles, and goes
	wide, none, back := levelAt(side, 0.24, 0.26), levelAt(side, 0.745, 0.755), levelAt(side, 1.24, 1.26)
	still := levelAt(side, 0.495, 0.505)
	if math.Abs(wide-still-6.02) > 0.3 || math.Abs(wide-back) > 0.1 || none > still-20 {
		t.Errorf("the side is at %.1f, %.1f, %.1f and %.1f dB: want 6 dB between the first two", wide, still, none, back)
	}
	if d := levelAt(mid, 0.24, 0.26) - levelAt(mid, 0.74, 0.76); math.Abs(d) > 0.1 {
		t.Errorf("the middle moves by %.2f dB", d)
	}
}

// Velocity opens the filter behind the voices, an envelope fades a mix in, a macro drives: each in its own dimension.
func TestRoutesIntoEffects(t *testing.T) {
	// a sine of 440 Hz through two poles at 110 Hz, moved up by two octaves for full velocity: at the cutoff, Q of a half, -6 dB
	f := part("f", meaning.Filter, params{"mode": "lowpass", "poles": 2.0, "cutoff": 110.0})
	m := simple([]meaning.Route{moves("velocity", "f.cutoff", q.DimOctaves, 2, "unipolar")}, sine(nil), f)
	behind(m, "f")
	soft := note(0, 1, 69)
	soft.Velocity = 1
	loud, quiet := rendered(t, m, 0, note(0, 1, 69)), rendered(t, m, 0, soft)
	plain := rendered(t, simple(nil, sine(nil)), 0, note(0, 1, 69))
	if d := levelAt(loud.Left, 0.5, 0.9) - levelAt(plain.Left, 0.5, 0.9); math.Abs(d+6.02) > 0.2 {
		t.Errorf("at the cutoff %.2f dB, want -6", d)
	}
	if d := levelAt(quiet.Left, 0.5, 0.9) - levelAt(loud.Left, 0.5, 0.9); d > -15 {
		t.Errorf("a soft note is %.1f dB under a loud one, want two octaves of two poles more", d)
	}
	// an envelope of half a second brings the echo in
	e := part("e", meaning.Env, params{"attack": 0.5, "sustain": 1.0})
	m = simple([]meaning.Route{moves("e", "d.mix", q.DimRatio, 1, "unipolar")}, sine(nil), e, part("d", meaning.Delay, params{"time": 0.01, "mix": 0.0}))
	s := rendered(t, m, 0, note(0, 1.5, 69))
	// 440 Hz after 10 ms is 4.4 turns later: in the middle of the fade the two partly cancel, at its end the echo is alone
	if a, b := levelAt(s.Left, 0.003, 0.007545), levelAt(s.Left, 1.2, 1.4); math.Abs(a-b) > 0.5 {
		t.Errorf("the sound begins at %.2f dB and is at %.2f dB when the echo is alone", a, b)
	}
	// 24 dB more drive at a full macro
	d := part("d", meaning.Drive, params{"curve": "hard", "gain": 0.0, "mix": 1.0})
	m = simple([]meaning.Route{moves("m", "d.gain", q.DimRatio, 1, "unipolar")}, sine(params{"level": -30.0}), part("m", meaning.Macro, params{"value": 1.0}), d)
	behind(m, "d")
	s = rendered(t, m, 0, note(0, 1, 69))
	if got := levelAt(s.Left, 0.5, 0.9) - levelAt(plain.Left, 0.5, 0.9); math.Abs(got-(-30+decibelsAtFull)) > 0.2 {
		t.Errorf("driven by a macro: %.2f dB, want %v", got, -30+decibelsAtFull)
	}
}

// Whatever a route may move in an effect stays finite and within bounds when it is moved as far as it goes, and what cannot be
// moved is told.
func TestEveryEffectMoved(t *testing.T) {
	for kind, names := range movable {
		for _, name := range append(append([]meaning.ParamName{}, names...), "place") {
			p, known := meaning.SpecOf(kind).Param(name)
			if !known {
				if name != "place" {
					t.Errorf("%s has no %s", kind, name)
				}
				continue
			}
			ps := params{"mix": 0.7, "time": 0.05, "feedback": 0.6, "rate": 1.0, "depth": 0.003, "delay": 0.005, "gain": 12.0, "t60": 1.0, "ratio": 4.0, "cutoff": 600.0, "predelay": 0.02}
			own := params{}
			for n, v := range ps {
				if _, is := meaning.SpecOf(kind).Param(n); is {
					own[n] = v
				}
			}
			dim := meaning.DepthDim(p.Dim)
			depth := 1.0
			if dim == q.DimOctaves {
				depth = 4
			}
			lfo := part("l", meaning.LFO, params{"wave": "triangle", "rate": 3.0})
			x := part("x", kind, own)
			parts := []meaning.Module{sine(params{"wave": "saw"}), lfo, x}
			if kind == meaning.Send {
				x = part("x", kind, params{"level": 0.0, "to": "reverb"})
				parts = []meaning.Module{sine(nil), lfo, x, part("r", meaning.Reverb, params{"t60": 1.0, "mix": 1.0})}
			}
			owner := x.ID
			m := simple([]meaning.Route{moves("l", meaning.Ref(owner, name), dim, depth, "bipolar")}, parts...)
			if kind == meaning.Filter || kind == meaning.Drive {
				behind(m, "x")
			}
			still := simple(nil, parts...)
			still.Audio = m.Audio
			moved, plain := rendered(t, m, 0, note(0, 1, 57)), rendered(t, still, 0, note(0, 1, 57))
			said := strings.Contains(strings.Join(moved.Assumed, ";"), "not played")
			if said != (name == "place") {
				t.Errorf("%s of %s: it says %v", name, kind, moved.Assumed)
			}
			same := 0.0
			for k := range min(len(moved.Left), len(plain.Left)) {
				if y := moved.Left[k]; math.IsNaN(y) || math.Abs(y) > 60 {
					t.Fatalf("%s of %s: sample %d is %v", name, kind, k, y)
				}
				same = max(same, math.Abs(moved.Left[k]-plain.Left[k])+math.Abs(moved.Right[k]-plain.Right[k]))
			}
			if name != "place" && same < 1e-6 && !(kind == meaning.Widener || kind == meaning.Filter && name == "morph" || kind == meaning.Delay && name == "timeRight") {
				t.Errorf("%s of %s: moving it changes nothing", name, kind)
			}
		}
	}
}

// A compressor keyed from outside ducks the sound on every quarter note, as far as its ratio says, and says what it listens to.
func TestSideChainFromOutside(t *testing.T) {
	c := part("c", meaning.Compressor, params{"threshold": -20.0, "ratio": 4.0, "attack": 0.001, "release": 0.05, "sidechain": "input 2"})
	s := rendered(t, simple(nil, sine(params{"level": -30.0}), c), 0, note(0, 2, 81))
	plain := rendered(t, simple(nil, sine(params{"level": -30.0})), 0, note(0, 2, 81))
	if !strings.Contains(strings.Join(s.Assumed, ";"), "quarter note") {
		t.Errorf("it does not say what it listens to: %v", s.Assumed)
	}
	for n := range 4 { // at 120 a quarter lasts half a second
		at := 0.5 * float64(n)
		// the knock is 20 dB over the threshold at first: 15 dB down, less what it has fallen in 6 ms (1.2 dB, of which three quarters)
		down := levelAt(s.Left, at+0.004, at+0.0085) - levelAt(plain.Left, at+0.004, at+0.0085)
		back := levelAt(s.Left, at+0.4, at+0.48) - levelAt(plain.Left, at+0.4, at+0.48)
		if math.Abs(down-(-14.1)) > 0.7 || math.Abs(back) > 0.3 {
			t.Errorf("quarter %d: %.2f dB on the knock, %.2f dB before the next", n+1, down, back)
		}
	}
}

// A macro drives the mixer 24 dB over saturation: a quiet sine comes up by that, and a loud one is squared.
func TestRouteIntoMixerDrive(t *testing.T) {
	for _, to := range []string{"mixer.drive", "amp.drive"} {
		m := simple([]meaning.Route{moves("m", to, q.DimRatio, 1, "unipolar")}, sine(params{"level": -50.0}), part("m", meaning.Macro, params{"value": 1.0}))
		plain := rendered(t, simple(nil, sine(params{"level": -50.0})), 0, note(0, 1, 69))
		s := rendered(t, m, 0, note(0, 1, 69))
		if got := levelAt(s.Left, 0.5, 0.9) - levelAt(plain.Left, 0.5, 0.9); math.Abs(got-decibelsAtFull) > 0.3 {
			t.Errorf("%s: %.2f dB, want %v", to, got, decibelsAtFull)
		}
		lfo := part("l", meaning.LFO, params{"wave": "sine", "rate": 1.0, "phase": "reset"})
		s = rendered(t, simple([]meaning.Route{moves("l", to, q.DimRatio, 1, "bipolar")}, sine(params{"level": -50.0}), lfo), 0, note(0, 1, 69))
		// over 11 periods: up where the sine is, and no less than no drive where it is not
		if up, down := levelAt(s.Left, 0.24, 0.265)-levelAt(plain.Left, 0.24, 0.265), levelAt(s.Left, 0.74, 0.765)-levelAt(plain.Left, 0.74, 0.765); math.Abs(up-decibelsAtFull) > 0.5 || math.Abs(down) > 0.1 {
			t.Errorf("%s by an LFO: %.2f and %.2f dB", to, up, down)
		}
		for _, a := range s.Assumed {
			if strings.Contains(a, "not played") {
				t.Errorf("it says %q", a)
			}
		}
	}
}
