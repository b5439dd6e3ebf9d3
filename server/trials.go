package server

import (
	"context"
	"fmt"
	"time"

	"glossator/core/compare"
)

// Blind is the result of a blind test.
type Blind struct {
	Right int `json:"right"`
	Of    int `json:"of"`
	// Sounds is what was compared, in words.
	Sounds string `json:"sounds"`
}

// TrialRow is a blind test in the log.
type TrialRow struct {
	At     string `json:"at"`
	Right  int    `json:"right"`
	Of     int    `json:"of"`
	Sounds string `json:"sounds"`
	// P is the probability of as many right by guessing (binomial, one-sided).
	P float64 `json:"p"`
	// Says is what the result shows, in words.
	Says string `json:"says"`
}

type blindRequest struct {
	ID   uint `path:"id"`
	Body Blind
}

// blind keeps the result of a blind test.
func (s *Server) blind(ctx context.Context, in blindRequest) (none Trials, err error) {
	b := in.Body
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	if b.Of < 1 || b.Of > 100 || b.Right < 0 || b.Right > b.Of || len(b.Sounds) > 400 {
		return none, badRequest{fmt.Errorf("expected 1 to 100 answers and no more right ones than that, got %d of %d", b.Right, b.Of)}
	}
	if err := s.store.AddTrial(j.row.ID, b.Right, b.Of, b.Sounds); err != nil {
		return none, err
	}
	rows, err := s.trialRows(j.row.ID)
	if err != nil {
		return none, err
	}
	pending, err := s.pending()
	if err != nil {
		return none, err
	}
	return Trials{Trials: rows, Pending: pending}, nil
}

// Trials lists blind tests.
type Trials struct {
	Trials  []TrialRow `json:"trials"`
	Pending Pending    `json:"pending"`
}

func (s *Server) trialRows(sheet uint) ([]TrialRow, error) {
	list, err := s.store.Trials(sheet)
	if err != nil {
		return nil, err
	}
	out := []TrialRow{}
	for _, t := range list {
		out = append(out, TrialRow{At: t.At.UTC().Format(time.RFC3339), Right: t.Right, Of: t.Of, Sounds: t.Sounds, P: compare.Chance(t.Right, t.Of), Says: compare.TrialSays(t.Right, t.Of)})
	}
	return out, nil
}
