package synth

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

type lfoSpec struct {
	wave             string
	rate, width, key float64
	delay, fade      float64
	once, global     bool
	phase            string
	start            float64 // of a free phase
	seed             uint64
	rateMods         []mod
	drawing          q.Drawing // where the wave was drawn
	drawn            bool
}

func lfoOf(m *meaning.Module) lfoSpec {
	l := lfoSpec{wave: word(m, meaning.PWave), rate: num(m, meaning.PRate), width: clamp(num(m, meaning.PWidth), 0.01, 0.99), key: num(m, meaning.PKey), delay: num(m, meaning.PDelay), fade: num(m, meaning.PFade),
		once: word(m, meaning.PCycle) == "once", global: word(m, meaning.PScope) == "global", phase: word(m, meaning.PPhase)}
	l.drawing, l.drawn, _ = q.ParseDrawn(l.wave)
	return l
}

// lfo is an LFO at work in a voice.
type lfo struct {
	*lfoSpec
	turns float64 // cycles since its start
	age   float64 // seconds since the note
	from  uint64  // for what is random in it
}

// begin starts the LFO at a note; at is the time in the phrase.
func (l *lfo) begin(at float64, note uint64) {
	l.age = 0
	switch {
	case l.phase == "free" || l.global && l.phase != "reset":
		// it has run since before the phrase, all the same for every voice
		l.turns, l.from = l.start+l.rate*at, l.seed
		if !l.global && l.phase == "free" {
			l.turns, l.from = l.start+unit(l.seed, note)+l.rate*at, l.seed+note
		}
	default:
		l.turns, l.from = 0, l.seed+note
	}
	if l.once {
		l.turns = 0
	}
}

// value gives the wave at a number of turns, -1 to 1. The saw falls from 1, as the oscillators' does.
func (l *lfo) value(turns float64) float64 {
	if l.once && turns >= 1 {
		turns = math.Nextafter(1, 0)
	}
	n := math.Floor(turns)
	p := turns - n
	if l.drawn {
		return l.drawing.At(p)
	}
	switch l.wave {
	case "sine":
		return math.Sin(2 * math.Pi * p)
	case "saw":
		return 1 - 2*p
	case "pulse":
		if p < l.width {
			return 1
		}
		return -1
	case "sample and hold":
		return 2*unit(l.from, uint64(int64(n))) - 1
	case "smooth random":
		a, b := 2*unit(l.from, uint64(int64(n)))-1, 2*unit(l.from, uint64(int64(n)+1))-1
		return a + (b-a)*(1-math.Cos(math.Pi*p))/2
	}
	// triangle, and drawn waves that the panel does not describe
	switch {
	case p < 0.25:
		return 4 * p
	case p < 0.75:
		return 2 - 4*p
	}
	return 4*p - 4
}

// stride is how far apart, in samples, a slow LFO is worked out; what lies between is straight.
const stride = 16

// run writes the values of the next samples; octaves is what its rate is moved by.
func (l *lfo) run(out []float64, octaves float64) {
	inc := l.rate / Rate
	if octaves != 0 {
		inc *= math.Exp2(clamp(octaves, -12, 12))
	}
	n := stride
	if inc*Rate > 25 || l.wave == "pulse" || l.wave == "sample and hold" || l.wave == "saw" || l.drawn {
		n = 1
	}
	for i := 0; i < len(out); i += n {
		k := min(n, len(out)-i)
		a := l.value(l.turns)
		l.turns += inc * float64(k)
		if k == 1 {
			out[i] = a
			continue
		}
		d := (l.value(l.turns) - a) / float64(k)
		for j := range k {
			out[i+j] = a + d*float64(j)
		}
	}
	if l.delay > 0 || l.fade > 0 {
		for i := range out {
			t := l.age + float64(i)/Rate - l.delay
			switch {
			case t < 0:
				out[i] = 0
			case t < l.fade:
				out[i] *= t / l.fade
			}
		}
	}
	l.age += float64(len(out)) / Rate
}

// unit gives a number from 0 to 1 that hangs on a seed and a place only (splitmix64).
func unit(seed, n uint64) float64 {
	x := seed*0x9E3779B97F4A7C15 + n*0xD1B54A32D192ED03 + 0x632BE59BD9B4E019
	x = (x ^ x>>30) * 0xBF58476D1CE4E5B9
	x = (x ^ x>>27) * 0x94D049BB133111EB
	return float64((x^x>>31)>>11) / (1 << 53)
}

// random is a source of random samples, the same for the same seed (xorshift).
type random uint64

func (r *random) next() float64 {
	x := uint64(*r)
	x ^= x << 13
	x ^= x >> 7
	x ^= x << 17
	*r = random(x)
	return float64(int64(x)) / (1 << 63)
}
