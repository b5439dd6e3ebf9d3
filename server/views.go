package server

import (
	"encoding/json"
	"errors"
	"fmt"
	"hash/maphash"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/scale"
	"glossator/core/translate"
	"glossator/store"
)

func panelRow(c *panel.Compiled) PanelRow {
	return PanelRow{ID: c.ID, Name: c.Name, Revision: c.Revision, Kind: c.Kind, Summary: c.Summary, Memory: c.Memory, Controls: len(c.Controls), Modules: len(c.Modules)}
}

func (s *Server) panelRows() ([]PanelRow, error) {
	rows, err := s.store.Panels()
	if err != nil {
		return nil, err
	}
	out := make([]PanelRow, 0, len(rows))
	for i := range rows {
		c, err := s.compiledRow(&rows[i])
		if err != nil {
			return nil, err
		}
		out = append(out, panelRow(c))
	}
	return out, nil
}

// patchOf reads a stored patch.
func patchOf(document []byte) (*patch.Patch, error) {
	var p patch.Patch
	if err := json.Unmarshal(document, &p); err != nil {
		return nil, fmt.Errorf("stored patch: %w", err)
	}
	return &p, nil
}

// patch gives a stored patch by its id.
func (s *Server) patch(id string) (*patch.Patch, error) {
	row, err := s.store.Patch(id)
	if err != nil {
		return nil, err
	}
	return patchOf(row.Document)
}

func (s *Server) patchRow(p *patch.Patch) PatchRow {
	c, err := s.compiled(p.Panel, p.PanelRevision)
	if err != nil {
		c, _ = s.compiled(p.Panel, 0)
	}
	return rowOf(p, c)
}

// rowOf gives a patch's row by a panel, or without one.
func rowOf(p *patch.Patch, c *panel.Compiled) PatchRow {
	r := PatchRow{ID: p.ID, Name: p.Name, Kind: p.Kind, Panel: p.Panel, PanelName: p.Panel, Tempo: p.Tempo, Tags: p.Tags, Notes: p.Notes, Layers: []string{}}
	if r.Tags == nil {
		r.Tags = []string{}
	}
	if c != nil {
		r.PanelName = c.Name
	}
	for i := range p.Layers {
		r.Layers = append(r.Layers, p.Layers[i].ID)
		if c == nil {
			continue
		}
		if st, err := c.Read(&p.Layers[i], ""); err == nil {
			for k := range st.At {
				if !c.AtInit(k, st.At[k]) {
					r.Changed++
				}
			}
		}
	}
	return r
}

// keptRow is a patch's row with what it was made from.
type keptRow struct {
	sum uint64
	on  *panel.Compiled
	row PatchRow
}

var rowSeed = maphash.MakeSeed()

// patchRows lists all patches by name. Rows are kept: reading a patch costs a thousand times what
// finding it unchanged costs.
func (s *Server) patchRows() ([]PatchRow, error) {
	rows, err := s.store.Patches()
	if err != nil {
		return nil, err
	}
	panels, err := s.store.Panels()
	if err != nil {
		return nil, err
	}
	newest := map[string]*panel.Compiled{}
	for i := range panels {
		if newest[panels[i].ID], err = s.compiledRow(&panels[i]); err != nil {
			return nil, err
		}
	}
	out := make([]PatchRow, 0, len(rows))
	for i := range rows {
		sum, on := maphash.Bytes(rowSeed, rows[i].Document), newest[rows[i].Panel]
		if kept, ok := s.rows.Load(rows[i].ID); ok && kept.(keptRow).sum == sum && kept.(keptRow).on == on {
			out = append(out, kept.(keptRow).row)
			continue
		}
		p, err := patchOf(rows[i].Document)
		if err != nil {
			return nil, err
		}
		k := keptRow{sum, on, s.patchRow(p)}
		s.rows.Store(p.ID, k)
		out = append(out, k.row)
	}
	return out, nil
}

