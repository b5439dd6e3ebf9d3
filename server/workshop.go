package server

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	jsonpatch "github.com/evanphx/json-patch/v5"
	"github.com/labstack/echo/v5"

	"glossator/core/fault"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/quantity"
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
	kept  bool // there is a draft in the store
}

// draftOf gives the draft of a panel, or the newest revision to begin from.
func (s *Server) draftOf(id string) (*draft, error) {
	var p panel.Panel
	d, err := s.store.Draft(id)
	if err == nil {
		if err := json.Unmarshal(d.Document, &p); err != nil {
			return nil, fmt.Errorf("stored draft %s: %w", id, err)
		}
		return &draft{&p, d.Base, true}, nil
	}
	if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	row, err := s.store.Panel(id, 0)
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(row.Document, &p); err != nil {
		return nil, fmt.Errorf("stored panel %s: %w", id, err)
	}
	return &draft{&p, row.Revision, false}, nil
}

// faultsOf checks a draft as an import would be checked.
func faultsOf(p *panel.Panel) fault.List {
	if l := formats.CheckPanel(p); l != nil {
		return l
	}
	return fault.List{}
}

func (s *Server) answerWorkshop(c *echo.Context, d *draft) error {
	return s.answerChecked(c, d, faultsOf(d.panel))
}

func (s *Server) answerChecked(c *echo.Context, d *draft, faults fault.List) error {
	v := Workshop{Panel: *d.panel, Base: d.base, Draft: d.kept, Faults: faults, Changes: []panel.Difference{}}
	if row, err := s.store.Panel(d.panel.ID, d.base); err == nil && d.base > 0 {
		var base panel.Panel
		if err := json.Unmarshal(row.Document, &base); err != nil {
			return err
		}
		v.Changes = append(v.Changes, panel.Diff(&base, d.panel)...)
	} else if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	var err error
	if v.Pending, err = s.pending(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, v)
}

func (s *Server) workshop(c *echo.Context) error {
	d, err := s.draftOf(c.Param("id"))
	if err != nil {
		return err
	}
	return s.answerWorkshop(c, d)
}

// keepDraft stores a changed panel as the draft and answers with it.
func (s *Server) keepDraft(c *echo.Context, what string, d *draft, now *panel.Panel) error {
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
	if err := s.store.PutDraft(d.panel.Name+": "+what, d.base, now); err != nil {
		return err
	}
	return s.answerChecked(c, &draft{now, d.base, true}, <-checked)
}

// workshopEdit applies a JSON Patch (RFC 6902) to the draft. Faults do not stop it: they are
// told with the answer, and stop only the saving.
func (s *Server) workshopEdit(c *echo.Context) error {
	b, err := body[Edit](c)
	if err != nil {
		return err
	}
	d, err := s.draftOf(c.Param("id"))
	if err != nil {
		return err
	}
	if len(b.Ops) > maxOps {
		return badRequest{fmt.Errorf("expected at most %d operations in one edit", maxOps)}
	}
	ops, err := json.Marshal(b.Ops)
	if err != nil {
		return err
	}
	change, err := jsonpatch.DecodePatch(ops)
	if err != nil {
		return badRequest{fmt.Errorf("expected a JSON Patch (RFC 6902): %v", err)}
	}
	doc, err := json.Marshal(d.panel)
	if err != nil {
		return err
	}
	options := jsonpatch.NewApplyOptions()
	options.AccumulatedCopySizeLimit, options.EnsurePathExistsOnAdd, options.AllowMissingPathOnRemove = formats.MaxSize, true, true
	if doc, err = change.ApplyWithOptions(doc, options); err != nil {
		return badRequest{fmt.Errorf("the edit does not fit the panel as it stands (%v): reload, then edit again", err)}
	}
	if len(doc) > formats.MaxSize {
		return badRequest{fmt.Errorf("expected a panel of at most %d MB", formats.MaxSize>>20)}
	}
	var now panel.Panel
	dec := json.NewDecoder(bytes.NewReader(doc))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&now); err != nil {
		return badRequest{fmt.Errorf("expected what a panel can hold there: %v", err)}
	}
	what := strings.TrimSpace(b.What)
	if what == "" {
		what = "edit"
	}
	return s.keepDraft(c, what, d, &now)
}

