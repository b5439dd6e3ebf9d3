package rules

import (
	"fmt"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var chord = Rule{ID: "chord", Name: "Chord memory by the intervals of oscillators",
	Needs: "chord memory, and oscillators to spare", Uses: "one oscillator for each note of the chord",
	Penalty: 0.25, Why: "one filter and one pair of envelopes for all the notes, and no more than the oscillators allow", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		for _, v := range c.used(meaning.Voice) {
			if named(v, meaning.PChord) == "off" || named(v, meaning.PChord) == "" || c.Param(meaning.Voice, meaning.PChord) {
				continue
			}
			oscs := c.used(meaning.Osc)
			if len(oscs) == 0 {
				continue
			}
			lead, spare := oscs[0], c.Have(meaning.Osc)-len(oscs)
			e := c.begin("")
			e.part(v.ID)
			n := e.change(v.ID)
			word(n, meaning.PChord, "off")
			played, missing := 0, 0
			for _, name := range []meaning.ParamName{meaning.PChord2, meaning.PChord3, meaning.PChord4, meaning.PChord5} {
				d := get(v, name)
				delete(n.Params, name)
				delete(e.Map, meaning.Ref(v.ID, name)) // lost unless it is played below
				if d == 0 {
					continue
				}
				if played >= spare {
					missing++
					continue
				}
				played++
				o := e.add(module(lead), string(name), meaning.Osc, lead.Label+" for the chord")
				for p, val := range lead.Params {
					o.Params[p] = val
				}
				iv := o.Params[meaning.PInterval]
				iv.Dim, iv.Parts = q.DimInterval, nil
				iv.Value += d
				o.Params[meaning.PInterval] = iv
				e.Map[meaning.Ref(v.ID, name)] = meaning.Ref(o.ID, meaning.PInterval)
			}
			if played == 0 {
				continue
			}
			e.Text = fmt.Sprintf("%s of the chord played by oscillators at their intervals", several(played, "note"))
			if missing > 0 {
				e.Text += fmt.Sprintf(", %s left out for want of oscillators", several(missing, "note"))
			}
			return e.done()
		}
		return nil
	}}

func several(n int, thing string) string {
	if n == 1 {
		return "one " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}
