package rules

import (
	"fmt"
	"math"
	"slices"
	once "sync"

	"glossator/core/dsp"
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const shapedPenalty = 0.2

var shaped = Rule{ID: "shaped", Name: "Low-pass by a wave that is transformed as far as it opens",
	Needs: "a low-pass for which the target has no filter left, and on the target oscillators whose wave can be transformed", Uses: "the transformation of each oscillator",
	Penalty: shapedPenalty, Why: "a transformation makes its harmonics all at once, and noise and resonance stay as they are", Source: "Fourier series of the transformed cycle, nearest by loudness (Stevens, Psychological Review 64(3), 1957, from memory)",
	try: func(c *Case) (out []Recast) {
		if !c.Param(meaning.Osc, meaning.PWarpAmount) {
			return nil
		}
		for _, f := range c.lost(meaning.Filter) {
			if named(f, meaning.PMode) != "lowpass" || off(f, meaning.PCutoff) || f.Changed() {
				continue
			}
			ways := []bool{false}
			if c.Have(meaning.Env) > len(c.used(meaning.Env)) {
				ways = append(ways, true)
			}
			for _, own := range ways {
				if e := c.shapedInstead(f, own); e != nil {
					out = append(out, e.Recast)
				}
			}
			break
		}
		return out
	}}

// shape is a plain wave that is transformed, with its harmonics at every step of the amount and how loud they are.
type shape struct {
	wave, kind      string
	harmonics, loud [][]float64
}

// shapeSteps is in how many steps an amount is tried.
const shapeSteps = 32

// shapes are those that are tried in place of a low-pass. Quantising is left out: it makes hiss, not brightness.
var shapes = once.OnceValue(func() (out []shape) {
	for _, wave := range []string{q.WaveSine, q.WaveTriangle, q.WaveSaw, q.WavePulse} {
		for _, kind := range []string{dsp.WarpBend, dsp.WarpFold, dsp.WarpMirror} {
			x := shape{wave: wave, kind: kind}
			cycle := (q.Wave{Name: wave, Width: 0.5}).Harmonics(256)
			for i := range shapeSteps + 1 {
				h := transformed(cycle, kind, float64(i)/shapeSteps, modulatedHarmonics)
				x.harmonics, x.loud = append(x.harmonics, h), append(x.loud, loudnesses(h))
			}
			out = append(out, x)
		}
	}
	return out
})

// nearest gives the amount at which a shape is nearest to harmonics, by their loudness, and how far off it is then; heard is what each harmonic counts for.
func (x *shape) nearest(heard, loud []float64) (amount, off float64) {
	off = math.Inf(1)
	for i, l := range x.loud {
		if d := apartBy(heard, loud, l); d < off-1e-9 {
			amount, off = float64(i)/shapeSteps, d
		}
	}
	return amount, off
}

// shapedInstead has what a low-pass lets through of the oscillators made by transforming their waves, at the notes played; what moves the cutoff moves the amounts. With own each oscillator is
// moved by an envelope of its own that is set alike. nil where no oscillator comes nearer by it.
func (c *Case) shapedInstead(f *meaning.Module, own bool) *edit {
	path := c.Meaning.Graph().Path()
	ways := c.into(f.ID, meaning.PCutoff)
	var opens *meaning.Route
	for _, r := range ways {
		env := c.Meaning.Module(r.From)
		if env != nil && env.Kind == meaning.Env && r.Via == "" && (opens == nil || math.Abs(r.Depth.Value) > math.Abs(opens.Depth.Value)) {
			opens = r
		}
	}
	held := c.opened(f)
	high, low := held+0.5, held-0.5 // what moves it is reckoned half an octave to either side
	if opens != nil {
		high, low = opens.Depth.Value, 0
		if s := get(c.Meaning.Module(opens.From), meaning.PSustain); s > 0.1 && s < 0.9 {
			low = s * opens.Depth.Value
		}
	}
	if math.Abs(high-low) < 0.05 {
		high, low = held+0.5, held-0.5
	}
	e := c.begin("")
	var names []string
	distance, sum, shared := 0.0, 0.0, map[string]bool{}
	moved := c.Moves(meaning.Env, meaning.Osc, meaning.PWarpAmount) || c.Moves(meaning.LFO, meaning.Osc, meaning.PWarpAmount)
	for _, m := range c.used(meaning.Osc) {
		wave := Harmonics(m, modulatedHarmonics)
		if wave == nil || !slices.ContainsFunc(path.FiltersOf(m.ID), func(x *meaning.Module) bool { return x.ID == f.ID }) {
			continue
		}
		counts := heardBy(c.hertzOf(m), modulatedHarmonics)
		through := func(octaves float64) []float64 { return c.letThrough(f, m, wave, octaves) }
		at := held
		if opens != nil {
			at = max(high, low)
		}
		top, bottom, still := loudnesses(through(max(high, low))), loudnesses(through(min(high, low))), loudnesses(through(held))
		var best *shape
		var a, b float64
		least := math.Inf(1)
		for i := range shapes() {
			x := &shapes()[i]
			if !c.hasWave(x.wave) || !c.Word(meaning.Osc, meaning.PWarp, x.kind) {
				continue
			}
			ta, da := x.nearest(counts, top)
			tb, db := x.nearest(counts, bottom)
			if !moved {
				_, da = x.nearest(counts, still)
				db = da
			}
			if da+db < least-1e-9 {
				best, a, b, least = x, ta, tb, da+db
			}
		}
		if best == nil {
			return nil
		}
		slope := (a - b) / math.Abs(high-low) // an octave
		amount := a - slope*max(high, low)
		if stands, _ := best.nearest(counts, still); !moved {
			amount = stands
		} else if opens == nil {
			amount = stands - slope*held
		}
		weight := math.Pow(10, get(m, meaning.PLevel)/10)
		distance, sum = distance+weight*least/2, sum+weight
		e.part(m.ID)
		n := e.change(m.ID)
		for _, name := range []meaning.ParamName{meaning.PTable, meaning.PFrame, meaning.PWidth} {
			delete(n.Params, name)
		}
		word(n, meaning.PWave, best.wave)
		word(n, meaning.PWarp, best.kind)
		put(n, meaning.PWarpAmount, min(1, max(0, amount)))
		heard, _ := best.nearest(counts, loudnesses(through(at)))
		if !off(n, meaning.PLevel) {
			put(n, meaning.PLevel, get(m, meaning.PLevel)+louderBy(through(at), best.harmonics[int(math.Round(heard*shapeSteps))]))
		}
		if len(names) == 0 {
			e.Map[meaning.Ref(f.ID, meaning.PCutoff)] = meaning.Ref(n.ID, meaning.PWarpAmount)
		}
		for _, r := range ways {
			if !moved || math.Abs(slope) < 1e-3 {
				continue
			}
			x := *r
			x.To, x.Depth = []string{meaning.Ref(n.ID, meaning.PWarpAmount)}, meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: r.Depth.Value * slope}}
			if env := c.Meaning.Module(r.From); own && env != nil && env.Kind == meaning.Env {
				if shared[env.ID] || len(c.from(env.ID)) > 1 {
					x.From = e.alike(env, m.ID, m.Label)
				}
				shared[env.ID] = true
			}
			id := e.connect(part{id: r.Source()}, m.ID, x)
			if len(names) == 0 {
				e.Map[meaning.Ref(r.ID, meaning.PDepth)] = meaning.Ref(id, meaning.PDepth)
			}
		}
		names = append(names, fmt.Sprintf("%s as %s transformed by %s", m.Label, article(best.wave), best.kind))
	}
	if len(names) == 0 || own && len(shared) == 0 {
		return nil
	}
	for _, r := range ways {
		if len(r.To) == 1 {
			e.dropRoute(r.ID)
		}
	}
	e.drop(f.ID)
	e.Text = fmt.Sprintf("%s, as far as %s is open: nearest to what it lets through", And(names), f.Label)
	e.Penalty += (1 - shapedPenalty) * min(1, 1.5*distance/sum) * c.Weight(f.ID)
	return e
}
