package hear

import (
	"math"

	"glossator/core/dsp"

	"gonum.org/v1/gonum/stat"
)

// Attack gives the time from 10 to 90 % of the highest level, in seconds.
func (e *Ear) Attack() Measured {
	level, hop, window := e.outline()
	top := 0.0
	for _, y := range level {
		top = max(top, y)
	}
	end := 0
	for end < len(level) && level[end] < 0.9*top {
		end++
	}
	start := end
	for start > 0 && level[start] > 0.1*top {
		start--
	}
	cross := func(i int, at float64) float64 { // between i-1 and i
		if i == 0 {
			return 0
		}
		return (float64(i-1) + (at-level[i-1])/(level[i]-level[i-1])) * hop
	}
	t := cross(end, 0.9*top) - cross(start+1, 0.1*top)
	most := end
	for most > start && level[most] > 0.8*top {
		most--
	}
	last := cross(end, 0.9*top) - cross(most+1, 0.8*top)
	// the window rounds an edge by about 0.7 of itself
	own := 0.7 * window
	t2 := t*t - own*own
	u := math.Hypot(0.03*t, 0.25*window)
	if last > 0.4*t { // the level ripples: when it is all but there is chance
		u = math.Hypot(u, last)
	}
	if t2 < 0.1*own*own {
		return known("attack", "attack (10-90 %)", own/3, "s", own/2)
	}
	return known("attack", "attack (10-90 %)", math.Sqrt(t2), "s", u)
}

// held finds the level that is held, and from when to when; ok is false where none is. off may be 0.
func held(level []float64, hop, off float64) (plateau float64, until int, ok bool) {
	top, at := 0.0, 0
	end := 0
	for _, y := range level {
		top = max(top, y)
	}
	for i, y := range level {
		if y > 0.95*top && at == 0 {
			at = i
		}
		if y > 0.01*top {
			end = i
		}
	}
	if off > 0 {
		until = min(int(off/hop), len(level)-1)
		a := at + (until-at)*3/4
		if until-a < 2 {
			return 0, until, false
		}
		plateau = median(level[a:until])
		return plateau, until, plateau > 0.01*top
	}
	// flat for a fifth of the whole, somewhere behind the highest place
	n := max(4, (end-at)/5)
	flatest := math.Inf(1)
	for a := at; a+n < end; a += max(1, n/8) {
		x := make([]float64, 0, n)
		y := make([]float64, 0, n)
		for i := a; i < a+n; i++ {
			x = append(x, float64(i)*hop)
			y = append(y, math.Log(max(level[i], 1e-9)))
		}
		_, slope := stat.LinearRegression(x, y, nil, false)
		if s := math.Abs(slope) * float64(n) * hop; s < flatest && median(level[a:a+n]) > 0.02*top {
			flatest, plateau, until = s, median(level[a:a+n]), a+n
		}
	}
	if flatest > 0.06 {
		return 0, end, false
	}
	for until < len(level)-1 && level[until+1] > 0.89*plateau {
		until++
	}
	return plateau, until, true
}

// falling gives the time to 90 % of the way from a level to another: by the slope of its logarithm where
// that is straight, else by the crossing itself.
func falling(level []float64, hop float64, from int, top, to float64) (t90, u float64, ok bool) {
	var x, y []float64
	cross := math.NaN()
	for i := from; i < len(level); i++ {
		rest := (level[i] - to) / (top - to)
		if rest < 0.1 {
			if i > from {
				was := (level[i-1] - to) / (top - to)
				cross = (float64(i-1-from) + (was-0.1)/(was-rest)) * hop
			}
			break
		}
		if rest < 0.9 {
			x = append(x, float64(i)*hop)
			y = append(y, math.Log(rest))
		}
	}
	if math.IsNaN(cross) {
		return 0, 0, false
	}
	if len(x) < 6 {
		return cross, hop, true
	}
	alpha, beta := stat.LinearRegression(x, y, nil, false)
	if beta < 0 && stat.RSquared(x, y, nil, alpha, beta) > 0.995 {
		t := -math.Ln10 / beta
		return t, math.Hypot(0.02*t, hop), true
	}
	return cross, math.Hypot(0.04*cross, 2*hop), true
}

