package scale

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	q "glossator/core/quantity"
)

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

var (
	to127   = Face{Kind: Numeric, Max: 127, Step: 1}
	dial    = Face{Kind: Clock}
	tenths  = Face{Kind: Numeric, Max: 10, Step: 0.1}
	times   = Face{Kind: Marks, Between: 4, Marks: []Mark{{0, "10 ms"}, {0.5, "100 ms"}, {1, "1 s"}}}
	feet    = Face{Kind: List, Entries: []string{"16'", "8'", "4'"}}
	signed  = Face{Kind: Numeric, Min: -50, Max: 50, Step: 1, Sign: true}
	percent = Face{Kind: Numeric, Max: 100, Step: 0.5, Suffix: " %"}
)

func TestFacesReadAndWrite(t *testing.T) {
	plain := Face{Kind: Marks, Marks: []Mark{{0, "soft"}, {0.5, "tube"}, {1, "hard"}}, Between: 4}
	for _, c := range []struct {
		name    string
		face    Face
		text    string
		travel  float64
		reading string
	}{
		{"number", to127, "61", 61. / 127, "61"}, {"number by eye", to127, "~61.5", 61.5 / 127, "~61.5"}, {"share of the travel", to127, "half", 0.5, "half"},
		{"fraction of the travel", to127, "~ 3/4", 0.75, "~3/4"}, {"decimals", tenths, "7.5", 0.75, "7.5"}, {"decimals left out", tenths, "7", 0.7, "7.0"},
		{"sign", signed, "+12", 0.62, "+12"}, {"sign left out", signed, "12", 0.62, "+12"}, {"below", signed, "-50", 0, "-50"},
		{"suffix", percent, "35", 0.35, "35.0 %"}, {"suffix written", percent, "35 %", 0.35, "35.0 %"},
		{"clock", dial, "12:00", 0.5, "12:00"}, {"noon", dial, "noon", 0.5, "12:00"}, {"o'clock", dial, "2 o'clock", 0.7, "2:00"}, {"bare hour", dial, "11", 0.4, "11:00"},
		{"clock between steps", dial, "12:05", 305. / 600, "12:05"}, {"clock about", dial, "~2 o'clock", 0.7, "~2:00"},
		{"mark", times, "100 ms", 0.5, "100 ms"}, {"mark in other words", times, "0.1 s", 0.5, "100 ms"}, {"between marks, at a step", times, "316 ms", 0.75, "316 ms"}, {"between marks", times, "200 ms", 0.65051, "200 ms"},
		{"list", feet, "8'", 0.5, "8'"}, {"list, other case", Face{Kind: List, Entries: []string{"Saw", "Pulse"}}, "pulse", 1, "Pulse"},
		{"words between marks", plain, "soft + 1/4", 0.125, "soft + 1/4"}, {"switch", Face{Kind: Switch, Entries: []string{"off", "on"}}, "off", 0, "off"},
	} {
		p, err := c.face.Parse(c.text)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		if math.Abs(p.Travel-c.travel) > 1e-4 || p.Reading != c.reading {
			t.Errorf("%s: %q is %q at %v, want %q at %v", c.name, c.text, p.Reading, p.Travel, c.reading, c.travel)
		}
	}
	for _, c := range []struct {
		face       Face
		text, says string
	}{
		{to127, "128", "0 to 127"}, {to127, "-1", "0 to 127"}, {to127, "61.5", "between two steps"}, {to127, "saw", "steps of 1"}, {to127, "350 Hz", "0 to 127"},
		{tenths, "4.25", "4.2 or 4.3"}, {dial, "6:00", "7:00 to 5:00"}, {dial, "350 Hz", "clock position"}, {times, "5 s", "between two of them"},
		{times, "8'", "marks"}, {feet, "2'", "16', 8', 4'"}, {feet, "", "16', 8', 4'"}, {to127, "", "a reading"}, {percent, "35 Hz", "100.0 %"},
	} {
		if p, err := c.face.Parse(c.text); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%q gave %v (%v), want an error that says %q", c.text, p, err, c.says)
		}
	}
}

