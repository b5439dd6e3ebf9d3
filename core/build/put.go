package build

import (
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"glossator/core/meaning"
	"glossator/core/panel"
	q "glossator/core/quantity"
	"glossator/core/scale"
)

// Want says how a block is put in.
type Want struct {
	// Label of the new part; empty for the block's own, with a number where there is one already.
	Label string `json:"label,omitempty"`
	// Leave lists pieces by label that this one lacks, With pieces that only some instruments have.
	Leave []string `json:"leave,omitempty"`
	With  []string `json:"with,omitempty"`
	// Usual is what is printed beside its knobs, as scale.ReadFace reads it; empty for what most of the panel's have.
	Usual string `json:"usual,omitempty"`
	// Count is how many slots a matrix has.
	Count int `json:"count,omitempty"`
	// Beside puts a filter beside the one that is there, side by side; without it, it goes behind.
	Beside bool `json:"beside,omitempty"`

	bare bool // the module alone: its controls are said one by one
}

// Begin gives a panel from a starting point.
func Begin(start, id, name, usual string) (*panel.Panel, error) {
	i := slices.IndexFunc(Starts, func(s Start) bool { return s.ID == start })
	if i < 0 {
		return nil, fmt.Errorf("expected a starting point (%s), got %q", startNames(), start)
	}
	s := Starts[i]
	if usual == "" {
		usual = s.usual
	}
	p := &panel.Panel{Format: panel.Format, Version: panel.Version, ID: id, Name: name, Revision: 1, Kind: s.kind, Memory: s.memory}
	for _, put := range s.puts {
		now, _, err := Add(p, put.Block, Want{Label: put.Label, With: put.Pieces, Leave: put.Leave, Usual: usual, Count: put.Count})
		if err != nil {
			return nil, fmt.Errorf("%s: %w", put.Block, err)
		}
		p = now
	}
	for name, text := range s.fixed {
		for k := range p.Modules {
			if p.Modules[k].Kind == meaning.Voice {
				fix(&p.Modules[k], name, text)
			}
		}
	}
	return p, nil
}

func startNames() string { return strings.Join(StartIDs(), ", ") }

// StartIDs lists the ids of the starting points.
func StartIDs() []string {
	var all []string
	for _, s := range Starts {
		all = append(all, s.ID)
	}
	return all
}

func fix(m *panel.Module, name meaning.ParamName, text string) {
	if m.Fixed == nil {
		m.Fixed = map[meaning.ParamName]string{}
	}
	m.Fixed[name] = text
}

// clone copies a panel, so that the one that is given stays as it is.
func clone(p *panel.Panel) *panel.Panel {
	var out panel.Panel
	b, err := json.Marshal(p)
	if err == nil {
		err = json.Unmarshal(b, &out)
	}
	if err != nil {
		panic("a panel cannot be copied: " + err.Error())
	}
	return &out
}

// builder puts one block into a copy of a panel.
type builder struct {
	p     *panel.Panel
	usual string
	// section, module and label of what is put in; its controls.
	section, module, label string
	added                  []string
}

