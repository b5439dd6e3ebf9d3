package hear

import (
	"math"
	"math/cmplx"

	"glossator/core/dsp"

	"gonum.org/v1/gonum/dsp/fourier"
	"gonum.org/v1/gonum/stat"
)

// motion is what moves periodically in a series.
type motion struct {
	rate, depth float64 // hertz; half of peak to peak
	share       float64 // of the whole movement that it explains
	cycles      float64
}

// loudPart cuts a series to where a level is within 26 dB of its highest, past the first tenth.
func loudPart(x, level []float64) []float64 {
	top := 0.0
	for _, l := range level {
		top = max(top, l)
	}
	from, to := len(level), 0
	for i, l := range level {
		if l > 0.05*top {
			from, to = min(from, i), i+1
		}
	}
	if to <= from {
		return nil
	}
	from += (to - from) / 12
	to -= (to - from) / 24
	return x[from:max(from, to)]
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
	return m, m.cycles >= 1.9
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
	say := func(what, unit string, m motion, ok bool, least, scale float64) {
		if !ok || m.share < 0.55 || m.depth < least {
			why := "nothing moves in a period that comes twice"
			out = append(out, cannot("lfo", what+" rate", "Hz", why), cannot("lfo", what+" depth", unit, why))
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
		lv := make([]float64, len(s.level))
		br := make([]float64, len(s.level))
		last := math.Log2(1000)
		for i := range lv {
			lv[i] = math.Sqrt(s.level[i])
			if !math.IsNaN(s.centroid[i]) && s.centroid[i] > 0 {
				last = math.Log2(s.centroid[i])
			}
			br[i] = last
		}
		root := lv
		lv = loudPart(lv, root)
		m, ok := periodic(lv, hop)
		if len(lv) > 0 {
			m.depth /= max(mean(lv), 1e-12)
		}
		say("level", "%", m, ok, 0.05, 100)
		b, ok2 := periodic(loudPart(br, root), hop)
		say("brightness", "oct", b, ok2, 0.08, 1)
		return out
	}
	m, ok := periodic(loudPart(p.cents, p.level), p.hop)
	say("pitch", "ct", m, ok, 1, 1)
	lv := loudPart(p.level, p.level)
	m, ok = periodic(lv, p.hop)
	if len(lv) > 0 {
		m.depth /= max(mean(lv), 1e-12)
	}
	say("level", "%", m, ok, 0.02, 100)
	bright := make([]float64, len(p.level))
	width := make([]float64, 0, len(p.level))
	bad := 0.0
	amps := make([]float64, len(p.amp))
	for i := range bright {
		var s, w float64
		for h := range p.amp {
			amps[h] = p.amp[h][i]
			s += amps[h] * amps[h] * float64(h+1)
			w += amps[h] * amps[h]
		}
		if w > 0 {
			bright[i] = math.Log2(max(s/w, 1))
		}
	}
	m, ok = periodic(loudPart(bright, p.level), p.hop)
	say("brightness", "oct", m, ok, 0.03, 1)
	if len(p.amp) < 5 {
		m, ok = motion{}, false
	} else if _, _, b := pulseWidth(p.amplitudes()); b > 0.3 {
		m, ok = motion{}, false // it is no pulse at all
	} else {
		// in every other frame: a width is a search
		for i := 0; i < len(p.level); i += 2 {
			for h := range p.amp {
				amps[h] = p.amp[h][i]
			}
			d, _, b := pulseWidth(amps)
			width = append(width, d)
			bad += b
		}
		lv := make([]float64, len(width))
		for i := range lv {
			lv[i] = p.level[2*i]
		}
		m, ok = periodic(loudPart(width, lv), 2*p.hop)
		ok = ok && bad/float64(len(width)) < 0.15
	}
	say("pulse width", "%", m, ok, 0.005, 100)
	return out
}
