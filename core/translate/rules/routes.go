package rules

import (
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var source = Rule{ID: "source", Name: "Another hand for a route", Player: true,
	Needs: "a route from pressure, pedal, breath or release velocity that the target lacks", Uses: "a route from the wheel, or from pressure",
	Penalty: 0.35, Why: "the sound is there, but the player reaches for it otherwise", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			var to []string
			switch r.From {
			case "aftertouch", "pedal", "breath":
				to = []string{"wheel", "aftertouch", "pedal"}
			case "release velocity":
				to = []string{"velocity"}
			case "random":
				to = []string{"key"}
			}
			for _, other := range to {
				if other == r.From || r.From == "random" && len(c.used(meaning.LFO)) > 0 {
					continue
				}
				e := c.begin("played by the %s where it was %s", other, r.From)
				e.route(r.ID).From = other
				out = append(out, e.Recast)
			}
			if r.Via == "aftertouch" || r.Via == "pedal" || r.Via == "breath" {
				e := c.begin("the wheel brings it in where it was %s", r.Via)
				e.route(r.ID).Via = "wheel"
				out = append(out, e.Recast)
			}
		}
		return out
	}}

var polarity = Rule{ID: "polarity", Name: "Polarity shifted by the base",
	Needs: "a route that goes both ways, and one on the target that goes one way, or the reverse", Uses: "the base of what is moved",
	Penalty: 0.06, Why: "the same ends are reached; the middle is set by another knob", Source: "arithmetic: b + d x for x in -1..1 is (b - d) + 2 d y for y in 0..1",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			m := c.Meaning.Module(r.From)
			if m == nil || m.Kind != meaning.LFO || len(r.To) != 1 || r.Polarity != "bipolar" && r.Polarity != "unipolar" {
				continue
			}
			id, name := meaning.Split(r.To[0])
			if t := c.Meaning.Module(id); t == nil || t.ID[len(t.ID)-1] == '~' {
				continue
			} else if v, ok := t.Params[name]; !ok || v.Off || v.Dim.Named() {
				continue
			}
			var e *edit
			if r.Polarity == "bipolar" {
				e = c.begin("the target goes one way: the base lies at the low end and the depth is double")
				n := e.route(r.ID)
				n.Polarity, n.Depth.Value = "unipolar", 2*r.Depth.Value
				shift(e, e.Meaning.Module(id), name, -r.Depth.Value)
			} else {
				e = c.begin("the target goes both ways: the base lies in the middle and the depth is half")
				n := e.route(r.ID)
				n.Polarity, n.Depth.Value = "bipolar", r.Depth.Value/2
				shift(e, e.Meaning.Module(id), name, r.Depth.Value/2)
			}
			out = append(out, e.Recast)
		}
		return out
	}}

var fade = Rule{ID: "fade", Name: "Fade-in by the wheel", Player: true,
	Needs: "an LFO that comes in late, and none on the target that does", Uses: "a route scaled by the wheel",
	Penalty: 0.2, Why: "the player has to bring it in", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.LFO) {
			late := get(m, "fade") + get(m, "delay")
			if off(m, "fade") && off(m, "delay") || late < 0.1 || c.Param(meaning.LFO, "fade") || c.Param(meaning.LFO, "delay") || m.ID[len(m.ID)-1] == '~' {
				continue
			}
			e := c.begin("the target's LFO does not fade in: bring the wheel up %s after the note", text(q.DimDuration, late))
			e.part(m.ID)
			n := e.change(m.ID)
			delete(n.Params, "fade")
			delete(n.Params, "delay")
			for _, r := range c.from(m.ID) {
				if r.Via == "" {
					way := e.route(r.ID)
					way.Via = "wheel"
					e.Map[m.ID+".fade"], e.Map[m.ID+".delay"] = way.ID+".depth", way.ID+".depth"
				}
			}
			out = append(out, e.Recast)
		}
		return out
	}}

