package hear_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"glossator/core/hear"
	"glossator/testutil/sounds"
)

// soxFile and csoundFile make sounds by other programs.
var (
	soxFile    = sounds.Sox
	csoundFile = sounds.Csound
)

// Figures of sounds that other programs made with known settings (sox and csound, from Debian's
// packages). near is the just-noticeable difference as a share of the value, or abs in its unit; those of
// level, pitch, duration and reverberation are in meaning's table with their sources.
func TestAgainstOtherPrograms(t *testing.T) {
	type check struct {
		label string
		want  float64
		near  float64 // share of want
		abs   float64
	}
	saw := func(f float64) string { return fmt.Sprintf("a1 vco2 0.4, %v\n", f) }
	for _, x := range []struct {
		name string
		wave func(t testing.TB) hear.Wave
		what string
		off  float64
		list []check
	}{
		{"sine 440", func(t testing.TB) hear.Wave { return soxFile(t, 48000, "synth 1 sine 440 vol 0.5") }, "pitch", 0, []check{{"pitch", 440, 0.0029, 0}}},
		{"sine 997 at 8 kHz", func(t testing.TB) hear.Wave { return soxFile(t, 8000, "synth 1 sine 997 vol 0.5") }, "pitch", 0, []check{{"pitch", 997, 0.0029, 0}}},
		{"saw 55", func(t testing.TB) hear.Wave { return soxFile(t, 44100, "synth 2 sawtooth 55 vol 0.3") }, "pitch", 0, []check{{"pitch", 55, 0.0029, 0}}},
		{"square 1234.5", func(t testing.TB) hear.Wave { return soxFile(t, 96000, "synth 1 square 1234.5 vol 0.3") }, "pitch", 0, []check{{"pitch", 1234.5, 0.0029, 0}}},
		{"triangle 220 at 192 kHz", func(t testing.TB) hear.Wave { return soxFile(t, 192000, "synth 1 triangle 220 vol 0.3") }, "pitch", 0, []check{{"pitch", 220, 0.0029, 0}}},
		{"saw 41.2 band-limited", func(t testing.TB) hear.Wave { return csoundFile(t, 48000, 1.5, saw(41.2)) }, "pitch", 0, []check{{"pitch", 41.2, 0.0029, 0}}},
		{"peak of half level", func(t testing.TB) hear.Wave { return soxFile(t, 48000, "synth 1 sine 440 vol 0.5") }, "level", 0, []check{{"peak", -6.02, 0, 0.05}}},
		// between its samples a sine of a quarter of the rate is 3 dB higher than at them, where its phase is an eighth (trigonometry)
		{"true peak", func(t testing.TB) hear.Wave {
			return soxFile(t, 48000, "synth 1 sine 12000 0 12.5 vol 0.5 fade t 0.1 1 0.1")
		}, "level", 0, []check{{"true peak", -6.02, 0, 0.1}, {"peak", -9.03, 0, 0.1}}},
		{"held at a quarter", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 2, "kt timeinsts\nk1 = 0.25+0.75*exp(-kt/0.1)\na1 vco2 k1*0.6, 220")
		}, "decay", 0, []check{{"sustain level", -12.04, 0, 0.5}}},
		{"997 Hz at full level", func(t testing.TB) hear.Wave { return soxFile(t, 48000, "synth 3 sine 997 vol 0.99999") }, "level", 0, []check{{"loudness", -3.01, 0, 0.1}}},
		{"harmonic saw", func(t testing.TB) hear.Wave { return csoundFile(t, 48000, 1, saw(110)) }, "harmonic", 0, []check{{"harmonic share", 100, 0, 3}}},
		{"noise", func(t testing.TB) hear.Wave { return soxFile(t, 48000, "synth 2 whitenoise vol 0.3") }, "harmonic", 0, []check{{"harmonic share", 0, 0, 20}}},
		{"mono", func(t testing.TB) hear.Wave { return csoundFile(t, 48000, 0.5, "a1 oscili 0.3, 300\na2 = a1") }, "width", 0, []check{{"stereo width", 0, 0, 1}}},
		{"turned over", func(t testing.TB) hear.Wave { return csoundFile(t, 48000, 0.5, "a1 oscili 0.3, 300\na2 = -a1") }, "width", 0, []check{{"stereo width", 100, 0, 1}}},
		{"two noises", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 1, "a1 rand 0.3, 0.1\nax rand 0.3, 0.7\na2 = ax")
		}, "width", 0, []check{{"stereo width", 50, 0, 5}}},
		// linear ramps: 10 to 90 % of 100 ms is 80 ms
		{"attack 80 ms", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 1, "k1 linseg 0, 0.1, 1, 1, 1\na1 oscili k1*0.5, 880")
		}, "attack", 0, []check{{"attack (10-90 %)", 0.08, 0.1, 0}}},
		{"attack 400 ms", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 1.5, "k1 linseg 0, 0.5, 1, 1, 1\na1 vco2 k1*0.5, 110")
		}, "attack", 0, []check{{"attack (10-90 %)", 0.4, 0.1, 0}}},
		{"attack 16 ms", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 0.6, "k1 linseg 0, 0.02, 1, 1, 1\na1 oscili k1*0.5, 1760")
		}, "attack", 0, []check{{"attack (10-90 %)", 0.016, 0.1, 0}}},
		{"attack by sox", func(t testing.TB) hear.Wave { return soxFile(t, 48000, "synth 2 sine 660 fade t 0.25 2 0") }, "attack", 0, []check{{"attack (10-90 %)", 0.2, 0.1, 0}}},
		// to -60 dB in 1 s is to 90 % in a third of it
		{"decay 333 ms", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 1.4, "k1 expon 1, 1, 0.001\na1 oscili k1*0.6, 440")
		}, "decay", 0, []check{{"decay to 90 %", 1.0 / 3, 0.1, 0}}},
		{"decay 100 ms", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 1, "k1 expon 1, 0.3, 0.001\na1 vco2 k1*0.6, 220")
		}, "decay", 0, []check{{"decay to 90 %", 0.1, 0.1, 0}}},
		{"decay 1 s", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 3.5, "k1 expon 1, 3, 0.001\na1 vco2 k1*0.6, 82")
		}, "decay", 0, []check{{"decay to 90 %", 1, 0.1, 0}}},
		// a time constant of 100 ms down to 0.4
		{"decay to a sustain", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 2, "kt timeinsts\nk1 = 0.4+0.6*exp(-kt/0.1)\na1 oscili k1*0.6, 523")
		}, "decay", 0, []check{{"decay to 90 %", 0.230, 0.1, 0}}},
		{"release 230 ms", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 2.5, "kt timeinsts\nk1 = (kt < 1 ? 1 : exp(-(kt-1)/0.1))\na1 oscili k1*0.6, 440")
		}, "release", 1, []check{{"release to 10 %", 0.230, 0.1, 0}}},
		{"release found by itself", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 3, "kt timeinsts\nk1 = (kt < 1 ? 1 : exp(-(kt-1)/0.2))\na1 vco2 k1*0.6, 220")
		}, "release", 0, []check{{"release to 10 %", 0.4605, 0.1, 0}}},
		{"vibrato", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 2, "k1 oscili 30, 5.5\na1 vco2 0.4, 220*cent(k1)")
		}, "lfo", 0, []check{{"pitch rate", 5.5, 0.03, 0}, {"pitch depth", 30, 0.1, 0}}},
		{"slow vibrato", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 5, "k1 oscili 12, 0.7\na1 vco2 0.4, 330*cent(k1)")
		}, "lfo", 0, []check{{"pitch rate", 0.7, 0.05, 0}, {"pitch depth", 12, 0.1, 0}}},
		{"tremolo", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 2, "k1 oscili 0.3, 4\na1 oscili 0.4*(1+k1), 440")
		}, "lfo", 0, []check{{"level rate", 4, 0.03, 0}, {"level depth", 30, 0.1, 0}}},
		{"tremolo by sox", func(t testing.TB) hear.Wave { return soxFile(t, 48000, "synth 3 sine 500 tremolo 6 40 vol 0.4") }, "lfo", 0, []check{{"level rate", 6, 0.03, 0}, {"level depth", 25, 0.12, 0}}},
		{"moving filter", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 4, "k1 oscili 0.8, 1.5\na0 vco2 0.5, 110\na1 butterlp a0, 500*octave(k1)")
		}, "lfo", 0, []check{{"brightness rate", 1.5, 0.03, 0}}},
		{"moving width", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 4, "k1 oscili 0.1, 1.25\na1 vco2 0.4, 110, 2, 0.3+k1")
		}, "lfo", 0, []check{{"pulse width rate", 1.25, 0.03, 0}, {"pulse width depth", 10, 0, 3}}},
		{"noise through 6 poles' worth", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 4, "a0 rand 0.5, 0.5, 1\na1 tone a0, 800")
		}, "cutoff", 0, []check{{"cutoff", 800, 0.06, 0}, {"slope", 6, 0, 0.1}}},
		{"noise through a ladder", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 4, "a0 rand 0.3, 0.5, 1\na1 tonex a0, 1000, 4")
		}, "cutoff", 0, []check{{"cutoff", 1000, 0.06, 0}, {"slope", 24, 0, 0.1}}},
		{"noise through a resonance", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 4, "a0 rand 0.1, 0.5, 1\na1, ah, ab svfilter a0, 1200, 3")
		}, "cutoff", 0, []check{{"cutoff", 1200, 0.06, 0}, {"slope", 12, 0, 0.1}}},
		{"saw through two poles", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 2, saw(65.4)+"a1 lowpass2 a1, 900, 2")
		}, "cutoff", 0, []check{{"cutoff", 900, 0.06, 0}, {"resonant peak", 6.30, 0, 1}, {"slope", 12, 0, 0.1}}},
		{"saw through one pole", func(t testing.TB) hear.Wave { return csoundFile(t, 48000, 2, saw(82.4)+"a1 tone a1, 600") }, "cutoff", 0, []check{{"cutoff", 600, 0.06, 0}, {"slope", 6, 0, 0.1}}},
		{"saw through four poles", func(t testing.TB) hear.Wave { return csoundFile(t, 48000, 2, saw(55)+"a1 tonex a1, 700, 4") }, "cutoff", 0, []check{{"cutoff", 700, 0.06, 0}, {"slope", 24, 0, 0.1}}},
		// Schroeder's own: 10^(-3 t/T60) each time round
		{"reverb of 2 s", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 3.5, "a0 mpulse 0.9, 0\na1 comb a0, 2, 0.0297\nab comb a0, 2, 0.0371\nac comb a0, 2, 0.0411\nad comb a0, 2, 0.0437\na1 = (a1+ab+ac+ad)*0.5")
		}, "t60", 0, []check{{"decay to -60 dB", 2, 0.05, 0}}},
		{"noise that dies in 1.2 s", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 1.6, "k1 expon 1, 1.2, 0.001\na1 rand k1*0.5, 0.3")
		}, "t60", 0, []check{{"decay to -60 dB", 1.2, 0.05, 0}}},
		{"echoes", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 3, "k1 linseg 1, 0.03, 0, 1, 0\na0 rand k1*0.5, 0.3\na1 comb a0, 1.5, 0.25\na1 = a0+a1")
		}, "delay", 0, []check{{"delay time", 0.25, 0.01, 0}, {"delay feedback", 31.62, 0, 3}}},
		{"echoes by sox", func(t testing.TB) hear.Wave {
			return soxFile(t, 48000, "synth 0.05 sine 700 pad 0 2 echo 0.8 0.8 375 0.5")
		}, "delay", 0, []check{{"delay time", 0.375, 0.01, 0}}},
		{"two saws 7 ct apart", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 4, "a1 vco2 0.3, 220\nab vco2 0.3, 220*cent(7)\na1 = a1+ab")
		}, "detune", 0, []check{{"detune", 7, 0, 0.5}}},
		{"two saws 14 ct apart", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 4, "a1 vco2 0.3, 110\nab vco2 0.25, 110*cent(14)\na1 = a1+ab")
		}, "detune", 0, []check{{"detune", 14, 0, 1}}},
		{"two pulses 5 ct apart", func(t testing.TB) hear.Wave {
			return csoundFile(t, 48000, 4, "a1 vco2 0.3, 440, 2, 0.5\nab vco2 0.3, 440*cent(5), 2, 0.5\na1 = a1+ab")
		}, "detune", 0, []check{{"detune", 5, 0, 0.5}}},
		{"square", func(t testing.TB) hear.Wave { return csoundFile(t, 48000, 1, "a1 vco2 0.4, 110, 2, 0.5") }, "pulsewidth", 0, []check{{"pulse width", 50, 0, 1.5}}},
		{"pulse of 25 %", func(t testing.TB) hear.Wave { return csoundFile(t, 48000, 1, "a1 vco2 0.4, 220, 2, 0.25") }, "pulsewidth", 0, []check{{"pulse width", 25, 0, 1.5}}},
		{"pulse of 10 %", func(t testing.TB) hear.Wave { return csoundFile(t, 44100, 1, "a1 vco2 0.4, 110, 2, 0.1") }, "pulsewidth", 0, []check{{"pulse width", 10, 0, 1.5}}},
		{"pulse of 63 % sounds as one of 37", func(t testing.TB) hear.Wave { return csoundFile(t, 96000, 1, "a1 vco2 0.4, 165, 2, 0.63") }, "pulsewidth", 0, []check{{"pulse width", 37, 0, 1.5}}},
		{"brightness of a sine", func(t testing.TB) hear.Wave { return soxFile(t, 48000, "synth 1 sine 1000 vol 0.5") }, "spectrum", 0, []check{{"brightness (centroid)", 1000, 0.02, 0}}},
	} {
		t.Run(x.name, func(t *testing.T) {
			got := hear.Listen(x.wave(t)).Measure(x.what, x.off)
			for _, c := range x.list {
				found := false
				for _, f := range got {
					if f.Label != c.label {
						continue
					}
					found = true
					if tol := c.near*math.Abs(c.want) + c.abs; !f.Known || math.Abs(f.Value-c.want) > tol {
						t.Errorf("%s is %.4f +/- %.4f %s (known %v, %s), want %.4f within %.4f", f.Label, f.Value, f.Uncertainty, f.Unit, f.Known, f.Why, c.want, tol)
					}
				}
				if !found {
					t.Errorf("no %s among %+v", c.label, got)
				}
			}
		})
	}
}

