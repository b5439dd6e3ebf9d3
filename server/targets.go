package server

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/plan"
	"glossator/core/translate"
)

// Ranking says which instruments carry a patch best.
type Ranking struct {
	Patch   PatchRow        `json:"patch"`
	Layer   string          `json:"layer"`
	School  plan.School     `json:"school"`
	Targets []gloss.Carried `json:"targets"`
	Pending Pending         `json:"pending"`
}

type rankingRequest struct {
	ID      string `path:"id"`
	Layer   string `query:"layer"`
	School  string `query:"school"`
	Targets string `query:"targets"`
}

// ranking translates a patch to every instrument, or to those named in targets (ids by commas),
// its own left out.
func (s *Server) ranking(ctx context.Context, in rankingRequest) (none Ranking, err error) {
	p, src, err := s.patchOn(in.ID)
	if err != nil {
		return none, err
	}
	only := map[string]bool{}
	for _, id := range strings.Split(in.Targets, ",") {
		if id != "" {
			only[id] = true
		}
	}
	rows, err := s.store.Panels()
	if err != nil {
		return none, err
	}
	var targets []*panel.Compiled
	for i := range rows {
		t, err := s.compiledRow(&rows[i])
		if err != nil {
			continue // one that does not open carries nothing
		}
		if len(only) == 0 && t.Kind == "instrument" && t.ID != src.ID || only[t.ID] {
			targets = append(targets, t)
		}
	}
	if len(targets) < len(only) {
		return none, badRequest{fmt.Errorf("expected the ids of panels, got %q", in.Targets)}
	}
	out := Ranking{Patch: s.patchRow(p), Layer: in.Layer, School: plan.School(in.School)}
	if out.School == "" {
		out.School = plan.Ear
	}
	err = s.queue.run(ctx, func() (err error) {
		out.Targets, err = translate.Rank(src, p, targets, translate.Options{School: out.School, Layer: out.Layer})
		return err
	})
	if errors.Is(err, errBusy) || ctx.Err() != nil {
		return none, err
	}
	if err != nil {
		if l := translate.Faults(err); l != nil {
			return none, l
		}
		return none, badRequest{err}
	}
	if out.Pending, err = s.pending(); err != nil {
		return none, err
	}
	return out, nil
}
