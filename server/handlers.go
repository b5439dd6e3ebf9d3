package server

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/translate"
	"glossator/demo"
	"glossator/formats"
	"glossator/store"
)

func (s *Server) desk(c *echo.Context) error {
	d := Desk{Patches: []PatchRow{}, Sheets: []SheetRow{}, Drafts: []Draft{}}
	var err error
	if d.Panels, err = s.panelRows(); err != nil {
		return err
	}
	if d.Patches, err = s.patchRows(); err != nil {
		return err
	}
	sheets, err := s.store.Sheets()
	if err != nil {
		return err
	}
	for i := range sheets {
		r, err := s.sheetRow(&sheets[i])
		if err != nil {
			return err
		}
		d.Sheets = append(d.Sheets, r)
	}
	drafts, err := s.store.Drafts()
	if err != nil {
		return err
	}
	for _, x := range drafts {
		d.Drafts = append(d.Drafts, Draft{ID: x.ID, Name: x.Name, Base: x.Base, Updated: x.UpdatedAt.UTC().Format(time.RFC3339)})
	}
	if d.Pending, err = s.pending(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, d)
}

func (s *Server) sheetRow(row *store.Sheet) (SheetRow, error) {
	r := SheetRow{ID: row.ID, Patch: row.Patch, PatchName: row.PatchName, Source: row.Source, Target: row.Target, School: row.School, First: row.First, Updated: row.UpdatedAt.UTC().Format(time.RFC3339)}
	j, err := s.job(row)
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

func (j *job) options() translate.Options {
	return translate.Options{School: plan.School(j.row.School), Layer: j.row.Layer, Overrides: j.over, Choices: j.choices, Heard: j.heard, Rack: j.rack}
}

// sample loads the demo's panels and patches beside what is there; what has the same name
// is left as it is.
func (s *Server) sample(c *echo.Context) error {
	n, err := LoadSample(s.store)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, n)
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

func (s *Server) panelView(c *echo.Context) error {
	p, err := s.compiled(c.Param("id"), 0)
	if err != nil {
		return err
	}
	v := viewOfPanel(p)
	if v.Pending, err = s.pending(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, v)
}

func download(c *echo.Context, name, media string, body []byte) error {
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
	return c.Blob(http.StatusOK, media, body)
}

func downloadJSON(c *echo.Context, name string, v any) error {
	body, err := formats.Write(v)
	if err != nil {
		return err
	}
	return download(c, name, "application/json", body)
}

func (s *Server) panelExport(c *echo.Context) error {
	p, err := s.compiled(c.Param("id"), 0)
	if err != nil {
		return err
	}
	return downloadJSON(c, p.ID+".panel.json", p.Panel)
}

// fileName is the name the user knows an upload by.
func fileName(c *echo.Context, fallback string) string {
	name := c.QueryParam("file")
	if name == "" || len(name) > 200 {
		return fallback
	}
	return name
}

func (s *Server) panelImport(c *echo.Context) error {
	data, err := io.ReadAll(c.Request().Body)
	if err != nil {
		return err
	}
	p, err := formats.ReadPanel(fileName(c, "panel"), data)
	if err != nil {
		return err
	}
	revision, err := s.store.PutPanel(p.Panel)
	if err != nil {
		return err
	}
	if p, err = s.compiled(p.ID, revision); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, panelRow(p))
}

func (s *Server) patchView(c *echo.Context) error {
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return err
	}
	v, err := s.viewOfPatch(p)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, v)
}

func (s *Server) patchExport(c *echo.Context) error {
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return err
	}
	return downloadJSON(c, p.ID+".patch.json", p)
}

func (s *Server) patchImport(c *echo.Context) error {
	data, err := io.ReadAll(c.Request().Body)
	if err != nil {
		return err
	}
	p, _, err := formats.ReadPatchOn(fileName(c, "patch"), data, func(id string) *panel.Compiled {
		found, err := s.compiled(id, 0)
		if err != nil {
			return nil
		}
		return found
	})
	if err != nil {
		return err
	}
	if err := s.store.PutPatch(p); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, s.patchRow(p))
}

