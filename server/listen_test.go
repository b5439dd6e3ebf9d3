package server

import (
	"bytes"
	"context"
	"fmt"
	"maps"
	"math"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"glossator/core/heard"
	"glossator/core/plan"
	"glossator/formats/wav"
	"glossator/store"
)

func TestListenToSheet(t *testing.T) {
	c := newClient(t, true)
	id := ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"halyard","school":"ear"}`, 200).ID
	path := fmt.Sprintf("/sheets/%d", id)
	a := ask[Listening](c, "POST", path+"/listen", `{"phrase":"held","octaves":0,"off":[],"plain":false}`, 200)
	if a.Target == nil || a.Source.Key == a.Target.Key || a.Source.Loop <= 0 || len(a.Source.Level) < 20 || len(a.Source.Filter) != len(a.Bands) || len(a.Parts) < 5 {
		t.Fatalf("%+v", a)
	}
	if a.Apart.Total <= 0 || a.Source.Loudness > -3 || a.Source.Peak > -1 {
		t.Errorf("apart %+v, %v LUFS, peak %v", a.Apart, a.Source.Loudness, a.Source.Peak)
	}
	b := ask[Listening](c, "POST", path+"/listen", `{"phrase":"held","octaves":0,"off":[],"plain":false}`, 200)
	if a.Source.Key != b.Source.Key || a.Target.Key != b.Target.Key {
		t.Error("the same is not the same")
	}
	off := ask[Listening](c, "POST", path+"/listen", `{"phrase":"held","octaves":0,"off":["osc1"],"plain":false}`, 200)
	if off.Source.Key == a.Source.Key || off.Target.Key == a.Target.Key {
		t.Error("a part switched off is off on both sides")
	}
	res, data := c.do("GET", Base+"/sounds/"+a.Source.Key+".wav?loop=true", "", nil)
	s, err := wav.Read(data)
	if err != nil || res.Header.Get("Content-Type") != "audio/wav" || math.Abs(float64(len(s.Left))/48000-a.Source.Loop) > 1e-3 {
		t.Fatalf("%v %s", err, res.Header.Get("Content-Type"))
	}
	k := ask[Contrasts](c, "GET", "/contrasts?a="+a.Source.Key+"&b="+a.Target.Key, "", 200)
	if len(k.Rows) < 15 || k.Apart.Total != a.Apart.Total {
		t.Errorf("%d rows, %v and %v", len(k.Rows), k.Apart, a.Apart)
	}
	same := ask[Contrasts](c, "GET", "/contrasts?a="+a.Source.Key+"&b="+a.Source.Key, "", 200)
	if same.Apart.Total != 0 {
		t.Errorf("a sound is %v from itself", same.Apart.Total)
	}
	res, data = c.do("POST", Base+path+"/note", `{"key":60,"side":"target","off":[]}`, nil)
	if s, err := wav.Read(data); err != nil || res.StatusCode != 200 || len(s.Left) < 30000 {
		t.Errorf("a note: %d %v", res.StatusCode, err)
	}
	p := ask[Listening](c, "POST", "/patches/keel/listen", `{"phrase":"","octaves":1,"off":[],"plain":false}`, 200)
	if p.Target != nil || p.Source.Seconds < 1 {
		t.Errorf("a patch alone: %+v", p.Target)
	}
	for _, x := range []struct {
		method, path, body string
		status             int
	}{
		{"POST", path + "/listen", `{"phrase":"none","octaves":0,"off":[],"plain":false}`, 422}, {"POST", path + "/listen", `{"phrase":"","octaves":9,"off":[],"plain":false}`, 422},
		{"POST", path + "/note", `{"key":200,"side":"target","off":[]}`, 422}, {"POST", path + "/note", `{"key":60,"side":"both","off":[]}`, 422},
		{"GET", "/sounds/" + strings.Repeat("0", 32) + ".wav", "", 404}, {"GET", "/sounds/..%2f..%2fetc%2fpasswd.wav", "", 404}, {"GET", "/contrasts?a=x&b=y", "", 404},
		{"POST", "/sheets/999/listen", `{"phrase":"","octaves":0,"off":[],"plain":false}`, 404},
	} {
		ask[Problem](c, x.method, x.path, x.body, x.status)
	}
}

func TestBlindTestIsKept(t *testing.T) {
	c := newClient(t, true)
	id := ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"halyard","school":"ear"}`, 200).ID
	path := fmt.Sprintf("/sheets/%d/trials", id)
	// 12 of 16: p = 0.0384 (binomial)
	got := ask[Trials](c, "POST", path, `{"right":12,"of":16,"sounds":"source and target"}`, 201)
	if len(got.Trials) != 1 || math.Abs(got.Trials[0].P-0.0384) > 5e-5 {
		t.Errorf("%+v", got)
	}
	for _, b := range []string{`{"right":5,"of":4,"sounds":""}`, `{"right":0,"of":0,"sounds":""}`, `{"right":-1,"of":4,"sounds":""}`} {
		ask[Problem](c, "POST", path, b, 422)
	}
}

