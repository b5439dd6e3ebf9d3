package gloss

import (
	"math"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/plan"
	q "glossator/core/quantity"
)

// mostNear is how many just-noticeable differences "near" covers at the most, however little is known of the scales (common practice, no source).
const mostNear = 3

// shownJNDs is what a line shows of just-noticeable differences: words and counts, of which any other is another, have none.
func shownJNDs(p meaning.Param, want q.Quantity, jnds float64) float64 {
	if p.JND.Size <= 1e-5 || want.Dim.Named() && p.Dim != q.DimWave {
		return 0
	}
	return Round(jnds, 2)
}

// Ears are how well somebody hears: for just-noticeable differences, by their names (jnd), how many of the published ones make one of theirs. Lines are judged by them; how a patch is
// translated does not hang on who listens.
type Ears struct {
	Who     string
	Factors map[string]float64
}

// compare is plan.Compare by the ears that judge.
func (in *Input) compare(p meaning.Param, want, got q.Quantity, w, r *meaning.Module) (distance, jnds float64) {
	distance, jnds = plan.Compare(p, want, got, w, r)
	if in.Ears != nil {
		if f := in.Ears.Factors[p.JND.Name]; f > 0 {
			jnds /= f
		}
	}
	return distance, jnds
}

// judge gives the verdict and the difference of a line. The tolerance that counts is that
// of both panels together at k = 2; a value that differs by less may be the same.
func (in *Input) judge(g *Gloss, p meaning.Param, want, got q.Quantity, w, r *meaning.Module) {
	d, jnds := in.compare(p, want, got, w, r)
	g.JNDs = shownJNDs(p, want, jnds)
	g.Diff = difference(p, want, got, d)
	tol := q.Cover * q.RSS(want.Tol, got.Tol)
	step := in.stepOf(g)
	switch a := math.Abs(d); {
	case jnds <= 1 && (a <= step/2+1e-9 || a <= tol || jnds <= 0.5):
		g.Verdict = Held
	case jnds <= 1:
		g.Verdict = Near
	case a <= tol && jnds <= mostNear && !want.Dim.Named() && !want.Off && !got.Off:
		g.Verdict, g.Open = Near, true
	default: // more is bent, with the doubt beside it
		g.Verdict, g.Open = Bent, a <= tol && !want.Dim.Named() && !want.Off && !got.Off
	}
	if g.Verdict == Held && tol > 3*p.JND.Size && !want.Dim.Named() && !want.Off && !got.Off {
		g.Open = true
	}
}

// stepOf gives the target's step at a line's reading, in the sense of quantity.Distance.
func (in *Input) stepOf(g *Gloss) float64 {
	step := 0.0
	for _, r := range g.Target {
		k, _ := in.Target.ControlIndex(r.Control)
		for i := range in.Target.Controls[k].Means {
			b := &in.Target.Controls[k].Means[i]
			if b.Param == g.TargetParam && in.Target.Holds(b.When, in.Set.State) && in.Set.State.At[k].Index >= 0 {
				if s := in.Target.Scale(panel.BindRef{Control: k, Bind: i}).Step(in.Set.State.At[k].Index); step == 0 || s < step {
					step = s
				}
			}
		}
	}
	return step
}

func difference(p meaning.Param, want, got q.Quantity, d float64) string {
	switch {
	case p.Dim == q.DimWave:
		if math.Abs(d) < 1e-9 {
			return "0"
		}
		return q.Number(100*math.Abs(d), 2) + " % of its harmonics"
	case want.Dim.Named():
		if d == 0 {
			return "0"
		}
		return want.Name + " asked"
	case want.Off != got.Off:
		return want.String() + " asked"
	case want.Dim == q.DimFrequency && p.Name != meaning.PRate:
		return sign(1200*d/math.Ln2, " ct")
	case want.Dim.Geometric():
		return sign(100*(math.Exp(d)-1), " %")
	}
	got.Value = d
	got.Off = false
	text := got.String()
	if d > 0 && !strings.HasPrefix(text, "+") {
		text = "+" + text
	}
	return text
}

func sign(x float64, unit string) string {
	s := q.Number(x, 3)
	if math.Abs(x) < 0.05 {
		return "0" + unit
	}
	if x > 0 {
		s = "+" + s
	}
	return s + unit
}

// Round rounds a number for people to a number of decimals; what is beyond 9999 is that.
func Round(x float64, decimals int) float64 {
	p := math.Pow(10, float64(decimals))
	if x > 9999 {
		return 9999
	}
	return math.Round(x*p) / p
}

// Worse tells whether a verdict is worse than another, in the order of Verdicts; idle is worse than none.
func Worse(a, b Verdict) bool {
	rank := func(v Verdict) int {
		for i, w := range Verdicts {
			if w == v {
				return i
			}
		}
		return -1
	}
	return a != Idle && rank(a) > rank(b)
}
