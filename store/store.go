package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/gofrs/flock"
	"gorm.io/gorm"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/show"
)

// ErrNotFound is returned where a row that was asked for is not there.
var ErrNotFound = errors.New("not found")

// ErrInUse is returned where a row cannot go because another needs it.
var ErrInUse = errors.New("in use")

// Store is an open database. It may be used from several goroutines.
type Store struct {
	db *gorm.DB // for reading
	// w is for writing, on a connection of its own: writers wait for each other there, in their order, and not for the database to be let go.
	w    *gorm.DB
	now  func() time.Time
	lock *flock.Flock
	file string // of the database
	// based is the version that changes are made for (On); empty for what stands there.
	based string
}

func found(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}

// Panels gives the newest revision of every panel, by name.
func (s *Store) Panels() ([]Panel, error) {
	var out []Panel
	err := s.db.Raw(`SELECT p.* FROM panels p JOIN (SELECT id, MAX(revision) AS revision FROM panels GROUP BY id) n ON n.id = p.id AND n.revision = p.revision ORDER BY p.name, p.id`).Scan(&out).Error
	return out, err
}

// Panel gives a revision of a panel, the newest where revision is 0.
func (s *Store) Panel(id string, revision int) (*Panel, error) {
	var out Panel
	tx := s.db.Where("id = ?", id)
	if revision > 0 {
		tx = tx.Where("revision = ?", revision)
	}
	if err := tx.Order("revision DESC").First(&out).Error; err != nil {
		return nil, found(err)
	}
	return &out, nil
}

// Patches gives every patch, by name.
func (s *Store) Patches() ([]Patch, error) {
	var out []Patch
	err := s.db.Order("name, id").Find(&out).Error
	return out, err
}

// Patch gives one patch.
func (s *Store) Patch(id string) (*Patch, error) {
	var out Patch
	if err := s.db.First(&out, "id = ?", id).Error; err != nil {
		return nil, found(err)
	}
	return &out, nil
}

// Sheets gives every sheet, the last worked on first.
func (s *Store) Sheets() ([]Sheet, error) {
	var out []Sheet
	err := s.db.Order("updated_at DESC, id DESC").Find(&out).Error
	return out, err
}

// Sheet gives one sheet.
func (s *Store) Sheet(id uint) (*Sheet, error) {
	var out Sheet
	if err := s.db.First(&out, "id = ?", id).Error; err != nil {
		return nil, found(err)
	}
	return &out, nil
}

// Ticks gives the keys of a sheet's ticked lines.
func (s *Store) Ticks(sheet uint) ([]string, error) {
	out := []string{}
	err := s.db.Model(&Tick{}).Where("sheet_id = ? AND key NOT LIKE ?", sheet, overPrefix+"%").Order("at, key").Pluck("key", &out).Error
	return out, err
}

// TickTimes gives when the lines of a sheet's list were ticked, in seconds, in rising order; with overs, the moves of changeovers to it, too.
func (s *Store) TickTimes(sheet uint, overs bool) ([]float64, error) {
	var ticks []Tick
	if err := s.db.Where("sheet_id = ? AND (? OR key NOT LIKE ?)", sheet, overs, overPrefix+"%").Order("at").Find(&ticks).Error; err != nil {
		return nil, err
	}
	out := make([]float64, len(ticks))
	for i := range ticks {
		out[i] = float64(ticks[i].At.UnixNano()) / 1e9
	}
	return out, nil
}

// PutPanel stores a panel as its next revision, or as the revision it has where that is
// new. It gives the revision stored; the same document again stores nothing.
func (s *Store) PutPanel(p *panel.Panel) (revision int, err error) {
	return s.PutPanelAs("import panel "+p.Name, p)
}

// PutPanelAs is PutPanel, as a step that is called what.
func (s *Store) PutPanelAs(what string, p *panel.Panel) (revision int, err error) {
	err = s.change(what, func(c *changing) error {
		revision, err = c.putPanel(p, s.now())
		return err
	})
	return revision, err
}

// PutPatch stores a patch, in place of one with the same id.
func (s *Store) PutPatch(p *patch.Patch) error {
	return s.change("import patch "+p.Name, func(c *changing) error { return c.putPatch(p, s.now()) })
}

// NewPatch stores a patch under an id that ids makes: it is asked, in the same transaction, which ids are free (nil) and which are not.
func (s *Store) NewPatch(p *patch.Patch, ids func(free func(id string) error) (string, error)) error {
	return s.change("import patch "+p.Name, func(c *changing) (err error) {
		p.ID, err = ids(func(id string) error { return found(c.tx.First(&Patch{}, "id = ?", id).Error) })
		if err != nil {
			return err
		}
		return c.putPatch(p, s.now())
	})
}

