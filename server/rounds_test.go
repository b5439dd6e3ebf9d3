package server

import (
	"bytes"
	"encoding/json"
	"math"
	"net/http/httptest"
	"strings"
	"testing"

	"glossator/core/dialin"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
	"glossator/core/translate"
	"glossator/core/wire"
	"glossator/formats/wav"
	"glossator/store"
	"glossator/testutil/testrack"
)

// A second round stands beside the first, with what is wanted at the head of its log and all that was set; what it changes is its changeover from the first.
func TestAnotherRound(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard", "school": "numbers"}`, 200)
	ask[SheetView](c, "PUT", "/sheets/1/overrides/filter.cutoff", `{"reading": "60"}`, 200)
	two := ask[Opened](c, "POST", "/sheets/1/round", `{"why": "darker, longer"}`, 201)
	if three := ask[Opened](c, "POST", "/sheets/"+itoa(two.ID)+"/round", `{"why": "an octave up"}`, 201); three.ID == two.ID {
		t.Fatal("the third round is the second")
	}
	ask[SheetView](c, "PUT", "/sheets/"+itoa(two.ID)+"/corrections/filter.cutoff", `{"reading": "44", "tags": ["darker"]}`, 200)
	v := ask[ChangeoverView](c, "GET", "/sheets/"+itoa(two.ID)+"/changeover?from=1", "", 200)
	if len(v.Changeover.Moves) != 1 || v.Changeover.Moves[0].From != "60" || v.Changeover.Moves[0].To != "44" {
		t.Errorf("%+v", v.Changeover.Moves)
	}
	d := ask[Desk](c, "GET", "/desk", "", 200)
	titles := map[string]bool{}
	for _, s := range d.Sheets {
		titles[s.Title] = true
	}
	if !titles["Keel, round 2"] || !titles["Keel, round 3"] {
		t.Errorf("%v", titles)
	}
	log := ask[Log](c, "GET", "/log?sheet="+itoa(two.ID), "", 200)
	if n := len(log.Entries); n != 2 || log.Entries[n-1].Why != "darker, longer" {
		t.Errorf("%+v", log.Entries)
	}
	ask[any](c, "POST", "/sheets/1/round", `{"why": " "}`, 422)
	ask[any](c, "POST", "/sheets/99/round", `{"why": "x"}`, 404)
}

func itoa(n uint) string { return string(rune('0' + n)) }

// What is typed of the instrument is held against the plan: what agrees, what does not, what is no control.
func TestReadBackAsTyped(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard", "school": "numbers"}`, 200)
	ask[SheetView](c, "PUT", "/sheets/1/overrides/filter.cutoff", `{"reading": "60"}`, 200)
	f := ask[wire.Found](c, "POST", "/sheets/1/said", `{"notes": "cutoff 60, filter resonance 3\nblinkenlight 7"}`, 200)
	got := map[string]wire.Taken{}
	for _, x := range f.Taken {
		got[x.Control] = x
	}
	if x := got["filter.cutoff"]; !x.Same || x.Stands != "60" {
		t.Errorf("%+v", x)
	}
	if x := got["filter.resonance"]; x.Same || x.Reading != "3" || x.Stands == "" {
		t.Errorf("%+v", x)
	}
	if !strings.Contains(strings.Join(f.Other, "; "), "blinkenlight") {
		t.Errorf("%q", f.Other)
	}
	ask[any](c, "POST", "/sheets/9/said", `{"notes": "x"}`, 404)
	ask[any](c, "POST", "/sheets/1/said", `{"notes": "`+strings.Repeat("x ", 40_000)+`"}`, 422)
}

