package server

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	"glossator/core/scale"
)

// PanelRow is a panel in a list.
type PanelRow struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Revision int    `json:"revision"`
	Kind     string `json:"kind"`
	Summary  string `json:"summary"`
	Memory   bool   `json:"memory"`
	Controls int    `json:"controls"`
	Modules  int    `json:"modules"`
	// Fault says why the panel does not open; empty where it does.
	Fault string `json:"fault,omitempty"`
	// Archived is set where it is put away, Sample where it is of the sample, as that came.
	Archived bool `json:"archived,omitempty"`
	Sample   bool `json:"sample,omitempty"`
}

// MeanView is one law of a control.
type MeanView struct {
	Param     string       `json:"param"`
	Label     string       `json:"label"`
	Law       string       `json:"law"`
	Source    string       `json:"source"`
	When      string       `json:"when"`
	Geometric bool         `json:"geometric"`
	Named     bool         `json:"named"`
	Ticks     []scale.Tick `json:"ticks"`
}

// ControlView is one control of a panel.
type ControlView struct {
	ID      string     `json:"id"`
	Label   string     `json:"label"`
	Face    string     `json:"face"`
	Expects string     `json:"expects"`
	Init    string     `json:"init"`
	Hidden  bool       `json:"hidden"`
	Note    string     `json:"note"`
	MIDI    string     `json:"midi"`
	Aliases []string   `json:"aliases"`
	Means   []MeanView `json:"means"`
}

// SectionView is a section of a panel with its controls.
type SectionView struct {
	ID       string        `json:"id"`
	Label    string        `json:"label"`
	Step     string        `json:"step"`
	Controls []ControlView `json:"controls"`
}

// ModuleView is a module of a panel in words.
type ModuleView struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	Kind  string `json:"kind"`
	Fixed string `json:"fixed"`
	When  string `json:"when"`
}

// RouteView is a connection of a panel in words.
type RouteView struct {
	Label string `json:"label"`
	Kind  string `json:"kind"`
	Via   string `json:"via"`
	When  string `json:"when"`
}

// PanelView is one panel.
type PanelView struct {
	PanelRow
	Sections []SectionView `json:"sections"`
	Parts    []ModuleView  `json:"parts"`
	Routes   []RouteView   `json:"routes"`
	Notes    []panel.Note  `json:"notes"`
	Pending  Pending       `json:"pending"`
}

func panelRow(c *panel.Compiled) PanelRow {
	return PanelRow{ID: c.ID, Name: c.Name, Revision: c.Revision, Kind: c.Kind, Summary: c.Summary, Memory: c.Memory, Controls: len(c.Controls), Modules: len(c.Modules)}
}

func (s *Server) panelRows() ([]PanelRow, error) {
	rows, err := s.store.Panels()
	if err != nil {
		return nil, err
	}
	marks, err := s.marks()
	if err != nil {
		return nil, err
	}
	out := make([]PanelRow, 0, len(rows))
	for i := range rows {
		c, err := s.compiledRow(&rows[i])
		if err != nil { // it is listed, so that it can be mended; nothing else goes with it
			s.log.Warn("a stored panel does not open", "panel", rows[i].ID, "revision", rows[i].Revision, "error", err)
			out = append(out, PanelRow{ID: rows[i].ID, Name: rows[i].Name, Revision: rows[i].Revision, Fault: problemOf(err).Detail})
			continue
		}
		r := panelRow(c)
		marks.panel(&r, rows[i].Document)
		out = append(out, r)
	}
	return out, nil
}

func whenText(c *panel.Compiled, ws []panel.When) string {
	var out []string
	for _, w := range ws {
		i, _ := c.ControlIndex(w.Control)
		out = append(out, fmt.Sprintf("%s at %s", c.Controls[i].Label, strings.Join(w.In, ", ")))
	}
	return strings.Join(out, " and ")
}

