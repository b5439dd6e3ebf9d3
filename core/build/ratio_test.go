package build_test

import (
	"math"
	"math/cmplx"
	"testing"

	"glossator/core/build"
	"glossator/core/panel"
	"glossator/core/scale"
	"glossator/core/synth"
)

// The second witness of pitch: a starting point at init plays the key's own pitch. Nearly all power lies at multiples of 220 Hz for A3 (440 Hz for A4: ISO 16).
func TestStartsAreInTune(t *testing.T) {
	for _, c := range begun(t) {
		x := played(t, c, nil)
		x = x[synth.Rate/20 : synth.Rate/20+synth.Rate/4]
		total, tuned := 0.0, 0.0
		for _, v := range x {
			total += v * v / float64(len(x))
		}
		for h := 1.0; h <= 30; h++ {
			sum := complex(0, 0)
			for i, v := range x {
				sum += complex(v, 0) * cmplx.Exp(complex(0, -2*math.Pi*220*h*float64(i)/synth.Rate))
			}
			a := 2 * cmplx.Abs(sum) / float64(len(x))
			tuned += a * a / 2
		}
		if tuned < 0.8*total {
			t.Errorf("%s: only %.0f %% of the power lies on the harmonics of the key", c.ID, 100*tuned/total)
		}
	}
}

// Plain numbers at an operator's pitch are ratios of frequencies, on whatever they stand: 1200 log2 n cents (arithmetic; an octave is a doubling, 3 an octave and a pure fifth of 701.955 ct). Signed
// numbers are octaves or semitones, and an oscillator's are what they were.
func TestRatiosOfOperators(t *testing.T) {
	begin := func(start string) *panel.Panel {
		p, err := build.Begin(start, "mine", "Mine", "")
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	const third = 1901.955
	for _, x := range []struct {
		name, start, param string
		face               scale.Face
		want               map[string]float64
	}{
		{"a list", "operators", "operator1.interval", scale.Face{Kind: scale.List, Entries: []string{"0.5", "1", "2", "3", "7"}}, map[string]float64{"0.5": -1200, "1": 0, "2": 1200, "3": third, "7": 3368.826}},
		{"with a cross", "operators", "operator1.interval", scale.Face{Kind: scale.List, Entries: []string{"x1", "x2", "x3"}}, map[string]float64{"x1": 0, "x2": 1200, "x3": third}},
		{"fractions", "operators", "operator1.interval", scale.Face{Kind: scale.List, Entries: []string{"1/2", "1", "3/2"}}, map[string]float64{"1/2": -1200, "1": 0, "3/2": 701.955}},
		{"from 0, which is a half", "operators", "operator1.interval", scale.Face{Kind: scale.Numeric, Min: 0, Max: 31, Step: 1}, map[string]float64{"0": -1200, "1": 0, "3": third, "16": 4800}},
		{"finely", "operators", "operator1.interval", scale.Face{Kind: scale.Numeric, Min: 0.25, Max: 16, Step: 0.25}, map[string]float64{"0.25": -2400, "1.00": 0, "3.00": third, "16.00": 4800}},
		{"signed octaves", "operators", "operator1.interval", scale.Face{Kind: scale.List, Entries: []string{"-1", "0", "+1"}}, map[string]float64{"-1": -1200, "+1": 1200}},
	} {
		p := begin(x.start)
		for i := range p.Controls {
			c := &p.Controls[i]
			if len(c.Means) == 0 || c.Means[0].Param != x.param || c.Means[0].Part != "octave" {
				continue
			}
			law, missing, err := build.Assume(p, x.param, "octave", x.face)
			if err != nil || len(missing) > 0 {
				t.Fatalf("%s: %v, nothing known of %v", x.name, err, missing)
			}
			c.Face, c.Means[0].Law, c.Init = x.face, law, x.face.At(0).Reading
		}
		c, err := panel.Compile(p)
		if err != nil {
			t.Fatalf("%s: %v", x.name, err)
		}
		for i := range c.Controls {
			if b := c.Controls[i].Means; len(b) == 0 || b[0].Param != x.param || b[0].Part != "octave" {
				continue
			}
			for _, place := range c.Places(i) {
				want, asked := x.want[place.Reading]
				if v, ok := c.Scale(panel.BindRef{Control: i}).Quantity(place); asked && (!ok || math.Abs(v.Value-want) > 0.5) {
					t.Errorf("%s: %s is %v, want %.3f ct", x.name, place.Reading, v, want)
				}
				delete(x.want, place.Reading)
			}
		}
		if len(x.want) > 0 {
			t.Errorf("%s: not on the face: %v", x.name, x.want)
		}
	}
}
