// Package reckon has the trade's small sums: two values and the formula between them, either
// of which may be given.
//
// Neighbours: quantity has the grammar and the conversions; translate does none of this.
package reckon

import (
	"fmt"
	"math"

	"glossator/core/dsp"
	q "glossator/core/quantity"
)

// End is one value of a sum.
type End struct {
	Label string `json:"label"`
	// Unit that a bare number is taken in.
	Unit string `json:"unit"`
	// Example of what may be typed.
	Example string `json:"example"`
}

// Sum is one line of the reckoner.
type Sum struct {
	ID      string `json:"id"`
	Label   string `json:"label"`
	Left    End    `json:"left"`
	Right   End    `json:"right"`
	Formula string `json:"formula"`
	Source  string `json:"source"`
	// Needs names what of the context the sum uses: tempo, note, time; empty for nothing.
	Needs string `json:"needs"`

	there, back func(x float64, c q.Context) float64
	more        func(left, right float64, c q.Context) string // said behind the right side
}

// Answer is a sum worked out.
type Answer struct {
	Left       string  `json:"left"`
	Right      string  `json:"right"`
	LeftValue  float64 `json:"leftValue"`
	RightValue float64 `json:"rightValue"`
}

// Sums lists all sums.
var Sums = []Sum{
	of(q.FeetToCents, Sum{ID: "footage", Label: "Footage", Left: End{"footage", "ft", "16'"}, Right: End{"to the key", "ct", "-12 st"}}),
	of(q.CentsToRatio, Sum{ID: "ratio", Label: "Interval and ratio", Left: End{"interval", "ct", "7 st"}, Right: End{"ratio", "ratio", "3/2"}}),
	of(q.OctavesToSemitones, Sum{ID: "octaves", Label: "Octaves and semitones", Left: End{"octaves", "oct", "1.5 oct"}, Right: End{"semitones", "st", "18 st"}}),
	of(q.CentsToBeats, Sum{ID: "beating", Label: "Detune and beating", Left: End{"detune", "ct", "5 ct"}, Right: End{"beats a second", "Hz", "1.27 Hz"}, Needs: "note"}),
	of(q.NoteToHertz, Sum{ID: "note", Label: "Note and frequency", Left: End{"note", "note", "A2 +13 ct"}, Right: End{"frequency", "Hz", "110 Hz"}}),
	of(q.BeatsToSeconds.Scaled(1, 1000), Sum{ID: "division", Label: "Note value and time", Left: End{"note value", "beats", "1/8."}, Right: End{"time", "ms", "469 ms"}, Needs: "tempo"}),
	of(q.BeatsToHertz, Sum{ID: "rate", Label: "Note value and rate", Left: End{"note value", "beats", "1/8."}, Right: End{"rate", "Hz", "2.13 Hz"}, Needs: "tempo"}),
	of(q.SecondsToHertz.Scaled(1000, 1), Sum{ID: "comb", Label: "Short delay and the note it rings at", Left: End{"delay", "ms", "4 ms"}, Right: End{"rings at", "Hz", "250 Hz"}}),
	of(q.DecibelsToRatio.Scaled(1, 100), Sum{ID: "level", Label: "Level and amplitude", Left: End{"level", "dB", "-6 dB"}, Right: End{"amplitude", "%", "50 %"}}),
	{ID: "volume", Label: "Volume 0 to 127", Left: End{"volume", "count", "100"}, Right: End{"level", "dB", "-4.2 dB"}, Formula: "dB = 40 log10(v/127)", Source: "General MIDI 2 (from memory)",
		there: func(x float64, _ q.Context) float64 { return 40 * math.Log10(x/127) }, back: func(x float64, _ q.Context) float64 { return 127 * math.Pow(10, x/40) }},
	of(q.FeedbackToSeconds.Scaled(100, 1), Sum{ID: "feedback", Label: "Feedback and decay", Left: End{"feedback", "%", "84 %"}, Right: End{"T60", "s", "2 s"}, Needs: "time"}),
	{ID: "repeats", Label: "Feedback and repeats to -60 dB", Left: End{"feedback", "%", "50 %"}, Right: End{"repeats", "count", "10"}, Formula: "n = -3/log10(g)", Source: "geometric series",
		there: func(x float64, _ q.Context) float64 { return -3 / math.Log10(x/100) }, back: func(x float64, _ q.Context) float64 { return 100 * math.Pow(10, -3/x) }},
	{ID: "tau", Label: "Time constant and t90", Left: End{"time constant", "ms", "100 ms"}, Right: End{"to 90 %", "ms", "230 ms"}, Formula: "t90 = 2.3026 tau", Source: "circuit theory", there: times(q.TausTo90), back: times(1 / q.TausTo90)},
	{ID: "t60", Label: "Time to -60 dB and t90", Left: End{"to -60 dB", "ms", "690 ms"}, Right: End{"to 90 %", "ms", "230 ms"}, Formula: "t90 = T60/3", Source: "circuit theory", there: times(1. / 3), back: times(3)},
	{ID: "ramp", Label: "Full ramp and t90", Left: End{"full ramp", "ms", "256 ms"}, Right: End{"to 90 %", "ms", "230 ms"}, Formula: "t90 = 0.9 of the ramp", Source: "straight line", there: times(q.RampTo90), back: times(1 / q.RampTo90)},
	{ID: "half", Label: "Time to half and t90", Left: End{"to half", "ms", "69 ms"}, Right: End{"to 90 %", "ms", "230 ms"}, Formula: "t90 = 3.3219 x the time to half", Source: "circuit theory", there: times(q.TausTo90 / q.TausToHalf), back: times(q.TausToHalf / q.TausTo90)},
	clock("clock", "Clock and 0 to 127, straight", "v = 127 p, p = (h - 7)/10", 1),
	clock("clock-late", "Clock and 0 to 127, late (square)", "v = 127 p^2, p = (h - 7)/10", 2),
	clock("clock-early", "Clock and 0 to 127, early (root)", "v = 127 sqrt(p), p = (h - 7)/10", 0.5),
	{ID: "swing", Label: "Depth as a peak and peak to peak", Left: End{"peak", "ct", "35 ct"}, Right: End{"peak to peak", "ct", "70 ct"}, Formula: "peak to peak = 2 x peak", Source: "definition", there: times(2), back: times(0.5)},
	{ID: "tracked", Label: "Cutoff at C4 and at the note played", Left: End{"at C4", "Hz", "800 Hz"}, Right: End{"at the note", "Hz", "337 Hz"}, Formula: "f = fc (note/C4)^tracking", Source: "common practice, no source", Needs: "note and tracking",
		there: func(x float64, c q.Context) float64 {
			return x * math.Pow(float64(c.At/q.MiddleC.Frequency()), c.Track)
		},
		back: func(x float64, c q.Context) float64 {
			return x * math.Pow(float64(c.At/q.MiddleC.Frequency()), -c.Track)
		}},
	{ID: "nearest", Label: "Time and the nearest note value", Left: End{"time", "ms", "460 ms"}, Right: End{"nearest", "beats", "1/8."}, Formula: "t = 60/BPM x quarter notes, the nearest of 1/64 to 4/1, dotted and triplets", Source: "MIDI 1.0", Needs: "tempo",
		there: func(x float64, c q.Context) float64 {
			n, _ := NearestNote(q.Duration(x/1000), c.Tempo)
			return float64(n)
		},
		back: func(x float64, c q.Context) float64 { return 1000 * float64(q.Beats(x).At(c.Tempo)) },
		more: func(l, _ float64, c q.Context) string {
			n, off := NearestNote(q.Duration(l/1000), c.Tempo)
			return fmt.Sprintf(", %s ms (%+.1f %%)", q.Number(1000*float64(n.At(c.Tempo)), 4), 100*off)
		}},
	{ID: "q", Label: "Q and peak of a two-pole filter", Left: End{"Q", "count", "2"}, Right: End{"peak", "dB", "6.3 dB"}, Formula: "peak = Q/sqrt(1 - 1/(4 Q^2))", Source: "circuit theory",
		there: func(x float64, _ q.Context) float64 { return dsp.PeakDB(2, float64(q.ResonanceOfQ(x))) },
		back: func(x float64, _ q.Context) float64 {
			p := q.Level(x).Amplitude()
			return math.Sqrt((p*p + p*math.Sqrt(p*p-1)) / 2)
		}},
	{ID: "bass", Label: "Resonance and bass of a four-pole ladder", Left: End{"of the way to oscillation", "%", "80 %"}, Right: End{"bass", "dB", "-12.5 dB"}, Formula: "dB = -20 log10(1 + 4 x)", Source: "Stilson & Smith, ICMC 1996 (from memory)",
		there: func(x float64, _ q.Context) float64 { return -20 * math.Log10(1+4*x/100) }, back: func(x float64, _ q.Context) float64 { return 25 * (math.Pow(10, -x/20) - 1) }},
}

