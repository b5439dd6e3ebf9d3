package rules

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// indexAtFull is the modulation index that a depth of 100 % is counted as (common practice, no
// source: instruments differ by a factor of four).
const indexAtFull = math.Pi

const operatorPenalty = 0.3

var operators = Rule{ID: "operator", Name: "Operators to the nearest wave",
	Needs: "operators that are heard, and none on the target", Uses: "one oscillator for each, and a filter where one is left",
	Penalty: operatorPenalty, Why: "a wave is fixed where modulation moves with its envelopes; clangs of odd ratios become plain", Source: "Chowning, JAES 21(7), 1973: sidebands by Bessel functions",
	try: func(c *Case) []Recast {
		var heard []*meaning.Module
		for _, m := range c.lost(meaning.Operator) {
			if !off(m, meaning.POutput) && get(m, meaning.POutput) > -60 {
				heard = append(heard, m)
			}
		}
		if len(heard) == 0 || c.Have(meaning.Osc) == 0 {
			return nil
		}
		// what is dearest goes first
		sort.SliceStable(heard, func(a, b int) bool { return c.Weight(heard[a].ID) > c.Weight(heard[b].ID) })
		var out []Recast
		for _, m := range heard {
			wave, with, down := c.nearestWave(m)
			e := c.begin("%s as %s: nearest to its spectrum%s", m.Label, article(wave), with)
			if x := c.carried(); x != nil { // an oscillator's level has no envelope of its own as an operator's has
				x.apply(c, e)
				e.Text += fmt.Sprintf("; %s, which moved the levels, opens the amplifier", c.Meaning.Module(x.env).Label)
				e.Also = append(e.Also, &carriers)
				for _, id := range e.Parts { // what the other rule costs, not what this one does
					e.Penalty -= (operatorPenalty - carriersPenalty) * c.Weight(id)
				}
			}
			o := e.replace(m.ID, meaning.Osc, m.Label+" as oscillator", func(name meaning.ParamName) meaning.ParamName {
				switch name {
				case meaning.PInterval, meaning.PFixed, meaning.PLevel, meaning.PKey, meaning.PPan, meaning.PTo, meaning.PPhase, meaning.POn:
					return name
				case meaning.POutput:
					return meaning.PLevel
				}
				return ""
			})
			word(o, meaning.PWave, wave)
			for _, name := range []meaning.ParamName{meaning.PInterval, meaning.PFixed, meaning.PKey, meaning.PPan, meaning.PTo, meaning.PPhase} {
				take(o, m, name, name)
			}
			if down != 0 {
				put(o, meaning.PInterval, get(m, meaning.PInterval)-down)
				e.Text += fmt.Sprintf(", %s st below it, where its sidebands have their fundamental", q.Number(down/100, 2))
			}
			level := get(m, meaning.POutput)
			if !off(m, meaning.PLevel) {
				level += get(m, meaning.PLevel)
			}
			put(o, meaning.PLevel, level)
			e.Map[meaning.Ref(m.ID, meaning.PWave)] = meaning.Ref(o.ID, meaning.PWave)
			e.Map[meaning.Ref(m.ID, meaning.POutput)] = meaning.Ref(o.ID, meaning.PLevel)
			e.Map[meaning.Ref(m.ID, meaning.PLevel)] = meaning.Ref(o.ID, meaning.PLevel)
			for _, r := range c.into(m.ID, meaning.PPM) {
				delete(e.Gone, r.ID) // the wave has it in it
			}
			// what only modulated it goes with it: the wave stands for both
			var spare []string
			for _, r := range c.into(m.ID, meaning.PPM) {
				if x := c.Meaning.Module(r.From); x != nil && x.ID != m.ID && c.Lost[x.ID] && off(x, meaning.POutput) && len(c.from(x.ID)) == 1 {
					e.drop(x.ID)
					for _, way := range c.into(x.ID, meaning.PLevel) {
						if env := c.Meaning.Module(way.From); env != nil && env.Kind == meaning.Env && len(c.from(env.ID)) == 1 {
							spare = append(spare, env.ID)
						}
					}
				}
			}
			opened := c.waveAndFilter(m, o.ID, e)
			for _, id := range spare {
				e.drop(id) // it moved nothing else
			}
			out = append(out, e.Recast)
			if opened != nil {
				out = append(out, *opened)
			}
		}
		return out
	}}

