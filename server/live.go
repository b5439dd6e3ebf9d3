package server

import (
	"bytes"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"

	"glossator/core/audition"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/formats/wav"
)

// Live asks for what is heard now: a stretch of the phrase from a place on, at once, or with no Seconds the whole of it, folded for looping.
type Live struct {
	From    float64 `json:"from"`
	Seconds float64 `json:"seconds"`
	// Off are parts that are switched off.
	Off []string `json:"off,omitempty"`
	// Only is a part of the source, or with Ticked of the target, that is heard alone: the others that sound by themselves are off. Empty for all.
	Only string `json:"only,omitempty"`
	// Flavour of the patch; empty for the patch as it stands.
	Flavour string `json:"flavour,omitempty"`
	// Side of a sheet: "source" or "target".
	Side string `json:"side,omitempty"`
	// Control of the target at another reading than the sheet has, Reading; empty for none.
	Control string `json:"control,omitempty"`
	Reading string `json:"reading,omitempty"`
	// Ticked asks for the target as far as it has been dialled in: what is not ticked stands at init.
	Ticked bool `json:"ticked,omitempty"`
}

// longestLive is the longest stretch that is asked for, in seconds; before is how long before it notes are begun, so that they sound as they would.
const (
	longestLive = 8
	before      = 0.6
)

type patchLiveRequest struct {
	ID   string `path:"id"`
	Body Live
}

// patchLive gives a stretch of a patch, or all of it.
func (s *Server) patchLive(ctx context.Context, in patchLiveRequest) (none File[None], err error) {
	p, src, err := s.patchOn(in.ID)
	if err != nil {
		return none, err
	}
	if in.Body.Flavour != "" {
		if p, err = p.As(in.Body.Flavour); err != nil {
			return none, badRequest{err}
		}
	}
	layers, err := audition.Played(src, p, "")
	if err != nil {
		return none, err
	}
	off, err := in.Body.off(layers...)
	if err != nil {
		return none, err
	}
	for i := range layers {
		layers[i].Meaning = audition.Without(layers[i].Meaning, off...)
	}
	return s.live(ctx, in.Body, p.Name+" on "+src.Name, p, layers)
}

// off lists what is switched off in the layers of a source.
func (b *Live) off(layers ...synth.Layer) ([]string, error) {
	if b.Only == "" {
		return b.Off, nil
	}
	off, alone := slices.Clone(b.Off), false
	for i := range layers {
		others, ok := audition.Others(layers[i].Meaning, b.Only)
		off, alone = append(off, others...), alone || ok
	}
	if !alone {
		return nil, badRequest{fmt.Errorf("%s does not sound by itself: choose a line of an oscillator, a sub-oscillator, noise, a ring modulator or an operator", b.Only)}
	}
	return off, nil
}

type sheetLiveRequest struct {
	ID   uint `path:"id"`
	Body Live
}

// with sets a control of the target to a reading, as the hairline has it before it is kept; none for no control.
func (j *sheetInputs) with(control, reading string) error {
	if control == "" {
		return nil
	}
	k, ok := j.dst.ControlIndex(control)
	if !ok {
		return badRequest{fmt.Errorf("expected a control of %s, got %q", j.dst.Name, control)}
	}
	if _, err := j.dst.Parse(k, reading); err != nil {
		return badRequest{err}
	}
	over := maps.Clone(j.over)
	if over == nil {
		over = map[string]string{}
	}
	over[control] = reading
	j.over = over
	return nil
}

// sheetLive gives a stretch of one side of a sheet, or all of it.
func (s *Server) sheetLive(ctx context.Context, in sheetLiveRequest) (none File[None], err error) {
	b := in.Body
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	if err := j.with(b.Control, b.Reading); err != nil {
		return none, err
	}
	var layers []synth.Layer
	switch b.Side {
	case "source", "target", "":
	default:
		return none, badRequest{fmt.Errorf("side: expected source or target, got %q", b.Side)}
	}
	if b.Ticked {
		y, err := s.tickedLayer(j)
		if err != nil {
			return none, err
		}
		off, err := b.off(y)
		if err != nil {
			return none, err
		}
		y.Meaning = audition.Without(y.Meaning, off...)
		layers = []synth.Layer{y}
	} else {
		off := b.Off
		if b.Only != "" {
			source, err := audition.Played(j.src, j.patch, j.layer())
			if err != nil {
				return none, badRequest{err}
			}
			if off, err = b.off(source...); err != nil {
				return none, err
			}
		}
		x, err := s.sides(j, off, false)
		if err != nil {
			return none, err
		}
		layers = x.target
		if b.Side == "source" {
			layers = []synth.Layer{x.source}
		}
	}
	return s.live(ctx, b, "the translation on "+j.dst.Name, j.patch, layers)
}

