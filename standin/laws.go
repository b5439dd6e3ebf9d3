package standin

import (
	"encoding/json"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"slices"

	"glossator/core/panel"
	"glossator/core/quantity"
	"glossator/core/scale"
)

// How the laws of a unit are bent; invented, so that a bench has something to find out.
const (
	beyond     = 4     // one law in so many is another curve, beyond what its panel states
	stopsIn    = 6     // one knob in so many does nothing at the ends of its travel
	stops      = 0.02  // and so far
	deadIn     = 3     // one law about a centre in so many has a dead middle
	dead       = 0.03  // half as wide as this of the whole travel
	sevenBits  = 5     // one knob in so many is read in 128 steps
	turnedIn   = 4     // in one unit in so many the knobs are put on the shaft 2 degrees off
	turned     = 2.0   // degrees
	clockSweep = 300.0 // degrees from 7 o'clock to 5 o'clock
	statedU    = 0.004 // standard deviation between units of what a panel states
	assumedU   = 0.05  // and of what it assumes
)

// dice gives random numbers that are the same whenever a unit's part is asked for.
func dice(p *panel.Panel, unit int, about string) *rand.Rand {
	h := fnv.New64a()
	h.Write([]byte(p.ID + "\x00" + about))
	return rand.New(rand.NewPCG(h.Sum64(), uint64(unit)))
}

// bent gives the panel with the laws that a unit really has.
func bent(c *panel.Compiled, unit int) (*panel.Compiled, error) {
	var own panel.Panel
	b, err := json.Marshal(c.Panel)
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(b, &own); err != nil {
		return nil, err
	}
	off := 0.0
	if d := dice(c.Panel, unit, "shafts"); d.IntN(turnedIn) == 0 {
		off = turned / clockSweep
		if d.IntN(2) == 0 {
			off = -off
		}
	}
	for k := range own.Controls {
		x := &own.Controls[k]
		for i := range x.Means {
			was := x.Means[i].Law
			x.Means[i].Law = bend(was, x.Face, c.Places(k), dice(c.Panel, unit, x.ID), off)
			if len(x.Means[i].Law.Check(x.Face)) > 0 {
				x.Means[i].Law = was
			}
		}
	}
	return panel.Compile(&own)
}

// bend gives a law as one unit has it.
func bend(l scale.Law, f scale.Face, places []scale.Position, d *rand.Rand, off float64) scale.Law {
	if l.Kind == scale.Listed || len(places) < 2 {
		return l
	}
	spread := statedU
	switch {
	case l.Source == scale.Assumed:
		spread = assumedU
	case l.Uncertainty != nil && l.Uncertainty.Relative:
		spread = max(statedU, l.Uncertainty.U)
	}
	geo := l.Dim().Geometric()
	high, tilt, curve := d.NormFloat64()*spread, d.NormFloat64()*spread, d.NormFloat64()*spread/2
	if l.Source == scale.Assumed && d.IntN(beyond) == 0 {
		curve = math.Copysign(0.08+0.06*d.Float64(), curve)
	}
	atEnds, middle, steps := 0.0, 0.0, false
	knob := f.Kind == scale.Clock || f.Kind == scale.Marks
	if knob && d.IntN(stopsIn) == 0 {
		atEnds = stops
	}
	low, _ := l.Raw(0)
	top, _ := l.Raw(1)
	centred := l.Kind == scale.Bipolar || !geo && low == -top // the middle is none, and stays so
	if centred && knob && d.IntN(deadIn) == 0 {
		middle = dead
	}
	steps = knob && d.IntN(sevenBits) == 0
	if !knob || l.Source != scale.Assumed {
		off = 0
	}
	way := func(p float64) float64 { // the travel that the instrument has for that of the knob
		if p = p + off; centred {
			x := 2*p - 1
			m := max(0, (math.Abs(x)-middle)/(1-middle))
			p = (1 + math.Copysign(math.Pow(min(m, 1), 1+2*curve), x)) / 2
		}
		p = min(max((p-atEnds)/(1-2*atEnds), 0), 1)
		if steps {
			p = math.Round(p*127) / 127
		}
		if !centred {
			p += 4 * curve * p * (1 - p)
		}
		return min(max(p, 0), 1)
	}
	least := 0.5 * places[1].Travel
	full := math.Inf(-1)
	for _, p := range []float64{0, 1} {
		if v, ok := l.Raw(p); ok {
			full = max(full, v)
		}
	}
	at := func(p float64) float64 {
		q := way(p)
		v, ok := l.Raw(q)
		if !ok {
			q = min(max(q, least), 1-least)
			v, _ = l.Raw(q)
		}
		switch {
		case geo:
			return v * math.Exp(high+tilt*(q-0.5))
		case l.Dim() == quantity.DimLevel && low != 0: // full is what the rest is held against
			return full + (v-full)*(1+high)
		case natural(l): // nothing more than all of it
			return v
		}
		return v * (1 + high)
	}
	travels := make([]float64, 0, len(places))
	for _, p := range places {
		travels = append(travels, p.Travel)
	}
	if len(travels) > 300 {
		travels = travels[:0]
		for i := range 257 {
			travels = append(travels, float64(i)/256)
		}
	}
	travels = append(travels, 0, 1)
	slices.Sort(travels)
	travels = slices.Compact(travels)
	out := scale.Law{Kind: scale.Segments, Unit: l.Unit, Off: l.Off, Convention: l.Convention, Swing: l.Swing, Source: scale.Stated}
	for _, p := range travels {
		out.Points = append(out.Points, [2]float64{p, at(p)})
	}
	return out
}

// natural tells whether a law ends at all of something: a share of 100 %, half a cycle.
func natural(l scale.Law) bool {
	if l.Dim() != quantity.DimRatio {
		return false
	}
	a, _ := l.Raw(0)
	z, _ := l.Raw(1)
	u, _ := quantity.UnitOf(l.Unit)
	top := max(math.Abs(a), math.Abs(z)) * u.Factor
	return top == 1 || top == 0.5
}
