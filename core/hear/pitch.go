package hear

import (
	"math"
	"math/cmplx"

	"glossator/core/dsp"

	"gonum.org/v1/gonum/dsp/fourier"
)

// pitched is what is known of the pitch.
type pitched struct {
	f, u    float64 // hertz and its uncertainty
	clarity float64 // of the periodicity, 0 to 1
	ok      bool
	at      int // where the stretch begins that it was taken from
	n       int
	near    bool // a period was found, if not a clear one
	several bool // it is that of several tones together
}

// Pitch gives the frequency of the tone in hertz.
func (e *Ear) Pitch() Measured {
	p := e.pitch()
	if !p.ok {
		if p.several {
			return cannot("pitch", "pitch", "Hz", "several tones sound at once")
		}
		return cannot("pitch", "pitch", "Hz", "no period repeats clearly enough")
	}
	if h := e.parts(); len(h.amp) > 0 { // the middle of a vibrato, over whole rounds of it
		tone := loudPart(h.cents, h.level)
		if m, ok := periodic(tone, h.hop); ok && m.share > 0.55 && m.depth > leastVibrato && h.together(&m) {
			round := 1 / m.rate / h.hop
			c := mean(tone[:int(math.Floor(float64(len(tone))/round)*round)])
			if math.Abs(c) < 2*m.depth {
				return known("pitch", "pitch", p.f*math.Exp2(c/1200), "Hz", p.u+p.f*(math.Exp2(0.05*m.depth/1200)-1))
			}
		}
	}
	u := p.u
	if b := e.beat(); b.ok { // which of the two is the stronger where it was taken
		u = math.Hypot(u, b.rate/3)
	}
	if h := e.parts(); len(h.amp) > 0 { // where it was taken an echo may have come in
		u = math.Hypot(u, p.f*(math.Exp2(math.Abs(median(loudPart(h.cents, h.level)))/1200)-1))
	}
	return known("pitch", "pitch", p.f, "Hz", u)
}

// loudest finds the stretch of n samples with the most energy, past the first attack.
func (e *Ear) loudest(n int) int {
	n = min(n, len(e.mono))
	best, at, sum := -1.0, 0, 0.0
	for k := range e.mono {
		sum += e.mono[k] * e.mono[k]
		if k >= n {
			sum -= e.mono[k-n] * e.mono[k-n]
		}
		if k >= n-1 && sum > best*1.0001 {
			best, at = sum, k-n+1
		}
	}
	return at
}

// findPitch looks for the lag at which the sound is most like itself (normalised square difference), and
// then places the harmonics more exactly by their own peaks in a longer stretch. Where the loudest stretch has none, as while a tone glides, later ones are asked.
func (e *Ear) findPitch() pitched {
	p := e.pitchIn(0.12, 16, 0)
	if !p.near { // it may be lower: a longer stretch
		if q := e.pitchIn(0.32, 7, 0); q.ok {
			return q
		}
	}
	if !p.ok && !p.several {
		for _, later := range []float64{0.4, 0.7} {
			if q := e.pitchIn(0.12, 16, later); q.ok {
				return q
			}
		}
	}
	return p
}

