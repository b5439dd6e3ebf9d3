package synth

import (
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/phrase"
	q "glossator/core/quantity"
)

// UsualBend is how far a bender goes where a panel does not say: two semitones (MIDI 1.0, registered parameter 0: what instruments stand at, from memory).
const UsualBend q.Interval = 200

// bend lets the bender move the pitch by its range, where it is moved and no route says what it does to a pitch.
func (e *engine) bend() {
	i := slices.IndexFunc(e.played, func(g phrase.Gesture) bool { return g.What == "bend" })
	if i < 0 || slices.ContainsFunc(e.m.Routes, func(r meaning.Route) bool {
		return r.From == "bend" && r.Used() && slices.ContainsFunc(r.To, func(to string) bool {
			return strings.HasSuffix(to, "."+string(meaning.PInterval)) || strings.HasSuffix(to, "."+string(meaning.PTune)) || strings.HasSuffix(to, "."+string(meaning.PTranspose))
		})
	}) {
		return
	}
	depth := float64(UsualBend)
	if k := slices.IndexFunc(e.m.Modules, func(d meaning.Module) bool { return d.Kind == meaning.Voice }); k >= 0 {
		if v, ok := e.m.Modules[k].Params[meaning.PBend]; ok && !v.Off {
			depth = v.Value
		}
	}
	e.voice.tuneMods = append(e.voice.tuneMods, mod{source: source{kind: fromPlayer, i: i, both: true}, depth: depth})
}

// move lets the moved parameters go as they are moved.
func (e *engine) move(oscOf, noiseOf, filterOf map[string]int) {
	for i := range e.moved {
		ref := e.moved[i].What
		id, param := meaning.Split(ref)
		src := source{kind: fromPlayer, i: len(e.played) + i}
		if r := e.m.Route(id); r != nil {
			from, ok := e.sourceOf(r.From)
			if !ok || param != meaning.PDepth {
				e.assume("%s: that it is moved is not played", r.Label)
				continue
			}
			w := mod{source: from, depth: 1, via: &src, unipolar: r.Polarity == "unipolar", curve: r.Curve}
			for _, to := range r.To {
				id, param := meaning.Split(to)
				if d := e.m.Module(id); d != nil && d.Used() && !e.attach(d, param, w, oscOf, noiseOf, filterOf) {
					e.assume("%s: that it is moved is not played", r.Label)
				}
			}
			continue
		}
		d := e.m.Module(id)
		if d == nil || !d.Used() || !e.attach(d, param, mod{source: src, depth: 1}, oscOf, noiseOf, filterOf) {
			label := id
			if d != nil {
				label = d.Label
			}
			e.assume("%s: that its %s is moved is not played", label, param)
		}
	}
}
