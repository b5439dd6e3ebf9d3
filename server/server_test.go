package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"glossator/core/gloss"
	"glossator/core/paste"
	"glossator/core/reckon"
	"glossator/store"
)

type client struct {
	t   *testing.T
	srv *httptest.Server
	st  *store.Store
	db  string // the file of the store
}

func newClient(t *testing.T, sample bool) *client {
	t.Helper()
	db := filepath.Join(t.TempDir(), "test.db")
	st, err := store.Open(db)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = st.Close() })
	if sample {
		if _, err := LoadSample(st); err != nil {
			t.Fatal(err)
		}
	}
	return &client{t, serverOn(t, st), st, db}
}

// serverOn starts a server that has nothing in its memory yet.
func serverOn(t *testing.T, st *store.Store) *httptest.Server {
	return serverIn(t, st, filepath.Join(t.TempDir(), "sounds"))
}

// serverIn is serverOn with the folder of its sounds.
func serverIn(t *testing.T, st *store.Store, sounds string) *httptest.Server {
	srv := httptest.NewServer(New(Config{Store: st, Sounds: sounds}))
	t.Cleanup(srv.Close)
	return srv
}

func (c *client) do(method, path string, body string, change func(*http.Request)) (*http.Response, []byte) {
	c.t.Helper()
	req, err := http.NewRequest(method, c.srv.URL+path, strings.NewReader(body))
	if err != nil {
		c.t.Fatal(err)
	}
	if change != nil {
		change(req)
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		c.t.Fatal(err)
	}
	defer func() { _ = res.Body.Close() }()
	got, err := io.ReadAll(res.Body)
	if err != nil {
		c.t.Fatal(err)
	}
	return res, got
}

// until asks again and again until something is so; the test's own time is the only bound.
func (c *client) until(so func() bool) {
	for !so() {
		time.Sleep(5 * time.Millisecond)
	}
}

func ask[T any](c *client, method, path, body string, status int) T {
	c.t.Helper()
	res, got := c.do(method, Base+path, body, nil)
	if res.StatusCode != status {
		c.t.Fatalf("%s %s: status %d, want %d: %.300s", method, path, res.StatusCode, status, got)
	}
	var v T
	if len(got) > 0 {
		if err := json.Unmarshal(got, &v); err != nil {
			c.t.Fatalf("%s %s: %v: %.300s", method, path, err, got)
		}
	}
	return v
}