var keyRate = Rule{ID: "key-rate", Name: "Key-tracked rate by a route",
	Needs: "an LFO whose rate follows the key, and none on the target that does", Uses: "a route from the key to the rate",
	Penalty: 0.08, Why: "a route is seldom exact enough for a rate that is heard as pitch", Source: "one octave of rate an octave of keys",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.LFO) {
			k := get(m, "key")
			if k == 0 || c.Param(meaning.LFO, "key") || m.ID[len(m.ID)-1] == '~' {
				continue
			}
			e := c.begin("a route from the key moves the rate by %s of the keyboard", text(q.DimRatio, k))
			e.part(m.ID)
			n := e.change(m.ID)
			delete(n.Params, "key")
			way := meaning.Route{ID: m.ID + "~key", Label: "Key to rate of " + m.Label, From: "key", To: []string{n.ID + ".rate"}, Polarity: "bipolar",
				Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimOctaves, Value: k}}}
			e.connect(way)
			e.Map[m.ID+".key"] = way.ID + ".depth"
			out = append(out, e.Recast)
		}
		return out
	}}

var pwm = Rule{ID: "pwm", Name: "Width modulation by chorus or by detuning",
	Needs: "an LFO that moves a pulse's width, and no way to it on the target", Uses: "a chorus, or unison of the oscillator",
	Penalty: 0.3, Why: "the beating is alike, the hollow of the pulse does not move", Source: "a moving pulse is a saw less a delayed saw: the same comb as a chorus",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			lfo := c.Meaning.Module(r.From)
			id, name := meaning.Split(r.To[0])
			m := c.Meaning.Module(id)
			if lfo == nil || lfo.Kind != meaning.LFO || name != "width" || m == nil || m.Kind != meaning.Osc {
				continue
			}
			rate := get(lfo, "rate")
			if c.Have(meaning.Chorus) > len(c.used(meaning.Chorus)) {
				e := c.begin("a chorus at %s beats as the moving width did", text(q.DimFrequency, rate))
				ch := e.add(r.ID+"~chorus", meaning.Chorus, "Chorus for "+r.Label)
				put(ch, "rate", rate)
				put(ch, "depth", 0.002) // common practice, no source
				put(ch, "delay", 0.01)
				put(ch, "mix", 0.5)
				e.dropRoute(r.ID)
				e.Map[r.ID+".depth"] = ch.ID + ".rate"
				out = append(out, e.Recast)
			}
			if get(m, "unison") <= 1 && c.Param(meaning.Osc, "unison") && m.ID[len(m.ID)-1] != '~' {
				// a width that moves by w at a rate f beats as two saws f*w*4 apart at A3
				cents := 1200 * math.Log2(1+4*rate*math.Abs(r.Depth.Value)/220)
				if cents < 1 {
					continue // slower than anybody hears
				}
				e := c.begin("unison of two, %s apart, beats about as fast as the width moved", text(q.DimInterval, cents))
				n := e.change(m.ID)
				put(n, "unison", 2)
				put(n, "spread", cents)
				e.dropRoute(r.ID)
				e.Map[r.ID+".depth"] = n.ID + ".spread"
				out = append(out, e.Recast)
			}
		}
		return out
	}}

var byHand = Rule{ID: "by-hand", Name: "By hand, at the control itself", Player: true,
	Needs: "a wheel, pedal or pressure that moves something the target has, and no way to it there", Uses: "the player's other hand",
	Penalty: 0.6, Why: "it can be done between notes, hardly within them", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			if r.From != "wheel" && r.From != "pedal" && r.From != "breath" && r.From != "aftertouch" || r.Via != "" || len(r.To) == 0 {
				continue
			}
			id, name := meaning.Split(r.To[0])
			m := c.Meaning.Module(id)
			if m == nil || c.Lost[id] {
				continue
			}
			p, _ := meaning.SpecOf(m.Kind).Param(name)
			at := 0.0
			if r.From == "wheel" {
				at = c.Wheel
			}
			e := c.begin("no way from the %s: turn the %s of %s by hand, by up to %s", r.From, p.Label, m.Label, text(r.Depth.Dim, r.Depth.Value))
			if at > 0 {
				shift(e, e.Meaning.Module(id), name, at*r.Depth.Value)
			}
			e.dropRoute(r.ID)
			out = append(out, e.Recast)
		}
		return out
	}}