// Decay gives the time from the highest level to 90 % of the way to the level that is held, or to nothing.
func (e *Ear) Decay(off float64) Measured {
	level, hop, window := e.outline()
	top, at := 0.0, 0
	for i, y := range level {
		if y > top*1.0005 {
			top, at = y, i
		}
	}
	to, until, ok := held(level, hop, off)
	if !ok {
		to, until = 0, len(level)
	}
	if off > 0 {
		until = min(len(level), int(off/hop))
	}
	if to > 0.93*top {
		return cannot("decay", "decay to 90 %", "s", "the level hardly falls while the note is held")
	}
	t, u, ok := falling(level[:max(until, at)], hop, at, top, to)
	if !ok {
		return cannot("decay", "decay to 90 %", "s", "it does not go 90 % of the way within the sound")
	}
	for i := at + int(t/hop); i < max(until, at); i++ {
		if level[i]-to > 0.7*(top-to) {
			return cannot("decay", "decay to 90 %", "s", "the level comes up again: it ripples or moves")
		}
	}
	return known("decay", "decay to 90 %", t, "s", math.Hypot(u, window/4))
}

// Release gives the time from where the key is let go to 10 % of the level there.
func (e *Ear) Release(off float64) Measured {
	level, hop, window := e.outline()
	plateau, until, ok := held(level, hop, off)
	if !ok {
		return cannot("release", "release to 10 %", "s", "no level is held that it could fall from; say when the key was let go")
	}
	t, u, ok := falling(level, hop, until, plateau, 0)
	if !ok {
		return cannot("release", "release to 10 %", "s", "it does not fall to 10 % within the sound")
	}
	return known("release", "release to 10 %", t, "s", math.Hypot(u, window/4))
}

// T60 gives the time of a decay by 60 dB, by backward integration of the energy (Schroeder, JASA 37(3), 1965,
// from memory), from -5 to -35 dB or as far as the sound goes. off is where the decay begins, 0 for the
// loudest place.
func (e *Ear) T60(off float64) Measured {
	level, hop, _ := e.outline()
	from := int(off * e.Rate)
	if off <= 0 {
		top := 0.0
		for i, y := range level {
			if y > top {
				top, from = y, int(float64(i)*hop*e.Rate)
			}
		}
	}
	if from >= len(e.mono) {
		return cannot("t60", "decay to -60 dB", "s", "the sound ends before")
	}
	channels := [][]float64{e.Left[from:]}
	if e.Right != nil {
		channels = append(channels, e.Right[from:])
	}
	n := len(channels[0])
	rest := make([]float64, n+1)
	for k := n - 1; k >= 0; k-- {
		rest[k] = rest[k+1]
		for _, c := range channels {
			rest[k] += c[k] * c[k]
		}
	}
	if rest[0] <= 0 {
		return cannot("t60", "decay to -60 dB", "s", "there is no sound")
	}
	for _, bottom := range []float64{-35, -25, -15} {
		var x, y []float64
		for k := 0; k < n; k += max(1, int(0.001*e.Rate)) {
			d := 10 * math.Log10(max(rest[k]/rest[0], 1e-12))
			if d < bottom {
				break
			}
			if d < -5 {
				x, y = append(x, float64(k)/e.Rate), append(y, d)
			}
		}
		if len(x) < 10 || x[len(x)-1] > 0.9*float64(n)/e.Rate { // the end of the file bends it
			continue
		}
		alpha, beta := stat.LinearRegression(x, y, nil, false)
		if beta >= 0 || stat.RSquared(x, y, nil, alpha, beta) < 0.98 {
			return cannot("t60", "decay to -60 dB", "s", "the decay is not one straight line in decibels")
		}
		return known("t60", "decay to -60 dB", -60/beta, "s", (0.02+0.2/(-5-bottom))*60/-beta/3)
	}
	return cannot("t60", "decay to -60 dB", "s", "the sound ends too soon")
}

