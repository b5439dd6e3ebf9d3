package store

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"gorm.io/gorm"
)

// Job is some of what a database holds, so that it can be taken elsewhere: patches with their versions, sheets with all that was done on them, the panels that they need, pictures.
type Job struct {
	Panels      []Panel
	Patches     []Patch
	Versions    []Version
	Sheets      []Sheet
	Ticks       []Tick
	Trials      []Trial
	Entries     []Entry
	Photographs []Photograph
	Sittings    []Sitting
	Sets        []Set
	Slots       []Slot
	Shows       []Show
}

// Job gathers patches with all that belongs to them, as it stands at one moment, and shows with their patches and the instruments of their houses; everything where none is named. ErrNotFound where one that is named is not here, but for what a show names that has been deleted.
func (s *Store) Job(patches []string, shows ...uint) (*Job, error) {
	j := &Job{}
	err := s.db.Transaction(func(tx *gorm.DB) error {
		every := len(patches) == 0 && len(shows) == 0
		patches := slices.Clone(patches)
		ids := []string{} // of panels
		for _, id := range shows {
			var x Show
			if err := tx.First(&x, "id = ?", id).Error; err != nil {
				return found(err)
			}
			d, err := x.Doc()
			if err != nil {
				return err
			}
			j.Shows = append(j.Shows, x)
			var here []string
			var named []string
			for _, c := range d.Cues {
				named = append(named, c.Patch)
			}
			if err := tx.Model(&Patch{}).Where("id IN ?", named).Order("id").Pluck("id", &here).Error; err != nil {
				return err
			}
			patches = append(patches, here...)
			for _, h := range d.Houses {
				for _, i := range h.Hire {
					ids = append(ids, i.Panel)
				}
			}
		}
		of := func(column string, ids any) *gorm.DB {
			if every {
				return tx.Session(&gorm.Session{})
			}
			return tx.Where(column+" IN ?", ids)
		}
		if err := of("id", patches).Order("id").Find(&j.Patches).Error; err != nil {
			return err
		}
		if !every && len(j.Patches) < len(slices.Compact(slices.Sorted(slices.Values(patches)))) {
			return ErrNotFound
		}
		for _, err := range []error{of("patch", patches).Order("patch, number").Find(&j.Versions).Error, of("patch", patches).Order("id").Find(&j.Sheets).Error} {
			if err != nil {
				return err
			}
		}
		var sheets []uint
		var refs []string
		panels := map[string]bool{}
		for i := range j.Sheets {
			x := &j.Sheets[i]
			sheets, refs = append(sheets, x.ID), append(refs, fmt.Sprint(x.ID))
			panels[x.Source], panels[x.Target] = true, true
			if c, err := x.ChoicesOf(); err == nil && c.Rack != "" {
				panels[c.Rack] = true
			}
		}
		for _, x := range j.Patches {
			panels[x.Panel] = true
		}
		for id := range panels {
			ids = append(ids, id)
		}
		for _, err := range []error{
			of("sheet_id", sheets).Order("sheet_id, at, key").Find(&j.Ticks).Error,
			of("sheet_id", sheets).Order("id").Find(&j.Trials).Error,
			of("sheet_id", sheets).Order("id").Find(&j.Entries).Error,
			of("id", ids).Order("id, revision").Find(&j.Panels).Error,
			of("panel_id", ids).Order("panel_id, control").Find(&j.Sittings).Error,
			of("sheet_id", sheets).Order("panel_id, bank, program").Find(&j.Slots).Error,
		} {
			if err != nil {
				return err
			}
		}
		if every {
			if err := tx.Order("id").Find(&j.Sets).Error; err != nil {
				return err
			}
			if err := tx.Order("id").Find(&j.Shows).Error; err != nil {
				return err
			}
			return tx.Order("id").Find(&j.Photographs).Error
		}
		return tx.Where("kind = ? AND ref IN ? OR kind = ? AND ref IN ?", KindPatch, patches, KindSheet, refs).Order("id").Find(&j.Photographs).Error
	})
	if err != nil {
		return nil, err
	}
	return j, nil
}

// Image gives the bytes of a picture by its hash.
func (s *Store) Image(hash string) ([]byte, error) {
	var out Image
	err := s.db.First(&out, "hash = ?", hash).Error
	return out.Data, found(err)
}

// Taken says what has become of a job that was taken over.
type Taken struct {
	// Panels, Patches and Sheets count what is new here, Same what was here already as it is.
	Panels  int `json:"panels"`
	Patches int `json:"patches"`
	Sheets  int `json:"sheets"`
	Shows   int `json:"shows"`
	Same    int `json:"same"`
	// Renamed are things that came under another id, because what is here under theirs is something else: "patch keel is keel-2". Aside says what was left aside, and why.
	Renamed []string `json:"renamed"`
	Aside   []string `json:"aside"`
}