func TestRecordingIsCompared(t *testing.T) {
	c := newClient(t, true)
	p := ask[Listening](c, "POST", "/patches/keel/listen", `{"phrase":"held","octaves":0,"off":[],"plain":false}`, 200)
	_, data := c.do("GET", Base+"/sounds/"+p.Source.Key+".wav", "", nil)
	s, err := wav.Read(data)
	if err != nil {
		t.Fatal(err)
	}
	for k := range s.Left { // quieter, as a recording is
		s.Left[k] /= 2
		s.Right[k] /= 2
	}
	var b bytes.Buffer
	if err := wav.Write(&b, s); err != nil {
		t.Fatal(err)
	}
	r := ask[Take](c, "POST", "/sounds?file=real.wav", b.String(), 201)
	if !r.Recording || r.Label != "real.wav" {
		t.Errorf("%+v", r)
	}
	k := ask[Contrasts](c, "GET", "/contrasts?a="+p.Source.Key+"&b="+r.Key, "", 200)
	if math.Abs(k.Apart.Gain-6.02) > 0.1 || k.Apart.Colour > 0.2 || k.Apart.Shape > 0.3 {
		t.Errorf("the same sound at half level: %+v", k.Apart)
	}
	var silent bytes.Buffer
	_ = wav.Write(&silent, &wav.Sound{Rate: 48000, Left: make([]float64, 48000)})
	for _, body := range []string{"no wave", silent.String(), ""} {
		ask[Problem](c, "POST", "/sounds?file=x.wav", body, 422)
	}
}

// A sheet by ear is opened with what comparing sounds has found, which its lines tell and which stays as it is. A longer search offers a nearer plan with
// both distances; it is taken in one step, and taken back in one. What listening tells is the same figure.
func TestSheetByEar(t *testing.T) {
	c := newClient(t, true)
	id := ask[Opened](c, "POST", "/sheets", `{"patch":"tide-pool","target":"thole"}`, 200).ID
	path := fmt.Sprintf("/sheets/%d", id)
	v := ask[SheetView](c, "GET", path, "", 200)
	if v.Sheet.School != plan.Ear || v.Sheet.Choices.Tuned == nil || len(v.Sheet.Choices.Tuned.Readings) == 0 {
		t.Fatalf("%s: %+v", v.Sheet.School, v.Sheet.Choices.Tuned)
	}
	settings := func(v SheetView) map[string]string {
		out := map[string]string{}
		for _, x := range v.Sheet.Settings {
			out[x.Control] = x.Reading
		}
		return out
	}
	was := settings(v)
	for control, reading := range v.Sheet.Choices.Tuned.Readings {
		told := false
		for _, g := range v.Sheet.Glosses {
			for _, r := range g.Target {
				told = told || r.Control == control && r.ByEar && strings.Contains(g.Reason, "by ear")
			}
		}
		if was[control] != reading || !told {
			t.Errorf("%s stands at %s, found %s, told %v", control, was[control], reading, told)
		}
	}
	again := ask[Opened](c, "POST", "/sheets", `{"patch":"tide-pool","target":"thole","school":"ear"}`, 200)
	if again.ID != id {
		t.Errorf("opened again it is sheet %d, not %d", again.ID, id)
	}
	got := ask[heard.Report](c, "GET", path+"/heard", "", 200)
	numbers := ask[Opened](c, "POST", "/sheets", `{"patch":"tide-pool","target":"thole","school":"numbers"}`, 200)
	plain := ask[heard.Report](c, "GET", fmt.Sprintf("/sheets/%d/heard", numbers.ID), "", 200)
	if got.Apart.Total >= plain.Apart.Total || len(got.Mostly) == 0 || got.Headline == "" || len(got.Checks) != 2 {
		t.Errorf("by ear %.1f apart, by numbers %.1f: %+v", got.Apart.Total, plain.Apart.Total, got)
	}
	one := ask[TargetHeard](c, "GET", "/patches/tide-pool/targets/thole/heard", "", 200)
	if math.Abs(one.Apart-got.Apart.Total) > 0.06 {
		t.Errorf("in the bank it is %.1f apart, on the sheet %.2f", one.Apart, got.Apart.Total)
	}
	ask[Problem](c, "GET", "/patches/keel/targets/ballast/heard", "", 422)
	ask[Problem](c, "GET", "/patches/keel/targets/none/heard", "", 404)
	ask[Refining](c, "POST", path+"/refine", `{"phrase":"","octaves":0,"aim":""}`, 200)
	var r Refining
	c.until(func() bool { r = ask[Refining](c, "GET", path+"/refine", "", 200); return !r.Running })
	if r.Running || r.Result == nil || r.Result.After.Total > r.Result.Before.Total {
		t.Fatalf("%+v", r)
	}
	if now := settings(ask[SheetView](c, "GET", path, "", 200)); !maps.Equal(now, was) {
		t.Error("the sheet moved before the nearer plan was taken")
	}
	if len(r.Result.Changes) == 0 {
		t.Fatal("no nearer plan was found")
	}
	v = ask[SheetView](c, "POST", path+"/refine/adopt", "", 200)
	now := settings(v)
	for _, ch := range r.Result.Changes {
		if now[ch.Control] != ch.To {
			t.Errorf("%s stands at %s, offered %s", ch.Control, now[ch.Control], ch.To)
		}
	}
	ask[Done](c, "POST", "/undo", "", 200)
	if back := settings(ask[SheetView](c, "GET", path, "", 200)); !maps.Equal(back, was) {
		t.Error("undo does not bring the sheet back")
	}
}

