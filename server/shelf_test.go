package server

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"testing"

	"glossator/store"
)

// names lists what of a list is not archived, and what is.
func names(t *testing.T, c *client) (used, archived string) {
	t.Helper()
	d := ask[Desk](c, "GET", "/desk", "", 200)
	note := func(kind, id string, put bool) {
		if put {
			archived += kind + " " + id + "; "
			return
		}
		used += kind + " " + id + "; "
	}
	for _, p := range d.Panels {
		note("panel", p.ID, p.Archived)
	}
	for _, p := range d.Patches {
		note("patch", p.ID, p.Archived)
	}
	for _, y := range d.Sheets {
		note("sheet", fmt.Sprint(y.ID), y.Archived)
	}
	return used, archived
}

// Whatever is archived, deleted, renamed or put into a set, several at once, is one step, and undo brings all of it back just as it was.
func TestEveryStepOfTheShelfIsTakenBack(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	ask[Opened](c, "POST", "/sheets", `{"patch": "gulls", "target": "kedge"}`, 200)
	ask[Done](c, "PUT", "/names", `{"kind": "sheet", "id": "2", "name": "First night"}`, 200)
	// the desk without what a redo leaves, and without when a sheet was last worked on: taking back is work, too
	look := func() string {
		d := ask[Desk](c, "GET", "/desk", "", 200)
		d.Pending.Redo, d.Pending.RedoStep = "", 0
		for i := range d.Sheets {
			d.Sheets[i].Updated = ""
		}
		slices.SortFunc(d.Sheets, func(a, b SheetRow) int { return cmp.Compare(a.ID, b.ID) })
		return asJSON(t, d)
	}
	whole := look()
	for _, x := range []struct{ name, method, path, body, says, gone, archived string }{
		{"archive three", "POST", "/shelf", `{"do": "archive", "items": [{"kind": "patch", "id": "keel"}, {"kind": "patch", "id": "gulls"}, {"kind": "sheet", "id": "1"}]}`, "archive 2 patches, 1 sheet", "patch keel; patch gulls; sheet 1", "patch keel; patch gulls; sheet 1"},
		{"delete a patch", "POST", "/shelf", `{"do": "delete", "items": [{"kind": "patch", "id": "keel"}]}`, "delete patch Keel", "patch keel", ""},
		{"delete a panel with all that stands on it", "POST", "/shelf", `{"do": "delete", "items": [{"kind": "panel", "id": "thole"}, {"kind": "sheet", "id": "2"}, {"kind": "patch", "id": "gulls"}]}`, "delete 1 panel, 1 sheet, 1 patch", "panel thole; patch gulls; sheet 2", ""},
		{"rename a panel", "PUT", "/names", `{"kind": "panel", "id": "halyard", "name": "Halyard, the hired one"}`, "call Halyard Halyard, the hired one", "", ""},
		{"rename a patch", "PUT", "/names", `{"kind": "patch", "id": "keel", "name": "Keel, low"}`, "call Keel Keel, low", "", ""},
		{"rename a sheet", "PUT", "/names", `{"kind": "sheet", "id": "1", "name": "Pit"}`, "call Keel on Halyard Pit", "", ""},
		{"delete a sheet that has a name", "DELETE", "/sheets/2", "", "delete sheet First night", "sheet 2", ""},
		{"duplicate a sheet", "POST", "/sheets/1/copy", "", "duplicate the sheet of Keel", "", ""},
		{"take the sample away", "DELETE", "/sample", "", "take the sample away", "panel halyard; panel kedge; patch keel; sheet 1", ""},
	} {
		status := map[string]int{"/sheets/1/copy": 201, "/sheets/2": 204}[x.path]
		if status == 0 {
			status = 200
		}
		if status == 204 {
			if r, b := c.do(x.method, Base+x.path, x.body, nil); r.StatusCode != 204 {
				t.Fatalf("%s: %d %s", x.name, r.StatusCode, b)
			}
		} else {
			ask[map[string]any](c, x.method, x.path, x.body, status)
		}
		used, archived := names(t, c)
		for _, gone := range strings.Split(x.gone, "; ") {
			if gone != "" && strings.Contains(used, gone+";") {
				t.Errorf("%s: %s is there: %s", x.name, gone, used)
			}
		}
		for _, there := range strings.Split(x.archived, "; ") {
			if there != "" && !strings.Contains(archived, there+";") {
				t.Errorf("%s: %s is not archived: %s", x.name, there, archived)
			}
		}
		if look() == whole {
			t.Errorf("%s: nothing has changed", x.name)
		}
		if done := ask[Done](c, "POST", "/undo", "", 200); done.What != x.says {
			t.Errorf("%s: undo says %q, want %q", x.name, done.What, x.says)
		}
		if now := look(); now != whole {
			t.Errorf("%s: undo left\n%s\nwant\n%s", x.name, now, whole)
		}
	}
}

