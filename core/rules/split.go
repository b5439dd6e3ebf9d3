package rules

import (
	"fmt"
	"slices"

	"glossator/core/meaning"
)

const splitPenalty = 0.03

var split = Rule{ID: "split", Name: "One route as several",
	Needs: "a route that moves several things at once, and ways on the target that move one each", Uses: "a way for each, or for those that have one",
	Penalty: splitPenalty, Why: "the depths are set one by one; what has no way of its own stands still", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			heard := slices.DeleteFunc(slices.Clone(r.To), c.Meaning.Deaf)
			if r.Changed() || len(heard) < 2 || len(heard) > 3 || c.Meaning.Opens(r) || c.isTuning(r) {
				continue
			}
			e := c.begin("each of what %s moves has a way of its own", r.Label)
			first := e.route(r.ID)
			first.To = heard[:1]
			for i, to := range heard[1:] {
				one := *c.Meaning.Route(r.ID)
				one.To, one.Extra, one.Cable, one.On = []string{to}, nil, nil, nil
				one.Label = fmt.Sprintf("%s to %s", r.Label, c.moved(to))
				e.connect(route(r), fmt.Sprintf("split%d", i+2), one)
			}
			out = append(out, e.Recast)
			for _, to := range heard { // one of them alone
				e := c.begin("%s moves %s alone", r.Label, c.moved(to))
				e.route(r.ID).To = []string{to}
				e.worse(c, splitPenalty, float64(len(heard)-1)/float64(len(heard)))
				out = append(out, e.Recast)
			}
		}
		return out
	}}

// isTuning tells whether a route moves pitches alone: that is one thing, whoever plays it, and an oscillator that stays behind is out of tune.
func (c *Case) isTuning(r *meaning.Route) bool {
	return !slices.ContainsFunc(r.To, func(to string) bool {
		_, name := meaning.Split(to)
		return name != meaning.PInterval && name != meaning.PTune
	})
}

// moved names a destination: "the pulse width of Oscillator 1".
func (c *Case) moved(to string) string {
	id, name := meaning.Split(to)
	m := c.Meaning.Module(id)
	if m == nil {
		return to
	}
	if p, ok := meaning.SpecOf(m.Kind).Param(name); ok {
		return fmt.Sprintf("the %s of %s", p.Label, m.Label)
	}
	return m.Label
}
