package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"path/filepath"
	"time"

	"github.com/glebarez/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
)

// ErrNotFound is returned where a row that was asked for is not there.
var ErrNotFound = errors.New("not found")

// ErrInUse is returned where a row cannot go because another needs it.
var ErrInUse = errors.New("in use")

// Store is an open database. It may be used from several goroutines.
type Store struct {
	db  *gorm.DB
	now func() time.Time
}

// Open opens or makes the database file and brings its schema up to date.
func Open(file string) (*Store, error) {
	abs, err := filepath.Abs(file)
	if err != nil {
		return nil, err
	}
	pragmas := url.Values{"_pragma": {"journal_mode(WAL)", "synchronous(FULL)", "foreign_keys(1)", "busy_timeout(5000)"}, "_txlock": {"immediate"}}
	dsn := (&url.URL{Scheme: "file", Opaque: (&url.URL{Path: abs}).EscapedPath(), RawQuery: pragmas.Encode()}).String()
	db, err := gorm.Open(sqlite.Open(dsn), &gorm.Config{Logger: logger.Discard, TranslateError: true})
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	sql, err := db.DB()
	if err != nil {
		return nil, err
	}
	sql.SetMaxOpenConns(4)
	s := &Store{db: db, now: func() time.Time { return time.Now().UTC() }}
	if err := migrate(db, s.now); err != nil {
		_ = sql.Close()
		return nil, fmt.Errorf("open %s: %w", file, err)
	}
	return s, nil
}

// Close closes the database.
func (s *Store) Close() error {
	sql, err := s.db.DB()
	if err != nil {
		return err
	}
	return sql.Close()
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
	err := s.db.Model(&Tick{}).Where("sheet_id = ?", sheet).Order("at, key").Pluck("key", &out).Error
	return out, err
}

// PutPanel stores a panel as its next revision, or as the revision it has where that is
// new. It gives the revision stored; the same document again stores nothing.
func (s *Store) PutPanel(p *panel.Panel) (revision int, err error) {
	err = s.change("import panel "+p.Name, func(c *changing) error {
		revision, err = c.putPanel(p, s.now())
		return err
	})
	return revision, err
}

// PutPatch stores a patch, in place of one with the same id.
func (s *Store) PutPatch(p *patch.Patch) error {
	return s.change("import patch "+p.Name, func(c *changing) error { return c.putPatch(p, s.now()) })
}

// PutAll stores panels and patches in one undoable step that is called what.
func (s *Store) PutAll(what string, panels []*panel.Panel, patches []*patch.Patch) error {
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

// ChangePatch changes a stored patch in one undoable step that is called what.
func (s *Store) ChangePatch(id, what string, change func(p *patch.Patch) error) (*patch.Patch, error) {
	var p patch.Patch
	err := s.change(what, func(c *changing) error {
		var old Patch
		if err := c.tx.First(&old, "id = ?", id).Error; err != nil {
			return found(err)
		}
		if err := json.Unmarshal(old.Document, &p); err != nil {
			return err
		}
		if err := change(&p); err != nil {
			return err
		}
		doc, err := json.Marshal(&p)
		if err != nil {
			return err
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
func (s *Store) DeletePatch(id string) error {
	return s.change("delete patch "+id, func(c *changing) error {
		var old Patch
		if err := c.tx.First(&old, "id = ?", id).Error; err != nil {
			return found(err)
		}
		return c.remove(&old)
	})
}

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
	err = s.db.Where(map[string]any{"patch": out.Patch, "layer": layer, "source": out.Source, "source_revision": out.SourceRevision, "target": out.Target, "target_revision": out.TargetRevision, "school": out.School, "first": 0}).
		Where("document = ?", doc).Order("id DESC").First(&have).Error
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
	err = s.change(fmt.Sprintf("translate %s to %s", p.Name, dst.Name), func(c *changing) error {
		out.CreatedAt, out.UpdatedAt = s.now(), s.now()
		return c.save(nil, &out)
	})
	return &out, err
}

// Override sets, or with an empty reading takes back, a reading chosen by hand.
func (s *Store) Override(id uint, control, reading string) (*Sheet, error) {
	var out Sheet
	what := fmt.Sprintf("set %s to %s", control, reading)
	if reading == "" {
		what = fmt.Sprintf("take back %s", control)
	}
	err := s.change(what, func(c *changing) error {
		if err := c.tx.First(&out, "id = ?", id).Error; err != nil {
			return found(err)
		}
		before := out
		all, err := out.OverrideMap()
		if err != nil {
			return err
		}
		if all[control] == reading {
			return errNothing
		}
		if reading == "" {
			delete(all, control)
		} else {
			all[control] = reading
		}
		if out.Overrides, err = json.Marshal(all); err != nil {
			return err
		}
		out.UpdatedAt = s.now()
		return c.save(&before, &out)
	})
	if err != nil {
		return nil, err
	}
	return &out, nil
}

// OverrideMap gives the overrides of the sheet by control.
func (s *Sheet) OverrideMap() (map[string]string, error) {
	all := map[string]string{}
	err := json.Unmarshal(s.Overrides, &all)
	return all, err
}

// Choose keeps what has been decided about parts of a sheet's patch.
func (s *Store) Choose(id uint, what string, choices plan.Choices) (*Sheet, error) {
	var out Sheet
	err := s.change(what, func(c *changing) error {
		if err := c.tx.First(&out, "id = ?", id).Error; err != nil {
			return found(err)
		}
		before := out
		doc, err := json.Marshal(choices)
		if err != nil {
			return err
		}
		if string(doc) == string(out.Choices) || len(out.Choices) == 0 && string(doc) == "{}" {
			return errNothing
		}
		out.Choices, out.UpdatedAt = doc, s.now()
		return c.save(&before, &out)
	})
	if err != nil {
		return nil, err
	}
	return &out, nil
}

// ChoicesOf gives what has been decided about parts of the sheet's patch.
func (s *Sheet) ChoicesOf() (c plan.Choices, err error) {
	if len(s.Choices) > 0 {
		err = json.Unmarshal(s.Choices, &c)
	}
	return c, err
}

// SetTick ticks a line, or takes the tick away.
func (s *Store) SetTick(sheet uint, key string, on bool) error {
	what := "tick " + key
	if !on {
		what = "untick " + key
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
func (s *Store) DeleteSheet(id uint) error {
	return s.change("delete sheet", func(c *changing) error {
		var old Sheet
		if err := c.tx.First(&old, "id = ?", id).Error; err != nil {
			return found(err)
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
		return c.remove(&old)
	})
}