// What of one's own stands on the sample stays when the sample goes, and the panel with it; what was changed of the sample is one's own.
func TestTheSampleGoesWithoutWhatIsOnesOwn(t *testing.T) {
	c := newClient(t, true)
	ask[PatchRow](c, "POST", "/patches/blank", `{"name": "Mine", "panel": "kedge", "kind": "lead"}`, 201)
	ask[PatchView](c, "PUT", "/patches/keel/layers/a/readings/filter.cutoff", `{"reading": "4"}`, 200)
	ask[Opened](c, "POST", "/sheets", `{"patch": "mine", "target": "coracle"}`, 200)
	ask[Opened](c, "POST", "/sheets", `{"patch": "gulls", "target": "halyard"}`, 200)
	gone := ask[SampleGone](c, "DELETE", "/sample", "", 200)
	used, _ := names(t, c)
	if want := "panel coracle; panel kedge; panel windlass; patch keel; patch mine; sheet 1; "; used != want {
		t.Errorf("left is %s, want %s", used, want)
	}
	if gone.Panels != 7 || gone.Sheets != 1 || gone.Patches != 9 || strings.Join(gone.Kept, ", ") != "Keel, Coracle, Kedge, Windlass" {
		t.Errorf("%+v", gone)
	}
	if again := ask[SampleGone](c, "DELETE", "/sample", "", 200); again.Panels+again.Patches+again.Sheets != 0 {
		t.Errorf("a second time %+v went", again)
	}
}

// A panel on which something stands does not go alone, and the refusal says what stands there; what cannot be is refused in words, and nothing of it is done.
func TestWhatTheShelfRefuses(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	before := asJSON(t, ask[Desk](c, "GET", "/desk", "", 200))
	for _, x := range []struct {
		method, path, body string
		status             int
		says               string
	}{
		{"POST", "/shelf", `{"do": "delete", "items": [{"kind": "panel", "id": "halyard"}]}`, 409, "Halyard is in use: Fog Bank and a sheet stand on it"},
		{"POST", "/shelf", `{"do": "delete", "items": [{"kind": "patch", "id": "keel"}, {"kind": "panel", "id": "windlass"}]}`, 409, "Windlass is in use: a sheet"},
		{"POST", "/shelf", `{"do": "burn", "items": [{"kind": "panel", "id": "halyard"}]}`, 422, "archive, restore or delete"},
		{"POST", "/shelf", `{"do": "archive", "items": []}`, 422, "got 0"},
		{"POST", "/shelf", `{"do": "archive", "items": [{"kind": "attic", "id": "x"}]}`, 404, ""},
		{"POST", "/shelf", `{"do": "delete", "items": [{"kind": "patch", "id": "keel"}, {"kind": "patch", "id": "nobody"}]}`, 404, ""},
		{"POST", "/shelf", `{"do": "delete", "items": [{"kind": "sheet", "id": "-1"}]}`, 404, ""},
		{"PUT", "/names", `{"kind": "patch", "id": "keel", "name": " "}`, 422, "1 to 120"},
		{"PUT", "/names", `{"kind": "panel", "id": "nobody", "name": "X"}`, 404, ""},
		{"PUT", "/names", "{\"kind\": \"panel\", \"id\": \"kedge\", \"name\": \"\\u202e\"}", 422, "direction"},
		{"POST", "/sets", `{"name": "", "patches": []}`, 422, "1 to 120"},
		{"POST", "/sets", `{"name": "x", "patches": ["Not An Id"]}`, 422, "no patch"},
		{"PUT", "/sets/7", `{"name": "x", "patches": []}`, 404, ""},
		{"DELETE", "/sets/7", "", 404, ""},
		{"POST", "/sheets/9/copy", "", 404, ""},
	} {
		if p := ask[Problem](c, x.method, x.path, x.body, x.status); !strings.Contains(p.Detail, x.says) {
			t.Errorf("%s %s: %q, want %q", x.path, x.body, p.Detail, x.says)
		}
	}
	if after := asJSON(t, ask[Desk](c, "GET", "/desk", "", 200)); after != before {
		t.Errorf("the desk changed:\n%s\n%s", before, after)
	}
}

