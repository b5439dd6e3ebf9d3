package panel

import (
	"fmt"
	"slices"
	"strings"

	"glossator/core/fault"
	"glossator/core/patch"
)

// CheckMoves gives the faults of what is moved while a phrase is played that only the panel can tell: a fault.List, or nil.
func (c *Compiled) CheckMoves(p *patch.Patch) error {
	if p.Phrase == nil {
		return nil
	}
	var l fault.List
	for i, m := range p.Phrase.Moves {
		at := fmt.Sprintf("/phrase/moves/%d", i)
		if m.ByPlayer() {
			continue
		}
		k, ok := c.ControlIndex(m.What)
		if !ok {
			l.Add(at+"/what", "expected %s or a control of %s, got %q", strings.Join(patch.PlayersMeans, ", "), c.Name, m.What)
			continue
		}
		if m.Layer != "" && !slices.ContainsFunc(p.Layers, func(y patch.Layer) bool { return y.ID == m.Layer }) {
			l.Add(at+"/layer", "expected a layer of the patch, got %q", m.Layer)
		}
		if c.Controls[k].Face.Len() == 0 {
			l.Add(at+"/what", "expected a control that can be moved: %s is a text", c.Controls[k].Label)
			continue
		}
		for _, x := range []struct{ name, text string }{{"from", m.From}, {"to", m.To}} {
			if _, err := c.Parse(k, x.text); err != nil {
				l.Add(at+"/"+x.name, "%v", err)
			}
		}
	}
	return l.Err()
}
