package audition

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	q "glossator/core/quantity"
	"glossator/core/synth"
)

// Played reads the layers of a patch as Layers does, with what is moved while its phrase is played.
func Played(c *panel.Compiled, p *patch.Patch, layer string) ([]synth.Layer, error) {
	out, err := Layers(c, p, layer)
	if err != nil || p.Phrase == nil || len(p.Phrase.Moves) == 0 {
		return out, err
	}
	all, err := phrase.Moves(p.Phrase)
	if err != nil {
		return nil, err
	}
	n := 0
	for i := range p.Layers {
		y := &p.Layers[i]
		if layer != "" && y.ID != layer {
			continue
		}
		s, err := c.Read(y, "")
		if err != nil {
			return nil, err
		}
		mine := slices.DeleteFunc(slices.Clone(all), func(m phrase.Moved) bool { return m.ByPlayer() || m.Layer != y.ID && (m.Layer != "" || i > 0) })
		if out[n], err = moving(out[n], c, s, p.Phrase, mine, q.Tempo(p.Tempo), p.Wheel); err != nil {
			return nil, err
		}
		n++
	}
	return out, nil
}

// PlayedTarget gives the target as Target does, with what is moved there while the phrase is played.
func PlayedTarget(dst *panel.Compiled, p *patch.Patch, s *gloss.Sheet) (synth.Layer, error) {
	y, err := Target(dst, p, s)
	if err != nil || p.Phrase == nil || len(p.Phrase.Moves) == 0 {
		return y, err
	}
	all, err := phrase.Moves(p.Phrase)
	if err != nil {
		return y, err
	}
	var mine []phrase.Moved
	for _, m := range all {
		for _, x := range s.Moves {
			if x.Index != m.Index {
				continue
			}
			for _, to := range x.Target {
				mine = append(mine, phrase.Moved{Move: &patch.Move{What: to.Control, From: to.From, To: to.To}, Index: m.Index, Start: m.Start, End: m.End})
			}
		}
	}
	state, err := State(dst, s)
	if err != nil {
		return y, err
	}
	return moving(y, dst, state, p.Phrase, mine, q.Tempo(p.Tempo), p.Wheel)
}

// movePlaces is at how many places of a hand's travel a panel is read.
const movePlaces = 16

// moving gives a layer with the moves of a phrase: those of the player's means, and those of controls of a panel that stands as state says. moves lists the latter, by the ids of controls. Where a move
// brings a part in that is silent as the panel stands, the layer's meaning is read where it sounds.
func moving(y synth.Layer, c *panel.Compiled, state *panel.State, p *patch.Phrase, moves []phrase.Moved, tempo q.Tempo, wheel float64) (synth.Layer, error) {
	if p == nil {
		return y, nil
	}
	if tempo <= 0 {
		tempo = panel.DefaultTempo
	}
	var err error
	if y.Played, err = phrase.Played(p, tempo, wheel); err != nil {
		return y, err
	}
	byControl := map[int][]phrase.Moved{}
	for _, m := range moves {
		k, ok := c.ControlIndex(m.What)
		if !ok {
			return y, fmt.Errorf("move %d: %s has no control %q", m.Index+1, c.Name, m.What)
		}
		byControl[k] = append(byControl[k], m)
	}
	if len(byControl) == 0 {
		return y, nil
	}
	type place struct{ control, index int }
	read := map[place]*meaning.Meaning{} // each place once, however often it is passed
	at := func(k int, travel float64) *meaning.Meaning {
		pos := c.Controls[k].Face.Nearest(travel)
		if m := read[place{k, pos.Index}]; m != nil {
			return m
		}
		now := *state
		now.At = slices.Clone(state.At)
		now.At[k] = pos
		m := c.Interpret(&now, tempo)
		read[place{k, pos.Index}] = m
		return m
	}
	controls := slices.Sorted(maps.Keys(byControl))
	// the places that each control goes through
	type leg struct{ from, to float64 }
	legs := map[int][]leg{}
	base, most := y.Meaning, used(y.Meaning)
	for _, k := range controls {
		for _, m := range byControl[k] {
			a, err := c.Parse(k, m.From)
			if err != nil {
				return y, fmt.Errorf("move %d: %w", m.Index+1, err)
			}
			b, err := c.Parse(k, m.To)
			if err != nil {
				return y, fmt.Errorf("move %d: %w", m.Index+1, err)
			}
			legs[k] = append(legs[k], leg{a.Travel, b.Travel})
			for _, end := range []float64{a.Travel, b.Travel} {
				if x := at(k, end); used(x) > most {
					base, most = x, used(x)
				}
			}
		}
	}
	// the panel as it stands is so far from the base, all the time; what each control adds to that adds up
	rest := shifts(base, y.Meaning)
	for _, ref := range slices.Sorted(maps.Keys(rest)) {
		y.Moved = append(y.Moved, phrase.Gesture{What: ref, Points: []phrase.Point{{Value: rest[ref]}}})
	}
	y.Meaning = base
	for _, k := range controls {
		ways := make([][movePlaces + 1]map[string]float64, len(legs[k]))
		refs := map[string]bool{}
		for i, l := range legs[k] {
			for n := range ways[i] {
				now := shifts(base, at(k, l.from+float64(n)/movePlaces*(l.to-l.from)))
				for ref, v := range rest {
					now[ref] -= v
				}
				maps.DeleteFunc(now, func(_ string, v float64) bool { return v == 0 })
				for ref := range now {
					refs[ref] = true
				}
				ways[i][n] = now
			}
		}
		for _, ref := range slices.Sorted(maps.Keys(refs)) {
			var list []phrase.Stretch
			for i, m := range byControl[k] {
				start, end := phrase.Seconds(m.Start, tempo), phrase.Seconds(m.End, tempo)
				point := func(n int) phrase.Point {
					return phrase.Point{At: start + float64(n)/movePlaces*(end-start), Value: ways[i][n][ref]}
				}
				for n := range movePlaces {
					list = append(list, phrase.Stretch{From: point(n), To: point(n + 1)})
				}
			}
			slices.SortStableFunc(list, func(a, b phrase.Stretch) int { return cmp.Compare(a.From.At, b.From.At) })
			y.Moved = append(y.Moved, phrase.Join(ref, 0, list))
		}
	}
	return y, nil
}

