package server

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"glossator/core/panel"
	"glossator/core/plan"
	"glossator/core/scale"
	"glossator/core/wire"
	"glossator/store"
)

func TestWorkshopFromBlankToRevision(t *testing.T) {
	c := newClient(t, true)
	made := ask[Draft](c, "POST", "/panels/blank", `{"name": "Sea Room"}`, 201)
	if made.ID != "sea-room" {
		t.Fatalf("made %+v", made)
	}
	if again := ask[Draft](c, "POST", "/panels/blank", `{"name": "Sea Room"}`, 201); again.ID != "sea-room-2" {
		t.Errorf("the same name again: %+v", again)
	}
	ask[Problem](c, "POST", "/panels/blank", `{"name": "  "}`, 422)
	at := "/panels/sea-room/workshop"
	w := ask[Workshop](c, "GET", at, "", 200)
	if !w.Draft || w.Base != 0 || len(w.Faults) != 0 || len(w.Panel.Controls) < 5 {
		t.Fatalf("begun: base %d, draft %v, faults %v", w.Base, w.Draft, w.Faults)
	}
	if d := ask[Desk](c, "GET", "/desk", "", 200); len(d.Drafts) != 2 {
		t.Errorf("drafts on the desk: %+v", d.Drafts)
	}
	ask[Problem](c, "GET", "/panels/sea-room", "", 404) // not a panel yet

	// a fault is told where it is, kept, and stops the saving only
	place := fmt.Sprintf("/controls/%d/means/0/law/max", slices.IndexFunc(w.Panel.Controls, func(k panel.Control) bool { return k.ID == "filter.cutoff" }))
	w = ask[Workshop](c, "POST", at, `{"what": "cutoff", "ops": [{"op": "replace", "path": "`+place+`", "value": 20}]}`, 200)
	if len(w.Faults) != 1 || w.Faults[0].Path != place || !strings.HasPrefix(w.Faults[0].Words, "Cutoff has a law for the cutoff of filter that cannot be") {
		t.Errorf("faults %v", w.Faults)
	}
	if p := ask[Problem](c, "POST", at+"/save", "", 422); len(p.Faults) != 1 {
		t.Errorf("saved with faults: %+v", p)
	}
	w = ask[Workshop](c, "POST", at, `{"what": "name", "ops": [{"op": "remove", "path": "/name"}]}`, 200)
	if len(w.Faults) == 0 || w.Faults[0].Path != "/name" || !strings.HasPrefix(w.Faults[0].Message, "expected a text") {
		t.Errorf("without a name: %v", w.Faults)
	}
	ask[Done](c, "POST", "/undo", "", 200)
	if d := ask[Done](c, "POST", "/undo", "", 200); d.What != "Sea Room: cutoff" {
		t.Errorf("undo did %q", d.What)
	}
	w = ask[Workshop](c, "POST", at, `{"what": "cutoff", "ops": [{"op": "add", "path": "/controls/-", "value":
		{"id": "glide", "label": "Glide", "section": "voice", "init": "0", "face": {"kind": "numeric", "max": 10, "step": 1}}}]}`, 200)
	if len(w.Panel.Controls) != len(ask[Workshop](c, "GET", at, "", 200).Panel.Controls) {
		t.Error("the answer is not what is kept")
	}
	n := len(w.Panel.Controls) - 1
	w = ask[Workshop](c, "POST", at+"/rename", `{"kind": "control", "from": "glide", "to": "slew"}`, 200)
	if w.Panel.Controls[n].ID != "slew" {
		t.Errorf("renamed to %q", w.Panel.Controls[n].ID)
	}
	for _, body := range []string{`{"kind": "control", "from": "glide", "to": "x"}`, `{"kind": "control", "from": "slew", "to": " "}`, `{"kind": "attic", "from": "slew", "to": "x"}`} {
		ask[Problem](c, "POST", at+"/rename", body, 422)
	}
	for name, ops := range map[string]string{
		"no place":         `[{"op": "replace", "path": "/attic/0/x", "value": 1}]`,
		"no operation":     `[{"op": "burn", "path": "/name"}]`,
		"another type":     `[{"op": "replace", "path": "/controls", "value": "many"}]`,
		"an unknown field": `[{"op": "add", "path": "/colour", "value": "red"}]`,
		"a failed test":    `[{"op": "test", "path": "/name", "value": "x"}, {"op": "replace", "path": "/name", "value": "y"}]`,
	} {
		if p := ask[Problem](c, "POST", at, `{"ops": `+ops+`}`, 422); p.Detail == "" {
			t.Errorf("%s: %+v", name, p)
		}
	}
	row := ask[PanelRow](c, "POST", at+"/save", "", 200)
	if row.Revision != 1 || row.Controls != n+1 {
		t.Errorf("saved %+v", row)
	}
	ask[Problem](c, "POST", at+"/save", "", 422) // nothing to save
	if v := ask[PanelView](c, "GET", "/panels/sea-room", "", 200); v.Name != "Sea Room" {
		t.Errorf("the panel is %+v", v.PanelRow)
	}
}

