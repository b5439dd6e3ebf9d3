package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var macros = Rule{ID: "macro", Name: "Assignable control worked into what it moves",
	Needs: "an assignable control that stands still, or none on the target", Uses: "the parameters that it moves",
	Penalty: 0.35, Why: "the sound is the same, the control is no longer under the hand", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Macro) {
			at := get(m, meaning.PValue)
			routes := c.from(m.ID)
			e := c.begin("%s stands at %s: what it moves is set there, and it moves no more", m.Label, text(q.DimRatio, at))
			for _, r := range routes {
				for _, d := range r.To {
					id, name := meaning.Split(d)
					if r.Via == "" {
						shift(e, id, name, at*r.Depth.Value)
					}
				}
			}
			e.drop(m.ID)
			out = append(out, e.Recast)
		}
		return out
	}}

// shift moves the base of a parameter by a depth: octaves for frequencies and times, cents for
// pitch, shares of full for levels. The module is named as it was before the edit: what the edit has changed already is followed.
func shift(e *edit, id string, name meaning.ParamName, by float64) {
	if to, moved := e.Moved[id]; moved {
		id = to
	}
	m := e.Meaning.Module(id)
	if m == nil {
		return
	}
	v, ok := m.Params[name]
	if !ok || v.Off || v.Dim.Named() || by == 0 {
		return
	}
	m = e.change(m.ID)
	switch v.Dim {
	case q.DimFrequency, q.DimDuration:
		v.Value *= math.Exp2(by)
	case q.DimLevel:
		if a := q.Level(v.Value).Amplitude() + by; a > 1e-4 {
			v.Value = 20 * math.Log10(a)
		} else {
			v.Off = true
		}
	case q.DimRatio, q.DimResonance:
		v.Value = math.Min(1, math.Max(-1, v.Value+by))
	default:
		v.Value += by
	}
	m.Params[name] = v
}
