package calibrate

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"glossator/core/panel"
	"glossator/core/scale"
	"glossator/testutil/testrack"
)

// The exact sign test against the table of the binomial with p = 1/2 (two-sided: 2 times the sum of C(n, k) over 2^n), and Student's interval against t(0.975) of 2.776 with four degrees of freedom and 4.303 with two (any printed table of t, from memory).
func TestSignsAndIntervals(t *testing.T) {
	for _, x := range []struct {
		higher, n int
		p         float64
	}{{4, 4, 0.125}, {0, 4, 0.125}, {5, 5, 0.0625}, {5, 6, 14.0 / 64}, {3, 6, 1}, {9, 10, 22.0 / 1024}} {
		if p := signs(x.higher, x.n); math.Abs(p-x.p) > 1e-12 {
			t.Errorf("%d of %d: %g, want %g", x.higher, x.n, p, x.p)
		}
	}
	low, high := interval([]float64{1, 2, 3, 4, 5}) // mean 3, s = sqrt(2.5)
	if half := 2.776 * math.Sqrt(2.5/5); math.Abs(high-3-half) > 1e-3 || math.Abs(3-low-half) > 1e-3 {
		t.Errorf("%g to %g, want 3 ± %g", low, high, half)
	}
	low, high = interval([]float64{2, 4, 6})
	if half := 4.303 * 2 / math.Sqrt(3); math.Abs(high-low-2*half) > 2e-3 {
		t.Errorf("%g to %g, want 4 ± %g", low, high, half)
	}
}

// Who corrects a control by ear on an instrument whose law is moved sets it, in each patch, to where it means what was planned: the law that is learnt from that is the instrument's own. Second witness: the readings at which the moved panel means the same.
func TestTheMovedLawIsLearnt(t *testing.T) {
	rack := testrack.Panels(t)
	r := rand.New(rand.NewPCG(4, 11))
	for _, x := range []struct {
		panel, control string
		by             float64 // in the domain of the fit
	}{{"kedge", "lowpass.cutoff", 0.5}, {"coracle", "aenv.decay", -0.4}, {"halyard", "filter.cutoff", 0.4}} {
		c := rack[x.panel]
		k, bind, err := movable(c, x.control)
		if err != nil {
			t.Fatal(err)
		}
		law, err := shifted(c.Controls[k].Means[bind].Law, x.by)
		if err != nil {
			t.Fatal(err)
		}
		own := c.Controls[k].Means[bind].Law
		places := c.Places(k)
		var all []Corrected
		for n := range 7 {
			at := places[len(places)/4+r.IntN(len(places)/2)]
			want, ok := own.Raw(at.Travel)
			if !ok {
				continue
			}
			best, least := at, math.Inf(1)
			for _, p := range places { // a hand turns until it is right
				if v, ok := law.Raw(p.Travel); ok && math.Abs(intoDomain(own, v)-intoDomain(own, want)) < least {
					best, least = p, math.Abs(intoDomain(own, v)-intoDomain(own, want))
				}
			}
			all = append(all, Corrected{string(rune('a' + n)), at.Reading, best.Reading})
		}
		l, err := Learn(c, x.control, all)
		if err != nil {
			t.Fatal(err)
		}
		if !l.Offered || -l.Mean < math.Min(0.5*x.by, 1.5*x.by) || -l.Mean > math.Max(0.5*x.by, 1.5*x.by) {
			t.Errorf("%s %s: moved by %g: %+v", x.panel, x.control, x.by, l)
			continue
		}
		p, err := l.Adopted(c, x.control)
		if err != nil {
			t.Fatal(err)
		}
		next, err := panel.Compile(p)
		if err != nil {
			t.Fatal(err)
		}
		for _, y := range all {
			from, _ := c.Parse(k, y.Planned)
			to, _ := next.Parse(k, y.Set)
			a, _ := own.Raw(from.Travel)
			z, _ := next.Controls[k].Means[bind].Law.Raw(to.Travel)
			if off := math.Abs(intoDomain(own, z) - intoDomain(own, a)); off > 0.35*math.Abs(x.by) {
				t.Errorf("%s %s: %s was planned as %g, %s means %g now", x.panel, x.control, y.Planned, a, y.Set, z)
			}
		}
		if same := c.Controls[k].Means[bind].Law; same.String() != own.String() {
			t.Error("the panel itself was changed")
		}
	}
}

// What does not agree, is too little or too seldom, or is one patch many times, is not offered, and says so; what cannot be moved is refused.
func TestWhatIsNotLearnt(t *testing.T) {
	c := testrack.Panels(t)["halyard"]
	for _, x := range []struct {
		all  []Corrected
		says string
	}{
		{nil, "left as planned"},
		{[]Corrected{{"a", "50", "60"}, {"b", "40", "52"}, {"c", "70", "80"}}, "4 are asked for"},
		{[]Corrected{{"a", "50", "60"}, {"a", "40", "52"}, {"a", "70", "80"}, {"a", "30", "42"}, {"a", "20", "31"}}, "4 are asked for"},
		{[]Corrected{{"a", "50", "60"}, {"b", "40", "28"}, {"c", "70", "80"}, {"d", "30", "18"}, {"e", "20", "31"}}, "do not agree"},
		{[]Corrected{{"a", "50", "50"}, {"b", "40", "40"}}, "left as planned"},
	} {
		l, err := Learn(c, "filter.cutoff", x.all)
		if err != nil || l.Offered || !strings.Contains(l.Why, x.says) {
			t.Errorf("%v: %+v, %v; expected %q", x.all, l, err, x.says)
		}
	}
	if _, err := Learn(c, "filter.cutoff", []Corrected{{"a", "loud", "50"}}); err == nil {
		t.Error("a reading that cannot be is taken")
	}
	if _, err := Learn(c, "nothing", nil); err == nil {
		t.Error("no control of that name, and no error")
	}
	for _, x := range []struct {
		name string
		law  scale.Law
	}{{"a centre", scale.Law{Kind: scale.Bipolar, Unit: "%", Max: 1}}, {"none to all", scale.Law{Kind: scale.Linear, Unit: "%", Max: 100}}, {"an end at none", scale.Law{Kind: scale.Power, Unit: "oct", Max: 7}}, {"a list", scale.Law{Kind: scale.Listed, Unit: "Hz"}}} {
		if _, err := shifted(x.law, 0.5); err == nil {
			t.Errorf("%s is moved", x.name)
		}
	}
	// what is said of the interval is what it is, with its sign
	l, err := Learn(c, "filter.cutoff", []Corrected{{"a", "50", "60"}, {"b", "40", "45"}, {"c", "70", "71"}, {"d", "30", "29"}})
	if err != nil || l.Low >= 0 || !strings.Contains(l.Why, fmt.Sprintf("(95 %%: %.2g to %.2g)", l.Low, l.High)) {
		t.Errorf("%+v, %v", l, err)
	}
	if l, err = Learn(c, "filter.cutoff", []Corrected{{"a", "60", "50"}, {"b", "45", "38"}, {"c", "71", "60"}, {"d", "39", "29"}}); err != nil || !l.Offered || !strings.Contains(l.Why, fmt.Sprintf("(95 %%: %.2g to %.2g)", -l.High, -l.Low)) {
		t.Errorf("%+v, %v", l, err)
	}
	for id, c := range testrack.Panels(t) {
		for k := range c.Controls {
			if _, _, err := movable(c, c.Controls[k].ID); err != nil && len(c.Controls[k].Means) > 0 && !errors.Is(err, ErrNoRecipe) {
				t.Errorf("%s %s: %v", id, c.Controls[k].ID, err)
			}
		}
	}
}
