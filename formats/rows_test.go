package formats

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"

	"glossator/core/build"
	"glossator/core/fault"
	"glossator/core/panel"
)

// book makes a workbook as the format says (ECMA-376 part 1: SpreadsheetML), without the library that reads it: shared strings, inline strings and numbers, with a sheet before it that is empty.
func book(t *testing.T, rows [][]string) []byte {
	t.Helper()
	var sheet, shared strings.Builder
	n := 0
	escape := strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;")
	for i, row := range rows {
		fmt.Fprintf(&sheet, `<row r="%d">`, i+1)
		for k, c := range row {
			at := fmt.Sprintf("%c%d", 'A'+k, i+1)
			switch {
			case c == "":
			case strings.Trim(c, "0123456789") == "":
				fmt.Fprintf(&sheet, `<c r="%s"><v>%s</v></c>`, at, c)
			case k%2 == 0:
				fmt.Fprintf(&sheet, `<c r="%s" t="s"><v>%d</v></c>`, at, n)
				fmt.Fprintf(&shared, `<si><t>%s</t></si>`, escape.Replace(c))
				n++
			default:
				fmt.Fprintf(&sheet, `<c r="%s" t="inlineStr"><is><t>%s</t></is></c>`, at, escape.Replace(c))
			}
		}
		sheet.WriteString(`</row>`)
	}
	const main = `http://schemas.openxmlformats.org/spreadsheetml/2006/main`
	const rel = `http://schemas.openxmlformats.org/officeDocument/2006/relationships`
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"[Content_Types].xml":        `<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/><Override PartName="/xl/worksheets/sheet2.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/><Override PartName="/xl/sharedStrings.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sharedStrings+xml"/></Types>`,
		"_rels/.rels":                `<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="` + rel + `/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":            `<?xml version="1.0" encoding="UTF-8"?><workbook xmlns="` + main + `" xmlns:r="` + rel + `"><sheets><sheet name="Cover" sheetId="1" r:id="rId1"/><sheet name="Knobs" sheetId="2" r:id="rId2"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="` + rel + `/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="` + rel + `/worksheet" Target="worksheets/sheet2.xml"/><Relationship Id="rId3" Type="` + rel + `/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
		"xl/worksheets/sheet1.xml":   `<?xml version="1.0" encoding="UTF-8"?><worksheet xmlns="` + main + `"><sheetData/></worksheet>`,
		"xl/worksheets/sheet2.xml":   `<?xml version="1.0" encoding="UTF-8"?><worksheet xmlns="` + main + `"><sheetData>` + sheet.String() + `</sheetData></worksheet>`,
		"xl/sharedStrings.xml":       `<?xml version="1.0" encoding="UTF-8"?><sst xmlns="` + main + `">` + shared.String() + `</sst>`,
	} {
		w, err := z.Create(name)
		must(t, err)
		_, err = w.Write([]byte(text))
		must(t, err)
	}
	must(t, z.Close())
	return b.Bytes()
}

// own is a table as somebody keeps it: a title, plain headings, sections written once, units in a column of their own, and two rows that cannot be.
var own = [][]string{
	{"My instrument, copied from its manual"},
	{"Module", "Name", "Range", "Units", "What it sets", "Default", "Notes"},
	{"VCO 1", "Range", "32' 16' 8' 4'", "", "octave", "8'", ""},
	{"", "Waveform", "saw, square, tri", "", "", "saw", ""},
	{"VCO 2", "Fine", "-7 to +7", "", "", "0", "by ear"},
	{"", "Coarse", "-12 to 12", "st", "semitones", "0", ""},
	{"VCF", "Cutoff", "20 - 18000", "Hz", "cutoff", "18 kHz", ""},
	{"", "Emphasis", "0-10", "", "res", "0", ""},
	{"", "EG Amount", "-5 to +5", "", "env amount", "0", ""},
	{"", "Spring", "loose", "", "", "", ""},
	{"Filter EG", "A", "1 ms 10 100 1 s 10 s", "", "attack", "1 ms", ""},
	{"", "D", "0-10", "", "decay", "", ""},
	{"Amp EG", "Attack", "0-10", "", "", "0", ""},
	{"", "Sustain", "0-100", "%", "", "100", ""},
	{"LFO", "Speed", "0.1 - 30", "Hz", "rate", "", ""},
	{"", "To pitch", "0-10", "", "", "0", ""},
	{"Output", "Volume", "0-10", "", "wobble of the moon", "7", ""},
	{"", "Master volume", "0-10", "", "level", "7", ""},
}

