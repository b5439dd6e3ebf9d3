package store

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// EarSitting is a sitting of ear practice: the patch as it was, what of it differs, and what was answered.
type EarSitting struct {
	ID        uint `gorm:"primaryKey"`
	Who       string
	Patch     string
	PatchName string
	Document  []byte
	Parts     []byte // JSON list of ids
	Seed      uint64
	Answers   []byte // JSON list of ear.Answer
	Began     time.Time
	UpdatedAt time.Time
}

// EarResult is what a sitting has found of one part: how many published just-noticeable differences make one of somebody's.
type EarResult struct {
	ID        uint `gorm:"primaryKey"`
	SittingID uint
	Who       string
	Differs   string
	Part      string
	Factor    float64
	Low, High float64
	Turns     int
	Heard     bool
	At        time.Time
}

// NewEarSitting begins a sitting. Sittings are not undone with other changes: what was heard was heard.
func (s *Store) NewEarSitting(x EarSitting) (*EarSitting, error) {
	x.Began, x.UpdatedAt = s.now(), s.now()
	return &x, s.write(func(tx *gorm.DB) error { return tx.Create(&x).Error })
}

// EarSitting gives a sitting; ErrNotFound where there is none.
func (s *Store) EarSitting(id uint) (*EarSitting, error) {
	var out EarSitting
	err := s.db.First(&out, "id = ?", id).Error
	return &out, found(err)
}

// EarSittings lists the sittings, the last first, at most so many.
func (s *Store) EarSittings(most int) ([]EarSitting, error) {
	out := []EarSitting{}
	err := s.db.Omit("document").Order("id DESC").Limit(most).Find(&out).Error
	return out, err
}

// AnswerEar keeps the answers of a sitting, with the results that they have brought. had is how many there were before: ErrStale where somebody has answered elsewhere meanwhile.
func (s *Store) AnswerEar(id uint, had int, answers []byte, results []EarResult) error {
	return s.write(func(tx *gorm.DB) error {
		var now EarSitting
		if err := tx.First(&now, "id = ?", id).Error; err != nil {
			return found(err)
		}
		var there []json.RawMessage
		if err := json.Unmarshal(now.Answers, &there); err != nil {
			return err
		}
		if len(there) != had {
			return ErrStale{}
		}
		if err := tx.Model(&now).Updates(map[string]any{"answers": answers, "updated_at": s.now()}).Error; err != nil {
			return err
		}
		for i := range results {
			results[i].SittingID, results[i].At = id, s.now()
			if err := tx.Create(&results[i]).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// DropEarSitting takes a sitting away, with what it has found.
func (s *Store) DropEarSitting(id uint) error {
	return s.write(func(tx *gorm.DB) error {
		if err := tx.Where("sitting_id = ?", id).Delete(&EarResult{}).Error; err != nil {
			return err
		}
		r := tx.Where("id = ?", id).Delete(&EarSitting{})
		if r.Error == nil && r.RowsAffected == 0 {
			return ErrNotFound
		}
		return r.Error
	})
}

// EarResults lists what has been found, by whom and when.
func (s *Store) EarResults() ([]EarResult, error) {
	out := []EarResult{}
	err := s.db.Order("who, differs, at, id").Find(&out).Error
	return out, err
}

const listenerSetting = "listener"

// Listener names whose ears judge the lines of sheets; empty for the published differences.
func (s *Store) Listener() (string, error) {
	var all []Setting
	if err := s.db.Find(&all, "name = ?", listenerSetting).Error; err != nil || len(all) == 0 {
		return "", err
	}
	return all[0].Value, nil
}

// SetListener sets it.
func (s *Store) SetListener(who string) error {
	return s.write(func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Setting{listenerSetting, who}).Error
	})
}
