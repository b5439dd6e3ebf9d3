package server

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"strings"

	jsonpatch "github.com/evanphx/json-patch/v5"

	"glossator/core/build"
	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/core/scale"
	"glossator/formats"
	"glossator/store"
)

// maxOps is how many operations one edit may have.
const maxOps = 1000

// draft is a panel as it is being worked on.
type draft struct {
	panel *panel.Panel
	base  int
	kept  bool   // there is a draft in the store
	read  []byte // the document that it was read from
}

// draftOf gives the draft of a panel in the version that was shown to whoever changes it, or the newest revision to begin from.
func (s *Server) draftOf(ctx context.Context, id string) (*draft, error) {
	var p panel.Panel
	d, err := s.store.On(ctx).DraftAt(id)
	if err == nil {
		if err := json.Unmarshal(d.Document, &p); err != nil {
			return nil, fmt.Errorf("stored draft %s: %w", id, err)
		}
		return &draft{&p, d.Base, true, d.Document}, nil
	}
	revision := 0
	if _, stale := store.IsStale(err); stale { // what was shown may be the revision that the draft has been begun from since
		now, e := s.store.Draft(id)
		if e != nil {
			return nil, e
		}
		if now.Base == 0 {
			return nil, err
		}
		revision = now.Base
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	row, err := s.store.Panel(id, revision)
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(row.Document, &p); err != nil {
		return nil, fmt.Errorf("stored panel %s: %w", id, err)
	}
	if based := store.BasedOn(ctx); based != "" && based != store.TagFor(&p) { // the draft that was shown has been saved or left
		return nil, store.ErrStale{}
	}
	return &draft{&p, row.Revision, false, row.Document}, nil
}

// faultsOf checks a draft as an import would be checked.
func faultsOf(p *panel.Panel) fault.List {
	if l := formats.CheckPanel(p); l != nil {
		return l
	}
	return fault.List{}
}

func (s *Server) answerWorkshop(d *draft) (none Workshop, err error) {
	return s.answerChecked(d, faultsOf(d.panel))
}

func (s *Server) answerChecked(d *draft, faults fault.List) (none Workshop, err error) {
	v := Workshop{tag: store.TagFor(d.panel), Panel: *d.panel, Base: d.base, Draft: d.kept, Faults: d.panel.Told(faults), Notices: d.panel.Doubts(), Changes: []panel.Difference{}, Params: d.panel.Settable(), Conditions: d.panel.Conditions(), Lines: linesOf(d.panel), Usual: build.Usual(d.panel)}
	if row, err := s.store.Panel(d.panel.ID, d.base); err == nil && d.base > 0 {
		var base panel.Panel
		if err := json.Unmarshal(row.Document, &base); err != nil {
			return none, err
		}
		v.Changes = append(v.Changes, panel.Diff(&base, d.panel)...)
	} else if err != nil && !errors.Is(err, store.ErrNotFound) {
		return none, err
	}
	if v.Pending, err = s.pending(store.DraftScope(d.panel.ID)); err != nil {
		return none, err
	}
	return v, nil
}

func (s *Server) workshop(ctx context.Context, in named) (none Workshop, err error) {
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	return s.answerWorkshop(d)
}

// keepDraft stores a changed panel as the draft and answers with it.
func (s *Server) keepDraft(ctx context.Context, what string, d *draft, now *panel.Panel) (none Workshop, err error) {
	now.ID, now.Format, now.Version, now.Revision = d.panel.ID, panel.Format, panel.Version, d.panel.Revision
	checked := make(chan fault.List, 1)
	go func() { // while it is stored: a large panel takes a moment
		defer func() {
			if x := recover(); x != nil {
				s.log.Error("the check of a draft failed", "panel", now.ID, "error", x)
				checked <- fault.List{{Message: "the check itself failed: undo the last edit"}}
			}
		}()
		checked <- faultsOf(now)
	}()
	kept, err := s.store.On(ctx).PutDraft(d.panel.Name+": "+what, d.base, now, d.read)
	if err != nil {
		return none, err
	}
	faults := <-checked
	if kept != now { // somebody else's changes are in it
		faults = faultsOf(kept)
	}
	doc, err := json.Marshal(kept)
	if err != nil {
		return none, err
	}
	return s.answerChecked(&draft{kept, d.base, true, doc}, faults)
}

type workshopEditRequest struct {
	ID   string `path:"id"`
	Body Edit
}

// workshopEdit applies a JSON Patch (RFC 6902) to the draft. Faults do not stop it: they are
// told with the answer, and stop only the saving.
func (s *Server) workshopEdit(ctx context.Context, in workshopEditRequest) (none Workshop, err error) {
	b := in.Body
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	if len(b.Ops) > maxOps {
		return none, badRequest{fmt.Errorf("expected at most %d operations in one edit", maxOps)}
	}
	for i := range b.Ops {
		for _, part := range strings.Split(b.Ops[i].Path, "/") {
			if n, err := strconv.Atoi(part); err == nil && n > formats.MaxItems || len(part) > 1000 {
				return none, fault.List{{Path: b.Ops[i].Path, Message: fmt.Sprintf("expected places up to %d in a list", formats.MaxItems)}}
			}
		}
		if err := b.Ops[i].read(d.panel); err != nil {
			return none, fault.List{{Path: b.Ops[i].Path, Message: err.Error()}}
		}
	}
	ops, err := json.Marshal(b.Ops)
	if err != nil {
		return none, err
	}
	change, err := jsonpatch.DecodePatch(ops)
	if err != nil {
		return none, badRequest{fmt.Errorf("expected a JSON Patch (RFC 6902): %v", err)}
	}
	doc, err := json.Marshal(d.panel)
	if err != nil {
		return none, err
	}
	options := jsonpatch.NewApplyOptions()
	options.AccumulatedCopySizeLimit, options.EnsurePathExistsOnAdd, options.AllowMissingPathOnRemove = formats.MaxSize, true, true
	if doc, err = change.ApplyWithOptions(doc, options); err != nil {
		return none, badRequest{fmt.Errorf("the edit does not fit the panel as it stands (%v): reload, then edit again", err)}
	}
	if len(doc) > formats.MaxSize {
		return none, badRequest{fmt.Errorf("expected a panel of at most %d MB", formats.MaxSize>>20)}
	}
	type strict panel.Panel // without its own way of reading, which takes names that it does not know
	var read strict
	dec := json.NewDecoder(bytes.NewReader(doc))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&read); err != nil {
		return none, badRequest{fmt.Errorf("expected what a panel can hold there: %v", err)}
	}
	now := panel.Panel(read)
	now.Upgrade()
	what := strings.TrimSpace(b.What)
	if what == "" {
		what = "edit"
	}
	return s.keepDraft(ctx, what, d, &now)
}