// A spreadsheet makes a whole panel: sections and modules from its columns, plain headings, words as people write them. Rows that cannot be are told by their number; the others
// go in. The same as CSV with commas, semicolons and tabs, and as a workbook that no library of ours wrote.
func TestASpreadsheetIsAPanel(t *testing.T) {
	join := func(mark string) []byte {
		var b strings.Builder
		for _, row := range own {
			cells := make([]string, len(row))
			for i, c := range row {
				if strings.ContainsAny(c, mark+"\"") {
					c = `"` + strings.ReplaceAll(c, `"`, `""`) + `"`
				}
				cells[i] = c
			}
			b.WriteString(strings.Join(cells, mark) + "\r\n")
		}
		return []byte(b.String())
	}
	for name, data := range map[string][]byte{"commas.csv": join(","), "semicolons.csv": join(";"), "tabs.tsv": join("\t"), "told.csv": append([]byte("sep=;\r\n"), join(";")...), "book.xlsx": book(t, own)} {
		rows, detailed, err := ReadRows(name, data)
		if err != nil || detailed {
			t.Errorf("%s: %v", name, err)
			continue
		}
		p, taken, faults := build.FromRows(&panel.Panel{Format: panel.Format, Version: panel.Version, ID: "mine", Name: "Mine", Revision: 1, Kind: "instrument", Memory: true}, rows)
		c, err := panel.Compile(p)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if taken != 14 || len(faults) != 2 {
			t.Errorf("%s: %d controls, faults %v", name, taken, faults)
			continue
		}
		for i, want := range []string{", Spring: expected what is printed", `, Volume: nothing on this panel is called "wobble of the moon"`} {
			if !strings.Contains(faults[i].Words, want) || !strings.HasPrefix(faults[i].Words, "Row ") {
				t.Errorf("%s: fault %q, want %q", name, faults[i].Words, want)
			}
		}
		if want := map[bool]string{true: "Row 11,", false: "Row 10,"}[name == "told.csv"]; !strings.HasPrefix(faults[0].Words, want) {
			t.Errorf("%s: %s", name, faults[0].Words)
		}
		sets := map[string]string{}
		for _, k := range c.Controls {
			if len(k.Means) > 0 {
				sets[k.Label] = k.Means[0].Param + " " + k.Means[0].Law.NumbersText()
			}
		}
		for label, want := range map[string]string{
			"Range": "vco-1.interval -2400, -1200, 0, 1200 ct", "Waveform": "vco-1.wave saw, pulse, triangle wave", "Coarse": "vco-2.interval -12 to 12 st", "Cutoff": "vcf.cutoff 0: 20, 1: 18000 Hz", "EG Amount": "filter-eg-cutoff.depth ±5 oct",
			"A": "filter-eg.attack 0: 1, 0.25: 10, 0.5: 100, 0.75: 1000, 1: 10000 ms", "Attack": "amp-eg.attack 1 to 10000 ms", "Sustain": "amp-eg.sustain 0 to 100 %", "Speed": "lfo.rate 0: 0.1, 1: 30 Hz", "To pitch": "lfo-tune.depth 0 to 1200 ct", "Master volume": "output.level up to 0 dB",
		} {
			if sets[label] != want {
				t.Errorf("%s: %s sets %q, want %q", name, label, sets[label], want)
			}
		}
		var path []string
		for _, e := range p.Audio {
			path = append(path, e.From+">"+e.To)
		}
		if got := strings.Join(path, " "); got != "vco-1>vcf vco-2>vcf vcf>output output>out" {
			t.Errorf("%s: path %s", name, got)
		}
	}
}