// tickedLayer is the target as far as it has been dialled in.
func (s *Server) tickedLayer(j *sheetInputs) (none synth.Layer, err error) {
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return none, err
	}
	keys, err := s.store.Ticks(j.row.ID)
	if err != nil {
		return none, err
	}
	set := map[string]bool{}
	for _, k := range keys {
		set[k] = true
	}
	part := *sheet
	part.Moves, part.Settings, part.Cables = nil, nil, nil
	for _, x := range sheet.Settings {
		if set[x.Control] || x.Action == gloss.Leave {
			part.Settings = append(part.Settings, x)
		}
	}
	for _, c := range sheet.Cables {
		if set["cable:"+c.From+">"+c.To] {
			part.Cables = append(part.Cables, c)
		}
	}
	return audition.Target(j.dst, j.patch, &part)
}

// live renders what is asked for.
func (s *Server) live(ctx context.Context, b Live, label string, p *patch.Patch, layers []synth.Layer) (none File[None], err error) {
	if !(b.Seconds >= 0 && b.Seconds <= longestLive && b.From >= 0 && b.From <= synth.MaxSeconds) {
		return none, badRequest{fmt.Errorf("expected a stretch of at most %d s within the phrase, got %g s from %g s on", longestLive, b.Seconds, b.From)}
	}
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return none, badRequest{err}
	}
	left, right := []float64(nil), []float64(nil)
	if b.Seconds == 0 {
		_, k, err := s.renderLayers(ctx, label, layers, notes, p.Wheel)
		if err != nil {
			return none, err
		}
		left, right = k.Left, k.Right
		if k.Loop > 0 {
			left, right = (&synth.Sound{Left: k.Left, Right: k.Right, Loop: k.Loop}).Looped()
		}
	} else {
		end := 0.0
		for _, n := range notes {
			end = max(end, n.End)
		}
		beat := 60 / float64(panel.DefaultTempo)
		if p.Tempo > 0 {
			beat = 60 / p.Tempo
		}
		loop := math.Ceil(end/beat-1e-6) * beat
		start := max(0, b.From-before)
		stretch := stretchOf(notes, start, b.From+b.Seconds, loop)
		size := int(b.Seconds * synth.Rate)
		left, right = make([]float64, size), make([]float64, size)
		if len(stretch) > 0 {
			for i := range layers {
				layers[i].Played, layers[i].Moved = shifted(layers[i].Played, start), shifted(layers[i].Moved, start)
			}
			var out *synth.Sound
			err := s.queue.run(ctx, func() (err error) {
				out, err = synth.Render(layers, stretch, synth.Options{Seed: seed, Wheel: p.Wheel, From: start, Tail: 0.05, Stop: func() bool { return ctx.Err() != nil }})
				return err
			})
			if err != nil {
				return none, err
			}
			skip := int((b.From - start) * synth.Rate)
			for i := range left {
				if k := i + skip; k < len(out.Left) {
					left[i], right[i] = out.Left[k], out.Right[k]
				}
			}
		}
	}
	var w bytes.Buffer
	if err := wav.Write(&w, &wav.Sound{Rate: synth.Rate, Bits: 16, Left: left, Right: right}); err != nil {
		return none, err
	}
	return File[None]{Media: "audio/wav", Data: w.Bytes()}, nil
}

// stretchOf gives the notes that sound between two times of a phrase that is played round and round, from the first of them on; those that sound already begin there.
func stretchOf(notes []phrase.Note, from, to, loop float64) (out []phrase.Note) {
	for _, turn := range []float64{0, loop} {
		for _, n := range notes {
			a, b := n.Start+turn, n.End+turn
			if b <= from || a >= to || turn > 0 && turn >= to {
				continue
			}
			n.Start, n.End = max(a, from)-from, min(b, to+0.05)-from
			if n.End-n.Start > 1e-4 {
				out = append(out, n)
			}
		}
	}
	return out
}

// shifted gives gestures as they go from a time on.
func shifted(all []phrase.Gesture, from float64) []phrase.Gesture {
	out := make([]phrase.Gesture, len(all))
	for i, g := range all {
		now := phrase.Gesture{What: g.What, Points: []phrase.Point{{At: 0, Value: g.Value(from)}}}
		for _, p := range g.Points {
			if p.At >= from {
				now.Points = append(now.Points, phrase.Point{At: p.At - from, Value: p.Value})
			}
		}
		out[i] = now
	}
	return out
}