func TestWorkshopRevisions(t *testing.T) {
	c := newClient(t, true)
	at := "/panels/halyard/workshop"
	if w := ask[Workshop](c, "GET", at, "", 200); w.Draft || w.Base != 1 || len(w.Changes) != 0 {
		t.Fatalf("untouched: %+v", w.Changes)
	}
	edit := func(name string) Workshop {
		return ask[Workshop](c, "POST", at, fmt.Sprintf(`{"what": "name", "ops": [{"op": "replace", "path": "/name", "value": %q}]}`, name), 200)
	}
	if w := edit("Halyard B"); len(w.Changes) != 1 || w.Changes[0] != (panel.Difference{Where: "name", Was: "Halyard", Is: "Halyard B"}) {
		t.Errorf("changes %v", w.Changes)
	}
	ask[PanelRow](c, "POST", at+"/save", "", 200)
	if r := ask[Revisions](c, "GET", "/panels/halyard/revisions", "", 200); len(r.Revisions) != 2 || r.Revisions[0].Name != "Halyard B" {
		t.Errorf("revisions %+v", r)
	}
	if d := ask[Differences](c, "GET", "/panels/halyard/difference?from=1&to=2", "", 200); len(d.Differences) != 1 {
		t.Errorf("difference %+v", d)
	}
	for _, q := range []string{"from=0", "from=x&to=2", "from=1&to=-2"} {
		ask[Problem](c, "GET", "/panels/halyard/difference?"+q, "", 422)
	}
	ask[Problem](c, "GET", "/panels/halyard/difference?from=9", "", 404)
	ask[Problem](c, "POST", "/panels/halyard/revisions/9/restore", "", 404)
	w := ask[Workshop](c, "POST", "/panels/halyard/revisions/1/restore", "", 200)
	if w.Panel.Name != "Halyard" || !w.Draft || len(w.Changes) != 1 {
		t.Errorf("restored %q, %v", w.Panel.Name, w.Changes)
	}
	ask[Problem](c, "DELETE", at, "", 204)
	if w := ask[Workshop](c, "GET", at, "", 200); w.Panel.Name != "Halyard B" || w.Draft {
		t.Errorf("left: %q", w.Panel.Name)
	}
	ask[Problem](c, "DELETE", at, "", 404)
	for _, path := range []string{"/panels/nobody/workshop", "/panels/nobody/revisions", "/panels/nobody/controls.csv"} {
		ask[Problem](c, "GET", path, "", 404)
	}
	if d := ask[Draft](c, "POST", "/panels/kedge/copy", `{"name": "Kedge for the hut"}`, 201); d.ID != "kedge-for-the-hut" {
		t.Errorf("copied %+v", d)
	}
	if w := ask[Workshop](c, "GET", "/panels/kedge-for-the-hut/workshop", "", 200); len(w.Faults) != 0 || w.Panel.Revision != 1 {
		t.Errorf("the copy has %v", w.Faults)
	}
}

