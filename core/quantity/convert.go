package quantity

import (
	"fmt"
	"math"
	"strings"
)

// Approximation is the standard uncertainty, as a ratio, that "~" or "about"
// gives a typed quantity (common practice, no source: "a few per cent").
const Approximation = 0.03

// Context is what a conversion may need beside the text: Tempo for note values (0
// where none is known), At for what beats, Time the length of an echo (0 likewise).
type Context struct {
	Tempo Tempo
	At    Frequency
	Time  Duration
	// Track is how far a cutoff follows the keys: 1 for all the way.
	Track float64
}

// Quantity gives the quantity that a typed text stands for by itself, with the
// tolerance of its last printed step. A bare number, a clock position and a word have
// none: only a face can read them.
func (e Expr) Quantity() (Quantity, error) {
	dims := map[Form]Dim{
		FormInterval: DimInterval, FormFootage: DimInterval, FormFreq: DimFrequency, FormNote: DimFrequency,
		FormDuration: DimDuration, FormLevel: DimLevel, FormPercent: DimRatio, FormShare: DimRatio,
		FormOctaves: DimOctaves, FormBeats: DimBeats,
	}
	d, ok := dims[e.Form]
	if !ok {
		return Quantity{}, fmt.Errorf("%q is a %s: by itself it has no quantity", e.Text, e.Form)
	}
	q := Quantity{Dim: d, Value: e.Value, Tol: Rectangular(e.Half)}
	if e.Form == FormFootage {
		if _, err := FootageInterval(e.Value); err != nil {
			return Quantity{}, err
		}
		q.Value = FeetToCents.There(e.Value, Context{})
	}
	if d.Geometric() && q.Value != 0 {
		q.Tol /= math.Abs(q.Value)
	}
	if e.Form == FormBeats {
		q.Value, q.Tol = 4*q.Value, 4*q.Tol
	}
	if e.Approx {
		a := Approximation
		if !d.Geometric() {
			a *= math.Max(math.Abs(q.Value), map[Dim]float64{DimInterval: 100, DimLevel: 20, DimRatio: 1, DimOctaves: 1}[d])
		}
		q = q.WithTol(a)
	}
	return q, nil
}

// Conversion is the result of Convert: a number in a unit, its standard uncertainty in that
// unit, the text a person reads, and the formula that was used.
type Conversion struct {
	Value     float64 `json:"value"`
	Unit      string  `json:"unit"`
	Tolerance float64 `json:"tolerance"`
	Text      string  `json:"text"`
	Formula   string  `json:"formula"`
}

// ConvertUnits are the units that Convert can give.
var ConvertUnits = []string{"ct", "st", "oct", "Hz", "kHz", "s", "ms", "note", "dB", "%", "ratio", "beats", "ft"}

// Convert turns a typed value into another unit, by the trade's arithmetic. The
// tolerance is carried through by the slope of the conversion (GUM 5.1.2).
func Convert(e Expr, unit string, ctx Context) (Conversion, error) {
	unit = strings.TrimSpace(unit)
	if unit == "" {
		unit = defaultUnit(e.Form)
	}
	if unit == "'" {
		unit = "ft"
	}
	for _, u := range ConvertUnits {
		if strings.EqualFold(u, unit) {
			unit = u
		}
	}
	f, formula, err := path(e, unit, ctx)
	if err != nil {
		return Conversion{}, err
	}
	v := f(e.Value)
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return Conversion{}, fmt.Errorf("%q has no value in %s", e.Text, unit)
	}
	u := Rectangular(e.Half)
	if e.Approx {
		u = RSS(u, Approximation*math.Abs(e.Value))
	}
	tol := 0.0
	if h := math.Max(u, 0); h > 0 {
		hi, lo := f(e.Value+h), f(e.Value-h)
		if !math.IsNaN(hi) && !math.IsNaN(lo) && !math.IsInf(hi, 0) && !math.IsInf(lo, 0) {
			tol = math.Abs(hi-lo) / 2
		}
	}
	return Conversion{Value: v, Unit: unit, Tolerance: tol, Text: convText(v, unit), Formula: formula}, nil
}

func defaultUnit(f Form) string {
	switch f {
	case FormFootage, FormOctaves, FormNumber:
		return "ct"
	case FormInterval:
		return "ratio"
	case FormFreq:
		return "note"
	case FormNote, FormDuration:
		return "Hz"
	case FormBeats:
		return "s"
	case FormLevel:
		return "%"
	}
	return "dB"
}