// pitchIn looks in the loudest stretch of a length in seconds, or later by a share of the sound (0 for the loudest), for periods of a lowest frequency.
func (e *Ear) pitchIn(seconds, lowest, later float64) pitched {
	n := min(int(seconds*e.Rate), e.to-e.from)
	if n < int(0.01*e.Rate) || e.peak < 1e-5 {
		return pitched{}
	}
	at := e.loudest(n)
	if later > 0 {
		was := at
		if at = e.from + int(later*float64(e.to-e.from)); at < was || at+n > e.to || power(e.mono[at:at+n]) < 0.05*power(e.mono[was:was+n]) {
			return pitched{}
		}
	}
	x := e.mono[at : at+n]
	level := make([]float64, n)
	mu := mean(x)
	for k := range x {
		level[k] = x[k] - mu
	}
	lags := n * 3 / 4
	d := likeness(level, lags)
	shortest := max(2, int(e.Rate/8000))
	longest := min(lags-2, int(e.Rate/lowest))
	k := 1
	for k < longest && d[k] > 0 {
		k++
	}
	top := 0.0
	for i := max(k, shortest); i < longest; i++ {
		top = max(top, d[i])
	}
	if top < 0.3 {
		return pitched{clarity: top}
	}
	lag := 0
	for i := max(k, shortest); i < longest; i++ {
		if d[i] > 0.92*top && d[i] >= d[i-1] && d[i] >= d[i+1] {
			lag = i
			break
		}
	}
	if lag == 0 {
		return pitched{clarity: top}
	}
	den := d[lag-1] - 2*d[lag] + d[lag+1]
	fine := float64(lag)
	if den < 0 {
		fine += 0.5 * (d[lag-1] - d[lag+1]) / den
	}
	p := pitched{f: e.Rate / fine, clarity: top, ok: top > 0.75, near: true}
	// a longer stretch, from the same place
	m := min(int(0.5*e.Rate), e.to-at)
	m = max(m, n)
	if at+m > len(e.mono) {
		at = max(0, len(e.mono)-m)
	}
	p.at, p.n = at, min(m, len(e.mono)-at)
	if p.ok {
		p.f, p.u = e.refine(p)
		if e.several(p) {
			p.ok, p.near, p.several = false, false, true
		}
	}
	return p
}

// likeness tells how like a stretch is to itself so many samples later, 1 for the same: twice the autocorrelation over the energy of both ends.
func likeness(x []float64, lags int) []float64 {
	n := len(x)
	r := dsp.Autocorrelation(x, dsp.PowerFrom(2*n))
	total := 2 * r[0]
	d := make([]float64, lags)
	for k := range lags {
		if k > 0 {
			a, b := x[k-1], x[n-k]
			total -= a*a + b*b
		}
		if total > 0 {
			d[k] = 2 * r[k] / total
		}
	}
	return d
}

func power(x []float64) float64 {
	sum := 0.0
	for _, y := range x {
		sum += y * y
	}
	return sum
}

// several tells whether a period is the common one of several tones: there is then nothing at the period itself, and either next to nothing
// at its first four harmonics, or little else than a few, or a quarter and more of those between the lowest and the highest that sound are
// missing. (Of one tone whose lowest harmonics are filtered away the others stand in a row.)
func (e *Ear) several(p pitched) bool {
	const faint = 0.05 // of the strongest: 26 dB below it
	x := dsp.Faded(e.mono[p.at : p.at+p.n])
	power := 0.0
	for _, y := range e.mono[p.at : p.at+p.n] {
		power += y * y / float64(p.n)
	}
	if cmplx.Abs(dsp.Term(x, p.f/e.Rate)) > faint*math.Sqrt(2*power) { // no harmonic is stronger than all together
		return false
	}
	var amp []float64
	most := 0.0
	for h := 1.0; h <= 40 && h*p.f < 0.45*e.Rate; h++ {
		a := cmplx.Abs(dsp.Term(x, h*p.f/e.Rate))
		amp, most = append(amp, a), max(most, a)
	}
	if len(amp) == 0 || amp[0] > faint*most {
		return false
	}
	first, last, sounding, low := 0, 0, 0, 0.0
	for i, a := range amp {
		if i < 4 {
			low = max(low, a)
		}
		if a > faint*most {
			if sounding == 0 {
				first = i
			}
			last = i
			sounding++
		}
	}
	missing := last - first + 1 - sounding
	return low < 0.1*most || sounding <= 3 || 4*missing >= last-first+1
}

