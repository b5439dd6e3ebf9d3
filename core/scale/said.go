package scale

import (
	"fmt"
	"math"
	"regexp"
	"sort"
	"strings"

	"glossator/core/quantity"
)

// Loose is how people say about where a control stands: a share of its travel, with the standard uncertainty of that (common practice, no source).
type Loose struct {
	Words  string  `json:"words"`
	Travel float64 `json:"travel"`
	U      float64 `json:"u"`
}

// Loosely lists the loose words that are read. On a scale that goes both ways from its middle they need "up" or "down" behind them, and are shares of that half.
var Loosely = []Loose{
	{"a hair", 0.03, 0.02}, {"a touch", 0.06, 0.03}, {"a hint", 0.06, 0.03}, {"barely", 0.05, 0.03}, {"slightly", 0.1, 0.04}, {"a little", 0.15, 0.05}, {"a bit", 0.15, 0.05}, {"a tad", 0.1, 0.04}, {"very low", 0.08, 0.04},
	{"low", 0.2, 0.08}, {"quite low", 0.2, 0.08}, {"fairly low", 0.25, 0.08}, {"some", 0.3, 0.1}, {"moderate", 0.5, 0.1}, {"medium", 0.5, 0.1}, {"mid", 0.5, 0.08}, {"about half", 0.5, 0.05}, {"around half", 0.5, 0.05}, {"halfway", 0.5, 0.03}, {"half way", 0.5, 0.03},
	{"slow", 0.2, 0.08}, {"very slow", 0.08, 0.04}, {"short", 0.2, 0.08}, {"very short", 0.08, 0.04}, {"narrow", 0.2, 0.08}, {"fast", 0.8, 0.08}, {"very fast", 0.92, 0.04}, {"long", 0.8, 0.08}, {"very long", 0.92, 0.04}, {"wide", 0.8, 0.08},
	{"fairly high", 0.7, 0.08}, {"quite high", 0.75, 0.08}, {"pretty high", 0.75, 0.08}, {"high", 0.8, 0.08}, {"a lot", 0.8, 0.1}, {"lots", 0.8, 0.1}, {"most of the way", 0.85, 0.06}, {"very high", 0.9, 0.05}, {"nearly full", 0.95, 0.03}, {"almost full", 0.95, 0.03}, {"nearly max", 0.95, 0.03},
}

// ends are words for the ends of the travel, and for its middle.
var ends = map[string]float64{
	"max": 1, "maximum": 1, "full": 1, "full up": 1, "fully up": 1, "all the way up": 1, "all the way": 1, "all the way open": 1, "fully open": 1, "wide open": 1, "open": 1, "fully clockwise": 1, "full clockwise": 1, "top": 1, "cranked": 1, "full blast": 1,
	"min": 0, "minimum": 0, "zero": 0, "all the way down": 0, "fully down": 0, "full down": 0, "fully closed": 0, "closed": 0, "fully counterclockwise": 0, "fully counter-clockwise": 0, "fully anticlockwise": 0, "bottom": 0, "all the way closed": 0,
	"centre": 0.5, "center": 0.5, "centred": 0.5, "centered": 0.5, "middle": 0.5, "in the middle": 0.5, "straight up": 0.5,
}

var (
	besideOf = regexp.MustCompile(`^(?:just|slightly|a little|a bit|a touch|a hair|a tad)\s+(below|under|before|shy of|short of|less than|left of|above|over|past|after|beyond|more than|right of)\s+(.+)$`)
	spanOf   = regexp.MustCompile(`^(?:between\s+(.+?)\s+and\s+(.+)|(.+?)\s*(?:\.{2,}|…|–|—|\s+to\s+|\s+-\s+)\s*(.+)|([+−-]?[\d.,:]+)-(\d.*))$`)
	unitTail = regexp.MustCompile(`^([+−-]?[\d.,:]+)\s*([^\d\s.,:].*)$`)
)

// nearby is how far "just below" is: a division of a clock, a few per cent of the travel elsewhere (common practice, no source).
const nearby = 0.025

// Span parts a text that says from where to where: "50 to 70", "10-20 %", "between 9 and 10". What stands behind the second is that of the first, too.
func Span(text string) (low, high string, ok bool) {
	m := spanOf.FindStringSubmatch(strings.TrimSpace(strings.TrimLeft(text, "~≈ ")))
	if m == nil {
		return "", "", false
	}
	for i := 1; i < len(m); i += 2 {
		if m[i] != "" {
			low, high = strings.TrimSpace(m[i]), strings.TrimSpace(m[i+1])
		}
	}
	low = strings.TrimSpace(strings.TrimPrefix(low, "from "))
	if t := unitTail.FindStringSubmatch(high); t != nil && unitTail.FindStringSubmatch(low) == nil {
		low += " " + t[2]
	}
	return low, high, low != "" && high != ""
}

