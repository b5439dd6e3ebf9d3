package rules

import (
	"fmt"
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var tableFrame = Rule{ID: "table", Name: "Place in a table, or drawn wave, to the nearest wave",
	Needs: "an oscillator that plays a table or a drawn wave, and other waves in the target's table", Uses: "the position in the target's table",
	Penalty: 0.2, Why: "what moves the position passes other waves on its way", Source: "Fourier series (Bronshtein); A-weighting (IEC 61672-1)",
	says: func(l *Line) string {
		if l.Param.Name != meaning.PFrame || l.From == nil || l.To == nil || tableOf(l.To) == nil || SameTable(l.From, l.To) {
			return ""
		}
		return fmt.Sprintf("where its table is nearest to the wave there: %s %% of the harmonics are off", q.Number(100*WaveDistance(l.From, l.To), 2))
	}}

// framesTried is how many positions of a table are looked at for the nearest wave.
const framesTried = 64

// NearestFrame gives the position in the table of a target's module, 0 to 1, whose wave is nearest to the wave of a
// source's module, played with a pulse width; ok is false where there is no table, or both play the same one.
func NearestFrame(w, r *meaning.Module, width q.Ratio) (at float64, ok bool) {
	table, wanted := tableOf(r), Harmonics(w, HarmonicsCompared)
	if table == nil || wanted == nil || SameTable(w, r) && tableOf(w) != nil {
		return 0, false
	}
	wanted = q.AsHeard(wanted, HeardAt)
	best := math.Inf(1)
	for i := range framesTried + 1 {
		x := float64(i) / framesTried
		if d := q.WaveDistance(wanted, q.AsHeard(q.TableAmplitudes(table, x, width, HarmonicsCompared), HeardAt)); d < best-1e-9 {
			best, at = d, x
		}
	}
	return at, true
}

// tableOf gives the waves of a module's table, nil where it has none or does not say.
func tableOf(m *meaning.Module) []q.Wave {
	if m == nil || named(m, meaning.PWave) != "table" {
		return nil
	}
	t, ok := m.Params[meaning.PTable]
	if !ok {
		return nil
	}
	list, err := q.ParseTable(t.Name)
	if err != nil {
		return nil // the panel was checked: there is none
	}
	return list
}

// BothTables tells whether two modules both play a table that says what it holds.
func BothTables(w, r *meaning.Module) bool { return tableOf(w) != nil && tableOf(r) != nil }

// SameTable tells whether the tables of two modules hold the same.
func SameTable(w, r *meaning.Module) bool {
	return named(w, meaning.PTable) == named(r, meaning.PTable)
}
