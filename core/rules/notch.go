package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var notch = Rule{ID: "notch", Name: "Notch by a high-pass and a low-pass in parallel",
	Needs: "a notch filter, and on the target two filters that can stand in parallel but none with a notch", Uses: "two filters of two poles",
	Penalty: 0.12, Why: "two cutoffs and two resonances to keep together where there was one",
	Source: "circuit theory: (1 + s^2)/D is the low-pass 1/D and the high-pass s^2/D of one cutoff and one Q added",
	try: func(c *Case) []Recast {
		if c.Word(meaning.Filter, meaning.PMode, "notch") || !c.Word(meaning.Filter, meaning.PMode, "highpass") || !c.Word(meaning.Filter, meaning.PMode, "lowpass") || !c.Word(meaning.Filter, meaning.PRouting, "parallel") {
			return nil
		}
		var out []Recast
		for _, m := range c.used(meaning.Filter) {
			if named(m, meaning.PMode) != "notch" || c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) || m.Changed() {
				continue
			}
			e := c.begin("a low-pass and a high-pass of two poles, both at %s, in parallel leave the notch", text(q.DimFrequency, get(m, meaning.PCutoff)))
			e.part(m.ID)
			low := e.change(m.ID)
			word(low, meaning.PMode, "lowpass")
			put(low, meaning.PPoles, 2)
			first := *low
			high := e.add(module(m), "high", meaning.Filter, m.Label+", high-pass")
			for _, name := range []meaning.ParamName{meaning.PCutoff, meaning.PTrack, meaning.PResonance, meaning.PPoles} {
				take(high, &first, name, name)
			}
			word(high, meaning.PMode, "highpass")
			word(high, meaning.PRouting, "parallel")
			for _, r := range c.into(m.ID, meaning.PCutoff) { // what moves the one moves the other
				w := *r
				w.To = []string{meaning.Ref(high.ID, meaning.PCutoff)}
				e.connect(route(r), "high", w)
			}
			out = append(out, e.Recast)
		}
		return out
	}}
