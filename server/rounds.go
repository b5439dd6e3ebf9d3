package server

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"glossator/core/dialin"
	"glossator/core/paste"
	"glossator/core/wire"
	"glossator/formats"
	"glossator/store"
)

type roundRequest struct {
	ID   uint `path:"id"`
	Body Wanted
}

// Wanted is what another round is to bring: "darker, longer, an octave up".
type Wanted struct {
	Why string `json:"why"`
}

// round begins another round of listening: a sheet of its own with what was set and decided so far, and what is wanted of it at the head of its log. What it changes, the changeover from the one before tells.
func (s *Server) round(ctx context.Context, in roundRequest) (none Opened, err error) {
	why := strings.TrimSpace(in.Body.Why)
	if bad := formats.Unfit(why); why == "" || len(why) > mostWhy || bad != "" {
		return none, badRequest{fmt.Errorf("why: expected what is wanted, in at most %d bytes of plain text", mostWhy)}
	}
	row, err := s.store.Sheet(in.ID)
	if err != nil {
		return none, err
	}
	rows, err := s.store.Sheets()
	if err != nil {
		return none, err
	}
	name, _, _ := strings.Cut(nameOf(row), ", round ")
	title := ""
	for n := 2; title == ""; n++ {
		t := fmt.Sprintf("%s, round %d", name, n)
		if !slices.ContainsFunc(rows, func(x store.Sheet) bool {
			return x.Target == row.Target && x.Patch == row.Patch && x.Title == t
		}) {
			title = t
		}
	}
	made, err := s.store.Round(in.ID, title, why)
	if err != nil {
		return none, err
	}
	return Opened{ID: made.ID}, nil
}

type saidRequest struct {
	ID   uint `path:"id"`
	Body NotesBody
}

// NotesBody are readings as they stand on an instrument, as somebody types them.
type NotesBody struct {
	Notes string `json:"notes"`
}

// readBack reads what somebody has typed of the target, beside what the sheet plans; nothing is stored.
func (s *Server) readBack(ctx context.Context, in saidRequest) (none wire.Found, err error) {
	if len(in.Body.Notes) > paste.MaxNotes {
		return none, badRequest{fmt.Errorf("expected notes of at most %d kB", paste.MaxNotes>>10)}
	}
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	out := wire.Found{Taken: []wire.Taken{}, Other: []string{}}
	read := paste.Read(j.dst, in.Body.Notes)
	for _, g := range read.Guesses {
		t := wire.Taken{Control: g.Control, Section: g.Section, Label: g.Label, Reading: g.Reading, From: g.Text}
		if !g.Sure {
			t.Note = "not for certain this control"
			if len(g.Others) > 0 {
				t.Note += ": it may be " + strings.Join(g.Others, ", ")
			}
		}
		out.Taken = append(out.Taken, t)
	}
	for _, u := range read.Unmatched {
		out.Other = append(out.Other, fmt.Sprintf("%s: %s", u.Text, u.Why))
	}
	return out, j.against(&out)
}

type overRequest struct {
	ID   uint `path:"id"`
	From uint `path:"from"`
}

// overTicks tells what of a changeover is done.
func (s *Server) overTicks(ctx context.Context, in overRequest) (none Ticks, err error) {
	if _, err := s.store.Sheet(in.ID); err != nil {
		return none, err
	}
	out := Ticks{}
	if out.Ticks, err = s.store.OverTicks(in.ID, in.From); err != nil {
		return none, err
	}
	out.Pending, err = s.pending()
	return out, err
}

// OverTick is a move of a changeover: the control, or "pull CABLE" and "run CABLE".
type OverTick struct {
	Key  string `json:"key"`
	Done bool   `json:"done"`
}

type overTickRequest struct {
	ID   uint `path:"id"`
	From uint `path:"from"`
	Body OverTick
}

// overTick ticks a move of a changeover, or takes the tick off.
func (s *Server) overTick(ctx context.Context, in overTickRequest) (none Ticks, err error) {
	v, err := s.changeover(ctx, changeoverRequest{ID: in.ID, From: in.From})
	if err != nil {
		return none, err
	}
	label := ""
	for key, text := range overKeys(&v.Changeover) {
		if key == in.Body.Key {
			label = text
		}
	}
	if label == "" && in.Body.Done {
		return none, store.ErrNotFound
	}
	if err := s.store.SetOverTick(in.ID, in.From, in.Body.Key, label, in.Body.Done); err != nil {
		return none, err
	}
	return s.overTicks(ctx, overRequest{in.ID, in.From})
}

// overKeys are the moves of a changeover by what their ticks go by.
func overKeys(x *dialin.Changeover) map[string]string {
	out := map[string]string{}
	for _, m := range x.Moves {
		out[m.Control] = m.Label + " on " + x.On
	}
	for _, c := range x.Pull {
		out["pull "+c] = "pull " + c
	}
	for _, c := range x.Run {
		out["run "+c] = "run " + c
	}
	return out
}

// overBegin takes all ticks of a changeover off.
func (s *Server) overBegin(ctx context.Context, in overRequest) (none Ticks, err error) {
	if err := s.store.BeginOver(in.ID, in.From); err != nil {
		return none, err
	}
	return s.overTicks(ctx, in)
}

// sheetTicks tells what of a dial-in list is done: what another device has ticked is seen by it.
func (s *Server) sheetTicks(ctx context.Context, in ofSheet) (none Ticks, err error) {
	if _, err := s.store.Sheet(in.ID); err != nil {
		return none, err
	}
	return s.ticksOf(in.ID)
}
