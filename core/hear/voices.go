package hear

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"
	"gonum.org/v1/gonum/dsp/window"
	"gonum.org/v1/gonum/stat"

	"glossator/core/dsp"
)

// Unison gives the voices of a unison, and how far the outer ones lie apart, in cents.
func (e *Ear) Unison() []Measured { return e.unison() }

// findUnison counts the voices of a unison and gives how far the outer ones lie apart, in cents: by the lines into which the higher harmonics of a long enough sound part, at the same
// cents in each.
func (e *Ear) findUnison() []Measured {
	none := func(why string) []Measured {
		return []Measured{cannot("unison", "voices", "", why), cannot("unison", "unison spread", "ct", why)}
	}
	p := e.pitch()
	if !p.near || p.several {
		return none("no tone is found")
	}
	if _, _, moves := e.widthMotion(); moves {
		return none("the pulse width moves: it sounds as two voices do")
	}
	n := dsp.PowerUpTo(min(float64(e.to-e.from), 8*e.Rate))
	if float64(n) < 0.5*e.Rate {
		return none("the sound is too short")
	}
	start := e.from + (e.to-e.from-n)/2
	pad := make([]float64, 2*n)
	for k, w := range dsp.Hann(n) {
		pad[k] = w * e.mono[start+k]
	}
	c := fourier.NewFFT(len(pad)).Coefficients(nil, pad)
	bin := e.Rate / float64(len(pad))
	level := func(i int) float64 {
		return math.Hypot(real(c[i]), imag(c[i]))
	}
	width := 2 * e.Rate / float64(n) // two lines this far apart are two under this window
	type lines struct {
		h     int
		cents []float64
	}
	var seen []lines
	loudest := 0.0
	for h := 1; h <= 60 && (float64(h)+0.5)*p.f < 0.4*e.Rate; h++ {
		mid := float64(h) * p.f
		reach := min(0.4*p.f, mid*(math.Exp2(70.0/1200)-1))
		lo, hi := max(1, int((mid-reach)/bin)), min(len(c)-2, int((mid+reach)/bin))
		top := 0.0
		for i := lo; i <= hi; i++ {
			top = max(top, level(i))
		}
		loudest = max(loudest, top)
		if top < 0.004*loudest { // what is left of a null
			continue
		}
		x := lines{h: h}
		for i := lo; i <= hi; i++ {
			l := level(i)
			if l < 0.22*top || l < level(i-1) || l < level(i+1) {
				continue
			}
			a, b, d := math.Log(level(i-1)+1e-30), math.Log(l+1e-30), math.Log(level(i+1)+1e-30)
			f := (float64(i) + 0.5*(a-d)/(a-2*b+d)) * bin
			if k := len(x.cents); k > 0 && f-mid*math.Exp2(x.cents[k-1]/1200) < 0.7*width {
				continue
			}
			x.cents = append(x.cents, 1200*math.Log2(f/mid))
		}
		seen = append(seen, x)
	}
	if len(seen) < 3 {
		return none("there are too few harmonics to tell voices from one another")
	}
	// the most lines that at least three harmonics agree on, in the same places
	best, spread, u := 0, 0.0, 0.0
	for _, x := range seen {
		if len(x.cents) <= best || len(x.cents) > 16 {
			continue
		}
		// what moves makes lines that lie as many hertz apart at each harmonic; voices lie as many cents apart
		agree, lowest, highest := 0, x.h, x.h
		var widths []float64
		near := 1.5
		if k := len(x.cents); k > 1 {
			near = min(near, max(0.35, 0.12*(x.cents[k-1]-x.cents[0])))
			for i := 1; i < k; i++ {
				near = min(near, max(0.15, 0.3*(x.cents[i]-x.cents[i-1])))
			}
		}
		for _, y := range seen {
			if len(y.cents) != len(x.cents) {
				continue
			}
			apart := 0.0
			for i := range x.cents {
				apart = max(apart, math.Abs(x.cents[i]-y.cents[i]))
			}
			if apart < near {
				agree++
				lowest, highest = min(lowest, y.h), max(highest, y.h)
				widths = append(widths, y.cents[len(y.cents)-1]-y.cents[0])
			}
		}
		if len(x.cents) > 1 {
			var hs, ws []float64 // how wide the lines of each harmonic lie: voices as many cents, what moves as many hertz
			for _, y := range seen {
				if len(y.cents) == len(x.cents) {
					hs, ws = append(hs, math.Log(float64(y.h))), append(ws, math.Log(y.cents[len(y.cents)-1]-y.cents[0]))
				}
			}
			if 2*highest < 3*lowest || len(hs) < 3 {
				continue
			}
			if _, slope := stat.LinearRegression(hs, ws, nil, false); slope < -0.4 {
				continue
			}
		}
		if agree >= 3 {
			best, spread = len(x.cents), median(widths)
			u = 0.15
			for _, w := range widths {
				u = max(u, math.Abs(w-spread)/2)
			}
		}
	}
	most, more := 0, 0
	for _, x := range seen[len(seen)/2:] {
		most = max(most, len(x.cents))
		if len(x.cents) > best {
			more++
		}
	}
	switch {
	case best == 0:
		return none("its harmonics do not part into lines that agree: it moves, or the note is too short or too low")
	case best > 1 && 4*more > len(seen)/2: // lines of a modulation grow more and more
		return none("its higher harmonics part into ever more lines: it moves")
	case best == 1 && most > 1:
		return none("its higher harmonics part, and do not agree: it moves, or a longer note tells")
	case best == 1:
		return []Measured{known("unison", "voices", 1, "", 0), known("unison", "unison spread", 0, "ct", 0.3)}
	}
	// the closest two of them have to be told apart
	return []Measured{known("unison", "voices", float64(best), "", 0), known("unison", "unison spread", spread, "ct", u)}
}

