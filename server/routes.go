package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/paste"
	"glossator/core/patch"
	"glossator/core/reckon"
	"glossator/core/scale"
	"glossator/core/wire"
)

// Route is one entry of the API: what the router needs and what the OpenAPI description
// tells. Body and Answer are zero values of the types, nil for none.
type Route struct {
	Method, Path, Summary string
	Query                 []string
	Body, Answer          any
	Status                int
	Media                 string // of the answer, where it is not JSON
	handle                func(*Server, *echo.Context) error
}

// Base is where the API begins.
const Base = "/api/v1"

// Routes is the API.
var Routes = []Route{
	{Method: "GET", Path: "/desk", Summary: "What is on the go: patches, sheets and panels", Answer: Desk{}, handle: (*Server).desk},
	{Method: "POST", Path: "/sample", Summary: "Load the sample panels and patches", Answer: Loaded{}, handle: (*Server).sample},
	{Method: "GET", Path: "/controls", Summary: "Find controls of all panels by name, module or quantity", Query: []string{"q"}, Answer: FoundControls{}, handle: (*Server).findControls},
	{Method: "GET", Path: "/panels/{id}", Summary: "One panel with its scales", Answer: PanelView{}, handle: (*Server).panelView},
	{Method: "GET", Path: "/panels/{id}/export", Summary: "A panel as its file", Answer: panel.Panel{}, handle: (*Server).panelExport},
	{Method: "POST", Path: "/panels", Summary: "Import a panel file", Query: []string{"file"}, Body: panel.Panel{}, Answer: PanelRow{}, Status: http.StatusCreated, handle: (*Server).panelImport},
	{Method: "GET", Path: "/vocabulary", Summary: "What panels may be made of", Answer: Vocabulary{}, handle: (*Server).vocabulary},
	{Method: "POST", Path: "/panels/blank", Summary: "Begin a new panel as a draft", Body: Named{}, Answer: Draft{}, Status: http.StatusCreated, handle: (*Server).panelBlank},
	{Method: "POST", Path: "/panels/{id}/copy", Summary: "Begin a new panel from one that is there", Body: Named{}, Answer: Draft{}, Status: http.StatusCreated, handle: (*Server).panelCopy},
	{Method: "GET", Path: "/panels/{id}/workshop", Summary: "A panel as it is being worked on", Answer: Workshop{}, handle: (*Server).workshop},
	{Method: "POST", Path: "/panels/{id}/workshop", Summary: "Edit the draft by a JSON Patch", Body: Edit{}, Answer: Workshop{}, handle: (*Server).workshopEdit},
	{Method: "DELETE", Path: "/panels/{id}/workshop", Summary: "Leave the draft", Status: http.StatusNoContent, handle: (*Server).workshopDrop},
	{Method: "POST", Path: "/panels/{id}/workshop/rename", Summary: "Rename an id everywhere", Body: NewName{}, Answer: Workshop{}, handle: (*Server).workshopRename},
	{Method: "POST", Path: "/panels/{id}/workshop/try", Summary: "Draw a control as it would be; nothing is stored", Body: panel.Control{}, Answer: Tried{}, handle: (*Server).workshopTry},
	{Method: "POST", Path: "/panels/{id}/workshop/marks", Summary: "A law from printed marks", Body: Marks{}, Answer: scale.Fitted{}, handle: (*Server).workshopMarks},
	{Method: "POST", Path: "/panels/{id}/workshop/save", Summary: "Save the draft as the next revision", Answer: PanelRow{}, handle: (*Server).workshopSave},
	{Method: "GET", Path: "/panels/{id}/controls.csv", Summary: "The controls as a table for a spreadsheet", Media: "text/csv", handle: (*Server).controlsCSV},
	{Method: "PUT", Path: "/panels/{id}/controls.csv", Summary: "Take a controls table into the draft", Query: []string{"file"}, Answer: Workshop{}, handle: (*Server).controlsRead},
	{Method: "GET", Path: "/panels/{id}/revisions", Summary: "The revisions of a panel", Answer: Revisions{}, handle: (*Server).revisions},
	{Method: "GET", Path: "/panels/{id}/difference", Summary: "What has changed between two revisions", Query: []string{"from", "to"}, Answer: Differences{}, handle: (*Server).difference},
	{Method: "POST", Path: "/panels/{id}/revisions/{revision}/restore", Summary: "Make an older revision the draft", Answer: Workshop{}, handle: (*Server).revisionRestore},
	{Method: "GET", Path: "/patches", Summary: "The patches, all or those that a search finds", Query: []string{"q"}, Answer: PatchList{}, handle: (*Server).patches},
	{Method: "GET", Path: "/patches/{id}", Summary: "One patch with the meaning of its readings", Answer: PatchView{}, handle: (*Server).patchView},
	{Method: "GET", Path: "/patches/{id}/targets", Summary: "Which instruments carry a patch best", Query: []string{"layer", "school", "targets"}, Answer: Ranking{}, handle: (*Server).ranking},
	{Method: "GET", Path: "/patches/{id}/export", Summary: "A patch as its file", Answer: patch.Patch{}, handle: (*Server).patchExport},
	{Method: "POST", Path: "/patches", Summary: "Import a patch file", Query: []string{"file"}, Body: patch.Patch{}, Answer: PatchRow{}, Status: http.StatusCreated, handle: (*Server).patchImport},
	{Method: "POST", Path: "/patches/blank", Summary: "Start a patch with every control at init", Body: NewPatch{}, Answer: PatchRow{}, Status: http.StatusCreated, handle: (*Server).patchBlank},
	{Method: "POST", Path: "/patches/{id}/copy", Summary: "Duplicate a patch", Answer: PatchRow{}, Status: http.StatusCreated, handle: (*Server).patchCopy},
	{Method: "PUT", Path: "/patches/{id}", Summary: "Change what is written about a patch", Body: PatchHead{}, Answer: PatchView{}, handle: (*Server).patchHead},
	{Method: "PUT", Path: "/patches/{id}/layers/{layer}/readings/{control}", Summary: "Set a reading as it is typed", Body: ReadingBody{}, Answer: PatchView{}, handle: (*Server).readingSet},
	{Method: "DELETE", Path: "/patches/{id}/layers/{layer}/readings/{control}", Summary: "Put a control back to init", Answer: PatchView{}, handle: (*Server).readingDrop},
	{Method: "POST", Path: "/patches/{id}/layers/{layer}/readings/{control}/step", Summary: "Move a reading by the face's steps", Body: Step{}, Answer: PatchView{}, handle: (*Server).readingStep},
	{Method: "GET", Path: "/patches/{id}/layers/{layer}/readings/{control}/try", Summary: "What a reading would mean, without storing it", Query: []string{"text"}, Answer: PatchLine{}, handle: (*Server).readingTry},
	{Method: "POST", Path: "/patches/{id}/layers/{layer}/paste", Summary: "What free notes may mean as readings; nothing is stored", Body: Notes{}, Answer: paste.Result{}, handle: (*Server).pasteNotes},
	{Method: "PUT", Path: "/patches/{id}/layers/{layer}/readings", Summary: "Set several readings in one step", Body: ReadingsBody{}, Answer: PatchView{}, handle: (*Server).readingsSet},
	{Method: "POST", Path: "/patches/{id}/layers", Summary: "Add a layer", Body: NewLayer{}, Answer: PatchView{}, handle: (*Server).layerAdd},
	{Method: "PUT", Path: "/patches/{id}/layers/{layer}", Summary: "Name, transpose or balance a layer", Body: LayerHead{}, Answer: PatchView{}, handle: (*Server).layerSet},
	{Method: "DELETE", Path: "/patches/{id}/layers/{layer}", Summary: "Delete a layer", Answer: PatchView{}, handle: (*Server).layerDrop},
	{Method: "PUT", Path: "/patches/{id}/layers/{layer}/cables", Summary: "Plug the cables of a layer", Body: Cables{}, Answer: PatchView{}, handle: (*Server).cablesSet},
	{Method: "POST", Path: "/patches/{id}/layers/{layer}/midi", Summary: "What MIDI bytes mean as readings; nothing is stored", Query: []string{"file"}, Answer: wire.Found{}, handle: (*Server).midiRead},
	{Method: "GET", Path: "/patches/{id}/layers/{layer}/midi", Summary: "A layer as a Standard MIDI File, or with form=raw as MIDI bytes", Query: []string{"form", "channel"}, Media: "audio/midi", handle: (*Server).midiWrite},
	{Method: "PUT", Path: "/patches/{id}/phrase", Summary: "Change the phrase", Body: PhraseBody{}, Answer: PatchView{}, handle: (*Server).phraseSet},
	{Method: "GET", Path: "/patches/{id}/phrase/presets", Summary: "Lines that can be made, and those of the same cue", Answer: PhrasePresets{}, handle: (*Server).phrasePresets},
	{Method: "POST", Path: "/patches/{id}/phrase/preset", Summary: "Make a preset the phrase", Body: MakePhrase{}, Answer: PatchView{}, handle: (*Server).phraseMake},
	{Method: "GET", Path: "/patches/{id}/phrase/midi", Summary: "The phrase as a Standard MIDI File", Media: "audio/midi", handle: (*Server).phraseMIDI},
	{Method: "POST", Path: "/patches/{id}/phrase/midi", Summary: "Take the notes of a Standard MIDI File as the phrase", Query: []string{"file"}, Answer: PatchView{}, handle: (*Server).phraseFromMIDI},
	{Method: "GET", Path: "/patches/{id}/versions", Summary: "Kept versions with what has changed since", Answer: Versions{}, handle: (*Server).versions},
	{Method: "POST", Path: "/patches/{id}/versions", Summary: "Keep the patch as it stands", Body: KeepVersion{}, Answer: Versions{}, handle: (*Server).versionKeep},
	{Method: "POST", Path: "/patches/{id}/versions/{number}/restore", Summary: "Make the patch what it was", Answer: PatchView{}, handle: (*Server).versionRestore},
	{Method: "DELETE", Path: "/patches/{id}", Summary: "Delete a patch", Status: http.StatusNoContent, handle: (*Server).patchDelete},
	{Method: "POST", Path: "/sheets", Summary: "Open the sheet of a patch on a target, making it where there is none", Body: OpenSheet{}, Answer: Opened{}, handle: (*Server).sheetOpen},
	{Method: "GET", Path: "/sheets/{id}", Summary: "One sheet with its dial-in list and ticks", Answer: SheetView{}, handle: (*Server).sheetView},
	{Method: "DELETE", Path: "/sheets/{id}", Summary: "Delete a sheet", Status: http.StatusNoContent, handle: (*Server).sheetDelete},
	{Method: "PUT", Path: "/sheets/{id}/overrides/{control}", Summary: "Set a reading of the target by hand", Body: ReadingBody{}, Answer: SheetView{}, handle: (*Server).overrideSet},
	{Method: "DELETE", Path: "/sheets/{id}/overrides/{control}", Summary: "Take a reading set by hand back", Answer: SheetView{}, handle: (*Server).overrideDrop},
	{Method: "PUT", Path: "/sheets/{id}/choices", Summary: "Decide about one part of the patch", Body: PartChoice{}, Answer: SheetView{}, handle: (*Server).choose},
	{Method: "GET", Path: "/sheets/{id}/alternatives", Summary: "The ways to make one part, the cheapest first", Query: []string{"part"}, Answer: Ways{}, handle: (*Server).alternatives},
	{Method: "GET", Path: "/sheets/{id}/plans", Summary: "The second and third best plan", Answer: Plans{}, handle: (*Server).plans},
	{Method: "GET", Path: "/sheets/{id}/rule", Summary: "The two scales of one line along one axis", Query: []string{"gloss"}, Answer: gloss.Scales{}, handle: (*Server).rule},
	{Method: "GET", Path: "/sheets/{id}/export.json", Summary: "A sheet as JSON", Answer: gloss.Sheet{}, handle: (*Server).sheetJSON},
	{Method: "GET", Path: "/sheets/{id}/export.md", Summary: "A sheet as Markdown", Media: "text/markdown", handle: (*Server).sheetMarkdown},
	{Method: "POST", Path: "/sheets/{id}/second", Summary: "Open the sheet of a second layer, which plays what this one leaves out", Answer: Opened{}, handle: (*Server).secondLayer},
	{Method: "POST", Path: "/sheets/{id}/listen", Summary: "Render both sides of a sheet", Body: ListenTo{}, Answer: Listening{}, handle: (*Server).sheetListen},
	{Method: "POST", Path: "/sheets/{id}/note", Summary: "One note of one side as a WAVE file", Body: LiveNote{}, Media: "audio/wav", handle: (*Server).note},
	{Method: "POST", Path: "/sheets/{id}/trials", Summary: "Keep the result of a blind test", Body: Blind{}, Answer: Trials{}, Status: http.StatusCreated, handle: (*Server).blind},
	{Method: "POST", Path: "/sheets/{id}/refine", Summary: "Search for better readings by ear", Body: ListenTo{}, Answer: Refining{}, handle: (*Server).refineStart},
	{Method: "GET", Path: "/sheets/{id}/refine", Summary: "How far the search is", Answer: Refining{}, handle: (*Server).refineState},
	{Method: "DELETE", Path: "/sheets/{id}/refine", Summary: "Stop the search and keep what it has found", Answer: Refining{}, handle: (*Server).refineStop},
	{Method: "POST", Path: "/sheets/{id}/refine/adopt", Summary: "Set the readings that the search has found", Answer: SheetView{}, handle: (*Server).refineAdopt},
	{Method: "POST", Path: "/patches/{id}/listen", Summary: "Render a patch", Body: ListenTo{}, Answer: Listening{}, handle: (*Server).patchListen},
	{Method: "POST", Path: "/sounds", Summary: "Take a recording (WAVE)", Query: []string{"file"}, Answer: Take{}, Status: http.StatusCreated, handle: (*Server).recording},
	{Method: "GET", Path: "/sounds/{key}", Summary: "A sound as a WAVE file, with loop=true folded for looping; the key ends in .wav", Query: []string{"loop"}, Media: "audio/wav", handle: (*Server).soundFile},
	{Method: "GET", Path: "/rendering", Summary: "How far what is being rendered is", Answer: Rendering{}, handle: (*Server).rendering},
	{Method: "GET", Path: "/contrasts", Summary: "What differs between two sounds", Query: []string{"a", "b"}, Answer: Contrasts{}, handle: (*Server).contrasts},
	{Method: "PUT", Path: "/sheets/{id}/ticks/{key}", Summary: "Tick a line of the dial-in list", Answer: SheetView{}, handle: (*Server).tickSet},
	{Method: "DELETE", Path: "/sheets/{id}/ticks/{key}", Summary: "Take a tick away", Answer: SheetView{}, handle: (*Server).tickDrop},
	{Method: "GET", Path: "/sums", Summary: "The sums of the reckoner; those that a value fits are worked out", Query: []string{"value", "tempo", "note", "time"}, Answer: Sums{}, handle: (*Server).sums},
	{Method: "GET", Path: "/sums/{id}", Summary: "A sum worked out from its left or right side", Query: []string{"left", "right", "tempo", "note", "time"}, Answer: reckon.Answer{}, handle: (*Server).sum},
	{Method: "POST", Path: "/undo", Summary: "Take the last change back", Answer: Done{}, handle: (*Server).undo},
	{Method: "POST", Path: "/redo", Summary: "Make the change that was taken back last", Answer: Done{}, handle: (*Server).redo},
}
