package rules

import (
	"slices"

	"glossator/core/meaning"
)

const heldWheelPenalty = 0.15

var heldWheel = Rule{ID: "held-wheel", Name: "LFO by the wheel, which is left up", Player: true,
	Needs: "an LFO that moves something for good, no way to that on the target, and a wheel that does nothing in the patch", Uses: "the target's way to it by the wheel",
	Penalty: heldWheelPenalty, Why: "somebody has to turn the wheel up before the patch is played, and it is not free any more", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		if c.Wheel > 0 || c.Meaning.Hands != nil && c.Meaning.Hands.Wheel > 0 {
			return nil
		}
		var list []*meaning.Route
		for _, r := range c.routes() {
			if r.From == "wheel" || r.Via == "wheel" {
				return nil
			}
			if m := c.Meaning.Module(r.From); m != nil && m.Kind == meaning.LFO && r.Via == "" && named(m, meaning.PCycle) != "once" && c.Lost[r.ID] {
				list = append(list, r)
			}
		}
		var out []Recast
		hold := func(list ...*meaning.Route) {
			e := c.begin("%s by the wheel, which is left up: there is no other way here", And(labelsOf(list)))
			for _, r := range list {
				e.route(r.ID).Via = "wheel"
			}
			e.Meaning.Hands = e.Meaning.Hands.With(0)
			e.Meaning.Hands.Wheel = 1
			out = append(out, e.Recast)
		}
		for _, r := range list {
			hold(r)
		}
		if len(list) > 1 {
			hold(list...)
		}
		return out
	}}

func labelsOf(list []*meaning.Route) (out []string) {
	for _, r := range list {
		if !slices.Contains(out, r.Label) {
			out = append(out, r.Label)
		}
	}
	return out
}