// Everything that a face can hold reads back to the same place, also with other spacing.
func TestReadingsRoundTrip(t *testing.T) {
	for _, f := range []Face{to127, dial, tenths, times, feet, signed, percent, {Kind: Numeric, Min: 1, Max: 12, Step: 1, Prefix: "x"},
		{Kind: Clock, From: "8:00", To: "16:00", Minutes: 5}} {
		if l := f.Check(); len(l) > 0 {
			t.Fatal(l)
		}
		for i := range f.Len() {
			at := f.At(i)
			p, err := f.Parse(" " + at.Reading + " ")
			if err != nil || p.Index != i || math.Abs(p.Travel-at.Travel) > 1e-9 {
				t.Errorf("%s: %q is place %d at %v (%v), want %d at %v", f.Kind, at.Reading, p.Index, p.Travel, err, i, at.Travel)
			}
		}
	}
}

func laws() []struct {
	Face Face
	Law  Law
} {
	return []struct {
		Face Face
		Law  Law
	}{
		{to127, Law{Kind: Exponential, Unit: "Hz", Min: 20, Max: 18000}},
		{to127, Law{Kind: Exponential, Unit: "Hz", Min: 18000, Max: 20}},
		{dial, Law{Kind: Exponential, Unit: "ms", Min: 1, Max: 8000, Convention: T60, Off: "bottom"}},
		{tenths, Law{Kind: Linear, Unit: "%", Min: 0, Max: 100}},
		{tenths, Law{Kind: Linear, Unit: "%", Min: 50, Max: 5}},
		{tenths, Law{Kind: Decibel, Unit: "dB", Max: 6, Exponent: 2, Off: "bottom"}},
		{tenths, Law{Kind: Power, Unit: "ct", Max: 1200, Exponent: 2.5, Swing: PeakToPeak}},
		{signed, Law{Kind: Bipolar, Unit: "oct", Max: 5, Exponent: 1.5, Dead: 0.05}},
		{times, Law{Kind: Segments, Unit: "s", Points: [][2]float64{{0, 0.01}, {0.5, 0.1}, {1, 1}}, Convention: Tau}},
		{to127, Law{Kind: Table, Unit: "Hz", Points: [][2]float64{{0, 20}, {0.3, 100}, {0.6, 2000}, {1, 20000}}}},
		{to127, Law{Kind: Table, Unit: "dB", Points: [][2]float64{{0, 12}, {0.2, 3}, {1, -30}}}},
		{percent, Law{Kind: Linear, Unit: "Q", Min: 0.5, Max: 20}},
	}
}

// A law rises or falls strictly (but for a dead zone), is finite, and its inverse is within
// half a step; the inverse of what the law gives is the same place.
func TestLawProperties(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for _, c := range laws() {
		name := string(c.Law.Kind) + " " + c.Law.Unit
		if l := c.Law.Check(c.Face); len(l) > 0 {
			t.Fatalf("%s: %v", name, l)
		}
		var last q.Quantity
		direction := 0.0
		for i := range c.Face.Len() {
			v, set := c.Law.Quantity(c.Face.At(i))
			if !set || !v.Finite() || v.Tol < 0 {
				t.Fatalf("%s at %d is %v", name, i, v)
			}
			if i > 0 && !last.Off && !v.Off {
				d := v.Value - last.Value
				if d*direction < 0 || d == 0 && c.Law.Dead == 0 {
					t.Errorf("%s is not monotone at %d: %v after %v", name, i, v, last)
				}
				if d != 0 {
					direction = d
				}
			}
			last = v
			s, err := c.Law.Inverse(c.Face, v)
			must(t, err)
			if math.Abs(s.Error) > 1e-9 || c.Law.Dead == 0 && s.Index != i {
				t.Errorf("%s: the inverse of %v at %d is %d, off by %v", name, v, i, s.Index, s.Error)
			}
		}
		for range 200 {
			p := 0.002 + 0.996*rng.Float64()
			want := c.Law.value(p)
			s, err := c.Law.Inverse(c.Face, want)
			must(t, err)
			if !want.Off && math.Abs(s.Error) > s.Step/2*(1+1e-6)+1e-9 && !(c.Law.Off != "" && s.Clamped) {
				// where steps differ to both sides the nearer one must still have won
				up, down := c.Face.At(s.Index+1), c.Face.At(s.Index-1)
				for _, n := range []Position{up, down} {
					if v, _ := c.Law.Quantity(n); !v.Off && math.Abs(q.Distance(want, v)) < math.Abs(s.Error)-1e-12 {
						t.Errorf("%s: %v went to %v although %v is nearer", name, want, s.Reached, v)
					}
				}
			}
			if back, ok := c.Law.Travel(want); ok && c.Law.Dead == 0 && math.Abs(back-p) > 1e-6 {
				t.Errorf("%s: travel of %v is %v, want %v", name, want, back, p)
			}
		}
	}
}

