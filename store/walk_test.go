package store

import (
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"glossator/core/calibrate"
	"glossator/core/panel"
	"glossator/core/patch"
	"glossator/core/plan"
)

// everything writes down all that a store holds but for the changes themselves and the times.
func everything(t *testing.T, s *Store) string {
	t.Helper()
	var b strings.Builder
	for _, table := range []string{"panels", "patches", "sheets", "ticks", "drafts", "versions", "trials", "shelves", "sets", "sittings"} {
		var rows []map[string]any
		must(t, s.db.Table(table).Find(&rows).Error)
		lines := make([]string, 0, len(rows))
		for _, r := range rows {
			var line strings.Builder
			for _, k := range slices.Sorted(maps.Keys(r)) {
				if k == "at" || strings.HasSuffix(k, "_at") {
					continue
				}
				fmt.Fprintf(&line, "%s=%v ", k, r[k])
			}
			lines = append(lines, line.String())
		}
		slices.Sort(lines)
		fmt.Fprintf(&b, "%s:\n%s\n", table, strings.Join(lines, "\n"))
	}
	return b.String()
}

// Whatever is done, in whatever order: taken back step by step the store is at each step as it was, and done again it is as it was
// after it.
func TestAnyWalkCanBeTakenBack(t *testing.T) {
	for seed := range uint64(2) {
		s, rack, keel := filled(t)
		r := rand.New(rand.NewPCG(seed, 7))
		ids := slices.Sorted(maps.Keys(rack))
		pick := func() *panel.Compiled { return rack[ids[r.IntN(len(ids))]] }
		sheets := func() []uint {
			list, err := s.Sheets()
			must(t, err)
			var out []uint
			for _, x := range list {
				out = append(out, x.ID)
			}
			return out
		}
		any := func() uint {
			list := sheets()
			if len(list) == 0 {
				return 0
			}
			return list[r.IntN(len(list))]
		}
		at := func() *Sheet {
			x, err := s.Sheet(any())
			if err != nil {
				return &Sheet{ID: 9999, Overrides: []byte("{}")}
			}
			return x
		}
		for range 6 { // to make a sheet is no step
			_, err := s.OpenSheet(keel, "", rack["windlass"], pick(), []plan.School{plan.Numbers, plan.Ear}[r.IntN(2)])
			must(t, err)
		}
		steps := []func() error{
			func() error {
				_, err := s.Override(at(), "filter.cutoff", "Cutoff", fmt.Sprint(r.IntN(99)))
				return err
			},
			func() error { _, err := s.Override(at(), "filter.cutoff", "Cutoff", ""); return err },
			func() error {
				_, err := s.Choose(at(), "keep the filter", plan.Choices{Weight: map[string]float64{"filter": plan.Keep}})
				return err
			},
			func() error { _, err := s.Choose(at(), "as usual", plan.Choices{}); return err },
			func() error {
				_, err := s.Adopt(at(), "set by ear", map[string]string{"filter.cutoff": fmt.Sprint(r.IntN(99))}, plan.Choices{Why: map[string]string{"filter.cutoff": "1: nearer"}})
				return err
			},
			func() error { return s.SetTick(any(), []string{"a", "b", "c"}[r.IntN(3)], "a line", r.IntN(2) == 0) },
			func() error {
				return s.Archive([]Item{{KindPatch, "keel"}, {KindSheet, fmt.Sprint(any())}}, r.IntN(2) == 0)
			},
			func() error { return s.Archive([]Item{{KindPanel, pick().ID}}, r.IntN(3) == 0) },
			func() error {
				return s.Delete([]Item{{KindSheet, fmt.Sprint(any())}, {KindPatch, []string{"foghorn", "gulls"}[r.IntN(2)]}})
			},
			func() error { return s.Delete([]Item{{KindPanel, pick().ID}}) },
			func() error {
				x := []Item{{KindPatch, "keel"}, {KindPanel, pick().ID}, {KindSheet, fmt.Sprint(any())}}[r.IntN(3)]
				return s.Rename(x, fmt.Sprint("Name ", r.IntN(4)))
			},
			func() error { _, err := s.CopySheet(any()); return err },
			func() error {
				sets, err := s.Sets()
				if err != nil {
					return err
				}
				id := uint(0)
				if len(sets) > 0 && r.IntN(3) > 0 {
					id = sets[r.IntN(len(sets))].ID
				}
				_, err = s.PutSet(id, fmt.Sprint("Set ", r.IntN(3)), []string{"keel", "gulls", "undertow"}[:r.IntN(4)])
				return err
			},
			func() error {
				sets, err := s.Sets()
				if err != nil || len(sets) == 0 {
					return ErrNotFound
				}
				return s.DropSet(sets[r.IntN(len(sets))].ID)
			},
			func() error { return s.AddTrial(any(), r.IntN(10), 10, "the filter") },
			func() error {
				_, err := s.Sit(pick().ID, []string{"a", "b"}[r.IntN(2)], "measure", func(y *Sitting, takes []calibrate.Recorded) ([]calibrate.Recorded, error) {
					y.Recipe = "level"
					if r.IntN(4) == 0 {
						return nil, nil
					}
					return append(takes, calibrate.Recorded{Reading: fmt.Sprint(r.IntN(9)), Figure: r.Float64()}), nil
				})
				return err
			},
			func() error { return s.DeleteSheet(any()) },
			func() error {
				first, err := s.Sheet(any())
				if err != nil {
					return err
				}
				_, err = s.OpenSecond(first, plan.Choices{Elsewhere: []string{"osc1"}})
				return err
			},
			func() error {
				_, err := s.ChangePatch("keel", "turn the cutoff", func(p *patch.Patch) error {
					p.Layers[0].Readings["filter.cutoff"] = fmt.Sprint(r.IntN(10))
					return nil
				}, nil)
				return err
			},
			func() error { _, err := s.KeepVersion("keel", fmt.Sprint("take ", r.IntN(9))); return err },
			func() error { return s.DeletePatch([]string{"foghorn", "gulls", "undertow"}[r.IntN(3)]) },
			func() error {
				p := *pick().Panel
				p.Name += " two"
				return put(s, "name it", p.Revision, &p)
			},
			func() error {
				drafts, err := s.Drafts()
				if err != nil || len(drafts) == 0 {
					return ErrNotFound
				}
				return s.DropDraft(drafts[r.IntN(len(drafts))].ID)
			},
			func() error {
				p := *pick().Panel
				p.Name = fmt.Sprint(p.Name, " ", r.IntN(5))
				_, err := s.PutPanel(&p)
				return err
			},
		}
		states := []string{everything(t, s)}
		for range 60 {
			err := steps[r.IntN(len(steps))]()
			if err != nil && !errors.Is(err, ErrNotFound) && !errors.Is(err, ErrInUse) {
				t.Fatalf("seed %d, step %d: %v", seed, len(states), err)
			}
			// a step that changed nothing, or was refused, leaves no trace
			if now := everything(t, s); now != states[len(states)-1] {
				states = append(states, now)
			} else if err != nil && now != states[len(states)-1] {
				t.Fatalf("seed %d: a step was refused (%v) and changed something", seed, err)
			}
		}
		if len(states) < 30 {
			t.Fatalf("seed %d: only %d steps changed anything", seed, len(states)-1)
		}
		place := len(states) - 1
		for place > 0 {
			what, err := s.Undo(0, "")
			must(t, err)
			if place--; everything(t, s) != states[place] {
				t.Fatalf("seed %d: to take %q back (step %d) gives another store", seed, what, place+1)
			}
		}
		for place < len(states)-1 {
			what, err := s.Redo(0, "")
			must(t, err)
			if place++; everything(t, s) != states[place] {
				t.Fatalf("seed %d: to do %q again (step %d) gives another store", seed, what, place)
			}
		}
		if _, err := s.Redo(0, ""); !errors.Is(err, ErrNotFound) {
			t.Errorf("seed %d: there is more to do again: %v", seed, err)
		}
	}
}

