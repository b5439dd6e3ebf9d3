package panel

import (
	"fmt"
	"strings"
)

// Rename gives a copy of a panel in which one id is another, everywhere that it is named: in
// conditions, laws, routes, slots, patch points and the signal path. kind is section, control,
// module, route, slot or point. It fails where there is no such id.
func Rename(p *Panel, kind, from, to string) (*Panel, error) {
	r := renamer{from: from, to: to}
	out := *p
	out.Sections = r.sections(p.Sections, kind == "section")
	out.Modules = append([]Module(nil), p.Modules...)
	out.Controls = append([]Control(nil), p.Controls...)
	out.Routes = append([]Route(nil), p.Routes...)
	out.Points = append([]Point(nil), p.Points...)
	out.Audio = append([]Edge(nil), p.Audio...)
	control, owner := kind == "control", kind == "module" || kind == "route" || kind == "slot"
	for i := range out.Controls {
		c := &out.Controls[i]
		r.is(kind == "section", &c.Section)
		r.own(control, &c.ID)
		c.Means = append([]Bind(nil), c.Means...)
		for j := range c.Means {
			c.Means[j].When = r.whens(control, c.Means[j].When)
			r.owned(owner, &c.Means[j].Param)
		}
	}
	for i := range out.Modules {
		m := &out.Modules[i]
		r.own(kind == "module", &m.ID)
		m.When = r.whens(control, m.When)
		if reading, ok := m.Quiet[from]; ok && control {
			quiet := map[string]string{}
			for k, v := range m.Quiet {
				quiet[k] = v
			}
			delete(quiet, from)
			quiet[to] = reading
			m.Quiet = quiet
		}
	}
	for i := range out.Routes {
		x := &out.Routes[i]
		r.own(kind == "route", &x.ID)
		r.is(kind == "module", &x.From)
		r.is(kind == "module", &x.Via)
		r.is(kind == "point", &x.Normal)
		x.When, x.To = r.whens(control, x.When), r.owneds(owner, x.To)
	}
	if p.Matrix != nil {
		out.Matrix = r.matrix(p.Matrix, kind)
	}
	for i := range out.Points {
		x := &out.Points[i]
		r.own(kind == "point", &x.ID)
		r.is(kind == "module", &x.Of)
		x.To = r.owneds(owner, x.To)
	}
	for i := range out.Audio {
		r.is(kind == "module", &out.Audio[i].From)
		r.is(kind == "module", &out.Audio[i].To)
		out.Audio[i].When = r.whens(control, out.Audio[i].When)
	}
	switch {
	case r.kinds(kind) && r.found == 0:
		return nil, fmt.Errorf("expected the id of a %s, got %q", kind, from)
	case !r.kinds(kind):
		return nil, fmt.Errorf("expected section, control, module, route, slot or point, got %q", kind)
	}
	return &out, nil
}

type renamer struct {
	from, to string
	found    int // things whose own id it is
}

func (*renamer) kinds(kind string) bool {
	return strings.Contains(" section control module route slot point ", " "+kind+" ")
}

func (r *renamer) is(when bool, id *string) {
	if when && *id == r.from {
		*id = r.to
	}
}

// own renames a thing's own id.
func (r *renamer) own(when bool, id *string) {
	if when && *id == r.from {
		*id = r.to
		r.found++
	}
}

// owned renames the owner in OWNER.PARAMETER.
func (r *renamer) owned(when bool, ref *string) {
	if rest, ok := strings.CutPrefix(*ref, r.from+"."); ok && when {
		*ref = r.to + "." + rest
	}
}

func (r *renamer) owneds(when bool, refs []string) []string {
	out := append([]string(nil), refs...)
	for i := range out {
		r.owned(when, &out[i])
	}
	return out
}

func (r *renamer) whens(when bool, ws []When) []When {
	out := append([]When(nil), ws...)
	for i := range out {
		r.is(when, &out[i].Control)
	}
	return out
}

func (r *renamer) sections(all []Section, when bool) []Section {
	out := append([]Section(nil), all...)
	for i := range out {
		r.own(when, &out[i].ID)
	}
	return out
}

func (r *renamer) matrix(m *Matrix, kind string) *Matrix {
	out := *m
	out.Sources = map[string]string{}
	for name, from := range m.Sources {
		r.is(kind == "module", &from)
		out.Sources[name] = from
	}
	out.Slots = append([]Slot(nil), m.Slots...)
	for i := range out.Slots {
		s := &out.Slots[i]
		r.own(kind == "slot", &s.ID)
		r.is(kind == "module", &s.Source)
		r.is(kind == "module", &s.Via)
		s.When = r.whens(kind == "control", s.When)
	}
	out.Destinations = append([]Destination(nil), m.Destinations...)
	for i := range out.Destinations {
		out.Destinations[i].To = r.owneds(kind == "module" || kind == "route", m.Destinations[i].To)
	}
	return &out
}
