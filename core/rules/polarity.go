package rules

import (
	"glossator/core/meaning"
)

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
			if name == meaning.PFrame {
				continue // the low end of a table is another wave, and the wave is chosen by where it stands
			}
			if t := c.Meaning.Module(id); t == nil || t.Changed() {
				continue
			} else if v, ok := t.Params[name]; !ok || v.Off || v.Dim.Named() {
				continue
			}
			var e *edit
			if r.Polarity == "bipolar" {
				e = c.begin("the target goes one way: the base lies at the low end and the depth is double")
				n := e.route(r.ID)
				n.Polarity, n.Depth.Value = "unipolar", 2*r.Depth.Value
				shift(e, id, name, -r.Depth.Value)
			} else {
				e = c.begin("the target goes both ways: the base lies in the middle and the depth is half")
				n := e.route(r.ID)
				n.Polarity, n.Depth.Value = "bipolar", r.Depth.Value/2
				shift(e, id, name, r.Depth.Value/2)
			}
			out = append(out, e.Recast)
		}
		return out
	}}
