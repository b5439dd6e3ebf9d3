package synth

import (
	"cmp"
	"fmt"
	"math"
	"slices"
)

// Where a free oscillator or LFO starts hangs on the seed and on its rank among all that sound, by pitch (LFOs: by rate): not on which oscillator of an instrument it is.
// Two instruments that make one sound by other parts then beat alike, and of two sounds that hardly differ the beats hardly do.

// rank orders what sounds by pitch, then by wave and level.
func (e *engine) rank() {
	type one struct {
		cents, level float64
		wave         string
		set          func(rank int)
	}
	var all []one
	for i := range e.oscs {
		o := &e.oscs[i]
		o.ranks = make([]int, o.unison)
		cents := o.interval
		if o.fixed > 0 {
			cents = 1200 * math.Log2(o.fixed/261.6255653005986)
		}
		for u := range o.unison {
			place := 0.0
			if o.unison > 1 {
				place = float64(u)/float64(o.unison-1) - 0.5
			}
			all = append(all, one{cents + o.spread*place, o.level, o.wave, func(rank int) { o.ranks[u] = rank }})
		}
	}
	for i := range e.ops {
		o := &e.ops[i]
		all = append(all, one{o.interval, o.level, o.wave, func(rank int) { o.rank = rank }})
	}
	slices.SortStableFunc(all, func(a, b one) int {
		return cmp.Or(cmp.Compare(math.Round(100*a.cents), math.Round(100*b.cents)), cmp.Compare(a.wave, b.wave), cmp.Compare(b.level, a.level))
	})
	for i := range all {
		all[i].set(i)
	}
	lfos := make([]*lfoSpec, len(e.lfos))
	for i := range e.lfos {
		lfos[i] = &e.lfos[i]
	}
	slices.SortStableFunc(lfos, func(a, b *lfoSpec) int { return cmp.Or(cmp.Compare(a.rate, b.rate), cmp.Compare(a.wave, b.wave)) })
	for i, l := range lfos {
		l.seed = e.seed/Takes + uint64(i)*7919
		if l.phase == "free" {
			l.start = e.phaseOf(0, 1000+uint64(i))
		}
	}
}

// Takes is how many seeds that follow each other, from a multiple of it on, make a set: over them the beats of any two that sound stand evenly spread, and
// with them those of all their harmonics but the multiples of Takes. The mean power of a set is that of the sound without where its beats stand.
const Takes = 5

// golden is the share of a turn by which sets of seeds differ, times the rank (Weyl's equidistribution; the golden section is the most even).
const golden = 0.6180339887498949

// phaseOf gives the start phase of what has a rank in a voice.
func (e *engine) phaseOf(rank int, voice uint64) float64 {
	set, take := e.seed/Takes%4096, e.seed%Takes
	_, p := math.Modf(unit(uint64(rank)*131+7, voice*64) + float64(rank+1)*(float64(take)/Takes+golden*float64(set)))
	return p
}

// saltsOf gives what is added to the seed for each of several layers: by what it is made of, not by its place among them.
func saltsOf(layers []Layer) []uint64 {
	out := make([]uint64, len(layers))
	if len(layers) == 1 {
		return out
	}
	type one struct {
		at, parts int
		name      string
	}
	var list []one
	for i := range layers {
		x := one{at: i}
		for k := range layers[i].Meaning.Modules {
			if d := &layers[i].Meaning.Modules[k]; d.Used() {
				x.parts++
				x.name += d.ID + "/"
			}
		}
		x.name += fmt.Sprint(float64(layers[i].Transpose), float64(layers[i].Level))
		list = append(list, x)
	}
	slices.SortStableFunc(list, func(a, b one) int { return cmp.Or(cmp.Compare(b.parts, a.parts), cmp.Compare(a.name, b.name)) })
	for n, x := range list {
		out[x.at] = Takes * 1009 * uint64(n)
	}
	return out
}
