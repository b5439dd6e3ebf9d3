package store

import (
	"bytes"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"glossator/testutil/disk"
	"glossator/testutil/testrack"
)

// dump gives all that a database holds, as another program reads it (SQLite's own tool, from Debian). The numbers that are given next are left out.
func dump(t *testing.T, file string) string {
	t.Helper()
	out, err := exec.Command("sqlite3", "-readonly", file, ".dump").Output()
	if err != nil {
		t.Fatalf("%s: %v", file, err)
	}
	return regexp.MustCompile(`(?m)^INSERT INTO (sqlite_sequence|schema_migrations).*\n|^DELETE FROM sqlite_sequence;\n`).ReplaceAllString(string(out), "")
}

// worked puts something into every table.
func worked(t *testing.T) *Store {
	t.Helper()
	s, rack, keel := filled(t)
	sheet, err := s.OpenSheet(keel, "", rack["windlass"], rack["halyard"], "numbers")
	must(t, err)
	_, err = s.Override(sheet, "filter.cutoff", "Cutoff", "40")
	must(t, err)
	must(t, s.SetTick(sheet.ID, "filter.cutoff", "filter.cutoff", true))
	must(t, s.Log("note", Entry{SheetID: sheet.ID, Kind: KindNote, Why: "close; \"quoted\", '); DROP TABLE sheets; --"}))
	must(t, s.PutSlot(Slot{PanelID: "halyard", Program: 3, Name: "Keel", SheetID: sheet.ID}, ""))
	must(t, s.LayMemory(Memory{PanelID: "halyard", Banks: 4, Programs: 32, First: 1}))
	_, err = s.AddPhotograph(Photograph{Kind: KindSheet, Ref: "1", Width: 2, Height: 2}, []byte("a picture \x00\xff"))
	must(t, err)
	_, err = s.KeepTake([]byte("a take"))
	must(t, err)
	return s
}

// A backup holds what the database does, as another program reads both; what is restored is what was, and what stood before is kept. From outside it is the same, while the database is in use.
func TestBackupAndRestore(t *testing.T) {
	s := worked(t)
	was := dump(t, s.file)
	b, err := s.MakeBackup(BackupMade)
	must(t, err)
	path, err := s.BackupFile(b.Name)
	must(t, err)
	if dump(t, path) != was {
		t.Error("the backup holds something else")
	}
	outside := filepath.Join(t.TempDir(), "out.db")
	must(t, BackupTo(s.file, outside))
	if dump(t, outside) != was {
		t.Error("the backup from outside holds something else")
	}
	if BackupTo(s.file, outside) == nil {
		t.Error("a file is written over")
	}
	must(t, s.DeleteSheet(1))
	must(t, s.DeletePatch("keel"))
	must(t, s.Delete([]Item{{KindPatch, "gulls"}, {KindPanel, "thole"}}))
	later := dump(t, s.file)
	data, err := os.ReadFile(path)
	must(t, err)
	before, err := s.Restore(bytes.NewReader(data))
	must(t, err)
	if dump(t, s.file) != was {
		t.Error("what was restored is something else")
	}
	if path, err = s.BackupFile(before.Name); err != nil || dump(t, path) != later {
		t.Errorf("what stood before is not kept: %v", err)
	}
	if n, err := s.SlotOf(1); err != nil || n == nil || n.Name != "Keel" {
		t.Errorf("%+v, %v", n, err)
	}
	must(t, s.SetTick(1, "glide", "glide", true)) // and it goes on
	left, err := filepath.Glob(filepath.Join(filepath.Dir(s.file), ".restoring*"))
	if err != nil || len(left) > 0 {
		t.Errorf("%q is left over", left)
	}
	other, err := Open(filepath.Join(t.TempDir(), "elsewhere.db"))
	must(t, err)
	defer other.Close()
	_, err = other.Restore(bytes.NewReader(data))
	must(t, err)
	if dump(t, other.file) != was {
		t.Error("elsewhere it is something else")
	}
}

