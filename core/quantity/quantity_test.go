package quantity

import (
	"errors"
	"math"
	"strings"
	"testing"
)

func near(t *testing.T, what string, got, want, tol float64) {
	t.Helper()
	if math.Abs(got-want) > tol || math.IsNaN(got) {
		t.Errorf("%s = %v, want %v within %v", what, got, want, tol)
	}
}

// Published check values; the tolerance of each is half its last printed figure.
func TestPublishedValues(t *testing.T) {
	cents := func(r float64) float64 { return CentsToRatio.Back(r, Context{}) }
	feet := func(f float64) float64 { i, err := FootageInterval(f); must(t, err); return float64(i) }
	level := func(a float64) float64 { return DecibelsToRatio.Back(a, Context{}) }
	for _, c := range []struct {
		source, what string
		got, want    float64
		tol          float64
	}{
		{"ISO 16:1975", "note 69", float64(Note(69).Frequency()), 440, 1e-9},
		{"ISO 16:1975", "note 60", float64(Note(60).Frequency()), 261.6256, 5e-5},
		{"ISO 16:1975", "note 21", float64(Note(21).Frequency()), 27.5, 1e-9},
		{"Ellis", "3/2", cents(1.5), 701.955, 5e-4},
		{"Ellis", "4/3", cents(4.0 / 3), 498.045, 5e-4},
		{"Ellis", "5/4", cents(1.25), 386.314, 5e-4},
		{"organ practice", "32'", feet(32), -2400, 1e-9},
		{"organ practice", "16'", feet(16), -1200, 1e-9},
		{"organ practice", "4'", feet(4), 1200, 1e-9},
		{"organ practice", "2'", feet(2), 2400, 1e-9},
		{"organ practice", "5 1/3'", feet(16. / 3), 702, 0.5},
		{"difference of frequencies", "440 Hz, 5 ct", float64(Interval(5).Beating(440)), 1.2726, 5e-5},
		{"difference of frequencies", "110 Hz, 10 ct", float64(Interval(10).Beating(110)), 0.6372, 5e-5},
		{"MIDI 1.0", "dotted eighth at 96", float64(Beats(0.75).At(96)), 0.46875, 1e-12},
		{"MIDI 1.0", "its rate", float64(Beats(0.75).At(96).Rate()), 2.1333, 5e-5},
		{"circuit theory", "taus to 90 %", TausTo90, 2.3026, 5e-5},
		{"circuit theory", "taus to -60 dB", TausTo60dB, 6.9078, 5e-5},
		{"circuit theory", "taus to half", TausToHalf, 0.6931, 5e-5},
		{"Schroeder 1962", "g of 50 ms and 2 s", float64(FeedbackFor(0.05, 2)), 0.8414, 5e-5},
		{"Schroeder 1962", "and back", float64(DecayOf(0.05, FeedbackFor(0.05, 2))), 2, 1e-9},
		{"General MIDI 2 (from memory)", "40 log10(64/127)", 2 * level(64./127), -11.90, 0.006},
		{"GUM 4.3.7", "rectangular half-width 3", Rectangular(3), 1.7321, 5e-5},
		{"GUM 5.1.2", "root sum of squares", RSS(3, 4), 5, 1e-12},
	} {
		near(t, c.source+": "+c.what, c.got, c.want, c.tol)
	}
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// Fourier series (Bronshtein): saw 1/n, square 1/n odd, triangle 1/n^2 odd, pulse of duty d
// |sin(pi n d)|/n with nulls at n = 1/d.
func TestHarmonics(t *testing.T) {
	of := func(name string, width Ratio) []float64 { return Wave{name, width}.Amplitudes(12) }
	saw, square, tri := of(WaveSaw, 0), of(WavePulse, 0.5), of(WaveTriangle, 0)
	for i := range saw {
		n := float64(i + 1)
		near(t, "saw", saw[i]/saw[0], 1/n, 1e-12)
		odd := 0.0
		if i%2 == 0 {
			odd = 1
		}
		near(t, "square", square[i]/square[0], odd/n, 1e-12)
		near(t, "triangle", tri[i]/tri[0], odd/(n*n), 1e-12)
	}
	quarter := of(WavePulse, 0.25)
	for _, n := range []int{4, 8, 12} {
		near(t, "null of a quarter pulse", quarter[n-1], 0, 1e-12)
	}
	if of("bell", 0) != nil {
		t.Error("an unknown wave has harmonics")
	}
	near(t, "a wave to itself", WaveDistance(saw, saw), 0, 1e-7)
	if d, e := WaveDistance(saw, tri), WaveDistance(of(WaveSine, 0), tri); d <= e {
		t.Errorf("a saw is nearer (%v) to a triangle than a sine is (%v)", d, e)
	}
}

// The harmonics with their phases add up to the wave itself, away from its jumps.
func TestHarmonicsMakeTheWave(t *testing.T) {
	const many = 4000
	for _, c := range []struct {
		wave Wave
		at   func(x float64) float64 // x from 0 to 1
	}{
		{Wave{WaveSaw, 0}, func(x float64) float64 { return 1 - 2*x }},
		{Wave{WavePulse, 0.5}, func(x float64) float64 { return map[bool]float64{true: 1, false: -1}[x < 0.5] }},
		{Wave{WavePulse, 0.14}, func(x float64) float64 { return map[bool]float64{true: 1, false: -1}[x < 0.14] }},
		{Wave{WaveTriangle, 0}, func(x float64) float64 { return 1 - 4*math.Abs(math.Mod(x+0.25, 1)-0.5) }},
		{Wave{WaveSine, 0}, func(x float64) float64 { return math.Sin(2 * math.Pi * x) }},
	} {
		h := c.wave.Harmonics(many)
		mean := 0.0 // the series has no constant part
		if c.wave.Name == WavePulse {
			mean = 2*float64(c.wave.Width) - 1
		}
		for _, x := range []float64{0.05, 0.1, 0.21, 0.33, 0.45, 0.62, 0.8, 0.93} {
			sum := mean
			for i, k := range h {
				sum += k.Amplitude * math.Sin(2*math.Pi*float64(i+1)*x+k.Phase)
			}
			near(t, c.wave.Name, sum, c.at(x), 0.01)
		}
	}
}

func TestGrammar(t *testing.T) {
	f := func(n Note) float64 { return float64(n.Frequency()) }
	for _, c := range []struct {
		text   string
		form   Form
		value  float64
		approx bool
	}{
		{"61", FormNumber, 61, false}, {" 7.5 ", FormNumber, 7.5, false}, {"-7", FormNumber, -7, false}, {"−7", FormNumber, -7, false},
		{"+ 12", FormNumber, 12, false}, {".5", FormNumber, 0.5, false}, {"0.00", FormNumber, 0, false}, {"~61", FormNumber, 61, true},
		{"about 61", FormNumber, 61, true}, {"About  7", FormNumber, 7, true}, {"roughly 3", FormNumber, 3, true}, {"≈ 3", FormNumber, 3, true},
		{"11:00", FormClock, 660, false}, {"11 o'clock", FormClock, 660, false}, {"11 o’clock", FormClock, 660, false}, {"~2 o'clock", FormClock, 840, true},
		{"2:30", FormClock, 870, false}, {"7:00", FormClock, 420, false}, {"17:00", FormClock, 1020, false}, {"5:00", FormClock, 1020, false},
		{"noon", FormClock, 720, false}, {"12:15", FormClock, 735, false}, {"6:59", FormClock, 1139, false}, {"~ 12:15", FormClock, 735, true},
		{"16'", FormFootage, 16, false}, {"16 feet", FormFootage, 16, false}, {"8 ft", FormFootage, 8, false}, {"5 1/3'", FormFootage, 16. / 3, false},
		{"2 2/3′", FormFootage, 8. / 3, false}, {"-7 ct", FormInterval, -7, false}, {"7 cents", FormInterval, 7, false}, {"+12 st", FormInterval, 1200, false},
		{"-0.5 semitones", FormInterval, -50, false}, {"1 semitone", FormInterval, 100, false}, {"2 oct", FormOctaves, 2, false}, {"+1.5 octaves", FormOctaves, 1.5, false},
		{"350 Hz", FormFreq, 350, false}, {"350Hz", FormFreq, 350, false}, {"2.1 kHz", FormFreq, 2100, false}, {"2.1k", FormFreq, 2100, false},
		{"350 hz", FormFreq, 350, false}, {"A2", FormNote, 110, false}, {"a4", FormNote, 440, false}, {"C#4", FormNote, f(61), false},
		{"Bb3", FormNote, f(58), false}, {"C-1", FormNote, f(0), false}, {"G9", FormNote, f(127), false}, {"A2 +13 ct", FormNote, f(45.13), false},
		{"A2 -1 st", FormNote, f(44), false}, {"~A2", FormNote, 110, true}, {"40 ms", FormDuration, 0.04, false}, {"1.3 s", FormDuration, 1.3, false},
		{"1.3 sec", FormDuration, 1.3, false}, {"2 seconds", FormDuration, 2, false}, {"500 us", FormDuration, 0.0005, false}, {"500 µs", FormDuration, 0.0005, false},
		{"1/8.", FormBeats, 3. / 16, false}, {"1/16t", FormBeats, 1. / 24, false}, {"3/16", FormBeats, 3. / 16, false}, {"1/8 dotted", FormBeats, 3. / 16, false},
		{"1/4 triplet", FormBeats, 1. / 6, false}, {"~ 3/4", FormBeats, 0.75, true}, {"2/1", FormBeats, 2, false}, {"-6 dB", FormLevel, -6, false},
		{"+3dB", FormLevel, 3, false}, {"-6.5 db", FormLevel, -6.5, false}, {"35 %", FormPercent, 0.35, false}, {"35%", FormPercent, 0.35, false},
		{"-50 %", FormPercent, -0.5, false}, {"35 percent", FormPercent, 0.35, false}, {"35 per cent", FormPercent, 0.35, false},
		{"half", FormShare, 0.5, false}, {"Half", FormShare, 0.5, false}, {"a half", FormShare, 0.5, false}, {"two thirds", FormShare, 2. / 3, false},
		{"two-thirds", FormShare, 2. / 3, false}, {"a third", FormShare, 1. / 3, false}, {"three quarters", FormShare, 0.75, false}, {"about half", FormShare, 0.5, true},
		{"full", FormShare, 1, false}, {"off", FormOff, 0, false}, {"none", FormOff, 0, false}, {"saw", FormWord, 0, false}, {"narrow pulse", FormWord, 0, false},
		{"half key track", FormWord, 0, false}, {"LO", FormWord, 0, false}, {"band 12", FormWord, 0, false}, {"free", FormWord, 0, false}, {"A", FormWord, 0, false},
		{"100", FormNumber, 100, false}, {"-64", FormNumber, -64, false}, {"+5.0", FormNumber, 5, false}, {"1.25", FormNumber, 1.25, false}, {"approx 12", FormNumber, 12, true},
		{"9:30", FormClock, 570, false}, {"3:45", FormClock, 945, false}, {"10:07", FormClock, 607, false}, {"about 11 o'clock", FormClock, 660, true}, {"1 oclock", FormClock, 780, false},
		{"32'", FormFootage, 32, false}, {"2 foot", FormFootage, 2, false}, {"~16'", FormFootage, 16, true}, {"0 ct", FormInterval, 0, false}, {"-24 st", FormInterval, -2400, false},
		{"12.5 ct", FormInterval, 12.5, false}, {"-1 octave", FormOctaves, -1, false}, {"20 kHz", FormFreq, 20000, false}, {"0.05 Hz", FormFreq, 0.05, false}, {"~2 kHz", FormFreq, 2000, true},
		{"Eb2", FormNote, f(39), false}, {"F#5", FormNote, f(78), false}, {"B10", FormNote, f(143), false}, {"C4 -50 ct", FormNote, f(59.5), false}, {"0.5 ms", FormDuration, 0.0005, false},
		{"about 200 ms", FormDuration, 0.2, true}, {"10 s", FormDuration, 10, false}, {"1/32", FormBeats, 1. / 32, false}, {"1/2.", FormBeats, 0.75, false}, {"4/1", FormBeats, 4, false},
		{"7/8", FormBeats, 0.875, false}, {"0 dB", FormLevel, 0, false}, {"−12 dB", FormLevel, -12, false}, {"100 %", FormPercent, 1, false}, {"33.3%", FormPercent, 0.333, false},
		{"a quarter", FormShare, 0.25, false}, {"one third", FormShare, 1. / 3, false}, {"OFF", FormOff, 0, false}, {"sample and hold", FormWord, 0, false}, {"noonish", FormWord, 0, false},
		{"E-piano", FormWord, 0, false}, {"Cable", FormWord, 0, false}, {"officious", FormWord, 0, false},
	} {
		e, err := Parse(c.text)
		if err != nil {
			t.Errorf("%q: %v", c.text, err)
			continue
		}
		if e.Form != c.form || e.Approx != c.approx || math.Abs(e.Value-c.value) > 1e-9*math.Max(1, math.Abs(c.value)) {
			t.Errorf("%q is %s %v, approx %v; want %s %v, approx %v", c.text, e.Form, e.Value, e.Approx, c.form, c.value, c.approx)
		}
	}
}

func TestGrammarErrors(t *testing.T) {
	for _, c := range []struct {
		text     string
		offset   int
		expected string
	}{
		{"", 0, "a reading"}, {"   ", 3, "a reading"}, {"~", 1, "a reading"}, {"about", 5, "a reading"},
		{"12:7", 3, "two figures"}, {"12:75", 3, "two figures"}, {"25:00", 0, "hours"}, {"1.5:00", 0, "hours"}, {"12:", 3, "a digit"},
		{"1/0", 2, "whole number"}, {"1/", 2, "a digit"}, {"1/2.5", 2, "whole number"}, {"1.5/4", 4, "whole number"}, {"0'", 0, "a footage"}, {"-8'", 0, "a footage"},
		{"61 bananas", 3, "a unit"}, {"5 ct extra", 5, "nothing more"}, {"-3 Hz", 0, "0 or more"}, {"-3 ms", 0, "0 or more"},
		{"A2 13 ct", 3, "its sign"}, {"A2 +13", 6, "ct or st"}, {"A2 +13 Hz", 9, "ct or st"}, {"C11", 0, "C-1 to B10"}, {"-", 1, "a digit"}, {"+-3", 1, "a digit"},
		{"--3", 1, "a digit"}, {"1.2.3", 3, "a unit"}, {"13.5 o'clock", 5, "a whole hour"}, {"#", 0, "a number"}, {"%", 0, "a number"},
		{"NaN3e", -1, ""}, {"1e9", 1, "a unit"}, {"9999999999999999999", 0, "18 figures"}, {"\x80", 0, "UTF-8"}, {strings.Repeat("9", 300), 40, "at most 200"},
		{"3/4 x", 4, "nothing more"}, {"~~", 2, "a reading"}, {"Inf", -1, ""}, {"0x10", 1, "a unit"},
	} {
		e, err := Parse(c.text)
		if c.offset < 0 { // words, not numbers: nothing may come out as a number that is not ordinary
			if err != nil || e.Form != FormWord {
				t.Errorf("%q is %v (%v), want a word", c.text, e, err)
			}
			continue
		}
		var s *SyntaxError
		if !errors.As(err, &s) {
			t.Errorf("%q gave %v (%v), want a syntax error", c.text, e, err)
			continue
		}
		if s.Offset != c.offset || !strings.Contains(s.Expected, c.expected) {
			t.Errorf("%q expected %q at %d, want %q at %d", c.text, s.Expected, s.Offset, c.expected, c.offset)
		}
	}
}

func TestConvert(t *testing.T) {
	for _, c := range []struct {
		source, text, to string
		ctx              Context
		value, tol       float64
		shown            string
	}{
		{"organ practice", "16'", "ct", Context{}, -1200, 1e-9, "-1200 ct"},
		{"organ practice", "5 1/3'", "ct", Context{}, 702, 0.5, ""},
		{"MIDI 1.0", "1/8.", "s", Context{Tempo: 96}, 0.46875, 1e-12, "0.46875 s"},
		{"MIDI 1.0", "1/8.", "Hz", Context{Tempo: 96}, 2.1333, 5e-5, ""},
		{"MIDI 1.0", "1/8.", "ms", Context{Tempo: 96}, 468.75, 1e-9, ""},
		{"ISO 16:1975", "A2 +13 ct", "Hz", Context{}, 110 * math.Exp2(13./1200), 1e-9, ""},
		{"ISO 16:1975", "440 Hz", "note", Context{}, 69, 1e-9, "A4"},
		{"ISO 16:1975", "350 Hz", "note", Context{}, 65.0383, 5e-4, "F4 +3.8 ct"},
		{"definition of the decibel", "-6 dB", "%", Context{}, 50.1187, 5e-5, ""},
		{"definition of the decibel", "-6 dB", "ratio", Context{}, 0.501187, 5e-7, ""},
		{"definition of the decibel", "50 %", "dB", Context{}, -6.0206, 5e-5, ""},
		{"difference of frequencies", "5 ct", "Hz", Context{At: 440}, 1.2726, 5e-5, ""},
		{"difference of frequencies", "10 ct", "Hz", Context{At: 110}, 0.6372, 5e-5, ""},
		{"difference of frequencies", "1.2726 Hz", "ct", Context{At: 440}, 5, 5e-4, ""},
		{"period and frequency", "40 ms", "Hz", Context{}, 25, 1e-9, "25 Hz"},
		{"period and frequency", "25 Hz", "ms", Context{}, 40, 1e-9, ""},
		{"Ellis", "2 oct", "st", Context{}, 24, 1e-9, "24 st"},
		{"Ellis", "7 st", "oct", Context{}, 7. / 12, 1e-9, ""},
		{"Ellis", "3/2", "ct", Context{}, 701.955, 5e-4, ""},
		{"Ellis", "1.25", "ct", Context{}, 386.314, 5e-4, ""},
		{"Ellis", "498.045 ct", "ratio", Context{}, 4. / 3, 1e-6, ""},
		{"Ellis", "1200 ct", "ft", Context{}, 4, 1e-9, "4'"},
		{"MIDI 1.0", "500 ms", "beats", Context{Tempo: 120}, 1, 1e-12, "1 beats (1/4)"}, {"MIDI 1.0", "1/8.", "beats", Context{}, 0.75, 1e-12, "0.75 beats (1/8.)"},
		{"MIDI 1.0", "1.5 beats", "s", Context{Tempo: 90}, 1, 1e-12, "1 s"},
		{"organ practice", "-12 st", "'", Context{}, 16, 1e-9, "16'"},
	} {
		e, err := Parse(c.text)
		must(t, err)
		r, err := Convert(e, c.to, c.ctx)
		if err != nil {
			t.Errorf("%s to %s: %v", c.text, c.to, err)
			continue
		}
		near(t, c.source+": "+c.text+" to "+c.to, r.Value, c.value, c.tol)
		if c.shown != "" && r.Text != c.shown {
			t.Errorf("%s to %s is shown as %q, want %q", c.text, c.to, r.Text, c.shown)
		}
	}
	for _, c := range []struct{ text, to, says string }{
		{"1/8.", "s", "tempo"}, {"5 ct", "Hz", "note"}, {"saw", "Hz", "word"}, {"61", "furlongs", "units"}, {"11:00", "ct", "clock"}, {"-6 dB", "Hz", "units"},
		{"0 Hz", "s", "no value"}, {"0", "ct", "no value"}, {"-1", "dB", "no value"}, {"off", "dB", "off"}, {"500 ms", "beats", "tempo"},
	} {
		e, err := Parse(c.text)
		must(t, err)
		if r, err := Convert(e, c.to, Context{}); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s to %s gave %v (%v), want an error that says %q", c.text, c.to, r, err, c.says)
		}
	}
}

