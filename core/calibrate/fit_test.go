package calibrate

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/stat"

	"glossator/core/scale"
)

// line is a straight line with as good as no prior: what least squares makes of takes alone.
func line() *form {
	return &form{kind: scale.Linear, label: "line", size: 2, start: []float64{0, 0}, spread: []float64{1e6, 1e6}, at: func(th []float64, p float64) float64 { return th[0] + th[1]*p },
		law: func([]float64) scale.Law { return scale.Law{} }}
}

// takesAt makes takes of a function with a noise of one uncertainty each.
func takesAt(r *rand.Rand, ps, us []float64, y func(p float64) float64) []Take {
	var out []Take
	for i, p := range ps {
		out = append(out, Take{travel: p, y: y(p) + us[i]*r.NormFloat64(), uy: us[i], used: true})
	}
	return out
}

// The weighted straight line: value against gonum, covariances against the closed form of Bevington and Robinson, Data Reduction and Error Analysis (3rd ed., eqs. 6.12 and 6.23, from memory): with D = S Sxx - Sx^2,
// the variances are Sxx/D and S/D, the covariance is -Sx/D.
func TestWeightedLine(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 1))
	ps := []float64{0, 0.1, 0.25, 0.4, 0.7, 0.85, 1}
	us := []float64{0.1, 0.2, 0.1, 0.3, 0.1, 0.4, 0.2}
	all := takesAt(r, ps, us, func(p float64) float64 { return 2 - 3*p })
	x, ok := line().fit(all)
	if !ok {
		t.Fatal("no fit")
	}
	ys, ws := make([]float64, len(ps)), make([]float64, len(ps))
	var s, sx, sxx, chi float64
	for i, k := range all {
		ys[i], ws[i] = k.y, 1/(k.uy*k.uy)
		s, sx, sxx = s+ws[i], sx+ws[i]*ps[i], sxx+ws[i]*ps[i]*ps[i]
	}
	a, b := stat.LinearRegression(ps, ys, ws, false)
	if math.Abs(x.th[0]-a) > 1e-6 || math.Abs(x.th[1]-b) > 1e-6 {
		t.Errorf("got %v, gonum has %g and %g", x.th, a, b)
	}
	for i := range ps {
		chi += ws[i] * (ys[i] - a - b*ps[i]) * (ys[i] - a - b*ps[i])
	}
	birge := max(1, chi/float64(len(ps)-2))
	d := s*sxx - sx*sx
	for _, c := range []struct {
		name      string
		got, want float64
	}{{"variance of the intercept", x.cov.At(0, 0), sxx / d}, {"of the slope", x.cov.At(1, 1), s / d}, {"covariance", x.cov.At(0, 1), -sx / d}} {
		if math.Abs(c.got/birge-c.want) > 1e-6*math.Abs(c.want) {
			t.Errorf("%s: %g, want %g", c.name, c.got/birge, c.want)
		}
	}
	// Burnham and Anderson, Model Selection (2nd ed., section 2.4): with known variances chi squared + 2 K + 2 K (K + 1)/(n - K - 1)
	if want := chi + 4 + 2*2*3/float64(7-2-1); math.Abs(x.AICc-want) > 1e-6 {
		t.Errorf("criterion %g, want %g", x.AICc, want)
	}
	if want := math.Sqrt(chi / 7); math.Abs(x.Chi-want) > 1e-9 {
		t.Errorf("left over %g, want %g", x.Chi, want)
	}
}

// What a fit says of itself holds: over many sets of takes the truth lies within two standard uncertainties of the line in about 95 %.
func TestTheBandOfALineHolds(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 2))
	ps, us := []float64{0, 0.2, 0.5, 0.5, 0.9, 1}, []float64{0.1, 0.1, 0.2, 0.1, 0.1, 0.1}
	in, n := 0, 0
	for range 400 {
		a, b := r.NormFloat64(), 3*r.NormFloat64()
		x, _ := line().fit(takesAt(r, ps, us, func(p float64) float64 { return a + b*p }))
		for _, p := range []float64{0.1, 0.6, 1} {
			y, v := x.predict(p)
			if n++; math.Abs(y-a-b*p) <= 2*math.Sqrt(v) {
				in++
			}
		}
	}
	if share := float64(in) / float64(n); share < 0.93 || share > 0.995 {
		t.Errorf("%.1f %% of the truths lie in the band", 100*share)
	}
}

// A take that was played at another reading does not pull the law along: Huber's weights leave the others what they say.
func TestOneWildTakeDoesNotPull(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1))
	ps := []float64{0, 0.15, 0.3, 0.45, 0.6, 0.8, 1}
	us := []float64{0.05, 0.05, 0.05, 0.05, 0.05, 0.05, 0.05}
	all := takesAt(r, ps, us, func(p float64) float64 { return 1 + p })
	all[3].y += 3
	x := fitAll([]*form{line()}, all, nil)[0]
	if math.Abs(x.th[0]-1) > 0.25 || math.Abs(x.th[1]-1) > 0.3 {
		t.Errorf("pulled to %v", x.th)
	}
	plain, _ := line().fit(all)
	if math.Abs(plain.th[0]-1) < 2*math.Abs(x.th[0]-1) {
		t.Errorf("without weights it would be %v, with them %v", plain.th, x.th)
	}
}

// Where a line is to be known over its whole length, the ends tell most (the design that is optimal for a line; Fedorov, Theory of Optimal Experiments, 1972, from memory).
func TestTheEndsTellMostOfALine(t *testing.T) {
	ps := []float64{0, 0.25, 0.5, 0.75, 1}
	r := &Result{All: []Fitted{}, b: nil}
	f, _ := line().fit([]Take{{travel: 0.5, y: 0, uy: 0.1, used: true}, {travel: 0.45, y: 0, uy: 0.1, used: true}})
	f.Weight = 1
	r.All = append(r.All, f)
	best, at := 0.0, -1.0
	for k, p := range ps {
		gain := 0.0
		for i := range ps {
			c, v, own := f.covariance(ps[i], ps[k]), f.covariance(ps[i], ps[i]), f.covariance(ps[k], ps[k])
			gain += math.Sqrt(v) - math.Sqrt(max(0, v-c*c/(own+0.01)))
		}
		if gain > best {
			best, at = gain, p
		}
	}
	if at != 0 && at != 1 {
		t.Errorf("expected an end, got %g", at)
	}
}
