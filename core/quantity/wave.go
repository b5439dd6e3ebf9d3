package quantity

import (
	"math"
	"math/cmplx"
)

// Wave names that have a Fourier series here; so have drawn waves that say what they are (ParseDrawn). Others carry no
// harmonics of their own.
const (
	WaveSaw      = "saw"
	WavePulse    = "pulse"
	WaveTriangle = "triangle"
	WaveSine     = "sine"
)

// Wave is a wave of peak 1 by its name; Width is the duty of a pulse.
type Wave struct {
	Name  string
	Width Ratio
}

// Harmonic is one harmonic of a wave: amplitude, and phase in radians of a sine.
type Harmonic struct{ Amplitude, Phase float64 }

// Amplitudes gives the amplitudes of the first n harmonics, fundamental first; nil for a
// wave without a series. Source: Fourier series (Bronshtein).
//
//	saw 2/(pi n); triangle 8/(pi n)^2, n odd; pulse of duty d 4/(pi n) |sin(pi n d)|
func (w Wave) Amplitudes(n int) []float64 {
	out := make([]float64, n)
	if c := drawnSeries(w.Name, n); c != nil {
		for i := range out {
			out[i] = 2 * cmplx.Abs(c[i])
		}
		return out
	}
	for i := range out {
		k := float64(i + 1)
		switch w.Name {
		case WaveSaw:
			out[i] = 2 / math.Pi / k
		case WavePulse:
			out[i] = 4 / math.Pi * math.Abs(math.Sin(math.Pi*k*float64(w.Width))) / k
		case WaveTriangle:
			if i%2 == 0 {
				out[i] = 8 / (math.Pi * math.Pi) / (k * k)
			}
		case WaveSine:
			if i == 0 {
				out[i] = 1
			}
		default:
			return nil
		}
	}
	return out
}

// Harmonics gives the first n harmonics with their phases. The saw falls from 1 at time 0,
// the pulse rises there, triangle and sine rise through 0.
//
//	pulse atan2(sin(2 pi n d), 1 - cos(2 pi n d)); triangle 0 and pi in turn; others 0
func (w Wave) Harmonics(n int) []Harmonic {
	amplitudes := w.Amplitudes(n)
	if amplitudes == nil {
		return nil
	}
	out := make([]Harmonic, n)
	if c := drawnSeries(w.Name, n); c != nil {
		for i := range out { // a sine of phase f is half of e^(i f)/i and its mirror
			out[i] = Harmonic{amplitudes[i], cmplx.Phase(c[i]) + math.Pi/2}
		}
		return out
	}
	for i, a := range amplitudes {
		out[i].Amplitude = a
		switch {
		case w.Name == WavePulse:
			x := 2 * math.Pi * float64(i+1) * float64(w.Width)
			out[i].Phase = math.Atan2(math.Sin(x), 1-math.Cos(x))
		case w.Name == WaveTriangle && i%4 == 2:
			out[i].Phase = math.Pi
		}
	}
	return out
}

// WaveDistance gives how unlike two sets of amplitudes are: 0 for the same shape of
// spectrum, 1 for nothing in common. Levels are taken out first.
//
//	d = sqrt(1 - (a.b)^2/(a.a b.b))
func WaveDistance(a, b []float64) float64 {
	var aa, bb, ab float64
	for i := range min(len(a), len(b)) {
		aa += a[i] * a[i]
		bb += b[i] * b[i]
		ab += a[i] * b[i]
	}
	if aa == 0 || bb == 0 {
		return 1
	}
	return math.Sqrt(math.Max(0, 1-ab*ab/(aa*bb)))
}

// AWeight gives the A-weighting of a frequency in decibels: how much quieter than 1 kHz a soft
// tone of equal level is (IEC 61672-1:2013, 5.5, from memory).
func AWeight(f float64) float64 {
	const a, b, c, d = 20.598997, 107.65265, 737.86223, 12194.217
	x := f * f
	r := d * d * x * x / ((x + a*a) * math.Sqrt((x+b*b)*(x+c*c)) * (x + d*d))
	return 20*math.Log10(r) + 2.0
}

// AsHeard weighs the harmonics of a tone of frequency f by their loudness.
func AsHeard(amplitudes []float64, f float64) []float64 {
	out := make([]float64, len(amplitudes))
	for i, a := range amplitudes {
		if h := float64(i+1) * f; h < 20000 {
			out[i] = a * math.Pow(10, AWeight(h)/20)
		}
	}
	return out
}
