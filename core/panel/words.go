package panel

import (
	"fmt"
	"strings"

	"glossator/core/meaning"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// Parts lists what a control may add to a sum.
var Parts = []scale.Choice{{Value: "octave", Text: "octaves"}, {Value: "semi", Text: "semitones"}, {Value: "fine", Text: "fine"}}

// Polarities lists which ways a route may move what it is connected to.
var Polarities = []scale.Choice{{Value: "bipolar", Text: "both ways"}, {Value: "unipolar", Text: "one way"}}

// WhenText writes conditions in one line: "wave = saw | pulse; sync = on". A bar, semicolon, equals sign or backslash
// within a name is written with a backslash before it.
func WhenText(ws []When) string {
	out := make([]string, len(ws))
	for i, w := range ws {
		in := make([]string, len(w.In))
		for j, r := range w.In {
			in[j] = whenEscape.Replace(r)
		}
		out[i] = whenEscape.Replace(w.Control) + " = " + strings.Join(in, " | ")
	}
	return strings.Join(out, "; ")
}

var whenEscape = strings.NewReplacer(`\`, `\\`, `|`, `\|`, `;`, `\;`, `=`, `\=`)

// ReadWhen undoes WhenText. An error says which condition has no control or no reading.
func ReadWhen(text string) ([]When, error) {
	var out []When
	for _, part := range Cut(text, ';') {
		if strings.TrimSpace(part) == "" {
			continue
		}
		sides := Cut(part, '=')
		wrong := fmt.Errorf("expected control = reading | reading, got %q", strings.TrimSpace(part))
		if len(sides) != 2 {
			return nil, wrong
		}
		w := When{Control: Bare(sides[0])}
		for _, r := range Cut(sides[1], '|') {
			if r := Bare(r); r != "" {
				w.In = append(w.In, r)
			}
		}
		if w.Control == "" || len(w.In) == 0 {
			return nil, wrong
		}
		out = append(out, w)
	}
	return out, nil
}

// names gives what each control is called in conditions: by its label where no other has that, by section and label, else by its id.
func (p *Panel) names() map[string]string {
	label, full := map[string]int{}, map[string]int{}
	sections := map[string]string{}
	for _, s := range p.Sections {
		sections[s.ID] = s.Label
	}
	long := func(c *Control) string { return strings.TrimSpace(sections[c.Section] + " " + c.Label) }
	for i := range p.Controls {
		c := &p.Controls[i]
		label[strings.ToLower(c.Label)]++
		full[strings.ToLower(long(c))]++
	}
	out := map[string]string{}
	for i := range p.Controls {
		c := &p.Controls[i]
		switch {
		case strings.TrimSpace(c.Label) != "" && label[strings.ToLower(c.Label)] == 1:
			out[c.ID] = c.Label
		case full[strings.ToLower(long(c))] == 1:
			out[c.ID] = long(c)
		default:
			out[c.ID] = c.ID
		}
	}
	return out
}

// WhenText writes conditions as WhenText does, with what the controls are called.
func (p *Panel) WhenText(ws []When) string { return whenText(ws, p.names()) }

func whenText(ws []When, names map[string]string) string {
	said := make([]When, len(ws))
	for i, w := range ws {
		if n, ok := names[w.Control]; ok {
			w.Control = n
		}
		said[i] = w
	}
	return WhenText(said)
}

// ReadWhen reads conditions as ReadWhen does; a control is named by its label, by section and label, or by its id. What names none stays as it is: that is a fault of the panel.
func (p *Panel) ReadWhen(text string) ([]When, error) {
	ws, err := ReadWhen(text)
	if err != nil {
		return nil, err
	}
	names := p.names()
	for i := range ws {
		want := strings.Join(strings.Fields(ws[i].Control), " ")
		found, is := "", false
		for _, c := range p.Controls {
			is = is || c.ID == ws[i].Control
			if strings.EqualFold(names[c.ID], want) {
				found = c.ID
			}
		}
		if !is && found == "" {
			var several []string
			for _, c := range p.Controls {
				if strings.EqualFold(c.Label, want) {
					several = append(several, names[c.ID])
				}
			}
			if len(several) > 0 {
				return nil, fmt.Errorf("several controls are called %s: write %s", want, strings.Join(several, " or "))
			}
		}
		if !is && found != "" {
			ws[i].Control = found
		}
	}
	return ws, nil
}

// Cut divides a text at a mark, save where a backslash stands before it; the backslashes stay.
func Cut(text string, at byte) []string {
	var out []string
	from := 0
	for i := 0; i < len(text); i++ {
		switch text[i] {
		case '\\':
			i++
		case at:
			out, from = append(out, text[from:i]), i+1
		}
	}
	return append(out, text[from:])
}

// Bare takes the backslashes and the spaces about a word away.
func Bare(text string) string {
	var b strings.Builder
	for i := 0; i < len(text); i++ {
		if text[i] == '\\' && i+1 < len(text) {
			i++
		}
		b.WriteByte(text[i])
	}
	return strings.TrimSpace(b.String())
}

// Settable is what a law, a route or a point may name.
type Settable struct {
	// Ref names it: "filter.cutoff", the depth of a route, the amount of a slot.
	Ref string `json:"ref"`
	// Dim is its dimension, empty where that hangs on what a route moves.
	Dim q.Dim `json:"dim,omitempty"`
	// Depth is set for depths of modulation, which are counted to the peak or from peak to peak.
	Depth bool `json:"depth,omitempty"`
}

// Settable lists what laws, routes and points of a panel may name. The panel need not be without faults.
func (p *Panel) Settable() []Settable {
	out := []Settable{}
	seen := map[string]bool{}
	add := func(owner string, name meaning.ParamName, dim q.Dim) {
		ref := meaning.Ref(owner, name)
		if !seen[ref] {
			out = append(out, Settable{Ref: ref, Dim: dim, Depth: name == meaning.PDepth || name == meaning.PAmount})
		}
		seen[ref] = true
	}
	for _, m := range p.Modules {
		for i := range meaning.Kinds {
			if k := &meaning.Kinds[i]; k.Kind == m.Kind {
				for _, x := range k.Params {
					add(m.ID, x.Name, x.Dim)
				}
			}
		}
	}
	spec := meaning.SpecOf(meaning.RouteKind)
	ends := func(owner string, names []meaning.ParamName) {
		for _, n := range names {
			x, _ := spec.Param(n)
			if n == meaning.PDepth || n == meaning.PAmount {
				x.Dim = ""
			}
			add(owner, n, x.Dim)
		}
	}
	for _, r := range p.Routes {
		ends(r.ID, routeParams)
	}
	if p.Matrix != nil {
		for _, s := range p.Matrix.Slots {
			ends(s.ID, slotParams)
		}
	}
	return out
}

// Conditions gives every condition of a panel in words (WhenText), by the JSON Pointer of where it stands.
func (p *Panel) Conditions() map[string]string {
	out := map[string]string{}
	names := p.names()
	add := func(ws []When, format string, at ...any) {
		if len(ws) > 0 {
			out[fmt.Sprintf(format, at...)] = whenText(ws, names)
		}
	}
	for i, c := range p.Controls {
		for j, b := range c.Means {
			add(b.When, "/controls/%d/means/%d/when", i, j)
		}
	}
	for i, m := range p.Modules {
		add(m.When, "/modules/%d/when", i)
	}
	for i, r := range p.Routes {
		add(r.When, "/routes/%d/when", i)
	}
	for i, e := range p.Audio {
		add(e.When, "/audio/%d/when", i)
	}
	if p.Matrix != nil {
		for i, s := range p.Matrix.Slots {
			add(s.When, "/matrix/slots/%d/when", i)
		}
	}
	return out
}