// Patches whose readings a new revision no longer takes are read by the one that does, and say so.
func TestPatchBehindItsPanel(t *testing.T) {
	c := newClient(t, true)
	p := ask[PatchView](c, "GET", "/patches/keel", "", 200)
	used := ""
	for _, l := range p.LayerViews[0].Lines {
		if !l.AtInit {
			used = l.Control
		}
	}
	ask[Workshop](c, "POST", "/panels/"+p.Panel+"/workshop/rename", fmt.Sprintf(`{"kind": "control", "from": %q, "to": "new-name"}`, used), 200)
	ask[PanelRow](c, "POST", "/panels/"+p.Panel+"/workshop/save", "", 200)
	v := ask[PatchView](c, "GET", "/patches/keel", "", 200)
	if !strings.Contains(v.Behind, "revision 1") || !strings.Contains(v.Behind, used) || len(v.LayerViews) == 0 {
		t.Errorf("behind: %q", v.Behind)
	}
}

func TestWorkshopTryAndMarks(t *testing.T) {
	c := newClient(t, true)
	at := "/panels/kedge/workshop"
	try := ask[Tried](c, "POST", at+"/try", `{"id": "x", "label": "X", "section": "s", "init": "~5", "face": {"kind": "numeric", "max": 10, "step": 0.1},
		"means": [{"param": "filter.cutoff", "law": {"kind": "exponential", "unit": "Hz", "min": 20, "max": 2000, "source": "assumed"}}]}`, 200)
	if len(try.Faults) != 0 || len(try.Means) != 1 || len(try.Means[0].Ticks) < 3 || !try.Means[0].Geometric || try.Init == "" {
		t.Errorf("tried %+v", try)
	}
	try = ask[Tried](c, "POST", at+"/try", `{"id": "x", "label": "X", "section": "s", "init": "50", "face": {"kind": "numeric", "max": 10, "step": 1},
		"means": [{"param": "filter.cutoff", "law": {"kind": "exponential", "unit": "Hz", "min": 0, "max": 2000}}]}`, 200)
	if len(try.Faults) < 2 || try.Faults[0].Path != "/init" {
		t.Errorf("tried with faults: %+v", try.Faults)
	}
	fit := ask[scale.Fitted](c, "POST", at+"/marks", `{"face": {"kind": "numeric", "max": 10, "step": 0.1}, "unit": "Hz", "marks": "0 = 20 Hz\n5 = 200 Hz\n10 = 2 kHz"}`, 200)
	if fit.Law.Kind != "exponential" || fit.Law.Min < 19.9 || fit.Law.Min > 20.1 || fit.Says == "" {
		t.Errorf("fitted %+v", fit)
	}
	for _, marks := range []string{"", "5 = 200 Hz", "5 = 200 Hz\n5 = 300 Hz", "0 = 1 ms\n10 = 2 kHz", "elf = 3 Hz\n1 = 2 Hz"} {
		if p := ask[Problem](c, "POST", at+"/marks", fmt.Sprintf(`{"face": {"kind": "numeric", "max": 10, "step": 0.1}, "unit": "Hz", "marks": %q}`, marks), 422); p.Detail == "" {
			t.Errorf("%q: %+v", marks, p)
		}
	}
	v := ask[Vocabulary](c, "GET", "/vocabulary", "", 200)
	if len(v.Kinds) < 10 || len(v.Units) < 10 || len(v.Steps) != 9 || len(v.Sources) == 0 || len(v.Kinds[0].Params) == 0 {
		t.Errorf("vocabulary: %d kinds, %d units, %d steps", len(v.Kinds), len(v.Units), len(v.Steps))
	}
}

func TestControlsTable(t *testing.T) {
	c := newClient(t, true)
	res, table := c.do("GET", Base+"/panels/kedge/controls.csv", "", nil)
	if res.StatusCode != 200 || !strings.HasPrefix(res.Header.Get("Content-Type"), "text/csv") {
		t.Fatalf("status %d, %s", res.StatusCode, res.Header.Get("Content-Type"))
	}
	if w := ask[Workshop](c, "PUT", "/panels/kedge/controls.csv?file=k.csv", string(table), 200); len(w.Changes) != 0 || len(w.Faults) != 0 {
		t.Errorf("the same table back: %v %v", w.Changes, w.Faults)
	}
	lines := strings.SplitAfter(string(table), "\n")
	cells := strings.Split(lines[1], ",")
	label := cells[1]
	lines[1] = strings.Replace(lines[1], ","+label+",", ",Other,", 1)
	w := ask[Workshop](c, "PUT", "/panels/kedge/controls.csv?file=k.csv", strings.Join(lines, ""), 200)
	if len(w.Changes) != 1 || w.Changes[0].Is != "Other" || !w.Draft {
		t.Errorf("a label changed: %v", w.Changes)
	}
	lines[2] = strings.Replace(lines[2], cells[0], cells[0], 1)
	bad := strings.Replace(lines[2], ","+strings.Split(lines[2], ",")[2]+",", ",no-section,", 1)
	p := ask[Problem](c, "PUT", "/panels/kedge/controls.csv?file=k.csv", lines[0]+lines[1]+bad, 422)
	if len(p.Faults) == 0 || !strings.Contains(p.Faults[0].Path, "row 3") || p.Faults[0].File != "k.csv" {
		t.Errorf("faults by row: %+v", p.Faults)
	}
}

