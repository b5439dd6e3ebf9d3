package calibrate_test

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"glossator/core/calibrate"
	"glossator/core/scale"
	"glossator/testutil/testrack"
)

// Takes of laws of every kind that a rate may go by, with a little noise: the kind that is chosen is the true one, or one that nobody could tell from it, and the law is near everywhere.
func TestTheKindIsFound(t *testing.T) {
	b := begin(t, "kedge", "lfo.rate", "")
	places := b.Panel.Places(b.Control)
	for _, x := range []struct {
		name string
		kind scale.LawKind
		law  func(p float64) float64
	}{
		{"equal ratios", scale.Exponential, func(p float64) float64 { return 0.12 * math.Pow(300, p) }},
		{"straight", scale.Linear, func(p float64) float64 { return 0.2 + 30*p }},
		{"power", scale.Power, func(p float64) float64 { return 0.1 + 36*math.Pow(p, 2.4) }},
		{"S-shaped", scale.Logistic, func(p float64) float64 {
			s := func(p float64) float64 { return 1 / (1 + math.Exp(-7*(p-0.5))) }
			return 0.5 + 30*(s(p)-s(0))/(s(1)-s(0))
		}},
		{"the panel's, another end", scale.Exponential, func(p float64) float64 { return 0.1 * math.Pow(250, p) }},
		{"equal ratios with a bend", scale.Table, func(p float64) float64 { return 0.1 * math.Pow(400, p+0.35*p*(1-p)) }},
	} {
		for seed := range uint64(4) {
			r := rand.New(rand.NewPCG(seed, 1))
			var all []calibrate.Recorded
			for i := 0; i < len(places); i += 4 {
				p := places[i].Travel
				all = append(all, calibrate.Recorded{Reading: places[i].Reading, Travel: p, Figure: math.Log2(x.law(p)) + 0.01*r.NormFloat64(), U: 0.01, Foreign: true})
			}
			got := b.Fit(b.Takes(all))
			worst := 0.0
			for i, y := range got.Band() {
				worst = max(worst, math.Abs(math.Log2(*y.Value/x.law(places[i].Travel)))/b.JND())
			}
			if got.All[0].Kind != x.kind && worst > 1 || worst > 1.5 {
				t.Errorf("%s, %d: taken for %s (criterion %.1f, the next %s %.1f), %.2f just-noticeable differences off at the worst", x.name, seed, got.All[0].Label, got.All[0].AICc, got.All[1].Label, got.All[1].AICc, worst)
			}
			if l := got.Law.Check(b.Panel.Controls[b.Control].Face); len(l) > 0 {
				t.Errorf("%s: the law is at fault: %v", x.name, l)
			}
			if got.Law.Source != scale.Measured || got.Law.Uncertainty == nil || got.Law.Uncertainty.U <= 0 || got.Law.Uncertainty.U > 0.3 {
				t.Errorf("%s: measured %v, uncertainty %+v", x.name, got.Law.Source, got.Law.Uncertainty)
			}
		}
	}
}

// A rate that was heard at twice itself in a third of the takes is put right by the others.
func TestRatesHeardTwice(t *testing.T) {
	b := begin(t, "kedge", "lfo.rate", "")
	places := b.Panel.Places(b.Control)
	law := func(p float64) float64 { return 0.15 * math.Pow(200, p) }
	var all []calibrate.Recorded
	for i := 0; i < len(places); i += 3 {
		p := places[i].Travel
		twice := 0.0
		if i%9 == 3 {
			twice = 1
		}
		all = append(all, calibrate.Recorded{Reading: places[i].Reading, Travel: p, Figure: math.Log2(law(p)) + twice, U: 0.02, Foreign: true})
	}
	r := b.Fit(b.Takes(all))
	for i, y := range r.Band() {
		if off := math.Abs(math.Log2(*y.Value / law(places[i].Travel))); off > 2*b.JND() {
			t.Errorf("at %s: %.3g Hz, truly %.3g", y.Reading, *y.Value, law(places[i].Travel))
		}
	}
	for _, k := range r.Takes {
		at, _ := b.Position(k.Reading)
		if off := math.Abs(math.Log2(k.Value / law(at.Travel))); off > 0.1 {
			t.Errorf("the take at %s is shown as %.3g Hz, truly %.3g", k.Reading, k.Value, law(at.Travel))
		}
	}
}

