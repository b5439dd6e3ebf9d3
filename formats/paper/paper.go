// Package paper writes documents of one table, a sheet, a dial-in list, a changeover, in the forms that other programs read: Markdown, CSV (RFC 4180), XLSX (ISO/IEC 29500) and PDF (ISO 32000) for the music stand.
package paper

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"

	"slices"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"github.com/xuri/excelize/v2"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"glossator/formats"
)

// Paper is a document.
type Paper struct {
	Title string
	// About are lines under the title.
	About []string
	// Columns are the headings of the table, Widths how wide they are beside each other on a page; a width of 0 keeps a column off the page: it is in the table alone.
	Columns []string
	Widths  []float64
	Parts   []Part
	// Ticks puts a box before each row, Done filled where it is ticked.
	Ticks bool
	// Large is for reading from a music stand.
	Large bool
	// Wide lays the page on its side.
	Wide bool
}

// Part is a stretch of the table under a title, or lines of text.
type Part struct {
	Title string
	Rows  [][]string
	Done  []bool // of rows, where it has ticks
	Lines []string
}

// Forms are the forms by the ending of a file's name, with their media types.
var Forms = map[string]string{
	"md": "text/markdown; charset=utf-8", "csv": "text/csv; charset=utf-8", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "pdf": "application/pdf",
}

// ErrForm is returned for an ending that is not among Forms.
var ErrForm = errors.New("expected md, csv, xlsx or pdf")

// Write gives the document in a form.
func (p *Paper) Write(form string) ([]byte, error) {
	switch form {
	case "md":
		return []byte(p.markdown()), nil
	case "csv":
		return p.csv()
	case "xlsx":
		return p.xlsx()
	case "pdf":
		return p.pdf()
	}
	return nil, fmt.Errorf("%w, got %q", ErrForm, form)
}

func (p *Paper) markdown() string {
	esc := strings.NewReplacer("|", "\\|", "\n", " ", "<", "&lt;")
	line := func(cells []string) string {
		for i := range cells {
			cells[i] = esc.Replace(cells[i])
		}
		return "| " + strings.Join(cells, " | ") + " |\n"
	}
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n", esc.Replace(p.Title))
	for _, a := range p.About {
		fmt.Fprintf(&b, "\n%s\n", esc.Replace(a))
	}
	for _, x := range p.Parts {
		fmt.Fprintf(&b, "\n## %s\n\n", esc.Replace(x.Title))
		for _, l := range x.Lines {
			fmt.Fprintf(&b, "- %s\n", esc.Replace(l))
		}
		if len(x.Rows) == 0 {
			continue
		}
		head, rule := slices.Clone(p.Columns), slices.Repeat([]string{"---"}, len(p.Columns))
		if p.Ticks {
			head, rule = append([]string{""}, head...), append([]string{"---"}, rule...)
		}
		b.WriteString(line(head) + line(rule))
		for i, r := range x.Rows {
			cells := slices.Clone(r)
			if p.Ticks {
				cells = append([]string{map[bool]string{true: "[x]", false: "[ ]"}[x.done(i)]}, cells...)
			}
			b.WriteString(line(cells))
		}
	}
	return b.String()
}

func (x *Part) done(i int) bool { return i < len(x.Done) && x.Done[i] }

// table gives the rows of all parts under one heading, each with its part's title and, where there are ticks, whether it is done.
func (p *Paper) table() [][]string {
	head := append([]string{"Part"}, p.Columns...)
	if p.Ticks {
		head = append(head, "Done")
	}
	out := [][]string{head}
	for _, x := range p.Parts {
		for i, r := range x.Rows {
			row := append([]string{x.Title}, r...)
			if p.Ticks {
				row = append(row, map[bool]string{true: "yes", false: "no"}[x.done(i)])
			}
			out = append(out, row)
		}
	}
	return out
}

