package quantity

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Unit is a unit as panels and people write it.
type Unit struct {
	Symbol string
	Dim    Dim
	// Factor turns a number in this unit into the unit of the dimension.
	Factor float64
}

// Units lists every unit that a panel's law or a typed value may be in.
var Units = []Unit{
	{"ct", DimInterval, 1},
	{"st", DimInterval, 100},
	{"oct", DimOctaves, 1},
	{"Hz", DimFrequency, 1},
	{"kHz", DimFrequency, 1000},
	{"s", DimDuration, 1},
	{"ms", DimDuration, 1e-3},
	{"us", DimDuration, 1e-6},
	{"dB", DimLevel, 1},
	{"%", DimRatio, 0.01},
	{"ratio", DimRatio, 1},
	{"beats", DimBeats, 1},
	{"count", DimCount, 1},
	{"fraction", DimResonance, 1},
	{"Q", DimResonance, 1},
	{"wave", DimWave, 1},
	{"name", DimName, 1},
}

// Symbols lists the symbols of the units of a dimension, of all where it is empty, for a message.
func Symbols(d Dim) string {
	var out []string
	for _, u := range Units {
		if d == "" || u.Dim == d {
			out = append(out, u.Symbol)
		}
	}
	return strings.Join(out, ", ")
}

var unitIndex = func() map[string]Unit {
	m := make(map[string]Unit, len(Units))
	for _, u := range Units {
		m[u.Symbol] = u
	}
	return m
}()

// UnitOf finds a unit by its symbol; hertz and seconds are found in any case.
func UnitOf(symbol string) (Unit, bool) {
	if u, ok := unitIndex[symbol]; ok {
		return u, true
	}
	for _, u := range Units {
		if u.Dim != DimName && u.Dim != DimWave && strings.EqualFold(u.Symbol, symbol) {
			return u, true
		}
	}
	return Unit{}, false
}

// ResonanceOfQ gives the resonance of a two-pole filter of quality q, whose damping 1/q falls
// to nothing at self-oscillation: 1 - 1/(2q). A Q of 0.5 is none.
func ResonanceOfQ(q float64) Resonance { return Resonance(1 - 1/(2*q)) }

// Q undoes ResonanceOfQ; the resonance must be below 1.
func (r Resonance) Q() float64 { return 1 / (2 * (1 - float64(r))) }

// In gives the number that a unit of the same dimension shows for the quantity.
func (q Quantity) In(symbol string) (float64, error) {
	u, ok := UnitOf(symbol)
	if !ok {
		return 0, fmt.Errorf("%q is not a unit known here", symbol)
	}
	if err := q.must(u.Dim); err != nil {
		return 0, err
	}
	if u.Symbol == "Q" {
		return Resonance(q.Value).Q(), nil
	}
	return q.Value / u.Factor, nil
}

// Of makes a quantity from a number in a unit.
func (u Unit) Of(x float64) Quantity {
	if u.Symbol == "Q" {
		return Quantity{Dim: u.Dim, Value: float64(ResonanceOfQ(x))}
	}
	return Quantity{Dim: u.Dim, Value: x * u.Factor}
}

// Writing is how a number of a dimension is written from some size on.
type Writing struct {
	// From is the least size, without sign, that is written this way.
	From float64 `json:"from"`
	// Factor makes the number that is written; Figures is how many significant figures it has at most or, where the
	// number is written with its sign, Decimals how many decimals.
	Factor   float64 `json:"factor"`
	Figures  int     `json:"figures"`
	Decimals int     `json:"decimals"`
	Signed   bool    `json:"signed"`
	// Unit stands behind it, Short in a place too small for the unit.
	Unit  string `json:"unit"`
	Short string `json:"short"`
}

// Writings gives the ways in which numbers of the dimension are written, that of the largest first.
func (d Dim) Writings() []Writing {
	switch d {
	case DimInterval:
		return []Writing{{Factor: 1, Decimals: 1, Signed: true, Unit: " ct"}}
	case DimFrequency:
		return []Writing{{From: 1000, Factor: 0.001, Figures: 3, Unit: " kHz", Short: "k"}, {Factor: 1, Figures: 3, Unit: " Hz"}}
	case DimDuration:
		return []Writing{{From: 1, Factor: 1, Figures: 3, Unit: " s", Short: " s"}, {Factor: 1000, Figures: 3, Unit: " ms", Short: " ms"}}
	case DimLevel:
		return []Writing{{Factor: 1, Decimals: 1, Signed: true, Unit: " dB"}}
	case DimOctaves:
		return []Writing{{Factor: 1, Decimals: 2, Signed: true, Unit: " oct"}}
	case DimResonance:
		return []Writing{{Factor: 100, Figures: 3, Unit: " %"}}
	case DimCount:
		return []Writing{{Factor: 1, Figures: 4}}
	}
	return []Writing{{Factor: 100, Figures: 3, Unit: " %"}}
}

