package rules

import (
	"maps"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

const carriersPenalty = 0.03

var carriers = Rule{ID: "carriers", Name: "The carriers' envelope at the amplifier",
	Needs: "an amplifier that the gate opens or nothing does, and operators whose levels envelopes move", Uses: "one envelope",
	Penalty: carriersPenalty, Why: "the level of what sounds is the amplifier's; carriers with other envelopes follow the strongest", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		x := c.carried()
		if x == nil || !x.lost {
			return nil
		}
		e := c.begin("%s opens the amplifier: what sounds moves by it", c.Meaning.Module(x.env).Label)
		x.apply(c, e)
		return e.done()
	}}

// carried is how the carriers' envelope is to open the amplifier.
type carried struct {
	gate   *meaning.Route // nil where nothing opens the amplifier
	amp    string
	env    string
	moves  []*meaning.Route // of the carriers' levels
	struck []*meaning.Route // by which velocity moves them
	spare  []string         // envelopes that have nothing left to do
	differ float64          // how far the envelopes of all are from it, 0 to 1
	lost   bool             // something of it has no place as it is
}

// carried finds the strongest carriers' envelope; nil where the amplifier has one already, where others than operators sound, or where less than half of what sounds is moved by it
// or as it does.
func (c *Case) carried() *carried {
	x := &carried{}
	for _, r := range c.routes() {
		switch {
		case !c.Meaning.Opens(r):
		case r.From == "gate" && len(r.To) == 1:
			x.gate = r
		default:
			return nil
		}
	}
	if x.gate != nil {
		x.amp, _ = meaning.Split(x.gate.To[0])
		x.lost = c.Lost[x.gate.ID]
	} else if amps := c.used(meaning.Amp); len(amps) == 1 {
		x.amp = amps[0].ID
	} else {
		return nil
	}
	by := map[string]float64{} // amplitude by envelope
	count := map[string]int{}
	total, held := 0.0, 0.0
	for i := range c.Meaning.Modules {
		m := &c.Meaning.Modules[i]
		switch {
		case !m.Used():
			continue
		case m.Kind == meaning.Osc || m.Kind == meaning.Sub || m.Kind == meaning.Noise:
			return nil
		case m.Kind != meaning.Operator || !m.Sounds():
			continue
		}
		a := q.Level(loudOf(m)).Amplitude()
		total += a
		way := (*meaning.Route)(nil)
		for _, r := range c.into(m.ID, meaning.PLevel) {
			if r.From == "velocity" && r.Via == "" && len(r.To) == 1 {
				x.struck = append(x.struck, r)
			}
			if env := c.Meaning.Module(r.From); env != nil && env.Kind == meaning.Env && r.Via == "" && r.Depth.Value > 0.95 && len(r.To) == 1 {
				way = r
			}
		}
		if way == nil {
			held += a
			continue
		}
		x.lost = x.lost || c.Lost[way.ID] || c.Lost[way.From]
		by[way.From] += a
		count[way.From]++
		x.moves = append(x.moves, way)
	}
	for _, id := range slices.Sorted(maps.Keys(by)) {
		if x.env == "" || by[id] > by[x.env] {
			x.env = id
		}
	}
	if x.env == "" {
		return nil
	}
	env := c.Meaning.Module(x.env)
	alike := 0.0
	for _, id := range slices.Sorted(maps.Keys(by)) {
		alike += by[id] * (1 - apart(c.Meaning.Module(id), env))
	}
	if alike < 0.5*total {
		return nil
	}
	x.differ = held / total * apart(&open, env)
	for _, id := range slices.Sorted(maps.Keys(by)) {
		x.differ += by[id] / total * apart(c.Meaning.Module(id), env)
		if id != x.env && len(c.from(id)) == count[id] {
			x.spare = append(x.spare, id)
		}
	}
	routesByID(x.moves)
	return x
}

// apply does it in an edit that has no parts yet.
func (x *carried) apply(c *Case, e *edit) {
	for _, r := range x.moves {
		e.dropRoute(r.ID)
	}
	if x.gate != nil {
		e.route(x.gate.ID).From = x.env
	} else {
		e.connect(part{id: x.moves[0].Source()}, "amp", meaning.Route{Label: c.Meaning.Module(x.env).Label + " to level", From: x.env, To: []string{x.level()}, Polarity: "unipolar",
			Depth: meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: 1}}})
	}
	x.velocity(c, e)
	for _, id := range x.spare {
		e.drop(id)
	}
	e.worse(c, carriersPenalty, x.differ)
}

// level names the level of the amplifier.
func (x *carried) level() string { return x.amp + "." + string(meaning.PLevel) }

// velocity has what velocity does to the carriers done at the amplifier, as the deepest of them has it.
func (x *carried) velocity(c *Case, e *edit) {
	if len(x.struck) == 0 || slices.ContainsFunc(c.into(x.amp, meaning.PLevel), func(r *meaning.Route) bool { return r.From == "velocity" }) {
		return
	}
	deepest := x.struck[0]
	for _, r := range x.struck {
		if r.Depth.Value > deepest.Depth.Value {
			deepest = r
		}
	}
	moved := e.route(deepest.ID)
	moved.To = []string{x.level()}
	to := meaning.Ref(moved.ID, meaning.PDepth)
	for _, r := range x.struck {
		if r != deepest {
			e.dropRoute(r.ID)
			e.Map[meaning.Ref(r.ID, meaning.PDepth)] = to
		}
	}
}