func TestInverseClampsAndSaysSo(t *testing.T) {
	l := Law{Kind: Exponential, Unit: "Hz", Min: 20, Max: 2000}
	for _, c := range []struct {
		want    float64
		reading string
		clamped bool
	}{{5, "0", true}, {20, "0", false}, {2000, "127", false}, {9000, "127", true}} {
		s, err := l.Inverse(to127, q.Quantity{Dim: q.DimFrequency, Value: c.want})
		if err != nil || s.Reading != c.reading || s.Clamped != c.clamped {
			t.Errorf("%v Hz gave %s, clamped %v (%v)", c.want, s.Reading, s.Clamped, err)
		}
	}
	s, err := l.Inverse(to127, q.Quantity{Dim: q.DimFrequency, Value: 9000})
	must(t, err)
	if want := math.Log(2000. / 9000); math.Abs(s.Error-want) > 1e-9 {
		t.Errorf("beyond the end by %v, want %v", s.Error, want)
	}
	if _, err := l.Inverse(to127, q.Quantity{Dim: q.DimLevel}); err == nil {
		t.Error("a level was set on a frequency")
	}
	if _, err := l.Inverse(to127, q.Quantity{Dim: q.DimFrequency, Value: math.NaN()}); err == nil {
		t.Error("NaN was set")
	}
	off := Law{Kind: Exponential, Unit: "s", Min: 0.005, Max: 4, Off: "bottom"}
	if s, err := off.Inverse(to127, q.OffOf(q.DimDuration)); err != nil || s.Index != 0 || !s.Reached.Off {
		t.Errorf("off went to %v (%v)", s, err)
	}
	if s, err := off.Inverse(to127, q.Quantity{Dim: q.DimDuration, Value: 0.0001}); err != nil || s.Reached.Off {
		t.Errorf("a very short time became off: %v (%v)", s, err)
	}
}

// Ties go to the smaller travel: 2.5 lies in the middle of steps 2 and 3.
func TestTies(t *testing.T) {
	l := Law{Kind: Linear, Unit: "%", Min: 0, Max: 127}
	s, err := l.Inverse(to127, q.Quantity{Dim: q.DimRatio, Value: 0.025})
	if err != nil || s.Index != 2 {
		t.Errorf("a tie went to %d (%v), want 2", s.Index, err)
	}
	if p := to127.Nearest(2.5 / 127); p.Index != 2 {
		t.Errorf("a tie of travel went to %d, want 2", p.Index)
	}
}

// Circuit theory: t90 = tau ln 10 = t60/3; a ramp has done 90 % after 0.9 of it; half of the
// way takes 0.6931 tau.
func TestTimeConventions(t *testing.T) {
	for _, c := range []struct {
		convention Convention
		want       float64
	}{{Ramp, 0.9}, {Tau, 2.302585}, {T60, 1. / 3}, {T90, 1}, {Half, 2.302585 / 0.693147}} {
		l := Law{Kind: Linear, Unit: "s", Min: 0.5, Max: 1.5, Convention: c.convention}
		v, _ := l.Quantity(Position{Travel: 0.5})
		if math.Abs(v.Value-c.want) > 1e-5 {
			t.Errorf("1 s as %s is a t90 of %v, want %v", c.convention, v.Value, c.want)
		}
	}
	v, _ := Law{Kind: Linear, Unit: "ct", Min: 0, Max: 100, Swing: PeakToPeak}.Quantity(Position{Travel: 1})
	if v.Value != 50 {
		t.Errorf("100 ct peak to peak is a peak of %v, want 50", v.Value)
	}
}

// A printed number is good to half its last step, rectangular (GUM 4.3.7); an unmarked knob
// to a quarter of an hour; "~" widens both; the law's own uncertainty adds in squares.
func TestTolerances(t *testing.T) {
	l := Law{Kind: Linear, Unit: "%", Min: 0, Max: 127}
	read := func(f Face, text string, l Law) float64 {
		p, err := f.Parse(text)
		must(t, err)
		v, _ := l.Quantity(p)
		return v.Tol
	}
	plain := read(to127, "61", l)
	if want := 0.005 / math.Sqrt(3); math.Abs(plain-want) > 1e-6 {
		t.Errorf("61 of 127 per cent has tolerance %v, want %v", plain, want)
	}
	eye := read(dial, "12:00", Law{Kind: Linear, Unit: "%", Min: 0, Max: 100})
	if want := 15. / 600 / math.Sqrt(3); math.Abs(eye-want) > 1e-6 {
		t.Errorf("noon has tolerance %v, want %v", eye, want)
	}
	if about := read(dial, "~12:00", Law{Kind: Linear, Unit: "%", Min: 0, Max: 100}); about < 2*eye {
		t.Errorf("~12:00 has tolerance %v, want more than %v", about, 2*eye)
	}
	known := l
	known.Source, known.Uncertainty = Measured, &Uncertainty{U: 1}
	if got, want := read(to127, "61", known), q.RSS(plain, 0.01); math.Abs(got-want) > 1e-9 {
		t.Errorf("with the law's 1 %% the tolerance is %v, want %v", got, want)
	}
	exact := to127
	exact.Exact = true
	if got := read(exact, "61", l); got != 0 {
		t.Errorf("a counted number has tolerance %v", got)
	}
}