// of makes a sum of a relation.
func of(r q.Relation, s Sum) Sum {
	s.Formula, s.Source, s.there, s.back = r.Formula, r.Source, r.There, r.Back
	return s
}

func times(k float64) func(float64, q.Context) float64 {
	return func(x float64, _ q.Context) float64 { return k * x }
}

// Find gives a sum by its id; nil where there is none.
func Find(id string) *Sum {
	for i := range Sums {
		if Sums[i].ID == id {
			return &Sums[i]
		}
	}
	return nil
}

// Work works the sum out from a text on its left or on its right side.
func (s *Sum) Work(text string, left bool, c q.Context) (Answer, error) {
	switch {
	case s.Needs == "tempo" && c.Tempo <= 0:
		return Answer{}, fmt.Errorf("expected a tempo above 0")
	case s.Needs == "note and tracking" && !(c.Track >= -2 && c.Track <= 2):
		return Answer{}, fmt.Errorf("expected a tracking of -200 to 200 %%")
	case (s.Needs == "note" || s.Needs == "note and tracking") && c.At <= 0:
		return Answer{}, fmt.Errorf("expected the note played")
	case s.Needs == "time" && c.Time <= 0:
		return Answer{}, fmt.Errorf("expected the length of the echo")
	}
	from := s.Right
	if left {
		from = s.Left
	}
	x, err := value(text, from.Unit, c)
	if err != nil {
		return Answer{}, err
	}
	l, r := x, x
	if left {
		r = s.there(x, c)
	} else {
		l = s.back(x, c)
	}
	for _, v := range []float64{l, r} {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return Answer{}, fmt.Errorf("%q has no answer here", text)
		}
	}
	a := Answer{Left: show(l, s.Left.Unit), Right: show(r, s.Right.Unit), LeftValue: l, RightValue: r}
	if s.more != nil && left {
		a.Right += s.more(l, r, c)
	}
	return a, nil
}

