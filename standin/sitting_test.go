package standin_test

import (
	"fmt"
	"math"
	"sync"
	"testing"

	"golang.org/x/sync/errgroup"

	"glossator/core/calibrate"
	"glossator/core/scale"
	"glossator/standin"
	"glossator/testutil/testrack"
	"glossator/testutil/whole"
)

// sat is what came of measuring one control of one unit.
type sat struct {
	name, recipe   string
	in, near, n    int     // positions: with the truth in the band, in half of it, of all
	bias, width    float64 // mean, in just-noticeable differences
	worst          float64
	takes          int
	unsure, before float64
}

// sit measures a control and holds the band against the truth.
func sit(t *testing.T, panel, control string, unit int) (sat, error) {
	c := testrack.Panels(t)[panel]
	out := sat{name: fmt.Sprintf("%s %s, unit %d", panel, control, unit)}
	b, err := calibrate.Begin(c, control, "")
	if err != nil {
		return out, err
	}
	u, err := standin.New(c, unit)
	if err != nil {
		return out, err
	}
	r, err := u.Sit(b, 0)
	if err != nil {
		return out, err
	}
	out.recipe, out.takes, out.unsure = b.Recipe.Name, len(r.Takes), r.Unsure()
	out.before = b.Fit(nil).Unsure()
	truth := u.Truth().Controls[control]
	band := r.Band()
	if len(band) != len(truth) {
		return out, fmt.Errorf("%s: %d places in the band, %d in the truth", out.name, len(band), len(truth))
	}
	for i, y := range band {
		if y.Reading != truth[i].Reading {
			return out, fmt.Errorf("%s: place %d is %s and %s", out.name, i, y.Reading, truth[i].Reading)
		}
		if (y.Value == nil) != (truth[i].Value == nil) {
			return out, fmt.Errorf("%s at %s: one of band and truth means none", out.name, y.Reading)
		}
		if y.Value == nil {
			continue
		}
		v, lo, hi := *truth[i].Value, *y.Low, *y.High
		e, w := (*y.Value-v)/b.JND(), (hi-lo)/2/b.JND()
		if b.Law().Dim().Geometric() {
			e, w = math.Log2(*y.Value/v)/b.JND(), math.Log2(hi/lo)/2/b.JND()
		}
		out.n++
		if math.Abs(e) <= math.Abs(w)+1e-9 {
			out.in++
		}
		if math.Abs(e) <= math.Abs(w)/2+1e-9 {
			out.near++
		}
		out.bias, out.width, out.worst = out.bias+e, out.width+math.Abs(w), max(out.worst, math.Abs(e))
	}
	out.bias, out.width = out.bias/float64(max(1, out.n)), out.width/float64(max(1, out.n))
	return out, nil
}

// some are controls by every recipe that the demo panels have what it needs for, quick ones first.
var some = [][2]string{
	{"kedge", "mix.noise"}, {"kedge", "env.sustain"}, {"kedge", "osc1.width"}, {"kedge", "osc2.tune"}, {"kedge", "spring"}, {"kedge", "volume"}, {"coracle", "high.level"}, {"coracle", "reverb"}, {"coracle", "aenv.decay"},
	{"coracle", "filter.cutoff"}, {"coracle", "filter.amount"}, {"coracle", "high.tremolo"}, {"kedge", "lowpass.amount"}, {"kedge", "env.attack"}, {"kedge", "env.release"}, {"kedge", "lowpass.resonance"}, {"coracle", "mod.rate"},
	{"halyard", "osc1.detune"}, {"bowline", "osc2.level"}, {"bowline", "env.attack"}, {"kedge", "glide"}, {"binnacle", "env1.delay"}, {"binnacle", "env1.hold"}, {"sheave", "lfo1.fade"}, {"halyard", "wheel.cutoff"}, {"sheave", "pressure"}, {"fairlead", "env1.break"}, {"fairlead", "env3.decay2"},
	{"fairlead", "delay.feedback"}, {"fairlead", "reverb.decay"}, {"binnacle", "delay.tone"}, {"binnacle", "bands.high"}, {"thole", "ring.level"}, {"sheave", "env2.release"}, {"binnacle", "lfo1.delay"},
}