// PutAll stores panels and patches in one undoable step that is called what.
func (s *Store) PutAll(what string, panels []*panel.Panel, patches []*patch.Patch, shows ...*show.Doc) error {
	return s.change(what, func(c *changing) error {
		for _, p := range panels {
			if _, err := c.putPanel(p, s.now()); err != nil && !errors.Is(err, errNothing) {
				return err
			}
		}
		for _, p := range patches {
			if err := c.putPatch(p, s.now()); err != nil && !errors.Is(err, errNothing) {
				return err
			}
		}
		for _, d := range shows {
			doc, err := json.Marshal(d)
			if err != nil {
				return err
			}
			if err := c.save(nil, &Show{Name: d.Name, Document: doc, UpdatedAt: s.now()}); err != nil {
				return err
			}
		}
		if len(c.rows) == 0 {
			return errNothing
		}
		return nil
	})
}

func (c *changing) putPanel(p *panel.Panel, now time.Time) (revision int, err error) {
	old, err := c.newest(p.ID)
	if err != nil {
		return 0, err
	}
	copied := *p
	if old != nil {
		copied.Revision = old.Revision
		same, err := json.Marshal(&copied)
		if err != nil {
			return 0, err
		}
		if string(same) == string(old.Document) {
			return old.Revision, errNothing
		}
		copied.Revision = max(old.Revision+1, p.Revision)
	}
	doc, err := json.Marshal(&copied)
	if err != nil {
		return 0, err
	}
	return copied.Revision, c.save(nil, &Panel{ID: p.ID, Revision: copied.Revision, Name: p.Name, Document: doc, CreatedAt: now})
}

func (c *changing) putPatch(p *patch.Patch, now time.Time) error {
	doc, err := json.Marshal(p)
	if err != nil {
		return err
	}
	var old Patch
	before := &old
	if err := c.tx.First(&old, "id = ?", p.ID).Error; errors.Is(err, gorm.ErrRecordNotFound) {
		before = nil
	} else if err != nil {
		return err
	}
	if before != nil && string(before.Document) == string(doc) {
		return errNothing
	}
	return c.save(before, &Patch{ID: p.ID, Name: p.Name, Kind: p.Kind, Panel: p.Panel, Document: doc, UpdatedAt: now})
}

// ChangePatch changes a stored patch in one undoable step that is called what. Where it is made for an older version (On), what has changed since is kept: ErrStale
// where both have changed the same. check is asked about what comes of it.
func (s *Store) ChangePatch(id, what string, change, check func(p *patch.Patch) error) (*patch.Patch, error) {
	var p patch.Patch
	err := s.change(what, func(c *changing) error {
		var old Patch
		if err := c.tx.First(&old, "id = ?", id).Error; err != nil {
			return found(err)
		}
		from := &old
		if s.based != "" && s.based != old.Tag() {
			var err error
			if from, err = before(c, "patches", id, s.based, func(x *Patch) (string, string) { return x.ID, x.Tag() }); err != nil {
				return err
			}
		}
		if err := json.Unmarshal(from.Document, &p); err != nil {
			return err
		}
		if err := change(&p); err != nil {
			return err
		}
		doc, err := json.Marshal(&p)
		if err != nil {
			return err
		}
		if from != &old {
			if doc, err = Merged(from.Document, doc, old.Document); err != nil {
				return err
			}
			p = patch.Patch{}
			if err := json.Unmarshal(doc, &p); err != nil {
				return err
			}
			if doc, err = json.Marshal(&p); err != nil {
				return err
			}
		}
		if check != nil {
			if err := check(&p); err != nil {
				return err
			}
		}
		if string(doc) == string(old.Document) {
			return errNothing
		}
		return c.save(&old, &Patch{ID: p.ID, Name: p.Name, Kind: p.Kind, Panel: p.Panel, Document: doc, UpdatedAt: s.now()})
	})
	if err != nil {
		return nil, err
	}
	return &p, nil
}

// DeletePatch takes a patch away; its sheets stay, as they hold the patch as it was.
func (s *Store) DeletePatch(id string) error { return s.Delete([]Item{{KindPatch, id}}) }

// OpenSheet gives the sheet of a patch, layer, target and school, making it where there
// is none with the same patch and panel revisions.
func (s *Store) OpenSheet(p *patch.Patch, layer string, src, dst *panel.Compiled, school plan.School, with ...func() (plan.Choices, error)) (*Sheet, error) {
	doc, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	out := Sheet{Patch: p.ID, PatchName: p.Name, Layer: layer, Document: doc, Source: src.ID, SourceRevision: src.Revision,
		Target: dst.ID, TargetRevision: dst.Revision, School: string(school), Overrides: []byte("{}")}
	var have Sheet
	same := func(db *gorm.DB) *gorm.DB {
		return db.Where(map[string]any{"patch": out.Patch, "layer": layer, "source": out.Source, "source_revision": out.SourceRevision, "target": out.Target, "target_revision": out.TargetRevision, "school": out.School, "first": 0}).
			Where("document = ?", doc).Order("id DESC")
	}
	err = same(s.db).First(&have).Error
	if err == nil {
		return &have, nil
	}
	if !errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, err
	}
	for _, work := range with {
		choices, err := work()
		if err != nil {
			return nil, err
		}
		if choices.Tuned == nil {
			continue
		}
		if out.Choices, err = json.Marshal(choices); err != nil {
			return nil, err
		}
	}
	// to look at a sheet is no step that could be undone
	err = s.write(func(tx *gorm.DB) error {
		err := same(tx).First(&have).Error
		if err == nil { // made meanwhile
			out = have
			return nil
		}
		if !errors.Is(err, gorm.ErrRecordNotFound) {
			return err
		}
		out.CreatedAt = s.now()
		out.UpdatedAt = out.CreatedAt
		return tx.Create(&out).Error
	})
	return &out, err
}

