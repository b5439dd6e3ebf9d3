package store

import (
	"fmt"
)

// overPrefix begins the keys of ticks of changeovers: "over:FROM:KEY".
const overPrefix = "over:"

func overKey(from uint, key string) string { return fmt.Sprintf("%s%d:%s", overPrefix, from, key) }

// OverTicks lists what of the changeover from one sheet to another is done, in the order in which it was.
func (s *Store) OverTicks(sheet, from uint) ([]string, error) {
	prefix := overKey(from, "")
	var keys []string
	err := s.db.Model(&Tick{}).Where("sheet_id = ? AND substr(key, 1, ?) = ?", sheet, len(prefix), prefix).Order("at, key").Pluck("key", &keys).Error
	out := make([]string, len(keys))
	for i, k := range keys {
		out[i] = k[len(prefix):]
	}
	return out, err
}

// SetOverTick ticks a move of a changeover, or takes the tick off.
func (s *Store) SetOverTick(sheet, from uint, key, label string, on bool) error {
	return s.SetTick(sheet, overKey(from, key), label, on)
}

// BeginOver takes all ticks of a changeover off: it is done again every night.
func (s *Store) BeginOver(sheet, from uint) error {
	return s.change("begin a changeover anew", func(c *changing) error {
		prefix := overKey(from, "")
		var all []Tick
		if err := c.tx.Where("sheet_id = ? AND substr(key, 1, ?) = ?", sheet, len(prefix), prefix).Find(&all).Error; err != nil {
			return err
		}
		if len(all) == 0 {
			return errNothing
		}
		for i := range all {
			if err := c.remove(&all[i]); err != nil {
				return err
			}
		}
		return nil
	})
}

// Round duplicates a sheet for another round of listening, with what is wanted of it as the first line of its log, in one step.
func (s *Store) Round(id uint, title, wanted string) (*Sheet, error) {
	var out Sheet
	err := s.change(fmt.Sprintf("begin %s", title), func(c *changing) error {
		var old Sheet
		if err := c.tx.First(&old, "id = ?", id).Error; err != nil {
			return found(err)
		}
		out = old
		out.ID, out.Title, out.First = 0, title, 0
		out.CreatedAt = s.now()
		out.UpdatedAt = out.CreatedAt.Add(1) // it is there to be kept, not only looked at
		if err := c.save(nil, &out); err != nil {
			return err
		}
		return c.save(nil, &Entry{SheetID: out.ID, Kind: KindNote, Why: wanted, At: s.now()})
	})
	return &out, err
}
