package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"
	"testing"

	"glossator/core/calibrate"
	"glossator/core/hear"
	"glossator/core/phrase"
	"glossator/formats/wav"
	"glossator/standin"
	"glossator/store"
	"glossator/testutil/testrack"
)

// What is in doubt and used comes first; a sitting goes on from where it was left, is taken back step by step, and its law is adopted in a new revision, which undo takes back.
func TestASittingAtTheBench(t *testing.T) {
	c := newClient(t, true)
	list := ask[BenchView](c, "GET", "/panels/kedge/bench", "", 200)
	if len(list.Controls) < 15 || list.Controls[0].Source != "assumed" || list.Controls[0].Gain <= 0 || list.Controls[0].Patches == 0 {
		t.Fatalf("first of the list: %+v", list.Controls[0])
	}
	at := "/panels/kedge/bench/env.sustain"
	first := ask[SittingView](c, "GET", at, "", 200)
	if first.Then == nil || first.Left < 10 {
		t.Errorf("what is next: %+v of %d", first.Then, first.Left)
	}
	if level := ask[SittingView](c, "GET", "/panels/kedge/bench/mix.osc1", "", 200); level.Then == nil || level.Then.Changes > 4 {
		t.Errorf("after a level comes %+v", level.Then)
	}
	list = ask[BenchView](c, "GET", "/panels/kedge/bench", "", 200)
	changes := 0
	for i, x := range list.Walk {
		changes += x.Changes
		if k := slices.IndexFunc(list.Controls, func(y BenchControl) bool { return y.Control == x.Control }); k < 0 || !list.Controls[k].toMeasure() {
			t.Errorf("stop %d, %s, is not to be measured", i, x.Control)
		}
	}
	if len(list.Walk) != first.Left+1 || changes != list.Changes || list.Minutes < float64(len(list.Walk)) {
		t.Errorf("%d stops with %d changes in %g minutes; counted %d, left were %d", len(list.Walk), list.Changes, list.Minutes, changes, first.Left)
	}
	if list.Minutes > anHour && (len(list.Hour) == 0 || list.HourGain > list.Doubt || len(list.Hour) >= len(list.Walk)) {
		t.Errorf("worth an hour: %v, %g of %g", list.Hour, list.HourGain, list.Doubt)
	}
	if len(first.Takes) != 0 || first.Next.Reading == "" || first.Next.Play == "" || len(first.Settings) == 0 || first.Note == "" {
		t.Fatalf("before the first take: %+v", first)
	}
	ask[any](c, "POST", at+"/adopt", "{}", 422)
	v := first
	for n := 0; n < 7; n++ {
		v = ask[SittingView](c, "POST", at+"/stand-in", fmt.Sprintf(`{"unit": 7, "reading": %q}`, v.Next.Reading), 200)
	}
	again := ask[SittingView](c, "GET", at, "", 200)
	if len(again.Takes) != 7 || again.Instrument != "stand-in 7" || again.Unsure > first.Unsure/2 || asJSON(t, again.Band) != asJSON(t, v.Band) {
		t.Fatalf("%d takes, known to %.2f (before %.2f)", len(again.Takes), again.Unsure, first.Unsure)
	}
	ask[any](c, "POST", "/undo", "", 200)
	if n := len(ask[SittingView](c, "GET", at, "", 200).Takes); n != 6 {
		t.Errorf("after undo there are %d takes", n)
	}
	ask[any](c, "POST", "/redo", "", 200)
	if n := len(ask[SittingView](c, "DELETE", at+"/takes/6", "", 200).Takes); n != 6 {
		t.Errorf("with one out there are %d takes", n)
	}
	ask[any](c, "DELETE", at+"/takes/60", "", 422)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "kedge"}`, 200)
	what := ask[Adoption](c, "GET", at+"/adopt", "", 200)
	if len(what.Sheets) != 1 || !strings.Contains(what.Law, "measured") {
		t.Fatalf("what it changes: %+v", what)
	}
	before := ask[PanelView](c, "GET", "/panels/kedge", "", 200).Revision
	got := ask[Adoption](c, "POST", at+"/adopt", "{}", 200)
	if got.Revision != before+1 || got.Panel != "kedge" {
		t.Errorf("adopted as %+v", got)
	}
	if s := ask[SheetView](c, "GET", "/sheets/1", "", 200); s.Sheet.Target.Revision != before {
		t.Errorf("the sheet has gone to revision %d by itself", s.Sheet.Target.Revision)
	}
	ask[any](c, "POST", "/undo", "", 200)
	if r := ask[PanelView](c, "GET", "/panels/kedge", "", 200).Revision; r != before {
		t.Errorf("after undo the panel is revision %d", r)
	}
	own := ask[Adoption](c, "POST", at+"/adopt", `{"as": "Kedge, the hired one"}`, 200)
	if own.Panel == "kedge" || own.Panel == "" {
		t.Errorf("the unit's own panel is %q", own.Panel)
	}
	if p := ask[PanelView](c, "GET", "/panels/"+own.Panel, "", 200); p.Name != "Kedge, the hired one" {
		t.Errorf("it is called %q", p.Name)
	}
	ask[any](c, "DELETE", at, "", 200)
	if n := len(ask[SittingView](c, "GET", at, "", 200).Takes); n != 0 {
		t.Errorf("%d takes are not forgotten", n)
	}
}

// Recordings come in one by one or several in a file, cut at their silences; one that says nothing is kept with the reason, one that cannot be is refused.
func TestRecordingsAtTheBench(t *testing.T) {
	c := newClient(t, true)
	u, err := standin.New(testrack.Panels(t)["kedge"], 5)
	if err != nil {
		t.Fatal(err)
	}
	u.Wait(30)
	if err := u.Hand("mix.osc2", "12:00"); err != nil {
		t.Fatal(err)
	}
	var left []float64
	take := func(reading string) []float64 {
		if err := u.Hand("osc2.tune", reading); err != nil {
			t.Fatal(err)
		}
		w, err := u.Play([]phrase.Note{{End: 1, Key: 57, Velocity: 100}}, 0)
		if err != nil {
			t.Fatal(err)
		}
		return w.Left
	}
	file := func(x []float64) string {
		var b bytes.Buffer
		if err := wav.Write(&b, &wav.Sound{Rate: 48000, Bits: 24, Left: x}); err != nil {
			t.Fatal(err)
		}
		return b.String()
	}
	send := func(readings, data string, code int) (v SittingView, says string) {
		t.Helper()
		res, got := c.do("POST", Base+"/panels/kedge/bench/osc2.tune/recording?readings="+strings.ReplaceAll(readings, " ", "%20"), data, func(r *http.Request) { r.Header.Set("Content-Type", "audio/wav") })
		if res.StatusCode != code {
			t.Fatalf("%s: %d %.300s", readings, res.StatusCode, got)
		}
		if code == 200 {
			if err := json.Unmarshal(got, &v); err != nil {
				t.Fatal(err)
			}
			return v, ""
		}
		return v, string(got)
	}
	gap := make([]float64, 48000*7/10)
	for _, r := range []string{"8:00", "10:00", "12:00"} {
		left = append(append(append(left, gap...), take(r)...), gap...)
	}
	v, _ := send("8:00,10:00,12:00", file(left), 200)
	if len(v.Takes) != 3 {
		t.Fatalf("%d takes", len(v.Takes))
	}
	for i, k := range v.Takes {
		if k.Why != "" || i > 0 && k.Value <= v.Takes[i-1].Value {
			t.Errorf("take %d: %+v", i, k)
		}
	}
	if v, _ = send("2:00", file(take("2:00")), 200); len(v.Takes) != 4 || v.Takes[3].Why != "" {
		t.Errorf("one more: %+v", v.Takes)
	}
	if v, _ = send("3:00", file(gap), 200); len(v.Takes) != 5 || !strings.Contains(v.Takes[4].Why, "silent") {
		t.Errorf("a silent one: %+v", v.Takes)
	}
	if _, says := send("8:00,10:00", file(left), 422); !strings.Contains(says, "holds 3 takes") {
		t.Error(says)
	}
	if _, says := send("6:30", file(left), 422); !strings.Contains(says, "7:00") {
		t.Error(says)
	}
	if _, says := send("", file(left), 422); !strings.Contains(says, "readings") {
		t.Error(says)
	}
	if _, says := send("8:00", "no sound", 422); !strings.Contains(says, "WAVE") {
		t.Error(says)
	}
	for _, x := range []struct {
		method, path, body string
		code               int
	}{
		{"GET", "/panels/kedge/bench/osc9", "", 404}, {"GET", "/panels/anchor/bench", "", 404}, {"GET", "/panels/kedge/bench/osc1.wave", "", 422}, {"GET", "/panels/kedge/bench/lfo.rate?recipe=attack", "", 422},
		{"POST", "/panels/kedge/bench/osc2.tune/stand-in", `{"unit": 0, "reading": "12:00"}`, 422}, {"POST", "/panels/kedge/bench/osc2.tune/stand-in", `{"unit": 1, "reading": "6:30"}`, 422}, {"DELETE", "/panels/kedge/bench/osc9", "", 404},
	} {
		ask[any](c, x.method, x.path, x.body, x.code)
	}
}

// A law that was measured translates as what it is: the reading that the sheet gives on the measured panel gives, on the unit, nearer what was asked for than the reading of the panel as it came.
func TestWhatTheBenchIsWorth(t *testing.T) {
	c := newClient(t, true)
	at := "/panels/kedge/bench/env.release"
	v := ask[SittingView](c, "GET", at, "", 200)
	for n := 0; n < 14 && !v.Next.Done; n++ {
		v = ask[SittingView](c, "POST", at+"/stand-in", fmt.Sprintf(`{"unit": 34, "reading": %q}`, v.Next.Reading), 200)
	}
	u, err := standin.New(testrack.Panels(t)["kedge"], 34)
	if err != nil {
		t.Fatal(err)
	}
	truth := map[string]float64{}
	for _, x := range u.Truth().Controls["env.release"] {
		truth[x.Reading] = *x.Value
	}
	var off [2]float64 // before and after, in the logarithm of the time
	for _, p := range v.Band {
		off[0] += math.Abs(math.Log(*p.Was / truth[p.Reading]))
		off[1] += math.Abs(math.Log(*p.Value / truth[p.Reading]))
	}
	n := float64(len(v.Band))
	t.Logf("the panel is off by %.0f %% on average, the law that was measured by %.0f %%", 100*off[0]/n, 100*off[1]/n)
	if off[1] > 0.5*off[0] {
		t.Errorf("off by %.3f before, %.3f after", off[0]/n, off[1]/n)
	}
}

// The sound of a take is kept as it was measured, and measures the same again; with no room only its figures are kept, and the page is told how much there is.
func TestTheSoundOfATakeIsKept(t *testing.T) {
	c := newClient(t, true)
	at := "/panels/kedge/bench/mix.noise"
	first := ask[SittingView](c, "POST", at+"/stand-in", `{"unit": 3, "reading": "5:00"}`, 200)
	if len(first.Takes) != 1 || first.Takes[0].Sound == "" || first.Sounds.Kept < 10000 || first.Sounds.Bound != store.TakesBound {
		t.Fatalf("%+v, %+v", first.Takes, first.Sounds)
	}
	res, data := c.do("GET", Base+"/takes/"+first.Takes[0].Sound, "", nil)
	w, err := wav.Read(data)
	if res.StatusCode != 200 || err != nil || int64(len(data)) != first.Sounds.Kept {
		t.Fatalf("%d, %d bytes, %v", res.StatusCode, len(data), err)
	}
	b, err := calibrate.Begin(testrack.Panels(t)["kedge"], "mix.noise", "")
	if err != nil {
		t.Fatal(err)
	}
	at5, _ := b.Position("5:00")
	r, err := b.Hear("5:00", &calibrate.Sound{Wave: hear.Wave{Rate: float64(w.Rate), Left: w.Left, Right: w.Right}, Notes: b.Notes(at5)})
	if err != nil {
		t.Fatal(err)
	}
	if again := b.Takes([]calibrate.Recorded{r})[0]; math.Abs(again.Value-first.Takes[0].Value) > 0.05 {
		t.Errorf("it measures %g, was %g", again.Value, first.Takes[0].Value)
	}
	for _, bad := range []string{`{"bound": -1}`, `{"bound": 1e13}`, `{"bound": "much"}`} {
		ask[any](c, "PUT", "/takes", bad, 422)
	}
	if k := ask[TakesKept](c, "PUT", "/takes", `{"bound": 100}`, 200); k.Bound != 100 || k.Kept != first.Sounds.Kept {
		t.Errorf("%+v", k)
	}
	if then := ask[SittingView](c, "POST", at+"/stand-in", `{"unit": 3, "reading": "3:00"}`, 200); len(then.Takes) != 2 || then.Takes[1].Sound != "" || then.Takes[1].U == 0 {
		t.Errorf("without room: %+v", then.Takes)
	}
	ask[any](c, "GET", "/takes/0123", "", 404)
}
