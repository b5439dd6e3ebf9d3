package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var _ = used(&octave,
	// 2400 ct asked for, 1200 ct the most there is: a key an octave up, and a filter that follows half
	// of the keys half an octave down
	use{"out of the footages, an octave up the keyboard", targetOf{reached: map[string]float64{"o1.interval": 1200, "o2.interval": 0}}.case_(sound([]meaning.Module{osc("o1", 2400), osc("o2", 0), mod("f", meaning.Filter, p{"mode": "lowpass", "cutoff": 800.0, "track": 0.5})})),
		figures{"o1~.interval": 1200, "o2~.interval": -1200, "f~.cutoff": 800 / math.Sqrt2}, nil, "play one octave higher"},
	// 2400 ct asked for, 1200 ct the most there is: 61 keys from C2 to C7, one octave up
	use{"out of the footages, it says which keys still play", targetOf{reached: map[string]float64{"o1.interval": 1200}}.case_(sound([]meaning.Module{osc("o1", 2400)})),
		figures{"o1~.interval": 1200}, nil, "of 61 keys from C2 to C7 a part from C2 to C6 still plays"},
	// 2400 ct down asked for, 1900 the most: less than half an octave short, and yet another note
	use{"a fifth short of the depth", targetOf{reached: map[string]float64{"o1.interval": -1900}}.case_(sound([]meaning.Module{osc("o1", -2400)})),
		figures{"o1~.interval": -1200}, nil, "play one octave lower"},
	// the low one has no place as nothing goes so deep, and there is one left for it; a route from the keys opens the filter by half an octave an octave
	use{"one without a place, as nothing goes so deep", targetOf{have: map[meaning.Kind]int{meaning.Osc: 2}, reached: map[string]float64{"o2.interval": -1200}}.case_(sound([]meaning.Module{osc("o1", -2400), osc("o2", -1200),
		mod("f", meaning.Filter, p{"mode": "lowpass", "cutoff": 800.0, "track": 0.0})}, meaning.Route{ID: "k", Label: "k", From: "key", To: []string{"f.cutoff"}, Polarity: "bipolar", Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: 0.5}}}), "o1"),
		figures{"o1~.interval": -1200, "o2~.interval": 0, "f~.cutoff": 800 * math.Sqrt2}, nil, "play one octave lower"},
)
