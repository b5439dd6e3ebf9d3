package scale

import (
	"math"
	"strings"
	"testing"
)

func numbers(top float64) Face { return Face{Kind: Numeric, Max: top, Step: 1} }

// A law that is drawn by its marks comes back from them, whatever its kind.
func TestMarksGiveTheirLawBack(t *testing.T) {
	for _, c := range []struct {
		name string
		law  Law
		at   []int
		text func(v float64) string
	}{
		{"equal ratios from two", Law{Kind: Exponential, Unit: "Hz", Min: 20, Max: 20000}, []int{0, 100}, hz},
		{"equal ratios from inside marks", Law{Kind: Exponential, Unit: "Hz", Min: 20, Max: 20000}, []int{10, 40, 90}, hz},
		{"straight times", Law{Kind: Linear, Unit: "ms", Min: 10, Max: 510}, []int{0, 20, 60, 100}, ms},
		{"straight cents, falling", Law{Kind: Linear, Unit: "ct", Min: 50, Max: -50}, []int{0, 50, 100}, ct},
		{"square of the travel", Law{Kind: Power, Unit: "%", Min: 0, Max: 100, Exponent: 2}, []int{0, 25, 50, 75, 100}, pc},
	} {
		var lines []string
		for _, i := range c.at {
			p := numbers(100).At(i)
			lines = append(lines, p.Reading+" = "+c.text(c.law.raw(p.Travel)))
		}
		fit, err := FromMarks(numbers(100), "", strings.Join(lines, "\n"))
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		if fit.Law.Kind != c.law.Kind || fit.Law.Source != Stated || fit.Worst > FitTravel {
			t.Errorf("%s: got %v (%s), worst %v", c.name, fit.Law.Kind, fit.Says, fit.Worst)
		}
		for i := 5; i <= 100; i += 5 {
			p := float64(i) / 100
			want, got := c.law.raw(p), fit.Law.raw(p)
			if math.Abs(got-want) > 0.02*math.Max(math.Abs(want), 1) {
				t.Errorf("%s: at %v %v, want %v", c.name, p, got, want)
			}
		}
	}
}

func hz(v float64) string { return strconvF(v) + " Hz" }
func ms(v float64) string { return strconvF(v) + " ms" }
func ct(v float64) string { return strconvF(v) + " ct" }
func pc(v float64) string { return strconvF(v) + " %" }
func strconvF(v float64) string {
	return strings.TrimSpace(figure(v))
}

// Marks on no plain law give a curve that goes through every one of them.
func TestMarksOffAnyLawGiveACurve(t *testing.T) {
	fit, err := FromMarks(Face{Kind: Clock}, "", "8:00 = 40 Hz; 10:00 = 60 Hz; 12:00 = 1.2 kHz; 16:00 = 9 kHz; 7:00 = off")
	if err != nil {
		t.Fatal(err)
	}
	if fit.Law.Kind != Table || fit.Law.Off != "bottom" || !strings.Contains(fit.Says, "both ends are drawn on") {
		t.Errorf("got %+v", fit)
	}
	for travel, want := range map[float64]float64{0.1: 40, 0.3: 60, 0.5: 1200, 0.9: 9000} {
		if got := fit.Law.raw(travel); math.Abs(got-want) > 0.001*want {
			t.Errorf("at %v: %v, want %v", travel, got, want)
		}
	}
}

func TestMarksInAUnitOfTheirOwn(t *testing.T) {
	fit, err := FromMarks(numbers(10), "kHz", "0 = 0.1\n10 = 10")
	if err != nil || fit.Law.Unit != "kHz" || fit.Law.Kind != Exponential {
		t.Errorf("got %+v, %v", fit, err)
	}
}

func TestMarkFaults(t *testing.T) {
	for _, c := range []struct{ unit, text, at, says string }{
		{"", "", "", "at least two marks"},
		{"", "5 = 100 Hz", "", "at least two marks"},
		{"", "5 100 Hz\n6 = 200 Hz", "line 1", "mark = value"},
		{"", "5 = 100 Hz\n200 = 200 Hz", "line 2", "out of range"},
		{"", "5 = 100 Hz\n6 = 200 ms", "line 2", "expected frequency"},
		{"", "5 = 100\n6 = 200", "line 1", "a unit"},
		{"", "5 = 100 Hz\n6 = 0 Hz", "line 2", "above 0"},
		{"", "5 = 100 Hz\n6 = 200 Hz\n7 = 150 Hz", "", "one way"},
		{"", "5 = 100 Hz\n5 = 200 Hz", "", "one way"},
		{"", "5 = off\n6 = 200 Hz", "line 1", "an end"},
		{"wave", "5 = 1\n6 = 2", "", "unit of a quantity"},
	} {
		_, err := FromMarks(numbers(100), c.unit, c.text)
		if err == nil || !strings.Contains(err.Error(), c.says) || !strings.HasPrefix(err.Error(), c.at) {
			t.Errorf("%q: got %v, want %q at %q", c.text, err, c.says, c.at)
		}
	}
}

func FuzzFromMarks(f *testing.F) {
	f.Add("", "0 = 20 Hz\n100 = 20 kHz")
	f.Add("ms", "0 = off; 50 = 1; 100 = 1e9")
	f.Add("dB", "3 = -6\n2=~-3 dB\n1 = 0 dB")
	f.Fuzz(func(t *testing.T, unit, text string) {
		face := numbers(100)
		fit, err := FromMarks(face, unit, text)
		if err != nil {
			return
		}
		if l := fit.Law.Check(face); len(l) > 0 {
			t.Errorf("%q made a law with faults: %v", text, l)
		}
		for i := range face.Len() {
			if q, set := fit.Law.Quantity(face.At(i)); set && !q.Off && !q.Finite() {
				t.Errorf("%q is %v at %d", text, q.Value, i)
			}
		}
	})
}