func TestTheWayOfASheet(t *testing.T) {
	c := newClient(t, true)
	desk := ask[Desk](c, "GET", "/desk", "", 200)
	if len(desk.Panels) < 3 || len(desk.Patches) < 2 || len(desk.Sheets) != 0 {
		t.Fatalf("the desk has %d panels, %d patches, %d sheets", len(desk.Panels), len(desk.Patches), len(desk.Sheets))
	}
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	if again := ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200); again.ID != 1 {
		t.Errorf("opening again made sheet %d", again.ID)
	}
	v := ask[SheetView](c, "GET", "/sheets/1", "", 200)
	bent := v.Sheet.Summary[gloss.Bent]
	v = ask[SheetView](c, "PUT", "/sheets/1/overrides/filter.cutoff", `{"reading": "90"}`, 200)
	if v.Sheet.Summary[gloss.Bent] != bent+1 || v.Sheet.Overrides["filter.cutoff"] != "90" || v.Pending.Undo != "Keel: set Cutoff to 90" {
		t.Errorf("after the override: %v, %v, undo %q", v.Sheet.Summary, v.Sheet.Overrides, v.Pending.Undo)
	}
	if p := ask[Problem](c, "PUT", "/sheets/1/overrides/filter.cutoff", `{"reading": "900"}`, 422); !strings.Contains(p.Detail, "0 to 127") {
		t.Errorf("a reading off the face: %+v", p)
	}
	for _, bad := range []string{``, `{}`, `{"reading": " "}`, `{"reading": 7}`, `{"knob": "7"}`, `[]`} {
		ask[Problem](c, "PUT", "/sheets/1/overrides/filter.cutoff", bad, 422)
	}
	ask[Problem](c, "PUT", "/sheets/1/overrides/attic", `{"reading": "1"}`, 404)
	if done := ask[Done](c, "POST", "/undo", "", 200); done.What != "Keel: set Cutoff to 90" || done.Pending.Redo != done.What {
		t.Errorf("undo: %+v", done)
	}
	if v = ask[SheetView](c, "GET", "/sheets/1", "", 200); v.Sheet.Summary[gloss.Bent] != bent || len(v.Sheet.Overrides) != 0 {
		t.Errorf("undo left %v, %v", v.Sheet.Summary, v.Sheet.Overrides)
	}
	v = ask[SheetView](c, "PUT", "/sheets/1/ticks/filter.cutoff", "", 200)
	if len(v.Ticks) != 1 {
		t.Errorf("ticks: %v", v.Ticks)
	}
	ask[Problem](c, "PUT", "/sheets/1/ticks/attic", "", 404)
	r := ask[gloss.Scales](c, "GET", "/sheets/1/rule?gloss=filter.cutoff", "", 200)
	if !r.Geometric || len(r.Writing) != 2 || len(r.Source.Ticks) != 101 || len(r.Target.Ticks) != 128 {
		t.Errorf("the rule of the cutoff: %v %v, %d and %d ticks", r.Geometric, r.Writing, len(r.Source.Ticks), len(r.Target.Ticks))
	}
	ask[Problem](c, "GET", "/sheets/1/rule?gloss=attic", "", 404)
	if s := ask[gloss.Sheet](c, "GET", "/sheets/1/export.json", "", 200); !s.Clean() || s.Patch != "keel" {
		t.Errorf("the exported sheet: %s, clean %v", s.Patch, s.Clean())
	}
	if res, text := c.do("GET", Base+"/sheets/1/export.md", "", nil); !strings.Contains(string(text), "# Keel") || !strings.Contains(res.Header.Get("Content-Disposition"), "keel-to-halyard.md") {
		t.Errorf("the Markdown: %s: %.80s", res.Header.Get("Content-Disposition"), text)
	}
	if p := ask[Problem](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard", "school": "charm"}`, 422); !strings.Contains(p.Detail, "numbers, ear or feel") {
		t.Errorf("a school that is none: %+v", p)
	}
}

// A refused import leaves the database as it was.
func TestImportsAreAllOrNothing(t *testing.T) {
	c := newClient(t, true)
	before := ask[Desk](c, "GET", "/desk", "", 200)
	_, keel := c.do("GET", Base+"/patches/keel/export", "", nil)
	bad := strings.Replace(strings.Replace(string(keel), `"3.2"`, `"32"`, 1), `"424 ms"`, `"never"`, 1)
	p := ask[Problem](c, "POST", "/patches?file=gig.json", bad, 422)
	if len(p.Faults) != 2 || p.Faults[0].File != "gig.json" || p.Faults[0].Path != "/layers/0/readings/fenv.decay" || p.Faults[1].Path != "/layers/0/readings/filter.cutoff" {
		t.Errorf("faults: %v", p.Faults)
	}
	if p := ask[Problem](c, "POST", "/patches", strings.Repeat(" ", BodyLimit+1), 413); !strings.Contains(p.Detail, "5 MB") {
		t.Errorf("too large: %+v", p)
	}
	ask[Problem](c, "POST", "/panels", `{"format": "glossator-panel"}`, 422)
	after := ask[Desk](c, "GET", "/desk", "", 200)
	if a, b := asJSON(t, before), asJSON(t, after); a != b {
		t.Errorf("the desk changed:\n%s\n%s", a, b)
	}
	good := strings.Replace(string(keel), `"keel"`, `"keel-two"`, 1)
	if row := ask[PatchRow](c, "POST", "/patches?file=k.json", good, 201); row.ID != "keel-two" || row.Changed == 0 {
		t.Errorf("imported %+v", row)
	}
	_, panel := c.do("GET", Base+"/panels/kedge/export", "", nil)
	if row := ask[PanelRow](c, "POST", "/panels?as=version", strings.Replace(string(panel), "Semi-modular", "Half-modular", 1), 201); row.Revision != 2 {
		t.Errorf("a changed panel is revision %d", row.Revision)
	}
}