func (s *Server) patchDelete(c *echo.Context) error {
	if err := s.store.DeletePatch(c.Param("id")); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// body reads a JSON request body strictly.
func body[T any](c *echo.Context) (T, error) {
	var v T
	dec := json.NewDecoder(c.Request().Body)
	dec.DisallowUnknownFields()
	if err := dec.Decode(&v); err != nil {
		var tooBig *http.MaxBytesError
		if errors.As(err, &tooBig) {
			return v, err
		}
		return v, badRequest{fmt.Errorf("expected a JSON object of the documented form: %v", err)}
	}
	return v, nil
}

func (s *Server) sheetOpen(c *echo.Context) error {
	b, err := body[OpenSheet](c)
	if err != nil {
		return err
	}
	p, err := s.patch(b.Patch)
	if err != nil {
		return err
	}
	src, _, err := s.panelOf(p)
	if err != nil {
		return err
	}
	dst, err := s.compiled(b.Target, 0)
	if err != nil {
		return err
	}
	if b.School == "" {
		b.School = plan.Numbers
	}
	if _, err := translate.Translate(src, p, dst, translate.Options{School: b.School, Layer: b.Layer}); err != nil {
		if len(translate.Faults(err)) > 0 {
			return err
		}
		return badRequest{err}
	}
	sheet, err := s.store.OpenSheet(p, b.Layer, src, dst, b.School)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Opened{ID: sheet.ID})
}

func sheetID(c *echo.Context) (uint, error) {
	id, err := strconv.ParseUint(c.Param("id"), 10, 32)
	if err != nil {
		return 0, store.ErrNotFound
	}
	return uint(id), nil
}

// sheet finds the sheet of a request.
func (s *Server) sheet(c *echo.Context) (*job, error) {
	id, err := sheetID(c)
	if err != nil {
		return nil, err
	}
	row, err := s.store.Sheet(id)
	if err != nil {
		return nil, err
	}
	return s.job(row)
}

func (s *Server) answerSheet(c *echo.Context, j *job) error {
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return err
	}
	v := SheetView{ID: j.row.ID, Sheet: *sheet, DialIn: dialin.Of(sheet), Schools: plan.Schools, Against: []gloss.Change{}}
	if sheet.School != plan.Numbers {
		opt := j.options()
		opt.School = plan.Numbers
		numbers, err := translate.Translate(j.src, j.patch, j.dst, opt)
		if err != nil {
			return err
		}
		v.Against = gloss.Changes(numbers, sheet)
	}
	if v.Ticks, err = s.store.Ticks(j.row.ID); err != nil {
		return err
	}
	all, err := s.panelRows()
	if err != nil {
		return err
	}
	v.Targets = targetsOf(all, j.src.ID)
	var racks []*panel.Compiled
	for _, r := range all {
		if r.Kind == "rack" {
			rack, err := s.compiled(r.ID, 0)
			if err != nil {
				return err
			}
			racks = append(racks, rack)
		}
	}
	if v.Outboard, err = translate.Racks(j.src, j.patch, sheet, racks, j.options()); err != nil {
		return err
	}
	missing, _ := sheet.Missing(j.kindOf)
	v.Missing, v.First = []string{}, j.row.First
	for _, id := range missing {
		i, _ := j.src.ModuleIndex(id)
		v.Missing = append(v.Missing, j.src.Modules[i].Label)
	}
	if second, err := s.store.Second(j.row.ID); err == nil {
		v.Second = second.ID
	} else if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	v.Newer, v.Since = s.newer(j), s.since(j, sheet)
	if v.Pending, err = s.pending(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, v)
}

// kindOf gives the kind of a module of the source.
func (j *job) kindOf(id string) meaning.Kind {
	if i, ok := j.src.ModuleIndex(id); ok {
		return j.src.Modules[i].Kind
	}
	return ""
}

// secondLayer opens the sheet of a second layer of the target, which plays what a sheet leaves out.
func (s *Server) secondLayer(c *echo.Context) error {
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	if j.row.First != 0 {
		return badRequest{errors.New("expected the sheet of a first layer: this is one of a second")}
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return err
	}
	missing, played := sheet.Missing(j.kindOf)
	if len(missing) == 0 {
		return badRequest{errors.New("expected a sheet that leaves out a source of sound: this one plays all of them")}
	}
	row, err := s.store.OpenSecond(j.row, plan.Choices{Elsewhere: played})
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Opened{ID: row.ID})
}

