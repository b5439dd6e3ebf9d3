package plan

import (
	"math"

	q "glossator/core/quantity"

	"glossator/core/meaning"
)

// loss turns just-noticeable differences into a cost from 0 to 1: a fifth at one, nearly
// all at twenty.
func loss(jnds float64) float64 { return jnds / (jnds + 4) }

// moduleCost gives what it costs to play w by r, in the unit of meaning's weights.
func (pol *Policy) moduleCost(w, r *meaning.Module) float64 {
	spec := meaning.SpecOf(w.Kind)
	var cost float64
	for i := range spec.Params {
		cost += pol.paramCost(&spec.Params[i], w, r)
	}
	return cost * pol.costUnit(spec) * pol.chosen(w.Source())
}

// costUnit turns the sum of paramCost into the unit of meaning's weights.
func (pol *Policy) costUnit(spec *meaning.KindSpec) float64 {
	var sum float64
	for i := range spec.Params {
		sum += spec.Params[i].Weight
	}
	if sum == 0 {
		return 0
	}
	return pol.kind(spec.Kind) * spec.Weight / math.Sqrt(sum)
}

// Any is the word for what is no matter: how a filter stands to another one where it is alone.
const Any = "any"

// Both is the word for what goes into two filters side by side.
const Both = "both"

func (pol *Policy) paramCost(p *meaning.Param, w, r *meaning.Module) float64 {
	_, hasW := w.Params[p.Name]
	got, hasR := r.Params[p.Name]
	if !hasW && !hasR || !p.Heard(w) {
		return 0
	}
	if !hasR {
		got.Quantity = p.Neutral
	}
	want := OnTarget(*p, w, r)
	if want.Name == Any || p.Name == meaning.PTo && want.Name == Both && !hasR {
		return 0 // the wiring tells
	}
	d, _ := Compare(*p, want, got.Quantity, w, r)
	// what the source itself leaves open costs nothing
	jnds := math.Max(0, math.Abs(d)-want.Tol) / p.JND.Size
	cost := p.Weight * pol.Param(w.Kind, p.Name) * loss(jnds)
	if p.Harm > 0 && jnds > p.HarmFrom && !(pol.anyPitch && p.Name == meaning.PInterval) {
		cost += p.Harm
	}
	return cost
}

// chordNote is what a note of a chord memory weighs beside the rest of the voice set-up, in the unit of meaning's weights: less than half of an oscillator (common practice, no source).
const chordNote = 4.0

// soundFirst is how much more a source of sound counts where without it nothing is heard (common practice, no source).
const soundFirst = 8.0

// source tells whether a module is a source of sound, or a ring modulator.
func source(m *meaning.Module) bool { return sounding(m.Kind) }

// sounding tells the same of a kind.
func sounding(k meaning.Kind) bool {
	switch k {
	case meaning.Osc, meaning.Sub, meaning.Noise, meaning.Operator, meaning.Ring:
		return true
	}
	return false
}

// LeaveOut gives what it costs to lose a module: its kind's weight, less for a quiet one.
func (pol *Policy) LeaveOut(w *meaning.Module) float64 {
	weight := pol.kind(w.Kind) * pol.chosen(w.Source()) * (meaning.SpecOf(w.Kind).Weight + chordNote*float64(len(w.Chord())))
	if pol.mustSound && source(w) && w.Sounds() {
		weight *= soundFirst
	}
	if _, is := pol.loud[w.Source()]; is && pol.heard == nil {
		return weight // its level is in that
	}
	if _, is := pol.heard[w.Source()]; is {
		return weight // so it is in how much it is heard
	}
	for _, name := range []meaning.ParamName{meaning.PLevel, meaning.POutput, meaning.PMix} {
		if v, ok := w.Params[name]; ok && !v.Off {
			if v.Dim == q.DimLevel {
				return weight * (0.4 + 0.6*math.Min(1, q.Level(v.Value/2).Amplitude()))
			}
			return weight * (0.4 + 0.6*math.Min(1, v.Value))
		}
	}
	return weight
}

// RouteWeight gives what it costs to lose a route: most for what shapes level and cutoff,
// and the less the shallower it is.
func (pol *Policy) RouteWeight(src *meaning.Meaning, r *meaning.Route) float64 {
	weight := meaning.SpecOf(meaning.RouteKind).Weight
	id, param := meaning.Split(r.To[0])
	if m := src.Module(id); m != nil {
		switch {
		case src.Opens(r):
			weight = 14
		case m.Kind == meaning.Filter && param == meaning.PCutoff && isKind(src, r.From, meaning.Env):
			weight = 8
		}
		if v, has := m.Params[meaning.PLevel]; has && v.Off && param == meaning.PLevel && m.Kind != meaning.Amp {
			return math.Max(weight, pol.LeaveOut(m)) // without it the part is silent
		}
		if p, ok := meaning.SpecOf(m.Kind).Param(param); ok {
			weight *= 0.3 + 0.7*loss(4*math.Abs(r.Depth.Value)/meaning.DepthParam(p.Dim).JND.Size)
		}
	}
	if left := r.Via == "wheel" && src.Hands != nil && src.Hands.Wheel > 0; r.Via != "" && !left { // a wheel that is left up brings it in for good
		weight *= 0.6
	}
	return weight * pol.sourceOf(src, r) * pol.chosen(r.Source()) * pol.wish(src, r)
}

// wish gives the factor that somebody has chosen for what drives a route, where nobody has chosen one for the route: an envelope or LFO is kept for what it moves.
func (pol *Policy) wish(src *meaning.Meaning, r *meaning.Route) float64 {
	m := src.Module(r.From)
	if _, own := pol.parts[r.Source()]; own || m == nil || m.Kind != meaning.Env && m.Kind != meaning.LFO {
		return 1
	}
	return factor(pol.parts, m.Source())
}

func isKind(m *meaning.Meaning, id string, k meaning.Kind) bool {
	d := m.Module(id)
	return d != nil && d.Kind == k
}

// sourceOf gives the factor on a route by what drives it.
func (pol *Policy) sourceOf(src *meaning.Meaning, r *meaning.Route) float64 {
	if m := src.Module(r.From); m != nil {
		return pol.source(string(m.Kind))
	}
	return pol.source(r.From)
}
