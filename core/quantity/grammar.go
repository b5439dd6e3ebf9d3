package quantity

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Form says how a text was written.
type Form string

// The forms of the grammar. Expr.Value is in the unit given.
const (
	FormNumber   Form = "number"   // the number as written
	FormClock    Form = "clock"    // minutes past midnight: 11:30 is 690, 17:00 is 1020
	FormFootage  Form = "footage"  // feet
	FormInterval Form = "interval" // cents
	FormOctaves  Form = "octaves"  // octaves
	FormFreq     Form = "frequency"
	FormNote     Form = "note"     // hertz, of a note name with or without cents
	FormDuration Form = "duration" // seconds
	FormBeats    Form = "beats"    // fraction of a whole note, as it is written; also any fraction n/d
	FormLevel    Form = "level"    // decibels
	FormPercent  Form = "percent"  // 0..1
	FormShare    Form = "share"    // half, two thirds: 0..1
	FormOff      Form = "off"
	FormWord     Form = "word" // Text holds it
)

// Expr is a reading or quantity as somebody wrote it.
type Expr struct {
	Form  Form
	Value float64
	// Half is half the last step written, in the unit of Value: 0.5 for "61".
	Half float64
	// Approx is set by "~" or "about".
	Approx bool
	// Signed is set where the text gave a sign.
	Signed bool
	// Text is what was written, trimmed, without "~" or "about".
	Text string
}

// SyntaxError says what was expected at which character (counted from 0) of a text.
type SyntaxError struct {
	Text     string
	Offset   int
	Expected string
}

func (e *SyntaxError) Error() string {
	if e.Offset >= utf8.RuneCountInString(e.Text) {
		return fmt.Sprintf("%q: expected %s at its end", e.Text, e.Expected)
	}
	return fmt.Sprintf("%q: expected %s at character %d", e.Text, e.Expected, e.Offset+1)
}

// MaxText is the longest text the grammar reads, in bytes.
const MaxText = 200

// Parse reads one reading or quantity. The grammar is described in
// docs/formats/readings.md. A text that starts with a letter and is no
// quantity is a word; whether that word means anything is for the face to say.
func Parse(text string) (Expr, error) {
	if len(text) > MaxText {
		return Expr{}, &SyntaxError{Text: text[:40] + "...", Offset: 40, Expected: fmt.Sprintf("at most %d bytes", MaxText)}
	}
	if !utf8.ValidString(text) {
		return Expr{}, &SyntaxError{Text: strings.ToValidUTF8(text, "?"), Expected: "UTF-8 text"}
	}
	s := &scanner{text: text, r: []rune(text)}
	s.space()
	var approx bool
	for {
		switch {
		case s.eat("~"), s.eat("≈"):
		case s.word("about"), s.word("approx"), s.word("roughly"):
		default:
			goto body
		}
		approx = true
		s.space()
	}
body:
	start := s.i
	if s.done() {
		return Expr{}, s.fail("a reading")
	}
	e, err := s.expr()
	if err != nil {
		return Expr{}, err
	}
	s.space()
	if !s.done() {
		return Expr{}, s.fail("nothing more")
	}
	e.Approx = approx
	e.Text = strings.TrimSpace(string(s.r[start:]))
	if math.IsInf(e.Value, 0) || math.IsNaN(e.Value) {
		return Expr{}, &SyntaxError{Text: text, Offset: start, Expected: "a number of ordinary size"}
	}
	return e, nil
}

type scanner struct {
	text string
	r    []rune
	i    int
}

func (s *scanner) done() bool { return s.i >= len(s.r) }

func (s *scanner) peek() rune {
	if s.done() {
		return 0
	}
	return s.r[s.i]
}

func (s *scanner) space() {
	for !s.done() && unicode.IsSpace(s.r[s.i]) {
		s.i++
	}
}

