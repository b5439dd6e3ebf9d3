package scale

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"glossator/core/quantity"
)

// eyeParts is how many places the eye holds between two marks of a printed scale (common practice, no source).
const eyeParts = 10

const (
	figureOf = `([+\-−]?\s*(?:\d+(?:[.,]\d+)?|[.,]\d+))`
	unitOf   = `\s*([a-zA-Zµ%°'"]*)`
)

var (
	rangeOf  = regexp.MustCompile(`^` + figureOf + unitOf + `\s*(?:to|through|…|\.{2,}|[-–—])\s*` + figureOf + unitOf + `(?:,?\s+(?:in steps of|steps of|step|in|by)\s*` + figureOf + `[^\d]*)?$`)
	aboutOf  = regexp.MustCompile(`^(?:±|\+/-|\+-|-/\+)\s*` + figureOf + unitOf + `(?:,?\s+(?:in steps of|steps of|step|in|by)\s*` + figureOf + `[^\d]*)?$`)
	clocksOf = regexp.MustCompile(`^(\d{1,2}(?::\d\d)?)\s*(?:o['’]?clock|h)?\s*(?:to|through|…|\.{2,}|[-–—])\s*(\d{1,2}(?::\d\d)?)\s*(o['’]?clock|h)?(?:,?\s+(?:in|by|step|steps of)\s*(\d+)\s*(?:min|minutes)?)?$`)
	tokenOf  = regexp.MustCompile(`^([+\-−]?(?:\d+(?:[.,]\d+)?|[.,]\d+))([a-zA-Zµ%']*)$`)
	placeAt  = regexp.MustCompile(`^(.*\S)\s+at\s+(\d+(?:[.,]\d+)?)\s*%$`)
	holds    = regexp.MustCompile(`\s*\((\d+) between\)$`)
	noteLike = regexp.MustCompile(`\d/\d`)
)

// ReadFace makes a face of what is printed beside a control, in one line:
//
//	0 to 127, 0-10, -5..+5, ±7, 0 to 10 in 0.1, -24 to 12 dB   numbers, with a unit behind them
//	20 Hz to 20 kHz                                            marks at the ends
//	clock, 7:00 to 17:00, 7 o'clock to 5 o'clock               a knob without marks
//	5 ms 50 500 5 s, marks 0 2 4 6 8 10                        marks along the travel, evenly
//	32' 16' 8', saw / pulse / sine, off on, list 1 2 4         named positions
//	text                                                       free text
//
// A scale of twenty divisions or fewer is set to a tenth of one, as the eye holds it; where the control counts things, or a step is given, to that. The
// error says what can be written.
func ReadFace(text string) (Face, error) {
	bare := strings.Join(strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == '\t' || r == '\u00a0' }), " ")
	bare = strings.ReplaceAll(bare, "′", "'")
	low := strings.ToLower(bare)
	if len(text) > 4000 {
		return Face{}, fmt.Errorf("expected at most 4000 characters, got %d", len(text))
	}
	switch low {
	case "":
		return Face{}, fmt.Errorf("expected what is printed: %s", faceHelp)
	case "clock", "knob", "unmarked", "unmarked knob", "no marks", "no scale", "plain knob":
		return Face{Kind: Clock}, nil
	case "text", "free text", "words", "name":
		return Face{Kind: Text}, nil
	}
	word, rest, _ := strings.Cut(bare, " ")
	switch strings.ToLower(strings.TrimRight(word, ":")) {
	case "marks", "marked", "mark", "printed", "scale":
		if rest != "" {
			return readMarkList(rest)
		}
	case "list", "switch", "positions", "buttons", "selector", "choices":
		if rest != "" {
			return namedFace(named(rest))
		}
	}
	if f, ok, err := readClocks(low); ok || err != nil {
		return f, err
	}
	if f, ok, err := readRange(bare); ok || err != nil {
		return f, err
	}
	if words, ok := numbersOf(strings.Fields(strings.ReplaceAll(bare, ", ", " "))); ok && len(words) > 2 {
		return markFace(words, nil, eyeParts)
	}
	parts := named(bare)
	if len(parts) < 2 || slices.ContainsFunc(parts, func(w string) bool { return slices.Contains(between, strings.ToLower(w)) }) {
		return Face{}, fmt.Errorf("expected what is printed, got %q: %s", text, faceHelp)
	}
	return namedFace(parts)
}

