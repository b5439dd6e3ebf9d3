package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"glossator/formats/wav"
	"glossator/store"
	"glossator/testutil/disk"
)

// A sound that cannot be kept is held in memory, and it is said why: the folder's disk is full or read-only, a file stands in its place, or it was taken away while the
// program ran (then it is made again). Only so many are held.
func TestSoundsWithoutAFolder(t *testing.T) {
	sound := &kept{Rate: 48000, Left: make([]float64, 4000)}
	small, full := disk.Small(t, 64)
	cases := []struct {
		name, dir, why string
		ready          bool
	}{
		{"a file in its place", filepath.Join("/dev/null", "sounds"), "there is a file in its place", true},
		{"a full disk", filepath.Join(small, "sounds"), "its disk is full", full},
	}
	for _, x := range cases {
		if !x.ready {
			continue
		}
		if x.dir == cases[1].dir {
			disk.Fill(t, small)
		}
		s := newSounds(x.dir)
		for i := range inMemorySounds + 3 {
			k, err := s.render(hashOf(i), func() (*kept, error) { return sound, nil })
			if err != nil || len(k.Left) != 4000 || len(k.Right) != 4000 {
				t.Fatalf("%s: %v", x.name, err)
			}
		}
		if !strings.Contains(s.unkept(), x.why) {
			t.Errorf("%s: told %q", x.name, s.unkept())
		}
		if _, err := s.get(hashOf(inMemorySounds + 2)); err != nil {
			t.Errorf("%s: the last is gone: %v", x.name, err)
		}
		if _, err := s.get(hashOf(0)); err != store.ErrNotFound {
			t.Errorf("%s: memory has no bound: %v", x.name, err)
		}
	}
	s := newSounds(filepath.Join(t.TempDir(), "a", "b"))
	for i := range 2 {
		if err := os.RemoveAll(s.dir); err != nil {
			t.Fatal(err)
		}
		if _, err := s.render(hashOf(i), func() (*kept, error) { return sound, nil }); err != nil || s.unkept() != "" {
			t.Errorf("a folder that was taken away: %v, %q", err, s.unkept())
		}
	}
}

