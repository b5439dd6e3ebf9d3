package hear

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/stat"

	"glossator/core/dsp"
)

// fit is a low-pass that may have made a spectrum, of a wave.
type fit struct {
	wave     string
	poles    int
	fc, res  float64
	residual float64 // decibels
	warp     float64 // see points
	of       int     // its wave in the list
}

const (
	// clean is the most that a spectrum may be off a model, in decibels; of a noise, whose bands are a matter of chance, noisy.
	clean, noisy = 1.5, 2.5
	// alike is how much worse another model may fit for it to be as likely, as a share and in decibels.
	alikeShare, alikeDB = 1.3, 0.25
	// unsure is by how much two likely models may differ in cutoff, as a ratio, for one to be told.
	unsure = 1.5
	// spectrumDeep is how far down the spectrum of a noise tells of the filter and not of the floor, in decibels; harmonicsDeep that of a tone, whose harmonics have to
	// stand out of what lies between them by aboveFloor.
	spectrumDeep  = 60
	harmonicsDeep = 80
	// evenFaint is how far under the strongest harmonic an even one is a matter of how a wave is made, and not of which it is.
	evenFaint  = 55
	aboveFloor = 12
)

// points are a spectrum at places: hertz, decibels, and for harmonics which they are.
type points struct {
	f, level []float64
	h        []int
	// warp is the rate, in hertz, at which the filter is taken to work by the bilinear transform; 0 for one that follows the analogue curve.
	warp float64
}

// beside gives a frequency as a multiple of a cutoff, as the filter sees it.
func (p *points) beside(f, fc float64) float64 {
	if p.warp <= 0 {
		return f / fc
	}
	at := func(f float64) float64 { return math.Tan(math.Pi * min(f/p.warp, 0.499)) }
	return at(f) / at(fc)
}

// stretch is the part of a sound from which a spectrum is taken, in samples.
type stretch struct{ from, to int }

// power sums the power of all frames of n samples of a stretch, each half over the next: by bins of so many hertz.
func (e *Ear) power(n int, s stretch) (power []float64, bin float64) {
	frames := dsp.NewFrames(n)
	power = make([]float64, n/2+1)
	for at := s.from; at+n <= s.to || at == s.from; at += n / 2 {
		for i, p := range frames.Power(e.mono, at) {
			power[i] += p
		}
	}
	return power, e.Rate / float64(n)
}

// harmonicLevels gives the energy about each harmonic of a stretch: all from half way to the harmonic below to half way to the one above, so that two detuned
// voices and a vibrato count whole.
func (e *Ear) harmonicLevels(f float64, s stretch) (out points) {
	n := dsp.PowerUpTo(float64(min(s.to-s.from, int(4*e.Rate))))
	if float64(n) < 6*e.Rate/f {
		return points{}
	}
	power, bin := e.power(n, s)
	for h := 1; h <= mostHarmonics && (float64(h)+0.5)*f < 0.42*e.Rate; h++ {
		if h > 40 && h%max(1, h/20) > 1 { // a pair of an even and an odd one now and then is enough
			continue
		}
		sum, between := 0.0, 0.0
		for i := int((float64(h) - 0.42) * f / bin); i <= int((float64(h)+0.42)*f/bin) && i < len(power); i++ {
			sum += power[i]
		}
		lo, hi := int((float64(h)+0.44)*f/bin), int((float64(h)+0.56)*f/bin)
		for i := lo; i <= hi && i < len(power); i++ {
			between += power[i] / float64(hi-lo+1) * 0.84 * f / bin
		}
		if 10*math.Log10(sum/max(between, 1e-30)) < aboveFloor {
			continue // it is noise
		}
		out.f, out.level, out.h = append(out.f, float64(h)*f), append(out.level, 10*math.Log10(max(sum, 1e-18))), append(out.h, h)
	}
	if b := e.beat(); b.ok { // of those that beat slowly the energy hangs on where the beat stands: their own mean is known
		var apart []float64
		for i, h := range out.h {
			if h <= len(b.mean) && b.mean[h-1] > 0 && b.rate*float64(h*n)/e.Rate > 2 {
				apart = append(apart, out.level[i]-10*math.Log10(b.mean[h-1]))
			}
		}
		for i, h := range out.h {
			if len(apart) > 0 && h <= len(b.mean) && b.mean[h-1] > 0 {
				out.level[i] = 10*math.Log10(b.mean[h-1]) + median(apart)
			}
		}
	}
	return out
}

