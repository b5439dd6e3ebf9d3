package dsp

import (
	"math"
	"math/cmplx"
)

// Mode is what a filter lets through.
type Mode int

// The modes. Morph goes from low-pass through band-pass to high-pass; Comb adds the sound of one period of the cutoff ago.
const (
	Lowpass Mode = iota
	Highpass
	Bandpass
	Notch
	Peak
	Morph
	Comb
)

// Modes lists the modes by the words of the vocabulary.
var Modes = map[string]Mode{"lowpass": Lowpass, "highpass": Highpass, "bandpass": Bandpass, "notch": Notch, "peak": Peak, "morph": Morph, "comb": Comb, "flange": Comb}

// Response is a filter that stands still.
type Response struct {
	Mode  Mode
	Poles int // 1 to 4
	// Cutoff in hertz.
	Cutoff float64
	// Resonance is the way to self-oscillation, 0 to below 1.
	Resonance float64
	// Feedback of a comb, Morph the place between low-pass (0), band-pass and high-pass (1).
	Feedback, Morph float64
}

// Gain gives the complex gain at a frequency in hertz of the analogue filter (circuit theory; the ladder: Stilson & Smith, ICMC 1996, from
// memory). A comb is what its delay line does.
func (r Response) Gain(hz float64) complex128 {
	fc := max(r.Cutoff, 2)
	if r.Mode == Comb {
		fb := complex(min(max(r.Feedback, -0.98), 0.98), 0)
		z := cmplx.Exp(complex(0, -2*math.Pi*hz/fc))
		return 0.5 * (1 + z/(1-fb*z)) * complex(1-0.5*math.Abs(real(fb)), 0)
	}
	r.Resonance = min(r.Resonance, 0.995)
	return r.At(complex(0, max(hz, 1)/fc))
}

// Loses gives what goes round a filter of up to three poles at a resonance: 1/Q, below 0 where it grows by itself.
func Loses(resonance float64) float64 { return max(2*(1-max(0, resonance)), -0.05) }

// At gives the complex gain of the analogue filter at s, in units of its cutoff; of any mode but a comb. From self-oscillation on it is what the poles say.
func (r Response) At(s complex128) complex128 {
	loses := Loses(r.Resonance)
	damp := complex(loses, 0)
	two := 1 / (s*s + damp*s + 1)
	poles := min(max(r.Poles, 1), 4)
	round := complex(4*max(0, r.Resonance), 0)
	switch {
	case r.Mode == Lowpass && poles == 4:
		return 1 / (fourth(1+s) + round)
	case r.Mode == Highpass && poles == 4:
		return 1 / (fourth(1+1/s) + round)
	case poles == 1 && r.Mode == Lowpass:
		return 1 / (1 + s)
	case poles == 1 && r.Mode == Highpass:
		return s / (1 + s)
	}
	var h complex128
	switch r.Mode {
	case Lowpass:
		h = two
	case Highpass:
		h = s * s * two
	case Bandpass:
		h = complex(max(loses, 0.02), 0) * s * two
	case Notch:
		h = (s*s + 1) * two
	case Peak: // the peak is 2 Q high: 1 + (2 Q - 1) of a band-pass of gain 1
		h = 1 + complex(max(2-max(loses, 0.05), 0), 0)*s*two
	case Morph:
		m := complex(min(max(r.Morph, 0), 1), 0)
		if real(m) < 0.5 {
			h = two * (1 + 2*m*(damp*s-1))
		} else {
			h = two * (damp*s + (2*m-1)*(s*s-damp*s))
		}
	}
	switch {
	case poles == 3 && r.Mode == Highpass:
		h *= s / (1 + s)
	case poles == 3:
		h *= 1 / (1 + s)
	case poles == 4:
		h *= h
	}
	return h
}

// fourth gives the fourth power.
func fourth(x complex128) complex128 { x *= x; return x * x }
