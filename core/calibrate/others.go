package calibrate

import (
	"math"
	"math/rand/v2"
	"slices"

	"golang.org/x/sync/errgroup"

	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// The rest of an instrument is not quite what its panel says either: figures that are turned into values by the model hang on it. How much is found by playing the model with all other laws moved within their uncertainties (propagation of distributions by a Monte Carlo method, JCGM 101:2008, with few trials).
const (
	trials        = 4
	trialPlaces   = 5
	statedSpreadU = 0.02  // of a law that is stated and gives no uncertainty, as a share (common practice, no source)
	curveU        = 0.04  // of an assumed law of equal ratios or steps, by which its middle is bent, of the travel (common practice, no source)
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

// moveOthers plays the trials. A figure that gives the value by itself hangs on nothing else, and has none.
func (b *Bench) moveOthers() error {
	if b.feat.direct != nil {
		return nil
	}
	type place struct {
		scale.Position
		plain float64 // what the model has there
	}
	var nodesOf, at []place
	for _, p := range b.measurable(nodes) {
		if i := slices.Index(b.model.travel, p.Travel); i >= 0 {
			nodesOf = append(nodesOf, place{p, b.model.figure[i]})
		}
	}
	n := min(trialPlaces, len(nodesOf))
	for i := range n {
		at = append(at, nodesOf[(2*i+1)*len(nodesOf)/(2*n)])
	}
	ref := -1
	if b.feat.relative != absolute { // what the others are held against is played as well
		top := math.Inf(-1)
		for _, p := range nodesOf {
			if x, ok := b.referenceAt(p.Travel); ok && x > top {
				top, ref = x, n
				at = append(at[:n], p)
			}
		}
	}
	figures := make([][]Figure, trials)
	var g errgroup.Group
	g.SetLimit(2)
	for m := range figures {
		figures[m] = make([]Figure, len(at))
		r := rand.New(rand.NewPCG(uint64(m+1), 77))
		c, stands := moved(b.Panel, b.Control, r), b.byHand(r)
		for i := range at {
			g.Go(func() error {
				s, err := b.renderOn(c, stands, at[i].Position, seed)
				if err == nil {
					figures[m][i] = b.feat.of(s)
				}
				return err
			})
		}
	}
	if err := g.Wait(); err != nil {
		return err
	}
	for i, p := range at {
		sum, told := 0.0, 0.0
		for m := range figures {
			f := figures[m][i]
			if !f.known() || ref >= 0 && !figures[m][ref].known() {
				continue
			}
			x := f.Value
			if ref >= 0 {
				x += at[ref].plain - figures[m][ref].Value
			}
			off := b.model.toValue(x) - b.model.toValue(p.plain)
			off = min(max(off, -b.span), b.span)
			sum, told = sum+off*off, told+1
		}
		if told == 0 || slices.Contains(b.rest.travel, p.Travel) {
			continue
		}
		u := math.Sqrt(sum / told)
		if b.feat.relative == againstTop && ref >= 0 { // what it is held against is known no better than the panel says
			if steep := math.Abs(b.model.slope(at[ref].plain)); steep > 1e-9 {
				u = math.Hypot(u, math.Abs(b.model.slope(p.plain))/steep*b.topU(at[ref].Travel))
			}
		}
		k, _ := slices.BinarySearch(b.rest.travel, p.Travel)
		b.rest.travel, b.rest.u = slices.Insert(b.rest.travel, k, p.Travel), slices.Insert(b.rest.u, k, u)
	}
	return nil
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
