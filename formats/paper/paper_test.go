package paper_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"glossator/core/dialin"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/show"
	"glossator/core/translate"
	"glossator/demo"
	"glossator/formats"
	"glossator/formats/paper"
	"glossator/testutil/testrack"
)

// papers are the documents of a demo pair.
func papers(t *testing.T) map[string]*paper.Paper {
	t.Helper()
	rack, patches := testrack.Panels(t), testrack.Patches(t)
	made := func(patch, to string) *gloss.Sheet {
		p := patches[patch]
		s, err := translate.Translate(rack[p.Panel], p, rack[to], translate.Options{School: plan.Numbers, Flavours: true})
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	s := made("keel", "kedge")
	s.PatchName = "Kéel, Ωmega & <Корма>"
	list := dialin.Of(s)
	keys := list.Keys()
	ticked := keys[:3]
	x, err := dialin.Between(rack["kedge"], made("undertow", "kedge"), s)
	if err != nil {
		t.Fatal(err)
	}
	d, err := formats.ReadShow("lamp.json", demo.Shows()[0].Data)
	if err != nil {
		t.Fatal(err)
	}
	d.Cues[0].Name = "Prologue | fog, \"thick\""
	m, err := show.Make(d, 1, show.Options{School: plan.Numbers, Panels: func(id string) *panel.Compiled { return rack[id] }, Patches: func(id string) (*patch.Patch, *panel.Compiled, error) {
		return patches[id], rack[patches[id].Panel], nil
	}})
	if err != nil {
		t.Fatal(err)
	}
	solved, err := m.Solve()
	if err != nil {
		t.Fatal(err)
	}
	v, err := m.View(solved)
	if err != nil {
		t.Fatal(err)
	}
	hire, err := m.ListHire("", nil)
	if err != nil {
		t.Fatal(err)
	}
	return map[string]*paper.Paper{"order": paper.RunningOrder(v, 0), "hire": paper.Hire(hire), "sheet": paper.Sheet(s), "dial-in": paper.DialIn(s, &list, func(k string) bool { return slices.Contains(ticked, k) }), "changeover": paper.Changeover(&x)}
}

// rows is what a document's table holds, as it was put in.
func rows(p *paper.Paper) (out [][]string) {
	for _, x := range p.Parts {
		for i, r := range x.Rows {
			row := append([]string{x.Title}, r...)
			if p.Ticks {
				row = append(row, map[bool]string{true: "yes", false: "no"}[i < len(x.Done) && x.Done[i]])
			}
			out = append(out, row)
		}
	}
	return out
}

// other runs another program on a file.
func other(t *testing.T, data []byte, name string, command func(file string) []string) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(file, data, 0o600); err != nil {
		t.Fatal(err)
	}
	c := command(file)
	out, err := exec.Command(c[0], c[1:]...).Output()
	if err != nil {
		t.Fatalf("%s: %v", c[0], err)
	}
	return string(out)
}

// A workbook is read by another program (Debian's xlsx2csv) and holds every cell as it was.
func TestWorkbooksAreReadByAnother(t *testing.T) {
	for name, p := range papers(t) {
		data, err := p.Write("xlsx")
		if err != nil {
			t.Fatal(err)
		}
		text := other(t, data, "x.xlsx", func(file string) []string { return []string{"xlsx2csv", "-n", "Table", file} })
		got, err := csv.NewReader(strings.NewReader(text)).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		want := rows(p)
		if len(got) != len(want)+1 || len(want) < 5 {
			t.Fatalf("%s: %d rows, want %d", name, len(got), len(want)+1)
		}
		for i, r := range want {
			if !slices.Equal(got[i+1], r) {
				t.Errorf("%s, row %d: %q, want %q", name, i+1, got[i+1], r)
			}
		}
		notes := other(t, data, "x.xlsx", func(file string) []string { return []string{"xlsx2csv", "-n", "Notes", file} })
		if !strings.Contains(notes, p.Title) {
			t.Errorf("%s: the notes are %.200q", name, notes)
		}
	}
}

