package calibrate

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/interp"
	"gonum.org/v1/gonum/mat"

	q "glossator/core/quantity"
	"glossator/core/scale"
)

// How far a law may be from what the panel says before anything is measured, one standard deviation (common practice, no source).
const (
	priorEnd   = 0.15 // of an end, as a share of the value (geometric) or of the range
	priorCurve = 0.3  // of the logarithm of an exponent
	priorDead  = 0.03 // of a dead middle, of the half travel
	priorBend  = 0.06 // of a knot beside the panel's curve, of the range
	steps7     = 1.0 / 127 / 3.46
	sysFigure  = 0.12  // of what all takes of a recipe share, the rest of the instrument not being quite what its panel says; of a just-noticeable difference
	sysHeld    = 0.2   // the same, where they hold against one take
	sysExact   = 0.3   // the same, for pitches
	sysLikely  = 0.5   // and where they rest on likeness to the model
	huber      = 2.0   // uncertainties from where a take counts for less
	beyondMost = 0.15  // of what lies beyond the places where the recipe tells, of the range
	manyU      = 0.25  // of rates that are heard at several times themselves, in octaves: three or four of them are not told apart for certain
	odd        = 0.008 // of what no kind of law has, a stop before the end, a dead place, far from every take; of the range
)

// form is a kind of law as a function of a few numbers, in the domain of the fit.
type form struct {
	kind  scale.LawKind
	label string
	// start is what the panel's law is in this form, spread how far each number may be from it.
	start, spread []float64
	at            func(th []float64, p float64) float64
	law           func(th []float64) scale.Law
	// size counts the numbers that the fit is free in, for the criterion.
	size int
	// sure is what is known without a take: nothing is nothing, and all is all.
	sure []Take
}

// Fitted is a kind of law fitted to takes.
type Fitted struct {
	Kind  scale.LawKind `json:"kind"`
	Label string        `json:"label"`
	Law   scale.Law     `json:"law"`
	// AICc is Akaike's criterion with the small-sample term (Burnham and Anderson), by which the kind is chosen; Weight is how likely this kind is beside the others.
	AICc   float64 `json:"aicc"`
	Weight float64 `json:"weight"`
	// evidence is the logarithm of how likely the takes are under this kind, over all that its numbers may be (Laplace's approximation): bands are mixed by it, which holds for few takes, too.
	evidence float64
	// Chi is the root of the mean squared residual by the takes' uncertainties.
	Chi float64 `json:"chi"`

	form *form
	th   []float64
	cov  *mat.SymDense
}

// Band is how well the law is known at a reading: Low to High is k = 2. All are nil where the reading means none.
type Band struct {
	Reading string   `json:"reading"`
	Value   *float64 `json:"value"`
	Low     *float64 `json:"low"`
	High    *float64 `json:"high"`
	Unit    string   `json:"unit"`
}

// Result is what the takes tell of a control's law.
type Result struct {
	Takes []Take `json:"takes"`
	// Law is the best kind, fitted; Measured, with its uncertainty.
	Law scale.Law `json:"law"`
	// All are the kinds that were fitted, the likeliest first; the first is Law's.
	All []Fitted `json:"all"`
	// Odd is the place in Takes of one that no kind agrees with and that was left out; -1 for none.
	Odd int `json:"odd"`
	// Repeat is how far takes of one reading are apart, one standard deviation in the domain of the fit; 0 where none was taken twice.
	Repeat float64 `json:"repeat"`
	// Approach is how they hang on the side that the control was brought from; nil where that is not known.
	Approach *Approach `json:"approach,omitempty"`
	// Note says what is to be said of the whole: no kind fits, too few takes.
	Note string `json:"note,omitempty"`

	b    *Bench
	half float64 // of the difference between the sides, where there is one
}

