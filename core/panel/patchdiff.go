package panel

import (
	"fmt"
	"sort"
	"strings"

	"glossator/core/patch"
)

// DiffPatch tells in words what has changed from one state of a patch to another; readings in
// working order, with "init" for a control that is not named.
func DiffPatch(c *Compiled, was, is *patch.Patch) []Difference {
	d := differ{}
	d.field("name", was.Name, is.Name)
	d.field("kind", was.Kind, is.Kind)
	d.field("tempo", fmt.Sprint(was.Tempo), fmt.Sprint(is.Tempo))
	d.field("tags", strings.Join(was.Tags, ", "), strings.Join(is.Tags, ", "))
	d.field("notes", was.Notes, is.Notes)
	d.field("wheel", fmt.Sprint(was.Wheel), fmt.Sprint(is.Wheel))
	byID(&d, "layer", was.Layers, is.Layers, func(l *patch.Layer) (string, string) { return l.ID, l.ID }, func(where string, a, b *patch.Layer) {
		if len(was.Layers) == 1 && len(is.Layers) == 1 {
			where = ""
		} else {
			where += ": "
		}
		d.field(where+"label", a.Label, b.Label)
		d.field(where+"transposition", a.Transpose, b.Transpose)
		d.field(where+"level", a.Level, b.Level)
		d.readings(c, where, a, b)
		d.field(where+"cables", cablesText(c, a.Cables), cablesText(c, b.Cables))
	})
	d.field("phrase", phraseText(was.Phrase), phraseText(is.Phrase))
	return d.out
}

func (d *differ) readings(c *Compiled, where string, a, b *patch.Layer) {
	for _, k := range c.Order {
		id := c.Controls[k].ID
		was, had := a.Readings[id]
		is, has := b.Readings[id]
		if had == has && was == is {
			continue
		}
		if !had {
			was = "init (" + c.Init(k).Reading + ")"
		}
		if !has {
			is = "init (" + c.Init(k).Reading + ")"
		}
		d.field(where+c.SectionLabel(k)+" "+c.Controls[k].Label, was, is)
	}
}

func cablesText(c *Compiled, all []patch.Cable) string {
	out := make([]string, len(all))
	for i, k := range all {
		out[i] = c.pointName(k.From) + " into " + c.pointName(k.To)
	}
	sort.Strings(out)
	return strings.Join(out, "; ")
}

// pointName gives the label of a patch point, or its id where the panel has none.
func (c *Compiled) pointName(id string) string {
	if n, ok := c.point[id]; ok {
		return c.Points[n].Label
	}
	return id
}

func phraseText(p *patch.Phrase) string {
	if p == nil {
		return ""
	}
	notes := make([]string, len(p.Notes))
	for i, n := range p.Notes {
		notes[i] = fmt.Sprintf("%s %s for %s at %d", n.At, n.Note, n.For, n.Velocity)
		if n.Accent {
			notes[i] += ", accent"
		}
		if n.Slide {
			notes[i] += ", slide"
		}
	}
	return strings.TrimSpace(p.Name + ": " + strings.Join(notes, "; "))
}
