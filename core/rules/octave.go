package rules

import (
	"cmp"
	"math"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// The ends of a keyboard of 61 keys (common practice, no source).
const (
	lowestKey  q.Note = 36
	highestKey q.Note = 96
)

// beyondReach is by how many cents an oscillator has to be off to be another note (common practice, no source).
const beyondReach = 60.0

var octave = Rule{ID: "octave", Name: "Played in another octave", Player: true,
	Needs: "oscillators that lie beyond the target's footages", Uses: "the player's hands, an octave or two away",
	Penalty: 0.2, Why: "the keyboard ends sooner on one side", Source: "arithmetic: footage, semitones and the key add up",
	try: func(c *Case) []Recast {
		var pitched []*meaning.Module
		shifts := map[int]bool{}
		for _, k := range []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Operator} {
			for _, m := range c.used(k) {
				if !off(m, meaning.PFixed) {
					continue // it does not follow the keys
				}
				pitched = append(pitched, m)
				if got, ok := c.Reached(m.ID, meaning.PInterval); ok && math.Abs(got-get(m, meaning.PInterval)) > beyondReach {
					up := (got - get(m, meaning.PInterval)) / 1200
					shifts[int(math.Copysign(math.Ceil(math.Abs(up)-beyondReach/1200), up))] = true
				}
			}
			// what has no place though there are enough may lie beyond what the others reach
			for _, m := range c.lost(k) {
				free := c.Have(k) >= len(c.used(k)) || k != meaning.Operator && c.Have(meaning.Operator) > len(c.used(meaning.Operator))
				if up := -get(m, meaning.PInterval); free && off(m, meaning.PFixed) && math.Abs(up) >= 1200 {
					shifts[int(math.Copysign(1, up))] = true
				}
			}
		}
		var out []Recast
		for _, k := range []int{-2, -1, 1, 2} {
			if !shifts[k] || slices.ContainsFunc(pitched, func(m *meaning.Module) bool { return m.Changed() }) {
				continue
			}
			way, n := "higher", -k
			if k > 0 {
				way, n = "lower", k
			}
			from, to := lowestKey, highestKey-q.Note(12*n)
			if k > 0 {
				from, to = lowestKey+q.Note(12*n), highestKey
			}
			e := c.begin("play %s %s: the oscillators are set as far the other way; of 61 keys from %s to %s a part from %s to %s still plays", several(n, "octave"), way,
				lowestKey.NoteName(), highestKey.NoteName(), from.NoteName(), to.NoteName())
			e.part(pitched[0].ID)
			e.Meaning.Hands = e.Meaning.Hands.With(-k)
			for _, m := range pitched {
				x := e.change(m.ID)
				v := x.Params[meaning.PInterval]
				v.Dim, v.Value, v.Parts = q.DimInterval, v.Value+float64(1200*k), nil
				x.Params[meaning.PInterval] = v
			}
			// a filter that follows the keys is moved back as far as the keys have gone
			for _, f := range c.used(meaning.Filter) {
				if t := get(f, meaning.PTrack); t != 0 && !off(f, meaning.PCutoff) {
					x := e.change(f.ID)
					v := x.Params[meaning.PCutoff]
					v.Value *= math.Exp2(float64(k) * t)
					x.Params[meaning.PCutoff] = v
				}
			}
			for _, r := range c.routes() {
				if r.From != "key" || r.Via != "" || r.Depth.Dim != q.DimOctaves || len(r.To) != 1 {
					continue
				}
				if id, name := meaning.Split(r.To[0]); name == meaning.PCutoff && e.Meaning.Module(cmp.Or(e.Moved[id], id)) != nil {
					x := e.change(cmp.Or(e.Moved[id], id))
					v := x.Params[meaning.PCutoff]
					v.Value *= math.Exp2(float64(k) * r.Depth.Value)
					x.Params[meaning.PCutoff] = v
				}
			}
			out = append(out, e.Recast)
		}
		return out
	}}
