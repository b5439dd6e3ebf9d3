package rules

import (
	"fmt"
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var chord = Rule{ID: "chord", Name: "Chord memory by the intervals of oscillators",
	Needs: "chord memory, and more than one oscillator on the target", Uses: "one oscillator for each note of the chord; those that only double the note give that up",
	Penalty: 0.05, Why: "one filter and one pair of envelopes for all the notes, and no more than the oscillators allow", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		for _, v := range c.used(meaning.Voice) {
			if len(v.Chord()) == 0 || c.Param(meaning.Voice, meaning.PChord) {
				continue
			}
			oscs := c.used(meaning.Osc)
			if len(oscs) == 0 {
				continue
			}
			var out []Recast
			for _, instead := range []bool{false, true} {
				if e := c.chordBy(v, oscs, instead); e != nil {
					out = append(out, e.Recast)
				}
			}
			if len(out) > 0 {
				return out
			}
		}
		return nil
	}}

// doubledPenalty is what it costs an oscillator to leave the note that it doubles, as a share of what it would cost to lose it (common practice, no source): that it is there at all
// is heard more than what it did beside another one.
const doubledPenalty = 0.1

// chordShare is what of a voice's set-up its chord memory is worth, with all of its notes (common practice, no source).
const chordShare = 0.7

// chordBy has the notes of a chord memory played by copies of the first oscillator, as far as the target has more than there are, and where instead is set by the others too, in
// place of the note that they play; nil where there is none. Notes that the first one has among its harmonics already, octaves of it, come last.
func (c *Case) chordBy(v *meaning.Module, oscs []*meaning.Module, instead bool) *edit {
	var notes []meaning.ParamName
	for _, octaves := range []bool{false, true} {
		for _, name := range v.Chord() {
			if octaves == (math.Mod(get(v, name), 1200) == 0) {
				notes = append(notes, name)
			}
		}
	}
	lead, others := oscs[0], oscs[1:]
	spare := max(0, c.Have(meaning.Osc)-len(oscs))
	most := spare
	if instead {
		if spare >= len(notes) || len(others) == 0 {
			return nil
		}
		most += min(len(others), c.Have(meaning.Osc)-1)
	}
	if most = min(most, len(notes)); most <= 0 {
		return nil
	}
	e := c.begin("%s of the chord played by oscillators at their intervals", several(most, "note"))
	e.part(v.ID)
	n := e.change(v.ID)
	word(n, meaning.PChord, "off")
	for _, name := range meaning.ChordNotes {
		delete(n.Params, name)
		delete(e.Map, meaning.Ref(v.ID, name)) // lost unless it is played below
	}
	var by []string
	for i, name := range notes[:most] {
		var o *meaning.Module
		if i < spare {
			o = e.add(module(lead), string(name), meaning.Osc, lead.Label+" for the chord")
			for p, val := range lead.Params {
				o.Params[p] = val
			}
		} else {
			was := others[i-spare]
			e.part(was.ID)
			o = e.change(was.ID)
			delete(e.Map, meaning.Ref(was.ID, meaning.PInterval))
			if get(o, meaning.PLevel) < get(lead, meaning.PLevel) || off(o, meaning.PLevel) {
				take(o, lead, meaning.PLevel, meaning.PLevel) // it is no doubling any more
			}
			e.Penalty += doubledPenalty * c.Weight(was.ID)
			by = append(by, was.Label)
		}
		iv := lead.Params[meaning.PInterval]
		iv.Dim, iv.Parts = q.DimInterval, nil
		iv.Value += get(v, name)
		o.Params[meaning.PInterval] = iv
		e.Map[meaning.Ref(v.ID, name)] = meaning.Ref(o.ID, meaning.PInterval)
	}
	switch len(by) {
	case 0:
	case 1:
		e.Text += fmt.Sprintf(", %s in place of the note that it doubles", by[0])
	default:
		e.Text += fmt.Sprintf(", %s in place of the note that they double", And(by))
	}
	if missing := len(notes) - most; missing > 0 {
		e.Text += fmt.Sprintf(", %s left out for want of oscillators", several(missing, "note"))
		e.Penalty += chordShare * float64(missing) / float64(len(notes)) * c.Weight(v.ID)
	}
	return e
}

func several(n int, thing string) string {
	if n == 1 {
		return "one " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}
