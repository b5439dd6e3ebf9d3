package quantity

import "math"

// Wave names that have a Fourier series here. Others (table frames, drawn waves) carry
// their harmonics with the panel.
const (
	WaveSaw      = "saw"
	WavePulse    = "pulse"
	WaveTriangle = "triangle"
	WaveSine     = "sine"
)

// Harmonics gives the amplitudes of the first n harmonics of a wave of equal peak,
// fundamental first; width is the duty of a pulse, 0 to 1. An unknown
// wave gives nil. Source: Fourier series (Bronshtein): saw 1/n, triangle 1/n^2 odd,
// pulse |sin(pi n d)|/n.
func Harmonics(wave string, width float64, n int) []float64 {
	a := make([]float64, n)
	for i := range a {
		k := float64(i + 1)
		switch wave {
		case WaveSaw:
			a[i] = 2 / math.Pi / k
		case WavePulse:
			a[i] = 4 / math.Pi * math.Abs(math.Sin(math.Pi*k*width)) / k
		case WaveTriangle:
			if i%2 == 0 {
				a[i] = 8 / (math.Pi * math.Pi) / (k * k)
			}
		case WaveSine:
			if i == 0 {
				a[i] = 1
			}
		default:
			return nil
		}
	}
	return a
}

// WaveDistance gives how unlike two sets of harmonics are: 0 for the same shape of
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
