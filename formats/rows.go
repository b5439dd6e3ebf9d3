package formats

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"

	"glossator/core/build"
	"glossator/core/fault"
)

// headings are the names by which people head the columns of a table of controls, by what they hold. The first is the template's.
var headings = []struct {
	names []string
	of    func(r *build.Row) *string
}{
	{[]string{"section", "module", "group", "block", "panel section", "area"}, func(r *build.Row) *string { return &r.Section }},
	{[]string{"control", "label", "name", "parameter", "knob", "control name", "labelled"}, func(r *build.Row) *string { return &r.Label }},
	{[]string{"printed", "range", "face", "scale", "positions", "values", "marks", "what is printed", "printed beside it", "settings"}, func(r *build.Row) *string { return &r.Printed }},
	{[]string{"unit", "units"}, func(r *build.Row) *string { return &r.Unit }},
	{[]string{"sets", "function", "what it sets", "does", "destination", "sets what"}, func(r *build.Row) *string { return &r.Sets }},
	{[]string{"init", "default", "initial", "start", "init value"}, func(r *build.Row) *string { return &r.Init }},
	{[]string{"cc", "midi cc", "controller", "cc number", "midi"}, func(r *build.Row) *string { return &r.CC }},
	{[]string{"nrpn"}, func(r *build.Row) *string { return &r.NRPN }},
	{[]string{"hidden", "menu", "in a menu", "shift"}, func(r *build.Row) *string { return &r.Hidden }},
	{[]string{"aliases", "also called", "other names"}, func(r *build.Row) *string { return &r.Aka }},
	{[]string{"note", "notes", "comment", "comments", "remarks", "description"}, func(r *build.Row) *string { return &r.Note }},
}

// Template is a table of controls to begin from, with an example of each kind of scale.
var Template = [][]string{
	{"Section", "Control", "Printed", "Sets", "Init", "CC", "Note"},
	{"Oscillator 1", "Range", "32' / 16' / 8' / 4' / 2'", "octave of oscillator 1", "8'", "", ""},
	{"Oscillator 1", "Wave", "saw / pulse / triangle", "wave", "saw", "", ""},
	{"Oscillator 1", "Level", "0 to 10", "level", "10", "", ""},
	{"Oscillator 2", "Fine", "-7 to +7", "fine tune", "0", "", ""},
	{"Filter", "Cutoff", "20 Hz to 20 kHz", "cutoff", "20 kHz", "74", "the law follows from the printed values"},
	{"Filter", "Resonance", "0 to 10", "", "0", "71", "what is left empty is guessed from the label"},
	{"Envelope", "Attack", "5 ms 50 500 5 s", "attack", "5 ms", "73", ""},
	{"LFO", "Rate", "clock", "rate", "12:00", "", "an unmarked knob"},
	{"Output", "Volume", "0 to 10", "level of output", "8", "7", ""},
}

// TemplateCSV gives the template as a CSV file.
func TemplateCSV() []byte {
	var b bytes.Buffer
	for _, row := range Template {
		cells := make([]string, len(row))
		for i, c := range row {
			cells[i] = `"` + strings.ReplaceAll(Harmless(c), `"`, `""`) + `"`
		}
		b.WriteString(strings.Join(cells, ",") + "\r\n")
	}
	return b.Bytes()
}

