package rules

import (
	"fmt"
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var sub = Rule{ID: "sub", Name: "Sub oscillator and low oscillator for one another",
	Needs: "an oscillator a whole octave or two below another, or a sub oscillator", Uses: "the target's sub oscillator, or an oscillator",
	Penalty: 0.12, Why: "a sub oscillator is locked in phase and cannot be detuned", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.lost(meaning.Sub) {
			e := c.begin("%s is played by an oscillator", m.Label)
			osc := e.replace(m.ID, meaning.Osc, m.Label+" as oscillator", same(meaning.Osc))
			for _, name := range []string{"wave", "width", "interval", "level", "to"} {
				take(osc, m, name, name)
			}
			if _, ok := osc.Params["wave"]; !ok {
				word(osc, "wave", q.WavePulse)
			}
			out = append(out, e.Recast)
		}
		if c.Have(meaning.Sub) == 0 {
			return out
		}
		for _, m := range c.lost(meaning.Osc) {
			below := false
			for _, o := range c.used(meaning.Osc) {
				d := get(o, "interval") - get(m, "interval")
				below = below || o.ID != m.ID && math.Abs(d-1200) < 60 || math.Abs(d-2400) < 60
			}
			if !below {
				continue
			}
			e := c.begin("%s lies an octave below another: the sub oscillator plays it", m.Label)
			s := e.replace(m.ID, meaning.Sub, m.Label+" as sub", same(meaning.Sub))
			for _, name := range []string{"wave", "width", "interval", "level", "to"} {
				take(s, m, name, name)
			}
			out = append(out, e.Recast)
		}
		return out
	}}

var unison = Rule{ID: "unison", Name: "Unison or chorus for a detuned pair, and a pair for unison",
	Needs: "two oscillators of one wave less than 60 ct apart, or one with unison voices", Uses: "unison of an oscillator, a chorus, or a second oscillator",
	Penalty: 0.15, Why: "the levels of the two can no longer differ, and what moves one moves both", Source: "beating: difference of the two frequencies",
	try: func(c *Case) []Recast {
		var out []Recast
		oscs := c.used(meaning.Osc)
		for _, lost := range oscs {
			if !c.Lost[lost.ID] {
				continue
			}
			for _, o := range oscs {
				d := get(lost, "interval") - get(o, "interval")
				if o.ID == lost.ID || c.Lost[o.ID] || math.Abs(d) > 60 || named(o, "wave") != named(lost, "wave") || get(o, "unison") > 1 ||
					math.Abs(get(o, "level")-get(lost, "level")) > 6 || !c.Param(meaning.Osc, "unison") {
					continue
				}
				e := c.begin("%s is %s from %s: unison of two, as far apart, beats as they did", lost.Label, text(q.DimInterval, d), o.Label)
				n := e.change(o.ID)
				put(n, "unison", 2)
				put(n, "spread", math.Abs(d))
				v := n.Params["interval"]
				v.Value, v.Parts = v.Value+d/2, nil
				v.Dim = q.DimInterval
				n.Params["interval"] = v
				e.drop(lost.ID)
				e.Map[lost.ID+".interval"] = n.ID + ".spread"
				out = append(out, e.Recast)
			}
		}
		for _, lost := range oscs {
			if !c.Lost[lost.ID] || c.Have(meaning.Chorus) <= len(c.used(meaning.Chorus)) {
				continue
			}
			for _, o := range oscs {
				d := math.Abs(get(lost, "interval") - get(o, "interval"))
				if o.ID == lost.ID || c.Lost[o.ID] || d > 40 || d < 1 || named(o, "wave") != named(lost, "wave") {
					continue
				}
				beat := 220 * (math.Exp2(d/1200) - 1)
				e := c.begin("a slow chorus moves about as the pair of %s and %s beat", o.Label, lost.Label)
				e.drop(lost.ID)
				ch := e.add(lost.ID+"~chorus", meaning.Chorus, "Chorus for "+lost.Label)
				put(ch, "rate", beat/2)
				put(ch, "depth", 0.002) // common practice, no source
				put(ch, "delay", 0.01)
				put(ch, "mix", 0.5)
				e.Map[lost.ID+".interval"] = ch.ID + ".rate"
				out = append(out, e.Recast)
				break
			}
		}
		for _, o := range oscs {
			n := int(math.Round(get(o, "unison")))
			if n < 2 || c.Param(meaning.Osc, "unison") || o.ID[len(o.ID)-1] == '~' {
				continue
			}
			spread := get(o, "spread")
			e := c.begin("%d unison voices of %s become two oscillators %s apart", n, o.Label, text(q.DimInterval, spread))
			e.part(o.ID)
			a := e.change(o.ID)
			delete(a.Params, "unison")
			delete(a.Params, "spread")
			delete(a.Params, "stereo")
			v := a.Params["interval"]
			v.Dim, v.Parts = q.DimInterval, nil
			v.Value -= spread / 2
			a.Params["interval"] = v
			level := a.Params["level"]
			if !level.Off {
				level.Dim = q.DimLevel
				level.Value -= 3 // two of equal power
				a.Params["level"] = level
			}
			first := *a
			b := e.add(o.ID+"~2", meaning.Osc, o.Label+", second")
			for name, p := range first.Params {
				b.Params[name] = p
			}
			v.Value += spread
			b.Params["interval"] = v
			e.Map[o.ID+".spread"] = b.ID + ".interval"
			e.Map[o.ID+".unison"] = b.ID + ".interval"
			out = append(out, e.Recast)
		}
		return out
	}}

var chord = Rule{ID: "chord", Name: "Chord memory by the intervals of oscillators",
	Needs: "chord memory, and oscillators to spare", Uses: "one oscillator for each note of the chord",
	Penalty: 0.25, Why: "one filter and one pair of envelopes for all the notes, and no more than the oscillators allow", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		for _, v := range c.used(meaning.Voice) {
			if named(v, "chord") == "off" || named(v, "chord") == "" || c.Param(meaning.Voice, "chord") {
				continue
			}
			oscs := c.used(meaning.Osc)
			if len(oscs) == 0 {
				continue
			}
			lead, spare := oscs[0], c.Have(meaning.Osc)-len(oscs)
			e := c.begin("")
			e.part(v.ID)
			n := e.change(v.ID)
			word(n, "chord", "off")
			played, missing := 0, 0
			for _, name := range []string{"chord2", "chord3", "chord4", "chord5"} {
				d := get(v, name)
				delete(n.Params, name)
				delete(e.Map, v.ID+"."+name) // lost unless it is played below
				if d == 0 {
					continue
				}
				if played >= spare {
					missing++
					continue
				}
				played++
				o := e.add(lead.ID+"~"+name, meaning.Osc, lead.Label+" for the chord")
				for p, val := range lead.Params {
					o.Params[p] = val
				}
				iv := o.Params["interval"]
				iv.Dim, iv.Parts = q.DimInterval, nil
				iv.Value += d
				o.Params["interval"] = iv
				e.Map[v.ID+"."+name] = o.ID + ".interval"
			}
			if played == 0 {
				continue
			}
			e.Text = fmt.Sprintf("%s of the chord played by oscillators at their intervals", several(played, "note"))
			if missing > 0 {
				e.Text += fmt.Sprintf(", %s left out for want of oscillators", several(missing, "note"))
			}
			return e.done()
		}
		return nil
	}}

func several(n int, thing string) string {
	if n == 1 {
		return "one " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}
