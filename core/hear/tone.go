package hear

import (
	"fmt"
	"math"
	"sync"

	"gonum.org/v1/gonum/dsp/fourier"

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
	return known("pulsewidth", "pulse width", 100*d, "%", 100*u)
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

// Detune gives how far apart two voices are, in cents, by how fast their harmonics beat.
func (e *Ear) Detune() Measured {
	p := e.parts()
	if len(p.amp) == 0 {
		return cannot("detune", "detune", "ct", "no tone is found")
	}
	top := 0.0
	var strength []float64
	for h := range p.amp {
		m := mean(p.amp[h])
		strength = append(strength, m)
		top = max(top, m)
	}
	type beat struct {
		rate float64
		h    int
	}
	var beats []beat
	for h := range p.amp {
		if strength[h] < 0.01*top {
			continue
		}
		sq := make([]float64, len(p.amp[h]))
		for i, a := range p.amp[h] {
			sq[i] = a * a
		}
		sq = loudPart(sq, p.level)
		if m, ok := periodic(sq, p.hop); ok && m.share > 0.5 && m.depth > 0.1*mean(sq) {
			beats = append(beats, beat{m.rate, h + 1})
		}
	}
	if len(beats) == 0 {
		return cannot("detune", "detune", "ct", "nothing beats often enough within the sound")
	}
	// harmonic n beats n times as fast
	var each []float64
	for _, b := range beats {
		each = append(each, b.rate/float64(b.h))
	}
	d := median(each)
	agree := 0
	spread := 0.0
	for _, x := range each {
		if math.Abs(x/d-1) < 0.08 {
			agree++
			spread += (x - d) * (x - d)
		}
	}
	if agree*2 <= len(each) && len(each) > 1 {
		return cannot("detune", "detune", "ct", "the harmonics do not beat in the proportion of two voices")
	}
	if len(each) > 2 && math.Abs(beats[0].rate-beats[len(beats)-1].rate) < 0.1*beats[0].rate {
		return cannot("detune", "detune", "ct", "all harmonics move alike: the level is modulated")
	}
	u := math.Sqrt(spread/float64(agree))/d + 0.02
	c := 1200 * math.Log2(1+d/p.f)
	return known("detune", "detune", c, "ct", u*c)
}

// fit is a low-pass that may have made a spectrum.
type fit struct {
	poles    int
	fc, res  float64
	residual float64 // decibels
}

// Cutoff gives the cutoff and the height of the peak of a low-pass, by fitting the gains of filters of one to
// four poles to the spectrum of a noise or a saw that went through it. source is "noise", "saw", or empty
// to go by whether there is a pitch.
func (e *Ear) Cutoff(source string) []Measured {
	none := func(why string) []Measured {
		return []Measured{cannot("cutoff", "cutoff", "Hz", why), cannot("cutoff", "resonant peak", "dB", why), cannot("cutoff", "slope", "dB/oct", why)}
	}
	var fs, level []float64
	if source == "" {
		source = "noise"
		if p := e.pitch(); p.ok && p.clarity > 0.85 {
			source = "saw"
		}
	}
	if source == "saw" {
		p := e.pitch()
		if !p.ok {
			return none("no tone is found")
		}
		x := dsp.Faded(e.mono[p.at : p.at+p.n])
		for h := 1.0; h <= 80 && h*p.f < 0.42*e.Rate; h++ {
			// the loudest place within the window's lobe, so that a pitch a little off does not count
			a := 0.0
			c := dsp.Term(x, h*p.f/e.Rate)
			a = math.Hypot(real(c), imag(c))
			fs = append(fs, h*p.f)
			level = append(level, 20*math.Log10(max(a*h, 1e-9)))
		}
	} else {
		n := 1 << 13
		for n > (e.to-e.from)/4 && n > 256 {
			n /= 2
		}
		fft := fourier.NewFFT(n)
		power := make([]float64, n/2+1)
		frames := 0
		for a := e.from; a+n <= e.to; a += n / 2 {
			c := fft.Coefficients(nil, dsp.Faded(e.mono[a:a+n]))
			for i := range c {
				power[i] += real(c[i])*real(c[i]) + imag(c[i])*imag(c[i])
			}
			frames++
		}
		if frames < 3 {
			return none("the sound is too short for the spectrum of a noise")
		}
		for f := 40.0; f < 0.42*e.Rate; f *= math.Exp2(1.0 / 6) {
			lo, hi := int(f*math.Exp2(-1.0/12)*float64(n)/e.Rate), int(math.Ceil(f*math.Exp2(1.0/12)*float64(n)/e.Rate))
			s, c := 0.0, 0
			for i := max(lo, 1); i <= hi && i < len(power); i++ {
				s += power[i]
				c++
			}
			if c > 0 {
				fs = append(fs, f)
				level = append(level, 10*math.Log10(max(s/float64(c), 1e-18)))
			}
		}
	}
	if len(fs) < 6 {
		return none("there are too few harmonics; a lower note or noise tells more")
	}
	top := math.Inf(-1)
	for _, l := range level {
		top = max(top, l)
	}
	// what lies more than 60 dB down tells of the floor, not of the filter
	keep := 0
	for i := range fs {
		if level[i] > top-60 {
			fs[keep], level[keep] = fs[i], level[i]
			keep++
		}
	}
	fs, level = fs[:keep], level[:keep]
	if keep < 5 {
		return none("there are too few harmonics; a lower note or noise tells more")
	}
	var best fit
	var all [5]fit
	limit := 0.2 * e.Rate // above it digital filters leave their models
again:
	try := func(poles int, fc, res float64) float64 {
		var sum, sq float64
		used := 0.0
		for i, f := range fs {
			if f > limit {
				break
			}
			used++
			d := level[i] - 20*math.Log10(dsp.LowpassGain(poles, res, f/fc))
			sum += d
			sq += d * d
		}
		n := max(used, 1)
		return math.Sqrt(max(0, sq/n-sum*sum/n/n))
	}
	best = fit{residual: math.Inf(1)}
	for poles := 1; poles <= 4; poles++ {
		local := fit{residual: math.Inf(1)}
		steps := []float64{0, 0.15, 0.3, 0.45, 0.6, 0.7, 0.8, 0.88, 0.94}
		if poles == 1 {
			steps = steps[:1]
		}
		for fc := 40.0; fc < 0.45*e.Rate; fc *= math.Exp2(1.0 / 4) {
			for _, res := range steps {
				if r := try(poles, fc, res); r < local.residual {
					local = fit{poles, fc, res, r}
				}
			}
		}
		for df, dr := 1.0/8, 0.06; df > 0.002; df, dr = df*0.6, dr*0.6 {
			for moved := true; moved; {
				moved = false
				for _, x := range [][2]float64{{df, 0}, {-df, 0}, {0, dr}, {0, -dr}} {
					fc, res := local.fc*math.Exp2(x[0]), min(max(local.res+x[1], 0), 0.97)
					if poles == 1 && x[1] != 0 {
						continue
					}
					if r := try(poles, fc, res); r < local.residual-1e-6 {
						local = fit{poles, fc, res, r}
						moved = true
					}
				}
			}
		}
		all[poles] = local
		if local.residual < best.residual {
			best = local
		}
	}
	if limit < 0.3*e.Rate && best.fc > 0.08*e.Rate {
		limit = 0.42 * e.Rate
		goto again
	}
	if best.residual > 4 {
		return none("the spectrum is not that of a " + source + " through a low-pass")
	}
	if best.fc > 0.7*fs[len(fs)-1] && best.residual < 4 {
		edge := 20 * math.Log10(dsp.LowpassGain(best.poles, best.res, fs[len(fs)-1]/best.fc))
		if edge > -6 {
			return none("it lies above what the sound reaches")
		}
	}
	// where another slope fits nearly as well, the cutoff is as unsure as the two are apart
	u := 0.01 + 0.01*best.residual
	for poles := 1; poles <= 4; poles++ {
		if poles != best.poles && all[poles].residual < best.residual*1.15+0.05 {
			u = max(u, math.Abs(math.Log(all[poles].fc/best.fc))/2)
		}
	}
	peak := dsp.PeakDB(best.poles, best.res)
	if best.poles == 3 { // its own closed form is only in the gain
		peak = 0
		for w := 0.3; w < 1.5; w += 0.01 {
			peak = max(peak, 20*math.Log10(dsp.LowpassGain(3, best.res, w)))
		}
	}
	if best.poles == 1 {
		peak = 0
	}
	return []Measured{known("cutoff", "cutoff", best.fc, "Hz", u*best.fc), known("cutoff", "resonant peak", peak, "dB", 0.3+0.5*best.residual),
		known("cutoff", "slope", float64(6*best.poles), "dB/oct", 3)}
}
