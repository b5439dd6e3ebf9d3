package archive_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"glossator/archive"
	"glossator/core/calibrate"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/show"
	"glossator/store"
	"glossator/testutil/testrack"
)

func open(t testing.TB) *store.Store {
	s, err := store.Open(filepath.Join(t.TempDir(), "x.db"))
	must(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func must(t testing.TB, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func picture(t testing.TB, side int) []byte {
	var b bytes.Buffer
	must(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, side, side))))
	return b.Bytes()
}

// worked is a database with something of all that an archive takes along.
func worked(t testing.TB) *store.Store {
	s := open(t)
	rack := testrack.Panels(t)
	var panels []*panel.Panel
	for _, id := range testrack.IDs(rack) {
		panels = append(panels, rack[id].Panel)
	}
	patches := testrack.Patches(t)
	var all []*patch.Patch
	for _, id := range []string{"gulls", "keel", "undertow"} {
		all = append(all, patches[id])
	}
	must(t, s.PutAll("sample", panels, all))
	more := *rack["halyard"].Panel
	more.Name = "Halyard, measured"
	_, err := s.PutPanel(&more)
	must(t, err)
	keel := patches["keel"]
	one, err := s.OpenSheet(keel, "", rack["windlass"], rack["halyard"], "numbers")
	must(t, err)
	_, err = s.Correct(one, store.Entry{SheetID: one.ID, Control: "filter.cutoff", Label: "Cutoff", Planned: "60", Reading: "47", Tags: "darker", Why: "it bit; \"too\" much"})
	must(t, err)
	must(t, s.SetTick(one.ID, "glide", "glide", true))
	must(t, s.AddTrial(one.ID, 7, 8, "a b"))
	must(t, s.Log("sign", store.Entry{SheetID: one.ID, Kind: store.KindSignOff, Who: "M. D."}))
	two, err := s.OpenSheet(patches["gulls"], "", rack["thole"], rack["kedge"], "ear")
	must(t, err)
	_, err = s.KeepVersion("keel", "before the dress rehearsal")
	must(t, err)
	_, err = s.AddPhotograph(store.Photograph{Kind: store.KindPatch, Ref: "keel", Caption: "left half", Width: 4, Height: 4}, picture(t, 4))
	must(t, err)
	_, err = s.AddPhotograph(store.Photograph{Kind: store.KindSheet, Ref: fmt.Sprint(two.ID), Width: 5, Height: 5}, picture(t, 5))
	must(t, err)
	must(t, s.PutSlot(store.Slot{PanelID: "halyard", Program: 4, Name: "Keel", SheetID: one.ID}, ""))
	sound, err := s.KeepTake([]byte("RIFF of a take"))
	must(t, err)
	_, err = s.Sit("kedge", "lfo.rate", "measure", func(y *store.Sitting, takes []calibrate.Recorded) ([]calibrate.Recorded, error) {
		y.Recipe, y.Instrument = "lfo-rate", "stand-in 3"
		return append(takes, calibrate.Recorded{Reading: "9:00", Travel: 0.3, Figure: 1.25, Sound: sound}), nil
	})
	must(t, err)
	return s
}

func written(t testing.TB, s *store.Store, patches ...string) []byte {
	var b bytes.Buffer
	must(t, archive.Write(&b, s, archive.Options{Patches: patches, Program: "test", Text: func(id uint) ([]byte, error) { return fmt.Appendf(nil, "# A sheet\n"), nil },
		Sounds: func(uint) ([]byte, []byte, error) { return []byte("RIFF source"), []byte("RIFF target"), nil }}))
	return b.Bytes()
}

func read(t testing.TB, data []byte) *archive.Archive {
	t.Helper()
	a, err := archive.Open(bytes.NewReader(data), int64(len(data)))
	must(t, err)
	return a
}

