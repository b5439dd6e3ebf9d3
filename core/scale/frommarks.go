package scale

import (
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"gonum.org/v1/gonum/stat"

	"glossator/core/fault"
	"glossator/core/quantity"
)

// FitTravel is how far along the travel a mark may lie from a plain law for that law to be
// taken in place of a curve through the marks: what the eye can tell on a printed scale
// (common practice, no source).
const FitTravel = 0.012

// Fitted is a law made from printed marks.
type Fitted struct {
	Law Law `json:"law"`
	// Worst is the largest distance of a mark from the law, as a share of the travel.
	Worst float64 `json:"worst"`
	// Says tells in words what was made of the marks.
	Says string `json:"says"`
}

type printed struct {
	travel, value float64 // in the law's unit
	half          float64 // half the last step that is printed
}

// FromMarks makes a law from a few printed marks typed as "mark = value", one a line or
// divided by semicolons. The mark is read on the face; the value is a quantity, or a number in
// unit where one is given; "off" at an end makes that end mean none. Two marks give equal ratios
// for frequencies and times and a straight line for the rest; of more, a straight line, equal
// ratios or a power is taken where every mark lies within FitTravel of it, else a monotone curve through
// the marks, drawn on to the ends of the travel. The error is a fault.List by line.
func FromMarks(f Face, unit, text string) (Fitted, error) {
	var l fault.List
	pts, u, off := readMarks(f, unit, text, &l)
	if err := l.Err(); err != nil {
		return Fitted{}, err
	}
	if len(pts) < 2 {
		l.Add("", "expected at least two marks with a value, as in %q", "20 = 40 Hz")
		return Fitted{}, l
	}
	sort.Slice(pts, func(a, b int) bool { return pts[a].travel < pts[b].travel })
	rising := pts[1].value > pts[0].value
	for i := 1; i < len(pts); i++ {
		if pts[i].travel == pts[i-1].travel || pts[i].value == pts[i-1].value || (pts[i].value > pts[i-1].value) != rising {
			l.Add("", "expected values that go one way along the travel: %s follows %s", figure(pts[i].value)+" "+u.Symbol, figure(pts[i-1].value)+" "+u.Symbol)
			return Fitted{}, l
		}
	}
	fit := bestFit(pts, u)
	fit.Law.Unit, fit.Law.Off, fit.Law.Source = u.Symbol, off, Stated
	if faults := fit.Law.Check(f); len(faults) > 0 {
		return Fitted{}, faults
	}
	return fit, nil
}

func readMarks(f Face, unit, text string, l *fault.List) (pts []printed, u quantity.Unit, off string) {
	fixed := unit != ""
	if fixed {
		var ok bool
		if u, ok = quantity.UnitOf(unit); !ok || u.Dim.Named() {
			l.Add("", "expected a unit of a quantity, got %q", unit)
			return
		}
	}
	for n, line := range strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == ';' }) {
		if strings.TrimSpace(line) == "" {
			continue
		}
		at := fmt.Sprintf("line %d", n+1)
		mark, value, ok := strings.Cut(line, "=")
		if !ok {
			l.Add(at, "expected mark = value, got %q", strings.TrimSpace(line))
			continue
		}
		pos, err := f.Parse(strings.TrimSpace(mark))
		if err != nil {
			l.Add(at, "%v", err)
			continue
		}
		e, err := quantity.Parse(strings.TrimSpace(value))
		if err != nil {
			l.Add(at, "%v", err)
			continue
		}
		if e.Form == quantity.FormOff {
			switch {
			case pos.Travel < 1e-9:
				off = "bottom"
			case pos.Travel > 1-1e-9:
				off = "top"
			default:
				l.Add(at, "expected off at an end of the travel only")
			}
			continue
		}
		p := printed{travel: pos.Travel, value: e.Value, half: e.Half}
		if e.Form != quantity.FormNumber {
			q, err := e.Quantity()
			if err != nil {
				l.Add(at, "%v", err)
				continue
			}
			if u.Symbol == "" {
				u = plainUnit(q.Dim, e)
			}
			if q.Dim != u.Dim {
				l.Add(at, "expected %s like the other marks, got %s", u.Dim, q.Dim)
				continue
			}
			if p.value, err = q.In(u.Symbol); err != nil {
				l.Add(at, "%v", err)
				continue
			}
			p.half = e.Half / u.Factor
		} else if !fixed {
			l.Add(at, "expected a value with a unit, got %q", strings.TrimSpace(value))
			continue
		}
		if u.Dim.Geometric() && p.value <= 0 {
			l.Add(at, "expected a value above 0, or off")
			continue
		}
		pts = append(pts, p)
	}
	return pts, u, off
}

// plainUnit is the unit that a law of a dimension is written in where none is asked for.
func plainUnit(d quantity.Dim, e quantity.Expr) quantity.Unit {
	symbol := map[quantity.Dim]string{quantity.DimInterval: "ct", quantity.DimOctaves: "oct", quantity.DimFrequency: "Hz", quantity.DimDuration: "ms",
		quantity.DimLevel: "dB", quantity.DimRatio: "%", quantity.DimBeats: "beats"}[d]
	u, _ := quantity.UnitOf(symbol)
	return u
}

func figure(x float64) string { return quantity.Number(x, 6) }

func rounded(x float64) float64 {
	v, _ := strconv.ParseFloat(strconv.FormatFloat(x, 'g', 7, 64), 64)
	return v
}

