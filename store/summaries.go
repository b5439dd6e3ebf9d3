package store

import (
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Summary is what is worked out of a sheet for lists, kept with it so that a list works nothing out. Key names what it was made from: where that is another now it is old. It
// is no change: it cannot be undone, and may be lost.
type Summary struct {
	SheetID uint `gorm:"primaryKey;autoIncrement:false"`
	Key     string
	Data    []byte
}

// Summaries gives those that are kept, by sheet.
func (s *Store) Summaries() (map[uint]Summary, error) {
	var list []Summary
	if err := s.db.Where("key NOT LIKE ?", overPrefix+"%").Find(&list).Error; err != nil {
		return nil, err
	}
	out := make(map[uint]Summary, len(list))
	for _, x := range list {
		out[x.SheetID] = x
	}
	return out, nil
}

// PutSummaries keeps some; those of sheets that have gone meanwhile are let go.
func (s *Store) PutSummaries(list []Summary) error {
	return s.write(func(tx *gorm.DB) error {
		for i := range list {
			var n int64
			if err := tx.Model(&Sheet{}).Where("id = ?", list[i].SheetID).Count(&n).Error; err != nil {
				return err
			}
			if n == 0 {
				continue
			}
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&list[i]).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// AllTicks gives the keys of the ticked lines of every sheet.
func (s *Store) AllTicks() (map[uint][]string, error) {
	var list []Tick
	if err := s.db.Where("key NOT LIKE ?", overPrefix+"%").Find(&list).Error; err != nil {
		return nil, err
	}
	out := map[uint][]string{}
	for _, t := range list {
		out[t.SheetID] = append(out[t.SheetID], t.Key)
	}
	return out, nil
}