// Add puts a block into a panel: section, module, controls with faces and laws, routes and signal path. It gives the new panel and the id of the section that holds it. The error
// says in words what was expected.
func Add(p *panel.Panel, block string, w Want) (*panel.Panel, string, error) {
	b := BlockOf(block)
	if b == nil {
		return nil, "", fmt.Errorf("expected a building block, got %q", block)
	}
	for _, name := range slices.Concat(w.Leave, w.With) {
		if !slices.ContainsFunc(b.Pieces, func(x Piece) bool { return strings.EqualFold(x.Label, name) }) {
			return nil, "", fmt.Errorf("expected a piece of %s (%s), got %q", panel.LowerFirst(b.Label), pieceNames(b), name)
		}
	}
	if w.Usual != "" {
		if _, err := scale.ReadFace(w.Usual); err != nil {
			return nil, "", err
		}
	}
	if len(w.Label) > 100 {
		return nil, "", errors.New("expected a label of at most 100 characters")
	}
	at := &builder{p: clone(p), usual: w.Usual}
	if at.usual == "" {
		at.usual = Usual(p)
	}
	if !b.Several && b.kind != "" && slices.ContainsFunc(p.Modules, func(m panel.Module) bool { return m.Kind == b.kind }) {
		return nil, "", fmt.Errorf("the panel has one already: %s", panel.LowerFirst(b.Label))
	}
	if w.Beside && (b.kind != meaning.Filter || !slices.ContainsFunc(p.Modules, func(m panel.Module) bool { return m.Kind == meaning.Filter })) {
		return nil, "", errors.New("only a filter stands beside another, and there has to be one")
	}
	if b.Slots {
		return at.matrix(b, w)
	}
	at.name(b, w.Label)
	m := panel.Module{ID: at.module, Kind: b.kind, Label: at.label}
	for name, text := range b.fixed {
		fix(&m, name, text)
	}
	if w.Beside {
		fix(&m, meaning.PRouting, "parallel")
	}
	at.p.Modules = append(at.p.Modules, m)
	at.wire(m)
	if b.mixes && !w.bare {
		if err := at.levels(); err != nil {
			return nil, "", err
		}
	}
	for _, x := range b.Pieces {
		if w.bare {
			break
		}
		in := !x.More
		for _, name := range w.With {
			in = in || strings.EqualFold(name, x.Label)
		}
		for _, name := range w.Leave {
			in = in && !strings.EqualFold(name, x.Label)
		}
		if !in {
			continue
		}
		if err := at.put(b, x); err != nil {
			return nil, "", fmt.Errorf("%s: %w", x.Label, err)
		}
	}
	at.routes(b, w.bare)
	at.known()
	return at.p, at.section, nil
}

func pieceNames(b *Block) string {
	var all []string
	for _, x := range b.Pieces {
		all = append(all, x.Label)
	}
	return strings.Join(all, ", ")
}

var trailing = regexp.MustCompile(`\s*\d+$`)

// name finds a free id, label and section for a part. The second oscillator makes the first "Oscillator 1" where that had no number.
func (at *builder) name(b *Block, label string) {
	p := at.p
	label = strings.TrimSpace(label)
	if label == "" {
		label = b.Label
		same := 0
		for i := range p.Modules {
			m := &p.Modules[i]
			if m.Kind != b.kind || trailing.ReplaceAllString(m.Label, "") != b.Label {
				continue
			}
			if same++; m.Label == b.Label {
				for k := range p.Sections {
					if p.Sections[k].Label == m.Label {
						p.Sections[k].Label = b.Label + " 1"
					}
				}
				m.Label = b.Label + " 1"
			}
		}
		if same > 0 {
			n := same + 1
			for slices.ContainsFunc(p.Modules, func(m panel.Module) bool { return m.Label == fmt.Sprintf("%s %d", b.Label, n) }) {
				n++
			}
			label = fmt.Sprintf("%s %d", b.Label, n)
		}
	}
	at.label = label
	at.module = at.freeModule(shortID(b, label))
	at.section = at.sectionFor(b, label)
}

// shortID is what a module is called in references: osc1, filter.
func shortID(b *Block, label string) string {
	if n := trailing.FindString(label); n != "" && strings.EqualFold(trailing.ReplaceAllString(label, ""), b.Label) {
		return b.ID + strings.TrimSpace(n)
	}
	if strings.EqualFold(label, b.Label) {
		return b.ID
	}
	if s := Slug(label); s != "" {
		return s
	}
	return b.ID
}

var notSlug = regexp.MustCompile(`[^a-z0-9]+`)

// Slug makes an id of a name: lower-case letters, figures and hyphens, at most 56.
func Slug(name string) string {
	s := strings.Trim(notSlug.ReplaceAllString(strings.ToLower(name), "-"), "-")
	return strings.TrimRight(s[:min(len(s), 56)], "-")
}

func (at *builder) taken(id string) bool {
	p := at.p
	if meaning.IsSource(id) || id == "out" || id == "" {
		return true
	}
	for _, m := range p.Modules {
		if m.ID == id {
			return true
		}
	}
	for _, r := range p.Routes {
		if r.ID == id {
			return true
		}
	}
	return p.Matrix != nil && slices.ContainsFunc(p.Matrix.Slots, func(s panel.Slot) bool { return s.ID == id })
}

func (at *builder) freeModule(base string) string { return free(base, at.taken) }

