package build

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"glossator/core/fault"
	"glossator/core/meaning"
	"glossator/core/panel"
)

// Row is a line of a table of controls, as somebody keeps it in a spreadsheet. N is its number there, counted from 1 with the heading.
type Row struct {
	N                                                    int
	Section, Label, Printed, Unit, Sets, Init, Note, Aka string
	CC, NRPN, Hidden                                     string
}

// maxSections is how many sections a table may have.
const maxSections = 100

// order is the order in which kinds are looked for in the name of a section: an "amp envelope" is an envelope.
var order = []string{"env", "lfo", "matrix", "sub", "ring", "noise", "operator", "osc", "highpass", "filter", "mixer", "delay", "reverb", "chorus", "flanger", "phaser", "drive", "eq", "compressor", "macro", "amp", "voice"}

// moreWords are other names of sections (common practice, no source).
var moreWords = map[string]string{
	"env": "env eg envelope adsr contour eg1 eg2", "osc": "osc oscillator vco dco", "filter": "vcf filter lpf", "highpass": "hpf", "amp": "vca amplifier amp output master volume out", "voice": "voice keyboard performance global assign play", "lfo": "lfo modulation modulator vibrato", "mixer": "mixer mix",
	"operator": "operator op", "matrix": "matrix",
}

// blockFor guesses the building block that a section is; nil where its name says nothing.
func blockFor(section string) *Block {
	words := strings.FieldsFunc(strings.ToLower(section), func(r rune) bool { return r < 'a' || r > 'z' })
	for _, id := range order {
		b := BlockOf(id)
		names := strings.Fields(strings.ToLower(b.Label) + " " + moreWords[id])
		if moreWords[id] == "" {
			names = append(names, strings.Fields(b.Words)...)
		}
		for _, w := range words {
			if slices.Contains(names, w) && !(id == "highpass" && w == "filter") {
				return b
			}
		}
	}
	return nil
}

// sectionOf is the section of a row; where the table has none, that of the block which its words name or which has such a piece: "osc 2 wave" is of Oscillator 2, a cutoff of a filter.
func sectionOf(r Row) string {
	if name := strings.TrimSpace(r.Section); name != "" {
		return name
	}
	for _, text := range []string{r.Sets, r.Label} {
		if b := blockFor(text); b != nil {
			words := strings.Fields(strings.ToLower(text))
			for i, w := range words {
				bare := strings.TrimRight(w, "0123456789")
				n := w[len(bare):]
				if n == "" && i+1 < len(words) {
					n = words[i+1]
				}
				if _, err := strconv.Atoi(n); err == nil && blockFor(bare) == b {
					return b.Label + " " + n
				}
			}
			return b.Label
		}
	}
	for _, text := range []string{r.Sets, r.Label} {
		for _, id := range []string{"filter", "env", "osc", "amp", "voice", "lfo", "delay", "reverb", "chorus", "drive"} {
			b := BlockOf(id)
			for _, x := range b.Pieces {
				if sameWords(text, x.Label) {
					return b.Label
				}
			}
		}
	}
	return "Panel"
}

// FromRows puts the controls of a table into a panel, with the sections and modules that their column names: a section called "VCO 2" is an oscillator, wired as one. It gives the new panel, how
// many controls went in, and a fault for each row that did not, its path "row 7, sets". What is missing for sound to come out (a voice, an amplifier, an envelope on it) is put in.
func FromRows(p *panel.Panel, rows []Row) (out *panel.Panel, taken int, faults fault.List) {
	out, rows = clone(p), slices.Clone(rows)
	sections := map[string]string{} // by the name in the table
	find := func(name string) string {
		for _, s := range out.Sections {
			if strings.EqualFold(s.Label, name) || strings.EqualFold(s.ID, name) {
				return s.ID
			}
		}
		return ""
	}
	for i := range rows {
		rows[i].Section = sectionOf(rows[i])
	}
	for _, r := range rows {
		name := r.Section
		if _, done := sections[name]; done {
			continue
		}
		if len(sections) == maxSections {
			return p, 0, fault.List{{Path: fmt.Sprintf("row %d, section", r.N), Message: fmt.Sprintf("expected at most %d sections", maxSections), Words: fmt.Sprintf("Row %d: a table may have at most %d sections.", r.N, maxSections)}}
		}
		id := find(name)
		if b := blockFor(name); id == "" && b != nil && !b.Slots {
			if now, section, err := Add(out, b.ID, Want{Label: name, bare: true}); err == nil {
				out, id = now, section
			}
		}
		if id == "" {
			at := &builder{p: out}
			id = at.sectionFor(&Block{step: meaning.StepOsc}, name)
		}
		sections[name] = id
	}
	at := &builder{p: out}
	for _, k := range []struct {
		kind  meaning.Kind
		block string
	}{{meaning.Voice, "voice"}, {meaning.Amp, "amp"}} {
		if p.Kind == "instrument" && len(at.all(k.kind)) == 0 {
			if now, section, err := Add(out, k.block, Want{bare: true}); err == nil {
				out = now
				if !slices.Contains(slices.Collect(maps.Values(sections)), section) { // it holds nothing
					out.Sections = slices.DeleteFunc(out.Sections, func(s panel.Section) bool { return s.ID == section })
				}
				at = &builder{p: out}
			}
		}
	}
	at.opens()
	at.usual = Usual(p)
	for _, r := range rows {
		if err := at.takeRow(sections, r); err != nil {
			fill := fault.List{}
			if !errors.As(err, &fill) {
				fill = fault.List{{Message: err.Error()}}
			}
			for _, f := range fill {
				f.Words = fmt.Sprintf("Row %d, %s: %s.", r.N, cmp.Or(strings.TrimSpace(r.Label), "without a label"), strings.TrimSuffix(f.Message, "."))
				f.Path = strings.TrimSuffix(fmt.Sprintf("row %d, %s", r.N, f.Path), ", ")
				faults = append(faults, f)
			}
			continue
		}
		taken++
	}
	return at.p, taken, faults
}

