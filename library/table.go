package library

import (
	"strconv"
	"strings"

	"glossator/core/gloss"
	"glossator/core/heard"
	"glossator/formats"
)

// Row is one layer of a patch on one target: what has become of it.
type Row struct {
	// Patch is the file, relative to the folder of patches; Sheet that of the sheet, relative to the folder it is written to.
	Patch  string `json:"patch"`
	Sheet  string `json:"sheet,omitempty"`
	Name   string `json:"name,omitempty"`
	Kind   string `json:"kind,omitempty"`
	Layer  string `json:"layer,omitempty"` // where the patch has several
	Source string `json:"source,omitempty"`
	Target string `json:"target,omitempty"`
	// Counts are the lines of the sheet by verdict, Carried the share of the patch that is carried, in per cent.
	Counts  map[gloss.Verdict]int `json:"counts,omitempty"`
	Carried float64               `json:"carried"`
	Why     string                `json:"why,omitempty"`
	// Clean tells whether the audit found nothing.
	Clean bool   `json:"clean"`
	Heard *Sound `json:"heard,omitempty"`
	// Fault says why there is no sheet.
	Fault string `json:"fault,omitempty"`
}

// Sound is how far the two sound apart, where it has been listened to.
type Sound struct {
	// Apart and Unsure are in just-noticeable differences, the second one standard deviation; Mostly names the respects, Silent the side that cannot be heard.
	Apart  float64 `json:"apart"`
	Unsure float64 `json:"unsure"`
	Mostly string  `json:"mostly"`
	Silent string  `json:"silent,omitempty"`
}

// fill takes what a sheet and listening to it say.
func (r *Row) fill(s *gloss.Sheet, h *heard.Report) {
	c := gloss.CarriedBy(s)
	r.Counts, r.Carried, r.Why, r.Clean = c.Summary, gloss.Round(100*c.Share, 1), c.Why, c.Clean
	if h == nil {
		return
	}
	var mostly []string
	for _, x := range h.Mostly {
		mostly = append(mostly, x.Name)
	}
	r.Heard = &Sound{Apart: gloss.Round(h.Apart.Total, 2), Unsure: gloss.Round(h.Unsure, 2), Mostly: strings.Join(mostly, ", "), Silent: h.Silent}
	for _, k := range h.Checks {
		r.Clean = r.Clean && k.OK
	}
}

// columns are the headings of the table.
func columns() []string {
	out := []string{"patch", "name", "kind", "layer", "source", "target"}
	for _, v := range gloss.Verdicts {
		out = append(out, string(v))
	}
	return append(out, "carried %", "apart, just-noticeable differences", "unsure", "mostly", "silent", "audit", "why", "sheet", "fault")
}

// cells are a row under the columns. What a spreadsheet would take for a formula is made harmless.
func (r *Row) cells() []string {
	out := []string{r.Patch, r.Name, r.Kind, r.Layer, r.Source, r.Target}
	for _, v := range gloss.Verdicts {
		out = append(out, r.sheeted(strconv.Itoa(r.Counts[v])))
	}
	out = append(out, r.sheeted(number(r.Carried)))
	if r.Heard != nil {
		out = append(out, number(r.Heard.Apart), number(r.Heard.Unsure), r.Heard.Mostly, r.Heard.Silent)
	} else {
		out = append(out, "", "", "", "")
	}
	out = append(out, r.sheeted(map[bool]string{true: "clean", false: "see the sheet"}[r.Clean]), r.Why, r.Sheet, r.Fault)
	for i := range out {
		out[i] = formats.Harmless(out[i])
	}
	return out
}

// sheeted gives a cell of rows that have a sheet.
func (r *Row) sheeted(cell string) string {
	if r.Fault != "" {
		return ""
	}
	return cell
}

func number(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
