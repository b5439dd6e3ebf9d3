package dsp

import (
	"math"
	"math/cmplx"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Transformations of the shape of a cycle, by the words that panels name them with.
const (
	WarpFold     = "fold"
	WarpMirror   = "mirror"
	WarpBend     = "bend"
	WarpQuantise = "quantise"
)

// Warp changes the shape of a cycle of samples by an amount of 0 to 1: fold turns back what goes over full level, mirror plays the
// second half backwards, bend hurries the first half, quantise makes steps. Another word changes nothing. How far each goes at full is common practice, no source.
func Warp(cycle []float64, kind string, amount float64) []float64 {
	n := float64(len(cycle))
	at := func(p float64) float64 {
		p -= math.Floor(p)
		x := p * n
		i := int(x) % len(cycle)
		return cycle[i] + (x-math.Floor(x))*(cycle[(i+1)%len(cycle)]-cycle[i])
	}
	out := make([]float64, len(cycle))
	for i, y := range cycle {
		p := float64(i) / n
		switch kind {
		case WarpFold:
			y = Fold(y * (1 + 4*amount))
		case WarpMirror:
			y += amount * (at(1-math.Abs(2*p-1)) - y)
		case WarpBend:
			y = at(math.Pow(p, math.Exp2(2*amount)))
		case WarpQuantise:
			steps := math.Exp2(1 + 6*(1-amount))
			y += min(1, 4*amount) * (math.Round(y*steps)/steps - y)
		}
		out[i] = y
	}
	return out
}

// Fold turns what goes over 1 back, again and again.
func Fold(x float64) float64 {
	x = math.Mod(math.Abs(math.Mod(x+1, 4)+4), 4)
	if x > 2 {
		x = 4 - x
	}
	return x - 1
}

// warpPoints is at how many points a cycle is taken whose harmonics are asked for.
const warpPoints = 2048

// WarpedHarmonics gives the amplitudes of the first n harmonics of a cycle that has been warped. The cycle is a sum of sines of some amplitudes and phases, in radians.
func WarpedHarmonics(amplitudes, phases []float64, kind string, amount float64, n int) []float64 {
	fft := fourier.NewFFT(warpPoints)
	c := make([]complex128, warpPoints/2+1)
	for i := range min(len(amplitudes), warpPoints/4) { // A sin(x + f) is A/2 e^(i(x + f - pi/2)) and its mirror
		c[i+1] = cmplx.Rect(amplitudes[i]/2, phases[i]-math.Pi/2)
	}
	c = fft.Coefficients(c, Warp(fft.Sequence(nil, c), kind, amount))
	out := make([]float64, n)
	for i := range min(n, warpPoints/2) {
		out[i] = 2 * cmplx.Abs(c[i+1]) / warpPoints
	}
	return out
}