// Nothing that takes may say breaks the fit: few, the same, contrary, wild ones give finite bands that hold what was taken.
func TestOddTakes(t *testing.T) {
	b := begin(t, "kedge", "osc2.tune", "")
	places := b.Panel.Places(b.Control)
	r := rand.New(rand.NewPCG(4, 9))
	for n := range 40 {
		var all []calibrate.Recorded
		for range r.IntN(12) {
			p := places[r.IntN(len(places))]
			f := 1400 * (p.Travel - 0.5)
			switch n % 4 {
			case 1:
				f = -f
			case 2:
				f = 0
			case 3:
				f += 2000 * r.NormFloat64()
			}
			all = append(all, calibrate.Recorded{Reading: p.Reading, Travel: p.Travel, Figure: f, U: 0.5, Foreign: true})
		}
		got := b.Fit(b.Takes(all))
		for _, y := range got.Band() {
			if y.Value == nil {
				continue
			}
			if bad := *y.Value + *y.Low + *y.High; math.IsNaN(bad) || math.IsInf(bad, 0) || *y.Low > *y.High {
				t.Fatalf("%d takes (%d): at %s %g to %g", len(all), n, y.Reading, *y.Low, *y.High)
			}
		}
		if next := got.Next(); math.IsNaN(next.Gain+next.Unsure) || next.Reading == "" && !next.Done {
			t.Errorf("%d takes (%d): next %+v", len(all), n, next)
		}
	}
}

// A control that was not moved between two takes, readings that go the other way, and another note on a recording of which nobody knows what was played are told, and the takes are used all the same.
func TestDoubtfulTakes(t *testing.T) {
	b := begin(t, "kedge", "osc2.tune", "")
	take := func(reading string, cents float64) calibrate.Recorded {
		at, err := b.Position(reading)
		if err != nil {
			t.Fatal(err)
		}
		return calibrate.Recorded{Reading: at.Reading, Travel: at.Travel, Figure: cents, U: 0.5, Foreign: true}
	}
	for _, x := range []struct {
		name   string
		takes  []calibrate.Recorded
		doubt  int // place of the doubtful take; -1 for none
		noted  string
		reason string
	}{
		{"as it should be", []calibrate.Recorded{take("8:00", -560), take("12:00", 0), take("4:00", 560)}, -1, "", ""},
		{"not moved", []calibrate.Recorded{take("8:00", -560), take("12:00", -560), take("4:00", 560)}, 1, "", "was the control moved"},
		{"the same reading twice", []calibrate.Recorded{take("8:00", -560), take("8:00", -560), take("4:00", 560)}, -1, "", ""},
		{"backwards", []calibrate.Recorded{take("8:00", 560), take("12:00", 0), take("2:00", -280), take("4:00", -560)}, -1, "the other way", ""},
	} {
		r := b.Fit(b.Takes(x.takes))
		for i, k := range r.Takes {
			if (k.Doubt != "") != (i == x.doubt) || i == x.doubt && !strings.Contains(k.Doubt, x.reason) {
				t.Errorf("%s: take %d: %q", x.name, i, k.Doubt)
			}
		}
		if (x.noted != "") != strings.Contains(r.Note, "the other way") {
			t.Errorf("%s: noted %q", x.name, r.Note)
		}
	}
	level := begin(t, "kedge", "mix.osc1", "")
	got, err := level.Hear("12:00", &calibrate.Sound{Wave: tone(220*math.Exp2(3.0/12), 1.5, 0.1)})
	if err != nil || got.Why != "" || !strings.Contains(got.Doubt, "+3 semitones") {
		t.Errorf("another note on a foreign recording: %+v (%v)", got, err)
	}
}

// A fit of a rate looks for takes that were heard twice, too.
func BenchmarkFitOfARate(b *testing.B) {
	x, err := calibrate.Begin(testrack.Panels(b)["kedge"], "lfo.rate", "")
	if err != nil {
		b.Fatal(err)
	}
	var all []calibrate.Recorded
	for i, p := range x.Panel.Places(x.Control) {
		if i%2 == 0 {
			all = append(all, calibrate.Recorded{Reading: p.Reading, Travel: p.Travel, Figure: -3 + 8*p.Travel + float64(i%6/4), U: 0.02, Foreign: true})
		}
	}
	for b.Loop() {
		x.Fit(x.Takes(all))
	}
}
