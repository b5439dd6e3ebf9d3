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
	// Kind is "correction", "note", "sign-off" or "recording"; the log gives others, too, from where they are kept.
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
	KindRecording  = "recording" // Reading names its sound (TakeSound), where that was kept
)

// What stands in the log besides, from where it is kept.
const (
	KindTrial      = "blind test"
	KindPhotograph = "photograph"
	KindVersion    = "version"
)

// loggedColumns are those of each select in logged.
const loggedColumns = "id, sheet_id, kind, control, label, planned, reading, tags, why, who, at, patch, patch_name, source, target, target_revision, overrides"

// logged are the lines of the log with what they are about, from each place where they are kept: entries, blind tests, photographs, and kept versions of patches.
var logged = []string{
	`SELECT e.id, e.sheet_id, e.kind, e.control, e.label, e.planned, e.reading, e.tags, e.why, e.who, e.at, s.patch, s.patch_name, s.source, s.target, s.target_revision, s.overrides FROM entries e JOIN sheets s ON s.id = e.sheet_id`,
	`SELECT t.id, t.sheet_id, 'blind test', '', '', '', '', '', t.right || ' of ' || t."of" || ' right', '', t.at, s.patch, s.patch_name, s.source, s.target, s.target_revision, NULL FROM trials t JOIN sheets s ON s.id = t.sheet_id`,
	`SELECT p.id, s.id, 'photograph', '', '', '', '', '', p.caption, '', p.at, s.patch, s.patch_name, s.source, s.target, s.target_revision, NULL FROM photographs p JOIN sheets s ON p.kind = 'sheet' AND s.id = CAST(p.ref AS INTEGER)`,
	`SELECT p.id, 0, 'photograph', '', '', '', '', '', p.caption, '', p.at, x.id, x.name, x.panel, '', 0, NULL FROM photographs p JOIN patches x ON p.kind = 'patch' AND x.id = p.ref`,
	`SELECT v.number, 0, 'version', '', '', '', '', '', v.note, '', v.at, x.id, x.name, x.panel, '', 0, NULL FROM versions v JOIN patches x ON x.id = v.patch`,
}

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
	var where []string
	var args []any
	also := func(clause string, arg any) { where, args = append(where, clause), append(args, arg) }
	if ask.Sheet > 0 {
		also("sheet_id = ?", ask.Sheet)
	}
	for column, want := range map[string]string{"patch": ask.Patch, "source": ask.Source, "target": ask.Target, "kind": ask.Kind} {
		if want != "" {
			also(column+" = ?", want)
		}
	}
	for _, word := range strings.Fields(ask.Find) {
		also(`label || ' ' || tags || ' ' || why || ' ' || who || ' ' || reading || ' ' || kind || ' ' || patch_name || ' ' || source || ' ' || target LIKE ? ESCAPE '\'`, "%"+strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(word)+"%")
	}
	if len(where) == 0 {
		where = append(where, "1")
	}
	var parts []string
	var all []any
	for _, from := range logged { // the newest of each place, then the newest of these: no more is put in order than is given
		parts = append(parts, fmt.Sprintf("SELECT * FROM (WITH l(%s) AS (%s) SELECT * FROM l WHERE %s ORDER BY at DESC, id DESC LIMIT %d)", loggedColumns, from, strings.Join(where, " AND "), MostEntries))
		all = append(all, args...)
	}
	out := []Logged{}
	err := s.db.Raw(fmt.Sprintf("SELECT * FROM (%s) ORDER BY at DESC, id DESC LIMIT %d", strings.Join(parts, " UNION ALL "), MostEntries), all...).Scan(&out).Error
	return out, err
}
