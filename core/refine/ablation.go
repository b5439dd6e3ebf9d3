package refine

import (
	"sync"

	"glossator/core/audition"
	"glossator/core/compare"
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
	whole, err := play.Sketch(layers[:1], notes, 2)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, x := range audition.Parts(m, nil) {
		ids = append(ids, x.ID)
	}
	for i := range m.Routes {
		r := &m.Routes[i]
		if !r.Used() {
			continue
		}
		// what opens the sound is not taken away: nothing would stop
		if r.From == "velocity" || !m.Shapes(r) {
			ids = append(ids, r.ID)
		}
	}
	out := map[string]float64{}
	var mu sync.Mutex
	var first error
	var wg sync.WaitGroup
	slots := make(chan struct{}, 2)
	for _, id := range ids {
		if stop != nil && stop() {
			break
		}
		slots <- struct{}{}
		wg.Go(func() {
			defer func() { <-slots }()
			y := layers[0]
			y.Meaning = audition.Without(m, id)
			k, err := play.Sketch([]synth.Layer{y}, notes, 1)
			mu.Lock()
			defer mu.Unlock()
			if err != nil && first == nil {
				first = err
				return
			}
			if err == nil {
				out[id] = compare.Apart(whole, k, false).Total
			}
		})
	}
	wg.Wait()
	return out, first
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
