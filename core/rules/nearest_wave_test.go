package rules

import (
	"testing"

	"glossator/core/meaning"
)

var saw, sine = mod("o", meaning.Osc, p{"wave": "saw"}), mod("o", meaning.Osc, p{"wave": "sine"})

var _ = heard(&nearestWave,
	said{"a saw for a sine", line(meaning.Osc, "wave", saw, sine), "% of its harmonics"},
	said{"a level is no wave", line(meaning.Osc, "level", saw, sine), ""},
)

// The plain wave that is nearest to a place in a table.
func TestPlainWave(t *testing.T) {
	for frame, want := range map[float64]string{0: "sine", 0.24: "saw", 0.5: "pulse", 1: "triangle"} {
		m := mod("o", meaning.Osc, p{"wave": "table", "table": "sine, saw, pulse 50 %, pulse 20 %, triangle", "frame": frame})
		if got := plainWave(&m); got != want {
			t.Errorf("at %v it is nearest to a %s, want %s", frame, got, want)
		}
	}
	for _, m := range []meaning.Module{mod("o", meaning.Osc, p{"wave": "saw"}), mod("o", meaning.Osc, p{"wave": "table"}), mod("o", meaning.Osc, p{"wave": "table", "table": "humming"})} {
		if got := plainWave(&m); got != "" {
			t.Errorf("%v gives %q", m.Params, got)
		}
	}
}