// The template is read as it stands, in both forms.
func TestTheTemplateIsRead(t *testing.T) {
	x, err := TemplateXLSX()
	must(t, err)
	for name, data := range map[string][]byte{"t.csv": TemplateCSV(), "t.xlsx": x} {
		rows, _, err := ReadRows(name, data)
		must(t, err)
		p, taken, faults := build.FromRows(&panel.Panel{Format: panel.Format, Version: panel.Version, ID: "mine", Name: "Mine", Revision: 1, Kind: "instrument"}, rows)
		if taken != len(Template)-1 || len(faults) > 0 {
			t.Errorf("%s: %d controls, %v", name, taken, faults)
		}
		if _, err := panel.Compile(p); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// A table without sections: the words say of which part each control is.
func TestATableWithoutSections(t *testing.T) {
	rows, _, err := ReadRows("x.csv", []byte("Control,Range\nOsc 1 wave,saw / pulse\nOsc 2 wave,saw / pulse\nOsc 2 fine,-50 to +50\nCutoff,0-10\nResonance,0-10\nAttack,0-10\nRelease,0-10\nVolume,0-10\nGlide,0-10\n"))
	must(t, err)
	p, taken, faults := build.FromRows(&panel.Panel{Format: panel.Format, Version: panel.Version, ID: "mine", Name: "Mine", Revision: 1, Kind: "instrument"}, rows)
	if taken != 9 || len(faults) > 0 {
		t.Errorf("%d controls, %v", taken, faults)
	}
	if _, err := panel.Compile(p); err != nil {
		t.Error(err)
	}
	var sets []string
	for _, c := range p.Controls {
		for _, b := range c.Means {
			sets = append(sets, strings.TrimSpace(b.Param+" "+b.Part))
		}
	}
	if got := strings.Join(sets, ", "); got != "oscillator-1.wave, oscillator-2.wave, oscillator-2.interval fine, filter.cutoff, filter.resonance, env.attack, env.release, amp.level, voice.glide" {
		t.Errorf("they set %s", got)
	}
}

// What is no table says so in words, whatever it is, and takes no time.
func TestTablesThatAreNone(t *testing.T) {
	var bomb bytes.Buffer
	z := zip.NewWriter(&bomb)
	w, err := z.Create("xl/workbook.xml")
	must(t, err)
	_, err = w.Write(bytes.Repeat([]byte{' '}, 50<<20))
	must(t, err)
	must(t, z.Close())
	for what, data := range map[string][]byte{
		"no heading": []byte("1,2,3\n4,5,6\n"), "empty": {}, "a heading alone": []byte("Section,Control,Printed\n"), "a workbook cut short": book(t, own)[:400], "a large nothing": bomb.Bytes(),
		"a sound": []byte("RIFF\x00\x00\x00\x00WAVEfmt "), "other text": []byte("{\"format\": \"x\"}"), "not UTF-8": {0xff, 0xfe, 'a', 0},
	} {
		_, _, err := ReadRows(what, data)
		l, ok := err.(fault.List)
		if !ok || len(l) != 1 || l[0].Words == "" || strings.Contains(l[0].Words, "zip") || strings.Contains(l[0].Words, "xml") {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, detailed, err := ReadRows("controls.csv", []byte(controlsOf(t, must2(build.Begin("blank", "a", "A", ""))))); err != nil || !detailed {
		t.Errorf("the table of a panel is not known: %v", err)
	}
}

func must2(p *panel.Panel, err error) *panel.Panel {
	if err != nil {
		panic(err)
	}
	return p
}

// The words of the form are taken in the detailed table, too.
func TestWordsOfTheFormInTables(t *testing.T) {
	table := "id,label,section,face,min,max,step,init,sets,part,law,unit,law min,law max,source,off\n" +
		"a,A,osc,numbers,0,10,1,0,osc1.interval,octaves,linear,ct,-1200,1200,the maker's words,\n" +
		"b,B,osc,Numeric,0,10,1,0,voice.glide,,equal ratios,ms,1,1000,assumed,the bottom\n"
	got, _, err := ReadControls("x.csv", []byte(table))
	must(t, err)
	if a, b := got[0], got[1]; a.Face.Kind != "numeric" || a.Means[0].Part != "octave" || a.Means[0].Law.Source != "stated" || b.Face.Kind != "numeric" || b.Means[0].Law.Kind != "exponential" || b.Means[0].Law.Off != "bottom" {
		t.Errorf("%+v, %+v", a, b)
	}
}
