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

// Where an oscillator says nothing of its wave it is a saw (the vocabulary), and an operator in its place has to say so: its own would be a sine. What modulates it by half
// (an index of a quarter of a turn: half of what is full, 20 log 0.5 dB) becomes an operator too, which is not heard, and its envelope moves that one's level.
func TestUnstatedAndModulatedAsOperators(t *testing.T) {
	silent := mod("m", meaning.Osc, p{"wave": "sine", "interval": 1902.0})
	silent.Params[meaning.PLevel] = meaning.Value{Quantity: q.OffOf(q.DimLevel)}
	target := targetOf{have: map[meaning.Kind]int{meaning.Operator: 4, meaning.Env: 4}, words: []string{"operator.wave=saw"}}
	still := target.case_(sound([]meaning.Module{env, mod("o", meaning.Osc, p{"level": 0.0, "fm": 0.5}), silent}), "o")
	moved := target.case_(sound([]meaning.Module{env, mod("o", meaning.Osc, p{"level": 0.0}), silent},
		meaning.Route{ID: "r", Label: "r", From: "env", To: []string{"o.fm"}, Polarity: "unipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 0.5}}}), "o")
	for name, c := range map[string]*Case{"still": still, "moved": moved} {
		both := 0
		for _, r := range asOperator.Try(c) {
			o, by := r.Meaning.Module(r.Moved["o"]), r.Meaning.Module(r.Moved["m"])
			modulated := slices.ContainsFunc(r.Meaning.Routes, func(x meaning.Route) bool { return slices.Contains(x.To, meaning.Ref(o.ID, meaning.PPM)) })
			if !modulated && named(o, meaning.PWave) != q.WaveSaw {
				t.Errorf("%s: %s has the wave %q", name, r.Text, named(o, meaning.PWave))
			}
			if by == nil {
				continue
			}
			both++
			if math.Abs(get(by, meaning.PLevel)-20*math.Log10(0.5)) > 1e-9 || !off(by, meaning.POutput) || by.Sounds() || get(by, meaning.PInterval) != 1902 {
				t.Errorf("%s: %+v", name, by)
			}
			into := func(to string, from string) bool {
				return slices.ContainsFunc(r.Meaning.Routes, func(x meaning.Route) bool { return x.From == from && slices.Contains(x.To, to) })
			}
			if !into(meaning.Ref(o.ID, meaning.PPM), by.ID) || into(meaning.Ref(by.ID, meaning.PLevel), "env") != (name == "moved") {
				t.Errorf("%s: %+v", name, r.Meaning.Routes)
			}
		}
		if both == 0 {
			t.Errorf("%s: no operator modulates", name)
		}
	}
}
