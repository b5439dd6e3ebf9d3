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
		if !c.Word(meaning.Noise, "to", "filter 2") || c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) {
			return nil
		}
		var out []Recast
		for _, m := range c.used(meaning.Noise) {
			way, known := colours[named(m, "colour")]
			if !known || c.Word(meaning.Noise, "colour", named(m, "colour")) || !c.Word(meaning.Filter, "mode", way.mode) || m.ID[len(m.ID)-1] == '~' {
				continue
			}
			e := c.begin("white noise through a filter of its own, %s at %s, is nearly %s", way.mode, text(q.DimFrequency, way.cutoff), named(m, "colour"))
			e.part(m.ID)
			n := e.change(m.ID)
			word(n, "colour", "white")
			word(n, "to", "filter 2")
			f := e.add(m.ID+"~filter", meaning.Filter, "Filter for "+m.Label)
			word(f, "mode", way.mode)
			put(f, "cutoff", way.cutoff)
			put(f, "poles", 2)
			word(f, "routing", "parallel")
			e.Map[m.ID+".colour"] = f.ID + ".cutoff"
			out = append(out, e.Recast)
		}
		return out
	}}
