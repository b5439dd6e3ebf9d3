package scale_test

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"glossator/core/scale"
)

var dial = scale.Face{Kind: scale.Numeric, Min: 0, Max: 127, Step: 1}

// plain is a law of each kind without a fault.
func plain(k scale.LawKind) (scale.Law, scale.Face) {
	l := scale.Law{Kind: k, Unit: "%", Min: 10, Max: 90}
	switch k {
	case scale.Bipolar:
		l.Min = 0
	case scale.Decibel:
		l = scale.Law{Kind: k, Unit: "dB", Max: 6, Off: "bottom"}
	case scale.Table, scale.Segments:
		l = scale.Law{Kind: k, Unit: "Hz", Points: [][2]float64{{0, 20}, {0.4, 100}, {1, 9000}}}
	case scale.Listed:
		return scale.Law{Kind: k, Unit: "%", Values: []any{10.0, nil, "off"}}, scale.Face{Kind: scale.Switch, Entries: []string{"a", "b", "c"}}
	}
	return l, dial
}

// Each kind of law has words for people, passes its own check with plain numbers, gives values in order, and finds them back.
func TestEveryKindOfLaw(t *testing.T) {
	seen := map[string]bool{}
	for _, k := range scale.LawKinds {
		if k.Label == "" || k.Words == "" || k.Formula == "" || seen[k.Label] || seen[k.Words] || len(k.Fields) == 0 && !k.Points && !k.Values {
			t.Errorf("%s: a label, words, a formula and fields of its own are missing", k.Kind)
		}
		seen[k.Label], seen[k.Words] = true, true
		for _, f := range k.Fields {
			known := false
			for _, n := range scale.LawNumbers {
				known = known || n.Name == f.Name
			}
			if !known || f.Label == "" {
				t.Errorf("%s: the field %q is no number of a law, or has no label", k.Kind, f.Name)
			}
		}
		l, f := plain(k.Kind)
		if faults := l.Check(f); len(faults) > 0 {
			t.Errorf("%s: %v", k.Kind, faults)
			continue
		}
		if !strings.HasPrefix(l.String(), k.Words) || l.NumbersText() == "" {
			t.Errorf("%s is called %q with %q", k.Kind, l, l.NumbersText())
		}
		w := scale.WorkOut(f, l)
		for i := range f.Len() {
			v, set := w.Quantity(f.At(i))
			if !set {
				continue
			}
			back, err := w.Inverse(v)
			if got, _ := w.Quantity(back.Position); err != nil || math.Abs(got.Value-v.Value) > 1e-9*math.Max(1, math.Abs(v.Value)) || got.Off != v.Off {
				t.Errorf("%s: %v at %d comes back at %d (%v)", k.Kind, v, i, back.Index, err)
			}
		}
	}
	if scale.SpecOfLaw("spiral") != nil {
		t.Error("a kind that is none was found")
	}
}

// The S-shaped law by its closed form: its ends, its middle, the same on both sides, and slower at the ends than in the middle by the derivative of the logistic.
func TestLogisticLaw(t *testing.T) {
	l := scale.Law{Kind: scale.Logistic, Unit: "%", Min: 0, Max: 100, Exponent: 8}
	at := func(p float64) float64 {
		v, _ := l.Quantity(scale.Position{Travel: p, Index: -1})
		return 100 * v.Value
	}
	sigma := func(x float64) float64 { return 1 / (1 + math.Exp(-x)) }
	for _, p := range []float64{0, 0.1, 0.25, 0.5, 0.8, 1} {
		want := 100 * (sigma(8*(p-0.5)) - sigma(-4)) / (sigma(4) - sigma(-4))
		if math.Abs(at(p)-want) > 1e-9 || math.Abs(at(p)+at(1-p)-100) > 1e-9 {
			t.Errorf("at %v: %v, want %v", p, at(p), want)
		}
	}
	if slow, fast := at(0.01)-at(0), at(0.505)-at(0.495); math.Abs(fast/slow-(0.25/(sigma(4)*sigma(-4)))) > 1 {
		t.Errorf("%v at the end, %v in the middle", slow, fast)
	}
}

