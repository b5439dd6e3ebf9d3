package formats

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"glossator/core/fault"
	"glossator/core/gloss"
	"glossator/core/panel"
	"glossator/core/translate"
	"glossator/demo"
)

func must(t testing.TB, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func rack(t testing.TB) map[string]*panel.Compiled {
	t.Helper()
	out := map[string]*panel.Compiled{}
	for _, f := range demo.Panels() {
		c, err := ReadPanel(f.Name, f.Data)
		must(t, err)
		out[c.ID] = c
	}
	return out
}

const goodPatch = `{"format": "glossator-patch", "version": 1, "id": "x", "name": "X", "panel": "kedge", "kind": "bass",
 "layers": [{"id": "a", "readings": {"lowpass.cutoff": "200 Hz"}}]}`

// Bad input: each fault is named by file and path, and says what was expected.
func TestImportFaults(t *testing.T) {
	panels := rack(t)
	with := func(old, new string) string {
		if !strings.Contains(goodPatch, old) {
			t.Fatalf("the good patch has no %q", old)
		}
		return strings.Replace(goodPatch, old, new, 1)
	}
	for _, c := range []struct{ name, text, path, says string }{
		{"empty", ``, "", "ends too early"},
		{"not JSON", `readings: 3`, "", "line 1, column 1"},
		{"cut off", goodPatch[:60], "", "expected JSON"},
		{"comma too many", with(`"kind": "bass",`, `"kind": "bass",,`), "", "line 1"},
		{"two documents", goodPatch + goodPatch, "", "expected JSON"},
		{"not an object", `[1, 2]`, "", "object at the top"},
		{"not UTF-8", "{\"format\": \"\xff\"}", "", "UTF-8"},
		{"NaN", with(`"version": 1`, `"version": NaN`), "/version", "invalid character 'N'"},
		{"infinity", with(`"version": 1`, `"version": 1, "tempo": 1e999`), "/tempo", "400"},
		{"name twice", with(`"name": "X",`, `"name": "X", "name": "Y",`), "/name", "again at line 1"},
		{"reading twice", with(`"lowpass.cutoff": "200 Hz"`, `"lowpass.cutoff": "200 Hz", "lowpass.cutoff": "2 kHz"`), "/layers/0/readings/lowpass.cutoff", "again"},
		{"deeply nested", `{"format": "glossator-patch", "version": 1, "notes": ` + strings.Repeat("[", 10000) + strings.Repeat("]", 10000) + `}`, "/notes/0", "32 levels"},
		{"another format", with("glossator-patch", "glossator-panel"), "/format", `expected "glossator-patch"`},
		{"no format", with(`"format": "glossator-patch", `, ``), "/format", "got nothing"},
		{"wrong version", with(`"version": 1`, `"version": 2`), "/version", "reads no other"},
		{"version as text", with(`"version": 1`, `"version": "1.0"`), "/version", "expected version 1"},
		{"no id", with(`"id": "x", `, ``), "", "id"},
		{"bad id", with(`"id": "x"`, `"id": "Two Words"`), "/id", "lower-case"},
		{"no kind of that name", with(`"bass"`, `"drone"`), "/kind", "one of bass"},
		{"unknown name", with(`"kind"`, `"mood": "grim", "kind"`), "/mood", "no such name"},
		{"number for text", with(`"X"`, `7`), "/name", "string"},
		{"number for a reading", with(`"200 Hz"`, `200`), "/layers/0/readings/lowpass.cutoff", "string"},
		{"no layer", with(`[{"id": "a", "readings": {"lowpass.cutoff": "200 Hz"}}]`, `[]`), "/layers", "minItems"},
		{"unknown panel", with(`"kedge"`, `"anchor"`), "/panel", "import the panel first"},
		{"unknown control", with(`lowpass.cutoff`, `lowpass.glow`), "/layers/0/readings/lowpass.glow", "none with this id"},
		{"reading out of range", with(`200 Hz`, `5 Hz`), "/layers/0/readings/lowpass.cutoff", "the least here is 20 Hz"},
		{"reading of no form", with(`200 Hz`, `200 Hx`), "/layers/0/readings/lowpass.cutoff", "expected a unit"},
		{"reading NaN", with(`200 Hz`, `NaN`), "/layers/0/readings/lowpass.cutoff", "marks"},
		{"tempo 0.5", with(`"kind"`, `"tempo": 0.5, "kind"`), "/tempo", "10"},
		{"cyclic cables", with(`}}]`, `}, "cables": [{"from": "out-att", "to": "in-att"}]}]`), "/layers/0/cables/0", "no way back"},
		{"cable from nowhere", with(`}}]`, `}, "cables": [{"from": "out-moon", "to": "in-att"}]}]`), "/layers/0/cables/0/from", "output point"},
		{"layer twice", with(`}}]`, `}}, {"id": "a", "readings": {}}]`), "/layers/1/id", "no other layer"},
		{"phrase with no note", with(`"layers"`, `"phrase": {"notes": [{"at": "0", "for": "1/4", "note": "H9", "velocity": 9}]}, "layers"`), "/phrase/notes/0/note", "a note such as"},
		{"phrase too loud", with(`"layers"`, `"phrase": {"notes": [{"at": "0", "for": "1/4", "note": "A1", "velocity": 200}]}, "layers"`), "/phrase/notes/0/velocity", "127"},
		{"too large", strings.Repeat(" ", MaxSize+1), "", "at most 5 MB"},
	} {
		_, _, err := ReadPatchOn("gig.json", []byte(c.text), func(id string) *panel.Compiled { return panels[id] })
		var l fault.List
		if !errors.As(err, &l) || len(l) == 0 {
			t.Errorf("%s: got %v, want faults", c.name, err)
			continue
		}
		found := false
		for _, f := range l {
			found = found || f.File == "gig.json" && strings.HasPrefix(f.Path, c.path) && strings.Contains(f.Message, c.says)
		}
		if !found {
			t.Errorf("%s: got %v, want a fault of gig.json at %q that says %q", c.name, l, c.path, c.says)
		}
	}
	if _, _, err := ReadPatchOn("x", []byte("\ufeff"+goodPatch), func(id string) *panel.Compiled { return panels[id] }); err != nil {
		t.Errorf("the good patch, with a byte order mark: %v", err)
	}
}

// Panels go through the same reader; a law that is not monotone and an id used twice are named.
func TestPanelImportFaults(t *testing.T) {
	var kedge string
	for _, f := range demo.Panels() {
		if f.Name == "kedge.json" {
			kedge = string(f.Data)
		}
	}
	for _, c := range []struct{ name, old, new, path, says string }{
		{"law not monotone", `[0.166667, 60]`, `[0.166667, 10]`, "/controls/", "strictly monotone"},
		{"control twice", `"id": "osc1.wave"`, `"id": "osc1.range"`, "/controls/2/id", "no other control"},
		{"unknown face", `"kind": "clock"`, `"kind": "sundial"`, "/controls/0/face/kind", "one of numeric"},
		{"audio in a circle", `{"from": "spring", "to": "out"}`, `{"from": "spring", "to": "mixer"}`, "/audio/", "closes a loop"},
		{"name that is not there", `"aliases"`, `"nicknames"`, "/controls/", "no such name"},
	} {
		if !strings.Contains(kedge, c.old) {
			t.Fatalf("kedge has no %s", c.old)
		}
		_, err := ReadPanel("kedge.json", []byte(strings.Replace(kedge, c.old, c.new, 1)))
		if err == nil || !strings.Contains(err.Error(), "kedge.json: "+c.path) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: got %v, want a fault at %s that says %q", c.name, err, c.path, c.says)
		}
	}
}