// A search is begun, told of, adopted onto the sheet with its reasons, and taken back.
func TestRefineOnSheet(t *testing.T) {
	c := newClient(t, true)
	id := ask[Opened](c, "POST", "/sheets", `{"patch":"undertow","target":"thole","school":"numbers"}`, 200).ID
	path := fmt.Sprintf("/sheets/%d", id)
	ask[Problem](c, "GET", path+"/refine", "", 404)
	ask[Problem](c, "POST", path+"/refine/adopt", "", 404)
	ask[Refining](c, "POST", path+"/refine", `{"phrase":"","octaves":0,"aim":""}`, 200)
	var r Refining
	c.until(func() bool { r = ask[Refining](c, "GET", path+"/refine", "", 200); return !r.Running })
	if r.Running || r.Result == nil || len(r.Result.Changes) == 0 || r.Result.After.Total >= r.Result.Before.Total {
		t.Fatalf("%+v", r)
	}
	v := ask[SheetView](c, "POST", path+"/refine/adopt", "", 200)
	ch := r.Result.Changes[0]
	if v.Sheet.Overrides[ch.Control] != ch.To {
		t.Errorf("%s is %s, want %s", ch.Control, v.Sheet.Overrides[ch.Control], ch.To)
	}
	told := false
	for _, g := range v.Sheet.Glosses {
		told = told || strings.Contains(g.Reason, ch.Text)
	}
	if !told {
		t.Errorf("no line tells %q", ch.Text)
	}
	l := ask[Listening](c, "POST", path+"/listen", `{"phrase":"","octaves":0,"off":[],"plain":false}`, 200)
	was := ask[Listening](c, "POST", path+"/listen", `{"phrase":"","octaves":0,"off":[],"plain":true}`, 200)
	if !l.Refined || l.Target.Key == was.Target.Key || l.Source.Key != was.Source.Key {
		t.Error("before and after are the same")
	}
	ask[Done](c, "POST", "/undo", "", 200)
	if v := ask[SheetView](c, "GET", path, "", 200); len(v.Sheet.Overrides) != 0 {
		t.Errorf("after undo: %v", v.Sheet.Overrides)
	}
}

// What is being rendered is told of while it is, and a rendering that nobody waits for is given up and can be asked for again.
func TestRenderingIsTold(t *testing.T) {
	c := newClient(t, true)
	if r := ask[Rendering](c, "GET", "/rendering", "", 200); r.Running != 0 || r.Share != 0 {
		t.Errorf("at rest: %+v", r)
	}
	id := ask[Opened](c, "POST", "/sheets", `{"patch":"tide-pool","target":"thole","school":"numbers"}`, 200).ID
	path := fmt.Sprintf("/sheets/%d/listen", id)
	const body = `{"phrase":"","octaves":0,"off":[],"plain":false}`
	ctx, giveUp := context.WithCancel(context.Background())
	done := make(chan int, 1)
	go func() {
		req, err := http.NewRequestWithContext(ctx, "POST", c.srv.URL+Base+path, strings.NewReader(body))
		if err == nil {
			req.Header.Set("Content-Type", "application/json")
			if res, err := http.DefaultClient.Do(req); err == nil {
				_ = res.Body.Close()
			}
		}
		done <- 0
	}()
	most := Rendering{}
	c.until(func() bool {
		if r := ask[Rendering](c, "GET", "/rendering", "", 200); r.Running > most.Running || r.Share > most.Share {
			most = r
		}
		return most.Share > 0 || len(done) > 0
	})
	if most.Running == 0 || most.Share <= 0 || most.Share > 1 {
		t.Errorf("while it renders: %+v", most)
	}
	giveUp()
	<-done
	if l := ask[Listening](c, "POST", path, body, 200); l.Target == nil || l.Target.Seconds == 0 {
		t.Error("after it was given up it is not rendered again")
	}
	if r := ask[Rendering](c, "GET", "/rendering", "", 200); r.Running != 0 {
		t.Errorf("in the end: %+v", r)
	}
}