// What a sound does not tell is said so.
func TestCannotTell(t *testing.T) {
	noise := soxFile(t, 48000, "synth 1 whitenoise vol 0.3")
	sine := soxFile(t, 48000, "synth 1 sine 440 vol 0.5")
	silence := hear.Wave{Rate: 48000, Left: make([]float64, 48000)}
	for _, x := range []struct {
		name string
		wave hear.Wave
		what []string
	}{
		{"noise", noise, []string{"pitch", "pulsewidth", "detune"}},
		{"a steady sine", sine, []string{"lfo", "detune", "pulsewidth", "cutoff", "decay", "t60", "delay"}},
		{"silence", silence, hear.Whats},
		{"nothing", hear.Wave{Rate: 48000}, hear.Whats},
		{"a click", hear.Wave{Rate: 48000, Left: []float64{0, 1, 0, 0}}, []string{"pitch", "lfo", "cutoff", "detune"}},
	} {
		for _, what := range x.what {
			for _, f := range hear.Listen(x.wave).Measure(what, 0) {
				if f.Known && f.Label == "sustain level" && x.name == "a steady sine" && math.Abs(f.Value) < 0.3 {
					continue // it is held as high as it comes
				}
				if f.Known {
					t.Errorf("%s: %s is known: %v %s", x.name, f.Label, f.Value, f.Unit)
				} else if !strings.HasPrefix(f.Why, "cannot tell: ") {
					t.Errorf("%s: %s says %q", x.name, f.Label, f.Why)
				}
			}
		}
	}
}