func TestChecksNameTheFault(t *testing.T) {
	u := func(x float64) *Uncertainty { return &Uncertainty{U: x} }
	for _, c := range []struct {
		name, path, says string
		face             Face
		law              Law
	}{
		{"min above max", "/max", "above min", Face{Kind: Numeric, Min: 5, Max: 5, Step: 1}, Law{}},
		{"step 0", "/step", "above 0", Face{Kind: Numeric, Max: 5}, Law{}},
		{"step that does not divide", "/step", "evenly", Face{Kind: Numeric, Max: 10, Step: 3}, Law{}},
		{"too many steps", "/step", "at most", Face{Kind: Numeric, Max: 1e6, Step: 0.1}, Law{}},
		{"clock text", "", "clock position", Face{Kind: Clock, From: "7"}, Law{}},
		{"clock backwards", "/to", "after from", Face{Kind: Clock, From: "12:00", To: "12:10"}, Law{}},
		{"one mark", "/marks", "at least 2", Face{Kind: Marks, Marks: []Mark{{0, "a"}}}, Law{}},
		{"marks that fall", "/marks/1/at", "above", Face{Kind: Marks, Marks: []Mark{{0.5, "a"}, {0.5, "b"}}}, Law{}},
		{"mark outside", "/marks/1/at", "0 to 1", Face{Kind: Marks, Marks: []Mark{{0, "a"}, {2, "b"}}}, Law{}},
		{"legend twice", "/marks/1/legend", "no other", Face{Kind: Marks, Marks: []Mark{{0, "a"}, {1, "A"}}}, Law{}},
		{"one entry", "/entries", "2 to 1000", Face{Kind: List, Entries: []string{"a"}}, Law{}},
		{"entry twice", "/entries/1", "no other", Face{Kind: List, Entries: []string{"a", "a"}}, Law{}},
		{"unknown face", "/kind", "numeric", Face{Kind: "dial"}, Law{}},
		{"unknown unit", "/unit", "known unit", to127, Law{Kind: Linear, Unit: "furlong"}},
		{"constant", "/max", "rise or fall", to127, Law{Kind: Linear, Unit: "%", Min: 3, Max: 3}},
		{"exponential through 0", "/min", "above 0", to127, Law{Kind: Exponential, Unit: "Hz", Min: 0, Max: 3}},
		{"frequency below 0", "/min", "above 0", to127, Law{Kind: Linear, Unit: "Hz", Min: -3, Max: 3}},
		{"not monotone", "/points/2", "monotone", to127, Law{Kind: Table, Unit: "%", Points: [][2]float64{{0, 0}, {0.5, 3}, {1, 2}}}},
		{"level all along", "/points", "gives one value", to127, Law{Kind: Segments, Unit: "%", Points: [][2]float64{{0, 0}, {1, 0}}}},
		{"level stretch of a curve", "/points/2", "monotone", to127, Law{Kind: Table, Unit: "%", Points: [][2]float64{{0, 0}, {0.4, 3}, {0.6, 3}, {1, 5}}}},
		{"points do not start at 0", "/points", "travel 0", to127, Law{Kind: Table, Unit: "%", Points: [][2]float64{{0.1, 0}, {1, 2}}}},
		{"points fall back", "/points/1", "travel above", to127, Law{Kind: Table, Unit: "%", Points: [][2]float64{{0, 0}, {0, 1}, {1, 2}}}},
		{"one point", "/points", "at least 2", to127, Law{Kind: Table, Unit: "%", Points: [][2]float64{{0, 0}}}},
		{"bipolar frequency", "/unit", "below 0", to127, Law{Kind: Bipolar, Unit: "Hz", Max: 3}},
		{"dead zone", "/dead", "below 1", to127, Law{Kind: Bipolar, Unit: "ct", Max: 3, Dead: 1}},
		{"list too short", "/values", "3 values", feet, Law{Kind: Listed, Unit: "ct", Values: []any{1.0}}},
		{"list of the wrong kind", "/values/0", "a number", feet, Law{Kind: Listed, Unit: "ct", Values: []any{"x", 1.0, nil}}},
		{"word wanted", "/values/0", "a word", feet, Law{Kind: Listed, Unit: "name", Values: []any{1.0, "a", "b"}}},
		{"curve on a list", "/kind", "list", feet, Law{Kind: Linear, Unit: "ct", Max: 3}},
		{"word by a curve", "/kind", "list", to127, Law{Kind: Linear, Unit: "wave", Max: 3}},
		{"convention of a level", "/convention", "only times", to127, Law{Kind: Linear, Unit: "dB", Max: 3, Convention: Tau}},
		{"unknown convention", "/convention", "t90", to127, Law{Kind: Linear, Unit: "s", Min: 1, Max: 3, Convention: "t45"}},
		{"fader that does not end in silence", "/off", "silence", to127, Law{Kind: Decibel, Unit: "dB", Max: 3}},
		{"measured how well", "/uncertainty", "uncertainty", to127, Law{Kind: Linear, Unit: "%", Max: 3, Source: Measured}},
		{"uncertainty below 0", "/uncertainty/u", "0 or more", to127, Law{Kind: Linear, Unit: "%", Max: 3, Uncertainty: u(-1)}},
		{"unknown source", "/source", "stated", to127, Law{Kind: Linear, Unit: "%", Max: 3, Source: "guessed"}},
		{"exponent below 0", "/exponent", "above 0", to127, Law{Kind: Power, Unit: "%", Max: 3, Exponent: -1}},
		{"exponent both ways", "/exponent", "at most 20", to127, Law{Kind: Bipolar, Unit: "ct", Max: 3, Exponent: 21}},
		{"bipolar of nothing", "/max", "other than 0", to127, Law{Kind: Bipolar, Unit: "ct"}},
		{"list on a dial", "/kind", "named positions", Face{Kind: Clock, From: "7:00", To: "5:00"}, Law{Kind: Listed, Unit: "ct", Values: []any{1.0}}},
		{"kind of no law", "/kind", "linear, exponential", to127, Law{Kind: "spiral", Unit: "%", Max: 3}},
		{"off in the middle", "/off", "bottom or top", to127, Law{Kind: Linear, Unit: "%", Max: 3, Off: "middle"}},
		{"swing to one side", "/swing", "peak-to-peak", to127, Law{Kind: Linear, Unit: "ct", Max: 3, Swing: "left"}},
		{"no number", "", "ordinary numbers", to127, Law{Kind: Linear, Unit: "%", Max: math.Inf(1)}},
		{"a point that is none", "/points/1", "ordinary numbers", to127, Law{Kind: Table, Unit: "%", Points: [][2]float64{{0, 0}, {0.5, math.NaN()}, {1, 2}}}},
		{"frequency of 0 in a table", "/points/0", "above 0", to127, Law{Kind: Segments, Unit: "Hz", Points: [][2]float64{{0, 0}, {1, 2}}}},
		{"frequency of 0 in a list", "/values/0", "above 0", feet, Law{Kind: Listed, Unit: "Hz", Values: []any{0.0, 1.0, 2.0}}},
		{"neither number nor word", "/values/0", "a number, a word or null", feet, Law{Kind: Listed, Unit: "ct", Values: []any{true, 1.0, 2.0}}},
		{"a drawn wave that is silent", "/values/0", "silent", feet, Law{Kind: Listed, Unit: "wave", Values: []any{"drawn 3 3", "saw", "sine"}}},
		{"law of a text", "/kind", "no travel", Face{Kind: Text}, Law{Kind: Linear, Unit: "%", Max: 3}},
	} {
		l := c.face.Check()
		if c.law.Unit != "" {
			l = c.law.Check(c.face)
		}
		ok := false
		for _, f := range l {
			ok = ok || f.Path == c.path && strings.Contains(f.Message, c.says)
		}
		if !ok {
			t.Errorf("%s: got %v, want a fault at %q that says %q", c.name, l, c.path, c.says)
		}
	}
}