type workshopRenameRequest struct {
	ID   string `path:"id"`
	Body NewName
}

func (s *Server) workshopRename(ctx context.Context, in workshopRenameRequest) (none Workshop, err error) {
	b := in.Body
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	to := strings.TrimSpace(b.To)
	if to == "" {
		return none, badRequest{errors.New("expected an id")}
	}
	now, err := panel.Rename(d.panel, b.Kind, b.From, to)
	if err != nil {
		return none, badRequest{err}
	}
	what := b.Kind
	for _, c := range d.panel.Controls {
		if b.Kind == "control" && c.ID == b.From {
			what = c.Label
		}
	}
	for _, m := range d.panel.Modules {
		if b.Kind == "module" && m.ID == b.From {
			what = m.Label
		}
	}
	return s.keepDraft(ctx, what+": short name", d, now)
}

type workshopTryRequest struct {
	ID   string `path:"id"`
	Body panel.Control
}

// workshopTry draws a control as it is being edited, stored or not.
func (s *Server) workshopTry(ctx context.Context, in workshopTryRequest) (none Tried, err error) {
	return tried(in.Body), nil
}

// tried draws a control.
func tried(b panel.Control) Tried {
	out := Tried{Faults: b.Face.Check(), Means: []MeanView{}}
	if len(out.Faults) > 0 {
		return out
	}
	out.Expects = b.Face.Expects()
	if b.Face.Len() > 0 {
		b.Face = b.Face.Ready()
	}
	if pos, err := b.Face.Parse(b.Init); err != nil {
		out.Faults.Add("/init", "%v", err)
	} else {
		out.Init = pos.Reading
	}
	for i := range b.Means {
		l := b.Means[i].Law.Check(b.Face)
		out.Faults.Under(fmt.Sprintf("/means/%d/law", i), l)
		v := MeanView{Param: b.Means[i].Param, Label: b.Means[i].Param, Source: string(b.Means[i].Law.Source), Ticks: []scale.Tick{}}
		if len(l) == 0 {
			v.Law = b.Means[i].Law.String()
			v.Ticks, v.Geometric, v.Named = drawn(b.Face, b.Means[i].Law)
		}
		out.Means = append(out.Means, v)
	}
	if out.Faults == nil {
		out.Faults = fault.List{}
	}
	return out
}