// FM tells the ratio of a sine that modulates the phase of a sine, and the index, by the harmonics against Bessel functions (Chowning, JAES 21(7), 1973).
func (e *Ear) FM() []Measured {
	none := func(why string) []Measured {
		return []Measured{cannot("fm", "FM ratio", "", why), cannot("fm", "FM index", "", why)}
	}
	p := e.pitch()
	whole := stretch{e.from, e.to}
	if !p.ok || p.several || p.clarity < 0.85 || !e.inHarmonics(p.f, whole) {
		return none("no tone is found")
	}
	if m, ok := e.brightness(); ok && m.share >= 0.55 && m.depth > movingCutoff {
		return none("the index moves: play it without what moves it")
	}
	if _, _, _, ok := e.swept(); ok {
		return none("the index is swept: it has no one value")
	}
	all := e.harmonicLevels(p.f, whole)
	if len(all.h) < 3 {
		return none("there are too few sidebands")
	}
	top := slices.Max(all.level)
	got := make([]float64, 25) // amplitudes of the harmonics
	power, counted := 0.0, 0
	for i, h := range all.h {
		if h < len(got) {
			got[h] = math.Pow(10, (all.level[i]-top)/20)
			power += got[h] * got[h]
			if all.level[i] > top-40 {
				counted++
			}
		} else if all.level[i] > top-35 {
			return none("it has more harmonics than the sidebands of a sine by a sine")
		}
	}
	if counted < 3 {
		return none("there are too few sidebands")
	}
	type made struct {
		c, m  int
		index float64
		miss  float64
	}
	var best []made
	const sidebands = 24
	bessel := func(index float64) (j [sidebands + 1]float64) {
		for k := range j {
			j[k] = math.Jn(k, index)
		}
		return j
	}
	var coarse [][sidebands + 1]float64
	const step, first, most = 0.05, 0.1, 12.0
	for index := first; index < most; index += step {
		coarse = append(coarse, bessel(index))
	}
	for c := 1; c <= 9; c++ {
		for m := 1; m <= 9; m++ {
			if common(c, m) != 1 {
				continue
			}
			one := made{c: c, m: m, miss: math.Inf(1)}
			meet := 0.0 // the cosine of the phase at which sidebands that come back from below 0 Hz meet others: any
			at := func(j *[sidebands + 1]float64, k int) float64 {
				switch {
				case k%m != 0 || max(k, -k)/m > sidebands:
					return 0
				case k < 0 && k/m%2 != 0:
					return -j[-k/m]
				}
				return j[max(k, -k)/m]
			}
			try := func(index, cos float64, j *[sidebands + 1]float64) {
				var ab, bb float64
				for h := 1; h < len(got); h++ {
					x, y := at(j, h-c), at(j, -h-c)
					p := max(0, x*x+y*y-2*x*y*cos)
					ab += got[h] * math.Sqrt(p)
					bb += p
				}
				if miss := 1 - ab*ab/(power*max(bb, 1e-12)); miss < one.miss {
					one.index, one.miss, meet = index, miss, cos
				}
			}
			phases := []float64{1}
			if m <= 2 { // else none meet
				phases = phases[:0]
				for n := range 25 {
					phases = append(phases, float64(n-12)/12)
				}
			}
			for i := range coarse {
				for _, cos := range phases {
					try(first+float64(i)*step, cos, &coarse[i])
				}
			}
			for d, turn := step/2, 1.0/24; d > 0.0003; d, turn = d/2, turn/2 {
				was, cos := one.index, meet
				for _, index := range []float64{was + d, was, was - d} {
					j := bessel(index)
					for _, x := range []float64{cos - turn, cos, cos + turn} {
						if x = min(1, max(-1, x)); m <= 2 || x == cos {
							try(index, x, &j)
						}
					}
				}
			}
			best = append(best, one)
		}
	}
	slices.SortStableFunc(best, func(a, b made) int { return cmp.Compare(a.miss, b.miss) })
	b := best[0]
	if b.miss > mostMiss {
		return none("its harmonics are not those of a sine by a sine")
	}
	if w, why := e.waves(); why == "" && (w[0].residual < 0.5 || counted < 5 || b.miss > 2e-5) {
		return none("a " + w[0].wave + " through a filter makes such harmonics too")
	}
	for _, x := range best[1:] {
		if x.miss < 4*b.miss+2e-4 && (math.Abs(x.index/b.index-1) > 0.05 || x.c*b.m != x.m*b.c) {
			return none("several ratios give the same harmonics")
		}
	}
	ratio := float64(b.m) / float64(b.c)
	return []Measured{known("fm", "FM ratio", ratio, "", 0.001*ratio), known("fm", "FM index", b.index, "", 0.02*b.index+0.5*math.Sqrt(max(0, b.miss)))}
}

