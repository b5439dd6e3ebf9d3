package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var _ = used(&pulseSaws,
	use{"a square is two saws half a cycle and a half apart", targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}, words: []string{"osc.wave=saw", "osc.phase=reset at 270"}}.case_(sound([]meaning.Module{mod("o", meaning.Osc, p{"wave": "pulse", "width": 0.25, "level": -3.0, "interval": 0.0})})),
		figures{"o~.level": -3, "o~2.level": -3, "o~2.interval": 0}, nil, "270 degrees"},
)

// The figures behind two rules: two saws d + 1/2 of a cycle apart have the odd harmonics of a pulse of
// duty d (Fourier series, Bronshtein); a low-pass and a high-pass of one Q add to a notch (circuit theory).
func TestMadeWavesAndNotches(t *testing.T) {
	for _, d := range []float64{0.1, 0.25, 0.5} {
		saw := q.Wave{Name: q.WaveSaw}.Amplitudes(15)
		pulse := q.Wave{Name: q.WavePulse, Width: q.Ratio(d)}.Amplitudes(15)
		for n := 1; n <= 15; n += 2 {
			x := 2 * math.Pi * float64(n) * (d + 0.5)
			two := saw[n-1] * math.Hypot(1+math.Cos(x), math.Sin(x))
			if math.Abs(two-pulse[n-1]) > 1e-9 {
				t.Errorf("duty %v, harmonic %d: two saws %v, pulse %v", d, n, two, pulse[n-1])
			}
		}
	}
	for _, quality := range []float64{0.5, 0.7, 3} {
		for _, w := range []float64{0.1, 0.5, 1, 2, 10} {
			s := complex(0, w)
			den := s*s + s/complex(quality, 0) + 1
			sum := 1/den + s*s/den
			want := math.Abs(1-w*w) / math.Hypot(1-w*w, w/quality)
			if got := math.Hypot(real(sum), imag(sum)); math.Abs(got-want) > 1e-12 || w == 1 && got > 1e-12 {
				t.Errorf("Q %v at %v of the cutoff: %v, want %v", quality, w, got, want)
			}
		}
	}
}