// Ticks of a changeover are kept, by pair; two who tick at once keep both; they are no ticks of the list, and count for the pace. Begun anew, none is left, and undo brings them back.
func TestChangeoverTicks(t *testing.T) {
	c := newClient(t, true)
	for _, p := range []string{"keel", "undertow", "foghorn"} {
		ask[Opened](c, "POST", "/sheets", `{"patch": "`+p+`", "target": "kedge", "school": "numbers"}`, 200)
	}
	v := ask[ChangeoverView](c, "GET", "/sheets/2/changeover?from=1", "", 200)
	one, two := v.Changeover.Moves[0].Control, v.Changeover.Moves[1].Control
	done := make(chan Ticks, 2)
	for _, key := range []string{one, two} {
		go func() {
			done <- ask[Ticks](c, "PUT", "/sheets/2/changeover/1/ticks", `{"key": "`+key+`", "done": true}`, 200)
		}()
	}
	<-done
	<-done
	if got := ask[Ticks](c, "GET", "/sheets/2/changeover/1/ticks", "", 200); len(got.Ticks) != 2 {
		t.Errorf("%v", got.Ticks)
	}
	if got := ask[Ticks](c, "GET", "/sheets/2/changeover/3/ticks", "", 200); len(got.Ticks) != 0 {
		t.Errorf("from another sheet %v", got.Ticks)
	}
	if got := ask[Ticks](c, "GET", "/sheets/2/ticks", "", 200); len(got.Ticks) != 0 {
		t.Errorf("on the list %v", got.Ticks)
	}
	if s := ask[Desk](c, "GET", "/desk", "", 200); s.Sheets[0].Ticked+s.Sheets[1].Ticked+s.Sheets[2].Ticked != 0 {
		t.Errorf("%+v", s.Sheets)
	}
	if got := ask[Ticks](c, "PUT", "/sheets/2/changeover/1/ticks", `{"key": "`+one+`", "done": false}`, 200); len(got.Ticks) != 1 || got.Ticks[0] != two {
		t.Errorf("%v", got.Ticks)
	}
	if got := ask[Ticks](c, "DELETE", "/sheets/2/changeover/1/ticks", "", 200); len(got.Ticks) != 0 {
		t.Errorf("%v", got.Ticks)
	}
	ask[any](c, "POST", "/undo", "", 200)
	if got := ask[Ticks](c, "GET", "/sheets/2/changeover/1/ticks", "", 200); len(got.Ticks) != 1 {
		t.Errorf("after undo %v", got.Ticks)
	}
	ask[any](c, "PUT", "/sheets/2/changeover/1/ticks", `{"key": "nothing", "done": true}`, 404)
	ask[any](c, "PUT", "/sheets/2/changeover/9/ticks", `{"key": "`+one+`", "done": true}`, 404)
}

// The log holds what is kept elsewhere, too: blind tests, photographs, versions of the patch.
func TestTheLogHoldsItAll(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard", "school": "numbers"}`, 200)
	if err := c.st.AddTrial(1, 7, 8, "a b"); err != nil {
		t.Fatal(err)
	}
	ask[any](c, "POST", "/patches/keel/versions", `{"note": "before the dress rehearsal"}`, 200)
	ask[Photographs](c, "POST", "/sheets/1/photographs?caption=left%20half", photograph(t, 9, 9), 200)
	ask[Photographs](c, "POST", "/patches/keel/photographs?caption=as%20it%20was", photograph(t, 8, 8), 200)
	ask[Log](c, "POST", "/sheets/1/entries", `{"kind": "note", "why": "close"}`, 200)
	all := ask[Log](c, "GET", "/log", "", 200).Entries
	var kinds []string
	for _, e := range all {
		kinds = append(kinds, e.Kind+" "+e.Why+" "+e.Name)
	}
	if want := "note close Keel; photograph as it was Keel; photograph left half Keel; version before the dress rehearsal Keel; blind test 7 of 8 right Keel"; strings.Join(kinds, "; ") != want {
		t.Errorf("%q", kinds)
	}
	for find, n := range map[string]int{"7 of 8": 1, "dress": 1, "photograph": 2, "version keel": 1} {
		if got := ask[Log](c, "GET", "/log?find="+strings.ReplaceAll(find, " ", "%20"), "", 200).Entries; len(got) != n {
			t.Errorf("%q finds %d", find, len(got))
		}
	}
}

// count is how many steps the list of a patch on its own instrument has.
func count(b *testing.B, c *panel.Compiled, p *patch.Patch) int {
	s, err := translate.Translate(c, p, c, translate.Options{School: plan.Numbers})
	if err != nil {
		b.Fatal(err)
	}
	list := dialin.Of(s)
	return list.Count
}

