package rules

import (
	"fmt"
	"math"
	"math/cmplx"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const inTunePenalty = 0.1

// Bounds of what is taken for in tune (common practice, no source): the highest harmonic that another oscillator may be, and how far beside it, in cents: further and it beats.
const (
	inTuneHighest = 8
	inTuneBeside  = 8.0
	inTuneNearer  = 0.03 // how much nearer the one wave has to be than the sound without the other, of quantity.WaveDistance
)

var inTune = Rule{ID: "in-tune", Name: "Oscillators in tune by one wave",
	Needs: "an oscillator without a place, and another that is a harmonic of it or that it is one of", Uses: "one oscillator, of the wave whose harmonics come nearest to what the two play together",
	Penalty: inTunePenalty, Why: "one wave stands still where two drift against each other, and has harmonics that neither had", Source: "Fourier series: what lies at whole multiples of a frequency is one wave of that frequency",
	try: func(c *Case) []Recast {
		all := append(c.used(meaning.Osc), c.used(meaning.Sub)...)
		if len(all) == 0 {
			return nil
		}
		for _, m := range c.lost(meaning.Operator) {
			if by, _, from := c.modulated(m); m.Sounds() && by == 0 && from == nil && get(m, meaning.PFeedback) == 0 && off(m, meaning.PFixed) {
				all = append(all, m) // it is an oscillator as any other
			}
		}
		var out []Recast
		for _, base := range all {
			for _, other := range all {
				if base != other && (c.Lost[base.ID] || c.Lost[other.ID]) {
					if e := c.oneWave(base, other); e != nil {
						out = append(out, e.Recast)
					}
				}
			}
		}
		return out
	}}

// oneWave has a wave stand for two oscillators of which one is a harmonic of the other, the base; nil where it is none, where one moves without the other, or where the wave
// would be no nearer than the sound without the one that is lost.
func (c *Case) oneWave(base, other *meaning.Module) *edit {
	n := math.Round(math.Exp2((get(other, meaning.PInterval) - get(base, meaning.PInterval)) / 1200))
	beside := get(other, meaning.PInterval) - get(base, meaning.PInterval) - 1200*math.Log2(n)
	if n < 1 || n > inTuneHighest || n == 1 && base.ID > other.ID || math.Abs(beside) > inTuneBeside || !c.still(base) || !c.still(other) || !c.alike(base, other) {
		return nil
	}
	if base.Kind == meaning.Operator && other.Kind == meaning.Operator {
		return nil
	}
	a, b := tone(base), tone(other)
	if a == nil || b == nil {
		return nil
	}
	sum, alone := make([]float64, len(a)), make([]float64, len(a))
	for i := range a {
		sum[i] = a[i] * q.Level(plays(base)).Amplitude()
	}
	for i := range b {
		if h := (i+1)*int(n) - 1; h < len(sum) {
			x := b[i] * q.Level(plays(other)).Amplitude()
			sum[h], alone[h] = math.Hypot(sum[h], x), x // they drift: power adds
		}
	}
	through := c.through(base)
	rest := loudnessApart(filtered(sum, through), filtered(alone, through))
	if c.Lost[other.ID] {
		rest = loudnessApart(filtered(sum, through), filtered(a, through))
	}
	wave, width, off, level := nearestPlain(sum, through)
	if off > rest-inTuneNearer {
		return nil
	}
	keep, gone := base, other
	if base.Kind != meaning.Osc && other.Kind == meaning.Osc || base.Kind == meaning.Operator {
		keep, gone = other, base
	}
	e := c.begin("%s and %s, which is a harmonic of it, by %s: nearest to what the two play", base.Label, other.Label, article(wave))
	if n == 1 {
		e.Text = fmt.Sprintf("%s and %s, in tune, by %s: nearest to what the two play", base.Label, other.Label, article(wave))
	}
	e.part(keep.ID)
	made := e.change(keep.ID)
	made.Params[meaning.PInterval] = meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: get(base, meaning.PInterval)}}
	for _, name := range []meaning.ParamName{meaning.PTable, meaning.PFrame, meaning.PWidth} {
		delete(made.Params, name)
		delete(e.Map, meaning.Ref(keep.ID, name))
	}
	word(made, meaning.PWave, wave)
	if wave == q.WavePulse {
		put(made, meaning.PWidth, width)
	}
	put(made, meaning.PLevel, level)
	for _, name := range []meaning.ParamName{meaning.PWave, meaning.PLevel, meaning.PInterval} {
		e.Map[meaning.Ref(keep.ID, name)], e.Map[meaning.Ref(gone.ID, name)] = meaning.Ref(made.ID, name), meaning.Ref(made.ID, name)
	}
	if gone.Kind == meaning.Operator {
		e.Map[meaning.Ref(gone.ID, meaning.POutput)] = meaning.Ref(made.ID, meaning.PLevel)
	}
	to := made.ID
	e.drop(gone.ID)
	delete(e.Map, meaning.Ref(gone.ID, meaning.PInterval))
	if gone == base {
		delete(e.Map, meaning.Ref(keep.ID, meaning.PInterval))
		e.Map[meaning.Ref(gone.ID, meaning.PInterval)] = meaning.Ref(to, meaning.PInterval)
	}
	e.worse(c, inTunePenalty, off)
	return e
}