// What is written reads back to the same.
func TestRoundTrips(t *testing.T) {
	panels := rack(t)
	for id, c := range panels {
		text, err := Write(c.Panel)
		must(t, err)
		again, err := ReadPanel(id, text)
		must(t, err)
		second, err := Write(again.Panel)
		must(t, err)
		if string(text) != string(second) {
			t.Errorf("%s changed on its way through a file", id)
		}
	}
	for _, f := range demo.Patches() {
		p, _, err := ReadPatchOn(f.Name, f.Data, func(id string) *panel.Compiled { return panels[id] })
		must(t, err)
		text, err := Write(p)
		must(t, err)
		if _, _, err := ReadPatchOn(f.Name, text, func(id string) *panel.Compiled { return panels[id] }); err != nil {
			t.Errorf("%s does not read back: %v", f.Name, err)
		}
	}
}

func TestSheetAsMarkdown(t *testing.T) {
	panels := rack(t)
	for _, f := range demo.Patches() {
		p, src, err := ReadPatchOn(f.Name, f.Data, func(id string) *panel.Compiled { return panels[id] })
		must(t, err)
		for _, dst := range panels {
			s, err := translate.Translate(src, p, dst, translate.Options{})
			must(t, err)
			text := SheetMarkdown(s)
			for _, want := range []string{"# " + p.Name + ": " + src.Name + " to " + dst.Name, "## Dial in", "- I1 holds", "| control | " + src.Name} {
				if !strings.Contains(text, want) {
					t.Errorf("%s to %s: the Markdown has no %q", p.ID, dst.ID, want)
				}
			}
			for i := range s.Glosses {
				if g := &s.Glosses[i]; g.Verdict == gloss.LeftOut && !strings.Contains(text, cell(g.Label)) {
					t.Errorf("%s to %s: %s is lost from the Markdown", p.ID, dst.ID, g.Label)
				}
			}
			for _, r := range s.Recasts {
				if !strings.Contains(text, cell(r.Text)) {
					t.Errorf("%s to %s: %q is lost from the Markdown", p.ID, dst.ID, r.Text)
				}
			}
			for n, line := range strings.Split(text, "\n") {
				if strings.HasPrefix(line, "| ") && strings.Count(strings.ReplaceAll(line, `\|`, ""), "|") != 8 {
					t.Errorf("%s to %s: row %d has not seven cells: %s", p.ID, dst.ID, n, line)
				}
			}
		}
	}
}

