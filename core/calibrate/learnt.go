package calibrate

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"glossator/core/compare"
	"glossator/core/panel"
	"glossator/core/scale"
)

// Corrected is what a control was planned at for a patch, and what somebody set it to by ear.
type Corrected struct {
	Patch   string
	Planned string
	Set     string
}

// Learnt is what corrections of one control over several patches say of its law.
type Learnt struct {
	// N counts the patches, Higher in how many of them it was set to more than was planned; those that were left alone are counted in neither.
	N      int `json:"n"`
	Higher int `json:"higher"`
	// P is how likely chance alone makes them agree in sign so often (exact, two-sided).
	P float64 `json:"p"`
	// Mean is by how much it was set higher, Low to High the 95 % interval of it (Student's t): in octaves where equal steps are ratios, else in the law's unit.
	Mean float64 `json:"mean"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
	Unit string  `json:"unit"`
	// JNDs is the mean in just-noticeable differences.
	JNDs float64 `json:"jnds"`
	// Offered is set where the law is to be moved; Why says in words what is seen, and what is missing where it is not.
	Offered bool   `json:"offered"`
	Why     string `json:"why"`
}

// What is asked of corrections before a law is said to be off (common practice, no source).
const (
	learntPatches = 4
	learntP       = 0.13 // four of four: 0.125
	learntJNDs    = 0.5
)

// Learn tells from corrections of a control, one for each patch, whether its law is off, by the exact binomial of their signs and Student's interval of their mean. The error says what reading cannot be, or that the control has no law that could be moved.
func Learn(c *panel.Compiled, control string, all []Corrected) (out Learnt, err error) {
	k, bind, err := movable(c, control)
	if err != nil {
		return out, err
	}
	x := &c.Controls[k]
	b := &Bench{Panel: c, Control: k, Bind: bind, law: x.Means[bind].Law}
	b.dim = b.law.Dim()
	if p, err := c.Param(x.Means[bind].Param); err == nil {
		b.param = p
	}
	b.span = b.spanOf()
	out.Unit = b.law.Unit
	if b.dim.Geometric() {
		out.Unit = "oct"
	}
	var by []float64
	seen := map[string]bool{}
	for _, one := range all {
		if seen[one.Patch] {
			continue // the first of a patch is the newest
		}
		seen[one.Patch] = true
		from, err := b.valueOf(one.Planned)
		if err != nil {
			return out, err
		}
		to, err := b.valueOf(one.Set)
		if err != nil {
			return out, err
		}
		if math.IsNaN(from) || math.IsNaN(to) || from == to {
			continue
		}
		by = append(by, to-from)
		if to > from {
			out.Higher++
		}
	}
	out.N = len(by)
	if out.N == 0 {
		out.P, out.Why = 1, "It was left as planned."
		return out, nil
	}
	out.P = signs(out.Higher, out.N)
	out.Mean = stat.Mean(by, nil)
	out.Low, out.High = interval(by)
	out.JNDs = math.Abs(out.Mean) / b.JND()
	word, of, low, high := "higher", out.Higher, out.Low, out.High
	if out.Mean < 0 {
		word, of, low, high = "lower", out.N-out.Higher, -out.High, -out.Low
	}
	out.Why = fmt.Sprintf("%s was set %s in %d of %d patches, by %.2g %s on average (95 %%: %.2g to %.2g); so often the same way by chance: %.2g", x.Label, word, of, out.N, math.Abs(out.Mean), out.Unit, low, high, out.P)
	switch {
	case out.N < learntPatches:
		out.Why += fmt.Sprintf(". Of %d patches nothing is concluded: %d are asked for.", out.N, learntPatches)
	case out.P > learntP || out.Low*out.High <= 0:
		out.Why += ". They do not agree: it is a matter of the patch."
	case out.JNDs < learntJNDs:
		out.Why += ". That is too little to be heard."
	default:
		out.Offered = true
		out.Why += ". The panel's law is off by as much."
	}
	return out, nil
}

// movable finds the law of a control that can be moved as a whole.
func movable(c *panel.Compiled, control string) (k, bind int, err error) {
	k, ok := c.ControlIndex(control)
	if !ok {
		return 0, 0, fmt.Errorf("%s has no control %q", c.Name, control)
	}
	for i := range c.Controls[k].Means {
		if _, err = shifted(c.Controls[k].Means[i].Law, 0); err == nil {
			return k, i, nil
		}
	}
	return 0, 0, fmt.Errorf("%w: %s has no law that could be moved", ErrNoRecipe, c.Controls[k].Label)
}

// valueOf gives what a reading means, in the domain of the fit; NaN for none.
func (b *Bench) valueOf(reading string) (float64, error) {
	at, err := b.Position(reading)
	if err != nil {
		return 0, err
	}
	raw, ok := b.law.Raw(at.Travel)
	if !ok {
		return math.NaN(), nil
	}
	return b.domain(raw), nil
}

// signs is the exact two-sided probability that of n signs as many as these, or more, agree by chance.
func signs(higher, n int) float64 {
	return min(1, 2*compare.Chance(max(higher, n-higher), n))
}

// interval is Student's 95 % interval of a mean; of one value it is all there is.
func interval(all []float64) (low, high float64) {
	n := float64(len(all))
	if n < 2 {
		return math.Inf(-1), math.Inf(1)
	}
	mean, sd := stat.MeanStdDev(all, nil)
	half := distuv.StudentsT{Sigma: 1, Nu: n - 1}.Quantile(0.975) * sd / math.Sqrt(n)
	return mean - half, mean + half
}

// Adopted gives a panel with the law of a control moved by what was learnt: where it was set higher than was planned, a reading means less than the panel said.
func (l Learnt) Adopted(c *panel.Compiled, control string) (*panel.Panel, error) {
	k, bind, err := movable(c, control)
	if err != nil {
		return nil, err
	}
	law, err := shifted(c.Controls[k].Means[bind].Law, -l.Mean)
	if err != nil {
		return nil, err
	}
	half := (l.High - l.Low) / 4 // one standard uncertainty of what was learnt
	if law.Dim().Geometric() {
		law.Uncertainty = &scale.Uncertainty{U: math.Exp2(half) - 1, Relative: true}
	} else {
		law.Uncertainty = &scale.Uncertainty{U: half}
	}
	return WithLaw(c, k, bind, law, ""), nil
}

// WithLaw gives a panel with one law of a control replaced, and a note put before the control's own.
func WithLaw(c *panel.Compiled, control, bind int, law scale.Law, note string) *panel.Panel {
	p := *c.Panel
	p.Controls = slices.Clone(p.Controls)
	x := &p.Controls[control]
	x.Means = slices.Clone(x.Means)
	x.Means[bind].Law = law
	x.Note = strings.TrimSpace(note + " " + x.Note)
	return &p
}

// shifted moves a law as a whole, in the domain of the fit.
func shifted(l scale.Law, by float64) (scale.Law, error) {
	move := func(raw float64) float64 { return outOfDomain(l, intoDomain(l, raw)+by) }
	if !l.Dim().Geometric() && l.Kind != scale.Decibel && l.Kind != scale.Bipolar && (endsAt(l, 0) || whole(l, highest(l))) {
		return l, errors.New("a law that ends at none, or at all of something, cannot be moved as a whole")
	}
	switch l.Kind {
	case scale.Linear, scale.Exponential, scale.Power, scale.Logistic:
		if l.Dim().Geometric() && l.Kind != scale.Exponential && (l.Min <= 0 || l.Max <= 0) { // an end that is nothing stays so
			f := math.Exp2(by)
			l.Min, l.Max = l.Min*f, l.Max*f
			return l, nil
		}
		l.Min, l.Max = move(l.Min), move(l.Max)
	case scale.Decibel:
		l.Max += by
	case scale.Table, scale.Segments:
		points := make([][2]float64, len(l.Points))
		for i, p := range l.Points {
			points[i] = [2]float64{p[0], move(p[1])}
		}
		l.Points = points
	default:
		return l, fmt.Errorf("a law of the kind %q has a place that must not move", l.Kind)
	}
	return l, nil
}

// endsAt tells whether an end of a law is a value.
func endsAt(l scale.Law, value float64) bool {
	for _, p := range []float64{0, 1} {
		if v, ok := l.Raw(p); ok && v == value {
			return true
		}
	}
	return false
}

// highest gives the largest value that a law reaches, either way of nothing.
func highest(l scale.Law) float64 {
	most := max(math.Abs(l.Min), math.Abs(l.Max))
	for _, p := range l.Points {
		most = max(most, math.Abs(p[1]))
	}
	return most
}