// A page is read by another program (poppler's pdftotext): every word of the table that stands on the page is on it, in every script that the font has, and nothing runs off its edge.
func TestPagesAreReadByAnother(t *testing.T) {
	for name, p := range papers(t) {
		data, err := p.Write("pdf")
		if err != nil {
			t.Fatal(err)
		}
		text := other(t, data, "x.pdf", func(file string) []string { return []string{"pdftotext", "-raw", file, "-"} })
		on := map[string]int{}
		for _, w := range strings.Fields(text) {
			on[w]++
		}
		missing := 0
		look := func(s string) {
			for _, w := range strings.Fields(s) {
				if on[w] == 0 && !strings.Contains(text, w) && !broken(text, w) {
					missing++
					t.Logf("%s: %q is not on a page", name, w)
				}
			}
		}
		look(p.Title)
		for _, x := range p.Parts {
			look(x.Title)
			for _, r := range x.Rows {
				for k, c := range r {
					if p.Widths[k] > 0 {
						look(c)
					}
				}
			}
		}
		if missing > 0 {
			t.Errorf("%s: %d words are on no page", name, missing)
		}
		box := other(t, data, "x.pdf", func(file string) []string { return []string{"pdftotext", "-bbox", file, "-"} })
		for _, line := range strings.Split(box, "\n") {
			var x0, y0, x1, y1 float64
			if n, _ := fmt.Sscanf(strings.TrimSpace(line), `<word xMin="%f" yMin="%f" xMax="%f" yMax="%f">`, &x0, &y0, &x1, &y1); n == 4 {
				width, height := 595.3, 841.9
				if p.Wide {
					width, height = height, width
				}
				if x0 < 0 || y0 < 0 || x1 > width || y1 > height {
					t.Errorf("%s: %s runs off the page", name, line)
				}
			}
		}
	}
}

// broken tells whether a word stands on two lines.
func broken(text, w string) bool {
	return strings.Contains(strings.ReplaceAll(text, "\n", ""), w)
}

// A table comes back as it was, with what a spreadsheet would take for a formula made harmless.
func TestTables(t *testing.T) {
	for name, p := range papers(t) {
		data, err := p.Write("csv")
		if err != nil {
			t.Fatal(err)
		}
		got, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		for i, r := range rows(p) {
			for k, c := range r {
				back := strings.TrimPrefix(got[i+1][k], "'")
				if back != c {
					t.Errorf("%s, row %d: %q, want %q", name, i+1, got[i+1][k], c)
				}
			}
		}
	}
	p := paper.Paper{Title: "x", Columns: []string{"A"}, Widths: []float64{1}, Parts: []paper.Part{{Title: "=1+1", Rows: [][]string{{"=HYPERLINK(\"x\")"}, {"@a"}, {"-3 dB"}}}}}
	data, err := p.Write("csv")
	if err != nil {
		t.Fatal(err)
	}
	for _, line := range strings.Split(string(data), "\r\n") {
		if strings.HasPrefix(line, "=") || strings.Contains(line, ",=") || strings.Contains(line, ",\"=") || strings.Contains(line, ",@") {
			t.Errorf("a formula goes out: %s", line)
		}
	}
}

// Long names, characters that no font has, and hundreds of lines come out on numbered pages; an unknown form is refused.
func TestLongPapers(t *testing.T) {
	p := paper.Paper{Title: strings.Repeat("A name that does not end ", 12), Ticks: true, Large: true, Columns: []string{"A", "B"}, Widths: []float64{1, 1}}
	x := paper.Part{Title: "Part"}
	for i := range 400 {
		x.Rows = append(x.Rows, []string{fmt.Sprintf("row%d", i), strings.Repeat("W", i%90) + " 🎛 \x00 漢字"})
	}
	p.Parts = []paper.Part{x}
	data, err := p.Write("pdf")
	if err != nil {
		t.Fatal(err)
	}
	text := other(t, data, "x.pdf", func(file string) []string { return []string{"pdftotext", "-raw", file, "-"} })
	for i := range 400 {
		if !strings.Contains(text, fmt.Sprintf("row%d", i)) {
			t.Fatalf("row %d is on no page", i)
		}
	}
	if !strings.Contains(text, "1 / ") || strings.Contains(text, "{pages}") {
		t.Error("the pages are not numbered")
	}
	for form := range paper.Forms {
		if _, err := p.Write(form); err != nil {
			t.Errorf("%s: %v", form, err)
		}
	}
	if _, err := p.Write("doc"); err == nil {
		t.Error("an unknown form is written")
	}
}

// BenchmarkPages writes a sheet as PDF.
func BenchmarkPages(b *testing.B) {
	rack, patches := testrack.Panels(b), testrack.Patches(b)
	s, err := translate.Translate(rack["halyard"], patches["fog-bank"], rack["binnacle"], translate.Options{School: plan.Numbers})
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if _, err := paper.Sheet(s).Write("pdf"); err != nil {
			b.Fatal(err)
		}
	}
}
