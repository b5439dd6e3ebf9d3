package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const (
	whistlePenalty = 0.08
	buzzPenalty    = 0.75
)

var whistle = Rule{ID: "whistle", Name: "A filter that oscillates by itself, by an oscillator",
	Needs: "a filter at self-oscillation, and next to nothing that goes through it", Uses: "a sine where the filter stands, that follows the keys as it did",
	Penalty: whistlePenalty, Why: "a filter starts from its own noise and bends with what feeds it; an oscillator is there at once", Source: "circuit theory: a loop with a gain of one oscillates at the frequency at which it comes round in phase",
	try: func(c *Case) (out []Recast) {
		filters := c.used(meaning.Filter)
		if len(filters) != 1 || c.Have(meaning.Osc) == 0 && c.Have(meaning.Operator) == 0 {
			return nil
		}
		f := filters[0]
		if get(f, meaning.PResonance) <= 1 || off(f, meaning.PCutoff) || f.Changed() || get(f, meaning.PCutoff) <= 0 {
			return nil
		}
		for _, r := range c.into(f.ID, "") {
			if _, name := meaning.Split(r.To[0]); len(r.To) != 1 || name != meaning.PCutoff {
				return nil
			}
		}
		e := c.begin("%s oscillates by itself: a sine at %s for middle C is its whistle", f.Label, text(q.DimFrequency, get(f, meaning.PCutoff)))
		e.part(f.ID)
		for _, k := range []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator, meaning.Ring} {
			for _, m := range c.used(k) {
				if m.Loud().Off {
					continue
				}
				if plays(m) > feedsWhistle {
					return nil // it is a filter for something
				}
				e.drop(m.ID)
			}
		}
		kind := c.tones()
		o := e.add(module(f), "whistle", kind, f.Label+" as "+string(kind))
		word(o, meaning.PWave, q.WaveSine)
		put(o, meaning.PLevel, whistles(f))
		if kind == meaning.Operator {
			put(o, meaning.POutput, 0)
		}
		cents := 1200 * math.Log2(get(f, meaning.PCutoff)/float64(q.MiddleC.Frequency()))
		put(o, meaning.PInterval, cents)
		if track := get(f, meaning.PTrack); track != 1 {
			put(o, meaning.PKey, track)
		}
		id := o.ID
		for _, r := range c.into(f.ID, meaning.PCutoff) {
			w := e.route(r.ID)
			w.To, w.Depth = []string{meaning.Ref(id, meaning.PInterval)}, meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: 1200 * r.Depth.Value}}
		}
		for name, to := range map[meaning.ParamName]meaning.ParamName{meaning.PCutoff: meaning.PInterval, meaning.PResonance: meaning.PLevel, meaning.PTrack: meaning.PKey, meaning.PMode: meaning.PWave} {
			e.Map[meaning.Ref(f.ID, name)] = meaning.Ref(id, to)
		}
		e.drop(f.ID)
		return append(out, e.Recast)
	}}

// tones gives what the target plays tones by: oscillators, or operators where it has none.
func (c *Case) tones() meaning.Kind {
	if c.Have(meaning.Osc) == 0 {
		return meaning.Operator
	}
	return meaning.Osc
}

// feedsWhistle is the level up to which what goes through a filter that oscillates only feeds it, in decibels (common practice, no source).
const feedsWhistle = -30.0

// whistles gives about how loud the oscillation of a filter is, in decibels of a sine at full level: as it is played here (by its rendering: no instrument says).
func whistles(f *meaning.Module) float64 {
	level := math.Min(6, 6-70*math.Max(0, 1.1-get(f, meaning.PResonance)))
	if named(f, meaning.PMode) == "bandpass" {
		return level - 34
	}
	if get(f, meaning.PPoles) > 2 {
		level -= 4
	}
	return level
}

var buzz = Rule{ID: "buzz", Name: "Noise by a tone, where there is nothing else",
	Needs: "noise that is all that sounds, and none on the target", Uses: "an oscillator or operator, at the pitch of the filter that the noise goes through, or two octaves up",
	Penalty: buzzPenalty, Why: "a tone stands where there was a hiss: only how it comes and goes is kept", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		list := c.lost(meaning.Noise)
		if len(list) != 1 || c.Have(meaning.Noise) > 0 || c.sounding() != 1 || c.Have(meaning.Osc) == 0 && c.Have(meaning.Operator) == 0 {
			return nil
		}
		m, cents, key := list[0], 2400.0, 1.0
		for _, f := range c.used(meaning.Filter) {
			if mode := named(f, meaning.PMode); get(f, meaning.PCutoff) > 0 && (mode == "bandpass" || get(f, meaning.PResonance) > 0.5) {
				cents, key = 1200*math.Log2(get(f, meaning.PCutoff)/float64(q.MiddleC.Frequency())), get(f, meaning.PTrack)
			}
		}
		e := c.begin("no noise here: a tone at %s over the key, for what came and went", text(q.DimInterval, math.Round(cents)))
		kind := c.tones()
		o := e.replace(m.ID, kind, m.Label+" as "+string(kind), same(kind))
		word(o, meaning.PWave, q.WaveSaw)
		if kind == meaning.Operator {
			word(o, meaning.PWave, q.WaveSine)
			put(o, meaning.PFeedback, 0.5)
			put(o, meaning.POutput, 0)
		}
		put(o, meaning.PInterval, cents)
		if key < 0.5 {
			put(o, meaning.PKey, 0)
		}
		take(o, m, meaning.PLevel, meaning.PLevel)
		e.Map[meaning.Ref(m.ID, meaning.PColour)] = meaning.Ref(o.ID, meaning.PWave)
		return []Recast{e.Recast}
	}}
