package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// colours are the filters that make white noise nearly another colour: one pole falls by 6 dB an
// octave, as brown noise does; pink noise falls by half of that, which one pole meets about its cutoff
// alone. Air is what a high-pass leaves (common practice, no source).
var colours = map[string]struct {
	mode   string
	cutoff float64
}{"brown": {"lowpass", 100}, "pink": {"lowpass", 1000}, "air": {"highpass", 4000}}

var colour = Rule{ID: "noise-colour", Name: "Colour of noise by a filter of its own",
	Needs: "noise of a colour that the target has not, and a filter that the noise alone can go through", Uses: "a filter and the path of the noise",
	Penalty: 0.15, Why: "pink noise falls by 3 dB an octave and a filter by 6 or more", Source: "slope of one pole: 6 dB an octave (circuit theory)",
	try: func(c *Case) []Recast {
		if !c.Word(meaning.Noise, meaning.PTo, "filter 2") || c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) {
			return nil
		}
		var out []Recast
		for _, m := range c.used(meaning.Noise) {
			way, known := colours[named(m, meaning.PColour)]
			if !known || c.Word(meaning.Noise, meaning.PColour, named(m, meaning.PColour)) || !c.Word(meaning.Filter, meaning.PMode, way.mode) || m.Changed() {
				continue
			}
			e := c.begin("white noise through a filter of its own, %s at %s, is nearly %s", way.mode, text(q.DimFrequency, way.cutoff), named(m, meaning.PColour))
			e.part(m.ID)
			n := e.change(m.ID)
			word(n, meaning.PColour, "white")
			word(n, meaning.PTo, "filter 2")
			f := e.add(module(m), "filter", meaning.Filter, "Filter for "+m.Label)
			word(f, meaning.PMode, way.mode)
			put(f, meaning.PCutoff, way.cutoff)
			put(f, meaning.PPoles, 2)
			word(f, meaning.PRouting, "parallel")
			e.Map[meaning.Ref(m.ID, meaning.PColour)] = meaning.Ref(f.ID, meaning.PCutoff)
			out = append(out, e.Recast)
		}
		return out
	}}
