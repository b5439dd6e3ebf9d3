package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// Bounds of a delay that is heard as a chorus or flanger and not as echoes (common practice, no source).
const (
	longestChorus = 0.04
	chorusBack    = 0.35 // feedback: more, and it is a flanger
	longestComb   = 0.015
)

var movedDelay = Rule{ID: "moved-delay", Name: "Delay that moves, by a chorus, a flanger or another kind of modulation",
	Needs: "a delay with modulation, and none on the target or none like it", Uses: "the modulation that the target's delay has, or a chorus or flanger where the delay is short",
	Penalty: 0.15, Why: "its rate may be fixed, or the sides move otherwise", Source: "all are short delays that move; common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.Delay) {
			depth, rate := get(m, meaning.PDepth), get(m, meaning.PRate)
			whole, own := c.Param(meaning.Delay, meaning.PWobble), c.Param(meaning.Delay, meaning.PDepth)
			wobble := depth == 0
			if wobble {
				depth, rate = get(m, meaning.PWobble)*fullWobble, wobbleRate
			}
			if depth <= 0 || m.Changed() {
				continue
			}
			switch {
			case c.Lost[m.ID]:
			case wobble && !whole && own:
				e := c.begin("a modulation of %s as one of %s at %s", text(q.DimRatio, get(m, meaning.PWobble)), text(q.DimDuration, depth), text(q.DimFrequency, rate))
				n := e.moving(m, meaning.PWobble)
				put(n, meaning.PDepth, depth)
				put(n, meaning.PRate, rate)
				e.Map[meaning.Ref(m.ID, meaning.PWobble)] = meaning.Ref(n.ID, meaning.PDepth)
				out = append(out, e.Recast)
				continue
			case !wobble && whole && !own:
				e := c.begin("a depth of %s by the modulation of the delay, whose rate is its own", text(q.DimDuration, depth))
				n := e.moving(m, meaning.PDepth, meaning.PRate)
				put(n, meaning.PWobble, math.Min(1, depth/fullWobble))
				e.Map[meaning.Ref(m.ID, meaning.PDepth)], e.Map[meaning.Ref(m.ID, meaning.PRate)] = meaning.Ref(n.ID, meaning.PWobble), meaning.Ref(n.ID, meaning.PWobble)
				out = append(out, e.Recast)
				continue
			case whole || own:
				continue // it goes over as it is
			}
			time, back := get(m, meaning.PTime), get(m, meaning.PFeedback)
			for _, kind := range []meaning.Kind{meaning.Chorus, meaning.Flanger} {
				if c.Have(kind) <= len(c.used(kind)) || m.Params[meaning.PTime].Beats != 0 || time > longestChorus || kind == meaning.Chorus && back > chorusBack || kind == meaning.Flanger && time > longestComb {
					continue
				}
				e := c.begin("a delay of %s that moves is %s", text(q.DimDuration, time), article(string(kind)))
				n := e.replace(m.ID, kind, m.Label+" as "+string(kind), func(name meaning.ParamName) meaning.ParamName {
					switch name {
					case meaning.PTime:
						return meaning.PDelay
					case meaning.PWobble:
						return meaning.PDepth
					case meaning.PMix, meaning.PTone, meaning.PFeedback, meaning.PDepth, meaning.PRate:
						return name
					}
					return ""
				})
				put(n, meaning.PDelay, time)
				put(n, meaning.PDepth, depth)
				put(n, meaning.PRate, rate)
				put(n, meaning.PFeedback, back)
				take(n, m, meaning.PTone, meaning.PTone)
				put(n, meaning.PMix, get(m, meaning.PMix))
				if kind == meaning.Flanger {
					put(n, meaning.PMix, math.Min(1, 2*get(m, meaning.PMix))) // a flanger has the two in equal shares at full mix
				} else {
					put(n, meaning.PVoices, 1)
				}
				out = append(out, e.Recast)
			}
		}
		return out
	}}

// moving changes a delay and takes some of what modulates it away.
func (e *edit) moving(m *meaning.Module, names ...meaning.ParamName) *meaning.Module {
	e.part(m.ID)
	n := e.change(m.ID)
	for _, name := range names {
		delete(n.Params, name)
		delete(e.Map, meaning.Ref(m.ID, name))
	}
	return n
}
