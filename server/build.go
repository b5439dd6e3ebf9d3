package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"glossator/core/build"
	"glossator/core/fault"
	"glossator/core/panel"
	"glossator/formats"
)

// Beginning asks for a new panel: its name, a starting point ("blank" where there is none), and what is printed beside its knobs.
type Beginning struct {
	Name  string `json:"name"`
	Start string `json:"start,omitempty"`
	Usual string `json:"usual,omitempty"`
}

type panelBlankRequest struct {
	Body Beginning
}

// panelBlank begins a new panel as a draft, from a starting point.
func (s *Server) panelBlank(ctx context.Context, in panelBlankRequest) (none Draft, err error) {
	b := in.Body
	if b.Start == "" {
		b.Start = "blank"
	}
	p, err := build.Begin(b.Start, "", strings.TrimSpace(b.Name), strings.TrimSpace(b.Usual))
	if err != nil {
		return none, badRequest{err}
	}
	return s.newPanel(p)
}

// NewBlock puts a building block into the draft, or a section of another panel as one.
type NewBlock struct {
	// Block is the id of a building block; where it is empty, Panel and Section name a section to copy.
	Block   string `json:"block,omitempty"`
	Panel   string `json:"panel,omitempty"`
	Section string `json:"section,omitempty"`
	build.Want
}

type workshopBlockRequest struct {
	ID   string `path:"id"`
	Body NewBlock
}

// workshopBlock puts a block into the draft. The answer's At is the id of its section.
func (s *Server) workshopBlock(ctx context.Context, in workshopBlockRequest) (none Workshop, err error) {
	b := in.Body
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	if why := formats.Unfit(b.Label); why != "" {
		return none, badRequest{errors.New("expected a label " + why)}
	}
	if b.Block == "" && b.Panel == "" {
		return none, badRequest{errors.New("expected a building block, or a section of a panel")}
	}
	var now *panel.Panel
	var at, what string
	var left []string
	if b.Block != "" {
		if now, at, err = build.Add(d.panel, b.Block, b.Want); err == nil {
			what = build.BlockOf(b.Block).Label
		}
	} else {
		from, e := s.anyPanel(b.Panel)
		if e != nil {
			return none, e
		}
		now, at, left, err = build.Copy(d.panel, from, b.Section, b.Label)
		what = "section of " + from.Name
	}
	if err != nil {
		return none, badRequest{err}
	}
	v, err := s.keepDraft(ctx, "put in "+panel.LowerFirst(what), d, now)
	v.At, v.Doubts = at, left
	return v, err
}

// anyPanel gives a panel as it is being worked on or, where it is not, in its newest revision.
func (s *Server) anyPanel(id string) (*panel.Panel, error) {
	d, err := s.draftOf(context.Background(), id)
	if err != nil {
		return nil, err
	}
	return d.panel, nil
}

type workshopLineRequest struct {
	ID   string `path:"id"`
	Body build.Said
}

// workshopLine adds or changes a control as it is said. The answer's At is its id. Faults stand at "label", "printed", "sets" and "init".
func (s *Server) workshopLine(ctx context.Context, in workshopLineRequest) (none Workshop, err error) {
	l := in.Body
	for name, text := range map[string]*string{"label": l.Label, "printed": l.Printed, "sets": l.Sets, "init": l.Init} {
		if text == nil {
			continue
		}
		if len(*text) > 4000 || name == "label" && len(*text) > mostLabel {
			return none, fault.List{{Path: name, Message: fmt.Sprintf("expected at most %d characters", map[bool]int{true: mostLabel, false: 4000}[name == "label"])}}
		}
		if why := formats.Unfit(*text); why != "" {
			return none, fault.List{{Path: name, Message: "expected a text " + why}}
		}
	}
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	now, id, doubts, err := build.Say(d.panel, l)
	if err != nil {
		if faults := (fault.List{}); errors.As(err, &faults) {
			return none, faults
		}
		return none, badRequest{err}
	}
	what := "a new control"
	for _, c := range now.Controls {
		switch {
		case c.ID != id:
		case l.Control == "":
			what = "new: " + c.Label
		default:
			what = c.Label + ": " + lineWords(l)
		}
	}
	v, err := s.keepDraft(ctx, what, d, now)
	v.At, v.Doubts = id, doubts
	return v, err
}

// lineWords says what of a line was set.
func lineWords(l build.Said) string {
	switch {
	case l.Label != nil:
		return "label"
	case l.Printed != nil:
		return "what is printed"
	case l.Sets != nil:
		return "what it sets"
	}
	return "init"
}

type workshopSettingsRequest struct {
	ID      string `path:"id"`
	Find    string `query:"find"`
	Section string `query:"section"`
	// Label is a control's own: what it may mean is looked for where Find is empty.
	Label string `query:"label"`
}

// mostLabel is how long a label may be that is written into the table.
const mostLabel = 200

// maxSettings is how many settings a search shows.
const maxSettings = 12

// workshopSettings finds what a control may set, by the trade's words.
func (s *Server) workshopSettings(ctx context.Context, in workshopSettingsRequest) (none FoundSets, err error) {
	if len(in.Find)+len(in.Label) > mostQuery {
		return none, badRequest{fmt.Errorf("expected at most %d bytes", mostQuery)}
	}
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	text, some := in.Find, false
	if strings.TrimSpace(text) == "" {
		text, some = in.Label, true
	}
	found := d.panel.FindSets(text, in.Section, some)
	out := FoundSets{Settings: []panel.Sets{}, Of: len(found)}
	out.Settings = append(out.Settings, found[:min(maxSettings, len(found))]...)
	return out, nil
}

