package scale

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"glossator/core/fault"
	"glossator/core/quantity"
)

// FaceKind is how a control shows its position.
type FaceKind string

// The kinds of face.
const (
	Numeric FaceKind = "numeric" // a number: min, max, step
	Clock   FaceKind = "clock"   // an unmarked knob, read as a clock face
	Marks   FaceKind = "marks"   // printed legends along the travel
	List    FaceKind = "list"    // named positions
	Switch  FaceKind = "switch"  // two or three named positions
	Text    FaceKind = "text"    // free text; it has no travel
)

// Mark is a printed legend at a place of the travel.
type Mark struct {
	At     float64 `json:"at"`
	Legend string  `json:"legend"`
}

// Face is the law from travel to reading.
type Face struct {
	Kind FaceKind `json:"kind" jsonschema:"enum=numeric,enum=clock,enum=marks,enum=list,enum=switch,enum=text"`
	// Numeric faces. Sign shows a plus before values above zero.
	Min    float64 `json:"min,omitempty"`
	Max    float64 `json:"max,omitempty"`
	Step   float64 `json:"step,omitempty"`
	Prefix string  `json:"prefix,omitempty"`
	Suffix string  `json:"suffix,omitempty"`
	Sign   bool    `json:"sign,omitempty"`
	// Exact is set where the number counts things (semitones, voices) and is not read off
	// a travel.
	Exact bool `json:"exact,omitempty"`
	// Decimals shown; where absent, as many as Step has.
	Decimals *int `json:"decimals,omitempty"`
	// Clock faces: ends as "7:00" and "17:00", and the finest setting in minutes.
	From    string  `json:"from,omitempty"`
	To      string  `json:"to,omitempty"`
	Minutes float64 `json:"minutes,omitempty"`
	// Marks faces: Between counts the places the eye can hold from one mark to the next;
	// 1 means that only the marks themselves can be set.
	Marks   []Mark `json:"marks,omitempty"`
	Between int    `json:"between,omitempty"`
	// List and switch faces.
	Entries []string `json:"entries,omitempty"`

	places []Position // worked out by Ready
}

// Ready gives the face with its positions worked out, which makes it quicker to read.
func (f Face) Ready() Face {
	f.places = Places(f)
	return f
}

// ClockFrom and ClockTo are the ends of a clock face that gives none: 7:00 to 17:00 is
// 300 degrees of turn.
const (
	ClockFrom   = 7 * 60
	ClockTo     = 17 * 60
	ClockStep   = 15
	EyeMinutes  = 15 // how far a position read by eye may be out (common practice, no source)
	maxFaceSize = 100000
)

// Position is a place of a face's travel.
type Position struct {
	Travel float64
	// U is the standard uncertainty of the travel.
	U float64
	// Reading is how the face shows it.
	Reading string
	// Index counts the face's settable positions; -1 where the place is between two.
	Index int
}