// With units that nobody has seen the truth lies in the stated band (k = 2) at 95 % of the positions and more, and not in half of it as often: the uncertainty is neither too small nor twice too large. The law that comes out is
// nearer to the truth than the panel's. Against the laws themselves, which only the stand-in knows.
func TestTheTruthLiesInTheBand(t *testing.T) {
	units := 1
	if whole.Asked() {
		units = 8
	}
	var mu sync.Mutex
	var all []sat
	var g errgroup.Group
	g.SetLimit(2)
	for k, x := range some {
		for n := range units {
			g.Go(func() error {
				s, err := sit(t, x[0], x[1], 20+10*n+k)
				mu.Lock()
				defer mu.Unlock()
				all = append(all, s)
				return err
			})
		}
	}
	if err := g.Wait(); err != nil {
		t.Fatal(err)
	}
	in, near, n, bias, biased := 0, 0, 0, 0.0, 0
	for _, s := range all {
		t.Logf("%-32s %-16s %2d takes, %3d of %3d in the band, bias %5.2f, worst %5.2f, band ±%.2f JND", s.name, s.recipe, s.takes, s.in, s.n, s.bias, s.worst, s.width)
		in, near, n, bias = in+s.in, near+s.near, n+s.n, bias+math.Abs(s.bias)
		if math.Abs(s.bias) > 1 {
			biased++
		}
		if s.unsure > 0.7*s.before {
			t.Errorf("%s: after %d takes it is known to %.2f, before to %.2f", s.name, s.takes, s.unsure, s.before)
		}
	}
	share, half := 100*float64(in)/float64(n), 100*float64(near)/float64(n)
	t.Logf("%d units: the truth lies in the band at %.1f %% of %d positions, in half of it at %.1f %%; mean bias %.2f JND", len(all), share, n, half, bias/float64(len(all)))
	if share < 92 {
		t.Errorf("the truth lies in the band at %.1f %% of the positions", share)
	}
	if half > 95 {
		t.Errorf("the truth lies in half of the band at %.1f %% of the positions: it is twice too wide", half)
	}
	if mean := bias / float64(len(all)); mean > 0.4 || biased > len(all)/8 {
		t.Errorf("the bias is %.2f JND on average, more than one for %d of %d", mean, biased, len(all))
	}
}

// A take that was set to another reading is pointed at, and does not spoil the law.
func TestAMisSetTakeIsPointedAt(t *testing.T) {
	c := testrack.Panels(t)["kedge"]
	b, err := calibrate.Begin(c, "env.sustain", "")
	if err != nil {
		t.Fatal(err)
	}
	u, err := standin.New(c, 3)
	if err != nil {
		t.Fatal(err)
	}
	if err := u.SetUp(b); err != nil {
		t.Fatal(err)
	}
	var all []calibrate.Recorded
	for _, x := range []struct{ said, set string }{{"5:00", "5:00"}, {"8:00", "8:00"}, {"10:00", "2:00"}, {"12:00", "12:00"}, {"1:00", "1:00"}, {"3:00", "3:00"}, {"9:00", "9:00"}} {
		got, err := u.Take(b, x.set)
		if err != nil {
			t.Fatal(err)
		}
		at, err := b.Position(x.said)
		if err != nil {
			t.Fatal(err)
		}
		got.Reading, got.Travel = at.Reading, at.Travel
		all = append(all, got)
	}
	r := b.Fit(b.Takes(all))
	if r.Odd != 2 {
		t.Fatalf("expected the third take to be pointed at, got %d: %+v", r.Odd, r.Takes)
	}
	truth := u.Truth().Controls["env.sustain"]
	for i, y := range r.Band() {
		if v := *truth[i].Value; math.Abs(*y.Value-v) > 6 {
			t.Errorf("at %s: %.1f %%, truly %.1f %%", y.Reading, *y.Value, v)
		}
	}
}

// Planned takes tell as much as more of them in even steps, where somebody's patches have the control: 36 as much as 44 when this was written; two thirds were aimed at and are not reached.
func TestThePlanSparesTakes(t *testing.T) {
	planned, even := 0, 0
	for k, x := range [][2]string{{"kedge", "mix.noise"}, {"kedge", "osc2.tune"}, {"kedge", "env.sustain"}, {"kedge", "lowpass.amount"}, {"coracle", "aenv.decay"}, {"kedge", "osc1.width"}} {
		c := testrack.Panels(t)[x[0]]
		b, err := calibrate.Begin(c, x[1], "")
		if err != nil {
			t.Fatal(err)
		}
		b = b.For([]float64{0.3 + 0.05*float64(k%3), 0.7})
		u, err := standin.New(c, 60+k)
		if err != nil {
			t.Fatal(err)
		}
		r, err := u.Sit(b, 6)
		if err != nil {
			t.Fatal(err)
		}
		want := r.Unsure()
		n := evenly(t, b, x[0], 60+k, want)
		t.Logf("%s %s: %.2f JND after 6 planned takes, after %d in even steps", x[0], x[1], want, n)
		planned, even = planned+6, even+n
	}
	if 100*planned > 88*even {
		t.Errorf("%d planned takes tell as much as %d in even steps: expected fewer", planned, even)
	}
}

// evenly gives how many takes in even steps it takes to be as sure.
func evenly(t *testing.T, b *calibrate.Bench, panel string, unit int, want float64) int {
	t.Helper()
	var places []scale.Position
	for _, p := range b.Panel.Places(b.Control) {
		if _, ok := b.Law().Raw(p.Travel); ok {
			places = append(places, p)
		}
	}
	for n := 3; n <= 24; n++ {
		u, err := standin.New(b.Panel, unit)
		if err != nil {
			t.Fatal(err)
		}
		if err := u.SetUp(b); err != nil {
			t.Fatal(err)
		}
		var all []calibrate.Recorded
		for i := range n {
			got, err := u.Take(b, places[i*(len(places)-1)/(n-1)].Reading)
			if err != nil {
				t.Fatal(err)
			}
			all = append(all, got)
		}
		if b.Fit(b.Takes(all)).Unsure() <= want {
			return n
		}
	}
	return 25
}
