package synth

import (
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"testing"

	"glossator/core/dsp"
	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/testutil/build"
)

// voice set-up with a word or number changed.
func setup(ps params) meaning.Module { return part("v", meaning.Voice, ps) }

func sine(ps params) meaning.Module {
	all := params{"wave": "sine", "level": 0.0}
	for k, v := range ps {
		all[k] = v
	}
	return part("o", meaning.Osc, all)
}

// rendered plays notes without level or limiter.
func rendered(t testing.TB, m *meaning.Meaning, wheel float64, notes ...phrase.Note) *Sound {
	t.Helper()
	s, err := Render([]Layer{{Meaning: m}}, notes, Options{Seed: 7, Raw: true, Wheel: wheel})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func note(start, end, key float64) phrase.Note {
	return phrase.Note{Start: start, End: end, Key: key, Velocity: 127}
}

// hzAt gives the frequency of a sine about a time, over 40 ms.
func hzAt(s *Sound, at float64) float64 {
	k := int(at * Rate)
	return crossings(s.Left[k-Rate/50 : k+Rate/50])
}

// A glide of constant time takes as long for an octave as for two; one of constant rate twice as long. It
// reaches 90 % in the time that the meaning gives.
func TestGlide(t *testing.T) {
	for _, x := range []struct {
		law     string
		octaves float64
		want    float64
	}{{"time", 1, 0.2}, {"time", 2, 0.2}, {"rate", 1, 0.2}, {"rate", 2, 0.4}} {
		m := simple(nil, setup(params{"mode": "mono", "glide": 0.2, "glideLaw": x.law, "trigger": "legato"}), sine(nil))
		s := rendered(t, m, 0, note(0, 0.55, 48), note(0.5, 1.5, 48+12*x.octaves))
		from, to := float64(q.Note(48).Frequency()), float64(q.Note(48+12*x.octaves).Frequency())
		ninety := from * math.Exp2(0.9*x.octaves)
		if got := hzAt(s, 0.5+x.want); math.Abs(1200*math.Log2(got/ninety)) > 40*x.octaves {
			t.Errorf("%s over %v octaves: %.1f Hz after %v s, want %.1f", x.law, x.octaves, got, x.want, ninety)
		}
		if got := hzAt(s, 1.4); math.Abs(1200*math.Log2(got/to)) > 1 {
			t.Errorf("%s over %v octaves ends at %.1f Hz, want %.1f", x.law, x.octaves, got, to)
		}
	}
	// legato only: a note struck alone does not glide
	m := simple(nil, setup(params{"mode": "mono", "glide": 0.3, "glideWhen": "legato"}), sine(nil))
	s := rendered(t, m, 0, note(0, 0.4, 48), note(0.5, 1, 60))
	if got := hzAt(s, 0.56); math.Abs(got-261.63) > 1 {
		t.Errorf("a note struck alone begins at %.1f Hz", got)
	}
}

// Of notes held together a mono voice plays the last, the lowest or the highest, and goes back.
func TestPriority(t *testing.T) {
	for priority, want := range map[string][3]float64{"last": {60, 55, 60}, "low": {60, 55, 60}, "high": {60, 60, 60}} {
		m := simple(nil, setup(params{"mode": "mono", "priority": priority, "trigger": "legato"}), sine(nil))
		s := rendered(t, m, 0, note(0, 1.5, 60), note(0.5, 1, 55))
		for i, at := range []float64{0.3, 0.8, 1.3} {
			if got := float64(q.Frequency(hzAt(s, at)).Note()); math.Abs(got-want[i]) > 0.05 {
				t.Errorf("%s: at %v s key %.2f sounds, want %v", priority, at, got, want[i])
			}
		}
	}
}

// Retriggered envelopes begin anew at a slurred note, legato ones go on.
func TestTriggering(t *testing.T) {
	for trigger, rises := range map[string]bool{"retrigger": true, "legato": false} {
		e := part("e", meaning.Env, params{"attack": 0.001, "decay": 0.1, "sustain": 0.1, "release": 0.05})
		m := simple([]meaning.Route{{ID: "r", From: "e", To: []string{"amp.level"}, Polarity: "unipolar", Depth: number(1)}}, setup(params{"mode": "mono", "trigger": trigger}), sine(nil), e)
		s := rendered(t, m, 0, note(0, 0.8, 60), note(0.7, 1.2, 62))
		peak := 0.0
		for _, y := range s.Left[int(0.7*Rate):int(0.75*Rate)] {
			peak = max(peak, math.Abs(y))
		}
		if (peak > 0.5) != rises {
			t.Errorf("%s: peak of %.2f at the slurred note", trigger, peak)
		}
	}
}

// A chord sounds its intervals, unison of two beats as far apart as it is spread, and voices are no more than there
// are.
func TestVoices(t *testing.T) {
	m := simple(nil, setup(params{"chord": "on", "chord2": 400.0, "chord3": 700.0}), sine(params{"level": -12.0}))
	s := rendered(t, m, 0, note(0, 1.2, 57))
	for cents, want := range map[float64]bool{0: true, 400: true, 700: true, 1200: false} {
		a := cmplx.Abs(bin(s.Left[Rate/10:Rate/10+Rate], 220*math.Exp2(cents/1200)))
		if (a > 0.15) != want {
			t.Errorf("%v ct over the key has %.3f", cents, a)
		}
	}
	m = simple(nil, sine(params{"unison": 2.0, "spread": 20.0}))
	s = rendered(t, m, 0, note(0, 3, 69))
	for _, cents := range []float64{-10, 10} {
		if a := cmplx.Abs(bin(s.Left[Rate/10:Rate/10+2*Rate], 440*math.Exp2(cents/1200))); math.Abs(a-math.Sqrt2/2) > 0.02 {
			t.Errorf("a voice of unison at %+v ct has %.3f, want %.3f", cents, a, math.Sqrt2/2)
		}
	}
	m = simple(nil, setup(params{"count": 2.0}), sine(nil))
	s = rendered(t, m, 0, note(0, 2, 48), note(0.2, 2, 55), note(0.4, 2, 64))
	for key, want := range map[float64]bool{48: false, 55: true, 64: true} {
		a := cmplx.Abs(bin(s.Left[int(0.6*Rate):int(1.6*Rate)], float64(q.Note(key).Frequency())))
		if (a > 0.5) != want {
			t.Errorf("of two voices key %v has %.3f", key, a)
		}
	}
}

// What sounds and does not say how loud is at full; an operator without an output only modulates.
func TestALevelThatIsNotStatedIsFull(t *testing.T) {
	for _, k := range []meaning.Kind{meaning.Sub, meaning.Osc, meaning.Noise} {
		level := func(p params) float64 {
			s := rendered(t, simple(nil, part("x", k, p)), 0, note(0, 0.5, 57))
			sum := 0.0
			for _, v := range s.Left[Rate/10 : Rate/2] {
				sum += v * v
			}
			return 10 * math.Log10(sum/float64(Rate/2-Rate/10)+1e-12)
		}
		if a, b := level(params{}), level(params{"level": 0.0}); math.Abs(a-b) > 0.5 || a < -40 {
			t.Errorf("%s without a level is at %.1f dB, at full at %.1f dB", k, a, b)
		}
	}
}

// What the hands make up for is heard: keys held with each key, and a line played an octave higher; a hand's keys take voices as others do.
func TestHands(t *testing.T) {
	for _, x := range []struct {
		hands meaning.Hands
		count float64
		want  map[float64]bool
	}{
		{meaning.Hands{Chord: []int{4, 7}}, 8, map[float64]bool{0: true, 400: true, 700: true, 1200: false}},
		{meaning.Hands{Octaves: 1}, 8, map[float64]bool{0: false, 1200: true}},
		{meaning.Hands{Octaves: -1, Chord: []int{12}}, 8, map[float64]bool{-1200: true, 0: true, 1200: false}},
		{meaning.Hands{Chord: []int{4, 7}}, 2, map[float64]bool{0: false, 400: true, 700: true}},
	} {
		m := simple(nil, setup(params{"count": x.count}), sine(params{"level": -12.0}))
		m.Hands = &x.hands
		s := rendered(t, m, 0, note(0, 1.2, 57))
		for cents, want := range x.want {
			a := cmplx.Abs(bin(s.Left[Rate/10:Rate/10+Rate], 220*math.Exp2(cents/1200)))
			if (a > 0.15) != want {
				t.Errorf("%+v: %v ct over the key has %.3f", x.hands, cents, a)
			}
		}
	}
}

// A wheel that is left up stands there whatever the wheel does in the line, held or moved: a vibrato that it brings in is as deep.
func TestAWheelThatIsLeftUp(t *testing.T) {
	vibrato := way("l", "v.tune", 100)
	vibrato.Via = "wheel"
	moves := func(left, held float64, moved bool) float64 {
		m := simple([]meaning.Route{vibrato}, setup(nil), part("l", meaning.LFO, params{"rate": 3.0, "wave": "sine", "phase": "reset"}), sine(params{"level": -12.0}))
		if left > 0 {
			m.Hands = &meaning.Hands{Wheel: left}
		}
		x := Layer{Meaning: m}
		if moved {
			x.Played = []phrase.Gesture{{What: "wheel", Points: []phrase.Point{{At: 0, Value: 1}, {At: 2, Value: 1}}}}
		}
		s, err := Render([]Layer{x}, []phrase.Note{note(0, 1.2, 57)}, Options{Seed: 1, Raw: true, Wheel: held})
		if err != nil {
			t.Fatal(err)
		}
		last, least, most := 0.0, math.Inf(1), 0.0
		for k := Rate / 10; k < Rate; k++ { // by the zero crossings of a sine
			if a, b := s.Left[k], s.Left[k+1]; a < 0 && b >= 0 {
				at := (float64(k) + a/(a-b)) / Rate
				if last > 0 {
					least, most = math.Min(least, 1/(at-last)), math.Max(most, 1/(at-last))
				}
				last = at
			}
		}
		return 1200 * math.Log2(most/least)
	}
	for _, x := range []struct {
		left, held float64
		moved      bool
		want       float64
	}{{0, 0, false, 0}, {0, 1, false, 200}, {0.25, 0, false, 50}, {0.25, 1, false, 50}, {0.25, 0, true, 50}, {0.5, 0, false, 100}} {
		if got := moves(x.left, x.held, x.moved); math.Abs(got-x.want) > 6 {
			t.Errorf("%+v: the pitch goes through %.1f ct", x, got)
		}
	}
}

// A slave oscillator has the master's period, and all its harmonics lie on the master's.
func TestSync(t *testing.T) {
	a := part("a", meaning.Osc, params{"wave": "saw", "level": nil})
	b := part("b", meaning.Osc, params{"wave": "saw", "level": 0.0, "interval": 820.0, "sync": "a"})
	m := simple(nil, a, b)
	for i := range m.Modules { // the master is silent, and runs
		if m.Modules[i].ID == "a" {
			m.Modules[i].Params["level"] = meaning.Value{Quantity: q.Quantity{Dim: q.DimLevel, Value: -90}}
		}
	}
	s := rendered(t, m, 0, note(0, 1.3, 45))
	x := s.Left[Rate/10 : Rate/10+Rate]
	on, off := 0.0, 0.0
	for h := 1.0; h <= 20; h++ {
		p := cmplx.Abs(bin(x, 110*h))
		r := cmplx.Abs(bin(x, 110*(h+0.5)))
		on, off = on+p*p, off+r*r
	}
	if d := 10 * math.Log10(off/on); d > -40 {
		t.Errorf("between the master's harmonics lies %.1f dB", d)
	}
	own := 110 * math.Exp2(820.0/1200)
	if d := decibels(cmplx.Abs(bin(x, own)) / math.Sqrt(on)); d > -30 {
		t.Errorf("the slave's own pitch is still there: %.1f dB", d)
	}
}

// Modulation goes the way its polarity and its scaler say: pitch by an LFO, both ways, one way, and with the wheel.
func TestRoutes(t *testing.T) {
	lfo := part("l", meaning.LFO, params{"wave": "pulse", "width": 0.5, "rate": 1.0, "phase": "reset"})
	for _, x := range []struct {
		polarity, via string
		wheel         float64
		high, low     float64 // cents
	}{{"bipolar", "", 0, 100, -100}, {"unipolar", "", 0, 100, 0}, {"bipolar", "wheel", 0, 0, 0}, {"bipolar", "wheel", 0.5, 50, -50}, {"unipolar", "wheel", 1, 100, 0}} {
		r := meaning.Route{ID: "r", From: "l", To: []string{"v.tune"}, Polarity: x.polarity, Via: x.via, Depth: number(100)}
		m := simple([]meaning.Route{r}, setup(nil), sine(nil), lfo)
		s := rendered(t, m, x.wheel, note(0, 1.2, 69))
		for at, want := range map[float64]float64{0.25: x.high, 0.75: x.low} {
			if got := 1200 * math.Log2(hzAt(s, at)/440); math.Abs(got-want) > 2 {
				t.Errorf("%s via %q at wheel %v: %+.1f ct at %v s, want %+v", x.polarity, x.via, x.wheel, got, at, want)
			}
		}
	}
	// velocity to level, full at full velocity; a key route by the octave
	r := meaning.Route{ID: "r", From: "velocity", To: []string{"amp.level"}, Polarity: "unipolar", Depth: number(0.5)}
	m := simple([]meaning.Route{r}, setup(nil), sine(nil))
	soft, err := Render([]Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: 1, Key: 60, Velocity: 64}}, Options{Raw: true})
	if err != nil {
		t.Fatal(err)
	}
	if a := cmplx.Abs(bin(soft.Left[Rate/10:Rate/2], float64(q.Note(60).Frequency()))); math.Abs(a-(0.5+0.5*64/127)) > 0.01 {
		t.Errorf("velocity 64 gives %.3f", a)
	}
}