// What an archive brings elsewhere is what was here: written there again, it is the same file, byte by byte. Taken twice it adds nothing, and undo takes it away whole.
func TestRoundTrip(t *testing.T) {
	for _, patches := range [][]string{nil, {"keel"}, {"gulls", "keel"}} {
		from := worked(t)
		data := written(t, from, patches...)
		to := open(t)
		got, err := read(t, data).Take(to, "job.zip")
		must(t, err)
		if len(got.Aside)+len(got.Renamed) > 0 || got.Patches == 0 || got.Sheets == 0 {
			t.Errorf("%v: %+v", patches, got)
		}
		if !bytes.Equal(written(t, to, patches...), data) {
			t.Errorf("%v: it is another archive", patches)
		}
		again, err := read(t, data).Take(to, "job.zip")
		must(t, err)
		if again.Panels+again.Patches+again.Sheets > 0 || !bytes.Equal(written(t, to, patches...), data) {
			t.Errorf("%v: a second time %+v", patches, again)
		}
		_, err = to.Undo(0, "")
		must(t, err)
		if list, err := to.Sheets(); err != nil || len(list) > 0 {
			t.Errorf("after undo %d sheets, %v", len(list), err)
		}
	}
}

// Another program (Python's zipfile) reads it, and finds every checksum right.
func TestAnotherReadsIt(t *testing.T) {
	file := filepath.Join(t.TempDir(), "x.zip")
	must(t, os.WriteFile(file, written(t, worked(t)), 0o600))
	out, err := exec.Command("python3", "-c", `
import sys, zipfile, json, hashlib
z = zipfile.ZipFile(sys.argv[1])
assert z.testzip() is None
m = json.loads(z.read("glossator-archive.json"))
for f in m["files"]:
    assert hashlib.sha256(z.read(f["name"])).hexdigest() == f["sha256"], f
for p in m["rows"]["patches"]:
    assert json.loads(z.read(p["file"]))["id"] == p["id"]
print(len(m["files"]), len(z.namelist()))`, file).CombinedOutput()
	var listed, held int
	if _, e := fmt.Sscan(string(out), &listed, &held); err != nil || e != nil || held != listed+1 || listed < 20 {
		t.Errorf("%v: %s", err, out)
	}
}

// What is here under an id is never written over: what comes goes by another id, and what points to it with it.
func TestNothingIsWrittenOver(t *testing.T) {
	data := written(t, worked(t))
	to := open(t)
	rack := testrack.Panels(t)
	other := *rack["halyard"].Panel // another instrument by the same id
	other.Name = "Halyard of another house"
	_, err := to.PutPanel(&other)
	must(t, err)
	_, err = to.PutPanel(rack["windlass"].Panel)
	must(t, err)
	keel := *testrack.Patches(t)["keel"]
	keel.Notes = "mine"
	must(t, to.PutPatch(&keel))
	before, err := to.Patch("keel")
	must(t, err)
	got, err := read(t, data).Take(to, "job.zip")
	must(t, err)
	if !strings.Contains(strings.Join(got.Renamed, "; "), "panel halyard is halyard-2") || !strings.Contains(strings.Join(got.Renamed, "; "), "patch keel is keel-2") {
		t.Errorf("%+v", got)
	}
	after, err := to.Patch("keel")
	must(t, err)
	if string(after.Document) != string(before.Document) {
		t.Error("a patch that is here was changed")
	}
	if p, err := to.Panel("halyard", 0); err != nil || p.Name != "Halyard of another house" {
		t.Errorf("%+v, %v", p, err)
	}
	sheets, err := to.Sheets()
	must(t, err)
	found := false
	for _, x := range sheets {
		if x.Patch == "keel-2" {
			found = true
			var doc struct{ ID, Panel string }
			must(t, json.Unmarshal(x.Document, &doc))
			if x.Target != "halyard-2" || doc.ID != "keel-2" || doc.Panel != "windlass" {
				t.Errorf("%s on %s, its patch %+v", x.Patch, x.Target, doc)
			}
			if shots, err := to.Photographs(store.KindPatch, "keel-2"); err != nil || len(shots) != 1 {
				t.Errorf("%d photographs, %v", len(shots), err)
			}
		}
	}
	if !found {
		t.Error("the sheet has not come")
	}
	if x, err := to.SlotAt("halyard-2", 0, 4); err != nil || x == nil || x.Name != "Keel" {
		t.Errorf("%+v, %v", x, err)
	}
}

// spoilt writes an archive anew, with its files changed.
func spoilt(t *testing.T, data []byte, change func(name string, b []byte) (string, []byte), more ...string) []byte {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	must(t, err)
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	put := func(name string, b []byte) {
		x, err := w.Create(name)
		must(t, err)
		_, err = x.Write(b)
		must(t, err)
	}
	for _, f := range z.File {
		r, err := f.Open()
		must(t, err)
		b, err := io.ReadAll(r)
		must(t, err)
		if name, b := change(f.Name, b); name != "" {
			put(name, b)
		}
	}
	for _, name := range more {
		put(name, []byte("more"))
	}
	must(t, w.Close())
	return out.Bytes()
}

