package server

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/refine"
	"glossator/core/translate"
	"glossator/formats"
	"glossator/store"
)

// SheetView is one sheet with its list and ticks.
type SheetView struct {
	tag string

	ID     uint          `json:"id"`
	Sheet  gloss.Sheet   `json:"sheet"`
	DialIn dialin.DialIn `json:"dialIn"`
	Ticks  []string      `json:"ticks"`
	// Entries are the corrections, notes and signatures of this sheet, the newest first.
	Entries []EntryRow `json:"entries"`
	Targets []PanelRow `json:"targets"`
	Pending Pending    `json:"pending"`
	// Schools that the sheet can be made by; Against lists what is not set as by numbers.
	Schools []plan.SchoolSpec `json:"schools"`
	Against []gloss.Change    `json:"against"`
	// Outboard are the racks that could play what the target cannot.
	Outboard []translate.Outboard `json:"outboard"`
	// Since lists what would be set otherwise if the sheet were made again now.
	Since []gloss.Change `json:"since"`
	// Missing are the labels of what a second layer of the target could bring in; First and Second are the sheets of
	// the other layer, 0 for none.
	Missing []string `json:"missing"`
	First   uint     `json:"first"`
	Second  uint     `json:"second"`
	// Newer says that the patch or a panel has changed since the sheet was made.
	Newer string `json:"newer"`
}

// OpenSheet asks for the sheet of a patch on a target.
type OpenSheet struct {
	Patch  string      `json:"patch"`
	Layer  string      `json:"layer,omitempty"`
	Target string      `json:"target"`
	School plan.School `json:"school,omitempty"`
}

// Opened names a sheet.
type Opened struct {
	ID uint `json:"id"`
}

// sheetInputs is what a stored sheet is made from.
type sheetInputs struct {
	row      *store.Sheet
	patch    *patch.Patch
	src, dst *panel.Compiled
	over     map[string]string
	choices  plan.Choices
	heard    map[string]float64
	rack     *panel.Compiled
	ears     *gloss.Ears
}