// Fit fits every kind of law to takes.
func (b *Bench) Fit(takes []Take) *Result {
	r := &Result{Takes: takes, Odd: -1, b: b}
	forms := b.forms()
	used := slices.DeleteFunc(slices.Clone(takes), func(t Take) bool { return !t.used })
	r.All = fitAll(forms, used, b)
	if b.feat.octaves && len(used) >= 3 {
		used = r.octaves(forms, used)
		takes = r.Takes
		r.All = fitAll(forms, used, b)
	}
	// one take that was set or played wrong: it is left out where that explains much, and pointed at
	if len(used) >= 5 {
		r.leaveOut(forms, used)
	}
	if r.Odd >= 0 {
		used = slices.DeleteFunc(slices.Clone(used), func(t Take) bool { return t.travel == takes[r.Odd].travel && t.y == takes[r.Odd].y })
	}
	side := make([]float64, 0, len(used))
	for i, s := range sides(r.Takes) {
		if t := r.Takes[i]; t.used && i != r.Odd {
			side = append(side, s)
		}
	}
	if len(side) == len(used) {
		used = r.play(forms, used, side)
	}
	r.Repeat = repeatability(used)
	best := &r.All[0]
	r.Law = best.Law
	r.Law.Source = scale.Measured
	r.Law.Uncertainty = r.uncertainty()
	switch {
	case len(used) == 0:
		r.Note = "Nothing is measured yet: this is the law as the panel has it."
		r.Law = b.law
	case len(used) >= 3 && b.backwards(used):
		r.Note = "It goes the other way than the panel says: are the readings of the takes the right ones?"
	case len(used) >= 4 && best.Chi > 4:
		r.Note = "No kind of law goes through the takes: the curve through points is nearest. Take more, and look whether one control stood otherwise."
	}
	return r
}

// doubled is the logarithm of how unlikely it is that a rate is heard at twice itself (common practice, no source).
const doubled = 12.0

// octaves puts takes of a rate that were heard at twice of it where the others say that they are: one after another, as long as the takes become likelier by it; begun from none and from all of them.
func (r *Result) octaves(forms []*form, used []Take) []Take {
	likely := func(all []Take, n int) float64 {
		best := math.Inf(-1)
		for _, x := range fitPlainly(forms, all) {
			best = max(best, x.evidence)
		}
		return best - doubled*float64(n)
	}
	best, most := used, math.Inf(-1)
	ways := []struct {
		all, once bool
	}{{}, {all: true}}
	if r.b.many { // the model itself is heard at twice, or at four times: an instrument that is heard at half as many is an octave higher throughout
		ways = append(ways, struct{ all, once bool }{once: true})
	}
	for _, way := range ways {
		all := way.all
		now, down := slices.Clone(used), make([]bool, len(used))
		n := 0
		if way.once {
			n = 1
			for i := range now {
				now[i].y++
			}
		}
		turn := func(i int) {
			by := 1
			if down[i] {
				by = -1
			}
			now[i].y -= float64(by)
			n += by
			down[i] = !down[i]
		}
		if all {
			for i := range now {
				turn(i)
			}
		}
		for value := likely(now, n); ; {
			at, better := -1, value
			var good []int
			for _, i := range farthest(fitPlainly(forms, now), now, down) {
				turn(i)
				v := likely(now, n)
				turn(i)
				if v > value {
					good = append(good, i)
				}
				if v > better+1e-9 {
					at, better = i, v
				}
			}
			if at < 0 {
				if value > most {
					best, most = now, value
				}
				break
			}
			for _, i := range good { // all at once, where that is better still
				turn(i)
			}
			if v := likely(now, n); len(good) == 1 || v > better {
				value = v
				continue
			}
			for _, i := range good {
				if i != at {
					turn(i)
				}
			}
			value = better
		}
	}
	r.Takes = slices.Clone(r.Takes)
	k := 0
	for i := range r.Takes {
		if x := &r.Takes[i]; x.used {
			if best[k].y != x.y {
				x.y = best[k].y
				x.Value = r.b.back(x.y)
				x.U = x.Value * math.Ln2 * x.uy
			}
			best[k].Value, best[k].U = x.Value, x.U
			k++
		}
	}
	return best
}

// twice tells whether the model is heard at twice the rate that it has, or at more times of it.
func (b *Bench) twice() bool {
	if b.feat.direct == nil || b.module == nil || b.model == nil {
		return false
	}
	n := 0
	for i, f := range b.model.figure {
		if off := b.domain(b.law.Own(b.feat.direct(f, b.module))) - b.model.value[i]; off > 0.6 {
			n++
		}
	}
	return 2*n > len(b.model.figure)
}

// farthest lists the takes that stand the farthest above the likeliest kind, or below it where they have been put down; four at most.
func farthest(all []Fitted, takes []Take, down []bool) (out []int) {
	if len(all) == 0 {
		return nil
	}
	best := slices.MaxFunc(all, func(a, b Fitted) int { return cmp.Compare(a.evidence, b.evidence) })
	off := make([]float64, len(takes))
	for i, t := range takes {
		off[i] = t.y - best.form.at(best.th, t.travel)
		if down[i] {
			off[i] = -off[i]
		}
		if off[i] > 0.2 {
			out = append(out, i)
		}
	}
	slices.SortFunc(out, func(a, b int) int { return cmp.Compare(off[b], off[a]) })
	return out[:min(4, len(out))]
}