// Check gives the faults of the face itself.
func (f Face) Check() fault.List {
	var l fault.List
	switch f.Kind {
	case Numeric:
		if !(f.Max > f.Min) {
			l.Add("/max", "expected a number above min (%v), got %v", f.Min, f.Max)
			return l
		}
		if !(f.Step > 0) || f.Step > f.Max-f.Min {
			l.Add("/step", "expected a step above 0 and at most the range %v, got %v", f.Max-f.Min, f.Step)
			return l
		}
		n := (f.Max - f.Min) / f.Step
		if math.Abs(n-math.Round(n)) > 1e-6*n {
			l.Add("/step", "expected a step that divides the range %v evenly, got %v", f.Max-f.Min, f.Step)
		}
		if n > maxFaceSize {
			l.Add("/step", "expected at most %d steps, got %.0f", maxFaceSize, n)
		}
	case Clock:
		from, to, err := f.clockEnds()
		if err != nil {
			l.Add("", "%v", err)
		} else if to-from < 30 {
			l.Add("/to", "expected a time at least half an hour after from")
		}
		if f.Minutes < 0 || f.Minutes > 60 {
			l.Add("/minutes", "expected 1 to 60 minutes, got %v", f.Minutes)
		}
	case Marks:
		if len(f.Marks) < 2 {
			l.Add("/marks", "expected at least 2 marks, got %d", len(f.Marks))
			return l
		}
		seen := map[string]bool{}
		for i, m := range f.Marks {
			p := fmt.Sprintf("/marks/%d", i)
			if m.At < 0 || m.At > 1 {
				l.Add(p+"/at", "expected a travel from 0 to 1, got %v", m.At)
			}
			if i > 0 && m.At <= f.Marks[i-1].At {
				l.Add(p+"/at", "expected a travel above that of the mark before (%v), got %v", f.Marks[i-1].At, m.At)
			}
			if strings.TrimSpace(m.Legend) == "" || seen[fold(m.Legend)] {
				l.Add(p+"/legend", "expected a legend that no other mark has")
			}
			seen[fold(m.Legend)] = true
		}
		if f.Between < 0 || f.Between > 100 {
			l.Add("/between", "expected 1 to 100, got %d", f.Between)
		}
	case List, Switch:
		if len(f.Entries) < 2 || len(f.Entries) > 1000 {
			l.Add("/entries", "expected 2 to 1000 entries, got %d", len(f.Entries))
		}
		seen := map[string]bool{}
		for i, e := range f.Entries {
			if strings.TrimSpace(e) == "" || seen[fold(e)] {
				l.Add(fmt.Sprintf("/entries/%d", i), "expected a name that no other entry has, got %q", e)
			}
			seen[fold(e)] = true
		}
	case Text:
	default:
		l.Add("/kind", "expected numeric, clock, marks, list, switch or text, got %q", f.Kind)
	}
	return l
}

// Discrete tells whether the face has only named positions.
func (f Face) Discrete() bool {
	return f.Kind == List || f.Kind == Switch || (f.Kind == Marks && f.between() == 1)
}

func (f Face) between() int { return max(f.Between, 1) }

func fold(s string) string {
	return strings.ToLower(strings.Join(strings.Fields(strings.ReplaceAll(s, "′", "'")), " "))
}

func (f Face) clockEnds() (from, to float64, err error) {
	from, to = ClockFrom, ClockTo
	for i, end := range []*float64{&from, &to} {
		text := [2]string{f.From, f.To}[i]
		if text == "" {
			continue
		}
		e, err := quantity.Parse(text)
		if err != nil {
			return 0, 0, err
		}
		if e.Form != quantity.FormClock {
			return 0, 0, fmt.Errorf("expected a clock position such as 7:00, got %q", text)
		}
		*end = e.Value
	}
	if f.To == "" && f.From != "" {
		to = math.Max(to, from)
	}
	return from, to, nil
}

func (f Face) clockStep() float64 {
	if f.Minutes > 0 {
		return f.Minutes
	}
	return ClockStep
}

// Len counts the positions that the face can hold; a text face has none.
func (f Face) Len() int {
	if len(f.places) > 0 {
		return len(f.places)
	}
	switch f.Kind {
	case Numeric:
		return int(math.Round((f.Max-f.Min)/f.Step)) + 1
	case Clock:
		from, to, _ := f.clockEnds()
		return int(math.Floor((to-from)/f.clockStep()+1e-9)) + 1
	case Marks:
		return (len(f.Marks)-1)*f.between() + 1
	case List, Switch:
		return len(f.Entries)
	}
	return 0
}

// At gives the i-th position, 0 the lowest.
func (f Face) At(i int) Position {
	if len(f.places) > 0 {
		return f.places[min(max(i, 0), len(f.places)-1)]
	}
	n := f.Len()
	i = min(max(i, 0), n-1)
	p := Position{Index: i, U: f.readU()}
	switch f.Kind {
	case Numeric:
		p.Travel = float64(i) / float64(n-1)
		p.Reading = f.number(f.Min + float64(i)*f.Step)
	case Clock:
		from, to, _ := f.clockEnds()
		m := from + float64(i)*f.clockStep()
		p.Travel = (m - from) / (to - from)
		p.Reading = clockText(m)
	case Marks:
		k, part := i/f.between(), i%f.between()
		a := f.Marks[k]
		if part == 0 {
			p.Travel, p.Reading = a.At, a.Legend
			break
		}
		b, t := f.Marks[k+1], float64(part)/float64(f.between())
		p.Travel = a.At + (b.At-a.At)*t
		p.Reading = f.betweenText(k, part)
	case List, Switch:
		if n > 1 {
			p.Travel = float64(i) / float64(n-1)
		}
		p.Reading = f.Entries[i]
	}
	return p
}

