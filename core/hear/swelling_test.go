package hear_test

import (
	"fmt"
	"math"
	"testing"

	"glossator/core/hear"
)

// When what moves begins to, by sounds that csound makes with known settings: a vibrato and a tremolo that set in after a delay or come in by a straight line, and sounds in
// which nothing does.
func TestSwelling(t *testing.T) {
	for _, rate := range []float64{5.3, 8, 12} {
		for _, time := range []float64{0.2, 0.5, 1.3} {
			for _, of := range []string{"pitch", "level"} {
				for _, sudden := range []bool{true, false} {
					k := fmt.Sprintf("kt timeinsts\nkd = (kt < %v ? 0 : 1)\nka = kt - %v\n", time, time)
					if !sudden {
						k = fmt.Sprintf("kt timeinsts\nkd = (kt < %v ? kt/%v : 1)\nka = kt\n", time, time)
					}
					k += fmt.Sprintf("km = kd*sin(2*$M_PI*%v*ka)\n", rate)
					if of == "pitch" {
						k += "a1 vco2 0.3, 220*(1+0.02*km)"
					} else {
						k += "a1 vco2 0.3*(1+0.3*km), 220"
					}
					m := hear.Listen(csoundFile(t, 48000, time+1.5, k)).Swelling(sudden)
					want := time
					if !sudden {
						want /= 2
					}
					name := fmt.Sprintf("%s at %v Hz, %v s, sudden %v", of, rate, time, sudden)
					if !m.Known {
						if want*rate > 1.1 { // within the first round nothing stands still
							t.Errorf("%s: %s", name, m.Why)
						}
						continue
					}
					if d := math.Abs(m.Value - want); d > 2*m.Uncertainty || m.Uncertainty > 0.15/rate+0.01 {
						t.Errorf("%s: %.3f ± %.3f s", name, m.Value, m.Uncertainty)
					}
				}
			}
		}
	}
	for name, body := range map[string]string{"still": "a1 vco2 0.3, 220", "from the start": "kv lfo 4, 6\na1 vco2 0.3, 220+kv"} {
		if m := hear.Listen(csoundFile(t, 48000, 2, body)).Swelling(true); m.Known {
			t.Errorf("%s: %v", name, m)
		}
	}
}
