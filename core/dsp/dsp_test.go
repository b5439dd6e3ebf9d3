package dsp

import (
	"math"
	"math/cmplx"
	"math/rand/v2"
	"testing"
)

const rate = 48000.0

// Sections for EQ against the response that the Audio EQ Cookbook's analogue prototypes have at their
// own frequency and far from it (W3C, Bristow-Johnson).
func TestEQ(t *testing.T) {
	for _, x := range []struct {
		kind              string
		hz, gain, quality float64
		at, want          float64
	}{
		{"peak", 1000, 6, 1, 1000, 6}, {"peak", 1000, -9, 3, 1000, -9}, {"peak", 1000, 6, 1, 20, 0}, {"low shelf", 200, 5, 0.7071, 5, 5}, {"low shelf", 200, 5, 0.7071, 200, 2.5},
		{"low shelf", 200, 5, 0.7071, 10000, 0}, {"high shelf", 4000, -6, 0.7071, 20000, -6}, {"high shelf", 4000, -6, 0.7071, 4000, -3}, {"high shelf", 4000, -6, 0.7071, 50, 0},
		{"low-pass", 1000, 0, 0.7071, 1000, -3.01}, {"high-pass", 1000, 0, 0.7071, 1000, -3.01},
	} {
		if got := 20 * math.Log10(EQ(x.kind, x.hz, x.gain, x.quality, rate).Gain(x.at, rate)); math.Abs(got-x.want) > 0.1 {
			t.Errorf("%s of %v dB at %v Hz: %.2f dB at %v Hz, want %.2f", x.kind, x.gain, x.hz, got, x.at, x.want)
		}
	}
}

// The K weighting at 48 kHz has the coefficients that ITU-R BS.1770 prints (tables 1 and 2, from memory).
func TestKWeightingAsPrinted(t *testing.T) {
	got := KWeighting(rate)
	for i, want := range []Biquad{{1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585}, {1, -2, 1, -1.99004745483398, 0.99007225036621}} {
		for k, pair := range [][2]float64{{got[i].B0, want.B0}, {got[i].B1, want.B1}, {got[i].B2, want.B2}, {got[i].A1, want.A1}, {got[i].A2, want.A2}} {
			if math.Abs(pair[0]-pair[1]) > 1e-8 {
				t.Errorf("section %d, coefficient %d: %.14f, printed %.14f", i+1, k, pair[0], pair[1])
			}
		}
	}
}

// A section filters as its gain says, measured by the Fourier sum of its impulse response.
func TestBiquadIsItsGain(t *testing.T) {
	b := EQ("peak", 1200, 7, 1.5, rate)
	x := make([]float64, 1<<14)
	x[0] = 1
	b.Run(x)
	for _, hz := range []float64{100, 700, 1200, 5000, 15000} {
		if got, want := cmplx.Abs(Term(x, hz/rate)), b.Gain(hz, rate); math.Abs(got-want) > 1e-6 {
			t.Errorf("at %v Hz the impulse has %v, the gain is %v", hz, got, want)
		}
	}
}

// Spectra by closed forms: a sine in a bin under Hann has half its amplitude times half the length in it and half of that in each neighbour; what lies outside of
// the sound is silence.
func TestFrames(t *testing.T) {
	const n, bin = 256, 20
	f := NewFrames(n)
	x := make([]float64, n)
	for k := range x {
		x[k] = math.Cos(2 * math.Pi * bin * (float64(k) + 0.5) / n)
	}
	p := f.Power(x, 0)
	for i, want := range map[int]float64{bin: n / 4.0, bin - 1: n / 8.0, bin + 1: n / 8.0, bin + 5: 0} {
		if got := math.Sqrt(p[i]); math.Abs(got-want) > 1e-9 {
			t.Errorf("bin %d has %v, want %v", i, got, want)
		}
	}
	for _, at := range []int{-n, n, 5 * n} {
		for i, y := range f.Power(x, at) {
			if y != 0 {
				t.Fatalf("%d samples away bin %d has %v", at, i, y)
			}
		}
	}
	faded := Faded(x)
	if got := cmplx.Abs(Term(faded, float64(bin)/n)); math.Abs(got-1) > 1e-9 {
		t.Errorf("a faded sine of amplitude 1 has %v", got)
	}
}