// TakeJob puts a job beside what is here, in one step called what. Nothing that is here is written over: what is the same is kept once, what differs comes under an id of its own. image gives the bytes of a picture by its hash.
func (s *Store) TakeJob(what string, j *Job, image func(hash string) ([]byte, error)) (Taken, error) {
	var out Taken
	err := s.change(what, func(c *changing) error {
		t := taking{changing: c, s: s, j: j, out: Taken{Renamed: []string{}, Aside: []string{}}, panels: map[string]string{}, patches: map[string]string{}, sheets: map[uint]uint{}, fresh: map[uint]bool{}}
		for _, step := range []func() error{t.takePanels, t.takePatches, t.takeSheets, t.takeRest, t.takeShows, func() error { return t.takePhotographs(image) }} {
			if err := step(); err != nil {
				return err
			}
		}
		out = t.out
		if len(c.rows) == 0 {
			return errNothing
		}
		return nil
	})
	return out, err
}

// taking is a job on its way in.
type taking struct {
	*changing
	s               *Store
	j               *Job
	out             Taken
	panels, patches map[string]string // what ids have become
	sheets          map[uint]uint
	fresh           map[uint]bool // sheets that are new here
}

// free gives an id that no row of a table has, "keel-2" where there is a keel.
func (t *taking) free(table, id string) (string, error) {
	for n := 2; ; n++ {
		end := fmt.Sprintf("-%d", n)
		next := id[:min(len(id), 64-len(end))] + end
		var there int64
		if err := t.tx.Table(table).Where("id = ?", next).Count(&there).Error; err != nil || there == 0 {
			return next, err
		}
	}
}

// withText changes texts of a JSON document, and leaves the rest as it is written.
func withText(doc []byte, texts map[string]string) ([]byte, error) {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(doc, &fields); err != nil {
		return nil, err
	}
	for name, text := range texts {
		b, err := json.Marshal(text)
		if err != nil {
			return nil, err
		}
		fields[name] = b
	}
	return json.Marshal(fields)
}

func (t *taking) takePanels() error {
	byID := map[string][]Panel{}
	var order []string
	for _, p := range t.j.Panels {
		if byID[p.ID] == nil {
			order = append(order, p.ID)
		}
		byID[p.ID] = append(byID[p.ID], p)
	}
	for _, id := range order {
		var here []Panel
		if err := t.tx.Where("id = ?", id).Order("revision").Find(&here).Error; err != nil {
			return err
		}
		newest, clash := 0, false
		for _, h := range here {
			newest = max(newest, h.Revision)
		}
		var more []Panel
		for _, p := range byID[id] {
			i := slices.IndexFunc(here, func(h Panel) bool { return h.Revision == p.Revision })
			switch {
			case i >= 0 && sameJSON(here[i].Document, p.Document):
				t.out.Same++
			case i >= 0 || len(here) > 0 && p.Revision < newest:
				clash = true
			default:
				more = append(more, p)
			}
		}
		to := id
		if clash { // another instrument goes by this id here, or it was changed on both sides
			var err error
			if to, err = t.free("panels", id); err != nil {
				return err
			}
			t.out.Renamed = append(t.out.Renamed, fmt.Sprintf("panel %s is %s", id, to))
			more = byID[id]
		}
		t.panels[id] = to
		for _, p := range more {
			if to != id {
				doc, err := withText(p.Document, map[string]string{"id": to})
				if err != nil {
					return err
				}
				p.ID, p.Document = to, doc
			}
			if err := t.save(nil, &p); err != nil {
				return err
			}
			t.out.Panels++
		}
	}
	return nil
}

// sameJSON tells whether two documents say the same, however they are laid out.
func sameJSON(a, b []byte) bool {
	var x, y bytes.Buffer
	return bytes.Equal(a, b) || json.Compact(&x, a) == nil && json.Compact(&y, b) == nil && bytes.Equal(x.Bytes(), y.Bytes())
}

// panelOf gives what a panel's id has become.
func (t *taking) panelOf(id string) string {
	if to, ok := t.panels[id]; ok {
		return to
	}
	return id
}

// document gives a patch's document with the ids that it has here.
func (t *taking) document(doc []byte, patch, panel string) ([]byte, error) {
	if t.patches[patch] == patch && t.panelOf(panel) == panel {
		return doc, nil
	}
	texts := map[string]string{"panel": t.panelOf(panel)}
	if to := t.patches[patch]; to != "" {
		texts["id"] = to
	}
	return withText(doc, texts)
}