func asJSON(t *testing.T, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

func TestSheetsSayWhenTheyAreOld(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "kedge"}`, 200)
	_, panel := c.do("GET", Base+"/panels/kedge/export", "", nil)
	ask[PanelRow](c, "POST", "/panels?as=version", strings.Replace(string(panel), "Semi-modular", "Half-modular", 1), 201)
	v := ask[SheetView](c, "GET", "/sheets/1", "", 200)
	if v.Sheet.Target.Revision != 1 || !strings.Contains(v.Newer, "revision 2") {
		t.Errorf("revision %d, newer %q", v.Sheet.Target.Revision, v.Newer)
	}
	if s := ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "kedge"}`, 200); s.ID != 2 {
		t.Errorf("translating again gave sheet %d", s.ID)
	}
	ask[any](c, "DELETE", "/patches/keel", "", 204)
	if v := ask[SheetView](c, "GET", "/sheets/2", "", 200); !strings.Contains(v.Newer, "deleted") {
		t.Errorf("the patch is gone, newer says %q", v.Newer)
	}
}

// Readings are typed, tried, stepped and put back; every change can be undone, and what is
// refused changes nothing.
func TestPatchDesk(t *testing.T) {
	c := newClient(t, true)
	row := ask[PatchRow](c, "POST", "/patches/blank", `{"name": "Sea Fret / 2", "panel": "kedge", "kind": "pad"}`, 201)
	if row.ID != "sea-fret-2" || row.Changed != 0 {
		t.Fatalf("a blank patch is %+v", row)
	}
	if again := ask[PatchRow](c, "POST", "/patches/blank", `{"name": "Sea Fret 2", "panel": "kedge", "kind": "pad"}`, 201); again.ID != "sea-fret-2-2" {
		t.Errorf("a second patch of the name has the id %s", again.ID)
	}
	at := "/patches/sea-fret-2/layers/a/readings/"
	line := func(v PatchView, control string) PatchLine {
		for _, l := range v.LayerViews[0].Lines {
			if l.Control == control {
				return l
			}
		}
		t.Fatalf("no line %s", control)
		return PatchLine{}
	}
	v := ask[PatchView](c, "PUT", at+"lowpass.cutoff", `{"reading": "~ 350 Hz"}`, 200)
	if l := line(v, "lowpass.cutoff"); l.Reading != "~350 Hz" || l.AtInit || !strings.HasPrefix(l.Meaning, "350 Hz") || v.Pending.Undo == "" {
		t.Errorf("typed: %+v", l)
	}
	if l := ask[PatchLine](c, "GET", at+"lowpass.cutoff/try?text=2+kHz", "", 200); l.Meaning != "2 kHz" {
		t.Errorf("tried: %+v", l)
	}
	for path, body := range map[string]string{"lowpass.cutoff": `{"reading": "5 Hz"}`, "osc1.wave": `{"reading": "bell"}`} {
		if p := ask[Problem](c, "PUT", at+path, body, 422); p.Detail == "" {
			t.Errorf("%s: %+v", path, p)
		}
	}
	ask[Problem](c, "PUT", at+"attic", `{"reading": "1"}`, 404)
	ask[Problem](c, "GET", at+"lowpass.cutoff/try?text=", "", 422)
	ask[Problem](c, "PUT", "/patches/sea-fret-2/layers/z/readings/lowpass.cutoff", `{"reading": "2 kHz"}`, 404)
	v = ask[PatchView](c, "POST", at+"lowpass.cutoff/step", `{"by": 1}`, 200)
	if l := line(v, "lowpass.cutoff"); strings.HasPrefix(l.Reading, "~") || l.AtInit {
		t.Errorf("stepped: %+v", l)
	}
	v = ask[PatchView](c, "POST", at+"lowpass.cutoff/step", `{"by": 999}`, 200)
	if l := line(v, "lowpass.cutoff"); l.Reading != "20 kHz" {
		t.Errorf("stepped beyond the end: %+v", l)
	}
	v = ask[PatchView](c, "DELETE", at+"lowpass.cutoff", "", 200)
	if l := line(v, "lowpass.cutoff"); !l.AtInit {
		t.Errorf("put back: %+v", l)
	}
	v = ask[PatchView](c, "PUT", "/patches/sea-fret-2", `{"name": "Sea Fret", "kind": "lead", "tempo": 72, "tags": ["fog"], "notes": "thin", "wheel": 0.5}`, 200)
	if v.Name != "Sea Fret" || v.Wheel != 0.5 || v.Tempo != 72 || v.Kind != "lead" {
		t.Errorf("the head: %+v", v.PatchRow)
	}
	if p := ask[Problem](c, "PUT", "/patches/sea-fret-2", `{"name": " ", "kind": "drone", "tempo": 9, "tags": [], "notes": ""}`, 422); len(p.Faults) != 3 {
		t.Errorf("a bad head: %+v", p)
	}
	if copied := ask[PatchRow](c, "POST", "/patches/sea-fret-2/copy", "", 201); copied.Name != "Sea Fret (copy)" {
		t.Errorf("copied: %+v", copied)
	}
	for range 2 {
		ask[Done](c, "POST", "/undo", "", 200)
	}
	if v := ask[PatchView](c, "GET", "/patches/sea-fret-2", "", 200); v.Name != "Sea Fret / 2" {
		t.Errorf("undo left the name %q", v.Name)
	}
}