// mostMiss is how much of the energy of harmonics may not be that of a sine by a sine.
const mostMiss = 3e-4

func common(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// NoiseLevel gives how loud a noise is beside a tone, in decibels over it: by what lies half way between the harmonics.
func (e *Ear) NoiseLevel() Measured {
	const label = "noise beside the tone"
	p := e.pitch()
	if !p.ok || p.several {
		return cannot("noise", label, "dB", "no tone is found")
	}
	n := dsp.PowerUpTo(min(float64(e.to-e.from)/3, e.Rate))
	if float64(n) < 16*e.Rate/p.f {
		return cannot("noise", label, "dB", "the sound is too short for a note as low as this")
	}
	from, to := e.from+(e.to-e.from)/12, e.to-(e.to-e.from)/6
	fft := fourier.NewFFT(n)
	power := make([]float64, n/2+1)
	faded := make([]float64, n)
	for at := from; at+n <= len(e.mono); at += n / 2 {
		copy(faded, e.mono[at:at+n])
		for i, c := range fft.Coefficients(nil, window.BlackmanHarris(faded)) { // its side lobes lie 92 dB down
			power[i] += real(c)*real(c) + imag(c)*imag(c)
		}
		if at+n/2+n > to {
			break
		}
	}
	bin := e.Rate / float64(n)
	var tone, noise float64
	for h := 1.0; (h+0.5)*p.f < 0.45*e.Rate; h++ {
		var in, between float64
		lo, hi := int((h-0.5)*p.f/bin), int((h+0.5)*p.f/bin)
		for i := lo; i < hi && i < len(power); i++ {
			in += power[i]
		}
		count := 0
		for i := int((h + 0.38) * p.f / bin); i <= int((h+0.62)*p.f/bin) && i < len(power); i++ {
			between += power[i]
			count++
		}
		between *= float64(hi-lo) / float64(max(1, count))
		noise += min(between, in)
		tone += max(0, in-between)
	}
	if tone == 0 {
		return cannot("noise", label, "dB", "no tone is found")
	}
	db := 10 * math.Log10(max(noise, 1e-30)/tone)
	if db < leastNoise {
		return cannot("noise", label, "dB", "none is found above what the measuring itself makes")
	}
	if e.wavers() {
		return cannot("noise", label, "dB", "the pitch wavers: the tone itself may be a noise")
	}
	if b := e.beat(); b.ok {
		return cannot("noise", label, "dB", "two voices fill the place between the harmonics")
	}
	if v := e.unison(); v[0].Known && v[0].Value > 1 {
		return cannot("noise", label, "dB", "several voices fill the place between the harmonics")
	}
	if slices.ContainsFunc(e.Modulation(), func(m Measured) bool { return m.Known }) {
		return cannot("noise", label, "dB", "what moves the tone fills the place between its harmonics")
	}
	if !e.hisses(p.f) {
		return cannot("noise", label, "dB", "what lies between the harmonics comes again and is no noise")
	}
	return known("noise", label, db, "dB", 0.5)
}

// wavers tells whether a pitch goes to and fro by more than a tone beside a noise does, as that of a narrow noise.
func (e *Ear) wavers() bool {
	h := e.parts()
	return len(h.cents) > 0 && stat.StdDev(loudPart(h.cents, h.level), nil) > mostWavering
}

// mostWavering is that, in cents, as a standard deviation.
const mostWavering = 12

// leastNoise is the least noise beside a tone that is told, in decibels.
const leastNoise = -60.0

// hisses tells whether what lies between the harmonics goes up and down by chance, as the power of a noise in a band does: with as much spread as mean (an exponential
// distribution), and in one band without regard to the next.
func (e *Ear) hisses(f float64) bool {
	n := dsp.PowerFrom(int(12 * e.Rate / f))
	frames := dsp.NewFrames(n)
	bin := e.Rate / float64(n)
	var list [][]float64
	for at := e.from + (e.to-e.from)/12; at+n <= e.to-(e.to-e.from)/6 && len(list) < 80; at += n {
		list = append(list, frames.Power(e.mono, at))
	}
	if len(list) < 6 {
		return false
	}
	var spread, alike, was []float64
	for h := 1.0; h <= 40 && (h+0.6)*f < 0.45*e.Rate; h++ {
		i := int(math.Round((h + 0.5) * f / bin))
		x := make([]float64, len(list))
		for k := range list {
			x[k] = list[k][i]
		}
		spread = append(spread, stat.StdDev(x, nil)/max(mean(x), 1e-30))
		if was != nil {
			alike = append(alike, stat.Correlation(x, was, nil))
		}
		was = x
	}
	return median(spread) > 0.6 && median(spread) < 1.5 && median(alike) < 0.35
}

// Glide gives how long a pitch takes from one note to the next: to 90 % of the way, which is what the panels' glide times mean.
func (e *Ear) Glide() Measured {
	const label = "glide time"
	cents, hop := e.pitchCourse()
	if h := e.parts(); len(h.cents) > 0 {
		if m, ok := periodic(loudPart(h.cents, h.level), h.hop); ok && m.share > 0.8 && m.cycles > 3 {
			return cannot("glide", label, "s", "the pitch goes round")
		}
	}
	if len(cents) < 12 {
		return cannot("glide", label, "s", "the sound is too short, or has no tone")
	}
	for i := 1; i < len(cents); i++ { // short gaps are bridged: a quick glide has no pitch of its own
		if !math.IsNaN(cents[i]) {
			continue
		}
		for k := i; k < min(len(cents), i+7); k++ {
			if !math.IsNaN(cents[k]) {
				for n := i; n < k; n++ {
					cents[n] = cents[i-1] + (cents[k]-cents[i-1])*float64(n-i+1)/float64(k-i+1)
				}
				break
			}
		}
	}
	// the longest way in one direction
	var from, to int
	best := 0.0
	for i := 0; i < len(cents); {
		j := i
		for j+1 < len(cents) && !math.IsNaN(cents[j+1]) && !math.IsNaN(cents[i]) && (cents[j+1]-cents[j])*sign(cents[min(i+1, len(cents)-1)]-cents[i]) > 0.5 {
			j++
		}
		if d := math.Abs(cents[j] - cents[i]); j-i >= 3 && d > best {
			best, from, to = d, i, j
		}
		i = max(j, i+1)
	}
	if best < 80 {
		return cannot("glide", label, "s", "no pitch moves from one note to another")
	}
	// what it goes to: where it stands after it
	rest := cents[to:min(len(cents), to+max(6, (to-from)/3))]
	if len(rest) < 6 || from < 6 {
		return cannot("glide", label, "s", "it does not go from one note that is held to another")
	}
	for _, c := range rest {
		if math.IsNaN(c) || math.Abs(c-cents[to]) > 0.03*best+3 {
			return cannot("glide", label, "s", "it does not come to rest on a note")
		}
	}
	start := from - 6
	for _, c := range cents[start:from] {
		if math.IsNaN(c) || math.Abs(c-cents[from]) > 0.03*best+3 {
			return cannot("glide", label, "s", "it does not begin on a note")
		}
	}
	end := median(rest)
	goal := cents[from] + 0.9*(end-cents[from])
	for i := from + 1; i <= to; i++ {
		if (cents[i]-goal)*(end-cents[from]) >= 0 {
			x := float64(i-1-from) + (goal-cents[i-1])/(cents[i]-cents[i-1])
			t := x * hop
			return known("glide", label, t, "s", 0.05*t+hop)
		}
	}
	return cannot("glide", label, "s", "it does not come to rest on a note")
}

func sign(x float64) float64 {
	if x < 0 {
		return -1
	}
	return 1
}

// pitchCourse follows the pitch in cents over the first found, NaN where there is none: by the lag at which short stretches are most like themselves.
func (e *Ear) pitchCourse() (cents []float64, hop float64) {
	p := e.pitch()
	if !p.near || p.f <= 0 {
		return nil, 0
	}
	slow := e.Wave
	if slow.Rate > 12000 { // the lag is found between samples
		slow = Wave{Rate: e.Rate, Left: e.mono}.At(12000)
	}
	x := slow.Left
	rate := slow.Rate
	hop = 0.01
	n := int(max(0.04, min(4/p.f, 0.12)) * rate)
	last := 0.0
	for at := int(float64(e.from) / e.Rate * rate); at+n < min(len(x), int(float64(e.to)/e.Rate*rate)) && len(cents) < 3000; at += int(hop * rate) {
		f := lagOf(x[at:at+n], rate, last)
		if f == 0 {
			cents = append(cents, math.NaN())
			continue
		}
		last = f
		cents = append(cents, 1200*math.Log2(f/p.f))
	}
	return cents, hop
}

// lagOf gives the frequency of a stretch, near about where that is not 0; 0 for none.
func lagOf(x []float64, rate, about float64) float64 {
	lags := len(x) * 2 / 3
	d := likeness(x, lags)
	k := 1
	for k < lags-1 && d[k] > 0 {
		k++
	}
	top := 0.0
	for i := k; i < lags-1; i++ {
		top = max(top, d[i])
	}
	if top < 0.5 {
		return 0
	}
	lag, near := 0, math.Inf(1)
	for i := max(k, 2); i < lags-1; i++ {
		if d[i] > 0.9*top && d[i] >= d[i-1] && d[i] >= d[i+1] {
			if about == 0 {
				lag = i
				break
			}
			if a := math.Abs(math.Log(rate / float64(i) / about)); a < near {
				lag, near = i, a
			}
		}
	}
	if lag == 0 {
		return 0
	}
	fine := float64(lag)
	if den := d[lag-1] - 2*d[lag] + d[lag+1]; den < 0 {
		fine += 0.5 * (d[lag-1] - d[lag+1]) / den
	}
	return rate / fine
}
