package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var pwm = Rule{ID: "pwm", Name: "Width modulation by chorus or by detuning",
	Needs: "an LFO that moves a pulse's width, and no way to it on the target", Uses: "a chorus, or unison of the oscillator",
	Penalty: 0.3, Why: "the beating is alike, the hollow of the pulse does not move", Source: "a moving pulse is a saw less a delayed saw: the same comb as a chorus",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			lfo := c.Meaning.Module(r.From)
			id, name := meaning.Split(r.To[0])
			m := c.Meaning.Module(id)
			if lfo == nil || lfo.Kind != meaning.LFO || name != meaning.PWidth || m == nil || m.Kind != meaning.Osc {
				continue
			}
			rate := get(lfo, meaning.PRate)
			if rate > 10 {
				continue // too fast for beating: it is heard as a tone of its own
			}
			if c.Have(meaning.Chorus) > len(c.used(meaning.Chorus)) {
				e := c.begin("a chorus at %s beats as the moving width did", text(q.DimFrequency, rate))
				ch := e.add(route(r), "chorus", meaning.Chorus, "Chorus for "+r.Label)
				put(ch, meaning.PRate, rate)
				put(ch, meaning.PDepth, 0.002) // common practice, no source
				put(ch, meaning.PDelay, 0.01)
				put(ch, meaning.PMix, 0.5)
				c.narrowForBass(e, ch)
				e.dropRoute(r.ID)
				e.Map[meaning.Ref(r.ID, meaning.PDepth)] = meaning.Ref(ch.ID, meaning.PRate)
				out = append(out, e.Recast)
			}
			if get(m, meaning.PUnison) <= 1 && c.Param(meaning.Osc, meaning.PUnison) && !m.Changed() {
				// a width that moves by w at a rate f beats as two saws f*w*4 apart at A3
				cents := 1200 * math.Log2(1+4*rate*math.Abs(r.Depth.Value)/220)
				if cents < 1 || cents > 40 {
					continue // slower than anybody hears, or two notes (common practice, no source)
				}
				e := c.begin("unison of two, %s apart, beats about as fast as the width moved", text(q.DimInterval, cents))
				n := e.change(m.ID)
				put(n, meaning.PUnison, 2)
				put(n, meaning.PSpread, cents)
				e.dropRoute(r.ID)
				e.Map[meaning.Ref(r.ID, meaning.PDepth)] = meaning.Ref(n.ID, meaning.PSpread)
				out = append(out, e.Recast)
			}
		}
		return out
	}}