func (t *taking) takePatches() error {
	versions := map[string][]Version{}
	for _, v := range t.j.Versions {
		versions[v.Patch] = append(versions[v.Patch], v)
	}
	for _, p := range t.j.Patches {
		old := p.ID
		t.patches[old] = old
		doc, err := t.document(p.Document, old, p.Panel)
		if err != nil {
			return err
		}
		var here Patch
		err = found(t.tx.First(&here, "id = ?", p.ID).Error)
		fresh := true
		switch {
		case err == nil && sameJSON(here.Document, doc):
			t.out.Same++
			fresh = false
		case err == nil:
			to, err := t.free("patches", p.ID)
			if err != nil {
				return err
			}
			t.patches[old] = to
			t.out.Renamed = append(t.out.Renamed, fmt.Sprintf("patch %s is %s", old, to))
			if doc, err = t.document(p.Document, old, p.Panel); err != nil {
				return err
			}
		case err != ErrNotFound:
			return err
		}
		if fresh {
			p.ID, p.Panel, p.Document = t.patches[old], t.panelOf(p.Panel), doc
			if err := t.save(nil, &p); err != nil {
				return err
			}
			t.out.Patches++
		}
		for _, v := range versions[old] {
			if v.Document, err = t.document(v.Document, old, panelIn(v.Document)); err != nil {
				return err
			}
			v.Patch = t.patches[old]
			var there []Version
			if err := t.tx.Find(&there, "patch = ? AND number = ?", v.Patch, v.Number).Error; err != nil {
				return err
			}
			if len(there) > 0 {
				if !sameJSON(there[0].Document, v.Document) {
					t.out.Aside = append(t.out.Aside, fmt.Sprintf("version %d of %s: another one is here under that number", v.Number, v.Patch))
				}
				continue
			}
			if err := t.save(nil, &v); err != nil {
				return err
			}
		}
	}
	return nil
}

func panelIn(doc []byte) string {
	var head struct {
		Panel string `json:"panel"`
	}
	_ = json.Unmarshal(doc, &head)
	return head.Panel
}

func (t *taking) takeSheets() error {
	for _, x := range t.j.Sheets {
		old := x.ID
		doc, err := t.document(x.Document, x.Patch, x.Source)
		if err != nil {
			return err
		}
		if to := t.patches[x.Patch]; to != "" {
			x.Patch = to
		}
		x.Document, x.Source, x.Target, x.First = doc, t.panelOf(x.Source), t.panelOf(x.Target), t.sheets[x.First]
		if c, err := x.ChoicesOf(); err == nil && c.Rack != "" && t.panelOf(c.Rack) != c.Rack {
			c.Rack = t.panelOf(c.Rack)
			if x.Choices, err = json.Marshal(c); err != nil {
				return err
			}
		}
		var there []Sheet
		if err := t.tx.Find(&there, "patch = ? AND layer = ? AND source = ? AND source_revision = ? AND target = ? AND target_revision = ? AND school = ? AND title = ?", x.Patch, x.Layer, x.Source, x.SourceRevision, x.Target, x.TargetRevision, x.School, x.Title).Error; err != nil {
			return err
		}
		if i := slices.IndexFunc(there, func(h Sheet) bool {
			return sameJSON(h.Document, x.Document) && sameJSON(h.Overrides, x.Overrides) && bytes.Equal(h.Choices, x.Choices) && h.CreatedAt.Equal(x.CreatedAt)
		}); i >= 0 {
			t.sheets[old] = there[i].ID
			t.out.Same++
			continue
		}
		x.ID = 0
		if err := t.save(nil, &x); err != nil {
			return err
		}
		t.sheets[old], t.fresh[old] = x.ID, true
		t.out.Sheets++
	}
	return nil
}