// inHarmonics tells whether what sounds about the first harmonics lies close to them, as of a tone and not of a noise that rings.
func (e *Ear) inHarmonics(f float64, s stretch) bool {
	n := dsp.PowerUpTo(float64(min(s.to-s.from, int(2*e.Rate))))
	power := dsp.NewFrames(n).Power(e.mono, s.from)
	bin := e.Rate / float64(n)
	var shares []float64
	for h := 1.0; h <= 8 && (h+0.5)*f < 0.42*e.Rate; h++ {
		var in, all float64
		for i := int((h - 0.42) * f / bin); i <= int((h+0.42)*f/bin) && i < len(power); i++ {
			all += power[i]
			if math.Abs(float64(i)*bin-h*f) < max(0.08*f, 2.5*bin) {
				in += power[i]
			}
		}
		if all > 0 {
			shares = append(shares, in/all)
		}
	}
	return len(shares) == 0 || median(shares) > 0.7
}

const mostHarmonics = 400

// noiseLevels gives the mean power in sixths of an octave.
func (e *Ear) noiseLevels(s stretch) (out points) {
	n := 1 << 13
	for n > (s.to-s.from)/4 && n > 256 {
		n /= 2
	}
	frames := dsp.NewFrames(n)
	power := make([]float64, n/2+1)
	count := 0
	for at := s.from; at+n <= s.to; at += n / 2 {
		for i, p := range frames.Power(e.mono, at) {
			power[i] += p
		}
		count++
	}
	if count < 3 {
		return points{}
	}
	for f := 40.0; f < 0.42*e.Rate; f *= math.Exp2(1.0 / 6) {
		lo, hi := int(f*math.Exp2(-1.0/12)*float64(n)/e.Rate), int(math.Ceil(f*math.Exp2(1.0/12)*float64(n)/e.Rate))
		s, c := 0.0, 0
		for i := max(lo, 1); i <= hi && i < len(power); i++ {
			s += power[i]
			c++
		}
		if c > 0 {
			out.f, out.level = append(out.f, f), append(out.level, 10*math.Log10(max(s/float64(c), 1e-18)))
		}
	}
	return out
}

// deep drops what lies far below the loudest, and above a frequency.
func (p points) deep(highest float64) (out points) {
	far := float64(spectrumDeep)
	if p.h != nil {
		far = harmonicsDeep
	}
	top := math.Inf(-1)
	for _, l := range p.level {
		top = max(top, l)
	}
	if p.h == nil {
		if floor, ok := p.floor(); ok && floor < top-floorFar {
			far = min(far, top-floor-aboveFloor)
		}
	}
	for i, l := range p.level {
		if l > top-far && p.f[i] <= highest {
			out.f, out.level = append(out.f, p.f[i]), append(out.level, l)
			if p.h != nil {
				out.h = append(out.h, p.h[i])
			}
		}
	}
	return out
}

// The floor of a recording is where a spectrum of noise goes on evenly over floorWide sixths of an octave, by less than floorEven decibels in an octave,
// at least floorFar under the loudest: no low-pass ends so.
const (
	floorWide = 9
	floorEven = 1.0
	floorFar  = 24.0
)

// floor gives the level of the recording's own noise, by the highest places of a spectrum.
func (p points) floor() (level float64, ok bool) {
	n := len(p.f)
	if n < 2*floorWide {
		return 0, false
	}
	var octave []float64
	for _, f := range p.f[n-floorWide : n] {
		octave = append(octave, math.Log2(f))
	}
	levels := p.level[n-floorWide : n]
	_, slope := stat.LinearRegression(octave, levels, nil, false)
	return stat.Mean(levels, nil), math.Abs(slope) < floorEven
}

