package server

import (
	"context"
	"fmt"

	"glossator/core/wire"
	"glossator/formats/smf"
)

type midiReadRequest struct {
	ID    string `path:"id"`
	Layer string `path:"layer"`
	File  string `query:"file"`
	Body  Upload[None]
}

// midiRead tells what MIDI bytes mean on the panel; nothing is stored.
func (s *Server) midiRead(ctx context.Context, in midiReadRequest) (none wire.Found, err error) {
	data := in.Body.Data
	pl, err := s.layer(in.ID, in.Layer)
	if err != nil {
		return none, err
	}
	all, err := smf.Messages(data)
	if err != nil {
		return none, badRequest{fmt.Errorf("%s: %w", fileName(in.File, "file"), err)}
	}
	now, err := pl.panel.Read(&pl.patch.Layers[pl.layer], "")
	if err != nil {
		return none, err
	}
	out := wire.Read(pl.panel, all)
	out.Against(pl.panel, now)
	return out, nil
}

type midiWriteRequest struct {
	ID      string `path:"id"`
	Layer   string `path:"layer"`
	Form    string `query:"form"`
	Channel int    `query:"channel"`
}

// midiWrite gives a layer as MIDI: a file, or with form=raw the plain bytes.
func (s *Server) midiWrite(ctx context.Context, in midiWriteRequest) (none File[None], err error) {
	pl, err := s.layer(in.ID, in.Layer)
	if err != nil {
		return none, err
	}
	channel := in.Channel
	if channel == 0 {
		channel = 1
	}
	w, err := wire.Write(pl.panel, &pl.patch.Layers[pl.layer], channel)
	if err != nil {
		return none, badRequest{err}
	}
	if len(w.Messages) == 0 {
		return none, badRequest{fmt.Errorf("%s has no MIDI address on any control: give them in the workshop", pl.panel.Name)}
	}
	if in.Form == "raw" {
		return download(pl.patch.ID+".syx", "application/octet-stream", smf.Bytes(w.Messages))
	}
	return download(pl.patch.ID+".controls.mid", "audio/midi", smf.OfMessages(w.Messages).Write())
}
