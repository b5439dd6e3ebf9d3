package server

import (
	"encoding/json"

	"glossator/core/dialin"
	"glossator/core/fault"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/phrase"
	"glossator/core/plan"
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

// PatchList is the patches that a search found, of All, and the panels that a new one can be on.
type PatchList struct {
	Patches []PatchRow `json:"patches"`
	All     int        `json:"all"`
	Panels  []PanelRow `json:"panels"`
	Pending Pending    `json:"pending"`
}

// PartChoice decides about one part of a patch: keep, not needed, or as usual; Refuse lists the
// rules it is not to be made by.
type PartChoice struct {
	Part    string   `json:"part"`
	Matters string   `json:"matters"`
	Refuse  []string `json:"refuse"`
	// ByEar, where it is given, is of the whole sheet: parts count for as much as they are heard, or as usual.
	ByEar *bool `json:"byEar,omitempty"`
	// Rack, where it is given, is of the whole sheet: the id of the outboard rack behind the target, empty for none.
	Rack *string `json:"rack,omitempty"`
	// Bans, where they are given, are of the whole sheet too: the pairs that are not to be.
	Bans *[]plan.Ban `json:"bans,omitempty"`
}

// Ways lists the ways to make a part, the cheapest first.
type Ways struct {
	Ways []translate.Alternative `json:"ways"`
}

// Plans lists the plans that come after the best.
type Plans struct {
	Next []translate.NextPlan `json:"next"`
}

// Ranking says which instruments carry a patch best.
type Ranking struct {
	Patch   PatchRow        `json:"patch"`
	Layer   string          `json:"layer"`
	School  plan.School     `json:"school"`
	Targets []gloss.Carried `json:"targets"`
	Pending Pending         `json:"pending"`
}

// SheetRow is a sheet in a list.
type SheetRow struct {
	ID         uint                  `json:"id"`
	Patch      string                `json:"patch"`
	PatchName  string                `json:"patchName"`
	Source     string                `json:"source"`
	SourceName string                `json:"sourceName"`
	Target     string                `json:"target"`
	TargetName string                `json:"targetName"`
	School     string                `json:"school"`
	First      uint                  `json:"first"` // the first layer's sheet, where this is of a second one
	Updated    string                `json:"updated"`
	Ticked     int                   `json:"ticked"`
	Lines      int                   `json:"lines"`
	Summary    map[gloss.Verdict]int `json:"summary"`
	Clean      bool                  `json:"clean"`
}

// Desk is what is on the go.
type Desk struct {
	Patches []PatchRow `json:"patches"`
	Sheets  []SheetRow `json:"sheets"`
	Panels  []PanelRow `json:"panels"`
	// Drafts are the panels that are being worked on.
	Drafts  []Draft `json:"drafts"`
	Pending Pending `json:"pending"`
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
	ID        string        `json:"id"`
	Label     string        `json:"label"`
	Transpose string        `json:"transpose"`
	Level     string        `json:"level"`
	Lines     []PatchLine   `json:"lines"`
	Cables    []patch.Cable `json:"cables"`
}

// PointView is a patch point.
type PointView struct {
	ID    string `json:"id"`
	Label string `json:"label"`
	Dir   string `json:"dir"`
}

// PatchView is one patch.
type PatchView struct {
	PatchRow
	LayerViews []LayerView   `json:"layerViews"`
	Phrase     *patch.Phrase `json:"phrase"`
	Wheel      float64       `json:"wheel"`
	Points     []PointView   `json:"points"`
	Targets    []PanelRow    `json:"targets"`
	// MIDI is set where the panel has addresses.
	MIDI bool `json:"midi"`
	// Behind says that the newest revision of the panel does not take the patch's readings.
	Behind  string  `json:"behind"`
	Pending Pending `json:"pending"`
}

// SheetView is one sheet with its list and ticks.
type SheetView struct {
	ID      uint          `json:"id"`
	Sheet   gloss.Sheet   `json:"sheet"`
	DialIn  dialin.DialIn `json:"dialIn"`
	Ticks   []string      `json:"ticks"`
	Targets []PanelRow    `json:"targets"`
	Pending Pending       `json:"pending"`
	// Schools that the sheet can be made by; Against lists what is not set as by numbers.
	Schools []plan.SchoolSpec `json:"schools"`
	Against []gloss.Change    `json:"against"`
	// Outboard are the racks that could play what the target cannot.
	Outboard []translate.Outboard `json:"outboard"`
	// Since lists what would be set otherwise if the sheet were made again now.
	Since []gloss.Change `json:"since"`
	// Missing are the labels of what a second layer of the target could bring in; First and Second are the sheets of
	// the other layer, 0 for none.
	Missing []string `json:"missing"`
	First   uint     `json:"first"`
	Second  uint     `json:"second"`
	// Newer says that the patch or a panel has changed since the sheet was made.
	Newer string `json:"newer"`
}

// OpenSheet asks for the sheet of a patch on a target.
type OpenSheet struct {
	Patch  string      `json:"patch"`
	Layer  string      `json:"layer,omitempty"`
	Target string      `json:"target"`
	School plan.School `json:"school,omitempty"`
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
	// Wheel is the state of the modulation wheel as the sound is played, 0 to 1.
	Wheel float64 `json:"wheel,omitempty"`
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
	Sums []reckon.Sum `json:"sums"`
	// Taken are the sums that a given value fits.
	Taken   []reckon.SumFit `json:"taken"`
	Pending Pending         `json:"pending"`
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

// Draft is a panel that is being worked on; Base is the revision it began from, 0 for a new one.
type Draft struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Base    int    `json:"base"`
	Updated string `json:"updated"`
}

// Workshop is a panel as it is being worked on.
type Workshop struct {
	Panel panel.Panel `json:"panel"`
	Base  int         `json:"base"`
	// Draft is set where something is not saved as a revision yet.
	Draft  bool       `json:"draft"`
	Faults fault.List `json:"faults"`
	// Changes since the base.
	Changes []panel.Difference `json:"changes"`
	Pending Pending            `json:"pending"`
}

// Edit is a JSON Patch (RFC 6902) and what to call it.
type Edit struct {
	What string   `json:"what"`
	Ops  []EditOp `json:"ops"`
}

// EditOp is one operation of a JSON Patch.
type EditOp struct {
	Op    string          `json:"op"`
	Path  string          `json:"path"`
	From  string          `json:"from,omitempty"`
	Value json.RawMessage `json:"value,omitempty"`
}

// NewName renames an id everywhere; Kind is section, control, module, route, slot or point.
type NewName struct {
	Kind string `json:"kind"`
	From string `json:"from"`
	To   string `json:"to"`
}

// Named asks for something new by its name.
type Named struct {
	Name string `json:"name"`
}

// Tried is a control as it would be.
type Tried struct {
	Expects string     `json:"expects"`
	Init    string     `json:"init"`
	Means   []MeanView `json:"means"`
	Faults  fault.List `json:"faults"`
}

// Marks asks for a law through printed marks: one "mark = value" a line.
type Marks struct {
	Face  scale.Face `json:"face"`
	Unit  string     `json:"unit"`
	Marks string     `json:"marks"`
}

// RevisionRow is a revision of a panel in a list.
type RevisionRow struct {
	Revision int    `json:"revision"`
	Name     string `json:"name"`
	At       string `json:"at"`
}

// Revisions lists the revisions of a panel, the newest first.
type Revisions struct {
	Revisions []RevisionRow `json:"revisions"`
	Pending   Pending       `json:"pending"`
}

// Differences lists what is not the same.
type Differences struct {
	Differences []panel.Difference `json:"differences"`
}

// Vocabulary is what panels may be made of.
type Vocabulary struct {
	Kinds   []KindView `json:"kinds"`
	Sources []string   `json:"sources"`
	Steps   []StepView `json:"steps"`
	Units   []UnitView `json:"units"`
	// Laws are the kinds of law, with the numbers that each has.
	Laws []scale.LawSpec `json:"laws"`
}

// KindView is a kind of module with its parameters.
type KindView struct {
	Kind   string      `json:"kind"`
	Label  string      `json:"label"`
	Params []ParamView `json:"params"`
}

// ParamView is a parameter of a kind.
type ParamView struct {
	Name    string `json:"name"`
	Label   string `json:"label"`
	Dim     string `json:"dim"`
	Neutral string `json:"neutral"`
	Sums    bool   `json:"sums"`
}

// StepView is a step of the work.
type StepView struct {
	Step  string `json:"step"`
	Title string `json:"title"`
}

// UnitView is a unit that laws may be in.
type UnitView struct {
	Symbol string `json:"symbol"`
	Dim    string `json:"dim"`
}

// NewLayer asks for a layer, like another one or at init.
type NewLayer struct {
	Label string `json:"label"`
	Like  string `json:"like,omitempty"`
}

// LayerHead is what is written about a layer.
type LayerHead struct {
	Label     string `json:"label"`
	Transpose string `json:"transpose"`
	Level     string `json:"level"`
}

// Cables are all the cables of a layer.
type Cables struct {
	Cables []patch.Cable `json:"cables"`
}

// PhraseBody carries a phrase; none takes it away.
type PhraseBody struct {
	Phrase *patch.Phrase `json:"phrase"`
}

// PhrasePresets lists the lines that can be made and those of the same cue.
type PhrasePresets struct {
	Presets []phrase.Preset `json:"presets"`
	Cue     []CueLine       `json:"cue"`
}

// CueLine is the phrase of another patch of the same cue.
type CueLine struct {
	Patch  string       `json:"patch"`
	Name   string       `json:"name"`
	Tag    string       `json:"tag"`
	Phrase patch.Phrase `json:"phrase"`
}

// MakePhrase asks for a preset on a note.
type MakePhrase struct {
	Preset string `json:"preset"`
	Note   string `json:"note"`
}

// VersionRow is a kept version of a patch; Since tells what has changed from it to now.
type VersionRow struct {
	Number int                `json:"number"`
	Note   string             `json:"note"`
	At     string             `json:"at"`
	Since  []panel.Difference `json:"since"`
}

// Versions lists the kept versions of a patch, the newest first.
type Versions struct {
	Versions []VersionRow `json:"versions"`
	Pending  Pending      `json:"pending"`
}

// KeepVersion keeps a patch as it stands.
type KeepVersion struct {
	Note string `json:"note"`
}
