package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"glossator/core/patch"
	"glossator/core/plan"
)

// Two who change different things both have them; two who change the same have one of it, and the other is told both.
func TestMerged(t *testing.T) {
	for _, x := range []struct{ name, base, here, there, want, clash string }{
		{"fields", `{"a":1,"b":2}`, `{"a":3,"b":2}`, `{"a":1,"b":4}`, `{"a":3,"b":4}`, ""},
		{"the same on both sides", `{"a":1}`, `{"a":2}`, `{"a":2}`, `{"a":2}`, ""},
		{"the same field", `{"a":1}`, `{"a":2}`, `{"a":3}`, "", "/a was 1, 2 here, 3 there"},
		{"a field comes and one goes", `{"a":1,"b":2}`, `{"b":2}`, `{"a":1,"b":2,"c":3}`, `{"b":2,"c":3}`, ""},
		{"one goes that the other changes", `{"a":1}`, `{}`, `{"a":2}`, "", "/a was 1, nothing here, 2 there"},
		{"deep", `{"x":{"a":1,"b":1}}`, `{"x":{"a":2,"b":1}}`, `{"x":{"a":1,"b":3}}`, `{"x":{"a":2,"b":3}}`, ""},
		{"lists by ids", `{"l":[{"id":"p","v":1},{"id":"q","v":1}]}`, `{"l":[{"id":"p","v":2},{"id":"q","v":1}]}`, `{"l":[{"id":"n","v":0},{"id":"p","v":1},{"id":"q","v":5}]}`,
			`{"l":[{"id":"n","v":0},{"id":"p","v":2},{"id":"q","v":5}]}`, ""},
		{"new on both sides", `{"l":[{"id":"p"}]}`, `{"l":[{"id":"p"},{"id":"h"}]}`, `{"l":[{"id":"p"},{"id":"t"}]}`, `{"l":[{"id":"p"},{"id":"h"},{"id":"t"}]}`, ""},
		{"gone here, untouched there", `{"l":[{"id":"p"},{"id":"q"}]}`, `{"l":[{"id":"q"}]}`, `{"l":[{"id":"p"},{"id":"q","v":1}]}`, `{"l":[{"id":"q","v":1}]}`, ""},
		{"gone here, changed there", `{"l":[{"id":"p"},{"id":"q"}]}`, `{"l":[{"id":"q"}]}`, `{"l":[{"id":"p","v":1},{"id":"q"}]}`, "", "/l/p"},
		{"lists without ids", `{"t":["a"]}`, `{"t":["a","b"]}`, `{"t":["a","c"]}`, "", "/t"},
		{"a list here alone", `{"t":["a"],"n":""}`, `{"t":["a","b"],"n":""}`, `{"t":["a"],"n":"x"}`, `{"n":"x","t":["a","b"]}`, ""},
	} {
		got, err := Merged([]byte(x.base), []byte(x.here), []byte(x.there))
		if x.clash != "" {
			stale, ok := IsStale(err)
			if !ok || len(stale.Clashes) != 1 {
				t.Errorf("%s: %s, %v", x.name, got, err)
				continue
			}
			c := stale.Clashes[0]
			if text := fmt.Sprintf("%s was %s, %s here, %s there", c.Field, c.Was, c.Here, c.There); !strings.HasPrefix(text, x.clash) {
				t.Errorf("%s: %s", x.name, text)
			}
			continue
		}
		var a, b any
		if err != nil || json.Unmarshal(got, &a) != nil || json.Unmarshal([]byte(x.want), &b) != nil || text(a) != text(b) {
			t.Errorf("%s: %s (%v), want %s", x.name, got, err, x.want)
		}
	}
}