// oddOnly tells whether there is next to nothing at the even harmonics.
func (p *points) oddOnly() bool {
	if len(p.level) == 0 {
		return false
	}
	top := slices.Max(p.level)
	for i := 1; i+1 < len(p.h); i++ {
		if p.h[i]%2 == 0 && p.level[i] > top-evenFaint && p.h[i-1] == p.h[i]-1 && p.h[i+1] == p.h[i]+1 && p.level[i] > max(p.level[i-1], p.level[i+1])-18 {
			return false
		}
	}
	return len(p.h) > 2
}

// waveform is a wave that may have gone in: its harmonics in decibels (NaN for none), and whether odd and even ones have levels of their own, as where a square an octave
// below sounds along.
type waveform struct {
	name  string
	level func(h int) float64
	apart bool
	duty  float64 // of a pulse
}

// waves lists what may have gone in. Levels of harmonics: Fourier series (Bronshtein).
func waves(odd bool) (out []waveform) {
	fall := func(per float64) func(int) float64 {
		return func(h int) float64 {
			if odd && h%2 == 0 {
				return math.NaN()
			}
			return -per * math.Log10(float64(h))
		}
	}
	if odd {
		return []waveform{{name: "square", level: fall(20)}, {name: "triangle", level: fall(40)}}
	}
	out = []waveform{{name: "saw", level: fall(20)}, {name: "saw with a sub", level: fall(20), apart: true}}
	for d := 0.04; d < 0.485; d += 0.02 {
		out = append(out, pulseWave(d))
	}
	for _, at := range []float64{0.05, 0.15, 0.3, 0.5, 0.75} {
		out = append(out, waveform{name: driven, level: func(h int) float64 { return clippedSaw(at, float64(h)) }})
	}
	return out
}

// driven is a saw whose tips are cut off, which a drive makes of it.
const driven = "driven saw"

// clippedSaw gives a harmonic, in decibels, of a saw that is cut off at a share of its height: the integral of x sin(n pi x) up to there, and of the level beyond (Fourier series).
func clippedSaw(at, n float64) float64 {
	sign := 1 - 2*math.Mod(n, 2)
	return 20 * math.Log10(max(math.Abs(math.Sin(n*math.Pi*at)/(n*math.Pi*n*math.Pi)-sign*at/(n*math.Pi)), 1e-9))
}

// pulseWave is a pulse of a duty. What lies near its nulls is not asked: how deep they are is a matter of chance.
func pulseWave(d float64) waveform {
	return waveform{name: "pulse", duty: d, level: func(h int) float64 {
		s := math.Abs(math.Sin(math.Pi * float64(h) * d))
		if s < 0.25 {
			return math.NaN()
		}
		return 20 * math.Log10(s/float64(h))
	}}
}

// off gives by how many decibels levels lie off a model: the root of the mean square, each class about its own mean.
func off(level, model []float64, class []int) float64 {
	var sum, sq, n [2]float64
	for i, m := range model {
		if math.IsNaN(m) {
			continue
		}
		c := 0
		if class != nil {
			c = class[i] & 1
		}
		d := level[i] - m
		sum[c] += d
		sq[c] += d * d
		n[c]++
	}
	left, all := 0.0, n[0]+n[1]
	for c := range n {
		if n[c] > 0 {
			left += sq[c] - sum[c]*sum[c]/n[c]
		}
	}
	if all < 4 || class != nil && min(n[0], n[1]) < 3 {
		return math.Inf(1)
	}
	return math.Sqrt(max(0, left/all))
}

var resonances = []float64{0, 0.15, 0.3, 0.45, 0.6, 0.7, 0.8, 0.88, 0.94, 0.965}

// kind is a filter that may have made a spectrum.
type kind int

const (
	low kind = iota
	high
	band
)

// gain gives the gain of a filter at w times its cutoff: a high-pass is a low-pass upside down, a band-pass of two poles is circuit theory.
func (k kind) gain(poles int, res, w float64) float64 {
	switch k {
	case high:
		return dsp.LowpassGain(poles, res, 1/w)
	case band:
		d := 2 * (1 - res) * w
		return math.Pow(d/math.Hypot(1-w*w, d), float64(poles)/2)
	}
	return dsp.LowpassGain(poles, res, w)
}