func (s *scanner) fail(expected string) error {
	return &SyntaxError{Text: s.text, Offset: s.i, Expected: expected}
}

func (s *scanner) eat(lit string) bool {
	l := []rune(lit)
	if s.i+len(l) > len(s.r) || string(s.r[s.i:s.i+len(l)]) != lit {
		return false
	}
	s.i += len(l)
	return true
}

// word eats a whole word, in any case.
func (s *scanner) word(w string) bool {
	l := []rune(w)
	end := s.i + len(l)
	if end > len(s.r) || !strings.EqualFold(string(s.r[s.i:end]), w) {
		return false
	}
	if end < len(s.r) && unicode.IsLetter(s.r[end]) {
		return false
	}
	s.i = end
	return true
}

func isDigit(r rune) bool { return r >= '0' && r <= '9' }

func (s *scanner) expr() (Expr, error) {
	c := s.peek()
	if isDigit(c) || c == '.' || c == '+' || c == '-' || c == '−' {
		return s.numeric()
	}
	if e, ok := s.share(); ok {
		return e, nil
	}
	if s.word("off") || s.word("none") {
		return Expr{Form: FormOff}, nil
	}
	if e, ok, err := s.note(); ok || err != nil {
		return e, err
	}
	if unicode.IsLetter(c) {
		s.i = len(s.r)
		return Expr{Form: FormWord}, nil
	}
	return Expr{}, s.fail("a number, a note, a word or a clock position")
}

var shares = []struct {
	words string
	value float64
}{
	{"two thirds", 2. / 3}, {"a third", 1. / 3}, {"one third", 1. / 3}, {"third", 1. / 3},
	{"three quarters", 0.75}, {"a quarter", 0.25}, {"one quarter", 0.25}, {"quarter", 0.25},
	{"a half", 0.5}, {"half", 0.5}, {"full", 1}, {"noon", -1},
}

func (s *scanner) share() (Expr, bool) {
	for _, sh := range shares {
		at := s.i
		ok := true
		for k, w := range strings.Fields(sh.words) {
			if k > 0 {
				s.space()
				s.eat("-")
			}
			ok = ok && s.word(w)
		}
		rest := *s
		rest.space()
		if ok && rest.done() {
			if sh.words == "noon" {
				return Expr{Form: FormClock, Value: 12 * 60, Half: 7.5}, true
			}
			return Expr{Form: FormShare, Value: sh.value, Half: 0.005}, true
		}
		s.i = at
	}
	return Expr{}, false
}

// number eats digits with an optional point and gives the value and half its last step.
func (s *scanner) number() (v, half float64, err error) {
	from := s.i
	digits, decimals, point, comma := 0, 0, false, false
	for !s.done() {
		c := s.r[s.i]
		if isDigit(c) {
			digits++
			if point {
				decimals++
			}
		} else if (c == '.' || c == ',') && !point && s.i+1 < len(s.r) && isDigit(s.r[s.i+1]) {
			if comma = c == ','; comma && s.thousands(from) {
				return 0, 0, s.fail("a point for the decimals, or nothing between thousands: 1,000 may be one or a thousand")
			}
			point = true
		} else {
			break
		}
		s.i++
	}
	if digits == 0 {
		return 0, 0, s.fail("a digit")
	}
	text := string(s.r[from:s.i])
	if comma { // as many write it
		text = strings.Replace(text, ",", ".", 1)
	}
	v, err = strconv.ParseFloat(text, 64)
	if err != nil || digits > 18 {
		s.i = from
		return 0, 0, s.fail("a number of at most 18 figures")
	}
	return v, 0.5 * math.Pow(10, -float64(decimals)), nil
}

// thousands tells whether the comma at which the scanner stands may be one between thousands: three figures come after it, and a number that is not 0 before it.
func (s *scanner) thousands(from int) bool {
	n := 0
	for n < 4 && s.i+1+n < len(s.r) && isDigit(s.r[s.i+1+n]) {
		n++
	}
	return n == 3 && strings.Trim(string(s.r[from:s.i]), "0") != ""
}

