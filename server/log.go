package server

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"glossator/core/calibrate"
	"glossator/core/panel"
	"glossator/core/translate"
	"glossator/formats"
	"glossator/formats/wav"
	"glossator/store"
)

// Reasons are the short reasons of a correction.
var Reasons = []string{"darker", "brighter", "longer", "shorter", "louder", "softer", "thicker", "thinner", "in tune", "more movement", "less movement", "an octave up", "an octave down", "to taste"}

// EntryRow is a line of the log.
type EntryRow struct {
	ID uint   `json:"id"`
	At string `json:"at"`
	// Kind is "correction", "note" or "sign-off".
	Kind   string `json:"kind"`
	Sheet  uint   `json:"sheet"`
	Patch  string `json:"patch"`
	Name   string `json:"name"`
	Source string `json:"source"`
	Target string `json:"target"`
	// On is the target's name.
	On      string `json:"on"`
	Control string `json:"control,omitempty"`
	Label   string `json:"label,omitempty"`
	Planned string `json:"planned,omitempty"`
	Reading string `json:"reading,omitempty"`
	// Kept is unset where a correction was tried and another reading stands now.
	Kept bool     `json:"kept"`
	Tags []string `json:"tags"`
	Why  string   `json:"why"`
	Who  string   `json:"who"`
}

func (s *Server) rowsOf(all []store.Logged) []EntryRow {
	out := []EntryRow{}
	for i := range all {
		x := &all[i]
		r := EntryRow{ID: x.ID, At: x.At.UTC().Format(time.RFC3339), Kind: x.Kind, Sheet: x.SheetID, Patch: x.Patch, Name: x.PatchName, Source: x.Source, Target: x.Target, On: x.Target, Control: x.Control, Label: x.Label,
			Planned: x.Planned, Reading: x.Reading, Kept: x.Kept(), Tags: []string{}, Why: x.Why, Who: x.Who}
		if c, err := s.compiled(x.Target, x.TargetRevision); err == nil {
			r.On = c.Name
		}
		if x.Tags != "" {
			r.Tags = strings.Split(x.Tags, ",")
		}
		out = append(out, r)
	}
	return out
}

// CorrectionBody says what was set, and why.
type CorrectionBody struct {
	Reading string   `json:"reading"`
	Tags    []string `json:"tags,omitempty"`
	Why     string   `json:"why,omitempty"`
}

type correctionRequest struct {
	ID      uint   `path:"id"`
	Control string `path:"control"`
	Body    CorrectionBody
}

// Most of what is said in an entry, in bytes, and of who signs.
const (
	mostWhy = 2000
	mostWho = 80
)

// goodTags gives the reasons of the list that are meant, each once.
func goodTags(all []string) (string, error) {
	var out []string
	for _, t := range all {
		if !slices.Contains(Reasons, t) {
			return "", badRequest{fmt.Errorf("tags: expected one of %s, got %q", strings.Join(Reasons, ", "), t)}
		}
		if !slices.Contains(out, t) {
			out = append(out, t)
		}
	}
	return strings.Join(out, ","), nil
}

// correct sets a reading of the target by hand, and keeps what was planned and why.
func (s *Server) correct(ctx context.Context, in correctionRequest) (none SheetView, err error) {
	b := in.Body
	j, err := s.sheetAt(ctx, in.ID)
	if err != nil {
		return none, err
	}
	k, ok := j.dst.ControlIndex(in.Control)
	if !ok {
		return none, store.ErrNotFound
	}
	at, err := j.dst.Parse(k, strings.TrimSpace(b.Reading))
	if err != nil {
		return none, badRequest{err}
	}
	if len(b.Why) > mostWhy {
		return none, badRequest{fmt.Errorf("why: expected at most %d bytes, got %d", mostWhy, len(b.Why))}
	}
	tags, err := goodTags(b.Tags)
	if err != nil {
		return none, err
	}
	planned, err := j.planned(in.Control)
	if err != nil {
		return none, err
	}
	row, err := s.store.Correct(j.row, store.Entry{Control: in.Control, Label: strings.TrimSpace(j.dst.SectionLabel(k) + " " + j.dst.Controls[k].Label), Planned: planned, Reading: at.Reading, Tags: tags, Why: strings.TrimSpace(b.Why)})
	if err != nil {
		return none, err
	}
	if j, err = s.inputs(row); err != nil {
		return none, err
	}
	return s.answerSheet(j)
}

// planned gives what a sheet sets a control to where nobody sets it by hand.
func (j *sheetInputs) planned(control string) (string, error) {
	o := j.options()
	o.Overrides = maps.Clone(j.over)
	delete(o.Overrides, control)
	sheet, err := translate.Translate(j.src, j.patch, j.dst, o)
	if err != nil {
		return "", err
	}
	for _, x := range sheet.Settings {
		if x.Control == control {
			return x.Reading, nil
		}
	}
	return "", store.ErrNotFound
}