func free(base string, taken func(string) bool) string {
	id := base
	for n := 2; taken(id); n++ {
		id = fmt.Sprintf("%s-%d", base, n)
		if last := base[max(0, len(base)-1):]; last != "" && (last[0] < '0' || last[0] > '9') {
			id = base + strconv.Itoa(n)
		}
	}
	return id
}

// sectionFor gives the section of a part: one of that name, or a new one behind those of the same step of the work.
func (at *builder) sectionFor(b *Block, label string) string {
	p := at.p
	for _, s := range p.Sections {
		if strings.EqualFold(s.Label, label) {
			return s.ID
		}
	}
	has := func(id string) bool {
		return slices.ContainsFunc(p.Sections, func(s panel.Section) bool { return s.ID == id })
	}
	id := free(at.module, has)
	if at.module == "" {
		id = free(Slug(label), has)
	}
	n := len(p.Sections)
	for i, s := range p.Sections {
		if stepOf(s.Step) > stepOf(b.step) {
			n = i
			break
		}
	}
	p.Sections = slices.Insert(p.Sections, n, panel.Section{ID: id, Label: label, Step: b.step})
	return id
}

func stepOf(s meaning.Step) int {
	return slices.IndexFunc(meaning.Steps, func(x struct {
		Step  meaning.Step
		Title string
	}) bool {
		return x.Step == s
	})
}

// Usual gives what is printed beside most of a panel's knobs; "0 to 127" where it has none.
func Usual(p *panel.Panel) string {
	count, first := map[string]int{}, map[string]int{}
	for i, c := range p.Controls {
		f := c.Face
		if f.Kind == scale.Clock || f.Kind == scale.Numeric && f.Min == 0 && !f.Exact && f.Suffix == "" && f.Len() > 9 {
			if t := f.Printed(); t != "" {
				if count[t]++; count[t] == 1 {
					first[t] = i
				}
			}
		}
	}
	best := ""
	for t, n := range count {
		if best == "" || n > count[best] || n == count[best] && first[t] < first[best] {
			best = t
		}
	}
	if best == "" {
		return "0 to 127"
	}
	return best
}

// bothWays is the usual scale gone both ways from nothing: 0 to 10 is -5 to +5.
func bothWays(usual string) string {
	f, err := scale.ReadFace(usual)
	if err != nil || f.Kind != scale.Numeric || f.Min < 0 {
		return usual
	}
	half := f.Max / 2
	switch {
	case f.Max == 127:
		return "-64 to +63"
	case half == float64(int(half)):
		return fmt.Sprintf("-%g to +%g", half, half)
	}
	return fmt.Sprintf("-%g to +%g", float64(int(half)), float64(int(half)))
}

// faceOf reads the face of a piece.
func (at *builder) faceOf(x Piece) (scale.Face, error) {
	text := x.Face
	switch text {
	case "":
		text = at.usual
	case BothWays:
		text = bothWays(at.usual)
	}
	f, err := scale.ReadFace(text)
	if err != nil {
		return f, err
	}
	if counts(x.param, x.part) {
		f = f.Counts()
	}
	return f, nil
}

// counts tells whether a parameter is counted in whole things.
func counts(param meaning.ParamName, part string) bool {
	return part == "octave" || part == "semi" || slices.Contains([]meaning.ParamName{meaning.PTranspose, meaning.PCount, meaning.PUnison, meaning.PBend, meaning.PVoices, meaning.PStages, meaning.PPoles, meaning.PPlace}, param)
}

// put makes the control of a piece, and the route whose depth it sets.
func (at *builder) put(b *Block, x Piece) error {
	param := meaning.Ref(at.module, x.param)
	if x.from != "" {
		id, ok := at.route(b, x)
		if !ok {
			return nil // there is nothing here that it could move or come from
		}
		param = meaning.Ref(id, meaning.PDepth)
	}
	f, err := at.faceOf(x)
	if err != nil {
		return err
	}
	init := x.Init
	if x.param == meaning.POutput { // an operator that goes into another is not heard by itself as a rule
		init = map[bool]string{true: "lowest", false: "highest"}[at.routed(at.module, meaning.PPM)]
	}
	return at.control(x.Label, at.section, f, param, x.part, init)
}

