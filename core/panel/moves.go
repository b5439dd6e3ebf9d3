package panel

import (
	"errors"
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

// CheckFlavours gives the faults of a patch's flavours that only the panel can tell: a fault.List, or nil.
func (c *Compiled) CheckFlavours(p *patch.Patch) error {
	var l fault.List
	for i, f := range p.Flavours {
		for n, x := range f.Sets {
			at := fmt.Sprintf("/flavours/%d/sets/%d", i, n)
			k, ok := c.ControlIndex(x.Control)
			if !ok {
				l.Add(at+"/control", "expected a control of %s, got %q", c.Name, x.Control)
				continue
			}
			if _, err := c.Parse(k, x.Reading); err != nil {
				l.Add(at+"/reading", "%v", err)
			}
		}
	}
	return l.Err()
}

// CheckPlayed gives what CheckMoves and CheckFlavours give.
func (c *Compiled) CheckPlayed(p *patch.Patch) error {
	var moves, flavours fault.List
	errors.As(c.CheckMoves(p), &moves)
	errors.As(c.CheckFlavours(p), &flavours)
	return append(moves, flavours...).Err()
}

// Beside moves a control that stands at now by as much of its travel as lies between two other readings; words have no travel, and go where the second is.
func (c *Compiled) Beside(control, now, from, to string) string {
	k, ok := c.ControlIndex(control)
	if !ok {
		return to
	}
	f := &c.Controls[k].Face
	a, errA := c.Parse(k, now)
	b, errB := c.Parse(k, from)
	d, errC := c.Parse(k, to)
	if f.Discrete() || errA != nil || errB != nil || errC != nil {
		return to
	}
	return f.Nearest(min(max(a.Travel+d.Travel-b.Travel, 0), 1)).Reading
}
