package server

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"glossator/formats"
	"glossator/store"
)

// Slots is an instrument's memory, as far as it is known.
type Slots struct {
	Panel string `json:"panel"`
	Name  string `json:"name"`
	// Remembers is false for an instrument without memory.
	Remembers bool `json:"remembers"`
	// Banks of Programs slots each, the first of them shown as First.
	Banks    int `json:"banks"`
	Programs int `json:"programs"`
	First    int `json:"first"`
	// Slots are those in use or protected; all others are free.
	Slots []SlotRow `json:"slots"`
	Free  int       `json:"free"`
	// Sheets are translations to this instrument, which may go into a slot.
	Sheets  []SheetName `json:"sheets"`
	Pending Pending     `json:"pending"`
}

// SlotRow is one slot. Bank and Program count from 0.
type SlotRow struct {
	Bank      int    `json:"bank"`
	Program   int    `json:"program"`
	Name      string `json:"name"`
	Sheet     uint   `json:"sheet"`
	Protected bool   `json:"protected"`
	At        string `json:"at"`
}

func (s *Server) slots(ctx context.Context, in named) (none Slots, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	m, err := s.store.MemoryOf(c.ID)
	if err != nil {
		return none, err
	}
	all, err := s.store.Slots(c.ID)
	if err != nil {
		return none, err
	}
	out := Slots{Panel: c.ID, Name: c.Name, Remembers: c.Memory, Banks: m.Banks, Programs: m.Programs, First: m.First, Slots: []SlotRow{}, Free: m.Banks * m.Programs, Sheets: []SheetName{}}
	rows, err := s.store.Sheets()
	if err != nil {
		return none, err
	}
	here := map[uint]bool{}
	for i := range rows {
		if rows[i].Target == c.ID {
			here[rows[i].ID] = true
			out.Sheets = append(out.Sheets, SheetName{rows[i].ID, nameOf(&rows[i])})
		}
	}
	for _, x := range all {
		row := SlotRow{x.Bank, x.Program, x.Name, x.SheetID, x.Protected, x.At.Format(time.RFC3339)}
		if !here[x.SheetID] { // its sheet has been deleted; what stands in the instrument still does
			row.Sheet = 0
		}
		out.Slots = append(out.Slots, row)
		out.Free--
	}
	out.Pending, err = s.pending()
	return out, err
}

// nameOf is what a sheet goes by.
func nameOf(x *store.Sheet) string {
	if x.Title != "" {
		return x.Title
	}
	return x.PatchName
}

// MemoryBody is how a memory is laid out.
type MemoryBody struct {
	Banks    int `json:"banks"`
	Programs int `json:"programs"`
	First    int `json:"first"`
}

type memoryRequest struct {
	ID   string `path:"id"`
	Body MemoryBody
}

func (s *Server) memory(ctx context.Context, in memoryRequest) (none Slots, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	if err := s.store.LayMemory(store.Memory{PanelID: c.ID, Banks: in.Body.Banks, Programs: in.Body.Programs, First: in.Body.First}); err != nil {
		return none, plain(err)
	}
	return s.slots(ctx, named{in.ID})
}

// plain tells what is wrong with a request of what the store refuses.
func plain(err error) error {
	if errors.Is(err, store.ErrTaken) || errors.Is(err, store.ErrProtected) || errors.Is(err, store.ErrNoSlot) || errors.Is(err, store.ErrNotFound) || errors.Is(err, store.ErrDisk) {
		return err
	}
	return badRequest{err}
}

// SlotBody is what stands in a slot.
type SlotBody struct {
	// Name is what stands there; that of the sheet where it is empty. Sheet is the translation that goes there, 0 for something else.
	Name  string `json:"name"`
	Sheet uint   `json:"sheet"`
	// Over is the name of what stands there and is written over; empty for nothing.
	Over string `json:"over"`
}

type slotRequest struct {
	ID      string `path:"id"`
	Bank    int    `path:"bank"`
	Program int    `path:"program"`
	Body    SlotBody
}

const mostSlotName = 120

func (s *Server) slotPut(ctx context.Context, in slotRequest) (none Slots, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	x := store.Slot{PanelID: c.ID, Bank: in.Bank, Program: in.Program, Name: strings.TrimSpace(in.Body.Name), SheetID: in.Body.Sheet}
	if x.SheetID != 0 {
		sheet, err := s.store.Sheet(x.SheetID)
		if err != nil {
			return none, err
		}
		if sheet.Target != c.ID {
			return none, badRequest{fmt.Errorf("expected a sheet on %s, got one on %s", c.Name, sheet.Target)}
		}
		if x.Name == "" {
			x.Name = nameOf(sheet)
		}
	}
	if bad := formats.Unfit(x.Name); x.Name == "" || len(x.Name) > mostSlotName || bad != "" {
		return none, badRequest{fmt.Errorf("name: expected 1 to %d bytes of plain text", mostSlotName)}
	}
	if err := s.store.PutSlot(x, in.Body.Over); err != nil {
		return none, err
	}
	return s.slots(ctx, named{in.ID})
}

// ProtectionBody says whether a slot is protected.
type ProtectionBody struct {
	Protected bool `json:"protected"`
}

type protectionRequest struct {
	ID      string `path:"id"`
	Bank    int    `path:"bank"`
	Program int    `path:"program"`
	Body    ProtectionBody
}

func (s *Server) slotProtect(ctx context.Context, in protectionRequest) (none Slots, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	if err := s.store.ProtectSlot(c.ID, in.Bank, in.Program, in.Body.Protected); err != nil {
		return none, err
	}
	return s.slots(ctx, named{in.ID})
}

type ofSlot struct {
	ID      string `path:"id"`
	Bank    int    `path:"bank"`
	Program int    `path:"program"`
}

func (s *Server) slotClear(ctx context.Context, in ofSlot) (none Slots, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	if err := s.store.ClearSlot(c.ID, in.Bank, in.Program); err != nil {
		return none, err
	}
	return s.slots(ctx, named{in.ID})
}

// notProtected refuses to send where a protected slot would be chosen. Program counts from 1, -1 or 0 is none.
func (s *Server) notProtected(panel string, bank, program int) error {
	if program < 1 {
		return nil
	}
	x, err := s.store.SlotAt(panel, max(bank, 0), program-1)
	if errors.Is(err, store.ErrNoSlot) { // it lies beyond what is known of the memory
		return nil
	}
	if err != nil || x == nil || !x.Protected {
		return err
	}
	what := x.Name
	if what == "" {
		what = "nothing"
	}
	return fmt.Errorf("%w: %q stands there, nothing is sent to it", store.ErrProtected, what)
}
