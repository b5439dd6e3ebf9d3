package hear

import (
	"fmt"
	"math"
	"sync"

	"glossator/core/dsp"
)

// spectra are short spectra over time, and their mean.
type spectra struct {
	size, hop int
	bins      [][]float64 // power, of each frame
	mean      []float64
	centroid  []float64 // hertz of each frame; NaN where it is silent
	level     []float64
}

func (e *Ear) findSpectra() spectra {
	s := spectra{size: dsp.PowerUpTo(0.05 * e.Rate)}
	if p := e.pitch(); p.near && p.f > 0 { // of a low tone several periods, or the spectrum moves with where they lie
		s.size = max(s.size, dsp.PowerUpTo(min(4.5/p.f, 0.2)*e.Rate))
	}
	s.hop = s.size / 2
	x := e.mono[e.from:e.to]
	if len(x) < s.size {
		return s
	}
	frames := dsp.NewFrames(s.size)
	s.mean = make([]float64, s.size/2+1)
	top := 0.0
	var weightedSums []float64
	for a := 0; a+s.size <= len(x); a += s.hop {
		p := frames.Power(x, a)
		var sum, first float64
		for i := range p {
			s.mean[i] += p[i]
			sum += p[i]
			first += p[i] * float64(i)
		}
		s.bins = append(s.bins, p)
		s.level = append(s.level, sum)
		weightedSums = append(weightedSums, first)
		top = max(top, sum)
	}
	for i := range s.mean {
		s.mean[i] /= float64(len(s.bins))
	}
	for i, sum := range s.level {
		if sum < 1e-4*top {
			s.centroid = append(s.centroid, math.NaN())
			continue
		}
		s.centroid = append(s.centroid, weightedSums[i]/sum*e.Rate/float64(s.size))
	}
	return s
}

// ERBNumber gives the place of a frequency on the scale of auditory bands (Glasberg & Moore, Hearing
// Research 47, 1990).
//
//	21.4 log10(4.37 f/1000 + 1)
func ERBNumber(f float64) float64 { return 21.4 * math.Log10(0.00437*f+1) }

// ERBFrequency is the inverse of ERBNumber.
func ERBFrequency(n float64) float64 { return (math.Pow(10, n/21.4) - 1) / 0.00437 }

// ERBWidth gives the width of the auditory band at a frequency, in hertz (Glasberg & Moore, 1990).
func ERBWidth(f float64) float64 { return 24.7 * (0.00437*f + 1) }

// Bands is how many auditory bands a spectrum is given in: up to 15.3 kHz.
const Bands = 38

// Bands gives the level in each auditory band over the whole sound, in decibels.
func (e *Ear) Bands() []float64 {
	s := e.stft()
	out := make([]float64, Bands)
	for i := range s.mean {
		f := float64(i) * e.Rate / float64(s.size)
		if b := int(ERBNumber(f)); b < Bands {
			out[b] += s.mean[i]
		}
	}
	for b := range out {
		out[b] = 10 * math.Log10(max(out[b]/float64(max(1, s.size*s.size)), 1e-14))
	}
	return out
}

// Spectrum gives the level in each auditory band that is within 70 dB of the loudest, and the brightness in each
// quarter of a second.
func (e *Ear) Spectrum() []Measured {
	var out []Measured
	bands := e.Bands()
	top := math.Inf(-1)
	for _, l := range bands {
		top = max(top, l)
	}
	for b, l := range bands {
		if l > top-70 {
			out = append(out, known("spectrum", fmt.Sprintf("band at %.0f Hz", ERBFrequency(float64(b)+0.5)), l, "dB", 0.5))
		}
	}
	hop, hz := e.Centroids()
	const step = 0.25
	for t := 0.0; int(t/hop) < len(hz); t += step {
		var list []float64
		for i := int(t / hop); i < len(hz) && float64(i)*hop < t+step; i++ {
			if !math.IsNaN(hz[i]) {
				list = append(list, hz[i])
			}
		}
		label := fmt.Sprintf("brightness at %.2f s", t+float64(e.from)/e.Rate)
		if len(list) == 0 {
			out = append(out, cannot("spectrum", label, "Hz", "there is no sound"))
			continue
		}
		m := median(list)
		out = append(out, known("spectrum", label, m, "Hz", 0.05*m))
	}
	return out
}

// Brightness gives the centre of gravity of the spectrum, in hertz.
func (e *Ear) Brightness() Measured {
	s := e.stft()
	var sum, w float64
	for i, p := range s.mean {
		sum += p * float64(i) * e.Rate / float64(s.size)
		w += p
	}
	if w == 0 {
		return cannot("spectrum", "brightness (centroid)", "Hz", "the sound is too short")
	}
	return known("spectrum", "brightness (centroid)", sum/w, "Hz", 0.02*sum/w)
}

// Centroids gives the brightness over time: seconds between frames, hertz in each (NaN where it is silent).
func (e *Ear) Centroids() (hop float64, hz []float64) {
	s := e.stft()
	return float64(s.hop) / e.Rate, s.centroid
}

