package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
)

var _ = used(&ring,
	// J0(1.4347) = J1(1.4347) = 0.5475 (Abramowitz & Stegun, table 9.1, between its entries)
	use{"ring by modulation", targetOf{params: []string{"osc.fm"}}.case_(sound([]meaning.Module{mod("r", meaning.Ring, p{"level": 0.0}), osc("o", 0)}), "r"),
		figures{"o~.fm": 1.4347 / math.Pi}, []string{"r"}, "first sidebands"},
)

// The index of the ring rule: carrier and first sidebands alike.
func TestRingIndex(t *testing.T) {
	s := Sidebands(20, 1.4347, 21)
	if math.Abs(s[0]-s[20]) > 1e-4 || math.Abs(s[0]-s[18]) > 1e-4 {
		t.Errorf("the carrier is %.4f, its sidebands %.4f and %.4f", s[0], s[18], s[20])
	}
}
