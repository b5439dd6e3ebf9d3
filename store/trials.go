package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"glossator/core/plan"
)

// Trial is the result of a blind test: which of two sounds is a third.
type Trial struct {
	ID      uint `gorm:"primaryKey"`
	SheetID uint
	Right   int
	Of      int
	Sounds  string
	At      time.Time
}

// AddTrial keeps the result of a blind test of a sheet.
func (s *Store) AddTrial(sheet uint, right, of int, sounds string) error {
	return s.change(fmt.Sprintf("keep a blind test, %d of %d right", right, of), func(c *changing) error {
		var row Sheet
		if err := c.tx.First(&row, "id = ?", sheet).Error; err != nil {
			return found(err)
		}
		return c.save(nil, &Trial{SheetID: sheet, Right: right, Of: of, Sounds: sounds, At: s.now()})
	})
}

// Trials lists the blind tests of a sheet, the newest first.
func (s *Store) Trials(sheet uint) ([]Trial, error) {
	var out []Trial
	err := s.db.Where("sheet_id = ?", sheet).Order("id DESC").Limit(200).Find(&out).Error
	return out, err
}

// Adopt sets the readings chosen for a sheet and what has been decided about it, in one step, on from the sheet as it was read: what somebody else has set since is kept, and
// ErrStale where both have set the same.
func (s *Store) Adopt(read *Sheet, what string, over map[string]string, choices plan.Choices) (*Sheet, error) {
	return s.adopt(read, what, over, choices, nil)
}

// adopt is Adopt; why goes to the log in the same step, where it is given.
func (s *Store) adopt(read *Sheet, what string, over map[string]string, choices plan.Choices, why *Entry) (*Sheet, error) {
	var out Sheet
	overrides, err := json.Marshal(over)
	if err != nil {
		return nil, err
	}
	decided, err := json.Marshal(choices)
	if err != nil {
		return nil, err
	}
	err = s.change(what, func(c *changing) error {
		if err := c.tx.First(&out, "id = ?", read.ID).Error; err != nil {
			return found(err)
		}
		old := out
		if out.Overrides, err = Merged(read.Overrides, overrides, old.Overrides); err != nil {
			return err
		}
		if out.Choices, err = Merged(orEmpty(read.Choices), decided, orEmpty(old.Choices)); err != nil {
			return err
		}
		same := string(out.Overrides) == string(old.Overrides) && string(orEmpty(out.Choices)) == string(orEmpty(old.Choices))
		if same && why == nil {
			out = old
			return errNothing
		}
		if why != nil {
			why.SheetID, why.At = read.ID, s.now()
			if err := c.save(nil, why); err != nil {
				return err
			}
		}
		if same {
			out = old
			return nil
		}
		out.UpdatedAt = s.now()
		return c.save(&old, &out)
	})
	if err != nil {
		return nil, err
	}
	return &out, nil
}

func orEmpty(b []byte) []byte {
	if len(b) == 0 {
		return []byte("{}")
	}
	return b
}

// OpenSecond gives the sheet of the second layer to a first one, making it where there is none.
func (s *Store) OpenSecond(first *Sheet, choices plan.Choices) (*Sheet, error) {
	if have, err := s.Second(first.ID); err == nil || !errors.Is(err, ErrNotFound) {
		return have, err
	}
	doc, err := json.Marshal(choices)
	if err != nil {
		return nil, err
	}
	out := Sheet{Patch: first.Patch, PatchName: first.PatchName, Layer: first.Layer, Document: first.Document, Source: first.Source, SourceRevision: first.SourceRevision,
		Target: first.Target, TargetRevision: first.TargetRevision, School: first.School, Overrides: []byte("{}"), Choices: doc, First: first.ID}
	err = s.change("a second layer of "+first.PatchName, func(c *changing) error {
		var have Sheet
		err := c.tx.Where("first = ?", first.ID).Order("id DESC").First(&have).Error
		if err == nil { // made meanwhile
			out = have
			return errNothing
		}
		if !errors.Is(err, gorm.ErrRecordNotFound) {
			return err
		}
		out.CreatedAt, out.UpdatedAt = s.now(), s.now()
		return c.save(nil, &out)
	})
	return &out, err
}

// Second finds the sheet of the second layer to a first one; ErrNotFound where there is none.
func (s *Store) Second(first uint) (*Sheet, error) {
	var out Sheet
	if err := s.db.Where("first = ?", first).Order("id DESC").First(&out).Error; err != nil {
		return nil, found(err)
	}
	return &out, nil
}