// Parts weighed by how much they are heard: said on the sheet, and undone.
func TestByEar(t *testing.T) {
	c := newClient(t, true)
	id := ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"coracle","school":"ear"}`, 200).ID
	path := fmt.Sprintf("/sheets/%d", id)
	v := ask[SheetView](c, "PUT", path+"/choices", `{"part":"","matters":"","refuse":[],"byEar":true}`, 200)
	if !v.Sheet.Choices.ByEar || !strings.Contains(strings.Join(v.Sheet.Notes, " "), "as they are heard") {
		t.Errorf("%+v %v", v.Sheet.Choices, v.Sheet.Notes)
	}
	for _, k := range v.Sheet.Audit {
		if !k.OK {
			t.Errorf("%+v", k)
		}
	}
	ask[Done](c, "POST", "/undo", "", 200)
	if v := ask[SheetView](c, "GET", path, "", 200); v.Sheet.Choices.ByEar {
		t.Error("still by ear")
	}
}

// What is kept on disk stays within its bound, the longest unused going first, and a file cut off is
// made again.
func TestSoundsAreBounded(t *testing.T) {
	s := newSounds(filepath.Join(t.TempDir(), "s"))
	s.limit = 100_000
	sound := &kept{Rate: 48000, Left: make([]float64, 4000), Right: make([]float64, 4000)} // 32 kB
	var keys []string
	for i := range 6 {
		k := hashOf(i)
		keys = append(keys, k)
		if err := s.put(k, sound); err != nil {
			t.Fatal(err)
		}
		old := time.Now().Add(time.Duration(i-10) * time.Minute)
		_ = os.Chtimes(s.file(k), old, old)
	}
	if _, err := s.get(keys[0]); err != store.ErrNotFound {
		t.Errorf("the oldest is still there: %v", err)
	}
	if _, err := s.get(keys[5]); err != nil {
		t.Error(err)
	}
	list, _ := os.ReadDir(s.dir)
	if len(list) != 3 {
		t.Errorf("%d are kept", len(list))
	}
	if err := os.Truncate(s.file(keys[5]), 1003); err != nil {
		t.Fatal(err)
	}
	made := false
	if _, err := s.render(keys[5], func() (*kept, error) { made = true; return sound, nil }); err != nil || !made {
		t.Errorf("a file cut off: %v %v", err, made)
	}
}

// A second layer brings in what the first leaves out, leaves the rest to it, and is heard with it.
func TestSecondLayer(t *testing.T) {
	c := newClient(t, true)
	first := ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"coracle","school":"ear"}`, 200).ID
	path := fmt.Sprintf("/sheets/%d", first)
	v := ask[SheetView](c, "GET", path, "", 200)
	if len(v.Missing) == 0 || v.Second != 0 || v.First != 0 {
		t.Fatalf("missing %v, first %d, second %d", v.Missing, v.First, v.Second)
	}
	alone := ask[Listening](c, "POST", path+"/listen", `{"phrase":"held","octaves":0,"off":[],"plain":false}`, 200)
	second := ask[Opened](c, "POST", path+"/second", "", 200).ID
	if again := ask[Opened](c, "POST", path+"/second", "", 200).ID; again != second || second == first {
		t.Errorf("opened %d, then %d", second, again)
	}
	w := ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", second), "", 200)
	if w.First != first || !w.Sheet.Clean() || !strings.Contains(strings.Join(w.Sheet.Notes, " "), "second layer") {
		t.Errorf("first %d, clean %v, notes %v", w.First, w.Sheet.Clean(), w.Sheet.Notes)
	}
	played := map[string]bool{}
	for _, x := range w.Sheet.Plan.Modules {
		played[x.SourceLabel] = x.Target != ""
	}
	for _, label := range v.Missing {
		if !played[label] {
			t.Errorf("%s is not played by the second layer either", label)
		}
	}
	for _, x := range v.Sheet.Plan.Modules {
		for _, y := range w.Sheet.Plan.Modules {
			if x.Source == y.Source && strings.HasPrefix(x.SourceLabel, "Oscillator") && x.Target != "" && y.Target != "" {
				t.Errorf("%s is played twice", x.SourceLabel)
			}
		}
	}
	both := ask[Listening](c, "POST", path+"/listen", `{"phrase":"held","octaves":0,"off":[],"plain":false}`, 200)
	if both.Target.Key == alone.Target.Key || !strings.Contains(both.Target.Label, "both layers") {
		t.Errorf("%s is %q", both.Target.Key, both.Target.Label)
	}
	if other := ask[Listening](c, "POST", fmt.Sprintf("/sheets/%d/listen", second), `{"phrase":"held","octaves":0,"off":[],"plain":false}`, 200); !strings.Contains(other.Target.Label, "both layers") {
		t.Errorf("on the second layer's sheet %q is heard", other.Target.Label)
	}
	if ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"coracle","school":"ear"}`, 200).ID != first {
		t.Error("opening the sheet again gave the second layer's")
	}
	ask[Problem](c, "POST", fmt.Sprintf("/sheets/%d/second", second), "", 422)
	whole := ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"windlass"}`, 200).ID
	ask[Problem](c, "POST", fmt.Sprintf("/sheets/%d/second", whole), "", 422)
}

