package server

import (
	"encoding/json"
	"fmt"
	"testing"

	"glossator/store"
)

// A list of sheets works nothing out that has been worked out before, also after the program has been stopped; what has changed is summed up again, and a tick answers with
// the ticks alone.
func TestSummariesAreKept(t *testing.T) {
	c := newClient(t, true)
	for i, target := range []string{"halyard", "kedge", "thole", "sheave"} {
		ask[Opened](c, "POST", "/sheets", fmt.Sprintf(`{"patch":"keel","target":%q,"school":"numbers"}`, target), 200)
		ask[Ticks](c, "PUT", fmt.Sprintf("/sheets/%d/ticks/%s", i+1, ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", i+1), "", 200).DialIn.Groups[0].Lines[0].Key), "", 200)
	}
	first := ask[Desk](c, "GET", "/desk", "", 200)
	kept, err := c.st.Summaries()
	if err != nil || len(kept) != 4 {
		t.Fatalf("%d summaries are kept: %v", len(kept), err)
	}
	for id, x := range kept { // what is kept is what is shown: told by a mark in it
		x.Data = []byte(fmt.Sprintf(`{"source":"as kept","target":"as kept","lines":%d,"keys":[],"summary":{},"clean":true}`, 1000+id))
		if err := c.st.PutSummaries([]store.Summary{x}); err != nil {
			t.Fatal(err)
		}
	}
	again := &client{t, serverOn(t, c.st), c.st, c.db}
	for _, r := range ask[Desk](again, "GET", "/desk", "", 200).Sheets {
		if r.SourceName != "as kept" || r.Lines != 1000+int(r.ID) {
			t.Errorf("sheet %d was worked out again: %+v", r.ID, r)
		}
	}
	ask[SheetView](again, "PUT", "/sheets/2/overrides/volume", `{"reading":"5"}`, 200)
	for _, r := range ask[Desk](again, "GET", "/desk", "", 200).Sheets {
		if old := r.SourceName == "as kept"; old == (r.ID == 2) {
			t.Errorf("sheet %d: worked out again %v", r.ID, !old)
		}
	}
	for _, r := range first.Sheets {
		if r.Ticked != 1 || r.Lines < 10 || r.SourceName != "Windlass" {
			t.Errorf("%+v", r)
		}
	}
}

// Another panel that comes under the number of a revision that was taken back is not shown by what was summed up of the first: neither in the lists nor on the sheet.
func TestARevisionThatComesAgain(t *testing.T) {
	c := newClient(t, true)
	var halyard map[string]any
	file := ask[json.RawMessage](c, "GET", "/panels/halyard/export", "", 200)
	named := func(name string) string {
		if err := json.Unmarshal(file, &halyard); err != nil {
			t.Fatal(err)
		}
		halyard["name"] = name
		out, err := json.Marshal(halyard)
		if err != nil {
			t.Fatal(err)
		}
		return string(out)
	}
	for _, name := range []string{"Halyard A", "Halyard B"} {
		if res, got := c.do("POST", Base+"/panels?file=halyard.json&as=version", named(name), nil); res.StatusCode != 201 {
			t.Fatalf("%d %s", res.StatusCode, got)
		}
		id := ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"halyard","school":"numbers"}`, 200).ID
		if v := ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", id), "", 200); v.Sheet.Target.Name != name {
			t.Errorf("the sheet is on %s, want %s", v.Sheet.Target.Name, name)
		}
		for _, r := range ask[Desk](c, "GET", "/desk", "", 200).Sheets {
			if r.ID == id && r.TargetName != name {
				t.Errorf("the list has %s, want %s", r.TargetName, name)
			}
		}
		if name == "Halyard A" {
			ask[Done](c, "POST", "/undo", "", 200)
		}
	}
}