// The tolerance of a conversion is the slope times the uncertainty of the last printed step
// (GUM 5.1.2, rectangular 4.3.7).
func TestConvertTolerance(t *testing.T) {
	e, err := Parse("40 ms")
	must(t, err)
	r, err := Convert(e, "Hz", Context{})
	must(t, err)
	near(t, "40 ms in Hz", r.Tolerance, 25*(0.5/math.Sqrt(3))/40, 1e-4)
	a, err := Parse("~40 ms")
	must(t, err)
	wide, err := Convert(a, "Hz", Context{})
	must(t, err)
	if wide.Tolerance <= r.Tolerance {
		t.Errorf("~ gave %v, which is not wider than %v", wide.Tolerance, r.Tolerance)
	}
	x, err := Parse("16'")
	must(t, err)
	if c, err := Convert(x, "ct", Context{}); err != nil || c.Tolerance != 0 {
		t.Errorf("a footage is exact, got tolerance %v (%v)", c.Tolerance, err)
	}
}

// What the grammar reads never is NaN or infinite, and never panics.
func FuzzParse(f *testing.F) {
	for _, s := range []string{"61", "~2 o'clock", "5 1/3'", "A2 +13 ct", "1/16t", "two thirds", "-6 dB", "12:60", "C#-1", "é", "1/99999999999999999999"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		e, err := Parse(s)
		if err != nil {
			return
		}
		if math.IsNaN(e.Value) || math.IsInf(e.Value, 0) || e.Half < 0 {
			t.Errorf("%q is %v", s, e)
		}
		for _, u := range ConvertUnits {
			if r, err := Convert(e, u, Context{Tempo: 120, At: 440}); err == nil && (math.IsNaN(r.Value) || math.IsInf(r.Value, 0) || math.IsNaN(r.Tolerance)) {
				t.Errorf("%q to %s is %v", s, u, r)
			}
		}
	})
}

// A-weighting at the nominal third-octave frequencies, to the table of IEC 61672-1:2013 (from
// memory), which is for the exact ones.
func TestAWeight(t *testing.T) {
	for f, want := range map[float64]float64{31.623: -39.4, 63.096: -26.2, 125.89: -16.1, 251.19: -8.6, 501.19: -3.2, 1000: 0, 1995.3: 1.2, 3981.1: 1.0, 7943.3: -1.1, 15849: -6.6} {
		if got := AWeight(f); math.Abs(got-want) > 0.06 {
			t.Errorf("%v Hz: %.2f dB, want %v", f, got, want)
		}
	}
	heard := AsHeard([]float64{1, 1, 1}, 10000)
	if heard[0] == 0 || heard[2] != 0 {
		t.Errorf("what cannot be heard: %v", heard)
	}
}