func (p *Paper) csv() ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	for _, r := range p.table() {
		for i := range r {
			r[i] = formats.Harmless(r[i])
		}
		if err := w.Write(r); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

func (p *Paper) xlsx() ([]byte, error) {
	f := excelize.NewFile()
	defer func() { _ = f.Close() }()
	const table, notes = "Table", "Notes"
	if err := f.SetSheetName("Sheet1", table); err != nil {
		return nil, err
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return nil, err
	}
	put := func(sheet string, row int, cells []string) error {
		for i, c := range cells {
			at, err := excelize.CoordinatesToCellName(i+1, row)
			if err != nil {
				return err
			}
			if err := f.SetCellStr(sheet, at, c); err != nil { // as text: what begins with = is no formula
				return err
			}
		}
		return nil
	}
	rows := p.table()
	widest := make([]int, len(rows[0]))
	for i, r := range rows {
		if err := put(table, i+1, r); err != nil {
			return nil, err
		}
		for k, c := range r {
			widest[k] = max(widest[k], min(len([]rune(c)), 60))
		}
	}
	for k, w := range widest {
		name, err := excelize.ColumnNumberToName(k + 1)
		if err == nil {
			err = f.SetColWidth(table, name, name, float64(w)+2)
		}
		if err != nil {
			return nil, err
		}
	}
	if err := f.SetRowStyle(table, 1, 1, bold); err != nil {
		return nil, err
	}
	if err := f.SetPanes(table, &excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return nil, err
	}
	if _, err := f.NewSheet(notes); err != nil {
		return nil, err
	}
	n := 1
	for _, l := range p.lines() {
		if err := put(notes, n, []string{l}); err != nil {
			return nil, err
		}
		n++
	}
	if err := f.SetColWidth(notes, "A", "A", 120); err != nil {
		return nil, err
	}
	var b bytes.Buffer
	_, err = f.WriteTo(&b)
	return b.Bytes(), err
}

// lines gives all that is not in the table.
func (p *Paper) lines() []string {
	out := append([]string{p.Title}, p.About...)
	for _, x := range p.Parts {
		if len(x.Lines) > 0 {
			out = append(append(out, "", x.Title), x.Lines...)
		}
	}
	return out
}

// Sizes of a page in millimetres.
const (
	margin = 14.0
	box    = 0.62 // of a tick, of the line
)

func (p *Paper) pdf() ([]byte, error) {
	way, size, lead := "P", 9.5, 5.2
	if p.Wide {
		way, size, lead = "L", 8.5, 4.6
	}
	if p.Large {
		size, lead = 13, 7.4
	}
	f := fpdf.New(way, "mm", "A4", "")
	f.SetCatalogSort(true)
	f.AddUTF8FontFromBytes("go", "", goregular.TTF)
	f.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	f.SetTitle(p.Title, true)
	f.SetCreator("Glossator", true)
	f.SetMargins(margin, margin, margin)
	f.SetAutoPageBreak(false, margin)
	f.AliasNbPages("{pages}")
	width, height := f.GetPageSize()
	inner := width - 2*margin
	f.SetFooterFunc(func() {
		f.SetY(height - 9)
		f.SetFont("go", "", 8)
		f.CellFormat(inner/2, 4, shorten(f, p.Title, inner/2), "", 0, "L", false, 0, "")
		f.CellFormat(inner/2, 4, fmt.Sprintf("%d / {pages}", f.PageNo()), "", 0, "R", false, 0, "")
	})
	f.AddPage()
	room := func(h float64) bool { return f.GetY()+h <= height-margin }
	text := func(s string, size, lead float64, style string) {
		f.SetFont("go", style, size)
		for _, l := range f.SplitText(clean(s), inner) {
			if !room(lead) {
				f.AddPage()
				f.SetFont("go", style, size)
			}
			f.CellFormat(inner, lead, l, "", 1, "L", false, 0, "")
		}
	}
	text(p.Title, size+6, lead+3, "B")
	for _, a := range p.About {
		text(a, size, lead, "")
	}
	tick := 0.0
	if p.Ticks {
		tick = lead + 1
	}
	sum := 0.0
	for _, w := range p.Widths {
		sum += w
	}
	at := func(k int) float64 { return (inner - tick) * p.Widths[k] / max(sum, 1e-9) }
	row := func(cells []string, style string, boxed, done bool) {
		f.SetFont("go", style, size)
		split := make([][]string, len(cells))
		lines := 1
		for k, c := range cells {
			if p.Widths[k] == 0 || c == "" {
				continue
			}
			split[k] = f.SplitText(clean(c), at(k)-1)
			lines = max(lines, len(split[k]))
		}
		h := float64(lines)*lead + 0.8
		if !room(h) {
			f.AddPage()
			f.SetFont("go", style, size)
		}
		x, y := margin, f.GetY()
		if boxed {
			side := lead * box
			f.SetLineWidth(0.25)
			f.Rect(x, y+(lead-side)/2, side, side, "D")
			if done {
				f.Line(x, y+(lead-side)/2, x+side, y+(lead+side)/2)
				f.Line(x+side, y+(lead-side)/2, x, y+(lead+side)/2)
			}
		}
		x += tick
		for k, ls := range split {
			for i, l := range ls {
				f.SetXY(x, y+float64(i)*lead)
				f.CellFormat(at(k), lead, l, "", 0, "L", false, 0, "")
			}
			x += at(k)
		}
		f.SetLineWidth(0.08)
		f.Line(margin, y+h-0.2, margin+inner, y+h-0.2)
		f.SetXY(margin, y+h)
	}
	for _, x := range p.Parts {
		if len(x.Rows)+len(x.Lines) == 0 {
			continue
		}
		if !room(5 * lead) {
			f.AddPage()
		}
		f.Ln(lead * 0.5)
		text(x.Title, size+2, lead+1, "B")
		for _, l := range x.Lines {
			text("- "+l, size, lead, "")
		}
		if len(x.Rows) > 0 && !p.Large {
			row(p.Columns, "B", false, false)
		}
		for i, r := range x.Rows {
			row(r, "", p.Ticks, x.done(i))
		}
	}
	var b bytes.Buffer
	if err := f.Output(&b); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// clean keeps what the writer of pages can take: characters beyond the first plane are shown as a box.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r > 0xFFFF:
			return '□'
		case r < ' ':
			return ' '
		}
		return r
	}, s)
}

// shorten cuts a line to a width.
func shorten(f *fpdf.Fpdf, s string, width float64) string {
	s = clean(s)
	for rs := []rune(s); len(rs) > 1 && f.GetStringWidth(s) > width-2; rs = rs[:len(rs)-1] {
		s = string(rs[:len(rs)-1]) + "…"
	}
	return s
}
