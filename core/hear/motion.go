package hear

import (
	"math"
	"math/cmplx"
	"slices"

	"glossator/core/dsp"
	"glossator/core/jnd"

	"gonum.org/v1/gonum/dsp/fourier"
	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat"
)

// motion is what moves periodically in a series.
type motion struct {
	rate, depth float64 // hertz; half of peak to peak
	share       float64 // of the whole movement that it explains
	cycles      float64
}

// loudSpan gives where a level is within 26 dB of its highest, past the first tenth.
func loudSpan(level []float64) (from, to int) {
	top := 0.0
	for _, l := range level {
		top = max(top, l)
	}
	from, to = len(level), 0
	for i, l := range level {
		if l > 0.05*top {
			from, to = min(from, i), i+1
		}
	}
	if to <= from {
		return 0, 0
	}
	from += (to - from) / 12
	to -= (to - from) / 24
	return from, max(from, to)
}

// loudPart cuts a series to the loud span of a level.
func loudPart(x, level []float64) []float64 {
	from, to := loudSpan(level)
	return x[from:to]
}

// periodic looks for one period in a series. It has to come at least twice.
func periodic(x []float64, hop float64) (motion, bool) {
	n := len(x)
	if n < 24 {
		return motion{}, false
	}
	// what drifts goes: a parabola through all
	y := detrended(x)
	all := 0.0
	for _, v := range y {
		all += v * v
	}
	if all < 1e-18*float64(n) {
		return motion{}, false
	}
	size := dsp.PowerFrom(8 * n)
	pad := make([]float64, size)
	for k, w := range dsp.Hann(n) {
		pad[k] = y[k] * w
	}
	c := fourier.NewFFT(size).Coefficients(nil, pad)
	span := float64(n) * hop
	lo := max(1, int(1.8/span*float64(size)*hop))
	hi := min(len(c)-2, int(45*float64(size)*hop))
	best := 0
	for i := lo; i < hi; i++ {
		if best == 0 || cmplx.Abs(c[i]) > cmplx.Abs(c[best]) {
			best = i
		}
	}
	if best == 0 {
		return motion{}, false
	}
	a, b, d := cmplx.Abs(c[best-1]), cmplx.Abs(c[best]), cmplx.Abs(c[best+1])
	f := float64(best)
	if den := a - 2*b + d; den < 0 && best > lo {
		f += 0.5 * (a - d) / den
	}
	m := motion{rate: f / (float64(size) * hop)}
	m.cycles = m.rate * span
	// one period is the mean of all of them
	period := 1 / m.rate / hop
	bins := min(32, max(6, int(period)))
	sum, count := make([]float64, bins), make([]float64, bins)
	for k, v := range y {
		_, p := math.Modf(float64(k) / period)
		i := min(int(p*float64(bins)), bins-1)
		sum[i] += v
		count[i]++
	}
	left := 0.0
	high, low := math.Inf(-1), math.Inf(1)
	for i := range sum {
		if count[i] > 0 {
			sum[i] /= count[i]
			high, low = max(high, sum[i]), min(low, sum[i])
		}
	}
	for k, v := range y {
		_, p := math.Modf(float64(k) / period)
		d := v - sum[min(int(p*float64(bins)), bins-1)]
		left += d * d
	}
	m.share = 1 - left/all
	m.depth = (high - low) / 2
	return m, m.cycles >= 1.9 && (m.cycles > cyclesAlike || alikeHalves(x, period))
}

// leastCycles is how often what moves has to come for its rate to be told: reverberation, echoes and envelopes make two of anything.
const leastCycles = 2.7

// cyclesAlike is up to how many cycles each half of a series has to move as the other does: a note that only comes and goes has two of anything.
const cyclesAlike = 5

// alikeHalves tells whether both halves of a series go round with a period in the same phase and about as far, each about a line of its own.
func alikeHalves(x []float64, period float64) bool {
	var of [2]complex128
	for h := range of {
		from := h * (len(x) / 2)
		part := x[from : from+len(x)/2]
		a, b := mat.NewDense(len(part), 4, nil), mat.NewVecDense(len(part), part)
		for i := range part {
			sin, cos := math.Sincos(2 * math.Pi * float64(from+i) / period)
			a.SetRow(i, []float64{1, 2*float64(i)/float64(len(part)) - 1, cos, sin})
		}
		var c mat.VecDense
		if c.SolveVec(a, b) != nil {
			return false
		}
		of[h] = complex(c.AtVec(2), c.AtVec(3))
	}
	p, q := cmplx.Abs(of[0]), cmplx.Abs(of[1])
	return p < 3*q && q < 3*p && math.Abs(cmplx.Phase(of[0]*cmplx.Conj(of[1]))) < 0.8
}