// FoundSets is what a control may set, best first; Of is how many there are.
type FoundSets struct {
	Settings []panel.Sets `json:"settings"`
	Of       int          `json:"of"`
}

// LineView is a control in one line.
type LineView struct {
	Control string `json:"control"`
	// Printed is what is printed beside it; empty where one line cannot say that. Reads is what it takes, in words.
	Printed string `json:"printed,omitempty"`
	Reads   string `json:"reads,omitempty"`
	// Sets is what it sets; More is how much else it sets. Law tells the law of it, Source where that is from.
	Sets string `json:"sets,omitempty"`
	More int    `json:"more,omitempty"`
	// All has what each of its laws sets, where there are several.
	All    []string `json:"all,omitempty"`
	Law    string   `json:"law,omitempty"`
	Source string   `json:"source,omitempty"`
}

// labelsOf gives the trade's words for what a panel's controls may set.
func labelsOf(p *panel.Panel) map[[2]string]string {
	out := map[[2]string]string{}
	for _, x := range p.AllSets() {
		out[[2]string{x.Param, x.Part}] = x.Label
	}
	return out
}

// linesOf gives the controls of a draft in lines.
func linesOf(p *panel.Panel) []LineView {
	labels := labelsOf(p)
	out := make([]LineView, len(p.Controls))
	for i := range p.Controls {
		out[i] = controlLine(&p.Controls[i], labels)
	}
	return out
}

func controlLine(c *panel.Control, labels map[[2]string]string) LineView {
	v := LineView{Control: c.ID}
	sound := len(c.Face.Check()) == 0
	if sound {
		if v.Printed = c.Face.Printed(); v.Printed == "" {
			v.Reads = c.Face.Expects()
		}
	}
	if len(c.Means) == 0 {
		return v
	}
	b := &c.Means[0]
	if v.Sets = labels[[2]string{b.Param, b.Part}]; v.Sets == "" {
		v.Sets = "something that is not here any more"
	}
	v.More, v.Source = len(c.Means)-1, string(b.Law.Source)
	for j := range c.Means {
		if x := &c.Means[j]; len(c.Means) > 1 {
			v.All = append(v.All, labels[[2]string{x.Param, x.Part}])
		}
	}
	if sound && len(b.Law.Check(c.Face)) == 0 {
		v.Law = b.Law.Short()
	}
	return v
}

// OwnBlocks are the sections of the panels that are there, to be put in as blocks.
type OwnBlocks struct {
	Sections []build.Own `json:"sections"`
}

// ownBlocks lists the sections of all panels.
func (s *Server) ownBlocks(ctx context.Context, in None) (none OwnBlocks, err error) {
	rows, err := s.store.Panels()
	if err != nil {
		return none, err
	}
	out := OwnBlocks{Sections: []build.Own{}}
	seen := map[string]bool{}
	take := func(doc []byte) {
		var p panel.Panel
		if json.Unmarshal(doc, &p) == nil && !seen[p.ID] { // what cannot be read is told on the desk
			seen[p.ID] = true
			out.Sections = append(out.Sections, build.Owned(&p)...)
		}
	}
	drafts, err := s.store.Drafts()
	if err != nil {
		return none, err
	}
	for _, d := range drafts {
		take(d.Document)
	}
	for _, r := range rows {
		take(r.Document)
	}
	return out, nil
}

// workshopLineTry draws a control as it would be if a line was taken; nothing is stored.
func (s *Server) workshopLineTry(ctx context.Context, in workshopLineRequest) (none TriedLine, err error) {
	d, err := s.draftOf(ctx, in.ID)
	if err != nil {
		return none, err
	}
	now, id, doubts, err := build.Say(d.panel, in.Body)
	if err != nil {
		faults := fault.List{}
		if !errors.As(err, &faults) {
			faults = fault.List{{Path: "label", Message: err.Error()}}
		}
		return TriedLine{Faults: faults, Means: []MeanView{}}, nil
	}
	i := slices.IndexFunc(now.Controls, func(c panel.Control) bool { return c.ID == id })
	drawn := tried(now.Controls[i])
	line := controlLine(&now.Controls[i], labelsOf(now))
	return TriedLine{Line: line, Init: drawn.Init, Expects: drawn.Expects, Means: drawn.Means, Faults: drawn.Faults, Doubts: doubts}, nil
}

// TriedLine is a control as a line would make it.
type TriedLine struct {
	Line    LineView   `json:"line"`
	Init    string     `json:"init"`
	Expects string     `json:"expects"`
	Means   []MeanView `json:"means"`
	Faults  fault.List `json:"faults"`
	Doubts  []string   `json:"doubts,omitempty"`
}

// TableRead is a panel that was begun from a table, with what of it did not go in.
type TableRead struct {
	Draft Draft      `json:"draft"`
	Taken int        `json:"taken"`
	Rows  fault.List `json:"rows"`
}

func (s *Server) templateCSV(ctx context.Context, in None) (none File[None], err error) {
	return download("controls.csv", "text/csv; charset=utf-8", formats.TemplateCSV())
}

func (s *Server) templateXLSX(ctx context.Context, in None) (none File[None], err error) {
	b, err := formats.TemplateXLSX()
	if err != nil {
		return none, err
	}
	return download("controls.xlsx", workbookType, b)
}

const workbookType = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
