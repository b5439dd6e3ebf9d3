package translate

import (
	"fmt"
	"sort"
	"strings"

	"glossator/core/panel"
	"glossator/core/patch"
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

// Rank translates a patch to several targets and puts them in order, that which carries most of
// it first; of equals the one that comes first by id.
func Rank(src *panel.Compiled, p *patch.Patch, targets []*panel.Compiled, opt Options) ([]Carried, error) {
	out := make([]Carried, 0, len(targets))
	for _, dst := range targets {
		s, err := Translate(src, p, dst, Options{School: opt.School, Layer: opt.Layer})
		if err != nil {
			return nil, err
		}
		out = append(out, carried(s))
	}
	sort.SliceStable(out, func(a, b int) bool {
		if out[a].Share != out[b].Share {
			return out[a].Share > out[b].Share
		}
		return out[a].Target.ID < out[b].Target.ID
	})
	return out, nil
}

func carried(s *Sheet) Carried {
	c := Carried{Target: s.Target, Cost: round(s.Plan.Cost, 3), Share: s.share(), Summary: s.Summary, Lost: []string{}, Recast: []string{}, Clean: s.Clean()}
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
