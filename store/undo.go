package store

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/schema"
)

// KeptChanges is how many changes can be undone; older ones are forgotten.
const KeptChanges = 500

var errNothing = errors.New("nothing changed")

// rowChange is one row before and after a change; absent where it was not there.
type rowChange struct {
	Table  string          `json:"table"`
	Before json.RawMessage `json:"before,omitempty"`
	After  json.RawMessage `json:"after,omitempty"`
}

// changing collects the rows of a change while it is made.
type changing struct {
	tx   *gorm.DB
	rows []rowChange
}

// change runs one undoable step in a transaction. A step that returns errNothing leaves no
// trace. Steps that were undone before cannot be done again after a new one.
func (s *Store) change(what string, step func(c *changing) error) error {
	err := s.write(func(tx *gorm.DB) error {
		c := &changing{tx: tx}
		if err := step(c); err != nil {
			return err
		}
		rows, err := pack(c.rows)
		if err != nil {
			return err
		}
		drafts, alone := draftsIn(c.rows)
		scope := ""
		if alone && len(drafts) == 1 {
			scope = DraftScope(drafts[0])
		} else {
			for _, id := range drafts { // what came before can be undone in turn only
				if err := tx.Model(&Change{}).Where("scope = ?", DraftScope(id)).Update("scope", "").Error; err != nil {
					return err
				}
			}
		}
		if err := tx.Where("undone = ? AND (scope = ? OR scope = '' OR ? = '')", true, scope, scope).Delete(&Change{}).Error; err != nil {
			return err
		}
		ch := Change{At: s.now(), What: what, Rows: rows, Scope: scope}
		if err := tx.Create(&ch).Error; err != nil {
			return err
		}
		return tx.Where("id <= ?", int64(ch.ID)-KeptChanges).Delete(&Change{}).Error
	})
	if errors.Is(err, errNothing) {
		return nil
	}
	return err
}

// write runs a transaction on the connection for writing.
func (s *Store) write(do func(tx *gorm.DB) error) error { return told(s.w.Transaction(do)) }

// pack gives row changes as compressed JSON: a large panel in the workshop is stored twice with
// every edit.
func pack(rows []rowChange) ([]byte, error) {
	var b bytes.Buffer
	w, err := gzip.NewWriterLevel(&b, gzip.BestSpeed)
	if err != nil {
		return nil, err
	}
	if err := json.NewEncoder(w).Encode(rows); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// unpack undoes pack; changes of schema 1 are plain JSON.
func unpack(b []byte) (rows []rowChange, err error) {
	if !bytes.HasPrefix(b, []byte{0x1F, 0x8B}) {
		return rows, json.Unmarshal(b, &rows)
	}
	r, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	return rows, json.NewDecoder(r).Decode(&rows)
}

func (c *changing) newest(panel string) (*Panel, error) {
	var p Panel
	err := c.tx.Where("id = ?", panel).Order("revision DESC").First(&p).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, nil
	}
	return &p, err
}

// save writes a row; before is the row it replaces, or nil.
func (c *changing) save(before, after any) error {
	if err := c.tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(after).Error; err != nil {
		return err
	}
	return c.note(before, after)
}

func (c *changing) remove(row any) error {
	if err := c.tx.Delete(row).Error; err != nil {
		return err
	}
	return c.note(row, nil)
}

func (c *changing) note(before, after any) error {
	r := rowChange{}
	for _, side := range []struct {
		row any
		out *json.RawMessage
	}{{before, &r.Before}, {after, &r.After}} {
		if isNil(side.row) {
			continue
		}
		b, err := json.Marshal(side.row)
		if err != nil {
			return err
		}
		*side.out, r.Table = b, tableOf(side.row)
	}
	c.rows = append(c.rows, r)
	return nil
}

// undoable are the tables whose rows a change can take back, by name. A new one is added here, and nowhere else.
var undoable = tables(Panel{}, Patch{}, Sheet{}, Tick{}, Draft{}, Version{}, Trial{}, Shelf{}, Set{}, Sitting{}, Entry{}, Memory{}, Slot{}, Photograph{}, Show{})

func tables(rows ...any) map[string]reflect.Type {
	out := map[string]reflect.Type{}
	for _, r := range rows {
		t := reflect.TypeOf(r)
		out[schema.NamingStrategy{}.TableName(t.Name())] = t
	}
	return out
}

// isNil tells whether there is no row: nil, or a pointer to none.
func isNil(row any) bool { return row == nil || reflect.ValueOf(row).IsNil() }

func tableOf(row any) string {
	return schema.NamingStrategy{}.TableName(reflect.TypeOf(row).Elem().Name())
}

