package rules

import (
	"fmt"
	"math"
	once "sync"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var nearestWave = Rule{ID: "wave", Name: "Nearest wave by its harmonics",
	Needs: "an oscillator or LFO whose wave the target has not", Uses: "the wave of the same module",
	Penalty: 0.2, Why: "the share of its harmonics that is off, as they are heard in the middle of the keyboard, or an LFO's as they are drawn", Source: "Fourier series (Bronshtein); A-weighting (IEC 61672-1)",
	says: func(l *Line) string {
		if l.Param.Dim != q.DimWave || !l.Bent {
			return ""
		}
		return fmt.Sprintf("the nearest wave it has: %s %% of its harmonics are off", q.Number(100*WaveDistance(l.From, l.To), 2))
	}}

// HeardAt is the note at which waves are compared by ear.
const HeardAt = 220.0 // A3, in hertz

// HarmonicsCompared is how many harmonics a comparison of waves looks at.
const HarmonicsCompared = 24

// WaveDistance gives how far the wave of one module is from that of another, 0 for the same to 1: by the amplitudes of
// their harmonics as they are heard at HeardAt, or as they are drawn where they are those of LFOs.
func WaveDistance(w, r *meaning.Module) float64 {
	a, b := Harmonics(w, HarmonicsCompared), Harmonics(r, HarmonicsCompared)
	if a == nil || b == nil {
		x, y := named(w, meaning.PWave), named(r, meaning.PWave)
		switch {
		case x == y:
			return 0
		case Chance(x) && Chance(y):
			return stepsForCurves
		}
		return 1
	}
	// as it is heard in the middle of the keyboard; an LFO is not heard, it is followed
	if w.Kind != meaning.LFO {
		g := heardAt()
		for i := range a {
			a[i] *= g[i]
		}
		for i := range b {
			b[i] *= g[i]
		}
	}
	return q.WaveDistance(a, b)
}

// heardAt are the weights of the harmonics of a tone at HeardAt.
var heardAt = once.OnceValue(func() []float64 {
	list := make([]float64, HarmonicsCompared)
	for i := range list {
		list[i] = 1
	}
	return q.AsHeard(list, HeardAt)
})

// Harmonics gives the amplitudes of the first n harmonics of an oscillator's wave; nil where it has no series.
func Harmonics(m *meaning.Module, n int) []float64 {
	width, ok := m.Params[meaning.PWidth]
	if !ok {
		width.Value = 0.5 // a pulse without a width is a square
	}
	if table := tableOf(m); table != nil {
		return q.TableAmplitudes(table, get(m, meaning.PFrame), q.Ratio(width.Value), n)
	}
	return q.Wave{Name: named(m, meaning.PWave), Width: q.Ratio(width.Value)}.Amplitudes(n)
}

// plainWave gives the plain wave that is nearest to what an oscillator plays from its table; empty where it plays none,
// or the table does not say what it holds.
func plainWave(m *meaning.Module) string {
	if tableOf(m) == nil {
		return ""
	}
	best, wave := math.Inf(1), ""
	for _, name := range []string{q.WaveSine, q.WaveTriangle, q.WavePulse, q.WaveSaw} {
		x := meaning.Module{Kind: m.Kind, Params: map[meaning.ParamName]meaning.Value{meaning.PWave: {Quantity: q.Named(q.DimWave, name)}}}
		if d := WaveDistance(m, &x); d < best {
			best, wave = d, name
		}
	}
	return wave
}