// leaveOut finds the take without which the rest agree far better.
func (r *Result) leaveOut(forms []*form, used []Take) {
	best := &r.All[0]
	worst, at := 0.0, -1
	for i, t := range used {
		if z := math.Abs(t.y-best.form.at(best.th, t.travel)) / t.uy; z > worst {
			worst, at = z, i
		}
	}
	if worst < 3 {
		return
	}
	type try struct {
		all  []Fitted
		at   int
		cost float64
	}
	var tries []try
	for i := range used {
		if i != at && math.Abs(used[i].y-best.form.at(best.th, used[i].travel))/used[i].uy < 2 {
			continue
		}
		rest := slices.Delete(slices.Clone(used), i, i+1)
		all := fitAll(forms, rest, r.b)
		tries = append(tries, try{all, i, all[0].AICc})
	}
	sort.SliceStable(tries, func(i, k int) bool { return tries[i].cost < tries[k].cost })
	if len(tries) == 0 {
		return
	}
	t := tries[0]
	out := used[t.at]
	f := &t.all[0]
	_, v := f.predict(out.travel)
	z := math.Abs(out.y-f.form.at(f.th, out.travel)) / math.Sqrt(v+out.uy*out.uy)
	if z < 5 || f.AICc > best.AICc-12 {
		return
	}
	for i := range r.Takes {
		if r.Takes[i].used && r.Takes[i].travel == out.travel && r.Takes[i].y == out.y {
			r.Odd = i
			r.Takes[i].Why = fmt.Sprintf("the others agree without it; it is %.0f uncertainties off: was it set to another reading?", z)
			break
		}
	}
	r.All = t.all
}

// repeatability is the standard deviation of takes of one reading, in the domain of the fit.
func repeatability(used []Take) float64 {
	sum, n := 0.0, 0.0
	for i := range used {
		for k := range i {
			if used[i].travel == used[k].travel {
				sum, n = sum+(used[i].y-used[k].y)*(used[i].y-used[k].y)/2, n+1
			}
		}
	}
	if n == 0 {
		return 0
	}
	return math.Sqrt(sum / n)
}

// fitAll fits every form; takes that none agrees with count for less (Huber's weights).
func fitAll(forms []*form, used []Take, b *Bench) []Fitted {
	all := fitPlainly(forms, used)
	defer func() { plainest(all) }()
	for range 3 {
		if len(used) < 6 || len(all) == 0 {
			break
		}
		best := &all[0]
		for i := range all {
			if all[i].Weight > best.Weight {
				best = &all[i]
			}
		}
		softer := slices.Clone(used)
		changed := false
		for i, t := range used {
			if z := math.Abs(t.y-best.form.at(best.th, t.travel)) / t.uy; z > huber {
				softer[i].uy *= math.Sqrt(z / huber)
				changed = true
			}
		}
		if !changed {
			break
		}
		all = fitPlainly(forms, softer)
	}
	return all
}

// plainest puts the plainest kind first among those that are as likely as makes no difference: a criterion of two apart says little (Burnham and Anderson).
func plainest(all []Fitted) {
	for i := 1; i < len(all) && all[i].AICc <= all[0].AICc+2; i++ {
		a, b := &all[0], &all[i]
		if b.form.size < a.form.size || b.form.size == a.form.size && a.Kind == scale.Table && b.Kind != scale.Table {
			all[0], all[i] = all[i], all[0]
		}
	}
}

func fitPlainly(forms []*form, used []Take) []Fitted {
	all := make([]Fitted, 0, len(forms))
	for _, f := range forms {
		if x, ok := f.fit(used); ok {
			x.Law = f.law(x.th)
			all = append(all, x)
		}
	}
	sort.SliceStable(all, func(i, k int) bool { return all[i].AICc < all[k].AICc })
	most, sum := math.Inf(-1), 0.0
	for i := range all {
		most = max(most, all[i].evidence)
	}
	for i := range all {
		all[i].Weight = math.Exp(all[i].evidence - most)
		sum += all[i].Weight
	}
	for i := range all {
		all[i].Weight /= sum
	}
	return all
}