// Delay gives the time of echoes and their feedback, by where the sound is like itself again.
func (e *Ear) Delay() []Measured {
	none := func(why string) []Measured {
		return []Measured{cannot("delay", "delay time", "s", why), cannot("delay", "delay feedback", "%", why)}
	}
	n := min(len(e.mono)-e.from, int(8*e.Rate))
	if n < int(0.05*e.Rate) {
		return none("the sound is too short")
	}
	// onsets: where the level rises
	x := e.mono[e.from : e.from+n]
	hop := max(1, int(0.0005*e.Rate))
	frames := n / hop
	rise := make([]float64, 0, frames)
	var last float64
	for i := range frames {
		s := 0.0
		for _, y := range x[i*hop : min(n, (i+4)*hop)] {
			s += y * y
		}
		s = math.Sqrt(s)
		rise = append(rise, max(0, s-last))
		last = s
	}
	auto := dsp.Autocorrelation(rise, dsp.PowerFrom(2*len(rise)))
	// the nearest place that is nearly as high as the highest
	least := max(2, int(0.008*e.Rate)/hop)
	top := 0.0
	for k := least; k < len(auto)*3/4 && k < len(auto); k++ {
		top = max(top, auto[k])
	}
	if top < 0.08*auto[0] {
		return none("no part of it comes again")
	}
	lag := 0
	for k := least; k < len(auto)-1; k++ {
		if auto[k] > 0.7*top && auto[k] >= auto[k-1] && auto[k] >= auto[k+1] {
			lag = k
			break
		}
	}
	if lag == 0 {
		return none("no part of it comes again")
	}
	// between a sound and its echo it has to be quieter
	least2, first := math.Inf(1), 0.0
	for i := 0; i < len(rise) && i*hop < lag*hop; i++ {
		s := 0.0
		for _, y := range x[i*hop : min(n, (i+4)*hop)] {
			s += y * y
		}
		first = max(first, s)
		if i*hop > lag*hop/5 {
			least2 = min(least2, s)
		}
	}
	if least2 > 0.5*first || int(0.008*e.Rate) > lag*hop {
		return none("the sound does not pause between itself and an echo")
	}
	if d := lag * hop; d < int(0.05*e.Rate) { // as near as the periods of a low tone: only a true pause tells them apart
		w := max(1, d/3)
		quiet, first := math.Inf(1), 0.0
		for a := 0; a+w < min(n, d); a += max(1, w/8) {
			s := 0.0
			for _, y := range x[a : a+w] {
				s += y * y
			}
			first = max(first, s)
			if a > w {
				quiet = min(quiet, s)
			}
		}
		if quiet > 0.01*first {
			return none("what comes again may be the period of a tone")
		}
	}
	// the same by the wave itself, within 2 ms, over the first second
	mid, reach := lag*hop, int(0.002*e.Rate)
	best, likest := mid, math.Inf(-1)
	for k := max(1, mid-reach); k < mid+reach && k < n; k++ {
		sum := 0.0
		for i, y := range x[k:min(n, k+int(e.Rate))] {
			sum += y * x[i]
		}
		if sum > likest {
			likest, best = sum, k
		}
	}
	time := float64(best) / e.Rate
	// the energy of each echo, over the same length as the first sound lasts
	w := min(best, int(0.06*e.Rate))
	energy := func(at int) float64 {
		s := 0.0
		for k := at; k < at+w && k < len(x); k++ {
			s += x[k] * x[k]
		}
		return s
	}
	out := []Measured{known("delay", "delay time", time, "s", math.Hypot(0.5/e.Rate, 0.001*time))}
	// what of the sound itself is still there when its echo comes would count as echo
	if e1, e2 := energy(best), energy(2*best); 2*best+w < len(x) && e1 > 0 && e2 > 1e-7*energy(0) {
		g := math.Sqrt(e2 / e1)
		e3 := energy(3 * best)
		if 3*best+w < len(x) && e3 > 1e-7*energy(0) {
			g = math.Sqrt(math.Sqrt(e3 / e1)) // over two steps
		}
		if g <= 1 {
			return append(out, known("delay", "delay feedback", 100*g, "%", 2))
		}
	}
	return append(out, cannot("delay", "delay feedback", "%", "there is no second echo to compare with the first"))
}
