package server

import (
	"fmt"
	"net/url"
	"strings"
	"testing"
)

// What is typed loosely is told as the plain reading that it is near, and kept as it was said; a quantity becomes the nearest reading; notes that do not land are given by hand through the same door.
func TestReadingsAsSaidOverTheAPI(t *testing.T) {
	c := newClient(t, true)
	at := "/patches/fog-bank/layers/a/readings/filter.resonance"
	if l := ask[PatchLine](c, "GET", at+"/try?text="+url.QueryEscape("a touch"), "", 200); l.Near != "8" || l.Reading != "a touch" || l.Tol == "" {
		t.Errorf("a touch is %+v", l)
	}
	if l := ask[PatchLine](c, "GET", at+"/try?text=61", "", 200); l.Near != "" || l.Reading != "61" {
		t.Errorf("61 is %+v", l)
	}
	if v := ask[PatchView](c, "PUT", at, `{"reading": "30 to 40"}`, 200); lineOfView(v, "filter.resonance").Reading != "30 to 40" {
		t.Errorf("a range is kept as %+v", lineOfView(v, "filter.resonance"))
	}
	cutoff := strings.Replace(at, "resonance", "cutoff", 1)
	if v := ask[PatchView](c, "PUT", cutoff, `{"reading": "600 Hz"}`, 200); lineOfView(v, "filter.cutoff").Reading != "63" || lineOfView(v, "filter.cutoff").Meaning != "584 Hz" { // 64 is 616 Hz, as far off
		t.Errorf("600 Hz is %+v", lineOfView(v, "filter.cutoff"))
	}
	if p := ask[Problem](c, "PUT", cutoff, `{"reading": "200"}`, 422); !strings.Contains(p.Detail, "write 127") {
		t.Errorf("refused with %q", p.Detail)
	}
	// a sheet of it is made and clean, and an override may be said so, too
	s := ask[Opened](c, "POST", "/sheets", `{"patch": "fog-bank", "target": "kedge", "school": "numbers"}`, 200)
	ask[SheetView](c, "PUT", fmt.Sprintf("/sheets/%d/overrides/lowpass.resonance", s.ID), `{"reading": "just past noon"}`, 200)
}

func lineOfView(v PatchView, control string) PatchLine {
	for _, y := range v.LayerViews {
		for _, l := range y.Lines {
			if l.Control == control {
				return l
			}
		}
	}
	return PatchLine{}
}

// What no line and no block can be is refused in words, and nothing is kept of it.
func TestLinesAndBlocksThatAreRefused(t *testing.T) {
	c := newClient(t, false)
	ask[Draft](c, "POST", "/panels/blank", `{"name": "Sea Room", "start": "mono"}`, 201)
	at := "/panels/sea-room/workshop"
	before := len(ask[Workshop](c, "GET", at, "", 200).Panel.Controls)
	for body, want := range map[string]string{
		`{"section": "filter", "label": ""}`: "a control needs a label", `{"section": "gone", "label": "X"}`: "the section is not there", `{"control": "gone", "label": "X"}`: "the control is not there", `{"control": "filter.cutoff", "printed": "0 to 0"}`: "above",
		`{"control": "filter.cutoff", "sets": "moon"}`: "nothing on this panel is called", `{"section": "filter", "label": "a\u0000b"}`: "without control characters", `{"section": "filter", "label": "\u202eab"}`: "direction of writing",
		`{"section": "filter", "label": "` + strings.Repeat("x", 300) + `"}`: "at most 200", `{"section": "filter", "label": "Big", "printed": "0 to 99999999"}`: "at most 100000 steps", `{"control": "filter.cutoff", "init": "900"}`: "out of range",
	} {
		if p := ask[Problem](c, "POST", at+"/lines", body, 422); !strings.Contains(p.Detail, want) {
			t.Errorf("%.60s: %q, want %q", body, p.Detail, want)
		}
	}
	for body, want := range map[string]string{
		`{}`: "expected a building block", `{"block": "harp"}`: "expected a building block", `{"block": "osc", "leave": ["Strings"]}`: "expected a piece of oscillator", `{"block": "osc", "usual": "loose"}`: "expected what is printed", `{"block": "matrix", "count": 5000}`: "1 to 100 slots",
		`{"block": "voice"}`: "has one already", `{"block": "osc", "label": "a\u0000b"}`: "without control characters", `{"panel": "sea-room", "section": "gone"}`: "has no such section",
	} {
		if p := ask[Problem](c, "POST", at+"/blocks", body, 422); !strings.Contains(p.Detail, want) {
			t.Errorf("%s: %q, want %q", body, p.Detail, want)
		}
	}
	if w := ask[Workshop](c, "GET", at, "", 200); len(w.Panel.Controls) != before || len(w.Faults) > 0 {
		t.Errorf("%d controls of %d, %v", len(w.Panel.Controls), before, w.Faults)
	}
}