// LFOs: waves at their quarters, a one-shot that stays at its end, delay and fade-in, sample and hold in steps.
func TestLFOs(t *testing.T) {
	run := func(ps params, seconds float64) []float64 {
		m := part("l", meaning.LFO, ps)
		l := lfo{lfoSpec: &[]lfoSpec{lfoOf(&m)}[0]}
		l.begin(0, 1)
		out := make([]float64, int(seconds*Rate))
		for i := 0; i < len(out); i += 57 {
			l.run(out[i:min(i+57, len(out))], 0)
		}
		return out
	}
	at := func(x []float64, s float64) float64 { return x[int(s*Rate)] }
	for wave, want := range map[string][3]float64{"triangle": {1, 0, -1}, "sine": {1, 0, -1}, "saw": {0.5, 0, -0.5}, "pulse": {1, -1, -1}} {
		x := run(params{"wave": wave, "rate": 1.0, "phase": "reset", "width": 0.4}, 1)
		for i, s := range []float64{0.25, 0.5001, 0.75} {
			if math.Abs(at(x, s)-want[i]) > 0.005 {
				t.Errorf("%s at %v s is %.3f, want %v", wave, s, at(x, s), want[i])
			}
		}
	}
	once := run(params{"wave": "saw", "rate": 2.0, "cycle": "once", "phase": "reset"}, 2)
	if math.Abs(at(once, 0.25)) > 0.01 || math.Abs(at(once, 1.5)+1) > 0.01 {
		t.Errorf("a one-shot is %.3f half way and %.3f long after", at(once, 0.25), at(once, 1.5))
	}
	late := run(params{"wave": "pulse", "rate": 0.1, "phase": "reset", "delay": 0.3, "fade": 0.4}, 1)
	if at(late, 0.2) != 0 || math.Abs(at(late, 0.5)-0.5) > 0.01 || math.Abs(at(late, 0.9)-1) > 0.01 {
		t.Errorf("delayed and faded in: %.3f %.3f %.3f", at(late, 0.2), at(late, 0.5), at(late, 0.9))
	}
	steps := run(params{"wave": "sample and hold", "rate": 10.0, "phase": "reset"}, 4)
	changes, low, high := 0, 1.0, -1.0
	for k := 1; k < len(steps); k++ {
		if steps[k] != steps[k-1] {
			changes++
		}
		low, high = min(low, steps[k]), max(high, steps[k])
	}
	if changes < 38 || changes > 40 || low > -0.5 || high < 0.5 {
		t.Errorf("%d steps in 4 s at 10 Hz between %.2f and %.2f", changes, low, high)
	}
	smooth := run(params{"wave": "smooth random", "rate": 10.0, "phase": "reset"}, 4)
	for k := 1; k < len(smooth); k++ {
		if math.Abs(smooth[k]-smooth[k-1]) > 0.002 {
			t.Fatalf("smooth random jumps by %v", smooth[k]-smooth[k-1])
		}
	}
}

