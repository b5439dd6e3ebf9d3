package rules

import (
	"fmt"
	"math"
	"slices"

	"glossator/core/meaning"
	q "glossator/core/quantity"
)

var octave = Rule{ID: "octave", Name: "Played in another octave", Player: true,
	Needs: "oscillators that lie beyond the target's footages", Uses: "the player's hands, an octave or two away",
	Penalty: 0.2, Why: "the keyboard ends sooner on one side", Source: "arithmetic: footage, semitones and the key add up",
	try: func(c *Case) []Recast {
		var pitched []*meaning.Module
		shifts := map[int]bool{}
		for _, k := range []meaning.Kind{meaning.Osc, meaning.Sub, meaning.Operator} {
			for _, m := range c.used(k) {
				if !off(m, "fixed") {
					continue // it does not follow the keys
				}
				pitched = append(pitched, m)
				if got, ok := c.Reached(m.ID, "interval"); ok && math.Abs(got-get(m, "interval")) > 600 {
					shifts[int(math.Round((got-get(m, "interval"))/1200))] = true
				}
			}
		}
		var out []Recast
		for _, k := range []int{-2, -1, 1, 2} {
			if !shifts[k] || slices.ContainsFunc(pitched, func(m *meaning.Module) bool { return m.ID[len(m.ID)-1] == '~' }) {
				continue
			}
			way, n := "higher", -k
			if k > 0 {
				way, n = "lower", k
			}
			e := c.begin("play %s %s: the oscillators are set as far the other way", several(n, "octave"), way)
			e.part(pitched[0].ID)
			for _, m := range pitched {
				x := e.change(m.ID)
				v := x.Params["interval"]
				v.Dim, v.Value, v.Parts = q.DimInterval, v.Value+float64(1200*k), nil
				x.Params["interval"] = v
			}
			// a filter that follows the keys is moved back as far as the keys have gone
			for _, f := range c.used(meaning.Filter) {
				if t := get(f, "track"); t != 0 && !off(f, "cutoff") {
					x := e.change(f.ID)
					v := x.Params["cutoff"]
					v.Value *= math.Exp2(float64(k) * t)
					x.Params["cutoff"] = v
				}
			}
			out = append(out, e.Recast)
		}
		return out
	}}

var combined = Rule{ID: "combined", Name: "Two routes in one",
	Needs: "two routes from one source to one destination, and one way on the target", Uses: "the depth of the one",
	Penalty: 0.02, Why: "the two can no longer be set apart", Source: "depths add",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			for _, o := range c.routes() {
				if o.ID == r.ID || c.Lost[o.ID] || o.From != r.From || o.Via != r.Via || o.Polarity != r.Polarity || !slices.Equal(o.To, r.To) || o.Depth.Dim != r.Depth.Dim {
					continue
				}
				e := c.begin("%s and %s add up to %s in one", r.Label, o.Label, text(r.Depth.Dim, r.Depth.Value+o.Depth.Value))
				way := e.route(o.ID)
				way.Depth.Value += r.Depth.Value
				e.Map[r.ID+".depth"] = way.ID + ".depth"
				e.dropRoute(r.ID) // what was found before stands elsewhere now
				out = append(out, e.Recast)
				break
			}
		}
		return out
	}}

var filterFM = Rule{ID: "filter-fm", Name: "Filter modulation by an LFO at audio rate",
	Needs: "an oscillator that moves a cutoff, and an LFO left on the target that is fast enough", Uses: "an LFO and its route to the cutoff",
	Penalty: 0.3, Why: "an LFO seldom follows the keys exactly, nor the phase of the oscillator", Source: "frequency of the oscillator at C4, from its interval",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, r := range c.lostRoutes() {
			o := c.Meaning.Module(r.From)
			id, name := meaning.Split(r.To[0])
			f := c.Meaning.Module(id)
			if o == nil || o.Kind != meaning.Osc || f == nil || f.Kind != meaning.Filter || name != "cutoff" || c.Have(meaning.LFO) <= len(c.used(meaning.LFO)) {
				continue
			}
			rate := float64(q.Note(60).Frequency()) * math.Exp2(get(o, "interval")/1200)
			e := c.begin("an LFO at %s for middle C, by the key, moves the cutoff as %s did", text(q.DimFrequency, rate), o.Label)
			l := e.add(r.ID+"~lfo", meaning.LFO, fmt.Sprintf("LFO for %s", r.Label))
			put(l, "rate", rate)
			put(l, "key", 1)
			take(l, o, "wave", "wave")
			e.route(r.ID).From = l.ID
			out = append(out, e.Recast)
		}
		return out
	}}