// fit finds the numbers of a form by least squares, weighted by the takes' uncertainties, with what the panel says as a weak prior (Gauss-Newton with Levenberg's damping; the covariance is that of JCGM 100:2008, H.3).
func (f *form) fit(used []Take) (Fitted, bool) {
	k := len(f.start)
	th := slices.Clone(f.start)
	cost := func(th []float64) float64 {
		sum := 0.0
		for i := range th {
			z := (th[i] - f.start[i]) / f.spread[i]
			sum += z * z
		}
		for _, t := range slices.Concat(f.sure, used) {
			z := (t.y - f.at(th, t.travel)) / t.uy
			sum += z * z
		}
		return sum
	}
	damp, now := 1e-3, cost(th)
	if math.IsNaN(now) || math.IsInf(now, 0) {
		return Fitted{}, false
	}
	var normal *mat.SymDense
	for range 60 {
		var grad *mat.VecDense
		normal, grad = f.normal(th, used)
		better := false
		for range 12 {
			damped := mat.NewSymDense(k, nil)
			damped.CopySym(normal)
			for i := range k {
				damped.SetSym(i, i, normal.At(i, i)*(1+damp))
			}
			var chol mat.Cholesky
			step := mat.NewVecDense(k, nil)
			if !chol.Factorize(damped) || chol.SolveVecTo(step, grad) != nil {
				damp *= 10
				continue
			}
			next := slices.Clone(th)
			for i := range next {
				next[i] += step.AtVec(i)
			}
			if c := cost(next); c < now {
				done := now-c < 1e-9*(1+now)
				th, now, better = next, c, !done
				damp = max(damp/10, 1e-9)
				break
			}
			damp *= 10
		}
		if !better {
			break
		}
	}
	normal, _ = f.normal(th, used)
	var chol mat.Cholesky
	cov := mat.NewSymDense(k, nil)
	if !chol.Factorize(normal) || chol.InverseTo(cov) != nil {
		return Fitted{}, false
	}
	out := Fitted{Kind: f.kind, Label: f.label, form: f, th: th, cov: cov}
	n := float64(len(used))
	chi := 0.0
	for _, t := range used {
		z := (t.y - f.at(th, t.travel)) / t.uy
		chi += z * z
	}
	if n > 0 {
		out.Chi = math.Sqrt(chi / n)
	}
	size := float64(f.size)
	out.AICc = now + 2*size
	if n > size+1 {
		out.AICc += 2 * size * (size + 1) / (n - size - 1)
	} else {
		out.AICc += 2 * size * (size + 1) // as with one take more than numbers
	}
	out.evidence = -now / 2
	for i := range f.spread {
		out.evidence -= math.Log(f.spread[i])
	}
	out.evidence -= chol.LogDet() / 2
	if free := n - size; free > 0 && chi/free > 1 { // Birge's ratio: takes that agree less than they say
		cov.ScaleSym(min(chi/free, 25), cov)
	}
	return out, true
}

// normal gives the normal matrix and the gradient at th.
func (f *form) normal(th []float64, used []Take) (*mat.SymDense, *mat.VecDense) {
	k := len(th)
	a, g := mat.NewSymDense(k, nil), mat.NewVecDense(k, nil)
	for i := range k {
		w := 1 / (f.spread[i] * f.spread[i])
		a.SetSym(i, i, w)
		g.SetVec(i, w*(f.start[i]-th[i]))
	}
	for _, t := range slices.Concat(f.sure, used) {
		j := f.jacobian(th, t.travel)
		w := 1 / (t.uy * t.uy)
		res := t.y - f.at(th, t.travel)
		for i := range k {
			g.SetVec(i, g.AtVec(i)+w*j[i]*res)
			for m := i; m < k; m++ {
				a.SetSym(i, m, a.At(i, m)+w*j[i]*j[m])
			}
		}
	}
	return a, g
}

func (f *form) jacobian(th []float64, p float64) []float64 {
	j := make([]float64, len(th))
	x := slices.Clone(th)
	for i := range th {
		h := 1e-4 * max(f.spread[i], 1e-6)
		x[i] = th[i] + h
		hi := f.at(x, p)
		x[i] = th[i] - h
		lo := f.at(x, p)
		x[i] = th[i]
		j[i] = (hi - lo) / (2 * h)
	}
	return j
}