// takeRow puts one row in; where it fails, nothing has changed.
func (at *builder) takeRow(sections map[string]string, r Row) (err error) {
	controls, routes := len(at.p.Controls), len(at.p.Routes)
	if strings.TrimSpace(r.Label) == "" {
		return fault.List{{Path: "label", Message: "a control needs a label"}}
	}
	l := Said{Section: sections[r.Section], Label: &r.Label}
	if text := strings.TrimSpace(r.Printed); text != "" {
		if u := strings.TrimSpace(r.Unit); u != "" && !strings.Contains(text, u) && !nothing(u) {
			text += " " + u
		}
		l.Printed = &text
	}
	if strings.TrimSpace(r.Sets) != "" {
		l.Sets = &r.Sets
	}
	id, _, err := at.say(l)
	if err != nil {
		return err
	}
	find := func() int {
		return slices.IndexFunc(at.p.Controls, func(c panel.Control) bool { return c.ID == id })
	}
	defer func() {
		if err != nil && len(at.p.Controls) > controls {
			i := find()
			at.p.Controls, at.p.Routes = slices.Delete(at.p.Controls, i, i+1), at.p.Routes[:routes]
		}
	}()
	if init := strings.TrimSpace(r.Init); init != "" {
		if _, _, err = at.say(Said{Control: id, Init: &init}); err != nil {
			return err
		}
	}
	c := &at.p.Controls[find()]
	c.Note = strings.TrimSpace(r.Note)
	for _, a := range strings.FieldsFunc(r.Aka, func(r rune) bool { return r == ',' || r == ';' || r == '|' }) {
		if a = strings.TrimSpace(a); a != "" {
			c.Aliases = append(c.Aliases, a)
		}
	}
	switch strings.ToLower(strings.TrimSpace(r.Hidden)) {
	case "", "no", "false", "0", "-":
	default:
		c.Hidden = true
	}
	for _, a := range []struct {
		column, text string
		top          int
		of           func(m *panel.MIDI) **int
	}{{"cc", r.CC, 127, func(m *panel.MIDI) **int { return &m.CC }}, {"nrpn", r.NRPN, 16383, func(m *panel.MIDI) **int { return &m.NRPN }}} {
		text := strings.TrimSpace(strings.TrimPrefix(strings.ToLower(strings.TrimSpace(a.text)), a.column))
		if text == "" || text == "-" {
			continue
		}
		n, bad := strconv.Atoi(text)
		if bad != nil || n < 0 || n > a.top {
			return fault.List{{Path: a.column, Message: fmt.Sprintf("expected a whole number from 0 to %d, got %q", a.top, a.text)}}
		}
		for k := range at.p.Controls {
			if m := at.p.Controls[k].MIDI; m != nil && *a.of(m) != nil && **a.of(m) == n {
				return fault.List{{Path: a.column, Message: fmt.Sprintf("%d is the address of %s already", n, at.p.Controls[k].Label)}}
			}
		}
		if c.MIDI == nil {
			c.MIDI = &panel.MIDI{}
		}
		*a.of(c.MIDI) = &n
	}
	return nil
}
