package synth

import (
	"math"
	"slices"
	"testing"

	"glossator/core/dsp"
	"glossator/core/meaning"
)

type staged struct {
	kind   meaning.Kind
	linear bool
	ps     params
}

// settings are effects with something to do, by kind; linear tells those that only delay and filter.
var settings = []staged{
	{meaning.Drive, false, params{"curve": "soft", "gain": 12.0, "mix": 1.0}},
	{meaning.Drive, false, params{"curve": "fold", "gain": 12.0, "mix": 0.5, "tone": 3000.0}},
	{meaning.EQ, true, params{"mode": "peak", "freq": 700.0, "gain": 9.0, "q": 2.0}},
	{meaning.EQ, true, params{"mode": "low shelf", "freq": 200.0, "gain": -6.0}},
	{meaning.EQ, true, params{"mode": "high shelf", "freq": 4000.0, "gain": 6.0}},
	{meaning.Compressor, false, params{"threshold": -20.0, "ratio": 4.0, "attack": 0.005, "release": 0.1}},
	{meaning.Multiband, false, params{"thresholdLow": -20.0, "thresholdMid": -20.0, "thresholdHigh": -20.0, "ratio": 4.0, "mix": 1.0, "attack": 0.01, "release": 0.1}},
	{meaning.Chorus, true, params{"rate": 0.7, "depth": 0.003, "delay": 0.01, "mix": 0.5, "voices": 3.0}},
	{meaning.Flanger, true, params{"rate": 0.3, "depth": 0.002, "delay": 0.003, "feedback": 0.6, "mix": 0.8}},
	{meaning.Phaser, true, params{"rate": 0.5, "depth": 0.8, "stages": 6.0, "feedback": 0.5, "mix": 0.8}},
	{meaning.Delay, true, params{"time": 0.11, "timeRight": 0.17, "feedback": 0.5, "mix": 0.5, "tone": 4000.0}},
	{meaning.Delay, true, params{"time": 0.09, "feedback": 0.5, "pattern": "pingpong", "mix": 0.7, "wobble": 0.3}},
	{meaning.Delay, true, params{"time": 0.02, "feedback": 0.3, "depth": 0.002, "rate": 1.5, "mix": 0.6}},
	{meaning.Reverb, true, params{"t60": 1.5, "mix": 0.6, "predelay": 0.02, "damping": 0.4}},
	{meaning.Widener, true, params{"width": 0.5}},
}

// chirp is a sweep with a little noise, different on both sides.
func chirp(n int, seed uint64) (left, right []float64) {
	left, right = make([]float64, n), make([]float64, n)
	r := random(seed*7919 + 1)
	for k := range left {
		p := 2 * math.Pi * (80*float64(k)/Rate + 900*math.Pow(float64(k)/Rate, 2))
		left[k] = 0.3*math.Sin(p) + 0.02*r.next()
		right[k] = 0.3*math.Cos(1.3*p) + 0.02*r.next()
	}
	return left, right
}

func through(kind meaning.Kind, ps params, left, right []float64) (l, r []float64) {
	l, r = append([]float64(nil), left...), append([]float64(nil), right...)
	d := part("d", kind, ps)
	e := &engine{m: &meaning.Meaning{Tempo: 120}}
	whole(e.effect(&d, l, r, nil, nil), len(l))
	return l, r
}

// whole runs an effect from the start to the end.
func whole(run step, n int) {
	for from := 0; from < n; from += stretch {
		run(from, min(from+stretch, n))
	}
}

