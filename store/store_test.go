package store

import (
	"errors"
	"path/filepath"
	"testing"

	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/demo"
	"glossator/formats"
)

func open(t *testing.T) *Store {
	t.Helper()
	s, err := Open(filepath.Join(t.TempDir(), "with space & 100%.db"))
	must(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// filled gives a store with the demo data, its panels, and the patch Keel.
func filled(t *testing.T) (*Store, map[string]*panel.Compiled, *patch.Patch) {
	t.Helper()
	s := open(t)
	rack := map[string]*panel.Compiled{}
	for _, f := range demo.Panels() {
		c, err := formats.ReadPanel(f.Name, f.Data)
		must(t, err)
		rack[c.ID] = c
		_, err = s.PutPanel(c.Panel)
		must(t, err)
	}
	var keel *patch.Patch
	for _, f := range demo.Patches() {
		p, err := formats.ReadPatch(f.Name, f.Data)
		must(t, err)
		must(t, s.PutPatch(p))
		if p.ID == "keel" {
			keel = p
		}
	}
	return s, rack, keel
}

func TestPragmas(t *testing.T) {
	s := open(t)
	for pragma, want := range map[string]string{"journal_mode": "wal", "foreign_keys": "1", "busy_timeout": "5000", "synchronous": "2"} {
		var got string
		if err := s.db.Raw("PRAGMA " + pragma).Scan(&got).Error; err != nil || got != want {
			t.Errorf("%s = %q (%v), want %q", pragma, got, err, want)
		}
	}
}

func TestUndoRedoOfEveryChange(t *testing.T) {
	s, rack, keel := filled(t)
	sheet, err := s.OpenSheet(keel, "", rack["windlass"], rack["halyard"], "numbers")
	must(t, err)
	again, err := s.OpenSheet(keel, "", rack["windlass"], rack["halyard"], "numbers")
	if err != nil || again.ID != sheet.ID {
		t.Fatalf("opening twice gave sheets %d and %d (%v)", sheet.ID, again.ID, err)
	}
	overrides := func() string {
		x, err := s.Sheet(sheet.ID)
		if err != nil {
			return err.Error()
		}
		return string(x.Overrides)
	}
	ticks := func() int {
		x, err := s.Ticks(sheet.ID)
		must(t, err)
		return len(x)
	}
	_, err = s.Override(sheet, "filter.cutoff", "Cutoff", "40")
	must(t, err)
	must(t, s.SetTick(sheet.ID, "filter.cutoff", "filter.cutoff", true))
	must(t, s.SetTick(sheet.ID, "filter.cutoff", "filter.cutoff", true)) // again: no change of its own
	must(t, s.DeleteSheet(sheet.ID))
	for _, want := range []struct {
		what, overrides string
		ticks           int
	}{
		{"delete sheet Keel on Halyard", `{"filter.cutoff":"40"}`, 1},
		{"tick filter.cutoff", `{"filter.cutoff":"40"}`, 0},
		{"Keel: set Cutoff to 40", `{}`, 0},
	} {
		what, err := s.Undo(0, "")
		if err != nil || what != want.what || overrides() != want.overrides || ticks() != want.ticks {
			t.Fatalf("undo gave %q (%v), overrides %s, ticks %d; want %+v", what, err, overrides(), ticks(), want)
		}
	}
	for range 2 {
		_, err := s.Redo(0, "")
		must(t, err)
	}
	if overrides() != `{"filter.cutoff":"40"}` || ticks() != 1 {
		t.Fatalf("redo gave overrides %s, ticks %d", overrides(), ticks())
	}
	must(t, s.SetTick(sheet.ID, "glide", "glide", true))
	if _, err := s.Redo(0, ""); !errors.Is(err, ErrNotFound) {
		t.Fatalf("a new change must end redo, got %v", err)
	}
}

func TestUndoKeepsAPanelThatASheetUses(t *testing.T) {
	s, rack, keel := filled(t)
	c := *rack["halyard"].Panel
	c.Summary = "changed"
	rev, err := s.PutPanel(&c)
	must(t, err)
	changed, err := panel.Compile(&c)
	must(t, err)
	changed.Panel.Revision = rev
	sheet, err := s.OpenSheet(keel, "", rack["windlass"], changed, "numbers")
	must(t, err)
	// something that is set goes first, then the panel, with the sheet that nothing is set on any more: in that order nothing is torn
	must(t, s.SetTick(sheet.ID, "glide", "glide", true))
	undo, _, err := s.Pending("")
	must(t, err)
	if _, err := s.Undo(undo.ID-1, ""); !errors.Is(err, ErrNotLast) {
		t.Errorf("a step that is not the last: %v", err)
	}
	for _, want := range []string{"tick glide", "import panel Halyard"} {
		if what, err := s.Undo(0, ""); err != nil || what != want {
			t.Fatalf("undo gave %q (%v), want %q", what, err, want)
		}
	}
	if _, err := s.Sheet(sheet.ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("the sheet of a panel that is gone: %v", err)
	}
}

func TestSampleIsOneStep(t *testing.T) {
	full, rack, keel := filled(t)
	s := open(t)
	panels := []*panel.Panel{rack["kedge"].Panel, rack["windlass"].Panel}
	must(t, s.PutAll("load", panels, []*patch.Patch{keel}))
	must(t, s.PutAll("load", panels, []*patch.Patch{keel})) // the same again leaves no trace
	if undo, _, err := s.Pending(""); err != nil || undo.What != "load" {
		t.Fatalf("undo would be %v (%v)", undo, err)
	}
	if _, err := s.Undo(0, ""); err != nil {
		t.Fatal(err)
	}
	if all, err := s.Panels(); err != nil || len(all) != 0 {
		t.Fatalf("%d panels stayed (%v)", len(all), err)
	}
	if _, err := s.Undo(0, ""); !errors.Is(err, ErrNotFound) {
		t.Fatalf("there was a second step: %v", err)
	}
	if _, err := full.Patch("keel"); err != nil {
		t.Fatal(err)
	}
}

func TestPanelRevisions(t *testing.T) {
	s, rack, _ := filled(t)
	c := *rack["kedge"].Panel
	if rev, err := s.PutPanel(&c); err != nil || rev != 1 {
		t.Fatalf("the same panel again gave revision %d (%v), want 1", rev, err)
	}
	c.Summary = "changed"
	if rev, err := s.PutPanel(&c); err != nil || rev != 2 {
		t.Fatalf("a changed panel gave revision %d (%v), want 2", rev, err)
	}
	if old, err := s.Panel("kedge", 1); err != nil || old.Revision != 1 {
		t.Fatalf("revision 1 is gone: %v", err)
	}
	if all, err := s.Panels(); err != nil || len(all) != len(rack) {
		t.Fatalf("%d panels listed (%v), want %d", len(all), err, len(rack))
	}
}

func TestNewerSchemaIsRefused(t *testing.T) {
	file := filepath.Join(t.TempDir(), "a.db")
	s, err := Open(file)
	must(t, err)
	must(t, s.db.Exec(`INSERT INTO schema_migrations (version, applied_at) VALUES (99, 'now')`).Error)
	must(t, s.Close())
	if _, err := Open(file); err == nil {
		t.Fatal("a database of a newer schema was opened")
	}
}

func TestDeletedPatchLeavesItsSheet(t *testing.T) {
	s, rack, keel := filled(t)
	sheet, err := s.OpenSheet(keel, "", rack["windlass"], rack["kedge"], "numbers")
	must(t, err)
	must(t, s.DeletePatch("keel"))
	if _, err := s.Patch("keel"); !errors.Is(err, ErrNotFound) {
		t.Fatalf("the patch is still there: %v", err)
	}
	if x, err := s.Sheet(sheet.ID); err != nil || len(x.Document) == 0 {
		t.Fatalf("the sheet went with the patch: %v", err)
	}
}

// Blind tests are kept with their sheet and go with it; a second layer's sheet is found again and is not taken for the
// first; what a search by ear has found is one step of undo.
func TestSoundRecords(t *testing.T) {
	s, rack, p := filled(t)
	src, dst := rack["windlass"], rack["halyard"]
	first, err := s.OpenSheet(p, "", src, dst, plan.Ear)
	if err != nil {
		t.Fatal(err)
	}
	for i := range 3 {
		if err := s.AddTrial(first.ID, 8+i, 16, "source and target"); err != nil {
			t.Fatal(err)
		}
	}
	list, err := s.Trials(first.ID)
	if err != nil || len(list) != 3 || list[0].Right != 10 || list[2].Right != 8 {
		t.Errorf("%v %+v", err, list)
	}
	if err := s.AddTrial(first.ID+99, 1, 2, ""); err == nil {
		t.Error("a blind test of no sheet was kept")
	}
	if _, err := s.Second(first.ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("a second layer before there is one: %v", err)
	}
	second, err := s.OpenSecond(first, plan.Choices{Elsewhere: []string{"osc1"}})
	if err != nil || second.ID == first.ID || second.First != first.ID {
		t.Fatalf("%v %+v", err, second)
	}
	if again, err := s.OpenSecond(first, plan.Choices{}); err != nil || again.ID != second.ID {
		t.Errorf("again %v %+v", err, again)
	}
	if same, err := s.OpenSheet(p, "", src, dst, plan.Ear); err != nil || same.ID != first.ID {
		t.Errorf("the first sheet again is %d, %v", same.ID, err)
	}
	choices, err := second.ChoicesOf()
	if err != nil || len(choices.Elsewhere) != 1 {
		t.Errorf("%v %+v", err, choices)
	}
	over := map[string]string{"filter.cutoff": "70", "volume": "99"}
	if _, err := s.Adopt(first, "set 2 controls by ear", over, plan.Choices{Why: map[string]string{"volume": "99: nearer"}}); err != nil {
		t.Fatal(err)
	}
	row, err := s.Sheet(first.ID)
	if err != nil {
		t.Fatal(err)
	}
	if got, _ := row.OverrideMap(); len(got) != 2 || got["volume"] != "99" {
		t.Errorf("%v", got)
	}
	if _, err := s.Undo(0, ""); err != nil {
		t.Fatal(err)
	}
	row, _ = s.Sheet(first.ID)
	if got, _ := row.OverrideMap(); len(got) != 0 {
		t.Errorf("after undo %v", got)
	}
	if _, err := s.Adopt(&Sheet{ID: 999}, "nothing", over, plan.Choices{}); !errors.Is(err, ErrNotFound) {
		t.Errorf("a sheet that is not there: %v", err)
	}
	if err := s.DeleteSheet(first.ID); err != nil {
		t.Fatal(err)
	}
	if list, _ := s.Trials(first.ID); len(list) != 0 {
		t.Errorf("of a deleted sheet %+v", list)
	}
	if _, err := s.Undo(0, ""); err != nil {
		t.Fatal(err)
	}
	if list, _ := s.Trials(first.ID); len(list) != 3 || list[0].Right != 10 {
		t.Errorf("brought back with %+v", list)
	}
}