// bestFit takes the plainest law that all the marks lie on.
func bestFit(pts []printed, u quantity.Unit) Fitted {
	kinds := []LawKind{Linear, Exponential}
	if u.Dim.Geometric() {
		kinds = []LawKind{Exponential, Linear}
	}
	if len(pts) > 2 {
		kinds = append(kinds, Power)
	}
	for _, k := range kinds {
		law, ok := fitOf(k, pts)
		if !ok {
			continue
		}
		law.Unit = u.Symbol
		worst, rms := misfit(law, pts)
		if worst > FitTravel {
			continue
		}
		half := 0.0
		for _, p := range pts {
			half += quantity.Rectangular(p.half) / float64(len(pts))
		}
		law.Uncertainty = &Uncertainty{U: rounded(quantity.RSS(rms, half))}
		if u.Dim.Geometric() {
			law.Uncertainty.Relative = true
			rel := 0.0
			for _, p := range pts {
				v := law.raw(p.travel)
				rel = quantity.RSS(rel, (v-p.value)/p.value, quantity.Rectangular(p.half)/p.value)
			}
			law.Uncertainty.U = rounded(rel / math.Sqrt(float64(len(pts))))
		}
		if law.Uncertainty.U == 0 {
			law.Uncertainty = nil
		}
		return Fitted{Law: law, Worst: worst, Says: fmt.Sprintf("%s from %s to %s %s; the marks lie within %s %% of the travel", law.words(),
			figure(law.raw(1e-12)), figure(law.raw(1)), u.Symbol, quantity.Number(100*worst, 2))}
	}
	return curve(pts, u)
}

func (l Law) words() string {
	return map[LawKind]string{Linear: "a straight line", Exponential: "equal ratios", Power: fmt.Sprintf("a power of %s", quantity.Number(l.Exponent, 3))}[l.Kind]
}

// fitOf fits a law of one kind by least squares.
func fitOf(k LawKind, pts []printed) (Law, bool) {
	xs, ys := make([]float64, len(pts)), make([]float64, len(pts))
	line := func(shape func(p printed) (x, y float64)) (a, b float64) {
		for i, p := range pts {
			xs[i], ys[i] = shape(p)
		}
		return stat.LinearRegression(xs, ys, nil, false)
	}
	switch k {
	case Linear:
		a, b := line(func(p printed) (float64, float64) { return p.travel, p.value })
		return Law{Kind: k, Min: rounded(a), Max: rounded(a + b)}, b != 0
	case Exponential:
		for _, p := range pts {
			if p.value <= 0 {
				return Law{}, false
			}
		}
		a, b := line(func(p printed) (float64, float64) { return p.travel, math.Log(p.value) })
		return Law{Kind: k, Min: rounded(math.Exp(a)), Max: rounded(math.Exp(a + b))}, b != 0
	}
	best, found, least := Law{}, false, math.Inf(1)
	for e := 0.2; e <= 6; e += 0.01 {
		a, b := line(func(p printed) (float64, float64) { return math.Pow(p.travel, e), p.value })
		law := Law{Kind: Power, Min: rounded(a), Max: rounded(a + b), Exponent: rounded(e)}
		if _, rms := misfit(law, pts); b != 0 && rms < least {
			best, found, least = law, true, rms
		}
	}
	return best, found
}

// misfit gives the largest distance of a mark from the law as a share of the travel, and the
// root mean square in the law's unit.
func misfit(l Law, pts []printed) (worst, rms float64) {
	for _, p := range pts {
		v := l.raw(p.travel)
		rms += (v - p.value) * (v - p.value) / float64(len(pts))
		lo, hi := math.Max(p.travel-0.005, 0), math.Min(p.travel+0.005, 1)
		slope := (l.raw(hi) - l.raw(lo)) / (hi - lo)
		if slope == 0 || math.IsNaN(v) {
			return math.Inf(1), math.Inf(1)
		}
		worst = math.Max(worst, math.Abs((v-p.value)/slope))
	}
	return worst, math.Sqrt(rms)
}

// curve goes through the marks, and on to the ends of the travel as the nearest two marks do.
func curve(pts []printed, u quantity.Unit) Fitted {
	geo := u.Dim.Geometric()
	y := func(p printed) float64 {
		if geo {
			return math.Log(p.value)
		}
		return p.value
	}
	out := make([][2]float64, 0, len(pts)+2)
	reach := func(at float64, a, b printed) [2]float64 {
		v := y(a) + (y(b)-y(a))*(at-a.travel)/(b.travel-a.travel)
		if geo {
			v = math.Exp(v)
		}
		return [2]float64{at, rounded(v)}
	}
	n, drawn := len(pts), 0
	if pts[0].travel > 1e-9 {
		out = append(out, reach(0, pts[0], pts[1]))
		drawn++
	}
	for _, p := range pts {
		out = append(out, [2]float64{rounded(p.travel), rounded(p.value)})
	}
	if pts[n-1].travel < 1-1e-9 {
		out = append(out, reach(1, pts[n-2], pts[n-1]))
		drawn++
	}
	half := 0.0
	for _, p := range pts {
		h := quantity.Rectangular(p.half)
		if geo {
			h /= p.value
		}
		half = math.Max(half, h)
	}
	says := "a curve through the marks: no straight line, equal ratios or power fits them"
	if drawn > 0 {
		says += fmt.Sprintf("; %d of its ends is drawn on beyond the last mark", drawn)
		if drawn == 2 {
			says = strings.Replace(says, "2 of its ends is", "both ends are", 1)
		}
	}
	law := Law{Kind: Table, Points: out}
	if half > 0 {
		law.Uncertainty = &Uncertainty{U: rounded(half), Relative: geo}
	}
	return Fitted{Law: law, Says: says}
}
