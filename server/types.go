package server

import (
	"glossator/core/dialin"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/reckon"
	"glossator/core/scale"
	"glossator/core/translate"
)

// Pending tells what undo and redo would do; empty where there is nothing.
type Pending struct {
	Undo string `json:"undo"`
	Redo string `json:"redo"`
}

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
}

// PatchRow is a patch in a list.
type PatchRow struct {
	ID        string   `json:"id"`
	Name      string   `json:"name"`
	Kind      string   `json:"kind"`
	Panel     string   `json:"panel"`
	PanelName string   `json:"panelName"`
	Tempo     float64  `json:"tempo"`
	Tags      []string `json:"tags"`
	Notes     string   `json:"notes"`
	// Layers by id, in order.
	Layers []string `json:"layers"`
	// Changed counts the readings that are not at init.
	Changed int `json:"changed"`
}

// SheetRow is a sheet in a list.
type SheetRow struct {
	ID         uint                      `json:"id"`
	Patch      string                    `json:"patch"`
	PatchName  string                    `json:"patchName"`
	Source     string                    `json:"source"`
	SourceName string                    `json:"sourceName"`
	Target     string                    `json:"target"`
	TargetName string                    `json:"targetName"`
	School     string                    `json:"school"`
	Updated    string                    `json:"updated"`
	Ticked     int                       `json:"ticked"`
	Lines      int                       `json:"lines"`
	Summary    map[translate.Verdict]int `json:"summary"`
	Clean      bool                      `json:"clean"`
}

// Desk is what is on the go.
type Desk struct {
	Patches []PatchRow `json:"patches"`
	Sheets  []SheetRow `json:"sheets"`
	Panels  []PanelRow `json:"panels"`
	Pending Pending    `json:"pending"`
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

// FoundControl is a control that a search found.
type FoundControl struct {
	Panel     string `json:"panel"`
	PanelName string `json:"panelName"`
	Control   string `json:"control"`
	Section   string `json:"section"`
	Label     string `json:"label"`
	// Sets says what the control sets, and in which quantity.
	Sets    string `json:"sets"`
	Expects string `json:"expects"`
}

// FoundControls is what a search found, best first; More counts those beyond the limit.
type FoundControls struct {
	Found []FoundControl `json:"found"`
	More  int            `json:"more"`
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

// PatchLine is one reading of a patch with what it means.
type PatchLine struct {
	Control string `json:"control"`
	Section string `json:"section"`
	Step    string `json:"step"`
	Label   string `json:"label"`
	Reading string `json:"reading"`
	Init    string `json:"init"`
	AtInit  bool   `json:"atInit"`
	Meaning string `json:"meaning"`
	Tol     string `json:"tol"`
	Param   string `json:"param"`
	Idle    string `json:"idle"`
	Expects string `json:"expects"`
	// Entries are the named positions of the control, for completion.
	Entries []string `json:"entries"`
}

// LayerView is one layer of a patch.
type LayerView struct {
	ID     string        `json:"id"`
	Label  string        `json:"label"`
	Lines  []PatchLine   `json:"lines"`
	Cables []patch.Cable `json:"cables"`
}

// PatchView is one patch.
type PatchView struct {
	PatchRow
	LayerViews []LayerView   `json:"layerViews"`
	Phrase     *patch.Phrase `json:"phrase"`
	Targets    []PanelRow    `json:"targets"`
	Pending    Pending       `json:"pending"`
}

// SheetView is one sheet with its list and ticks.
type SheetView struct {
	ID      uint            `json:"id"`
	Sheet   translate.Sheet `json:"sheet"`
	DialIn  dialin.DialIn   `json:"dialIn"`
	Ticks   []string        `json:"ticks"`
	Targets []PanelRow      `json:"targets"`
	Pending Pending         `json:"pending"`
	// Newer says that the patch or a panel has changed since the sheet was made.
	Newer string `json:"newer"`
}

// OpenSheet asks for the sheet of a patch on a target.
type OpenSheet struct {
	Patch  string           `json:"patch"`
	Layer  string           `json:"layer,omitempty"`
	Target string           `json:"target"`
	School translate.School `json:"school,omitempty"`
}

// Opened names a sheet.
type Opened struct {
	ID uint `json:"id"`
}

// Step asks for a reading so many of the face's steps further.
type Step struct {
	By int `json:"by"`
}

// PatchHead is what is written about a patch beside its readings.
type PatchHead struct {
	Name  string   `json:"name"`
	Kind  string   `json:"kind"`
	Tempo float64  `json:"tempo"`
	Tags  []string `json:"tags"`
	Notes string   `json:"notes"`
}

// NewPatch asks for a patch with every control at init.
type NewPatch struct {
	Name  string `json:"name"`
	Panel string `json:"panel"`
	Kind  string `json:"kind"`
}

// Notes are free notes about a patch.
type Notes struct {
	Notes string `json:"notes"`
}

// ReadingsBody carries several readings, by control.
type ReadingsBody struct {
	Readings map[string]string `json:"readings"`
}

// ReadingBody carries a reading as it is typed.
type ReadingBody struct {
	Reading string `json:"reading"`
}

// Sums lists the reckoner's lines.
type Sums struct {
	Sums    []reckon.Sum `json:"sums"`
	Pending Pending      `json:"pending"`
}

// Done tells what undo or redo did.
type Done struct {
	What    string  `json:"what"`
	Pending Pending `json:"pending"`
}

// Loaded counts what the sample brought.
type Loaded struct {
	Panels  int `json:"panels"`
	Patches int `json:"patches"`
}