func (s *Server) workshopRename(c *echo.Context) error {
	b, err := body[NewName](c)
	if err != nil {
		return err
	}
	d, err := s.draftOf(c.Param("id"))
	if err != nil {
		return err
	}
	to := strings.TrimSpace(b.To)
	if to == "" {
		return badRequest{errors.New("expected an id")}
	}
	now, err := panel.Rename(d.panel, b.Kind, b.From, to)
	if err != nil {
		return badRequest{err}
	}
	return s.keepDraft(c, fmt.Sprintf("%s %s is now %s", b.Kind, b.From, to), d, now)
}

// workshopTry draws a control as it is being edited, stored or not.
func (s *Server) workshopTry(c *echo.Context) error {
	b, err := body[panel.Control](c)
	if err != nil {
		return err
	}
	out := Tried{Faults: b.Face.Check(), Means: []MeanView{}}
	if len(out.Faults) > 0 {
		return c.JSON(http.StatusOK, out)
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
	return c.JSON(http.StatusOK, out)
}

// workshopMarks makes a law of printed marks.
func (s *Server) workshopMarks(c *echo.Context) error {
	b, err := body[Marks](c)
	if err != nil {
		return err
	}
	if l := b.Face.Check(); len(l) > 0 {
		return l
	}
	fit, err := scale.FromMarks(b.Face, strings.TrimSpace(b.Unit), b.Marks)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, fit)
}

// workshopSave makes the draft the next revision; it must have no faults.
func (s *Server) workshopSave(c *echo.Context) error {
	d, err := s.draftOf(c.Param("id"))
	if err != nil {
		return err
	}
	if !d.kept {
		return badRequest{errors.New("there is no draft to save: nothing has been edited since the last revision")}
	}
	if l := faultsOf(d.panel); len(l) > 0 {
		return l
	}
	revision, err := s.store.SaveDraft(d.panel)
	if err != nil {
		return err
	}
	p, err := s.compiled(d.panel.ID, revision)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, panelRow(p))
}

func (s *Server) workshopDrop(c *echo.Context) error {
	if err := s.store.DropDraft(c.Param("id")); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// panelBlank begins a new panel as a draft.
func (s *Server) panelBlank(c *echo.Context) error {
	b, err := body[Named](c)
	if err != nil {
		return err
	}
	return s.newPanel(c, panel.Blank("", strings.TrimSpace(b.Name)))
}

// panelCopy begins a new panel from one that is there.
func (s *Server) panelCopy(c *echo.Context) error {
	b, err := body[Named](c)
	if err != nil {
		return err
	}
	d, err := s.draftOf(c.Param("id"))
	if err != nil {
		return err
	}
	d.panel.Name, d.panel.Revision = strings.TrimSpace(b.Name), 1
	return s.newPanel(c, d.panel)
}

func (s *Server) newPanel(c *echo.Context, p *panel.Panel) error {
	if p.Name == "" {
		return badRequest{errors.New("expected a name for the panel")}
	}
	id, err := freeID(p.Name, "panel", func(id string) error {
		if _, err := s.store.Draft(id); err == nil || !errors.Is(err, store.ErrNotFound) {
			return err
		}
		_, err := s.store.Panel(id, 0)
		return err
	})
	if err != nil {
		return err
	}
	p.ID = id
	if err := s.store.PutDraft("begin panel "+p.Name, 0, p); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, Draft{ID: p.ID, Name: p.Name})
}

