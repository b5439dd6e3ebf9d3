package server

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/scale"
	"glossator/core/translate"
	"glossator/formats"
	"glossator/store"
)

// PatchRow is a patch in a list.
type PatchRow struct {
	ID        string   `json:"id"`
	Name      string   `json:"name"`
	Kind      string   `json:"kind"`
	Panel     string   `json:"panel"`
	PanelName string   `json:"panelName"`
	Tempo     float64  `json:"tempo"`
	Tags      []string `json:"tags"`
	Notes     string   `json:"notes"`
	// Layers by id, in order.
	Layers []string `json:"layers"`
	// Changed counts the readings that are not at init.
	Changed int `json:"changed"`
	// Archived is set where it is put away, Sample where it is of the sample, as that came.
	Archived bool `json:"archived,omitempty"`
	Sample   bool `json:"sample,omitempty"`
}

// PatchList is the patches that a search found, of All, and the panels that a new one can be on.
type PatchList struct {
	Patches []PatchRow `json:"patches"`
	All     int        `json:"all"`
	Sets    []SetRow   `json:"sets"`
	Panels  []PanelRow `json:"panels"`
	Pending Pending    `json:"pending"`
}

// PatchLine is one reading of a patch with what it means.
type PatchLine struct {
	Control string `json:"control"`
	Section string `json:"section"`
	Step    string `json:"step"`
	Label   string `json:"label"`
	Reading string `json:"reading"`
	Init    string `json:"init"`
	AtInit  bool   `json:"atInit"`
	Meaning string `json:"meaning"`
	Tol     string `json:"tol"`
	Param   string `json:"param"`
	Idle    string `json:"idle"`
	Expects string `json:"expects"`
	// Entries are the named positions of the control, for completion.
	Entries []string `json:"entries"`
	// Near is the plain reading that one said loosely is nearest to; told while it is typed.
	Near string `json:"near,omitempty"`
	// Taste is set where the reading is to taste.
	Taste bool `json:"taste,omitempty"`
}

// LayerView is one layer of a patch.
type LayerView struct {
	ID        string        `json:"id"`
	Label     string        `json:"label"`
	Transpose string        `json:"transpose"`
	Level     string        `json:"level"`
	Lines     []PatchLine   `json:"lines"`
	Cables    []patch.Cable `json:"cables"`
}

// PointView is a patch point.
type PointView struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	Dir   string `json:"dir"`
}

// PatchView is one patch.
type PatchView struct {
	tag string

	PatchRow
	LayerViews []LayerView   `json:"layerViews"`
	Phrase     *patch.Phrase `json:"phrase" jsonschema:"nullable"`
	// Line is the phrase in numbers.
	Line *PhraseLine `json:"line" jsonschema:"nullable"`
	// Moves are what is moved while the phrase is played, in order of time.
	Moves []MoveView `json:"moves"`
	Wheel float64    `json:"wheel"`
	// Flavours are the variants of the sound.
	Flavours []FlavourView `json:"flavours"`
	Points   []PointView   `json:"points"`
	Targets  []PanelRow    `json:"targets"`
	// MIDI is set where the panel has addresses.
	MIDI bool `json:"midi"`
	// Behind says that the newest revision of the panel does not take the patch's readings.
	Behind string `json:"behind"`
	// Said is what there is to tell of the change that this answers.
	Said    string  `json:"said,omitempty"`
	Pending Pending `json:"pending"`
}

// PatchHead is what is written about a patch beside its readings.
type PatchHead struct {
	Name  string   `json:"name"`
	Kind  string   `json:"kind"`
	Tempo float64  `json:"tempo"`
	Tags  []string `json:"tags"`
	Notes string   `json:"notes"`
	// Wheel is the state of the modulation wheel as the sound is played, 0 to 1.
	Wheel float64 `json:"wheel,omitempty"`
}

// NewPatch asks for a patch with every control at init.
type NewPatch struct {
	Name  string `json:"name"`
	Panel string `json:"panel"`
	Kind  string `json:"kind"`
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
		if c, err := s.compiledRow(&panels[i]); err == nil { // one that does not open takes nothing else with it
			newest[panels[i].ID] = c
		}
	}
	marks, err := s.marks()
	if err != nil {
		return nil, err
	}
	out := make([]PatchRow, 0, len(rows))
	for i := range rows {
		revision := 0
		if on := newest[rows[i].Panel]; on != nil {
			revision = on.Revision
		}
		row, err := cached(s.cache, "row", keyOf(rows[i].Document, revision), func() (PatchRow, error) {
			p, err := patchOf(rows[i].Document)
			if err != nil {
				return PatchRow{}, err
			}
			return s.patchRow(p), nil
		})
		if err != nil { // its neighbours work; it can be exported as it is stored, and deleted
			s.log.Warn("a stored patch cannot be read", "patch", rows[i].ID, "error", err)
			row = PatchRow{ID: rows[i].ID, Name: rows[i].Name, Kind: rows[i].Kind, Panel: rows[i].Panel, PanelName: rows[i].Panel, Tags: []string{}, Layers: []string{},
				Notes: fmt.Sprintf("What is stored of it cannot be read (%v). Export it to mend it by hand, then import it again; or delete it.", err)}
		}
		marks.patch(&row, rows[i].Document)
		out = append(out, row)
	}
	return out, nil
}

type patchesRequest struct {
	Q string `query:"q"`
}