func convText(v float64, unit string) string {
	switch unit {
	case "note":
		return Note(v).NoteName()
	case "ft":
		return figures(v, 4) + "'"
	case "beats":
		if text := beatsText(v); !strings.Contains(text, " ") {
			return figures(v, 6) + " beats (" + text + ")"
		}
	}
	return figures(v, 6) + " " + unit
}

type fn = func(float64) float64

// path finds the function from Expr.Value to the unit: first to the hub of its kind
// (a frequency ratio, hertz, or an amplitude ratio), then to the unit.
func path(e Expr, unit string, ctx Context) (fn, string, error) {
	no := fmt.Errorf("%q is a %s and cannot be given in %q; units: %s", e.Text, e.Form, unit, strings.Join(ConvertUnits, ", "))
	compose := func(a fn, b fn) fn { return func(x float64) float64 { return b(a(x)) } }
	id := func(x float64) float64 { return x }
	there := func(r Relation) fn { return func(x float64) float64 { return r.There(x, ctx) } }
	back := func(r Relation) fn { return func(x float64) float64 { return r.Back(x, ctx) } }
	in := func(k float64, f fn) fn { return func(x float64) float64 { return k * f(x) } }
	cents := back(CentsToRatio)
	ratioTo := map[string]fn{"ct": cents, "st": in(1./100, cents), "oct": in(1./1200, cents), "ratio": id, "ft": compose(cents, back(FeetToCents))}
	hertzTo := map[string]fn{"Hz": id, "kHz": in(1./1000, id), "s": back(SecondsToHertz), "ms": in(1000, back(SecondsToHertz)), "note": back(NoteToHertz)}
	if ctx.Tempo > 0 {
		hertzTo["beats"] = back(BeatsToHertz)
	}
	amplitudeTo := map[string]fn{"dB": back(DecibelsToRatio), "%": in(100, id), "ratio": id}
	hub := func(to map[string]fn, in fn, formula string) (fn, string, error) {
		if out, ok := to[unit]; ok {
			return compose(in, out), formula, nil
		}
		return nil, "", no
	}
	isTime := unit == "s" || unit == "ms" || unit == "Hz" || unit == "kHz"
	switch e.Form {
	case FormFootage:
		return hub(ratioTo, compose(there(FeetToCents), there(CentsToRatio)), FeetToCents.Formula)
	case FormInterval:
		if unit == "Hz" {
			if ctx.At <= 0 {
				return nil, "", fmt.Errorf("%q to Hz is a beating, which needs the note played (--note)", e.Text)
			}
			return there(CentsToBeats), CentsToBeats.Formula, nil
		}
		return hub(ratioTo, there(CentsToRatio), CentsToRatio.Formula)
	case FormOctaves:
		return hub(ratioTo, math.Exp2, "r = 2^octaves")
	case FormNumber, FormShare, FormPercent:
		if unit == "dB" || unit == "%" {
			return hub(amplitudeTo, id, "dB = 20 log10(r)")
		}
		return hub(ratioTo, id, "c = 1200 log2(r)")
	case FormBeats:
		if isTime {
			if ctx.Tempo <= 0 {
				return nil, "", fmt.Errorf("%q as a time needs the tempo (--tempo)", e.Text)
			}
			return hub(hertzTo, compose(in(4, id), there(BeatsToHertz)), BeatsToSeconds.Formula)
		}
		if unit == "beats" {
			return in(4, id), "n = 4 x fraction of a whole note", nil
		}
		return hub(ratioTo, id, "c = 1200 log2(r)")
	case FormFreq, FormNote:
		if unit == "ct" && ctx.At > 0 {
			if e.Form == FormFreq && e.Value < float64(ctx.At)/4 {
				return back(CentsToBeats), "c = 1200 log2((f + beats)/f)", nil
			}
			return compose(in(1/float64(ctx.At), id), cents), "c = 1200 log2(f2/f1)", nil
		}
		return hub(hertzTo, id, NoteToHertz.Formula+"; t = 1/f")
	case FormDuration:
		if unit == "beats" && ctx.Tempo <= 0 {
			return nil, "", fmt.Errorf("%q as a note value needs the tempo (--tempo)", e.Text)
		}
		return hub(hertzTo, there(SecondsToHertz), "f = 1/t: a comb or echo of length t rings at f and its multiples")
	case FormLevel:
		return hub(amplitudeTo, there(DecibelsToRatio), DecibelsToRatio.Formula)
	}
	return nil, "", no
}