func TestLayersAndCables(t *testing.T) {
	c := newClient(t, true)
	ask[PatchRow](c, "POST", "/patches/blank", `{"name": "Two", "panel": "kedge", "kind": "bass"}`, 201)
	at := "/patches/two/layers"
	ask[PatchView](c, "PUT", at+"/a/readings", `{"readings": {"lowpass.cutoff": "200 Hz"}}`, 200)
	v := ask[PatchView](c, "POST", at, `{"label": "Upper", "like": "a"}`, 200)
	if len(v.LayerViews) != 2 || v.LayerViews[1].ID != "b" || v.LayerViews[1].Label != "Upper" || asJSON(t, v.LayerViews[1].Lines) != asJSON(t, v.LayerViews[0].Lines) {
		t.Errorf("layers %+v", v.Layers)
	}
	v = ask[PatchView](c, "PUT", at+"/b", `{"label": "Upper", "transpose": "+12 st", "level": "-6 dB"}`, 200)
	if l := v.LayerViews[1]; l.Transpose != "+12 st" || l.Level != "-6 dB" {
		t.Errorf("layer %+v", l)
	}
	for _, body := range []string{`{"label": "x", "transpose": "5 Hz"}`, `{"label": "x", "level": "loud"}`} {
		ask[Problem](c, "PUT", at+"/b", body, 422)
	}
	ask[Problem](c, "PUT", at+"/z", `{"label": ""}`, 404)
	ask[Problem](c, "PUT", at+"/z/cables", `{"cables": []}`, 404)
	ask[Problem](c, "POST", at, `{"label": "x", "like": "z"}`, 404)
	in, out := "in-cutoff", "out-lfo"
	if len(v.Points) != 12 {
		t.Errorf("%d patch points", len(v.Points))
	}
	v = ask[PatchView](c, "PUT", at+"/b/cables", fmt.Sprintf(`{"cables": [{"from": %q, "to": %q}]}`, out, in), 200)
	if len(v.LayerViews[1].Cables) != 1 || len(v.LayerViews[0].Cables) != 0 {
		t.Errorf("cables %+v", v.LayerViews[1].Cables)
	}
	p := ask[Problem](c, "PUT", at+"/b/cables", fmt.Sprintf(`{"cables": [{"from": %q, "to": %q}, {"from": "attic", "to": %q}]}`, in, out, in), 422)
	if len(p.Faults) < 2 {
		t.Errorf("bad cables: %+v", p)
	}
	if v = ask[PatchView](c, "DELETE", at+"/a", "", 200); len(v.Layers) != 1 || v.Layers[0] != "b" {
		t.Errorf("left %v", v.Layers)
	}
	ask[Problem](c, "DELETE", at+"/b", "", 422)
	ask[Done](c, "POST", "/undo", "", 200)
	for n := 2; n < 8; n++ {
		ask[PatchView](c, "POST", at, `{"label": ""}`, 200)
	}
	ask[Problem](c, "POST", at, `{"label": "ninth"}`, 422)
}