// between are what stands between the ends of a scale: no name of a position.
var between = []string{"to", "through", "...", "..", "…", "-", "–", "in", "by"}

const faceHelp = `0 to 10, -5 to +5, clock, 20 Hz to 20 kHz, 5 ms 50 500 5 s, 32' 16' 8', saw / pulse / sine, off / on, or text`

func namedFace(parts []string) (Face, error) {
	f := Face{Kind: List, Entries: parts}
	if len(parts) == 2 {
		f.Kind = Switch
	}
	return f, faulty(f)
}

// faulty gives the first fault of a face as an error.
func faulty(f Face) error {
	if l := f.Check(); len(l) > 0 {
		return fmt.Errorf("%s", l[0].Message)
	}
	return nil
}

// named divides the names of positions: by the mark that stands between them, or by spaces.
func named(text string) []string {
	at := func(r rune) func(rune) bool { return func(x rune) bool { return x == r } }
	cut := strings.Fields(text)
	switch {
	case strings.ContainsAny(text, "\n"):
		cut = strings.FieldsFunc(text, at('\n'))
	case strings.Contains(text, "|"):
		cut = strings.FieldsFunc(text, at('|'))
	case strings.Contains(text, ";"):
		cut = strings.FieldsFunc(text, at(';'))
	case strings.Contains(text, ", ") || strings.Contains(text, ",") && !noteLike.MatchString(text):
		cut = strings.FieldsFunc(text, at(','))
	case strings.Contains(text, " / "):
		cut = strings.Split(text, " / ")
	case strings.Contains(text, "/") && (!noteLike.MatchString(text) || len(cut) == 1):
		cut = strings.FieldsFunc(text, at('/'))
	}
	out := cut[:0]
	for _, c := range cut {
		if c = strings.TrimSpace(c); c != "" {
			out = append(out, c)
		}
	}
	return out
}

func readClocks(low string) (Face, bool, error) {
	m := clocksOf.FindStringSubmatch(low)
	if m == nil || !strings.Contains(low, ":") && !strings.Contains(low, "clock") {
		return Face{}, false, nil
	}
	f := Face{Kind: Clock}
	for i, end := range []*string{&f.From, &f.To} {
		t := m[1+i]
		if !strings.Contains(t, ":") {
			t += ":00"
		}
		e, err := quantity.Parse(t)
		if err != nil {
			return Face{}, false, err
		}
		*end = fmt.Sprintf("%d:%02d", int(e.Value)/60, int(e.Value)%60)
	}
	f.Minutes, _ = strconv.ParseFloat(m[4], 64)
	if f.From == "7:00" && f.To == "17:00" {
		f.From, f.To = "", ""
	}
	return f, true, faulty(f)
}

func figureIn(s string) float64 {
	v, _ := strconv.ParseFloat(strings.NewReplacer(" ", "", "−", "-", ",", ".").Replace(s), 64)
	return v
}

func decimalsIn(s string) int {
	if _, after, ok := strings.Cut(strings.Replace(s, ",", ".", 1), "."); ok {
		return len(after)
	}
	return 0
}

