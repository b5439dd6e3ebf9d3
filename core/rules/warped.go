package rules

import (
	"fmt"
	"math"
	"slices"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const warpedPenalty = 0.06

var warped = Rule{ID: "warped", Name: "Transformed wave by a plain one, and a filter that opens as it was transformed",
	Needs: "oscillators whose wave is transformed in a way that the target has not", Uses: "the wave, and a filter where one is left",
	Penalty: warpedPenalty, Why: "a filter takes harmonics away one after another, a transformation makes them all at once", Source: "Fourier series of the transformed cycle, nearest by loudness (Stevens, Psychological Review 64(3), 1957, from memory)",
	try: func(c *Case) []Recast {
		var list []*meaning.Module
		for _, m := range c.used(meaning.Osc) {
			if kind := named(m, meaning.PWarp); transforms(kind) && !(c.Param(meaning.Osc, meaning.PWarpAmount) && c.Word(meaning.Osc, meaning.PWarp, kind)) &&
				(get(m, meaning.PWarpAmount) > 0.02 || len(c.into(m.ID, meaning.PWarpAmount)) > 0) {
				list = append(list, m)
			}
		}
		if len(list) == 0 {
			return nil
		}
		out := []Recast{c.unwarped(list).Recast}
		return append(out, c.warpedAndFilter(list)...)
	}}

// transforms tells whether a word names a transformation whose spectrum is known.
func transforms(kind string) bool {
	return kind == dsp.WarpFold || kind == dsp.WarpBend || kind == dsp.WarpMirror || kind == dsp.WarpQuantise
}

// warpedHarmonics gives the amplitudes of the harmonics of an oscillator's wave, transformed by an amount.
func warpedHarmonics(m *meaning.Module, amount float64) []float64 {
	return transformed(cycleOf(m), named(m, meaning.PWarp), amount, modulatedHarmonics)
}

// cycleOf gives the harmonics of a cycle of an oscillator's wave, before it is transformed; of a triangle where its wave has none.
func cycleOf(m *meaning.Module) []q.Harmonic {
	const most = 256
	if tableOf(m) != nil {
		out := make([]q.Harmonic, most)
		for i, a := range Harmonics(m, most) {
			out[i].Amplitude = a // as it is heard: the phases of a table are none
		}
		return out
	}
	width, _ := m.Get(meaning.PWidth)
	if out := (q.Wave{Name: named(m, meaning.PWave), Width: q.Ratio(width.Value)}).Harmonics(most); out != nil {
		return out
	}
	return (q.Wave{Name: q.WaveTriangle}).Harmonics(most)
}

func transformed(cycle []q.Harmonic, kind string, amount float64, n int) []float64 {
	amplitudes, phases := make([]float64, len(cycle)), make([]float64, len(cycle))
	for i, h := range cycle {
		amplitudes[i], phases[i] = h.Amplitude, h.Phase
	}
	return dsp.WarpedHarmonics(amplitudes, phases, kind, min(1, max(0, amount)), n)
}

// heldAt gives where what moves a parameter has it while a note is held, as opened does for a cutoff.
func (c *Case) heldAt(m *meaning.Module, name meaning.ParamName) float64 {
	return get(m, name) + c.openedBy(m.ID, name)
}

// hertzOf gives the frequency of an oscillator at the middle of the notes played.
func (c *Case) hertzOf(m *meaning.Module) float64 {
	return float64(c.note().Frequency()) * math.Exp2(get(m, meaning.PInterval)/1200)
}

// unwarped puts the nearest plain waves in the place of transformed ones, as those are while a note is held.
func (c *Case) unwarped(list []*meaning.Module) *edit {
	e := c.begin("")
	for i, m := range list {
		const most = 128 // a low note is as bright as its high harmonics
		want := transformed(cycleOf(m), named(m, meaning.PWarp), c.heldAt(m, meaning.PWarpAmount), most)
		loud, counts := loudnesses(want), heardBy(c.hertzOf(m), most)
		best, wave, louder := math.Inf(1), q.WaveSine, 0.0
		for _, w := range []string{q.WaveSine, q.WaveTriangle, q.WavePulse, q.WaveSaw} {
			there := (q.Wave{Name: w, Width: 0.5}).Amplitudes(most)
			if d := apartBy(counts, loud, loudnesses(there)); d < best && c.hasWave(w) {
				best, wave, louder = d, w, louderBy(want, there)
			}
		}
		if i > 0 {
			e.Text += "; "
		}
		e.Text += fmt.Sprintf("%s as %s: nearest to its wave, transformed as it is while a note is held", m.Label, article(wave))
		e.plain(c, m, wave, louder)
		e.offWave(c, best, m)
		for _, r := range c.into(m.ID, meaning.PWarpAmount) {
			if e.still(c, r); e.Meaning.Route(r.ID) == nil {
				e.Gone[r.ID] = true // it stands still
			}
		}
	}
	return e
}

// hasWave tells whether an oscillator of the target has a wave; any where it has none by name.
func (c *Case) hasWave(wave string) bool {
	return c.Word(meaning.Osc, meaning.PWave, wave) || !slices.ContainsFunc(filterable, func(w string) bool { return c.Word(meaning.Osc, meaning.PWave, w) })
}

// plain gives an oscillator a wave that is not transformed, louder by some decibels.
func (e *edit) plain(c *Case, m *meaning.Module, wave string, louder float64) {
	e.part(m.ID)
	n := e.change(m.ID)
	word(n, meaning.PWave, wave)
	for _, name := range []meaning.ParamName{meaning.PWarp, meaning.PWarpAmount, meaning.PTable, meaning.PFrame, meaning.PWidth} {
		delete(n.Params, name)
	}
	if wave == q.WavePulse {
		put(n, meaning.PWidth, 0.5)
	}
	if !off(m, meaning.PLevel) {
		put(n, meaning.PLevel, get(m, meaning.PLevel)+louder)
	}
	to := meaning.Ref(n.ID, meaning.PWave)
	e.Map[meaning.Ref(m.ID, meaning.PWarp)], e.Map[meaning.Ref(m.ID, meaning.PWarpAmount)] = to, to
}

// still takes away a route that moved a transformation alone, and an envelope that moved nothing else.
func (e *edit) still(c *Case, r *meaning.Route) {
	if e.Meaning.Route(r.ID) == nil {
		return
	}
	if slices.ContainsFunc(r.To, func(to string) bool { _, name := meaning.Split(to); return name != meaning.PWarpAmount }) {
		x := e.route(r.ID)
		x.To = slices.DeleteFunc(x.To, func(to string) bool { _, name := meaning.Split(to); return name == meaning.PWarpAmount })
		return
	}
	e.dropRoute(r.ID)
	if env := c.Meaning.Module(r.From); env != nil && env.Kind == meaning.Env && !slices.ContainsFunc(e.Meaning.Routes, func(x meaning.Route) bool { return x.From == env.ID || x.Via == env.ID }) {
		e.drop(env.ID)
	}
}

// warpedAndFilter puts plain waves behind a low-pass in the place of transformed ones: it stands where their harmonics are nearest, and what moved the transformation of the loudest moves its
// cutoff. There is none where the target has neither a filter left nor operators that can stand for one, or where others sound too: they would go through it.
func (c *Case) warpedAndFilter(list []*meaning.Module) (out []Recast) {
	if c.Have(meaning.Filter) <= len(c.used(meaning.Filter)) && c.Have(meaning.Operator) == 0 || c.sounding() != len(list) {
		return nil
	}
	first := list[0]
	for _, m := range list {
		if !off(m, meaning.PFixed) {
			return nil
		}
		if get(m, meaning.PLevel) > get(first, meaning.PLevel)+0.1 {
			first = m
		}
	}
	var env *meaning.Route // what opens it
	for _, r := range c.into(first.ID, meaning.PWarpAmount) {
		if x := c.Meaning.Module(r.From); x != nil && x.Kind == meaning.Env && r.Via == "" && (env == nil || math.Abs(r.Depth.Value) > math.Abs(env.Depth.Value)) {
			env = r
		}
	}
	// at its most, and where it is held
	rest := get(first, meaning.PWarpAmount)
	high, low := c.heldAt(first, meaning.PWarpAmount), rest
	if env != nil {
		high = rest + env.Depth.Value
		if s := get(c.Meaning.Module(env.From), meaning.PSustain); s > 0.1 && s < 0.9 {
			low = rest + s*env.Depth.Value
		}
	} else if high-rest < 0.1 { // nothing moves it far: what does is reckoned a quarter of the way on
		low, high = rest, rest+0.25
		if high > 1 {
			low, high = rest-0.25, rest
		}
	}
	if math.Abs(high-low) < 0.02 {
		return nil
	}
	top, bottom := min(1, max(high, low)), max(0, min(high, low))
	lowest := math.Inf(1)
	for _, m := range list {
		lowest = min(lowest, get(m, meaning.PInterval))
	}
	voices := func(amount float64) (out []filteredVoice) {
		sum := 0.0
		for _, m := range list {
			spectrum := warpedHarmonics(m, get(m, meaning.PWarpAmount)+amount-rest)
			v := filteredVoice{m: m, spectrum: spectrum, loud: loudnesses(spectrum), weight: math.Pow(10, get(m, meaning.PLevel)/10), up: q.Interval(get(m, meaning.PInterval) - lowest).Ratio(),
				heard: heardBy(c.hertzOf(m), len(spectrum))}
			sum += v.weight
			out = append(out, v)
		}
		for i := range out {
			out[i].weight /= sum
		}
		return out
	}
	opened, closed := voices(top), voices(bottom)
	for _, poles := range []int{2, 4} {
		x := nearestFiltered(opened, poles, 1)
		if x == nil {
			continue
		}
		under := max(min(restsAt[poles], x.at), nearestCutoff(closed, x))
		slope := (x.at - under) / (top - bottom) // octaves an amount of 1
		base := x.at - slope*(top-rest)
		for _, moves := range []bool{true, false} {
			at := base
			switch {
			case moves && env != nil && slope < 0.1: // it would not be heard to move
				continue
			case !moves && env == nil: // it is the same
				continue
			case !moves: // as it is while a note is held
				at += slope * (c.heldAt(first, meaning.PWarpAmount) - rest)
			}
			e := c.behindWarpedFilter(list, x, first, slope, max(at, -1), lowest, moves)
			e.offWave(c, x.off/2, list...)
			out = append(out, e.Recast)
		}
	}
	return out
}

// nearestCutoff finds the cutoff at which waves behind a filter lie nearest to voices, in octaves above the lowest fundamental.
func nearestCutoff(voices []filteredVoice, by *filteredWaves) float64 {
	table := filteredTable()[by.poles]
	best, least := 0.0, math.Inf(1)
	for step := 0; step <= filteredMost*filteredSteps; step++ {
		total := 0.0
		for k, v := range voices {
			at := max(0, filteredLeast*filteredSteps+step-int(math.Round(filteredSteps*math.Log2(v.up))))
			total += v.weight * apartBy(v.heard, v.loud, table[by.waves[k]][at].loud)
		}
		if total < least-1e-9 {
			best, least = float64(step)/filteredSteps, total
		}
	}
	return best
}

// behindWarpedFilter is the use of the rule with some waves behind a filter, at base octaves above the fundamental of the lowest, which lies so many cents from the note; what moved the transformation of the
// first moves it by slope octaves for all of a transformation, or, where it does not move, all but its envelopes do.
func (c *Case) behindWarpedFilter(list []*meaning.Module, by *filteredWaves, first *meaning.Module, slope, base, lowest float64, moves bool) *edit {
	e := c.begin("")
	called, origin := module(first).added("filter")
	f := meaning.Module{ID: called, Kind: meaning.Filter, Label: "Filter for " + first.Label, Params: map[meaning.ParamName]meaning.Value{}, Origin: origin}
	cutoff := 440 * math.Exp2(-9.0/12) * q.Interval(lowest).Ratio() * math.Exp2(base)
	word(&f, meaning.PMode, "lowpass")
	put(&f, meaning.PPoles, float64(by.poles))
	put(&f, meaning.PCutoff, cutoff)
	put(&f, meaning.PTrack, 1)
	var names, as []string
	for i, m := range list {
		e.plain(c, m, filterable[by.waves[i]], by.louder[i])
		e.Map[meaning.Ref(m.ID, meaning.PWarpAmount)] = meaning.Ref(f.ID, meaning.PCutoff)
		names, as = append(names, m.Label), append(as, article(filterable[by.waves[i]]))
	}
	own := c.into(first.ID, meaning.PWarpAmount)
	for _, r := range own {
		if env := c.Meaning.Module(r.From); !moves && env != nil && env.Kind == meaning.Env {
			if e.still(c, r); e.Meaning.Route(r.ID) == nil {
				e.Gone[r.ID] = true
			}
			continue
		}
		depth := r.Depth.Value * slope
		if !slices.ContainsFunc(r.To, func(to string) bool { _, name := meaning.Split(to); return name != meaning.PWarpAmount }) {
			x := e.route(r.ID)
			x.To, x.Depth = []string{meaning.Ref(f.ID, meaning.PCutoff)}, meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: depth}}
			continue
		}
		e.still(c, r)
		e.connect(module(first), r.ID, meaning.Route{Label: r.Label, From: r.From, Via: r.Via, To: []string{meaning.Ref(f.ID, meaning.PCutoff)}, Polarity: r.Polarity, Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: depth}}})
	}
	for _, m := range list {
		for _, r := range c.into(m.ID, meaning.PWarpAmount) {
			if m != first && !slices.Contains(own, r) {
				e.still(c, r)
			}
		}
	}
	e.Meaning.Modules = append(e.Meaning.Modules, f)
	how := ", which moves as the wave was transformed"
	if !moves {
		how = ", as it is while a note is held"
	}
	e.Text = fmt.Sprintf("%s as %s through a low-pass at %s for middle C%s: nearest to its harmonics", And(names), And(as), text(q.DimFrequency, cutoff), how)
	return e
}