// Changes that are made for an older version are put together with what has been changed since; what clashes is refused, and then nothing is stored.
func TestChangesForAnOlderVersion(t *testing.T) {
	s, rack, keel := filled(t)
	row, err := s.Patch(keel.ID)
	must(t, err)
	mine := s.On(Based(context.Background(), row.Tag()))
	_, err = s.ChangePatch(keel.ID, "tempo", func(p *patch.Patch) error { p.Tempo = 131; return nil }, nil)
	must(t, err)
	p, err := mine.ChangePatch(keel.ID, "notes", func(p *patch.Patch) error { p.Notes = "mine"; return nil }, nil)
	if err != nil || p.Tempo != 131 || p.Notes != "mine" {
		t.Fatalf("%v %+v", err, p)
	}
	_, err = mine.ChangePatch(keel.ID, "tempo too", func(p *patch.Patch) error { p.Tempo = 99; return nil }, nil)
	if stale, ok := IsStale(err); !ok || len(stale.Clashes) != 1 || stale.Clashes[0].There != "131" || stale.Clashes[0].Here != "99" {
		t.Errorf("two tempos: %v", err)
	}
	if err := mine.DeletePatch(keel.ID); !errors.As(err, new(ErrStale)) {
		t.Errorf("deleted though it had been changed: %v", err)
	}
	// a version that nobody knows any more
	if _, err := s.On(Based(context.Background(), "0123")).ChangePatch(keel.ID, "x", func(p *patch.Patch) error { p.Notes = "x"; return nil }, nil); !errors.As(err, new(ErrStale)) {
		t.Errorf("an unknown version: %v", err)
	}
	// sheets: two part choices, two readings, the same reading
	sheet, err := s.OpenSheet(keel, "", rack["windlass"], rack["halyard"], plan.Numbers)
	must(t, err)
	_, err = s.Choose(sheet, "keep", plan.Choices{Weight: map[string]float64{"filter": plan.Keep}})
	must(t, err)
	got, err := s.Choose(sheet, "not needed", plan.Choices{Weight: map[string]float64{"lfo": plan.NotNeeded}})
	must(t, err)
	if c, _ := got.ChoicesOf(); len(c.Weight) != 2 {
		t.Errorf("one of two choices is lost: %+v", c)
	}
	_, err = s.Override(sheet, "filter.cutoff", "Cutoff", "40")
	must(t, err)
	got, err = s.Override(sheet, "volume", "Volume", "80")
	must(t, err)
	if o, _ := got.OverrideMap(); o["filter.cutoff"] != "40" || o["volume"] != "80" {
		t.Errorf("one of two readings is lost: %v", o)
	}
	if _, err := s.Override(sheet, "volume", "Volume", "70"); !errors.As(err, new(ErrStale)) {
		t.Errorf("the same reading set twice from one version: %v", err)
	}
}

// Twenty writers at once: none is refused, and nothing that was acknowledged is lost.
func TestManyWriters(t *testing.T) {
	s, _, keel := filled(t)
	var all sync.WaitGroup
	const writers, each = 20, 15
	for w := range writers {
		all.Go(func() {
			for k := range each {
				if _, err := s.ChangePatch(keel.ID, "tag", func(p *patch.Patch) error {
					p.Tags = append(p.Tags, fmt.Sprintf("w%d-%d", w, k))
					return nil
				}, nil); err != nil {
					t.Error(err)
				}
			}
		})
	}
	all.Wait()
	row, err := s.Patch(keel.ID)
	must(t, err)
	var p patch.Patch
	must(t, json.Unmarshal(row.Document, &p))
	if n := len(p.Tags); n < writers*each {
		t.Errorf("%d of %d changes are there", n, writers*each)
	}
}