// predict gives the value and its variance at a travel, in the domain of the fit.
func (x *Fitted) predict(p float64) (y, variance float64) {
	return x.form.at(x.th, p), x.covariance(p, p)
}

func (x *Fitted) covariance(p, o float64) float64 {
	a, b := x.form.jacobian(x.th, p), x.form.jacobian(x.th, o)
	sum := 0.0
	for i := range a {
		for k := range b {
			sum += a[i] * x.cov.At(i, k) * b[k]
		}
	}
	return sum
}

// mixed gives what all kinds together say at travels: the mean by their weights, and the covariances, with how far the kinds are apart.
func (r *Result) mixed(ps []float64) (mean []float64, cov *mat.SymDense) {
	n := len(ps)
	mean, cov = make([]float64, n), mat.NewSymDense(n, nil)
	ys := make([][]float64, len(r.All))
	for m := range r.All {
		x := &r.All[m]
		if x.Weight < 1e-4 {
			continue
		}
		js := make([]*mat.VecDense, n)
		ys[m] = make([]float64, n)
		for i, p := range ps {
			js[i] = mat.NewVecDense(len(x.th), x.form.jacobian(x.th, p))
			ys[m][i] = x.form.at(x.th, p)
			mean[i] += x.Weight * ys[m][i]
		}
		for i := range n {
			var cj mat.VecDense
			cj.MulVec(x.cov, js[i])
			for k := i; k < n; k++ {
				cov.SetSym(i, k, cov.At(i, k)+x.Weight*mat.Dot(js[k], &cj))
			}
		}
	}
	for m := range r.All {
		if ys[m] == nil {
			continue
		}
		for i := range n {
			for k := i; k < n; k++ {
				cov.SetSym(i, k, cov.At(i, k)+r.All[m].Weight*(ys[m][i]-mean[i])*(ys[m][k]-mean[k]))
			}
		}
	}
	// what no kind says: a knob that is read in 128 steps, and how exactly a law is one of these kinds at all
	for i, p := range ps {
		slope := (r.at(mean, ps, p+0.02) - r.at(mean, ps, p-0.02)) / 0.04
		own := math.Hypot(math.Hypot(slope*steps7, math.Hypot(r.inexact(p), r.half)), max(r.b.sure()*r.b.JND(), r.b.rest.at(p)))
		if r.b.many {
			own = math.Hypot(own, manyU)
		}
		if short := r.b.shortest() / 3; short > 0 { // what all short ones share
			own = math.Hypot(own, short/max(r.b.back(mean[i]), short)/math.Ln2)
		}
		cov.SetSym(i, i, cov.At(i, i)+own*own)
	}
	return mean, cov
}

// inexact is how far a law may be from every kind at a travel: nothing where a take is, more the further the nearest is.
func (r *Result) inexact(p float64) float64 {
	near := 0.15
	for _, t := range r.Takes {
		if t.used {
			near = min(near, math.Abs(t.travel-p))
		}
	}
	out := odd * r.b.span * near / 0.15
	if t := r.b.model; t != nil && !r.b.holds(p) { // beyond where what is heard goes with it nothing is told
		if r.b.feat.signless && p < 0.5 {
			p = 1 - p
		}
		d := max(t.travel[0]-p, p-t.travel[len(t.travel)-1])
		out = math.Hypot(out, r.b.span*min(beyondMost, d/2))
	}
	return out
}

// at reads a curve between its places.
func (r *Result) at(ys, ps []float64, p float64) float64 {
	i := sort.SearchFloat64s(ps, p)
	switch {
	case len(ps) == 1:
		return ys[0]
	case i <= 0:
		return ys[0] + (ys[1]-ys[0])/(ps[1]-ps[0])*(p-ps[0])
	case i >= len(ps):
		n := len(ps) - 1
		return ys[n] + (ys[n]-ys[n-1])/(ps[n]-ps[n-1])*(p-ps[n])
	}
	return ys[i-1] + (ys[i]-ys[i-1])*(p-ps[i-1])/(ps[i]-ps[i-1])
}

// MostPlaces is the most readings that a band is given at.
const MostPlaces = 129

// places lists the positions that a band is given at.
func (b *Bench) places() []scale.Position { return Places(b.Panel.Places(b.Control), MostPlaces) }