// A sheet is listened to where no sound can be kept; both sides can be fetched, and the page is told.
func TestListenWithoutAFolder(t *testing.T) {
	c := newClient(t, true)
	c.srv = serverIn(t, c.st, "/dev/null/sounds")
	open := ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"halyard","school":"numbers"}`, 200)
	l := ask[Listening](c, "POST", fmt.Sprintf("/sheets/%d/listen", open.ID), `{"phrase":"","octaves":0,"off":[],"plain":false}`, 200)
	if !strings.Contains(l.Unkept, "there is a file in its place") {
		t.Errorf("told %q", l.Unkept)
	}
	for _, key := range []string{l.Source.Key, l.Target.Key} {
		if res, data := c.do("GET", Base+"/sounds/"+key+".wav", "", nil); res.StatusCode != 200 || len(data) < 100_000 {
			t.Errorf("%s: %d, %d bytes", key, res.StatusCode, len(data))
		}
	}
}

// On a full disk a change is refused as such, what was there can still be read and taken away, and what was acknowledged is there when there is room again; a disk that
// has become read-only is told as such.
func TestFullDisk(t *testing.T) {
	dir, ok := disk.Small(t, 24<<10)
	if !ok {
		return // store's TestAFullDatabase has SQLite's own bound
	}
	db := filepath.Join(dir, "test.db")
	st, err := store.Open(db)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := LoadSample(st); err != nil {
		t.Fatal(err)
	}
	c := &client{t, serverOn(t, st), st, db}
	free := disk.Fill(t, dir)
	kept, refused := "", ""
	for i := range 400 {
		notes := strings.Repeat(fmt.Sprint(i, " "), 3000)
		body, err := json.Marshal(PatchHead{Name: "Keel", Kind: "bass", Tempo: 100, Notes: notes[:min(len(notes), 15000)]})
		if err != nil {
			t.Fatal(err)
		}
		res, got := c.do("PUT", Base+"/patches/keel", string(body), nil)
		if res.StatusCode == 200 {
			kept = notes[:min(len(notes), 15000)]
			continue
		}
		refused = string(got)
		if res.StatusCode != 507 || !strings.Contains(refused, "disk is full") {
			t.Fatalf("%d %s", res.StatusCode, got)
		}
		break
	}
	if refused == "" {
		t.Fatal("the disk was never full")
	}
	if v := ask[PatchView](c, "GET", "/patches/keel", "", 200); kept != "" && v.Notes != kept {
		t.Error("what is shown is not what was acknowledged")
	}
	c.srv.Close()
	_ = st.Close()
	free()
	if st, err = store.Open(db); err != nil {
		t.Fatal(err)
	}
	c = &client{t, serverOn(t, st), st, db}
	if v := ask[PatchView](c, "GET", "/patches/keel", "", 200); kept != "" && v.Notes != kept {
		t.Error("what was acknowledged is gone")
	}
	ask[PatchView](c, "PUT", "/patches/keel", `{"name":"Keel","kind":"bass","tempo":101}`, 200)
	c.srv.Close()
	_ = st.Close()
	if !disk.ReadOnly(t, dir) {
		return
	}
	if st, err = store.Open(db); err == nil {
		t.Error("a read-only file was opened for work")
		_ = st.Close()
	} else if !errors.Is(err, store.ErrDisk) || !strings.Contains(err.Error(), "cannot be written") {
		t.Errorf("read-only: %v", err)
	}
}

// What waits is told its place, moves up as others go, and begins in the order in which it was asked for; one that gives up makes room; more than the bound is refused; heavy
// work takes the place of several.
func TestQueueTellsPlaces(t *testing.T) {
	q := newQueue()
	var mu sync.Mutex
	places := map[int][]int{}
	var order []int
	hold := make(chan struct{})
	running := make(chan struct{}, jobsAtOnce)
	var all sync.WaitGroup
	for range jobsAtOnce {
		all.Go(func() {
			_ = q.run(context.Background(), func() error { running <- struct{}{}; <-hold; return nil })
		})
		<-running
	}
	ctx, cancel := context.WithCancel(context.Background())
	const waiters = 5
	told := make(chan struct{}, 100)
	for i := range waiters {
		all.Go(func() {
			on := context.Background()
			if i == 1 {
				on = ctx
			}
			_ = q.runAs(on, jobsAtOnce, func(place int) {
				mu.Lock()
				places[i] = append(places[i], place)
				mu.Unlock()
				told <- struct{}{}
			}, func() error {
				mu.Lock()
				order = append(order, i)
				mu.Unlock()
				return nil
			})
		})
		for range i + 1 { // all that wait are told when one comes
			<-told
		}
	}
	if q.waits() != waiters {
		t.Errorf("%d wait", q.waits())
	}
	cancel()
	for range waiters - 1 {
		<-told
	}
	mu.Lock()
	if got := places[4]; got[len(got)-1] != 4 {
		t.Errorf("the last has the places %v after one gave up", got)
	}
	mu.Unlock()
	close(hold)
	all.Wait()
	if !slices.Equal(order, []int{0, 2, 3, 4}) {
		t.Errorf("begun in the order %v", order)
	}
	for i, got := range places {
		if i != 1 && got[len(got)-1] != 0 || !slices.IsSortedFunc(got, func(a, b int) int { return b - a }) {
			t.Errorf("%d: places %v", i, got)
		}
	}
	// the bound
	hold = make(chan struct{})
	begun := make(chan struct{})
	all.Go(func() {
		_ = q.runAs(context.Background(), 99, nil, func() error { close(begun); <-hold; return nil })
	})
	<-begun
	for range jobsWaiting {
		waits := make(chan struct{})
		var once sync.Once
		all.Go(func() {
			_ = q.runAs(context.Background(), 1, func(int) { once.Do(func() { close(waits) }) }, func() error { return nil })
		})
		<-waits
	}
	if err := q.run(context.Background(), func() error { return nil }); !errors.Is(err, errBusy) {
		t.Errorf("one too many: %v", err)
	}
	close(hold)
	all.Wait()
}

// Twenty who write at once, for so many rounds, on two patches and a sheet: nobody is answered with an error (but who changes the very same control in the same moment, who is told by whom), and what stands there in the end is what the last of
// each was acknowledged.
func TestTwentyWriters(t *testing.T) {
	c := newClient(t, true)
	sheet := ask[Opened](c, "POST", "/sheets", `{"patch":"keel","target":"halyard","school":"numbers"}`, 200).ID
	view := ask[PatchView](c, "GET", "/patches/keel", "", 200)
	layer := view.LayerViews[0].ID
	var own []string // controls that take 0.0 to 10.0
	for _, l := range view.LayerViews[0].Lines {
		if len(own) < 5 && strings.HasPrefix(l.Expects, "0.0 to 10.0") {
			own = append(own, l.Control)
		}
	}
	var all sync.WaitGroup
	var mu sync.Mutex
	acknowledged := map[string]string{}
	for w := range 20 {
		all.Go(func() {
			for round := range 8 {
				switch w % 4 {
				case 0: // a control of its own
					id := own[w/4]
					reading := fmt.Sprintf("%.1f", 2+0.1*float64(round))
					if res, got := c.do("PUT", Base+"/patches/keel/layers/"+layer+"/readings/"+id, fmt.Sprintf(`{"reading":%q}`, reading), nil); res.StatusCode != 200 {
						t.Errorf("writer %d: %d %.200s", w, res.StatusCode, got)
					} else {
						mu.Lock()
						acknowledged[id] = reading
						mu.Unlock()
					}
				case 1:
					path := fmt.Sprintf("%s/sheets/%d/ticks/filter.cutoff", Base, sheet)
					if res, got := c.do([]string{"PUT", "DELETE"}[round%2], path, "", nil); res.StatusCode != 200 {
						t.Errorf("writer %d: %d %.200s", w, res.StatusCode, got)
					}
				case 2:
					body := fmt.Sprintf(`{"name":"Gulls","kind":"lead","tempo":%d}`, 60+(w*15+round)%180)
					if res, got := c.do("PUT", Base+"/patches/gulls", body, nil); res.StatusCode != 200 {
						t.Errorf("writer %d: %d %.200s", w, res.StatusCode, got)
					}
				default:
					if round > 2 { // each is a translation
						return
					}
					path := fmt.Sprintf("%s/sheets/%d/overrides/filter.cutoff", Base, sheet)
					if res, got := c.do("PUT", path, fmt.Sprintf(`{"reading":"%d"}`, 20+w), nil); res.StatusCode != 200 && !(res.StatusCode == 412 && strings.Contains(string(got), "clashes")) { // all at one control: who comes between is told so
						t.Errorf("writer %d: %d %.200s", w, res.StatusCode, got)
					}
				}
			}
		})
	}
	all.Wait()
	v := ask[PatchView](c, "GET", "/patches/keel", "", 200)
	for id, want := range acknowledged {
		for _, l := range v.LayerViews[0].Lines {
			if l.Control == id && !strings.HasPrefix(l.Reading, want) {
				t.Errorf("%s is %s, the last that was acknowledged is %s", id, l.Reading, want)
			}
		}
	}
	if len(acknowledged) == 0 {
		t.Error("nothing was written")
	}
}

// Recordings are read two at a time: what more is sent waits unread, everything else is answered, and when one has come the next is read.
func TestRecordingsAreReadInTurn(t *testing.T) {
	c := newClient(t, false)
	s := New(Config{Store: c.st, Sounds: t.TempDir()})
	c.srv = httptest.NewServer(s)
	t.Cleanup(c.srv.Close)
	done := make(chan int, 3)
	send := func(body io.Reader) {
		res, err := http.Post(c.srv.URL+Base+"/sounds?file=take.wav", "audio/wav", body)
		if err != nil {
			t.Error(err)
			done <- 0
			return
		}
		_ = res.Body.Close()
		done <- res.StatusCode
	}
	var slow []*io.PipeWriter
	for range largeAtOnce {
		r, w := io.Pipe()
		slow = append(slow, w)
		go send(r)
		if _, err := w.Write([]byte("RIFF")); err != nil { // it is being read
			t.Fatal(err)
		}
	}
	var file bytes.Buffer
	x := make([]float64, 8000)
	for i := range x {
		x[i] = 0.3 * math.Sin(2*math.Pi*440*float64(i)/8000)
	}
	if err := wav.Write(&file, &wav.Sound{Rate: 8000, Bits: 16, Left: x}); err != nil {
		t.Fatal(err)
	}
	c.until(func() bool { // both are being read
		free := s.large.TryAcquire(1)
		if free {
			s.large.Release(1)
		}
		return !free
	})
	go send(&file)
	for range 20 {
		ask[Desk](c, "GET", "/desk", "", 200)
	}
	if len(done) > 0 {
		t.Error("a third was read beside two")
	}
	_ = slow[0].Close()
	got := []int{<-done, <-done}
	slices.Sort(got)
	if !slices.Equal(got, []int{201, 422}) {
		t.Errorf("half a file and a whole one: %v", got)
	}
	_ = slow[1].Close()
	if code := <-done; code != 422 {
		t.Errorf("half a file: %d", code)
	}
}
