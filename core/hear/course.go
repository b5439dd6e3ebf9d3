package hear

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"
)

// course is how a cutoff goes over time.
type course struct {
	hop  float64   // seconds
	from float64   // the middle of the first frame, seconds from the start of the sound
	oct  []float64 // log2 of the cutoff in hertz
	u    float64   // octaves, of all of it together
	why  string    // where it is not known
	// resolved is the time that a frame takes, in seconds
	resolved float64
	onset    float64 // seconds
	delay    float64 // of what passes the filter, in periods of the cutoff: the first term of its phase
}

const (
	// courseFits is how far the frames may lie off a low-pass of one slope and resonance, in decibels.
	courseFits = 2.0
	// mostWandering is how far a pitch may move for its harmonics to be found where they are, in cents.
	mostWandering = 80
	// highestTold is the highest cutoff in which something settles that is told, in hertz: above, nothing is left to be filtered.
	highestTold = 11000.0
	// leastCourse is the least movement of a cutoff that is told, in octaves either way.
	leastCourse = 0.06
)

// findCourse follows the cutoff of a low-pass by all harmonics of a tone, frame by frame: wave, slope and resonance are those that fit a dozen frames best, and stay.
func (e *Ear) findCourse() (c course) {
	p := e.pitch()
	if p.several || !p.ok || p.clarity <= 0.7 {
		return course{why: "no tone is found"}
	}
	if h := e.parts(); len(h.cents) > 0 {
		tone := slices.Clone(loudPart(h.cents, h.level))
		slices.Sort(tone)
		if n := len(tone); n > 20 && tone[n-1-n/20]-tone[n/20] > mostWandering {
			return course{why: "the pitch moves: play one note"}
		}
	}
	s := e.stft()
	if len(s.bins) < 8 {
		return course{why: "the sound is too short"}
	}
	top := slices.Max(s.level)
	from, to := 0, len(s.level)
	for from < to && s.level[from] < 3e-3*top {
		from++
	}
	for to > from && s.level[to-1] < 3e-3*top {
		to--
	}
	if to-from < 8 {
		return course{why: "the sound is too short"}
	}
	frames := make([]points, 0, to-from)
	bin := e.Rate / float64(s.size)
	for i := from; i < to; i++ {
		var x points
		for h := 1; h <= 200 && (float64(h)+0.5)*p.f < 0.3*e.Rate; h++ {
			if h > 24 && h%(h/12) > 1 {
				continue
			}
			sum := 0.0
			for k := int((float64(h) - 0.45) * p.f / bin); k <= int((float64(h)+0.45)*p.f/bin) && k < len(s.bins[i]); k++ {
				sum += s.bins[i][k]
			}
			x.f, x.level, x.h = append(x.f, float64(h)*p.f), append(x.level, 10*math.Log10(max(sum, 1e-18))), append(x.h, h)
		}
		frames = append(frames, x.shallow(50))
	}
	if len(frames[len(frames)/2].f) < 4 {
		return course{why: tooFew}
	}
	// what fits some of the frames
	var some []points
	for i := range 12 {
		some = append(some, frames[(2*i+1)*len(frames)/24])
	}
	odd := true
	for i := range some {
		odd = odd && some[i].oddOnly()
	}
	list := waves(odd)
	if !odd {
		list = list[:1] // a saw; the widths of a pulse are another matter
	}
	best, bestOff := fit{}, math.Inf(1)
	var wave waveform
	type made struct {
		w    waveform
		fit  fit
		off  float64
		last float64 // log2 of the cutoff that it gives the last of them
	}
	var tried []made
	for _, w := range list {
		for poles := 1; poles <= 4; poles++ {
			for _, res := range []float64{0, 0.3, 0.55, 0.75, 0.88} {
				if poles == 1 && res > 0 {
					continue
				}
				sum, n, last := 0.0, 0.0, 0.0
				for i := range some {
					if fc, r := nearestCutoff(&some[i], w, poles, res, 0); !math.IsInf(r, 1) {
						sum, n, last = sum+r, n+1, math.Log2(fc)
					}
				}
				if n < 6 {
					continue
				}
				tried = append(tried, made{w, fit{poles: poles, res: res}, sum / n, last})
				if sum/n < bestOff {
					best, bestOff, wave = fit{poles: poles, res: res}, sum/n, w
				}
			}
		}
	}
	if bestOff > courseFits {
		return course{why: "no low-pass of a saw, a square or a triangle makes these spectra"}
	}
	c = course{hop: float64(s.hop) / e.Rate, from: (float64(e.from+from*s.hop) + float64(s.size)/2) / e.Rate, u: 0.02 + 0.05*bestOff, resolved: float64(s.size) / e.Rate, onset: float64(e.from) / e.Rate, delay: phaseSlope(best.poles, best.res)}
	// where another slope fits nearly as well, all of it is as unsure as the two are apart
	at := slices.IndexFunc(tried, func(x made) bool { return x.off == bestOff })
	for _, x := range tried {
		if x.off < bestOff*alikeShare+alikeDB {
			c.u = max(c.u, 0.6*math.Abs(x.last-tried[at].last))
		}
	}
	was := 0.0
	for i := range frames {
		fc, r := nearestCutoff(&frames[i], wave, best.poles, best.res, was)
		if math.IsInf(r, 1) || r > 3*courseFits {
			fc = was // what cannot be told stays
		}
		if fc == 0 {
			fc = frames[i].f[0]
		}
		was = fc
		c.oct = append(c.oct, math.Log2(fc))
	}
	return c
}

