package store

import (
	"bytes"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"glossator/core/calibrate"
)

// Two who measure one control at once: both takes are kept, each as a step of its own; a bound holds; a panel that goes takes its sittings along, and undo brings them back.
func TestTwoMeasureAtOnce(t *testing.T) {
	s, rack, _ := filled(t)
	add := func(reading string) error {
		_, err := s.Sit("thole", "lfo1.rate", "measure at "+reading, func(y *Sitting, takes []calibrate.Recorded) ([]calibrate.Recorded, error) {
			y.Recipe = "lfo1.rate"
			return append(takes, calibrate.Recorded{Reading: reading}), nil
		})
		return err
	}
	var all sync.WaitGroup
	for i := range 12 {
		all.Go(func() {
			if err := add(fmt.Sprint(i)); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	count := func() int {
		y, err := s.Sitting("thole", "lfo1.rate")
		if errors.Is(err, ErrNotFound) {
			return 0
		}
		must(t, err)
		takes, err := y.Recorded()
		must(t, err)
		return len(takes)
	}
	if n := count(); n != 12 {
		t.Fatalf("%d takes of 12", n)
	}
	_, err := s.Undo(0, "")
	must(t, err)
	if n := count(); n != 11 {
		t.Errorf("after undo %d takes", n)
	}
	for i := range MaxRecorded {
		if err = add(fmt.Sprint("more ", i)); err != nil {
			break
		}
	}
	if err == nil || count() > MaxRecorded {
		t.Errorf("%d takes, %v", count(), err)
	}
	list, err := s.Sittings("thole")
	must(t, err)
	if len(list) != 1 || list[0].Control != "lfo1.rate" {
		t.Errorf("the list: %+v", list)
	}
	if rack["thole"] == nil {
		t.Fatal("no thole")
	}
	must(t, s.Delete([]Item{{KindPatch, "gulls"}, {KindPanel, "thole"}}))
	if n := count(); n != 0 {
		t.Errorf("the panel has gone, %d takes are left", n)
	}
	_, err = s.Undo(0, "")
	must(t, err)
	if n := count(); n == 0 {
		t.Error("undo has brought the panel back without its takes")
	}
}

// Recordings of takes are kept up to the bound that is set, and not beyond: what is there stays, as it was, also after the database is opened again. One that no take names any more goes after a day, and not before: undo may bring its take back.
func TestRecordingsOfTakesAreKept(t *testing.T) {
	path := filepath.Join(t.TempDir(), "takes.db")
	s, err := Open(path)
	must(t, err)
	now := time.Date(2026, 11, 29, 12, 0, 0, 0, time.UTC)
	s.now = func() time.Time { return now }
	loud := func(n byte) []byte { return bytes.Repeat([]byte{n}, 1000) }
	kept, bound, err := s.TakesKept()
	must(t, err)
	if kept != 0 || bound != TakesBound {
		t.Errorf("%d of %d bytes to begin with", kept, bound)
	}
	must(t, s.BoundTakes(2500))
	var names []string
	for n := range byte(3) {
		name, err := s.KeepTake(loud(n))
		must(t, err)
		names = append(names, name)
	}
	if names[0] == "" || names[1] == "" || names[0] == names[1] || names[2] != "" {
		t.Fatalf("kept as %q: two fit", names)
	}
	if again, err := s.KeepTake(loud(1)); err != nil || again != names[1] {
		t.Errorf("the same again takes no room: %q, %v", again, err)
	}
	_, err = s.Sit("kedge", "env.attack", "measure", func(y *Sitting, _ []calibrate.Recorded) ([]calibrate.Recorded, error) {
		return []calibrate.Recorded{{Reading: "5:00", Sound: names[1]}}, nil
	})
	must(t, err)
	must(t, s.Close())
	s, err = Open(path)
	must(t, err)
	defer s.Close()
	for n, name := range names[:2] {
		if data, err := s.TakeSound(name); err != nil || !bytes.Equal(data, loud(byte(n))) {
			t.Errorf("recording %d: %d bytes, %v", n, len(data), err)
		}
	}
	if _, err := s.TakeSound("nothing"); !errors.Is(err, ErrNotFound) {
		t.Errorf("what is not there: %v", err)
	}
	s.now = func() time.Time { return now.Add(23 * time.Hour) }
	if name, err := s.KeepTake(loud(5)); err != nil || name != "" {
		t.Errorf("within a day there is room already: %q, %v", name, err)
	}
	s.now = func() time.Time { return now.Add(25 * time.Hour) }
	if name, err := s.KeepTake(loud(5)); err != nil || name == "" {
		t.Errorf("after a day there is no room: %v", err)
	}
	if _, err := s.TakeSound(names[0]); !errors.Is(err, ErrNotFound) {
		t.Errorf("what no take names is still there: %v", err)
	}
	if _, err := s.TakeSound(names[1]); err != nil {
		t.Errorf("what a take names has gone: %v", err)
	}
	for _, bad := range []int64{-1, MostTakesBound + 1} {
		if s.BoundTakes(bad) == nil {
			t.Errorf("a bound of %d bytes is taken", bad)
		}
	}
}
