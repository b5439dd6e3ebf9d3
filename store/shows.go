package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"glossator/core/show"
)

// Show is a show as it stands.
type Show struct {
	ID        uint `gorm:"primaryKey"`
	Name      string
	Document  []byte
	UpdatedAt time.Time
}

// Doc reads the show.
func (x *Show) Doc() (*show.Doc, error) {
	var d show.Doc
	err := json.Unmarshal(x.Document, &d)
	return &d, err
}

// Tag names the version.
func (x *Show) Tag() string { return TagOf[show.Doc](x.Document) }

// Shows lists the shows by name.
func (s *Store) Shows() ([]Show, error) {
	out := []Show{}
	err := s.db.Order("name, id").Find(&out).Error
	return out, err
}

// Show gives a show; ErrNotFound where there is none.
func (s *Store) Show(id uint) (*Show, error) {
	var out Show
	err := s.db.First(&out, "id = ?", id).Error
	return &out, found(err)
}

// NewShow keeps a show beside those that are here.
func (s *Store) NewShow(what string, d *show.Doc) (*Show, error) {
	doc, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	out := &Show{Name: d.Name, Document: doc}
	err = s.change(what, func(c *changing) error {
		out.UpdatedAt = s.now()
		return c.save(nil, out)
	})
	return out, err
}

// PutShow changes a show. Where it is made for an older version (On), what has changed since is kept: ErrStale where both have changed the same. check is asked about what comes of it.
func (s *Store) PutShow(id uint, d *show.Doc, check func(d *show.Doc) error) (*Show, error) {
	out := &Show{ID: id}
	err := s.change("change the show "+d.Name, func(c *changing) error {
		var old Show
		if err := c.tx.First(&old, "id = ?", id).Error; err != nil {
			return found(err)
		}
		doc, err := json.Marshal(d)
		if err != nil {
			return err
		}
		if s.based != "" && s.based != old.Tag() {
			base, err := before(c, "shows", fmt.Sprint(id), s.based, func(x *Show) (string, string) { return fmt.Sprint(x.ID), x.Tag() })
			if err != nil {
				return err
			}
			if doc, err = Merged(base.Document, doc, old.Document); err != nil {
				return err
			}
		}
		var now show.Doc
		if err := json.Unmarshal(doc, &now); err != nil {
			return err
		}
		if err := check(&now); err != nil {
			return err
		}
		out.Name, out.Document, out.UpdatedAt = now.Name, doc, s.now()
		if sameJSON(doc, old.Document) {
			*out = old
			return errNothing
		}
		return c.save(&old, out)
	})
	return out, err
}

// DropShow takes a show away; its patches stay, and so does what was kept of its rehearsals, for undo.
func (s *Store) DropShow(id uint) error {
	old, err := s.Show(id)
	if err != nil {
		return err
	}
	return s.change("delete the show "+old.Name, func(c *changing) error { return s.deleteShow(c, id) })
}

func (s *Store) deleteShow(c *changing, id uint) error {
	var now Show
	if err := c.tx.First(&now, "id = ?", id).Error; err != nil {
		return found(err)
	}
	if err := s.fresh(now.Tag()); err != nil {
		return err
	}
	return c.remove(&now)
}

// Run is a rehearsal of an evening of a show in a house: its clock stood at At seconds at Since, and has gone on since where it is Going. It is not undone with other changes.
type Run struct {
	ID      uint `gorm:"primaryKey"`
	ShowID  uint
	House   string
	Evening int
	Going   bool
	At      float64
	Since   time.Time
	Began   time.Time
}

// Clock gives where the clock stands at a time, in seconds of the evening.
func (r *Run) Clock(now time.Time) float64 {
	if !r.Going {
		return r.At
	}
	return r.At + now.Sub(r.Since).Seconds()
}

// RunTick is a move of a changeover that is done: for which cue, when, where the clock stood, by whom, of how many; End is when the cue before it ended.
type RunTick struct {
	RunID uint   `gorm:"primaryKey;autoIncrement:false"`
	Cue   string `gorm:"primaryKey"`
	Key   string `gorm:"primaryKey"`
	At    time.Time
	Clock float64
	Who   string
	Of    int
	End   float64
}

