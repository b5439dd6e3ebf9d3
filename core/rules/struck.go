package rules

import (
	"fmt"
	"math"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

// struckAt is the velocity at which a sound stays as it is where velocity is brought in otherwise (common practice, no source).
const struckAt = 100.0 / 127

var struck = Rule{ID: "struck", Name: "An envelope's velocity by a route, or a route's by the envelope",
	Needs: "an envelope that velocity scales, where the target's has no such control, or a route from velocity that the target lacks and an envelope there that velocity scales", Uses: "a route from velocity, or the control of the envelope",
	Penalty: 0.1, Why: "a level is scaled alike; a cutoff is moved for the whole note instead of with the envelope", Source: "arithmetic: an envelope scaled by 1 - v + v x is one of full size by a route of depth v",
	try: func(c *Case) (out []Recast) {
		scaled := c.Param(meaning.Env, meaning.PVelocity)
		for _, m := range c.used(meaning.Env) {
			if v := get(m, meaning.PVelocity); v > 0.02 && !scaled {
				if e := c.velocityBeside(m, v); e != nil {
					out = append(out, e.Recast)
				}
			}
		}
		for _, r := range c.lostRoutes() {
			if r.From == "velocity" && r.Via == "" && len(r.To) == 1 && r.Depth.Value > 0 && scaled {
				if e := c.velocityWithin(r); e != nil {
					out = append(out, e.Recast)
				}
			}
		}
		return out
	}}

// scales tells whether what moves a parameter multiplies it: the level of an amplifier or an operator.
func (c *Case) scales(to string) bool {
	id, name := meaning.Split(to)
	m := c.Meaning.Module(id)
	return m != nil && name == meaning.PLevel && (m.Kind == meaning.Amp || m.Kind == meaning.Operator)
}

// heldOf gives where an envelope stands on average while a note is held, as openedBy has it.
func heldOf(env *meaning.Module) float64 {
	s := get(env, meaning.PSustain)
	return s + (1-s)/3
}

// velocityBeside has velocity move what an envelope moves, beside it, and no longer the envelope. nil where velocity moves one of them already.
func (c *Case) velocityBeside(m *meaning.Module, v float64) *edit {
	e := c.begin("velocity moves what %s moves, instead of scaling it", m.Label)
	e.part(m.ID)
	n := e.change(m.ID)
	delete(n.Params, meaning.PVelocity)
	for _, r := range c.from(m.ID) {
		if len(r.To) != 1 || r.Via != "" {
			return nil
		}
		id, name := meaning.Split(r.To[0])
		for _, x := range c.into(id, name) {
			if x.From == "velocity" {
				return nil
			}
		}
		way := meaning.Route{Label: "Velocity to what " + m.Label + " moves", From: "velocity", To: r.To, Polarity: "unipolar", Depth: r.Depth}
		if c.scales(r.To[0]) {
			way.Depth = meaning.Value{Quantity: q.Quantity{Dim: q.DimRatio, Value: v}}
		} else {
			depth := r.Depth.Value
			way.Depth.Value = depth * v * heldOf(m)
			e.route(r.ID).Depth.Value = depth * (1 - v + v*struckAt)
			to := c.Meaning.Module(id)
			if to == nil || to.Changed() {
				return nil
			}
			p, _ := meaning.SpecOf(to.Kind).Param(name)
			moved := e.change(id)
			shift(e, moved.ID, name, -way.Depth.Value*struckAt)
			if p.Dim == q.DimRatio {
				put(moved, name, math.Max(0, get(moved, name)))
			}
			way.To = []string{meaning.Ref(moved.ID, name)}
		}
		ref := meaning.Ref(e.connect(route(r), "velocity", way), meaning.PDepth)
		if _, has := e.Map[meaning.Ref(m.ID, meaning.PVelocity)]; !has || c.scales(r.To[0]) {
			e.Map[meaning.Ref(m.ID, meaning.PVelocity)] = ref
		}
	}
	return e
}

// velocityWithin has velocity scale the envelope that moves what a route from velocity moves; nil where there is none, or it moves something else too.
func (c *Case) velocityWithin(r *meaning.Route) *edit {
	id, name := meaning.Split(r.To[0])
	for _, x := range c.into(id, name) {
		env := c.Meaning.Module(x.From)
		if env == nil || env.Kind != meaning.Env || env.Changed() || x.Via != "" || x.Depth.Value <= 0 || len(c.from(env.ID)) != 1 || len(x.To) != 1 || get(env, meaning.PVelocity) != 0 {
			continue
		}
		e := c.begin("")
		v := math.Min(1, r.Depth.Value)
		if !c.scales(r.To[0]) {
			v = math.Min(0.9, r.Depth.Value/(x.Depth.Value*heldOf(env)))
			to := c.Meaning.Module(id)
			if to == nil || to.Changed() {
				continue
			}
			e.route(x.ID).Depth.Value = x.Depth.Value / (1 - v + v*struckAt)
			shift(e, e.change(id).ID, name, r.Depth.Value*struckAt)
		}
		e.part(env.ID)
		n := e.change(env.ID)
		put(n, meaning.PVelocity, v)
		e.dropRoute(r.ID)
		e.Map[meaning.Ref(r.ID, meaning.PDepth)] = meaning.Ref(n.ID, meaning.PVelocity)
		e.Text = fmt.Sprintf("velocity scales %s, which moves the same", env.Label)
		return e
	}
	return nil
}
