package store

import (
	"fmt"
	"time"

	"glossator/core/patch"
)

// Versions lists the kept versions of a patch, the newest first.
func (s *Store) Versions(patch string) ([]Version, error) {
	var out []Version
	err := s.db.Where("patch = ?", patch).Order("number DESC").Find(&out).Error
	return out, err
}

// KeepVersion keeps a patch as it stands, with a note. It gives the version's number; where
// nothing has changed since the last one, that.
func (s *Store) KeepVersion(id, note string) (number int, err error) {
	name, err := (&changing{tx: s.db}).nameOf(Item{KindPatch, id})
	if err != nil {
		return 0, err
	}
	err = s.change("keep a version of "+name, func(c *changing) error {
		err := c.keepVersion(id, note, s.now())
		var last Version
		if e := c.tx.Where("patch = ?", id).Order("number DESC").Limit(1).Find(&last).Error; e != nil {
			return e
		}
		number = last.Number
		return err
	})
	return number, err
}

// keepVersion keeps a patch as it stands; errNothing where it stands as the last version does.
func (c *changing) keepVersion(id, note string, now time.Time) error {
	var p Patch
	if err := c.tx.First(&p, "id = ?", id).Error; err != nil {
		return found(err)
	}
	var last Version
	if err := c.tx.Where("patch = ?", id).Order("number DESC").Limit(1).Find(&last).Error; err != nil {
		return err
	}
	if string(last.Document) == string(p.Document) {
		return errNothing
	}
	return c.save(nil, &Version{Patch: id, Number: last.Number + 1, Note: note, Document: p.Document, At: now})
}

// RestoreVersion makes a patch what it was in a version.
func (s *Store) RestoreVersion(id string, old *patch.Patch, number int) (*patch.Patch, error) {
	return s.ChangePatch(id, fmt.Sprintf("%s: back to version %d", old.Name, number), func(p *patch.Patch) error {
		*p = *old
		p.ID = id
		return nil
	}, nil)
}
