package rules

import (
	"math"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var voiceUnison = Rule{ID: "voice-unison", Name: "Unison of the voice by that of its oscillators, and the other way round",
	Needs: "unison voices that only the voice has, or only its oscillators, and the other on the target", Uses: "unison of each oscillator, a second oscillator for each, or unison of the voice",
	Penalty: 0.02, Why: "unison of the voice doubles its filter and envelopes too, and moves every oscillator alike", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		oscs := c.used(meaning.Osc)
		voices := c.used(meaning.Voice)
		if len(voices) == 0 || len(oscs) == 0 {
			return nil
		}
		v := voices[0]
		own, most := int(math.Round(get(v, meaning.PUnison))), 1
		spread := 0.0
		for _, o := range oscs {
			if n := int(math.Round(get(o, meaning.PUnison))); n > most {
				most, spread = n, get(o, meaning.PSpread)
			}
		}
		voice, each := c.Param(meaning.Voice, meaning.PUnison), c.Param(meaning.Osc, meaning.PUnison)
		switch {
		case v.Changed() || slices.ContainsFunc(oscs, func(o *meaning.Module) bool { return o.Changed() }):
			return nil
		case own > 1 && most == 1 && !voice && each:
			return c.toOscillators(v, oscs, own)
		case own > 1 && most == 1 && !voice && c.Have(meaning.Osc) >= 2*len(oscs):
			return c.toSecond(v, oscs, own)
		case own <= 1 && most > 1 && voice && !each:
			return c.toVoice(v, oscs, most, spread)
		}
		return nil
	}}

// toOscillators gives each oscillator the unison of the voice.
func (c *Case) toOscillators(v *meaning.Module, oscs []*meaning.Module, n int) []Recast {
	spread := get(v, meaning.PSpread)
	e := c.begin("%d unison voices of %s, %s ct apart in all, are those of each oscillator", n, v.Label, q.Number(spread, 2))
	var first string
	for _, o := range oscs {
		x := e.change(o.ID)
		put(x, meaning.PUnison, float64(n))
		put(x, meaning.PSpread, spread)
		if first == "" {
			first = x.ID
		}
	}
	return e.offVoice(v, meaning.Ref(first, meaning.PUnison), meaning.Ref(first, meaning.PSpread))
}

// toSecond plays each oscillator by two, as far apart as the unison voices are.
func (c *Case) toSecond(v *meaning.Module, oscs []*meaning.Module, n int) []Recast {
	spread := get(v, meaning.PSpread)
	e := c.begin("%d unison voices of %s become a second oscillator for each, %s ct apart", n, v.Label, q.Number(spread, 2))
	var second string
	for _, o := range oscs {
		if id := e.pair(o, spread).ID; second == "" {
			second = id
		}
	}
	return e.offVoice(v, meaning.Ref(second, meaning.PInterval), meaning.Ref(second, meaning.PInterval))
}

// toVoice gives the voice the unison of the oscillator that has the most.
func (c *Case) toVoice(v *meaning.Module, oscs []*meaning.Module, n int, spread float64) []Recast {
	e := c.begin("%d unison voices, %s ct apart in all, are those of the voice: every oscillator is doubled so", n, q.Number(spread, 2))
	whole := e.change(v.ID)
	put(whole, meaning.PUnison, float64(n))
	put(whole, meaning.PSpread, spread)
	for _, o := range oscs {
		if get(o, meaning.PUnison) <= 1 {
			continue
		}
		e.part(o.ID)
		a := e.change(o.ID)
		for _, name := range []meaning.ParamName{meaning.PUnison, meaning.PSpread, meaning.PStereo} {
			delete(a.Params, name)
		}
		for _, name := range []meaning.ParamName{meaning.PUnison, meaning.PSpread} {
			e.Map[meaning.Ref(o.ID, name)] = meaning.Ref(whole.ID, name)
		}
	}
	return e.done()
}

// offVoice takes the unison off the voice, and says where its number and its spread went.
func (e *edit) offVoice(v *meaning.Module, number, spread string) []Recast {
	e.part(v.ID)
	x := e.change(v.ID)
	for name, ref := range map[meaning.ParamName]string{meaning.PUnison: number, meaning.PSpread: spread} {
		delete(x.Params, name)
		e.Map[meaning.Ref(v.ID, name)] = ref
	}
	return e.done()
}
