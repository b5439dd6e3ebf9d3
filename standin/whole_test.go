package standin_test

import (
	"errors"
	"math"
	"slices"
	"sync"
	"testing"

	"golang.org/x/sync/errgroup"

	"glossator/core/calibrate"
	"glossator/testutil/testrack"
	"glossator/testutil/whole"
)

// Every control of every panel that can be measured, on a unit of each: the truth lies in the band at 95 % of the positions of each panel. All of them in make whole (three quarters of an hour), every hundred and twentieth in CI.
func TestWholePanels(t *testing.T) {
	rack := testrack.Panels(t)
	step := 120
	if whole.Asked() {
		step = 1
	}
	var mu sync.Mutex
	all := map[string][]sat{}
	var g errgroup.Group
	g.SetLimit(2)
	n := 0
	for unit, id := range testrack.IDs(rack) {
		for k := range rack[id].Controls {
			if n++; n%step != 0 {
				continue
			}
			g.Go(func() error {
				s, err := sit(t, id, rack[id].Controls[k].ID, 101+unit)
				if errors.Is(err, calibrate.ErrNoRecipe) {
					return nil
				}
				mu.Lock()
				defer mu.Unlock()
				all[id] = append(all[id], s)
				return err
			})
		}
	}
	if err := g.Wait(); err != nil {
		t.Fatal(err)
	}
	in, places := 0, 0
	for _, id := range testrack.IDs(rack) {
		here, of := 0, 0
		slices.SortFunc(all[id], func(a, b sat) int { return a.in*b.n - b.in*a.n })
		for _, s := range all[id] {
			here, of = here+s.in, of+s.n
			if s.in < s.n || math.Abs(s.bias) > 1 {
				t.Logf("%-36s %-16s %2d takes, %3d of %3d in the band, %3d in half of it, bias %5.2f, worst %5.2f, band ±%.2f JND", s.name, s.recipe, s.takes, s.in, s.n, s.near, s.bias, s.worst, s.width)
			}
		}
		if of > 0 {
			t.Logf("%s: %d controls, %.1f %% of %d positions", id, len(all[id]), 100*float64(here)/float64(of), of)
		}
		in, places = in+here, places+of
	}
	if share := 100 * float64(in) / float64(places); share < 93 {
		t.Errorf("the truth lies in the band at %.1f %% of %d positions", share, places)
	}
}
