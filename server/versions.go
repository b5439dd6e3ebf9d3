package server

import (
	"context"
	"errors"
	"strings"
	"time"

	"glossator/core/panel"
	"glossator/store"
)

// VersionRow is a kept version of a patch; Since tells what has changed from it to now.
type VersionRow struct {
	Number int                `json:"number"`
	Note   string             `json:"note"`
	At     string             `json:"at"`
	Since  []panel.Difference `json:"since"`
}

// Versions lists the kept versions of a patch, the newest first.
type Versions struct {
	Versions []VersionRow `json:"versions"`
	Pending  Pending      `json:"pending"`
}

// KeepVersion keeps a patch as it stands.
type KeepVersion struct {
	Note string `json:"note"`
}

func (s *Server) versions(ctx context.Context, in named) (none Versions, err error) {
	p, err := s.patch(in.ID)
	if err != nil {
		return none, err
	}
	rows, err := s.store.Versions(p.ID)
	if err != nil {
		return none, err
	}
	on, _, err := s.panelOf(p)
	if err != nil {
		return none, err
	}
	out := Versions{Versions: []VersionRow{}}
	for _, r := range rows {
		old, err := patchOf(r.Document)
		if err != nil {
			return none, err
		}
		d := panel.DiffPatch(on, old, p)
		if d == nil {
			d = []panel.Difference{}
		}
		out.Versions = append(out.Versions, VersionRow{Number: r.Number, Note: r.Note, At: r.At.UTC().Format(time.RFC3339), Since: d})
	}
	if out.Pending, err = s.pending(); err != nil {
		return none, err
	}
	return out, nil
}

type versionKeepRequest struct {
	ID   string `path:"id"`
	Body KeepVersion
}

func (s *Server) versionKeep(ctx context.Context, in versionKeepRequest) (none Versions, err error) {
	b := in.Body
	if len(b.Note) > 500 {
		return none, badRequest{errors.New("expected a note of at most 500 characters")}
	}
	if _, err := s.store.KeepVersion(in.ID, strings.TrimSpace(b.Note)); err != nil {
		return none, err
	}
	return s.versions(ctx, named{in.ID})
}

type versionRestoreRequest struct {
	ID     string `path:"id"`
	Number int    `path:"number"`
}

func (s *Server) versionRestore(ctx context.Context, in versionRestoreRequest) (none PatchView, err error) {
	rows, err := s.store.Versions(in.ID)
	if err != nil {
		return none, err
	}
	for i := range rows {
		if rows[i].Number != in.Number {
			continue
		}
		old, err := patchOf(rows[i].Document)
		if err != nil {
			return none, err
		}
		p, err := s.store.RestoreVersion(in.ID, old, in.Number)
		if err != nil {
			return none, err
		}
		return s.answerPatch(p)
	}
	return none, store.ErrNotFound
}
