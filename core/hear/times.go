package hear

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"
)

const (
	// rippled is how far a level has to fall and come up again, as a share of the highest, to be one that ripples; paused the share below which it is taken for the end of a note, over
	// pauseLeast seconds.
	rippled    = 0.16
	paused     = 0.03
	pauseLeast = 0.02
)

// ripples tells whether a level falls and comes up again before a place (0 for the end).
func ripples(level []float64, until int) bool {
	if until <= 0 || until > len(level) {
		until = len(level)
	}
	top := 0.0
	for _, y := range level {
		top = max(top, y)
	}
	high, low, fell := 0.0, 0.0, false
	for _, y := range level[:until] {
		switch {
		case fell:
			low = min(low, y)
			if y > low+rippled*top {
				return true
			}
		case y > high:
			high = y
		case y < high-rippled*top && high > 0.3*top:
			fell, low = true, y
		}
	}
	return false
}

// wanders tells whether most of the strong harmonics fall and come up again before a time in seconds, each for itself: voices beat there, if not in the proportion of two.
func (e *Ear) wanders(until float64) bool {
	p := e.parts()
	if e.beat().ok || len(p.amp) == 0 {
		return false
	}
	list, n := p.strong(), 0
	for _, h := range list {
		if k := min(len(p.level), int((until-p.from)/p.hop)); k > 4 && ripples(p.amp[h][:k], 0) {
			n++
		}
	}
	return len(list) > 1 && 2*n >= len(list)
}

// apartFrom is how far the harmonics have to move against each other for a level to be as much theirs as the envelope's: the root of the mean square.
const apartFrom = 0.25

// loose tells whether the strong harmonics move against each other, and not as those of two voices: of three voices and more a short note shows part of a beat, which
// looks like a decay.
func (e *Ear) loose() bool {
	p := e.parts()
	if b := e.beat(); b.ok { // of which less than a round is there it may be that of three
		return b.rate*b.span < 1
	}
	if len(p.amp) == 0 {
		return false
	}
	from, to := loudSpan(p.level)
	var energy [][]float64
	for _, h := range p.strong() {
		s := make([]float64, to-from)
		for i := range s {
			s[i] = p.amp[h][from+i] * p.amp[h][from+i]
		}
		energy = append(energy, s)
	}
	return len(energy) > 1 && to-from > 8 && inStep(energy) > apartFrom
}

// firstNote cuts a level to what comes before the first pause.
func firstNote(level []float64, hop float64) []float64 {
	top := 0.0
	for _, y := range level {
		top = max(top, y)
	}
	begun, quiet := false, 0
	for i, y := range level {
		switch {
		case y > 0.3*top:
			begun, quiet = true, 0
		case begun && y < paused*top:
			if quiet++; float64(quiet)*hop > pauseLeast {
				return level[:i+1]
			}
		}
	}
	return level
}

const whyRipples = "the level comes up again: several voices beat, or it moves; play one voice, or an octave higher, where a beat is twice as fast, and hold the note for two rounds of it"

// Attack gives the time from 10 to 90 % of the highest level, in seconds; of several notes that of the first.
func (e *Ear) Attack(off float64) Measured {
	level, hop, window := e.outline()
	level = firstNote(level, hop)
	until := int(off / hop)
	if !ripples(level, until) {
		return e.attack(level, hop, window)
	}
	for _, wide := range []float64{0.05, 0.1, 0.2} { // what is much quicker than the attack may be smoothed away
		smooth := slices.Clone(level)
		smoothed(smooth, max(1, int(wide/2/hop)))
		if ripples(smooth, until) {
			continue
		}
		if m := e.attack(smooth, hop, wide); m.Known && m.Value > 3*wide {
			m.Uncertainty = math.Hypot(m.Uncertainty, wide)
			return m
		}
		break
	}
	return cannot("attack", "attack (10-90 %)", "s", whyRipples)
}

// attack gives it of a level that does not ripple, taken over a window.
func (e *Ear) attack(level []float64, hop, window float64) Measured {
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
	begin := 0.0 // it has begun before the sound does
	if level[start] <= 0.1*top {
		begin = cross(start+1, 0.1*top)
	}
	t := cross(end, 0.9*top) - begin
	if window < 0.05 && e.wanders(float64(end)*hop) {
		return cannot("attack", "attack (10-90 %)", "s", whyRipples)
	}
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
	switch {
	case e.loose():
		u = math.Hypot(u, 0.3*t)
	case e.beat().ok: // what is left of it
		u = math.Hypot(u, 0.08*t)
	}
	return known("decay", "decay to 90 %", t, "s", math.Hypot(u, window/4))
}

// Sustain gives the level that is held below the highest, in decibels.
func (e *Ear) Sustain(off float64) Measured {
	level, hop, _ := e.outline()
	top := 0.0
	for _, y := range level {
		top = max(top, y)
	}
	to, until, ok := held(level, hop, off)
	if !ok || top == 0 {
		return cannot("decay", "sustain level", "dB", "no level is held; say when the key was let go")
	}
	if ripples(level, until) {
		return cannot("decay", "sustain level", "dB", whyRipples)
	}
	if e.loose() {
		return cannot("decay", "sustain level", "dB", whyRipples)
	}
	doubt := 0.2
	if e.beat().ok {
		doubt = 0.6
	}
	return known("decay", "sustain level", 20*math.Log10(to/top), "dB", doubt)
}

// Release gives the time from where the key is let go to 10 % of the level there.
func (e *Ear) Release(off float64) Measured {
	level, hop, window := e.outline()
	plateau, until, ok := held(level, hop, off)
	if !ok {
		return cannot("release", "release to 10 %", "s", "no level is held that it could fall from; say when the key was let go")
	}
	if off > 0 && ripples(level, int(off/hop)) || ripples(level[:until], 0) {
		return cannot("release", "release to 10 %", "s", whyRipples)
	}
	doubt := 0.0
	if e.loose() {
		doubt = 0.2
	} else if e.wanders(float64(until) * hop) {
		doubt = 0.15
	} else if e.beat().ok {
		doubt = 0.04
	}
	t, u, ok := falling(level, hop, until, plateau, 0)
	if !ok {
		return cannot("release", "release to 10 %", "s", "it does not fall to 10 % within the sound")
	}
	return known("release", "release to 10 %", t, "s", math.Hypot(math.Hypot(u, doubt*t), window/4))
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
		u := (0.02 + 0.2/(-5-bottom)) / 3
		if e.loose() {
			u = math.Hypot(u, 0.15)
		}
		return known("t60", "decay to -60 dB", -60/beta, "s", u*60/-beta)
	}
	return cannot("t60", "decay to -60 dB", "s", "the sound ends too soon")
}