// refine places the peaks of up to eight harmonics.
func (e *Ear) refine(p pitched) (f, u float64) {
	x := dsp.Faded(e.mono[p.at : p.at+p.n])
	type peak struct{ f, w float64 }
	var list []peak
	f = p.f
	reach := 1.5 * e.Rate / float64(p.n) // of the window's main lobe
	var amp [9]float64
	most := 0.0
	for h := 1; h <= 8 && float64(h)*p.f < 0.45*e.Rate; h++ {
		amp[h] = cmplx.Abs(dsp.Term(x, float64(h)*p.f/e.Rate))
		most = max(most, amp[h])
	}
	for h := 1.0; h <= 8 && h*p.f < 0.45*e.Rate; h++ {
		if amp[int(h)] < 0.01*most { // there is none to place
			continue
		}
		mid := h * f
		a := cmplx.Abs(dsp.Term(x, mid/e.Rate))
		lo, hi := mid-min(reach, 0.3*p.f), mid+min(reach, 0.3*p.f)
		level := func(f float64) float64 { return cmplx.Abs(dsp.Term(x, f/e.Rate)) }
		top := highest(level, lo, hi)
		if b := cmplx.Abs(dsp.Term(x, top/e.Rate)); b > a {
			a = b
		}
		list = append(list, peak{top / h, a * a * h * h})
		var sum, w float64
		for _, y := range list {
			sum += y.f * y.w
			w += y.w
		}
		f = sum / w
		if h == 4 && p.n > 20000 {
			break
		}
	}
	var s, w float64
	for _, y := range list {
		s += y.w * (y.f - f) * (y.f - f)
		w += y.w
	}
	return f, math.Sqrt(s/w) + 0.0002*f
}

// highest finds where a hump between lo and hi is highest: golden section to a thousandth of the way, then a parabola.
func highest(level func(f float64) float64, lo, hi float64) float64 {
	const g = 0.6180339887498949
	a, b := hi-g*(hi-lo), lo+g*(hi-lo)
	la, lb := level(a), level(b)
	for range 14 {
		if la > lb {
			hi, b, lb = b, a, la
			a = hi - g*(hi-lo)
			la = level(a)
		} else {
			lo, a, la = a, b, lb
			b = lo + g*(hi-lo)
			lb = level(b)
		}
	}
	// wide enough apart for the hump to bend by more than rounding
	mid := (lo + hi) / 2
	d := 8 * (hi - lo)
	l, m, r := level(mid-d), level(mid), level(mid+d)
	if bend := l - 2*m + r; bend < 0 {
		if x := 0.5 * (l - r) / bend; math.Abs(x) < 1 {
			return mid + x*d
		}
	}
	return mid
}

// Harmonicity gives how much of the energy lies at whole multiples of the pitch.
func (e *Ear) Harmonicity() Measured {
	p := e.pitch()
	if !p.near && p.clarity > 0.2 {
		return cannot("harmonic", "harmonic share", "%", "no period repeats clearly enough")
	}
	if !p.near {
		return known("harmonic", "harmonic share", 0, "%", 10)
	}
	n := dsp.PowerUpTo(float64(p.n))
	x := dsp.Faded(e.mono[p.at : p.at+n])
	c := fourier.NewFFT(n).Coefficients(nil, x)
	var all, in float64
	for i := 1; i < len(c); i++ {
		a := real(c[i])*real(c[i]) + imag(c[i])*imag(c[i])
		f := float64(i) * e.Rate / float64(n)
		all += a
		h := math.Round(f / p.f)
		// a twentieth of a semitone of drift is let pass, and the width of the window
		if h >= 1 && math.Abs(f-h*p.f) < 2.5*e.Rate/float64(n)+0.003*h*p.f {
			in += a
		}
	}
	return known("harmonic", "harmonic share", 100*in/all, "%", 2)
}

// partials are the amplitudes of the first harmonics over time, and the deviation of the pitch.
type partials struct {
	f     float64
	hop   float64
	from  float64     // seconds
	amp   [][]float64 // of each harmonic
	each  [][]float64 // deviation of each harmonic in cents
	cents []float64   // that of the tone: the middle of the strong ones
	level []float64
}

const harmonicsHeard = 8