func TestListsSayNothingForNull(t *testing.T) {
	l := Law{Kind: Listed, Unit: "%", Values: []any{nil, 50.0, "off"}}
	if _, set := l.Quantity(feet.At(0)); set {
		t.Error("null set something")
	}
	if v, set := l.Quantity(feet.At(2)); !set || !v.Off {
		t.Errorf("off is %v", v)
	}
	s, err := l.Inverse(feet, q.Quantity{Dim: q.DimRatio, Value: 0.4})
	if err != nil || s.Index != 1 {
		t.Errorf("40 %% went to %d (%v), want 1", s.Index, err)
	}
}

func TestTicksAreThinnedAndMarked(t *testing.T) {
	long := Face{Kind: Numeric, Max: 1000, Step: 1}
	ticks := Ticks(long, Law{Kind: Linear, Unit: "%", Max: 100}, nil)
	if len(ticks) > MaxTicks || len(ticks) < MaxTicks/2 {
		t.Errorf("%d ticks of 1001 places", len(ticks))
	}
	majors := 0
	for _, x := range Ticks(to127, Law{Kind: Exponential, Unit: "Hz", Min: 20, Max: 18000}, nil) {
		if x.Major {
			majors++
		}
	}
	if majors < 5 || majors > 12 {
		t.Errorf("%d major ticks on 0 to 127", majors)
	}
}