// Noise falls as its colour says: white not, pink by 3 dB an octave, brown by 6 (the names' own definition).
func TestNoiseColours(t *testing.T) {
	for colour, want := range map[string]float64{"white": 0, "pink": -3, "brown": -6} {
		g := newNoise(colour, 11)
		x := make([]float64, 40*Rate)
		g.run(x, &noiseSpec{colour: colour}, 60)
		band := func(f float64) float64 { // mean power of bins about a frequency
			sum := 0.0
			n := 0
			for a := 0; a+4096 <= len(x); a += 4096 * 8 {
				for _, k := range []float64{0.9, 0.95, 1, 1.05, 1.1} {
					b := cmplx.Abs(bin(x[a:a+4096], f*k))
					sum += b * b
					n++
				}
			}
			return 10 * math.Log10(sum/float64(n))
		}
		got := (band(6400) - band(200)) / 5
		if math.Abs(got-want) > 0.5 {
			t.Errorf("%s falls by %.2f dB an octave, want %v", colour, got, want)
		}
		sum := 0.0
		for _, y := range x {
			sum += y
		}
		if mean := sum / float64(len(x)); math.Abs(mean) > 0.05 {
			t.Errorf("%s has direct current of %.3f", colour, mean)
		}
	}
}

// Effects: a three-band compressor that compresses nothing is flat, a widener of 0 changes nothing, a flanger's
// comb has its notches where its delay says, a chorus keeps the level.
func TestEffects(t *testing.T) {
	gain := func(d meaning.Module, hz float64) float64 {
		n := Rate
		l, r := make([]float64, n), make([]float64, n)
		for k := range l {
			l[k] = math.Sin(2 * math.Pi * hz * float64(k) / Rate)
			r[k] = l[k]
		}
		e := &engine{m: &meaning.Meaning{Modules: []meaning.Module{d}}}
		whole(e.effect(&e.m.Modules[0], l, r, nil, nil), len(l))
		return decibels(cmplx.Abs(bin(l[n/2:], hz)))
	}
	bands := part("b", meaning.Multiband, params{"low": 200.0, "high": 2000.0, "ratio": 1.0, "mix": 1.0})
	for _, hz := range []float64{50, 200, 630, 2000, 9000} {
		if g := gain(bands, hz); math.Abs(g) > 0.1 {
			t.Errorf("three bands together are %.2f dB off at %v Hz", g, hz)
		}
	}
	// a delay of 2 ms and equal shares: notches at odd multiples of 250 Hz, peaks between
	flanger := part("f", meaning.Flanger, params{"delay": 0.002, "depth": nil, "rate": 0.1, "mix": 1.0, "feedback": 0.0})
	for hz, want := range map[float64]bool{250: true, 500: false, 750: true, 1000: false} {
		if g := gain(flanger, hz); (g < -24) != want || !want && math.Abs(g) > 0.2 {
			t.Errorf("a flanger of 2 ms has %.1f dB at %v Hz", g, hz)
		}
	}
	if g := gain(part("w", meaning.Widener, params{"width": 1.0}), 440); math.Abs(g) > 1e-6 {
		t.Errorf("a widener changes what is in the middle by %v dB", g)
	}
	phaser := part("p", meaning.Phaser, params{"rate": 0.01, "depth": 0.0, "stages": 4.0, "centre": 1000.0, "mix": 1.0})
	// four all-pass stages turn by 360 degrees at their centre, by 180 at tan(22.5 degrees) of it, where the two halves
	// cancel (circuit theory)
	notch := Rate / math.Pi * math.Atan(math.Tan(math.Pi*1000/Rate)*math.Tan(math.Pi/8))
	if g := gain(phaser, notch); g > -30 {
		t.Errorf("a phaser of four stages has %.1f dB at %.0f Hz", g, notch)
	}
	if g := gain(phaser, 1000); math.Abs(g) > 0.2 {
		t.Errorf("a phaser of four stages has %.1f dB at its centre", g)
	}
}