// A sine of 1 kHz lies in the auditory band about it (ERB number 15.62: Glasberg & Moore, 1990), and is as bright all along.
func TestSpectrum(t *testing.T) {
	if n := hear.ERBNumber(1000); math.Abs(n-15.62) > 0.01 {
		t.Errorf("1 kHz has ERB number %.3f", n)
	}
	if w := hear.ERBWidth(1000); math.Abs(w-132.64) > 0.01 {
		t.Errorf("the band at 1 kHz is %.3f Hz wide", w)
	}
	if f := hear.ERBFrequency(hear.ERBNumber(3210)); math.Abs(f-3210) > 1e-6 {
		t.Errorf("there and back: %v", f)
	}
	e := hear.Listen(soxFile(t, 48000, "synth 1 sine 1000 vol 0.5"))
	loudest := 0
	bands := e.Bands()
	for b := range bands {
		if bands[b] > bands[loudest] {
			loudest = b
		}
	}
	if loudest != 15 {
		t.Errorf("1 kHz is loudest in band %d", loudest)
	}
	courses := 0
	for _, f := range e.Spectrum() {
		if strings.HasPrefix(f.Label, "brightness at") && f.Known {
			courses++
			if math.Abs(f.Value-1000) > 20 {
				t.Errorf("%s is %.0f Hz", f.Label, f.Value)
			}
		}
	}
	if courses < 3 {
		t.Errorf("%d quarters of a second", courses)
	}
}