// A second layer is offered for just what it plays: what it would not place either is not asked for, and a layer that places nothing is refused.
func TestSecondLayerPlaces(t *testing.T) {
	c := newClient(t, true)
	offered, refused := 0, 0
	for _, x := range []struct{ patch, target string }{{"keel", "fairlead"}, {"keel", "coracle"}, {"fog-bank", "coracle"}, {"storm-front", "bowline"}, {"tide-pool", "coracle"}, {"gulls", "coracle"}, {"foghorn", "coracle"}} {
		id := ask[Opened](c, "POST", "/sheets", fmt.Sprintf(`{"patch":%q,"target":%q,"school":"numbers"}`, x.patch, x.target), 200).ID
		path := fmt.Sprintf("/sheets/%d", id)
		v := ask[SheetView](c, "GET", path, "", 200)
		if len(v.Missing) == 0 {
			ask[Problem](c, "POST", path+"/second", "", 422)
			refused++
			continue
		}
		offered++
		w := ask[SheetView](c, "GET", fmt.Sprintf("/sheets/%d", ask[Opened](c, "POST", path+"/second", "", 200).ID), "", 200)
		for _, m := range w.Sheet.Plan.Modules {
			if slices.Contains(v.Missing, m.SourceLabel) && m.Target == "" && m.Rule == "" {
				t.Errorf("%s on %s: %s is offered, and not played by the second layer", x.patch, x.target, m.SourceLabel)
			}
		}
	}
	if offered < 2 || refused < 1 {
		t.Errorf("%d offered, %d refused", offered, refused)
	}
}

// A search comes near to a recording of the source in place of its rendering; a key of none, and that of a rendering, are refused.
func TestSearchForARecording(t *testing.T) {
	c := newClient(t, true)
	path := fmt.Sprintf("/sheets/%d", ask[Opened](c, "POST", "/sheets", `{"patch":"undertow","target":"thole","school":"numbers"}`, 200).ID)
	sides := ask[Listening](c, "POST", path+"/listen", `{"phrase":"","octaves":0,"off":[],"plain":false}`, 200)
	with := func(aim string) string { return `{"phrase":"","octaves":0,"aim":"` + aim + `"}` }
	ask[Problem](c, "POST", path+"/refine", with(strings.Repeat("0", 32)), 404)
	ask[Problem](c, "POST", path+"/refine", with("../keel"), 404)
	ask[Problem](c, "POST", path+"/refine", with(sides.Source.Key), 422)
	// what stands for the recording is the target's own rendering: the nearest is to leave it as it is
	_, data := c.do("GET", Base+"/sounds/"+sides.Target.Key+".wav", "", nil)
	take := ask[Take](c, "POST", "/sounds?file=take.wav", string(data), 201)
	ask[Refining](c, "POST", path+"/refine", with(take.Key), 200)
	var r Refining
	c.until(func() bool { r = ask[Refining](c, "GET", path+"/refine", "", 200); return !r.Running })
	if r.Running || r.Result == nil || r.Error != "" || r.Result.Before.Total > 3 || r.Result.Before.Level != 0 {
		t.Fatalf("%+v %+v", r, r.Result)
	}
}
