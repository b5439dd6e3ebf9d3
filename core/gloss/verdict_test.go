package gloss

import (
	"math"
	"strings"
	"testing"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// Verdicts are in order from best to worst, and the losses are among them.
func TestOrderOfVerdicts(t *testing.T) {
	for i, a := range Verdicts {
		for k, b := range Verdicts {
			if i < k && Worse(a, b) || a == b && Worse(a, b) || b != Idle && a != Idle && i > k && !Worse(a, b) {
				t.Errorf("%s worse than %s: %v", a, b, Worse(a, b))
			}
		}
	}
	at := map[Verdict]int{}
	for i, v := range Verdicts {
		at[v] = i + 1
	}
	for i, v := range Losses {
		if at[v] == 0 || i > 0 && at[v] < at[Losses[i-1]] || v == Idle || v == Held {
			t.Errorf("%s among the losses", v)
		}
	}
}

// A difference is said with its sign, in the terms of its quantity, and nothing where there is none.
func TestDifferencesInWords(t *testing.T) {
	param := func(k meaning.Kind, name meaning.ParamName) meaning.Param {
		p, ok := meaning.SpecOf(k).Param(name)
		if !ok {
			t.Fatalf("a %s has no %s", k, name)
		}
		return p
	}
	for _, x := range []struct {
		p         meaning.Param
		want, got float64
		says      string
	}{
		{param(meaning.Osc, meaning.PLevel), -6, -3, "+3 dB"},
		{param(meaning.Osc, meaning.PLevel), -3, -6, "-3 dB"},
		{param(meaning.Osc, meaning.PInterval), 1200, 1207, "+7 ct"},
		{param(meaning.Env, meaning.PAttack), 0.1, 0.2, "+100 %"},
		{param(meaning.Env, meaning.PAttack), 0.2, 0.1, "-50 %"},
		{param(meaning.Filter, meaning.PTrack), 0.5, 0.25, "-25"},
	} {
		a, b := q.Quantity{Dim: x.p.Dim, Value: x.want}, q.Quantity{Dim: x.p.Dim, Value: x.got}
		got := difference(x.p, a, b, q.Distance(a, b))
		if !strings.HasPrefix(got, x.says) {
			t.Errorf("%s from %v to %v: %q, want %q", x.p.Name, x.want, x.got, got, x.says)
		}
	}
}

// Rounding is to the nearest, the same both ways about 0, and of what is rounded already nothing changes.
func TestRounding(t *testing.T) {
	for _, v := range []float64{0, 0.04, 0.05, 1.26, 12.345} {
		for d := range 4 {
			r := Round(v, d)
			if math.Abs(r-v) > 0.5000001*math.Pow(10, -float64(d)) || Round(r, d) != r || math.Abs(Round(-v, d)+r) > 1e-9 {
				t.Errorf("%v to %d decimals is %v, and %v", v, d, r, Round(-v, d))
			}
		}
	}
}