// Another school makes another sheet, and says what is not set as by numbers.
func TestSchools(t *testing.T) {
	c := newClient(t, true)
	for school, least := range map[string]int{"numbers": 0, "ear": 1, "feel": 0} {
		o := ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "bowline", "school": "`+school+`"}`, 200)
		v := ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", o.ID), "", 200)
		if string(v.Sheet.School) != school || len(v.Schools) != 3 || len(v.Against) < least || !v.Sheet.Clean() || school == "numbers" && len(v.Against) > 0 {
			t.Errorf("%s: %d differ, audit %v", school, len(v.Against), v.Sheet.Audit)
		}
		for _, x := range v.Against {
			if x.Was == x.Is || x.Label == "" || x.Why == "" {
				t.Errorf("%s: a difference that says too little: %+v", school, x)
			}
		}
	}
}

func TestPasteNotes(t *testing.T) {
	c := newClient(t, true)
	r := ask[paste.Result](c, "POST", "/patches/fog-bank/layers/a/paste", `{"notes": "cutoff 70, reso 33\nflux 9"}`, 200)
	if len(r.Guesses) != 2 || len(r.Unmatched) != 1 || r.Unmatched[0].Line != 2 {
		t.Fatalf("%+v", r)
	}
	before := ask[PatchView](c, "GET", "/patches/fog-bank", "", 200)
	p := ask[Problem](c, "PUT", "/patches/fog-bank/layers/a/readings", `{"readings": {"filter.cutoff": "70", "filter.resonance": "900", "attic": "1"}}`, 422)
	if len(p.Faults) != 2 {
		t.Errorf("faults: %+v", p.Faults)
	}
	if now := ask[PatchView](c, "GET", "/patches/fog-bank", "", 200); asJSON(t, now.LayerViews) != asJSON(t, before.LayerViews) {
		t.Error("a refused paste changed something")
	}
	v := ask[PatchView](c, "PUT", "/patches/fog-bank/layers/a/readings", `{"readings": {"filter.cutoff": "70", "filter.resonance": "33"}}`, 200)
	if v.Pending.Undo != "Fog Bank: 2 readings" {
		t.Errorf("undo would be %q", v.Pending.Undo)
	}
	ask[Done](c, "POST", "/undo", "", 200)
	if now := ask[PatchView](c, "GET", "/patches/fog-bank", "", 200); asJSON(t, now.LayerViews) != asJSON(t, before.LayerViews) {
		t.Error("undo did not take both readings back")
	}
	ask[Problem](c, "PUT", "/patches/fog-bank/layers/a/readings", `{"readings": {}}`, 422)
	ask[Problem](c, "POST", "/patches/fog-bank/layers/z/paste", `{"notes": "x"}`, 404)
}

func TestFindControls(t *testing.T) {
	c := newClient(t, true)
	for _, x := range []struct {
		q, first string
		least    int
	}{{"cutoff", "cutoff", 8}, {"kedge reso", "resonance", 1}, {"lfo rate frequency", "rate", 5}, {"reverb duration", "", 4}, {"portamento", "glide", 3}} {
		f := ask[FoundControls](c, "GET", "/controls?q="+strings.ReplaceAll(x.q, " ", "+"), "", 200)
		if len(f.Found) < x.least || !strings.Contains(strings.ToLower(f.Found[0].Label), x.first) {
			t.Errorf("%s: %d found, first %+v", x.q, len(f.Found), f.Found[:min(1, len(f.Found))])
		}
	}
	for _, q := range []string{"", "xylophone", "kedge xylophone"} {
		if f := ask[FoundControls](c, "GET", "/controls?q="+strings.ReplaceAll(q, " ", "+"), "", 200); len(f.Found) != 0 || f.Found == nil {
			t.Errorf("%q found %d", q, len(f.Found))
		}
	}
	if f := ask[FoundControls](c, "GET", "/controls?q=r", "", 200); len(f.Found) != maxFound || f.More == 0 {
		t.Errorf("a wide search gave %d and %d more", len(f.Found), f.More)
	}
}

func TestSums(t *testing.T) {
	c := newClient(t, false)
	if s := ask[Sums](c, "GET", "/sums", "", 200); len(s.Sums) < 15 || s.Sums[0].Formula == "" {
		t.Errorf("%d sums", len(s.Sums))
	}
	// MIDI 1.0: a dotted eighth at 96 is 468.75 ms
	if a := ask[reckon.Answer](c, "GET", "/sums/division?left=1/8.&tempo=96", "", 200); a.RightValue != 468.75 {
		t.Errorf("a dotted eighth at 96: %+v", a)
	}
	for _, path := range []string{"division?left=1/8.", "division?left=1/8.&tempo=x", "division?left=1&right=2&tempo=96", "division?tempo=96", "beating?left=5+ct&note=H", "feedback?left=50+%25&time=3+Hz", "comb?left=saw"} {
		if p := ask[Problem](c, "GET", "/sums/"+path, "", 422); p.Detail == "" {
			t.Errorf("%s: %+v", path, p)
		}
	}
	ask[Problem](c, "GET", "/sums/attic?left=1", "", 404)
	if s := ask[Sums](c, "GET", "/sums?value=1/8.&tempo=96", "", 200); len(s.Taken) < 2 || s.Taken[0].ID != "division" || s.Taken[0].Right != "468.75 ms" {
		t.Errorf("a taken value: %+v", s.Taken)
	}
	ask[Problem](c, "GET", "/sums?value=1/8.&tempo=fast", "", 422)
}

func TestWhoMayAsk(t *testing.T) {
	c := newClient(t, true)
	for _, x := range []struct {
		name, method string
		change       func(*http.Request)
		status       int
	}{
		{"its own page", "POST", func(r *http.Request) { r.Header.Set("Origin", c.srv.URL) }, 422},
		{"no origin, as from a script of the user's", "POST", nil, 422},
		{"another origin", "POST", func(r *http.Request) { r.Header.Set("Origin", "http://evil.example") }, 403},
		{"a null origin", "POST", func(r *http.Request) { r.Header.Set("Origin", "null") }, 403},
		{"another site", "POST", func(r *http.Request) { r.Header.Set("Sec-Fetch-Site", "cross-site") }, 403},
		{"another host", "GET", func(r *http.Request) { r.Host = "evil.example" }, 403},
		{"another host with a port", "GET", func(r *http.Request) { r.Host = "evil.example:8737" }, 403},
		{"localhost", "GET", func(r *http.Request) { r.Host = "localhost:9" }, 404},
		{"loopback of version 6", "GET", func(r *http.Request) { r.Host = "[::1]:9" }, 404},
	} {
		path := "/undo"
		if x.method == "GET" {
			path = "/nothing"
		} else { // use up what can be undone, so that the answer is the same each time
			for {
				if _, err := c.st.Undo(0, ""); err != nil {
					break
				}
			}
		}
		res, body := c.do(x.method, Base+path, "", x.change)
		if res.StatusCode != x.status || res.Header.Get("Content-Type") != "application/problem+json" {
			t.Errorf("%s: status %d (%s), want %d: %s", x.name, res.StatusCode, res.Header.Get("Content-Type"), x.status, body)
		}
		if !strings.Contains(res.Header.Get("Content-Security-Policy"), "default-src 'self'") || res.Header.Get("X-Content-Type-Options") != "nosniff" {
			t.Errorf("%s: headers %v", x.name, res.Header)
		}
	}
}

func TestNothingThere(t *testing.T) {
	c := newClient(t, false)
	for _, path := range []string{"/panels/x", "/panels/x/export", "/patches/x", "/patches/x/export", "/sheets/9", "/sheets/x", "/sheets/-1", "/sheets/9/rule", "/sheets/9/export.md", "/attic", "/sheets/99999999999999"} {
		if p := ask[Problem](c, "GET", path, "", 404); p.Status != 404 || p.Detail == "" || p.Title == "" {
			t.Errorf("%s: %+v", path, p)
		}
	}
	ask[Problem](c, "POST", "/sheets", `{"patch": "x", "target": "y"}`, 404)
	if d := ask[Desk](c, "GET", "/desk", "", 200); d.Patches == nil || d.Sheets == nil || d.Panels == nil || len(d.Patches) != 0 {
		t.Errorf("an empty desk: %+v", d)
	}
	if n := ask[Loaded](c, "POST", "/sample", "", 200); n.Panels < 3 || n.Patches < 2 {
		t.Errorf("the sample brought %+v", n)
	}
	if n := ask[Loaded](c, "POST", "/sample", "", 200); n.Panels != 0 || n.Patches != 0 {
		t.Errorf("the sample brought %+v a second time", n)
	}
}

// Every panel and patch of the sample can be looked at, and shows every control once.
func TestViewsShowEverything(t *testing.T) {
	c := newClient(t, true)
	desk := ask[Desk](c, "GET", "/desk", "", 200)
	for _, p := range desk.Panels {
		v := ask[PanelView](c, "GET", "/panels/"+p.ID, "", 200)
		n := 0
		for _, s := range v.Sections {
			for _, k := range s.Controls {
				n++
				for _, m := range k.Means {
					if m.Law == "" || len(m.Ticks) == 0 {
						t.Errorf("%s %s: %s has no law or no ticks", p.ID, k.ID, m.Param)
					}
				}
			}
		}
		if n != p.Controls {
			t.Errorf("%s shows %d of %d controls", p.ID, n, p.Controls)
		}
	}
	for _, p := range desk.Patches {
		v := ask[PatchView](c, "GET", "/patches/"+p.ID, "", 200)
		changed := 0
		for _, l := range v.LayerViews[0].Lines {
			if !l.AtInit {
				changed++
			}
		}
		if changed != p.Changed || len(v.Targets) < 3 {
			t.Errorf("%s shows %d changed readings of %d, %d targets", p.ID, changed, p.Changed, len(v.Targets))
		}
	}
}

// The OpenAPI description has every route, and every reference in it leads somewhere.
func TestOpenAPI(t *testing.T) {
	c := newClient(t, false)
	_, text := c.do("GET", Base+"/openapi.json", "", nil)
	var doc struct {
		OpenAPI    string
		Paths      map[string]map[string]any
		Components struct{ Schemas map[string]any }
	}
	if err := json.Unmarshal(text, &doc); err != nil || doc.OpenAPI != "3.1.0" {
		t.Fatalf("%v: %s", err, doc.OpenAPI)
	}
	for _, r := range Routes {
		if doc.Paths[Base+r.Path][strings.ToLower(r.Method)] == nil {
			t.Errorf("%s %s is not described", r.Method, r.Path)
		}
	}
	for _, m := range regexp.MustCompile(`"\$ref":\s*"([^"]+)"`).FindAllSubmatch(text, -1) {
		name := strings.TrimPrefix(string(m[1]), "#/components/schemas/")
		if doc.Components.Schemas[name] == nil {
			t.Errorf("the reference %s leads nowhere", m[1])
		}
	}
	if bytes.Contains(text, []byte("$defs")) {
		t.Error("a schema still refers to its own definitions")
	}
}

func BenchmarkDesk(b *testing.B) {
	st, err := store.Open(filepath.Join(b.TempDir(), "bench.db"))
	if err != nil {
		b.Fatal(err)
	}
	defer func() { _ = st.Close() }()
	if _, err := LoadSample(st); err != nil {
		b.Fatal(err)
	}
	s := New(Config{Store: st})
	for b.Loop() {
		w := httptest.NewRecorder()
		s.ServeHTTP(w, httptest.NewRequest("GET", "http://127.0.0.1"+Base+"/desk", nil))
		if w.Code != 200 {
			b.Fatal(w.Code)
		}
	}
}