// readRange reads numbers from one end to the other.
func readRange(text string) (Face, bool, error) {
	var low, high, lowUnit, highUnit, step string
	if m := aboutOf.FindStringSubmatch(text); m != nil {
		low, high, lowUnit, highUnit, step = "-"+m[1], "+"+m[1], m[2], m[2], m[3]
	} else if m := rangeOf.FindStringSubmatch(text); m != nil {
		low, lowUnit, high, highUnit, step = m[1], m[2], m[3], m[4], m[5]
	} else {
		return Face{}, false, nil
	}
	if highUnit == "in" || highUnit == "by" { // in steps of
		highUnit = ""
	}
	if u, ok := quantity.UnitOf(highUnit); ok && u.Dim.Geometric() && step == "" || highUnit == "k" {
		if lowUnit == "" {
			lowUnit = highUnit
		}
		f, err := markFace([]string{legend(low, lowUnit), legend(high, highUnit)}, nil, 2*eyeParts)
		return f, true, err
	}
	if lowUnit != "" && highUnit != "" && !strings.EqualFold(lowUnit, highUnit) {
		return Face{}, true, fmt.Errorf("expected one unit at both ends, got %s and %s", lowUnit, highUnit)
	}
	f := Face{Kind: Numeric, Min: figureIn(low), Max: figureIn(high), Sign: strings.HasPrefix(strings.TrimSpace(high), "+")}
	if f.Max < f.Min {
		return Face{}, true, fmt.Errorf("expected the lower number first, got %s to %s", low, high)
	}
	unit := highUnit
	if unit == "" {
		unit = lowUnit
	}
	if unit != "" {
		if f.Suffix = " " + unit; unit == "'" || unit == "°" || unit == `"` {
			f.Suffix = unit
		}
	}
	decimals := max(decimalsIn(low), decimalsIn(high))
	switch {
	case step != "":
		f.Step = figureIn(step)
	case decimals > 0:
		f.Step = math.Pow10(-decimals)
	case unit == "" && f.Max-f.Min <= 20:
		f.Step = 1. / eyeParts
	default:
		f.Step = 1
	}
	if decimals > 0 && decimals > decimalsIn(strconv.FormatFloat(f.Step, 'f', -1, 64)) {
		f.Decimals = &decimals
	}
	return f, true, faulty(f)
}

// Counts gives the face as one that counts things, whose numbers are exact: a scale read off by eye becomes one of whole numbers.
func (f Face) Counts() Face {
	if f.Kind == Numeric {
		f.Exact = true
		if f.Suffix == "" && f.Step == 1./eyeParts && f.Min == math.Trunc(f.Min) && f.Max == math.Trunc(f.Max) {
			f.Step = 1
		}
	}
	return f
}

// legend writes a mark with its unit: "500", "ms" is "500 ms".
func legend(number, unit string) string {
	number = strings.ReplaceAll(number, " ", "")
	switch unit {
	case "":
		return number
	case "k":
		return number + " kHz"
	case "'":
		return number + unit
	}
	return number + " " + unit
}

// numbersOf reads words that are all numbers; one without a unit has that of the one before, or of the first that has one.
func numbersOf(words []string) ([]string, bool) {
	var numbers, units []string
	for _, w := range words {
		m := tokenOf.FindStringSubmatch(w)
		switch _, isUnit := quantity.UnitOf(w); {
		case m != nil:
			numbers, units = append(numbers, m[1]), append(units, m[2])
		case isUnit && len(units) > 0 && units[len(units)-1] == "":
			units[len(units)-1] = w
		case w == "Hz" && len(units) > 0 && units[len(units)-1] == "k":
			units[len(units)-1] = "kHz"
		default:
			return nil, false
		}
	}
	first := ""
	for _, u := range units {
		if first = u; u != "" {
			break
		}
	}
	if first == "kHz" && slices.Contains(units, "k") { // 20 200 2k 20k Hz
		first = "Hz"
	}
	out := make([]string, len(numbers))
	for i := range numbers {
		switch {
		case units[i] != "" && units[i] != "k":
			first = units[i]
		case units[i] == "k": // 2k among hertz
			out[i] = legend(numbers[i], "k")
			continue
		}
		u := first
		if u == "k" {
			u = "Hz"
		}
		out[i] = legend(numbers[i], u)
	}
	return out, len(out) > 0
}

// readMarkList reads marks that are said to be marks, divided by commas or spaces; a mark may say where it stands: "600 Hz at 50 %".
func readMarkList(text string) (Face, error) {
	between := eyeParts
	if m := holds.FindStringSubmatch(text); m != nil {
		between, _ = strconv.Atoi(m[1])
		text = strings.TrimSuffix(text, m[0])
	}
	words, ok := numbersOf(strings.Fields(text))
	if !ok {
		words = named(text)
	}
	var at []float64
	for i, w := range words {
		if m := placeAt.FindStringSubmatch(w); m != nil {
			if at == nil && len(words) > 1 {
				at = make([]float64, len(words))
				for k := range at {
					at[k] = float64(k) / float64(len(words)-1)
				}
			}
			words[i] = m[1]
			if at != nil {
				at[i] = figureIn(m[2]) / 100
			}
		}
	}
	f, err := markFace(words, at, between)
	if err == nil && f.Kind == Marks && f.Between == 0 {
		f.Between = between
	}
	return f, err
}

