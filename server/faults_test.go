package server

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"runtime"
	"strings"
	"sync"
	"testing"

	"glossator/core/panel"
	"glossator/core/refine"
	"glossator/store"
)

// oddIDs are ids that a spreadsheet or a careless hand makes.
var oddIDs = []string{"50%", "a/b", "%2F", "100% wet/dry", "ä?#", "..", "a b"}

// A control whose id has a percent sign, a stroke or anything else in it can be set on a sheet and on a patch, and taken back.
func TestOddControlIDs(t *testing.T) {
	c := newClient(t, true)
	row, err := c.st.Panel("halyard", 0)
	if err != nil {
		t.Fatal(err)
	}
	for n, id := range oddIDs {
		var p panel.Panel
		if err := json.Unmarshal(row.Document, &p); err != nil {
			t.Fatal(err)
		}
		now, err := panel.Rename(&p, "control", "filter.cutoff", id)
		if err != nil {
			t.Fatalf("%q: %v", id, err)
		}
		now.ID, now.Name, now.Revision = fmt.Sprintf("odd-%d", n), "Odd "+id, 1
		doc, err := json.Marshal(now)
		if err != nil {
			t.Fatal(err)
		}
		ask[PanelRow](c, "POST", "/panels", string(doc), 201)
		open := ask[Opened](c, "POST", "/sheets", fmt.Sprintf(`{"patch": "keel", "target": %q, "school": "numbers"}`, now.ID), 200)
		at := fmt.Sprintf("/sheets/%d/overrides/%s", open.ID, url.PathEscape(id))
		if id == ".." {
			at = strings.Replace(at, "/..", "/%2E%2E", 1)
		}
		v := ask[SheetView](c, "PUT", at, `{"reading": "90"}`, 200)
		if v.Sheet.Overrides[id] != "90" {
			t.Errorf("%q: overrides %v", id, v.Sheet.Overrides)
		}
		if v = ask[SheetView](c, "DELETE", at, "", 200); len(v.Sheet.Overrides) != 0 {
			t.Errorf("%q: not taken back: %v", id, v.Sheet.Overrides)
		}
		tick := strings.Replace(at, "overrides", "ticks", 1)
		if v = ask[SheetView](c, "PUT", tick, "", 200); len(v.Ticks) != 1 || v.Ticks[0] != id {
			t.Errorf("%q: ticks %v", id, v.Ticks)
		}
	}
}