// readU is the standard uncertainty of the travel of a plain reading: a printed number is
// good to half its last step, an unmarked position to a quarter of an hour (both
// rectangular), named positions are exact.
func (f Face) readU() float64 {
	switch f.Kind {
	case Numeric:
		if f.Exact {
			return 0
		}
		return quantity.Rectangular(0.5 * f.Step / (f.Max - f.Min))
	case Clock:
		from, to, _ := f.clockEnds()
		return quantity.Rectangular(EyeMinutes / (to - from))
	case Marks:
		if f.between() > 1 {
			return quantity.Rectangular(0.5 / float64(f.Len()-1))
		}
	}
	return 0
}

func (f Face) decimals() int {
	if f.Decimals != nil {
		return *f.Decimals
	}
	s := strconv.FormatFloat(f.Step, 'f', -1, 64)
	if i := strings.IndexByte(s, '.'); i >= 0 {
		return len(s) - i - 1
	}
	return 0
}

func (f Face) number(v float64) string {
	n := f.decimals()
	p := math.Pow10(n)
	v = math.Round(v*p) / p
	if v == 0 {
		v = 0 // no "-0"
	}
	s := strconv.FormatFloat(v, 'f', n, 64)
	if f.Sign && v > 0 {
		s = "+" + s
	}
	return f.Prefix + s + f.Suffix
}

func clockText(m float64) string {
	h := int(m) / 60
	if h > 12 {
		h -= 12
	}
	return fmt.Sprintf("%d:%02d", h, int(math.Round(m))%60)
}

// betweenText names a place between two marks. Marks that are quantities are
// interpolated, as the eye does, and written to three figures; others are written as
// "legend + 1/4".
func (f Face) betweenText(k, part int) string {
	qa, qb, ok := markPair(f.Marks[k].Legend, f.Marks[k+1].Legend)
	return f.legendBetween(k, part, qa, qb, ok)
}

// legendBetween is betweenText with the two legends read already.
func (f Face) legendBetween(k, part int, qa, qb quantity.Quantity, ok bool) string {
	t := float64(part) / float64(f.between())
	if !ok {
		return fmt.Sprintf("%s + %d/%d", f.Marks[k].Legend, part, f.between())
	}
	if qa.Dim == plainNumber {
		return quantity.Number(qa.Value+(qb.Value-qa.Value)*t, 4)
	}
	v := qa
	if qa.Dim.Geometric() && qa.Value > 0 && qb.Value > 0 {
		v.Value = qa.Value * math.Pow(qb.Value/qa.Value, t)
	} else {
		v.Value = qa.Value + (qb.Value-qa.Value)*t
	}
	return v.String()
}

const plainNumber quantity.Dim = "number"

// markPair reads two legends as quantities of one dimension, or as plain numbers.
func markPair(a, b string) (qa, qb quantity.Quantity, ok bool) {
	read := func(s string) (quantity.Quantity, bool) {
		e, err := quantity.Parse(s)
		if err != nil || e.Form == quantity.FormShare { // "half" is a place of the travel, not a value
			return quantity.Quantity{}, false
		}
		if e.Form == quantity.FormNumber {
			return quantity.Quantity{Dim: plainNumber, Value: e.Value}, true
		}
		q, err := e.Quantity()
		return q, err == nil
	}
	qa, oka := read(a)
	qb, okb := read(b)
	return qa, qb, oka && okb && qa.Dim == qb.Dim
}

// Parse reads a text as this face shows it or, where it does not, as people say where a control stands (docs/formats/readings.md). The error says what was expected, and what to write for what was probably meant.
func (f Face) Parse(text string) (Position, error) {
	p, err := f.plain(text)
	if err == nil {
		return p, nil
	}
	if said, ok, e := f.said(text); ok {
		return said, nil
	} else if e != nil {
		return Position{}, e
	}
	if m := f.Meant(text); m != "" {
		return Position{}, fmt.Errorf("%w; write %s if that is meant", err, m)
	}
	return Position{}, err
}