// patches lists the patches of which every word of the query begins a word of the name, kind,
// panel, tags or notes.
func (s *Server) patches(c *echo.Context) error {
	rows, err := s.patchRows()
	if err != nil {
		return err
	}
	words := strings.Fields(strings.ToLower(c.QueryParam("q")))
	out := PatchList{Patches: []PatchRow{}, All: len(rows)}
	for i := range rows {
		r := &rows[i]
		text := strings.ToLower(strings.Join(append([]string{r.Name, r.Kind, r.PanelName, r.Notes}, r.Tags...), " "))
		fits := true
		for _, w := range words {
			fits = fits && begins(text, w)
		}
		if fits {
			out.Patches = append(out.Patches, *r)
		}
	}
	if out.Panels, err = s.panelRows(); err != nil {
		return err
	}
	out.Pending, err = s.pending()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// panelOf gives the panel to read a patch by: the newest revision, or, where that no longer takes
// its readings, the newest one that does, with what is the matter.
func (s *Server) panelOf(p *patch.Patch) (on *panel.Compiled, behind string, err error) {
	newest, err := s.compiled(p.Panel, 0)
	if err != nil {
		return nil, "", err
	}
	takes := func(c *panel.Compiled) error {
		for i := range p.Layers {
			if _, err := c.Read(&p.Layers[i], ""); err != nil {
				return err
			}
		}
		return nil
	}
	why := takes(newest)
	if why == nil {
		return newest, "", nil
	}
	for r := newest.Revision - 1; r >= 1; r-- {
		old, err := s.compiled(p.Panel, r)
		if err == nil && takes(old) == nil {
			first, _, _ := strings.Cut(why.Error(), "\n")
			return old, fmt.Sprintf("Read by revision %d of %s: revision %d does not take %s", r, old.Name, newest.Revision, first), nil
		}
	}
	return newest, "", nil
}

func (s *Server) pending() (Pending, error) {
	undo, redo, err := s.store.Pending()
	return Pending{Undo: undo, Redo: redo}, err
}

func whenText(c *panel.Compiled, ws []panel.When) string {
	var out []string
	for _, w := range ws {
		i, _ := c.ControlIndex(w.Control)
		out = append(out, fmt.Sprintf("%s at %s", c.Controls[i].Label, strings.Join(w.In, ", ")))
	}
	return strings.Join(out, " and ")
}

func viewOfPanel(c *panel.Compiled) PanelView {
	v := PanelView{PanelRow: panelRow(c), Sections: []SectionView{}, Parts: []ModuleView{}, Routes: []RouteView{}, Notes: c.Hidden}
	if v.Notes == nil {
		v.Notes = []panel.Note{}
	}
	at := map[string]int{}
	for _, k := range c.Order { // working order
		d := &c.Controls[k]
		i, ok := at[d.Section]
		if !ok {
			i = len(v.Sections)
			at[d.Section] = i
			v.Sections = append(v.Sections, SectionView{ID: d.Section, Label: c.SectionLabel(k), Step: string(c.StepOf(k)), Controls: []ControlView{}})
		}
		v.Sections[i].Controls = append(v.Sections[i].Controls, viewOfControl(c, k))
	}
	for i := range c.Modules {
		m := &c.Modules[i]
		var fixed []string
		for name, text := range m.Fixed {
			fixed = append(fixed, string(name)+" "+text)
		}
		slices.Sort(fixed)
		v.Parts = append(v.Parts, ModuleView{ID: m.ID, Label: m.Label, Kind: meaning.SpecOf(m.Kind).Label, Fixed: strings.Join(fixed, ", "), When: whenText(c, m.When)})
	}
	for i := range c.Routes {
		r := &c.Routes[i]
		kind := "wired"
		switch {
		case len(c.Binds(meaning.Ref(r.ID, meaning.POn))) > 0:
			kind = "switched"
		case r.Normal != "":
			kind = "normalled"
		case len(r.When) > 0:
			kind = "chosen"
		}
		v.Routes = append(v.Routes, RouteView{Label: r.Label, Kind: kind, Via: r.Via, When: whenText(c, r.When)})
	}
	if c.Matrix != nil {
		for _, s := range c.Matrix.Slots {
			v.Routes = append(v.Routes, RouteView{Label: s.Label, Kind: "slot", Via: s.Via, When: whenText(c, s.When)})
		}
	}
	for _, p := range c.Points {
		v.Routes = append(v.Routes, RouteView{Label: p.Label, Kind: map[string]string{"in": "patch point, input", "out": "patch point, output"}[p.Dir]})
	}
	return v
}

func viewOfControl(c *panel.Compiled, k int) ControlView {
	d := &c.Controls[k]
	v := ControlView{ID: d.ID, Label: d.Label, Face: string(d.Face.Kind), Expects: d.Face.Expects(), Init: c.Init(k).Reading, Hidden: d.Hidden, Note: d.Note, Aliases: d.Aliases, Means: []MeanView{}}
	if v.Aliases == nil {
		v.Aliases = []string{}
	}
	if m := d.MIDI; m != nil {
		switch {
		case m.CC != nil:
			v.MIDI = fmt.Sprintf("CC %d", *m.CC)
		case m.NRPN != nil:
			v.MIDI = fmt.Sprintf("NRPN %d", *m.NRPN)
		case m.Byte != nil:
			v.MIDI = fmt.Sprintf("dump byte %d", *m.Byte)
		}
	}
	for i := range d.Means {
		b := &d.Means[i]
		owner, name := meaning.Split(b.Param)
		label := owner
		if k, ok := c.ModuleIndex(owner); ok {
			label = c.Modules[k].Label
		} else if k, ok := c.RouteIndex(owner); ok {
			label = c.Routes[k].Label
		}
		if p, err := c.Param(b.Param); err == nil {
			label += ": " + p.Label
		} else {
			label += ": " + string(name)
		}
		m := MeanView{Param: b.Param, Label: label, Law: b.Law.String(), Source: string(b.Law.Source), When: whenText(c, b.When)}
		m.Ticks, m.Geometric, m.Named = drawn(d.Face, b.Law)
		v.Means = append(v.Means, m)
	}
	return v
}

// drawn gives the ticks that a scale is drawn by.
func drawn(f scale.Face, l scale.Law) (ticks []scale.Tick, geometric, named bool) {
	ticks = scale.Ticks(f, l, nil)
	if len(ticks) > 40 { // drawn by the ticks that carry a reading
		kept := ticks[:0:0]
		for n, t := range ticks {
			if t.Major || n == 0 || n == len(ticks)-1 {
				kept = append(kept, t)
			}
		}
		ticks = kept
	}
	return ticks, l.Dim().Geometric(), l.Dim().Named()
}

func (s *Server) viewOfPatch(p *patch.Patch) (PatchView, error) {
	v := PatchView{PatchRow: s.patchRow(p), LayerViews: []LayerView{}, Phrase: p.Phrase, Wheel: p.Wheel, Targets: []PanelRow{}}
	c, behind, err := s.panelOf(p)
	if err != nil {
		return v, err
	}
	v.Behind, v.Points = behind, []PointView{}
	for i := range c.Points {
		v.Points = append(v.Points, PointView{ID: c.Points[i].ID, Label: c.Points[i].Label, Dir: c.Points[i].Dir})
	}
	for i := range c.Controls {
		v.MIDI = v.MIDI || c.Controls[i].MIDI != nil
	}
	for i := range p.Layers {
		// what a reading means is what a translation onto the panel itself would carry
		sheet, err := translate.Translate(c, p, c, translate.Options{Layer: p.Layers[i].ID})
		if err != nil {
			return v, err
		}
		layer := LayerView{ID: p.Layers[i].ID, Label: p.Layers[i].Label, Transpose: p.Layers[i].Transpose, Level: p.Layers[i].Level, Lines: []PatchLine{}, Cables: p.Layers[i].Cables}
		if layer.Cables == nil {
			layer.Cables = []patch.Cable{}
		}
		for n := range sheet.Glosses {
			layer.Lines = append(layer.Lines, patchLines(c, &sheet.Glosses[n])...)
		}
		v.LayerViews = append(v.LayerViews, layer)
	}
	all, err := s.panelRows()
	if err != nil {
		return v, err
	}
	v.Targets = targetsOf(all, p.Panel)
	v.Pending, err = s.pending()
	return v, err
}

// targetsOf lists the instruments that a patch of a panel can go to, its own last.
func targetsOf(all []PanelRow, own string) []PanelRow {
	out := []PanelRow{}
	var last []PanelRow
	for _, r := range all {
		switch {
		case r.Kind != "instrument":
		case r.ID == own:
			last = append(last, r)
		default:
			out = append(out, r)
		}
	}
	return append(out, last...)
}

func patchLines(c *panel.Compiled, g *gloss.Gloss) []PatchLine {
	var out []PatchLine
	for _, r := range g.Source {
		k, _ := c.ControlIndex(r.Control)
		l := PatchLine{Control: r.Control, Section: g.Section, Step: string(g.Step), Label: r.Label, Reading: r.Reading, Init: c.Init(k).Reading, AtInit: r.Init, Param: g.Param, Expects: c.Expects(k), Entries: []string{}}
		if f := &c.Controls[k].Face; f.Kind == scale.List || f.Kind == scale.Switch {
			l.Entries = f.Entries
		}
		if g.Wanted != nil {
			l.Meaning, l.Tol = g.Wanted.Text, g.Wanted.Tol
		}
		if g.Verdict == gloss.Idle {
			l.Idle = g.Reason
		}
		out = append(out, l)
	}
	return out
}

// job is what a stored sheet is made from.
type job struct {
	row      *store.Sheet
	patch    *patch.Patch
	src, dst *panel.Compiled
	over     map[string]string
	choices  plan.Choices
	heard    map[string]float64
	rack     *panel.Compiled
}

func (s *Server) job(row *store.Sheet) (*job, error) {
	p, err := patchOf(row.Document)
	if err != nil {
		return nil, err
	}
	src, err := s.compiled(row.Source, row.SourceRevision)
	if err != nil {
		return nil, err
	}
	dst, err := s.compiled(row.Target, row.TargetRevision)
	if err != nil {
		return nil, err
	}
	over, err := row.OverrideMap()
	if err != nil {
		return nil, err
	}
	choices, err := row.ChoicesOf()
	if err != nil {
		return nil, err
	}
	j := &job{row: row, patch: p, src: src, dst: dst, over: over, choices: choices}
	if choices.Rack != "" {
		// a rack that has been deleted since plays nothing: the lines are left out again
		if j.rack, err = s.compiled(choices.Rack, 0); err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
	}
	if choices.ByEar {
		heard, err := s.heardOf(src, p, j.layer())
		if err != nil {
			return nil, err
		}
		j.heard = refine.Weights(heard)
	}
	return j, nil
}
