package rules

import (
	"math"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var _ = used(&ring,
	// as loud as the oscillator at -3 dB: each of its tones is at half of 0 dB, 0.706 of the carrier; J1(1.18)/J0(1.18) = 0.4936/0.6812 (Abramowitz & Stegun, table 9.1, between its entries)
	use{"ring by modulation", targetOf{params: []string{"osc.fm"}}.case_(sound([]meaning.Module{mod("r", meaning.Ring, p{"level": 0.0}), osc("o", 0)}), "r"),
		figures{"o~.fm": ringAt(0.5, q.Level(-3).Amplitude()) / math.Pi}, []string{"r"}, "first sidebands"},
)

func ringAt(side, carrier float64) float64 {
	index, _ := ringIndex(side, carrier)
	return index
}

// The index makes sidebands as loud as the tones that are lost, and the carrier as loud as it was, where that can be; the sidebands alone where the carrier is softer than they are.
func TestRingIndexKeepsLevels(t *testing.T) {
	for _, x := range []struct{ side, carrier float64 }{{0.5, 0.708}, {0.1, 1}, {0.02, 0.3}, {0.5, 0}, {0.3, 0.1}} {
		index, level := ringIndex(x.side, x.carrier)
		s := Sidebands(20, index, 21)
		if math.Abs(s[20]*level-x.side) > 1e-3 || x.carrier > x.side*1.01 && math.Abs(s[0]*level-x.carrier) > 1e-3 || index > 1.44 {
			t.Errorf("sidebands of %v beside %v: an index of %v at %v gives %v and %v", x.side, x.carrier, index, level, s[20]*level, s[0]*level)
		}
	}
}

// The index of the ring rule: carrier and first sidebands alike.
func TestRingIndex(t *testing.T) {
	s := Sidebands(20, 1.4347, 21)
	if math.Abs(s[0]-s[20]) > 1e-4 || math.Abs(s[0]-s[18]) > 1e-4 {
		t.Errorf("the carrier is %.4f, its sidebands %.4f and %.4f", s[0], s[18], s[20])
	}
}