// What is missing, foreign, damaged, of another version, leads out or is no archive is refused by its name, and nothing changes.
func TestRefusesByName(t *testing.T) {
	good := written(t, worked(t))
	in := func(name, old, new string) []byte {
		return spoilt(t, good, func(n string, b []byte) (string, []byte) {
			if n == name {
				if !bytes.Contains(b, []byte(old)) {
					t.Fatalf("%s does not hold %q", name, old)
				}
				return n, bytes.Replace(b, []byte(old), []byte(new), 1)
			}
			return n, b
		})
	}
	same := func(n string, b []byte) (string, []byte) { return n, b }
	bomb := func() []byte {
		return spoilt(t, good, func(n string, b []byte) (string, []byte) {
			if n == "patches/keel.json" {
				return n, bytes.Repeat([]byte(" "), 64<<20)
			}
			return n, b
		})
	}
	const list = "glossator-archive.json"
	to := open(t)
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"a text":                  {[]byte("dear diary"), "no ZIP"},
		"nothing":                 {nil, "no ZIP"},
		"cut short":               {good[:len(good)*2/3], "no ZIP"},
		"another ZIP":             {spoilt(t, good, func(n string, b []byte) (string, []byte) { return "x/" + n, b }), "is missing"},
		"a part missing":          {spoilt(t, good, func(n string, b []byte) (string, []byte) { return strings.TrimPrefix(n, "patches/keel.json"), b }), "patches/keel.json is missing"},
		"a foreign part":          {spoilt(t, good, same, "patches/virus.exe"), "patches/virus.exe"},
		"a path upwards":          {spoilt(t, good, same, "../../home/x"), `"../../home/x" leads out`},
		"a path from the root":    {spoilt(t, good, same, "/etc/x"), `"/etc/x" leads out`},
		"a path with backslashes": {spoilt(t, good, same, `..\x`), "leads out"},
		"a part twice":            {spoilt(t, good, same, "patches/keel.json"), "twice"},
		"a damaged part":          {in("patches/keel.json", `"tempo":96`, `"tempo":97`), "patches/keel.json is damaged"},
		"a bomb":                  {bomb(), "another length"},
		"another version":         {in(list, `"version": 1`, `"version": 2`), "version 2"},
		"another format":          {in(list, `"glossator-archive"`, `"their-archive"`), "their-archive"},
		"a list that is cut":      {in(list, `"rows"`, `"rows`), list},
		"an unknown field":        {in(list, `"rows"`, `"songs": [], "rows"`), "songs"},
		"a row without a file":    {in(list, `"file": "patches/keel.json"`, `"file": "patches/none.json"`), "patches/none.json"},
		"a row of another folder": {in(list, `"file": "patches/keel.json"`, `"file": "panels/kedge/1.json"`), "not in patches/"},
		"a panel that is needed":  {in(list, `"targetRevision": 1`, `"targetRevision": 9`), "a panel that it needs is missing"},
		"text out of bounds":      {in(list, `"it bit;`, `"`+strings.Repeat("x", 30_000)), "30"},
		"text that deceives":      {in(list, `it bit;`, "\u202eit bit;"), "the log of sheet"},
	} {
		a, err := archive.Open(bytes.NewReader(c.data), int64(len(c.data)))
		if !errors.Is(err, archive.ErrArchive) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, %v", name, a != nil, err)
		}
	}
	if list, err := to.Panels(); err != nil || len(list) != 0 {
		t.Errorf("%v, %v", list, err)
	}
}