func BenchmarkInverse(b *testing.B) {
	l := Law{Kind: Exponential, Unit: "Hz", Min: 20, Max: 18000}
	for b.Loop() {
		if _, err := l.Inverse(to127, q.Quantity{Dim: q.DimFrequency, Value: 523}); err != nil {
			b.Fatal(err)
		}
	}
}

// A relative uncertainty of what can be below 0 grows with the value; one in the unit of a time or frequency is a share of it, less of more.
func TestUncertaintyOfWhatKind(t *testing.T) {
	rel := Law{Kind: Linear, Unit: "ct", Min: -100, Max: 100, Source: Measured, Uncertainty: &Uncertainty{U: 0.1, Relative: true}}
	abs := Law{Kind: Linear, Unit: "Hz", Min: 10, Max: 1000, Source: Measured, Uncertainty: &Uncertainty{U: 2}}
	plain := Law{Kind: Linear, Unit: "ct", Min: -100, Max: 100, Source: Measured, Uncertainty: &Uncertainty{U: 2}}
	for _, x := range []struct {
		law         Law
		value, want float64
	}{{rel, 50, 5}, {rel, -50, 5}, {rel, 0, 0}, {abs, 100, 0.02}, {abs, 1000, 0.002}, {plain, 50, 2}, {plain, 0, 2}} {
		if got := x.law.uncertainty(x.value); math.Abs(got-x.want) > 1e-12 {
			t.Errorf("%s at %v: %v, want %v", x.law.Unit, x.value, got, x.want)
		}
	}
}

// A law may have a flat part: places there give one value, and the hand is put into its middle; beyond it the law goes on, and every value of it is found again.
func TestAFlatPartOfALaw(t *testing.T) {
	f := Face{Kind: Numeric, Min: 0, Max: 100, Step: 1}
	for _, l := range []Law{
		{Kind: Segments, Unit: "%", Points: [][2]float64{{0, -100}, {0.4, 0}, {0.6, 0}, {1, 100}}},
		{Kind: Segments, Unit: "Hz", Points: [][2]float64{{0, 20}, {0.1, 20}, {0.9, 8000}, {1, 8000}}},
		{Kind: Segments, Unit: "s", Points: [][2]float64{{0, 5}, {0.3, 1}, {0.5, 1}, {1, 0.01}}},
	} {
		if l := l.Check(f); len(l) > 0 {
			t.Fatal(l)
		}
		for i := range f.Len() {
			v, _ := l.Quantity(f.At(i))
			s, err := l.Inverse(f, v)
			if err != nil || math.Abs(s.Reached.Value-v.Value) > 1e-9*math.Max(1, math.Abs(v.Value)) {
				t.Errorf("%s: %v at %d came back as %v (%v)", l.Unit, v, i, s.Reached, err)
			}
		}
	}
	s, err := Law{Kind: Segments, Unit: "%", Points: [][2]float64{{0, -100}, {0.4, 0}, {0.6, 0}, {1, 100}}}.Inverse(f, q.Quantity{Dim: q.DimRatio, Value: 0})
	if err != nil || s.Reading != "50" {
		t.Errorf("nothing is set to %q (%v), want 50", s.Reading, err)
	}
}