// Whatever the settings, what comes out is finite and bounded, without direct current: every filter at every
// resonance moved at audio rate, every curve of drive.
func TestNothingRunsAway(t *testing.T) {
	for mode := range dsp.Modes {
		for _, poles := range []float64{1, 2, 3, 4} {
			for _, res := range []float64{0, 0.9, 1, 1.1} {
				f := part("f", meaning.Filter, params{"mode": mode, "poles": poles, "cutoff": 2000.0, "resonance": res, "feedback": 0.97, "track": 1.0})
				m := simple([]meaning.Route{way("o", "f.cutoff", 6)}, part("o", meaning.Osc, params{"wave": "saw", "level": 12.0}), f)
				s := rendered(t, m, 0, note(0, 0.5, 90))
				check(t, fmt.Sprintf("%s, %v poles, %v", mode, poles, res), s, 400)
			}
		}
	}
	for _, curve := range []string{"soft", "hard", "tube", "diode", "fold"} {
		d := part("d", meaning.Drive, params{"curve": curve, "gain": 40.0, "mix": 1.0})
		s := rendered(t, simple(nil, part("o", meaning.Osc, params{"wave": "pulse", "width": 0.1, "level": 12.0}), d), 0, note(0, 0.5, 40))
		check(t, curve, s, 4)
	}
}