// Run gives the rehearsal of an evening that is on; nil where none was begun.
func (s *Store) Run(show uint, house string, evening int) (*Run, error) {
	var out []Run
	err := s.db.Where("show_id = ? AND house = ? AND evening = ?", show, house, evening).Order("id DESC").Limit(1).Find(&out).Error
	if err != nil || len(out) == 0 {
		return nil, err
	}
	return &out[0], nil
}

// BeginRun begins a rehearsal anew: its clock stands at 0. Those before it are kept for what they say of the time that changeovers take.
func (s *Store) BeginRun(show uint, house string, evening int) (*Run, error) {
	now := s.now()
	out := &Run{ShowID: show, House: house, Evening: evening, Since: now, Began: now}
	return out, s.write(func(tx *gorm.DB) error {
		if err := tx.First(&Show{}, "id = ?", show).Error; err != nil {
			return found(err)
		}
		return tx.Create(out).Error
	})
}

// SetClock stops the clock of a rehearsal or lets it go, at a time of the evening.
func (s *Store) SetClock(run uint, going bool, at float64) error {
	return s.write(func(tx *gorm.DB) error {
		r := tx.Model(&Run{}).Where("id = ?", run).Updates(map[string]any{"going": going, "at": at, "since": s.now()})
		if r.Error == nil && r.RowsAffected == 0 {
			return ErrNotFound
		}
		return r.Error
	})
}

// SetRunTick keeps a tick, or takes it off. One that is kept already stays as it was first.
func (s *Store) SetRunTick(x RunTick, done bool) error {
	return s.write(func(tx *gorm.DB) error {
		if err := tx.First(&Run{}, "id = ?", x.RunID).Error; err != nil {
			return found(err)
		}
		if !done {
			return tx.Delete(&x).Error
		}
		return tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&x).Error
	})
}

// RunTicks gives the ticks of a rehearsal in the order in which they were made.
func (s *Store) RunTicks(run uint) ([]RunTick, error) {
	out := []RunTick{}
	err := s.db.Where("run_id = ?", run).Order("at, cue, key").Find(&out).Error
	return out, err
}

// runRests is how long nothing is ticked in a rehearsal until it counts as past.
const runRests = 6 * time.Hour

// PastTicks gives the ticks of the rehearsals of a show that are over, in the order in which they were made: the one that is on changes no plan while it is played by.
func (s *Store) PastTicks(show uint) ([]RunTick, error) {
	var runs []Run
	if err := s.db.Where("show_id = ?", show).Order("id DESC").Find(&runs).Error; err != nil {
		return nil, err
	}
	var last []uint // of each evening in each house
	seen := map[string]bool{}
	for _, r := range runs {
		if key := fmt.Sprint(r.Evening, " ", r.House); !seen[key] {
			seen[key] = true
			var late int64
			if err := s.db.Model(&RunTick{}).Where("run_id = ? AND at > ?", r.ID, s.now().Add(-runRests)).Count(&late).Error; err != nil {
				return nil, err
			}
			if late > 0 {
				last = append(last, r.ID)
			}
		}
	}
	out := []RunTick{}
	err := s.db.Where("run_id IN (?)", s.db.Model(&Run{}).Select("id").Where("show_id = ? AND id NOT IN ?", show, append(last, 0))).Order("run_id, at, cue, key").Find(&out).Error
	return out, err
}

// Hearing is what listening to a translation has shown, by what it was made from. It may be lost: it is made again.
type Hearing struct {
	Key    string `gorm:"primaryKey"`
	Data   []byte
	MadeAt time.Time
}

// keptHearings is how many are kept; the oldest go first.
const keptHearings = 5000

// Hearing gives what was heard; nil where that is not known.
func (s *Store) Hearing(key string) ([]byte, error) {
	var out []Hearing
	if err := s.db.Find(&out, "key = ?", key).Error; err != nil || len(out) == 0 {
		return nil, err
	}
	return out[0].Data, nil
}

// KeepHearing keeps what was heard.
func (s *Store) KeepHearing(key string, data []byte) error {
	return s.write(func(tx *gorm.DB) error {
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Hearing{key, data, s.now()}).Error; err != nil {
			return err
		}
		return tx.Exec("DELETE FROM hearings WHERE key IN (SELECT key FROM hearings ORDER BY made_at DESC LIMIT -1 OFFSET ?)", keptHearings).Error
	})
}