// patches lists the patches of which every word of the query begins a word of the name, kind,
// panel, tags or notes.
func (s *Server) patches(ctx context.Context, in patchesRequest) (none PatchList, err error) {
	rows, err := s.patchRows()
	if err != nil {
		return none, err
	}
	words := strings.Fields(strings.ToLower(in.Q))
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
		return none, err
	}
	if out.Sets, err = s.setRows(); err != nil {
		return none, err
	}
	out.Pending, err = s.pending()
	if err != nil {
		return none, err
	}
	return out, nil
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
		return c.CheckPlayed(p)
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

// patchOn gives a patch and the panel that it stands on.
func (s *Server) patchOn(id string) (*patch.Patch, *panel.Compiled, error) {
	p, err := s.patch(id)
	if err != nil {
		return nil, nil, err
	}
	on, _, err := s.panelOf(p)
	return p, on, err
}

func (s *Server) viewOfPatch(p *patch.Patch) (PatchView, error) {
	v := PatchView{tag: store.TagFor(p), PatchRow: s.patchRow(p), LayerViews: []LayerView{}, Phrase: p.Phrase, Wheel: p.Wheel, Targets: []PanelRow{}}
	c, behind, err := s.panelOf(p)
	if err != nil {
		return v, err
	}
	if v.Line, err = lineOf(p.Phrase); err != nil {
		return v, err
	}
	if v.Moves, err = moveViews(c, p); err != nil {
		return v, err
	}
	v.Flavours = flavourViews(c, p)
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
			lines := patchLines(c, &sheet.Glosses[n])
			for k := range lines {
				lines[k].Taste = slices.Contains(p.Layers[i].Taste, lines[k].Control)
			}
			layer.Lines = append(layer.Lines, lines...)
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

// changePatch changes the patch of a request in one step, checks it with its panel, and answers
// with it.
// changePatch changes a patch in one step, and answers with it.
func (s *Server) changePatch(ctx context.Context, id, what string, change func(p *patch.Patch) error) (none PatchView, err error) {
	p, err := s.store.On(ctx).ChangePatch(id, what, change, s.fits)
	if err != nil {
		return none, err
	}
	return s.answerPatch(p)
}

// fits checks a patch against its panel before it is stored.
func (s *Server) fits(p *patch.Patch) error {
	if l := formats.CheckPatch(p); len(l) > 0 {
		return l
	}
	on, _, err := s.panelOf(p)
	if err != nil {
		return err
	}
	for i := range p.Layers {
		if _, err := on.Read(&p.Layers[i], fmt.Sprintf("/layers/%d", i)); err != nil {
			return err
		}
	}
	return on.CheckPlayed(p)
}

func (s *Server) answerPatch(p *patch.Patch) (none PatchView, err error) {
	v, err := s.viewOfPatch(p)
	if err != nil {
		return none, err
	}
	return v, nil
}

type patchHeadRequest struct {
	ID   string `path:"id"`
	Body PatchHead
}

func (s *Server) patchHead(ctx context.Context, in patchHeadRequest) (none PatchView, err error) {
	b := in.Body
	p, err := s.store.On(ctx).ChangePatch(in.ID, "change the head of "+b.Name, func(p *patch.Patch) error {
		p.Name, p.Kind, p.Tempo, p.Tags, p.Notes, p.Wheel = strings.TrimSpace(b.Name), b.Kind, b.Tempo, b.Tags, b.Notes, b.Wheel
		return nil
	}, func(p *patch.Patch) error { return formats.CheckPatch(p).Err() })
	if err != nil {
		return none, err
	}
	return s.answerPatch(p)
}

func (s *Server) patchCopy(ctx context.Context, in named) (none PatchRow, err error) {
	p, err := s.patch(in.ID)
	if err != nil {
		return none, err
	}
	p.Name += " (copy)"
	return s.newPatch(p)
}

type patchBlankRequest struct {
	Body NewPatch
}

func (s *Server) patchBlank(ctx context.Context, in patchBlankRequest) (none PatchRow, err error) {
	b := in.Body
	on, err := s.compiled(b.Panel, 0)
	if err != nil {
		return none, err
	}
	return s.newPatch(&patch.Patch{Format: patch.Format, Version: patch.Version, Name: strings.TrimSpace(b.Name), Panel: on.ID, PanelRevision: on.Revision, Kind: b.Kind,
		Layers: []patch.Layer{{ID: "a", Readings: map[string]string{}}}})
}

// newPatch stores a patch under an id made from its name.
func (s *Server) newPatch(p *patch.Patch) (none PatchRow, err error) {
	err = s.store.NewPatch(p, func(free func(id string) error) (string, error) {
		id, err := freeID(p.Name, "patch", free)
		if err != nil {
			return "", err
		}
		p.ID = id
		return id, formats.CheckPatch(p).Err()
	})
	if err != nil {
		return none, err
	}
	return s.patchRow(p), nil
}

func (s *Server) patchView(ctx context.Context, in named) (none PatchView, err error) {
	p, err := s.patch(in.ID)
	if err != nil {
		return none, err
	}
	v, err := s.viewOfPatch(p)
	if err != nil {
		return none, err
	}
	return v, nil
}

func (s *Server) patchExport(ctx context.Context, in named) (none File[patch.Patch], err error) {
	row, err := s.store.Patch(in.ID)
	if err != nil {
		return none, err
	}
	p, err := patchOf(row.Document)
	if err != nil { // as it is stored: somebody may mend it
		return File[patch.Patch]{Name: row.ID + ".patch.json", Media: "application/json", Data: row.Document}, nil
	}
	return downloadJSON(p.ID+".patch.json", *p)
}

func (s *Server) patchDelete(ctx context.Context, in named) (none None, err error) {
	if err := s.store.On(ctx).DeletePatch(in.ID); err != nil {
		return none, err
	}
	return None{}, nil
}