func check(t *testing.T, name string, s *Sound, bound float64) {
	t.Helper()
	sum := 0.0
	for k, y := range s.Left {
		if math.IsNaN(y) || math.Abs(y) > bound {
			t.Fatalf("%s: sample %d is %v", name, k, y)
		}
		sum += y
	}
	if mean := sum / float64(len(s.Left)); math.Abs(mean) > max(0.1, bound/2000) {
		t.Errorf("%s: direct current of %.3f", name, mean)
	}
}

// A voice without anything wide is rendered once and stands in both channels, the same as it does beside a silent
// second layer, where both channels are rendered.
func TestOneChannel(t *testing.T) {
	m := simple(nil, part("o", meaning.Osc, params{"wave": "saw", "level": -6.0}), part("f", meaning.Filter, params{"mode": "lowpass", "poles": 4.0, "cutoff": 900.0, "resonance": 0.5}))
	notes := []phrase.Note{note(0, 0.4, 50), note(0.3, 0.8, 57)}
	one, err := Render([]Layer{{Meaning: m}}, notes, Options{Seed: 3})
	if err != nil {
		t.Fatal(err)
	}
	silent := simple(nil, part("o", meaning.Osc, params{"wave": "saw", "level": -119.0}))
	two, err := Render([]Layer{{Meaning: m}, {Meaning: silent}}, notes, Options{Seed: 3})
	if err != nil {
		t.Fatal(err)
	}
	for k := range one.Left[:Rate/2] {
		if one.Left[k] != one.Right[k] || math.Abs(one.Left[k]-two.Left[k]) > 1e-5 || math.Abs(one.Right[k]-two.Right[k]) > 1e-5 {
			t.Fatalf("sample %d: %v %v, beside another layer %v %v", k, one.Left[k], one.Right[k], two.Left[k], two.Right[k])
		}
	}
	wide := simple(nil, part("o", meaning.Osc, params{"wave": "saw", "level": -6.0, "unison": 2.0, "spread": 10.0, "stereo": 1.0}))
	w, err := Render([]Layer{{Meaning: wide}}, notes, Options{Seed: 3})
	if err != nil {
		t.Fatal(err)
	}
	apart := 0.0
	for k := range w.Left {
		apart = max(apart, math.Abs(w.Left[k]-w.Right[k]))
	}
	if apart < 0.01 {
		t.Errorf("a wide voice is %v apart", apart)
	}
}

