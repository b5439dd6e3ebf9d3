package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var pulseSaws = Rule{ID: "pulse-saws", Name: "Pulse by two saws",
	Needs: "a pulse, and a target that has saws but no pulse, and an oscillator to spare whose start phase can be set", Uses: "two oscillators",
	Penalty: 0.3, Why: "no saw can be turned over: the odd harmonics are those of the pulse, the even ones those of its mirror",
	Source: "Fourier series (Bronshtein): two saws a part d of a cycle apart add to 2 |cos(pi n d)|/n, and |cos(pi n (d + 1/2))| is |sin(pi n d)| for odd n",
	try: func(c *Case) []Recast {
		spare := c.Have(meaning.Osc) - len(c.used(meaning.Osc))
		if c.Word(meaning.Osc, meaning.PWave, q.WavePulse) || !c.Word(meaning.Osc, meaning.PWave, q.WaveSaw) || spare < 1 {
			return nil
		}
		var out []Recast
		for _, m := range c.used(meaning.Osc) {
			if named(m, meaning.PWave) != q.WavePulse || m.Changed() {
				continue
			}
			// the start phase that comes nearest to d + 1/2 of a cycle
			want := math.Mod(get(m, meaning.PWidth)+0.5, 1)
			best, phase := "", 2.0
			for name, at := range map[string]float64{"reset at 90": 0.25, "reset at 180": 0.5, "reset at 270": 0.75} {
				d := math.Abs(math.Remainder(at-want, 1))
				if c.Word(meaning.Osc, meaning.PPhase, name) && (d < phase || d == phase && name < best) {
					best, phase = name, d
				}
			}
			if best == "" || phase > 0.13 {
				continue // the widths that two saws can make are few, and this is none of them
			}
			e := c.begin("two saws, the second started at %s degrees, have the odd harmonics of %s", best[len("reset at "):], m.Label)
			e.part(m.ID)
			a := e.change(m.ID)
			word(a, meaning.PWave, q.WaveSaw)
			delete(a.Params, meaning.PWidth)
			delete(e.Map, meaning.Ref(m.ID, meaning.PWidth))
			word(a, meaning.PPhase, "reset")
			first := *a
			b := e.add(module(m), "2", meaning.Osc, m.Label+", second saw")
			for name, v := range first.Params {
				b.Params[name] = v
			}
			word(b, meaning.PPhase, best)
			e.Map[meaning.Ref(m.ID, meaning.PWidth)] = meaning.Ref(b.ID, meaning.PPhase)
			out = append(out, e.Recast)
		}
		return out
	}}