// phaseSlope gives how long a low-pass delays what lies far below its cutoff, in periods of the cutoff over 2 pi: the first coefficient of its denominator (circuit theory).
func phaseSlope(poles int, res float64) float64 {
	switch poles {
	case 1:
		return 1
	case 2:
		return 2 * (1 - res)
	case 3:
		return 1 + 2*(1-res)
	}
	return 4 / (1 + 4*res)
}

// vibrato gives by how many cents a cutoff that goes round moves the pitch: what passes is delayed by more and by less.
func (c *course) vibrato(m motion) float64 {
	delay := c.delay / (2 * math.Pi * math.Exp2(mean(c.oct)-m.depth/2))
	return 1200 / math.Ln2 * delay * math.Ln2 * m.depth * 2 * math.Pi * m.rate
}

// shallow keeps what is within some decibels of the loudest.
func (p points) shallow(db float64) (out points) {
	if len(p.level) == 0 {
		return p
	}
	top := slices.Max(p.level)
	for i, l := range p.level {
		if l > top-db {
			out.f, out.level, out.h = append(out.f, p.f[i]), append(out.level, l), append(out.h, p.h[i])
		}
	}
	return out
}

// nearestCutoff gives the cutoff at which a low-pass of a wave fits best, and by how many decibels it is off; about (0 for nowhere) is where to begin.
func nearestCutoff(p *points, w waveform, poles int, res, about float64) (fc, miss float64) {
	if len(p.f) < 3 {
		return about, math.Inf(1)
	}
	plain := make([]float64, len(p.f))
	for i, h := range p.h {
		plain[i] = w.level(h)
	}
	model := make([]float64, len(p.f))
	by := func(fc float64) float64 {
		g := p.gains(low, poles, fc, res)
		for i := range model {
			model[i] = plain[i] + g[i]
		}
		return off(p.level, model, nil)
	}
	best, at := math.Inf(1), 0.0
	lo, hi := p.f[0]/4, 2*p.f[len(p.f)-1]
	if about > 0 {
		lo, hi = max(lo, about/3), min(hi, about*3)
	}
	for f := lo; f <= hi; f *= math.Exp2(0.25) {
		if r := by(f); r < best {
			best, at = r, f
		}
	}
	for d := 0.125; d > 0.005; d /= 2 {
		for _, f := range []float64{at * math.Exp2(d), at * math.Exp2(-d)} {
			if r := by(f); r < best {
				best, at = r, f
			}
		}
	}
	return at, best
}

// FilterCourse tells what moves a cutoff: how far either way and how fast where it goes round, and where it goes up and down once, from where to where and how long it
// takes. Times of an envelope are those of what the ear follows: the logarithm of the cutoff.
func (e *Ear) FilterCourse() []Measured {
	c := e.course()
	why := c.why
	none := func(why string, labels ...[2]string) (out []Measured) {
		for _, l := range labels {
			out = append(out, cannot("filter", l[0], l[1], why))
		}
		return out
	}
	round := [][2]string{{"cutoff rate", "Hz"}, {"cutoff depth", "oct"}}
	once := [][2]string{{"filter envelope depth", "oct"}, {"filter attack (10-90 %)", "s"}, {"filter decay to 90 %", "s"}, {"cutoff at the peak", "Hz"}, {"cutoff where it settles", "Hz"}}
	if why != "" {
		return append(none(why, round...), none(why, once...)...)
	}
	m, ok := periodic(c.oct, c.hop)
	if ok && e.beats(m.rate) {
		ok = false
	}
	if _, _, _, once := e.swept(); once && m.cycles < 3 {
		ok = false
	}
	if ok && m.cycles < leastCycles { // as of pitch, level and brightness
		ok = false
	}
	if ok && m.share >= 0.6 && m.depth >= leastCourse {
		if m.rate > 0.3/c.hop {
			return append(none("it moves too fast for a note as low as this", round...), none("it goes round", once...)...)
		}
		// a frame takes the mean of what goes on within it: of a sine sin(x)/x of its depth, the window's half counting
		x := math.Pi * m.rate * c.resolved / 2
		depth := m.depth
		if x > 0.05 {
			depth *= x / math.Sin(x)
		}
		noise := math.Sqrt(max(0, 1/m.share-1))
		return append([]Measured{known("filter", "cutoff rate", m.rate, "Hz", m.rate*(0.01+0.05*noise/m.cycles)), known("filter", "cutoff depth", depth, "oct", depth*(0.05+0.3*noise)+0.03)}, none("it goes round", once...)...)
	}
	out := none("nothing moves it in a period that comes three times", round...)
	return append(out, c.envelope(once)...)
}