// A rendering tells how far it is, never backwards and to the end, and gives up when it is asked to.
func TestProgressAndStop(t *testing.T) {
	m := simple(nil, sine(nil), part("d", meaning.Delay, params{"time": 0.1, "mix": 0.5}))
	var notes []phrase.Note
	for i := range 6 {
		notes = append(notes, note(float64(i)/2, float64(i)/2+0.4, 60+float64(i)))
	}
	var told []float64
	layers := []Layer{{Meaning: m}, {Meaning: m, Transpose: 1200}}
	whole, err := Render(layers, notes, Options{Progress: func(x float64) { told = append(told, x) }})
	if err != nil {
		t.Fatal(err)
	}
	for i, x := range told {
		if x < 0 || x > 1 || i > 0 && x < told[i-1]-1e-9 {
			t.Fatalf("it is told %v", told)
		}
	}
	if len(told) < 2*len(notes) || told[0] > 0.2 || told[len(told)-1] < 0.9 {
		t.Errorf("it is told %v", told)
	}
	asked := 0
	stopped, err := Render(layers, notes, Options{Workers: 1, Stop: func() bool { asked++; return asked > 3 }})
	if stopped != nil || !errors.Is(err, ErrStopped) {
		t.Errorf("it was to give up: %v", err)
	}
	again, err := Render(layers, notes, Options{Stop: func() bool { return false }})
	if err != nil || len(again.Left) != len(whole.Left) || again.Left[Rate] != whole.Left[Rate] {
		t.Errorf("to be asked changes the sound: %v", err)
	}
}