// Override, called label in words, sets, or with an empty reading takes back, a reading chosen by hand, on from the sheet as it was read (Adopt).
func (s *Store) Override(read *Sheet, control, label, reading string) (*Sheet, error) {
	over, err := read.OverrideMap()
	if err != nil {
		return nil, err
	}
	choices, err := read.ChoicesOf()
	if err != nil {
		return nil, err
	}
	what := fmt.Sprintf("%s: set %s to %s", read.PatchName, label, reading)
	if over[control] = reading; reading == "" {
		what = fmt.Sprintf("%s: take back %s", read.PatchName, label)
		delete(over, control)
	}
	return s.Adopt(read, what, over, choices)
}

// SheetAt gives a sheet with what has been set and decided on it in the version that changes are made for (On), as it stands where none is said.
func (s *Store) SheetAt(id uint) (*Sheet, error) {
	row, err := s.Sheet(id)
	if err != nil || s.based == "" || s.based == row.Tag() {
		return row, err
	}
	old, err := before(&changing{tx: s.db}, "sheets", fmt.Sprint(id), s.based, func(x *Sheet) (string, string) { return fmt.Sprint(x.ID), x.Tag() })
	if err != nil {
		return nil, err
	}
	row.Overrides, row.Choices = old.Overrides, old.Choices
	return row, nil
}

// OverrideMap gives the overrides of the sheet by control.
func (s *Sheet) OverrideMap() (map[string]string, error) {
	all := map[string]string{}
	err := json.Unmarshal(s.Overrides, &all)
	return all, err
}

// Choose keeps what has been decided about parts of a sheet's patch, on from what had been decided on the sheet as it was read: what somebody else has decided since is
// kept, and ErrStale where both have decided about the same.
func (s *Store) Choose(read *Sheet, what string, choices plan.Choices) (*Sheet, error) {
	over, err := read.OverrideMap()
	if err != nil {
		return nil, err
	}
	return s.Adopt(read, what, over, choices)
}

// ChoicesOf gives what has been decided about parts of the sheet's patch.
func (s *Sheet) ChoicesOf() (c plan.Choices, err error) {
	if len(s.Choices) > 0 {
		err = json.Unmarshal(s.Choices, &c)
	}
	return c, err
}

// SetTick ticks a line, called label in words, or takes the tick away.
func (s *Store) SetTick(sheet uint, key, label string, on bool) error {
	what := "tick " + label
	if !on {
		what = "take the tick off " + label
	}
	return s.change(what, func(c *changing) error {
		var n int64
		if err := c.tx.Model(&Sheet{}).Where("id = ?", sheet).Count(&n).Error; err != nil {
			return err
		}
		if n == 0 {
			return ErrNotFound
		}
		var old Tick
		err := c.tx.First(&old, "sheet_id = ? AND key = ?", sheet, key).Error
		have := err == nil
		if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
			return err
		}
		switch {
		case on == have:
			return errNothing
		case on:
			return c.save(nil, &Tick{SheetID: sheet, Key: key, At: s.now()})
		}
		return c.remove(&old)
	})
}

// DeleteSheet takes a sheet, its ticks and its blind tests away.
func (s *Store) DeleteSheet(id uint) error { return s.Delete([]Item{{KindSheet, fmt.Sprint(id)}}) }

func (c *changing) deleteSheet(s *Store, id uint) error {
	var old Sheet
	if err := c.tx.First(&old, "id = ?", id).Error; err != nil {
		return found(err)
	}
	if err := s.fresh(old.Tag()); err != nil {
		return err
	}
	var ticks []Tick
	if err := c.tx.Find(&ticks, "sheet_id = ?", id).Error; err != nil {
		return err
	}
	for i := range ticks {
		if err := c.remove(&ticks[i]); err != nil {
			return err
		}
	}
	var trials []Trial
	if err := c.tx.Find(&trials, "sheet_id = ?", id).Error; err != nil {
		return err
	}
	for i := range trials {
		if err := c.remove(&trials[i]); err != nil {
			return err
		}
	}
	var entries []Entry
	if err := c.tx.Find(&entries, "sheet_id = ?", id).Error; err != nil {
		return err
	}
	for i := range entries {
		if err := c.remove(&entries[i]); err != nil {
			return err
		}
	}
	return c.remove(&old)
}
