package server

import (
	"context"
	"fmt"
	"maps"
	"strings"

	"glossator/core/plan"
	"glossator/core/translate"
)

// PartChoice decides about one part of a patch: keep, not needed, or as usual; Refuse lists the
// rules it is not to be made by.
type PartChoice struct {
	Part    string   `json:"part"`
	Matters string   `json:"matters"`
	Refuse  []string `json:"refuse"`
	// ByEar, where it is given, is of the whole sheet: parts count for as much as they are heard, or as usual.
	ByEar *bool `json:"byEar,omitempty"`
	// Rack, where it is given, is of the whole sheet: the id of the outboard rack behind the target, empty for none.
	Rack *string `json:"rack,omitempty"`
	// Bans, where they are given, are of the whole sheet too: the pairs that are not to be.
	Bans *[]plan.Ban `json:"bans,omitempty"`
}

// Ways lists the ways to make a part, the cheapest first.
type Ways struct {
	Ways []translate.Alternative `json:"ways"`
}

// Plans lists the plans that come after the best.
type Plans struct {
	Next []translate.NextPlan `json:"next"`
}

type chooseRequest struct {
	ID   uint `path:"id"`
	Body PartChoice
}

// choose decides about one part of a sheet's patch: keep, not needed or as usual, and which rules
// it is not to be made by.
func (s *Server) choose(ctx context.Context, in chooseRequest) (none SheetView, err error) {
	b := in.Body
	j, err := s.sheetAt(ctx, in.ID)
	if err != nil {
		return none, err
	}
	now := j.choices
	now.Weight, now.Refuse = maps.Clone(now.Weight), maps.Clone(now.Refuse)
	if now.Weight == nil {
		now.Weight = map[string]float64{}
	}
	if now.Refuse == nil {
		now.Refuse = map[string][]string{}
	}
	what := b.Part + " as usual"
	switch { // of the sheet as a whole
	case b.ByEar != nil:
		what = "weigh parts by how much they are heard"
		if now.ByEar = *b.ByEar; !now.ByEar {
			what = "weigh parts as usual"
		}
		return s.chosen(j, what, now)
	case b.Rack != nil:
		what = "the rack is not used"
		if now.Rack = *b.Rack; now.Rack != "" {
			rack, err := s.compiled(now.Rack, 0)
			if err != nil {
				return none, err
			}
			if rack.Kind != "rack" {
				return none, badRequest{fmt.Errorf("expected a rack, got %s, which is an instrument", rack.Name)}
			}
			what = rack.Name + " stands behind " + j.dst.Name
		}
		return s.chosen(j, what, now)
	case b.Bans != nil:
		what = "take another plan"
		if now.Bans = *b.Bans; len(now.Bans) == 0 {
			what = "take the best plan"
		}
		return s.chosen(j, what, now)
	}
	delete(now.Weight, b.Part)
	delete(now.Refuse, b.Part)
	switch b.Matters {
	case "keep":
		now.Weight[b.Part], what = plan.Keep, "keep "+b.Part
	case "not needed":
		now.Weight[b.Part], what = plan.NotNeeded, b.Part+" does not matter"
	case "", "as usual":
	default:
		return none, badRequest{fmt.Errorf("expected keep, not needed or as usual, got %q", b.Matters)}
	}
	if len(b.Refuse) > 0 {
		now.Refuse[b.Part], what = b.Refuse, b.Part+" not by "+strings.Join(b.Refuse, ", ")
	}
	return s.chosen(j, what, now)
}

// chosen keeps what has been decided, where the sheet can be made with it, and answers with the sheet.
func (s *Server) chosen(j *sheetInputs, what string, now plan.Choices) (none SheetView, err error) {
	j.choices = now
	if _, err := translate.Translate(j.src, j.patch, j.dst, j.options()); err != nil {
		return none, err
	}
	row, err := s.store.Choose(j.row, what, now)
	if err != nil {
		return none, err
	}
	if j, err = s.inputs(row); err != nil {
		return none, err
	}
	return s.answerSheet(j)
}

func (s *Server) plans(ctx context.Context, in ofSheet) (none Plans, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	next, err := translate.NextPlans(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return none, err
	}
	return Plans{Next: next}, nil
}

type alternativesRequest struct {
	ID   uint   `path:"id"`
	Part string `query:"part"`
}

func (s *Server) alternatives(ctx context.Context, in alternativesRequest) (none Ways, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	all, err := translate.Alternatives(j.src, j.patch, j.dst, j.options(), in.Part)
	if err != nil {
		if translate.Faults(err) != nil {
			return none, err
		}
		return none, badRequest{err}
	}
	return Ways{Ways: all}, nil
}