// Write writes a number of the dimension with its unit.
func (d Dim) Write(v float64) string {
	w := d.writing(v)
	return w.number(v) + w.Unit
}

// Short writes it as short as the marks of an axis want it.
func (d Dim) Short(v float64) string {
	w := d.writing(v)
	return w.number(v) + w.Short
}

func (d Dim) writing(v float64) Writing {
	all := d.Writings()
	for _, w := range all {
		if math.Abs(v) >= w.From {
			return w
		}
	}
	return all[len(all)-1]
}

func (w Writing) number(v float64) string {
	if w.Factor < 1 { // a division keeps round numbers round
		v /= math.Round(1 / w.Factor)
	} else {
		v *= w.Factor
	}
	if w.Signed {
		return signed(v, w.Decimals)
	}
	return figures(v, w.Figures)
}

// String writes the quantity as the trade does, with its unit, to three or four figures.
func (q Quantity) String() string {
	if q.Dim.Named() {
		if d, ok, _ := ParseDrawn(q.Name); q.Dim == DimWave && ok {
			return d.String()
		}
		return q.Name
	}
	if q.Off {
		return "off"
	}
	if q.Dim == DimBeats {
		return beatsText(q.Value)
	}
	return q.Dim.Write(q.Value)
}

// TolString writes the tolerance at k = 2, or nothing where there is none.
func (q Quantity) TolString() string {
	t := Cover * q.Tol
	if t == 0 || q.Off || q.Dim.Named() {
		return ""
	}
	switch q.Dim {
	case DimFrequency, DimDuration, DimBeats:
		return "±" + figures(t*100, 2) + " %"
	case DimInterval:
		return "±" + figures(t, 2) + " ct"
	case DimLevel:
		return "±" + figures(t, 2) + " dB"
	case DimOctaves:
		return "±" + figures(t, 2) + " oct"
	case DimRatio, DimResonance:
		return "±" + figures(t*100, 2) + " %"
	}
	return "±" + figures(t, 2)
}

// Number writes x with at most n significant figures, without an exponent.
func Number(x float64, n int) string { return figures(x, n) }

func figures(x float64, n int) string {
	if x == 0 || math.IsNaN(x) || math.IsInf(x, 0) {
		return "0"
	}
	d := n - 1 - int(math.Floor(math.Log10(math.Abs(x))))
	d = min(max(d, 0), 6)
	s := strconv.FormatFloat(x, 'f', d, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	if s == "-0" {
		s = "0"
	}
	return s
}

func signed(x float64, decimals int) string {
	p := math.Pow(10, float64(decimals))
	s := strconv.FormatFloat(math.Round(x*p)/p, 'f', -1, 64)
	if s == "-0" {
		s = "0"
	}
	if x > 0 && s != "0" {
		return "+" + s
	}
	return s
}

// NoteName writes a note as letter, octave and cents: "A2 +13 ct"; note 60 is C4.
func (n Note) NoteName() string {
	names := []string{"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"}
	k := int(math.Round(float64(n)))
	cents := (float64(n) - float64(k)) * 100
	s := fmt.Sprintf("%s%d", names[((k%12)+12)%12], int(math.Floor(float64(k)/12))-1)
	if c := signed(cents, 1); c != "0" {
		s += " " + c + " ct"
	}
	return s
}

// beatsText writes a length in quarter notes as a note value.
func beatsText(beats float64) string {
	v := beats / 4
	for _, den := range []float64{1, 2, 4, 8, 16, 32, 64} {
		for _, k := range []struct {
			f float64
			s string
		}{{1, ""}, {1.5, "."}, {2.0 / 3, "t"}} {
			if math.Abs(v-k.f/den) < 1e-9 {
				return fmt.Sprintf("1/%g%s", den, k.s)
			}
		}
	}
	for _, den := range []float64{1, 2, 4, 8, 16, 32, 64} {
		if n := v * den; math.Abs(n-math.Round(n)) < 1e-9 {
			return fmt.Sprintf("%g/%g", math.Round(n), den)
		}
	}
	return figures(beats, 4) + " beats"
}
