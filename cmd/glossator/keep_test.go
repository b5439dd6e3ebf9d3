package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"glossator/core/patch"
	"glossator/core/show"
	"glossator/store"
	"glossator/testutil/testrack"
)

// The bank on the command line: shards in any order, killed in the midst of it, end with the files of one run; a mistake in the call is told.
func TestBankOfAFolder(t *testing.T) {
	dir := t.TempDir()
	patches := filepath.Join(dir, "patches")
	rack := testrack.Panels(t)
	for i := range 12 {
		p := testrack.Generate(rack[testrack.IDs(rack)[i%9]], uint64(i+1), 0.4)
		if len(p.Layers) == 0 {
			t.Fatal("no layer")
		}
		p.ID = fmt.Sprintf("p%d", i)
		writePatch(t, filepath.Join(patches, p.ID+".json"), p)
	}
	bank := func(out string, more ...string) []string {
		return append([]string{"bank", "--patches", patches, "--to", "halyard,kedge", "--school", "numbers", "--out", filepath.Join(dir, out)}, more...)
	}
	if out, errs, status := run(t, bank("one")...); status != 0 || !strings.Contains(out, "12 patches are through") {
		t.Fatalf("%d %s %s", status, out, errs)
	}
	for _, shard := range []string{"3/3", "1/3", "2/3"} {
		if _, errs, status := run(t, bank("three", "--shard", shard)...); status != 0 {
			t.Fatalf("%s: %d %s", shard, status, errs)
		}
	}
	for range 4 { // killed again and again
		c := exec.Command(program, bank("killed", "--cores", "1")...)
		if err := c.Start(); err != nil {
			t.Fatal(err)
		}
		time.Sleep(700 * time.Millisecond)
		_ = c.Process.Kill()
		_ = c.Wait()
	}
	if _, errs, status := run(t, bank("killed")...); status != 0 {
		t.Fatalf("%d %s", status, errs)
	}
	for _, other := range []string{"three", "killed"} {
		if out, err := exec.Command("diff", "-r", "-x", ".making-*", filepath.Join(dir, "one"), filepath.Join(dir, other)).CombinedOutput(); err != nil {
			t.Errorf("%s: %.500s", other, out)
		}
	}
	for _, c := range []struct {
		args []string
		says string
	}{
		{[]string{"bank"}, "needs --patches"}, {bank("x", "--shard", "4/3"), "--shard"}, {bank("x", "--shard", "a"), "--shard"}, {bank("x", "--cores", "0"), "--cores"}, {bank("x", "--school", "none"), "--school"},
	} {
		if _, errs, status := run(t, c.args...); status != 2 || !strings.Contains(errs, c.says) {
			t.Errorf("%v: %d %s", c.args, status, errs)
		}
	}
	if err := os.WriteFile(filepath.Join(patches, "broken.json"), []byte("{"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, errs, status := run(t, bank("one")...); status != 1 || !strings.Contains(errs, "1 of 13") {
		t.Errorf("%d %s", status, errs)
	}
}

func writePatch(t *testing.T, path string, p *patch.Patch) {
	t.Helper()
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := writeJSON(&b, p); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
}

// Backup while the program serves the database, restore when it does not, a job out of one database and into another; nothing is written over without a word.
func TestBackupRestoreArchive(t *testing.T) {
	dir := t.TempDir()
	db, saved, zip := filepath.Join(dir, "mine.db"), filepath.Join(dir, "saved.db"), filepath.Join(dir, "job.zip")
	st, err := store.Open(db)
	if err != nil {
		t.Fatal(err)
	}
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	for _, id := range testrack.IDs(rack) {
		if _, err := st.PutPanel(rack[id].Panel); err != nil {
			t.Fatal(err)
		}
	}
	if err := st.PutPatch(patches["keel"]); err != nil {
		t.Fatal(err)
	}
	if out, errs, status := run(t, "backup", "--db", db, "--out", saved); status != 0 { // it is open here
		t.Fatalf("%d %s %s", status, out, errs)
	}
	if _, errs, status := run(t, "restore", "--db", db, "--from", saved); status != 1 || !strings.Contains(errs, "open in another process") {
		t.Errorf("restored under a running program: %d %s", status, errs)
	}
	if err := st.DeletePatch("keel"); err != nil {
		t.Fatal(err)
	}
	if err := st.Close(); err != nil {
		t.Fatal(err)
	}
	if _, errs, status := run(t, "archive", "--db", db, "--patches", "keel", "--out", zip); status != 1 || !strings.Contains(errs, "not all of") {
		t.Errorf("%d %s", status, errs)
	}
	if out, errs, status := run(t, "restore", "--db", db, "--from", saved); status != 0 || !strings.Contains(out, "before-") {
		t.Fatalf("%d %s %s", status, out, errs)
	}
	if _, errs, status := run(t, "archive", "--db", db, "--patches", "keel", "--out", zip); status != 0 {
		t.Fatalf("%d %s", status, errs)
	}
	if _, errs, status := run(t, "archive", "--db", db, "--out", zip); status != 2 || !strings.Contains(errs, "--force") {
		t.Errorf("%d %s", status, errs)
	}
	other := filepath.Join(dir, "other.db")
	if out, errs, status := run(t, "import", zip, "--db", other); status != 0 || !strings.Contains(out, "1 patches") {
		t.Fatalf("%d %s %s", status, out, errs)
	}
	if out, _, status := run(t, "import", zip, "--db", other); status != 0 || !strings.Contains(out, "new: 0 panels, 0 patches, 0 sheets") {
		t.Errorf("%d %s", status, out)
	}
	for _, c := range [][]string{{"import", db, "--db", other}, {"restore", "--db", other, "--from", zip}, {"backup", "--db", filepath.Join(dir, "none.db"), "--out", filepath.Join(dir, "x")}, {"backup", "--db", db, "--out", saved}, {"archive", "--db", filepath.Join(dir, "none.db"), "--out", filepath.Join(dir, "y")}} {
		if _, errs, status := run(t, c...); status != 1 || len(errs) < 10 {
			t.Errorf("%v: %d %s", c, status, errs)
		}
	}
	for _, c := range []string{"backup", "restore", "archive"} {
		if _, errs, status := run(t, c); status != 2 || !strings.Contains(errs, "needs --") {
			t.Errorf("%s: %d %s", c, status, errs)
		}
	}
}

// A sheet goes into a file of each form, a render into FLAC, an instrument of samples into a folder; what has no such form is refused.
func TestFormsOnTheCommandLine(t *testing.T) {
	dir := t.TempDir()
	keel := filepath.Join(dir, "keel.json")
	writePatch(t, keel, testrack.Patches(t)["keel"])
	for form, begins := range map[string]string{"pdf": "%PDF-1", "xlsx": "PK\x03\x04", "csv": "Part,", "md": "# Keel"} {
		file := filepath.Join(dir, "sheet."+form)
		args := []string{"translate", "--patch", keel, "--to", "kedge", "--school", "numbers", "--out", file}
		if _, errs, status := run(t, args...); status != 0 {
			t.Fatalf("%s: %d %s", form, status, errs)
		}
		if data, err := os.ReadFile(file); err != nil || !strings.HasPrefix(string(data), begins) {
			t.Errorf("%s: %.20q %v", form, data, err)
		}
		if _, errs, status := run(t, args...); status != 2 || !strings.Contains(errs, "--force") {
			t.Errorf("%s: %d %s", form, status, errs)
		}
	}
	if _, errs, status := run(t, "translate", "--patch", keel, "--to", "kedge", "--out", filepath.Join(dir, "x.doc")); status != 2 || !strings.Contains(errs, ".pdf") {
		t.Errorf("%d %s", status, errs)
	}
	if _, errs, status := run(t, "render", "--patch", keel, "--out", filepath.Join(dir, "keel.flac")); status != 0 {
		t.Fatalf("%d %s", status, errs)
	}
	if out, err := exec.Command("soxi", filepath.Join(dir, "keel.flac")).CombinedOutput(); err != nil || !strings.Contains(string(out), "FLAC") {
		t.Errorf("%v %s", err, out)
	}
	if _, errs, status := run(t, "render", "--patch", keel, "--bits", "32", "--out", filepath.Join(dir, "float.flac")); status != 2 || !strings.Contains(errs, "16 or 24") {
		t.Errorf("%d %s", status, errs)
	}
	if _, errs, status := run(t, "render", "--patch", keel, "--out", filepath.Join(dir, "keel.ogg")); status != 2 || !strings.Contains(errs, ".flac") {
		t.Errorf("%d %s", status, errs)
	}
	if out, errs, status := run(t, "render", "--patch", keel, "--out", filepath.Join(dir, "keel.sfz")); status != 0 || !strings.Contains(out, "samples") {
		t.Fatalf("%d %s %s", status, out, errs)
	}
	if all, err := filepath.Glob(filepath.Join(dir, "keel samples", "*.wav")); err != nil || len(all) < 8 {
		t.Errorf("%d samples, %v", len(all), err)
	}
}

// Killed in the midst of it at any time, a restore leaves the one database or the other, whole, and an import all of the archive or nothing of it: as another program (SQLite's own tool) reads them.
func TestKilledWhileRestoring(t *testing.T) {
	dir := t.TempDir()
	a, b, zip := filepath.Join(dir, "a.db"), filepath.Join(dir, "b.db"), filepath.Join(dir, "job.zip")
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	fill := func(file string, ids ...string) {
		st, err := store.Open(file)
		if err != nil {
			t.Fatal(err)
		}
		for _, id := range testrack.IDs(rack) {
			if _, err := st.PutPanel(rack[id].Panel); err != nil {
				t.Fatal(err)
			}
		}
		for i := range 60 {
			p := *patches[ids[i%len(ids)]]
			p.ID = fmt.Sprintf("%s-%d", p.ID, i)
			if err := st.PutPatch(&p); err != nil {
				t.Fatal(err)
			}
		}
		if err := st.Close(); err != nil {
			t.Fatal(err)
		}
	}
	fill(a, "keel", "gulls")
	fill(b, "undertow")
	if _, errs, status := run(t, "archive", "--db", b, "--out", zip); status != 0 {
		t.Fatal(errs)
	}
	read := func(file string) string {
		out, err := exec.Command("sqlite3", file, "PRAGMA integrity_check; SELECT id, name, document FROM patches ORDER BY id; SELECT id, revision, document FROM panels ORDER BY id, revision").CombinedOutput()
		if err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		return string(out)
	}
	both := filepath.Join(dir, "both.db")
	copyFile(t, a, both)
	if _, errs, status := run(t, "import", zip, "--db", both); status != 0 {
		t.Fatal(errs)
	}
	isA, isB, isBoth := read(a), read(b), read(both)
	if isA == isB || isA == isBoth || !strings.HasPrefix(isA, "ok") {
		t.Fatal("the databases are alike")
	}
	became := map[string]int{}
	for _, c := range []struct {
		args []string
		to   string
	}{{[]string{"restore", "--from", b}, isB}, {[]string{"import", zip}, isBoth}} {
		for i := range 14 {
			file := filepath.Join(dir, fmt.Sprintf("%s-%d.db", c.args[0], i))
			copyFile(t, a, file)
			cmd := exec.Command(program, append(c.args, "--db", file)...)
			if err := cmd.Start(); err != nil {
				t.Fatal(err)
			}
			time.Sleep(time.Duration(i*i*6) * time.Millisecond)
			_ = cmd.Process.Kill()
			_ = cmd.Wait()
			switch got := read(file); got {
			case isA:
				became[c.args[0]+" not"]++
			case c.to:
				became[c.args[0]+" done"]++
			default:
				t.Errorf("%s, killed after %d ms: neither the one nor the other", c.args[0], i*i*6)
			}
		}
	}
	if len(became) < 3 {
		t.Errorf("%v: it was killed too early, or too late", became)
	}
}

func copyFile(t *testing.T, from, to string) {
	t.Helper()
	data, err := os.ReadFile(from)
	if err == nil {
		err = os.WriteFile(to, data, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
}

// The show of the demo: the town hall and the big stage can play it, in the harbour room one gap cannot be met, which is said with what would let it be; no two changeovers take the same hands at once; what is wrong with a file is told at its place.
func TestShowsOfTheDemo(t *testing.T) {
	file := filepath.Join("..", "..", "demo", "shows", "lamp.json")
	var all []show.Planned
	out, errs, status := run(t, "show", file, "--school", "numbers", "--json")
	if err := json.Unmarshal([]byte(out), &all); err != nil || status != 0 || len(all) != 3 {
		t.Fatalf("%d %v %s", status, err, errs)
	}
	for n, p := range all {
		if len(p.Cues) < 12 || len(p.Conflicts) != map[bool]int{true: 1}[n == 0] {
			t.Errorf("%s: %d cues, %+v", p.House, len(p.Cues), p.Conflicts)
		}
		busy := map[string][]show.PlannedSpan{}
		for _, c := range p.Cues {
			if c.From >= 0 && c.Takes > c.Gap || c.Fault != "" {
				t.Errorf("%s, %s: %v s in a gap of %v s, %s", p.House, c.Name, c.Takes, c.Gap, c.Fault)
			}
			if c.On >= 0 {
				key := fmt.Sprint(c.Evening, c.Player)
				busy[key] = append(append(busy[key], c.Work...), show.PlannedSpan{From: c.Start, To: c.End})
			}
		}
		for who, spans := range busy {
			for i, a := range spans {
				for _, b := range spans[:i] {
					if a.From < b.To-1e-9 && b.From < a.To-1e-9 {
						t.Errorf("%s, %s: %v and %v at once", p.House, who, a, b)
					}
				}
			}
		}
	}
	if w := all[0].Conflicts[0]; !strings.Contains(w.Why, "cannot all be played") || len(w.Ways) == 0 || w.Ways[0].Wait <= 0 {
		t.Errorf("%+v", w)
	}
	var lists []show.HireList
	out, _, status = run(t, "show", file, "--school", "numbers", "--house", "The town hall", "--hire", "--json")
	if err := json.Unmarshal([]byte(out), &lists); err != nil || status != 0 || len(lists) != 1 || len(lists[0].Each) != 5 || len(lists[0].Sets) != 20 {
		t.Errorf("%d %v %.200s", status, err, out)
	}
	pdf := filepath.Join(t.TempDir(), "hire.pdf")
	if _, errs, status := run(t, "show", file, "--school", "numbers", "--house", "The town hall", "--hire", "--form", "pdf", "--out", pdf); status != 0 {
		t.Error(errs)
	}
	text, err := exec.Command("pdftotext", "-layout", pdf, "-").Output()
	if err != nil || !strings.Contains(string(text), "Three together") || !strings.Contains(string(text), "one keyboard only") {
		t.Errorf("%v %.300s", err, text)
	}
	for _, bad := range []struct {
		doc, says string
		args      []string
	}{
		{`{"format": "glossator-show", "version": 1, "name": "x", "cues": [], "houses": [{"name": "a", "instruments": [{"panel": "kedge", "price": -1}]}]}`, "/houses/0/instruments/0/price", nil},
		{`{"format": "glossator-show", "version": 1, "name": "x", "cues": [{"name": 1}], "houses": []}`, "/cues/0", nil},
		{`{"format": "glossator-show", "version": 9, "name": "x", "cues": [], "houses": []}`, "version", nil},
		{`{"format": "glossator-show", "version": 1, "name": "x", "cues": [], "houses": [{"name": "a", "instruments": []}]}`, "--house", []string{"--house", "b"}},
	} {
		broken := filepath.Join(t.TempDir(), "x.json")
		if err := os.WriteFile(broken, []byte(bad.doc), 0o600); err != nil {
			t.Fatal(err)
		}
		if _, errs, status := run(t, append([]string{"show", broken}, bad.args...)...); status == 0 || !strings.Contains(errs, bad.says) {
			t.Errorf("%s: %d %q", bad.says, status, errs)
		}
	}
}
