package server

import (
	"fmt"
	"slices"
	"testing"

	"glossator/core/wire"
	"glossator/formats/smf"
	"glossator/testutil/testrack"
)

// What can be sent of a sheet, read back by the panel's addresses, is what its list says; the rest is named with the reason; both files hold the same. (MIDI 1.0.)
func TestWhatIsSentIsWhatTheListSays(t *testing.T) {
	c := newClient(t, true)
	for n, to := range []string{"halyard", "fairlead", "kedge", "bowline"} {
		ask[Opened](c, "POST", "/sheets", fmt.Sprintf(`{"patch": "keel", "target": %q}`, to), 200)
		id := n + 1
		got := ask[Sending](c, "GET", fmt.Sprintf("/sheets/%d/send?channel=3", id), "", 200)
		v := ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", id), "", 200)
		want, keys := map[string]string{}, 0
		for _, l := range got.Lines {
			keys += len(l.Keys)
		}
		if keys+len(got.Left) != v.DialIn.Count {
			t.Errorf("%s: %d lines to send and %d for the hands, the list has %d", to, keys, len(got.Left), v.DialIn.Count)
		}
		for _, l := range got.Left {
			if l.Why == "" {
				t.Errorf("%s: no reason for %s", to, l.Label)
			}
		}
		at := fmt.Sprintf("%s/sheets/%d/midi", Base, id)
		if to == "kedge" { // it has no MIDI at all
			if len(got.Lines) > 0 {
				t.Errorf("kedge: %d lines", len(got.Lines))
			}
			ask[any](c, "GET", fmt.Sprintf("/sheets/%d/midi", id), "", 422)
			continue
		}
		for _, g := range v.DialIn.Groups {
			for _, l := range g.Lines {
				if slices.ContainsFunc(got.Lines, func(x SendLine) bool { return slices.Contains(x.Keys, l.Key) }) {
					want[l.Key] = l.Reading
				}
			}
		}
		for _, form := range []string{"?form=raw", ""} {
			res, data := c.do("GET", at+form, "", nil)
			if res.StatusCode != 200 {
				t.Fatalf("%s%s: %d %s", to, form, res.StatusCode, data)
			}
			all, err := smf.Messages(data)
			if err != nil {
				t.Fatal(err)
			}
			panel := testrack.Panels(t)[to]
			n := 0
			for _, x := range wire.Read(panel, all).Taken {
				k, _ := panel.ControlIndex(x.Control)
				w, ok := want[x.Control]
				if !ok && panel.Dump != nil { // the dump holds the rest, too
					continue
				}
				if !ok || w != x.Reading && panel.Controls[k].Face.Len() <= 128 {
					t.Errorf("%s%s: %s is sent as %s, the list has %s", to, form, x.Control, x.Reading, w)
				}
				n++
			}
			if n != len(want) {
				t.Errorf("%s%s: %d readings in the file, %d to send", to, form, n, len(want))
			}
		}
	}
	ask[any](c, "GET", "/sheets/1/send?channel=17", "", 422)
	ask[any](c, "GET", "/sheets/99/send", "", 404)
}