// A list of two hundred steps is opened, and one of its lines is ticked.
func BenchmarkLongList(b *testing.B) {
	st, err := store.Open(b.TempDir() + "/x.db")
	if err != nil {
		b.Fatal(err)
	}
	defer func() { _ = st.Close() }()
	if _, err := LoadSample(st); err != nil {
		b.Fatal(err)
	}
	rack := testrack.Panels(b)
	bare := *rack["binnacle"].Panel
	bare.ID, bare.Name, bare.Memory = "bare", "Binnacle without memory", false
	if _, err := st.PutPanel(&bare); err != nil {
		b.Fatal(err)
	}
	on, err := panel.Compile(&bare)
	if err != nil {
		b.Fatal(err)
	}
	p := testrack.Generate(on, 4, 0.95)
	for seed := uint64(5); seed < 60; seed++ { // the longest list of several
		x := testrack.Generate(on, seed, 0.95)
		if count(b, on, x) > count(b, on, p) {
			p = x
		}
	}
	p.ID = "long"
	if err := st.PutPatch(p); err != nil {
		b.Fatal(err)
	}
	s := New(Config{Store: st})
	do := func(method, path, body string) []byte {
		w := httptest.NewRecorder()
		s.ServeHTTP(w, httptest.NewRequest(method, "http://127.0.0.1"+Base+path, strings.NewReader(body)))
		if w.Code/100 != 2 {
			b.Fatal(path, w.Code, w.Body.String())
		}
		return w.Body.Bytes()
	}
	do("POST", "/sheets", `{"patch": "long", "target": "bare", "school": "numbers"}`)
	var v SheetView
	if err := json.Unmarshal(do("GET", "/sheets/1", ""), &v); err != nil || v.DialIn.Count < 200 {
		b.Fatal(v.DialIn.Count, err)
	}
	b.Run("open", func(b *testing.B) {
		for b.Loop() {
			s.views.Purge() // as by the first who looks
			do("GET", "/sheets/1", "")
		}
	})
	b.Run("tick", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			do([]string{"PUT", "DELETE"}[i%2], "/sheets/1/ticks/"+v.DialIn.Groups[0].Lines[0].Key, "")
		}
	})
}

// A recording of one side is kept in the log with its sound, which goes out in an archive and comes in elsewhere; a render is none, and undo takes it back.
func TestRecordingsInTheLog(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard", "school": "numbers"}`, 200)
	var b bytes.Buffer
	tone := make([]float64, 24000)
	for i := range tone {
		tone[i] = 0.3 * math.Sin(float64(i)/20)
	}
	if err := wav.Write(&b, &wav.Sound{Rate: 48000, Bits: 24, Left: tone, Right: tone}); err != nil {
		t.Fatal(err)
	}
	take := ask[Take](c, "POST", "/sounds?file=at%20the%20hall.wav", b.String(), 201)
	l := ask[Log](c, "POST", "/sheets/1/recordings", `{"key": "`+take.Key+`", "side": "target", "why": "from the pit"}`, 200)
	if len(l.Entries) != 1 || l.Entries[0].Kind != store.KindRecording || !strings.Contains(l.Entries[0].Why, "at the hall.wav, of Halyard, 0.5 s: from the pit") {
		t.Fatalf("%+v", l.Entries)
	}
	res, data := c.do("GET", Base+"/takes/"+l.Entries[0].Reading, "", nil)
	back, err := wav.Read(data)
	if err != nil || len(back.Left) != len(tone) || math.Abs(back.Left[777]-tone[777]) > 1e-6 {
		t.Errorf("%d, %v", res.StatusCode, err)
	}
	_, file := c.do("GET", Base+"/archive", "", nil)
	two := newClient(t, false)
	ask[ArchiveTaken](two, "POST", "/archive", string(file), 200)
	if there := ask[Log](two, "GET", "/log?find=pit", "", 200); len(there.Entries) != 1 {
		t.Errorf("%+v", there.Entries)
	} else if res, again := two.do("GET", Base+"/takes/"+there.Entries[0].Reading, "", nil); string(again) != string(data) {
		t.Errorf("elsewhere the sound is another: %d", res.StatusCode)
	}
	render := ask[Listening](c, "POST", "/sheets/1/listen", `{}`, 200).Source.Key
	ask[any](c, "POST", "/sheets/1/recordings", `{"key": "`+render+`", "side": "target"}`, 422)
	ask[any](c, "POST", "/sheets/1/recordings", `{"key": "`+take.Key+`", "side": "left"}`, 422)
	ask[any](c, "POST", "/sheets/9/recordings", `{"key": "`+take.Key+`", "side": "target"}`, 404)
	ask[any](c, "POST", "/undo", "", 200)
	if l = ask[Log](c, "GET", "/log", "", 200); len(l.Entries) != 0 {
		t.Errorf("after undo %+v", l.Entries)
	}
}
