package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"

	"glossator/core/panel"
	"glossator/core/patch"
)

// The kinds of things on the shelf.
const (
	KindPanel = "panel"
	KindPatch = "patch"
	KindSheet = "sheet"
	KindShow  = "show"
)

// Item names a panel, a patch or a sheet.
type Item struct {
	Kind string `json:"kind"`
	ID   string `json:"id"`
}

// Shelf marks what has been archived: it is kept, and not listed among what is in use.
type Shelf struct {
	Kind string `gorm:"primaryKey"`
	Ref  string `gorm:"primaryKey"`
	At   time.Time
}

// Set is a list of patches in an order: the running order of a show, or a folder of one's own. A patch that is not there any more is passed over.
type Set struct {
	ID        uint `gorm:"primaryKey"`
	Name      string
	Patches   []byte // JSON list of ids
	UpdatedAt time.Time
}

// Order gives the ids of a set's patches.
func (s *Set) Order() (ids []string, err error) {
	err = json.Unmarshal(s.Patches, &ids)
	return ids, err
}

// Archived gives what has been archived.
func (s *Store) Archived() (map[Item]bool, error) {
	var rows []Shelf
	err := s.db.Find(&rows).Error
	out := map[Item]bool{}
	for _, r := range rows {
		out[Item{r.Kind, r.Ref}] = true
	}
	return out, err
}

// Archive archives things in one step, or with back brings them back.
func (s *Store) Archive(items []Item, back bool) error {
	verb := "archive"
	if back {
		verb = "bring back"
	}
	names, err := s.names(items)
	if err != nil {
		return err
	}
	return s.change(verb+" "+names, func(c *changing) error {
		for _, it := range items {
			if _, err := c.nameOf(it); err != nil {
				return err
			}
			if back {
				if err := c.unshelve(it); err != nil {
					return err
				}
				continue
			}
			var n int64
			if err := c.tx.Model(&Shelf{}).Where("kind = ? AND ref = ?", it.Kind, it.ID).Count(&n).Error; err != nil {
				return err
			}
			if n > 0 {
				continue
			}
			if err := c.save(nil, &Shelf{Kind: it.Kind, Ref: it.ID, At: s.now()}); err != nil {
				return err
			}
		}
		if len(c.rows) == 0 {
			return errNothing
		}
		return nil
	})
}

// names says in words what things are: the name of one, how many of several.
func (s *Store) names(items []Item) (string, error) {
	c := &changing{tx: s.db}
	if len(items) == 1 {
		name, err := c.nameOf(items[0])
		return items[0].Kind + " " + name, err
	}
	counts, order := map[string]int{}, []string{}
	for _, it := range items {
		if counts[it.Kind]++; counts[it.Kind] == 1 {
			order = append(order, it.Kind)
		}
	}
	var out []string
	for _, k := range order {
		plural := map[string]string{KindPanel: "panels", KindPatch: "patches", KindSheet: "sheets"}[k]
		if counts[k] == 1 {
			plural = k
		}
		out = append(out, fmt.Sprintf("%d %s", counts[k], plural))
	}
	return strings.Join(out, ", "), nil
}

// nameOf gives the name of a thing; ErrNotFound where it is not there.
func (c *changing) nameOf(it Item) (string, error) {
	switch it.Kind {
	case KindPanel:
		p, err := c.newest(it.ID)
		if err != nil || p == nil {
			return "", errors.Join(err, ErrNotFound)
		}
		return p.Name, nil
	case KindPatch:
		var p Patch
		err := c.tx.Select("name").First(&p, "id = ?", it.ID).Error
		return p.Name, found(err)
	case KindSheet:
		var p Sheet
		n, err := strconv.ParseUint(it.ID, 10, 32)
		if err != nil {
			return "", ErrNotFound
		}
		err = c.tx.Select("patch_name", "title", "target").First(&p, "id = ?", n).Error
		if p.Title != "" {
			return p.Title, found(err)
		}
		on := p.Target
		if t, err := c.newest(p.Target); err == nil && t != nil {
			on = t.Name
		}
		return p.PatchName + " on " + on, found(err)
	}
	return "", ErrNotFound
}

// InUse is returned where panels cannot go because patches or sheets stand on them.
type InUse struct {
	Panel   string
	Patches []string // their names
	Sheets  int
}