func TestPhrases(t *testing.T) {
	c := newClient(t, true)
	at := "/patches/keel/phrase"
	v := ask[PatchView](c, "PUT", at, `{"phrase": {"name": "mine", "notes": [{"at": "0", "for": "1/4", "note": "A1", "velocity": 90, "accent": true}, {"at": "1/4", "for": "1/8", "note": "E2", "velocity": 70, "slide": true}]}}`, 200)
	if v.Phrase == nil || len(v.Phrase.Notes) != 2 || !v.Phrase.Notes[1].Slide {
		t.Fatalf("phrase %+v", v.Phrase)
	}
	for _, note := range []string{`{"at": "x", "for": "1/4", "note": "A1", "velocity": 90}`, `{"at": "0", "for": "1/4", "note": "H1", "velocity": 90}`, `{"at": "0", "for": "1/4", "note": "A1", "velocity": 200}`} {
		if p := ask[Problem](c, "PUT", at, `{"phrase": {"name": "", "notes": [`+note+`]}}`, 422); len(p.Faults) == 0 {
			t.Errorf("%s: %+v", note, p)
		}
	}
	res, midi := c.do("GET", Base+at+"/midi", "", nil)
	if res.StatusCode != 200 || !strings.HasPrefix(string(midi), "MThd") {
		t.Fatalf("the phrase as a file: %d", res.StatusCode)
	}
	made := ask[PatchView](c, "POST", at+"/preset", `{"preset": "held", "note": "A1"}`, 200)
	if made.Phrase == nil || made.Phrase.Name != "Held note" {
		t.Errorf("preset %+v", made.Phrase)
	}
	back := ask[PatchView](c, "POST", at+"/midi?file=k.mid", string(midi), 200)
	// the file can only say an accent by velocity, and a slide by an overlap
	if n := back.Phrase.Notes; len(n) != 2 || n[0].Note != "A1" || n[0].For != "33/128" || n[0].Velocity != 114 || n[1].At != "1/4" || n[1].Velocity != 70 {
		t.Errorf("from the file: %+v", n)
	}
	for _, body := range []string{`{"preset": "attic", "note": "A1"}`, `{"preset": "held", "note": "5 Hz"}`, `{"preset": "held", "note": ""}`, `{"preset": "held", "note": "A9"}`} {
		ask[Problem](c, "POST", at+"/preset", body, 422)
	}
	if p := ask[Problem](c, "POST", at+"/midi?file=k.mid", "MThd", 422); !strings.Contains(p.Detail, "k.mid") {
		t.Errorf("a file cut short: %+v", p)
	}
	if v := ask[PatchView](c, "PUT", at, `{"phrase": null}`, 200); v.Phrase != nil {
		t.Error("the phrase is still there")
	}
	ask[Problem](c, "GET", at+"/midi", "", 404)
	pr := ask[PhrasePresets](c, "GET", at+"/presets", "", 200)
	if len(pr.Presets) < 4 || len(pr.Cue) == 0 || pr.Cue[0].Tag == "" || len(pr.Cue[0].Phrase.Notes) == 0 {
		t.Errorf("presets %d, lines of the cue %d", len(pr.Presets), len(pr.Cue))
	}
}