// Band gives how well the law is known, at every position of the control, or at MostPlaces of them.
func (r *Result) Band() []Band {
	places := r.b.places()
	var ps []float64
	for _, p := range places {
		if _, ok := r.b.law.Raw(p.Travel); ok {
			ps = append(ps, p.Travel)
		}
	}
	mean, cov := r.mixed(ps)
	out := make([]Band, 0, len(places))
	n := 0
	for _, p := range places {
		x := Band{Reading: p.Reading, Unit: r.b.law.Unit}
		if _, ok := r.b.law.Raw(p.Travel); ok {
			u := math.Sqrt(cov.At(n, n))
			v, lo, hi := r.b.back(mean[n]), r.b.back(mean[n]-2*u), r.b.back(mean[n]+2*u)
			x.Value, x.Low, x.High = &v, &lo, &hi
			n++
		}
		out = append(out, x)
	}
	return out
}

// Unsure gives the mean uncertainty over the positions, or where the law is used (For), in just-noticeable differences.
func (r *Result) Unsure() float64 {
	ps := r.b.looked
	_, cov := r.mixed(ps)
	sum, w := 0.0, r.b.weights(ps)
	for i := range ps {
		sum += w[i] * math.Sqrt(cov.At(i, i))
	}
	return sum / r.b.JND()
}

// uncertainty is that of the law as a whole: the root of the mean variance.
func (r *Result) uncertainty() *scale.Uncertainty {
	ps := r.b.looked
	mean, cov := r.mixed(ps)
	sum := 0.0
	n, floor := 0.0, r.b.floor()
	for i := range ps {
		own := r.All[0].form.at(r.All[0].th, ps[i]) // the law is that of the best kind, not the mean
		w := 1.0
		if mean[i] < floor { // nobody hears it
			w = 0.1
		}
		sum, n = sum+w*(cov.At(i, i)+(own-mean[i])*(own-mean[i])), n+w
	}
	u := math.Sqrt(sum / max(1, n))
	if r.b.dim.Geometric() {
		return &scale.Uncertainty{U: math.Exp2(u) - 1, Relative: true}
	}
	return &scale.Uncertainty{U: u}
}

