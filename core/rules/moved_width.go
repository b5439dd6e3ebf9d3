package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var movedWidth = Rule{ID: "moved-width", Name: "Detuned pair, or chorus, by a pulse whose width moves",
	Needs: "two oscillators of one wave less than 40 ct apart, or a chorus that the target lacks, and on the target an LFO left that moves a width", Uses: "the width of the other oscillator, and an LFO",
	Penalty: 0.3, Why: "thick as the pair, with the grit of a pulse and without its detuning", Source: "a moving pulse is a saw less a delayed saw: it drifts as two saws beat",
	try: func(c *Case) []Recast {
		var out []Recast
		if c.Have(meaning.LFO) <= len(c.used(meaning.LFO)) || !c.Param(meaning.Osc, meaning.PWidth) || !c.Word(meaning.Osc, meaning.PWave, q.WavePulse) {
			return nil
		}
		oscs := c.used(meaning.Osc)
		for _, lost := range oscs {
			if !c.Lost[lost.ID] {
				continue
			}
			for _, o := range oscs {
				d := math.Abs(get(lost, meaning.PInterval) - get(o, meaning.PInterval))
				if o.ID == lost.ID || c.Lost[o.ID] || d < 1 || d > 40 || named(o, meaning.PWave) != named(lost, meaning.PWave) || !canMoveWidth(c, o) {
					continue
				}
				// the inverse of the rule for a width that moves: it drifts by 4 depths a period
				const depth = 0.35
				rate := 220 * (math.Exp2(d/1200) - 1) / (4 * depth)
				e := c.begin("a pulse whose width an LFO moves at %s drifts as %s beat against %s", text(q.DimFrequency, rate), lost.Label, o.Label)
				from := e.moveWidth(o, lost, rate, depth)
				e.drop(lost.ID)
				e.Map[meaning.Ref(lost.ID, meaning.PInterval)] = meaning.Ref(from, meaning.PRate)
				out = append(out, e.Recast)
			}
		}
		for _, lost := range c.lost(meaning.Chorus) {
			for _, o := range oscs {
				if c.Lost[o.ID] || !canMoveWidth(c, o) || get(lost, meaning.PRate) <= 0 {
					continue
				}
				e := c.begin("a pulse whose width an LFO moves at %s is as thick as %s made it, with grit that the chorus has not", text(q.DimFrequency, get(lost, meaning.PRate)), lost.Label)
				from := e.moveWidth(o, lost, get(lost, meaning.PRate), 0.35*math.Min(1, 2*get(lost, meaning.PMix)))
				e.drop(lost.ID)
				e.Map[meaning.Ref(lost.ID, meaning.PRate)] = meaning.Ref(from, meaning.PRate)
				out = append(out, e.Recast)
				break
			}
		}
		return out
	}}

// canMoveWidth tells whether an oscillator can be a pulse whose width moves.
func canMoveWidth(c *Case, o *meaning.Module) bool {
	return !o.Changed() && (named(o, meaning.PWave) == q.WaveSaw || named(o, meaning.PWave) == q.WavePulse) && len(c.into(o.ID, meaning.PWidth)) == 0
}

// moveWidth makes an oscillator a pulse whose width an LFO moves, in place of something that is lost, and gives the LFO's id.
func (e *edit) moveWidth(o, lost *meaning.Module, rate, depth float64) string {
	n := e.change(o.ID)
	word(n, meaning.PWave, q.WavePulse)
	put(n, meaning.PWidth, 0.5)
	to := n.ID
	l := e.add(module(lost), "lfo", meaning.LFO, "LFO for "+lost.Label)
	word(l, meaning.PWave, q.WaveTriangle)
	put(l, meaning.PRate, rate)
	from := l.ID
	e.connect(module(lost), "width", meaning.Route{Label: "LFO to the width of " + o.Label, From: from, To: []string{meaning.Ref(to, meaning.PWidth)}, Polarity: "bipolar",
		Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: depth}}})
	e.part(o.ID)
	return from
}
