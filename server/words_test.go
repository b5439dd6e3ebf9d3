package server

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"glossator/core/panel"
	"glossator/core/phrase"
	"glossator/core/quantity"
	"glossator/core/scale"
)

// Conditions are edited as words: what is wrong with them is told at their place, what is right is kept, and comes back
// as it was said; taken away they are gone. Another reader, the exported file, has them in its own form.
func TestConditionsAreEditedAsWords(t *testing.T) {
	c := newClient(t, true)
	at := "/panels/halyard/workshop"
	w := ask[Workshop](c, "GET", at, "", 200)
	if len(w.Conditions) == 0 || len(w.Params) < 50 {
		t.Fatalf("%d conditions, %d parameters", len(w.Conditions), len(w.Params))
	}
	for place, text := range w.Conditions {
		body := fmt.Sprintf(`{"what": "again", "ops": [{"op": "add", "path": %q, "when": %q}]}`, place, text)
		if again := ask[Workshop](c, "POST", at, body, 200); again.Conditions[place] != text || len(again.Changes) != 0 {
			t.Fatalf("%s: %q came back as %q with %d changes", place, text, again.Conditions[place], len(again.Changes))
		}
	}
	n := slices.IndexFunc(w.Panel.Controls, func(k panel.Control) bool { return k.ID == "filter.cutoff" })
	wave := slices.IndexFunc(w.Panel.Controls, func(k panel.Control) bool { return len(k.Face.Entries) > 1 })
	control, entries := w.Panel.Controls[wave].ID, w.Panel.Controls[wave].Face.Entries
	place := fmt.Sprintf("/controls/%d/means/0/when", n)
	for _, wrong := range []string{"wave", "= saw", "a = b = c"} {
		p := ask[Problem](c, "POST", at, fmt.Sprintf(`{"what": "x", "ops": [{"op": "add", "path": %q, "when": %q}]}`, place, wrong), 422)
		if len(p.Faults) != 1 || p.Faults[0].Path != place || !strings.Contains(p.Faults[0].Message, "expected control = reading") {
			t.Errorf("%q: %+v", wrong, p)
		}
	}
	w = ask[Workshop](c, "POST", at, fmt.Sprintf(`{"what": "x", "ops": [{"op": "add", "path": %q, "when": "%s=%s | %s"}]}`, place, control, entries[0], entries[1]), 200)
	if got := w.Panel.Controls[n].Means[0].When; len(got) != 1 || got[0].Control != control || !slices.Equal(got[0].In, entries[:2]) {
		t.Errorf("kept %+v", got)
	}
	if got, want := w.Conditions[place], fmt.Sprintf("Voice %s = %s | %s", w.Panel.Controls[wave].Label, entries[0], entries[1]); got != want {
		t.Errorf("comes back as %q, want %q", got, want)
	}
	_, table := c.do("GET", Base+"/panels/halyard/controls.csv", "", nil)
	if !strings.Contains(string(table), control+" | "+entries[0]+" | "+entries[1]) {
		t.Error("the table does not have the condition")
	}
	w = ask[Workshop](c, "POST", at, fmt.Sprintf(`{"what": "x", "ops": [{"op": "remove", "path": %q}]}`, place), 200)
	if _, is := w.Conditions[place]; is || len(w.Changes) != 0 {
		t.Errorf("taken away: %q, %d changes", w.Conditions[place], len(w.Changes))
	}
}

// Every parameter that is offered can be named: a law that sets it is not refused for its name.
func TestOfferedParametersAreKnown(t *testing.T) {
	c := newClient(t, true)
	for _, id := range []string{"windlass", "halyard", "kedge", "binnacle", "ballast"} {
		w := ask[Workshop](c, "GET", "/panels/"+id+"/workshop", "", 200)
		p, err := panel.Compile(&w.Panel)
		if err != nil {
			t.Fatal(err)
		}
		offered := map[string]bool{}
		for _, offer := range w.Params {
			offered[offer.Ref] = true
			param, err := p.Param(offer.Ref)
			if err != nil && !offer.Depth { // a depth may hang on a destination that is chosen
				t.Errorf("%s: %s is offered: %v", id, offer.Ref, err)
			}
			if err == nil && offer.Dim != "" && param.Dim != offer.Dim {
				t.Errorf("%s: %s is offered as %s, and is %s", id, offer.Ref, offer.Dim, param.Dim)
			}
		}
		for _, k := range w.Panel.Controls {
			for _, b := range k.Means {
				if !offered[b.Param] {
					t.Errorf("%s: %s sets %s, which is not offered", id, k.ID, b.Param)
				}
			}
		}
	}
}

