package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var _ = used(&resonant,
	use{"sync is a resonant filter at the slave's pitch, swept as far", targetOf{have: map[meaning.Kind]int{meaning.Filter: 2}, params: []string{"filter.resonance"}}.case_(sound([]meaning.Module{env, mod("o", meaning.Osc, p{"wave": "saw", "sync": "osc1", "interval": 1900.0, "level": 0.0}), cut},
		meaning.Route{ID: "r", Label: "r", From: "env", To: []string{"o.interval"}, Polarity: "unipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: 2400}}})),
		// a fifth and an octave above middle C, 261.626 Hz (ISO 16): 784.0 Hz; 2400 ct are two octaves
		figures{"o~sweep.cutoff": 261.6256 * math.Exp2(19.0/12), "o~sweep.track": 1, "o~.interval": 0, "r~": 2}, nil, "784 Hz"},
)
