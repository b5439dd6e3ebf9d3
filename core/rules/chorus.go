package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var chorus = Rule{ID: "chorus", Name: "Chorus by a flanger, a moving delay or unison",
	Needs: "a chorus or flanger, and none left on the target", Uses: "a flanger without feedback, a short delay that moves, or unison",
	Penalty: 0.2, Why: "one voice where there were more, or no movement at all", Source: "all are short delays that move; common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Chorus) {
			if c.Have(meaning.Flanger) > len(c.used(meaning.Flanger)) {
				e := c.begin("a flanger without feedback and at its longest delay is a chorus of one voice")
				f := e.replace(m.ID, meaning.Flanger, m.Label+" as flanger", same(meaning.Flanger))
				for name, v := range m.Params {
					f.Params[name] = v
				}
				put(f, meaning.PFeedback, 0)
				delete(f.Params, meaning.PPlace)
				out = append(out, e.Recast)
			}
			if e := c.asDelay(m); e != nil {
				out = append(out, e.Recast)
			}
			if c.Param(meaning.Osc, meaning.PUnison) {
				for _, o := range c.used(meaning.Osc) {
					if get(o, meaning.PUnison) > 1 || c.Lost[o.ID] || o.Changed() {
						continue
					}
					// the greatest change of pitch of a delay that moves by d at a rate f is 2 pi f d
					cents := 1200 * math.Log2(1+2*math.Pi*get(m, meaning.PRate)*get(m, meaning.PDepth))
					e := c.begin("unison of two, %s apart: as far as the chorus bent the pitch", text(q.DimInterval, cents))
					n := e.change(o.ID)
					put(n, meaning.PUnison, 2)
					put(n, meaning.PSpread, math.Min(50, cents))
					e.drop(m.ID)
					e.Map[meaning.Ref(m.ID, meaning.PDepth)] = meaning.Ref(n.ID, meaning.PSpread)
					out = append(out, e.Recast)
					break
				}
			}
		}
		for _, m := range c.lost(meaning.Flanger) {
			if e := c.asDelay(m); e != nil {
				out = append(out, e.Recast)
			}
		}
		return out
	}}

// What a delay's modulation of 100 % is where it has no rate and depth of its own, as it is played (common practice, no source).
const (
	fullWobble = 0.004 // seconds either way
	wobbleRate = 0.7   // Hz
)

// asDelay plays a chorus or flanger by a short delay that moves, where the target has one left; else nil.
func (c *Case) asDelay(m *meaning.Module) *edit {
	own := c.Param(meaning.Delay, meaning.PDepth)
	if c.Have(meaning.Delay) <= len(c.used(meaning.Delay)) || !own && !c.Param(meaning.Delay, meaning.PWobble) {
		return nil
	}
	time, name := get(m, meaning.PDelay), "a chorus of one voice"
	if m.Kind == meaning.Flanger {
		name = "a flanger"
	}
	if time == 0 { // common practice, no source
		if time = 0.008; m.Kind == meaning.Flanger {
			time = 0.001
		}
	}
	e := c.begin("a delay of %s that moves is %s", text(q.DimDuration, time), name)
	d := e.replace(m.ID, meaning.Delay, m.Label+" as delay", func(name meaning.ParamName) meaning.ParamName {
		switch name {
		case meaning.PMix, meaning.PTone, meaning.PFeedback:
			return name
		case meaning.PDelay:
			return meaning.PTime
		case meaning.PDepth, meaning.PRate:
			if own {
				return name
			}
			return meaning.PWobble
		}
		return ""
	})
	put(d, meaning.PTime, time)
	put(d, meaning.PFeedback, math.Abs(get(m, meaning.PFeedback)))
	take(d, m, meaning.PTone, meaning.PTone)
	if own {
		put(d, meaning.PRate, get(m, meaning.PRate))
		put(d, meaning.PDepth, get(m, meaning.PDepth))
	} else {
		put(d, meaning.PWobble, math.Min(1, get(m, meaning.PDepth)/fullWobble))
	}
	put(d, meaning.PMix, get(m, meaning.PMix))
	if m.Kind == meaning.Flanger {
		put(d, meaning.PMix, get(m, meaning.PMix)/2) // a flanger has the two in equal shares at full mix
	}
	return e
}