// Swelling tells when what moves has come to half of how far it moves in the end, in seconds from the start of the sound: of the pitch where that moves, else of the
// level, else of the brightness. What is sudden, and sets in as a whole, is told by when it has come to about a third: 0.196 of a round of a sine from its zero spread 0.35 times as far,
// in a window of a round, as all of it (the variance of such a piece: trigonometry), and the middle of that window stands 0.304 of a round before the beginning. It is not told where it is not even three rounds behind that.
func (e *Ear) Swelling(sudden bool) Measured {
	const label = "time until it moves"
	p, s := e.parts(), e.stft()
	type course struct {
		y, level  []float64
		hop, from float64
	}
	var list []course
	if len(p.cents) > 0 {
		level, most := make([]float64, len(p.level)), slices.Max(p.level)
		for i, l := range p.level {
			level[i] = l / max(most, 1e-9)
		}
		list = append(list, course{p.cents, p.level, p.hop, p.from}, course{level, p.level, p.hop, p.from})
	}
	bright, root := s.brightness()
	list = append(list, course{bright, root, float64(s.hop) / e.Rate, float64(e.from) / e.Rate})
	for k, c := range list {
		from, to := loudSpan(c.level)
		late := c.y[from+(to-from)*3/5 : to]
		m, ok := periodic(late, c.hop)
		if !ok || m.share < 0.55 || m.cycles < leastCycles || m.depth < [...]float64{leastVibrato, 0.03, 0.05}[min(k+3-len(list), 2)] {
			continue
		}
		round := max(2, int(math.Round(1/m.rate/c.hop)))
		sway := make([]float64, 0, to) // how far it moves in the round about a place
		for i := 0; i+round <= to; i++ {
			sway = append(sway, stat.StdDev(c.y[i:i+round], nil))
		}
		enough := median(sway[from+(to-from)*3/5:]) / 2
		if sudden {
			enough *= 0.7
		}
		for i := range sway {
			if i > 0 && sway[i] >= enough {
				at := float64(i) - (sway[i]-enough)/max(sway[i]-sway[i-1], 1e-12) + float64(round)/2
				t := c.from + at*c.hop
				if sudden {
					t += 0.304 / m.rate
				}
				return known("lfo", label, t, "s", 0.12/m.rate+c.hop)
			}
			if sway[i] >= enough {
				break
			}
		}
		return cannot("lfo", label, "s", "it moves from the start on")
	}
	return cannot("lfo", label, "s", "nothing moves in a period that comes three times")
}

// detrended takes the best parabola out of a series.
func detrended(x []float64) []float64 {
	n := float64(len(x))
	var t, t2 []float64
	for k := range x {
		u := 2*float64(k)/n - 1
		t, t2 = append(t, u), append(t2, u*u-1.0/3)
	}
	y := make([]float64, len(x))
	mu := mean(x)
	a, b := stat.Covariance(t, x, nil)/stat.Variance(t, nil), stat.Covariance(t2, x, nil)/stat.Variance(t2, nil)
	for k := range x {
		y[k] = x[k] - mu - a*t[k] - b*t2[k]
	}
	return y
}

