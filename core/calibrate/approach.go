package calibrate

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
)

// Approach is how takes hang on the side from which the control was brought to them: a knob with play, a track that lags.
type Approach struct {
	// Difference is by how much a reading comes out higher from below than from above, U its standard uncertainty: in the law's unit, or in per cent of the value where equal steps are ratios.
	Difference float64 `json:"difference"`
	U          float64 `json:"u"`
	Unit       string  `json:"unit"`
	// Below and Above count the takes from each side.
	Below int `json:"below"`
	Above int `json:"above"`
}

// sureOfPlay is from how many uncertainties on a difference between the two sides is believed.
const sureOfPlay = 3.5

// sides gives +1 for a take that was come to from below, -1 from above, 0 for the first and for one that was taken again; by the order in which they were taken.
func sides(takes []Take) []float64 {
	out := make([]float64, len(takes))
	for i := 1; i < len(takes); i++ {
		switch d := takes[i].travel - takes[i-1].travel; {
		case d > 0:
			out[i] = 1
		case d < 0:
			out[i] = -1
		default:
			out[i] = out[i-1] // taken again: the control still stands
		}
	}
	return out
}

// approach finds half the difference between the sides beside the law: what a further number of the fit, for the side, comes to by weighted least squares, the others being free to give way (the Schur complement of the normal matrix), with its uncertainty. ok is false where too few takes tell.
func (x *Fitted) approach(used []Take, side []float64) (half, u float64, ok bool) {
	below, above := counts(side)
	n, k := len(used), len(x.th)
	if below < 2 || above < 2 || n < k+2 {
		return 0, 0, false
	}
	normal, _ := x.form.normal(x.th, used)
	cross := mat.NewVecDense(k, nil)
	own, pull, chi := 0.0, 0.0, 0.0
	for i, t := range used {
		w := 1 / (t.uy * t.uy)
		rest := t.y - x.form.at(x.th, t.travel)
		own, pull, chi = own+w*side[i]*side[i], pull+w*side[i]*rest, chi+w*rest*rest
		for a, j := range x.form.jacobian(x.th, t.travel) {
			cross.SetVec(a, cross.AtVec(a)+w*side[i]*j)
		}
	}
	var chol mat.Cholesky
	given := mat.NewVecDense(k, nil)
	if !chol.Factorize(normal) || chol.SolveVecTo(given, cross) != nil {
		return 0, 0, false
	}
	d := own - mat.Dot(cross, given)
	if d < 0.2*own || d <= 0 { // the sides go with the travel: the law takes it up
		return 0, 0, false
	}
	half = pull / d
	left := max(chi-half*pull, 0) / float64(max(1, n-k-1)) // what is left with it, by its degrees of freedom
	return half, math.Sqrt(max(1, left) / d), true
}

func counts(side []float64) (below, above int) {
	for _, s := range side {
		switch {
		case s > 0:
			below++
		case s < 0:
			above++
		}
	}
	return below, above
}

// play takes a difference between the sides out of takes, where there is one beyond chance: the law is then the one half-way. It gives the takes as they are fitted.
func (r *Result) play(forms []*form, used []Take, side []float64) []Take {
	if len(r.All) == 0 {
		return used
	}
	// what the sides do draws the curve along: it is fitted again without it until it stays
	half, u, out, all := 0.0, 0.0, used, r.All
	for range 4 {
		more, now, ok := all[0].approach(out, side)
		if !ok {
			return used
		}
		half, u = half+more, now
		out = slices.Clone(used)
		for i := range out {
			out[i].y -= half * side[i]
		}
		if all = fitAll(forms, out, r.b); len(all) == 0 {
			return used
		}
		if math.Abs(more) < 0.1*u {
			break
		}
	}
	below, above := counts(side)
	r.Approach = &Approach{Difference: 2 * half, U: 2 * u, Unit: r.b.law.Unit, Below: below, Above: above}
	if r.b.dim.Geometric() {
		r.Approach.Difference, r.Approach.U, r.Approach.Unit = 100*(math.Exp2(2*half)-1), 100*math.Ln2*2*u, "%"
	}
	if math.Abs(half) < sureOfPlay*u {
		return used
	}
	r.half, r.All = math.Abs(half), all
	return out
}

// Sides says in words how takes hang on the side from which the control was brought to them, empty where nothing is known of it.
func (r *Result) Sides() string {
	a := r.Approach
	if a == nil {
		return ""
	}
	if r.half == 0 {
		return fmt.Sprintf("From below and from above it comes out alike, to %.2g %s.", 2*a.U, a.Unit)
	}
	more := "more"
	if a.Difference < 0 {
		more = "less"
	}
	return fmt.Sprintf("From below it comes out %.2g ± %.1g %s %s than from above: the law is the one half-way. Bring it to a reading from the same side every time.", math.Abs(a.Difference), a.U, a.Unit, more)
}
