package rules

import (
	"math"
	"slices"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// A slave a fifth over a master that stands an octave down, swept by an envelope: without sync it sounds at its master's note, and what swept its colour would bend that.
var _ = used(&syncedNote,
	use{"a synced oscillator plays its master's note", targetOf{}.case_(sound([]meaning.Module{env, osc("m", -1200), mod("o", meaning.Osc, p{"wave": "saw", "sync": "m", "interval": 700.0, "level": 0.0})},
		meaning.Route{ID: "r", Label: "r", From: "env", To: []string{"o.interval"}, Polarity: "unipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: 2400}}})),
		figures{"o~.interval": -1200}, []string{"r"}, "plays the note"},
)

// A silent master is not needed any more; a slave that is swept is no modulation, as it would leave the note.
func TestMastersThatAreSilent(t *testing.T) {
	silent := mod("m", meaning.Osc, p{"wave": "saw"})
	silent.Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
	slave := mod("o", meaning.Osc, p{"wave": "saw", "sync": "m", "interval": 1900.0, "level": 0.0})
	c := targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, params: []string{"filter.resonance", "osc.fm"}}.case_(sound([]meaning.Module{env, silent, slave, cut}))
	for _, r := range []*Rule{&syncedNote, &resonant} {
		list := r.Try(c)
		if len(list) != 1 || list[0].Meaning.Module("m") != nil || !slices.Contains(list[0].Parts, "m") {
			t.Errorf("%s: %+v", r.ID, list)
		}
	}
	if list := sync.Try(c); len(list) != 1 || list[0].Meaning.Module("m") == nil || math.Abs(get(list[0].Meaning.Module("o~"), meaning.PInterval)-1200*math.Log2(3)) > 1e-9 {
		t.Errorf("%+v", list)
	}
	c.Meaning.Routes = []meaning.Route{{ID: "r", Label: "r", From: "env", To: []string{"o.interval"}, Polarity: "unipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: 2400}}}}
	if list := sync.Try(c); len(list) != 0 {
		t.Errorf("swept: %+v", list)
	}
}

// The interval of a modulation that stands for sync is a harmonic of the master's note: 1200 log2 n, the nearest.
func TestHarmonicOver(t *testing.T) {
	for _, x := range []struct{ note, interval, want float64 }{
		{0, 700, 0}, {0, 1250, 1200}, {0, 1900, 1200 * math.Log2(3)}, {-1200, 0, 0}, {-1200, 700, 1200*math.Log2(3) - 1200}, {0, -500, 0},
	} {
		if got := harmonicOver(x.note, x.interval); math.Abs(got-x.want) > 1e-9 {
			t.Errorf("%v over %v: %v, want %v", x.interval, x.note, got, x.want)
		}
	}
}

// A synced oscillator that an operator plays sounds at its master's note too, and nothing bends it.
func TestSyncedAsOperator(t *testing.T) {
	silent := mod("m", meaning.Osc, p{"wave": "saw", "interval": -1200.0})
	silent.Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
	c := targetOf{have: map[meaning.Kind]int{meaning.Operator: 4, meaning.Env: 4}}.case_(sound([]meaning.Module{env, silent, mod("o", meaning.Osc, p{"wave": "saw", "sync": "m", "interval": 700.0, "level": 0.0})},
		meaning.Route{ID: "r", Label: "r", From: "env", To: []string{"o.interval"}, Polarity: "unipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: 2400}}}), "o")
	list := asOperator.Try(c)
	if len(list) == 0 {
		t.Fatal("it is not tried")
	}
	for _, r := range list {
		o := r.Meaning.Module(r.Moved["o"])
		if o == nil || o.Kind != meaning.Operator || get(o, meaning.PInterval) != -1200 || r.Meaning.Module("m") != nil || slices.ContainsFunc(r.Meaning.Routes, func(x meaning.Route) bool { return x.ID == "r" }) {
			t.Errorf("%s: %+v", r.Text, o)
		}
	}
}