// A set keeps its order; a patch that is deleted is passed over, and comes back at its place.
func TestASetKeepsItsOrder(t *testing.T) {
	c := newClient(t, true)
	s := ask[SetRow](c, "POST", "/sets", `{"name": "Second night", "patches": ["undertow", "keel", "gulls", "keel"]}`, 201)
	if strings.Join(s.Patches, " ") != "undertow keel gulls" {
		t.Fatalf("the set is %v", s.Patches)
	}
	ask[SetRow](c, "PUT", fmt.Sprintf("/sets/%d", s.ID), `{"name": "Second night", "patches": ["gulls", "undertow", "keel"]}`, 200)
	ask[Done](c, "POST", "/shelf", `{"do": "delete", "items": [{"kind": "patch", "id": "undertow"}]}`, 200)
	ask[Done](c, "POST", "/undo", "", 200)
	l := ask[PatchList](c, "GET", "/patches", "", 200)
	if len(l.Sets) != 1 || strings.Join(l.Sets[0].Patches, " ") != "gulls undertow keel" {
		t.Errorf("sets %+v", l.Sets)
	}
	ask[Done](c, "POST", "/undo", "", 200) // the order
	if l := ask[PatchList](c, "GET", "/patches", "", 200); strings.Join(l.Sets[0].Patches, " ") != "undertow keel gulls" {
		t.Errorf("undone, the set is %v", l.Sets[0].Patches)
	}
}

// An import never takes the place of something else in silence: it asks, comes beside it, or in its place, where what was there is kept.
func TestImportsAsk(t *testing.T) {
	c := newClient(t, true)
	_, keel := c.do("GET", Base+"/patches/keel/export", "", nil)
	other := strings.Replace(string(keel), `"424 ms"`, `"500 ms"`, 1)
	_, kedge := c.do("GET", Base+"/panels/kedge/export", "", nil)
	half := strings.Replace(string(kedge), "Semi-modular", "Half-modular", 1)
	try := func(body, as, did, id string) {
		t.Helper()
		before := asJSON(t, ask[Desk](c, "GET", "/desk", "", 200))
		got := ask[Imported](c, "POST", "/import?file=x.json&as="+as, body, 200)
		if got.Did != did || got.ID != id || (did == "asked") != (got.Here != "") {
			t.Errorf("as %q: %+v, want %s %s", as, got, did, id)
		}
		if after := asJSON(t, ask[Desk](c, "GET", "/desk", "", 200)); (did == "asked" || did == "same") != (after == before) {
			t.Errorf("as %q the desk went from\n%s to\n%s", as, before, after)
		}
	}
	try(string(keel), "ask", "same", "keel")
	try(other, "ask", "asked", "keel")
	for _, path := range []string{"/import", "/patches"} {
		if p := ask[Problem](c, "POST", path, other, 409); !strings.Contains(p.Detail, "Keel is here already") {
			t.Errorf("%+v", p)
		}
	}
	try(other, "beside", "beside", "keel-2")
	try(other, "beside", "beside", "keel-3")
	try(other, "version", "version", "keel")
	if v := ask[Versions](c, "GET", "/patches/keel/versions", "", 200); len(v.Versions) != 1 || !strings.Contains(v.Versions[0].Note, "x.json") {
		t.Errorf("versions %+v", v)
	}
	try(string(kedge), "ask", "same", "kedge")
	try(half, "ask", "asked", "kedge")
	try(half, "beside", "beside", "kedge-2")
	try(half, "version", "version", "kedge")
	if p := ask[PanelView](c, "GET", "/panels/kedge", "", 200); p.Revision != 2 {
		t.Errorf("revision %d", p.Revision)
	}
	ask[Problem](c, "POST", "/import?as=burn", other, 422)
}