// What is no backup is refused with what it is, and nothing changes; one of an older schema is brought up.
func TestWhatIsRestored(t *testing.T) {
	s := worked(t)
	was := dump(t, s.file)
	b, err := s.MakeBackup(BackupMade)
	must(t, err)
	path, err := s.BackupFile(b.Name)
	must(t, err)
	good, err := os.ReadFile(path)
	must(t, err)
	changed := func(statements ...string) []byte {
		file := filepath.Join(t.TempDir(), "x.db")
		must(t, os.WriteFile(file, good, 0o600))
		out, err := exec.Command("sqlite3", file, strings.Join(statements, ";")).CombinedOutput()
		if err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		data, err := os.ReadFile(file)
		must(t, err)
		return data
	}
	foreign := filepath.Join(t.TempDir(), "foreign.db")
	if out, err := exec.Command("sqlite3", foreign, "CREATE TABLE songs (a); PRAGMA application_id = 7").CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	theirs, err := os.ReadFile(foreign)
	must(t, err)
	damaged := bytes.Clone(good)
	for i := 5000; i < 60000 && i < len(damaged); i += 3 {
		damaged[i] ^= 0x5A
	}
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"a text":                      {[]byte("dear diary"), "no database"},
		"nothing":                     {nil, "empty"},
		"another program's":           {theirs, "another program"},
		"a damaged one":               {damaged, "damaged"},
		"half of one":                 {good[:len(good)/2], ""},
		"a newer one":                 {changed("INSERT INTO schema_migrations VALUES (999, '2030-01-01')"), "newer"},
		"one with rows that hang off": {changed("PRAGMA foreign_keys = OFF", "INSERT INTO ticks VALUES (4711, 'x', '2026-01-01')"), "point to what is not there"},
	} {
		if _, err := s.Restore(bytes.NewReader(c.data)); !errors.Is(err, ErrNoBackup) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if dump(t, s.file) != was {
		t.Error("something has changed")
	}
	old := changed("DROP TABLE slots", "DROP TABLE memories", "DROP TABLE photographs", "DROP TABLE images", "DROP TABLE run_ticks", "DROP TABLE runs", "DROP TABLE shows", "DROP TABLE hearings", "DROP TABLE ear_results", "DROP TABLE ear_sittings",
		"DELETE FROM schema_migrations WHERE version >= 11")
	_, err = s.Restore(bytes.NewReader(old))
	must(t, err)
	if list, err := s.Slots(""); err != nil || len(list) != 0 {
		t.Errorf("%v, %v", list, err)
	}
	if ticks, err := s.Ticks(1); err != nil || len(ticks) != 1 {
		t.Errorf("%v, %v", ticks, err)
	}
}

// Backups that are made while others write hold whole steps: as many ticks as steps that made them. Also from outside.
func TestBackupsWhileOthersWrite(t *testing.T) {
	s, rack, keel := filled(t)
	sheet, err := s.OpenSheet(keel, "", rack["windlass"], rack["halyard"], "numbers")
	must(t, err)
	stop := make(chan struct{})
	var writers sync.WaitGroup
	for w := range 2 {
		writers.Go(func() {
			for i := 0; ; i++ {
				select {
				case <-stop:
					return
				default:
				}
				if err := s.SetTick(sheet.ID, fmt.Sprint(w, "-", i), "x", true); err != nil {
					t.Error(err)
					return
				}
			}
		})
	}
	dir := t.TempDir()
	last := 0
	for i := range 6 {
		file := filepath.Join(dir, fmt.Sprint(i, ".db"))
		if i%2 == 0 {
			must(t, BackupTo(s.file, file))
		} else {
			b, err := s.MakeBackup(BackupMade)
			must(t, err)
			file, err = s.BackupFile(b.Name)
			must(t, err)
		}
		db, err := sql.Open("sqlite", file)
		must(t, err)
		var ticks, steps int
		var whole string
		must(t, db.QueryRow("SELECT (SELECT COUNT(*) FROM ticks), (SELECT COUNT(*) FROM changes WHERE what LIKE 'tick%')").Scan(&ticks, &steps))
		must(t, db.QueryRow("PRAGMA integrity_check").Scan(&whole))
		db.Close()
		if whole != "ok" || ticks < last || ticks <= KeptChanges-50 && ticks != steps {
			t.Errorf("%d ticks, %d steps, %d ticks before, %s", ticks, steps, last, whole)
		}
		last = ticks
	}
	close(stop)
	writers.Wait()
	if last == 0 {
		t.Error("nothing was written meanwhile")
	}
}

