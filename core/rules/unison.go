package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var unison = Rule{ID: "unison", Name: "Unison or chorus for a detuned pair, and a pair for unison",
	Needs: "two oscillators of one wave less than 60 ct apart, or one with unison voices", Uses: "unison of an oscillator, a chorus, or a second oscillator",
	Penalty: 0.15, Why: "the levels of the two can no longer differ, and what moves one moves both", Source: "beating: difference of the two frequencies",
	try: func(c *Case) []Recast {
		var out []Recast
		oscs := c.used(meaning.Osc)
		for _, lost := range oscs {
			if !c.Lost[lost.ID] {
				continue
			}
			for _, o := range oscs {
				d := get(lost, meaning.PInterval) - get(o, meaning.PInterval)
				if o.ID == lost.ID || c.Lost[o.ID] || math.Abs(d) > 60 || named(o, meaning.PWave) != named(lost, meaning.PWave) || get(o, meaning.PUnison) > 1 ||
					math.Abs(get(o, meaning.PLevel)-get(lost, meaning.PLevel)) > 6 || !c.Param(meaning.Osc, meaning.PUnison) {
					continue
				}
				e := c.begin("%s is %s from %s: unison of two, as far apart, beats as they did", lost.Label, text(q.DimInterval, d), o.Label)
				n := e.change(o.ID)
				put(n, meaning.PUnison, 2)
				put(n, meaning.PSpread, math.Abs(d))
				v := n.Params[meaning.PInterval]
				v.Value, v.Parts = v.Value+d/2, nil
				v.Dim = q.DimInterval
				n.Params[meaning.PInterval] = v
				e.drop(lost.ID)
				e.Map[meaning.Ref(lost.ID, meaning.PInterval)] = meaning.Ref(n.ID, meaning.PSpread)
				out = append(out, e.Recast)
			}
		}
		for _, lost := range oscs {
			if !c.Lost[lost.ID] || c.Have(meaning.Chorus) <= len(c.used(meaning.Chorus)) {
				continue
			}
			for _, o := range oscs {
				d := math.Abs(get(lost, meaning.PInterval) - get(o, meaning.PInterval))
				if o.ID == lost.ID || c.Lost[o.ID] || d > 40 || d < 1 || named(o, meaning.PWave) != named(lost, meaning.PWave) {
					continue
				}
				beat := 220 * (math.Exp2(d/1200) - 1)
				e := c.begin("a slow chorus moves about as the pair of %s and %s beat", o.Label, lost.Label)
				e.drop(lost.ID)
				ch := e.add(module(lost), "chorus", meaning.Chorus, "Chorus for "+lost.Label)
				put(ch, meaning.PRate, beat/2)
				put(ch, meaning.PDepth, 0.002) // common practice, no source
				put(ch, meaning.PDelay, 0.01)
				put(ch, meaning.PMix, 0.5)
				c.narrowForBass(e, ch)
				e.Map[meaning.Ref(lost.ID, meaning.PInterval)] = meaning.Ref(ch.ID, meaning.PRate)
				out = append(out, e.Recast)
				break
			}
		}
		for _, o := range oscs {
			n := int(math.Round(get(o, meaning.PUnison)))
			if n < 2 || c.Param(meaning.Osc, meaning.PUnison) || o.Changed() {
				continue
			}
			spread := get(o, meaning.PSpread)
			e := c.begin("%d unison voices of %s become two oscillators %s apart", n, o.Label, text(q.DimInterval, spread))
			e.part(o.ID)
			b := e.pair(o, spread)
			e.Map[meaning.Ref(o.ID, meaning.PSpread)] = meaning.Ref(b.ID, meaning.PInterval)
			e.Map[meaning.Ref(o.ID, meaning.PUnison)] = meaning.Ref(b.ID, meaning.PInterval)
			out = append(out, e.Recast)
		}
		return out
	}}

// pair plays an oscillator by two that lie so many cents apart, half to each side, without unison of their own, and gives the second.
func (e *edit) pair(o *meaning.Module, spread float64) *meaning.Module {
	a := e.change(o.ID)
	for _, name := range []meaning.ParamName{meaning.PUnison, meaning.PSpread, meaning.PStereo} {
		delete(a.Params, name)
	}
	v := a.Params[meaning.PInterval]
	v.Dim, v.Parts = q.DimInterval, nil
	v.Value -= spread / 2
	a.Params[meaning.PInterval] = v
	if level := a.Params[meaning.PLevel]; !level.Off {
		level.Dim = q.DimLevel
		level.Value -= 3 // two of equal power
		a.Params[meaning.PLevel] = level
	}
	first := *a
	b := e.add(module(o), "2", meaning.Osc, o.Label+", second")
	for name, p := range first.Params {
		b.Params[name] = p
	}
	v.Value += spread
	b.Params[meaning.PInterval] = v
	return b
}