// EntryBody is a note or a sign-off.
type EntryBody struct {
	Kind string `json:"kind" jsonschema:"enum=note,enum=sign-off"`
	Why  string `json:"why"`
	Who  string `json:"who,omitempty"`
}

type entryRequest struct {
	ID   uint `path:"id"`
	Body EntryBody
}

// Log is what the log holds.
type Log struct {
	Entries []EntryRow `json:"entries"`
	// Most is how many are given at once, the newest; there may be more.
	Most int `json:"most"`
	// Learnt are the laws that corrections say something of.
	Learnt  []LearntRow `json:"learnt"`
	Pending Pending     `json:"pending"`
}

// entry keeps a note of what was heard, or that somebody has signed the sheet off.
func (s *Server) entry(ctx context.Context, in entryRequest) (none Log, err error) {
	b := in.Body
	b.Why, b.Who = strings.TrimSpace(b.Why), strings.TrimSpace(b.Who)
	row, err := s.store.Sheet(in.ID)
	if err != nil {
		return none, err
	}
	what := row.PatchName + ": a note"
	switch {
	case b.Kind == store.KindNote && b.Why == "":
		return none, badRequest{errors.New("why: expected what was heard")}
	case b.Kind == store.KindSignOff && b.Who == "":
		return none, badRequest{errors.New("who: expected who signs it off")}
	case b.Kind == store.KindSignOff:
		what = row.PatchName + ": signed off by " + b.Who
	case b.Kind != store.KindNote:
		return none, badRequest{fmt.Errorf("kind: expected note or sign-off, got %q", b.Kind)}
	}
	if len(b.Why) > mostWhy || len(b.Who) > mostWho {
		return none, badRequest{fmt.Errorf("expected at most %d bytes of text and %d of a name", mostWhy, mostWho)}
	}
	if err := s.store.Log(what, store.Entry{SheetID: in.ID, Kind: b.Kind, Why: b.Why, Who: b.Who}); err != nil {
		return none, err
	}
	return s.logOf(store.Search{Sheet: in.ID})
}

// RecordingBody names a recording that stands on one side of a sheet.
type RecordingBody struct {
	// Key of the sound, Side of the sheet: "source" or "target".
	Key  string `json:"key"`
	Side string `json:"side"`
	Why  string `json:"why,omitempty"`
}

type recordingLogRequest struct {
	ID   uint `path:"id"`
	Body RecordingBody
}

// logRecording keeps a recording of one side of a sheet in the log: its sound up to the bound of takes, beyond it that there was one.
func (s *Server) logRecording(ctx context.Context, in recordingLogRequest) (none Log, err error) {
	b := in.Body
	j, err := s.sheet(in.ID)
	if err != nil {
		return none, err
	}
	of := map[string]string{"source": j.src.Name, "target": j.dst.Name}[b.Side]
	if bad := formats.Unfit(b.Why); of == "" || len(b.Why) > mostWhy || bad != "" {
		return none, badRequest{fmt.Errorf("expected the side source or target, got %q, and at most %d bytes of plain text", b.Side, mostWhy)}
	}
	k, err := s.sounds.get(b.Key)
	if err != nil {
		return none, err
	}
	if !k.Recording {
		return none, badRequest{errors.New("key: expected that of a recording, got a render")}
	}
	var w bytes.Buffer
	if err := wav.Write(&w, &wav.Sound{Rate: k.Rate, Bits: 24, Left: k.Left, Right: k.Right}); err != nil {
		return none, err
	}
	name, err := s.store.KeepTake(w.Bytes())
	if err != nil {
		return none, err
	}
	what := strings.TrimSpace(fmt.Sprintf("of %s, %.1f s", of, float64(len(k.Left))/float64(k.Rate)))
	if k.Label != "" {
		what = k.Label + ", " + what
	}
	if name == "" {
		what += " (its sound would go beyond what is kept)"
	}
	if why := strings.TrimSpace(b.Why); why != "" {
		what += ": " + why
	}
	if err := s.store.Log(j.patch.Name+": a recording", store.Entry{SheetID: in.ID, Kind: store.KindRecording, Reading: name, Why: what}); err != nil {
		return none, err
	}
	return s.logOf(store.Search{Sheet: in.ID})
}

type logRequest struct {
	Sheet  uint   `query:"sheet"`
	Patch  string `query:"patch"`
	Source string `query:"source"`
	Target string `query:"target"`
	Kind   string `query:"kind"`
	Find   string `query:"find"`
}

func (r logRequest) search() store.Search {
	return store.Search{Sheet: r.Sheet, Patch: r.Patch, Source: r.Source, Target: r.Target, Kind: r.Kind, Find: r.Find}
}

// log gives what was corrected, noted and signed off, the newest first.
func (s *Server) readLog(ctx context.Context, in logRequest) (Log, error) {
	return s.logOf(in.search())
}

func (s *Server) logOf(ask store.Search) (none Log, err error) {
	all, err := s.store.Entries(ask)
	if err != nil {
		return none, err
	}
	out := Log{Entries: s.rowsOf(all), Most: store.MostEntries, Learnt: []LearntRow{}}
	if out.Learnt, err = s.learnt(ask.Source, ask.Target); err != nil {
		return none, err
	}
	out.Pending, err = s.pending()
	return out, err
}

