package compare

import (
	"cmp"
	"math"
	"slices"
	"sync"

	"glossator/core/hear"
	"glossator/core/jnd"
)

// Contrast is one line of the table of differences.
type Contrast struct {
	What  string        `json:"what"`
	Label string        `json:"label"`
	A     hear.Measured `json:"a"`
	B     hear.Measured `json:"b"`
	// Diff is b less a in the unit of the row: a number, or for times and frequencies a share of a.
	Diff float64 `json:"diff"`
	// Unit of Diff.
	Unit string `json:"unit"`
	// JNDs is how many just-noticeable differences that is; Known is set where both figures are.
	JNDs  float64 `json:"jnds"`
	Known bool    `json:"known"`
	// Of says which note of a phrase the figures are of: "first", "last", or empty for the whole.
	Of string `json:"of"`
	// Sure is set where the difference is more than twice what the two figures together are unsure by.
	Sure bool `json:"sure"`
}

// Times says when the notes of a phrase begin and when the last key is let go, in seconds.
type Times struct {
	// Off is 0 where it is not known.
	Off float64
	// Second and Last are when other notes begin than the first ones; 0 where there are none, or it is not known.
	Second, Last float64
}

// ofNote tells which note of a phrase a figure is taken from: an attack from the first, which comes out of silence, what a single note has
// from the last, which dies away by itself. The rest is of the whole.
var ofNote = map[string]string{"attack": "first", "pitch": "last", "decay": "last", "release": "last", "lfo": "last", "cutoff": "last", "t60": "last", "delay": "last", "detune": "last",
	"pulsewidth": "last", "harmonic": "last", "wave": "last", "filter": "last", "unison": "last", "fm": "last", "noise": "last"}

// figures measures a sound; of gives for each figure which note it is of.
func figures(w hear.Wave, t Times) (out []hear.Measured, of []string) {
	cut := func(from, to float64) hear.Wave {
		a := min(int(from*w.Rate), len(w.Left))
		b := len(w.Left)
		if to > 0 {
			b = min(int(to*w.Rate), b)
		}
		x := hear.Wave{Rate: w.Rate, Left: w.Left[a:max(a, b)]}
		if w.Right != nil {
			x.Right = w.Right[a:max(a, b)]
		}
		return x
	}
	ears := map[string]*hear.Ear{"": hear.Listen(w)}
	offs := map[string]float64{"": t.Off}
	if t.Second > 0 {
		ears["first"], offs["first"] = hear.Listen(cut(0, t.Second)), 0
	}
	if t.Last > 0 {
		ears["last"], offs["last"] = hear.Listen(cut(t.Last, 0)), max(0, t.Off-t.Last)
	}
	note := func(what string) string {
		if name := ofNote[what]; ears[name] != nil {
			return name
		}
		return ""
	}
	for i, list := range hear.Each(func(what string) (*hear.Ear, float64) { return ears[note(what)], offs[note(what)] }) {
		for _, f := range list {
			out, of = append(out, f), append(of, note(hear.Whats[i]))
		}
	}
	return out, of
}

// Table measures both sounds and says what differs, what differs most first. The times are those of both.
func Table(a, b hear.Wave, t Times) []Contrast {
	var fa, fb []hear.Measured
	var ofA, ofB []string
	var both sync.WaitGroup
	var fault any
	both.Go(func() {
		defer func() { fault = recover() }()
		fa, ofA = figures(a, t)
	})
	fb, ofB = figures(b, t)
	both.Wait()
	if fault != nil {
		panic(fault) // on the caller's goroutine, where it can be caught
	}
	// a sound without a tone has fewer rows: what both have is matched by label
	var out []Contrast
	other := map[string]hear.Measured{}
	for _, f := range fb {
		other[f.Label] = f
	}
	seen := map[string]bool{}
	row := func(x, y hear.Measured, of string) {
		r := Contrast{Of: of, What: x.What, Label: x.Label, A: x, B: y, Unit: x.Unit, Known: x.Known && y.Known}
		if r.Known {
			j, _ := jnd.Figure(x.Label)
			r.Diff = y.Value - x.Value
			r.Sure = math.Abs(r.Diff) > 2*math.Hypot(x.Uncertainty, y.Uncertainty)
			switch {
			case x.Word != "":
				r.Sure = x.Word != y.Word
			case j.Share && x.Value > 0 && y.Value > 0:
				l := math.Log(y.Value / x.Value)
				r.Diff, r.Unit = 100*math.Expm1(l), "%"
				if x.Label == "pitch" {
					r.Diff, r.Unit = 1200*l/math.Ln2, "ct"
				}
				r.JNDs = math.Abs(l) / j.Size
			case j.Size > 0 && !j.Share:
				r.JNDs = math.Abs(r.Diff) / j.Size
			}
		}
		seen[x.Label] = true
		out = append(out, r)
	}
	for i, f := range fa {
		y, ok := other[f.Label]
		if !ok {
			y = hear.Measured{What: f.What, Label: f.Label, Unit: f.Unit, Why: "cannot tell: the other sound has no tone"}
		}
		row(f, y, ofA[i])
	}
	for i, f := range fb {
		if !seen[f.Label] {
			row(hear.Measured{What: f.What, Label: f.Label, Unit: f.Unit, Why: "cannot tell: the other sound has no tone"}, f, ofB[i])
		}
	}
	byChance(out)
	slices.SortStableFunc(out, func(a, b Contrast) int { return cmp.Compare(b.weight(), a.weight()) })
	return out
}

// byChance marks a higher peak that is not a louder sound as not sure: where a beat stands makes it. And it comes after the loudness that it goes with.
func byChance(rows []Contrast) {
	loud := slices.IndexFunc(rows, func(r Contrast) bool { return r.Label == "loudness" && r.Known })
	for i := range rows {
		if r := &rows[i]; loud >= 0 && r.isPeak() && r.Sure && (!rows[loud].Sure || math.Abs(rows[loud].Diff) < 0.5*math.Abs(r.Diff)) {
			r.Sure = false
		}
	}
}

func (r *Contrast) isPeak() bool { return r.Label == "peak" || r.Label == "true peak" }

// weight is by what rows are listed: what is surely different by how much it is, then what may be, then what both figures are known of, then the rest.
func (r *Contrast) weight() float64 {
	switch {
	case r.Known && r.Sure && r.isPeak():
		return 2 + 0.8*r.JNDs // the loudness comes first
	case r.Known && r.Sure:
		return 2 + r.JNDs
	case r.Known:
		return 1 + r.JNDs/(1+r.JNDs)
	case r.A.Known || r.B.Known:
		return 0.5
	}
	return 0
}
