package store

import (
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Memory is how the memory of an instrument is laid out: so many banks of so many programs, the first of them shown as First.
type Memory struct {
	PanelID         string `gorm:"primaryKey"`
	Banks, Programs int
	First           int
	UpdatedAt       time.Time
}

// Slot is one place of an instrument's memory that is in use or protected; a place without a row is free. Bank and Program count from 0.
type Slot struct {
	PanelID string `gorm:"primaryKey"`
	Bank    int    `gorm:"primaryKey;autoIncrement:false"`
	Program int    `gorm:"primaryKey;autoIncrement:false"`
	// Name is what stands there, SheetID the translation that went there, 0 where it is something else.
	Name      string
	SheetID   uint
	Protected bool
	At        time.Time
}

// Bounds of a memory: what MIDI can address.
const (
	MostBanks    = 16384
	MostPrograms = 128
	MostSlots    = 20000
)

// DefaultMemory is how a memory is laid out that nobody has described: one bank of 128 programs, as MIDI has them.
func DefaultMemory(panel string) Memory { return Memory{PanelID: panel, Banks: 1, Programs: 128} }

var (
	// ErrProtected is returned where a slot that is protected would be written over.
	ErrProtected = errors.New("the slot is protected")
	// ErrTaken is returned where a slot that is in use would be written over without having been asked to.
	ErrTaken = errors.New("the slot is in use")
	// ErrNoSlot is returned for a slot that the instrument does not have.
	ErrNoSlot = errors.New("the instrument has no such slot")
)

// MemoryOf gives how an instrument's memory is laid out.
func (s *Store) MemoryOf(panel string) (Memory, error) { return memoryOf(s.db, panel) }

func memoryOf(tx *gorm.DB, panel string) (Memory, error) {
	var all []Memory
	if err := tx.Find(&all, "panel_id = ?", panel).Error; err != nil {
		return Memory{}, err
	}
	if len(all) == 0 {
		return DefaultMemory(panel), nil
	}
	return all[0], nil
}

// LayMemory says how an instrument's memory is laid out. It refuses one that would have no place for a slot that is in use.
func (s *Store) LayMemory(m Memory) error {
	if m.Banks < 1 || m.Banks > MostBanks || m.Programs < 1 || m.Programs > MostPrograms || m.Banks*m.Programs > MostSlots || m.First < 0 || m.First > 1 {
		return fmt.Errorf("expected banks of 1 to %d programs, %d slots at most in all, numbered from 0 or 1", MostPrograms, MostSlots)
	}
	return s.change(fmt.Sprintf("lay out a memory of %d x %d", m.Banks, m.Programs), func(c *changing) error {
		var beyond int64
		if err := c.tx.Model(&Slot{}).Where("panel_id = ? AND (bank >= ? OR program >= ?)", m.PanelID, m.Banks, m.Programs).Count(&beyond).Error; err != nil {
			return err
		}
		if beyond > 0 {
			return fmt.Errorf("%w: %d that are in use lie beyond: clear them first", ErrTaken, beyond)
		}
		was, err := memoryOf(c.tx, m.PanelID)
		if err != nil {
			return err
		}
		m.UpdatedAt = s.now()
		if was.UpdatedAt.IsZero() {
			return c.save(nil, &m)
		}
		return c.save(&was, &m)
	})
}

// Slots lists the slots of an instrument that are in use or protected, in their order; of all instruments where panel is empty.
func (s *Store) Slots(panel string) ([]Slot, error) {
	out := []Slot{}
	err := s.db.Where("panel_id = ? OR ? = ''", panel, panel).Order("panel_id, bank, program").Find(&out).Error
	return out, err
}

// PutSlot says what stands in a slot. A protected one is refused (ErrProtected), one that is in use too (ErrTaken) unless over is the name of what stands there:
// what somebody else has put there since is not written over.
func (s *Store) PutSlot(x Slot, over string) error {
	return s.change(fmt.Sprintf("put %s into slot %d of bank %d", x.Name, x.Program, x.Bank), func(c *changing) error {
		was, err := slot(c.tx, x.PanelID, x.Bank, x.Program)
		if err != nil {
			return err
		}
		if was != nil && was.Protected {
			return fmt.Errorf("%w: %q stands there", ErrProtected, was.Name)
		}
		if was != nil && was.Name != "" && over != was.Name && (x.SheetID == 0 || was.SheetID != x.SheetID) {
			return fmt.Errorf("%w: %q of %s stands there", ErrTaken, was.Name, was.At.Format(time.DateOnly))
		}
		x.At = s.now()
		return c.save(row(was), &x)
	})
}

// row gives a row for a change: none for a pointer to none.
func row(x *Slot) any {
	if x == nil {
		return nil
	}
	return x
}

// ProtectSlot protects a slot, or no longer.
func (s *Store) ProtectSlot(panel string, bank, program int, protected bool) error {
	what := fmt.Sprintf("protect slot %d of bank %d", program, bank)
	if !protected {
		what = "un" + what
	}
	return s.change(what, func(c *changing) error {
		was, err := slot(c.tx, panel, bank, program)
		if err != nil {
			return err
		}
		x := Slot{PanelID: panel, Bank: bank, Program: program, At: s.now()}
		if was != nil {
			x = *was
		}
		if x.Protected == protected {
			return errNothing
		}
		x.Protected = protected
		if x.Name == "" && !protected {
			return c.remove(was)
		}
		return c.save(row(was), &x)
	})
}

// ClearSlot says that a slot is free. A protected one is refused.
func (s *Store) ClearSlot(panel string, bank, program int) error {
	return s.change(fmt.Sprintf("clear slot %d of bank %d", program, bank), func(c *changing) error {
		was, err := slot(c.tx, panel, bank, program)
		if err != nil || was == nil {
			return errors.Join(err, errNothing)
		}
		if was.Protected {
			return fmt.Errorf("%w: %q stands there", ErrProtected, was.Name)
		}
		return c.remove(was)
	})
}

// SlotAt gives what stands in a slot; nil where it is free.
func (s *Store) SlotAt(panel string, bank, program int) (*Slot, error) {
	return slot(s.db, panel, bank, program)
}

// slot gives a slot; nil where it is free, ErrNoSlot where the instrument has none of the number.
func slot(tx *gorm.DB, panel string, bank, program int) (*Slot, error) {
	m, err := memoryOf(tx, panel)
	if err != nil {
		return nil, err
	}
	if bank < 0 || bank >= m.Banks || program < 0 || program >= m.Programs {
		return nil, fmt.Errorf("%w: expected a bank below %d and a program below %d, got %d and %d", ErrNoSlot, m.Banks, m.Programs, bank, program)
	}
	var all []Slot
	if err := tx.Find(&all, "panel_id = ? AND bank = ? AND program = ?", panel, bank, program).Error; err != nil || len(all) == 0 {
		return nil, err
	}
	return &all[0], nil
}

// SlotOf gives the slot in which a sheet's translation stands; nil where there is none.
func (s *Store) SlotOf(sheet uint) (*Slot, error) {
	var all []Slot
	if err := s.db.Limit(1).Order("at DESC").Find(&all, "sheet_id = ?", sheet).Error; err != nil || len(all) == 0 {
		return nil, err
	}
	return &all[0], nil
}

// withMemory takes what is known of an instrument's memory away with its panel.
func (c *changing) withMemory(panel string) error {
	var slots []Slot
	if err := c.tx.Find(&slots, "panel_id = ?", panel).Error; err != nil {
		return err
	}
	for i := range slots {
		if err := c.remove(&slots[i]); err != nil {
			return err
		}
	}
	var memories []Memory
	if err := c.tx.Find(&memories, "panel_id = ?", panel).Error; err != nil || len(memories) == 0 {
		return err
	}
	return c.remove(&memories[0])
}