// gains are those of a filter at the places of a spectrum, in decibels: at harmonics, or in the mean of the power over bands.
func (p *points) gains(k kind, poles int, fc, res float64) []float64 {
	out := make([]float64, len(p.f))
	for i, f := range p.f {
		if p.warp == smoothing && poles == 1 {
			out[i] = 20 * math.Log10(smoothed1(f, fc))
			continue
		}
		if p.h != nil || res < 0.6 {
			out[i] = 20 * math.Log10(max(k.gain(poles, res, p.beside(f, fc)), 1e-9))
			continue
		}
		const parts = 7 // of a sixth of an octave
		sum := 0.0
		for n := range parts {
			g := k.gain(poles, res, p.beside(f*math.Exp2((float64(n)+0.5)/parts/6-1.0/12), fc))
			sum += g * g / parts
		}
		out[i] = 10 * math.Log10(max(sum, 1e-18))
	}
	return out
}

// fits gives for each of some waves and each number of poles the filter of a kind that comes nearest to a spectrum.
func fits(k kind, p points, list []waveform) (out []fit) {
	list = slices.Clone(list)
	plain := make([][]float64, len(list))
	lay := func(i int, w waveform) {
		list[i], plain[i] = w, make([]float64, len(p.f))
		for n := range p.f {
			if p.h != nil {
				plain[i][n] = w.level(p.h[n])
			}
		}
	}
	for i, w := range list {
		lay(i, w)
	}
	model := make([]float64, len(p.f))
	by := func(i int, gain []float64) float64 {
		for n := range model {
			model[n] = plain[i][n] + gain[n]
		}
		var class []int
		if list[i].apart {
			class = p.h
		}
		return off(p.level, model, class)
	}
	if len(p.f) == 0 {
		return nil
	}
	best := make([][5]fit, len(list))
	for i := range best {
		for poles := range best[i] {
			best[i][poles] = fit{wave: list[i].name, poles: poles, residual: math.Inf(1), warp: p.warp, of: i}
		}
	}
	for poles := 1; poles <= 4; poles++ {
		if k == band && poles%2 == 1 || p.warp == smoothing && poles > 1 {
			continue
		}
		steps := resonances
		if poles == 1 {
			steps = steps[:1]
		}
		for fc := p.f[0] / 8; fc < 2.2*p.f[len(p.f)-1]; fc *= math.Exp2(1.0 / 4) {
			for _, res := range steps {
				g := p.gains(k, poles, fc, res)
				for i := range list {
					if r := by(i, g); r < best[i][poles].residual {
						best[i][poles].fc, best[i][poles].res, best[i][poles].residual = fc, res, r
					}
				}
			}
		}
	}
	// the likely ones more exactly
	least := math.Inf(1)
	for i := range best {
		for poles := 1; poles <= 4; poles++ {
			least = min(least, best[i][poles].residual)
		}
	}
	for i := range best {
		for poles := 1; poles <= 4; poles++ {
			x := best[i][poles]
			if x.residual > 2*least+2 || math.IsInf(x.residual, 1) {
				continue
			}
			wide := 0.01 // of a duty
			for df, dr := 1.0/8, 0.06; df > 0.002; df, dr, wide = df*0.6, dr*0.6, wide*0.6 {
				for moved := true; moved; {
					moved = false
					if list[i].duty > 0 {
						was := list[i]
						for _, d := range []float64{was.duty - wide, was.duty + wide} {
							lay(i, pulseWave(min(max(d, 0.03), 0.49)))
							if r := by(i, p.gains(k, poles, x.fc, x.res)); r < x.residual-1e-6 {
								x.residual, moved, was = r, true, list[i]
							}
						}
						lay(i, was)
					}
					for _, d := range [][2]float64{{df, 0}, {-df, 0}, {0, dr}, {0, -dr}} {
						fc, res := x.fc*math.Exp2(d[0]), min(max(x.res+d[1], 0), 0.98)
						if poles == 1 && d[1] != 0 {
							continue
						}
						if r := by(i, p.gains(k, poles, fc, res)); r < x.residual-1e-6 {
							x.fc, x.res, x.residual = fc, res, r
							moved = true
						}
					}
				}
			}
			out = append(out, x)
		}
	}
	slices.SortStableFunc(out, func(a, b fit) int { return cmp.Compare(a.residual, b.residual) })
	return out
}

