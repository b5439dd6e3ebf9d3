package quantity

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

// written lists the dimensions whose numbers are written with a unit that the grammar reads back.
var written = map[Dim]string{DimInterval: "ct", DimFrequency: "Hz", DimDuration: "s", DimLevel: "dB", DimRatio: "%"}

// What is written is read back as the same within the figures that it has: the grammar is the witness.
func TestWhatIsWrittenIsRead(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for d, unit := range written {
		for range 2000 {
			v := math.Pow(10, r.Float64()*7-3)
			if !d.Geometric() && r.IntN(2) == 0 {
				v = -v
			}
			if d == DimRatio || d == DimInterval || d == DimLevel {
				v = math.Mod(v, 2400)
			}
			text := d.Write(v)
			e, err := Parse(text)
			if err != nil {
				t.Fatalf("%v of %s is written %q, which is not read: %v", v, d, text, err)
			}
			back, err := Convert(e, unit, Context{})
			if err != nil {
				t.Fatalf("%q in %s: %v", text, unit, err)
			}
			slack := 0.006 * math.Abs(v)
			if w := d.writing(v); w.Signed {
				slack = 0.51 * math.Pow(10, -float64(w.Decimals)) / w.Factor
			} else if slack < 1e-6 {
				slack = 1e-6 / w.Factor // at most six decimals
			}
			got := back.Value
			if d == DimRatio {
				got /= 100
			}
			if math.Abs(got-v) > slack {
				t.Errorf("%v of %s is written %q and read as %v", v, d, text, got)
			}
		}
	}
}

// The ways of writing go from the largest down to 0, and each quantity is written by one of them.
func TestWaysOfWriting(t *testing.T) {
	for _, d := range []Dim{DimInterval, DimFrequency, DimDuration, DimLevel, DimRatio, DimOctaves, DimCount, DimResonance} {
		all := d.Writings()
		for i, w := range all {
			if i > 0 && w.From >= all[i-1].From {
				t.Errorf("%s: from %v after from %v", d, w.From, all[i-1].From)
			}
			if !(w.Factor > 0) || !w.Signed && w.Figures < 1 || w.Unit == "" && d != DimCount {
				t.Errorf("%s: %+v", d, w)
			}
			if v := w.From * 1.5; v > 0 && !strings.HasSuffix(d.Write(v), w.Unit) {
				t.Errorf("%v of %s is written %q, not in%s", v, d, d.Write(v), w.Unit)
			}
		}
		if all[len(all)-1].From != 0 {
			t.Errorf("%s: nothing is said of small numbers", d)
		}
		for _, v := range []float64{0, 1e-12, 1, -1, 999.9996, 1e9} {
			if got, want := d.Write(v), (Quantity{Dim: d, Value: v}).String(); got != want {
				t.Errorf("%v of %s is written %q here, %q there", v, d, got, want)
			}
			if s := d.Short(v); len(s) > len(d.Write(v)) || s == "" {
				t.Errorf("%v of %s is short %q", v, d, s)
			}
		}
	}
}