// said reads how people say where a control stands where the face itself does not have it so: the ends in words, loose words, beside a place, from where to where, a share of
// the travel, a position of the clock on a knob that is printed otherwise. ok is false where it is none of these; the error says what would be one.
func (f Face) said(text string) (p Position, ok bool, err error) {
	if f.Kind == List || f.Kind == Switch || f.Discrete() {
		if t, is := ends[fold(text)]; is && t != 0.5 && f.orderly() {
			return f.At(int(t) * (f.Len() - 1)), true, nil
		}
		return p, false, nil
	}
	low := strings.TrimSpace(strings.TrimLeft(fold(text), "~≈ "))
	if t, is := ends[low]; is {
		p = f.nearest(t)
		if t == 0.5 && math.Abs(p.Travel-0.5) > 1e-9 && f.Kind == Numeric { // 64 of 0 to 127
			p = f.At(f.Len() / 2)
		}
		return p, true, nil
	}
	if p, ok, err := f.loose(low); ok || err != nil {
		return p, ok, err
	}
	if m := besideOf.FindStringSubmatch(low); m != nil {
		at, err := f.Parse(m[2])
		if err != nil {
			return p, false, err
		}
		by := nearby
		switch m[1] {
		case "below", "under", "before", "shy of", "short of", "less than", "left of":
			by = -by
		}
		at.Travel = math.Min(1, math.Max(0, at.Travel+by))
		at.U, at.Index, at.Reading = quantity.RSS(at.U, nearby/2), -1, low
		return at, true, nil
	}
	if a, b, is := Span(low); is {
		from, err := f.Parse(a)
		if err != nil {
			return p, false, nil // the quantity may be one that only the law knows
		}
		to, err := f.Parse(b)
		if err != nil {
			return p, false, nil
		}
		return Midway(from, to, low), true, nil
	}
	e, err := quantity.Parse(text)
	if err != nil {
		return p, false, nil
	}
	travel := -1.0
	switch {
	case e.Form == quantity.FormPercent && e.Value >= 0 && e.Value <= 1: // of the travel
		travel = e.Value
	case e.Form == quantity.FormClock && f.Kind != Clock:
		g := Face{Kind: Clock}
		if at, _, err := g.travel(e); err == nil {
			travel = at
		}
	}
	if travel < 0 {
		return p, false, nil
	}
	p = f.nearest(travel)
	if e.Form == quantity.FormClock { // where a pointer points is read by eye
		p.Travel, p.Index, p.Reading = travel, -1, strings.TrimSpace(e.Text)
		eye := quantity.Rectangular(EyeMinutes / float64(ClockTo-ClockFrom))
		if e.Approx {
			eye, p.Reading = 2*eye, "~"+p.Reading
		}
		p.U = quantity.RSS(p.U, eye)
	}
	return p, true, nil
}

// orderly tells whether the positions of a list go from less to more: numbers, footages, shares. "Max" means something there.
func (f Face) orderly() bool {
	n := f.Len()
	for i := 1; i < n; i++ {
		if _, _, ok := markPair(f.At(i-1).Reading, f.At(i).Reading); !ok {
			return false
		}
	}
	return n > 1
}

// loose reads loose words.
func (f Face) loose(low string) (p Position, ok bool, err error) {
	words, way := low, 0.0
	for suffix, w := range map[string]float64{" up": 1, " down": -1, " sharp": 1, " flat": -1, " right": 1, " left": -1} {
		if bare, is := strings.CutSuffix(low, suffix); is {
			words, way = bare, w
		}
	}
	i := sort.Search(len(looseWords), func(i int) bool { return looseWords[i].Words >= words })
	if i == len(looseWords) || looseWords[i].Words != words {
		return p, false, nil
	}
	l := looseWords[i]
	both := f.Kind == Numeric && f.Min < 0 && f.Max > 0
	switch {
	case both && way == 0 && l.Travel != 0.5:
		return p, false, fmt.Errorf("%q may be up or down here: write %q or %q", low, low+" up", low+" down")
	case both && l.Travel != 0.5:
		mid := -f.Min / (f.Max - f.Min)
		half := 1 - mid
		if way < 0 {
			half = mid
		}
		l.Travel, l.U = mid+way*half*l.Travel, half*l.U
	case way < 0:
		return p, false, nil
	}
	return Position{Travel: l.Travel, U: l.U, Reading: low, Index: -1}, true, nil
}

var looseWords = func() []Loose {
	out := append([]Loose{}, Loosely...)
	sort.Slice(out, func(a, b int) bool { return out[a].Words < out[b].Words })
	return out
}()

// Midway is the middle of two positions, with half the range as its tolerance at k = 2.
func Midway(a, b Position, reading string) Position {
	mid := (a.Travel + b.Travel) / 2
	p := Position{Travel: mid, Index: -1, Reading: reading}
	p.U = quantity.RSS((a.U+b.U)/2, math.Abs(b.Travel-a.Travel)/2/quantity.Cover)
	return p
}

// Meant gives what may have been meant by a text that this face cannot show: an entry that begins so or is written nearly so, or the end that a number is beyond. Empty where nothing is near.
func (f Face) Meant(text string) string {
	bare := fold(strings.TrimLeft(text, "~≈ "))
	if f.Kind == List || f.Kind == Switch || f.Kind == Marks {
		best, least := "", 3
		for i := range f.Len() {
			r := f.At(i).Reading
			if f.Kind == Marks && i%f.between() != 0 {
				continue
			}
			have := fold(r)
			d := edits(bare, have)
			if bare != "" && (strings.HasPrefix(have, bare) || len(bare) > 3 && strings.Contains(have, bare)) {
				d = 0
			}
			if d < least && d*2 < len(bare)+1 {
				best, least = r, d
			}
		}
		return best
	}
	if e, err := quantity.Parse(text); err == nil && f.Kind == Numeric {
		if v, err := f.numericValue(e); err == nil {
			switch {
			case v > f.Max:
				return f.number(f.Max)
			case v < f.Min:
				return f.number(f.Min)
			}
		}
	}
	return ""
}

// edits counts the letters by which two words differ (Levenshtein 1966), up to three.
func edits(a, b string) int {
	x, y := []rune(a), []rune(b)
	if len(x)-len(y) > 3 || len(y)-len(x) > 3 || len(x) > 60 {
		return 4
	}
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		last := row[0]
		row[0] = i + 1
		for j := range y {
			cost := 1
			if x[i] == y[j] {
				cost = 0
			}
			last, row[j+1] = row[j+1], min(row[j+1]+1, row[j]+1, last+cost)
		}
	}
	return row[len(y)]
}