// However the time is cut, an effect gives the same to the last bit, still and moved.
func TestEffectsInPieces(t *testing.T) {
	const n = Rate/3 + 17
	al, ar := chirp(n, 7)
	all := append(slices.Clone(settings), staged{meaning.Filter, true, params{"mode": "lowpass", "cutoff": 900.0, "poles": 2.0, "resonance": 0.5, "mix": 0.8}})
	for _, moved := range []bool{false, true} {
		for _, x := range all {
			d := part("d", x.kind, x.ps)
			e := &engine{m: &meaning.Meaning{Tempo: 120}, swings: map[string][]float64{}}
			if moved {
				for _, name := range movable[x.kind] {
					for k := range n/block + 1 {
						ref := meaning.Ref("d", name)
						e.swings[ref] = append(e.swings[ref], 0.2*math.Sin(float64(k)/9))
					}
				}
			}
			l, r := append([]float64(nil), al...), append([]float64(nil), ar...)
			whole(e.effect(&d, l, r, nil, nil), n)
			pl, pr := append([]float64(nil), al...), append([]float64(nil), ar...)
			run := e.effect(&d, pl, pr, nil, nil)
			for from, blocks := 0, 1; from < n; blocks = blocks%7 + 1 {
				to := min(from+blocks*block, n)
				run(from, to)
				from = to
			}
			for k := range l {
				if l[k] != pl[k] || r[k] != pr[k] {
					t.Errorf("%s %v, moved %v: sample %d is %v in pieces, %v else", x.kind, x.ps, moved, k, pl[k], l[k])
					break
				}
			}
		}
	}
}

// Two ladders at once are two ladders, moved or still, to rounding.
func TestLaddersAtOnce(t *testing.T) {
	for _, res := range []float64{0, 0.6, 1.05} {
		for _, moving := range []bool{false, true} {
			for _, quick := range []bool{false, true} {
				x, y := chirp(4000, 5)
				for k := range x {
					x[k] *= 20 // into saturation
				}
				a, b := append([]float64(nil), x...), append([]float64(nil), y...)
				f, g := newFilter(dsp.Lowpass, 4, 1), newFilter(dsp.Lowpass, 4, 2)
				p, q := newFilter(dsp.Lowpass, 4, 1), newFilter(dsp.Lowpass, 4, 2)
				for at := 0; at+block <= len(x); at += block {
					cut := []float64{6}
					if moving {
						cut = floats(block)
						for k := range cut {
							cut[k] = 5 + 3*math.Sin(float64(at+k)/300)
						}
					}
					runLadders(f, g, x[at:at+block], y[at:at+block], cut, []float64{res}, quick)
					p.run(a[at:at+block], cut, []float64{res}, nil, 0, quick)
					q.run(b[at:at+block], cut, []float64{res}, nil, 0, quick)
				}
				for k := range x {
					if math.Abs(x[k]-a[k])+math.Abs(y[k]-b[k]) > 1e-9 {
						t.Fatalf("resonance %v, moving %v, quick %v: sample %d is %v, %v, one by one %v, %v", res, moving, quick, k, x[k], y[k], a[k], b[k])
					}
				}
			}
		}
	}
}

// Nothing comes out of nothing; what is the same twice is the same; what is linear adds up and scales; what is not stays within bounds.
func TestEffectsAsSystems(t *testing.T) {
	const n = Rate / 2
	al, ar := chirp(n, 1)
	bl, br := chirp(n, 2)
	for _, x := range settings {
		zl, zr := through(x.kind, x.ps, make([]float64, n), make([]float64, n))
		for k := range zl {
			if math.Abs(zl[k])+math.Abs(zr[k]) > 1e-9 {
				t.Errorf("%s %v: %v out of nothing", x.kind, x.ps, zl[k])
				break
			}
		}
		l1, r1 := through(x.kind, x.ps, al, ar)
		l2, r2 := through(x.kind, x.ps, al, ar)
		changed := 0.0
		for k := range l1 {
			if l1[k] != l2[k] || r1[k] != r2[k] {
				t.Errorf("%s %v: another sound the second time", x.kind, x.ps)
				break
			}
			if math.IsNaN(l1[k]) || math.Abs(l1[k]) > 8 || math.Abs(r1[k]) > 8 {
				t.Errorf("%s %v: sample %d is %v, %v", x.kind, x.ps, k, l1[k], r1[k])
				break
			}
			changed = max(changed, math.Abs(l1[k]-al[k])+math.Abs(r1[k]-ar[k]))
		}
		if changed < 0.01 {
			t.Errorf("%s %v does nothing", x.kind, x.ps)
		}
		if !x.linear {
			continue
		}
		sl, sr := make([]float64, n), make([]float64, n)
		for k := range sl {
			sl[k], sr[k] = al[k]-2*bl[k], ar[k]-2*br[k]
		}
		sl, sr = through(x.kind, x.ps, sl, sr)
		l2, r2 = through(x.kind, x.ps, bl, br)
		for k := range sl {
			if d := math.Abs(sl[k]-(l1[k]-2*l2[k])) + math.Abs(sr[k]-(r1[k]-2*r2[k])); d > 1e-6 {
				t.Errorf("%s %v: a sum comes out %v from the sum of what comes out", x.kind, x.ps, d)
				break
			}
		}
	}
}