func (e InUse) Error() string {
	var on []string
	if n := len(e.Patches); n > 0 {
		shown := strings.Join(e.Patches[:min(n, 3)], ", ")
		if n > 3 {
			shown = fmt.Sprintf("%s and %d more", shown, n-3)
		}
		on = append(on, shown)
	}
	if e.Sheets == 1 {
		on = append(on, "a sheet")
	} else if e.Sheets > 1 {
		on = append(on, fmt.Sprintf("%d sheets", e.Sheets))
	}
	return fmt.Sprintf("%s is in use: %s stand on it; delete them with it, or archive it", e.Panel, strings.Join(on, " and "))
}

// Unwrap makes it an ErrInUse.
func (e InUse) Unwrap() error { return ErrInUse }

// Delete takes things away in one undoable step. A panel goes with all of its revisions and its draft; InUse where a patch or sheet that stays stands on it. The sheets of a
// patch stay, as they hold the patch as it was.
func (s *Store) Delete(items []Item) error {
	names, err := s.names(items)
	if err != nil {
		return err
	}
	return s.DeleteAs("delete "+names, items)
}

// DeleteAs is Delete, as a step that is called what.
func (s *Store) DeleteAs(what string, items []Item) error {
	return s.change(what, func(c *changing) error { return c.delete(s, items) })
}

// delete takes sheets away first, then patches, then panels.
func (c *changing) delete(s *Store, items []Item) error {
	of := func(kind string, do func(id string) error) error {
		for _, it := range items {
			if it.Kind != kind {
				continue
			}
			if err := do(it.ID); err != nil {
				return err
			}
			if err := c.unshelve(it); err != nil {
				return err
			}
			if err := c.withPhotographs(it); err != nil {
				return err
			}
		}
		return nil
	}
	for _, it := range items {
		if !slices.Contains([]string{KindPanel, KindPatch, KindSheet, KindShow}, it.Kind) {
			return ErrNotFound
		}
	}
	if err := of(KindSheet, func(id string) error {
		n, err := strconv.ParseUint(id, 10, 32)
		if err != nil {
			return ErrNotFound
		}
		return c.deleteSheet(s, uint(n))
	}); err != nil {
		return err
	}
	if err := of(KindShow, func(id string) error {
		n, err := strconv.ParseUint(id, 10, 32)
		if err != nil {
			return ErrNotFound
		}
		return s.deleteShow(c, uint(n))
	}); err != nil {
		return err
	}
	if err := of(KindPatch, func(id string) error { return c.deletePatch(s, id) }); err != nil {
		return err
	}
	return of(KindPanel, func(id string) error {
		if err := c.deletePanel(id); err != nil {
			return err
		}
		return c.withMemory(id)
	})
}

func (c *changing) unshelve(it Item) error {
	var old Shelf
	err := c.tx.First(&old, "kind = ? AND ref = ?", it.Kind, it.ID).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	return c.remove(&old)
}

func (c *changing) deletePatch(s *Store, id string) error {
	var old Patch
	if err := c.tx.First(&old, "id = ?", id).Error; err != nil {
		return found(err)
	}
	if err := s.fresh(old.Tag()); err != nil {
		return err
	}
	return c.remove(&old)
}

func (c *changing) deletePanel(id string) error {
	var all []Panel
	if err := c.tx.Find(&all, "id = ?", id).Error; err != nil {
		return err
	}
	if len(all) == 0 {
		return ErrNotFound
	}
	use := InUse{Panel: all[len(all)-1].Name}
	if err := c.tx.Model(&Patch{}).Where("panel = ?", id).Order("name").Pluck("name", &use.Patches).Error; err != nil {
		return err
	}
	var sheets int64
	if err := c.tx.Model(&Sheet{}).Where("source = ? OR target = ?", id, id).Count(&sheets).Error; err != nil {
		return err
	}
	if use.Sheets = int(sheets); use.Sheets > 0 || len(use.Patches) > 0 {
		return use
	}
	d, err := c.draft(id)
	if err != nil {
		return err
	}
	if d != nil {
		if err := c.remove(d); err != nil {
			return err
		}
	}
	var sittings []Sitting
	if err := c.tx.Find(&sittings, "panel_id = ?", id).Error; err != nil {
		return err
	}
	for i := range sittings {
		if err := c.remove(&sittings[i]); err != nil {
			return err
		}
	}
	for i := range all {
		if err := c.remove(&all[i]); err != nil {
			return err
		}
	}
	return nil
}