// NearestNote gives the note value, plain, dotted or of a triplet, from a sixty-fourth to four whole notes, that is nearest to a time, and by how much the time is longer, as a share of it.
func NearestNote(d q.Duration, tempo q.Tempo) (n q.Beats, off float64) {
	best := math.Inf(1)
	for den := 1.0 / 4; den <= 64; den *= 2 {
		for _, k := range []float64{1, 1.5, 2. / 3} {
			b := q.Beats(4 * k / den)
			if o := math.Abs(math.Log(float64(d) / float64(b.At(tempo)))); o < best {
				best, n, off = o, b, float64(d)/float64(b.At(tempo))-1
			}
		}
	}
	return n, off
}

// clock makes the sum of a knob that goes from seven to five o'clock, with a power of its travel as its curve (common practice, no source).
func clock(id, label, formula string, power float64) Sum {
	return Sum{ID: id, Label: label, Left: End{"o'clock", "clock", "11:00"}, Right: End{"0 to 127", "count", "51"}, Formula: formula, Source: "common practice, no source",
		there: func(x float64, _ q.Context) float64 {
			p := (x - 7*60) / 600
			if p < 0 || p > 1 {
				return math.NaN()
			}
			return 127 * math.Pow(p, power)
		},
		back: func(x float64, _ q.Context) float64 {
			if x < 0 || x > 127 {
				return math.NaN()
			}
			return 7*60 + 600*math.Pow(x/127, 1/power)
		}}
}

// SumFit is a sum that a value fits, worked out from the side that it fits: left or right.
type SumFit struct {
	ID   string `json:"id"`
	Side string `json:"side"`
	Answer
}

// Taking gives the sums, in their order, of which one side is written as the value is: a
// frequency, an interval, a time and so on. A bare number or a word fits none.
func Taking(text string, c q.Context) []SumFit {
	e, err := q.Parse(text)
	if err != nil || e.Form == q.FormNumber || e.Form == q.FormWord || e.Form == q.FormOff {
		return nil
	}
	var out []SumFit
	for i := range Sums {
		s := &Sums[i]
		side, left := "left", fits(s.Left, e.Form)
		if !left {
			side = "right"
		}
		if !left && !fits(s.Right, e.Form) {
			continue
		}
		if a, err := s.Work(text, left, c); err == nil {
			out = append(out, SumFit{s.ID, side, a})
		}
	}
	return out
}

// fits tells whether a side is written in a form, or in one that says the same.
func fits(end End, f q.Form) bool {
	if end.Unit == "ratio" { // a fraction as a value of the music is a note value
		return false
	}
	same := map[q.Form]q.Form{q.FormOctaves: q.FormInterval, q.FormShare: q.FormPercent}
	plain := func(f q.Form) q.Form {
		if s, ok := same[f]; ok {
			return s
		}
		return f
	}
	e, err := q.Parse(end.Example)
	return err == nil && plain(e.Form) == plain(f)
}

// value reads a text in a unit: a bare number is in that unit, anything else is converted.
func value(text, unit string, c q.Context) (float64, error) {
	e, err := q.Parse(text)
	if err != nil {
		return 0, err
	}
	if unit == "clock" {
		if e.Form != q.FormClock {
			return 0, fmt.Errorf("%q: expected a clock position, such as 11:00 or 11 o'clock", text)
		}
		return e.Value, nil
	}
	if e.Form == q.FormNumber {
		return e.Value, nil
	}
	if unit == "count" {
		return 0, fmt.Errorf("%q: expected a number", text)
	}
	r, err := q.Convert(e, unit, c)
	return r.Value, err
}

func show(v float64, unit string) string {
	switch unit {
	case "note":
		return q.Note(v).NoteName()
	case "clock":
		m := int(math.Round(v))
		return fmt.Sprintf("%d:%02d", (m/60-1)%12+1, m%60)
	case "beats":
		return q.Quantity{Dim: q.DimBeats, Value: v}.String()
	case "ft":
		return q.Number(v, 4) + "'"
	case "count", "ratio":
		return q.Number(v, 5)
	}
	return q.Number(v, 5) + " " + unit
}
