package gloss

import (
	"fmt"
	"sort"
	"strings"
)

// Carried says how well one target carries a patch.
type Carried struct {
	Target PanelRef `json:"target"`
	// Share is how much of the patch is carried, by the weights of its parts: 1 for all of it, 0
	// for none.
	Share   float64         `json:"share"`
	Cost    float64         `json:"cost"`
	Summary map[Verdict]int `json:"summary"`
	// Lost names what is left out, the dearest first; Recast what is made by other means and how.
	Lost   []string `json:"lost"`
	Recast []string `json:"recast"`
	// Why says in one line what decides.
	Why   string `json:"why"`
	Clean bool   `json:"clean"`
}

// CarriedBy sums a sheet up for a ranking.
func CarriedBy(s *Sheet) Carried {
	c := Carried{Target: s.Target, Cost: Round(s.Plan.Cost, 3), Share: s.Share(), Summary: s.Summary, Lost: []string{}, Recast: []string{}, Clean: s.Clean()}
	var lost []Pair
	for _, list := range [][]Pair{s.Plan.Modules, s.Plan.Routes} {
		for _, x := range list {
			if x.Target == "" && x.Rule == "" {
				lost = append(lost, x)
			}
		}
	}
	sort.SliceStable(lost, func(a, b int) bool { return lost[a].Cost > lost[b].Cost })
	for _, x := range lost {
		c.Lost = append(c.Lost, x.SourceLabel)
	}
	by := map[string]int{} // one line a rule
	for _, r := range s.Recasts {
		n, ok := by[r.Rule]
		if !ok {
			n = len(c.Recast)
			by[r.Rule] = n
			c.Recast = append(c.Recast, r.Name+": ")
		} else {
			c.Recast[n] += ", "
		}
		c.Recast[n] += strings.Join(r.Parts, ", ")
	}
	switch bent := s.Summary[Bent]; {
	case len(lost) > 0:
		c.Why = fmt.Sprintf("loses %s", list(c.Lost, 4))
	case bent > 0:
		c.Why = fmt.Sprintf("loses nothing; %d bent", bent)
	case len(c.Recast) > 0:
		c.Why = "loses nothing; some of it by other means"
	default:
		c.Why = "carries all of it"
	}
	return c
}

// list writes the first few of a list, and how many more there are.
func list(all []string, n int) string {
	if len(all) <= n {
		return strings.Join(all, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(all[:n], ", "), len(all)-n)
}