// Rename gives a panel, a patch or a sheet another name. A panel keeps its revision: its name is no setting.
func (s *Store) Rename(it Item, name string) error {
	was, err := (&changing{tx: s.db}).nameOf(it)
	if err != nil {
		return err
	}
	if it.Kind == KindPatch {
		_, err := s.ChangePatch(it.ID, fmt.Sprintf("call %s %s", was, name), func(p *patch.Patch) error { p.Name = name; return nil }, nil)
		return err
	}
	return s.change(fmt.Sprintf("call %s %s", was, name), func(c *changing) error {
		if it.Kind == KindPanel {
			old, err := c.newest(it.ID)
			if err != nil || old == nil {
				return errors.Join(err, ErrNotFound)
			}
			if old.Name == name {
				return errNothing
			}
			now := *old
			now.Name = name
			if now.Document, err = renamed(old.Document, name); err != nil {
				return err
			}
			return c.save(old, &now)
		}
		var old Sheet
		if err := c.tx.First(&old, "id = ?", it.ID).Error; err != nil {
			return found(err)
		}
		if old.Title == name {
			return errNothing
		}
		now := old
		now.Title, now.UpdatedAt = name, s.now()
		return c.save(&old, &now)
	})
}

// renamed gives the document of a panel under another name; all else stays as it is written.
func renamed(doc []byte, name string) ([]byte, error) {
	var p panel.Panel
	if err := json.Unmarshal(doc, &p); err != nil {
		return nil, err
	}
	p.Name = name
	return json.Marshal(&p)
}

// CopySheet makes a sheet like another, with what has been set and decided on it, and without ticks.
func (s *Store) CopySheet(id uint) (*Sheet, error) {
	old, err := s.Sheet(id)
	if err != nil {
		return nil, err
	}
	out := *old
	out.ID = 0
	name, err := (&changing{tx: s.db}).nameOf(Item{KindSheet, fmt.Sprint(id)})
	if err != nil {
		return nil, err
	}
	out.Title = name + " (copy)"
	out.CreatedAt = s.now()
	out.UpdatedAt = out.CreatedAt
	err = s.change("duplicate the sheet of "+old.PatchName, func(c *changing) error { return c.save(nil, &out) })
	return &out, err
}

// Sets gives every set, by name.
func (s *Store) Sets() ([]Set, error) {
	var out []Set
	err := s.db.Order("name, id").Find(&out).Error
	return out, err
}

// PutSet stores a set: a new one where id is 0. It gives the set as it is kept.
func (s *Store) PutSet(id uint, name string, patches []string) (*Set, error) {
	doc, err := json.Marshal(append([]string{}, patches...))
	if err != nil {
		return nil, err
	}
	out := &Set{ID: id, Name: name, Patches: doc}
	what := "set " + name
	if id == 0 {
		what = "begin the set " + name
	}
	err = s.change(what, func(c *changing) error {
		var before *Set
		if id != 0 {
			before = &Set{}
			if err := c.tx.First(before, "id = ?", id).Error; err != nil {
				return found(err)
			}
			if before.Name == name && string(before.Patches) == string(doc) {
				return errNothing
			}
		}
		out.UpdatedAt = s.now()
		if before == nil {
			return c.save(nil, out)
		}
		return c.save(before, out)
	})
	return out, err
}

// DropSet takes a set away; its patches stay.
func (s *Store) DropSet(id uint) error {
	var old Set
	if err := s.db.First(&old, "id = ?", id).Error; err != nil {
		return found(err)
	}
	return s.change("delete the set "+old.Name, func(c *changing) error {
		var now Set
		if err := c.tx.First(&now, "id = ?", id).Error; err != nil {
			return found(err)
		}
		return c.remove(&now)
	})
}

// PutVersion stores a patch in place of one with the same id, which is kept as a version of it, in one step.
func (s *Store) PutVersion(p *patch.Patch, note string) error {
	return s.change("import patch "+p.Name, func(c *changing) error {
		if err := c.keepVersion(p.ID, note, s.now()); err != nil && !errors.Is(err, errNothing) {
			return err
		}
		return c.putPatch(p, s.now())
	})
}