// One backup a day where something has changed, the oldest of them go beyond the bound, those that somebody made stay.
func TestDailyBackups(t *testing.T) {
	s, rack, keel := filled(t)
	now := time.Now().UTC().Add(time.Minute).Truncate(time.Second)
	s.now = func() time.Time { return now }
	sheet, err := s.OpenSheet(keel, "", rack["windlass"], rack["halyard"], "numbers")
	must(t, err)
	made := func() bool {
		ok, err := s.BackupDaily()
		must(t, err)
		return ok
	}
	if !made() || made() {
		t.Error("the first day")
	}
	now = now.Add(25 * time.Hour)
	if made() {
		t.Error("nothing has changed, and a backup was made")
	}
	_, err = s.MakeBackup(BackupMade)
	must(t, err)
	must(t, s.KeepBackups(3))
	for day := range 6 {
		must(t, s.SetTick(sheet.ID, fmt.Sprint(day), "x", true))
		now = now.Add(25 * time.Hour)
		if !made() {
			t.Errorf("day %d has no backup", day)
		}
	}
	list, err := s.Backups()
	must(t, err)
	kinds := map[string]int{}
	for _, b := range list {
		kinds[b.Kind]++
	}
	if kinds[BackupDaily] != 3 || kinds[BackupMade] != 1 || !list[0].At.Equal(now) {
		t.Errorf("%v, the newest of %v", kinds, list[0].At)
	}
	must(t, os.WriteFile(filepath.Join(s.BackupFolder(), "mine.txt"), []byte("x"), 0o600)) // what is not a backup is left alone
	must(t, s.KeepBackups(0))
	if list, err = s.Backups(); err != nil || len(list) != 1 || made() {
		t.Errorf("%v, %v", list, err)
	}
	for _, name := range []string{"mine.txt", "../" + filepath.Base(s.file), "daily-20260301-120000.000.db/../../x", ""} {
		if err := s.DropBackup(name); !errors.Is(err, ErrNotFound) {
			t.Errorf("%q: %v", name, err)
		}
	}
	if s.KeepBackups(-1) == nil || s.KeepBackups(MostBackups+1) == nil {
		t.Error("a bound without sense is taken")
	}
}

// On a full disk no backup is made and nothing restored, with no part of either left behind; what is here stays, and with room again it goes on.
func TestBackupsOnAFullDisk(t *testing.T) {
	dir, small := disk.Small(t, 4<<10)
	if !small {
		t.Log("not on this machine")
		return
	}
	s, err := Open(filepath.Join(dir, "x.db"))
	must(t, err)
	defer s.Close()
	must(t, s.PutPatch(testrack.Patches(t)["keel"]))
	good, err := s.MakeBackup(BackupMade)
	must(t, err)
	path, err := s.BackupFile(good.Name)
	must(t, err)
	data, err := os.ReadFile(path)
	must(t, err)
	must(t, s.PutPatch(testrack.Patches(t)["gulls"]))
	was := dump(t, s.file)
	free := disk.Fill(t, dir)
	if _, err := s.MakeBackup(BackupMade); !errors.Is(err, ErrDisk) {
		t.Errorf("a backup on a full disk: %v", err)
	}
	if _, err := s.Restore(bytes.NewReader(data)); err == nil {
		t.Error("restored on a full disk")
	}
	free()
	if dump(t, s.file) != was {
		t.Error("something has changed")
	}
	for _, pattern := range []string{"*.making", ".restoring*"} {
		for _, in := range []string{dir, s.BackupFolder()} {
			if left, _ := filepath.Glob(filepath.Join(in, pattern)); len(left) > 0 {
				t.Errorf("%q is left over", left)
			}
		}
	}
	if _, err := s.Restore(bytes.NewReader(data)); err != nil {
		t.Error(err)
	}
	if _, err := s.Patch("gulls"); !errors.Is(err, ErrNotFound) {
		t.Errorf("after the restore: %v", err)
	}
}
