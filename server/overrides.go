package server

import (
	"context"
	"errors"
	"strings"

	"glossator/core/dialin"
	"glossator/core/translate"
	"glossator/store"
)

type overrideSetRequest struct {
	ID      uint   `path:"id"`
	Control string `path:"control"`
	Body    ReadingBody
}

func (s *Server) overrideSet(ctx context.Context, in overrideSetRequest) (none SheetView, err error) {
	b := in.Body
	if strings.TrimSpace(b.Reading) == "" {
		return none, badRequest{errors.New("expected a reading; delete the override to take it back")}
	}
	return s.override(ctx, in.ID, in.Control, strings.TrimSpace(b.Reading))
}

func (s *Server) overrideDrop(ctx context.Context, in ofOverride) (SheetView, error) {
	return s.override(ctx, in.ID, in.Control, "")
}

func (s *Server) override(ctx context.Context, id uint, control, reading string) (none SheetView, err error) {
	j, err := s.sheetAt(ctx, id)
	if err != nil {
		return none, err
	}
	k, ok := j.dst.ControlIndex(control)
	if !ok {
		return none, store.ErrNotFound
	}
	if reading != "" {
		pos, err := j.dst.Controls[k].Face.Parse(reading)
		if err != nil {
			return none, badRequest{err}
		}
		reading = pos.Reading
	}
	row, err := s.store.Override(j.row, control, reading)
	if err != nil {
		return none, err
	}
	if j, err = s.inputs(row); err != nil {
		return none, err
	}
	return s.answerSheet(j)
}

// ofTick names a line of a dial-in list.
type ofTick struct {
	ID  uint   `path:"id"`
	Key string `path:"key"`
}

// ofOverride names a control of a sheet's target.
type ofOverride struct {
	ID      uint   `path:"id"`
	Control string `path:"control"`
}

func (s *Server) tickSet(ctx context.Context, in ofTick) (SheetView, error) {
	return s.tick(in.ID, in.Key, true)
}

func (s *Server) tickDrop(ctx context.Context, in ofTick) (SheetView, error) {
	return s.tick(in.ID, in.Key, false)
}

func (s *Server) tick(id uint, key string, on bool) (none SheetView, err error) {
	j, err := s.sheet(id)
	if err != nil {
		return none, err
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return none, err
	}
	if list := dialin.Of(sheet); on && !list.Has(key) {
		return none, store.ErrNotFound
	}
	if err := s.store.SetTick(j.row.ID, key, on); err != nil {
		return none, err
	}
	return s.answerSheet(j)
}