// plain reads a text as the face shows it.
func (f Face) plain(text string) (Position, error) {
	if f.Kind == Text {
		return Position{Reading: text, Index: -1}, nil
	}
	bare := strings.TrimSpace(text)
	approx := strings.HasPrefix(bare, "~")
	bare = strings.TrimSpace(strings.TrimLeft(bare, "~ "))
	if f.Kind == List || f.Kind == Switch || f.Kind == Marks {
		if i, ok := f.find(bare); ok {
			p := f.At(i)
			if approx {
				p.U *= 2
			}
			return p, nil
		}
	}
	e, err := quantity.Parse(text)
	if err != nil {
		if f.Kind == List || f.Kind == Switch {
			return Position{}, f.expected(text)
		}
		return Position{}, err
	}
	approx = approx || e.Approx
	travel, exact, err := f.travel(e)
	if err != nil {
		return Position{}, err
	}
	p := f.nearest(travel)
	if math.Abs(p.Travel-travel) > 1e-9 {
		if exact && !approx {
			up := f.At(p.Index + 1)
			if p.Travel > travel {
				up = p
				p = f.At(p.Index - 1)
			}
			return Position{}, fmt.Errorf("%q is between two steps: expected %s or %s, or ~ before a position read by eye", bare, p.Reading, up.Reading)
		}
		p.Travel, p.Index = travel, -1
		p.Reading = bare
	}
	if approx {
		p.U = quantity.RSS(p.U, f.approxU())
		p.Reading = "~" + p.Reading
	}
	return p, nil
}

// approxU is what "~" adds: twice what the eye is worth, or a few per cent of the travel
// (common practice, no source).
func (f Face) approxU() float64 {
	if f.Kind == Clock {
		return 2 * f.readU()
	}
	return quantity.Approximation
}

func (f Face) find(text string) (int, bool) {
	want := fold(text)
	for i := range f.Len() {
		if fold(f.At(i).Reading) == want {
			return i, true
		}
	}
	return 0, false
}

// travel turns an expression into a place; exact is set where a typed number has to be
// one of the face's own steps.
func (f Face) travel(e quantity.Expr) (p float64, exact bool, err error) {
	if e.Form == quantity.FormShare || (e.Form == quantity.FormBeats && (f.Kind == Numeric && f.Suffix == "" || f.Kind == Clock)) {
		if e.Value > 1 {
			return 0, false, f.expected(e.Text)
		}
		return e.Value, false, nil
	}
	switch f.Kind {
	case Numeric:
		v, err := f.numericValue(e)
		if err != nil {
			return 0, false, err
		}
		if v < f.Min-1e-9 || v > f.Max+1e-9 {
			return 0, false, fmt.Errorf("%q is out of range: expected %s to %s", e.Text, f.number(f.Min), f.number(f.Max))
		}
		return (v - f.Min) / (f.Max - f.Min), true, nil
	case Clock:
		v := e.Value
		switch {
		case e.Form == quantity.FormClock:
		case e.Form == quantity.FormNumber && v == math.Trunc(v) && v >= 1 && v <= 23:
			if v <= 6 {
				v += 12
			}
			v *= 60
		default:
			return 0, false, f.expected(e.Text)
		}
		from, to, _ := f.clockEnds()
		if v < from || v > to {
			return 0, false, fmt.Errorf("%q is out of range: expected %s to %s", e.Text, clockText(from), clockText(to))
		}
		return (v - from) / (to - from), false, nil
	case Marks:
		return f.markTravel(e)
	}
	return 0, false, f.expected(e.Text)
}

