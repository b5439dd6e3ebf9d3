package server

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
)

// tab is somebody who looks at things: it sends with each change which version it was shown.
type tab struct {
	c     *client
	shown map[string]string
}

func newTab(c *client) *tab { return &tab{c, map[string]string{}} }

// ask asks, and gives the status and what was answered.
func (x *tab) ask(method, path, body string) (int, []byte) {
	x.c.t.Helper()
	of := path
	if parts := strings.Split(path, "/"); len(parts) > 3 {
		of = strings.Join(parts[:3], "/")
	}
	res, got := x.c.do(method, Base+path, body, func(r *http.Request) {
		if method != "GET" && x.shown[of] != "" {
			r.Header.Set("If-Match", x.shown[of])
		}
	})
	if tag := res.Header.Get("ETag"); tag != "" {
		x.shown[of] = tag
	}
	return res.StatusCode, got
}

func (x *tab) must(method, path, body string) []byte {
	x.c.t.Helper()
	status, got := x.ask(method, path, body)
	if status >= 300 {
		x.c.t.Fatalf("%s %s: %d %.300s", method, path, status, got)
	}
	return got
}

// Two tabs on the same things: what they change in different places is all kept; what both change is refused to the second with what stands there, what was, and what it wanted.
func TestTwoTabs(t *testing.T) {
	c := newClient(t, true)
	a, b := newTab(c), newTab(c)
	for _, x := range []*tab{a, b} {
		x.must("GET", "/patches/keel", "")
	}
	var before PatchView
	if err := json.Unmarshal(a.must("GET", "/patches/keel", ""), &before); err != nil {
		t.Fatal(err)
	}
	tempo := int(before.Tempo)
	plain := func(tempo int, notes string) string {
		out, err := json.Marshal(PatchHead{Name: before.Name, Kind: before.Kind, Tempo: float64(tempo), Tags: before.Tags, Notes: notes, Wheel: before.Wheel})
		if err != nil {
			t.Fatal(err)
		}
		return string(out)
	}
	a.must("PUT", "/patches/keel", plain(tempo+3, before.Notes))
	b.must("PUT", "/patches/keel", plain(tempo, "from the other tab"))
	var now PatchView
	if err := json.Unmarshal(a.must("GET", "/patches/keel", ""), &now); err != nil {
		t.Fatal(err)
	}
	if now.Tempo != float64(tempo+3) || now.Notes != "from the other tab" {
		t.Errorf("tempo %v, notes %q: one of two changes is lost", now.Tempo, now.Notes)
	}
	b.must("GET", "/patches/keel", "")
	a.must("PUT", "/patches/keel", plain(tempo+3, "mine"))
	status, got := b.ask("PUT", "/patches/keel", plain(tempo+3, "yours"))
	var p Problem
	if err := json.Unmarshal(got, &p); err != nil || status != 412 || len(p.Clashes) != 1 || p.Clashes[0].Here != `"yours"` || p.Clashes[0].There != `"mine"` || !strings.Contains(p.Detail, "mine") {
		t.Errorf("both have changed the notes: %d %s", status, got)
	}
	if status, got := b.ask("DELETE", "/patches/keel", ""); status != 412 {
		t.Errorf("deleted by a tab that has not seen what is in it: %d %s", status, got)
	}
	// the workshop: an edit by places is of the places that were shown
	for _, x := range []*tab{a, b} {
		x.must("GET", "/panels/kedge/workshop", "")
	}
	var w Workshop
	if err := json.Unmarshal(a.must("GET", "/panels/kedge/workshop", ""), &w); err != nil {
		t.Fatal(err)
	}
	second := w.Panel.Controls[1].ID
	edit := func(op string) string { return fmt.Sprintf(`{"what":"edit","ops":[%s]}`, op) }
	a.must("POST", "/panels/kedge/workshop", edit(`{"op":"remove","path":"/controls/0"}`))
	b.must("POST", "/panels/kedge/workshop", edit(`{"op":"replace","path":"/controls/1/label","value":"Mine by place"}`))
	if err := json.Unmarshal(a.must("GET", "/panels/kedge/workshop", ""), &w); err != nil {
		t.Fatal(err)
	}
	if x := w.Panel.Controls[0]; x.ID != second || x.Label != "Mine by place" {
		t.Errorf("the label went to %s %q, want %s", x.ID, x.Label, second)
	}
	// sheets
	ask[Opened](c, "POST", "/sheets", `{"patch": "gulls", "target": "halyard", "school": "numbers"}`, 200)
	for _, x := range []*tab{a, b} {
		x.must("GET", "/sheets/1", "")
	}
	a.must("PUT", "/sheets/1/overrides/filter.cutoff", `{"reading":"40"}`)
	b.must("PUT", "/sheets/1/overrides/filter.resonance", `{"reading":"20"}`)
	if status, got := a.ask("PUT", "/sheets/1/overrides/filter.resonance", `{"reading":"30"}`); status != 412 {
		t.Errorf("the same reading: %d %s", status, got)
	}
	// undo says which step it means
	var d Desk
	if err := json.Unmarshal(a.must("GET", "/desk", ""), &d); err != nil {
		t.Fatal(err)
	}
	b.must("PUT", "/sheets/1/ticks/filter.cutoff", "")
	if status, got := a.ask("POST", fmt.Sprintf("/undo?step=%d", d.Pending.UndoStep), ""); status != 409 || !strings.Contains(string(got), "tick") {
		t.Errorf("a step that is not the last: %d %s", status, got)
	}
}
