package compare

import (
	"cmp"
	"math"
	"slices"
	"sync"

	"glossator/core/dsp"
	"glossator/core/hear"
	"glossator/core/jnd"
)

// Pitch is compared by the partials of the two sounds at the same places: by how many cents the one set has to be moved to lie on the other. Nothing has
// to be taken for a fundamental, so that an octave is told, and a bell's partials are compared like a string's.

// partial is a peak of a spectrum: its frequency and its power.
type partial struct {
	hz, power float64
	// cents are above 1 Hz, amplitude is the root of the power: each is asked for again and again
	cents, amplitude float64
}

func partialOf(hz, power float64) partial {
	return partial{hz, power, 1200 * math.Log2(hz), math.Sqrt(power)}
}

// At how many places partials are compared, how far they lie apart in seconds, and how long each is, in samples at a quarter of sketchRate.
const (
	pitchPlaces = 5
	pitchStep   = 0.4
	pitchLength = 4096
	quarter     = 4
)

// The partials that are compared lie between these, in hertz, and within mostBelow decibels of the strongest; no more than mostPartials of them.
const (
	lowestPartial  = 25.0
	highestPartial = 4500.0
	mostBelow      = 36.0
	mostPartials   = 32
)

// reach is how far the low-pass looks to either side, in samples.
const reach = 24

// lowered is the low-pass before three of four samples are left out, a sinc under a Hann window: its middle, and what lies that far from it, from 1 on; each
// fourth of them is nil.
var lowered = sync.OnceValues(func() (middle float64, side [reach]float64) {
	for i := range side {
		x := float64(i + 1)
		side[i] = (0.5 + 0.5*math.Cos(math.Pi*x/(reach+1))) / quarter * math.Sin(math.Pi*x/quarter) / (math.Pi * x / quarter)
	}
	return 1.0 / quarter, side
})

// slower gives a stretch at a quarter of the rate.
func slower(x []float64, from int) []float64 {
	middle, side := lowered()
	out := make([]float64, 0, pitchLength)
	for at := from; len(out) < pitchLength && at+2*reach+1 <= len(x); at += quarter {
		before, after := (*[reach]float64)(x[at:]), (*[reach]float64)(x[at+reach+1:])
		a, b, c := middle*x[at+reach], 0.0, 0.0 // three sums side by side: one waits for its own last product
		for i := 0; i < reach; i += 4 {
			a += side[i] * (before[reach-1-i] + after[i])
			b += side[i+1] * (before[reach-2-i] + after[i+1])
			c += side[i+2] * (before[reach-3-i] + after[i+2])
		}
		out = append(out, a+b+c)
	}
	return out
}

// listening is what all spectra of places share.
var listening = sync.OnceValue(func() *dsp.Frames { return dsp.NewFrames(pitchLength) })

// listen finds the partials at the places of a sound.
func (s *Sketch) listen(w hear.Wave) {
	list, _ := channels(w)
	var frames *dsp.Frames
	for i := range pitchPlaces {
		from := int((float64(i)*pitchStep + 0.02) * w.Rate)
		if len(w.Left)-from < quarter*pitchLength/2 {
			break
		}
		if frames == nil {
			frames = listening().Beside()
		}
		power := make([]float64, pitchLength/2+1)
		for _, x := range list {
			for k, c := range frames.Coefficients(slower(x, from), 0) {
				power[k] += real(c)*real(c) + imag(c)*imag(c)
			}
		}
		for len(s.places) <= i {
			s.places = append(s.places, nil)
		}
		s.places[i] = append(s.places[i], peaks(power, w.Rate/quarter/pitchLength)...)
	}
}

// peaks finds the tops of a spectrum, between bins by a parabola through the logarithms.
func peaks(power []float64, bin float64) (out []partial) {
	top := 0.0
	lo, hi := int(lowestPartial/bin), min(int(highestPartial/bin), len(power)-2)
	for k := lo; k <= hi; k++ {
		top = max(top, power[k])
	}
	if top < 1e-6 {
		return nil
	}
	least := top * math.Pow(10, -mostBelow/10)
	for k := max(lo, 2); k <= hi; k++ {
		p := power[k]
		if p < least || p <= power[k-1] || p < power[k+1] || p < power[k-2] || p < power[k+2] {
			continue
		}
		a, b, c := math.Log(power[k-1]+1e-30), math.Log(p), math.Log(power[k+1]+1e-30)
		at := float64(k)
		if d := a - 2*b + c; d < 0 {
			at += 0.5 * (a - c) / d
		}
		out = append(out, partialOf(at*bin, p))
	}
	return strongest(out)
}

