package store

import (
	"errors"
	"fmt"
	"testing"
)

// What stands in a slot is not written over without a word, a protected one not at all; each step can be undone. A slot that the instrument does not have is refused.
func TestSlots(t *testing.T) {
	s, rack, keel := filled(t)
	sheet, err := s.OpenSheet(keel, "", rack["windlass"], rack["halyard"], "numbers")
	must(t, err)
	put := func(program int, name string, sheet uint, over string) error {
		return s.PutSlot(Slot{PanelID: "halyard", Program: program, Name: name, SheetID: sheet}, over)
	}
	name := func(program int) string {
		x, err := s.SlotAt("halyard", 0, program)
		must(t, err)
		if x == nil {
			return ""
		}
		return x.Name
	}
	must(t, put(3, "Old brass", 0, ""))
	if err := put(3, "Keel", sheet.ID, ""); !errors.Is(err, ErrTaken) || name(3) != "Old brass" {
		t.Errorf("%v, %q", err, name(3))
	}
	if err := put(3, "Keel", sheet.ID, "Another brass"); !errors.Is(err, ErrTaken) { // what somebody else has put there since
		t.Error(err)
	}
	must(t, put(3, "Keel", sheet.ID, "Old brass"))
	must(t, put(3, "Keel, darker", sheet.ID, "")) // the same translation again
	must(t, s.ProtectSlot("halyard", 0, 3, true))
	for _, over := range []string{"", "Keel, darker"} {
		if err := put(3, "Gulls", 0, over); !errors.Is(err, ErrProtected) || name(3) != "Keel, darker" {
			t.Errorf("%v, %q", err, name(3))
		}
	}
	if err := s.ClearSlot("halyard", 0, 3); !errors.Is(err, ErrProtected) {
		t.Error(err)
	}
	if x, err := s.SlotOf(sheet.ID); err != nil || x == nil || x.Program != 3 {
		t.Errorf("%+v, %v", x, err)
	}
	for _, want := range []string{"Keel, darker", "Keel", "Old brass", ""} { // the protection, then each name
		_, err := s.Undo(0, "")
		must(t, err)
		if name(3) != want {
			t.Errorf("after undo %q, want %q", name(3), want)
		}
	}
	must(t, s.ProtectSlot("halyard", 0, 7, true)) // a free one
	must(t, s.ProtectSlot("halyard", 0, 7, false))
	if list, err := s.Slots("halyard"); err != nil || len(list) != 0 {
		t.Errorf("%v, %v", list, err)
	}
	for _, at := range [][2]int{{0, 128}, {1, 0}, {-1, 0}, {0, -1}} {
		if err := s.PutSlot(Slot{PanelID: "halyard", Bank: at[0], Program: at[1], Name: "x"}, ""); !errors.Is(err, ErrNoSlot) {
			t.Errorf("%v: %v", at, err)
		}
	}
	must(t, s.LayMemory(Memory{PanelID: "halyard", Banks: 2, Programs: 64}))
	must(t, s.PutSlot(Slot{PanelID: "halyard", Bank: 1, Program: 63, Name: "x"}, ""))
	if err := s.LayMemory(Memory{PanelID: "halyard", Banks: 1, Programs: 64}); !errors.Is(err, ErrTaken) {
		t.Error(err)
	}
	for _, m := range []Memory{{PanelID: "halyard"}, {PanelID: "halyard", Banks: 1, Programs: 129}, {PanelID: "halyard", Banks: 16384, Programs: 128}, {PanelID: "halyard", Banks: 1, Programs: 1, First: 2}} {
		if s.LayMemory(m) == nil {
			t.Errorf("%+v is taken", m)
		}
	}
	must(t, s.Delete([]Item{{KindSheet, "1"}}))
	must(t, s.Delete([]Item{{KindPatch, "fog-bank"}, {KindPatch, "storm-front"}, {KindPanel, "halyard"}}))
	if list, err := s.Slots("halyard"); err != nil || len(list) != 0 {
		t.Errorf("the panel has gone: %v, %v", list, err)
	}
	_, err = s.Undo(0, "")
	must(t, err)
	if x, err := s.SlotAt("halyard", 1, 63); err != nil || x == nil {
		t.Errorf("%v, %v", x, err)
	}
}

// A photograph goes with what it is of, and comes back with it; two of one image are kept once.
func TestPhotographs(t *testing.T) {
	s, _, _ := filled(t)
	add := func(data string) uint {
		id, err := s.AddPhotograph(Photograph{Kind: KindPatch, Ref: "keel", Caption: "left half", Width: 4, Height: 3}, []byte(data))
		must(t, err)
		return id
	}
	one, two := add("first"), add("first")
	must(t, s.CaptionPhotograph(two, "right half"))
	list, err := s.Photographs(KindPatch, "keel")
	must(t, err)
	if len(list) != 2 || list[0].Hash != list[1].Hash || list[1].Caption != "right half" || list[0].Bytes != 5 {
		t.Errorf("%+v", list)
	}
	var images int64
	must(t, s.db.Model(&Image{}).Count(&images).Error)
	if images != 1 {
		t.Errorf("%d images", images)
	}
	must(t, s.DropPhotograph(one))
	must(t, s.DeletePatch("keel"))
	if list, err = s.Photographs(KindPatch, "keel"); err != nil || len(list) != 0 {
		t.Errorf("%v, %v", list, err)
	}
	_, err = s.Undo(0, "")
	must(t, err)
	if data, err := s.PhotographImage(two); err != nil || string(data) != "first" {
		t.Errorf("%q, %v", data, err)
	}
	if _, err := s.PhotographImage(one); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
	for range MostPhotographs - 1 {
		add("x")
	}
	if _, err := s.AddPhotograph(Photograph{Kind: KindPatch, Ref: "keel"}, []byte("one too many")); !errors.Is(err, ErrTaken) {
		t.Error(err)
	}
}

// BenchmarkLog finds two words in a log of 10,000 lines, of which each fortieth has them.
func BenchmarkLog(b *testing.B) {
	s, err := Open(b.TempDir() + "/x.db")
	if err != nil {
		b.Fatal(err)
	}
	defer s.Close()
	for _, id := range []string{"kedge", "halyard"} {
		if err := s.w.Create(&Panel{ID: id, Revision: 1, Name: id, Document: []byte("{}"), CreatedAt: s.now()}).Error; err != nil {
			b.Fatal(err)
		}
	}
	for i := range 98 {
		if err := s.w.Create(&Sheet{Patch: fmt.Sprint(i), PatchName: "Patch", Document: []byte("{}"), Source: "kedge", SourceRevision: 1, Target: "halyard", TargetRevision: 1, School: "ear", Overrides: []byte("{}"), CreatedAt: s.now(), UpdatedAt: s.now()}).Error; err != nil {
			b.Fatal(err)
		}
	}
	for i := range 10_000 {
		if err := s.w.Create(&Entry{SheetID: uint(i%98 + 1), Kind: KindCorrection, Control: "filter.cutoff", Label: "Filter Cutoff", Planned: "60", Reading: "47", Tags: "darker", Why: []string{"it bit through the strings", "closer to the low notes of the cellos"}[min(i%40, 1)], At: s.now()}).Error; err != nil {
			b.Fatal(err)
		}
	}
	for b.Loop() {
		if all, err := s.Entries(Search{Find: "bit cutoff"}); err != nil || len(all) != 250 {
			b.Fatal(len(all), err)
		}
	}
}
