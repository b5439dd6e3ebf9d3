package refine

import (
	"golang.org/x/sync/errgroup"

	"glossator/core/compare"
	"glossator/core/hear"
	"glossator/core/phrase"
	"glossator/core/synth"
)

// Together does something for a number of things, two at a time, and gives the first error. What stop (nil for never) comes before is not done.
func Together(n int, stop func() bool, do func(i int) error) error {
	var g errgroup.Group
	g.SetLimit(2)
	faults := make([]any, n)
	for i := range n {
		if stop != nil && stop() {
			break
		}
		g.Go(func() error {
			defer func() { faults[i] = recover() }()
			return do(i)
		})
	}
	err := g.Wait()
	for _, f := range faults {
		if f != nil {
			panic(f) // to fall where somebody may catch it
		}
	}
	return err
}

// Sketches renders several sounds, all their takes two at a time, and gives the sketch of each.
func (p *Player) Sketches(sounds [][]synth.Layer, notes []phrase.Note) ([]*compare.Sketch, error) {
	takes := max(1, p.Takes)
	each := make([]*compare.Sketch, takes*len(sounds))
	workers := 1
	if len(each) == 1 {
		workers = 2
	}
	err := Together(len(each), nil, func(i int) (err error) {
		each[i], err = p.Take(sounds[i/takes], notes, uint64(i%takes), workers)
		return err
	})
	if err != nil {
		return nil, err
	}
	out := make([]*compare.Sketch, len(sounds))
	for i := range out {
		out[i] = each[i*takes]
		if takes > 1 {
			out[i] = compare.Mean(each[i*takes : (i+1)*takes])
		}
	}
	return out, nil
}

// Take renders one take, on so many goroutines.
func (p *Player) Take(layers []synth.Layer, notes []phrase.Note, seed uint64, workers int) (*compare.Sketch, error) {
	s, err := synth.Render(layers, notes, synth.Options{Seed: seed, Wheel: p.Wheel, Tail: p.Tail, Workers: workers, Bank: p.Bank, Unmetered: true})
	if err != nil {
		return nil, err
	}
	if p.Bank != nil {
		defer p.Bank.Leave(s)
	}
	return compare.SketchedBy(workers, hear.Wave{Rate: synth.Rate, Left: s.Left, Right: s.Right}), nil
}