// forms are the kinds of law that can be what the control has, each beginning as near as it can to what the panel says.
func (b *Bench) forms() []*form {
	l := b.law
	ps := b.looked
	if len(ps) < 2 {
		return nil
	}
	first, last := ps[0], ps[len(ps)-1]
	val := func(p float64) float64 { v, _ := l.Raw(p); return v }
	lo, hi := val(first), val(last)
	geo := b.dim.Geometric()
	rangeOf := math.Abs(hi - lo)
	end := func(v float64) float64 { // how far an end may be off
		if geo {
			return priorEnd / math.Ln2
		}
		return priorEnd * rangeOf
	}
	base := func(kind scale.LawKind) scale.Law {
		return scale.Law{Kind: kind, Unit: l.Unit, Off: l.Off, Convention: l.Convention, Swing: l.Swing, Source: scale.Measured}
	}
	// ends as the fit has them: in its domain
	dlo, dhi := b.domain(val(max(first, 1e-9))), b.domain(hi)
	into := func(raw float64) float64 { return b.domain(raw) }
	var out []*form
	between := func(kind scale.LawKind, label string, size int, shape func(c, p float64) float64, c0, cSpread float64) {
		f := &form{kind: kind, label: label, size: size, start: []float64{dlo, dhi}, spread: []float64{end(lo), end(hi)}}
		if size == 3 {
			f.start, f.spread = append(f.start, c0), append(f.spread, cSpread)
		}
		f.at = func(th []float64, p float64) float64 {
			c := 0.0
			if size == 3 {
				c = th[2]
			}
			s := shape(c, p)
			if kind == scale.Exponential {
				if geo {
					return th[0] + (th[1]-th[0])*s
				}
				return th[0] * math.Pow(th[1]/th[0], s)
			}
			a, z := b.back(th[0]), b.back(th[1])
			return into(a + (z-a)*s)
		}
		f.law = func(th []float64) scale.Law {
			x := base(kind)
			x.Min, x.Max = b.back(th[0]), b.back(th[1])
			switch {
			case size == 3 && kind == scale.Power:
				x.Exponent = math.Exp(th[2])
			case size == 3:
				x.Exponent = th[2]
			}
			return x
		}
		out = append(out, f)
	}
	centred := l.Kind == scale.Bipolar
	if !centred && l.Kind != scale.Decibel {
		between(scale.Linear, "linear", 2, func(_, p float64) float64 { return p }, 0, 0)
		if geo || lo > 0 && hi > 0 {
			between(scale.Exponential, "equal ratios", 2, func(_, p float64) float64 { return p }, 0, 0)
		}
		c0 := 0.0
		if l.Kind == scale.Power && l.Exponent > 0 {
			c0 = math.Log(l.Exponent)
		} else if geo && lo > 0 && hi > lo {
			c0 = math.Log(3)
		}
		spread := priorCurve
		if l.Kind != scale.Power {
			spread = 3 * priorCurve
		}
		between(scale.Power, "power", 3, func(c, p float64) float64 { return math.Pow(max(p, 1e-9), math.Exp(c)) }, c0, spread)
		between(scale.Logistic, "S-shaped", 3, func(c, p float64) float64 {
			s := func(p float64) float64 { return 1 / (1 + math.Exp(-c*(p-0.5))) }
			return (s(p) - s(0)) / (s(1) - s(0))
		}, 5, 1.5)
	}
	if l.Kind == scale.Decibel || b.dim == q.DimLevel && l.Off == "bottom" {
		e0 := 1.0
		if l.Kind == scale.Decibel && l.Exponent > 0 {
			e0 = l.Exponent
		}
		f := &form{kind: scale.Decibel, label: "fader, dB", size: 2, start: []float64{hi, math.Log(e0)}, spread: []float64{1, priorCurve}}
		f.at = func(th []float64, p float64) float64 { return th[0] + math.Exp(th[1])*20*math.Log10(max(p, 1e-9)) }
		f.law = func(th []float64) scale.Law {
			x := base(scale.Decibel)
			x.Max, x.Exponent, x.Off = th[0], math.Exp(th[1]), "bottom"
			return x
		}
		out = append(out, f)
	}
	if centred {
		e0 := 1.0
		if l.Exponent > 0 {
			e0 = l.Exponent
		}
		value := func(th []float64, x float64) float64 {
			d := min(max(th[2], 0), 0.9)
			m := (math.Abs(x) - d) / (1 - d)
			if m <= 0 {
				return 0
			}
			return math.Copysign(th[0]*math.Pow(m, math.Exp(th[1])), x*th[0])
		}
		start, spread := []float64{l.Max, math.Log(e0), l.Dead}, []float64{priorEnd * math.Abs(l.Max), priorCurve, priorDead}
		f := &form{kind: scale.Bipolar, label: "about a centre", size: 3, start: start, spread: spread}
		f.at = func(th []float64, p float64) float64 { return value(th, 2*p-1) }
		f.law = func(th []float64) scale.Law {
			x := base(scale.Bipolar)
			x.Max, x.Exponent, x.Dead = th[0], math.Exp(th[1]), min(max(th[2], 0), 0.9)
			return x
		}
		out = append(out, f)
		// the same on a scale that is printed a little beside it: one side of the middle is longer than the other
		if face := b.Panel.Controls[b.Control].Face.Kind; face == scale.Clock || face == scale.Marks {
			t := &form{kind: scale.Segments, label: "about a centre beside the printed one", size: 4, start: append(slices.Clone(start), 0), spread: append(slices.Clone(spread), scaleU)}
			t.at = func(th []float64, p float64) float64 { return value(th, 2*min(max(p+th[3], 0), 1)-1) }
			t.law = func(th []float64) scale.Law {
				x := base(scale.Segments)
				for _, p := range b.Panel.Places(b.Control) {
					x.Points = append(x.Points, [2]float64{p.Travel, t.at(th, p.Travel)})
				}
				return x
			}
			out = append(out, t)
		}
	}
	for _, knots := range []int{2, 3, 5} {
		if f := b.bent(knots, base); f != nil {
			out = append(out, f)
		}
	}
	sure := b.known(ps)
	for _, f := range out {
		f.sure = sure
	}
	return out
}

// known gives what holds on every unit, as takes: what is nothing or all of something on the panel is so on the instrument (common practice, no source), as nearly as its printed scale stands where it belongs.
func (b *Bench) known(ps []float64) (all []Take) {
	if b.dim.Geometric() || b.dim == q.DimLevel {
		return nil
	}
	face := b.Panel.Controls[b.Control].Face.Kind
	for _, p := range ps {
		raw, ok := b.law.Raw(p)
		if !ok || raw != 0 && !whole(b.law, math.Abs(raw)) {
			continue
		}
		u := min(0.1*b.JND(), 0.004*b.span)
		if face == scale.Clock || face == scale.Marks {
			lo, _ := b.law.Raw(max(p-scaleU, 0))
			hi, _ := b.law.Raw(min(p+scaleU, 1))
			u = math.Hypot(u, math.Abs(hi-lo))
		}
		all = append(all, Take{travel: p, y: raw, uy: u})
	}
	return all
}

