package server

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"glossator/core/gloss"
	"glossator/core/plan"
)

// The desk lists each sheet with how far it is dialled in and how it came out, the one touched last first; a sheet that is deleted goes and
// comes back with its ticks.
func TestDeskListsSheets(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	ask[Opened](c, "POST", "/sheets", `{"patch": "gulls", "target": "kedge"}`, 200)
	v := ask[SheetView](c, "GET", "/sheets/1", "", 200)
	ask[Ticks](c, "PUT", "/sheets/1/ticks/filter.cutoff", "", 200)
	if got := ask[Ticks](c, "PUT", "/sheets/1/ticks/filter.resonance", "", 200); len(got.Ticks) != 2 {
		t.Errorf("the ticks are %v", got.Ticks)
	}
	d := ask[Desk](c, "GET", "/desk", "", 200)
	if len(d.Sheets) != 2 {
		t.Fatalf("%d sheets", len(d.Sheets))
	}
	rows := map[uint]SheetRow{}
	for _, r := range d.Sheets {
		rows[r.ID] = r
		sum := 0
		for _, n := range r.Summary {
			sum += n
		}
		if r.Lines == 0 || sum == 0 || r.PatchName == "" || r.SourceName == "" || r.TargetName == "" || r.School == "" {
			t.Errorf("sheet %d: %+v", r.ID, r)
		}
		if _, err := time.Parse(time.RFC3339, r.Updated); err != nil {
			t.Errorf("sheet %d: %v", r.ID, err)
		}
	}
	if r := rows[1]; r.Ticked != 2 || r.Target != "halyard" || r.Summary[gloss.Held] != v.Sheet.Summary[gloss.Held] || r.Clean != v.Sheet.Clean() {
		t.Errorf("the first sheet: %+v", r)
	}
	c.do("DELETE", Base+"/sheets/1", "", nil)
	if d := ask[Desk](c, "GET", "/desk", "", 200); len(d.Sheets) != 1 || d.Sheets[0].ID != 2 {
		t.Errorf("one deleted, the desk has %+v", d.Sheets)
	}
	ask[Done](c, "POST", "/undo", "", 200)
	for _, r := range ask[Desk](c, "GET", "/desk", "", 200).Sheets {
		if r.ID == 1 && r.Ticked != 2 {
			t.Errorf("back again it has %d ticks", r.Ticked)
		}
	}
}

// A search finds patches by the beginnings of words of name, kind, panel, tags and notes, all of them, in any case.
func TestPatchesAreFound(t *testing.T) {
	c := newClient(t, true)
	all := ask[PatchList](c, "GET", "/patches", "", 200)
	if all.All != len(all.Patches) || all.All < 8 || len(all.Panels) < 5 {
		t.Fatalf("%d of %d patches, %d panels", len(all.Patches), all.All, len(all.Panels))
	}
	one := all.Patches[0]
	for _, r := range all.Patches {
		for _, q := range []string{r.Name, strings.ToUpper(r.Name), strings.Fields(r.Name)[0][:2] + "+" + r.Kind, r.PanelName} {
			got := ask[PatchList](c, "GET", "/patches?q="+strings.ReplaceAll(q, " ", "+"), "", 200)
			found := false
			for _, x := range got.Patches {
				found = found || x.ID == r.ID
			}
			if !found || got.All != all.All {
				t.Errorf("%q does not find %s: %d of %d", q, r.Name, len(got.Patches), got.All)
			}
		}
	}
	for _, q := range []string{"zzz", one.Name + "+zzz", one.Name[1:] + "q"} {
		if got := ask[PatchList](c, "GET", "/patches?q="+strings.ReplaceAll(q, " ", "+"), "", 200); len(got.Patches) != 0 {
			t.Errorf("%q finds %s", q, got.Patches[0].Name)
		}
	}
}

// Changes of a sheet are taken back one by one and made again in order; a new change leaves nothing to make again.
func TestBackAndForward(t *testing.T) {
	empty := newClient(t, false)
	ask[Problem](empty, "POST", "/undo", "", 422)
	ask[Problem](empty, "POST", "/redo", "", 422)
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	for _, n := range []int{90, 80, 70} {
		ask[SheetView](c, "PUT", "/sheets/1/overrides/filter.cutoff", fmt.Sprintf(`{"reading": "%d"}`, n), 200)
	}
	at := func(want string) {
		t.Helper()
		if v := ask[SheetView](c, "GET", "/sheets/1", "", 200); v.Sheet.Overrides["filter.cutoff"] != want {
			t.Errorf("it stands at %q, want %q", v.Sheet.Overrides["filter.cutoff"], want)
		}
	}
	at("70")
	for _, want := range []string{"80", "90", ""} {
		ask[Done](c, "POST", "/undo", "", 200)
		at(want)
	}
	for _, want := range []string{"90", "80", "70"} {
		if d := ask[Done](c, "POST", "/redo", "", 200); d.What != "Keel: set Cutoff to "+want {
			t.Errorf("made again: %q", d.What)
		}
		at(want)
	}
	ask[Problem](c, "POST", "/redo", "", 422)
	ask[Done](c, "POST", "/undo", "", 200)
	ask[SheetView](c, "PUT", "/sheets/1/overrides/filter.cutoff", `{"reading": "60"}`, 200)
	ask[Problem](c, "POST", "/redo", "", 422)
	ask[Done](c, "POST", "/undo", "", 200)
	at("80")
}

