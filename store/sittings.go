package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"glossator/core/calibrate"
)

// Sitting is what has been measured of a control at the bench: the figures of its takes, and the names of their recordings (TakeSound) where those are kept.
type Sitting struct {
	ID      uint `gorm:"primaryKey"`
	PanelID string
	Control string
	Recipe  string
	// Instrument says what was measured: a unit's name, "stand-in 7".
	Instrument string
	Takes      []byte
	UpdatedAt  time.Time
}

// Recorded gives the figures of the takes, in the order in which they were taken.
func (y *Sitting) Recorded() (out []calibrate.Recorded, err error) {
	if len(y.Takes) > 0 {
		err = json.Unmarshal(y.Takes, &out)
	}
	return out, err
}

// MaxRecorded is how many takes of a control are kept.
const MaxRecorded = 200

// Sittings lists what has been measured of a panel's controls.
func (s *Store) Sittings(panel string) ([]Sitting, error) {
	var out []Sitting
	err := s.db.Where("panel_id = ?", panel).Order("control").Find(&out).Error
	return out, err
}

// Sitting gives what has been measured of a control; ErrNotFound where nothing has.
func (s *Store) Sitting(panel, control string) (*Sitting, error) {
	var out Sitting
	if err := s.db.First(&out, "panel_id = ? AND control = ?", panel, control).Error; err != nil {
		return nil, found(err)
	}
	return &out, nil
}

// Sit changes what has been measured of a control, from what it is when the change is made: of two who measure at once both takes are kept. change gets the figures and gives them as they are to be; nil for none ends the sitting.
func (s *Store) Sit(panelID, control, what string, change func(y *Sitting, takes []calibrate.Recorded) ([]calibrate.Recorded, error)) (*Sitting, error) {
	var out *Sitting
	err := s.change(what, func(c *changing) error {
		y := Sitting{PanelID: panelID, Control: control}
		var old *Sitting
		err := c.tx.First(&y, "panel_id = ? AND control = ?", panelID, control).Error
		switch {
		case err == nil:
			was := y
			old = &was
		case !errors.Is(err, gorm.ErrRecordNotFound):
			return err
		}
		takes, err := y.Recorded()
		if err != nil {
			return err
		}
		if takes, err = change(&y, takes); err != nil {
			return err
		}
		if takes == nil {
			if old == nil {
				return errNothing
			}
			return c.remove(old)
		}
		if len(takes) > MaxRecorded {
			return fmt.Errorf("expected at most %d takes of a control: take some out first", MaxRecorded)
		}
		if y.Takes, err = json.Marshal(takes); err != nil {
			return err
		}
		y.UpdatedAt = s.now()
		out = &y
		return c.save(isNew(old), &y)
	})
	return out, err
}

func isNew(old *Sitting) any {
	if old == nil {
		return nil
	}
	return old
}
