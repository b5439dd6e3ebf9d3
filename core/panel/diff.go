package panel

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"glossator/core/scale"
)

// Difference is one thing that is not the same in two revisions of a panel. An empty Was is
// something new, an empty Is something that has gone.
type Difference struct {
	Where string `json:"where"`
	Was   string `json:"was"`
	Is    string `json:"is"`
}

// Diff tells in words what has changed from one revision of a panel to another: by head, then
// section, control, module, route, matrix, patch points, signal path and notes. Order alone is
// told once for each list.
func Diff(was, is *Panel) []Difference {
	d := differ{}
	d.field("name", was.Name, is.Name)
	d.field("kind", was.Kind, is.Kind)
	d.field("summary", was.Summary, is.Summary)
	d.field("memory", yesNo(was.Memory), yesNo(is.Memory))
	d.field("dump", dumpText(was.Dump), dumpText(is.Dump))
	byID(&d, "section", was.Sections, is.Sections, func(s *Section) (string, string) { return s.ID, s.Label }, nil)
	byID(&d, "control", was.Controls, is.Controls, func(c *Control) (string, string) { return c.ID, c.Section + " " + c.Label }, d.control)
	byID(&d, "module", was.Modules, is.Modules, func(m *Module) (string, string) { return m.ID, m.Label }, nil)
	byID(&d, "route", was.Routes, is.Routes, func(r *Route) (string, string) { return r.ID, r.Label }, nil)
	d.matrix(was.Matrix, is.Matrix)
	byID(&d, "patch point", was.Points, is.Points, func(p *Point) (string, string) { return p.ID, p.Label }, nil)
	byID(&d, "signal", was.Audio, is.Audio, func(e *Edge) (string, string) {
		return e.From + " to " + e.To + whensText(e.When), e.From + " to " + e.To + whensText(e.When)
	}, nil)
	byID(&d, "note", was.Hidden, is.Hidden, func(n *Note) (string, string) { return n.About, n.About }, nil)
	return d.out
}

type differ struct{ out []Difference }

func (d *differ) field(where, was, is string) {
	if was != is {
		d.out = append(d.out, Difference{where, was, is})
	}
}

// byID compares two lists by the ids of their entries; tell compares two entries of one id,
// field by field where it is nil.
func byID[T any](d *differ, what string, was, is []T, name func(*T) (id, label string), tell func(where string, was, is *T)) {
	old, now := map[string]*T{}, map[string]*T{}
	var before, after []string
	for i := range was {
		id, _ := name(&was[i])
		old[id] = &was[i]
	}
	for i := range is {
		id, label := name(&is[i])
		now[id] = &is[i]
		where := strings.TrimSpace(what + " " + label)
		o, ok := old[id]
		switch {
		case !ok:
			d.out = append(d.out, Difference{Where: where, Is: "new"})
		case tell != nil:
			tell(where, o, &is[i])
		default:
			d.fields(where, reflect.ValueOf(o).Elem(), reflect.ValueOf(&is[i]).Elem())
		}
		if ok {
			after = append(after, id)
		}
	}
	for i := range was {
		id, label := name(&was[i])
		if _, ok := now[id]; ok {
			before = append(before, id)
		} else {
			d.out = append(d.out, Difference{Where: strings.TrimSpace(what + " " + label), Was: "was there"})
		}
	}
	if strings.Join(before, "\n") != strings.Join(after, "\n") {
		d.out = append(d.out, Difference{Where: "order of the " + what + "s", Was: strings.Join(before, ", "), Is: strings.Join(after, ", ")})
	}
}

// fields compares two structs by their JSON names.
func (d *differ) fields(where string, was, is reflect.Value) {
	t := was.Type()
	for i := range t.NumField() {
		if !t.Field(i).IsExported() {
			continue
		}
		name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		if a, b := valueText(was.Field(i)), valueText(is.Field(i)); a != b {
			d.field(where+": "+name, a, b)
		}
	}
}

