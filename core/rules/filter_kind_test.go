package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var _ = used(&kind,
	use{"a peak of Q 4 is a band of Q 4, 18 dB up", targetOf{have: map[meaning.Kind]int{meaning.EQ: 1}}.case_(sound([]meaning.Module{mod("f", meaning.Filter, p{"mode": "peak", "cutoff": 800.0, "resonance": float64(q.ResonanceOfQ(2.5))})}), "f"),
		figures{"f~.freq": 800, "f~.q": 2.5, "f~.gain": 20 * math.Log10(5)}, []string{"f"}, "800 Hz"},
)
