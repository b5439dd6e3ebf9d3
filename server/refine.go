package server

import (
	"context"
	"errors"
	"maps"
	"strconv"

	"glossator/core/audition"
	"glossator/core/gloss"
	"glossator/core/hear"
	"glossator/core/nearest"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/synth"
	"glossator/core/translate"
	"glossator/store"
)

// Refining is a search by ear on its way or done.
type Refining struct {
	Running bool `json:"running"`
	// Place is its place among what waits for its turn; 0 where it runs.
	Place    int             `json:"place"`
	Done     int             `json:"done"`
	Most     int             `json:"most"`
	Distance float64         `json:"distance"`
	Result   *refine.Outcome `json:"result" jsonschema:"nullable"`
	Error    string          `json:"error,omitempty"`
}

// searching is the state of a search: what is told of it, and what the sheet's readings were when it began.
type searching struct {
	on string // the version of the sheet that it is for
	Refining
	base  map[string]string
	tuned *plan.Tuned // of a sheet by ear: a nearer plan
}

// SearchBy says on what notes a search by ear listens, and what it comes near to.
type SearchBy struct {
	// Phrase is the id of a preset; empty for the patch's own phrase.
	Phrase  string `json:"phrase"`
	Octaves int    `json:"octaves"`
	// Aim is the key of a recording of the source at those notes, to come near to in place of its rendering; empty for the rendering.
	Aim string `json:"aim"`
}

type refineStartRequest struct {
	ID   uint `path:"id"`
	Body SearchBy
}

// aim gives the recording that a search is to come near to; nil for none.
func (s *Server) aim(key string) (*hear.Wave, error) {
	if key == "" {
		return nil, nil
	}
	k, err := s.sounds.get(key)
	switch {
	case err != nil:
		return nil, err
	case !k.Recording:
		return nil, badRequest{errors.New("expected a recording to come near to: this is a rendering")}
	}
	w := k.wave()
	return &w, nil
}

// refineStart begins a search by ear on a sheet; one that runs is left to run.
func (s *Server) refineStart(ctx context.Context, in refineStartRequest) (none Refining, err error) {
	b := in.Body
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return none, err
	}
	sheet.Layer = j.layer()
	notes, _, err := audition.Notes(j.patch, b.Phrase, b.Octaves)
	if err != nil {
		return none, badRequest{err}
	}
	aim, err := s.aim(b.Aim)
	if err != nil {
		return none, err
	}
	beside, err := s.beside(j)
	if err != nil {
		return none, err
	}
	state := searching{Refining: Refining{Running: true, Most: refine.Budget}, base: maps.Clone(j.over), on: j.row.Tag()}
	x, _ := s.searches.start(s.queue, j.row.ID, state, func(ctx context.Context, t *task[searching]) error {
		if sheet.School == plan.Ear && j.row.First == 0 {
			return s.nearer(ctx, j, sheet, notes, aim, t)
		}
		r, err := refine.Search(refine.Task{Source: j.src, Target: j.dst, Patch: j.patch, Sheet: sheet, Notes: notes, Rack: j.rack, Beside: beside, Aim: aim,
			Stop: func() bool { return ctx.Err() != nil },
			Progress: func(done, most int, d float64) {
				t.change(func(x *searching) { x.Done, x.Most, x.Distance = done, most, d })
			}})
		t.change(func(x *searching) { x.Result = r })
		return err
	}, func(x *searching, place int) { x.Place = place }, func(x *searching, err error) {
		x.Running, x.Place = false, 0
		switch fault := (errFault{}); {
		case errors.As(err, &fault):
			s.log.Error("search by ear", "fault", fault.fault, "stack", string(fault.stack))
			x.Error = "The search failed, which is a fault of the program."
		case errors.Is(err, errBusy):
			x.Error = "Too much is being worked out: try again in a moment."
		case err != nil && !errors.Is(err, context.Canceled):
			x.Error = err.Error()
		}
	})
	now, _ := x.now()
	return now.Refining, nil
}