// A mix of nothing leaves the sound as it is, whatever else is set; only the drive is late, by whole samples.
func TestDryIsDry(t *testing.T) {
	const n = Rate / 4
	al, ar := chirp(n, 3)
	for _, x := range settings {
		if _, has := meaning.SpecOf(x.kind).Param("mix"); !has {
			continue
		}
		ps := params{}
		for k, v := range x.ps {
			ps[k] = v
		}
		ps["mix"] = 0.0
		l, r := through(x.kind, ps, al, ar)
		late := 0
		if x.kind == meaning.Drive {
			late = shaperDelay
		}
		for k := late; k < n; k++ {
			if math.Abs(l[k]-al[k-late])+math.Abs(r[k]-ar[k-late]) > 1e-9 {
				t.Errorf("%s %v: dry, sample %d is %v, want %v", x.kind, ps, k, l[k], al[k-late])
				break
			}
		}
	}
}

// What comes later comes out later and otherwise the same, for effects that do not move by themselves.
func TestTimeDoesNotMatter(t *testing.T) {
	const n, late = Rate / 4, 777
	al, ar := chirp(n, 4)
	sl, sr := make([]float64, n), make([]float64, n)
	copy(sl[late:], al)
	copy(sr[late:], ar)
	for _, x := range settings {
		if x.ps["rate"] != nil || x.ps["wobble"] != nil {
			continue
		}
		l, r := through(x.kind, x.ps, al, ar)
		ll, lr := through(x.kind, x.ps, sl, sr)
		for k := late; k < n; k++ {
			if d := math.Abs(ll[k]-l[k-late]) + math.Abs(lr[k]-r[k-late]); d > 1e-7 {
				t.Errorf("%s %v: %d samples later it is %v off", x.kind, x.ps, late, d)
				break
			}
		}
	}
}

// A delay that moves by d seconds at a rate f bends what goes through it by 2 pi f d either way (the Doppler effect: the pitch is that of the time at which it is read), and its time is the same in the middle.
func TestADelayThatMovesBendsThePitch(t *testing.T) {
	const hz, n = 1000.0, 4 * Rate
	in := make([]float64, n)
	for k := range in {
		in[k] = math.Sin(2 * math.Pi * hz * float64(k) / Rate)
	}
	for _, x := range []struct{ time, depth, rate float64 }{{0.02, 0.002, 1}, {0.3, 0.004, 0.5}, {0.015, 0.001, 5}, {0.001, 0.003, 1}} {
		l, r := through(meaning.Delay, params{"time": x.time, "feedback": 0.0, "mix": 1.0, "depth": x.depth, "rate": x.rate}, in, in)
		var last, least, most float64
		least = math.Inf(1)
		for k := Rate; k < n-1; k++ {
			if l[k] != r[k] {
				t.Fatalf("%+v: the sides move otherwise", x)
			}
			if l[k] < 0 && l[k+1] >= 0 { // 20 periods at a time: a hundredth of a second is short beside the movement
				at := (float64(k) + l[k]/(l[k]-l[k+1])) / Rate
				if last > 0 {
					f := 1 / (at - last)
					least, most = math.Min(least, f), math.Max(most, f)
				}
				last = at
			}
		}
		bend := 2 * math.Pi * x.rate * x.depth
		if math.Abs(most/(hz*(1+bend))-1) > 0.002 || math.Abs(least/(hz*(1-bend))-1) > 0.002 {
			t.Errorf("%+v: from %.1f to %.1f Hz, want %.1f and %.1f", x, least, most, hz*(1-bend), hz*(1+bend))
		}
	}
}

