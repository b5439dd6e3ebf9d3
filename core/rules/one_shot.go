package rules

import (
	"fmt"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var envelopeLFO = Rule{ID: "one-shot", Name: "One-shot LFO and envelope for one another",
	Needs: "an LFO that runs once, or an envelope that falls", Uses: "an envelope, or an LFO that can run once",
	Penalty: 0.2, Why: "the curve is another: a falling saw is straight, a decay is not", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.LFO) {
			if named(m, meaning.PCycle) != "once" || get(m, meaning.PRate) <= 0 || m.Changed() {
				continue // it was an envelope, or is one that was
			}
			period := 1 / get(m, meaning.PRate)
			e := c.begin("%s runs once: an envelope that falls in %s does the same", m.Label, text(q.DimDuration, period))
			env := e.replace(m.ID, meaning.Env, m.Label+" as envelope", func(meaning.ParamName) meaning.ParamName { return "" })
			env.Params[meaning.PAttack] = meaning.Value{Quantity: q.OffOf(q.DimDuration)}
			switch named(m, meaning.PWave) {
			case q.WaveTriangle, q.WaveSine: // up and down
				put(env, meaning.PAttack, period/2)
				put(env, meaning.PDecay, period/2)
			default:
				put(env, meaning.PDecay, period/sawFor)
			}
			put(env, meaning.PSustain, 0)
			put(env, meaning.PRelease, period)
			e.Map[meaning.Ref(m.ID, meaning.PRate)] = meaning.Ref(env.ID, meaning.PDecay)
			for _, r := range c.from(m.ID) {
				if e.Meaning.Route(r.ID) != nil { // what moved the LFO's own rate is gone with it
					e.route(r.ID).Polarity = "unipolar"
				}
			}
			out = append(out, e.Recast)
		}
		for _, m := range c.lost(meaning.Env) {
			s := get(m, meaning.PSustain)
			if s > mostFolded || !off(m, meaning.PDelay) || get(m, meaning.PDecay) <= 0 || s > leastFolded && get(m, meaning.PAttack) > slowestHit {
				continue
			}
			period := sawFor * get(m, meaning.PDecay)
			if named(m, meaning.PCurve) == "linear" {
				period = get(m, meaning.PDecay) / q.RampTo90
			}
			e := c.begin("%s has no sustain: an LFO that runs once through %s does the same", m.Label, text(q.DimDuration, period))
			if s > leastFolded {
				e.Text = fmt.Sprintf("an LFO that runs once through %s falls as %s does; its sustain, %s, is in what it moves", text(q.DimDuration, period), m.Label, text(q.DimRatio, s))
				if !e.fold(c, m.ID, s) {
					continue
				}
			}
			lfo := e.replace(m.ID, meaning.LFO, m.Label+" as one-shot LFO", func(meaning.ParamName) meaning.ParamName { return "" })
			put(lfo, meaning.PRate, 1/period)
			word(lfo, meaning.PWave, q.WaveSaw)
			word(lfo, meaning.PCycle, "once")
			word(lfo, meaning.PPhase, "note")
			e.Map[meaning.Ref(m.ID, meaning.PDecay)] = meaning.Ref(lfo.ID, meaning.PRate)
			out = append(out, e.Recast)
		}
		return out
	}}

// sawFor is how long a straight fall is for as much to lie under it as under an exponential one, over the time in which that one goes 90 % of its way: two time constants
// (arithmetic: the area under e^(-t/tau) is tau, that under a ramp half its length).
var sawFor = 2 / q.TausTo90

// Bounds of a sustain that is folded into what the envelope moves (common practice, no source): below the least there is nothing to fold, above the most what
// falls is the lesser part, and after a slower attack than slowestHit, in seconds, a fall from the top is another shape.
const (
	leastFolded = 0.05
	mostFolded  = 0.7
	slowestHit  = 0.05
)

// fold puts the sustain of an envelope into the base of what it moves, so that the rest of it falls to nothing. It tells whether all that it moves has such a base.
func (e *edit) fold(c *Case, env string, sustain float64) bool {
	for _, r := range c.from(env) {
		if len(r.To) != 1 || r.Via != "" {
			return false
		}
		id, name := meaning.Split(r.To[0])
		t := c.Meaning.Module(id)
		if t == nil || t.Changed() || name == meaning.PFrame {
			return false // the low end of a table is another wave
		}
		if v, ok := t.Params[name]; !ok || v.Off || v.Dim.Named() {
			return false
		}
		n := e.route(r.ID)
		n.Depth.Value = (1 - sustain) * r.Depth.Value
		shift(e, id, name, sustain*r.Depth.Value)
	}
	return true
}
