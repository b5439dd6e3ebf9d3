package calibrate

import (
	"errors"
	"math"
	"math/rand/v2"
	"slices"

	"golang.org/x/sync/errgroup"
	"gonum.org/v1/gonum/stat/distuv"

	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// The rest of an instrument is not quite what its panel says either: figures that are turned into values by the model hang on it. How much is found by playing the model with all other laws moved within their uncertainties (propagation of distributions by a Monte Carlo method, JCGM 101:2008, with few trials).
const (
	trials        = 6
	trialPlaces   = 5
	statedSpreadU = 0.02  // of a law that is stated and gives no uncertainty, as a share (common practice, no source)
	curveU        = 0.04  // of an assumed law of equal ratios or steps, by which its middle is bent, of the travel (common practice, no source)
	mostUnsure    = 0.25  // of the range, up to which what is heard still tells something (common practice, no source)
	scaleU        = 0.007 // of a knob whose printed scale is not quite where it belongs, of its travel: two degrees (common practice, no source)
)

// others is how far off values may be because of the other laws, at places of the travel, one standard deviation in the domain of the fit.
type others struct{ travel, u []float64 }

// at reads it at a travel.
func (o *others) at(p float64) float64 {
	n := len(o.travel)
	if n == 0 {
		return 0
	}
	i, _ := slices.BinarySearch(o.travel, p)
	switch {
	case i == 0:
		return o.u[0]
	case i >= n:
		return o.u[n-1]
	}
	t := (p - o.travel[i-1]) / (o.travel[i] - o.travel[i-1])
	return o.u[i-1] + t*(o.u[i]-o.u[i-1])
}

// surest picks the figure by which values are the least off when all other laws are moved, and keeps by how much they are. A figure that gives the value by itself hangs on nothing else, and has none.
func (b *Bench) surest(all []candidate, places []scale.Position) (candidate, error) {
	b.rest = others{} // of a set-up that was tried before
	if len(all) == 1 && all[0].direct != nil {
		return all[0], nil
	}
	var at []int // places that are played
	n := min(trialPlaces, len(places))
	for i := range n {
		at = append(at, (2*i+1)*len(places)/(2*n))
	}
	for _, x := range all { // and what others are held against
		if k := b.heldAgainst(x, places); k >= 0 {
			at = append(at, k)
		}
	}
	slices.Sort(at)
	at = slices.Compact(at)
	figures := make([][][]Figure, trials) // by trial, place, candidate
	var g errgroup.Group
	g.SetLimit(2)
	for m := range figures {
		figures[m] = make([][]Figure, len(at))
		r := rand.New(rand.NewPCG(uint64(m+1), 77))
		c, stands := moved(b.Panel, b.Control, r), b.byHand(r)
		for i := range at {
			g.Go(func() error {
				s, err := b.renderOn(c, stands, places[at[i]], seed)
				if err != nil {
					return err
				}
				for _, x := range all {
					figures[m][i] = append(figures[m][i], x.of(s))
				}
				return nil
			})
		}
	}
	if err := g.Wait(); err != nil {
		return candidate{}, err
	}
	best, least := -1, math.Inf(1)
	for k, x := range all {
		rest := b.movedBy(x, places, at, func(m, i int) Figure { return figures[m][i][k] })
		if len(rest.u) == 0 && len(all) > 1 {
			continue
		}
		cost := 0.0
		for _, p := range places { // where it tells nothing, one knows as much as before
			u := b.span / 2
			if j := slices.Index(x.travel, p.Travel); j >= 0 {
				slope := math.Abs(x.slope(x.figure[j]))
				u = min(u, math.Hypot(rest.at(p.Travel), slope*x.noise))
			}
			cost += u / float64(len(places))
		}
		if cost < least {
			best, least, b.rest = k, cost, rest
		}
	}
	if best < 0 || isLikeness(all[best].feature) && least > mostUnsure*b.span {
		return candidate{}, errors.New("what is heard hangs on the rest of the instrument, or on chance")
	}
	return all[best], nil
}

// heldAgainst gives the place against which the figures of the others are held, -1 where they stand by themselves.
func (b *Bench) heldAgainst(x candidate, places []scale.Position) int {
	best, most := -1, math.Inf(-1)
	if x.relative == absolute {
		return best
	}
	for k, p := range places {
		if worth, ok := b.worthAs(x.relative, p.Travel); ok && worth > most && slices.Contains(x.travel, p.Travel) {
			best, most = k, worth
		}
	}
	return best
}

// movedBy gives how far off values by a figure are, over the trials, at the places that were played.
func (b *Bench) movedBy(x candidate, places []scale.Position, at []int, figure func(m, i int) Figure) (rest others) {
	plain := func(k int) (float64, bool) {
		j := slices.Index(x.travel, places[k].Travel)
		if j < 0 {
			return 0, false
		}
		return x.figure[j], true
	}
	held := b.heldAgainst(x, places)
	ref := slices.Index(at, held)
	for i, k := range at {
		here, ok := plain(k)
		if !ok {
			continue
		}
		sum, told := 0.0, 0.0
		for m := range trials {
			f := figure(m, i)
			if !f.known() || ref >= 0 && !figure(m, ref).known() {
				continue
			}
			v := f.Value
			if ref >= 0 {
				there, _ := plain(held)
				v += there - figure(m, ref).Value
			}
			off := x.toValue(v) - x.toValue(here)
			off = min(max(off, -b.span), b.span)
			sum, told = sum+off*off, told+1
		}
		if told == 0 {
			continue
		}
		few := distuv.StudentsT{Sigma: 1, Nu: told}.Quantile(0.975) / 2 // of so few trials the deviation itself is not known well
		u := math.Sqrt(sum/told) * few
		if x.relative == againstTop && ref >= 0 { // what it is held against is known no better than the panel says
			there, _ := plain(held)
			if steep := math.Abs(x.slope(there)); steep > 1e-9 {
				u = math.Hypot(u, math.Abs(x.slope(here))/steep*b.topU(places[held].Travel))
			}
		}
		rest.travel, rest.u = append(rest.travel, places[k].Travel), append(rest.u, u)
	}
	return rest
}

// byHand gives where the controls stand when a hand has set them: knobs a little off, but for the ends, where there is a stop.
func (b *Bench) byHand(r *rand.Rand) []scale.Position {
	out := slices.Clone(b.set.at.At)
	for k := range out {
		x := &out[k]
		if f := b.Panel.Controls[k].Face.Kind; k == b.Control || f != scale.Clock && f != scale.Marks || x.Travel <= 0 || x.Travel >= 1 {
			continue
		}
		x.Travel = min(max(x.Travel+math.Hypot(HandU*x.U, scaleU)*r.NormFloat64(), 0), 1)
		x.Index = -1
	}
	return out
}

// moved gives a panel with the laws of all controls but one moved within their uncertainties.
func moved(c *panel.Compiled, but int, r *rand.Rand) *panel.Compiled {
	p := *c.Panel
	p.Controls = slices.Clone(p.Controls)
	for k := range p.Controls {
		x := &p.Controls[k]
		x.Means = slices.Clone(x.Means)
		for i := range x.Means {
			if k == but {
				continue
			}
			if l := jostled(x.Means[i].Law, r.NormFloat64(), r.NormFloat64()); len(l.Check(x.Face)) == 0 {
				x.Means[i].Law = l
			}
		}
	}
	out, err := panel.Compile(&p)
	if err != nil {
		return c
	}
	return out
}

// jostled moves a law by so many of its uncertainties, its height and its curve.
func jostled(l scale.Law, height, curve float64) scale.Law {
	if l.Kind == scale.Listed {
		return l
	}
	most := highest(l)
	u := lawU(l, most)
	if l.Dim().Geometric() {
		if l.Source == scale.Assumed && (l.Kind == scale.Exponential || l.Kind == scale.Linear) {
			l = bowed(l, curveU*curve)
		}
		if out, err := shifted(l, math.Log2(1+u)*height); err == nil {
			return out
		}
		return l
	}
	by := 1 + u*height
	if whole(l, most) { // nothing is more than all of it
		by = 1
	}
	switch l.Kind {
	case scale.Linear:
		if l.Min == 0 {
			l.Kind, l.Exponent = scale.Power, math.Exp(2*u*curve)
		}
		l.Min, l.Max = l.Min*by, l.Max*by
	case scale.Power:
		if l.Exponent == 0 {
			l.Exponent = 1
		}
		l.Exponent *= math.Exp(2 * u * curve)
		l.Min, l.Max = l.Min*by, l.Max*by
	case scale.Bipolar, scale.Decibel:
		if l.Exponent == 0 {
			l.Exponent = 1
		}
		l.Exponent *= math.Exp(u * curve)
		if l.Kind == scale.Bipolar {
			l.Max *= by
		}
	case scale.Table, scale.Segments:
		points := make([][2]float64, len(l.Points))
		for i, p := range l.Points {
			points[i] = [2]float64{p[0], p[1] * by}
		}
		l.Points = points
	}
	return l
}

// lawU gives the uncertainty of a law as a share of the value; most is its highest.
func lawU(l scale.Law, most float64) float64 {
	u := statedSpreadU
	switch x := l.Uncertainty; {
	case x != nil && x.Relative:
		u = x.U
	case x != nil && most > 0:
		u = x.U / most
	case l.Source == scale.Assumed:
		u = scale.AssumedU
	}
	return min(u, 0.3)
}

// bowed gives a law whose travel is bent in the middle.
func bowed(l scale.Law, by float64) scale.Law {
	const n = 16
	out := scale.Law{Kind: scale.Table, Unit: l.Unit, Off: l.Off, Convention: l.Convention, Swing: l.Swing, Source: l.Source, Uncertainty: l.Uncertainty}
	for i := range n + 1 {
		p := float64(i) / n
		at := min(max(p+4*by*p*(1-p), 0), 1)
		v, ok := l.Raw(at)
		if !ok {
			v, ok = l.Raw(min(max(at, 1e-6), 1-1e-6))
		}
		if !ok {
			return l
		}
		out.Points = append(out.Points, [2]float64{p, v})
	}
	return out
}

// whole tells whether a law ends at all of something: 100 %, half a cycle.
func whole(l scale.Law, most float64) bool {
	if l.Dim() != q.DimRatio {
		return false
	}
	u, _ := q.UnitOf(l.Unit)
	top := most * u.Factor
	return top == 1 || top == 0.5
}