// markFace puts marks along the travel, evenly where at is nil. Footages are the places of a switch.
func markFace(legends []string, at []float64, between int) (Face, error) {
	feet := len(legends) > 0
	for _, w := range legends {
		feet = feet && strings.HasSuffix(w, "'")
	}
	if feet && at == nil {
		return namedFace(legends)
	}
	f := Face{Kind: Marks, Between: between}
	for i, w := range legends {
		m := Mark{Legend: w, At: math.Round(1e6*float64(i)/math.Max(float64(len(legends)-1), 1)) / 1e6}
		if at != nil {
			m.At = at[i]
		}
		f.Marks = append(f.Marks, m)
	}
	return f, faulty(f)
}

// Printed gives the face as ReadFace reads it. It is empty where one line cannot say it.
func (f Face) Printed() string {
	text := f.printed()
	if back, err := ReadFace(text); err != nil || !back.same(f) && !back.Counts().same(f) {
		return ""
	}
	return text
}

// same tells whether two faces show the same.
func (f Face) same(g Face) bool {
	if f.Kind != g.Kind || f.Len() != g.Len() {
		return false
	}
	switch f.Kind {
	case Numeric:
		return f.Min == g.Min && f.Max == g.Max && f.Step == g.Step && f.Prefix == g.Prefix && f.Suffix == g.Suffix && f.Sign == g.Sign && f.Exact == g.Exact && f.decimals() == g.decimals()
	case Clock:
		a, b, _ := f.clockEnds()
		c, d, _ := g.clockEnds()
		return a == c && b == d && f.clockStep() == g.clockStep()
	case Marks:
		return f.between() == g.between() && slices.EqualFunc(f.Marks, g.Marks, func(a, b Mark) bool { return a.Legend == b.Legend && math.Abs(a.At-b.At) < 1e-5 })
	}
	return slices.Equal(f.Entries, g.Entries)
}

func (f Face) printed() string {
	switch f.Kind {
	case Numeric:
		g := f
		g.Prefix, g.Suffix, g.Sign = "", "", false
		plus := map[bool]string{true: "+", false: ""}[f.Sign && f.Max > 0]
		text := g.number(f.Min) + " to " + plus + g.number(f.Max) + f.Suffix
		plain, step := quantity.Number(f.Min, 9)+" to "+plus+quantity.Number(f.Max, 9)+f.Suffix, " in "+quantity.Number(f.Step, 9)
		for _, short := range []string{plain, text, plain + step} {
			if back, err := ReadFace(short); err == nil && (back.same(f) || back.Counts().same(f)) {
				return short
			}
		}
		return text + step
	case Clock:
		if f.From == "" && f.To == "" && f.Minutes == 0 {
			return "clock"
		}
		from, to, _ := f.clockEnds()
		text := fmt.Sprintf("%d:%02d to %d:%02d", int(from)/60, int(from)%60, int(to)/60, int(to)%60)
		if f.Minutes > 0 {
			text += fmt.Sprintf(" in %s min", quantity.Number(f.Minutes, 3))
		}
		return text
	case Marks:
		words, even := make([]string, len(f.Marks)), true
		for i, m := range f.Marks {
			words[i] = m.Legend
			even = even && math.Abs(m.At-float64(i)/float64(len(f.Marks)-1)) < 1e-5
		}
		if !even {
			for i, m := range f.Marks {
				words[i] += " at " + quantity.Number(100*m.At, 7) + " %"
			}
		}
		text := "marks " + strings.Join(words, ", ")
		if f.Between != eyeParts {
			text += fmt.Sprintf(" (%d between)", f.between())
		}
		return text
	case List, Switch:
		for _, mark := range []string{" / ", ", ", " | ", "; "} {
			bare := strings.TrimSpace(mark)
			ok := true
			for _, e := range f.Entries {
				ok = ok && !strings.Contains(e, bare)
			}
			if text := strings.Join(f.Entries, mark); ok {
				if back, err := ReadFace(text); err == nil && back.same(f) {
					return text
				}
				return "list " + text
			}
		}
	case Text:
		return "text"
	}
	return ""
}
