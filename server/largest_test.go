package server

import (
	"encoding/json"
	"fmt"
	"net/http"
	"reflect"
	"strings"
	"testing"

	"glossator/core/panel"
	"glossator/core/patch"
)

// wide is a text of so many characters, of several bytes each, that the forms take as it is.
func wide(n int) string { return strings.Repeat("ø", n-2) + "語z" }

// What the form takes at its largest, a file takes too: a patch and a panel are filled through the API to their bounds, exported, read into an empty database and exported
// again, byte for byte the same; one character more is refused by the form as it is by the file.
func TestTheLargestOfEverything(t *testing.T) {
	c := newClient(t, true)
	const id = "keel"
	tags := make([]string, 20)
	for i := range tags {
		tags[i] = fmt.Sprint(wide(50), i)
	}
	head := func(name, notes string, tags []string) string {
		body, err := json.Marshal(PatchHead{Name: name, Kind: "bass", Tempo: 399.5, Tags: tags, Notes: notes, Wheel: 1})
		if err != nil {
			t.Fatal(err)
		}
		return string(body)
	}
	notes := strings.Repeat(wide(99)+"\n", 200)
	ask[PatchView](c, "PUT", "/patches/"+id, head(wide(120), notes, tags), 200)
	for name, body := range map[string]string{
		"name": head(wide(121), "", nil), "notes": head("Keel", strings.Repeat("n", 20001), nil), "tags": head("Keel", "", append(tags, "one more")),
	} {
		if res, got := c.do("PUT", Base+"/patches/"+id, body, nil); res.StatusCode != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d %.200s", name, res.StatusCode, got)
		}
	}
	view := ask[PatchView](c, "GET", "/patches/"+id, "", 200)
	for len(view.LayerViews) < 8 {
		view = ask[PatchView](c, "POST", "/patches/"+id+"/layers", `{"label":"","like":"`+view.LayerViews[0].ID+`"}`, 200)
	}
	for _, l := range view.LayerViews {
		ask[PatchView](c, "PUT", "/patches/"+id+"/layers/"+l.ID, fmt.Sprintf(`{"label":%q,"transpose":"-12 st","level":"-3 dB"}`, wide(120)), 200)
		all := map[string]string{}
		for _, x := range l.Lines {
			if x.Reading != "" {
				all[x.Control] = x.Reading
			}
		}
		body, err := json.Marshal(ReadingsBody{Readings: all})
		if err != nil {
			t.Fatal(err)
		}
		ask[PatchView](c, "PUT", "/patches/"+id+"/layers/"+l.ID+"/readings", string(body), 200)
	}
	if res, got := c.do("POST", Base+"/patches/"+id+"/layers", `{"label":"","like":""}`, nil); res.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a ninth layer: %d %.200s", res.StatusCode, got)
	}
	long := &patch.Phrase{Name: wide(60)}
	for i := range 2000 {
		long.Notes = append(long.Notes, patch.PhraseNote{At: fmt.Sprintf("%d/16", i), For: "1/16", Note: "C3", Velocity: 1 + i%127, Accent: i%2 == 0, Slide: i%3 == 0})
	}
	phrase := func(p *patch.Phrase) string {
		body, err := json.Marshal(PhraseBody{Phrase: p})
		if err != nil {
			t.Fatal(err)
		}
		return string(body)
	}
	taken := ask[PatchView](c, "PUT", "/patches/"+id+"/phrase", phrase(long), 200)
	if taken.Phrase == nil || len(taken.Phrase.Notes) != 2000 {
		t.Fatal("the phrase is not there")
	}
	more := *long
	more.Notes = append(more.Notes, more.Notes[0])
	if res, got := c.do("PUT", Base+"/patches/"+id+"/phrase", phrase(&more), nil); res.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("a note more: %d %.200s", res.StatusCode, got)
	}

	// a panel with texts at their bounds and as many hidden notes as there may be
	w := ask[Workshop](c, "GET", "/panels/kedge/workshop", "", 200)
	ops := []map[string]any{{"op": "replace", "path": "/name", "value": wide(120)}, {"op": "add", "path": "/summary", "value": wide(2000)}}
	var doc panel.Panel
	text, err := json.Marshal(w.Panel)
	if err != nil || json.Unmarshal(text, &doc) != nil {
		t.Fatal(err)
	}
	for i := range doc.Controls {
		ops = append(ops, map[string]any{"op": "replace", "path": fmt.Sprintf("/controls/%d/label", i), "value": fmt.Sprint(wide(100), i)})
	}
	body, err := json.Marshal(map[string]any{"what": "everything", "ops": ops})
	if err != nil {
		t.Fatal(err)
	}
	ask[Workshop](c, "POST", "/panels/kedge/workshop", string(body), 200)
	ask[PanelRow](c, "POST", "/panels/kedge/workshop/save", "", 200)

	empty := newClient(t, false)
	for _, x := range []struct{ from, to, export string }{{"/panels/kedge/export", "/panels?file=kedge.json", "/panels/kedge/export"}, {"/panels/" + view.Panel + "/export", "/panels?file=x.json", ""}, {"/patches/" + id + "/export", "/patches?file=keel.json", "/patches/" + id + "/export"}} {
		_, file := c.do("GET", Base+x.from, "", nil)
		if res, got := empty.do("POST", Base+x.to, string(file), nil); res.StatusCode != 201 {
			t.Fatalf("%s: %d %.400s", x.from, res.StatusCode, got)
		}
		if x.export == "" {
			continue
		}
		_, again := empty.do("GET", Base+x.export, "", nil)
		var a, b map[string]any
		if json.Unmarshal(file, &a) != nil || json.Unmarshal(again, &b) != nil {
			t.Fatalf("%s is no JSON", x.export)
		}
		delete(a, "revision") // an import begins at 1
		delete(b, "revision")
		delete(a, "panelRevision")
		delete(b, "panelRevision")
		if !reflect.DeepEqual(a, b) {
			t.Errorf("%s is another after a round trip", x.export)
		}
	}
}
