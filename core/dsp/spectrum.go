package dsp

import (
	"math"
	"math/bits"
	"math/cmplx"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Hann gives a raised cosine of n places, read at the middles of the places (gonum's own is read at their ends):
//
//	w[k] = 1/2 - 1/2 cos(2 pi (k + 1/2)/n)
func Hann(n int) []float64 {
	w := make([]float64, n)
	for k := range w {
		w[k] = 0.5 - 0.5*math.Cos(2*math.Pi*(float64(k)+0.5)/float64(n))
	}
	return w
}

// Faded gives a stretch with its ends faded by Hann, so that a sine of amplitude 1 in the middle of a bin has a Fourier sum of 1.
func Faded(x []float64) []float64 {
	out := Hann(len(x))
	sum := 0.0
	for _, w := range out {
		sum += w
	}
	for k := range out {
		out[k] *= x[k] * 2 / sum
	}
	return out
}

// PowerUpTo gives the largest power of two that is at most x; 1 where x is less.
func PowerUpTo(x float64) int {
	n := 1
	for float64(n*2) <= x {
		n *= 2
	}
	return n
}

// PowerFrom gives the smallest power of two that is at least n.
func PowerFrom(n int) int {
	size := 1
	for size < n {
		size *= 2
	}
	return size
}

// Frames takes power spectra of a length, under Hann. It is for one goroutine.
type Frames struct {
	Size int
	win  []float64
	c    []complex128
	fft  *fourier.FFT // of lengths that are no power of two, by buf
	buf  []float64
	half []complex128 // of the others: even samples are real parts, odd ones imaginary parts
	turn []complex128
}

// halved is the longest spectrum that is taken by a complex transform of half its length: that takes a third of the time, and its turns are made one from another.
const halved = 1 << 13

// NewFrames prepares spectra of size samples.
func NewFrames(size int) *Frames {
	f := &Frames{Size: size, win: Hann(size), c: make([]complex128, size/2+1)}
	if size < 4 || size > halved || size&(size-1) != 0 {
		f.fft, f.buf = fourier.NewFFT(size), make([]float64, size)
		return f
	}
	f.half, f.turn = make([]complex128, size/2), make([]complex128, size/2)
	for k := range f.turn {
		f.turn[k] = cmplx.Rect(0.5, -2*math.Pi*float64(k)/float64(size)) * -1i
	}
	return f
}

// Beside gives spectra of the same size for another goroutine.
func (f *Frames) Beside() *Frames {
	if f.fft != nil {
		return NewFrames(f.Size)
	}
	return &Frames{Size: f.Size, win: f.win, turn: f.turn, c: make([]complex128, len(f.c)), half: make([]complex128, len(f.half))}
}

// Coefficients gives the Fourier coefficients of the samples from at on; what lies outside of x is silence. They are good until the next call.
func (f *Frames) Coefficients(x []float64, at int) []complex128 {
	from, to := min(max(0, -at), f.Size), min(max(0, len(x)-at), f.Size) // what of the frame lies in x
	if f.fft != nil {
		clear(f.buf)
		for k := from; k < to; k++ {
			f.buf[k] = x[at+k] * f.win[k]
		}
		return f.fft.Coefficients(f.c, f.buf)
	}
	if from == 0 && to == f.Size { // as most do
		y, w := x[at:at+f.Size], f.win[:f.Size]
		for k := range f.half {
			f.half[k] = complex(y[2*k]*w[2*k], y[2*k+1]*w[2*k+1])
		}
	} else {
		clear(f.half)
		for k := from; k < to; k++ {
			y := x[at+k] * f.win[k]
			if h := &f.half[k/2]; k%2 == 0 {
				*h = complex(y, imag(*h))
			} else {
				*h = complex(real(*h), y)
			}
		}
	}
	n := len(f.half)
	if bits.TrailingZeros(uint(n))%2 == 0 {
		fourier.CoefficientsRadix4(f.half)
	} else {
		fourier.CoefficientsRadix2(f.half)
	}
	// the spectra of even and odd samples are the even and odd parts of what they give together
	f.c[0], f.c[n] = complex(real(f.half[0])+imag(f.half[0]), 0), complex(real(f.half[0])-imag(f.half[0]), 0)
	h, turn, out := f.half, f.turn[:n], f.c[:n+1]
	for k := 1; 2*k <= n; k++ { // two of them at a time: what one is the sum of, the other is the difference of
		a, b := h[k], h[n-k]
		er, ei := 0.5*(real(a)+real(b)), 0.5*(imag(a)-imag(b))
		dr, di := real(a)-real(b), imag(a)+imag(b)
		tr, ti := real(turn[k])*dr-imag(turn[k])*di, real(turn[k])*di+imag(turn[k])*dr
		out[k], out[n-k] = complex(er+tr, ei+ti), complex(er-tr, ti-ei)
	}
	return f.c
}

// Power gives the squares of the coefficients' sizes, in a new list.
func (f *Frames) Power(x []float64, at int) []float64 {
	c := f.Coefficients(x, at)
	p := make([]float64, len(c))
	for i := range c {
		p[i] = square(c[i])
	}
	return p
}

func square(c complex128) float64 { return real(c)*real(c) + imag(c)*imag(c) }

// Autocorrelation gives the sums of products of a stretch with itself moved by 0, 1, ... samples, by Fourier transforms of a size that is at least twice
// its length.
func Autocorrelation(x []float64, size int) []float64 {
	pad := make([]float64, size)
	copy(pad, x)
	fft := fourier.NewFFT(size)
	c := fft.Coefficients(nil, pad)
	for i := range c {
		c[i] = complex(square(c[i]), 0)
	}
	r := fft.Sequence(nil, c)
	for i := range r {
		r[i] /= float64(size)
	}
	return r[:len(x)]
}

// Term gives one term of the Fourier sum, at a frequency in cycles a sample. Four turns a sample apart go side by side, each by four
// samples at a time: one alone waits for its own product.
func Term(x []float64, f float64) complex128 {
	var re, im, sumRe, sumIm [4]float64
	sin, cos := math.Sincos(-2 * math.Pi * f * 4)
	start := func(at int) {
		for j := range 4 {
			im[j], re[j] = math.Sincos(-2 * math.Pi * math.Mod(f*float64(at+j), 1))
		}
	}
	n := len(x) &^ 3
	for k := 0; k < n; k += 4 {
		if k&4095 == 0 {
			start(k) // so that no error of rounding gathers
		}
		y := x[k : k+4 : k+4]
		for j := range 4 {
			sumRe[j] += y[j] * re[j]
			sumIm[j] += y[j] * im[j]
			re[j], im[j] = re[j]*cos-im[j]*sin, re[j]*sin+im[j]*cos
		}
	}
	start(n)
	for j, y := range x[n:] {
		sumRe[j] += y * re[j]
		sumIm[j] += y * im[j]
	}
	return complex(sumRe[0]+sumRe[1]+sumRe[2]+sumRe[3], sumIm[0]+sumIm[1]+sumIm[2]+sumIm[3])
}