// Readings go out as MIDI and come back the same.
func TestReadingsByMIDI(t *testing.T) {
	c := newClient(t, true)
	for _, x := range []struct{ patch, form, media string }{{"", "", "audio/midi"}, {"", "raw", "application/octet-stream"}} {
		for _, p := range ask[Desk](c, "GET", "/desk", "", 200).Patches {
			v := ask[PatchView](c, "GET", "/patches/"+p.ID, "", 200)
			path := "/patches/" + p.ID + "/layers/" + v.Layers[0] + "/midi"
			if !v.MIDI {
				ask[Problem](c, "GET", path, "", 422)
				continue
			}
			res, data := c.do("GET", Base+path+"?channel=3&form="+x.form, "", nil)
			if res.StatusCode != http.StatusOK || res.Header.Get("Content-Type") != x.media {
				t.Fatalf("%s: %d %s", path, res.StatusCode, res.Header.Get("Content-Type"))
			}
			found := ask[wire.Found](c, "POST", path+"?file=x.mid", string(data), 200)
			lines := map[string]PatchLine{}
			for _, l := range v.LayerViews[0].Lines {
				lines[l.Control] = l
			}
			if len(found.Taken) == 0 || len(found.Other) != 0 {
				t.Errorf("%s: %d taken, %v left over", p.ID, len(found.Taken), found.Other)
			}
			for _, r := range found.Taken {
				if l, ok := lines[r.Control]; ok && r.Note == "" && strings.TrimPrefix(l.Reading, "~") != r.Reading {
					t.Errorf("%s %s: %s came back as %s", p.ID, r.Control, l.Reading, r.Reading)
				} else if ok && (r.Stands != l.Reading || r.Note == "" && !r.Same) {
					t.Errorf("%s %s: %s is told to stand at %s, the same: %v", p.ID, r.Control, l.Reading, r.Stands, r.Same)
				}
			}
		}
	}
	// what has been changed since is told from what has not
	_, data := c.do("GET", Base+"/patches/fog-bank/layers/a/midi", "", nil)
	ask[PatchView](c, "PUT", "/patches/fog-bank/layers/a/readings/filter.cutoff", `{"reading": "3"}`, 200)
	for _, r := range ask[wire.Found](c, "POST", "/patches/fog-bank/layers/a/midi?file=x.mid", string(data), 200).Taken {
		if is := r.Control == "filter.cutoff"; r.Note == "" && r.Same == is || is && r.Stands != "3" {
			t.Errorf("%s stands at %s, MIDI says %s, the same: %v", r.Control, r.Stands, r.Reading, r.Same)
		}
	}
	ask[Problem](c, "GET", "/patches/fog-bank/layers/a/midi?channel=17", "", 422)
	ask[Problem](c, "GET", "/patches/fog-bank/layers/a/midi?channel=x", "", 422)
	ask[Problem](c, "POST", "/patches/fog-bank/layers/a/midi?file=x", "hello", 422)
}

// A sheet of a patch that has changed says what would be set otherwise.
func TestSinceTheSheet(t *testing.T) {
	c := newClient(t, true)
	o := ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard", "school": "numbers"}`, 200)
	at := fmt.Sprintf("/sheets/%d", o.ID)
	if v := ask[SheetView](c, "GET", at, "", 200); v.Newer != "" || len(v.Since) != 0 {
		t.Errorf("at first: %q, %v", v.Newer, v.Since)
	}
	ask[PatchView](c, "PUT", "/patches/keel/layers/a/readings/filter.cutoff", `{"reading": "6.0"}`, 200)
	v := ask[SheetView](c, "GET", at, "", 200)
	if !strings.Contains(v.Newer, "patch has changed") || len(v.Since) != 1 || v.Since[0].Control != "filter.cutoff" {
		t.Errorf("a cutoff changed: %q, %+v", v.Newer, v.Since)
	}
}

func TestOutboard(t *testing.T) {
	c := newClient(t, true)
	o := ask[Opened](c, "POST", "/sheets", `{"patch": "gulls", "target": "bowline"}`, 200)
	if v := ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", o.ID), "", 200); len(v.Outboard) != 1 || v.Outboard[0].Rack.Name != "Ballast" {
		t.Errorf("outboard: %+v", v.Outboard)
	}
	// put behind the target it plays, on the dial-in list too, is heard, and goes by undo
	at := fmt.Sprintf("/sheets/%d", o.ID)
	alone := ask[Listening](c, "POST", at+"/listen", `{"phrase":"held","octaves":0,"off":[],"plain":false}`, 200)
	v := ask[SheetView](c, "PUT", at+"/choices", `{"part": "", "matters": "", "refuse": [], "rack": "ballast"}`, 200)
	if v.Sheet.Rig == nil || len(v.Outboard) != 0 || !v.Sheet.Clean() || v.DialIn.Groups[len(v.DialIn.Groups)-1].Title != "Outside: Ballast" {
		t.Errorf("with the rack: plays %v, offered %+v", v.Sheet.Rig != nil, v.Outboard)
	}
	with := ask[Listening](c, "POST", at+"/listen", `{"phrase":"held","octaves":0,"off":[],"plain":false}`, 200)
	if with.Target.Key == alone.Target.Key || len(with.Target.Stages) <= len(alone.Target.Stages) {
		t.Errorf("heard with the rack: %+v", with.Target.Stages)
	}
	off := ask[Listening](c, "POST", at+"/listen", `{"phrase":"held","octaves":0,"off":["delay"],"plain":false}`, 200)
	if off.Target.Key == with.Target.Key {
		t.Error("a part that the rack plays is not switched off")
	}
	ask[Done](c, "POST", "/undo", "", 200)
	if v := ask[SheetView](c, "GET", at, "", 200); v.Sheet.Rig != nil {
		t.Error("the rack is still there after undo")
	}
	ask[Problem](c, "PUT", at+"/choices", `{"part": "", "matters": "", "refuse": [], "rack": "kedge"}`, 422)
	ask[Problem](c, "PUT", at+"/choices", `{"part": "", "matters": "", "refuse": [], "rack": "none"}`, 404)
}