// findPartials shifts each harmonic to 0 Hz and takes the mean over two periods, which leaves none
// of the others.
func (e *Ear) findPartials() partials {
	p := e.pitch()
	if !p.near || p.f <= 0 || p.clarity < 0.5 {
		return partials{}
	}
	out := partials{f: p.f, hop: 0.005, from: float64(e.from) / e.Rate}
	period := e.Rate / p.f
	n := max(2, int(math.Round(2*period)))
	x := e.mono[e.from:e.to]
	if len(x) < 4*n {
		return partials{}
	}
	hop := max(1, int(out.hop*e.Rate))
	out.hop = float64(hop) / e.Rate
	count := (len(x) - 2*n) / hop
	out.from += float64(n) / e.Rate
	channels := [][]float64{x}
	if e.Right != nil { // by the energy of both: two voices, one in each, do not beat
		channels = [][]float64{e.Left[e.from:e.to], e.Right[e.from:e.to]}
	}
	for h := 1; h <= harmonicsHeard && float64(h)*p.f < 0.45*e.Rate; h++ {
		amp, cents, loudest := make([]float64, count), make([]float64, count), -1.0
		for _, x := range channels {
			s := demodulate(x, float64(h)*p.f/e.Rate, n, hop, count)
			sum := 0.0
			for i, c := range s {
				a := 2 * cmplx.Abs(c)
				amp[i] += a * a / float64(len(channels))
				sum += a
			}
			if sum <= loudest {
				continue
			}
			loudest = sum
			for i := range s {
				a, b := max(0, i-1), min(count-1, i+1)
				d := cmplx.Phase(s[b]*cmplx.Conj(s[a])) / (2 * math.Pi) / (float64(max(1, b-a)) * out.hop)
				cents[i] = 0
				if f := 1 + d/(float64(h)*p.f); f > 0 {
					cents[i] = 1200 * math.Log2(f)
				}
			}
		}
		for i := range amp {
			amp[i] = math.Sqrt(amp[i])
		}
		out.amp, out.each = append(out.amp, amp), append(out.each, cents)
	}
	out.cents, out.level = make([]float64, count), make([]float64, count)
	strong := out.strong()
	here := make([]float64, 0, len(strong))
	for i := range out.cents {
		here = here[:0]
		for _, h := range strong {
			here = append(here, out.each[h][i])
		}
		out.cents[i] = median(here)
		for h := range out.amp {
			out.level[i] += out.amp[h][i] * out.amp[h][i] / 2
		}
		out.level[i] = math.Sqrt(out.level[i])
	}
	return out
}

// strong lists the harmonics that are within 26 dB of the strongest, an odd number of them: in their middle none stands alone.
func (p *partials) strong() (out []int) {
	most := 0.0
	level := make([]float64, len(p.amp))
	for h := range p.amp {
		level[h] = mean(p.amp[h])
		most = max(most, level[h])
	}
	for h := range p.amp {
		if level[h] > 0.05*most {
			out = append(out, h)
		}
	}
	if len(out) > 2 && len(out)%2 == 0 {
		out = out[:len(out)-1]
	}
	return out
}

// demodulate shifts a frequency to 0 and takes the mean of the means over n samples, by running sums: out[i] is of the 2n-1 samples
// from i hops on.
func demodulate(x []float64, f float64, n, hop, count int) []complex128 {
	const fresh = 256 // samples after which the turn is set anew, so that no error of rounding gathers
	out := make([]complex128, count)
	if count == 0 {
		return out
	}
	first, second := make([]complex128, n), make([]complex128, n) // the last n samples, turned, and the last n sums of them
	var sum, sums complex128
	step := cmplx.Exp(complex(0, -2*math.Pi*f))
	turn := complex(1, 0)
	g := complex(1/float64(n)/float64(n), 0)
	at, next, due := 0, 0, 2*n-1
	for k, y := range x[:min(len(x), (count-1)*hop+2*n-1)] {
		if k%fresh == 0 {
			sin, cos := math.Sincos(-2 * math.Pi * math.Mod(f*float64(k), 1))
			turn = complex(cos, sin)
		}
		z := complex(y*real(turn), y*imag(turn))
		turn *= step
		sum += z - first[at]
		first[at] = z
		sums += sum - second[at]
		second[at] = sum
		if at++; at == n {
			at = 0
		}
		if k+1 == due {
			out[next] = sums * g
			next++
			due += hop
		}
	}
	return out
}
