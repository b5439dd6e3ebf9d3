package store

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strconv"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// TakeSound is the recording of a take at the bench, by the hash of its bytes.
type TakeSound struct {
	Hash   string `gorm:"primaryKey"`
	Bytes  int64
	Data   []byte
	MadeAt time.Time
}

// Setting is something that the user sets for the whole database.
type Setting struct {
	Name  string `gorm:"primaryKey"`
	Value string
}

// TakesBound is how many bytes of recordings are kept until the user sets another bound, MostTakesBound the most that can be set.
const (
	TakesBound     = 200 << 20
	MostTakesBound = 8 << 30
	takesSetting   = "takes bound"
	takesRest      = 24 * time.Hour // how long the sound of a take that was taken out stays for undo
)

// KeepTake keeps the recording of a take, and gives the name by which TakeSound finds it; an empty one where it would go over the bound: then only the figures are kept.
func (s *Store) KeepTake(data []byte) (name string, err error) {
	sum := sha256.Sum256(data)
	hash := hex.EncodeToString(sum[:16])
	err = s.write(func(tx *gorm.DB) error {
		var there int64
		if err := tx.Model(&TakeSound{}).Where("hash = ?", hash).Count(&there).Error; err != nil {
			return err
		}
		if there > 0 {
			name = hash
			return nil
		}
		kept, bound, err := takesKept(tx)
		if err != nil {
			return err
		}
		if kept+int64(len(data)) > bound { // room is made only where it is wanted
			if err := tx.Where("made_at < ? AND NOT EXISTS (SELECT 1 FROM sittings WHERE instr(CAST(takes AS TEXT), hash) > 0) AND NOT EXISTS (SELECT 1 FROM entries WHERE entries.kind = 'recording' AND entries.reading = hash)", s.now().Add(-takesRest)).Delete(&TakeSound{}).Error; err != nil {
				return err
			}
			if kept, _, err = takesKept(tx); err != nil || kept+int64(len(data)) > bound {
				return err
			}
		}
		name = hash
		return tx.Create(&TakeSound{hash, int64(len(data)), data, s.now()}).Error
	})
	return name, err
}

// TakeSound gives a recording that was kept; ErrNotFound where there is none by that name.
func (s *Store) TakeSound(name string) ([]byte, error) {
	var out TakeSound
	if err := s.db.First(&out, "hash = ?", name).Error; err != nil {
		return nil, found(err)
	}
	return out.Data, nil
}

// TakesKept tells how many bytes of recordings are kept, and up to how many.
func (s *Store) TakesKept() (kept, bound int64, err error) { return takesKept(s.db) }

func takesKept(tx *gorm.DB) (kept, bound int64, err error) {
	if err := tx.Model(&TakeSound{}).Select("COALESCE(SUM(bytes), 0)").Scan(&kept).Error; err != nil {
		return 0, 0, err
	}
	var all []Setting
	if err := tx.Find(&all, "name = ?", takesSetting).Error; err != nil || len(all) == 0 {
		return kept, TakesBound, err
	}
	bound, err = strconv.ParseInt(all[0].Value, 10, 64)
	return kept, bound, err
}

// BoundTakes sets up to how many bytes recordings are kept; those that are there stay.
func (s *Store) BoundTakes(bytes int64) error {
	if bytes < 0 || bytes > MostTakesBound {
		return fmt.Errorf("expected 0 to %d bytes, got %d", int64(MostTakesBound), bytes)
	}
	return s.write(func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Setting{takesSetting, strconv.FormatInt(bytes, 10)}).Error
	})
}
