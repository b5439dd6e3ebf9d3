package store

import (
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"glossator/core/build"
	"glossator/core/panel"
)

func TestDraftsAndTheirUndo(t *testing.T) {
	s, rack, _ := filled(t)
	p := *rack["kedge"].Panel
	state := func() string {
		d, err := s.Draft("kedge")
		row, perr := s.Panel("kedge", 0)
		must(t, perr)
		if errors.Is(err, ErrNotFound) {
			return fmt.Sprintf("none on %d", row.Revision)
		}
		must(t, err)
		return fmt.Sprintf("%s from %d on %d", d.Name, d.Base, row.Revision)
	}
	expect := func(what, want string) {
		t.Helper()
		if got := state(); got != want {
			t.Fatalf("%s: %s, want %s", what, got, want)
		}
	}
	expect("at first", "none on 1")
	p.Name = "Kedge A"
	must(t, put(s, "one", 1, &p))
	must(t, put(s, "the same again leaves no step", 1, &p))
	p.Name = "Kedge B"
	must(t, put(s, "two", 1, &p))
	expect("edited twice", "Kedge B from 1 on 1")
	if all, err := s.Drafts(); err != nil || len(all) != 1 || all[0].ID != "kedge" {
		t.Fatalf("drafts %v, %v", all, err)
	}
	back := func(what, want string) {
		t.Helper()
		got, err := s.Undo(0, "")
		must(t, err)
		expect("undo of "+got, want)
		if !strings.Contains(got, what) {
			t.Fatalf("undid %q, want %q", got, what)
		}
	}
	back("two", "Kedge A from 1 on 1")
	if _, err := s.Redo(0, ""); err != nil {
		t.Fatal(err)
	}
	expect("redo", "Kedge B from 1 on 1")
	n, err := s.SaveDraft(&p)
	must(t, err)
	if n != 2 {
		t.Fatalf("saved as revision %d", n)
	}
	expect("saved", "none on 2")
	if old, err := s.Panel("kedge", 1); err != nil || strings.Contains(string(old.Document), "Kedge B") {
		t.Fatalf("revision 1 is not what it was: %v", err)
	}
	if all, err := s.Revisions("kedge"); err != nil || len(all) != 2 || all[0].Revision != 2 || all[0].Name != "Kedge B" {
		t.Fatalf("revisions %v, %v", all, err)
	}
	back("save panel", "Kedge B from 1 on 1")
	must(t, s.DropDraft("kedge"))
	expect("dropped", "none on 1")
	back("leave the draft", "Kedge B from 1 on 1")
	if err := s.DropDraft("nobody"); !errors.Is(err, ErrNotFound) {
		t.Fatalf("a draft that is not there: %v", err)
	}
	// a draft edited back to what the panel is makes no revision
	must(t, put(s, "as it was", 1, rack["kedge"].Panel))
	if n, err := s.SaveDraft(rack["kedge"].Panel); err != nil || n != 1 {
		t.Fatalf("revision %d, %v", n, err)
	}
	expect("saved unchanged", "none on 1")
}

func TestVersionsAndTheirUndo(t *testing.T) {
	s, _, keel := filled(t)
	list := func() string {
		all, err := s.Versions("keel")
		must(t, err)
		out := ""
		for _, v := range all {
			out += fmt.Sprintf("%d %s;", v.Number, v.Note)
		}
		return out
	}
	n, err := s.KeepVersion("keel", "first")
	must(t, err)
	again, err := s.KeepVersion("keel", "nothing has changed")
	must(t, err)
	if n != 1 || again != 1 || list() != "1 first;" {
		t.Fatalf("kept %d, %d: %s", n, again, list())
	}
	changed := *keel
	changed.Notes = "other words"
	must(t, s.PutPatch(&changed))
	if n, err := s.KeepVersion("keel", "second"); err != nil || n != 2 || list() != "2 second;1 first;" {
		t.Fatalf("kept %d, %v: %s", n, err, list())
	}
	p, err := s.RestoreVersion("keel", keel, 1)
	if err != nil || p.Notes != keel.Notes {
		t.Fatalf("restored %v, %v", p, err)
	}
	for _, want := range []string{"2 second;1 first;", "1 first;", "1 first;", ""} {
		_, err := s.Undo(0, "")
		must(t, err)
		if list() != want {
			t.Fatalf("after undo %q, want %q", list(), want)
		}
	}
	if _, err := s.KeepVersion("nobody", ""); !errors.Is(err, ErrNotFound) {
		t.Fatalf("a version of nothing: %v", err)
	}
}

// A database of schema 1 is brought up to date with all that is in it, its undo steps too.
func TestSchema1ComesAlong(t *testing.T) {
	file := filepath.Join(t.TempDir(), "old.db")
	all := migrations
	migrations = all[:1]
	old, err := Open(file)
	migrations = all
	must(t, err)
	s, err := Open(filepath.Join(t.TempDir(), "new.db"))
	must(t, err)
	p, err := build.Begin("blank", "one", "One", "")
	must(t, err)
	_, err = s.PutPanel(p)
	must(t, err)
	p.Name = "Two"
	_, err = s.PutPanel(p)
	must(t, err)
	var panels []Panel
	must(t, s.db.Find(&panels).Error)
	must(t, old.db.Create(&panels).Error)
	var steps []Change
	must(t, s.db.Find(&steps).Error)
	for _, c := range steps { // schema 1 kept its steps as plain JSON
		rows, err := unpack(c.Rows)
		must(t, err)
		plain := "["
		for i, r := range rows {
			if i > 0 {
				plain += ","
			}
			side := func(name string, v []byte) string {
				if len(v) == 0 {
					return ""
				}
				return fmt.Sprintf(`,%q:%s`, name, v)
			}
			plain += fmt.Sprintf(`{"table":%q%s%s}`, r.Table, side("before", r.Before), side("after", r.After))
		}
		must(t, old.db.Exec("INSERT INTO changes (id, at, what, rows, undone) VALUES (?, ?, ?, ?, ?)", c.ID, c.At, c.What, []byte(plain+"]"), c.Undone).Error)
	}
	must(t, s.Close())
	must(t, old.Close())
	s, err = Open(file)
	must(t, err)
	defer func() { _ = s.Close() }()
	if row, err := s.Panel("one", 0); err != nil || row.Name != "Two" {
		t.Fatalf("the panel is %v, %v", row, err)
	}
	must(t, put(s, "a new table works", 2, p))
	for range 2 {
		if _, err := s.Undo(0, ""); err != nil {
			t.Fatal(err)
		}
	}
	if row, err := s.Panel("one", 0); err != nil || row.Name != "One" {
		t.Fatalf("after undo of an old step the panel is %v, %v", row, err)
	}
}

// put keeps a panel as the draft, on from what is the draft now.
func put(s *Store, what string, base int, p *panel.Panel) error {
	var read []byte
	if d, err := s.Draft(p.ID); err == nil {
		read = d.Document
	}
	_, err := s.PutDraft(what, base, p, read)
	return err
}
