package calibrate

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"gonum.org/v1/gonum/mat"

	"glossator/testutil/testrack"
)

var upAndDown = []float64{0, 0.3, 0.6, 1, 0.8, 0.5, 0.2, 0.4, 0.7, 0.65, 0.1}

// The difference between the sides beside a straight line is what weighted least squares over three columns gives: one, travel and side (gonum's QR as the second witness), and its uncertainty holds.
func TestPlayBesideALine(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 4))
	us := make([]float64, len(upAndDown))
	for i := range us {
		us[i] = 0.05 + 0.1*r.Float64()
	}
	in, rounds := 0, 400
	for round := range rounds {
		half := 0.3 * r.NormFloat64()
		all := takesAt(r, upAndDown, us, func(p float64) float64 { return 1 + 2*p })
		side := sides(all)
		for i := range all {
			all[i].y += half * side[i]
		}
		x, _ := line().fit(all)
		got, u, ok := x.approach(all, side)
		if !ok {
			t.Fatal("it is not told")
		}
		if math.Abs(got-half) <= 2*u {
			in++
		}
		if round > 0 {
			continue
		}
		a, y := mat.NewDense(len(all), 3, nil), mat.NewVecDense(len(all), nil)
		for i, k := range all {
			for c, v := range []float64{1, k.travel, side[i]} {
				a.Set(i, c, v/k.uy)
			}
			y.SetVec(i, k.y/k.uy)
		}
		var qr mat.QR
		qr.Factorize(a)
		var want mat.VecDense
		if err := qr.SolveVecTo(&want, false, y); err != nil {
			t.Fatal(err)
		}
		if math.Abs(got-want.AtVec(2)) > 1e-5 {
			t.Errorf("half the difference is %g, QR has %g", got, want.AtVec(2))
		}
	}
	if share := float64(in) / float64(rounds); share < 0.93 || share > 0.99 {
		t.Errorf("%.1f %% of the truths lie within two uncertainties", 100*share)
	}
}

// On a real control: play of a tenth of an octave is told with its size and side, and the law lies half-way; without any none is told; takes from one side tell nothing of it.
func TestPlayIsTold(t *testing.T) {
	b, err := Begin(testrack.Panels(t)["kedge"], "env.attack", "")
	if err != nil {
		t.Fatal(err)
	}
	places := b.Panel.Places(b.Control)
	takes := func(half float64, order []float64, r *rand.Rand) (out []Take) {
		for _, p := range order {
			at := places[nearestTravel(b, p)]
			raw, ok := b.law.Raw(at.Travel)
			if !ok {
				continue
			}
			out = append(out, Take{Reading: at.Reading, Unit: b.law.Unit, travel: at.Travel, y: b.domain(raw) + 0.02*r.NormFloat64(), uy: 0.02, used: true})
		}
		for i, s := range sides(out) {
			out[i].y += half * s
			out[i].Value = b.back(out[i].y)
		}
		return out
	}
	order := []float64{0.05, 0.3, 0.6, 0.95, 0.8, 0.5, 0.2, 0.4, 0.7, 0.65, 0.1, 0.35}
	alarms := 0
	for seed := range uint64(20) {
		r := rand.New(rand.NewPCG(seed, 6))
		got := b.Fit(takes(0.1, order, r))
		if a := got.Approach; a == nil || got.half == 0 || math.Abs(a.Difference-100*(math.Exp2(0.2)-1)) > 2.5*a.U || !strings.Contains(got.Sides(), "more than from above") {
			t.Errorf("seed %d: %+v, %s", seed, a, got.Sides())
			continue
		}
		for _, y := range got.Band() {
			at, _ := b.Position(y.Reading)
			if raw, ok := b.law.Raw(at.Travel); ok && math.Abs(math.Log2(*y.Value/raw)) > 0.06 {
				t.Errorf("seed %d at %s: %g, is %g", seed, y.Reading, *y.Value, raw)
			}
		}
		none := b.Fit(takes(0, order, r))
		if none.half != 0 {
			alarms++
		}
		if !strings.Contains(none.Sides(), "alike") && none.half == 0 {
			t.Errorf("seed %d: %q", seed, none.Sides())
		}
		slices.Sort(order)
		if one := b.Fit(takes(0.1, order, r)); one.Approach != nil {
			t.Errorf("from one side: %+v", one.Approach)
		}
		order = []float64{0.05, 0.3, 0.6, 0.95, 0.8, 0.5, 0.2, 0.4, 0.7, 0.65, 0.1, 0.35}
	}
	if alarms > 1 {
		t.Errorf("%d false alarms in 20", alarms)
	}
}

func nearestTravel(b *Bench, p float64) int {
	var ps []float64
	for _, x := range b.Panel.Places(b.Control) {
		ps = append(ps, x.Travel)
	}
	return nearestIn(ps, p)
}