// A line in numbers is the same phrase: taken as it is given nothing changes, and what is changed is said in the words of the grammar.
func TestLineInNumbers(t *testing.T) {
	c := newClient(t, true)
	for _, p := range ask[Desk](c, "GET", "/desk", "", 200).Patches {
		v := ask[PatchView](c, "GET", "/patches/"+p.ID, "", 200)
		if (v.Phrase == nil) != (v.Line == nil) {
			t.Fatalf("%s: the phrase is %v, the line %v", p.ID, v.Phrase, v.Line)
		}
		if v.Line == nil {
			continue
		}
		again := ask[PatchView](c, "PUT", "/patches/"+p.ID+"/phrase", `{"phrase": null, "line": `+jsonOf(t, v.Line)+`}`, 200)
		if jsonOf(t, again.Phrase) != jsonOf(t, v.Phrase) {
			t.Errorf("%s: %s came back as %s", p.ID, jsonOf(t, v.Phrase), jsonOf(t, again.Phrase))
		}
		v.Line.Notes[0].Key, v.Line.Notes[0].For = 61, phrase.Whole/8
		again = ask[PatchView](c, "PUT", "/patches/"+p.ID+"/phrase", `{"phrase": null, "line": `+jsonOf(t, v.Line)+`}`, 200)
		if n := again.Phrase.Notes[0]; n.Note != "C#4" || n.For != "1/8" {
			t.Errorf("%s: changed to %+v", p.ID, n)
		}
	}
	for _, bad := range []string{`{"at": -1, "for": 480, "key": 60, "velocity": 90}`, `{"at": 0, "for": 0, "key": 60, "velocity": 90}`, `{"at": 0, "for": 480, "key": 300, "velocity": 90}`, `{"at": 0, "for": 480, "key": 60, "velocity": 0}`} {
		if p := ask[Problem](c, "PUT", "/patches/keel/phrase", `{"phrase": null, "line": {"name": "", "notes": [`+bad+`]}}`, 422); len(p.Faults) != 1 || !strings.Contains(p.Faults[0].Path, "/notes/0/") {
			t.Errorf("%s: %+v", bad, p)
		}
	}
	if v := ask[PatchView](c, "PUT", "/patches/keel/phrase", `{"phrase": null, "line": {"name": "", "notes": []}}`, 200); v.Phrase != nil || v.Line != nil {
		t.Error("an empty line is a phrase")
	}
}

// The words that the page is built with are those of the program: every list has what the core checks against.
func TestWordsOfThePage(t *testing.T) {
	w := Words()
	if len(w.Notes) != 128 || w.Notes[60] != "C4" || w.Notes[69] != "A4" || w.Notes[0] != "C-1" || w.Notes[127] != "G9" { // MIDI 1.0: note 69 is A at 440 Hz
		t.Errorf("notes: %v", w.Notes)
	}
	for i, name := range w.Notes {
		e, err := quantity.Parse(name)
		if err != nil || int(quantity.Frequency(e.Value).Note()+0.5) != i && i > 0 {
			t.Errorf("%q is note %v, not %d (%v)", name, e.Value, i, err)
		}
	}
	for _, l := range w.Laws {
		if l.Fields == nil || l.Points && l.Values || len(l.Fields) == 0 && !l.Points && !l.Values || l.Label == "" || l.Words == "" || l.Formula == "" {
			t.Errorf("law %+v", l)
		}
	}
	for name, list := range map[string][]scale.Choice{"faces": w.Faces, "conventions": w.Conventions, "swings": w.Swings, "known": w.Known, "ends": w.Ends, "parts": w.Parts, "polarities": w.Polarities} {
		seen := map[string]bool{}
		for _, x := range list {
			if x.Value == "" || x.Text == "" || seen[x.Value] {
				t.Errorf("%s: %+v", name, x)
			}
			seen[x.Value] = true
		}
	}
	if len(w.Verdicts) != 6 || len(w.PatchKinds) != 5 || len(w.Steps) < 8 {
		t.Errorf("%v, %v, %v", w.Verdicts, w.PatchKinds, w.Steps)
	}
}

func jsonOf(t *testing.T, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}