// Whatever is recorded, measuring ends with figures or "cannot tell": noise, steps, bursts and silence of odd lengths
// at odd rates, one channel or two.
func TestAnythingIsMeasured(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for i := range 120 {
		n := []int{1, 2, 7, 63, 500, 4000, 30011}[i%7]
		w := hear.Wave{Rate: []float64{8000, 22050, 44100, 96000, 192000}[i%5], Left: make([]float64, n)}
		period := 1 + r.IntN(n+1)
		for k := range w.Left {
			switch i % 4 {
			case 0:
				w.Left[k] = r.Float64()*2 - 1
			case 1:
				w.Left[k] = float64(k/period%2)*2 - 1
			case 2:
				if k%period < 3 {
					w.Left[k] = 1e3
				}
			case 3:
				w.Left[k] = math.Sin(float64(k)*float64(k)/float64(n)) * math.Exp(-float64(k)/float64(period))
			}
		}
		if i%3 == 0 {
			w.Right = make([]float64, n)
		}
		for _, off := range []float64{0, 0.001, 5} {
			for _, f := range hear.Listen(w).All(off) {
				if f.Known && (math.IsNaN(f.Value) || math.IsInf(f.Value, 0) || math.IsNaN(f.Uncertainty)) || !f.Known && f.Why == "" {
					t.Errorf("sound %d: %+v", i, f)
				}
			}
		}
	}
}