// freeID makes an id from a name that find does not know.
func freeID(name, fallback string, find func(id string) error) (string, error) {
	base := strings.Trim(notID.ReplaceAllString(strings.ToLower(name), "-"), "-")
	if base == "" {
		base = fallback
	}
	base = strings.TrimRight(base[:min(len(base), 56)], "-")
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

func (s *Server) controlsCSV(c *echo.Context) error {
	d, err := s.draftOf(c.Param("id"))
	if err != nil {
		return err
	}
	b, err := formats.WriteControls(d.panel)
	if err != nil {
		return err
	}
	return download(c, d.panel.ID+".controls.csv", "text/csv; charset=utf-8", b)
}

// controlsRead takes a controls table in place of the draft's controls. Faults of form refuse
// it, by row; what only the rest of the panel can tell becomes faults of the draft.
func (s *Server) controlsRead(c *echo.Context) error {
	data, err := io.ReadAll(c.Request().Body)
	if err != nil {
		return err
	}
	d, err := s.draftOf(c.Param("id"))
	if err != nil {
		return err
	}
	file := fileName(c, "table")
	controls, rows, err := formats.ReadControls(file, data)
	if err != nil {
		return err
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
		return formats.ByRow(own, rows).In(file)
	}
	return s.keepDraft(c, fmt.Sprintf("%d controls from %s", len(controls), file), d, &now)
}

func (s *Server) revisions(c *echo.Context) error {
	rows, err := s.store.Revisions(c.Param("id"))
	if err != nil {
		return err
	}
	if len(rows) == 0 {
		return store.ErrNotFound
	}
	out := Revisions{Revisions: []RevisionRow{}}
	for _, r := range rows {
		out.Revisions = append(out.Revisions, RevisionRow{Revision: r.Revision, Name: r.Name, At: r.CreatedAt.UTC().Format(time.RFC3339)})
	}
	if out.Pending, err = s.pending(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// revisionOf reads a revision number from a query, 0 where there is none.
func revisionOf(c *echo.Context, name string) (int, error) {
	text := c.QueryParam(name)
	if text == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(text)
	if err != nil || n < 1 {
		return 0, badRequest{fmt.Errorf("expected the number of a revision for %s, got %q", name, text)}
	}
	return n, nil
}

func (s *Server) difference(c *echo.Context) error {
	var sides [2]*panel.Compiled
	for i, name := range []string{"from", "to"} {
		n, err := revisionOf(c, name)
		if err != nil {
			return err
		}
		if sides[i], err = s.compiled(c.Param("id"), n); err != nil {
			return err
		}
	}
	out := Differences{Differences: panel.Diff(sides[0].Panel, sides[1].Panel)}
	if out.Differences == nil {
		out.Differences = []panel.Difference{}
	}
	return c.JSON(http.StatusOK, out)
}

// restoreRevision makes an older revision the draft.
func (s *Server) revisionRestore(c *echo.Context) error {
	n, err := strconv.Atoi(c.Param("revision"))
	if err != nil || n < 1 {
		return store.ErrNotFound
	}
	old, err := s.compiled(c.Param("id"), n)
	if err != nil {
		return err
	}
	d, err := s.draftOf(c.Param("id"))
	if err != nil {
		return err
	}
	now := *old.Panel
	return s.keepDraft(c, fmt.Sprintf("back to revision %d", n), d, &now)
}

// vocabulary tells what panels may be made of.
func (s *Server) vocabulary(c *echo.Context) error {
	out := Vocabulary{Kinds: []KindView{}, Sources: meaning.Sources, Steps: []StepView{}, Units: []UnitView{}, Laws: scale.LawKinds}
	for i := range meaning.Kinds {
		k := &meaning.Kinds[i]
		v := KindView{Kind: string(k.Kind), Label: k.Label, Params: []ParamView{}}
		for _, p := range k.Params {
			v.Params = append(v.Params, ParamView{Name: string(p.Name), Label: p.Label, Dim: string(p.Dim), Neutral: p.Neutral.String(), Sums: p.Sums})
		}
		out.Kinds = append(out.Kinds, v)
	}
	for _, st := range meaning.Steps {
		out.Steps = append(out.Steps, StepView{Step: string(st.Step), Title: st.Title})
	}
	for _, u := range quantity.Units {
		out.Units = append(out.Units, UnitView{Symbol: u.Symbol, Dim: string(u.Dim)})
	}
	return c.JSON(http.StatusOK, out)
}
