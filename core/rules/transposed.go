package rules

import (
	"math"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var transposed = Rule{ID: "transposed", Name: "Transposition moved between voice and oscillators",
	Needs: "a transposition that the target has not, or oscillators beyond its footages", Uses: "the footages, or the transposition",
	Penalty: 0.01, Why: "the sum is the same, and what else follows the transposition does not", Source: "arithmetic: transposition, footage, semitones and cents add up",
	try: func(c *Case) []Recast {
		voice := c.voice()
		if voice == nil || !c.Param(meaning.Voice, meaning.PTranspose) {
			return nil
		}
		pitched, beyond := c.pitched(), false
		for _, m := range pitched {
			beyond = beyond || c.Lost[m.ID]
			if m.Changed() {
				return nil
			}
		}
		if !beyond || voice.Changed() {
			return nil
		}
		var out []Recast
		for _, octaves := range shifts(pitched) {
			e := c.begin("the oscillators are set %s the other way, and the whole is transposed by %+d st", several(max(octaves, -octaves), "octave"), 12*octaves)
			for _, m := range pitched {
				if c.Lost[m.ID] {
					e.part(m.ID)
				}
			}
			e.transpose(c, voice, pitched, float64(1200*octaves))
			out = append(out, e.Recast)
		}
		return out
	}}

// shifts gives by how many octaves the whole may be moved so that what sounds lies nearer to the keys: all of it, or what lies beyond an octave and a half.
func shifts(pitched []*meaning.Module) (out []int) {
	mean, lo, hi := 0.0, 0.0, 0.0
	for _, m := range pitched {
		x := get(m, meaning.PInterval)
		mean, lo, hi = mean+x/float64(len(pitched)), min(lo, x), max(hi, x)
	}
	add := func(n int) {
		if n != 0 && n >= -2 && n <= 2 && !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	add(int(math.Round(mean / 1200)))
	if lo < -1800 {
		add(-1)
		add(-2)
	}
	if hi > 1800 {
		add(1)
		add(2)
	}
	return out
}

// Moved gives what is moved before anything else, as it costs nothing: a transposition that the target has not, into the oscillators.
func Moved(c *Case) []Recast {
	voice := c.voice()
	if voice == nil || c.Param(meaning.Voice, meaning.PTranspose) || off(voice, meaning.PTranspose) {
		return nil
	}
	cents := get(voice, meaning.PTranspose)
	pitched := c.pitched()
	if math.Abs(cents) < 1 || len(pitched) == 0 {
		return nil
	}
	e := c.begin("the transposition of %s is set at the oscillators", text(q.DimInterval, cents))
	e.part(voice.ID)
	e.transpose(c, voice, pitched, -cents)
	out := e.done()
	out[0].Rule = &transposed
	return out
}

// transpose moves the transposition of a voice by cents, and its oscillators the other way.
func (e *edit) transpose(c *Case, voice *meaning.Module, pitched []*meaning.Module, cents float64) {
	v := e.change(voice.ID)
	put(v, meaning.PTranspose, get(voice, meaning.PTranspose)+cents)
	if math.Abs(get(v, meaning.PTranspose)) < 1e-9 {
		delete(v.Params, meaning.PTranspose)
	}
	for _, m := range pitched {
		x := e.change(m.ID)
		w := x.Params[meaning.PInterval]
		w.Dim, w.Value, w.Parts = q.DimInterval, w.Value-cents, nil
		x.Params[meaning.PInterval] = w
	}
	e.Map[meaning.Ref(voice.ID, meaning.PTranspose)] = meaning.Ref(v.ID, meaning.PTranspose)
	if _, ok := v.Params[meaning.PTranspose]; !ok {
		e.Map[meaning.Ref(voice.ID, meaning.PTranspose)] = meaning.Ref(e.Moved[pitched[0].ID], meaning.PInterval)
	}
}

// voice is the voice set-up, nil where there is none.
func (c *Case) voice() *meaning.Module {
	for i := range c.Meaning.Modules {
		if m := &c.Meaning.Modules[i]; m.Kind == meaning.Voice && m.Used() {
			return m
		}
	}
	return nil
}

// pitched lists what follows the keys.
func (c *Case) pitched() (out []*meaning.Module) {
	for _, k := range []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Operator} {
		for _, m := range c.used(k) {
			if off(m, meaning.PFixed) {
				out = append(out, m)
			}
		}
	}
	return out
}
