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
			if named(m, "cycle") != "once" || get(m, "rate") <= 0 {
				continue
			}
			period := 1 / get(m, "rate")
			e := c.begin("%s runs once: an envelope that falls in %s does the same", m.Label, text(q.DimDuration, period))
			env := e.replace(m.ID, meaning.Env, m.Label+" as envelope", func(string) string { return "" })
			env.Params["attack"] = meaning.Value{Quantity: q.OffOf(q.DimDuration)}
			switch named(m, "wave") {
			case q.WaveTriangle, q.WaveSine: // up and down
				put(env, "attack", period/2)
				put(env, "decay", period/2)
			default:
				put(env, "decay", period)
			}
			put(env, "sustain", 0)
			put(env, "release", period)
			e.Map[m.ID+".rate"] = env.ID + ".decay"
			for _, r := range c.from(m.ID) {
				e.route(r.ID).Polarity = "unipolar"
			}
			out = append(out, e.Recast)
		}
		for _, m := range c.lost(meaning.Env) {
			if get(m, "sustain") > 0.05 || !off(m, "delay") || get(m, "decay") <= 0 {
				continue
			}
			e := c.begin("%s has no sustain: an LFO that runs once through %s does the same", m.Label, text(q.DimDuration, get(m, "decay")))
			lfo := e.replace(m.ID, meaning.LFO, m.Label+" as one-shot LFO", func(string) string { return "" })
			put(lfo, "rate", 1/get(m, "decay"))
			word(lfo, "wave", q.WaveSaw)
			word(lfo, "cycle", "once")
			word(lfo, "phase", "note")
			e.Map[m.ID+".decay"] = lfo.ID + ".rate"
			out = append(out, e.Recast)
		}
		return out
	}}