// The next plan can be taken and the best taken again; a part that is not needed costs nothing, and its weight can be put back.
func TestPlansAreTaken(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "kedge"}`, 200)
	best := ask[SheetView](c, "GET", "/sheets/1", "", 200).Sheet.Plan
	next := ask[Plans](c, "GET", "/sheets/1/plans", "", 200).Next
	v := ask[SheetView](c, "PUT", "/sheets/1/choices", asJSON(t, PartChoice{Bans: &next[0].Bans, Refuse: []string{}}), 200)
	if v.Pending.Undo != "take another plan" || v.Sheet.Plan.Cost < best.Cost {
		t.Errorf("%q at a cost of %v, the best %v", v.Pending.Undo, v.Sheet.Plan.Cost, best.Cost)
	}
	v = ask[SheetView](c, "PUT", "/sheets/1/choices", `{"part": "", "matters": "", "refuse": [], "bans": []}`, 200)
	if v.Pending.Undo != "take the best plan" || v.Sheet.Plan.Cost != best.Cost {
		t.Errorf("%q at a cost of %v, the best %v", v.Pending.Undo, v.Sheet.Plan.Cost, best.Cost)
	}
	v = ask[SheetView](c, "PUT", "/sheets/1/choices", `{"part": "fenv", "matters": "not needed", "refuse": []}`, 200)
	if v.Sheet.Choices.Weight["fenv"] != plan.NotNeeded || v.Sheet.Plan.Cost > best.Cost {
		t.Errorf("not needed: %+v at %v", v.Sheet.Choices, v.Sheet.Plan.Cost)
	}
	v = ask[SheetView](c, "PUT", "/sheets/1/choices", `{"part": "fenv", "matters": "as usual", "refuse": []}`, 200)
	if _, set := v.Sheet.Choices.Weight["fenv"]; set || v.Sheet.Plan.Cost != best.Cost {
		t.Errorf("as usual: %+v at %v", v.Sheet.Choices, v.Sheet.Plan.Cost)
	}
}

// A search by ear that is asked for again while it runs goes on as it is; stopped, it keeps what it has found and says so.
func TestSearchIsStopped(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch":"undertow","target":"thole","school":"ear"}`, 200)
	ask[Problem](c, "DELETE", "/sheets/1/refine", "", 404)
	const body = `{"phrase":"","octaves":0,"aim":""}`
	first := ask[Refining](c, "POST", "/sheets/1/refine", body, 200)
	again := ask[Refining](c, "POST", "/sheets/1/refine", body, 200)
	if !first.Running || !again.Running || again.Done < first.Done {
		t.Errorf("%+v, then %+v", first, again)
	}
	var r Refining
	c.until(func() bool {
		r = ask[Refining](c, "GET", "/sheets/1/refine", "", 200)
		return r.Done >= 5 || !r.Running
	})
	ask[Refining](c, "DELETE", "/sheets/1/refine", "", 200)
	c.until(func() bool { r = ask[Refining](c, "GET", "/sheets/1/refine", "", 200); return !r.Running })
	if r.Running || r.Error != "" || r.Result == nil || r.Result.After.Total > r.Result.Before.Total || r.Done >= r.Most {
		t.Errorf("stopped: %+v", r)
	}
}

// Listening tells which reading of the volume makes a translation as loud, and no more once it is set; not with parts off, nor without the
// readings set by hand. The table of differences says of each whether it is sure.
func TestVolumeIsTold(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch":"undertow","target":"kedge", "school": "numbers"}`, 200)
	listen := func(off string, plain bool) Listening {
		return ask[Listening](c, "POST", "/sheets/1/listen", fmt.Sprintf(`{"phrase":"held","octaves":0,"off":[%s],"plain":%v}`, off, plain), 200)
	}
	l := listen("", false)
	if l.Level == nil || l.Level.By < 3 || l.Level.From == l.Level.To {
		t.Fatalf("%v LUFS and %v LUFS: %+v", l.Source.Loudness, l.Target.Loudness, l.Level)
	}
	if x := listen(fmt.Sprintf("%q", l.Parts[0].ID), false); x.Level != nil {
		t.Errorf("with a part off: %+v", x.Level)
	}
	if x := listen("", true); x.Level != nil {
		t.Errorf("as it was: %+v", x.Level)
	}
	ask[SheetView](c, "PUT", "/sheets/1/overrides/"+l.Level.Control, fmt.Sprintf(`{"reading":%q}`, l.Level.To), 200)
	now := listen("", false)
	if d := now.Target.Loudness - l.Target.Loudness; d < l.Level.By-1 || d > l.Level.By+1 {
		t.Errorf("it has become %.1f dB louder, %.1f were told", d, l.Level.By)
	}
	if now.Level != nil && l.Level.Missing < 1 {
		t.Errorf("set, it tells %+v", now.Level)
	}
	rows := ask[Contrasts](c, "GET", "/contrasts?a="+l.Source.Key+"&b="+l.Target.Key, "", 200).Rows
	sure := 0
	for _, r := range rows {
		if r.Sure && !r.Known || r.Known && r.A.Uncertainty < 0 {
			t.Errorf("%+v", r)
		}
		if r.Sure {
			sure++
		}
	}
	if sure < 3 {
		t.Errorf("%d of %d differences are sure", sure, len(rows))
	}
}