// The bands of the three-band compressor add up to the sound where nothing is compressed: level at each frequency within 0.1 dB.
func TestBandsAddUp(t *testing.T) {
	for _, f := range []float64{50, 150, 200, 400, 1000, 2000, 3000, 9000} {
		x := driven(func(y float64) float64 { return y }, f, 0.25)
		l, _ := through(meaning.Multiband, params{"ratio": 1.0, "mix": 1.0, "low": 200.0, "high": 2000.0, "gainLow": 0.0, "gainMid": 0.0, "gainHigh": 0.0}, append(x, x...), append(x, x...))
		if got := 20 * math.Log10(harmonic(l[Rate:], f)/0.25); math.Abs(got) > 0.1 {
			t.Errorf("%v Hz comes out at %.2f dB", f, got)
		}
	}
}

// Equal power: a source panned anywhere is as loud, and the middle is where it was.
func TestPanKeepsPower(t *testing.T) {
	for p := -1.0; p <= 1; p += 0.125 {
		l, r := panGains(p)
		if got := l*l + r*r; math.Abs(got-2) > 1e-9 {
			t.Errorf("at %v the power is %v", p, got)
		}
		ml, mr := panGains(-p)
		if math.Abs(ml-r)+math.Abs(mr-l) > 1e-9 {
			t.Errorf("at %v it is no mirror of %v", p, -p)
		}
	}
	if l, r := panGains(0); l != 1 || r != 1 {
		t.Errorf("the middle is %v, %v", l, r)
	}
	if l, r := panGains(-3); math.Abs(r) > 1e-9 || l < 1.4 {
		t.Errorf("beyond the end it is %v, %v", l, r)
	}
}

// Half-band filters: up and down again a sound is itself, late by whole samples, to 0.1 dB up to 18 kHz; images above are 50 dB down.
func TestHalfbands(t *testing.T) {
	there := func() (both func(float64) float64, up *halfband) {
		u, d := newHalfband(wideTaps, 1), newHalfband(wideTaps, 1)
		return func(x float64) float64 {
			var a, b, y [1]float64
			u.up([]float64{x}, a[:], b[:])
			d.down(a[:], b[:], y[:])
			return y[0]
		}, &u
	}
	for _, f := range []float64{100, 1000, 8000, 15000, 18000} {
		both, _ := there()
		if got := 20 * math.Log10(harmonic(driven(both, f, 1), f)); math.Abs(got) > 0.1 {
			t.Errorf("%v Hz comes back at %.3f dB", f, got)
		}
	}
	both, _ := there()
	at, best := 0, 0.0
	for k := range 100 {
		y := 0.0
		if k == 10 {
			y = 1
		}
		if z := both(y); z > best {
			at, best = k, z
		}
	}
	if at-10 != 2*wideTaps-1 {
		t.Errorf("it is late by %d samples, want %d", at-10, 2*wideTaps-1)
	}
	// the image of 8 kHz lies at 40 kHz of a rate of 96 kHz: as a tone of the double rate it is all but gone
	_, up := there()
	var twice []float64
	for k := -2000; k < Rate; k++ {
		var a, b [1]float64
		up.up([]float64{math.Sin(2 * math.Pi * 8000 * float64(k) / Rate)}, a[:], b[:])
		if k >= 0 {
			twice = append(twice, a[0], b[0])
		}
	}
	image := harmonic(twice, 40000.0/2) // harmonic counts in a rate that is half of this one
	if got := 20 * math.Log10(image/harmonic(twice, 8000.0/2)); got > -50 {
		t.Errorf("the image lies at %.1f dB", got)
	}
	sum := 0.5
	for _, c := range halves(wideTaps) {
		sum += 2 * c
	}
	if math.Abs(sum-1) > 1e-12 {
		t.Errorf("the coefficients add up to %v", sum)
	}
}