// Modulation gives rate and depth of what moves periodically: pitch (cents either way), level (share either
// way), brightness (octaves either way), pulse width (share of the cycle either way).
func (e *Ear) Modulation() []Measured {
	p := e.parts()
	var out []Measured
	refuse := func(what, unit, why string) {
		out = append(out, cannot("lfo", what+" rate", "Hz", why), cannot("lfo", what+" depth", unit, why))
	}
	say := func(what, unit string, m motion, ok bool, least, scale float64) {
		why := "nothing moves in a period that comes three times"
		if ok && m.cycles < leastCycles && m.share >= 0.55 && m.depth >= least {
			ok, why = false, "what moves comes hardly three times: hold the note longer"
		}
		if !ok || m.share < 0.55 || m.depth < least {
			refuse(what, unit, why)
			return
		}
		noise := math.Sqrt(max(0, 1/m.share-1))
		out = append(out, known("lfo", what+" rate", m.rate, "Hz", m.rate*(0.01+0.05*noise/m.cycles)),
			known("lfo", what+" depth", m.depth*scale, unit, m.depth*scale*(0.03+0.3*noise)))
	}
	if len(p.amp) == 0 {
		// no tone: level and brightness by the short spectra
		s := e.stft()
		hop := float64(s.hop) / e.Rate
		br, lv := s.brightness()
		root := lv
		lv = loudPart(lv, root)
		m, ok := periodic(lv, hop)
		if len(lv) > 0 {
			m.depth /= max(mean(lv), 1e-12)
		}
		if ok && e.pitch().several {
			refuse("level", "%", severalBeat)
		} else {
			say("level", "%", m, ok, 0.05, 100)
		}
		b, ok2 := periodic(loudPart(br, root), hop)
		say("brightness", "oct", b, ok2, 0.08, 1)
		return out
	}
	// what the width does first: a pulse whose edge moves is a tone that comes sooner and later
	wide, folded, isPulse := e.widthMotion()
	m, ok := periodic(loudPart(p.cents, p.level), p.hop)
	pitch := m
	why := ""
	switch {
	case !ok || m.share < 0.55 || m.depth < leastVibrato:
	case stops(loudPart(p.level, p.level)):
		why = dying
	case len(p.strong()) < 2 && p.waxes(m.rate):
		why = "the level goes round with the pitch: two voices may beat"
	case !p.together(&m):
		why = "the harmonics do not move alike: it is a filter, a beat or a phase that moves"
	case m.depth < 60 && e.filterTakes(m):
		why = "it moves as the cutoff does, and no farther than that takes it: what passes a filter is delayed"
	case isPulse && near(m.rate, wide.rate, 0.05) && m.depth < 1.3*shifted(wide.depth, wide.rate, p.f):
		why = "it moves as the pulse width does, and no farther than that takes it"
	case isPulse && folded && near(2*m.rate, wide.rate, 0.05):
		why = "it moves as the pulse width does, and no farther than that takes it"
		wide.rate, folded = m.rate, false // which of the two sides it is on is told by the pitch
		wide.depth = shiftOf(m.depth, m.rate, p.f)
	}
	if why != "" {
		refuse("pitch", "ct", why)
		pitch = motion{}
	} else {
		say("pitch", "ct", m, ok, leastVibrato, 1)
		if !ok || m.share < 0.55 || m.depth < leastVibrato {
			pitch = motion{}
		}
	}
	lv := loudPart(p.level, p.level)
	m, ok = periodic(lv, p.hop)
	if len(lv) > 0 {
		m.depth /= max(mean(lv), 1e-12)
	}
	switch {
	case ok && e.beats(m.rate):
		refuse("level", "%", "two voices beat")
	case ok && e.pitch().several:
		refuse("level", "%", severalBeat)
	case ok && m.depth > deepest:
		refuse("level", "%", "it dies away between: it may be notes or echoes that follow one another")
	case ok && m.cycles < cyclesAlike && dips(lv, 1.2*m.depth*mean(lv)) < int(m.cycles-0.5):
		refuse("level", "%", "the level comes and goes, and moves in no period that comes three times")
	default:
		say("level", "%", m, ok, 0.02, 100)
	}
	m, ok = e.brightness()
	// a vibrato takes the harmonics through the window by which they are measured, and of a low tone it holds now more and now fewer periods
	least := 0.05 + pitch.depth/250
	if s := e.stft(); p.f*float64(s.size) < 4*e.Rate {
		least = max(least, jnd.Octaves.Size)
	}
	switch {
	case e.beats(m.rate):
		refuse("brightness", "oct", "two voices beat")
	case ok && stops(lv):
		refuse("brightness", "oct", dying)
	default:
		say("brightness", "oct", m, ok, least, 1)
	}
	switch {
	case isPulse && folded:
		refuse("pulse width", "%", "it passes through the half, on either side of which a pulse sounds alike: the rate is this or half of it")
	default:
		say("pulse width", "%", wide, isPulse, 0.005, 100)
	}
	return out
}

const (
	// deepest is how far either way a level can move that is always there, as a share of its mean, with room for a tail.
	deepest     = 1.05
	dying       = "the sound stops between: what moves then is not told"
	severalBeat = "several tones sound at once, and beat"
	// stopped is how low a level counts as nothing, as a share of its highest, and stoppedFor for what share of the time.
	stopped, stoppedFor = 0.03, 0.12
)

// dips counts how often a level goes down by so much and up again by as much.
func dips(level []float64, by float64) (n int) {
	high, low, down := math.Inf(-1), math.Inf(1), false
	for _, l := range level {
		if down {
			if low = min(low, l); l > low+by {
				n, down, high = n+1, false, l
			}
		} else if high = max(high, l); l < high-by {
			down, low = true, l
		}
	}
	return n
}

// stops tells whether a level is at nothing for a while, as between notes.
func stops(level []float64) bool {
	top, n := 0.0, 0
	for _, l := range level {
		top = max(top, l)
	}
	for _, l := range level {
		if l < stopped*top {
			n++
		}
	}
	return float64(n) > stoppedFor*float64(len(level))
}

// waxes tells whether the level of a tone goes round at a rate, by more than the ear of a measure makes of a vibrato.
func (p *partials) waxes(rate float64) bool {
	lv := loudPart(p.level, p.level)
	m, ok := periodic(lv, p.hop)
	return ok && near(m.rate, rate, 0.05) && m.share > 0.3 && m.depth > 0.05*mean(lv)
}