func (s *scanner) numeric() (Expr, error) {
	sign, signed := 1.0, false
	switch {
	case s.eat("+"):
		signed = true
	case s.eat("-"), s.eat("−"):
		sign, signed = -1, true
	}
	if signed {
		s.space()
	}
	v, half, err := s.number()
	if err != nil {
		return Expr{}, err
	}
	e := Expr{Form: FormNumber, Value: sign * v, Half: half, Signed: signed}
	if !signed && s.peek() == ':' {
		return s.clock(v)
	}
	if s.eat("/") {
		return s.fraction(e)
	}
	// "5 1/3'" is a footage with a fraction
	if at := s.i; !signed && s.peek() == ' ' {
		s.space()
		if isDigit(s.peek()) {
			n, _, err := s.number()
			if err == nil && s.eat("/") {
				if d, _, err := s.number(); err == nil && d > 0 && n < d {
					if f := (Expr{Form: FormFootage, Value: v + n/d}); s.foot() && f.Value > 0 {
						return f, nil
					}
				}
			}
		}
		s.i = at
	}
	if s.foot() {
		if e.Value <= 0 {
			s.i = 0
			return Expr{}, s.fail("a footage above 0")
		}
		e.Form, e.Half = FormFootage, 0
		return e, nil
	}
	return s.unit(e)
}

func (s *scanner) foot() bool {
	at := s.i
	if s.eat("'") || s.eat("′") {
		return true
	}
	s.space()
	if s.word("feet") || s.word("foot") || s.word("ft") {
		return true
	}
	s.i = at
	return false
}

func (s *scanner) clock(hours float64) (Expr, error) {
	s.i++ // the colon
	at := s.i
	m, _, err := s.number()
	if err != nil {
		return Expr{}, err
	}
	if s.i-at != 2 || m > 59 {
		s.i = at
		return Expr{}, s.fail("two figures of minutes, 00 to 59")
	}
	if hours != math.Trunc(hours) || hours > 23 {
		s.i = 0
		return Expr{}, s.fail("hours from 0 to 23")
	}
	return Expr{Form: FormClock, Value: clockMinutes(hours, m), Half: 2.5}, nil
}

// clockMinutes puts 1 to 6 o'clock, written as on a dial, after noon.
func clockMinutes(h, m float64) float64 {
	if h >= 1 && h <= 6 {
		h += 12
	}
	return h*60 + m
}

func (s *scanner) fraction(e Expr) (Expr, error) {
	at := s.i
	d, _, err := s.number()
	if err != nil {
		return Expr{}, err
	}
	if d <= 0 || d != math.Trunc(d) || e.Value != math.Trunc(e.Value) {
		s.i = at
		return Expr{}, s.fail("a whole number above 0 under the fraction bar")
	}
	e.Form, e.Value, e.Half = FormBeats, e.Value/d, 0
	switch {
	case s.eat("."):
		e.Value *= 1.5
	case s.word("t"), s.word("T"):
		e.Value *= 2. / 3
	default:
		at := s.i
		s.space()
		switch {
		case s.word("dotted"):
			e.Value *= 1.5
		case s.word("triplet"):
			e.Value *= 2. / 3
		default:
			s.i = at
		}
	}
	return e, nil
}