// A wrong file is told by what it is, and a table and a panel are taken wherever they are dropped.
func TestAWrongFileIsToldByWhatItIs(t *testing.T) {
	c := newClient(t, true)
	_, kedge := c.do("GET", Base+"/panels/kedge/export", "", nil)
	for _, x := range []struct{ path, body, says string }{
		{"/import?file=take.wav", "RIFF\x24\x00\x00\x00WAVEfmt ", "this is a sound"}, {"/patches?file=take.wav", "RIFF\x24\x00\x00\x00WAVEfmt ", "this is a sound"},
		{"/import?file=line.mid", "MThd\x00\x00\x00\x06", "this is a MIDI file"}, {"/patches", string(kedge), "this is a panel"}, {"/import", "%PDF-1.4", "this is a PDF"},
		{"/panels/table?file=x.csv", "\x89PNG\r\n\x1a\n", "this is a picture"}, {"/import", "cutoff at noon", "paste it as notes"}, {"/import", "", "this is empty"},
	} {
		p := ask[Problem](c, "POST", x.path, x.body, 422)
		if said := p.Detail + fmt.Sprint(p.Faults); !strings.Contains(said, x.says) {
			t.Errorf("%s %.20q: %s, want %q", x.path, x.body, said, x.says)
		}
	}
	got := ask[Imported](c, "POST", "/import?file=Mine.csv", "Section,Control,Printed,Sets\nFilter,Cutoff,20 Hz ... 20 kHz,cutoff\nFilter,Glow,0 to 10,nothing there is\n", 200)
	if got.Did != "draft" || got.Taken == 0 || got.Name != "Mine" {
		t.Errorf("%+v", got)
	}
}

// In the workshop undo undoes the workshop: what was done elsewhere since stays, and saving ends what can be undone there.
func TestUndoInTheWorkshopIsItsOwn(t *testing.T) {
	c := newClient(t, true)
	at := "/panels/kedge/workshop"
	edit := func(name string) Workshop {
		return ask[Workshop](c, "POST", at, `{"what": "call it `+name+`", "ops": [{"op": "replace", "path": "/name", "value": "`+name+`"}]}`, 200)
	}
	edit("One")
	edit("Two")
	ask[PatchView](c, "PUT", "/patches/keel/layers/a/readings/filter.cutoff", `{"reading": "4"}`, 200)
	w := ask[Workshop](c, "GET", at, "", 200)
	if !strings.Contains(w.Pending.Undo, "Two") || w.Panel.Name != "Two" {
		t.Fatalf("the workshop would undo %q", w.Pending.Undo)
	}
	if done := ask[Done](c, "POST", fmt.Sprintf("/undo?within=kedge&step=%d", w.Pending.UndoStep), "", 200); !strings.Contains(done.What, "Two") || !strings.Contains(done.Pending.Undo, "One") || !strings.Contains(done.Pending.Redo, "Two") {
		t.Errorf("%+v", done)
	}
	cutoff := func() string {
		p, err := c.st.Patch("keel")
		if err != nil {
			t.Fatal(err)
		}
		return string(p.Document)
	}
	if w := ask[Workshop](c, "GET", at, "", 200); w.Panel.Name != "One" || !strings.Contains(cutoff(), `"filter.cutoff":"4.0"`) {
		t.Errorf("undone in the workshop, it is %q and the patch %.400s", w.Panel.Name, cutoff())
	}
	if done := ask[Done](c, "POST", "/redo?within=kedge", "", 200); !strings.Contains(done.What, "Two") {
		t.Errorf("%+v", done)
	}
	if done := ask[Done](c, "POST", "/undo", "", 200); !strings.Contains(done.What, "Keel") { // elsewhere the last step is the patch's
		t.Errorf("%+v", done)
	}
	ask[PanelRow](c, "POST", at+"/save", "", 200)
	ask[Problem](c, "POST", "/undo?within=kedge", "", 422)
	if w := ask[Workshop](c, "GET", at, "", 200); w.Pending.Undo != "" {
		t.Errorf("after saving the workshop would undo %q", w.Pending.Undo)
	}
	if done := ask[Done](c, "POST", "/undo", "", 200); !strings.Contains(done.What, "save panel") {
		t.Errorf("%+v", done)
	}
	var list store.Step
	if list, _, _ = c.st.Pending(""); !strings.Contains(list.What, "Two") {
		t.Errorf("then comes %q", list.What)
	}
}