// A stored panel that does not open is told of, and takes nothing else with it; it can be mended in the workshop.
func TestAPanelThatDoesNotOpen(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "kedge"}`, 200)
	row, err := c.st.Panel("kedge", 0)
	if err != nil {
		t.Fatal(err)
	}
	// as a program of before wrote it, whose checks were looser: a law that gives an infinity
	broken := strings.Replace(string(row.Document), `"kind":"exponential"`, `"kind":"spiral"`, 1)
	if broken == string(row.Document) {
		t.Fatal("nothing was broken")
	}
	raw, err := sql.Open("sqlite", c.db) // past the program's own checks
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = raw.Close() }()
	if _, err := raw.Exec("UPDATE panels SET document = ? WHERE id = 'kedge'", []byte(broken)); err != nil {
		t.Fatal(err)
	}
	fresh := &client{t, serverOn(t, c.st), c.st, c.db}
	desk := ask[Desk](fresh, "GET", "/desk", "", 200)
	if len(desk.Panels) != 10 || len(desk.Patches) != 10 || len(desk.Sheets) != 2 {
		t.Fatalf("the desk has %d panels, %d patches, %d sheets", len(desk.Panels), len(desk.Patches), len(desk.Sheets))
	}
	for _, p := range desk.Panels {
		if (p.Fault != "") != (p.ID == "kedge") {
			t.Errorf("%s: fault %q", p.ID, p.Fault)
		}
	}
	for _, s := range desk.Sheets {
		if (s.Fault != "") != (s.Target == "kedge") {
			t.Errorf("sheet on %s: fault %q", s.Target, s.Fault)
		}
	}
	if v := ask[SheetView](fresh, "GET", "/sheets/1", "", 200); len(v.Targets) == 0 {
		t.Error("the sheet on another target has no targets")
	}
	for _, at := range []string{"/panels/kedge", "/sheets/2"} {
		if p := ask[Problem](fresh, "GET", at, "", 409); !strings.Contains(p.Detail, "workshop") {
			t.Errorf("%s: %+v", at, p)
		}
	}
	ask[FoundControls](fresh, "GET", "/controls?q=cutoff", "", 200)
	ask[Ranking](fresh, "GET", "/patches/keel/targets", "", 200)
	if w := ask[Workshop](fresh, "GET", "/panels/kedge/workshop", "", 200); len(w.Faults) == 0 {
		t.Error("the workshop finds no fault")
	}
}

// What a search by ear has found is not put over a reading that was set, or taken back, by hand after it began.
func TestAdoptLeavesWhatWasSetByHand(t *testing.T) {
	c := newClient(t, true)
	ask[Opened](c, "POST", "/sheets", `{"patch": "keel", "target": "halyard"}`, 200)
	ask[SheetView](c, "PUT", "/sheets/1/overrides/env2.sustain", `{"reading": "3"}`, 200)
	s := c.srv.Config.Handler.(*Server)
	found := func(base map[string]string, changes ...refine.Nudge) {
		s.searches.drop(1)
		s.searches.start(s.queue, 1, searching{Refining: Refining{Result: &refine.Outcome{Changes: changes}}, base: base}, func(context.Context, *task[searching]) error { return nil }, func(*searching, int) {}, func(*searching, error) {})
	}
	change := func(control, to string) refine.Nudge {
		return refine.Nudge{Control: control, To: to, Text: "nearer"}
	}
	found(map[string]string{"env2.sustain": "3"}, change("filter.cutoff", "90"), change("filter.resonance", "20"), change("env2.sustain", "5"))
	ask[SheetView](c, "PUT", "/sheets/1/overrides/filter.cutoff", `{"reading": "70"}`, 200) // after it began
	ask[SheetView](c, "DELETE", "/sheets/1/overrides/env2.sustain", "", 200)
	v := ask[SheetView](c, "POST", "/sheets/1/refine/adopt", "", 200)
	if o := v.Sheet.Overrides; o["filter.cutoff"] != "70" || o["filter.resonance"] != "20" || o["env2.sustain"] != "" {
		t.Errorf("adopted: %v", o)
	}
	found(nil, change("filter.cutoff", "90"))
	if p := ask[Problem](c, "POST", "/sheets/1/refine/adopt", "", 422); !strings.Contains(p.Detail, "by hand since") {
		t.Errorf("nothing to adopt: %+v", p)
	}
}

// The queue does no more at a time than it may, refuses what does not fit, and lets go of who has gone.
func TestQueue(t *testing.T) {
	q := newQueue()
	var mu sync.Mutex
	running, most, refused := 0, 0, 0
	hold := make(chan struct{})
	var all sync.WaitGroup
	for range jobsAtOnce + jobsWaiting + 20 {
		all.Go(func() {
			err := q.run(t.Context(), func() error {
				mu.Lock()
				running++
				most = max(most, running)
				mu.Unlock()
				<-hold
				mu.Lock()
				running--
				mu.Unlock()
				return nil
			})
			if errors.Is(err, errBusy) {
				mu.Lock()
				refused++
				mu.Unlock()
			}
		})
	}
	for n := 0; n < 20; {
		runtime.Gosched()
		mu.Lock()
		n = refused
		mu.Unlock()
	}
	gone, leave := context.WithCancel(t.Context())
	leave()
	if err := q.run(gone, func() error { return nil }); err == nil {
		t.Error("work was done for somebody who has gone")
	}
	close(hold)
	all.Wait()
	if most != jobsAtOnce || refused != 20 {
		t.Errorf("%d ran at once, %d were refused", most, refused)
	}
	if err := q.run(t.Context(), func() error { return store.ErrNotFound }); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("the error of the work is lost: %v", err)
	}
}

// Of tasks that are done only so many are kept; one that runs is never let go; a fault of the work is told.
func TestTasksAreBounded(t *testing.T) {
	q, k := newQueue(), &tasks[int]{}
	wait := make(chan struct{})
	slow, _ := k.start(q, 7, 0, func(context.Context, *task[int]) error { <-wait; return nil }, func(*int, int) {}, func(*int, error) {})
	if again, fresh := k.start(q, 7, 0, nil, nil, nil); fresh || again != slow {
		t.Error("a task that runs was begun again")
	}
	for id := range uint(3 * keptTasks) {
		if id == 7 {
			continue
		}
		x, _ := k.start(q, id, 0, func(context.Context, *task[int]) error { panic("broken") }, func(*int, int) {}, func(s *int, err error) {
			if errors.As(err, &errFault{}) {
				*s = 1
			}
		})
		<-x.over
		if n, _ := x.now(); n != 1 {
			t.Errorf("task %d: the fault was not told", id)
		}
	}
	k.mu.Lock()
	kept := len(k.of)
	k.mu.Unlock()
	if kept > keptTasks+2 || k.find(7) != slow {
		t.Errorf("%d tasks are kept, the running one: %v", kept, k.find(7) == slow)
	}
	close(wait)
}

// The cache makes a thing once, keeps nothing that failed, and stays within its size.
func TestCache(t *testing.T) {
	c, made := newCache(), 0
	get := func(key string, err error) (int, error) {
		return cached(c, "n", key, func() (int, error) { made++; return made, err })
	}
	a, _ := get("a", nil)
	if b, _ := get("a", nil); a != b || made != 1 {
		t.Errorf("made %d times", made)
	}
	if _, err := get("bad", store.ErrNotFound); err == nil {
		t.Error("no error")
	}
	if _, err := get("bad", nil); err != nil {
		t.Error("a failure was kept")
	}
	for i := range 2 * cacheSize {
		_, _ = get(fmt.Sprint(i), nil)
	}
	if n := c.kept.Len(); n > cacheSize {
		t.Errorf("%d are kept", n)
	}
}

// A route whose path and request do not name the same things is a fault of the table, found when it is made.
func TestRoutesCannotDrift(t *testing.T) {
	type wrong struct {
		Other string `path:"other"`
	}
	defer func() {
		if recover() == nil {
			t.Error("a route with another name in its path was made")
		}
	}()
	route("GET", "/things/{id}", "", func(*Server, context.Context, wrong) (None, error) { return None{}, nil })
}

// Sounds are kept on disk under a name that is the same in every run: SHA-256 (FIPS 180-4) of what they were made from, by the standard library beside it.
func TestNamesOfSoundsOutliveTheProgram(t *testing.T) {
	sum := sha256.Sum256([]byte("\"take\"\n[1,2]\nbytes\x00"))
	if got, want := hashOf("take", []int{1, 2}, []byte("bytes")), hex.EncodeToString(sum[:16]); got != want {
		t.Errorf("%s, want %s", got, want)
	}
	one, same, next, other := keyOf([]byte("a"), 1), keyOf([]byte("a"), 1), keyOf([]byte("a"), 2), keyOf([]byte("b"), 1)
	if one != same || one == next || one == other {
		t.Error("keys of documents meet, or differ for the same")
	}
}

// One patch that is stored with what nobody can read takes nothing else with it: it is in the lists with its fault, is exported as it is stored, and can be mended by an import or deleted.
func TestAStoredPatchThatIsBroken(t *testing.T) {
	c := newClient(t, true)
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	file := ask[json.RawMessage](c, "GET", "/patches/gulls/export", "", 200)
	must(c.st.Close())
	db, err := sql.Open("sqlite", c.db)
	must(err)
	_, err = db.Exec(`UPDATE patches SET document = ? WHERE id = 'gulls'`, []byte(`{"format": "glossator-patch", "layers": 7`))
	must(err)
	must(db.Close())
	st, err := store.Open(c.db)
	must(err)
	t.Cleanup(func() { _ = st.Close() })
	c = &client{t, serverOn(t, st), st, c.db}
	desk := ask[Desk](c, "GET", "/desk", "", 200)
	seen := false
	for _, p := range desk.Patches {
		if p.ID == "gulls" {
			seen = strings.Contains(p.Notes, "cannot be read")
		} else if p.PanelName == "" || len(p.Layers) == 0 {
			t.Errorf("its neighbour is not whole: %+v", p)
		}
	}
	if !seen || len(desk.Patches) < 5 {
		t.Errorf("the broken patch is not told of among %d", len(desk.Patches))
	}
	ask[PatchView](c, "GET", "/patches/keel", "", 200)
	if _, raw := c.do("GET", Base+"/patches/gulls/export", "", nil); string(raw) != `{"format": "glossator-patch", "layers": 7` {
		t.Errorf("it is exported as %s", raw)
	}
	ask[PatchRow](c, "POST", "/patches?file=gulls.json&as=version", string(file), 201)
	ask[PatchView](c, "GET", "/patches/gulls", "", 200)
}