func rowOf(table string) (any, error) {
	t, ok := undoable[table]
	if !ok {
		return nil, fmt.Errorf("a change names the table %q", table)
	}
	return reflect.New(t).Interface(), nil
}

// Step is a change that can be undone or done again; the zero value is none.
type Step struct {
	ID   uint
	What string
}

// draftsIn lists the panels whose drafts rows are of; alone where they are of nothing else.
func draftsIn(rows []rowChange) (ids []string, alone bool) {
	alone = true
	for _, r := range rows {
		if r.Table != "drafts" {
			alone = false
			continue
		}
		doc := r.After
		if doc == nil {
			doc = r.Before
		}
		var d struct{ ID string }
		if json.Unmarshal(doc, &d) == nil && !slices.Contains(ids, d.ID) {
			ids = append(ids, d.ID)
		}
	}
	return ids, alone
}

// DraftScope names the steps that touch the draft of one panel alone: they can be undone by themselves.
func DraftScope(id string) string { return "drafts/" + id }

// Pending tells what undo and redo would do, in a scope where one is given.
func (s *Store) Pending(scope string) (undo, redo Step, err error) {
	var last, next Change
	if scope != "" {
		if err = s.db.Select("id", "what").Where("undone = ? AND scope = ?", false, scope).Order("id DESC").Limit(1).Find(&last).Error; err != nil {
			return
		}
		err = s.db.Select("id", "what").Where("undone = ? AND scope = ?", true, scope).Order("id").Limit(1).Find(&next).Error
		return Step{last.ID, last.What}, Step{next.ID, next.What}, err
	}
	if err = s.db.Select("id", "what").Where("undone = ?", false).Order("id DESC").Limit(1).Find(&last).Error; err != nil {
		return
	}
	err = s.db.Select("id", "what").Where("undone = ?", true).Order("id").Limit(1).Find(&next).Error
	return Step{last.ID, last.What}, Step{next.ID, next.What}, err
}

// ErrNotLast is returned where a step that is to be undone, or done again, is not the next one.
var ErrNotLast = errors.New("another change came after it")

// Undo takes the last change back and says what it was; ErrNotFound where there is none, ErrNotLast where step is given and is not it.
// In a scope it is the last change there.
func (s *Store) Undo(step uint, scope string) (string, error) { return s.step(step, scope, false) }

// Redo makes the change that was taken back last; errors as of Undo.
func (s *Store) Redo(step uint, scope string) (string, error) { return s.step(step, scope, true) }

func (s *Store) step(step uint, scope string, redo bool) (what string, err error) {
	err = s.write(func(tx *gorm.DB) error {
		order := "id DESC"
		if redo {
			order = "id"
		}
		var c Change
		if err := tx.Where("undone = ? AND (scope = ? OR ? = '')", redo, scope, scope).Order(order).First(&c).Error; err != nil {
			return found(err)
		}
		if step != 0 && step != c.ID {
			return fmt.Errorf("%w: next is %q", ErrNotLast, c.What)
		}
		rows, err := unpack(c.Rows)
		if err != nil {
			return err
		}
		for i := range rows {
			r := rows[len(rows)-1-i]
			goal, other := r.Before, r.After
			if redo {
				r = rows[i]
				goal, other = r.After, r.Before
			}
			if err := restore(tx, r.Table, goal, other); err != nil {
				return err
			}
		}
		what = c.What
		return tx.Model(&c).Update("undone", !redo).Error
	})
	return what, err
}

func restore(tx *gorm.DB, table string, goal, other json.RawMessage) error {
	row, err := rowOf(table)
	if err != nil {
		return err
	}
	if _, ok := row.(*Panel); ok { // another panel may come under the number of one that goes: what was summed up by it is old
		if err := tx.Exec("DELETE FROM summaries").Error; err != nil {
			return err
		}
	}
	if goal == nil {
		if err := json.Unmarshal(other, row); err != nil {
			return err
		}
		if p, ok := row.(*Panel); ok { // sheets that were only looked at go with it
			err := tx.Where("((source = ? AND source_revision = ?) OR (target = ? AND target_revision = ?)) AND created_at = updated_at", p.ID, p.Revision, p.ID, p.Revision).
				Where("id NOT IN (SELECT sheet_id FROM ticks) AND id NOT IN (SELECT sheet_id FROM trials)").Delete(&Sheet{}).Error
			if err != nil {
				return err
			}
		}
		err := tx.Delete(row).Error
		if errors.Is(err, gorm.ErrForeignKeyViolated) {
			return fmt.Errorf("%w: a later sheet uses it, and something is set on it", ErrInUse)
		}
		return err
	}
	if err := json.Unmarshal(goal, row); err != nil {
		return err
	}
	return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(row).Error
}