// since compares a sheet with what would be made of the patch and the panels as they are now; where
// that cannot be made there is nothing to tell.
func (s *Server) since(j *job, sheet *gloss.Sheet) []gloss.Change {
	none := []gloss.Change{}
	row, err := s.store.Patch(j.row.Patch)
	if err != nil {
		return none
	}
	p, err := patchOf(row.Document)
	if err != nil {
		return none
	}
	src, _, err := s.panelOf(p)
	if err != nil {
		return none
	}
	dst, err := s.compiled(j.dst.ID, 0)
	if err != nil || src.Revision == j.src.Revision && dst.Revision == j.dst.Revision && string(row.Document) == string(j.row.Document) {
		return none
	}
	opt := j.options()
	opt.Overrides = nil
	now, err := translate.Translate(src, p, dst, opt)
	if err != nil {
		return none
	}
	return gloss.Changes(sheet, now)
}

// newer says what has changed since a sheet was made.
func (s *Server) newer(j *job) string {
	var out []string
	if row, err := s.store.Patch(j.row.Patch); err != nil {
		out = append(out, "the patch has been deleted")
	} else if string(row.Document) != string(j.row.Document) {
		out = append(out, "the patch has changed")
	}
	for _, p := range []*panel.Compiled{j.src, j.dst} {
		if now, err := s.compiled(p.ID, 0); err == nil && now.Revision > p.Revision {
			out = append(out, fmt.Sprintf("%s is at revision %d", p.Name, now.Revision))
		}
	}
	return strings.Join(out, "; ")
}

func (s *Server) sheetView(c *echo.Context) error {
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	return s.answerSheet(c, j)
}

func (s *Server) sheetDelete(c *echo.Context) error {
	id, err := sheetID(c)
	if err != nil {
		return err
	}
	if err := s.store.DeleteSheet(id); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *Server) overrideSet(c *echo.Context) error {
	b, err := body[ReadingBody](c)
	if err != nil {
		return err
	}
	if strings.TrimSpace(b.Reading) == "" {
		return badRequest{errors.New("expected a reading; delete the override to take it back")}
	}
	return s.override(c, strings.TrimSpace(b.Reading))
}

func (s *Server) overrideDrop(c *echo.Context) error { return s.override(c, "") }

func (s *Server) override(c *echo.Context, reading string) error {
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	control, err := url.PathUnescape(c.Param("control"))
	if err != nil {
		return store.ErrNotFound
	}
	k, ok := j.dst.ControlIndex(control)
	if !ok {
		return store.ErrNotFound
	}
	if reading != "" {
		pos, err := j.dst.Controls[k].Face.Parse(reading)
		if err != nil {
			return badRequest{err}
		}
		reading = pos.Reading
	}
	row, err := s.store.Override(j.row.ID, control, reading)
	if err != nil {
		return err
	}
	if j, err = s.job(row); err != nil {
		return err
	}
	return s.answerSheet(c, j)
}

func (s *Server) rule(c *echo.Context) error {
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	r, err := translate.ScalesOf(j.src, j.patch, j.dst, j.options(), c.QueryParam("gloss"))
	if errors.Is(err, translate.ErrNoLine) {
		return store.ErrNotFound
	}
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, r)
}

func (s *Server) sheetJSON(c *echo.Context) error {
	return s.exportSheet(c, func(j *job, sheet *gloss.Sheet) error {
		return downloadJSON(c, j.row.Patch+"-to-"+j.row.Target+".sheet.json", sheet)
	})
}

func (s *Server) sheetMarkdown(c *echo.Context) error {
	return s.exportSheet(c, func(j *job, sheet *gloss.Sheet) error {
		return download(c, j.row.Patch+"-to-"+j.row.Target+".md", "text/markdown; charset=utf-8", []byte(formats.SheetMarkdown(sheet)))
	})
}

func (s *Server) exportSheet(c *echo.Context, write func(*job, *gloss.Sheet) error) error {
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return err
	}
	return write(j, sheet)
}

func (s *Server) tickSet(c *echo.Context) error  { return s.tick(c, true) }
func (s *Server) tickDrop(c *echo.Context) error { return s.tick(c, false) }

func (s *Server) tick(c *echo.Context, on bool) error {
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	key, err := url.PathUnescape(c.Param("key"))
	if err != nil {
		return store.ErrNotFound
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return err
	}
	if list := dialin.Of(sheet); on && !list.Has(key) {
		return store.ErrNotFound
	}
	if err := s.store.SetTick(j.row.ID, key, on); err != nil {
		return err
	}
	return s.answerSheet(c, j)
}

