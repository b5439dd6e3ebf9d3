package synth

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// stack is four operators, each modulating the one before it by a depth, at levels in decibels; the first is heard.
func stack(depth float64, levels ...float64) *meaning.Meaning {
	m := &meaning.Meaning{Tempo: 120}
	for i, db := range levels {
		ps := params{"level": db, "interval": []float64{0, 0, 1200, 1901.955}[i], "phase": "reset"}
		if i == 0 {
			ps["output"] = 0.0
		} else {
			m.Routes = append(m.Routes, meaning.Route{ID: fmt.Sprint("m", i), From: fmt.Sprint("op", i), To: []string{fmt.Sprintf("op%d.pm", i-1)}, Polarity: "bipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: depth}}})
		}
		m.Modules = append(m.Modules, part(fmt.Sprint("op", i), meaning.Operator, ps))
	}
	m.Modules = append(m.Modules, part("amp", meaning.Amp, params{"level": 0.0}))
	m.Audio = []meaning.Edge{{From: "op0", To: "amp"}, {From: "amp", To: "out"}}
	return m
}

// Operators in a row give what the formula says (Chowning, JAES 21(7), 1973): each a sine whose phase the one behind it bends, by half a cycle at full depth and level. Worked
// out here sample by sample.
func TestOperatorsByTheFormula(t *testing.T) {
	for _, levels := range [][]float64{{0, -12, -18, -24}, {0, -20, -14, -30}, {-3, -16, -20, -20}} {
		m := stack(1, levels...)
		e := newEngine(m, 0, 0, nil, nil)
		if !e.opsInRow || e.operatorTimes(57) != 1 {
			t.Fatalf("%v: in a row %v, %d times the rate", levels, e.opsInRow, e.operatorTimes(57))
		}
		s := rendered(t, m, 0, note(0, 0.3, 57))
		var want, got []float64
		for k := range int(0.25 * Rate) {
			bend := 0.0
			for i := 3; i >= 0; i-- {
				hz := 220 * []float64{1, 1, 2, 3}[i]
				bend = math.Sin(2*math.Pi*(hz*float64(k)/Rate+bend/2)) * q.Level(levels[i]).Amplitude()
			}
			if k > Rate/20 { // after the gate's edge
				want, got = append(want, bend), append(got, s.Left[k])
			}
		}
		var wg, ww, gg float64
		for k := range want {
			wg, ww, gg = wg+want[k]*got[k], ww+want[k]*want[k], gg+got[k]*got[k]
		}
		if alike := wg / math.Sqrt(ww*gg); alike < 0.9995 {
			t.Errorf("%v: the correlation with the formula is %.6f", levels, alike)
		}
	}
}

// An operator at nothing changes nothing, whatever it would modulate, and asks for no higher rate; a quiet one asks for less than a loud one.
func TestQuietOperatorsCostLess(t *testing.T) {
	silent := stack(4, 0, -12, -12, -12)
	silent.Module("op3").Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
	without := stack(4, 0, -12, -12)
	a, b := rendered(t, silent, 0, note(0, 0.2, 60)), rendered(t, without, 0, note(0, 0.2, 60))
	for k := range b.Left {
		if math.Abs(a.Left[k]-b.Left[k]) > 1e-9 {
			t.Fatalf("sample %d: %g and %g", k, a.Left[k], b.Left[k])
		}
	}
	last := 0
	for _, db := range []float64{-60, -30, -12, 0} {
		e := newEngine(stack(4, 0, db, db, db), 0, 0, nil, nil)
		if n := e.operatorTimes(72); n < last {
			t.Errorf("%g dB: %d times the rate, less than at a lower level", db, n)
		} else {
			last = n
		}
	}
	if e := newEngine(stack(4, 0, -60, -60, -60), 0, 0, nil, nil); e.operatorTimes(72) >= last {
		t.Errorf("at -60 dB %d times the rate, at 0 dB %d", e.operatorTimes(72), last)
	}
}