// amplitudes gives the middle level of each harmonic over the loud part.
func (p *partials) amplitudes() []float64 {
	top := 0.0
	for _, l := range p.level {
		top = max(top, l)
	}
	out := make([]float64, len(p.amp))
	for h := range p.amp {
		var list []float64
		for i, a := range p.amp[h] {
			if p.level[i] > 0.3*top {
				list = append(list, a)
			}
		}
		out[h] = median(list)
	}
	return out
}

// PulseWidth gives the duty of a pulse by the levels of its harmonics, 50 % or less: one of d and one of 1-d
// sound alike. Source of the levels: Fourier series (Bronshtein), |sin(pi n d)|/n.
func (e *Ear) PulseWidth() Measured {
	p := e.parts()
	if len(p.amp) < 5 {
		return cannot("pulsewidth", "pulse width", "%", "no tone with at least five harmonics is found")
	}
	d, u, bad := pulseWidth(p.amplitudes())
	if bad > 0.12 {
		return cannot("pulsewidth", "pulse width", "%", "the harmonics are not those of a pulse")
	}
	if bad > surePulse { // what only comes near to one may be something else
		if e.drivenSaw() {
			return cannot("pulsewidth", "pulse width", "%", "it may be a "+driven)
		}
		if found, why := e.waves(); why != "" || found[0].wave != "pulse" && found[0].wave != "square" {
			return cannot("pulsewidth", "pulse width", "%", "the harmonics come near to those of a pulse, but it may be another wave")
		}
	}
	return known("pulsewidth", "pulse width", 100*d, "%", 100*u)
}

// drivenSaw tells whether a saw whose tips are cut off explains a tone better than any pulse.
func (e *Ear) drivenSaw() bool {
	least := [2]float64{math.Inf(1), math.Inf(1)}
	for _, x := range e.whole().found {
		switch x.wave {
		case driven:
			least[0] = min(least[0], x.residual)
		case "pulse", "square":
			least[1] = min(least[1], x.residual)
		}
	}
	return least[0] < least[1]
}

const (
	leastDuty = 0.02
	dutyStep  = 0.001
)

// duties are the levels of the harmonics of pulses of each duty, times the root of their number: higher
// harmonics count as if they were not lower.
var duties = sync.OnceValue(func() (out [481][harmonicsHeard]float64) {
	for i := range out {
		for n := range out[i] {
			h := float64(n + 1)
			out[i][n] = math.Abs(math.Sin(math.Pi*h*(leastDuty+dutyStep*float64(i)))) / math.Sqrt(h)
		}
	}
	return out
})

// pulseWidth fits a duty to the levels of harmonics; bad is what does not fit, as a share.
func pulseWidth(a []float64) (d, u, bad float64) {
	bad = math.Inf(1)
	aa := 0.0
	for n := range a {
		aa += a[n] * a[n] * float64(n+1)
	}
	all := duties()
	for i := range all {
		var ab, bb float64
		for n := range a {
			b := all[i][n]
			ab += a[n] * b * math.Sqrt(float64(n+1))
			bb += b * b
		}
		if r := 1 - ab*ab/(aa*bb); r < bad {
			bad, d = r, leastDuty+dutyStep*float64(i)
		}
	}
	bad = math.Sqrt(max(0, bad))
	return d, 0.001 + 0.05*bad, bad
}

// Balance gives how much quieter the softer of two detuned voices is, in decibels: by how deep their harmonics beat. Two cosines of the amplitudes 1 and r beat by 2r/(1+r^2)
// of their mean energy (trigonometry).
func (e *Ear) Balance() Measured {
	const label = "softer of two voices"
	b := e.beat()
	if !b.ok {
		return cannot("detune", label, "dB", b.why)
	}
	var depths []float64
	most := 0.0
	for _, m := range b.mean {
		most = max(most, m)
	}
	for h, m := range b.mean {
		if m > 0.02*most {
			depths = append(depths, min(1, math.Hypot(b.cos[h], b.sin[h])/m))
		}
	}
	if len(depths) < 2 {
		return cannot("detune", label, "dB", "too few of its harmonics beat")
	}
	soft := func(depth float64) float64 {
		depth = min(max(depth, 1e-3), 1)
		return 20 * math.Log10((1-math.Sqrt(max(0, 1-depth*depth)))/depth)
	}
	d := median(depths)
	spread := 0.01 // at equal levels the depth hardly changes with them
	for _, x := range depths {
		spread = max(spread, math.Abs(x-d)/2)
	}
	level := soft(d)
	return known("detune", label, level, "dB", max(0.3, level-soft(d-spread), soft(min(1, d+spread))-level))
}

// Detune gives how far apart two voices are, in cents, by how fast their harmonics beat.
func (e *Ear) Detune() Measured {
	p, b := e.parts(), e.beat()
	if !b.ok {
		return cannot("detune", "detune", "ct", b.why)
	}
	c := 1200 * math.Log2(1+b.rate/p.f)
	return known("detune", "detune", c, "ct", c*b.u/b.rate)
}
