package formats

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/core/quantity"
	"glossator/core/scale"
)

// csvRow is a control with one of its laws; bind is nil where it has none.
type csvRow struct {
	control *panel.Control
	bind    *panel.Bind
}

// column is one column of the controls table.
type column struct {
	name string
	get  func(r csvRow) string
	set  func(r csvRow, cell string) error
	law  bool // it belongs to the law, not to the control
}

func text(of func(r csvRow) *string) (func(csvRow) string, func(csvRow, string) error) {
	return func(r csvRow) string { return *of(r) }, func(r csvRow, cell string) error { *of(r) = cell; return nil }
}

func number(of func(r csvRow) *float64) (func(csvRow) string, func(csvRow, string) error) {
	get := func(r csvRow) string {
		if *of(r) == 0 {
			return ""
		}
		return strconv.FormatFloat(*of(r), 'g', -1, 64)
	}
	return get, func(r csvRow, cell string) (err error) { *of(r), err = cellNumber(cell); return err }
}

func flag(of func(r csvRow) *bool) (func(csvRow) string, func(csvRow, string) error) {
	get := func(r csvRow) string {
		if *of(r) {
			return "yes"
		}
		return ""
	}
	return get, func(r csvRow, cell string) error {
		switch strings.ToLower(cell) {
		case "yes", "true", "1", "x":
			*of(r) = true
		case "no", "false", "0":
		default:
			return fmt.Errorf("expected yes or nothing, got %q", cell)
		}
		return nil
	}
}

func whole(of func(r csvRow) **int) (func(csvRow) string, func(csvRow, string) error) {
	get := func(r csvRow) string {
		if *of(r) == nil {
			return ""
		}
		return strconv.Itoa(**of(r))
	}
	return get, func(r csvRow, cell string) error {
		n, err := strconv.Atoi(cell)
		if err != nil {
			return fmt.Errorf("expected a whole number, got %q", cell)
		}
		*of(r) = &n
		return nil
	}
}

// chosen reads a word of the format, or what a form says for it: "octaves" is octave.
func chosen(all []scale.Choice, cell string) string {
	for _, c := range all {
		if strings.EqualFold(c.Value, cell) || strings.EqualFold(c.Text, cell) {
			return c.Value
		}
	}
	return cell
}

func list(of func(r csvRow) *[]string) (func(csvRow) string, func(csvRow, string) error) {
	return func(r csvRow) string { return join(*of(r)) }, func(r csvRow, cell string) error { *of(r) = split(cell); return nil }
}

// midi makes sure that a control has an address to set.
func midi(r csvRow) *panel.MIDI {
	if r.control.MIDI == nil {
		r.control.MIDI = &panel.MIDI{}
	}
	return r.control.MIDI
}

// address is a whole column of the MIDI address, empty where there is none.
func address(of func(m *panel.MIDI) **int) (func(csvRow) string, func(csvRow, string) error) {
	get, set := whole(func(r csvRow) **int { return of(midi(r)) })
	return func(r csvRow) string {
		if r.control.MIDI == nil {
			return ""
		}
		return get(r)
	}, set
}

// cellNumber reads a number as spreadsheets write them, with a comma for the point too.
func cellNumber(cell string) (float64, error) {
	v, err := strconv.ParseFloat(strings.Replace(strings.ReplaceAll(cell, "−", "-"), ",", ".", 1), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("expected a number, got %q", cell)
	}
	return v, nil
}