// takeRest takes what hangs on sheets that are new here, and what belongs to instruments.
func (t *taking) takeRest() error {
	for _, x := range t.j.Ticks {
		if t.fresh[x.SheetID] {
			x.SheetID = t.sheets[x.SheetID]
			if err := t.save(nil, &x); err != nil {
				return err
			}
		}
	}
	for _, x := range t.j.Trials {
		if t.fresh[x.SheetID] {
			x.ID, x.SheetID = 0, t.sheets[x.SheetID]
			if err := t.save(nil, &x); err != nil {
				return err
			}
		}
	}
	for _, x := range t.j.Entries {
		if t.fresh[x.SheetID] {
			x.ID, x.SheetID = 0, t.sheets[x.SheetID]
			if err := t.save(nil, &x); err != nil {
				return err
			}
		}
	}
	for _, x := range t.j.Sittings {
		x.ID, x.PanelID = 0, t.panelOf(x.PanelID)
		var there []Sitting
		if err := t.tx.Find(&there, "panel_id = ? AND control = ?", x.PanelID, x.Control).Error; err != nil {
			return err
		}
		if len(there) > 0 {
			if !bytes.Equal(there[0].Takes, x.Takes) {
				t.out.Aside = append(t.out.Aside, fmt.Sprintf("what was measured of %s on %s: it has been measured here, too", x.Control, x.PanelID))
			}
			continue
		}
		if err := t.save(nil, &x); err != nil {
			return err
		}
	}
	for _, x := range t.j.Slots {
		x.PanelID, x.SheetID = t.panelOf(x.PanelID), t.sheets[x.SheetID]
		was, err := slot(t.tx, x.PanelID, x.Bank, x.Program)
		if err != nil || was != nil {
			if was == nil || was.Name != x.Name || was.SheetID != x.SheetID {
				t.out.Aside = append(t.out.Aside, fmt.Sprintf("slot %d of bank %d of %s: it is in use here, or the instrument has none", x.Program, x.Bank, x.PanelID))
			}
			continue
		}
		if err := t.save(nil, &x); err != nil {
			return err
		}
	}
	for _, x := range t.j.Sets {
		ids, err := x.Order()
		if err != nil {
			return err
		}
		for i, id := range ids {
			if to := t.patches[id]; to != "" {
				ids[i] = to
			}
		}
		if x.Patches, err = json.Marshal(ids); err != nil {
			return err
		}
		var there int64
		if err := t.tx.Model(&Set{}).Where("name = ? AND patches = ?", x.Name, x.Patches).Count(&there).Error; err != nil {
			return err
		}
		if x.ID = 0; there == 0 {
			if err := t.save(nil, &x); err != nil {
				return err
			}
		}
	}
	return nil
}

// takeShows takes shows, which name patches and panels by the ids that they have here.
func (t *taking) takeShows() error {
	for _, x := range t.j.Shows {
		d, err := x.Doc()
		if err != nil {
			return err
		}
		for i := range d.Cues {
			if to := t.patches[d.Cues[i].Patch]; to != "" {
				d.Cues[i].Patch = to
			}
		}
		for i := range d.Houses {
			for k := range d.Houses[i].Hire {
				h := &d.Houses[i].Hire[k]
				h.Panel = t.panelOf(h.Panel)
			}
		}
		if x.Document, err = json.Marshal(d); err != nil {
			return err
		}
		missing := map[string]bool{}
		for _, c := range d.Cues {
			var n int64
			if err := t.tx.Model(&Patch{}).Where("id = ?", c.Patch).Count(&n).Error; err != nil {
				return err
			}
			missing["patch "+c.Patch] = n == 0 && c.Patch != ""
		}
		for _, h := range d.Houses {
			for _, i := range h.Hire {
				var n int64
				if err := t.tx.Model(&Panel{}).Where("id = ?", i.Panel).Count(&n).Error; err != nil {
					return err
				}
				missing["panel "+i.Panel] = n == 0
			}
		}
		for _, what := range slices.Sorted(maps.Keys(missing)) {
			if missing[what] {
				t.out.Aside = append(t.out.Aside, fmt.Sprintf("%s, which the show %s names: it is neither in it nor here", what, x.Name))
			}
		}
		var there []Show
		if err := t.tx.Find(&there, "name = ?", x.Name).Error; err != nil {
			return err
		}
		if slices.ContainsFunc(there, func(h Show) bool { return sameJSON(h.Document, x.Document) }) {
			t.out.Same++
			continue
		}
		x.ID = 0
		if err := t.save(nil, &x); err != nil {
			return err
		}
		t.out.Shows++
	}
	return nil
}

func (t *taking) takePhotographs(image func(hash string) ([]byte, error)) error {
	for _, x := range t.j.Photographs {
		switch x.Kind {
		case KindPatch:
			if to := t.patches[x.Ref]; to != "" {
				x.Ref = to
			}
		case KindSheet:
			var old uint
			if _, err := fmt.Sscan(x.Ref, &old); err != nil || t.sheets[old] == 0 {
				t.out.Aside = append(t.out.Aside, fmt.Sprintf("a photograph of sheet %s, which is not in it", x.Ref))
				continue
			}
			x.Ref = fmt.Sprint(t.sheets[old])
		}
		var there int64
		of := x.Ref
		if err := t.tx.Model(&Photograph{}).Where("hash = ? AND kind = ?", x.Hash, x.Kind).Where("ref = ?", of).Count(&there).Error; err != nil {
			return err
		}
		if x.ID = 0; there > 0 {
			continue
		}
		data, err := image(x.Hash)
		if err != nil {
			return err
		}
		if err := t.tx.Where("hash = ?", x.Hash).FirstOrCreate(&Image{Hash: x.Hash, Data: data, MadeAt: t.s.now()}).Error; err != nil {
			return err
		}
		if err := t.save(nil, &x); err != nil {
			return err
		}
	}
	return nil
}