func viewOfPanel(c *panel.Compiled) PanelView {
	v := PanelView{PanelRow: panelRow(c), Sections: []SectionView{}, Parts: []ModuleView{}, Routes: []RouteView{}, Notes: c.Hidden}
	if v.Notes == nil {
		v.Notes = []panel.Note{}
	}
	at := map[string]int{}
	for _, k := range c.Order { // working order
		d := &c.Controls[k]
		i, ok := at[d.Section]
		if !ok {
			i = len(v.Sections)
			at[d.Section] = i
			v.Sections = append(v.Sections, SectionView{ID: d.Section, Label: c.SectionLabel(k), Step: string(c.StepOf(k)), Controls: []ControlView{}})
		}
		v.Sections[i].Controls = append(v.Sections[i].Controls, viewOfControl(c, k))
	}
	for i := range c.Modules {
		m := &c.Modules[i]
		var fixed []string
		for name, text := range m.Fixed {
			fixed = append(fixed, string(name)+" "+text)
		}
		slices.Sort(fixed)
		v.Parts = append(v.Parts, ModuleView{ID: m.ID, Label: m.Label, Kind: meaning.SpecOf(m.Kind).Label, Fixed: strings.Join(fixed, ", "), When: whenText(c, m.When)})
	}
	for i := range c.Routes {
		r := &c.Routes[i]
		kind := "wired"
		switch {
		case len(c.Binds(meaning.Ref(r.ID, meaning.POn))) > 0:
			kind = "switched"
		case r.Normal != "":
			kind = "normalled"
		case len(r.When) > 0:
			kind = "chosen"
		}
		v.Routes = append(v.Routes, RouteView{Label: r.Label, Kind: kind, Via: r.Via, When: whenText(c, r.When)})
	}
	if c.Matrix != nil {
		for _, s := range c.Matrix.Slots {
			v.Routes = append(v.Routes, RouteView{Label: s.Label, Kind: "slot", Via: s.Via, When: whenText(c, s.When)})
		}
	}
	for _, p := range c.Points {
		v.Routes = append(v.Routes, RouteView{Label: p.Label, Kind: map[string]string{"in": "patch point, input", "out": "patch point, output"}[p.Dir]})
	}
	return v
}

func viewOfControl(c *panel.Compiled, k int) ControlView {
	d := &c.Controls[k]
	v := ControlView{ID: d.ID, Label: d.Label, Face: string(d.Face.Kind), Expects: d.Face.Expects(), Init: c.Init(k).Reading, Hidden: d.Hidden, Note: d.Note, Aliases: d.Aliases, Means: []MeanView{}}
	if v.Aliases == nil {
		v.Aliases = []string{}
	}
	if m := d.MIDI; m != nil {
		switch {
		case m.CC != nil:
			v.MIDI = fmt.Sprintf("CC %d", *m.CC)
		case m.NRPN != nil:
			v.MIDI = fmt.Sprintf("NRPN %d", *m.NRPN)
		case m.Byte != nil:
			v.MIDI = fmt.Sprintf("dump byte %d", *m.Byte)
		}
	}
	for i := range d.Means {
		b := &d.Means[i]
		owner, name := meaning.Split(b.Param)
		label := owner
		if k, ok := c.ModuleIndex(owner); ok {
			label = c.Modules[k].Label
		} else if k, ok := c.RouteIndex(owner); ok {
			label = c.Routes[k].Label
		}
		if p, err := c.Param(b.Param); err == nil {
			label += ": " + p.Label
		} else {
			label += ": " + string(name)
		}
		m := MeanView{Param: b.Param, Label: label, Law: b.Law.String(), Source: string(b.Law.Source), When: whenText(c, b.When)}
		m.Ticks, m.Geometric, m.Named = drawn(d.Face, b.Law)
		v.Means = append(v.Means, m)
	}
	return v
}

// drawn gives the ticks that a scale is drawn by.
func drawn(f scale.Face, l scale.Law) (ticks []scale.Tick, geometric, named bool) {
	ticks = scale.Ticks(f, l, nil)
	if len(ticks) > 40 { // drawn by the ticks that carry a reading
		kept := ticks[:0:0]
		for n, t := range ticks {
			if t.Major || n == 0 || n == len(ticks)-1 {
				kept = append(kept, t)
			}
		}
		ticks = kept
	}
	return ticks, l.Dim().Geometric(), l.Dim().Named()
}

// targetsOf lists the instruments that a patch of a panel can go to, its own last.
func targetsOf(all []PanelRow, own string) []PanelRow {
	out := []PanelRow{}
	var last []PanelRow
	for _, r := range all {
		switch {
		case r.Kind != "instrument", r.Archived && r.ID != own:
		case r.ID == own:
			last = append(last, r)
		default:
			out = append(out, r)
		}
	}
	return append(out, last...)
}

func (s *Server) panelView(ctx context.Context, in named) (none PanelView, err error) {
	p, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	v := viewOfPanel(p)
	if v.Pending, err = s.pending(); err != nil {
		return none, err
	}
	return v, nil
}

func (s *Server) panelExport(ctx context.Context, in named) (none File[panel.Panel], err error) {
	p, err := s.compiled(in.ID, 0)
	if err != nil {
		return none, err
	}
	return downloadJSON(p.ID+".panel.json", *p.Panel)
}
