package reckon

import (
	"math"
	"strings"
	"testing"

	q "glossator/core/quantity"
)

var context = q.Context{Tempo: 96, At: 440, Time: 0.05, Track: 0.5}

// Published check values, as in the tests of quantity and meaning, through the sums.
func TestSums(t *testing.T) {
	for _, c := range []struct {
		source, id, text string
		left             bool
		want, tol        float64
	}{
		{"organ practice", "footage", "16'", true, -1200, 1e-9}, {"organ practice", "footage", "32", true, -2400, 1e-9}, {"organ practice", "footage", "+1200 ct", false, 4, 1e-9},
		{"Ellis", "ratio", "3/2", false, 701.955, 5e-4}, {"Ellis", "ratio", "498.045 ct", true, 4. / 3, 1e-6},
		{"equal temperament", "octaves", "1.5", true, 18, 1e-9},
		{"difference of frequencies", "beating", "5 ct", true, 1.2726, 5e-5}, {"difference of frequencies", "beating", "1.2726", false, 5, 5e-4},
		{"ISO 16:1975", "note", "A4", true, 440, 1e-9}, {"ISO 16:1975", "note", "261.6256 Hz", false, 60, 1e-5},
		{"MIDI 1.0", "division", "1/8.", true, 468.75, 1e-9}, {"MIDI 1.0", "rate", "1/8.", true, 2.1333, 5e-5},
		{"period", "comb", "4 ms", true, 250, 1e-9}, {"definition", "level", "-6 dB", true, 50.119, 5e-4},
		{"General MIDI 2 (from memory)", "volume", "64", true, -11.90, 0.006}, {"General MIDI 2 (from memory)", "volume", "100", true, -4.15, 0.006},
		{"Schroeder 1962", "feedback", "2 s", false, 84.14, 0.005}, {"circuit theory", "tau", "100 ms", true, 230.26, 0.005},
		{"circuit theory", "half", "69.31 ms", true, 230.26, 0.05}, {"circuit theory", "q", "2", true, 6.30, 0.005}, {"circuit theory", "q", "6.30 dB", false, 2, 0.005},
		{"common practice", "clock", "12:00", true, 63.5, 1e-9}, {"common practice", "clock", "7 o'clock", true, 0, 1e-9}, {"common practice", "clock", "17:00", true, 127, 1e-9},
		{"common practice", "clock-late", "12:00", true, 31.75, 1e-9}, {"common practice", "clock-early", "127", false, 1020, 1e-9}, {"common practice", "clock", "63.5", false, 720, 1e-9},
		{"definition", "swing", "35 ct", true, 70, 1e-9}, {"equal temperament", "tracked", "800 Hz", true, 1037.5, 0.2}, {"equal temperament", "tracked", "1037.5 Hz", false, 800, 0.2},
		{"MIDI 1.0", "nearest", "460 ms", true, 0.75, 1e-9}, {"MIDI 1.0", "nearest", "610 ms", true, 1, 1e-9}, {"MIDI 1.0", "nearest", "1/8t", false, 208.333, 0.001},
		{"Stilson & Smith (from memory)", "bass", "80 %", true, -12.46, 0.005},
	} {
		a, err := Find(c.id).Work(c.text, c.left, context)
		got := a.RightValue
		if !c.left {
			got = a.LeftValue
		}
		if err != nil || math.Abs(got-c.want) > c.tol {
			t.Errorf("%s, %s of %s: %v (%v), want %v", c.source, c.id, c.text, got, err, c.want)
		}
	}
}

// Every sum undoes itself, and its examples can be typed.
func TestThereAndBack(t *testing.T) {
	seen := map[string]bool{}
	for i := range Sums {
		s := &Sums[i]
		if seen[s.ID] || s.Formula == "" || s.Source == "" {
			t.Errorf("%s: twice, or without formula or source", s.ID)
		}
		seen[s.ID] = true
		a, err := s.Work(s.Left.Example, true, context)
		if err != nil {
			t.Errorf("%s: the example %q: %v", s.ID, s.Left.Example, err)
			continue
		}
		if back := s.back(a.RightValue, context); s.ID != "nearest" && math.Abs(back-a.LeftValue) > 1e-6*math.Max(1, math.Abs(a.LeftValue)) {
			t.Errorf("%s: %v came back as %v", s.ID, a.LeftValue, back)
		}
		if _, err := s.Work(s.Right.Example, false, context); err != nil {
			t.Errorf("%s: the example %q: %v", s.ID, s.Right.Example, err)
		}
	}
}

func TestNoAnswer(t *testing.T) {
	for _, c := range []struct {
		id, text string
		c        q.Context
		says     string
	}{
		{"division", "1/4", q.Context{}, "tempo"}, {"beating", "5 ct", q.Context{}, "note"}, {"feedback", "50 %", q.Context{}, "echo"}, {"comb", "0", context, "no answer"},
		{"level", "saw", context, "word"}, {"volume", "-6 dB", context, "a number"}, {"footage", "", context, "a reading"}, {"footage", "0", context, "no answer"}, {"feedback", "100 %", context, "no answer"},
	} {
		if a, err := Find(c.id).Work(c.text, true, c.c); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s of %q: %v (%v), want an error that says %q", c.id, c.text, a, err, c.says)
		}
	}
	if Find("attic") != nil {
		t.Error("a sum of no such name was found")
	}
}

// A value is taken by the sums of its dimension, and each answer is what the sum itself says.
func TestTaking(t *testing.T) {
	ctx := q.Context{Tempo: 96, At: 110, Time: 0.35}
	for _, x := range []struct {
		text        string
		with, never []string
	}{
		{"350 Hz", []string{"note", "comb"}, []string{"level", "feedback", "volume"}},
		{"1/8.", []string{"division", "rate"}, []string{"level"}},
		{"-6 dB", []string{"level", "volume"}, []string{"note", "division"}},
		{"50 %", []string{"feedback", "repeats"}, []string{"note"}},
		{"16'", []string{"footage"}, []string{"level"}},
		{"1.5 oct", []string{"ratio", "octaves", "beating"}, []string{"level"}},
		{"A2", []string{"note"}, []string{"level"}},
		{"61", nil, []string{"note", "volume", "level"}},
		{"saw", nil, []string{"note"}},
		{"off", nil, []string{"level"}},
		{"", nil, []string{"level"}},
	} {
		got := map[string]SumFit{}
		for _, k := range Taking(x.text, ctx) {
			got[k.ID] = k
			if a, err := Find(k.ID).Work(x.text, k.Side == "left", ctx); err != nil || a != k.Answer {
				t.Errorf("%s in %s: %+v (%v), the sum says %+v", x.text, k.ID, k.Answer, err, a)
			}
		}
		for _, id := range x.with {
			if _, ok := got[id]; !ok {
				t.Errorf("%q is not taken by %s", x.text, id)
			}
		}
		for _, id := range x.never {
			if _, ok := got[id]; ok {
				t.Errorf("%q is taken by %s", x.text, id)
			}
		}
	}
}
