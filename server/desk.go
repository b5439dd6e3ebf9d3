package server

import (
	"context"
	"errors"
	"time"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/translate"
	"glossator/demo"
	"glossator/formats"
	"glossator/store"
)

// Pending tells what undo and redo would do; empty where there is nothing.
type Pending struct {
	Undo string `json:"undo"`
	Redo string `json:"redo"`
	// UndoStep and RedoStep are the numbers of these steps: one that is not the next any more is refused. 0 where there is none.
	UndoStep uint `json:"undoStep"`
	RedoStep uint `json:"redoStep"`
}

// SheetRow is a sheet in a list.
type SheetRow struct {
	ID         uint                  `json:"id"`
	Patch      string                `json:"patch"`
	PatchName  string                `json:"patchName"`
	Source     string                `json:"source"`
	SourceName string                `json:"sourceName"`
	Target     string                `json:"target"`
	TargetName string                `json:"targetName"`
	School     string                `json:"school"`
	First      uint                  `json:"first"` // the first layer's sheet, where this is of a second one
	Updated    string                `json:"updated"`
	Ticked     int                   `json:"ticked"`
	Lines      int                   `json:"lines"`
	Summary    map[gloss.Verdict]int `json:"summary"`
	Clean      bool                  `json:"clean"`
	// Fault says why the sheet cannot be made; empty where it can.
	Fault string `json:"fault,omitempty"`
}

// Desk is what is on the go.
type Desk struct {
	Patches []PatchRow `json:"patches"`
	Sheets  []SheetRow `json:"sheets"`
	Panels  []PanelRow `json:"panels"`
	// Drafts are the panels that are being worked on.
	Drafts  []Draft `json:"drafts"`
	Pending Pending `json:"pending"`
}

// Done tells what undo or redo did.
type Done struct {
	What    string  `json:"what"`
	Pending Pending `json:"pending"`
}

// Loaded counts what the sample brought.
type Loaded struct {
	Panels  int `json:"panels"`
	Patches int `json:"patches"`
}

func (s *Server) pending() (Pending, error) {
	undo, redo, err := s.store.Pending()
	return Pending{Undo: undo.What, Redo: redo.What, UndoStep: undo.ID, RedoStep: redo.ID}, err
}

func (s *Server) desk(ctx context.Context, in None) (none Desk, err error) {
	d := Desk{Patches: []PatchRow{}, Sheets: []SheetRow{}, Drafts: []Draft{}}
	if d.Panels, err = s.panelRows(); err != nil {
		return none, err
	}
	if d.Patches, err = s.patchRows(); err != nil {
		return none, err
	}
	sheets, err := s.store.Sheets()
	if err != nil {
		return none, err
	}
	for i := range sheets {
		r, err := s.sheetRow(&sheets[i])
		if err != nil {
			s.log.Warn("a sheet cannot be made", "sheet", sheets[i].ID, "error", err)
			r.Fault, r.SourceName, r.TargetName, r.Summary = problemOf(err).Detail, r.Source, r.Target, map[gloss.Verdict]int{}
		}
		d.Sheets = append(d.Sheets, r)
	}
	drafts, err := s.store.Drafts()
	if err != nil {
		return none, err
	}
	for _, x := range drafts {
		d.Drafts = append(d.Drafts, Draft{ID: x.ID, Name: x.Name, Base: x.Base, Updated: x.UpdatedAt.UTC().Format(time.RFC3339)})
	}
	if d.Pending, err = s.pending(); err != nil {
		return none, err
	}
	return d, nil
}

func (s *Server) sheetRow(row *store.Sheet) (SheetRow, error) {
	r := SheetRow{ID: row.ID, Patch: row.Patch, PatchName: row.PatchName, Source: row.Source, Target: row.Target, School: row.School, First: row.First, Updated: row.UpdatedAt.UTC().Format(time.RFC3339)}
	j, err := s.inputs(row)
	if err != nil {
		return r, err
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return r, err
	}
	ticks, err := s.store.Ticks(row.ID)
	if err != nil {
		return r, err
	}
	list := dialin.Of(sheet)
	for _, t := range ticks {
		if list.Has(t) {
			r.Ticked++
		}
	}
	r.SourceName, r.TargetName, r.Lines, r.Summary, r.Clean = j.src.Name, j.dst.Name, list.Count, sheet.Summary, sheet.Clean()
	return r, nil
}

// sample loads the demo's panels and patches beside what is there; what has the same name
// is left as it is.
func (s *Server) sample(ctx context.Context, in None) (none Loaded, err error) {
	n, err := LoadSample(s.store)
	if err != nil {
		return none, err
	}
	return n, nil
}

// LoadSample puts the sample panels and patches into a store, apart from those whose id is
// taken.
func LoadSample(st *store.Store) (Loaded, error) {
	rack := map[string]*panel.Compiled{}
	var panels []*panel.Panel
	var patches []*patch.Patch
	for _, f := range demo.Panels() {
		p, err := formats.ReadPanel(f.Name, f.Data)
		if err != nil {
			return Loaded{}, err
		}
		rack[p.ID] = p
		if _, err := st.Panel(p.ID, 0); errors.Is(err, store.ErrNotFound) {
			panels = append(panels, p.Panel)
		} else if err != nil {
			return Loaded{}, err
		}
	}
	for _, f := range demo.Patches() {
		p, _, err := formats.ReadPatchOn(f.Name, f.Data, func(id string) *panel.Compiled { return rack[id] })
		if err != nil {
			return Loaded{}, err
		}
		if _, err := st.Patch(p.ID); errors.Is(err, store.ErrNotFound) {
			patches = append(patches, p)
		} else if err != nil {
			return Loaded{}, err
		}
	}
	return Loaded{Panels: len(panels), Patches: len(patches)}, st.PutAll("load the sample", panels, patches)
}

// stepRequest names the step that is meant; 0 for whichever is the next.
type stepRequest struct {
	Step uint `query:"step"`
}

func (s *Server) undo(ctx context.Context, in stepRequest) (Done, error) {
	return s.stepBack(s.store.Undo(in.Step))
}

func (s *Server) redo(ctx context.Context, in stepRequest) (Done, error) {
	return s.stepBack(s.store.Redo(in.Step))
}

func (s *Server) stepBack(what string, err error) (none Done, _ error) {
	if errors.Is(err, store.ErrNotFound) {
		return none, badRequest{errors.New("there is nothing to take back or to do again")}
	}
	if err != nil {
		return none, err
	}
	s.cache.kept.Purge() // a panel revision may have come or gone
	p, err := s.pending()
	if err != nil {
		return none, err
	}
	return Done{What: what, Pending: p}, nil
}
