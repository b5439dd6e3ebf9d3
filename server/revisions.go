package server

import (
	"context"
	"fmt"
	"time"

	"glossator/core/panel"
	"glossator/store"
)

// RevisionRow is a revision of a panel in a list.
type RevisionRow struct {
	Revision int    `json:"revision"`
	Name     string `json:"name"`
	At       string `json:"at"`
}

// Revisions lists the revisions of a panel, the newest first.
type Revisions struct {
	Revisions []RevisionRow `json:"revisions"`
	Pending   Pending       `json:"pending"`
}

// Differences lists what is not the same.
type Differences struct {
	Differences []panel.Difference `json:"differences"`
}

func (s *Server) revisions(ctx context.Context, in named) (none Revisions, err error) {
	rows, err := s.store.Revisions(in.ID)
	if err != nil {
		return none, err
	}
	if len(rows) == 0 {
		return none, store.ErrNotFound
	}
	out := Revisions{Revisions: []RevisionRow{}}
	for _, r := range rows {
		out.Revisions = append(out.Revisions, RevisionRow{Revision: r.Revision, Name: r.Name, At: r.CreatedAt.UTC().Format(time.RFC3339)})
	}
	if out.Pending, err = s.pending(); err != nil {
		return none, err
	}
	return out, nil
}

type differenceRequest struct {
	ID   string `path:"id"`
	From *int   `query:"from"`
	To   *int   `query:"to"`
}

func (s *Server) difference(ctx context.Context, in differenceRequest) (none Differences, err error) {
	var sides [2]*panel.Compiled
	for i, number := range []*int{in.From, in.To} {
		n := 0 // the newest
		if number != nil {
			if n = *number; n < 1 {
				return none, badRequest{fmt.Errorf("expected the number of a revision, got %d", n)}
			}
		}
		if sides[i], err = s.compiled(in.ID, n); err != nil {
			return none, err
		}
	}
	out := Differences{Differences: panel.Diff(sides[0].Panel, sides[1].Panel)}
	if out.Differences == nil {
		out.Differences = []panel.Difference{}
	}
	return out, nil
}

type revisionRestoreRequest struct {
	ID       string `path:"id"`
	Revision int    `path:"revision"`
}

// revisionRestore makes an older revision the draft.
func (s *Server) revisionRestore(ctx context.Context, in revisionRestoreRequest) (none Workshop, err error) {
	if in.Revision < 1 {
		return none, store.ErrNotFound
	}
	old, err := s.compiled(in.ID, in.Revision)
	if err != nil {
		return none, err
	}
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	now := *old.Panel
	return s.keepDraft(ctx, fmt.Sprintf("back to revision %d", in.Revision), d, &now)
}
