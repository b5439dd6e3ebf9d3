package store

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"
)

// Entry is a line of the log of a sheet: a correction ("I set 47, because ..."), a note of what was heard, or that somebody has signed it off.
type Entry struct {
	ID      uint `gorm:"primaryKey"`
	SheetID uint
	// Kind is "correction", "note" or "sign-off".
	Kind string
	// Control was planned to stand at Planned and was set to Reading; empty where the entry is about the whole.
	Control, Label, Planned, Reading string
	// Tags are short reasons, by commas; Why is what was said, Who signed.
	Tags, Why, Who string
	At             time.Time
}

// Kinds of entries.
const (
	KindCorrection = "correction"
	KindNote       = "note"
	KindSignOff    = "sign-off"
)

// MostEntries is how many lines of a log are given at once.
const MostEntries = 500

// Logged is an entry with the sheet that it belongs to, as it was when it was made.
type Logged struct {
	Entry
	Patch, PatchName, Source, Target string
	TargetRevision                   int
	// Overrides of the sheet now, by which it is told whether a correction was kept.
	Overrides []byte
}

// Kept tells whether a correction still stands.
func (x *Logged) Kept() bool {
	var over map[string]string
	return x.Kind == KindCorrection && json.Unmarshal(x.Overrides, &over) == nil && over[x.Control] == x.Reading
}

// Correct sets a reading of a sheet's target by hand and keeps why, in one step.
func (s *Store) Correct(read *Sheet, x Entry) (*Sheet, error) {
	over, err := read.OverrideMap()
	if err != nil {
		return nil, err
	}
	over[x.Control] = x.Reading
	choices, err := read.ChoicesOf()
	if err != nil {
		return nil, err
	}
	x.Kind = KindCorrection
	return s.adopt(read, fmt.Sprintf("%s: set %s to %s", read.PatchName, x.Label, x.Reading), over, choices, &x)
}

// Log keeps an entry about a sheet.
func (s *Store) Log(what string, x Entry) error {
	return s.change(what, func(c *changing) error {
		if err := c.tx.First(&Sheet{}, "id = ?", x.SheetID).Error; err != nil {
			return found(err)
		}
		x.At = s.now()
		return c.save(nil, &x)
	})
}

// Search asks for entries: those of a sheet, of a patch, of a pair of instruments or of one, that hold every word of Find in what they say or are about. The zero value asks for all.
type Search struct {
	Sheet          uint
	Patch          string
	Source, Target string
	Kind           string
	Find           string
}

// Entries gives what the log holds, the newest first, at most MostEntries.
func (s *Store) Entries(ask Search) ([]Logged, error) {
	q := s.db.Table("entries").Select("entries.*, sheets.patch, sheets.patch_name, sheets.source, sheets.target, sheets.target_revision, sheets.overrides").Joins("JOIN sheets ON sheets.id = entries.sheet_id")
	if ask.Sheet > 0 {
		q = q.Where("entries.sheet_id = ?", ask.Sheet)
	}
	for column, want := range map[string]string{"sheets.patch": ask.Patch, "sheets.source": ask.Source, "sheets.target": ask.Target, "entries.kind": ask.Kind} {
		if want != "" {
			q = q.Where(column+" = ?", want)
		}
	}
	for _, word := range strings.Fields(ask.Find) {
		like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(word) + "%"
		q = q.Where(`(entries.label LIKE @w ESCAPE '\' OR entries.tags LIKE @w ESCAPE '\' OR entries.why LIKE @w ESCAPE '\' OR entries.who LIKE @w ESCAPE '\' OR entries.reading LIKE @w ESCAPE '\' OR entries.kind LIKE @w ESCAPE '\' OR sheets.patch_name LIKE @w ESCAPE '\' OR sheets.source LIKE @w ESCAPE '\' OR sheets.target LIKE @w ESCAPE '\')`, map[string]any{"w": like})
	}
	out := []Logged{}
	err := q.Order("entries.id DESC").Limit(MostEntries).Find(&out).Error
	return out, err
}
