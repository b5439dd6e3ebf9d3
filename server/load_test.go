package server

import (
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
