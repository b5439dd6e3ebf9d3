package server

import (
	"context"
	"errors"
	"slices"
	"strings"

	"glossator/core/dialin"
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
		pos, err := j.dst.Parse(k, reading)
		if err != nil {
			return none, badRequest{err}
		}
		reading = pos.Reading
	}
	row, err := s.store.Override(j.row, control, j.dst.Controls[k].Label, reading)
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

// Ticks are the ticked lines of a sheet.
type Ticks struct {
	Ticks []string `json:"ticks"`
	// Spent is how long the hands were at it, in seconds, by the times of the ticks; pauses count for nothing.
	Spent   float64 `json:"spent"`
	Pending Pending `json:"pending"`
}

func (s *Server) tickSet(ctx context.Context, in ofTick) (Ticks, error) {
	return s.tick(in.ID, in.Key, true)
}

func (s *Server) tickDrop(ctx context.Context, in ofTick) (Ticks, error) {
	return s.tick(in.ID, in.Key, false)
}

// tick ticks a line, and answers with the ticks alone: nothing else has changed.
func (s *Server) tick(id uint, key string, on bool) (none Ticks, err error) {
	row, err := s.store.Sheet(id)
	if err != nil {
		return none, err
	}
	sum, _, err := s.summary(row, store.Summary{})
	if err != nil {
		return none, err
	}
	label := key
	i := slices.Index(sum.Keys, key)
	switch {
	case i >= 0:
		label = sum.Labels[i] + " on " + sum.Target
	case on:
		return none, store.ErrNotFound
	}
	if err := s.store.SetTick(id, key, label, on); err != nil {
		return none, err
	}
	return s.ticksOf(id)
}

// ticksOf gives the ticks of a sheet's list.
func (s *Server) ticksOf(id uint) (none Ticks, err error) {
	out := Ticks{}
	if out.Ticks, err = s.store.Ticks(id); err != nil {
		return none, err
	}
	times, err := s.store.TickTimes(id, false)
	if err != nil {
		return none, err
	}
	out.Spent = dialin.Spent(times)
	out.Pending, err = s.pending()
	return out, err
}
