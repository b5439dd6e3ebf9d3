package translate

import (
	"math"

	"glossator/core/jnd"
	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/rules"
)

// compare gives how far a reached parameter is from the wanted one: the signed distance
// in the sense of quantity.Distance and the size in just-noticeable differences.
func compare(p meaning.Param, want, got q.Quantity, w, r *meaning.Module) (distance, jnds float64) {
	want, got = p.Told(p.Effective(want, w)), p.Told(p.Effective(got, r))
	distance = q.Distance(want, got)
	switch {
	case p.Dim == q.DimWave:
		distance = rules.WaveDistance(w, r)
	case p.Name == meaning.PFrame && rules.BothTables(w, r):
		// positions of two tables are not of one scale: the wave that comes out tells, in its own steps
		distance = 0
		if !rules.SameTable(w, r) || want.Value != got.Value {
			distance = rules.WaveDistance(w, r) * p.JND.Size / jnd.Wave.Size
		}
	case w != nil && p.Mirrored:
		// a pulse of duty d has the spectrum of one of 1 - d, upside down
		if other := 1 - want.Value - got.Value; math.Abs(other) < math.Abs(distance) {
			distance = -other
		}
	}
	return distance, math.Abs(distance) / p.JND.Size
}

// loss turns just-noticeable differences into a cost from 0 to 1: a fifth at one, nearly
// all at twenty.
func loss(jnds float64) float64 { return jnds / (jnds + 4) }

// onTarget gives what a parameter has to be on the target module for the same result: a
// resonance of equal peak where the number of poles differs.
func onTarget(p meaning.Param, w, r *meaning.Module) q.Quantity {
	v, _ := w.Get(p.Name)
	want := v.Quantity
	if p.Name == meaning.PResonance && w.Kind == meaning.Filter {
		want.Value = rules.KeptPeak(w, r)
	}
	return want
}

// moduleCost gives what it costs to play w by r, in the unit of meaning's weights.
func (pol *policy) moduleCost(w, r *meaning.Module) float64 {
	spec := meaning.SpecOf(w.Kind)
	var cost float64
	for i := range spec.Params {
		cost += pol.paramCost(&spec.Params[i], w, r)
	}
	return cost * pol.costUnit(spec) * pol.chosen(w.Source())
}

// costUnit turns the sum of paramCost into the unit of meaning's weights.
func (pol *policy) costUnit(spec *meaning.KindSpec) float64 {
	var sum float64
	for i := range spec.Params {
		sum += spec.Params[i].Weight
	}
	if sum == 0 {
		return 0
	}
	return pol.kind(spec.Kind) * spec.Weight / math.Sqrt(sum)
}

func (pol *policy) paramCost(p *meaning.Param, w, r *meaning.Module) float64 {
	_, hasW := w.Params[p.Name]
	got, hasR := r.Params[p.Name]
	if !hasW && !hasR || !p.Heard(w) {
		return 0
	}
	if !hasR {
		got.Quantity = p.Neutral
	}
	want := onTarget(*p, w, r)
	d, _ := compare(*p, want, got.Quantity, w, r)
	// what the source itself leaves open costs nothing
	return p.Weight * pol.param(w.Kind, p.Name) * loss(math.Max(0, math.Abs(d)-want.Tol)/p.JND.Size)
}

// leaveOut gives what it costs to lose a module: its kind's weight, less for a quiet one.
func (pol *policy) leaveOut(w *meaning.Module) float64 {
	weight := pol.kind(w.Kind) * pol.chosen(w.Source()) * meaning.SpecOf(w.Kind).Weight
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

// routeWeight gives what it costs to lose a route: most for what shapes level and cutoff,
// and the less the shallower it is.
func (pol *policy) routeWeight(src *meaning.Meaning, r *meaning.Route) float64 {
	weight := meaning.SpecOf(meaning.RouteKind).Weight
	id, param := meaning.Split(r.To[0])
	if m := src.Module(id); m != nil {
		switch {
		case src.Opens(r):
			weight = 14
		case m.Kind == meaning.Filter && param == meaning.PCutoff && isKind(src, r.From, meaning.Env):
			weight = 8
		}
		if p, ok := meaning.SpecOf(m.Kind).Param(param); ok {
			weight *= 0.3 + 0.7*loss(4*math.Abs(r.Depth.Value)/meaning.DepthParam(p.Dim).JND.Size)
		}
	}
	if r.Via != "" {
		weight *= 0.6
	}
	return weight * pol.sourceOf(src, r) * pol.chosen(r.Source())
}

func isKind(m *meaning.Meaning, id string, k meaning.Kind) bool {
	d := m.Module(id)
	return d != nil && d.Kind == k
}

// sourceOf gives the factor on a route by what drives it.
func (pol *policy) sourceOf(src *meaning.Meaning, r *meaning.Route) float64 {
	if m := src.Module(r.From); m != nil {
		return pol.source(string(m.Kind))
	}
	return pol.source(r.From)
}
