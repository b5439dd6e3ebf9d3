package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// longestClick is the decay, in seconds, above which a click is heard as a tone of its own.
const longestClick = 0.05 // common practice, no source

// clicks gives how loud what clicks is, in decibels: an operator that only modulates is as loud as its first sidebands, of half the index, beside what it modulates.
func (c *Case) clicks(m *meaning.Module) float64 {
	level := get(m, meaning.PLevel)
	if m.Kind != meaning.Operator || !off(m, meaning.POutput) {
		return level
	}
	most := 0.0
	for _, r := range c.from(m.ID) {
		if _, name := meaning.Split(r.To[0]); name == meaning.PPM {
			most = math.Max(most, Index(r.Depth.Value, q.Level(level)))
		}
	}
	return 20 * math.Log10(math.Max(1e-3, math.Min(1, most/2)))
}

var click = Rule{ID: "click", Name: "Click by a fast fall of the pitch",
	Needs: "noise or an operator that sounds only for the first 50 ms of a note, and none on the target", Uses: "an envelope and its route to the pitch",
	Penalty: 0.4, Why: "the whole tone starts high, where the click had a colour of its own", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		voices := c.used(meaning.Voice)
		if len(voices) == 0 {
			return nil
		}
		for _, m := range c.lost(meaning.Noise, meaning.Operator) {
			for _, r := range c.into(m.ID, meaning.PLevel) {
				env := c.Meaning.Module(r.From)
				if env == nil || env.Kind != meaning.Env || get(env, meaning.PSustain) > 0.02 || get(env, meaning.PDecay) > longestClick || len(c.from(env.ID)) > 1 {
					continue
				}
				// as many semitones as the click is loud: two octaves at the level of the tone
				depth := 2400 * math.Pow(10, math.Min(0, c.clicks(m))/40)
				if r.Depth.Value > 0 && r.Depth.Value < 1 {
					depth *= r.Depth.Value
				}
				e := c.begin("a pitch that falls by %s in %s clicks as %s did", text(q.DimInterval, depth), text(q.DimDuration, get(env, meaning.PDecay)), m.Label)
				n := e.route(r.ID)
				n.To, n.Polarity = []string{meaning.Ref(voices[0].ID, meaning.PTune)}, "unipolar"
				n.Depth = meaning.Value{Quantity: q.Quantity{Dim: q.DimInterval, Value: depth}}
				to := n.ID
				e.drop(m.ID)
				e.Map[meaning.Ref(m.ID, meaning.PLevel)] = meaning.Ref(to, meaning.PDepth)
				out = append(out, e.Recast)
			}
		}
		return out
	}}