// What is asked of things that are not there is refused, and changes nothing.
func TestNothingThere(t *testing.T) {
	s, _, _ := filled(t)
	before := everything(t, s)
	for name, ask := range map[string]func() error{
		"a panel":        func() error { _, err := s.Panel("nobody", 1); return err },
		"a revision":     func() error { _, err := s.Panel("windlass", 99); return err },
		"a patch":        func() error { _, err := s.Patch("nobody"); return err },
		"a sheet":        func() error { _, err := s.Sheet(99); return err },
		"a sheet to set": func() error { _, err := s.Override(&Sheet{ID: 99, Overrides: []byte("{}")}, "a", "A", "1"); return err },
		"a sheet to choose": func() error {
			_, err := s.Choose(&Sheet{ID: 99, Overrides: []byte("{}")}, "x", plan.Choices{})
			return err
		},
		"a sheet to adopt":  func() error { _, err := s.Adopt(&Sheet{ID: 99}, "x", nil, plan.Choices{}); return err },
		"a sheet to tick":   func() error { return s.SetTick(99, "a", "a", true) },
		"a sheet to delete": func() error { return s.DeleteSheet(99) },
		"a sheet to test":   func() error { return s.AddTrial(99, 1, 2, "x") },
		"a second layer":    func() error { _, err := s.Second(99); return err },
		"a draft":           func() error { _, err := s.Draft("nobody"); return err },
		"a draft to drop":   func() error { return s.DropDraft("nobody") },
		"a patch to change": func() error {
			_, err := s.ChangePatch("nobody", "x", func(*patch.Patch) error { return nil }, nil)
			return err
		},
		"a patch to delete": func() error { return s.DeletePatch("nobody") },
		"a patch to keep":   func() error { _, err := s.KeepVersion("nobody", "x"); return err },
		"something to undo": func() error { _, err := open(t).Undo(0, ""); return err },
		"something to redo": func() error { _, err := s.Redo(0, ""); return err },
	} {
		if err := ask(); !errors.Is(err, ErrNotFound) {
			t.Errorf("%s that is not there: %v", name, err)
		}
	}
	// a change that fails half way leaves nothing behind
	if _, err := s.ChangePatch("keel", "x", func(p *patch.Patch) error {
		p.Name = "Half"
		return errors.New("stop")
	}, nil); err == nil || err.Error() != "stop" {
		t.Errorf("the change failed with %v", err)
	}
	if everything(t, s) != before {
		t.Error("what was refused has changed something")
	}
}
