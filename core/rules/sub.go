package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var sub = Rule{ID: "sub", Name: "Sub oscillator and low oscillator for one another",
	Needs: "an oscillator a whole octave or two below another, or a sub oscillator", Uses: "the target's sub oscillator, or an oscillator",
	Penalty: 0.12, Why: "a sub oscillator is locked in phase and cannot be detuned", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Sub) {
			e := c.begin("%s is played by an oscillator", m.Label)
			osc := e.replace(m.ID, meaning.Osc, m.Label+" as oscillator", same(meaning.Osc))
			for _, name := range []meaning.ParamName{meaning.PWave, meaning.PWidth, meaning.PInterval, meaning.PLevel, meaning.PTo} {
				take(osc, m, name, name)
			}
			if _, ok := osc.Params[meaning.PWave]; !ok {
				word(osc, meaning.PWave, q.WavePulse)
			}
			out = append(out, e.Recast)
		}
		if c.Have(meaning.Sub) == 0 {
			return out
		}
		for _, m := range c.lost(meaning.Osc) {
			below := false
			for _, o := range c.used(meaning.Osc) {
				d := get(o, meaning.PInterval) - get(m, meaning.PInterval)
				below = below || o.ID != m.ID && math.Abs(d-1200) < 60 || math.Abs(d-2400) < 60
			}
			if !below {
				continue
			}
			e := c.begin("%s lies an octave below another: the sub oscillator plays it", m.Label)
			s := e.replace(m.ID, meaning.Sub, m.Label+" as sub", same(meaning.Sub))
			for _, name := range []meaning.ParamName{meaning.PWave, meaning.PWidth, meaning.PInterval, meaning.PLevel, meaning.PTo} {
				take(s, m, name, name)
			}
			out = append(out, e.Recast)
		}
		return out
	}}