// Every value that a law gives is looked at when it is checked: infinities, values that no instrument has, a face whose ends are equal.
func TestValuesOfALawAreChecked(t *testing.T) {
	two := scale.Face{Kind: scale.Switch, Entries: []string{"a", "b"}}
	for name, x := range map[string]struct {
		face scale.Face
		law  scale.Law
		says string
	}{
		"Q from 0":                     {dial, scale.Law{Kind: scale.Linear, Unit: "Q", Min: 0, Max: 10}, "ordinary number"},
		"Q through 0":                  {dial, scale.Law{Kind: scale.Linear, Unit: "Q", Min: -5, Max: 122}, "ordinary number"},
		"1e-200 to 1e200 Hz":           {dial, scale.Law{Kind: scale.Exponential, Unit: "Hz", Min: 1e-200, Max: 1e200}, "an instrument can have"},
		"from 0 Hz, off at the top":    {dial, scale.Law{Kind: scale.Linear, Unit: "Hz", Min: 0, Max: 100, Off: "top"}, "an instrument can have"},
		"a power that starts at 1e-40": {dial, scale.Law{Kind: scale.Power, Unit: "ms", Min: 0, Max: 100, Exponent: 20, Off: "bottom"}, "an instrument can have"},
		"a listed 1e300 Hz":            {two, scale.Law{Kind: scale.Listed, Unit: "Hz", Values: []any{1e300, 1.0}}, "an instrument can have"},
		"an endless uncertainty":       {dial, scale.Law{Kind: scale.Linear, Unit: "%", Max: 1, Uncertainty: &scale.Uncertainty{U: math.Inf(1)}}, "ordinary number"},
	} {
		faults := x.law.Check(x.face)
		if len(faults) == 0 || !strings.Contains(faults.Error(), x.says) {
			t.Errorf("%s: %v, want one about %q", name, faults, x.says)
		}
	}
	for _, f := range []scale.Face{{Kind: scale.Clock, From: "7:00", To: "7:00"}, {Kind: scale.Clock, From: "17:00"}, {Kind: scale.Clock, From: "12:00", To: "11:00"}} {
		if len(f.Check()) == 0 {
			t.Errorf("a clock from %q to %q passes", f.From, f.To)
		}
	}
	for _, good := range []scale.Law{{Kind: scale.Linear, Unit: "Q", Min: 0.5, Max: 10}, {Kind: scale.Exponential, Unit: "Hz", Min: 0.01, Max: 22000}, {Kind: scale.Power, Unit: "ms", Max: 9000, Exponent: 3, Off: "bottom"}} {
		if faults := good.Check(dial); len(faults) > 0 {
			t.Errorf("%+v: %v", good, faults)
		}
	}
}

// The check looks at few values; this looks at all: a law of any kind with any numbers that passes gives an ordinary number at every place
// of every face, in order, with an ordinary uncertainty, and one that does not pass says where.
func TestWhatPassesIsOrdinaryEverywhere(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	number := func() float64 {
		switch r.IntN(8) {
		case 0:
			return 0
		case 1:
			return []float64{math.Inf(1), math.NaN(), 1e300, -1e300, 1e-300}[r.IntN(5)]
		}
		return math.Copysign(math.Pow(10, 10*r.Float64()-4), r.Float64()-0.25)
	}
	faces := []scale.Face{dial, {Kind: scale.Clock}, {Kind: scale.Numeric, Min: -64, Max: 63, Step: 1}, {Kind: scale.Switch, Entries: []string{"a", "b"}},
		{Kind: scale.Marks, Between: 10, Marks: []scale.Mark{{At: 0, Legend: "0"}, {At: 0.3, Legend: "1"}, {At: 1, Legend: "10"}}}}
	passed, failed := map[scale.LawKind]int{}, map[scale.LawKind]int{}
	for _, k := range scale.LawKinds {
		for range 4000 {
			l := scale.Law{Kind: k.Kind, Unit: []string{"Hz", "ms", "%", "dB", "ct", "Q", "oct", "fraction", "kHz"}[r.IntN(9)]}
			for _, n := range scale.LawNumbers {
				*n.Of(&l) = number()
			}
			if r.IntN(2) == 0 {
				l.Dead, l.Exponent = r.Float64(), 3*r.Float64()
			}
			l.Off = []string{"", "", "bottom", "top"}[r.IntN(4)]
			if r.IntN(3) == 0 {
				l.Uncertainty = &scale.Uncertainty{U: number(), Relative: r.IntN(2) == 0}
			}
			if k.Points {
				v := number()
				for p := 0.0; p <= 1; p += 0.25 {
					l.Points = append(l.Points, [2]float64{p, v})
					v += math.Abs(number())
				}
			}
			f := faces[r.IntN(len(faces))]
			if k.Values {
				for range f.Len() {
					l.Values = append(l.Values, number())
				}
			}
			if l.Check(f) != nil {
				failed[k.Kind]++
				continue
			}
			passed[k.Kind]++
			rising, last := 0.0, math.NaN()
			for i := range f.Len() {
				v, set := l.Quantity(f.At(i))
				if !set || v.Off {
					continue
				}
				if !v.Finite() || math.Abs(v.Value) > 1e7 {
					t.Fatalf("%#v on %s passes, and gives %v ±%v at %s", l, f.Kind, v.Value, v.Tol, f.At(i).Reading)
				}
				if d := v.Value - last; !k.Values && d != 0 && d == d {
					if rising*d < 0 && math.Abs(d) > 1e-12*math.Abs(v.Value) {
						t.Fatalf("%#v on %s passes, and turns back at %s", l, f.Kind, f.At(i).Reading)
					}
					rising = d
				}
				last = v.Value
			}
		}
		if passed[k.Kind] < 20 || failed[k.Kind] < 20 {
			t.Errorf("%s: %d passed, %d did not", k.Kind, passed[k.Kind], failed[k.Kind])
		}
	}
}
