package hear

import (
	"math"
	"slices"

	"glossator/core/dsp"
)

const (
	// echoLeast is the shortest delay that is told, in seconds; echoAgain the share of all onsets and ends that has to come again.
	echoLeast = 0.008
	echoAgain = 0.06
	// leastPeriods is how many periods of a tone a delay has to last, where there is one: several tones together come again after several of one.
	leastPeriods = 12
	// severalAgain is up to what delay several tones that sound at once may come again by themselves, in seconds.
	severalAgain = 0.1
	// asLoud is what share of the one before an echo may have: what is louder may be the note played again.
	asLoud = 0.92
)

// events are where the level goes up and where it goes down, over a window, and by how much.
type events struct {
	up, down []float64
	hop      float64 // seconds
	wide     int     // the window, in hops
	level    []float64
}

// findEvents takes them from the outline, over whole periods where the sound has a pitch: its wave is no event, nor is its beat.
func (e *Ear) findEvents() events {
	level, hop, window := e.outline()
	from := int(float64(e.from)/e.Rate/hop) - int(window/hop)
	level = append(make([]float64, max(0, -from)), level[max(0, from):]...)
	level = level[:min(len(level), int(8/hop))]
	v := events{hop: hop, wide: max(1, int(window/hop)), level: level}
	v.up, v.down = make([]float64, len(level)), make([]float64, len(level))
	for i := v.wide; i < len(level); i++ {
		d := level[i] - level[i-v.wide]
		v.up[i], v.down[i] = max(0, d), max(0, -d)
	}
	return v
}

// centred takes the mean away: what goes up and down all the time is no event.
func centred(x []float64) []float64 {
	y := make([]float64, len(x))
	m := mean(x)
	for i := range x {
		y[i] = x[i] - m
	}
	return y
}

// Sides gives the time of the echoes of each channel, where they are not the same.
func (e *Ear) Sides() (out []Measured) {
	if e.Right == nil {
		return nil
	}
	same := true
	for k := range e.Left {
		if math.Abs(e.Left[k]-e.Right[k]) > 1e-4 {
			same = false
			break
		}
	}
	if same {
		return nil
	}
	var times []Measured
	for i, x := range [][]float64{e.Left, e.Right} {
		m := Listen(Wave{Rate: e.Rate, Left: x}).Delay()[0]
		m.Label = []string{"delay time left", "delay time right"}[i]
		times = append(times, m)
	}
	if a, b := times[0], times[1]; !a.Known || !b.Known || math.Abs(a.Value-b.Value) < 0.02*max(a.Value, b.Value) {
		return nil
	}
	return times
}

// echo is what comes again of a sound.
type echo struct {
	time     float64 // seconds; 0 for none
	meets    bool    // the sound has not ended when its echo comes
	measured []Measured
}

// Delay gives the time of echoes and their feedback, by where onsets and ends of notes come again.
func (e *Ear) Delay() []Measured { return slices.Clone(e.echo().measured) }

