package rules

import (
	"math"
	"slices"

	"glossator/core/meaning"
)

var syncedNote = Rule{ID: "synced-note", Name: "Hard sync by the wave at its master's note",
	Needs: "an oscillator that is synced, and none left on the target that can be", Uses: "nothing",
	Penalty: 0.25, Why: "a synced oscillator sounds at the note of its master: that is kept, its colour and what sweeps it are lost", Source: "common practice, no source",
	try: func(c *Case) []Recast {
		var out []Recast
		for _, m := range c.used(meaning.Osc) {
			if !syncs(m) || m.Changed() {
				continue
			}
			e := c.begin("no sync: %s plays the note of the oscillator that it was synced to", m.Label)
			e.part(m.ID)
			master, note := c.Meaning.SyncedTo(m), c.soundsAt(m)
			n := e.change(m.ID)
			delete(n.Params, meaning.PSync)
			put(n, meaning.PInterval, note)
			e.Map[meaning.Ref(m.ID, meaning.PSync)] = meaning.Ref(n.ID, meaning.PInterval)
			delete(e.Map, meaning.Ref(m.ID, meaning.PInterval))                  // its own is not heard
			e.retarget(n.ID, n.ID, func(p meaning.ParamName) meaning.ParamName { // what moved its pitch moved its colour
				if p == meaning.PInterval {
					return ""
				}
				return p
			})
			e.unneeded(master)
			out = append(out, e.Recast)
		}
		return out
	}}

// syncs tells whether an oscillator is begun anew by another.
func syncs(m *meaning.Module) bool {
	s := named(m, meaning.PSync)
	return s != "off" && s != ""
}

// soundsAt gives the interval at which an oscillator sounds: of a synced one, that of its master, which is the key where it is within it.
func (c *Case) soundsAt(m *meaning.Module) float64 {
	if !syncs(m) {
		return get(m, meaning.PInterval)
	}
	if x := c.Meaning.Module(c.Meaning.SyncedTo(m)); x != nil {
		return get(x, meaning.PInterval)
	}
	return 0
}

// unneeded takes out a silent module that nothing listens to any more.
func (e *edit) unneeded(id string) {
	if x := e.Meaning.Module(id); x != nil && off(x, meaning.PLevel) && !e.Meaning.Working()[id] && !slices.ContainsFunc(e.Meaning.Routes, func(r meaning.Route) bool { return slices.Contains(r.To, meaning.Ref(id, meaning.PLevel)) }) {
		e.drop(id)
	}
}

// harmonicOver gives the interval of the harmonic of a note that lies nearest to another interval, at least the first.
func harmonicOver(note, interval float64) float64 {
	n := math.Max(1, math.Round(math.Exp2((interval-note)/1200)))
	return note + 1200*math.Log2(n)
}