type workshopMarksRequest struct {
	ID   string `path:"id"`
	Body Marks
}

// workshopMarks makes a law of printed marks.
func (s *Server) workshopMarks(ctx context.Context, in workshopMarksRequest) (none scale.Fitted, err error) {
	b := in.Body
	if l := b.Face.Check(); len(l) > 0 {
		return none, l
	}
	fit, err := scale.FromMarks(b.Face, strings.TrimSpace(b.Unit), b.Marks)
	if err != nil {
		return none, err
	}
	return fit, nil
}

// workshopSave makes the draft the next revision; it must have no faults.
func (s *Server) workshopSave(ctx context.Context, in named) (none PanelRow, err error) {
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	if !d.kept {
		return none, badRequest{errors.New("there is no draft to save: nothing has been edited since the last revision")}
	}
	if l := faultsOf(d.panel); len(l) > 0 {
		return none, d.panel.Told(l)
	}
	revision, err := s.store.On(ctx).SaveDraft(d.panel)
	if err != nil {
		return none, err
	}
	p, err := s.compiled(d.panel.ID, revision)
	if err != nil {
		return none, err
	}
	return panelRow(p), nil
}

func (s *Server) workshopDrop(ctx context.Context, in named) (none None, err error) {
	if err := s.store.On(ctx).DropDraft(in.ID); err != nil {
		return none, err
	}
	return None{}, nil
}

type panelCopyRequest struct {
	ID   string `path:"id"`
	Body Named
}

// panelCopy begins a new panel from one that is there.
func (s *Server) panelCopy(ctx context.Context, in panelCopyRequest) (none Draft, err error) {
	b := in.Body
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	d.panel.Name, d.panel.Revision = strings.TrimSpace(b.Name), 1
	return s.newPanel(d.panel)
}

func (s *Server) newPanel(p *panel.Panel) (none Draft, err error) {
	if p.Name == "" {
		return none, badRequest{errors.New("expected a name for the panel")}
	}
	id, err := freeID(p.Name, "panel", func(id string) error {
		if _, err := s.store.Draft(id); err == nil || !errors.Is(err, store.ErrNotFound) {
			return err
		}
		_, err := s.store.Panel(id, 0)
		return err
	})
	if err != nil {
		return none, err
	}
	p.ID = id
	if _, err := s.store.PutDraft("begin panel "+p.Name, 0, p, nil); err != nil {
		return none, err
	}
	return Draft{ID: p.ID, Name: p.Name}, nil
}

// freeID makes an id from a name that find does not know.
func freeID(name, fallback string, find func(id string) error) (string, error) {
	base := cmp.Or(build.Slug(name), fallback)
	id := base
	for n := 2; ; n++ {
		if err := find(id); errors.Is(err, store.ErrNotFound) {
			return id, nil
		} else if err != nil {
			return "", err
		}
		id = fmt.Sprintf("%s-%d", base, n)
	}
}

func (s *Server) controlsCSV(ctx context.Context, in named) (none File[None], err error) {
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	b, err := formats.WriteControls(d.panel)
	if err != nil {
		return none, err
	}
	return download(d.panel.ID+".controls.csv", "text/csv; charset=utf-8", b)
}

type controlsReadRequest struct {
	ID   string `path:"id"`
	File string `query:"file"`
	Body Upload[None]
}