// envelope tells a cutoff that rises to a peak and falls from it.
func (c *course) envelope(labels [][2]string) (out []Measured) {
	none := func(why string) (out []Measured) {
		for _, l := range labels {
			out = append(out, cannot("filter", l[0], l[1], why))
		}
		return out
	}
	n := len(c.oct)
	smooth := slices.Clone(c.oct)
	if n > 12 {
		for i := 1; i+1 < n; i++ { // a single frame is no peak
			smooth[i] = median(c.oct[i-1 : i+2])
		}
	}
	peak := 0
	for i := range smooth {
		if smooth[i] > smooth[peak] {
			peak = i
		}
	}
	tail := smooth[max(peak, n-max(2, n/8)):]
	settled := median(tail)
	start := smooth[0]
	fall, rise := smooth[peak]-settled, smooth[peak]-start
	if math.Exp2(settled) > highestTold {
		return none("it lies above what the sound reaches")
	}
	if max(fall, rise) < sweptOctaves {
		return none("the cutoff does not move")
	}
	if fall < sweptOctaves {
		return none("it rises and does not fall: see the sweep")
	}
	// what falls has to have settled: its last quarter does not go on falling
	quarter := smooth[peak+(n-peak)*3/4]
	if quarter-settled > 0.15*fall {
		return none("it still falls where the sound ends: a longer note tells")
	}
	// the way down: an exponential, which also tells where it came from within the frame of the peak
	var ts, ys []float64
	for i := peak + 1; i < n; i++ {
		if d := smooth[i] - settled; d < 0.12*fall {
			break
		} else if d < 0.93*fall {
			ts, ys = append(ts, c.from+float64(i)*c.hop), append(ys, math.Log(d))
		}
	}
	if len(ts) < 4 {
		return none("it falls in less time than what a spectrum takes of this note")
	}
	alpha, beta := stat.LinearRegression(ts, ys, nil, false)
	line := stat.RSquared(ts, ys, nil, alpha, beta)
	if beta >= 0 || line < 0.9 {
		return none("it does not fall by the same share in the same time")
	}
	tau := -1 / beta
	down := func(t float64) float64 { return settled + math.Exp(alpha+beta*t) }
	// the way up: a straight line, from the onset on
	var us, vs []float64
	for i := 0; i < peak; i++ {
		if y := (smooth[i] - start) / max(rise, 1e-9); rise > sweptOctaves && y > 0.15 && y < 0.85 {
			us, vs = append(us, c.from+float64(i)*c.hop), append(vs, smooth[i])
		}
	}
	top := c.onset // where the peak is
	rising := 0.0
	if len(us) >= 3 && us[len(us)-1]-us[0] > c.resolved {
		a, b := stat.LinearRegression(us, vs, nil, false)
		base := a + b*c.onset
		lo, hi := us[len(us)-1], c.from+float64(min(n-1, peak+4))*c.hop
		for t := lo; t < hi; t += 0.001 {
			if top = t; a+b*t >= down(t) {
				break
			}
		}
		rising = 0.8 * (top - c.onset)
		if base > settled+0.7*fall || b <= 0 {
			rising = 0
		}
	} else if peak > 0 && c.from+float64(peak)*c.hop-c.onset > c.resolved {
		top = c.from + float64(peak)*c.hop
	}
	whole := down(top) - settled
	spread := 0.04*whole + 0.1 + 0.5*math.Abs(whole-fall)
	if rising > 0 {
		spread = 0.04*whole + 0.1 + 0.25*math.Abs(whole-fall)
	}
	out = append(out, known("filter", labels[0][0], whole, "oct", spread))
	if rising == 0 {
		out = append(out, cannot("filter", labels[1][0], "s", "it is shorter than what a spectrum takes of this note"))
	} else {
		out = append(out, known("filter", labels[1][0], rising, "s", 0.05*rising+c.hop/2))
	}
	fallTime := tau * math.Ln10
	out = append(out, known("filter", labels[2][0], fallTime, "s", fallTime*(0.04+0.5*(1-line))+c.hop/4))
	hz, end := math.Exp2(down(top)), math.Exp2(settled)
	return append(out, known("filter", labels[3][0], hz, "Hz", hz*math.Ln2*(spread+c.u)), known("filter", labels[4][0], end, "Hz", end*(math.Ln2*c.u+0.02)))
}
