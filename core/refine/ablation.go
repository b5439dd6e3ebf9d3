package refine

import (
	"sync"

	"glossator/core/audition"
	"glossator/core/compare"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/synth"
)

// Heard gives how much each module and route of a layer is heard: the distance, in just-noticeable differences,
// between the sound with it and without it. Voice set-up, mixers and amplifiers are not taken away. stop
// may be nil.
func Heard(src *panel.Compiled, p *patch.Patch, layer string, notes []phrase.Note, stop func() bool) (map[string]float64, error) {
	layers, err := audition.Layers(src, p, layer)
	if err != nil {
		return nil, err
	}
	notes = Excerpt(notes)
	if len(notes) == 0 {
		return nil, synth.ErrNothing
	}
	m := layers[0].Meaning
	play := Player{Wheel: p.Wheel, Tail: longTail, Bank: synth.NewBank()}
	whole, err := play.Take(layers[:1], notes, 0, 2)
	if err != nil {
		return nil, err
	}
	ids := parts(m)
	out := map[string]float64{}
	var mu sync.Mutex
	err = Together(len(ids), stop, func(i int) error {
		y := layers[0]
		y.Meaning = audition.Without(m, ids[i])
		k, err := play.Take([]synth.Layer{y}, notes, 0, 1)
		if err != nil {
			return err
		}
		mu.Lock()
		defer mu.Unlock()
		out[ids[i]] = compare.Apart(whole, k, false).Total
		return nil
	})
	return out, err
}

// parts are those of a meaning that are taken away one at a time: not what opens the sound, as nothing would stop.
func parts(m *meaning.Meaning) (ids []string) {
	for _, x := range audition.Parts(m, nil) {
		ids = append(ids, x.ID)
	}
	for i := range m.Routes {
		if r := &m.Routes[i]; r.Used() && (r.From == "velocity" || !m.Shapes(r)) {
			ids = append(ids, r.ID)
		}
	}
	return ids
}

// HeardWork estimates what Heard takes: thousandths of a second of one core (synth.Effort). It gives 0 where there is nothing to hear.
func HeardWork(src *panel.Compiled, p *patch.Patch, layer string, notes []phrase.Note) float64 {
	layers, err := audition.Layers(src, p, layer)
	if err != nil {
		return 0
	}
	return float64(1+len(parts(layers[0].Meaning))) * ExcerptWork(layers[:1], notes)
}

// ExcerptWork estimates what a render of the excerpt of a line and its comparison take, as HeardWork does.
func ExcerptWork(layers []synth.Layer, notes []phrase.Note) float64 {
	if notes = Excerpt(notes); len(notes) == 0 {
		return 0
	}
	return work(layers, notes, longTail)
}

// work estimates what a render and its comparison take, in thousandths of a second of one core (synth.Effort).
func work(layers []synth.Layer, notes []phrase.Note, tail float64) float64 {
	return synth.Effort(layers, notes, tail) + sketching*float64(synth.Channels(layers))*(end(notes)+tail)
}

// Weights turns what is heard into factors for the weights of a translation: nothing for what is not heard at
// all, 1 for ten just-noticeable differences, at most 1.4.
func Weights(heard map[string]float64) map[string]float64 {
	out := map[string]float64{}
	for id, d := range heard {
		out[id] = 1.4 * d / (d + 4)
	}
	return out
}