// bent is the panel's own curve, bent through knots: what is measured lies beside it by so much at each.
func (b *Bench) bent(knots int, base func(scale.LawKind) scale.Law) *form {
	ps := b.looked
	if len(ps) < knots+1 {
		return nil
	}
	first, last := ps[0], ps[len(ps)-1]
	at := make([]float64, knots)
	for i := range at {
		at[i] = first + (last-first)*float64(i)/float64(knots-1)
	}
	was := func(p float64) float64 {
		v, ok := b.law.Raw(min(max(p, 0), 1))
		if !ok {
			v, _ = b.law.Raw(min(max(p, 1e-3), 1-1e-3))
		}
		return b.domain(v)
	}
	span := math.Abs(was(last) - was(first))
	f := &form{kind: scale.Table, label: fmt.Sprintf("the panel’s curve, bent at %d places", knots), size: knots, start: make([]float64, knots), spread: make([]float64, knots)}
	if knots == 2 {
		f.label = "the panel’s curve, moved"
	}
	for i := range f.spread {
		f.spread[i] = priorBend * span
		if b.dim.Geometric() {
			f.spread[i] = max(f.spread[i], priorEnd/math.Ln2)
		}
	}
	// a spline is a sum of its knots by weights that hang on the travel alone: they are worked out once for each
	type place struct {
		was     float64
		weights []float64
	}
	known := map[float64]place{}
	f.at = func(th []float64, p float64) float64 {
		x, ok := known[p]
		if !ok {
			x = place{was(p), weightsOf(at, min(max(p, first), last))}
			known[p] = x
		}
		y := x.was
		for i, w := range x.weights {
			y += w * th[i]
		}
		return y
	}
	f.law = func(th []float64) scale.Law {
		x := base(scale.Table)
		f.table(&x, b, th, first, last)
		return x
	}
	return f
}

// weightsOf gives how much each knot counts at a place of the natural cubic spline through them; of two knots that is a straight line.
func weightsOf(knots []float64, p float64) []float64 {
	out := make([]float64, len(knots))
	if len(knots) == 2 {
		out[1] = (p - knots[0]) / (knots[1] - knots[0])
		out[0] = 1 - out[1]
		return out
	}
	for i := range knots {
		one := make([]float64, len(knots))
		one[i] = 1
		var c interp.NaturalCubic
		if c.Fit(knots, one) == nil {
			out[i] = c.Predict(p)
		}
	}
	return out
}

// table writes a form as a curve through points.
func (f *form) table(x *scale.Law, b *Bench, th []float64, first, last float64) {
	const n = 12
	rising := f.at(th, last) > f.at(th, first)
	prev := math.NaN()
	for i := range n + 1 {
		p := float64(i) / n
		y := b.back(f.at(th, min(max(p, first), last)))
		if !math.IsNaN(prev) && (rising && y <= prev || !rising && y >= prev) { // strictly on
			y = prev + 1e-6*max(math.Abs(prev), 1e-3)*map[bool]float64{true: 1, false: -1}[rising]
		}
		x.Points = append(x.Points, [2]float64{p, y})
		prev = y
	}
}

// backwards tells whether takes go the other way than the panel's law, over as much of it as is beyond chance.
func (b *Bench) backwards(used []Take) bool {
	least := slices.MinFunc(used, func(a, b Take) int { return cmp.Compare(a.travel, b.travel) })
	most := slices.MaxFunc(used, func(a, b Take) int { return cmp.Compare(a.travel, b.travel) })
	was, okA := b.law.Raw(least.travel)
	is, okB := b.law.Raw(most.travel)
	step := most.y - least.y
	return okA && okB && step*(b.domain(is)-b.domain(was)) < 0 && math.Abs(step) > 6*math.Hypot(least.uy, most.uy)
}

// Off gives how far a take lies from the law, in its own uncertainties; 0 for one that says nothing.
func (r *Result) Off(i int) float64 {
	t := r.Takes[i]
	if !t.used || len(r.All) == 0 {
		return 0
	}
	return (t.y - r.All[0].form.at(r.All[0].th, t.travel)) / t.uy
}
