package calibrate

import (
	"math"
	"testing"

	"glossator/core/scale"
	"glossator/testutil/testrack"
)

// What the model plays at a reading is measured as the value that the law has there, also between the places where its curve was taken, and with waves
// that begin elsewhere. With a curve through evenly spread places alone a cutoff of 7.6 kHz was measured as 8.5 (two just-noticeable differences); by one beginning of the wave
// a decay of 66 ms was half of one off.
func TestTheModelMeasuresItself(t *testing.T) {
	c := testrack.Panels(t)["kedge"]
	for control, readings := range map[string][]string{"lowpass.cutoff": {"124 Hz", "763 Hz", "4.82 kHz", "7.63 kHz", "12.4 kHz"}, "env.decay": {"10:30", "11:15", "12:45", "2:15"}, "lfo.rate": {"11:15", "2:15"}} {
		b, err := Begin(c, control, "")
		if err != nil {
			t.Fatal(err)
		}
		for _, reading := range readings {
			p, err := b.Position(reading)
			if err != nil {
				t.Fatal(err)
			}
			raw, _ := b.law.Raw(p.Travel)
			sum, n := 0.0, 0.0
			for seed := uint64(10); seed < 15; seed++ {
				s, err := b.render(p, seed)
				if err != nil {
					t.Fatal(err)
				}
				if f := b.feat.of(s); f.known() {
					sum, n = sum+b.model.toValue(f.Value), n+1
				}
			}
			if off := (sum/n - b.domain(raw)) / b.JND(); n == 0 || math.Abs(off) > 0.4 {
				t.Errorf("%s at %s: the model is %.2f just-noticeable differences off its own law (%v of 5)", control, reading, off, n)
			}
		}
	}
}

// What gave nothing is not asked for again next to it, nor beyond it: towards the end of a travel at which a recording tells nothing, nothing more is looked for.
func TestNothingIsAskedBeyondWhatGaveNothing(t *testing.T) {
	b, err := Begin(testrack.Panels(t)["kedge"], "lowpass.cutoff", "")
	if err != nil {
		t.Fatal(err)
	}
	silent := func(p scale.Position) bool { return p.Travel < 0.3 }
	var all []Recorded
	misses, lowest := 0, 1.0
	for range 9 {
		n := b.Fit(b.Takes(all)).Next()
		at, err := b.Position(n.Reading)
		if err != nil {
			t.Fatal(err)
		}
		r := Recorded{Reading: at.Reading, Travel: at.Travel, Figure: b.model.toFigure(at.Travel), U: 0.02}
		if silent(at) {
			misses++
			r.Why = "it is silent: is the cable in, and the level up?"
		} else {
			lowest = min(lowest, at.Travel)
		}
		all = append(all, r)
	}
	if misses > 3 || lowest > 0.42 {
		t.Errorf("%d of 9 takes were asked for where nothing is to be heard, the lowest of the others at %.2f of the travel: %+v", misses, lowest, all)
	}
}
