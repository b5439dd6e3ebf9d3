package server

import (
	"context"
	"errors"
	"sync"

	"glossator/core/audition"
	"glossator/core/hear"
	"glossator/core/phrase"
	"glossator/core/synth"
)

const engineVersion = 8 // of what renders and of what is found by it: what another has made is made again

// seed is the seed of what is played: the same patch sounds the same.
const seed = 1

// Rendering says how far what is being rendered is.
type Rendering struct {
	// Running counts the sounds that are being rendered; Share is how far they are together, 0 to 1.
	Running int     `json:"running"`
	Share   float64 `json:"share"`
	// Waiting counts what waits for its turn: a sound that was asked for last comes after all of it.
	Waiting int `json:"waiting"`
}

// renders keeps how far each rendering is.
type renders struct {
	mu   sync.Mutex
	next int
	at   map[int]float64
}

// begin notes that a rendering has begun; end has to be called when it is over.
func (r *renders) begin() (tell func(share float64), end func()) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.at == nil {
		r.at = map[int]float64{}
	}
	id := r.next
	r.next++
	r.at[id] = 0
	tell = func(x float64) {
		r.mu.Lock()
		defer r.mu.Unlock()
		r.at[id] = x
	}
	end = func() {
		r.mu.Lock()
		defer r.mu.Unlock()
		delete(r.at, id)
	}
	return tell, end
}

func (r *renders) state() Rendering {
	r.mu.Lock()
	defer r.mu.Unlock()
	out := Rendering{Running: len(r.at)}
	for _, x := range r.at {
		out.Share += x / float64(len(r.at))
	}
	return out
}

// rendering tells how far what is being rendered is.
func (s *Server) rendering(ctx context.Context, in None) (none Rendering, err error) {
	r := s.renders.state()
	r.Waiting = s.queue.waits()
	return r, nil
}

// renderLayers gives the sound of layers.
// Where nobody waits for it any more (ctx), it is given up.
func (s *Server) renderLayers(ctx context.Context, label string, layers []synth.Layer, notes []phrase.Note, wheel float64) (string, *kept, error) {
	key := hashOf(engineVersion, layers, notes, wheel, seed)
	k, err := s.sounds.render(key, func() (*kept, error) {
		tell, end := s.renders.begin()
		defer end()
		var out *synth.Sound
		err := s.queue.run(ctx, func() (err error) {
			out, err = synth.Render(layers, notes, synth.Options{Seed: seed, Wheel: wheel, Progress: tell, Stop: func() bool { return ctx.Err() != nil }})
			return err
		})
		if errors.Is(err, context.Canceled) {
			err = synth.ErrStopped
		}
		if errors.Is(err, errBusy) {
			return nil, err
		}
		if errors.Is(err, synth.ErrStopped) {
			return nil, err
		}
		if err != nil {
			return nil, badRequest{err}
		}
		k := &kept{Rate: synth.Rate, Loop: out.Loop, Label: label, Stages: out.Stages, Limited: out.Limited, Assumed: out.Assumed, Left: out.Left, Right: out.Right, Times: audition.Times(notes)}
		e := hear.Listen(k.wave())
		k.Loudness, k.Peak = -90, -120
		if l, ok := hear.Loudness(k.wave()); ok {
			k.Loudness = l
		}
		if p := e.Peak(); p.Known {
			k.Peak = p.Value
		}
		return k, nil
	})
	if k != nil {
		k.Label = label
	}
	return key, k, err
}

func (s *Server) noteOf(ctx context.Context, y []synth.Layer, key int, wheel float64) (string, *kept, error) {
	return s.renderLayers(ctx, "note", y, []phrase.Note{{Start: 0, End: 0.8, Key: float64(key), Velocity: 100}}, wheel)
}