// The importers neither panic nor hang, whatever they are given.
func FuzzReadPatch(f *testing.F) {
	f.Add([]byte(goodPatch))
	for _, x := range demo.Patches() {
		f.Add(x.Data)
	}
	panels := rack(f)
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _, _ = ReadPatchOn("x", data, func(id string) *panel.Compiled { return panels[id] })
	})
}

const smallPanel = `{"format": "glossator-panel", "version": 1, "id": "x", "name": "X", "revision": 1, "kind": "instrument", "memory": true,
 "sections": [{"id": "s", "label": "S", "step": "filter"}], "modules": [{"id": "f", "kind": "filter", "label": "F", "fixed": {"poles": "4"}, "pivot": "C3"}],
 "controls": [{"id": "c", "label": "C", "section": "s", "face": {"kind": "numeric", "max": 10, "step": 1},
   "means": [{"param": "f.cutoff", "law": {"kind": "exponential", "unit": "Hz", "min": 20, "max": 20000, "source": "stated"}}], "init": "5"},
  {"id": "t", "label": "T", "section": "s", "face": {"kind": "list", "entries": ["off", "on"]},
   "means": [{"param": "f.track", "law": {"kind": "list", "unit": "%", "values": [0, 100]}}], "init": "off"}],
 "audio": [{"from": "f", "to": "out"}]}`

func FuzzReadPanel(f *testing.F) {
	if _, err := ReadPanel("x", []byte(smallPanel)); err != nil {
		f.Fatal(err)
	}
	f.Add([]byte(smallPanel))
	f.Fuzz(func(t *testing.T, data []byte) { _, _ = ReadPanel("x", data) })
}

// The schemas in docs/formats are those that `make generate` makes; see docs/generate.
func TestSchemasAreThere(t *testing.T) {
	for _, name := range []string{"panel.schema.json", "patch.schema.json"} {
		text, err := os.ReadFile(filepath.Join("..", "docs", "formats", name))
		if err != nil || !strings.Contains(string(text), "json-schema.org/draft/2020-12") {
			t.Errorf("%s: %v", name, err)
		}
	}
	patchSchema()
	panelSchema()
}

func BenchmarkReadPanel(b *testing.B) {
	data := demo.Panels()[0].Data
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		if _, err := ReadPanel("x", data); err != nil {
			b.Fatal(err)
		}
	}
}
