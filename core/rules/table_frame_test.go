package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

func table(frame float64, waves string) meaning.Module {
	return mod("o", meaning.Osc, p{"wave": "table", "frame": frame, "table": waves})
}

var _ = heard(&tableFrame,
	said{"another table", line(meaning.Osc, "frame", table(0.5, "sine, saw"), table(0.2, "saw, triangle")), "% of the harmonics"},
	said{"the same table", line(meaning.Osc, "frame", table(0.5, "sine, saw"), table(0.2, "sine, saw")), ""},
	said{"a saw in a table", line(meaning.Osc, "frame", saw, table(0.2, "saw, triangle")), "nearest to the wave there"},
)

// The place in a table that is nearest to a wave is where that wave stands.
func TestNearestFrame(t *testing.T) {
	table := mod("t", meaning.Osc, p{"wave": "table", "table": "sine, triangle, saw, pulse 50 %"})
	for wave, want := range map[string]float64{"sine": 0, "triangle": 1.0 / 3, "saw": 2.0 / 3, "pulse": 1} {
		w := mod("o", meaning.Osc, p{"wave": wave, "width": 0.5})
		if at, ok := NearestFrame(&w, &table, 0.5); !ok || math.Abs(at-want) > 1.0/framesTried {
			t.Errorf("a %s is nearest at %v, want %v", wave, at, want)
		}
		if d := WaveDistance(&w, &w); d != 0 {
			t.Errorf("a %s is %v from itself", wave, d)
		}
	}
	if _, ok := NearestFrame(&table, &table, 0.5); ok {
		t.Error("a table needs no other place in itself")
	}
	plain := mod("o", meaning.Osc, p{"wave": "saw"})
	if _, ok := NearestFrame(&plain, &plain, 0.5); ok {
		t.Error("a place was found in a table that is not there")
	}
}