// unitWords maps what may stand behind a number to the form, and the factor to its unit.
var unitWords = []struct {
	word   string
	form   Form
	factor float64
}{
	{"kHz", FormFreq, 1000}, {"k", FormFreq, 1000}, {"Hz", FormFreq, 1},
	{"ms", FormDuration, 1e-3}, {"us", FormDuration, 1e-6}, {"µs", FormDuration, 1e-6},
	{"seconds", FormDuration, 1}, {"sec", FormDuration, 1}, {"s", FormDuration, 1},
	{"ct", FormInterval, 1}, {"cents", FormInterval, 1}, {"cent", FormInterval, 1},
	{"st", FormInterval, 100}, {"semitones", FormInterval, 100}, {"semitone", FormInterval, 100}, {"semi", FormInterval, 100},
	{"octaves", FormOctaves, 1}, {"octave", FormOctaves, 1}, {"oct", FormOctaves, 1},
	{"beats", FormBeats, 0.25}, {"beat", FormBeats, 0.25},
	{"dB", FormLevel, 1}, {"percent", FormPercent, 0.01}, {"per cent", FormPercent, 0.01},
}

func (s *scanner) unit(e Expr) (Expr, error) {
	s.space()
	if s.done() {
		return e, nil
	}
	if s.eat("%") {
		e.Form, e.Value, e.Half = FormPercent, e.Value/100, e.Half/100
		return e, nil
	}
	at := s.i
	if s.eat("o'clock") || s.eat("o’clock") || s.word("oclock") {
		if e.Signed || e.Value != math.Trunc(e.Value) || e.Value < 0 || e.Value > 23 {
			s.i = at
			return Expr{}, s.fail("a whole hour before \"o'clock\"")
		}
		return Expr{Form: FormClock, Value: clockMinutes(e.Value, 0), Half: 7.5}, nil
	}
	for _, u := range unitWords {
		if s.word(u.word) {
			if u.form == FormDuration || u.form == FormFreq || u.form == FormBeats {
				if e.Value < 0 {
					s.i = 0
					return Expr{}, s.fail("a value of 0 or more")
				}
			}
			e.Form, e.Value, e.Half = u.form, e.Value*u.factor, e.Half*u.factor
			return e, nil
		}
	}
	return Expr{}, s.fail("a unit (Hz, kHz, ms, s, ct, st, oct, dB, %, beats, ', o'clock) or nothing more")
}

// note reads "A2", "Bb3", "C#-1", "A2 +13 ct". It gives ok false, and moves nothing,
// where the text is no note.
func (s *scanner) note() (Expr, bool, error) {
	semis := map[rune]float64{'C': 0, 'D': 2, 'E': 4, 'F': 5, 'G': 7, 'A': 9, 'B': 11}
	at := s.i
	n, ok := semis[unicode.ToUpper(s.peek())]
	if !ok {
		return Expr{}, false, nil
	}
	s.i++
	if s.eat("#") || s.eat("♯") {
		n++
	} else if s.eat("b") || s.eat("♭") {
		n--
	}
	neg := s.eat("-") || s.eat("−")
	if !isDigit(s.peek()) {
		s.i = at
		return Expr{}, false, nil
	}
	oct := float64(s.r[s.i] - '0')
	s.i++
	if isDigit(s.peek()) && !neg {
		oct = oct*10 + float64(s.r[s.i]-'0')
		s.i++
	}
	if neg {
		oct = -oct
	}
	if unicode.IsLetter(s.peek()) || isDigit(s.peek()) {
		s.i = at
		return Expr{}, false, nil
	}
	if oct < -1 || oct > 10 {
		s.i = at
		return Expr{}, false, s.fail("a note from C-1 to B10")
	}
	note := Note(12*(oct+1) + n)
	s.space()
	half := 0.0
	if !s.done() {
		if c := s.peek(); c != '+' && c != '-' && c != '−' {
			return Expr{}, false, s.fail("an interval with its sign, such as +13 ct")
		}
		e, err := s.numeric()
		if err != nil {
			return Expr{}, false, err
		}
		if e.Form != FormInterval {
			return Expr{}, false, s.fail("ct or st after the interval")
		}
		note += Note(e.Value / 100)
		half = e.Half
	}
	f := float64(note.Frequency())
	return Expr{Form: FormNote, Value: f, Half: f * math.Ln2 / 1200 * half}, true, nil
}