// used counts what of a meaning does something.
func used(m *meaning.Meaning) (n int) {
	for i := range m.Modules {
		if m.Modules[i].Used() {
			n++
		}
	}
	for i := range m.Routes {
		if m.Routes[i].Used() {
			n++
		}
	}
	return n
}

// shifts gives how far the parameters and depths of a meaning are from those of a base, in the depth that a route would move them by; what stands where it does is not named.
func shifts(base, m *meaning.Meaning) map[string]float64 {
	out := map[string]float64{}
	for i := range base.Modules {
		a := &base.Modules[i]
		b := m.Module(a.ID)
		spec := meaning.SpecOf(a.Kind)
		if b == nil || spec == nil {
			continue
		}
		for _, p := range spec.Params {
			x, _ := a.Get(p.Name)
			y, _ := b.Get(p.Name)
			if p.Name == meaning.PLevel && !b.Used() && a.Used() { // it is silent there
				y.Off = true
			}
			if d := shift(p.Dim, x.Quantity, y.Quantity); d != 0 {
				out[meaning.Ref(a.ID, p.Name)] = d
			}
		}
	}
	for i := range base.Routes {
		a := &base.Routes[i]
		b := m.Route(a.ID)
		if b == nil {
			continue
		}
		x, y := a.Depth.Value, b.Depth.Value
		if !a.Used() || a.Depth.Off {
			x = 0
		}
		if !b.Used() || b.Depth.Off {
			y = 0
		}
		if x != y {
			out[meaning.Ref(a.ID, meaning.PDepth)] = y - x
		}
	}
	return out
}

// shift gives how far a quantity is from another in the depth of its dimension.
func shift(d q.Dim, from, to q.Quantity) float64 {
	if d == q.DimName || d == q.DimWave || from == to {
		return 0
	}
	switch {
	case d == q.DimLevel:
		return amplitude(to) - amplitude(from)
	case meaning.DepthDim(d) == q.DimOctaves:
		if from.Off || to.Off || from.Value <= 0 || to.Value <= 0 {
			return 0
		}
		return math.Log2(to.Value / from.Value)
	}
	value := func(x q.Quantity) float64 {
		if x.Off {
			return 0
		}
		return x.Value
	}
	return value(to) - value(from)
}

func amplitude(x q.Quantity) float64 {
	if x.Off {
		return 0
	}
	return q.Level(x.Value).Amplitude()
}
