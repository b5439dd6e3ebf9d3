package server

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"glossator/core/show"
)

// A running order and a hire list go out in every form, and other programs read in them what the page shows: each cue with its instrument, each set with its price; an evening alone has its own cues alone.
func TestDocumentsOfAShow(t *testing.T) {
	c := newClient(t, true)
	get := func(path, media string) []byte {
		t.Helper()
		res, got := c.do("GET", Base+path, "", nil)
		if res.StatusCode != 200 || !strings.HasPrefix(res.Header.Get("Content-Type"), media) || !strings.Contains(res.Header.Get("Content-Disposition"), "attachment") {
			t.Fatalf("%s: %d %s", path, res.StatusCode, res.Header.Get("Content-Type"))
		}
		return got
	}
	for _, house := range []string{"h1", "h2", "h3"} {
		p := planOf(t, c, house)
		table, err := csv.NewReader(bytes.NewReader(get("/shows/1/papers/order.csv?house="+house, "text/csv"))).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		if len(table) != len(p.Cues)+1 {
			t.Errorf("%s: %d rows for %d cues", house, len(table), len(p.Cues))
		}
		column := func(name string) int { return slices.Index(table[0], name) }
		for _, row := range table[1:] {
			i := slices.IndexFunc(p.Cues, func(x show.PlannedCue) bool {
				return x.Name == row[column("Cue")] && fmt.Sprintf("Evening %d", x.Evening) == row[0]
			})
			if i < 0 {
				t.Errorf("%s: %v is no cue", house, row)
				continue
			}
			on := "DROPPED"
			if p.Cues[i].On >= 0 {
				on = p.Instruments[p.Cues[i].On].Name
			}
			if row[column("On")] != on || row[column("Player")] != p.Cues[i].Player {
				t.Errorf("%s, %s: on %s, planned is %s", house, p.Cues[i].Name, row[column("On")], on)
			}
		}
	}
	text := string(get("/shows/1/papers/order.md?house=h1&evening=2", "text/markdown"))
	if strings.Contains(text, "Evening 1") || !strings.Contains(text, "Evening 2") || strings.Contains(text, "Prologue") {
		t.Errorf("%.400s", text)
	}
	file := filepath.Join(t.TempDir(), "hire.pdf")
	if err := os.WriteFile(file, get("/shows/1/papers/hire.pdf?house=h2", "application/pdf"), 0o600); err != nil {
		t.Fatal(err)
	}
	page, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	hire := sends[ShowHire](t, c, "GET", "/shows/1/hire?house=h2", nil, 200)
	for _, want := range []string{"what to hire", "The town hall", hire.Each[0].Instrument.Name, "Three together"} {
		if !strings.Contains(string(page), want) {
			t.Errorf("the page has no %q", want)
		}
	}
	file = filepath.Join(t.TempDir(), "hire.xlsx")
	if err := os.WriteFile(file, get("/shows/1/papers/hire.xlsx?house=h2", "application/vnd"), 0o600); err != nil {
		t.Fatal(err)
	}
	sheet, err := exec.Command("xlsx2csv", "-n", "Table", file).Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range hire.Sets[:3] {
		if !strings.Contains(string(sheet), strings.Join(s.Instruments, " + ")) {
			t.Errorf("the workbook has no %v", s.Instruments)
		}
	}

	// an archive of the show: by Python's zipfile it holds the show, its patches and the instruments of all its houses
	data := get("/archive?show=1", "application/zip")
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	names := map[string]bool{}
	for _, f := range z.File {
		names[f.Name] = true
	}
	for _, want := range []string{"shows/1.json", "patches/gulls.json", "patches/keel.json", "panels/thole/1.json", "panels/binnacle/1.json", "panels/coracle/1.json"} {
		if !names[want] {
			t.Errorf("the archive has no %s", want)
		}
	}
	other := newClient(t, false)
	res, got := other.do("POST", Base+"/archive?name=lamp.zip", string(data), nil)
	if res.StatusCode != 200 || !strings.Contains(string(got), `"shows":1`) {
		t.Fatalf("%d %.300s", res.StatusCode, got)
	}
	for _, house := range []string{"h1", "h2", "h3"} {
		a, b := planOf(t, c, house), planOf(t, other, house)
		for i := range a.Cues {
			if a.Cues[i].On != b.Cues[i].On || a.Cues[i].Moves != b.Cues[i].Moves {
				t.Errorf("%s, %s is planned otherwise elsewhere", house, a.Cues[i].Name)
			}
		}
	}
	if res, _ := c.do("GET", Base+"/archive?show=9", "", nil); res.StatusCode != 404 {
		t.Error(res.Status)
	}
}
