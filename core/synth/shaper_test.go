package synth

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

var curves = []string{"soft", "hard", "tube", "diode", "fold"}

// The antiderivatives are those of the curves: their differences over a small step are the curve's own value.
func TestAntiderivatives(t *testing.T) {
	for _, c := range curves {
		if beneath(c, 0) != 0 {
			t.Errorf("%s begins at %v", c, beneath(c, 0))
		}
		for x := -9.0; x <= 9; x += 0.037 {
			const h = 1e-5
			got := (beneath(c, x+h) - beneath(c, x-h)) / (2 * h)
			if want := bend(c, x); math.Abs(got-want) > 2e-4 {
				t.Errorf("%s at %.3f: slope %.6f, curve %.6f", c, x, got, want)
			}
		}
	}
}

// one gives what runs on pieces as a function of one sample.
func one(run func([]float64)) func(float64) float64 {
	return func(x float64) float64 {
		y := []float64{x}
		run(y)
		return y[0]
	}
}

// harmonic gives the amplitude of a sine of f hertz in x by its Fourier sum over whole periods.
func harmonic(x []float64, f float64) float64 {
	var re, im float64
	for k, y := range x {
		p := 2 * math.Pi * f * float64(k) / Rate
		re += y * math.Cos(p)
		im += y * math.Sin(p)
	}
	return 2 * math.Hypot(re, im) / float64(len(x))
}

// driven gives a second of a sine of f hertz (a divisor of Rate) and some gain through a curve, after a while.
func driven(next func(float64) float64, f, gain float64) []float64 {
	out := make([]float64, Rate)
	for k := -Rate / 10; k < Rate; k++ {
		y := next(gain * math.Sin(2*math.Pi*f*float64(k)/Rate))
		if k >= 0 {
			out[k] = y
		}
	}
	return out
}

// A clipped sine has the harmonics of its Fourier series: for a clip at c of the amplitude, with a = asin c, the nth (odd) is
// 2/pi (sin((n-1)a)/(n(n-1)) + sin((n+1)a)/(n(n+1))) for n > 1, of the amplitude (Bronshtein, by integration).
func TestClippingAgainstSeries(t *testing.T) {
	const f, gain = 500.0, 2.0
	s := newShaper("hard")
	x := driven(one(s.run), f, gain)
	a := math.Asin(1 / gain)
	for n := 3; float64(n)*f < 8000; n += 2 {
		m := float64(n)
		want := gain * 2 / math.Pi * math.Abs(math.Sin((m-1)*a)/(m*(m-1))+math.Sin((m+1)*a)/(m*(m+1)))
		if want < 1e-3 {
			continue
		}
		if got := harmonic(x, m*f); math.Abs(20*math.Log10(got/want)) > 0.5 {
			t.Errorf("harmonic %d: %.5f, want %.5f", n, got, want)
		}
	}
	if got := harmonic(x, 2*f); got > 1e-6 {
		t.Errorf("a curve that is odd gives an even harmonic of %v", got)
	}
}

// Aliases lie at frequencies that are no multiples of the sine: their power against the fundamental, plainly sample by sample and by the
// shaper.
func TestDriveAliases(t *testing.T) {
	const f = 1979.0 // a prime: no alias falls on a harmonic
	aliases := func(next func(float64) float64) float64 {
		x := driven(next, f, 8)
		total := 0.0
		for _, y := range x {
			total += y * y
		}
		total = 2 * total / float64(len(x))
		of := math.Pow(harmonic(x, f), 2)
		for n := 0; float64(n)*f < Rate/2; n++ {
			if n == 0 {
				mean := 0.0
				for _, y := range x {
					mean += y
				}
				total -= 2 * math.Pow(mean/float64(len(x)), 2)
				continue
			}
			total -= math.Pow(harmonic(x, float64(n)*f), 2)
		}
		return 10 * math.Log10(total/of)
	}
	for _, c := range curves {
		plain := aliases(func(x float64) float64 { return bend(c, x) })
		s := newShaper(c)
		got := aliases(one(s.run))
		t.Logf("%s: %.1f dB, sample by sample %.1f dB", c, got, plain)
		if got > plain-6 || c != "fold" && got > -42 {
			t.Errorf("%s: aliases of %.1f dB, sample by sample %.1f dB", c, got, plain)
		}
	}
}

// Below the bend nothing is changed: level to 0.3 dB up to 12 kHz, for a sine far below full level.
func TestShaperIsFlat(t *testing.T) {
	for _, f := range []float64{100, 1000, 3000, 6000, 8000, 12000} {
		s := newShaper("hard")
		if got := 20 * math.Log10(harmonic(driven(one(s.run), f, 0.01), f)/0.01); math.Abs(got) > 0.3 {
			t.Errorf("%.2f dB at %v Hz", got, f)
		}
	}
}

// A drive without gain and with a soft curve leaves a quiet sound as it is, in the chain too.
func TestDriveLeavesQuietSounds(t *testing.T) {
	d := part("d", meaning.Drive, params{"curve": "soft", "gain": 0.0, "mix": 1.0})
	w := driverOf(&d)
	x := driven(one(w.run), 1000, 0.02)
	if got := harmonic(x, 1000); math.Abs(20*math.Log10(got/0.02)) > 0.1 {
		t.Errorf("%.5f, want 0.02", got)
	}
}

