package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var keyRate = Rule{ID: "key-rate", Name: "Key-tracked rate by a route",
	Needs: "an LFO whose rate follows the key, and none on the target that does", Uses: "a route from the key to the rate",
	Penalty: 0.08, Why: "a route is seldom exact enough for a rate that is heard as pitch", Source: "one octave of rate an octave of keys",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.LFO) {
			k := get(m, meaning.PKey)
			if k == 0 || c.Param(meaning.LFO, meaning.PKey) || m.Changed() {
				continue
			}
			e := c.begin("a route from the key moves the rate by %s of the keyboard", text(q.DimRatio, k))
			e.part(m.ID)
			n := e.change(m.ID)
			delete(n.Params, meaning.PKey)
			way := meaning.Route{Label: "Key to rate of " + m.Label, From: "key", To: []string{meaning.Ref(n.ID, meaning.PRate)}, Polarity: "bipolar",
				Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: k}}}
			e.Map[meaning.Ref(m.ID, meaning.PKey)] = meaning.Ref(e.connect(module(m), "key", way), meaning.PDepth)
			out = append(out, e.Recast)
		}
		return out
	}}
