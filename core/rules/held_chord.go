package rules

import (
	"fmt"
	"math"

	"glossator/core/meaning"
)

var heldChord = Rule{ID: "held-chord", Name: "Chord memory by the fingers", Player: true,
	Needs: "chord memory, and voices to spare", Uses: "a key for each note of the chord",
	Penalty: 0.15, Why: "a hand that holds a chord does nothing else, and each of its keys takes a voice", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		v := c.voice()
		if v == nil || len(v.Chord()) == 0 || c.Param(meaning.Voice, meaning.PChord) || !c.Word(meaning.Voice, meaning.PMode, "poly") || c.Meaning.Hands != nil {
			return nil
		}
		voices, known := c.Reached(v.ID, meaning.PCount)
		if !known {
			return nil
		}
		e := c.begin("")
		e.part(v.ID)
		n := e.change(v.ID)
		word(n, meaning.PChord, "off")
		word(n, meaning.PMode, "poly")
		var keys []int
		var says []string
		missing := 0
		for _, name := range meaning.ChordNotes {
			cents := get(v, name)
			delete(n.Params, name)
			switch key := int(math.Round(cents / 100)); {
			case cents == 0:
			case float64(len(keys)+2) > voices:
				missing++
				delete(e.Map, meaning.Ref(v.ID, name)) // it is lost
			default:
				keys = append(keys, key)
				says = append(says, fmt.Sprintf("%+d st", key))
			}
		}
		if len(keys) == 0 {
			return nil
		}
		e.Meaning.Hands = e.Meaning.Hands.With(0, keys...)
		e.Text = fmt.Sprintf("hold the chord yourself: with each key those at %s", And(says))
		if missing > 0 {
			e.Penalty += chordShare * float64(missing) / float64(missing+len(keys)) * c.Weight(v.ID)
			e.Text += fmt.Sprintf(", %s left out for want of voices", several(missing, "note"))
		}
		return e.done()
	}}
