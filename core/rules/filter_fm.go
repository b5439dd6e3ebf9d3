package rules

import (
	"fmt"
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var filterFM = Rule{ID: "filter-fm", Name: "Filter modulation by an LFO at audio rate",
	Needs: "an oscillator that moves a cutoff, and an LFO left on the target that is fast enough", Uses: "an LFO and its route to the cutoff",
	Penalty: 0.3, Why: "an LFO seldom follows the keys exactly, nor the phase of the oscillator", Source: "frequency of the oscillator at C4, from its interval",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			o := c.Meaning.Module(r.From)
			id, name := meaning.Split(r.To[0])
			f := c.Meaning.Module(id)
			if o == nil || o.Kind != meaning.Osc || f == nil || f.Kind != meaning.Filter || name != meaning.PCutoff || c.Have(meaning.LFO) <= len(c.used(meaning.LFO)) {
				continue
			}
			rate := float64(q.Note(60).Frequency()) * math.Exp2(get(o, meaning.PInterval)/1200)
			e := c.begin("an LFO at %s for middle C, by the key, moves the cutoff as %s did", text(q.DimFrequency, rate), o.Label)
			l := e.add(route(r), "lfo", meaning.LFO, fmt.Sprintf("LFO for %s", r.Label))
			put(l, meaning.PRate, rate)
			put(l, meaning.PKey, 1)
			take(l, o, meaning.PWave, meaning.PWave)
			e.route(r.ID).From = l.ID
			out = append(out, e.Recast)
		}
		return out
	}}