// BenchmarkHundred writes and reads an archive of 100 patches with a sheet each and 200 sounds of a megabyte.
func BenchmarkHundred(b *testing.B) {
	s := open(b)
	rack := testrack.Panels(b)
	_, err := s.PutPanel(rack["windlass"].Panel)
	must(b, err)
	_, err = s.PutPanel(rack["halyard"].Panel)
	must(b, err)
	for i := range 100 {
		p := testrack.Generate(rack["windlass"], uint64(i+1), 0.5)
		p.ID, p.Name = fmt.Sprintf("p%d", i), fmt.Sprintf("P %d", i)
		must(b, s.PutPatch(p))
		_, err := s.OpenSheet(p, "", rack["windlass"], rack["halyard"], "numbers")
		must(b, err)
	}
	sound := make([]byte, 1<<20)
	for i := range sound {
		sound[i] = byte(i * i >> 7)
	}
	file := filepath.Join(b.TempDir(), "x.zip")
	for b.Loop() {
		f, err := os.Create(file)
		must(b, err)
		must(b, archive.Write(f, s, archive.Options{Sounds: func(uint) ([]byte, []byte, error) { return sound, sound, nil }}))
		info, err := f.Stat()
		must(b, err)
		a, err := archive.Open(f, info.Size())
		must(b, err)
		_, err = a.Take(open(b), "x")
		must(b, err)
		must(b, f.Close())
	}
}

// A show goes with its patches and the instruments of its houses, and comes whole; where its patches are others here it names them by the ids that they get; what it names and nobody has is said. Everything takes shows along.
func TestShowsTravel(t *testing.T) {
	from := worked(t)
	d := &show.Doc{Format: show.Format, Version: show.Version, Name: "A night", Cues: []show.CueDoc{{ID: "a", Name: "One", Patch: "keel", Start: "0:10", End: "1:00"}, {ID: "b", Name: "Gone", Patch: "nobody", Start: "2:00", End: "3:00"}},
		Houses: []show.HouseDoc{{ID: "h", Name: "hall", Hire: []show.HireDoc{{Panel: "thole", Price: 7}, {Panel: "unheard-of"}}}}}
	row, err := from.NewShow("begin", d)
	must(t, err)
	var b bytes.Buffer
	must(t, archive.Write(&b, from, archive.Options{Shows: []uint{row.ID}, Program: "test"}))
	a := read(t, b.Bytes())
	if len(a.Job.Shows) != 1 || len(a.Job.Patches) != 1 || !slices.ContainsFunc(a.Job.Panels, func(p store.Panel) bool { return p.ID == "thole" }) {
		t.Fatalf("%d shows, %d patches", len(a.Job.Shows), len(a.Job.Patches))
	}
	to := open(t)
	rack := testrack.Panels(t)
	other := *testrack.Patches(t)["keel"]
	other.Name = "Another keel"
	must(t, to.PutAll("theirs", []*panel.Panel{rack["windlass"].Panel}, []*patch.Patch{&other}))
	got, err := a.Take(to, "night.zip")
	must(t, err)
	if got.Shows != 1 || len(got.Aside) != 2 || !strings.Contains(fmt.Sprint(got.Aside), "nobody") || !strings.Contains(fmt.Sprint(got.Aside), "unheard-of") {
		t.Errorf("%+v", got)
	}
	shows, err := to.Shows()
	must(t, err)
	there, err := shows[0].Doc()
	must(t, err)
	if p, err := to.Patch(there.Cues[0].Patch); err != nil || there.Cues[0].Patch == "keel" || p.Name != "Keel" || there.Houses[0].Hire[0].Price != 7 {
		t.Errorf("%+v, %v", there.Cues[0], err)
	}
	_, err = to.Undo(0, "")
	must(t, err)
	if shows, err := to.Shows(); err != nil || len(shows) != 0 {
		t.Error(len(shows), err)
	}
	clean := open(t)
	for n := range 2 {
		if got, err := a.Take(clean, "night.zip"); err != nil || got.Shows != 1-n || got.Patches != 1-n {
			t.Errorf("the %d. time %+v, %v", n+1, got, err)
		}
	}
	all := read(t, written(t, from))
	if len(all.Job.Shows) != 1 {
		t.Error("everything has no show")
	}
	if err := archive.Write(&b, from, archive.Options{Shows: []uint{99}}); !errors.Is(err, store.ErrNotFound) {
		t.Error(err)
	}
	d.Format = "glossator-tale"
	odd, err := from.NewShow("begin", d)
	must(t, err)
	var bad bytes.Buffer
	must(t, archive.Write(&bad, from, archive.Options{Shows: []uint{odd.ID}}))
	if _, err := archive.Open(bytes.NewReader(bad.Bytes()), int64(bad.Len())); err == nil || !strings.Contains(err.Error(), "shows/1.json") {
		t.Errorf("a show that is none: %v", err)
	}
}
