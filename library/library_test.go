package library_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"golang.org/x/sync/errgroup"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/plan"
	"glossator/core/translate"
	"glossator/formats"
	"glossator/library"
	"glossator/testutil/testrack"
)

// folder makes a folder of invented patches, some in folders of their own.
func folder(t testing.TB, n int) string {
	rack := testrack.Panels(t)
	ids := testrack.IDs(rack)
	dir := t.TempDir()
	for i := range n {
		p := testrack.Generate(rack[ids[i%len(ids)]], uint64(i+1), 0.4)
		p.ID, p.Name = fmt.Sprintf("patch-%d", i), fmt.Sprintf("Patch %d", i)
		put(t, filepath.Join(dir, []string{"", "basses", "pads/old"}[i%3], p.ID+".json"), p)
	}
	return dir
}

func put(t testing.TB, path string, v any) {
	data, ok := v.([]byte)
	if !ok {
		var err error
		if data, err = formats.Write(v); err != nil {
			t.Fatal(err)
		}
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, data, 0o644); err != nil {
		t.Fatal(err)
	}
}

func task(t testing.TB, patches, out string, to ...string) library.Task {
	rack := testrack.Panels(t)
	x := library.Task{Patches: patches, Out: out, Panels: rack, School: plan.Numbers, Workers: 2, Program: "test"}
	for _, id := range to {
		x.Targets = append(x.Targets, rack[id])
	}
	return x
}