// Cutoff gives the cutoff and the height of the peak of a low-pass, by fitting the gains of filters of one to
// four poles to the spectrum of a noise or a wave that went through it. source is "noise", "saw", "square", "triangle" or "pulse", or empty to find out which:
// where several would do and give cutoffs that are far apart it says so.
func (e *Ear) Cutoff(source string) []Measured {
	return e.besidesEchoes("cutoff", e.cutoff(source))
}

func (e *Ear) cutoff(source string) []Measured {
	none := func(why string) []Measured {
		return []Measured{cannot("cutoff", "cutoff", "Hz", why), cannot("cutoff", "resonant peak", "dB", why), cannot("cutoff", "slope", "dB/oct", why)}
	}
	whole := stretch{e.from, e.to}
	if m, ok := e.brightness(); ok && m.share >= 0.55 && m.depth > movingCutoff && !e.beats(m.rate) {
		return none("the brightness moves: it has no one cutoff")
	}
	if from, to, seconds, ok := e.swept(); ok {
		out := none("the brightness is swept: it has no one cutoff")
		return append(out, e.sweep(source, from, to, seconds)...)
	}
	best, u, why := e.filter(low, source, whole)
	if why != "" {
		out := none(why)
		if strings.HasPrefix(why, whyOther) {
			out = append(out, e.others(source, whole)...)
		}
		return out
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
	return []Measured{known("cutoff", "cutoff", best.fc, "Hz", u*best.fc), known("cutoff", "resonant peak", peak, "dB", 0.3+best.residual),
		known("cutoff", "slope", float64(6*best.poles), "dB/oct", 3)}
}

// whyOther begins what is said where no low-pass has made a spectrum.
const whyOther = "no low-pass makes this spectrum of "

// others looks for a high-pass or a band-pass, of two poles and four.
func (e *Ear) others(source string, s stretch) []Measured {
	var found []Measured
	best := math.Inf(1)
	for _, x := range []struct {
		k     kind
		label string
	}{{high, "high-pass"}, {band, "band-pass"}} {
		f, u, why := e.filter(x.k, source, s)
		if why == "" && f.residual < best {
			best, found = f.residual, []Measured{known("cutoff", x.label, f.fc, "Hz", u*f.fc)}
		}
	}
	return found
}

// movingCutoff is how far the brightness has to move either way for there to be no one cutoff, in octaves; sweptOctaves from the first part of a sound to its last.
const (
	movingCutoff = 0.12
	sweptOctaves = 0.3
)

// filter finds the filter of a kind that made a stretch, and how unsure its cutoff is as a share; why where it cannot be told.
func (e *Ear) filter(k kind, source string, s stretch) (best fit, u float64, why string) {
	all, list, limit, tone, why := e.heardOf(source, s)
	if why != "" {
		return fit{}, 0, why
	}
	if k == low && source == "" && s == (stretch{e.from, e.to}) { // what the wave is told from, too
		x := e.whole()
		return e.told(k, x.found, x.used, limit, tone)
	}
	found, used := e.filters(k, all, list)
	return e.told(k, found, used, limit, tone)
}

// lows are the low-passes that may have made the whole of a sound, and the places of the spectrum by which they were found.
type lows struct {
	found []fit
	used  points
}

func (e *Ear) findLows() lows {
	all, list, _, _, why := e.heardOf("", stretch{e.from, e.to})
	if why != "" {
		return lows{}
	}
	found, used := e.filters(low, all, list)
	return lows{found, used}
}

// filters gives the filters of a kind that may have made a spectrum of some waves, the likeliest first.
func (e *Ear) filters(k kind, all points, list []waveform) (found []fit, used points) {
	// above a fifth of the rate digital filters leave their models; what is higher is asked only where it has to be
	for _, highest := range []float64{0.2 * e.Rate, 0.42 * e.Rate} {
		used = all.deep(highest)
		if len(used.f) < 5 {
			continue
		}
		if found = fits(k, used, list); len(found) == 0 || found[0].fc < 0.08*e.Rate {
			return found, used
		}
	}
	if k != low || len(found) == 0 || used.h == nil { // the bands of a noise are too much a matter of chance
		return found, used
	}
	var likely []waveform // the others fit no better through another making of the filter
	for i, w := range list {
		if slices.ContainsFunc(found, func(x fit) bool { return x.of == i && x.residual < 2*found[0].residual+1 }) {
			likely = append(likely, w)
		}
	}
	for _, rate := range transformed { // so high the transform is heard: it may be one of those
		if p := used; 2*p.f[len(p.f)-1] < math.Abs(rate) {
			p.warp = rate
			found = append(found, fits(k, p, likely)...)
		}
	}
	slices.SortStableFunc(found, func(a, b fit) int { return cmp.Compare(a.residual, b.residual) })
	return found, used
}

// transformed are the rates at which filters by the bilinear transform are asked for: those of sound cards.
var transformed = []float64{44100, 48000, smoothing}

// smoothing in place of a rate is one pole by exponential smoothing at 48 kHz, y += b (x - y).
const smoothing = -48000

// smoothed1 is its gain.
func smoothed1(f, fc float64) float64 {
	a := math.Exp(2 * math.Pi * fc / smoothing)
	return (1 - a) / math.Sqrt(1-2*a*math.Cos(2*math.Pi*f/smoothing)+a*a)
}

// told says of the filters that may have made a spectrum which it was, and how unsure its cutoff is.
func (e *Ear) told(k kind, found []fit, used points, limit float64, tone bool) (best fit, u float64, why string) {
	if len(found) == 0 {
		return fit{}, 0, tooFew
	}
	best = found[0]
	what := "a wave"
	if !tone {
		what = "noise"
	}
	if best.residual > limit {
		return fit{}, 0, whyOther + what
	}
	likely := []fit{best}
	for _, x := range found[1:] {
		if x.residual < best.residual*alikeShare+alikeDB {
			likely = append(likely, x)
		}
	}
	if k == low && tone && used.exponential() < best.residual*alikeShare+2*alikeDB {
		return fit{}, 0, "it may be a driven sine without a filter"
	}
	first, last := used.f[0], used.f[len(used.f)-1]
	for _, x := range likely {
		if k == high && x.fc < 1.3*first {
			return fit{}, 0, "it lies below what the sound reaches"
		}
		if k != low {
			continue
		}
		if tone && x.fc < 0.9*first {
			return fit{}, 0, "it would lie below the lowest partial: another wave without a filter sounds the same"
		}
		if edge := 20 * math.Log10(dsp.LowpassGain(x.poles, x.res, (&points{warp: x.warp}).beside(last, x.fc))); x.fc > 0.7*last && edge > -6 {
			return fit{}, 0, "it lies above what the sound reaches"
		}
	}
	// where another slope or wave fits nearly as well, the cutoff is as unsure as the two are apart
	u = 0.01 + 0.08*best.residual
	if len(used.f) < 9 {
		u += 0.05
	}
	for _, x := range likely[1:] {
		r := math.Abs(math.Log(x.fc / best.fc))
		if r > math.Log(unsure) && x.wave == best.wave {
			return fit{}, 0, "it depends on how the filter is made: one by the bilinear transform would have another cutoff"
		}
		if r > math.Log(unsure) {
			return fit{}, 0, "it depends on which wave goes in: " + best.wave + " and " + x.wave + " would give different cutoffs"
		}
		u = max(u, 0.6*r)
	}
	return best, u, ""
}

// heardOf gives the spectrum of a stretch with the waves that may have made it: harmonics of a tone, of which the odd ones where there are no others, or the bands of a noise. limit
// is how far off a model may be.
func (e *Ear) heardOf(source string, s stretch) (all points, list []waveform, limit float64, tone bool, why string) {
	p := e.pitch()
	tone = source != "noise" && p.ok && p.clarity > 0.85 && e.inHarmonics(p.f, s)
	if source != "" && source != "noise" && !tone {
		return all, nil, 0, false, "no tone is found"
	}
	if p.several {
		return all, nil, 0, false, "several tones sound at once: play one note"
	}
	limit = clean
	if tone {
		all = e.harmonicLevels(p.f, s).deep(math.Inf(1))
		odd := all.oddOnly()
		if odd {
			all = all.odd()
		}
		list = waves(odd)
		if source != "" {
			list = slices.DeleteFunc(list, func(w waveform) bool { return w.name != source })
		}
	} else {
		all, limit = e.noiseLevels(s), noisy
		list = []waveform{{name: "noise", level: func(int) float64 { return 0 }}}
	}
	if len(all.f) < 6 {
		return all, list, limit, tone, tooFew
	}
	return all, list, limit, tone, ""
}

const tooFew = "there are too few harmonics; a lower note or noise tells more"

// exponential gives by how many decibels the harmonics lie off falling by so many from each to the next, as those of a soft shaper do.
func (p *points) exponential() float64 {
	x := make([]float64, len(p.h))
	for i, h := range p.h {
		x[i] = float64(h)
	}
	alpha, beta := stat.LinearRegression(x, p.level, nil, false)
	sum := 0.0
	for i := range x {
		d := p.level[i] - alpha - beta*x[i]
		sum += d * d
	}
	return math.Sqrt(sum / float64(len(x)))
}

// odd keeps the odd harmonics.
func (p points) odd() (out points) {
	for i, h := range p.h {
		if h%2 == 1 {
			out.f, out.level, out.h = append(out.f, p.f[i]), append(out.level, p.level[i]), append(out.h, h)
		}
	}
	return out
}

// swept tells whether the brightness goes one way from the first part of the loud sound to its last, between which stretches and in how many seconds.
func (e *Ear) swept() (first, last stretch, seconds float64, ok bool) {
	s := e.stft()
	if len(s.bins) < 12 {
		return first, last, 0, false
	}
	root := make([]float64, len(s.level))
	for i := range root {
		root[i] = math.Sqrt(s.level[i])
	}
	from, to := 0, len(root)
	top := slices.Max(root)
	for from < to && !(root[from] > 0.05*top) {
		from++
	}
	for to > from && !(root[to-1] > 0.05*top) {
		to--
	}
	n := to - from
	if n < 10 {
		return first, last, 0, false
	}
	course := make([]float64, n)
	for i := range course {
		course[i] = math.Log2(s.centroid[from+i])
	}
	part := max(2, n/8)
	a, b := median(course[:part]), median(course[n-part:])
	if math.IsNaN(a) || math.IsNaN(b) || math.Abs(b-a) < sweptOctaves {
		return first, last, 0, false
	}
	// one way: what goes the other way is little
	against := 0.0
	smooth := slices.Clone(course)
	smoothed(smooth, 2)
	for i := 1; i < n; i++ {
		if d := (smooth[i] - smooth[i-1]) * (b - a); d < 0 {
			against += math.Abs(smooth[i] - smooth[i-1])
		}
	}
	if against > 0.5*math.Abs(b-a) {
		return first, last, 0, false
	}
	at := func(share float64) int {
		for i, y := range smooth {
			if (y-a)/(b-a) >= share {
				return i
			}
		}
		return n - 1
	}
	seconds = float64((at(0.9)-at(0.1))*s.hop) / e.Rate
	size := max(part*s.hop, s.size)
	first = stretch{e.from + from*s.hop, min(e.from+from*s.hop+size, e.to)}
	last = stretch{max(e.from, min(e.from+to*s.hop, e.to)-size), min(e.from+to*s.hop, e.to)}
	return first, last, seconds, true
}

// sweep gives the cutoff at both ends of a sweep and the time between.
func (e *Ear) sweep(source string, first, last stretch, seconds float64) (out []Measured) {
	for _, x := range []struct {
		label string
		at    stretch
	}{{"cutoff at the start", first}, {"cutoff at the end", last}} {
		best, u, why := e.filter(low, source, x.at)
		if why != "" {
			out = append(out, cannot("cutoff", x.label, "Hz", why))
			continue
		}
		out = append(out, known("cutoff", x.label, best.fc, "Hz", (u+0.1)*best.fc)) // it moves within the stretch
	}
	return append(out, known("cutoff", "time of the sweep (10-90 %)", seconds, "s", 0.1*seconds+0.02))
}
