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
