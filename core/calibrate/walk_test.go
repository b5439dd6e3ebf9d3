package calibrate

import (
	"math"
	"slices"
	"testing"

	"glossator/core/panel"
	"glossator/testutil/testrack"
)

// A walk goes by every control that can be set up once, from where the instrument stands; it changes no more than the order of the panel does, and with few controls little more than the best of all orders, found by trying them all.
func TestWalk(t *testing.T) {
	rack := testrack.Panels(t)
	spared, panels := 0, 0
	for _, id := range testrack.IDs(rack) {
		c := rack[id]
		var all []string
		known := map[string]map[string]string{}
		for k := range c.Controls {
			if setUpOf(c, k) != nil && len(all) < 30 {
				all = append(all, c.Controls[k].ID)
			}
		}
		if len(all) < 3 {
			continue
		}
		walk := Walk(c, append(all, "nothing", all[0]), all[1])
		var ids []string
		sum := 0
		for _, s := range walk {
			ids = append(ids, s.Control)
			sum += s.Changes
		}
		want := slices.Delete(slices.Clone(all), 1, 2)
		if got := slices.Sorted(slices.Values(ids)); !slices.Equal(got, slices.Sorted(slices.Values(want))) {
			t.Errorf("%s: goes by %v, expected %v", id, got, want)
		}
		plain := length(c, known, want, all[1])
		if sum != length(c, known, ids, all[1]) || sum > plain {
			t.Errorf("%s: %d changes, counted %d, in the order of the panel %d", id, sum, length(c, known, ids, all[1]), plain)
		}
		spared, panels = spared+plain-sum, panels+1
		few := []string{all[0], all[len(all)/3], all[len(all)/2], all[len(all)-1], all[len(all)-2], all[1]}
		slices.Sort(few)
		few = slices.Compact(few)
		best := math.MaxInt
		permute(few, func(order []string) { best = min(best, length(c, known, order, "")) })
		sum = 0
		for _, s := range Walk(c, few, "") {
			sum += s.Changes
		}
		if sum < best || float64(sum) > 1.25*float64(best)+1 {
			t.Errorf("%s: %d changes over %v, the best order has %d", id, sum, few, best)
		}
	}
	t.Logf("%d changes spared on %d panels", spared, panels)
	if spared < 5*panels {
		t.Errorf("only %d changes are spared on %d panels", spared, panels)
	}
}

// length counts the changes of an order by the readings that each set-up lists, as a person would see them.
func length(c *panel.Compiled, known map[string]map[string]string, order []string, from string) int {
	read := func(control string) map[string]string {
		out := known[control]
		if out != nil {
			return out
		}
		out = map[string]string{}
		known[control] = out
		k, ok := c.ControlIndex(control)
		at := c.InitState()
		if ok {
			at = setUpOf(c, k).at
		}
		for i := range c.Controls {
			out[c.Controls[i].ID] = at.At[i].Reading
		}
		return out
	}
	sum := 0
	for _, control := range order {
		a, b := read(from), read(control)
		for x := range a {
			if a[x] != b[x] && x != from && x != control {
				sum++
			}
		}
		from = control
	}
	return sum
}

func permute(all []string, see func([]string)) {
	var from func(k int)
	from = func(k int) {
		if k == len(all) {
			see(all)
			return
		}
		for i := k; i < len(all); i++ {
			all[k], all[i] = all[i], all[k]
			from(k + 1)
			all[k], all[i] = all[i], all[k]
		}
	}
	from(0)
}

func BenchmarkWalk(b *testing.B) {
	c := testrack.Panels(b)["fairlead"]
	var all []string
	for k := range c.Controls {
		all = append(all, c.Controls[k].ID)
	}
	for b.Loop() {
		Walk(c, all, "")
	}
}