// choose decides about one part of a sheet's patch: keep, not needed or as usual, and which rules
// it is not to be made by.
func (s *Server) choose(c *echo.Context) error {
	b, err := body[PartChoice](c)
	if err != nil {
		return err
	}
	j, err := s.sheet(c)
	if err != nil {
		return err
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
		return s.chosen(c, j, what, now)
	case b.Rack != nil:
		what = "the rack is not used"
		if now.Rack = *b.Rack; now.Rack != "" {
			rack, err := s.compiled(now.Rack, 0)
			if err != nil {
				return err
			}
			if rack.Kind != "rack" {
				return badRequest{fmt.Errorf("expected a rack, got %s, which is an instrument", rack.Name)}
			}
			what = rack.Name + " stands behind " + j.dst.Name
		}
		return s.chosen(c, j, what, now)
	case b.Bans != nil:
		what = "take another plan"
		if now.Bans = *b.Bans; len(now.Bans) == 0 {
			what = "take the best plan"
		}
		return s.chosen(c, j, what, now)
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
		return badRequest{fmt.Errorf("expected keep, not needed or as usual, got %q", b.Matters)}
	}
	if len(b.Refuse) > 0 {
		now.Refuse[b.Part], what = b.Refuse, b.Part+" not by "+strings.Join(b.Refuse, ", ")
	}
	return s.chosen(c, j, what, now)
}

// chosen keeps what has been decided, where the sheet can be made with it, and answers with the sheet.
func (s *Server) chosen(c *echo.Context, j *job, what string, now plan.Choices) error {
	j.choices = now
	if _, err := translate.Translate(j.src, j.patch, j.dst, j.options()); err != nil {
		return err
	}
	row, err := s.store.Choose(j.row.ID, what, now)
	if err != nil {
		return err
	}
	if j, err = s.job(row); err != nil {
		return err
	}
	return s.answerSheet(c, j)
}

func (s *Server) plans(c *echo.Context) error {
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	next, err := translate.NextPlans(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Plans{Next: next})
}

func (s *Server) alternatives(c *echo.Context) error {
	j, err := s.sheet(c)
	if err != nil {
		return err
	}
	all, err := translate.Alternatives(j.src, j.patch, j.dst, j.options(), c.QueryParam("part"))
	if err != nil {
		if translate.Faults(err) != nil {
			return err
		}
		return badRequest{err}
	}
	return c.JSON(http.StatusOK, Ways{Ways: all})
}

// ranking translates a patch to every instrument, or to those named in targets (ids by commas),
// its own left out.
func (s *Server) ranking(c *echo.Context) error {
	p, err := s.patch(c.Param("id"))
	if err != nil {
		return err
	}
	src, _, err := s.panelOf(p)
	if err != nil {
		return err
	}
	only := map[string]bool{}
	for _, id := range strings.Split(c.QueryParam("targets"), ",") {
		if id != "" {
			only[id] = true
		}
	}
	rows, err := s.store.Panels()
	if err != nil {
		return err
	}
	var targets []*panel.Compiled
	for i := range rows {
		t, err := s.compiledRow(&rows[i])
		if err != nil {
			return err
		}
		if len(only) == 0 && t.Kind == "instrument" && t.ID != src.ID || only[t.ID] {
			targets = append(targets, t)
		}
	}
	if len(targets) < len(only) {
		return badRequest{fmt.Errorf("expected the ids of panels, got %q", c.QueryParam("targets"))}
	}
	out := Ranking{Patch: s.patchRow(p), Layer: c.QueryParam("layer"), School: plan.School(c.QueryParam("school"))}
	if out.School == "" {
		out.School = plan.Numbers
	}
	if out.Targets, err = translate.Rank(src, p, targets, translate.Options{School: out.School, Layer: out.Layer}); err != nil {
		if l := translate.Faults(err); l != nil {
			return l
		}
		return badRequest{err}
	}
	if out.Pending, err = s.pending(); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

func (s *Server) undo(c *echo.Context) error { return s.stepBack(c, s.store.Undo) }
func (s *Server) redo(c *echo.Context) error { return s.stepBack(c, s.store.Redo) }

func (s *Server) stepBack(c *echo.Context, step func() (string, error)) error {
	what, err := step()
	if errors.Is(err, store.ErrNotFound) {
		return badRequest{errors.New("there is nothing to take back or to do again")}
	}
	if err != nil {
		return err
	}
	s.rack.Clear() // a panel revision may have come or gone
	p, err := s.pending()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Done{What: what, Pending: p})
}