// tone gives the amplitudes of what an oscillator or an operator that nothing modulates plays.
func tone(m *meaning.Module) []float64 {
	if m.Kind == meaning.Operator && named(m, meaning.PWave) == "" {
		return q.Wave{Name: q.WaveSine}.Amplitudes(HarmonicsCompared)
	}
	return Harmonics(m, HarmonicsCompared)
}

// plays gives the level of an oscillator or operator, in decibels.
func plays(m *meaning.Module) float64 {
	if m.Kind == meaning.Operator {
		return loudOf(m)
	}
	return get(m, meaning.PLevel)
}

// still tells whether an oscillator is heard by itself with a wave that stays: not muted, of the key's pitch, in no sync or modulation, one voice, and moving nothing.
func (c *Case) still(m *meaning.Module) bool {
	if m.Kind == meaning.Osc && !off(m, meaning.PFixed) || off(m, meaning.PLevel) || syncs(m) || get(m, meaning.PFM) != 0 || get(m, meaning.PUnison) > 1 || get(m, meaning.PWarpAmount) != 0 {
		return false
	}
	return len(c.from(m.ID)) == 0 && len(c.into(m.ID, meaning.PFrame)) == 0 && len(c.into(m.ID, meaning.PWidth)) == 0
}

// alike tells whether two oscillators go the same way, stand at about the same place, and are moved by the same.
func (c *Case) alike(a, b *meaning.Module) bool {
	if named(a, meaning.PTo) != named(b, meaning.PTo) || math.Abs(get(a, meaning.PPan)-get(b, meaning.PPan)) > 0.2 || get(a, meaning.PKey) != get(b, meaning.PKey) && a.Kind == b.Kind {
		return false
	}
	moved := func(x, y *meaning.Module) bool {
		for _, r := range c.into(x.ID, "") {
			for _, to := range r.To {
				if id, name := meaning.Split(to); id == x.ID && !slices.Contains(c.into(y.ID, name), r) {
					return true
				}
			}
		}
		return false
	}
	return !moved(a, b) && !moved(b, a)
}

// through gives how much the filters let through of each harmonic of an oscillator, as they stand while the note in the middle of those played is held.
func (c *Case) through(m *meaning.Module) []float64 {
	path := c.Meaning.Graph().Path()
	gains := map[string]func(float64) complex128{}
	hz := float64(c.note().Frequency()) * math.Exp2(get(m, meaning.PInterval)/1200)
	out := make([]float64, HarmonicsCompared)
	for i := range out {
		out[i] = cmplx.Abs(path.Gain(m.ID, func(f *meaning.Module) complex128 {
			if gains[f.ID] == nil {
				gains[f.ID] = c.gainOf(f)
			}
			return gains[f.ID](float64(i+1) * hz)
		}))
	}
	return out
}

func filtered(harmonics, through []float64) []float64 {
	out := make([]float64, len(harmonics))
	for i, a := range harmonics {
		out[i] = a * through[i]
	}
	return out
}

// nearestPlain gives the plain wave that sounds nearest to harmonics of which so much is let through, the width of a pulse, how far off it is (loudnessApart), and its level in decibels.
func nearestPlain(harmonics, through []float64) (wave string, width, off, level float64) {
	off, harmonics = math.Inf(1), filtered(harmonics, through)
	for _, x := range []q.Wave{{Name: q.WaveSine}, {Name: q.WaveTriangle}, {Name: q.WaveSaw}, {Name: q.WavePulse, Width: 0.5}, {Name: q.WavePulse, Width: 0.25}, {Name: q.WavePulse, Width: 0.125}} {
		there := filtered(x.Amplitudes(len(harmonics)), through)
		if d := loudnessApart(harmonics, there); d < off-1e-9 {
			wave, width, off, level = x.Name, float64(x.Width), d, louderBy(harmonics, there)
		}
	}
	return wave, width, off, level
}