// join and split write lists in one cell, "a | b"; a bar within an entry is written "\|".
func join(all []string) string {
	out := make([]string, len(all))
	for i, s := range all {
		out[i] = strings.ReplaceAll(strings.ReplaceAll(s, `\`, `\\`), "|", `\|`)
	}
	return strings.Join(out, " | ")
}

func split(cell string) []string {
	var out []string
	for _, part := range panel.Cut(cell, '|') {
		out = append(out, panel.Bare(part))
	}
	return out
}

// pairs reads "0 = 20 | 1 = 2000".
func pairs(cell string) (left []float64, right []string, err error) {
	for _, p := range split(cell) {
		a, b, ok := strings.Cut(p, "=")
		if !ok {
			return nil, nil, fmt.Errorf("expected travel = value, got %q", p)
		}
		x, err := cellNumber(strings.TrimSpace(a))
		if err != nil {
			return nil, nil, err
		}
		left, right = append(left, x), append(right, strings.TrimSpace(b))
	}
	return left, right, nil
}

func plain(x float64) string { return strconv.FormatFloat(x, 'g', -1, 64) }

var columns = makeColumns()

func makeColumns() []column {
	var out []column
	add := func(name string, law bool, get func(csvRow) string, set func(csvRow, string) error) {
		out = append(out, column{name, get, set, law})
	}
	str := func(name string, of func(r csvRow) *string) { g, s := text(of); add(name, false, g, s) }
	num := func(name string, of func(r csvRow) *float64) { g, s := number(of); add(name, false, g, s) }
	yes := func(name string, of func(r csvRow) *bool) { g, s := flag(of); add(name, false, g, s) }
	str("id", func(r csvRow) *string { return &r.control.ID })
	str("label", func(r csvRow) *string { return &r.control.Label })
	str("section", func(r csvRow) *string { return &r.control.Section })
	g, s := list(func(r csvRow) *[]string { return &r.control.Aliases })
	add("aliases", false, g, s)
	str("init", func(r csvRow) *string { return &r.control.Init })
	yes("hidden", func(r csvRow) *bool { return &r.control.Hidden })
	str("note", func(r csvRow) *string { return &r.control.Note })
	g, s = address(func(m *panel.MIDI) **int { return &m.CC })
	add("cc", false, g, s)
	g, s = address(func(m *panel.MIDI) **int { return &m.NRPN })
	add("nrpn", false, g, s)
	g, s = address(func(m *panel.MIDI) **int { return &m.Byte })
	add("dump byte", false, g, s)
	add("midi values", false, func(r csvRow) string {
		if r.control.MIDI == nil {
			return ""
		}
		return r.control.MIDI.Values
	}, func(r csvRow, cell string) error { midi(r).Values = cell; return nil })
	add("face", false, func(r csvRow) string { return string(r.control.Face.Kind) }, func(r csvRow, cell string) error {
		r.control.Face.Kind = scale.FaceKind(chosen(scale.FaceKinds, cell))
		return nil
	})
	num("min", func(r csvRow) *float64 { return &r.control.Face.Min })
	num("max", func(r csvRow) *float64 { return &r.control.Face.Max })
	num("step", func(r csvRow) *float64 { return &r.control.Face.Step })
	g, s = whole(func(r csvRow) **int { return &r.control.Face.Decimals })
	add("decimals", false, g, s)
	str("prefix", func(r csvRow) *string { return &r.control.Face.Prefix })
	str("suffix", func(r csvRow) *string { return &r.control.Face.Suffix })
	yes("sign", func(r csvRow) *bool { return &r.control.Face.Sign })
	yes("exact", func(r csvRow) *bool { return &r.control.Face.Exact })
	str("from", func(r csvRow) *string { return &r.control.Face.From })
	str("to", func(r csvRow) *string { return &r.control.Face.To })
	num("minutes", func(r csvRow) *float64 { return &r.control.Face.Minutes })
	add("marks", false, func(r csvRow) string {
		var all []string
		for _, m := range r.control.Face.Marks {
			all = append(all, plain(m.At)+" = "+m.Legend)
		}
		return join(all)
	}, func(r csvRow, cell string) error {
		at, legends, err := pairs(cell)
		for i := range at {
			r.control.Face.Marks = append(r.control.Face.Marks, scale.Mark{At: at[i], Legend: legends[i]})
		}
		return err
	})
	add("between", false, func(r csvRow) string {
		if r.control.Face.Between == 0 {
			return ""
		}
		return strconv.Itoa(r.control.Face.Between)
	}, func(r csvRow, cell string) error {
		n, err := strconv.Atoi(cell)
		if err != nil {
			return fmt.Errorf("expected a whole number, got %q", cell)
		}
		r.control.Face.Between = n
		return nil
	})
	g, s = list(func(r csvRow) *[]string { return &r.control.Face.Entries })
	add("entries", false, g, s)
	return append(out, lawColumns()...)
}

// lawChoices are the kinds of law with what a form says for them.
var lawChoices = func() (out []scale.Choice) {
	for _, k := range scale.LawKinds {
		out = append(out, scale.Choice{Value: string(k.Kind), Text: k.Label})
	}
	return out
}()

func lawColumns() []column {
	var out []column
	add := func(name string, get func(l *scale.Law) string, set func(l *scale.Law, cell string) error) {
		out = append(out, column{name, func(r csvRow) string { return get(&r.bind.Law) }, func(r csvRow, cell string) error { return set(&r.bind.Law, cell) }, true})
	}
	bind := func(name string, of func(r csvRow) *string) {
		g, s := text(of)
		out = append(out, column{name, g, s, true})
	}
	num := func(name string, of func(l *scale.Law) *float64) {
		g, s := number(func(r csvRow) *float64 { return of(&r.bind.Law) })
		out = append(out, column{name, g, s, true})
	}
	bind("sets", func(r csvRow) *string { return &r.bind.Param })
	out = append(out, column{"part", func(r csvRow) string { return r.bind.Part }, func(r csvRow, cell string) error { r.bind.Part = chosen(panel.Parts, cell); return nil }, true})
	add("law", func(l *scale.Law) string { return string(l.Kind) }, func(l *scale.Law, cell string) error { l.Kind = scale.LawKind(chosen(lawChoices, cell)); return nil })
	bind("unit", func(r csvRow) *string { return &r.bind.Law.Unit })
	for _, n := range scale.LawNumbers {
		num(n.Column, n.Of)
	}
	add("points", func(l *scale.Law) string {
		var all []string
		for _, p := range l.Points {
			all = append(all, plain(p[0])+" = "+plain(p[1]))
		}
		return join(all)
	}, func(l *scale.Law, cell string) error {
		at, values, err := pairs(cell)
		for i := range at {
			v, err := cellNumber(values[i])
			if err != nil {
				return err
			}
			l.Points = append(l.Points, [2]float64{at[i], v})
		}
		return err
	})
	add("values", func(l *scale.Law) string {
		var all []string
		for _, v := range l.Values {
			switch x := v.(type) {
			case nil:
				all = append(all, "")
			case float64:
				all = append(all, plain(x))
			default:
				all = append(all, fmt.Sprint(x))
			}
		}
		return join(all)
	}, func(l *scale.Law, cell string) error {
		u, _ := quantity.UnitOf(l.Unit)
		for _, w := range split(cell) {
			switch {
			case w == "":
				l.Values = append(l.Values, nil)
			case u.Dim.Named() || w == "off":
				l.Values = append(l.Values, w)
			default:
				v, err := cellNumber(w)
				if err != nil {
					return err
				}
				l.Values = append(l.Values, v)
			}
		}
		return nil
	})
	add("off", func(l *scale.Law) string { return l.Off }, func(l *scale.Law, cell string) error { l.Off = chosen(scale.Ends, cell); return nil })
	add("convention", func(l *scale.Law) string { return string(l.Convention) }, func(l *scale.Law, cell string) error {
		l.Convention = scale.Convention(chosen(scale.Conventions, cell))
		return nil
	})
	add("swing", func(l *scale.Law) string { return string(l.Swing) }, func(l *scale.Law, cell string) error { l.Swing = scale.Swing(chosen(scale.Swings, cell)); return nil })
	add("source", func(l *scale.Law) string { return string(l.Source) }, func(l *scale.Law, cell string) error {
		l.Source = scale.Source(chosen(scale.Sources, cell))
		return nil
	})
	add("uncertainty", func(l *scale.Law) string {
		switch {
		case l.Uncertainty == nil:
			return ""
		case l.Uncertainty.Relative:
			return plain(l.Uncertainty.U*100) + " %"
		}
		return plain(l.Uncertainty.U)
	}, func(l *scale.Law, cell string) error {
		bare, relative := strings.CutSuffix(cell, "%")
		v, err := cellNumber(strings.TrimSpace(bare))
		if relative {
			v /= 100
		}
		l.Uncertainty = &scale.Uncertainty{U: v, Relative: relative}
		return err
	})
	out = append(out, column{"when", func(r csvRow) string {
		var all []string
		for _, w := range r.bind.When {
			all = append(all, strings.ReplaceAll(join(append([]string{w.Control}, w.In...)), ";", `\;`))
		}
		return strings.Join(all, " ; ")
	}, func(r csvRow, cell string) error {
		for _, part := range panel.Cut(cell, ';') { // one within a reading is written "\;"
			words := split(part)
			if len(words) < 2 {
				return fmt.Errorf("expected control | reading | ..., got %q", strings.TrimSpace(part))
			}
			r.bind.When = append(r.bind.When, panel.When{Control: words[0], In: words[1:]})
		}
		return nil
	}, true})
	return out
}

// formula is what a cell begins with that a spreadsheet works out instead of showing it.
const formula = "=+-@\t\r"

// prose tells whether a column holds words, in which a comma is a comma.
func (c *column) prose() bool {
	return slices.Contains([]string{"id", "label", "section", "aliases", "note", "prefix", "suffix"}, c.name)
}

var decimalComma = regexp.MustCompile(`\d+(,\d+)+`)

// points gives numbers that are written with a decimal comma with a point, where the comma stands between no cells.
func points(cell string) string {
	return decimalComma.ReplaceAllStringFunc(cell, func(n string) string {
		if strings.Count(n, ",") > 1 {
			return n
		}
		return strings.Replace(n, ",", ".", 1)
	})
}

// Harmless writes a cell so that no spreadsheet takes it for a formula: with an apostrophe before it, which asWritten takes away. Figures are let be.
func Harmless(cell string) string {
	if cell == "" || !strings.ContainsRune(formula, rune(cell[0])) && cell[0] != '\'' {
		return cell
	}
	if _, err := strconv.ParseFloat(cell, 64); err == nil {
		return cell
	}
	return "'" + cell
}

// asWritten undoes Harmless.
func asWritten(cell string) string {
	if len(cell) > 1 && cell[0] == '\'' && (strings.ContainsRune(formula, rune(cell[1])) || cell[1] == '\'') {
		return cell[1:]
	}
	return cell
}

// WriteControls gives a panel's controls as a table for a spreadsheet (CSV, RFC 4180): a row
// for each control with its first law, and a row with the same id and no label for each
// further law.
func WriteControls(p *panel.Panel) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	head := make([]string, len(columns))
	for i, c := range columns {
		head[i] = c.name
	}
	if err := w.Write(head); err != nil {
		return nil, err
	}
	for i := range p.Controls {
		k := p.Controls[i]
		for j := range max(len(k.Means), 1) {
			row := csvRow{control: &k}
			if j < len(k.Means) {
				row.bind = &k.Means[j]
			}
			cells := make([]string, len(columns))
			for n, c := range columns {
				if c.law && row.bind != nil || !c.law && (j == 0 || c.name == "id") {
					cells[n] = Harmless(c.get(row))
				}
			}
			if err := w.Write(cells); err != nil {
				return nil, err
			}
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

// maxCells is how many cells a row of a table may have.
const maxCells = 1000

// markOf finds what stands between the cells: the mark that most of the first rows have, or most of.
func markOf(data []byte) rune {
	best, rows, marks := ',', 0, 0
	for _, mark := range []rune{',', ';', '\t'} {
		n, all := 0, 0
		for i, rest := 0, data; i < 12 && len(rest) > 0; i++ {
			var line []byte
			line, rest, _ = bytes.Cut(rest, []byte("\n"))
			if k := bytes.Count(line, []byte(string(mark))); k > 0 {
				n, all = n+1, all+k
			}
		}
		if n > rows || n == rows && all > marks {
			best, rows, marks = mark, n, all
		}
	}
	return best
}

// csvOf makes a reader of a CSV table with commas, semicolons or tabs between its cells; above is how many lines of the file stand above what it reads.
func csvOf(data []byte) (r *csv.Reader, above int, err error) {
	if !utf8.Valid(data) {
		return nil, 0, errors.New("expected UTF-8 text: save the table as CSV in UTF-8")
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	first, _, _ := bytes.Cut(data, []byte("\n"))
	// a line that says what stands between the cells, as spreadsheets write it for each other
	var between rune
	if rest, ok := bytes.CutPrefix(first, []byte("sep=")); ok && len(bytes.TrimSpace(rest)) == 1 || ok && len(rest) > 0 && rest[0] == '\t' {
		between = rune(rest[0])
		_, data, _ = bytes.Cut(data, []byte("\n"))
		above = 1
	}
	r = csv.NewReader(bytes.NewReader(data))
	r.FieldsPerRecord, r.ReuseRecord = -1, true
	r.Comma = markOf(data)
	if between != 0 {
		r.Comma = between
	}
	for n, line := 1, data; len(line) > 0; n++ {
		var this []byte
		this, line, _ = bytes.Cut(line, []byte("\n"))
		if bytes.Count(this, []byte(string(r.Comma))) > maxCells {
			return nil, 0, fmt.Errorf("row %d: expected at most %d cells", n, maxCells)
		}
	}
	return r, above, nil
}

// ReadControls reads a controls table as WriteControls makes it, with commas, semicolons or
// tabs between the cells, its columns in any order. It checks form only; rows gives the row, counted from 1 with the
// heading, at which each control stands. The error is a fault.List by row and column.
func ReadControls(file string, data []byte) (controls []panel.Control, rows []int, err error) {
	var l fault.List
	fail := func(msg string, args ...any) ([]panel.Control, []int, error) {
		l.Add("", msg, args...)
		return nil, nil, l.In(file)
	}
	if len(data) > MaxSize {
		return fail("expected at most %d MB, got %.1f MB", MaxSize>>20, float64(len(data))/(1<<20))
	}
	r, above, err := csvOf(data)
	if err != nil {
		return fail("%v", err)
	}
	head, err := r.Read()
	if err != nil {
		return fail("expected a heading of columns: id, label, section, ...")
	}
	cols := make([]*column, len(head))
	have := map[string]bool{}
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(name))
		for k := range columns {
			if columns[k].name == name {
				cols[i] = &columns[k]
			}
		}
		if name != "" && (cols[i] == nil || have[name]) {
			l.Add(fmt.Sprintf("row 1, column %d", i+1), "expected the name of a column of the controls table, once, got %q", name)
		}
		have[name] = true
	}
	for _, must := range []string{"id", "label", "section", "face", "init"} {
		if !have[must] {
			l.Add("row 1", "expected a column %q", must)
		}
	}
	if len(l) > 0 {
		return nil, nil, l.In(file)
	}
	for {
		record, err := r.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			var p *csv.ParseError
			if errors.As(err, &p) {
				l.Add(fmt.Sprintf("row %d", p.Line+above), "expected cells of a CSV table: %v", p.Err)
			} else {
				l.Add("", "%v", err)
			}
			break
		}
		row, _ := r.FieldPos(0)
		row += above
		for i := range record {
			if record[i] = asWritten(record[i]); r.Comma != ',' && (i >= len(cols) || cols[i] == nil || !cols[i].prose()) {
				record[i] = points(record[i])
			}
		}
		if strings.TrimSpace(strings.Join(record, "")) == "" {
			continue
		}
		if len(controls) > 2000 || len(l) > 200 {
			l.Add(fmt.Sprintf("row %d", row), "expected at most 2000 controls and 200 faults; the rest is not read")
			break
		}
		controls, rows = readRow(row, record, cols, controls, rows, &l)
	}
	if len(controls) == 0 && len(l) == 0 {
		l.Add("", "expected at least one control below the heading")
	}
	if len(l) > 0 {
		return nil, nil, l.In(file)
	}
	return controls, rows, nil
}

// readRow takes one row: a new control, or a further law of the control before.
func readRow(row int, record []string, cols []*column, controls []panel.Control, rows []int, l *fault.List) ([]panel.Control, []int) {
	cell := func(name string) string {
		for i, c := range cols {
			if c != nil && c.name == name && i < len(record) {
				return strings.TrimSpace(record[i])
			}
		}
		return ""
	}
	n := len(controls)
	further := n > 0 && cell("label") == "" && controls[n-1].ID == cell("id")
	if !further {
		controls, rows = append(controls, panel.Control{}), append(rows, row)
		n++
	}
	k := &controls[n-1]
	r := csvRow{control: k}
	if cell("sets") != "" {
		k.Means = append(k.Means, panel.Bind{})
		r.bind = &k.Means[len(k.Means)-1]
		r.bind.Law.Unit = cell("unit") // values are read by it
	}
	for i, c := range cols {
		if c == nil || i >= len(record) || further && !c.law {
			continue
		}
		text := strings.TrimSpace(record[i])
		if c.name == "prefix" || c.name == "suffix" { // a blank may belong to them
			text = record[i]
		}
		if text == "" {
			continue
		}
		at := fmt.Sprintf("row %d, %s", row, c.name)
		if strings.Count(text, "|") >= MaxItems {
			l.Add(at, "expected at most %d entries", MaxItems)
			continue
		}
		if c.law && r.bind == nil {
			l.Add(at, "expected what the law sets in the column \"sets\"")
			continue
		}
		if err := c.set(r, text); err != nil {
			l.Add(at, "%v", err)
		}
	}
	return controls, rows
}

var controlPath = regexp.MustCompile(`^/controls/(\d+)(.*)$`)

// ByRow turns faults of a panel's controls into faults by the row of their table.
func ByRow(l fault.List, rows []int) fault.List {
	out := make(fault.List, 0, len(l))
	for _, f := range l {
		if m := controlPath.FindStringSubmatch(f.Path); m != nil {
			if i, err := strconv.Atoi(m[1]); err == nil && i < len(rows) {
				f.Path = strings.TrimSuffix(fmt.Sprintf("row %d, %s", rows[i], strings.TrimPrefix(m[2], "/")), ", ")
			}
		}
		out = append(out, f)
	}
	return out
}