// An instrument whose sources are all off is silent; a saw is put through what has none at all, a rack.
func TestSilenceIsSilence(t *testing.T) {
	off := build.Module("osc", meaning.Osc, build.Params{"level": nil})
	off.Idle = "level is off"
	for _, x := range []struct {
		name  string
		mods  []meaning.Module
		heard bool
	}{
		{"an oscillator that is off", []meaning.Module{off}, false},
		{"no source at all", nil, true},
	} {
		m := build.Row([]meaning.Route{build.Route("gate", "amp.level", 1, "unipolar")}, append(x.mods, build.Module("drive", meaning.Drive, build.Params{"gain": 6}))...)
		s, err := Render([]Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: 0.3, Key: 60, Velocity: 100}}, Options{Seed: 1})
		if err != nil {
			t.Fatal(err)
		}
		peak := 0.0
		for _, v := range s.Left {
			peak = math.Max(peak, math.Abs(v))
		}
		if (peak > 1e-4) != x.heard {
			t.Errorf("%s: peak %g", x.name, peak)
		}
	}
}

// A mix that a panel does not state is the whole effect, as it stands in line: the same as a mix of 1, and not the dry sound.
func TestUnstatedMixIsWhole(t *testing.T) {
	play := func(k meaning.Kind, mix any) []float64 {
		params := map[meaning.Kind]build.Params{meaning.Drive: {"gain": 18}, meaning.Chorus: {"rate": 1, "depth": 0.002}, meaning.Flanger: {"rate": 1, "depth": 0.002}, meaning.Phaser: {"rate": 1, "depth": 0.5},
			meaning.Delay: {"time": 0.1, "feedback": 0.4}, meaning.Reverb: {"t60": 1}, meaning.Compressor: {"threshold": -30, "ratio": 4}, meaning.Multiband: {"thresholdLow": -30, "thresholdMid": -30, "thresholdHigh": -30, "ratio": 4}}[k]
		all := build.Params{}
		for name, v := range params {
			all[name] = v
		}
		if mix != "none" {
			all["mix"] = mix
		}
		m := build.Row([]meaning.Route{build.Route("gate", "amp.level", 1, "unipolar")}, build.Module("osc", meaning.Osc, build.Params{"level": 0}), build.Module("fx", k, all))
		s, err := Render([]Layer{{Meaning: m}}, []phrase.Note{{Start: 0, End: 0.3, Key: 60, Velocity: 100}}, Options{Seed: 1})
		if err != nil {
			t.Fatal(err)
		}
		return s.Left
	}
	apart := func(a, b []float64) float64 {
		sum := 0.0
		for i := range min(len(a), len(b)) {
			sum += math.Abs(a[i] - b[i])
		}
		return sum
	}
	for _, k := range []meaning.Kind{meaning.Drive, meaning.Chorus, meaning.Flanger, meaning.Phaser, meaning.Delay, meaning.Reverb, meaning.Compressor, meaning.Multiband} {
		none, whole, dry := play(k, "none"), play(k, 1.0), play(k, 0.0)
		if apart(none, whole) > 1e-6 || apart(none, dry) < 1 {
			t.Errorf("%s: %g from the whole, %g from the dry sound", k, apart(none, whole), apart(none, dry))
		}
	}
}