// control adds a control to a section, behind the others of it.
func (at *builder) control(label, section string, f scale.Face, param, part, init string) error {
	law, _, err := Assume(at.p, param, part, f)
	if err != nil {
		return err
	}
	c := panel.Control{Label: label, Section: section, Face: f, Means: []panel.Bind{{Param: param, Part: part, Law: law}}}
	c.ID = at.controlID(section, label)
	c.Init = initOf(at.p, c, init)
	if also := alsoSets(at.p, &c); also != nil {
		c.Means = append(c.Means, *also)
	}
	at.p.Controls = append(at.p.Controls, c)
	at.added = append(at.added, c.ID)
	return nil
}

// alsoSets adds what one list says of two parameters: the mode of a voice that is called legato is mono, played legato.
func alsoSets(p *panel.Panel, c *panel.Control) *panel.Bind {
	b := c.Means[0]
	owner, name := meaning.Split(b.Param)
	if name != meaning.PMode || b.Law.Kind != scale.Listed {
		return nil
	}
	for _, m := range p.Modules {
		if m.ID != owner || m.Kind != meaning.Voice {
			continue
		}
		trigger := panel.Bind{Param: meaning.Ref(owner, meaning.PTrigger), Law: scale.Law{Kind: scale.Listed, Unit: "name", Source: scale.Stated}}
		some := false
		for i, e := range c.Face.Entries {
			word := "retrigger"
			if strings.EqualFold(e, "legato") {
				some, word = true, "legato"
				c.Means[0].Law.Values[i] = "mono"
			}
			trigger.Law.Values = append(trigger.Law.Values, word)
		}
		if some {
			return &trigger
		}
	}
	return nil
}

// controlID makes a free id from the section and the label.
func (at *builder) controlID(section, label string) string {
	s := Slug(label)
	if s == "" {
		s = "control"
	}
	return free(section+"."+s, func(id string) bool {
		return slices.ContainsFunc(at.p.Controls, func(c panel.Control) bool { return c.ID == id })
	})
}

// initOf finds the reading at which a control stands after initialising: "lowest", "middle", "highest", a reading, or the neutral value of what it sets.
func initOf(p *panel.Panel, c panel.Control, want string) string {
	f := c.Face
	if f.Kind == scale.Text {
		return ""
	}
	n := f.Len()
	switch want {
	case "lowest":
		return f.At(0).Reading
	case "highest":
		return f.At(n - 1).Reading
	case "middle":
		return f.At(n / 2).Reading
	case "":
	default:
		if pos, err := f.Parse(want); err == nil {
			return pos.Reading
		}
	}
	if len(c.Means) == 0 {
		return f.At(0).Reading
	}
	b := c.Means[0]
	x, kind, err := p.Lookup(b.Param)
	if err != nil {
		return f.At(0).Reading
	}
	neutral := x.Neutral
	if b.Part != "" {
		neutral = q.Quantity{Dim: x.Dim}
	}
	switch {
	case kind == meaning.Filter && x.Name == meaning.PCutoff && neutral.Off: // open: a high-pass low
		owner, _ := meaning.Split(b.Param)
		for _, m := range p.Modules {
			if m.ID == owner && m.Fixed[meaning.PMode] == "highpass" {
				return f.At(0).Reading
			}
		}
		return f.At(n - 1).Reading
	case kind == meaning.Noise || kind == meaning.Sub || kind == meaning.Ring:
		if x.Name == meaning.PLevel {
			return f.At(0).Reading
		}
	case kind == meaning.Operator && x.Name == meaning.PLevel:
		return f.At(n - 1).Reading
	}
	if neutral.Off && x.Name == meaning.PTone {
		return f.At(n - 1).Reading
	}
	if b.Law.Kind == scale.Listed {
		for i, v := range b.Law.Values {
			if s, ok := v.(string); ok && (s == neutral.Name && neutral.Dim.Named() || s == "off" && neutral.Off) || !neutral.Dim.Named() && v == 0.0 && neutral.Value == 0 {
				return f.At(i).Reading
			}
		}
		if neutral.Dim.Named() {
			return f.At(0).Reading
		}
	}
	set, err := b.Law.Inverse(f, neutral)
	if err != nil {
		return f.At(0).Reading
	}
	return set.Reading
}
