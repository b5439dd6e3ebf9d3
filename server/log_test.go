package server

import (
	"encoding/csv"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// "I set 47, because ...": the reading stands, planned and set are beside each other, what was tried and not kept stays with its reason; undo takes reading and reason back together; a spreadsheet reads the log. What cannot be is refused.
func TestCorrections(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	setting := func(v SheetView) string {
		for _, x := range v.Sheet.Settings {
			if x.Control == "filter.cutoff" {
				return x.Reading
			}
		}
		return ""
	}
	planned := setting(ask[SheetView](c, "GET", "/sheets/1", "", 200))
	v := ask[SheetView](c, "PUT", "/sheets/1/corrections/filter.cutoff", `{"reading": "47", "tags": ["darker", "darker", "softer"], "why": "the line bit through = too much"}`, 200)
	if len(v.Entries) != 1 || setting(v) != "47" {
		t.Fatalf("%+v, it stands at %s", v.Entries, setting(v))
	}
	if e := v.Entries[0]; e.Planned != planned || e.Reading != "47" || !e.Kept || !slices.Equal(e.Tags, []string{"darker", "softer"}) || e.Name != "Keel" || e.Target != "halyard" || !strings.Contains(e.Label, "Cutoff") {
		t.Errorf("%+v", e)
	}
	v = ask[SheetView](c, "PUT", "/sheets/1/corrections/filter.cutoff", `{"reading": "52", "why": "=SUM(1,2) and back a little"}`, 200)
	if len(v.Entries) != 2 || v.Entries[0].Planned != planned || !v.Entries[0].Kept || v.Entries[1].Kept {
		t.Errorf("tried, and then set: %+v", v.Entries)
	}
	ask[any](c, "POST", "/undo", "", 200)
	if v = ask[SheetView](c, "GET", "/sheets/1", "", 200); len(v.Entries) != 1 || setting(v) != "47" || !v.Entries[0].Kept {
		t.Errorf("after undo: %+v, at %s", v.Entries, setting(v))
	}
	ask[any](c, "POST", "/redo", "", 200)
	ask[Log](c, "POST", "/sheets/1/entries", `{"kind": "note", "why": "close at the low notes"}`, 200)
	l := ask[Log](c, "POST", "/sheets/1/entries", `{"kind": "sign-off", "who": "M. D.", "why": ""}`, 200)
	if len(l.Entries) != 4 || l.Entries[0].Kind != "sign-off" || l.Entries[0].Who != "M. D." {
		t.Errorf("%+v", l.Entries)
	}
	for find, n := range map[string]int{"": 4, "bit": 1, "cutoff 52": 1, "low notes": 1, "sign-off": 1, "Keel": 4, "kedge": 0, "%": 0, "darker softer": 1, "_": 0} {
		if got := ask[Log](c, "GET", "/log?find="+strings.ReplaceAll(strings.ReplaceAll(find, "%", "%25"), " ", "%20"), "", 200); len(got.Entries) != n {
			t.Errorf("%q finds %d, expected %d", find, len(got.Entries), n)
		}
	}
	res, data := c.do("GET", Base+"/log.csv", "", nil)
	rows, err := csv.NewReader(strings.NewReader(string(data))).ReadAll()
	if res.StatusCode != 200 || err != nil || len(rows) != 5 {
		t.Fatalf("%d, %v, %d rows", res.StatusCode, err, len(rows))
	}
	for _, r := range rows {
		for _, cell := range r {
			if strings.HasPrefix(cell, "=") {
				t.Errorf("a spreadsheet would work out %q", cell)
			}
		}
	}
	for _, bad := range []string{`{"reading": "loud"}`, `{"reading": ""}`, `{"reading": "47", "tags": ["nicer"]}`, fmt.Sprintf(`{"reading": "47", "why": %q}`, strings.Repeat("x", mostWhy+1))} {
		ask[any](c, "PUT", "/sheets/1/corrections/filter.cutoff", bad, 422)
	}
	for _, bad := range []string{`{"kind": "note", "why": " "}`, `{"kind": "sign-off", "why": "fine"}`, `{"kind": "correction", "why": "x"}`, fmt.Sprintf(`{"kind": "sign-off", "why": "", "who": %q}`, strings.Repeat("x", mostWho+1))} {
		ask[any](c, "POST", "/sheets/1/entries", bad, 422)
	}
	ask[any](c, "PUT", "/sheets/1/corrections/nothing", `{"reading": "1"}`, 404)
	ask[any](c, "POST", "/sheets/9/entries", `{"kind": "note", "why": "x"}`, 404)
	// a sheet that goes takes its log along, and brings it back
	ask[any](c, "DELETE", "/sheets/1", "", 204)
	if got := ask[Log](c, "GET", "/log", "", 200); len(got.Entries) != 0 {
		t.Errorf("without its sheet: %+v", got.Entries)
	}
	ask[any](c, "POST", "/undo", "", 200)
	if got := ask[Log](c, "GET", "/log?sheet=1", "", 200); len(got.Entries) != 4 {
		t.Errorf("with its sheet again: %+v", got.Entries)
	}
}

// Corrections that agree over several patches of a pair are offered as a law, and taken over only when asked: then the sheets of the pair plan what was set before, and the corrections say nothing more of the new law.
func TestCorrectionsTeachALaw(t *testing.T) {
	c := newClient(t, true)
	at := func(v SheetView) int {
		for _, x := range v.Sheet.Settings {
			if x.Control == "filter.cutoff" {
				n, _ := strconv.Atoi(x.Reading)
				return n
			}
		}
		return -1
	}
	ids := []string{"keel"}
	for range 4 {
		ids = append(ids, ask[PatchRow](c, "POST", "/patches/keel/copy", "", 201).ID)
	}
	before := 0
	for n, id := range ids {
		ask[any](c, "PUT", fmt.Sprintf("/patches/%s/layers/a/readings/filter.cutoff", id), fmt.Sprintf(`{"reading": "%d.0"}`, 3+n%3), 200)
		o := ask[Opened](c, "POST", "/sheets", fmt.Sprintf(`{"patch": %q, "target": "halyard", "school": "numbers"}`, id), 200)
		v := ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", o.ID), "", 200)
		if n == 0 {
			before = at(v)
		}
		ask[SheetView](c, "PUT", fmt.Sprintf("/sheets/%d/corrections/filter.cutoff", o.ID), fmt.Sprintf(`{"reading": "%d", "tags": ["darker"]}`, at(v)-9-n%2), 200)
		l := ask[Log](c, "GET", "/log", "", 200)
		if offered := len(l.Learnt) > 0 && l.Learnt[0].Offered; offered != (n >= 3) {
			t.Errorf("after %d patches: %+v", n+1, l.Learnt)
		}
	}
	was := ask[SheetView](c, "GET", "/sheets/1", "", 200)
	if rev := ask[BenchView](c, "GET", "/panels/halyard/bench", "", 200).Revision; rev != 1 {
		t.Errorf("nothing was asked, and the panel is at revision %d", rev)
	}
	if l := ask[Log](c, "POST", "/panels/halyard/learnt/filter.cutoff?source=windlass", "", 200); len(l.Learnt) != 0 {
		t.Errorf("the new law is corrected already: %+v", l.Learnt)
	}
	if rev := ask[BenchView](c, "GET", "/panels/halyard/bench", "", 200).Revision; rev != 2 {
		t.Errorf("the panel is at revision %d", rev)
	}
	again := ask[PatchRow](c, "POST", "/patches/keel/copy", "", 201).ID
	o := ask[Opened](c, "POST", "/sheets", fmt.Sprintf(`{"patch": %q, "target": "halyard", "school": "numbers"}`, again), 200)
	now := at(ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", o.ID), "", 200))
	if set := at(was); now < set-2 || now > set+2 || now >= before {
		t.Errorf("%d was planned, %d was set, with the law that was learnt %d is planned", before, set, now)
	}
	ask[any](c, "POST", "/panels/halyard/learnt/filter.cutoff", "", 422)
}

// The changeover from another sheet on the same instrument is what differs between the two; how long it takes is told by the ticks of a hand; sheets on other instruments are refused, and with none to come from there is an empty list.
func TestChangeover(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "kedge", "school": "numbers"}`, 200)
	if v := ask[ChangeoverView](c, "GET", "/sheets/1/changeover", "", 200); v.From != 0 || v.Count != 0 || len(v.Others) != 0 || v.Changeover.On != "Kedge" {
		t.Errorf("with none to come from: %+v", v)
	}
	ask[Opened](c, "POST", "/sheets", `{"patch": "undertow", "target": "kedge", "school": "numbers"}`, 200)
	ask[Opened](c, "POST", "/sheets", `{"patch": "undertow", "target": "halyard", "school": "numbers"}`, 200)
	v := ask[ChangeoverView](c, "GET", "/sheets/2/changeover", "", 200)
	if v.From != 1 || v.Count < 5 || v.Changeover.From != "Keel" || v.Pace.Each != 0 || len(v.Others) != 1 {
		t.Fatalf("%+v", v)
	}
	at := func(id int) map[string]string {
		out := map[string]string{}
		for _, x := range ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", id), "", 200).Sheet.Settings {
			out[x.Control] = x.Reading
		}
		return out
	}
	one, two := at(1), at(2)
	for _, m := range v.Changeover.Moves {
		if m.To != two[m.Control] || m.From != "" && m.From != one[m.Control] || m.From == m.To {
			t.Errorf("%+v: the sheets have %s and %s", m, one[m.Control], two[m.Control])
		}
	}
	res, data := c.do("GET", Base+"/sheets/2/changeover.md?from=1", "", nil)
	if res.StatusCode != 200 || strings.Count(string(data), "- [ ]") != v.Count {
		t.Errorf("%d: %s", res.StatusCode, data)
	}
	ask[any](c, "GET", "/sheets/2/changeover?from=3", "", 422)
	ask[any](c, "GET", "/sheets/2/changeover?from=9", "", 404)
	ask[any](c, "GET", "/sheets/9/changeover", "", 404)
}