// controlsRead takes a controls table in place of the draft's controls. Faults of form refuse
// it, by row; what only the rest of the panel can tell becomes faults of the draft.
func (s *Server) controlsRead(ctx context.Context, in controlsReadRequest) (none Workshop, err error) {
	data := in.Body.Data
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	file := fileName(in.File, "table")
	said, detailed, err := formats.ReadRows(file, data)
	if err != nil {
		return none, err
	}
	if !detailed {
		now, taken, faults := build.FromRows(d.panel, said)
		if taken == 0 {
			return none, faults.In(file)
		}
		v, err := s.keepDraft(ctx, fmt.Sprintf("%d controls from %s", taken, file), d, now)
		v.Taken, v.Rows = taken, faults.In(file)
		return v, err
	}
	controls, rows, err := formats.ReadControls(file, data)
	if err != nil {
		return none, err
	}
	now := *d.panel
	now.Controls = controls
	var own fault.List
	for _, f := range faultsOf(&now) {
		if strings.HasPrefix(f.Path, "/controls/") {
			own = append(own, f)
		}
	}
	if len(own) > 0 {
		return none, formats.ByRow(own, rows).In(file)
	}
	v, err := s.keepDraft(ctx, fmt.Sprintf("%d controls from %s", len(controls), file), d, &now)
	v.Taken = len(controls)
	return v, err
}

// Draft is a panel that is being worked on; Base is the revision it began from, 0 for a new one.
type Draft struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Base    int    `json:"base"`
	Updated string `json:"updated"`
}

// Workshop is a panel as it is being worked on.
type Workshop struct {
	tag string

	Panel panel.Panel `json:"panel"`
	Base  int         `json:"base"`
	// Draft is set where something is not saved as a revision yet.
	Draft  bool       `json:"draft"`
	Faults fault.List `json:"faults"`
	// Notices are what is likely to have been forgotten; they stop nothing.
	Notices fault.List `json:"notices,omitempty"`
	// Changes since the base.
	Changes []panel.Difference `json:"changes"`
	// Params is what laws, routes and points may name.
	Params []panel.Settable `json:"params"`
	// Conditions has every condition in words, by the JSON Pointer of where it stands.
	Conditions map[string]string `json:"conditions"`
	// Lines has the controls, each in one line; Usual is what is printed beside most of them.
	Lines []LineView `json:"lines"`
	Usual string     `json:"usual"`
	// At is the id of what has been put in: a section or a control. Doubts says what of it could not be taken as it was said.
	At     string   `json:"at,omitempty"`
	Doubts []string `json:"doubts,omitempty"`
	// Taken is how many controls came from a table, Rows what of it did not go in, by row.
	Taken   int        `json:"taken,omitempty"`
	Rows    fault.List `json:"rows,omitempty"`
	Pending Pending    `json:"pending"`
}

// Edit is a JSON Patch (RFC 6902) and what to call it.
type Edit struct {
	What string   `json:"what"`
	Ops  []EditOp `json:"ops"`
}

// EditOp is one operation of a JSON Patch.
type EditOp struct {
	Op    string          `json:"op"`
	Path  string          `json:"path"`
	From  string          `json:"from,omitempty"`
	Value json.RawMessage `json:"value,omitempty"`
	// When stands in place of Value: conditions in words, "wave = saw | pulse; sync = on".
	When *string `json:"when,omitempty"`
}

// read puts conditions that came in words in place of them.
func (op *EditOp) read(p *panel.Panel) error {
	if op.When == nil {
		return nil
	}
	ws, err := p.ReadWhen(*op.When)
	if err != nil {
		return err
	}
	op.When = nil
	op.Value, err = json.Marshal(ws)
	return err
}

// NewName renames an id everywhere; Kind is section, control, module, route, slot or point.
type NewName struct {
	Kind string `json:"kind"`
	From string `json:"from"`
	To   string `json:"to"`
}

// Named asks for something new by its name.
type Named struct {
	Name string `json:"name"`
}

// Tried is a control as it would be.
type Tried struct {
	Expects string     `json:"expects"`
	Init    string     `json:"init"`
	Means   []MeanView `json:"means"`
	Faults  fault.List `json:"faults"`
}

// Marks asks for a law through printed marks: one "mark = value" a line.
type Marks struct {
	Face  scale.Face `json:"face"`
	Unit  string     `json:"unit"`
	Marks string     `json:"marks"`
}