// strongest keeps the strongest partials, in the order of their frequencies.
func strongest(list []partial) []partial {
	slices.SortFunc(list, func(a, b partial) int { return cmp.Compare(b.power, a.power) })
	list = list[:min(len(list), mostPartials)]
	slices.SortFunc(list, func(a, b partial) int { return cmp.Compare(a.hz, b.hz) })
	return list
}

// near is how many cents two partials may lie apart to be one.
const near = 60.0

// met gives how much of x has a partial of y within near cents when y is moved by cents, by amplitude. With keep, that is told of each that has, and how far the nearest lies above it.
func met(x, y []partial, cents float64, keep func(p partial, d float64)) float64 {
	sum, all, k := 0.0, 0.0, 0
	for _, p := range x {
		all += p.amplitude
		want := p.cents - cents
		for k < len(y) && y[k].cents < want { // both are in order
			k++
		}
		best := math.Inf(1)
		if k < len(y) {
			best = y[k].cents - want
		}
		if k > 0 && want-y[k-1].cents <= math.Abs(best) {
			best = y[k-1].cents - want
		}
		if math.Abs(best) <= near {
			sum += p.amplitude
			if keep != nil {
				keep(p, best)
			}
		}
	}
	if all == 0 {
		return 0
	}
	return sum / all
}

// likeness gives how much of each set of partials has one of the other within near cents when b is moved by cents, the lesser of the two shares.
func likeness(a, b []partial, cents float64) float64 {
	return min(met(a, b, cents, nil), met(b, a, -cents, nil))
}

// overlap gives how much of each set of partials has one of the other within near cents, the lesser of the two shares, when b is moved by cents; and by
// how many cents b's lie above a's in the middle, weighed by their amplitude.
func overlap(a, b []partial, cents float64) (share, offset float64) {
	type pair struct{ d, w float64 }
	var pairs []pair
	share = min(met(a, b, cents, func(p partial, d float64) {
		// a low partial tells less: a bin is many cents there
		pairs = append(pairs, pair{d, p.amplitude * min(1, p.hz/200)})
	}), met(b, a, -cents, nil))
	slices.SortFunc(pairs, func(a, b pair) int { return cmp.Compare(a.d, b.d) })
	half := 0.0
	for _, p := range pairs {
		half += p.w / 2
	}
	for _, p := range pairs {
		if half -= p.w; half <= 0 {
			return share, p.d
		}
	}
	return share, 0
}

// mostPitch is the most that pitch counts for, in just-noticeable differences: a semitone and more is as far as can be.
const mostPitch = 20.0

// muchBetter is by how much more of the partials have to lie on each other for a sound to be in another place.
const muchBetter = 0.25

// outOfTune gives how far two sounds are out of tune, in just-noticeable differences: the middle over the places, each the less the less the partials agree.
// Sounds whose partials lie on each other better when the one is moved by an octave or by semitones are in different places.
func outOfTune(a, b *Sketch, shift float64) float64 {
	var all []float64
	late := int(math.Round(shift / pitchStep)) // with a shift that is no whole step, what is held through it still tells
	for i := range a.places {
		k := i + late
		if k < 0 || k >= len(b.places) || len(a.places[i]) == 0 || len(b.places[k]) == 0 {
			continue
		}
		x, y := a.places[i], b.places[k]
		here, offset := overlap(x, y, 0)
		best, moved := here, 0.0
		if here >= 1-muchBetter {
			best = 1 // nothing can be much better
		}
		for st := -36.0; st <= 36 && best < 1; st++ {
			if s := likeness(x, y, 100*st); st != 0 && s > best+1e-9 {
				best, moved = s, 100*st
			}
		}
		// a tone may have more or fewer partials and still be in its place: only a much better one counts
		away := min(1, max(0, best-here-muchBetter)/0.2)
		d := min(mostPitch, math.Abs(offset)/jnd.Pitch.Size) * min(1, here/0.5)
		if moved != 0 {
			d = (1-away)*d + away*mostPitch
		}
		all = append(all, d)
	}
	if len(all) == 0 {
		return 0
	}
	slices.Sort(all)
	if n := len(all); n%2 == 0 {
		return (all[n/2-1] + all[n/2]) / 2
	}
	return all[len(all)/2]
}
