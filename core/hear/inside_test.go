package hear

import (
	"math"
	"math/cmplx"
	"testing"

	"glossator/core/dsp"
)

// scatter gives n numbers between -1 and 1 that hang on a seed alone.
func scatter(n int, seed uint64) []float64 {
	out := make([]float64, n)
	x := seed*0x9E3779B97F4A7C15 + 1
	for k := range out {
		x ^= x << 13
		x ^= x >> 7
		x ^= x << 17
		out[k] = float64(int64(x)) / (1 << 63)
	}
	return out
}

// The running sums are the mean of means that they stand for, summed outright.
func TestDemodulate(t *testing.T) {
	x := scatter(3000, 1)
	for _, c := range []struct {
		f      float64
		n, hop int
	}{{0.01, 200, 48}, {0.123, 17, 5}, {0.4, 2, 1}, {0, 50, 240}} {
		count := (len(x) - 2*c.n) / c.hop
		got := demodulate(x, c.f, c.n, c.hop, count)
		if len(got) != count {
			t.Fatalf("%v: %d values, want %d", c, len(got), count)
		}
		for _, i := range []int{0, 1, count / 2, count - 1} {
			var want complex128
			for j := range c.n {
				for k := i*c.hop + j; k < i*c.hop+j+c.n; k++ {
					want += complex(x[k], 0) * cmplx.Exp(complex(0, -2*math.Pi*c.f*float64(k)))
				}
			}
			want /= complex(float64(c.n*c.n), 0)
			if cmplx.Abs(got[i]-want) > 1e-9 {
				t.Errorf("%v at %d: %v, want %v", c, i, got[i], want)
			}
		}
	}
	if got := demodulate(nil, 0.1, 4, 2, 0); len(got) != 0 {
		t.Errorf("out of nothing: %v", got)
	}
}

// One term of the Fourier sum is that sum, for any length and frequency.
func TestFourierTerm(t *testing.T) {
	for _, n := range []int{0, 1, 3, 4, 1021, 4096, 9001} {
		x := scatter(n, uint64(n))
		for _, f := range []float64{0, 0.001, 0.125, 0.37, 0.4999} {
			var want complex128
			for k, y := range x {
				want += complex(y, 0) * cmplx.Exp(complex(0, -2*math.Pi*math.Mod(f*float64(k), 1)))
			}
			if got := dsp.Term(x, f); cmplx.Abs(got-want) > 1e-9*float64(n+1) {
				t.Errorf("%d samples at %v: %v, want %v", n, f, got, want)
			}
		}
	}
}

// The top of a hump is found to a thousandth of its width wherever it lies.
func TestHighest(t *testing.T) {
	for _, top := range []float64{-0.8, -0.3, 0, 0.11, 0.77} {
		for _, hump := range []func(float64) float64{
			func(x float64) float64 { return 1 - x*x },
			func(x float64) float64 { return math.Cos(x) },
			func(x float64) float64 { return math.Exp(-3 * x * x) },
		} {
			got := highest(func(x float64) float64 { return hump(x - top) }, -1, 1)
			if math.Abs(got-top) > 2e-3 {
				t.Errorf("top at %v, found at %v", top, got)
			}
		}
	}
}

// A parabola has nothing left once its trend has gone; what is no trend stays nearly whole.
func TestDetrended(t *testing.T) {
	x := make([]float64, 500)
	for k := range x {
		u := float64(k)
		x[k] = 3 - 0.2*u + 0.001*u*u
	}
	for k, y := range detrended(x) {
		if math.Abs(y) > 0.02*100 { // of a range of over 100: the trend's own mean is taken over samples
			t.Fatalf("%v is left at %d", y, k)
		}
	}
	for k := range x {
		x[k] += math.Sin(2 * math.Pi * float64(k) / 20)
	}
	sum := 0.0
	for _, y := range detrended(x) {
		sum += y * y
	}
	if got := math.Sqrt(2 * sum / float64(len(x))); math.Abs(got-1) > 0.3 {
		t.Errorf("a sine of 1 is left at %v", got)
	}
}

// Rate and depth of what moves come out whatever it drifts by and however it is cut; noise has no period.
func TestPeriodic(t *testing.T) {
	const hop = 0.005
	for _, rate := range []float64{0.7, 2, 5.3, 11, 24} {
		for _, depth := range []float64{0.1, 3, 50} {
			x := make([]float64, 800)
			for k := range x {
				s := float64(k) * hop
				x[k] = 20 + depth*math.Sin(2*math.Pi*rate*s+1) + depth*s/4
			}
			m, ok := periodic(x, hop)
			if !ok || math.Abs(m.rate/rate-1) > 0.02 || math.Abs(m.depth/depth-1) > 0.2 || m.share < 0.8 {
				t.Errorf("%v Hz by %v: %+v, %v", rate, depth, m, ok)
			}
		}
	}
	if m, ok := periodic(scatter(800, 3), hop); ok && m.share > 0.5 {
		t.Errorf("noise moves like %+v", m)
	}
	for _, x := range [][]float64{nil, make([]float64, 10), make([]float64, 500)} {
		if m, ok := periodic(x, hop); ok {
			t.Errorf("%d values of nothing move like %+v", len(x), m)
		}
	}
}

// The loud part leaves out what is 26 dB down, and a little at both ends.
func TestLoudPart(t *testing.T) {
	level := make([]float64, 240)
	x := make([]float64, 240)
	for k := range level {
		x[k] = float64(k)
		if k >= 60 && k < 180 {
			level[k] = 1
		} else {
			level[k] = 0.04
		}
	}
	got := loudPart(x, level)
	if len(got) == 0 || got[0] < 60 || got[0] > 75 || got[len(got)-1] > 179 || len(got) < 95 {
		t.Errorf("from %v, %d values", got[0], len(got))
	}
	if got := loudPart(nil, nil); got != nil {
		t.Errorf("of nothing: %v", got)
	}
}

