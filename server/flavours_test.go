package server

import (
	"strings"
	"testing"

	"glossator/core/compare"
	"glossator/core/patch"
)

// A flavour said in a line is on the patch, on its sheets, in what is heard and in a patch of its own; undo takes it back.
func TestFlavoursAreSaidInALine(t *testing.T) {
	c := newClient(t, true)
	say := func(line string, code int) string {
		t.Helper()
		v := ask[PatchView](c, "GET", "/patches/keel", "", 200)
		all := []patch.Flavour{}
		for _, f := range v.Flavours {
			g := patch.Flavour{Name: f.Name}
			for _, x := range f.Sets {
				g.Sets = append(g.Sets, x.Set)
			}
			all = append(all, g)
		}
		body := asJSON(t, map[string]any{"flavours": all, "line": line})
		return asJSON(t, ask[any](c, "PUT", "/patches/keel/flavours", body, code))
	}
	before := asJSON(t, ask[PatchView](c, "GET", "/patches/keel", "", 200).LayerViews)
	say("darker: cutoff 2.0", 200)
	say("Darker: resonance 1.0", 200)
	v := ask[PatchView](c, "GET", "/patches/keel", "", 200)
	if len(v.Flavours) != 1 || len(v.Flavours[0].Sets) != 2 || v.Flavours[0].Sets[0].Was == "" {
		t.Fatalf("flavours %+v", v.Flavours)
	}
	if after := asJSON(t, v.LayerViews); after != before {
		t.Errorf("the readings of the patch have changed:\n%s\n%s", before, after)
	}
	for _, x := range []struct{ line, says string }{
		{"cutoff 20", "expected a name, a colon"}, {"odd:", "expected a name, a colon"}, {"odd: cutoff purple", "purple"}, {"odd: nothing like it 3", "nothing like it"},
	} {
		if got := say(x.line, 422); !strings.Contains(got, x.says) {
			t.Errorf("%q: expected %q in %s", x.line, x.says, got)
		}
	}
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	sheet := ask[SheetView](c, "GET", "/sheets/1", "", 200).Sheet
	if len(sheet.Flavours) != 1 || len(sheet.Flavours[0].Target) == 0 {
		t.Errorf("on the sheet: %+v", sheet.Flavours)
	}
	plain := liveOf(t, c, "/patches/keel/live", `{"from": 0, "seconds": 1.5}`)
	dark := liveOf(t, c, "/patches/keel/live", `{"from": 0, "seconds": 1.5, "flavour": "darker"}`)
	own := ask[PatchRow](c, "POST", "/patches/keel/flavours/copy", `{"name": "darker"}`, 200)
	same := liveOf(t, c, "/patches/"+own.ID+"/live", `{"from": 0, "seconds": 1.5}`)
	far, near := compare.Recordings(plain, dark).Total, compare.Recordings(dark, same).Total
	if far < 2 || near > 0.5 {
		t.Errorf("the flavour is %.1f from the patch, and %.1f from a patch of its own", far, near)
	}
	ask[any](c, "POST", "/patches/keel/flavours/copy", `{"name": "brighter"}`, 422)
	for range 2 { // the copy, the second line
		ask[any](c, "POST", "/undo", "", 200)
	}
	if v := ask[PatchView](c, "GET", "/patches/keel", "", 200); len(v.Flavours) != 1 || len(v.Flavours[0].Sets) != 1 {
		t.Errorf("after undo: %+v", v.Flavours)
	}
}

// A part that is heard alone is what is left with the other sounding parts off; what does not sound by itself is told so.
func TestAPartAlone(t *testing.T) {
	c := newClient(t, true)
	all := liveOf(t, c, "/patches/fog-bank/live", `{"from": 0, "seconds": 1}`)
	alone := liveOf(t, c, "/patches/fog-bank/live", `{"from": 0, "seconds": 1, "only": "osc3"}`)
	off := liveOf(t, c, "/patches/fog-bank/live", `{"from": 0, "seconds": 1, "off": ["osc1", "osc2", "noise"]}`)
	if far, near := compare.Recordings(all, alone).Total, compare.Recordings(off, alone).Total; far < 2 || near > 0.1 {
		t.Errorf("alone it is %.1f from all, and %.2f from the others off", far, near)
	}
	if says := asJSON(t, ask[any](c, "POST", "/patches/fog-bank/live", `{"from": 0, "seconds": 1, "only": "filter"}`, 422)); !strings.Contains(says, "does not sound by itself") {
		t.Error(says)
	}
}
