package rules

import (
	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var envelopeLFO = Rule{ID: "one-shot", Name: "One-shot LFO and envelope for one another",
	Needs: "an LFO that runs once, or an envelope without sustain", Uses: "an envelope, or an LFO that can run once",
	Penalty: 0.2, Why: "the curve is another: a falling saw is straight, a decay is not", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.LFO) {
			if named(m, meaning.PCycle) != "once" || get(m, meaning.PRate) <= 0 {
				continue
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
				put(env, meaning.PDecay, period)
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
			if get(m, meaning.PSustain) > 0.05 || !off(m, meaning.PDelay) || get(m, meaning.PDecay) <= 0 {
				continue
			}
			e := c.begin("%s has no sustain: an LFO that runs once through %s does the same", m.Label, text(q.DimDuration, get(m, meaning.PDecay)))
			lfo := e.replace(m.ID, meaning.LFO, m.Label+" as one-shot LFO", func(meaning.ParamName) meaning.ParamName { return "" })
			put(lfo, meaning.PRate, 1/get(m, meaning.PDecay))
			word(lfo, meaning.PWave, q.WaveSaw)
			word(lfo, meaning.PCycle, "once")
			word(lfo, meaning.PPhase, "note")
			e.Map[meaning.Ref(m.ID, meaning.PDecay)] = meaning.Ref(lfo.ID, meaning.PRate)
			out = append(out, e.Recast)
		}
		return out
	}}