// The saturation of mixer, filters and amplifier is lighter: aliases of a sine at 18 dB over saturation lie below -40 dB, a quiet sound is as it
// was, late by whole samples.
func TestSaturator(t *testing.T) {
	const f = 1979.0
	s := newSaturator()
	x := driven(one(func(y []float64) { s.run(y, []float64{18}) }), f, 1)
	total := 0.0
	for _, y := range x {
		total += y * y / float64(len(x)) * 2
	}
	of := math.Pow(harmonic(x, f), 2)
	for n := 1; float64(n)*f < Rate/2; n++ {
		total -= math.Pow(harmonic(x, float64(n)*f), 2)
	}
	got := 10 * math.Log10(total/of)
	t.Logf("aliases %.1f dB", got)
	if got > -40 {
		t.Errorf("aliases of %.1f dB", got)
	}
	// by each drive the level of a quiet sine rises by that; up to 3 dB bit by bit
	for _, drive := range []float64{-6, 0, 1.5, 3, 6, 12} {
		s := newSaturator()
		want := 1 + clamp(drive/3, 0, 1)*(math.Pow(10, max(drive, 0)/20)-1)
		for _, list := range [][]float64{{drive}, {drive, drive}} {
			x := driven(one(func(y []float64) { s.run(y, list[:1]) }), 1000, 0.001)
			if got := harmonic(x, 1000) / 0.001; math.Abs(20*math.Log10(got/want)) > 0.05 {
				t.Errorf("%v dB: %.2f dB, want %.2f dB", drive, 20*math.Log10(got), 20*math.Log10(want))
			}
		}
	}
}

// What goes past a saturation waits for what goes through it: with a drive of next to nothing anywhere the sound is the one without, later by whole
// samples, whichever way its sources take.
func TestSaturationKeepsTogether(t *testing.T) {
	const next = 1e-9
	for _, routing := range []string{"series", "parallel"} {
		for _, x := range []struct {
			name                    string
			mixer, first, second, a float64
			stages                  int
		}{
			{"mixer", next, 0, 0, 0, 1},
			{"amplifier", 0, 0, 0, next, 1},
			{"first filter", 0, next, 0, 0, 1},
			{"second filter", 0, 0, next, 0, 1},
			{"both filters", 0, next, next, 0, map[string]int{"series": 2, "parallel": 1}[routing]},
			{"all", next, next, next, next, map[string]int{"series": 4, "parallel": 3}[routing]},
		} {
			sound := func(mixer, first, second, amp float64) *Sound {
				o := func(id, to string, key float64) meaning.Module {
					d := part(id, meaning.Osc, params{"wave": "saw", "level": -12.0, "phase": "reset", "interval": key, "pan": key / 2000})
					if to != "" {
						d.Params["to"] = part("x", meaning.Osc, params{"to": to}).Params["to"]
					}
					return d
				}
				f := part("f", meaning.Filter, params{"mode": "lowpass", "poles": 4.0, "cutoff": 900.0, "resonance": 0.3, "drive": first})
				g := part("g", meaning.Filter, params{"mode": "highpass", "poles": 2.0, "cutoff": 300.0, "routing": routing, "mix": 0.7, "drive": second})
				m := simple(nil, o("o", "", 0), o("p", "filter 2", 300), o("q", "past", 700), o("r", "both", 1200), f, g)
				*m.Module("mixer"), *m.Module("amp") = part("mixer", meaning.Mixer, params{"drive": mixer}), part("amp", meaning.Amp, params{"drive": amp})
				return rendered(t, m, 0, note(0, 0.6, 50))
			}
			want, got := sound(0, 0, 0, 0), sound(x.mixer, x.first, x.second, x.a)
			late, worst := x.stages*lightDelay, 0.0
			for k := Rate * 2 / 5; k < Rate/2; k++ { // long after the edge of the gate
				worst = max(worst, math.Abs(got.Left[k]-want.Left[k-late])+math.Abs(got.Right[k]-want.Right[k-late]))
			}
			if worst > 1e-4 {
				t.Errorf("%s, drive in %s: %.4f off", routing, x.name, worst)
			}
		}
	}
}

// However the sound is cut into pieces, the drive gives the same.
func TestDriveInPieces(t *testing.T) {
	for _, c := range curves {
		d := part("d", meaning.Drive, params{"curve": c, "gain": 18.0, "mix": 0.7, "tone": 4000.0})
		whole, cut := driverOf(&d), driverOf(&d)
		x := driven(func(y float64) float64 { return y }, 1979, 0.8)[:4000]
		y := append([]float64(nil), x...)
		whole.run(x)
		for at, n := 0, 1; at < len(y); at, n = at+n, n%97+1 {
			cut.run(y[at:min(at+n, len(y))])
		}
		for k := range x {
			if math.Abs(x[k]-y[k]) > 1e-12 {
				t.Fatalf("%s: sample %d is %v and %v", c, k, x[k], y[k])
			}
		}
	}
}

func BenchmarkShaper(b *testing.B) {
	for _, c := range curves {
		b.Run(c, func(b *testing.B) {
			s := newShaper(c)
			var x [block]float64
			for b.Loop() {
				for k := range x {
					x[k] = 3 * math.Sin(float64(k)*0.2)
				}
				s.run(x[:])
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/block, "ns/sample")
		})
	}
}