func (s *Server) inputs(row *store.Sheet) (*sheetInputs, error) {
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
	j := &sheetInputs{row: row, patch: p, src: src, dst: dst, over: over, choices: choices}
	if j.ears, err = s.ears(); err != nil {
		return nil, err
	}
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

func (j *sheetInputs) options() translate.Options {
	return translate.Options{School: plan.School(j.row.School), Layer: j.row.Layer, Overrides: j.over, Choices: j.choices, Heard: j.heard, Rack: j.rack, Ears: j.ears}
}

type sheetOpenRequest struct {
	Body OpenSheet
}

func (s *Server) sheetOpen(ctx context.Context, in sheetOpenRequest) (none Opened, err error) {
	b := in.Body
	p, src, err := s.patchOn(b.Patch)
	if err != nil {
		return none, err
	}
	dst, err := s.compiled(b.Target, 0)
	if err != nil {
		return none, err
	}
	if b.School == "" {
		b.School = plan.Ear
	}
	if _, err := translate.Translate(src, p, dst, translate.Options{School: b.School, Layer: b.Layer}); err != nil {
		if len(translate.Faults(err)) > 0 {
			return none, err
		}
		return none, badRequest{err}
	}
	sheet, err := s.store.OpenSheet(p, b.Layer, src, dst, b.School, func() (c plan.Choices, err error) {
		if b.School == plan.Ear && src.Kind == "instrument" && dst.Kind == "instrument" {
			c.Tuned, err = s.tuned(ctx, src, p, dst, b.Layer)
		}
		return c, err
	})
	if err != nil {
		return none, err
	}
	return Opened{ID: sheet.ID}, nil
}

// sheet finds the sheet of a request.
func (s *Server) sheet(id uint) (*sheetInputs, error) {
	row, err := s.store.Sheet(id)
	if err != nil {
		return nil, err
	}
	return s.inputs(row)
}

// sheetAt finds the sheet of a change as it was shown to whoever makes it.
func (s *Server) sheetAt(ctx context.Context, id uint) (*sheetInputs, error) {
	row, err := s.store.On(ctx).SheetAt(id)
	if err != nil {
		return nil, err
	}
	return s.inputs(row)
}

// sheetPart is what of a sheet's view is worked out: it is kept while it is looked at.
type sheetPart struct {
	sheet    *gloss.Sheet
	dialIn   dialin.DialIn
	against  []gloss.Change
	outboard []translate.Outboard
	missing  []string
}

// worked works a sheet out, or gives what has been worked out of the same before.
func (s *Server) worked(j *sheetInputs, racks []*panel.Compiled) (*sheetPart, error) {
	key, err := s.summaryKey(j.row)
	if err != nil {
		return nil, err
	}
	for _, r := range racks {
		key += fmt.Sprintf("|%s.%d", r.ID, r.Revision)
	}
	if v, ok := s.views.Get(key); ok {
		return v, nil
	}
	opt := j.options()
	opt.Flavours = true
	sheet, err := translate.Translate(j.src, j.patch, j.dst, opt)
	if err != nil {
		return nil, err
	}
	v := &sheetPart{sheet: sheet, dialIn: dialin.Of(sheet), against: []gloss.Change{}, missing: []string{}}
	if sheet.School != plan.Numbers {
		opt := j.options()
		opt.School = plan.Numbers
		numbers, err := translate.Translate(j.src, j.patch, j.dst, opt)
		if err != nil {
			return nil, err
		}
		v.against = gloss.Changes(numbers, sheet)
	}
	if v.outboard, err = translate.Racks(j.src, j.patch, sheet, racks, j.options()); err != nil {
		return nil, err
	}
	missing, _, err := j.second(sheet)
	if err != nil {
		return nil, err
	}
	for _, id := range missing {
		i, _ := j.src.ModuleIndex(id)
		v.missing = append(v.missing, j.src.Modules[i].Label)
	}
	s.views.Add(key, v)
	return v, nil
}

func (s *Server) answerSheet(j *sheetInputs) (none SheetView, err error) {
	all, err := s.panelRows()
	if err != nil {
		return none, err
	}
	var racks []*panel.Compiled
	for _, r := range all {
		if r.Kind == "rack" {
			rack, err := s.compiled(r.ID, 0)
			if err != nil {
				return none, err
			}
			racks = append(racks, rack)
		}
	}
	w, err := s.worked(j, racks)
	if err != nil {
		return none, err
	}
	v := SheetView{tag: j.row.Tag(), ID: j.row.ID, Sheet: *w.sheet, DialIn: w.dialIn, Schools: plan.Schools, Against: w.against, Outboard: w.outboard, Missing: w.missing, First: j.row.First,
		Targets: targetsOf(all, j.src.ID)}
	if v.Ticks, err = s.store.Ticks(j.row.ID); err != nil {
		return none, err
	}
	logged, err := s.store.Entries(store.Search{Sheet: j.row.ID})
	if err != nil {
		return none, err
	}
	v.Entries = s.rowsOf(logged)
	if second, err := s.store.Second(j.row.ID); err == nil {
		v.Second = second.ID
	} else if !errors.Is(err, store.ErrNotFound) {
		return none, err
	}
	v.Newer, v.Since = s.newer(j), s.since(j, w.sheet)
	if v.Pending, err = s.pending(); err != nil {
		return none, err
	}
	return v, nil
}

// kindOf gives the kind of a module of the source.
func (j *sheetInputs) kindOf(id string) meaning.Kind {
	if i, ok := j.src.ModuleIndex(id); ok {
		return j.src.Modules[i].Kind
	}
	return ""
}

// second lists the sources of sound that a sheet leaves out and a second layer of the target plays, and those that the sheet plays: a layer that would place nothing is none.
func (j *sheetInputs) second(sheet *gloss.Sheet) (brings, played []string, err error) {
	missing, played := sheet.Missing(j.kindOf)
	if len(missing) == 0 || j.row.First != 0 {
		return nil, played, nil
	}
	opt := translate.Options{School: plan.Numbers, Layer: j.options().Layer, Choices: plan.Choices{Elsewhere: played}}
	other, err := translate.Translate(j.src, j.patch, j.dst, opt)
	if err != nil {
		return nil, nil, err
	}
	for _, id := range missing {
		if x := other.Plan.Pair(id); x != nil && (x.Target != "" || x.Rule != "") {
			brings = append(brings, id)
		}
	}
	return brings, played, nil
}

// secondLayer opens the sheet of a second layer of the target, which plays what a sheet leaves out.
func (s *Server) secondLayer(ctx context.Context, in ofSheet) (none Opened, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	if j.row.First != 0 {
		return none, badRequest{errors.New("expected the sheet of a first layer: this is one of a second")}
	}
	sheet, err := translate.Translate(j.src, j.patch, j.dst, j.options())
	if err != nil {
		return none, err
	}
	missing, played, err := j.second(sheet)
	if err != nil {
		return none, err
	}
	if len(missing) == 0 {
		return none, badRequest{fmt.Errorf("expected a sheet that leaves out a source of sound that a second layer of %s could play", j.dst.Name)}
	}
	row, err := s.store.OpenSecond(j.row, plan.Choices{Elsewhere: played})
	if err != nil {
		return none, err
	}
	return Opened{ID: row.ID}, nil
}

// since compares a sheet with what would be made of the patch and the panels as they are now; where
// that cannot be made there is nothing to tell.
func (s *Server) since(j *sheetInputs, sheet *gloss.Sheet) []gloss.Change {
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
func (s *Server) newer(j *sheetInputs) string {
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

func (s *Server) sheetView(ctx context.Context, in ofSheet) (none SheetView, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	return s.answerSheet(j)
}

func (s *Server) sheetDelete(ctx context.Context, in ofSheet) (none None, err error) {
	if err := s.store.On(ctx).DeleteSheet(in.ID); err != nil {
		return none, err
	}
	if x := s.searches.find(in.ID); x != nil { // it ends with its sheet
		x.cancel()
		s.searches.drop(in.ID)
	}
	return None{}, nil
}

type ruleRequest struct {
	ID    uint   `path:"id"`
	Gloss string `query:"gloss"`
}

func (s *Server) rule(ctx context.Context, in ruleRequest) (none gloss.Scales, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	r, err := translate.ScalesOf(j.src, j.patch, j.dst, j.options(), in.Gloss)
	if errors.Is(err, translate.ErrNoLine) {
		return none, store.ErrNotFound
	}
	if err != nil {
		return none, err
	}
	return *r, nil
}

func (s *Server) paths(ctx context.Context, in ofSheet) (none gloss.Paths, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	return translate.PathsOf(j.src, j.patch, j.dst, j.options())
}

type pictureRequest struct {
	ID      uint   `path:"id"`
	Gloss   string `query:"gloss"`
	Control string `query:"control"`
	Reading string `query:"reading"`
}

func (s *Server) picture(ctx context.Context, in pictureRequest) (none gloss.Picture, err error) {
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	p, err := translate.PictureOf(j.src, j.patch, j.dst, j.options(), in.Gloss, in.Control, in.Reading)
	if errors.Is(err, translate.ErrNoLine) {
		return none, store.ErrNotFound
	}
	if err != nil {
		return none, err
	}
	return *p, nil
}

func (s *Server) sheetJSON(ctx context.Context, in ofSheet) (none File[gloss.Sheet], err error) {
	j, sheet, err := s.made(in.ID)
	if err != nil {
		return none, err
	}
	return downloadJSON(j.row.Patch+"-to-"+j.row.Target+".sheet.json", *sheet)
}

func (s *Server) sheetMarkdown(ctx context.Context, in ofSheet) (none File[None], err error) {
	j, sheet, err := s.made(in.ID)
	if err != nil {
		return none, err
	}
	return download(j.row.Patch+"-to-"+j.row.Target+".md", "text/markdown; charset=utf-8", []byte(formats.SheetMarkdown(sheet)))
}

// made finds a sheet and translates it.
func (s *Server) made(id uint) (*sheetInputs, *gloss.Sheet, error) {
	j, err := s.sheet(id)
	if err != nil {
		return nil, nil, err
	}
	opt := j.options()
	opt.Flavours = true
	sheet, err := translate.Translate(j.src, j.patch, j.dst, opt)
	return j, sheet, err
}
