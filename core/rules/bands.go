package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var bands = Rule{ID: "bands", Name: "Band-pass by a high-pass and a low-pass in series",
	Needs: "a band-pass filter, and a high-pass and a low-pass on the target but no band-pass", Uses: "two filters",
	Penalty: 0.15, Why: "two cutoffs to move together where there was one, and a peak on one side only", Source: "circuit theory: the two in series pass what both pass",
	try: func(c *Case) []Recast {
		if c.Word(meaning.Filter, meaning.PMode, "bandpass") || !c.Word(meaning.Filter, meaning.PMode, "highpass") || !c.Word(meaning.Filter, meaning.PMode, "lowpass") {
			return nil
		}
		var out []Recast
		for _, m := range c.used(meaning.Filter) {
			if named(m, meaning.PMode) != "bandpass" || c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) || m.Changed() {
				continue
			}
			e := c.begin("a high-pass and a low-pass, both at %s, in series", text(q.DimFrequency, get(m, meaning.PCutoff)))
			e.part(m.ID)
			low := e.change(m.ID)
			word(low, meaning.PMode, "lowpass")
			high := e.add(module(m), "high", meaning.Filter, m.Label+", high-pass")
			word(high, meaning.PMode, "highpass")
			for _, name := range []meaning.ParamName{meaning.PCutoff, meaning.PTrack} {
				take(high, m, name, name)
			}
			put(high, meaning.PPoles, 2)
			out = append(out, e.Recast)
		}
		return out
	}}