// filterTakes tells whether a pitch moves as a cutoff does that goes round, and no farther than that takes it.
func (e *Ear) filterTakes(m motion) bool {
	c := e.course()
	if c.why != "" {
		return false
	}
	x, ok := periodic(c.oct, c.hop)
	return ok && x.share > 0.5 && near(m.rate, x.rate, 0.06) && m.depth < 1.6*c.vibrato(x)
}

// leastVibrato is the least depth of a vibrato that is told, in cents: what is less is not heard as one (half a just-noticeable difference of pitch).
const leastVibrato = 2.5

// beats tells whether a rate is that at which two voices beat, in one of their first harmonics.
func (e *Ear) beats(rate float64) bool {
	b := e.beat()
	if !b.ok {
		return false
	}
	n := math.Round(rate / b.rate)
	return n >= 1 && n <= harmonicsHeard && near(rate, n*b.rate, 0.1)
}

func near(a, b, share float64) bool { return math.Abs(a-b) <= share*math.Abs(b) }

// shifted gives how many cents a pulse of a frequency goes up and down by where its width moves by a share of the cycle at a rate, if one edge stands still: it
// comes sooner and later by half of that share (the derivative of a moved time: trigonometry). shiftOf is its inverse.
func shifted(depth, rate, f float64) float64 {
	return 1200 / math.Ln2 * math.Pi * rate * depth / f
}

func shiftOf(cents, rate, f float64) float64 { return cents * math.Ln2 / 1200 / math.Pi / rate * f }

// together tells whether the strong harmonics go up and down by the same cents as the tone does, and takes the depth from them.
func (p *partials) together(m *motion) bool {
	list := p.strong()
	if len(list) < 2 {
		return true // a sine has nothing else to compare
	}
	tone := loudPart(p.cents, p.level)
	tt := 0.0
	mt := mean(tone)
	for _, x := range tone {
		tt += (x - mt) * (x - mt)
	}
	like := 0
	var rest []float64
	for _, h := range list {
		each := loudPart(p.each[h], p.level)
		et := 0.0
		for i, x := range tone {
			et += (x - mt) * each[i]
		}
		slope := et / max(tt, 1e-12)
		if slope > 0.75 && slope < 1.3 {
			like++
		}
		left, all := 0.0, 0.0
		for i, x := range tone {
			d := each[i] - mt - (x - mt)
			left += d * d
			all += (each[i] - mt) * (each[i] - mt)
		}
		rest = append(rest, left/max(all, 1e-12))
	}
	return 3*like >= 2*len(list) && median(rest) < 0.6
}

// brightness gives the centre of each short spectrum in octaves, that of the one before where there is none, and how loud it is.
func (s *spectra) brightness() (octaves, root []float64) {
	last := math.Log2(1000)
	for i, f := range s.centroid {
		if !math.IsNaN(f) && f > 0 {
			last = math.Log2(f)
		}
		octaves, root = append(octaves, last), append(root, math.Sqrt(s.level[i]))
	}
	return octaves, root
}

// brightness gives how the centre of the spectrum moves, in octaves: over all harmonics where that is quick enough, else over the first.
func (e *Ear) brightness() (motion, bool) {
	s, p := e.stft(), e.parts()
	hop := float64(s.hop) / e.Rate
	series, root := s.brightness()
	m, ok := periodic(loudPart(series, root), hop)
	if ok && m.share >= 0.55 && m.rate < 0.2/hop {
		return m, ok
	}
	bright := make([]float64, len(p.level))
	for i := range bright {
		var s, w float64
		for h := range p.amp {
			a := p.amp[h][i]
			s += a * a * float64(h+1)
			w += a * a
		}
		if w > 0 {
			bright[i] = math.Log2(max(s/w, 1))
		}
	}
	return periodic(loudPart(bright, p.level), p.hop)
}

// widthMotion gives how the width of a pulse moves. folded is set where it goes through the half.
func (e *Ear) widthMotion() (m motion, folded, ok bool) {
	p := e.parts()
	if len(p.amp) < 5 {
		return motion{}, false, false
	}
	if _, _, b := pulseWidth(p.amplitudes()); b > 0.3 {
		return motion{}, false, false // it is no pulse at all
	}
	// in every other frame: a width is a search
	amps := make([]float64, len(p.amp))
	var width, level []float64
	bad, most := 0.0, 0.0
	for i := 0; i < len(p.level); i += 2 {
		for h := range p.amp {
			amps[h] = p.amp[h][i]
		}
		d, _, b := pulseWidth(amps)
		width, level = append(width, d), append(level, p.level[i])
		bad += b
	}
	width = loudPart(width, level)
	for _, d := range width {
		most = max(most, d)
	}
	m, ok = periodic(width, 2*p.hop)
	ok = ok && bad/float64(len(level)) < 0.15 && m.share >= 0.55 && m.depth >= 0.005
	return m, most > 0.47, ok
}