// TemplateXLSX gives the template as a workbook.
func TemplateXLSX() ([]byte, error) {
	f := excelize.NewFile()
	defer func() { _ = f.Close() }()
	const sheet = "Controls"
	if err := f.SetSheetName("Sheet1", sheet); err != nil {
		return nil, err
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return nil, err
	}
	for i, row := range Template {
		for k, c := range row {
			cell, err := excelize.CoordinatesToCellName(k+1, i+1)
			if err != nil {
				return nil, err
			}
			if err := f.SetCellStr(sheet, cell, c); err != nil {
				return nil, err
			}
		}
	}
	if err := f.SetRowStyle(sheet, 1, 1, bold); err != nil {
		return nil, err
	}
	for i, width := range []float64{16, 16, 30, 26, 10, 8, 40} {
		col, err := excelize.ColumnNumberToName(i + 1)
		if err != nil {
			return nil, err
		}
		if err := f.SetColWidth(sheet, col, col, width); err != nil {
			return nil, err
		}
	}
	b, err := f.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// maxRows is how many rows a table of controls may have.
const maxRows = 2001

// IsWorkbook tells whether a file is an XLSX workbook, which is a ZIP archive.
func IsWorkbook(data []byte) bool { return bytes.HasPrefix(data, []byte("PK\x03\x04")) }

// cellsOf reads a table's cells: a CSV with any of the usual marks between them, or the first sheet of a workbook that is not empty. at gives the row of each
// as its program counts it.
func cellsOf(data []byte) (rows [][]string, at []int, err error) {
	if IsWorkbook(data) {
		return workbook(data)
	}
	r, above, err := csvOf(data)
	if err != nil {
		return nil, nil, err
	}
	for {
		record, err := r.Read()
		if err == io.EOF {
			return rows, at, nil
		}
		if err != nil {
			return nil, nil, fmt.Errorf("expected cells of a CSV table: %w", err)
		}
		n, _ := r.FieldPos(0)
		row := make([]string, len(record))
		for i := range record {
			row[i] = strings.TrimSpace(asWritten(record[i]))
		}
		rows, at = append(rows, row), append(at, n+above)
		if len(rows) > maxRows {
			return nil, nil, fmt.Errorf("expected at most %d rows", maxRows-1)
		}
	}
}

func workbook(data []byte) (rows [][]string, at []int, err error) {
	f, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: 8 * MaxSize, UnzipXMLSizeLimit: 2 * MaxSize})
	if err != nil {
		return nil, nil, errors.New("expected a workbook (.xlsx) that opens: save it again, or as CSV")
	}
	defer func() { _ = f.Close() }()
	for _, sheet := range f.GetSheetList() {
		all, err := f.Rows(sheet)
		if err != nil {
			continue
		}
		for n := 1; all.Next(); n++ {
			cells, err := all.Columns()
			if err != nil {
				_ = all.Close()
				return nil, nil, fmt.Errorf("row %d of %s cannot be read", n, sheet)
			}
			if len(cells) > maxCells || len(rows) > maxRows {
				_ = all.Close()
				return nil, nil, fmt.Errorf("expected at most %d rows of %d cells", maxRows-1, maxCells)
			}
			for i := range cells {
				cells[i] = strings.TrimSpace(asWritten(cells[i]))
			}
			rows, at = append(rows, cells), append(at, n)
		}
		_ = all.Close()
		if len(rows) > 1 {
			return rows, at, nil
		}
		rows, at = nil, nil
	}
	return nil, nil, errors.New("expected a sheet with a heading and a row for each control")
}

// ReadRows reads a table of controls as people keep it: a heading with plain names of columns in any order and case ("Control", "Section", "Range", "Unit", "Sets"), then a row for each control.
// Rows above the heading and empty rows are passed over, columns that are not known too. detailed is set where it is the table that WriteControls makes, which
// ReadControls reads. The error is a fault.List that says in words what was expected.
func ReadRows(file string, data []byte) (rows []build.Row, detailed bool, err error) {
	fail := func(err error) ([]build.Row, bool, error) {
		return nil, false, fault.List{{File: file, Message: err.Error(), Words: "The table was not read: " + err.Error() + "."}}
	}
	if len(data) > MaxSize {
		return fail(fmt.Errorf("expected at most %d MB, got %.1f MB", MaxSize>>20, float64(len(data))/(1<<20)))
	}
	cells, at, err := cellsOf(data)
	if err != nil {
		return fail(err)
	}
	head, cols := -1, []int(nil)
	for i, row := range cells[:min(len(cells), 20)] {
		found := make([]int, len(row))
		known := map[int]bool{}
		for k, name := range row {
			found[k] = -1
			name = strings.ToLower(strings.Join(strings.Fields(strings.Trim(name, ":*")), " "))
			for h := range headings {
				if slices.Contains(headings[h].names, name) && !known[h] {
					found[k], known[h] = h, true
					break
				}
			}
		}
		if slices.ContainsFunc(row, func(c string) bool { return strings.EqualFold(c, "id") }) && slices.ContainsFunc(row, func(c string) bool { return strings.EqualFold(c, "face") }) && slices.ContainsFunc(row, func(c string) bool { return strings.EqualFold(c, "law min") }) {
			return nil, true, nil
		}
		if known[1] && len(known) > 1 {
			head, cols = i, found
			break
		}
	}
	if head < 0 {
		return fail(errors.New(`expected a heading with a column "Control" and at least one of "Section", "Printed" (or "Range") and "Sets"`))
	}
	last := ""
	for i, row := range cells[head+1:] {
		r := build.Row{N: at[head+1+i]}
		for k, c := range row {
			if k < len(cols) && cols[k] >= 0 {
				*headings[cols[k]].of(&r) = c
			}
		}
		if strings.TrimSpace(strings.Join(row, "")) == "" {
			continue
		}
		if r.Section == "" { // written once for all that follow, as in merged cells
			r.Section = last
		}
		last = r.Section
		if r.Label == "" && r.Printed == "" && r.Sets == "" {
			continue // a heading of a section
		}
		rows = append(rows, r)
	}
	if len(rows) == 0 {
		return fail(errors.New("expected at least one control below the heading"))
	}
	return rows, false, nil
}