// Side by side or one by one, in the same order: the figures do not hang on when they are asked for.
func TestAllIsEach(t *testing.T) {
	x := scatter(30000, 9)
	for k := range x {
		x[k] = 0.1*x[k]*math.Exp(-float64(k)/9000) + 0.5*math.Sin(2*math.Pi*220*float64(k)/48000)*math.Exp(-float64(k)/20000)
	}
	w := Wave{Rate: 48000, Left: x, Right: scatter(30000, 4)}
	all := Listen(w).All(0.3)
	var each []Measured
	for _, what := range Whats {
		each = append(each, Listen(w).Measure(what, 0.3)...)
	}
	if len(all) != len(each) {
		t.Fatalf("%d figures, one by one %d", len(all), len(each))
	}
	for i := range all {
		if all[i] != each[i] {
			t.Errorf("%+v, one by one %+v", all[i], each[i])
		}
	}
}

// A tone keeps its pitch whatever is filtered out of it; of several tones no common period is given as a pitch.
func TestSeveralTones(t *testing.T) {
	const rate = 48000.0
	tone := func(f float64, amp func(h int, hz float64) float64) []float64 {
		out := make([]float64, 0.6*rate)
		for h := 1; float64(h)*f < 9000; h++ {
			a := amp(h, float64(h)*f)
			if a == 0 {
				continue
			}
			for k := range out {
				out[k] += a * math.Sin(2*math.Pi*float64(h)*f*float64(k)/rate+float64(h*h))
			}
		}
		return out
	}
	saw := func(h int, _ float64) float64 { return 0.3 / float64(h) }
	square := func(h int, _ float64) float64 { return 0.3 / float64(h) * float64(h%2) }
	chord := func(wave func(int, float64) float64, base float64, cents ...float64) []float64 {
		out := make([]float64, 0.6*rate)
		for _, c := range cents {
			for k, y := range tone(base*math.Exp2(c/1200), wave) {
				out[k] += y
			}
		}
		return out
	}
	type sound struct {
		name string
		x    []float64
		hz   float64 // 0 for no pitch
	}
	var all []sound
	for _, f := range []float64{41.2, 110, 261.6, 700} {
		all = append(all, sound{"saw", tone(f, saw), f}, sound{"square", tone(f, square), f}, sound{"sine", tone(f, func(h int, _ float64) float64 {
			return map[bool]float64{true: 0.3}[h == 1]
		}), f})
		if f > 300 {
			continue
		}
		for _, cut := range []float64{1.5, 2.5, 3.5} { // everything below is gone
			all = append(all, sound{"saw without its lowest", tone(f, func(h int, hz float64) float64 {
				if hz < cut*f {
					return 0
				}
				return saw(h, hz)
			}), f})
		}
		all = append(all, sound{"octave", chord(saw, f, 0, 1200), f},
			sound{"fifth", chord(saw, f, 0, 701.955), 0}, sound{"fourth", chord(saw, f, 0, 498.045), 0}, sound{"pure triad", chord(saw, f, 0, 386.314, 701.955), 0},
			sound{"tempered fifth", chord(saw, f, 0, 700), 0}, sound{"tempered triad", chord(saw, f, 0, 400, 700), 0}, sound{"minor triad", chord(square, f, 0, 300, 700), 0},
			sound{"open voicing", chord(saw, f, 0, 700, 1600), 0})
	}
	for _, s := range all {
		p := Listen(Wave{Rate: rate, Left: s.x}).Pitch()
		switch {
		case s.hz == 0 && p.Known:
			t.Errorf("%s has a pitch of %.2f Hz", s.name, p.Value)
		case s.hz > 0 && (!p.Known || math.Abs(1200*math.Log2(p.Value/s.hz)) > 5):
			t.Errorf("%s of %v Hz: %+v", s.name, s.hz, p)
		}
	}
}

// A level that ripples has no decay; one that falls has, with an echo behind it too.
func TestRipplesAreNoDecay(t *testing.T) {
	const rate = 48000.0
	shaped := func(level func(s float64) float64) Wave {
		x := make([]float64, 2*rate)
		for k := range x {
			s := float64(k) / rate
			x[k] = 0.4 * level(s) * math.Sin(2*math.Pi*220*s)
		}
		return Wave{Rate: rate, Left: x}
	}
	wander := scatter(400, 12)
	ripple := func(s float64) float64 {
		i, f := math.Modf(s * 30)
		return 1 + 0.25*(wander[int(i)]*(1-f)+wander[int(i)+1]*f)
	}
	for name, x := range map[string]struct {
		level  func(s float64) float64
		decays bool
	}{
		"held":     {func(s float64) float64 { return 1 - math.Exp(-s/0.05) }, false},
		"rippling": {ripple, false},
		"swelling": {func(s float64) float64 { return ripple(s) * min(1, s/1.2) }, false},
		"falling":  {func(s float64) float64 { return math.Exp(-s / 0.2) }, true},
		"echoed": {func(s float64) float64 {
			y := math.Exp(-s / 0.08)
			if s > 0.6 {
				y += 0.5 * math.Exp(-(s-0.6)/0.08)
			}
			return y
		}, true},
	} {
		e := Listen(shaped(x.level))
		d := e.Decay(0)
		if d.Known != x.decays {
			t.Errorf("%s: %+v", name, d)
		}
		if a := e.Attack(0); name == "swelling" && math.Abs(a.Value/0.96-1) > 0.15 {
			t.Errorf("%s: an attack of %v s, want 0.96 s", name, a.Value)
		}
	}
}