// A file that is not this program's, is damaged, is held by another or is in a place that cannot be written is refused with what it is, and is left as it was.
func TestWhatDoesNotOpen(t *testing.T) {
	dir := t.TempDir()
	file := func(name string) string { return filepath.Join(dir, name) }
	must(t, os.WriteFile(file("text"), []byte("these are notes, and no database at all"), 0o600))
	other, err := connect(file("other"), 1, nil)
	must(t, err)
	must(t, other.Exec("CREATE TABLE things (id INTEGER)").Error)
	marked, err := connect(file("marked"), 1, nil)
	must(t, err)
	must(t, marked.Exec("PRAGMA application_id = 12345").Error)
	must(t, marked.Exec("CREATE TABLE schema_migrations (version INTEGER)").Error)
	s, err := Open(file("held"))
	must(t, err)
	defer func() { _ = s.Close() }()
	must(t, os.Mkdir(file("folder"), 0o700))
	broken, err := Open(file("broken"))
	must(t, err)
	for i := range 300 {
		must(t, broken.w.Exec("INSERT INTO patches (id, name, kind, panel, document, updated_at) VALUES (?, ?, '', '', ?, ?)", fmt.Sprint(i), strings.Repeat("n", 200), strings.Repeat("d", 300), time.Now()).Error)
	}
	must(t, broken.w.Exec("PRAGMA wal_checkpoint(TRUNCATE)").Error)
	must(t, broken.Close())
	data, err := os.ReadFile(file("broken"))
	must(t, err)
	for i := len(data) / 2; i < len(data)/2+4096*6; i++ {
		data[i] ^= 0xA5
	}
	must(t, os.WriteFile(file("broken"), data, 0o600))
	for name, want := range map[string]string{"text": "no database", "other": "another program", "marked": "another program", "held": "process", "folder": "expected a file", "broken": "damaged", "none/here": "folder that is there"} {
		before, _ := os.ReadFile(file(name))
		s, err := Open(file(name))
		if err == nil {
			_ = s.Close()
		}
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v, want %q", name, err, want)
		}
		if after, _ := os.ReadFile(file(name)); name != "held" && string(after) != string(before) {
			t.Errorf("%s was changed", name)
		}
	}
	if _, err := Open(file("held")); !errors.Is(err, ErrHeld) || !strings.Contains(err.Error(), fmt.Sprint(os.Getpid())) {
		t.Errorf("who holds it is not said: %v", err)
	}
	must(t, s.Close())
	if s, err = Open(file("held")); err != nil { // let go, it opens
		t.Error(err)
	}
}

// Where the file may not grow any more a change is refused as of a full disk, nothing of it stands there, and what was there before does.
func TestAFullDatabase(t *testing.T) {
	s, _, keel := filled(t)
	before, err := s.Patches()
	must(t, err)
	var pages int
	must(t, s.w.Raw("PRAGMA page_count").Scan(&pages).Error)
	must(t, s.w.Exec(fmt.Sprintf("PRAGMA max_page_count = %d", pages+60)).Error)
	kept := 0
	for i := range 200 {
		p := *keel
		p.ID, p.Notes = fmt.Sprint("p", i), strings.Repeat("n", 15000)
		if err = s.PutPatch(&p); err != nil {
			break
		}
		kept++
	}
	if !errors.Is(err, ErrDisk) || !strings.Contains(err.Error(), "the disk is full") || kept == 0 {
		t.Fatalf("full after %d: %v", kept, err)
	}
	list, err := s.Patches()
	must(t, err)
	if len(list) != len(before)+kept {
		t.Errorf("%d patches are there, %d were and %d more were acknowledged", len(list), len(before), kept)
	}
}

// A draft that an older program has written, with its fields in another order, is saved as it is.
func TestAnOldDraftIsSaved(t *testing.T) {
	s, rack, _ := filled(t)
	p := *rack["kedge"].Panel
	p.Name = "Kedge two"
	must(t, put(s, "name it", p.Revision, &p))
	d, err := s.Draft("kedge")
	must(t, err)
	var fields map[string]any
	must(t, json.Unmarshal(d.Document, &fields))
	doc, err := json.MarshalIndent(fields, "", " ")
	must(t, err)
	must(t, s.w.Model(&Draft{}).Where("id = ?", "kedge").Update("document", doc).Error)
	if _, err := s.SaveDraft(&p); err != nil {
		t.Error(err)
	}
}