// Every coefficient of every length against the Fourier sum of the faded frame written out, whichever transform takes it.
func TestCoefficientsAreTheFourierSum(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	x := make([]float64, 3000)
	for k := range x {
		x[k] = rng.Float64() - 0.5
	}
	for _, size := range []int{4, 8, 16, 128, 256, 2048, 4096, 1000, 1 << 14} {
		win := Hann(size)
		for _, at := range []int{-size / 3, 7, len(x) - size/2} {
			frame := make([]float64, size)
			for k := range frame {
				if i := at + k; i >= 0 && i < len(x) {
					frame[k] = x[i] * win[k]
				}
			}
			got := NewFrames(size).Coefficients(x, at)
			if len(got) != size/2+1 {
				t.Fatalf("%d samples have %d coefficients", size, len(got))
			}
			for k := 0; k <= size/2; k += max(1, size/64) {
				if want := Term(frame, float64(k)/float64(size)); cmplx.Abs(got[k]-want) > 1e-9 {
					t.Errorf("%d samples from %d, coefficient %d: %v, want %v", size, at, k, got[k], want)
				}
			}
		}
	}
}

// Autocorrelation and single terms against their sums written out.
func TestSumsWrittenOut(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	x := make([]float64, 203)
	for k := range x {
		x[k] = rng.Float64() - 0.5
	}
	r := Autocorrelation(x, PowerFrom(2*len(x)))
	for _, lag := range []int{0, 1, 7, 100, 202} {
		sum := 0.0
		for k := range len(x) - lag {
			sum += x[k] * x[k+lag]
		}
		if math.Abs(r[lag]-sum) > 1e-9 {
			t.Errorf("moved by %d: %v, the sum is %v", lag, r[lag], sum)
		}
	}
	for _, f := range []float64{0, 0.01, 0.123, 0.49} {
		var sum complex128
		for k, y := range x {
			sum += complex(y, 0) * cmplx.Exp(complex(0, -2*math.Pi*f*float64(k)))
		}
		if got := Term(x, f); cmplx.Abs(got-sum) > 1e-9 {
			t.Errorf("the term at %v is %v, the sum %v", f, got, sum)
		}
	}
	for n, want := range map[int][2]int{1: {1, 1}, 2: {2, 2}, 3: {4, 2}, 1000: {1024, 512}, 1024: {1024, 1024}} {
		if from, to := PowerFrom(n), PowerUpTo(float64(n)); from != want[0] || to != want[1] {
			t.Errorf("powers of two about %d: %d and %d, want %v", n, from, to, want)
		}
	}
}

// Responses by circuit theory, at frequencies low enough that the bilinear transform bends them little: slopes far from the cutoff, four equal poles at
// their frequency, a morph's ends, and filters beside one another: a low-pass and a high-pass of one pole add to 1, of two poles (Butterworth) cancel at the cutoff.
func TestResponses(t *testing.T) {
	db := func(h complex128) float64 { return 20 * math.Log10(cmplx.Abs(h)) }
	for poles := 1; poles <= 4; poles++ {
		low := Response{Mode: Lowpass, Poles: poles, Cutoff: 50}
		if slope := db(low.Gain(1600)) - db(low.Gain(800)); math.Abs(slope+6.0206*float64(poles)) > 0.1 {
			t.Errorf("a low-pass of %d poles falls by %v dB an octave", poles, slope)
		}
		high := Response{Mode: Highpass, Poles: poles, Cutoff: 5000}
		if slope := db(high.Gain(100)) - db(high.Gain(50)); math.Abs(slope-6.0206*float64(poles)) > 0.1 {
			t.Errorf("a high-pass of %d poles rises by %v dB an octave", poles, slope)
		}
	}
	if got := db(Response{Mode: Lowpass, Poles: 4, Cutoff: 1000}.Gain(1000)); math.Abs(got+12.0412) > 1e-3 {
		t.Errorf("four equal poles at their frequency: %v dB", got)
	}
	for _, f := range []float64{60, 1000, 9000} {
		one := func(m Mode) complex128 { return Response{Mode: m, Poles: 1, Cutoff: 1000}.Gain(f) }
		if sum := one(Lowpass) + one(Highpass); cmplx.Abs(sum-1) > 1e-12 {
			t.Errorf("one pole each way at %v Hz add to %v", f, sum)
		}
		for m, mode := range map[float64]Mode{0: Lowpass, 0.5: Bandpass, 1: Highpass} {
			a, b := Response{Mode: Morph, Poles: 2, Cutoff: 1000, Resonance: 0.3, Morph: m}, Response{Mode: mode, Poles: 2, Cutoff: 1000, Resonance: 0.3}
			if cmplx.Abs(a.Gain(f)-b.Gain(f)) > 1e-12 {
				t.Errorf("a morph at %v is not its end at %v Hz", m, f)
			}
		}
	}
	butter := 1 - math.Sqrt2/2
	two := func(m Mode) complex128 {
		return Response{Mode: m, Poles: 2, Cutoff: 1000, Resonance: butter}.Gain(1000)
	}
	if sum := cmplx.Abs(two(Lowpass) + two(Highpass)); sum > 1e-12 {
		t.Errorf("two poles each way leave %v at the cutoff", sum)
	}
}
