package calibrate

import (
	"math"
	"slices"

	"glossator/core/phrase"
	"glossator/core/scale"
)

// Next is the take that is proposed next.
type Next struct {
	Reading string `json:"reading"`
	// Gain is by how much the mean uncertainty is expected to fall, in just-noticeable differences, Unsure what it is now.
	Gain   float64 `json:"gain"`
	Unsure float64 `json:"unsure"`
	// Done is set where nothing more is worth a take; Reading is then where one would tell most all the same. Why says so, or why this reading.
	Done bool   `json:"done"`
	Why  string `json:"why"`
	// Notes are what is to be played.
	Notes []phrase.Note `json:"notes"`
}

// What a session goes by.
const (
	// Enough is the mean uncertainty, in just-noticeable differences, at which a control is known.
	Enough = 0.25
	// least is the gain that is worth a take, as a share of the uncertainty.
	least = 0.03
	// mostOfOne is how often one reading is taken.
	mostOfOne = 2
	// MostTakes is the most that is proposed.
	MostTakes = 24
)

// Next plans the take after those of a result: the one that lessens the uncertainty over the travel the most, the kinds of law that are still in question counted (a design that is optimal for the mean variance; Fedorov, Theory of Optimal Experiments, 1972). Readings beside one that gave nothing are avoided.
func (r *Result) Next() Next {
	b := r.b
	now := r.Unsure()
	n := 0
	taken, failed := map[float64]int{}, map[float64]int{}
	for _, t := range r.Takes {
		if t.used {
			n++
			taken[t.travel]++
		} else {
			failed[t.travel]++
		}
	}
	places := b.places()
	ps := b.looked
	if n == 0 && len(ps) > 0 { // relative figures hold against the first take
		top, most := ps[0], math.Inf(-1)
		for _, p := range ps {
			if x, ok := b.referenceAt(p); ok && x > most && !lost(failed, taken, p) && b.holds(p) {
				top, most = p, x
			}
		}
		why := "an end to begin with"
		if b.feat.relative != absolute {
			why = "the first: the others are held against it"
		}
		if !math.IsInf(most, 0) {
			if x, ok := r.proposal(top, now, now/2, why); ok {
				return x
			}
		}
	}
	// where the figures of the model hold, and what a take there is good for
	mean, cov := r.mixed(ps)
	floor := b.floor()
	weights := b.weights(ps)
	best, at := 0.0, math.NaN()
	sd := b.takeU()
	for _, p := range places {
		if _, ok := b.law.Raw(p.Travel); !ok || !b.holds(p.Travel) || lost(failed, taken, p.Travel) {
			continue
		}
		k := nearestIn(ps, p.Travel)
		u := sd(p.Travel)
		gain := 0.0
		for i := range ps {
			c := cov.At(i, k)
			left := max(cov.At(i, i)-c*c/(cov.At(k, k)+u*u), 0)
			x := math.Sqrt(cov.At(i, i)) - math.Sqrt(left)
			if mean[i] < floor { // nobody hears it
				x *= 0.1
			}
			gain += weights[i] * x
		}
		if n := taken[p.Travel]; n >= mostOfOne {
			continue
		} else if n > 0 { // another place tells as much, and whether the law is what it seems
			gain *= 0.5
		}
		if gain > best {
			best, at = gain, p.Travel
		}
	}
	gain := best / b.JND()
	if math.IsNaN(at) {
		return Next{Unsure: now, Done: true, Why: "no reading is left that the recipe can tell"}
	}
	why, done := "here a take tells most", true
	switch {
	case n >= 6 && now <= Enough:
		why = "it is known to half a just-noticeable difference"
	case n >= 7 && gain < least*now:
		why = "another take would tell next to nothing: a hand, or the recording, is not more exact"
	case n >= MostTakes:
		why = "that is enough for one control"
	default:
		if done = false; n < 3 {
			why = "the ends and the middle tell the kinds of law apart"
		}
	}
	x, _ := r.proposal(at, now, gain, why)
	x.Done = done
	return x
}

// proposal makes a take of a travel.
func (r *Result) proposal(travel, now, gain float64, why string) (Next, bool) {
	places := r.b.Panel.Places(r.b.Control)
	i := slices.IndexFunc(places, func(p scale.Position) bool { return p.Travel == travel })
	if i < 0 {
		return Next{}, false
	}
	return Next{Reading: places[i].Reading, Gain: gain, Unsure: now, Why: why, Notes: r.b.Notes(places[i])}, true
}

// holds tells whether the model's figure goes with the parameter at a travel.
func (b *Bench) holds(travel float64) bool {
	t := b.model.travel
	if raw, _ := b.law.Raw(travel); b.feat.signless && raw < 0 {
		travel = 1 - travel
	}
	return travel >= t[0]-0.04 && travel <= t[len(t)-1]+0.04
}

// takeU foretells the uncertainty of a take at a travel, in the domain of the fit.
func (b *Bench) takeU() func(travel float64) float64 {
	hand := 0.0
	for _, p := range b.Panel.Places(b.Control) {
		if p.Travel > 0 && p.Travel < 1 {
			hand = HandU * p.U
			break
		}
	}
	return func(travel float64) float64 {
		d := 0.02
		f := b.model.toFigure
		slope := (f(travel+d) - f(travel-d)) / (2 * d) // of the figure by travel
		v := b.model.toValue
		fig := f(travel)
		per := (v(fig+b.model.noise) - v(fig-b.model.noise)) / 2
		return math.Hypot(per, math.Abs(slope*hand)*math.Abs(per)/b.model.noise)
	}
}

// lost tells whether a reading will give nothing, as one close by did: or one that lies between it and the nearest that gave something. From there
// on a quarter of the way to that one is left out too.
func lost(failed, taken map[float64]int, p float64) bool {
	for f := range failed {
		good, away := f, math.Inf(1)
		for t := range taken {
			if d := math.Abs(t - f); d < away {
				good, away = t, d
			}
		}
		off := p - f
		if good < f {
			off = -off
		}
		// off is how far it lies from what failed, towards what gave something
		if math.Abs(off) < 0.03 || good != f && off < away/4 {
			return true
		}
	}
	return false
}

func nearestIn(ps []float64, p float64) int {
	best := 0
	for i := range ps {
		if math.Abs(ps[i]-p) < math.Abs(ps[best]-p) {
			best = i
		}
	}
	return best
}