// numericValue takes a bare number, or a quantity whose unit is the face's suffix.
func (f Face) numericValue(e quantity.Expr) (float64, error) {
	if e.Form == quantity.FormNumber {
		return e.Value, nil
	}
	if u, ok := quantity.UnitOf(strings.TrimSpace(f.Suffix)); ok {
		if q, err := e.Quantity(); err == nil && q.Dim == u.Dim {
			return q.Value / u.Factor, nil
		}
	}
	if e.Form == quantity.FormFootage && strings.TrimSpace(f.Suffix) == "'" {
		return e.Value, nil
	}
	if f.Prefix != "" && e.Form == quantity.FormWord {
		if rest, ok := strings.CutPrefix(fold(e.Text), fold(f.Prefix)); ok {
			if v, err := strconv.ParseFloat(strings.TrimSpace(rest), 64); err == nil && !math.IsNaN(v) && !math.IsInf(v, 0) {
				return v, nil
			}
		}
	}
	return 0, f.expected(e.Text)
}

func (f Face) markTravel(e quantity.Expr) (float64, bool, error) {
	if f.between() == 1 {
		return 0, false, f.expected(e.Text)
	}
	for k := range len(f.Marks) - 1 {
		a, b := f.Marks[k], f.Marks[k+1]
		qa, qb, ok := markPair(a.Legend, b.Legend)
		if !ok {
			continue
		}
		v := e.Value
		if qa.Dim == plainNumber {
			if e.Form != quantity.FormNumber {
				continue
			}
		} else if q, err := e.Quantity(); err != nil || q.Dim != qa.Dim {
			continue
		} else {
			v = q.Value
		}
		lo, hi := math.Min(qa.Value, qb.Value), math.Max(qa.Value, qb.Value)
		if v < lo || v > hi {
			continue
		}
		t := (v - qa.Value) / (qb.Value - qa.Value)
		if qa.Dim.Geometric() && lo > 0 {
			t = math.Log(v/qa.Value) / math.Log(qb.Value/qa.Value)
		}
		return a.At + (b.At-a.At)*t, false, nil
	}
	return 0, false, f.expected(e.Text)
}

// expected is the error for a text that this face cannot show.
func (f Face) expected(text string) error {
	return fmt.Errorf("%q does not fit: expected %s", text, f.Expects())
}

// Expects says in words what the face takes.
func (f Face) Expects() string {
	switch f.Kind {
	case Numeric:
		return fmt.Sprintf("%s to %s in steps of %s", f.number(f.Min), f.number(f.Max), quantity.Number(f.Step, 6))
	case Clock:
		from, to, _ := f.clockEnds()
		return fmt.Sprintf("a clock position from %s to %s", clockText(from), clockText(to))
	case Marks:
		legends := make([]string, len(f.Marks))
		for i, m := range f.Marks {
			legends[i] = m.Legend
		}
		s := "one of the marks " + shorten(legends)
		if f.between() > 1 {
			s += " or a value between two of them"
		}
		return s
	case List, Switch:
		return "one of " + shorten(f.Entries)
	}
	return "text"
}

func shorten(names []string) string {
	if len(names) > 12 {
		return strings.Join(names[:11], ", ") + fmt.Sprintf(" ... %s (%d in all)", names[len(names)-1], len(names))
	}
	return strings.Join(names, ", ")
}

// Nearest gives the settable position nearest to a travel; ties go to the smaller.
func (f Face) Nearest(travel float64) Position { return f.nearest(travel) }

func (f Face) nearest(travel float64) Position {
	n := f.Len()
	lo, hi := 0, n-1
	for hi-lo > 1 {
		mid := (lo + hi) / 2
		if f.travelAt(mid) <= travel {
			lo = mid
		} else {
			hi = mid
		}
	}
	if travel-f.travelAt(lo) <= f.travelAt(hi)-travel+1e-12 {
		return f.At(lo)
	}
	return f.At(hi)
}

// travelAt is At without the text.
func (f Face) travelAt(i int) float64 {
	if len(f.places) > 0 {
		return f.places[i].Travel
	}
	switch f.Kind {
	case Clock:
		from, to, _ := f.clockEnds()
		return float64(i) * f.clockStep() / (to - from)
	case Marks:
		k, part := i/f.between(), i%f.between()
		a := f.Marks[k]
		if part == 0 {
			return a.At
		}
		return a.At + (f.Marks[k+1].At-a.At)*float64(part)/float64(f.between())
	}
	if n := f.Len(); n > 1 {
		return float64(i) / float64(n-1)
	}
	return 0
}