// findEcho looks for an echo.
func (e *Ear) findEcho() echo {
	none := func(why string) echo {
		return echo{measured: []Measured{cannot("delay", "delay time", "s", why), cannot("delay", "delay feedback", "%", why)}}
	}
	x := e.mono[e.from:min(len(e.mono), e.from+int(8*e.Rate))]
	if len(x) < int(0.05*e.Rate) {
		return none("the sound is too short")
	}
	v := e.findEvents()
	size := dsp.PowerFrom(2 * len(v.up))
	auto := dsp.Autocorrelation(centred(v.up), size)
	for k, y := range dsp.Autocorrelation(centred(v.down), size) {
		auto[k] += y
	}
	least := max(2*v.wide+1, int(echoLeast/v.hop)+1)
	top := 0.0
	for k := least; k < len(auto)*3/4; k++ {
		top = max(top, auto[k])
	}
	lag := 0
	for k := least; k < len(auto)*3/4 && top > echoAgain*auto[0]; k++ { // the nearest place that is nearly as high as the highest
		if auto[k] > 0.7*top && auto[k] >= auto[k-1] && auto[k] >= auto[k+1] {
			lag = k
			break
		}
	}
	if lag == 0 {
		return none("no part of it comes again")
	}
	if p := e.pitch(); p.near && p.f > lowestTone {
		if periods := float64(lag) * v.hop * p.f; periods < leastPeriods {
			return none("what comes again may be the period of a tone")
		}
	}
	if p := e.pitch(); p.several && float64(lag)*v.hop < severalAgain {
		return none("what comes again may be the period that several tones have in common")
	}
	if e.beats(1 / (float64(lag) * v.hop)) {
		return none("what comes again is the beat of two voices")
	}
	if !v.falls(lag) {
		return none("what comes again is as loud as it was, or no onset: it may be a note that is played again, or a level that moves")
	}
	// by the steps of the level, between hops
	at := float64(lag)
	if a, b, c := auto[lag-1], auto[lag], auto[lag+1]; a-2*b+c < 0 {
		at += 0.5 * (a - c) / (a - 2*b + c)
	}
	mid, reach := int(at*v.hop*e.Rate), int(max(0.002, float64(v.wide)*v.hop)*e.Rate)
	w := min(mid, int(0.06*e.Rate))
	meets := power(x[max(0, mid-w/4):min(len(x), mid)]) > 0.02*power(x[:w])/4
	if p := e.parts(); meets && len(p.cents) > 0 {
		m, ok := periodic(loudPart(p.cents, p.level), p.hop)
		if turns := m.rate * at * v.hop; ok && m.share > 0.3 && m.depth > leastVibrato/2 && turns > 0.5 && math.Abs(turns-math.Round(turns)) < 0.12 {
			return none("what comes again moves in pitch with the same period: it may be a chorus")
		}
	}
	lo, hi := lag, lag // a wide peak is one of slow onsets: the time lies somewhere in it
	for lo > 0 && auto[lo] > 0.8*auto[lag] {
		lo--
	}
	for hi+1 < len(auto) && auto[hi] > 0.8*auto[lag] {
		hi++
	}
	time, u := float64(mid)/e.Rate, max(float64(v.wide)/2, float64(hi-lo)/3)*v.hop
	best := mid
	if !meets { // the same by the wave itself, about there: of a sound that goes on the wave is like itself after each period
		likest := math.Inf(-1)
		for k := max(1, mid-reach); k < mid+reach && k < len(x); k++ {
			sum := 0.0
			for i, y := range x[k:min(len(x), k+int(e.Rate))] {
				sum += y * x[i]
			}
			if sum > likest {
				likest, best = sum, k
			}
		}
		time, u = float64(best)/e.Rate, float64(v.wide)*v.hop/8
	}
	out := echo{time: time, meets: meets, measured: []Measured{known("delay", "delay time", time, "s", math.Hypot(0.5/e.Rate, 0.002*time)+u)}}
	say := func(m Measured) echo {
		out.measured = append(out.measured, m)
		return out
	}
	// the energy of each echo, over the same length as the first sound lasts
	energy := func(at int) float64 {
		if at+w > len(x) {
			return 0
		}
		return power(x[at : at+w])
	}
	if meets {
		return say(cannot("delay", "delay feedback", "%", "the sound has not ended when its echo comes: play a shorter note"))
	}
	if e1, e2, e3 := energy(best), energy(2*best), energy(3*best); e1 > 0 && e2 > 1e-7*energy(0) {
		g := math.Sqrt(e2 / e1)
		if e3 > 1e-7*energy(0) {
			g = math.Sqrt(math.Sqrt(e3 / e1)) // over two steps
		}
		if g <= asLoud {
			return say(known("delay", "delay feedback", 100*g, "%", 2))
		}
	}
	return say(cannot("delay", "delay feedback", "%", "there is no second echo to compare with the first"))
}

// falls tells whether what comes again after a lag is an echo: onsets that are quieter each time, or where hardly one is told, as behind a long note, the end.
func (v *events) falls(lag int) bool {
	reach := v.wide + 2
	first, last := 0, 0
	for i := range v.up {
		if v.up[i] > v.up[first] {
			first = i
		}
		if v.down[i] > v.down[last] {
			last = i
		}
	}
	strength, again, third := v.up[first], mostNear(v.up, first+lag, reach), mostNear(v.up, first+2*lag, reach)
	up, down := v.sudden(v.up), v.sudden(v.down)
	if again > told*strength && mostNear(up, first+lag, reach) > aboveRipple*v.ripple(up) {
		if again < asLoud*strength {
			return third < asLoud*again
		}
		// as loud as the sound itself: an echo where what comes after it falls by the same share each time
		fourth := mostNear(v.up, first+3*lag, reach)
		return third > told*again && third < asLoud*again && near(fourth/third, third/again, 0.4)
	}
	if down[last] < aboveRipple*v.ripple(down) {
		return false
	}
	for _, at := range []int{last + lag, last - lag} {
		if mostNear(v.down, at, reach) > endsAgain*v.down[last] && mostNear(down, at, reach) > aboveRipple*v.ripple(down) {
			return true
		}
	}
	return false
}

// told is the least share of the first onset that an echo's has to have, endsAgain that of an end; aboveRipple how far either has to stand out of what goes up
// and down all the time.
const (
	told        = 0.08
	endsAgain   = 0.3
	aboveRipple = 7.0
)

// sudden gives changes as shares of the level that they lead to or from.
func (v *events) sudden(x []float64) []float64 {
	out := make([]float64, len(x))
	top := slices.Max(v.level)
	for i := v.wide; i < len(x); i++ {
		out[i] = x[i] / max(v.level[i], v.level[i-v.wide], 1e-3*top)
	}
	return out
}

// ripple is what sudden changes come to as a rule where there is sound: three in four are less.
func (v *events) ripple(sudden []float64) float64 {
	top := slices.Max(v.level)
	var y []float64
	for i := range sudden {
		if v.level[i] > 0.03*top {
			y = append(y, sudden[i])
		}
	}
	slices.Sort(y)
	return y[len(y)*3/4]
}

// mostNear gives the most that a series has about a place, within a reach.
func mostNear(x []float64, at, reach int) float64 {
	most := 0.0
	for i := max(0, at-reach); i <= at+reach && i < len(x); i++ {
		most = max(most, x[i])
	}
	return most
}