func TestChoicesOfASheet(t *testing.T) {
	c := newClient(t, true)
	o := ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "kedge", "school": "numbers"}`, 200)
	at := fmt.Sprintf("/sheets/%d", o.ID)
	rule := func(v SheetView, part string) string {
		for _, m := range v.Sheet.Plan.Modules {
			if m.Source == part {
				return m.Rule
			}
		}
		return "no such part"
	}
	if w := ask[Ways](c, "GET", at+"/alternatives?part=aenv", "", 200); len(w.Ways) < 2 || w.Ways[0].Rule != "shared-envelope" {
		t.Fatalf("ways: %+v", w.Ways)
	}
	v := ask[SheetView](c, "PUT", at+"/choices", `{"part": "aenv", "matters": "keep", "refuse": ["shared-envelope"]}`, 200)
	if rule(v, "aenv") == "shared-envelope" || v.Sheet.Choices.Weight["aenv"] != plan.Keep || v.Pending.Undo == "" {
		t.Errorf("chosen: %+v by %q", v.Sheet.Choices, rule(v, "aenv"))
	}
	if v := ask[SheetView](c, "GET", at, "", 200); rule(v, "aenv") == "shared-envelope" {
		t.Error("the choice was not kept")
	}
	ask[Done](c, "POST", "/undo", "", 200)
	if v := ask[SheetView](c, "GET", at, "", 200); rule(v, "aenv") != "shared-envelope" {
		t.Errorf("undone, it is by %q", rule(v, "aenv"))
	}
	for _, body := range []string{`{"part": "attic", "matters": "keep", "refuse": []}`, `{"part": "aenv", "matters": "a lot", "refuse": []}`, `{"part": "aenv", "matters": "", "refuse": ["magic"]}`} {
		ask[Problem](c, "PUT", at+"/choices", body, 422)
	}
	ask[Problem](c, "GET", at+"/alternatives?part=attic", "", 422)
	if p := ask[Plans](c, "GET", at+"/plans", "", 200); len(p.Next) != 2 || len(p.Next[0].Differs) == 0 {
		t.Errorf("next plans: %+v", p.Next)
	}
	ask[Problem](c, "PUT", "/sheets/99/choices", `{"part": "aenv", "matters": "", "refuse": []}`, 404)
}

func TestRanking(t *testing.T) {
	c := newClient(t, true)
	r := ask[Ranking](c, "GET", "/patches/keel/targets", "", 200)
	if len(r.Targets) != 8 || r.Targets[0].Share < r.Targets[7].Share || r.Targets[0].Why == "" || !r.Targets[0].Clean {
		t.Fatalf("%d targets: %+v", len(r.Targets), r.Targets)
	}
	for i, x := range r.Targets {
		if x.Target.ID == "windlass" || x.Target.ID == "ballast" {
			t.Errorf("%s is among the targets", x.Target.ID)
		}
		if x.Share < 0 || x.Share > 1 || i > 0 && x.Share > r.Targets[i-1].Share {
			t.Errorf("%s carries %v after %v", x.Target.ID, x.Share, r.Targets[max(0, i-1)].Share)
		}
	}
	if r := ask[Ranking](c, "GET", "/patches/keel/targets?targets=windlass,kedge", "", 200); len(r.Targets) != 2 || r.Targets[0].Target.ID != "windlass" || r.Targets[0].Share < 0.999 {
		t.Errorf("onto its own panel first: %+v", r.Targets)
	}
	ask[Problem](c, "GET", "/patches/keel/targets?targets=attic", "", 422)
	ask[Problem](c, "GET", "/patches/keel/targets?layer=z", "", 422)
	ask[Problem](c, "GET", "/patches/keel/targets?school=charm", "", 422)
	ask[Problem](c, "GET", "/patches/nobody/targets", "", 404)
}

func TestVersionsOfAPatch(t *testing.T) {
	c := newClient(t, true)
	at := "/patches/keel/versions"
	if v := ask[Versions](c, "POST", at, `{"note": "before the session"}`, 200); len(v.Versions) != 1 || len(v.Versions[0].Since) != 0 || v.Pending.Undo == "" {
		t.Fatalf("kept %+v", v)
	}
	ask[PatchView](c, "PUT", "/patches/keel", `{"name": "Keel deep", "kind": "bass", "tempo": 96, "tags": [], "notes": ""}`, 200)
	v := ask[Versions](c, "GET", at, "", 200)
	if d := v.Versions[0].Since; len(d) < 2 || d[0].Was != "Keel" || d[0].Is != "Keel deep" {
		t.Errorf("since: %+v", d)
	}
	if p := ask[PatchView](c, "POST", at+"/1/restore", "", 200); p.Name != "Keel" {
		t.Errorf("restored %q", p.Name)
	}
	for _, n := range []string{"9", "x", "-1"} {
		ask[Problem](c, "POST", at+"/"+n+"/restore", "", 404)
	}
	ask[Problem](c, "POST", at, fmt.Sprintf(`{"note": %q}`, strings.Repeat("x", 501)), 422)
	ask[Problem](c, "GET", "/patches/nobody/versions", "", 404)
}

// benchServer gives a server with the demo data, and a way to ask it.
func benchServer(b *testing.B, fill func(st *store.Store)) func(method, path, body string) {
	b.Helper()
	st, err := store.Open(filepath.Join(b.TempDir(), "bench.db"))
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = st.Close() })
	if _, err := LoadSample(st); err != nil {
		b.Fatal(err)
	}
	if fill != nil {
		fill(st)
	}
	s := New(Config{Store: st})
	return func(method, path, body string) {
		w := httptest.NewRecorder()
		s.ServeHTTP(w, httptest.NewRequest(method, "http://127.0.0.1"+Base+path, strings.NewReader(body)))
		if w.Code != 200 {
			b.Fatalf("%s %s: %d %.200s", method, path, w.Code, w.Body)
		}
	}
}

// One edit in the workshop of the largest panel, with its check and what has changed.
func BenchmarkWorkshopEdit(b *testing.B) {
	ask := benchServer(b, nil)
	n := 0
	for b.Loop() {
		n++
		ask("POST", "/panels/binnacle/workshop", fmt.Sprintf(`{"what": "edit", "ops": [{"op": "add", "path": "/controls/7/note", "value": "note %d"}]}`, n))
	}
}

// What is drawn while a control is typed.
func BenchmarkWorkshopTry(b *testing.B) {
	ask := benchServer(b, nil)
	for b.Loop() {
		ask("POST", "/panels/binnacle/workshop/try", `{"id": "x", "label": "X", "section": "s", "init": "5", "face": {"kind": "numeric", "max": 127, "step": 1}, "means": [{"param": "filter.cutoff", "law": {"kind": "exponential", "unit": "Hz", "min": 20, "max": 20000}}]}`)
	}
}

// A thousand patches, listed and searched.
func BenchmarkThousandPatches(b *testing.B) {
	ask := benchServer(b, func(st *store.Store) {
		rows, err := st.Patches()
		if err != nil {
			b.Fatal(err)
		}
		for n := range 1000 {
			p, err := patchOf(rows[n%len(rows)].Document)
			if err != nil {
				b.Fatal(err)
			}
			p.ID, p.Name = fmt.Sprintf("p-%d", n), fmt.Sprintf("%s %d", p.Name, n)
			if err := st.PutPatch(p); err != nil {
				b.Fatal(err)
			}
		}
	})
	for _, x := range []struct{ name, path string }{{"desk", "/desk"}, {"list", "/patches"}, {"search", "/patches?q=keel+bass"}} {
		b.Run(x.name, func(b *testing.B) {
			for b.Loop() {
				ask("GET", x.path, "")
			}
		})
	}
}
