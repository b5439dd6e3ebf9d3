package formats

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"

	"glossator/core/patch"
)

// What a text may not hold is refused wherever it stands, and what may stand there is taken, in whatever script.
func TestTexts(t *testing.T) {
	make := func(name, notes, tag string) *patch.Patch {
		return &patch.Patch{Format: patch.Format, Version: patch.Version, ID: "x", Name: name, Kind: "bass", Panel: "kedge", PanelRevision: 1, Notes: notes, Tags: []string{tag}, Layers: []patch.Layer{{ID: "a", Readings: map[string]string{}}}}
	}
	for _, good := range []*patch.Patch{make("Keel", "two\nlines\tand a tab", "low"), make("Кильватер", "", "低音"), make("צליל", "👩‍🔧 with a joiner", "x")} {
		if l := CheckPatch(good); len(l) > 0 {
			t.Errorf("%q: %v", good.Name, l)
		}
	}
	for place, bad := range map[string]*patch.Patch{
		"/name": make("Ke\x00el", "", "low"), "/notes": make("Keel", "a\u202Eb", "low"), "/tags/0": make("Keel", "", "\x1b[31m"),
	} {
		if l := CheckPatch(bad); len(l) != 1 || l[0].Path != place {
			t.Errorf("%s: %v", place, l)
		}
	}
	if l := CheckPatch(make("\u200B\u200D", "", "low")); len(l) == 0 {
		t.Error("a name in which nothing can be seen")
	}
	if l := CheckPatch(make(strings.Repeat("n", 5000), "", "low")); len(l) == 0 {
		t.Error("a name that a file may not have")
	}
}

// A table that a spreadsheet writes again is the same: with the line that says what stands between cells, decimal commas and semicolons; and no cell of ours begins as a formula does.
func TestTablesOfSpreadsheets(t *testing.T) {
	for _, p := range rack(t) {
		data, err := WriteControls(p.Panel)
		if err != nil {
			t.Fatal(err)
		}
		records, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		var out bytes.Buffer
		out.WriteString("sep=;\r\n")
		w := csv.NewWriter(&out)
		w.Comma = ';'
		for i, row := range records {
			for k, cell := range row {
				if cell != "" && strings.ContainsAny(cell[:1], "=+-@") && !isFigure(cell) {
					t.Errorf("%s: %q is a formula", p.ID, cell)
				}
				if i > 0 && isFigure(cell) {
					row[k] = strings.Replace(cell, ".", ",", 1)
				}
			}
			if err := w.Write(row); err != nil {
				t.Fatal(err)
			}
		}
		w.Flush()
		want, _, err := ReadControls("a.csv", data)
		if err != nil {
			t.Fatalf("%s: %v", p.ID, err)
		}
		got, _, err := ReadControls("b.csv", out.Bytes())
		if err != nil {
			t.Errorf("%s: %v", p.ID, err)
			continue
		}
		a, _ := Write(want)
		b, _ := Write(got)
		if !bytes.Equal(a, b) {
			t.Errorf("%s is another table after a spreadsheet has had it", p.ID)
		}
	}
}

func isFigure(s string) bool {
	return strings.Trim(s, "0123456789.-") == "" && strings.ContainsAny(s, "0123456789")
}
