package hear_test

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"glossator/core/hear"
	"glossator/testutil/sounds"
)

// A low cutoff in noise is told over the recording's own floor: the spectrum that another program's filter makes falls into the floor of the recording, which no low-pass
// does. The witness is the frequency that Csound's tonex (four poles, each down 3 dB there) was given: at -3 dB each, as the cutoff of four poles is counted here. Without the floor it was told at once.
func TestCutoffOverTheFloorOfTheRecording(t *testing.T) {
	for _, fc := range []float64{50, 70, 150, 900} {
		for _, floor := range []float64{-110, -72, -62} {
			e := hear.Listen(sounds.Csound(t, 48000, 6, fmt.Sprintf("a0 rand 0.3, 0.5, 1\nax rand %.7f, 0.2, 1\na2 tonex a0, %v, 4\na1 = a2+ax\n", math.Sqrt(3)*math.Pow(10, floor/20), fc)))
			all := e.Cutoff("noise")
			i := slices.IndexFunc(all, func(m hear.Measured) bool { return m.Label == "cutoff" })
			if x := all[i]; !x.Known || math.Abs(math.Log2(x.Value/fc)) > 0.15 {
				t.Errorf("%v Hz over a floor of %v dB: %+v", fc, floor, x)
			}
		}
	}
	// what has no filter has no floor: it is flat at its own level
	e := hear.Listen(sounds.Csound(t, 48000, 3, "a1 rand 0.3, 0.5, 1\n"))
	if x := e.Cutoff("noise")[0]; x.Known {
		t.Errorf("a cutoff of %v Hz where there is none", x.Value)
	}
}
