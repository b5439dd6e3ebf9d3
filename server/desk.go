package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"rsc.io/qr"

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
	// Title is what somebody has called it; Archived is set where it is put away.
	Title    string `json:"title,omitempty"`
	Archived bool   `json:"archived,omitempty"`
}

// Desk is what is on the go.
type Desk struct {
	Patches []PatchRow `json:"patches"`
	Sheets  []SheetRow `json:"sheets"`
	Panels  []PanelRow `json:"panels"`
	// Drafts are the panels that are being worked on.
	Drafts  []Draft `json:"drafts"`
	Pending Pending `json:"pending"`
	// Phone is where a phone in the same network finds the program; absent where it listens to this machine alone.
	Phone *Phone `json:"phone,omitempty"`
}

// Phone is an address, as text and as a QR code (ISO/IEC 18004): its rows of modules, "1" for dark.
type Phone struct {
	Address string   `json:"address"`
	QR      []string `json:"qr"`
}

// phoneAt makes the QR code of an address.
func phoneAt(address string) (*Phone, error) {
	if address == "" {
		return nil, nil
	}
	c, err := qr.Encode(address, qr.M)
	if err != nil {
		return nil, err
	}
	p := &Phone{Address: address}
	for y := range c.Size {
		row := make([]byte, c.Size)
		for x := range row {
			row[x] = '0'
			if c.Black(x, y) {
				row[x] = '1'
			}
		}
		p.QR = append(p.QR, string(row))
	}
	return p, nil
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

// pending tells what undo and redo would do, in a scope (store.DraftScope) where one is given.
func (s *Server) pending(scope ...string) (Pending, error) {
	undo, redo, err := s.store.Pending(strings.Join(scope, ""))
	return Pending{Undo: undo.What, Redo: redo.What, UndoStep: undo.ID, RedoStep: redo.ID}, err
}

func (s *Server) desk(ctx context.Context, in None) (none Desk, err error) {
	d := Desk{Patches: []PatchRow{}, Sheets: []SheetRow{}, Drafts: []Draft{}}
	if d.Phone, err = phoneAt(s.address); err != nil {
		return none, err
	}
	if d.Panels, err = s.panelRows(); err != nil {
		return none, err
	}
	if d.Patches, err = s.patchRows(); err != nil {
		return none, err
	}
	marks, err := s.marks()
	if err != nil {
		return none, err
	}
	sheets, err := s.store.Sheets()
	if err != nil {
		return none, err
	}
	kept, err := s.store.Summaries()
	if err != nil {
		return none, err
	}
	ticks, err := s.store.AllTicks()
	if err != nil {
		return none, err
	}
	var made []store.Summary
	defer func() {
		if len(made) == 0 {
			return
		}
		if e := s.store.PutSummaries(made); e != nil { // they are made again
			s.log.Warn("summaries could not be kept", "error", e)
		}
	}()
	for i := range sheets {
		r, fresh, err := s.sheetRow(&sheets[i], kept[sheets[i].ID], ticks[sheets[i].ID])
		if fresh != nil {
			made = append(made, *fresh)
		}
		if err != nil {
			s.log.Warn("a sheet cannot be made", "sheet", sheets[i].ID, "error", err)
			r.Fault, r.SourceName, r.TargetName, r.Summary = problemOf(err).Detail, r.Source, r.Target, map[gloss.Verdict]int{}
		}
		marks.sheet(&r, &sheets[i])
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

// sheetSummary is what is worked out of a sheet for lists: it is kept with it.
type sheetSummary struct {
	Source  string                `json:"source"`
	Target  string                `json:"target"`
	Lines   int                   `json:"lines"`
	Keys    []string              `json:"keys"`
	Labels  []string              `json:"labels"` // of the keys
	Summary map[gloss.Verdict]int `json:"summary"`
	Clean   bool                  `json:"clean"`
}

// summaryKey names what a summary is made from: the sheet, the rack behind it, and the program.
func (s *Server) summaryKey(row *store.Sheet) (string, error) {
	choices, err := row.ChoicesOf()
	if err != nil {
		return "", err
	}
	rack := 0
	if choices.Rack != "" {
		if c, err := s.compiled(choices.Rack, 0); err == nil {
			rack = c.Revision
		}
	}
	ears, err := s.ears()
	if err != nil {
		return "", err
	}
	return hashOf(row.Document, row.Overrides, row.Choices, row.Layer, row.School, row.Source, row.SourceRevision, row.Target, row.TargetRevision, row.First, rack, ears, thisBuild()), nil
}

// thisBuild names this build of the program: what another one has summed up is summed up again.
var thisBuild = sync.OnceValue(func() string {
	file, err := os.Executable()
	if err != nil {
		return ""
	}
	info, err := os.Stat(file)
	if err != nil {
		return ""
	}
	return fmt.Sprint(info.Size(), info.ModTime().UnixNano())
})

// summary gives what is summed up of a sheet; fresh where it had to be made.
func (s *Server) summary(row *store.Sheet, kept store.Summary) (sum sheetSummary, fresh *store.Summary, err error) {
	key, err := s.summaryKey(row)
	if err != nil {
		return sum, nil, err
	}
	if kept.Key == key && json.Unmarshal(kept.Data, &sum) == nil {
		return sum, nil, nil
	}
	sum, err = cached(s.cache, "summary", key, func() (out sheetSummary, err error) {
		j, err := s.inputs(row)
		if err != nil {
			return out, err
		}
		sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
		if err != nil {
			return out, err
		}
		list := dialin.Of(sheet)
		return sheetSummary{j.src.Name, j.dst.Name, list.Count, list.Keys(), list.Labels(), sheet.Summary, sheet.Clean()}, nil
	})
	if err != nil {
		return sum, nil, err
	}
	data, err := json.Marshal(sum)
	return sum, &store.Summary{SheetID: row.ID, Key: key, Data: data}, err
}

func (s *Server) sheetRow(row *store.Sheet, kept store.Summary, ticks []string) (SheetRow, *store.Summary, error) {
	r := SheetRow{ID: row.ID, Patch: row.Patch, PatchName: row.PatchName, Source: row.Source, Target: row.Target, School: row.School, First: row.First, Updated: row.UpdatedAt.UTC().Format(time.RFC3339)}
	sum, fresh, err := s.summary(row, kept)
	if err != nil {
		return r, nil, err
	}
	for _, t := range ticks {
		if slices.Contains(sum.Keys, t) {
			r.Ticked++
		}
	}
	r.SourceName, r.TargetName, r.Lines, r.Summary, r.Clean = sum.Source, sum.Target, sum.Lines, sum.Summary, sum.Clean
	return r, fresh, nil
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
	shows, err := sampleShows(st)
	if err != nil {
		return Loaded{}, err
	}
	return Loaded{Panels: len(panels), Patches: len(patches)}, st.PutAll("load the sample", panels, patches, shows...)
}

// stepRequest names the step that is meant; 0 for whichever is the next.
// Within is the panel whose draft alone the step may touch; empty for any step.
type stepRequest struct {
	Step   uint   `query:"step"`
	Within string `query:"within"`
}

func (r stepRequest) scope() string {
	if r.Within == "" {
		return ""
	}
	return store.DraftScope(r.Within)
}

func (s *Server) undo(ctx context.Context, in stepRequest) (Done, error) {
	what, err := s.store.Undo(in.Step, in.scope())
	return s.stepBack(in.scope(), what, err)
}

func (s *Server) redo(ctx context.Context, in stepRequest) (Done, error) {
	what, err := s.store.Redo(in.Step, in.scope())
	return s.stepBack(in.scope(), what, err)
}

func (s *Server) stepBack(scope, what string, err error) (none Done, _ error) {
	if errors.Is(err, store.ErrNotFound) {
		return none, badRequest{errors.New("there is nothing to take back or to do again")}
	}
	if err != nil {
		return none, err
	}
	s.cache.kept.Purge() // a panel revision may have come or gone
	s.views.Purge()
	p, err := s.pending(scope)
	if err != nil {
		return none, err
	}
	return Done{What: what, Pending: p}, nil
}
