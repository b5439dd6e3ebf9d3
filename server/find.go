package server

import (
	"net/http"
	"sort"
	"strings"

	"github.com/labstack/echo/v5"

	"glossator/core/meaning"
	"glossator/core/panel"
)

// maxFound is how many controls a search shows.
const maxFound = 100

// findControls looks for controls of which every word of the query begins a word of the name,
// section, module, parameter or quantity; those found by their own name come first.
func (s *Server) findControls(c *echo.Context) error {
	rows, err := s.store.Panels()
	if err != nil {
		return err
	}
	words := strings.Fields(strings.ToLower(c.QueryParam("q")))
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
			return err
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
	return c.JSON(http.StatusOK, out)
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