// nearer looks for a nearer plan of a sheet by ear: from several plans, with their controls. It is offered where it sounds nearer than the sheet does.
func (s *Server) nearer(ctx context.Context, j *sheetInputs, sheet *gloss.Sheet, notes []phrase.Note, aim *hear.Wave, t *task[searching]) error {
	opt := j.options()
	k := nearest.Task{Source: j.src, Target: j.dst, Patch: j.patch, Options: opt, Notes: notes, Aim: aim, Effort: nearest.Long, Stop: func() bool { return ctx.Err() != nil },
		Progress: func(done, most int, d float64) {
			t.change(func(x *searching) { x.Done, x.Most, x.Distance = done, most, d })
		}}
	tuned, err := nearest.Find(k)
	if err != nil || tuned == nil {
		return err
	}
	found, err := nearest.Sheet(k, tuned)
	if err != nil {
		return err
	}
	before, after, err := nearest.Apart(k, sheet, found)
	if err != nil {
		return err
	}
	r := &refine.Outcome{Before: before, After: after, Changes: []refine.Nudge{}, Renders: tuned.Renders, Controls: len(found.Settings), Stopped: ctx.Err() != nil}
	if after.Total < before.Total-nearest.Offered {
		for _, c := range gloss.Changes(sheet, found) {
			r.Changes = append(r.Changes, refine.Nudge{Control: c.Control, Label: c.Label, From: c.Was, To: c.Is, Text: c.Why})
		}
	} else {
		r.After = before
	}
	t.change(func(x *searching) {
		x.Result = r
		if len(r.Changes) > 0 {
			x.tuned = tuned
		}
	})
	return nil
}

// beside gives the other layer that sounds along with a sheet, as its own sheet sets it.
func (s *Server) beside(j *sheetInputs) ([]synth.Layer, error) {
	other, sheet, err := s.otherLayer(j)
	if other == nil || err != nil {
		return nil, err
	}
	y, err := other.targetLayer(sheet)
	if err != nil {
		return nil, err
	}
	return []synth.Layer{y}, nil
}

func (s *Server) findSearch(sheet uint) (*task[searching], error) {
	if x := s.searches.find(sheet); x != nil {
		return x, nil
	}
	return nil, store.ErrNotFound
}

// refineState tells how far a search is.
func (s *Server) refineState(ctx context.Context, in ofSheet) (none Refining, err error) {
	x, err := s.findSearch(in.ID)
	if err != nil {
		return none, err
	}
	now, _ := x.now()
	return now.Refining, nil
}

// refineStop stops a search; what it has found is kept.
func (s *Server) refineStop(ctx context.Context, in ofSheet) (none Refining, err error) {
	x, err := s.findSearch(in.ID)
	if err != nil {
		return none, err
	}
	x.cancel()
	now, _ := x.now()
	return now.Refining, nil
}

// refineAdopt puts what a search has found onto the sheet, in one step that can be undone. A reading that somebody has set by hand, or taken back, since the
// search began stays as they left it.
func (s *Server) refineAdopt(ctx context.Context, in ofSheet) (none SheetView, err error) {
	x, err := s.findSearch(in.ID)
	if err != nil {
		return none, err
	}
	found, _ := x.now()
	if found.Result == nil || len(found.Result.Changes) == 0 {
		return none, badRequest{errors.New("expected a search that has found something")}
	}
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	if found.tuned != nil {
		if found.on != j.row.Tag() { // it was searched for another sheet than this has become
			return none, store.ErrStale{}
		}
		j.choices.Tuned = found.tuned
		if _, err := translate.Translate(j.src, j.patch, j.dst, j.options()); err != nil {
			return none, err
		}
		if j.row, err = s.store.Adopt(j.row, "take a nearer plan", j.over, j.choices); err != nil {
			return none, err
		}
		s.searches.drop(j.row.ID)
		return s.answerSheet(j)
	}
	over, why := cloned(j.over), cloned(j.choices.Why)
	set := 0
	for _, ch := range found.Result.Changes {
		if over[ch.Control] != found.base[ch.Control] {
			continue
		}
		over[ch.Control], why[ch.Control] = ch.To, ch.To+": "+ch.Text
		set++
	}
	if set == 0 {
		return none, badRequest{errors.New("every control that the search would set has been set by hand since: search again from there")}
	}
	j.over, j.choices.Why = over, why
	if _, err := translate.Translate(j.src, j.patch, j.dst, j.options()); err != nil {
		return none, err
	}
	if j.row, err = s.store.Adopt(j.row, "set "+strconv.Itoa(set)+" controls by ear", over, j.choices); err != nil {
		return none, err
	}
	s.searches.drop(j.row.ID)
	return s.answerSheet(j)
}

// cloned copies a map; of nil it makes an empty one.
func cloned[K comparable, V any](m map[K]V) map[K]V {
	out := make(map[K]V, len(m))
	maps.Copy(out, m)
	return out
}

// heardOf gives how much the parts of a patch are heard, kept by content.
func (s *Server) heardOf(src *panel.Compiled, p *patch.Patch, layer string) (map[string]float64, error) {
	notes, _, err := audition.Notes(p, "", 0)
	if err != nil {
		return nil, err
	}
	layers, err := audition.Layers(src, p, layer)
	if err != nil {
		return nil, err
	}
	return cached(s.cache, "heard", hashOf(engineVersion, layers, notes, p.Wheel), func() (map[string]float64, error) {
		return refine.Heard(src, p, layer, notes, nil)
	})
}