// logCSV gives the log as a table for a spreadsheet.
func (s *Server) logCSV(ctx context.Context, in logRequest) (none File[None], err error) {
	all, err := s.store.Entries(in.search())
	if err != nil {
		return none, err
	}
	var b strings.Builder
	w := csv.NewWriter(&b)
	rows := [][]string{{"When", "What", "Patch", "From", "To", "Control", "Planned", "Set", "Kept", "Reasons", "Why", "Who"}}
	for _, r := range s.rowsOf(all) {
		kept := ""
		if r.Kind == store.KindCorrection {
			kept = map[bool]string{true: "yes", false: "no"}[r.Kept]
		}
		rows = append(rows, []string{r.At, r.Kind, formats.Harmless(r.Name), r.Source, formats.Harmless(r.On), formats.Harmless(r.Label), formats.Harmless(r.Planned), formats.Harmless(r.Reading), kept, strings.Join(r.Tags, ", "), formats.Harmless(r.Why), formats.Harmless(r.Who)})
	}
	if err := w.WriteAll(rows); err != nil {
		return none, err
	}
	return download("log.csv", "text/csv", []byte(b.String()))
}

// LearntRow is a law that corrections of several patches say something of.
type LearntRow struct {
	calibrate.Learnt
	Source     string `json:"source"`
	Target     string `json:"target"`
	TargetName string `json:"targetName"`
	Control    string `json:"control"`
	Label      string `json:"label"`
}

// learnt gathers what corrections say of laws, by pair of instruments: those that still stand, on sheets whose target has the control's law as it is now.
func (s *Server) learnt(source, target string) ([]LearntRow, error) {
	all, err := s.store.Entries(store.Search{Kind: store.KindCorrection, Source: source, Target: target})
	if err != nil {
		return nil, err
	}
	type key struct{ source, target, control string }
	by := map[key][]calibrate.Corrected{}
	var order []key
	for i := range all {
		x := &all[i]
		if !x.Kept() || !s.sameLaw(x) {
			continue
		}
		k := key{x.Source, x.Target, x.Control}
		if by[k] == nil {
			order = append(order, k)
		}
		by[k] = append(by[k], calibrate.Corrected{Patch: x.Patch, Planned: x.Planned, Set: x.Reading})
	}
	out := []LearntRow{}
	for _, k := range order {
		if len(by[k]) < 2 {
			continue
		}
		c, err := s.compiled(k.target, 0)
		if err != nil {
			continue
		}
		l, err := calibrate.Learn(c, k.control, by[k])
		if err != nil || l.N < 2 {
			continue
		}
		i, _ := c.ControlIndex(k.control)
		out = append(out, LearntRow{Learnt: l, Source: k.source, Target: k.target, TargetName: c.Name, Control: k.control, Label: strings.TrimSpace(c.SectionLabel(i) + " " + c.Controls[i].Label)})
	}
	slices.SortStableFunc(out, func(a, b LearntRow) int { return b.N - a.N })
	return out, nil
}

// sameLaw tells whether the control that was corrected has the same laws now as when it was.
func (s *Server) sameLaw(x *store.Logged) bool {
	laws := func(c *panel.Compiled, err error) string {
		if err != nil {
			return ""
		}
		k, ok := c.ControlIndex(x.Control)
		if !ok {
			return ""
		}
		var out []string
		for _, m := range c.Controls[k].Means {
			out = append(out, m.Param+" "+m.Law.String())
		}
		return strings.Join(out, "; ")
	}
	then := laws(s.compiled(x.Target, x.TargetRevision))
	return then != "" && then == laws(s.compiled(x.Target, 0))
}

type learntRequest struct {
	ID      string `path:"id"`
	Control string `path:"control"`
	Source  string `query:"source"`
}

// adoptLearnt moves the law of a control by what corrections say, in a new revision of its panel; never by itself.
func (s *Server) adoptLearnt(ctx context.Context, in learntRequest) (none Log, err error) {
	c, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	all, err := s.learnt(in.Source, in.ID)
	if err != nil {
		return none, err
	}
	i := slices.IndexFunc(all, func(x LearntRow) bool { return x.Control == in.Control && (in.Source == "" || x.Source == in.Source) })
	if i < 0 {
		return none, badRequest{errors.New("no corrections of this control stand that say something of its law")}
	}
	if !all[i].Offered {
		return none, badRequest{errors.New(all[i].Why)}
	}
	p, err := all[i].Adopted(c, in.Control)
	if err != nil {
		return none, err
	}
	if _, err := panel.Compile(p); err != nil {
		return none, badRequest{fmt.Errorf("the law that was learnt does not fit the control: %w", err)}
	}
	if _, err := s.store.PutPanelAs(fmt.Sprintf("move the law of %s %s by what was corrected", c.Name, all[i].Label), p); err != nil {
		return none, err
	}
	return s.logOf(store.Search{})
}
