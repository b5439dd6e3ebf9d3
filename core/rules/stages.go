package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var stages = Rule{ID: "stages", Name: "Missing stages folded into the others",
	Needs: "an envelope with delay, hold or a second decay, and none on the target", Uses: "attack and decay of the same envelope",
	Penalty: 0.08, Why: "the corner is rounded", Source: "sum of the times; of two decays the one that comes nearest by least squares",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.Env) {
			fold := func(stage, into meaning.ParamName) bool {
				return !off(m, stage) && get(m, stage) > 0 && !c.Param(meaning.Env, stage)
			}
			delay, hold, second := fold(meaning.PDelay, meaning.PAttack), fold(meaning.PHold, meaning.PDecay), fold(meaning.PDecay2, meaning.PDecay)
			if !delay && !hold && !second {
				continue
			}
			said := ""
			e := c.begin("")
			e.part(m.ID)
			n := e.change(m.ID)
			add := func(stage, into meaning.ParamName) {
				v := n.Params[into]
				if v.Off {
					v.Value = 0
				}
				v.Off, v.Dim = false, q.DimDuration
				v.Value += get(m, stage)
				n.Params[into] = v
				delete(n.Params, stage)
				e.Map[meaning.Ref(m.ID, stage)] = meaning.Ref(n.ID, into)
				said += ", " + string(stage) + " of " + text(q.DimDuration, get(m, stage)) + " added to the " + string(into)
			}
			if delay {
				add(meaning.PDelay, meaning.PAttack)
			}
			if hold {
				add(meaning.PHold, meaning.PDecay)
			}
			if second {
				decay := oneDecay(get(m, meaning.PDecay), get(m, meaning.PBreak), get(m, meaning.PDecay2), get(m, meaning.PSustain), named(m, meaning.PCurve) == "linear")
				if hold {
					decay += get(m, meaning.PHold)
				}
				put(n, meaning.PDecay, decay)
				for _, name := range []meaning.ParamName{meaning.PDecay2, meaning.PBreak, meaning.PSlope} { // what the second decay fell from
					delete(n.Params, name)
					e.Map[meaning.Ref(m.ID, name)] = meaning.Ref(n.ID, meaning.PDecay)
				}
				said += ", decays of " + text(q.DimDuration, get(m, meaning.PDecay)) + " and " + text(q.DimDuration, get(m, meaning.PDecay2)) + " as one of " + text(q.DimDuration, decay) + " that falls nearest to both"
			}
			e.Text = "the target has fewer stages" + said
			out = append(out, e.Recast)
		}
		return out
	}}

// oneDecay gives the decay, 90 % of the way, by which an envelope falls nearest to one that falls in two: to a level in one time and to its sustain in another.
func oneDecay(first, level, second, sustain float64, linear bool) float64 {
	const steps = 32
	fall := func(from, to, t, takes float64) float64 {
		switch {
		case takes <= 0:
			return to
		case linear:
			return from + (to-from)*min(1, 0.9*t/takes)
		}
		return to + (from-to)*math.Exp(-math.Ln10*t/takes)
	}
	lasts := first // how long the first goes on: an exponential creeps on from there, which comes out no nearer by the render
	if linear {
		lasts = first / 0.9
	}
	var at, was, counts [steps]float64
	for i := range steps {
		t := min(lasts+second, 8*heldFor) * (float64(i) + 0.5) / steps
		at[i], was[i], counts[i] = t, fall(1, level, t, first), math.Exp(-t/(2*heldFor)) // most of it where notes are held
		if t >= lasts {
			was[i] = fall(level, sustain, t-lasts, second)
		}
	}
	best, least := first+second, math.Inf(1)
	for k := range 57 {
		takes := (first + second) * math.Exp2(float64(k-40)/8)
		sum := 0.0
		for i := range steps {
			is := sustain + (1-sustain)*math.Exp(-math.Ln10*at[i]/takes)
			sum += (was[i] - is) * (was[i] - is) * counts[i]
		}
		if sum < least {
			best, least = takes, sum
		}
	}
	return best
}