// waveAndFilter is a use of the rule with a filter besides: the wave whose filtered harmonics are nearest to the operator's spectrum, and
// where an envelope moves the modulator's level, the same envelope opens the filter from the fundamental. nil where the target has no
// filter left, where it would be no nearer, or where other sources would go through the same filter.
func (c *Case) waveAndFilter(m *meaning.Module, id string, plain *edit) *Recast {
	index, ratio, from := c.modulated(m)
	spectrum := Sidebands(ratio, index, 24)
	if from == nil || index < 0.1 || spectrum == nil || c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) || !off(m, meaning.PFixed) || c.sounding() != 1 {
		return nil
	}
	o := plain.Meaning.Module(id)
	best, wave, at := q.WaveDistance(spectrum, Harmonics(o, 24))-0.05, "", 0.0
	for _, w := range []string{q.WaveSaw, q.WavePulse, q.WaveTriangle} {
		all := (q.Wave{Name: w, Width: 0.5}).Amplitudes(24)
		for octaves := 0.0; octaves <= 5; octaves += 0.125 {
			filtered := make([]float64, len(all))
			for i, a := range all {
				filtered[i] = a * dsp.LowpassGain(2, 0, float64(i+1)/math.Exp2(octaves))
			}
			if d := q.WaveDistance(spectrum, filtered); d < best-1e-9 {
				best, wave, at = d, w, octaves
			}
		}
	}
	if wave == "" {
		return nil
	}
	e := *plain
	x := *plain.Meaning
	x.Modules, x.Routes = slices.Clone(x.Modules), slices.Clone(x.Routes)
	e.Meaning, e.Map, e.Parts = &x, maps.Clone(e.Map), slices.Clone(e.Parts)
	n := e.Meaning.Module(id)
	n.Params = maps.Clone(n.Params)
	word(n, meaning.PWave, wave)
	note := 440 * math.Exp2(-9.0/12) * q.Interval(get(m, meaning.PInterval)).Ratio()
	cutoff, opened := note*math.Exp2(at), ""
	called, origin := module(m).added("filter")
	f := meaning.Module{ID: called, Kind: meaning.Filter, Label: "Filter for " + m.Label, Params: map[meaning.ParamName]meaning.Value{}, Origin: origin}
	for _, r := range c.into(from.ID, meaning.PLevel) {
		if env := c.Meaning.Module(r.From); env != nil && env.Kind == meaning.Env && at > 0.25 {
			cutoff, opened = note, ", opened by "+env.Label+" as it moved the modulation"
			e.connect(module(m), "open", meaning.Route{Label: env.Label + " to the cutoff for " + m.Label, From: r.From, Via: r.Via, To: []string{meaning.Ref(f.ID, meaning.PCutoff)}, Polarity: "unipolar",
				Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: at}}})
			break
		}
	}
	word(&f, meaning.PMode, "lowpass")
	put(&f, meaning.PPoles, 2)
	put(&f, meaning.PCutoff, cutoff)
	put(&f, meaning.PTrack, 1)
	e.Meaning.Modules = append(e.Meaning.Modules, f)
	e.Text = fmt.Sprintf("%s as %s through a low-pass at %s for middle C%s: nearest to its spectrum at an index of %s", m.Label, article(wave), text(q.DimFrequency, cutoff), opened, q.Number(index, 2))
	if slices.Contains(e.Parts, from.ID) {
		e.Map[meaning.Ref(from.ID, meaning.PLevel)] = meaning.Ref(f.ID, meaning.PCutoff)
	}
	return &e.Recast
}

// sounding counts the sources of sound that are heard.
func (c *Case) sounding() int {
	n := len(c.used(meaning.Osc)) + len(c.used(meaning.Sub)) + len(c.used(meaning.Noise)) + len(c.used(meaning.Ring))
	for _, m := range c.used(meaning.Operator) {
		if !off(m, meaning.POutput) && get(m, meaning.POutput) > -60 {
			n++
		}
	}
	return n
}
