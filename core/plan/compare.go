package plan

import (
	"math"

	q "glossator/core/quantity"

	"glossator/core/jnd"
	"glossator/core/meaning"
	"glossator/core/rules"
)

// Compare gives how far a reached parameter is from the wanted one: the signed distance
// in the sense of quantity.Distance and the size in just-noticeable differences.
func Compare(p meaning.Param, want, got q.Quantity, w, r *meaning.Module) (distance, jnds float64) {
	want, got = p.Told(p.Effective(want, w)), p.Told(p.Effective(got, r))
	distance = q.Distance(want, got)
	switch {
	case p.Dim == q.DimWave:
		distance = rules.WaveDistance(w, r)
	case p.Name == meaning.PFrame && rules.BothTables(w, r):
		// positions of two tables are not of one scale: the wave that comes out tells, in its own steps
		distance = 0
		if !rules.SameTable(w, r) || want.Value != got.Value {
			distance = rules.WaveDistance(w, r) * p.JND.Size / jnd.Wave.Size
		}
	case w != nil && p.Mirrored:
		// a pulse of duty d has the spectrum of one of 1 - d, upside down
		if other := 1 - want.Value - got.Value; math.Abs(other) < math.Abs(distance) {
			distance = -other
		}
	}
	return distance, math.Abs(distance) / p.JND.Size
}

// OnTarget gives what a parameter has to be on the target module for the same result: a
// resonance of equal peak where the number of poles differs.
func OnTarget(p meaning.Param, w, r *meaning.Module) q.Quantity {
	v, _ := w.Get(p.Name)
	want := v.Quantity
	switch w.Kind {
	case meaning.Env:
		return inOneFall(p, want, w, r)
	case meaning.Filter:
	default:
		return want
	}
	switch p.Name {
	case meaning.PResonance:
		want.Value = rules.KeptPeak(w, r)
	case meaning.PMode:
		if _, is := MorphFor(w, r); is {
			return q.Named(q.DimName, "morph")
		}
		if mode := w.AsMorphed(); mode != "" && !morphs(r) {
			return q.Named(q.DimName, mode)
		}
	case meaning.PMorph:
		if at, is := MorphFor(w, r); is {
			return q.Quantity{Dim: q.DimRatio, Value: at}
		}
		if w.AsMorphed() != "" && !morphs(r) {
			return p.Neutral
		}
	}
	return want
}

// inOneFall gives what the break and the second decay of an envelope in stages have to be for one that falls at once: it breaks where that one stops, and from there on how long it takes is no matter.
func inOneFall(p meaning.Param, want q.Quantity, w, r *meaning.Module) q.Quantity {
	if p.Name != meaning.PBreak && p.Name != meaning.PDecay2 || stepped(w) {
		return want
	}
	if !stepped(r) {
		return want
	}
	if p.Name == meaning.PDecay2 {
		return r.Params[p.Name].Quantity
	}
	s, _ := w.Get(meaning.PSustain)
	return s.Quantity
}

// stepped tells whether an envelope falls in two.
func stepped(m *meaning.Module) bool {
	v, _ := m.Get(meaning.PDecay2)
	return !v.Off && v.Value > 0
}

func morphs(r *meaning.Module) bool {
	v, _ := r.Get(meaning.PMode)
	return v.Name == "morph"
}

// MorphFor gives the place of a filter that goes from one kind to another at which it is a filter of one kind; false where r is no such filter, or w is none that lies on its way.
func MorphFor(w, r *meaning.Module) (at float64, is bool) {
	if !morphs(r) {
		return 0, false
	}
	v, _ := w.Get(meaning.PMode)
	at, is = meaning.MorphPlaces[v.Name]
	return at, is
}
