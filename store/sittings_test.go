package store

import (
	"errors"
	"fmt"
	"sync"
	"testing"

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
