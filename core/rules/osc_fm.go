package rules

import (
	"cmp"
	"fmt"
	"maps"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const oscFMPenalty = 0.08

var oscFM = Rule{ID: "osc-fm", Name: "Operators by oscillators that modulate each other",
	Needs: "an operator that another one modulates, and on the target oscillators whose neighbour modulates their frequency", Uses: "an oscillator for each carrier and a silent one for what modulates it",
	Penalty: oscFMPenalty, Why: "an oscillator's phase runs free, and it wavers where an operator stands still", Source: "Chowning, JAES 21(7), 1973: a phase that a sine moves has the sidebands of a frequency that one moves",
	try: func(c *Case) []Recast {
		if !c.Param(meaning.Osc, meaning.PFM) {
			return nil
		}
		heard := c.carriers()
		slices.SortStableFunc(heard, func(a, b *meaning.Module) int { return cmp.Compare(loudOf(b), loudOf(a)) })
		var out []Recast
		heard = heard[:min(2, len(heard))]
		for n := len(heard); n > 0; n-- {
			out = append(out, c.modulatedOscs(n, heard...)...)
		}
		if len(heard) > 1 {
			for _, m := range heard {
				out = append(out, c.modulatedOscs(1, m)...)
			}
		}
		return out
	}}

// modulatedOscs are uses of the rule for operators of which one modulates the first n; others become the waves that are nearest. There is one with the envelope that moves
// the modulator's level at the amount of the modulation, and one with the modulation as it is while a note is held.
func (c *Case) modulatedOscs(n int, all ...*meaning.Module) (out []Recast) {
	carriers := all[:n]
	var by *meaning.Module
	var indexes []float64
	for i, m := range carriers {
		index, _, from := c.modulated(m)
		if from == nil || i > 0 && from != by || index < 0.05 || index > 1.25*indexAtFull {
			return nil
		}
		by, indexes = from, append(indexes, index)
	}
	if by == nil || !off(by, meaning.POutput) || !off(by, meaning.PFixed) || !c.Lost[by.ID] || c.Have(meaning.Osc) < len(c.used(meaning.Osc))+len(all)+1 {
		return nil
	}
	var env *meaning.Route
	for _, r := range c.into(by.ID, meaning.PLevel) {
		if x := c.Meaning.Module(r.From); x != nil && x.Kind == meaning.Env {
			env = r
		}
	}
	for _, moved := range []bool{true, false} {
		if moved && (env == nil || !c.Moves(meaning.Env, meaning.Osc, meaning.PFM)) {
			continue
		}
		plain, spare := c.waves(oscFMPenalty, by, all...)
		if plain.Meaning.Module(by.ID) != nil {
			return nil // something else needs it
		}
		e := *plain
		var names []string
		silent := meaning.Module{Kind: meaning.Osc, Label: by.Label + " as oscillator", Params: map[meaning.ParamName]meaning.Value{}}
		silent.ID, silent.Origin = module(by).added("osc")
		for _, name := range []meaning.ParamName{meaning.PInterval, meaning.PKey, meaning.PWave} {
			take(&silent, by, name, name)
			e.Map[meaning.Ref(by.ID, name)] = meaning.Ref(silent.ID, name)
		}
		silent.Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
		for i, m := range carriers {
			n := e.Meaning.Module(plain.Moved[m.ID])
			n.Params = maps.Clone(n.Params)
			n.Params[meaning.PWave] = m.Params[meaning.PWave]
			if named(m, meaning.PWave) == "" {
				word(n, meaning.PWave, q.WaveSine)
			}
			put(n, meaning.PInterval, get(m, meaning.PInterval))
			if v := n.Params[meaning.PLevel]; !v.Off {
				put(n, meaning.PLevel, loudOf(m))
			} else { // an envelope opens it
				for k := range e.Meaning.Routes {
					if r := &e.Meaning.Routes[k]; slices.Contains(r.To, meaning.Ref(n.ID, meaning.PLevel)) && c.Meaning.Module(r.From) != nil && c.Meaning.Module(r.From).Kind == meaning.Env {
						r.Depth.Value = min(1, q.Level(loudOf(m)).Amplitude())
					}
				}
			}
			share := indexes[i] / indexAtFull
			to := meaning.Ref(n.ID, meaning.PFM)
			if moved {
				put(n, meaning.PFM, 0)
				id := e.connect(module(m), "index", meaning.Route{Label: c.Meaning.Module(env.From).Label + " to the modulation of " + m.Label, From: env.From, Via: env.Via, To: []string{meaning.Ref(n.ID, meaning.PFM)}, Polarity: "unipolar",
					Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: share * env.Depth.Value}}})
				to = meaning.Ref(id, meaning.PDepth)
			} else {
				if env != nil {
					s := get(c.Meaning.Module(env.From), meaning.PSustain)
					share *= s + (1-s)/3 // as it is while a note is held (common practice, no source)
				}
				put(n, meaning.PFM, min(1, share))
			}
			e.Map[meaning.Ref(by.ID, meaning.PLevel)] = to
			for _, r := range c.into(m.ID, meaning.PPM) {
				if r.From == by.ID {
					e.Map[meaning.Ref(r.ID, meaning.PDepth)] = to
				}
			}
			names = append(names, m.Label)
		}
		// what modulates is the oscillator that follows (meaning.Modulator)
		at := slices.IndexFunc(e.Meaning.Modules, func(m meaning.Module) bool { return m.ID == plain.Moved[carriers[0].ID] })
		e.Meaning.Modules = slices.Insert(slices.Clone(e.Meaning.Modules), at+1, silent)
		if slices.ContainsFunc(carriers, func(m *meaning.Module) bool {
			return e.Meaning.Modulator(e.Meaning.Module(plain.Moved[m.ID])) != silent.ID
		}) {
			return nil
		}
		for _, id := range spare {
			if !moved || id != env.From {
				e.drop(id) // it moved nothing else
			}
		}
		e.Text = fmt.Sprintf("%s as oscillators that %s modulates", And(names), by.Label)
		if len(names) == 1 {
			e.Text = fmt.Sprintf("%s as an oscillator that %s modulates", names[0], by.Label)
		}
		for _, m := range all[n:] {
			e.Text += fmt.Sprintf(", and %s as %s", m.Label, article(named(e.Meaning.Module(plain.Moved[m.ID]), meaning.PWave)))
			if index, ratio, _ := c.modulated(m); Sidebands(ratio, index, 24) != nil { // nothing modulates it any more
				e.offWave(c, loudnessApart(Sidebands(ratio, index, 24), Harmonics(e.Meaning.Module(plain.Moved[m.ID]), 24)), m)
			}
		}
		switch {
		case moved:
			e.Text += fmt.Sprintf(", by as much as %s has it", c.Meaning.Module(env.From).Label)
		case env != nil:
			e.Text += fmt.Sprintf(", by as much as while a note is held: %s does not move it", c.Meaning.Module(env.From).Label)
			e.worse(c, oscFMPenalty, 0.2)
		}
		out = append(out, e.Recast)
	}
	return out
}
