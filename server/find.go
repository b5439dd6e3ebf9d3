package server

import (
	"context"
	"fmt"
	"sort"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
)

// maxFound is how many controls a search shows.
const maxFound = 100

// mostQuery is how long a query may be, in bytes, mostWords of how many words.
const (
	mostQuery = 500
	mostWords = 20
)

type findControlsRequest struct {
	Q string `query:"q"`
}

// findControls looks for controls of which every word of the query begins a word of the name,
// section, module, parameter or quantity; those found by their own name come first.
func (s *Server) findControls(ctx context.Context, in findControlsRequest) (none FoundControls, err error) {
	words := strings.Fields(strings.ToLower(in.Q))
	if len(in.Q) > mostQuery || len(words) > mostWords {
		return none, badRequest{fmt.Errorf("expected at most %d words of %d bytes in all", mostWords, mostQuery)}
	}
	rows, err := s.store.Panels()
	if err != nil {
		return none, err
	}
	out := FoundControls{Found: []FoundControl{}}
	type hit struct {
		FoundControl
		score int
	}
	var hits []hit
	for i := range rows {
		if len(words) == 0 {
			break
		}
		p, err := s.compiledRow(&rows[i])
		if err != nil {
			continue // one that does not open has nothing to find
		}
		for k := range p.Controls {
			f, own, around := describe(p, k)
			score, all := 0, true
			for _, w := range words {
				switch {
				case begins(own, w):
					score += 2
				case begins(around, w):
					score++
				default:
					all = false
				}
			}
			if all {
				hits = append(hits, hit{f, score})
			}
		}
	}
	sort.SliceStable(hits, func(a, b int) bool { return hits[a].score > hits[b].score })
	for i, h := range hits {
		if i == maxFound {
			out.More = len(hits) - maxFound
			break
		}
		out.Found = append(out.Found, h.FoundControl)
	}
	return out, nil
}

// describe gives a control's row with the words of its own name and those around it.
func describe(p *panel.Compiled, k int) (f FoundControl, own, around string) {
	d := &p.Controls[k]
	f = FoundControl{Panel: p.ID, PanelName: p.Name, Control: d.ID, Section: p.SectionLabel(k), Label: d.Label, Expects: p.Expects(k)}
	var sets []string
	for i := range d.Means {
		owner, _ := meaning.Split(d.Means[i].Param)
		label := owner
		if m, ok := p.ModuleIndex(owner); ok {
			if spec := meaning.SpecOf(p.Modules[m].Kind); spec != nil {
				around += " " + spec.Label
			}
			label = p.Modules[m].Label
		} else if r, ok := p.RouteIndex(owner); ok {
			label = p.Routes[r].Label
		}
		if prm, err := p.Param(d.Means[i].Param); err == nil {
			sets = append(sets, label+": "+prm.Label+" ("+string(prm.Dim)+")")
		}
	}
	f.Sets = strings.Join(sets, "; ")
	own = strings.ToLower(d.Label + " " + strings.Join(d.Aliases, " "))
	around = strings.ToLower(strings.Join([]string{around, p.Name, f.Section, f.Sets}, " "))
	return f, own, around
}

// begins tells whether a word of a text begins so.
func begins(text, start string) bool {
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(" ():;,-.", r) }) {
		if strings.HasPrefix(w, start) {
			return true
		}
	}
	return false
}

// FoundControl is a control that a search found.
type FoundControl struct {
	Panel     string `json:"panel"`
	PanelName string `json:"panelName"`
	Control   string `json:"control"`
	Section   string `json:"section"`
	Label     string `json:"label"`
	// Sets says what the control sets, and in which quantity.
	Sets    string `json:"sets"`
	Expects string `json:"expects"`
}

// FoundControls is what a search found, best first; More counts those beyond the limit.
type FoundControls struct {
	Found []FoundControl `json:"found"`
	More  int            `json:"more"`
}