func (d *differ) control(where string, was, is *Control) {
	d.field(where+": label", was.Label, is.Label)
	d.field(where+": section", was.Section, is.Section)
	d.field(where+": aliases", strings.Join(was.Aliases, ", "), strings.Join(is.Aliases, ", "))
	d.field(where+": init", was.Init, is.Init)
	d.field(where+": hidden", yesNo(was.Hidden), yesNo(is.Hidden))
	d.field(where+": note", was.Note, is.Note)
	d.field(where+": MIDI", midiText(was.MIDI), midiText(is.MIDI))
	d.fields(where+": face", reflect.ValueOf(was.Face), reflect.ValueOf(is.Face))
	for i := range max(len(was.Means), len(is.Means)) {
		at := fmt.Sprintf("%s: law %d", where, i+1)
		switch {
		case i >= len(was.Means):
			d.field(at, "", is.Means[i].Param+", "+LawText(is.Means[i].Law))
		case i >= len(is.Means):
			d.field(at, was.Means[i].Param+", "+LawText(was.Means[i].Law), "")
		default:
			a, b := &was.Means[i], &is.Means[i]
			d.field(at+" sets", strings.TrimSpace(a.Param+" "+a.Part), strings.TrimSpace(b.Param+" "+b.Part))
			d.field(at+" with", whensText(a.When), whensText(b.When))
			d.field(at, LawText(a.Law), LawText(b.Law))
		}
	}
}

func (d *differ) matrix(was, is *Matrix) {
	if was == nil {
		was = &Matrix{}
	}
	if is == nil {
		is = &Matrix{}
	}
	byID(d, "slot", was.Slots, is.Slots, func(s *Slot) (string, string) { return s.ID, s.Label }, nil)
	d.field("sources of the slots", valueText(reflect.ValueOf(was.Sources)), valueText(reflect.ValueOf(is.Sources)))
	byID(d, "destination", was.Destinations, is.Destinations, func(x *Destination) (string, string) { return x.Name, x.Name }, nil)
}

// LawText says what a law is with its numbers, for people.
func LawText(l scale.Law) string {
	out := string(l.Kind) + " " + l.NumbersText()
	for _, extra := range []struct {
		has  bool
		text string
	}{
		{l.Exponent != 0, fmt.Sprintf("exponent %g", l.Exponent)}, {l.Dead != 0, fmt.Sprintf("dead %g", l.Dead)},
		{l.Off != "", "off at the " + l.Off}, {l.Convention != "", "as " + string(l.Convention)},
		{l.Swing != "", string(l.Swing)}, {l.Source != "", string(l.Source)},
	} {
		if extra.has {
			out += ", " + extra.text
		}
	}
	if u := l.Uncertainty; u != nil {
		if u.Relative {
			return out + fmt.Sprintf(", u %g %%", u.U*100)
		}
		out += fmt.Sprintf(", u %g %s", u.U, l.Unit)
	}
	return out
}

// whensText gives conditions as one line: "control at a or b and ...".
func whensText(ws []When) string {
	out := make([]string, len(ws))
	for i, w := range ws {
		out[i] = w.Control + " at " + strings.Join(w.In, " or ")
	}
	if len(out) == 0 {
		return ""
	}
	return " when " + strings.Join(out, " and ")
}

func midiText(m *MIDI) string {
	if m == nil {
		return ""
	}
	var out []string
	for name, n := range map[string]*int{"CC": m.CC, "NRPN": m.NRPN, "byte": m.Byte} {
		if n != nil {
			out = append(out, fmt.Sprintf("%s %d", name, *n))
		}
	}
	if len(out) > 1 {
		slices.Sort(out)
	}
	return strings.TrimSpace(strings.Join(out, ", ") + " " + m.Values)
}

func dumpText(d *Dump) string {
	if d == nil {
		return ""
	}
	if d.Request != "" {
		return fmt.Sprintf("%s, %d bytes, asked for by %s", d.Header, d.Length, d.Request)
	}
	return fmt.Sprintf("%s, %d bytes", d.Header, d.Length)
}

func yesNo(b bool) string {
	if b {
		return "yes"
	}
	return "no"
}

// valueText writes a value for a person: texts as they are, conditions as a line, other things
// as JSON; nothing for a zero value.
func valueText(v reflect.Value) string {
	if v.IsZero() {
		return ""
	}
	switch x := v.Interface().(type) {
	case string:
		return x
	case bool:
		return yesNo(x)
	case []When:
		return strings.TrimPrefix(whensText(x), " ")
	case []string:
		return strings.Join(x, ", ")
	}
	b, err := json.Marshal(v.Interface())
	if err != nil {
		return fmt.Sprint(v.Interface())
	}
	if string(b) == "[]" || string(b) == "{}" || string(b) == "null" {
		return ""
	}
	return string(b)
}
