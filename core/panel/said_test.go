package panel_test

import (
	"math"
	"strings"
	"testing"

	"glossator/core/build"
	"glossator/core/panel"
	"glossator/core/scale"
)

// spoken is a panel with each kind of scale on controls whose laws are known.
func spoken(t *testing.T) *panel.Compiled {
	t.Helper()
	p, err := build.Begin("mono", "mine", "Mine", "0 to 127")
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range [][2]string{{"filter.cutoff", "clock"}, {"filter.resonance", "0 to 10"}, {"lfo.rate", "0.1 Hz to 30 Hz"}, {"osc2.fine", "-50 to +50"}, {"osc2.semitones", "-24 to +24"}, {"amp.volume", "-60 dB to 6 dB"}, {"osc1.width", "50 % to 95 %"}, {"filter-envelope.attack", "1 ms 10 100 1 s 10 s"}, {"voice.glide", "0 to 200 in 0.01"}} {
		if p, _, _, err = build.Say(p, build.Said{Control: x[0], Printed: &x[1]}); err != nil {
			t.Fatal(err)
		}
	}
	c, err := panel.Compile(p)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// Readings as they are said, on each kind of scale: where they are taken to stand (travel), how well that is known (its standard uncertainty, k = 1), and what is written down. The loose words are common
// practice, no source; the clock of a knob is 300 degrees from 7 to 5.
func TestReadingsAsTheyAreSaid(t *testing.T) {
	c := spoken(t)
	for _, x := range []struct {
		control, text string
		travel, u     float64 // u below 0: what the face has for a plain reading
		reading       string
	}{
		// from where to where: the middle, half the range as tolerance
		{"filter-envelope.decay", "50 to 70", 60. / 127, 10. / 127 / 2, "50 to 70"}, {"filter-envelope.decay", "50-70", 60. / 127, 10. / 127 / 2, "50-70"}, {"filter-envelope.decay", "10-20 %", 0.15, 0.025, "10-20 %"}, {"filter.cutoff", "between 9 and 10", 0.25, 0.025, "between 9 and 10"},
		{"osc2.fine", "-10 to -6", 0.42, 0.02, "-10 to -6"}, {"filter.resonance", "3.5 ... 4.5", 0.4, 0.025, "3.5 ... 4.5"},
		// the ends
		{"filter.cutoff", "max", 1, -1, "5:00"}, {"filter.cutoff", "all the way up", 1, -1, "5:00"}, {"filter.cutoff", "fully open", 1, -1, "5:00"}, {"filter-envelope.decay", "full", 1, -1, "127"}, {"filter-envelope.decay", "min", 0, -1, "0"}, {"filter.resonance", "all the way down", 0, -1, "0.0"}, {"osc2.fine", "max", 1, -1, "+50"}, {"osc2.fine", "centre", 0.5, -1, "0"},
		// none
		{"filter.resonance", "off", 0, -1, "0.0"}, {"filter.resonance", "none", 0, -1, "0.0"}, {"osc2.fine", "off", 0.5, -1, "0"}, {"filter.envelope-amount", "none", 64. / 127, -1, "0"}, {"mixer.oscillator-2", "off", 0, -1, "0"},
		// loosely
		{"filter.resonance", "a touch", 0.06, 0.03, "a touch"}, {"filter.resonance", "A little", 0.15, 0.05, "a little"}, {"filter.cutoff", "quite high", 0.75, 0.08, "quite high"}, {"filter-envelope.decay", "medium", 0.5, 0.1, "medium"}, {"osc2.fine", "slightly up", 0.55, 0.02, "slightly up"}, {"osc2.fine", "a touch down", 0.47, 0.015, "a touch down"},
		{"filter.cutoff", "just below noon", 0.475, 0.0125, "just below noon"}, {"filter.cutoff", "a bit past 2 o'clock", 0.725, 0.0125, "a bit past 2 o'clock"}, {"filter.resonance", "just over 5", 0.525, 0.0125, "just over 5"},
		// a share of the travel
		{"filter-envelope.decay", "75 %", 95. / 127, -1, "95"}, {"filter.cutoff", "75 %", 0.75, -1, "2:30"}, {"osc2.fine", "75 %", 0.75, -1, "+25"}, {"filter.resonance", "half", 0.5, -1, "5.0"}, {"filter-envelope.decay", "3/4", 0.75, -1, "3/4"},
		// a clock on every knob
		{"filter-envelope.decay", "11 o'clock", 0.4, 0.0144, "11 o'clock"}, {"filter.resonance", "2:30", 0.75, 0.0144, "2:30"}, {"lfo.rate", "noon", 0.5, 0.0144, "noon"},
		// what it is, where the law knows: the nearest reading
		{"filter-envelope.decay", "200 ms", math.Log(200./5) / math.Log(15000./5), -1, ""}, {"lfo.rate", "5 Hz", math.Log(50) / math.Log(300), -1, ""}, {"osc2.semitones", "-12 st", 0.25, -1, "-12"}, {"osc2.semitones", "-1 oct", 0.25, -1, "-12"}, {"osc2.fine", "7 ct", 0.57, -1, "+7"},
		{"filter.cutoff", "632 Hz", 0.5, -1, "12:00"}, {"filter.cutoff", "1 kHz", math.Log(50) / math.Log(1000), -1, ""}, {"filter.cutoff", "500 to 800 Hz", 0.5, 0.02, "500 to 800 hz"}, {"amp.volume", "-9.5 dB", 50. / 66, -1, ""}, {"osc1.width", "60 %", 10. / 45, -1, "60 %"}, {"filter-envelope.attack", "50 ms", (1 + math.Log10(5)) / 4, -1, ""},
		// more steps than a byte has
		{"voice.glide", "123.45", 0.61725, -1, "123.45"},
	} {
		i, ok := c.ControlIndex(x.control)
		if !ok {
			t.Errorf("no control %s", x.control)
			continue
		}
		at, err := c.Parse(i, x.text)
		if err != nil {
			t.Errorf("%s %q: %v", x.control, x.text, err)
			continue
		}
		step := 1.01 / float64(c.Controls[i].Face.Len()-1)
		if math.Abs(at.Travel-x.travel) > step/2+1e-3 {
			t.Errorf("%s %q stands at %.4f, want %.4f", x.control, x.text, at.Travel, x.travel)
		}
		if x.u >= 0 && math.Abs(at.U-x.u) > 0.35*x.u+0.004 {
			t.Errorf("%s %q is known to %.4f, want %.4f", x.control, x.text, at.U, x.u)
		}
		if x.reading != "" && at.Reading != x.reading {
			t.Errorf("%s %q is written %q, want %q", x.control, x.text, at.Reading, x.reading)
		}
		// what is written down reads as the same again
		again, err := c.Parse(i, at.Reading)
		if err != nil || math.Abs(again.Travel-at.Travel) > 1e-9 || math.Abs(again.U-at.U) > 1e-9 || again.Reading != at.Reading {
			t.Errorf("%s %q is written %q, which reads as %+v, %v, not %+v", x.control, x.text, at.Reading, again, err, at)
		}
	}
}

// What is refused says what is possible, and what to write for what was probably meant.
func TestRefusedReadingsSayWhatIsPossible(t *testing.T) {
	c := spoken(t)
	for _, x := range [][3]string{
		{"filter-envelope.decay", "200", "expected 0 to 127; write 127"}, {"filter-envelope.decay", "-3", "write 0"}, {"osc1.wave", "sw", "write saw"}, {"osc1.wave", "pusle", "write pulse"}, {"osc2.fine", "a touch", `write "a touch up" or "a touch down"`}, {"filter.cutoff", "50 kHz", "the most here is 20 kHz, at 5:00"},
		{"lfo.rate", "200 Hz", "the most here is 30 Hz"}, {"filter-envelope.decay", "1 ms", "the least here is 5 ms, at 0"}, {"filter.cutoff", "rather brown", "a clock position from 7:00 to 5:00"}, {"osc1.range", "17'", "expected one of 32', 16', 8', 4', 2'"},
	} {
		i, _ := c.ControlIndex(x[0])
		if at, err := c.Parse(i, x[1]); err == nil || !strings.Contains(err.Error(), x[2]) {
			t.Errorf("%s %q: %+v, %v, want an error with %q", x[0], x[1], at, err, x[2])
		}
	}
}

// Loose words rise as they say, each with a tolerance, and are read on every scale that is turned.
func TestLooseWordsAreInOrder(t *testing.T) {
	at := map[string]float64{}
	for _, l := range scale.Loosely {
		if l.U <= 0 || l.Travel <= 0 || l.Travel >= 1 {
			t.Errorf("%+v", l)
		}
		at[l.Words] = l.Travel
		for _, f := range []scale.Face{{Kind: scale.Numeric, Max: 127, Step: 1}, {Kind: scale.Clock}, {Kind: scale.Marks, Marks: []scale.Mark{{At: 0, Legend: "0"}, {At: 1, Legend: "10"}}, Between: 10}} {
			if p, err := f.Parse(l.Words); err != nil || p.Travel != l.Travel {
				t.Errorf("%q on %s: %+v, %v", l.Words, f.Kind, p, err)
			}
		}
	}
	order := []string{"a hair", "a touch", "slightly", "a little", "low", "some", "medium", "fairly high", "quite high", "high", "very high", "nearly full"}
	for i := 1; i < len(order); i++ {
		if at[order[i]] <= at[order[i-1]] {
			t.Errorf("%s is not above %s", order[i], order[i-1])
		}
	}
}