// files gives all files of a folder.
func files(t testing.TB, dir string) map[string]string {
	out := map[string]string{}
	err := filepath.WalkDir(dir, func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := os.ReadFile(path)
		rel, _ := filepath.Rel(dir, path)
		out[rel] = string(data)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func same(t *testing.T, name string, got, want map[string]string) {
	t.Helper()
	for f, x := range want {
		if got[f] != x {
			t.Errorf("%s: %s differs", name, f)
		}
	}
	for f := range got {
		if _, ok := want[f]; !ok {
			t.Errorf("%s: %s is more", name, f)
		}
	}
}

func table(t *testing.T, out string) (head []string, rows [][]string) {
	t.Helper()
	data, err := os.ReadFile(filepath.Join(out, "table.csv"))
	if err != nil {
		t.Fatal(err)
	}
	all, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	return all[0], all[1:]
}

// One run, sixteen shards at once with other numbers of workers, and a run that is broken off again and again give the same files, byte by byte. What is through is not made again.
func TestTheSameFilesHoweverItIsRun(t *testing.T) {
	patches := folder(t, 24)
	base := t.TempDir()
	whole := filepath.Join(base, "whole")
	r, err := library.Run(t.Context(), task(t, patches, whole, "halyard", "kedge"))
	if err != nil || r.Table == "" || r.Done != 24 || r.Before != 0 {
		t.Fatal(r, err)
	}
	want := files(t, whole)
	if len(want) < 24+40 {
		t.Fatalf("%d files", len(want))
	}

	shards := filepath.Join(base, "shards")
	var g errgroup.Group
	tables := make([]string, 16)
	for i := range 16 {
		g.Go(func() error {
			x := task(t, patches, shards, "halyard", "kedge")
			x.Shard, x.Of, x.Workers = i+1, 16, 1+i%3
			r, err := library.Run(context.Background(), x)
			tables[i] = r.Table
			return err
		})
	}
	if err := g.Wait(); err != nil {
		t.Fatal(err)
	}
	if !slices.ContainsFunc(tables, func(s string) bool { return s != "" }) {
		t.Error("no shard has written the table")
	}
	same(t, "16 shards", files(t, shards), want)

	broken := filepath.Join(base, "broken")
	runs := 0
	for {
		runs++
		ctx, cancel := context.WithCancel(t.Context())
		x := task(t, patches, broken, "halyard", "kedge")
		x.Progress = func(p library.Progress) {
			if p.Done-p.Before >= 5 {
				cancel()
			}
		}
		r, err = library.Run(ctx, x)
		cancel()
		if err == nil {
			break
		}
		if !errors.Is(err, context.Canceled) || runs > 10 {
			t.Fatal(runs, err)
		}
	}
	if runs < 3 || r.Before < 10 {
		t.Errorf("%d runs, the last found %d patches through", runs, r.Before)
	}
	same(t, "broken off", files(t, broken), want)
}

// The table says of each pair what its sheet says, which is what the program makes of it everywhere.
func TestTheTableSaysWhatTheSheetsSay(t *testing.T) {
	patches := folder(t, 6)
	out := filepath.Join(t.TempDir(), "out")
	if _, err := library.Run(t.Context(), task(t, patches, out, "binnacle", "sheave")); err != nil {
		t.Fatal(err)
	}
	rack := testrack.Panels(t)
	head, rows := table(t, out)
	at := func(row []string, name string) string { return row[slices.Index(head, name)] }
	if len(rows) < 10 {
		t.Fatalf("%d rows", len(rows))
	}
	for _, row := range rows {
		data, err := os.ReadFile(filepath.Join(patches, at(row, "patch")))
		if err != nil {
			t.Fatal(err)
		}
		p, src, err := formats.ReadPatchOn("", data, func(id string) *panel.Compiled { return rack[id] })
		if err != nil {
			t.Fatal(err)
		}
		s, err := translate.Translate(src, p, rack[at(row, "target")], translate.Options{School: plan.Numbers, Layer: at(row, "layer"), Flavours: true})
		if err != nil {
			t.Fatal(err)
		}
		for _, v := range gloss.Verdicts {
			if at(row, string(v)) != strconv.Itoa(s.Summary[v]) {
				t.Errorf("%s: %s %s, the sheet has %d", row[0], at(row, string(v)), v, s.Summary[v])
			}
		}
		sheet, err := os.ReadFile(filepath.Join(out, at(row, "sheet")))
		if err != nil || string(sheet) != formats.SheetMarkdown(s) {
			t.Errorf("%s: %s is not the sheet: %v", row[0], at(row, "sheet"), err)
		}
	}
}

// What cannot be translated is named in the table, the others go on; what has changed is made again, and nothing else.
func TestOneFaultDoesNotStopTheOthers(t *testing.T) {
	patches, out := folder(t, 4), filepath.Join(t.TempDir(), "out")
	rack := testrack.Panels(t)
	put(t, filepath.Join(patches, "broken.json"), []byte(`{"format": "glossator-patch", "version": 1`))
	put(t, filepath.Join(patches, "notes.txt"), []byte("bring the long cable"))
	put(t, filepath.Join(patches, "halyard.json"), rack["halyard"].Panel)
	formula := testrack.Generate(rack["kedge"], 9, 0.4)
	formula.ID, formula.Name = "formula", "=1+1"
	put(t, filepath.Join(patches, "formula.json"), formula)
	stranger := testrack.Generate(rack["kedge"], 9, 0.4)
	stranger.Panel = "nobody-has-it"
	put(t, filepath.Join(patches, "stranger.json"), stranger)
	layered := testrack.Generate(rack["kedge"], 10, 0.4)
	layered.ID = "layered"
	layered.Layers = append(layered.Layers, layered.Layers[0])
	layered.Layers[1].ID = "second"
	put(t, filepath.Join(patches, "layered.json"), layered)
	r, err := library.Run(t.Context(), task(t, patches, out, "halyard"))
	if err != nil || r.Faults != 2 || r.Done != 9 {
		t.Fatalf("%+v, %v", r, err)
	}
	head, rows := table(t, out)
	at := func(row []string, name string) string { return row[slices.Index(head, name)] }
	faults, layers := map[string]string{}, []string{}
	for _, row := range rows {
		if f := at(row, "fault"); f != "" {
			faults[row[0]] = f
		}
		if row[0] == "layered.json" {
			layers = append(layers, at(row, "layer"))
		}
		if row[0] == "formula.json" && at(row, "name") == "=1+1" {
			t.Error("a name goes out as a formula")
		}
		if strings.HasSuffix(row[0], "halyard.json") {
			t.Errorf("a panel is taken for a patch: %q", row)
		}
	}
	if !strings.Contains(faults["stranger.json"], "nobody-has-it") || faults["broken.json"] == "" || len(faults) != 2 {
		t.Errorf("faults %q", faults)
	}
	if !slices.Equal(layers, []string{layered.Layers[0].ID, "second"}) {
		t.Errorf("layers %q", layers)
	}

	stranger.Panel = "kedge"
	put(t, filepath.Join(patches, "stranger.json"), stranger)
	gone := filepath.Join(out, "sheets", "layered", "halyard.second.md")
	if err := os.Remove(gone); err != nil {
		t.Fatal(err)
	}
	r, err = library.Run(t.Context(), task(t, patches, out, "halyard"))
	if err != nil || r.Faults != 1 || r.Done-r.Before != 2 {
		t.Errorf("made again: %+v, %v", r, err)
	}
	if _, err := os.Stat(gone); err != nil {
		t.Error(err)
	}
	other := task(t, patches, out, "halyard")
	other.Program = "the next"
	if r, err = library.Run(t.Context(), other); err != nil || r.Before != 0 {
		t.Errorf("with another program %d are kept: %v", r.Before, err)
	}
}

// Nothing of somebody else's is written over, and faults of the call are said.
func TestRefusesFolders(t *testing.T) {
	patches := folder(t, 1)
	foreign := t.TempDir()
	put(t, filepath.Join(foreign, "table.csv"), []byte("mine"))
	for _, c := range []struct {
		name, says string
		change     func(x *library.Task)
	}{
		{"a folder that holds something else", "holds something else", func(x *library.Task) { x.Out = foreign }},
		{"the patches' own folder", "among the patches", func(x *library.Task) { x.Out = patches }},
		{"a file for a folder", "expected a folder", func(x *library.Task) { x.Patches = filepath.Join(foreign, "table.csv") }},
		{"no folder", "no such file", func(x *library.Task) { x.Patches = filepath.Join(foreign, "none") }},
		{"no target", "no instrument", func(x *library.Task) { x.Targets = nil }},
		{"a shard too many", "from 1 to 4", func(x *library.Task) { x.Shard, x.Of = 5, 4 }},
	} {
		x := task(t, patches, filepath.Join(t.TempDir(), "out"), "kedge")
		c.change(&x)
		if _, err := library.Run(t.Context(), x); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	if data, _ := os.ReadFile(filepath.Join(foreign, "table.csv")); string(data) != "mine" {
		t.Error("it was written over")
	}
	inside := task(t, patches, filepath.Join(patches, "out"), "kedge") // what was made is not taken for patches
	inside.JSON = true
	for range 2 {
		if r, err := library.Run(t.Context(), inside); err != nil || r.All != 1 {
			t.Errorf("%+v, %v", r, err)
		}
	}
}

// With listening the table says how far they sound apart, as the listening of a sheet does.
func TestListens(t *testing.T) {
	patches, out := t.TempDir(), filepath.Join(t.TempDir(), "out")
	put(t, filepath.Join(patches, "keel.json"), testrack.Patches(t)["keel"])
	x := task(t, patches, out, "sheave")
	x.School, x.Listen, x.JSON = plan.Ear, true, true
	if _, err := library.Run(t.Context(), x); err != nil {
		t.Fatal(err)
	}
	head, rows := table(t, out)
	data, err := os.ReadFile(filepath.Join(out, "sheets", "keel", "sheave.json"))
	if err != nil || len(rows) != 1 {
		t.Fatal(err, rows)
	}
	var sheet struct {
		Heard struct {
			Apart struct {
				Total float64 `json:"total"`
			} `json:"apart"`
		} `json:"heard"`
	}
	if err := json.Unmarshal(data, &sheet); err != nil {
		t.Fatal(err)
	}
	apart, err := strconv.ParseFloat(rows[0][slices.Index(head, "apart, just-noticeable differences")], 64)
	if d := sheet.Heard.Apart.Total - apart; err != nil || apart <= 0 || d > 0.01 || d < -0.01 {
		t.Errorf("apart %v in the table, %v in the sheet: %v", apart, sheet.Heard.Apart.Total, err)
	}
}

// BenchmarkLibrary translates 100 invented patches to nine panels by numbers.
func BenchmarkLibrary(b *testing.B) {
	patches := folder(b, 100)
	for b.Loop() {
		if _, err := library.Run(b.Context(), task(b, patches, filepath.Join(b.TempDir(), "out"), "binnacle", "bowline", "coracle", "fairlead", "halyard", "kedge", "sheave", "thole", "windlass")); err != nil {
			b.Fatal(err)
		}
	}
}
