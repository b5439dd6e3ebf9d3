package server

import (
	"bytes"
	"context"
	"fmt"

	"glossator/core/audition"
	"glossator/core/hear"
	"glossator/core/panel"
	"glossator/core/quantity"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/core/wire"
	"glossator/formats/smf"
	"glossator/formats/wav"
	"glossator/standin"
)

// Received is what came from an instrument.
type Received struct {
	// Before are messages that came earlier, of which only what they chose counts (an NRPN, the upper half of a pair).
	Before []int `json:"before,omitempty"`
	// Bytes are the messages that came now, whole ones one after another.
	Bytes []int `json:"bytes"`
}

// mostReceived bounds the bytes of one request: a dump is 64 KB at the most.
const mostReceived = 1 << 17

// on tells what it means on a panel.
func (r Received) on(p *panel.Compiled) (none wire.Found, err error) {
	before, err := messages("before", r.Before)
	if err != nil {
		return none, err
	}
	now, err := messages("bytes", r.Bytes)
	if err != nil {
		return none, err
	}
	return wire.Since(p, before, now), nil
}

func messages(name string, all []int) ([]wire.Message, error) {
	if len(all) > mostReceived {
		return nil, badRequest{fmt.Errorf("%s: expected at most %d bytes, got %d", name, mostReceived, len(all))}
	}
	data := make([]byte, len(all))
	for i, b := range all {
		if b < 0 || b > 255 {
			return nil, badRequest{fmt.Errorf("%s: expected bytes from 0 to 255, got %d", name, b)}
		}
		data[i] = byte(b)
	}
	if len(data) == 0 {
		return nil, nil
	}
	out, err := smf.Stream(data)
	if err != nil {
		return nil, badRequest{fmt.Errorf("%s: %w", name, err)}
	}
	return out, nil
}

type standInMIDIRequest struct {
	ID   string `path:"id"`
	Body ToStandIn
}

// ToStandIn is what a stand-in is sent.
type ToStandIn struct {
	// Unit is its number.
	Unit int `json:"unit"`
	// Before is all that it has had, Bytes what it gets now.
	Before []int `json:"before,omitempty"`
	Bytes  []int `json:"bytes"`
}

// Answered is what an instrument answers to MIDI.
type Answered struct {
	Bytes []int `json:"bytes"`
}

// standInMIDI gives bytes to a stand-in of a panel, after all that it had before, and gives what it answers: the place of a MIDI port for who has no instrument.
func (s *Server) standInMIDI(ctx context.Context, in standInMIDIRequest) (none Answered, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	u, now, err := in.Body.on(c)
	if err != nil {
		return none, err
	}
	return Answered{ints(smf.Bytes(u.MIDI(now)))}, nil
}

// on gives a stand-in that has taken what came before, and what it is to take now.
func (r *ToStandIn) on(c *panel.Compiled) (*standin.Unit, []wire.Message, error) {
	if err := goodUnit(r.Unit); err != nil {
		return nil, nil, err
	}
	before, err := messages("before", r.Before)
	if err != nil {
		return nil, nil, err
	}
	now, err := messages("bytes", r.Bytes)
	if err != nil {
		return nil, nil, err
	}
	u, err := standin.New(c, r.Unit)
	if err != nil {
		return nil, nil, badRequest{err}
	}
	u.MIDI(before)
	return u, now, nil
}

type sheetStandInRequest struct {
	ID   uint `path:"id"`
	Body ToStandIn
}

// sheetStandIn plays the phrase of a sheet on a stand-in of its target, as MIDI has set it: an instrument that has been dialled in, with its own laws. It passes the limiter as everything that is heard.
func (s *Server) sheetStandIn(ctx context.Context, in sheetStandInRequest) (none File[None], err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	u, now, err := in.Body.on(j.dst)
	if err != nil {
		return none, err
	}
	u.MIDI(now)
	notes, _, err := audition.Notes(j.patch, "", 0)
	if err != nil {
		return none, badRequest{err}
	}
	u.Wheel(j.patch.Wheel)
	var out hear.Wave
	if err := s.queue.run(ctx, func() (err error) {
		out, err = u.Play(notes, quantity.Tempo(j.patch.Tempo))
		return err
	}); err != nil {
		return none, badRequest{err}
	}
	synth.Limit(out.Left, out.Right, synth.Ceiling)
	var w bytes.Buffer
	if err := wav.Write(&w, &wav.Sound{Rate: int(out.Rate), Bits: 16, Left: out.Left, Right: out.Right}); err != nil {
		return none, err
	}
	return File[None]{Media: "audio/wav", Data: w.Bytes()}, nil
}

type panelReceivedRequest struct {
	ID   string `path:"id"`
	Body Received
}

// panelReceived tells what MIDI from an instrument means on its panel.
func (s *Server) panelReceived(ctx context.Context, in panelReceivedRequest) (none wire.Found, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	return in.Body.on(c)
}

type layerReceivedRequest struct {
	ID    string `path:"id"`
	Layer string `path:"layer"`
	Body  Received
}

// layerReceived tells what MIDI from an instrument means for a layer of a patch; nothing is stored.
func (s *Server) layerReceived(ctx context.Context, in layerReceivedRequest) (none wire.Found, err error) {
	pl, err := s.layer(in.ID, in.Layer)
	if err != nil {
		return none, err
	}
	out, err := in.Body.on(pl.panel)
	if err != nil {
		return none, err
	}
	now, err := pl.panel.Read(&pl.patch.Layers[pl.layer], "")
	if err != nil {
		return none, err
	}
	out.Against(pl.panel, now)
	return out, nil
}

type sheetReceivedRequest struct {
	ID   uint `path:"id"`
	Body Received
}

// sheetReceived tells what MIDI from the target of a sheet means, beside what the sheet plans; nothing is stored.
func (s *Server) sheetReceived(ctx context.Context, in sheetReceivedRequest) (none wire.Found, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	out, err := in.Body.on(j.dst)
	if err != nil {
		return none, err
	}
	return out, j.against(&out)
}

// against holds readings of the target against what the sheet plans.
func (j *sheetInputs) against(found *wire.Found) error {
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return err
	}
	plan, err := j.dst.Read(layerOf(sheet), "")
	if err != nil {
		return err
	}
	found.Against(j.dst, plan)
	return nil
}
